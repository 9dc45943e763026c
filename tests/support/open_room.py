"""A room of its own in real processes, under the launcher's supervisor, and people at its benches
whose tablets send until an entry is confirmed.
"""

import json
import os
import re
import socket
import subprocess
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from contextlib import contextmanager
from http.cookiejar import CookieJar
from uuid import uuid4

from launcher import paths, server, system
from launcher.cluster import Cluster
from launcher.processes import begin_processes
from launcher.supervisor import Supervisor
from tests.support.clusters import folder_for_clusters

DWELL_S = 52.0
FILL = """
from tests.support import bench, room
who = room.person("isla", "technician")
on = room.element("Heron")
for _ in range(6):
    print(bench.run(who, on, quantity=900).pk)
"""
TOKEN = re.compile(r'data-token="([^"]+)"')
CSRF = re.compile(r'name="csrfmiddlewaretoken" value="([^"]+)"')


def _any_port():
    """One that the system gives to nobody else just now: tests run side by side."""
    with socket.socket() as probe:
        probe.bind(("0.0.0.0", 0))
        return probe.getsockname()[1]


class OpenRoom:
    """Its database, its address, its runs, and who watches over it."""

    def __init__(self, database, static, shared=None):
        self.database, self.shared = database, shared
        port, _ = database.start()
        self.env = server.environment(database.room, database.environment(port))
        self.env["PYTHONPATH"] = os.pathsep.join([self.env["PYTHONPATH"], str(paths.ROOT)])
        self.env["TEMPERMARK_STATIC_ROOT"] = str(static)
        self.manage("collectstatic", "--noinput", "-v", "0")
        self.manage("migrate", "-v", "0")
        self.runs = self.manage("shell", "-v", "0", "-c", FILL).split()
        self.port = _any_port()
        self.url = f"http://127.0.0.1:{self.port}" if shared is None else shared.room(self.port)
        self.supervisor = Supervisor(database)
        self._ends = threading.Event()
        self._began, self._is_open = threading.Event(), False
        # Who begins a process is its parent: one thread does all of it.
        self._watch = threading.Thread(target=self._watched)
        self._watch.start()
        assert self._began.wait(server.STARTS_WITHIN_S + 10)
        assert self._is_open, (paths.LOCAL / f"web-{database.room}.log").read_text()[-3000:]

    def manage(self, *arguments):
        """What a management command prints."""
        command = [str(paths.python()), "-W", "ignore", "-m", "django", *arguments]
        done = subprocess.run(command, env=self.env, capture_output=True, text=True, check=True)
        return done.stdout

    def _watched(self):
        try:
            begin_processes(
                self.supervisor, self.database.room, self.env, self.port, self.shared, []
            )
            self._is_open = True
        finally:
            self._began.set()
        while not self._ends.wait(0.3):
            self.supervisor.look(time.monotonic())
        self.supervisor.end()

    @property
    def web(self):
        """The number of the web server's master."""
        return self.supervisor.children[0].process.pid

    def workers(self):
        """The numbers of its workers."""
        found = subprocess.run(["pgrep", "-P", str(self.web)], capture_output=True, text=True)
        return [int(text) for text in found.stdout.split()]

    def end(self):
        """Everything of it."""
        self._ends.set()
        self._watch.join()
        self.database.stop()
        server.state_file(self.database.room).unlink(missing_ok=True)

    def keys(self):
        """The keys of all log entries that are kept, as often as they are."""
        code = (
            "from tempermark.web.run.models import LogEntry\n"
            "for key in LogEntry.objects.values_list('entry_key', flat=True): print(key)"
        )
        return self.manage("shell", "-v", "0", "-c", code).split()


@contextmanager
def open_room(name, home=None, shared=None):
    """A room; its data in a folder of its own; on the shop's network where it is shared."""
    with folder_for_clusters() as top:
        database = Cluster(name, home or top / "room", system.need_postgres())
        found = OpenRoom(database, top / "static", shared)
        try:
            yield found
        finally:
            found.end()


class Tablet:
    """Somebody at a bench, and what the room answered."""

    def __init__(self, room, run):
        self.room, self.run = room, f"{room.url}/runs/{run}/"
        self.browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        page = self._open("/sign-in/?password=1")
        fields = {"username": "isla", "password": "regatta-week-demo"}
        fields["csrfmiddlewaretoken"] = CSRF.search(page)[1]
        body = urllib.parse.urlencode(fields).encode()
        referer = {"Referer": f"{room.url}/sign-in/"}
        self.browser.open(urllib.request.Request(f"{room.url}/sign-in/", body, referer))
        page = self.browser.open(self.run).read().decode()
        self.token = TOKEN.search(page)[1]
        self.plan = json.loads(re.search(r'id="run-document-\d+"[^>]*>(.*?)</script>', page)[1])
        self.confirmed, self.statuses, self.refused = [], [], []

    def _open(self, path):
        return self.browser.open(self.room.url + path).read().decode()

    def work(self, until, pause_s=0.1):
        """Press piece after piece until an event; each entry is sent until it is confirmed."""
        step = next(s["number"] for s in self.plan["steps"] if s["is_main"])
        piece = 0
        while not until.is_set():
            piece, press = piece + 1, str(uuid4())
            place = {"load": piece, "placing": 0, "step": step, "press": press}
            for entry in (
                {"kind": "closed", **place, "pieces": [piece], "set_c": 205.0},
                {"kind": "opened", **place, "is_last": True},
                {"kind": "outcome", "pieces": [piece], "outcome": "good"},
            ):
                ago_s = DWELL_S if entry["kind"] == "closed" else 0.0
                self._deliver({"key": str(uuid4()), "at_s": time.time() - ago_s, **entry})
                time.sleep(pause_s)

    def _deliver(self, entry, within_s=120):
        end = time.monotonic() + within_s
        while time.monotonic() < end:
            if self._send(entry):
                self.confirmed.append(entry["key"])
                return
            time.sleep(0.3)
        self.refused.append(f"not confirmed within {within_s} s: {entry['kind']}")

    def _send(self, entry):
        body = {"format": "tempermark.run-entries/1", "sent_at_s": time.time(), "entries": [entry]}
        headers = {
            "Content-Type": "application/json",
            "X-CSRFToken": self.token,
            "Referer": self.run,
        }
        request = urllib.request.Request(f"{self.run}entries/", json.dumps(body).encode(), headers)
        try:
            with self.browser.open(request, timeout=30) as answer:
                receipt = json.loads(answer.read())["receipts"][0]
        except urllib.error.HTTPError as error:
            self.statuses.append(error.code)
            return False
        except (OSError, ValueError):
            # Cut off in the middle: nobody knows whether it was kept; it is sent again.
            self.statuses.append(0)
            return False
        self.statuses.append(200)
        if receipt["state"] == "refused":
            self.refused.append(receipt["why"])
        return receipt["state"] in ("kept", "again", "refused")
