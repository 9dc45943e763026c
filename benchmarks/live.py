"""20 loggers, nine channels, ten times a second, ten minutes: is anything lost?

Starts a room of its own (database and server), sends with the simulated logger's own sender,
with four people looking at live pages and one loading the floor, then compares every stored
figure with what was sent. TEMPERMARK_BENCH_MINUTES shortens it for a try.
"""

import http.client
import os
import statistics
import subprocess
import threading
import time
from pathlib import Path
from typing import Any
from uuid import uuid4

import django
import numpy as np

from launcher import environment as env_of
from launcher import paths, server
from launcher.cluster import cluster, free_port
from tempermark.stand_ins.heated_platen import HeatedPlaten
from tempermark.stand_ins.logger import CHANNELS, INTERVAL_S, Logger

PRESSES, VIEWERS = 20, 4
MINUTES = float(os.environ.get("TEMPERMARK_BENCH_MINUTES", "10"))
NAME, PASSWORD = "bench", "only-for-this-benchmark"
LOOK_EVERY_S = 1.0


def run() -> None:
    """Print what was sent, stored and lost, and what it cost."""
    database = cluster("bench")
    port, _ = database.start()
    env = server.environment("serve", database.environment(port))
    process = None
    try:
        _prepare(env)
        process = server.start("bench", free_port(server.FIRST_PORT, "Port"), env)
        address = server.running("bench")["url"]
        os.environ.update(env)
        django.setup()
        _measure(address, process.pid)
    finally:
        if process is not None:
            server.stop(process)
            server.state_file("bench").unlink(missing_ok=True)
        database.stop()


def _prepare(env: dict[str, str]) -> None:
    command = [str(paths.python()), "-m", "django", "prepare_room", "--reset"]
    subprocess.run(command, env=env_of.clean_environment(**env), check=True)


def _measure(address: str, pid: int) -> None:
    secrets = _room()
    loggers = [Logger(address, secret, uuid4()) for secret in secrets]
    platens = [HeatedPlaten(200.0, 170.0, np.random.default_rng(i)) for i in range(len(loggers))]
    sent: list[list] = [[] for _ in loggers]
    ended = threading.Event()
    people = [threading.Thread(target=_view, args=(address, i, ended)) for i in range(VIEWERS)]
    pages: list[float] = []
    people.append(threading.Thread(target=_look, args=(address, pages, ended)))
    before, began = _cpu_s(pid), time.monotonic()
    threads: list[Any] = [*loggers, *people]
    for one in threads:
        one.start()
    _send(loggers, platens, sent, began)
    spent, took = _cpu_s(pid) - before, time.monotonic() - began
    whole = [logger.end() for logger in loggers]
    ended.set()
    for person in people:
        person.join()
    _report(loggers, sent, all(whole), spent / took, pages)


def _room() -> list[str]:
    """A lead to look, and presses with a key each."""
    from tempermark.web.accounts.models import User
    from tempermark.web.live.models import Block, LoggerKey, Minute, Recording
    from tempermark.web.live.stream.keys import make_key
    from tempermark.web.measure.models import Instrument
    from tempermark.web.measure.surveys.grids import grid_places
    from tempermark.web.presses.models import Element, Press

    for model in (Minute, Block, Recording, LoggerKey, Element, Press, Instrument):
        model.objects.all().delete()
    User.objects.filter(username=NAME).exists() or User.objects.create_user(
        NAME, password=PASSWORD, role="lead"
    )
    instrument = Instrument.objects.create(name="logger", kind="logger")
    secrets = []
    for i in range(PRESSES):
        press = Press.objects.create(name=f"Press {i}", slug=f"press-{i}", kind="swing_away")
        element = Element.objects.create(press=press, width_mm=400, height_mm=500)
        places = grid_places("3x3", 400, 500)
        secrets.append(make_key(None, element, instrument, places))
    return secrets


def _send(loggers, platens, sent, began) -> None:
    for step in range(int(MINUTES * 60 / INTERVAL_S)):
        for logger, platen, kept in zip(loggers, platens, sent, strict=True):
            platen.step(INTERVAL_S)
            sample = platen.sample(INTERVAL_S)
            kept.append(sample)
            logger.take(sample)
        time.sleep(max(0.0, began + (step + 1) * INTERVAL_S - time.monotonic()))


