"""Samples into the database: each exactly once, in order, with times that can be."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Any

import numpy as np
from django.db import connection, transaction
from django.db.models import Min
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.metrology.live.clock import settled
from tempermark.core.metrology.live.thinning import thin
from tempermark.files.live import Header, Sample
from tempermark.web.kit.records.prepared import Prepared, by_key
from tempermark.web.live.models import Block, LoggerKey, Minute, Recording
from tempermark.web.live.stream.moments import moment

# Notices go out on this channel with the element's number.
CHANNEL = "tempermark_live"
# A block spans less than this, also when a backlog comes in one piece.
BLOCK_S = 1.0
# Ten times the rate the application is made for; a logger that sends more is misconfigured.
MOST_SAMPLES_PER_S = 100
KEEP_RAW = timedelta(days=30)
# What a store changes of its recording.
RECORDED = ("samples", "missing", "last_number", "last_at", "clock_shift_s")
MINUTE_S = 60.0
# Looked up at every store.
HELD_RECORDING = Prepared(lambda pk: Recording.objects.select_for_update().filter(pk=pk), pk=int)
KEY = by_key(LoggerKey)


def open_recording(key: LoggerKey, header: Header) -> Recording:
    """The recording of a session, begun or gone on with."""
    if header.channels != len(key.places):
        raise InputError.single(
            "channels",
            f"channels is {header.channels}; this key is for {len(key.places)} channels.",
        )
    if header.interval_s < 1 / MOST_SAMPLES_PER_S:
        raise InputError.single("interval_s", f"At most {MOST_SAMPLES_PER_S} samples a second.")
    recording, fresh = Recording.objects.get_or_create(
        key=key,
        session=header.session,
        defaults={
            "channels": header.channels,
            "interval_s": header.interval_s,
            "started_at": timezone.now(),
        },
    )
    if fresh:
        clear_old(key)
    elif recording.channels != header.channels:
        raise InputError.single(
            "channels", f"This session began with {recording.channels} channels."
        )
    return recording


def clear_old(key: LoggerKey) -> None:
    """Raw blocks older than `KEEP_RAW` go; their minutes stay."""
    old = timezone.now() - KEEP_RAW
    Block.objects.filter(recording__key__element=key.element_id, from_at__lt=old).delete()


@transaction.atomic
def store(recording_pk: int, samples: Sequence[Sample], arrived: datetime) -> int:
    """Keep what is new of these samples; the number up to which all is stored.

    Samples sent twice are kept once. Numbers that were skipped are counted as missing. A key
    that was ended in the meantime raises InputError.
    """
    recording = HELD_RECORDING.only(pk=recording_pk)
    recording.key = KEY.only(pk=recording.key_id)
    if recording.key.ended_at is not None:
        raise InputError.single(None, "This logger’s key was revoked.")
    fresh = _fresh(samples, recording.last_number)
    if not fresh:
        return recording.last_number
    numbers = np.array([s.number for s in fresh])
    last = recording.last_at
    time_s, shift_s = settled(
        np.array([s.time_s for s in fresh]),
        arrived.timestamp(),
        recording.clock_shift_s,
        last.timestamp() if last else None,
    )
    readings = np.array([s.reading_c for s in fresh], dtype=float)
    Block.objects.bulk_create(
        Block(recording=recording, **_block(numbers[part], time_s[part], readings[part]))
        for part in _second_by_second(time_s)
    )
    recording.samples += len(fresh)
    recording.missing += int(numbers[-1]) - recording.last_number - len(fresh)
    recording.last_number = int(numbers[-1])
    recording.last_at = moment(time_s[-1])
    recording.clock_shift_s = shift_s
    recording.save(update_fields=RECORDED)
    if last is None or int(last.timestamp() // MINUTE_S) < int(time_s[-1] // MINUTE_S):
        _gather_minutes(recording, time_s[-1])
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, str(recording.key.element_id)])
    return recording.last_number


def _second_by_second(time_s: np.ndarray) -> list[slice]:
    """Slices of ascending times (n,) that each span less than `BLOCK_S`."""
    starts, begin = [0], time_s[0]
    for index, at in enumerate(time_s):
        if at - begin >= BLOCK_S:
            starts.append(index)
            begin = at
    return [slice(a, b) for a, b in pairwise([*starts, len(time_s)])]


def _fresh(samples: Sequence[Sample], last_number: int) -> list[Sample]:
    """Samples with numbers not stored yet, ascending; one sent out of turn is dropped."""
    fresh = []
    for sample in samples:
        if sample.number > last_number:
            fresh.append(sample)
            last_number = sample.number
    return fresh


def _block(numbers: np.ndarray, time_s: np.ndarray, readings: np.ndarray) -> dict[str, Any]:
    low, mean, high = extremes(readings)
    return {
        "first_number": int(numbers[0]),
        "from_at": moment(time_s[0]),
        "seconds": [round(float(t), 3) for t in time_s - time_s[0]],
        "readings_c": listed(readings),
        "low_c": listed(low),
        "mean_c": listed(mean),
        "high_c": listed(high),
    }


def extremes(readings: np.ndarray) -> tuple[np.ndarray, ...]:
    """Lowest, mean and highest (channels,) of readings (n, channels); NaN where none."""
    whole = thin(np.zeros(len(readings)), readings, readings, readings, 1.0)
    return whole.low_c[0], whole.mean_c[0], whole.high_c[0]


def listed(values: np.ndarray) -> list[Any]:
    """Numbers as PostgreSQL takes them: NaN as null."""
    return np.where(np.isfinite(values), np.round(values, 3), None).tolist()


def _gather_minutes(recording: Recording, now_s: float) -> None:
    """Thin every whole minute that has none yet (bounded by what came since the last)."""
    end = moment(now_s // MINUTE_S * MINUTE_S)
    done = recording.minutes.order_by("-at").values_list("at", flat=True).first()
    if done is None:
        first = recording.blocks.aggregate(at=Min("from_at"))["at"]
        begin = first and moment(first.timestamp() // MINUTE_S * MINUTE_S)
    else:
        begin = done + timedelta(seconds=MINUTE_S)
    if begin is None or begin >= end:
        return
    rows = recording.blocks.filter(from_at__gte=begin, from_at__lt=end).values_list(
        "from_at", "low_c", "mean_c", "high_c"
    )
    table = list(rows)
    if not table:
        return
    time_s = np.array([row[0].timestamp() for row in table])
    columns = [np.array([row[i] for row in table], dtype=float) for i in (1, 2, 3)]
    low, mean, high = columns
    thinned = thin(time_s, low, mean, high, MINUTE_S)
    Minute.objects.bulk_create(
        Minute(
            recording=recording,
            at=moment(middle - MINUTE_S / 2),
            low_c=listed(low),
            mean_c=listed(mean),
            high_c=listed(high),
        )
        for middle, low, mean, high in zip(
            thinned.time_s, thinned.low_c, thinned.mean_c, thinned.high_c, strict=True
        )
    )
