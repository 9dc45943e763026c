"""The edge: who is believed about who asks, and bodies that are counted as they come."""

import asyncio

import pytest

from tempermark.web.kit.serving.edge import named_proxies, with_edge

PROXIES = named_proxies("127.0.0.1, 10.0.0.0/24")


def answered(scope, body=(b"",), limit=1000, believed=PROXIES):
    """What the application sees of a request, and what is sent back."""
    seen, sent, chunks = {}, [], list(body)

    async def application(scope, receive, send):
        seen.update(scope)
        while True:
            message = await receive()
            if not message.get("more_body"):
                break
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b"read"})

    async def receive():
        chunk = chunks.pop(0)
        return {"type": "http.request", "body": chunk, "more_body": bool(chunks)}

    async def send(message):
        sent.append(message)

    asyncio.run(with_edge(application, believed, limit)(scope, receive, send))
    return seen, sent


def asked(client, **headers):
    pairs = [(k.replace("_", "-").encode(), v.encode()) for k, v in headers.items()]
    return {"type": "http", "scheme": "http", "client": (client, 5000), "headers": pairs}


@pytest.mark.parametrize(
    ("client", "forwarded", "seen"),
    [
        ("192.168.1.9", "1.2.3.4", "192.168.1.9"),
        ("127.0.0.1", "1.2.3.4", "1.2.3.4"),
        ("127.0.0.1", "9.9.9.9, 1.2.3.4", "1.2.3.4"),
        ("127.0.0.1", "9.9.9.9, 1.2.3.4, 10.0.0.7", "1.2.3.4"),
        ("127.0.0.1", "10.0.0.7", "10.0.0.7"),
        ("127.0.0.1", "nonsense", "127.0.0.1"),
        ("127.0.0.1", "", "127.0.0.1"),
        ("10.0.0.5", "2001:db8::1", "2001:db8::1"),
    ],
)
def test_only_named_proxies_say_who_asks(client, forwarded, seen):
    scope, _ = answered(asked(client, x_forwarded_for=forwarded))
    assert scope["client"][0] == seen
    assert not any(name.startswith(b"x-forwarded") for name, _ in scope["headers"])


def test_only_named_proxies_say_that_it_was_https():
    for client, scheme in (("127.0.0.1", "https"), ("192.168.1.9", "http")):
        scope, _ = answered(asked(client, x_forwarded_proto="https"))
        assert scope["scheme"] == scheme
    assert answered(asked("127.0.0.1", x_forwarded_proto="gopher"))[0]["scheme"] == "http"
    assert answered(asked("127.0.0.1", x_forwarded_for="1.1.1.1"), believed=())[0]["client"][0] == (
        "127.0.0.1"
    )


def test_a_body_in_chunks_is_counted_as_it_comes():
    _, sent = answered(asked("192.168.1.9"), [b"x" * 400] * 3)
    assert [m.get("status") for m in sent] == [413, None]
    _, sent = answered(asked("192.168.1.9"), [b"x" * 400] * 2)
    assert sent[0]["status"] == 200


def test_what_is_no_address_names_no_proxy():
    with pytest.raises(ValueError, match="does not appear to be"):
        named_proxies("127.0.0.1, front door")
