"""The stream of a logger, `live/1`: one JSON object a line (docs/formats, "Live readings").

The first line opens the stream, each later one brings one sample of all channels.
"""

from dataclasses import dataclass
from typing import cast
from uuid import UUID

from tempermark.core.constants import TEMPERATURE_RANGE_C
from tempermark.core.errors import InputError
from tempermark.files.document import Fields, parse_json, read_format

FORMAT = "live/1"
MOST_CHANNELS = 64
LONGEST_LINE_BYTES = 4096
# Seconds since 1970: 2001 to 2100.
TIME_RANGE_S = (1.0e9, 4.1e9)


@dataclass(frozen=True)
class Header:
    """Which recording the stream goes on with, and what it will bring."""

    session: UUID
    channels: int
    interval_s: float


@dataclass(frozen=True)
class Sample:
    """All channels at one moment; None where a channel gave nothing or nonsense.

    `time_s` in seconds since 1970 by the logger's own clock.
    """

    number: int
    time_s: float
    reading_c: tuple[float | None, ...]


def read_header(line: bytes) -> Header:
    """The first line; InputError names what is wrong."""
    fields = read_format(parse_json(line), FORMAT)
    text = fields.text("session", limit=60)
    channels = fields.number("channels", 1, MOST_CHANNELS)
    interval_s = fields.number("interval_s", 0.01, 3600, unit=" s")
    session = None
    if text is not None:
        try:
            session = UUID(text)
        except ValueError:
            fields.problem("session", f"is “{text}”; a UUID is needed")
    if channels is not None and channels != int(channels):
        fields.problem("channels", f"is {channels:g}; a whole number is needed")
    fields.done()
    return Header(cast(UUID, session), int(channels), interval_s)


def read_sample(line: bytes, channels: int) -> Sample:
    """A later line. A single channel out of range counts as missing; the rest is kept."""
    fields = Fields(parse_json(line))
    number = fields.number("n", 0, 2**53)
    time_s = fields.number("at", *TIME_RANGE_S, unit=" s since 1970")
    readings = fields.items("c", channels, channels)
    fields.done()
    if number != int(number):
        raise InputError.single("n", f"n is {number:g}; a whole number is needed.")
    return Sample(int(number), time_s, tuple(_reading(value) for value in readings))


def _reading(value: object) -> float | None:
    """A channel's figure; anything that is no platen temperature is a dropout."""
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        return None
    low, high = TEMPERATURE_RANGE_C
    return float(value) if low <= value <= high else None
