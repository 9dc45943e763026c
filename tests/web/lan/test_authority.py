"""The private authority: what it makes is trusted by whoever trusts it, and made anew only when it
must be.
"""

import socket
import ssl
import stat
import threading
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from tempermark.web.lan.authority import make_ready

NAMES = ["127.0.0.1", "localhost", "press-room.local"]
NOW = datetime.now(UTC)


def handshake(ready, host, trusted):
    """A connection to a server with this certificate, under a name; the server's own name for it.
    Raises ssl.SSLError where it is not trusted.
    """
    serving = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    serving.load_cert_chain(ready.certificate, ready.key)
    with socket.create_server(("127.0.0.1", 0)) as listener:

        def serve():
            connection, _ = listener.accept()
            try:
                with serving.wrap_socket(connection, server_side=True) as secure:
                    secure.recv(1)
            except OSError:
                connection.close()

        thread = threading.Thread(target=serve)
        thread.start()
        try:
            asking = ssl.create_default_context(cafile=trusted)
            with (
                socket.create_connection(listener.getsockname(), timeout=10) as plain,
                asking.wrap_socket(plain, server_hostname=host) as secure,
            ):
                secure.send(b"x")
                return secure.getpeercert()["subject"]
        finally:
            thread.join()


@pytest.mark.parametrize("name", NAMES)
def test_whoever_trusts_the_authority_trusts_the_room_under_all_its_names(tmp_path, name):
    ready = make_ready(tmp_path, NAMES, NOW)
    assert handshake(ready, name, ready.authority)


def test_another_name_and_another_authority_are_not_trusted(tmp_path):
    ready = make_ready(tmp_path / "ours", NAMES, NOW)
    other = make_ready(tmp_path / "other", NAMES, NOW)
    with pytest.raises(ssl.SSLCertVerificationError):
        handshake(ready, "elsewhere.local", ready.authority)
    with pytest.raises(ssl.SSLCertVerificationError):
        handshake(ready, "localhost", other.authority)


def test_keys_are_their_owner_s_alone(tmp_path):
    make_ready(tmp_path / "ours", NAMES, NOW)
    for name in ("server.key", "authority.key"):
        mode = stat.S_IMODE((tmp_path / "ours" / name).stat().st_mode)
        assert mode == 0o600
    assert stat.S_IMODE((tmp_path / "ours").stat().st_mode) == 0o700


def test_it_is_made_anew_for_other_names_and_before_it_runs_out_by_the_same_authority(tmp_path):
    first = make_ready(tmp_path, NAMES, NOW)
    certificate = Path(first.certificate).read_bytes()
    assert make_ready(tmp_path, NAMES[::-1], NOW + timedelta(days=300)) == first
    assert Path(first.certificate).read_bytes() == certificate
    wider = make_ready(tmp_path, [*NAMES, "10.0.0.7"], NOW)
    assert Path(first.certificate).read_bytes() != certificate
    later = make_ready(tmp_path, [*NAMES, "10.0.0.7"], NOW + timedelta(days=380))
    assert later.lasts_until > wider.lasts_until
    assert later.fingerprint == first.fingerprint
    assert make_ready(tmp_path, NAMES, NOW + timedelta(days=3640)).fingerprint != first.fingerprint


def test_files_that_are_damaged_are_made_anew(tmp_path):
    first = make_ready(tmp_path, NAMES, NOW)
    Path(first.certificate).write_text("nonsense")
    again = make_ready(tmp_path, NAMES, NOW)
    assert again.fingerprint == first.fingerprint
    assert handshake(again, "localhost", again.authority)
