"""The handler: a request in one thread, streams by the loop, everything given back."""

import asyncio
import threading

import pytest
from django.core.signals import request_finished, request_started
from django.http import HttpResponse, StreamingHttpResponse
from django.test import override_settings
from django.urls import path

from tempermark.web.kit.serving.one_thread import OneThreadHandler

HERE = "tests.web.kit.serving.test_one_thread"
seen = []


class Noted:
    """Middleware that notes its thread, on the way in, before the view and on the way out."""

    sync_capable = async_capable = True

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        seen.append(threading.get_ident())
        response = self.get_response(request)
        seen.append(threading.get_ident())
        return response

    def process_view(self, request, view, args, kwargs):
        seen.append(threading.get_ident())


def plain(request):
    seen.append(threading.get_ident())
    return HttpResponse(request.body.upper())


def broken(request):
    raise RuntimeError("said in the log alone")


async def in_loop(request):
    seen.append(threading.get_ident())
    return HttpResponse(b"loop")


def stream(request):
    return StreamingHttpResponse(_parts())


async def _parts():
    try:
        yield b"first"
        await asyncio.sleep(60)
        yield b"never"
    finally:
        seen.append("ended")


urlpatterns = [
    path("plain/", plain),
    path("broken/", broken),
    path("loop/", in_loop),
    path("stream/", stream),
]


@pytest.fixture
def handler():
    seen.clear()
    with override_settings(
        ROOT_URLCONF=HERE, MIDDLEWARE=[f"{HERE}.Noted"], ALLOWED_HOSTS=["*"], DEBUG=False
    ):
        yield OneThreadHandler()


@pytest.fixture
def signals():
    """How many requests were begun and ended."""
    counts = {"begun": 0, "ended": 0}

    def begun(**_):
        counts["begun"] += 1

    def ended(**_):
        counts["ended"] += 1

    request_started.connect(begun)
    request_finished.connect(ended)
    yield counts
    request_started.disconnect(begun)
    request_finished.disconnect(ended)


def get(handler, at, body=b"", leaves_after=None):
    """What is sent back; a client that leaves does so after so many messages."""
    sent, loops = [], []

    async def run():
        loops.append(threading.get_ident())
        left, incoming = asyncio.Event(), [{"type": "http.request", "body": body}]

        async def receive():
            if incoming:
                return incoming.pop()
            await left.wait()
            return {"type": "http.disconnect"}

        async def send(message):
            sent.append(message)
            if len(sent) == leaves_after:
                left.set()

        scope = {"type": "http", "method": "POST", "path": at, "headers": [], "query_string": b""}
        await asyncio.wait_for(handler(scope, receive, send), 20)

    asyncio.run(run())
    return sent, loops[0]


def test_middleware_and_view_run_in_one_thread_that_is_not_the_loop_s(handler, signals):
    sent, loop = get(handler, "/plain/", b"body")
    assert sent[0]["status"] == 200
    assert sent[1]["body"] == b"BODY"
    assert len(seen) == 4
    assert len(set(seen)) == 1
    assert seen[0] != loop
    assert signals == {"begun": 1, "ended": 1}


def test_an_asynchronous_view_runs_in_the_loop(handler):
    sent, loop = get(handler, "/loop/")
    assert sent[1]["body"] == b"loop"
    assert seen[2] == loop


def test_an_error_is_an_answer(handler, signals):
    sent, _ = get(handler, "/broken/")
    assert sent[0]["status"] == 500
    assert b"said in the log" not in sent[1]["body"]
    assert signals == {"begun": 1, "ended": 1}


def test_a_stream_ends_when_nobody_listens_any_more(handler, signals):
    sent, _ = get(handler, "/stream/", leaves_after=2)
    assert sent[1]["body"] == b"first"
    assert all(b"never" not in message.get("body", b"") for message in sent)
    assert seen[-1] == "ended"
    assert signals == {"begun": 1, "ended": 1}


def test_who_leaves_before_all_was_read_is_not_answered(handler, signals):
    sent = []

    async def gone():
        return {"type": "http.disconnect"}

    async def send(message):
        sent.append(message)

    scope = {"type": "http", "method": "POST", "path": "/plain/", "headers": []}
    asyncio.run(handler(scope, gone, send))
    assert not sent
    assert signals == {"begun": 0, "ended": 0}
