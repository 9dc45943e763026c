"""The stream as the server speaks it: one endless request, confirmed as it is stored."""

import asyncio
import json
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.web.live.models import LoggerKey, Recording
from tempermark.web.live.page import export
from tempermark.web.live.stream import keys
from tempermark.web.live.stream.stream import PATH, with_stream
from tempermark.web.measure.surveys.grids import grid_places
from tests.support import room
from tests.web.live.test_ingest import logger

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def secret():
    element = room.element("Heron")
    return keys.make_key(None, element, logger(), grid_places("3x3", 400, 500))


def header(**changes):
    plain = {"format": "live/1", "session": str(uuid4()), "channels": 9, "interval_s": 0.1}
    return json.dumps(plain | changes).encode() + b"\n"


def sample(number):
    at = timezone.now().timestamp()
    return json.dumps({"n": number, "at": at, "c": [195.0 + number] * 9}).encode() + b"\n"


def post(secret, chunks, method="POST"):
    """Status and answered lines for a body given in chunks; the last one ends it."""
    sent = []

    async def application(*_):
        raise AssertionError("the stream never reaches Django")

    async def run():
        left = list(chunks)

        async def receive():
            if not left:
                return {"type": "http.disconnect"}
            chunk = left.pop(0)
            return {"type": "http.request", "body": chunk, "more_body": bool(left)}

        async def send(event):
            sent.append(event)

        headers = [(b"authorization", b"Bearer " + secret.encode())] if secret else []
        scope = {"type": "http", "path": PATH, "method": method, "headers": headers}
        await with_stream(application)(scope, receive, send)

    asyncio.run(run())
    body = b"".join(e.get("body", b"") for e in sent)
    return sent[0]["status"], [json.loads(line) for line in body.splitlines()]


def test_lines_cut_anywhere_are_stored_and_confirmed(secret):
    body = header() + b"".join(sample(i) for i in range(20))
    status, told = post(secret, [body[i : i + 37] for i in range(0, len(body), 37)])
    assert status == 200
    assert told[0] == {"stored": -1}
    assert told[-1] == {"stored": 19}
    assert Recording.objects.get().samples == 20


def test_a_broken_session_goes_on_from_what_is_stored(secret):
    session = str(uuid4())
    post(secret, [header(session=session), sample(0), sample(1)])
    status, told = post(secret, [header(session=session), sample(1), sample(2)])
    assert (status, told[0], told[-1]) == (200, {"stored": 1}, {"stored": 2})
    assert Recording.objects.get().samples == 3


def test_what_came_before_a_bad_line_is_kept_and_the_line_named(secret):
    _, told = post(secret, [header(), sample(0), b'{"n": 1, "at": "noon", "c": []}\n', sample(2)])
    assert told[1] == {"stored": 0}
    assert told[-1]["error"]["path"] == "at"
    assert Recording.objects.get().samples == 1


def test_only_a_good_key_writes(secret):
    for wrong in ("", "guess", secret[:-1]):
        status, told = post(wrong, [header(), sample(0)])
        assert status == 401
        assert "not valid" in told[0]["error"]["message"]
    LoggerKey.objects.update(ended_at=timezone.now())
    assert post(secret, [header(), sample(0)])[0] == 401
    assert not Recording.objects.exists()


@pytest.mark.parametrize(
    ("first", "told"),
    [
        (b"\xff\xfe\n", "Not UTF-8"),
        (b'{"format": "live/1"}\n', "session is missing"),
        (b"x" * 5000 + b"\n", "at most 4096 bytes"),
        (b"", "ended before its first line"),
    ],
)
def test_a_bad_beginning_is_answered_with_the_reason(secret, first, told):
    status, answer = post(secret, [first])
    assert status == 422
    assert told in answer[0]["error"]["message"]


def test_other_methods_are_not_answered(secret):
    assert post(secret, [b""], method="GET")[0] == 405


def test_everything_else_goes_on_to_django():
    async def application(scope, receive, send):
        await send({"type": "seen", "path": scope["path"]})

    seen = []

    async def send(event):
        seen.append(event)

    asyncio.run(with_stream(application)({"type": "http", "path": "/"}, None, send))
    assert seen == [{"type": "seen", "path": "/"}]


def test_a_long_backlog_in_one_piece_is_stored_in_portions(secret):
    body = header() + b"".join(sample(i) for i in range(4000))
    status, told = post(secret, [body[i : i + 65536] for i in range(0, len(body), 65536)])
    assert (status, told[-1]) == (200, {"stored": 3999})
    assert len(told) > 2


def test_an_exported_recording_comes_in_again_as_it_was(secret):
    post(secret, [header(), *(sample(i) for i in range(12))])
    before = Recording.objects.get()
    lines = "".join(export.stream_lines(before)).encode()
    figures = [s for b in before.blocks.all() for s in b.readings_c]
    Recording.objects.all().delete()
    status, told = post(secret, [lines])
    assert (status, told[-1]) == (200, {"stored": 11})
    again = Recording.objects.get()
    assert again.session == before.session
    assert [s for b in again.blocks.all() for s in b.readings_c] == figures
    assert abs(again.last_at - before.last_at).total_seconds() < 0.001
