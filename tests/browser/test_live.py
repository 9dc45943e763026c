"""A logger sends while a person looks: the page follows by itself, through a lost connection."""

import http.client
import threading
import time
from uuid import uuid4

import numpy as np
import pytest
import uvicorn
from django.conf import settings
from django.contrib.staticfiles.handlers import ASGIStaticFilesHandler

from tempermark.files.live import Sample
from tempermark.stand_ins.heated_platen import HeatedPlaten, Story
from tempermark.stand_ins.logger import Logger
from tempermark.web.asgi import django_application
from tempermark.web.live.models import Block
from tempermark.web.live.stream import keys
from tempermark.web.live.stream.ingest import store
from tempermark.web.live.stream.moments import moment
from tempermark.web.live.stream.stream import with_stream
from tempermark.web.measure.models import Survey
from tempermark.web.measure.surveys.grids import grid_places
from tempermark.web.presses.models import Element
from tests.browser.person import Person
from tests.browser.test_access import faults_of
from tests.support import room
from tests.web.live.test_ingest import logger
from tests.web.live.test_pages import record

pytestmark = pytest.mark.browser


class Server:
    """uvicorn in a thread on a free port; the ordinary live server cannot stream."""

    def __init__(self):
        application = with_stream(ASGIStaticFilesHandler(django_application))
        config = uvicorn.Config(
            application, port=0, log_level="critical", lifespan="off", timeout_graceful_shutdown=1
        )
        self.server = uvicorn.Server(config)
        self.thread = threading.Thread(target=self.server.run)

    def __enter__(self):
        self.thread.start()
        while not self.server.started:
            time.sleep(0.02)
        port = self.server.servers[0].sockets[0].getsockname()[1]
        return f"http://127.0.0.1:{port}"

    def __exit__(self, *_):
        self.server.should_exit = True
        self.thread.join()


@pytest.fixture
def address(transactional_db, monkeypatch):
    monkeypatch.setattr(settings, "ALLOWED_HOSTS", ["127.0.0.1"])
    with Server() as found:
        yield found


@pytest.fixture
def isla_there(chromium, address):
    room.person("isla", "technician")
    room.element("Heron")
    chromium.delete_all_cookies()
    person = Person(chromium, address)
    person.sign_in()
    yield person
    chromium.get("about:blank")


def places():
    places = grid_places("3x3", 400, 500)
    return sorted(places, key=lambda p: (p.y_mm, p.x_mm))


def headline(person):
    return person.text(".live-headline")


def test_the_page_follows_the_logger_and_a_steady_minute_is_kept(isla_there, monkeypatch):
    # However long the pages take here, the logger is not called silent meanwhile.
    monkeypatch.setattr("tempermark.web.live.page.queries.SILENT_AFTER_S", 600.0)
    element = Element.objects.get()
    isla_there.go("/presses/heron/live/")
    isla_there.sees("A logger needs a key before it may send")
    recording = record(element, seconds=420)
    isla_there.go("/presses/heron/")
    isla_there.sees("steady for 5 min")
    assert len(isla_there.find_all(".traces path.trace")) == 9
    record_more(recording, level=190.0)
    isla_there.sees("dipped by 8.0 K")
    isla_there.follow("Live readings")
    isla_there.sees("dipped by 8.0 K")
    record_more(recording, level=200.0, seconds=420)
    isla_there.sees("steady for")
    isla_there.fill("set_c", "205")
    isla_there.press("Keep as a survey")
    isla_there.sees("Set Heron to 198")
    survey = Survey.objects.get()
    assert survey.set_c == 205
    assert survey.stations.count() == 9


def test_live_pages_are_accessible_and_fit_every_screen(isla_there):
    element = Element.objects.get()
    empty = faults_of(isla_there, ["/presses/heron/live/"])

    def spoil(offset, row):
        row[8] = 150.0

    record(
        element,
        spoil=spoil,
        level=lambda s: 198.0 - (0 if s < 300 else 8 * np.exp(-(s - 300) / 20)),
    )
    assert not empty + faults_of(isla_there, ["/presses/heron/live/", "/presses/heron/"])


def record_more(recording, level, seconds=3):
    """Further samples of the same recording, as if time had passed meanwhile."""
    recording.refresh_from_db()
    last = recording.last_at.timestamp()
    rng = np.random.default_rng(2)
    samples = [
        Sample(
            recording.last_number + 1 + i,
            last + 0.5 * (i + 1),
            tuple(round(level + c / 2 + rng.normal(0, 0.05), 2) for c in range(9)),
        )
        for i in range(2 * seconds)
    ]
    store(recording.pk, samples, moment(last + seconds))


def test_the_simulated_logger_loses_nothing_when_the_server_goes_away(
    transactional_db, monkeypatch
):
    monkeypatch.setattr(settings, "ALLOWED_HOSTS", ["127.0.0.1"])
    element = room.element("Heron")
    secret = keys.make_key(None, element, logger(), places())
    platen = HeatedPlaten(200.0, 198.0, np.random.default_rng(1), Story())
    said = []
    with Server() as address:
        sender = Logger(address, secret, uuid4(), say=said.append)
        sender.start()
        sent = [take(sender, platen) for _ in range(15)]
        until(lambda: sender.stored >= 5)
    sent += [take(sender, platen) for _ in range(15)]
    with Server() as address:
        sender.address = address
        sent += [take(sender, platen) for _ in range(5)]
        assert sender.end()
    stored = [sample for block in Block.objects.all() for sample in block.readings_c]
    assert stored == sent
    assert "Connection lost" in said[0]
    assert "Connected again" in said[-1]


def take(sender, platen):
    platen.step(0.1)
    sample = platen.sample(0.1)
    sender.take(sample)
    time.sleep(0.02)
    return sample


def until(condition):
    for _ in range(500):
        if condition():
            return
        time.sleep(0.02)
    raise AssertionError("it never came")


def test_a_wrong_key_ends_the_logger_with_the_reason(address):
    sender = Logger(address, "guessed", uuid4(), say=lambda _: None)
    sender.start()
    sender.take([195.0] * 9)
    until(lambda: sender.refused)
    assert "not valid" in sender.refused


def test_events_are_for_people_who_are_signed_in(address):
    room.element("Heron")
    connection = http.client.HTTPConnection(address.removeprefix("http://"))
    connection.request("GET", "/presses/heron/live/events/")
    answer = connection.getresponse()
    assert answer.status == 302
    assert "/sign-in/" in answer.getheader("Location")
