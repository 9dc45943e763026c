"""A clock outlives its server: killed and started again, it still ends when it was to."""

import os
import re
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from http.cookiejar import CookieJar

import pytest
from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.db import connection
from django.test import Client

from tempermark.web.jobs.models import Clock

ADDRESS = re.compile(r"running on (http://127\.0\.0\.1:\d+)")
STARTS_WITHIN_S = 60


@pytest.fixture
def server(tmp_path):
    """Starts a server of its own on this test's database, as often as asked; ends them all."""
    started = []

    def start():
        env = os.environ | {
            "TEMPERMARK_DB_NAME": connection.settings_dict["NAME"],
            "TEMPERMARK_DB_HOST": str(connection.settings_dict["HOST"]),
            "TEMPERMARK_DB_PORT": str(connection.settings_dict["PORT"]),
            "DJANGO_SETTINGS_MODULE": "tempermark.web.settings.test",
            "PYTHONPATH": "src",
        }
        log = tmp_path / f"server-{len(started)}.log"
        command = [sys.executable, "-m", "uvicorn", "tempermark.web.asgi:application"]
        with log.open("w") as out:
            process = subprocess.Popen([*command, "--port", "0"], env=env, stdout=out, stderr=out)
        started.append(process)
        return process, _address(process, log)

    yield start
    for process in started:
        process.kill()
        process.wait()


def _address(process, log):
    until = time.monotonic() + STARTS_WITHIN_S
    while time.monotonic() < until and process.poll() is None:
        if found := ADDRESS.search(log.read_text()):
            return found[1]
        time.sleep(0.1)
    raise AssertionError(log.read_text())


def strip(address, client):
    """The strip of clocks as that server shows it, with the seconds that it says are left."""
    name = settings.SESSION_COOKIE_NAME
    request = urllib.request.Request(
        f"{address}/clocks/strip/", headers={"Cookie": f"{name}={client.cookies[name].value}"}
    )
    page = (
        urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        .open(request)
        .read()
        .decode()
    )
    return [float(left) for left in re.findall(r'data-left-s="([-\d.]+)"', page)]


@pytest.mark.long
@pytest.mark.django_db(transaction=True)
def test_a_clock_runs_on_while_its_server_is_killed(server, technician):
    client = Client()
    client.force_login(technician)
    assert SESSION_KEY in client.session
    client.post("/clocks/start/", {"name": "First wash", "seconds": "3600"})
    ends = Clock.objects.get().ends_at.timestamp()
    process, address = server()
    assert strip(address, client) == [pytest.approx(ends - time.time(), abs=1.5)]
    os.kill(process.pid, signal.SIGKILL)
    process.wait()
    with pytest.raises(urllib.error.URLError):
        strip(address, client)
    _, again = server()
    assert strip(again, client) == [pytest.approx(ends - time.time(), abs=1.5)]
    assert Clock.objects.get().rung_at is None
