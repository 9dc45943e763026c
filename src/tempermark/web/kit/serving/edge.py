"""The edge of the application: who is really asking, and how much one request may send.

Headers that name another client or protocol are believed from the proxies that the shop named
(settings.PROXIES) and taken off otherwise; a body is counted as it comes, whatever its length was
said to be.
"""

import ipaddress
from collections.abc import Awaitable, Callable, Sequence
from typing import Any

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]
Application = Callable[[Scope, Receive, Send], Awaitable[None]]

FORWARDED = (
    b"x-forwarded-for",
    b"x-forwarded-proto",
    b"x-forwarded-host",
    b"x-forwarded-port",
    b"forwarded",
    b"x-real-ip",
)
Network = ipaddress.IPv4Network | ipaddress.IPv6Network


class TooLarge(Exception):
    """A body went on past its limit."""


def named_proxies(text: str) -> tuple[Network, ...]:
    """Addresses and networks, commas between them. Raises ValueError for what is neither."""
    parts = (part.strip() for part in text.split(","))
    return tuple(ipaddress.ip_network(part, strict=False) for part in parts if part)


def with_edge(
    application: Application, believed: Sequence[Network], limit_bytes: int
) -> Application:
    """An application behind its edge."""

    async def edge(scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await application(scope, receive, send)
            return
        await _bounded(application, _known(scope, believed), receive, send, limit_bytes)

    return edge


def _known(scope: Scope, believed: Sequence[Network]) -> Scope:
    """The scope with the client and the protocol as they are, without the headers that say so."""
    headers = [(name.lower(), value) for name, value in scope["headers"]]
    kept = [(name, value) for name, value in headers if name not in FORWARDED]
    scope = {**scope, "headers": kept}
    client = scope.get("client")
    if client is None or not _is_believed(client[0], believed):
        return scope
    said = [value for name, value in headers if name == b"x-forwarded-for"]
    hops = [hop.strip() for hop in b",".join(said).decode("latin-1").split(",") if hop.strip()]
    # From the nearest hop outwards, the first that is no proxy of ours.
    for hop in reversed(hops):
        if not _is_address(hop):
            break
        scope["client"] = (hop, 0)
        if not _is_believed(hop, believed):
            break
    protocol = [value for name, value in headers if name == b"x-forwarded-proto"]
    if protocol and protocol[-1].strip().lower() in (b"http", b"https"):
        scope["scheme"] = protocol[-1].strip().lower().decode()
    return scope


def _is_address(text: str) -> bool:
    try:
        ipaddress.ip_address(text)
    except ValueError:
        return False
    return True


def _is_believed(address: str, believed: Sequence[Network]) -> bool:
    if not _is_address(address):
        return False
    found = ipaddress.ip_address(address)
    return any(found in network for network in believed)


async def _bounded(
    application: Application, scope: Scope, receive: Receive, send: Send, limit_bytes: int
) -> None:
    """Counts the body; one that is too large is answered by 413 and read no further."""
    read, begun = 0, False

    async def counted() -> dict[str, Any]:
        nonlocal read
        message = await receive()
        read += len(message.get("body", b""))
        if read > limit_bytes:
            raise TooLarge
        return message

    async def noted(message: dict[str, Any]) -> None:
        nonlocal begun
        begun = True
        await send(message)

    try:
        await application(scope, counted, noted)
    except TooLarge:
        if begun:
            raise
        text = b"Too large: send less at once."
        headers = [(b"content-type", b"text/plain; charset=utf-8"), (b"connection", b"close")]
        await send({"type": "http.response.start", "status": 413, "headers": headers})
        await send({"type": "http.response.body", "body": text})