def _signed_in(address: str) -> tuple[http.client.HTTPConnection, str]:
    host, port = address.removeprefix("http://").split(":")
    connection = http.client.HTTPConnection(host, int(port), timeout=30)
    connection.request("GET", "/sign-in/")
    answer = connection.getresponse()
    token = answer.read().decode().split('name="csrfmiddlewaretoken" value="')[1].split('"')[0]
    cookie = answer.getheader("Set-Cookie", "").split(";")[0]
    body = f"csrfmiddlewaretoken={token}&username={NAME}&password={PASSWORD}"
    kind = {"Content-Type": "application/x-www-form-urlencoded", "Cookie": cookie}
    connection.request("POST", "/sign-in/", body, kind)
    answer = connection.getresponse()
    answer.read()
    cookies = [v for k, v in answer.getheaders() if k.lower() == "set-cookie"]
    session = next(c.split(";")[0] for c in cookies if c.startswith("session"))
    return connection, session


def _view(address: str, press: int, ended: threading.Event) -> None:
    """Somebody with the live page of a press open."""
    connection, session = _signed_in(address)
    connection.request("GET", f"/presses/press-{press}/live/events/", headers={"Cookie": session})
    answer = connection.getresponse()
    while not ended.is_set() and answer.readline():
        pass
    connection.close()


def _look(address: str, pages: list[float], ended: threading.Event) -> None:
    """Somebody who loads the floor again and again."""
    connection, session = _signed_in(address)
    while not ended.wait(LOOK_EVERY_S):
        began = time.monotonic()
        connection.request("GET", "/", headers={"Cookie": session})
        answer = connection.getresponse()
        answer.read()
        assert answer.status == 200, answer.status
        pages.append(time.monotonic() - began)
    connection.close()


def _cpu_s(pid: int) -> float:
    """CPU seconds of the server and its workers."""
    total = 0
    for folder in Path("/proc").iterdir():
        if folder.name.isdigit():
            try:
                fields = (folder / "stat").read_text().rsplit(")", 1)[1].split()
            except OSError:
                continue
            if int(folder.name) == pid or int(fields[1]) == pid:
                total += int(fields[11]) + int(fields[12])
    return total / os.sysconf("SC_CLK_TCK")


def _report(loggers, sent, whole: bool, share: float, pages: list[float]) -> None:
    from django.db import connection

    lost, wrong, stored = 0, 0, 0
    for logger, samples in zip(loggers, sent, strict=True):
        kept = _stored(logger.session)
        stored += len(kept)
        lost += len(samples) - len(kept)
        wrong += sum(a != b for a, b in zip(kept, samples, strict=False))
    confirmed = sorted(t for logger in loggers for t in logger.confirmed_after_s)
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_total_relation_size('live_block')")
        size = cursor.fetchone()[0]
    many = sum(len(s) for s in sent)
    print(
        f"{PRESSES} loggers × {CHANNELS} channels × {1 / INTERVAL_S:.0f} Hz × {MINUTES:g} min, "
        f"{VIEWERS} viewers: {many} samples sent, {stored} stored, {lost} lost, {wrong} altered"
        f"{'' if whole else '; NOT all confirmed'}"
    )
    print(
        f"confirmed after: median {statistics.median(confirmed):.2f} s, "
        f"95th percentile {confirmed[int(0.95 * len(confirmed))]:.2f} s, "
        f"longest {confirmed[-1]:.2f} s"
    )
    pages = sorted(pages)
    print(
        f"floor page meanwhile: median {statistics.median(pages) * 1e3:.0f} ms, 95th percentile "
        f"{pages[int(0.95 * len(pages))] * 1e3:.0f} ms"
    )
    print(f"server: {share:.2f} cores; raw blocks: {size / many:.0f} bytes a sample")


def _stored(session) -> list:
    from tempermark.web.live.models import Recording

    blocks = Recording.objects.get(session=session).blocks.order_by("first_number")
    return [list(sample) for block in blocks.iterator(200) for sample in block.readings_c]
