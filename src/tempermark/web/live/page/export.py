"""A recording as a file: CSV for a table, or the very lines a logger sends."""

import json
from collections.abc import Iterator
from typing import Any

from tempermark.files.live import FORMAT
from tempermark.web.live.models import Recording
from tempermark.web.live.stream.moments import moment

# Rows fetched at once, so that a long recording is never whole in memory.
FETCHED = 200


def csv_lines(recording: Recording) -> Iterator[str]:
    """One line a sample: moment in UTC, number, then all channels in °C as the logger sent."""
    channels = ",".join(f"channel_{i}_c" for i in range(1, recording.channels + 1))
    yield f"time_utc,seconds_since_1970,{channels}\n"
    for block in _blocks(recording):
        for offset, sample in zip(block.seconds, block.readings_c, strict=True):
            at = block.from_at.timestamp() + offset
            figures = ",".join("" if v is None else f"{v:g}" for v in sample)
            yield f"{_utc(at)},{at:.3f},{figures}\n"


def stream_lines(recording: Recording) -> Iterator[str]:
    """`live/1`, as it could be posted again."""
    header = {
        "format": FORMAT,
        "session": str(recording.session),
        "channels": recording.channels,
        "interval_s": recording.interval_s,
    }
    yield json.dumps(header) + "\n"
    number = -1
    for block in _blocks(recording):
        number = max(number + 1, block.first_number)
        for offset, sample in zip(block.seconds, block.readings_c, strict=True):
            at = round(block.from_at.timestamp() + offset, 3)
            yield json.dumps({"n": number, "at": at, "c": sample}) + "\n"
            number += 1
        number -= 1


def _blocks(recording: Recording) -> Iterator[Any]:
    return recording.blocks.order_by("first_number").iterator(chunk_size=FETCHED)


def _utc(time_s: float) -> str:
    return moment(time_s).isoformat(timespec="milliseconds").replace("+00:00", "Z")
