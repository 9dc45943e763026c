"""A cluster of its own survives what a shop does to it."""

import os
import signal
import socket
import time

import pytest

from launcher import system
from launcher.cluster import Cluster, free_port
from tests.support.clusters import folder_for_clusters, wait_for_end


@pytest.fixture
def cluster():
    """In a folder with a space, where the server's user can go."""
    with folder_for_clusters() as top:
        made = Cluster("test", top / "room", system.need_postgres())
        yield made
        made.stop()


def postmaster(cluster):
    return int(cluster._read(cluster.data / "postmaster.pid").splitlines()[0])


def test_start_again_hard_kill_and_a_taken_port(cluster, capsys):
    port, ours = cluster.start()
    assert ours
    assert cluster.start() == (port, False)
    checksums = cluster._server("pg_controldata", str(cluster.data)).stdout
    assert "Data page checksum version:           1" in checksums

    killed = postmaster(cluster)
    os.kill(killed, signal.SIGKILL)
    wait_for_end(killed)
    assert cluster.start()[1]

    cluster.stop()
    port = int((cluster.home / "port").read_text())
    with socket.socket() as taken:
        taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        deadline = time.monotonic() + 5
        while True:
            try:
                taken.bind(("127.0.0.1", port))
                break
            except OSError:
                if time.monotonic() > deadline:
                    # Another cluster of the tests has it by now: it is taken as well.
                    break
                time.sleep(0.1)
        taken.listen()
        assert cluster.start()[0] > port
    told = capsys.readouterr()
    assert f"{port} is in use" in told.out + told.err


def test_a_stale_pid_file_with_a_living_stranger(cluster):
    cluster.start()
    cluster.stop()
    stranger = f"{os.getpid()}\n{cluster.data}\n1\n1\n\n\n\n\n"
    cluster._server("sh", "-c", f"printf '{stranger}' > '{cluster.data}/postmaster.pid'")
    assert cluster.start()[1]


def test_free_port_says_what_it_skips(capsys):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert free_port(port, "The port") > port
    told = capsys.readouterr()
    assert f"{port} is in use; taking the next." in told.out + told.err
