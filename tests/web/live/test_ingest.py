"""Samples stored once each, with times that can be, thinned, and refused when they must be."""

from datetime import UTC, datetime, timedelta
from uuid import uuid4

import numpy as np
import pytest
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.files.live import Header, Sample
from tempermark.web.live.models import Block, LoggerKey
from tempermark.web.live.page import queries
from tempermark.web.live.stream import keys
from tempermark.web.live.stream.ingest import KEEP_RAW, clear_old, open_recording, store
from tempermark.web.measure.models import Instrument
from tempermark.web.measure.surveys.grids import grid_places
from tests.support import room
from tests.web.forms.test_every_import import files

START = 1_764_000_000.0


def logger(**fields):
    return Instrument.objects.create(name="Logger 1", kind="logger", **fields)


def key_for(element):
    keys.make_key(None, element, logger(), grid_places("3x3", 400, 500))
    return LoggerKey.objects.get(ended_at=None)


def recording_on(element, session=None):
    return open_recording(key_for(element), Header(session or uuid4(), 9, 0.1))


def sample(number, offset=0.0, level=195.0):
    figures = tuple(round(level + i / 10, 1) for i in range(9))
    return Sample(number, START + number / 10 + offset, figures)


def arrived(number):
    return datetime.fromtimestamp(START + number / 10 + 0.05, UTC)


def test_what_is_sent_twice_or_overlapping_is_stored_once(element):
    recording = recording_on(element)
    assert store(recording.pk, [sample(i) for i in range(10)], arrived(10)) == 9
    assert store(recording.pk, [sample(i) for i in range(5, 15)], arrived(15)) == 14
    assert store(recording.pk, [sample(i) for i in range(10)], arrived(15)) == 14
    recording.refresh_from_db()
    assert (recording.samples, recording.missing) == (15, 0)
    rows = [list(s) for block in recording.blocks.all() for s in block.readings_c]
    assert rows == [list(sample(i).reading_c) for i in range(15)]


def test_numbers_never_sent_are_counted(element):
    recording = recording_on(element)
    store(recording.pk, [sample(0), sample(3), sample(2), sample(6)], arrived(6))
    recording.refresh_from_db()
    assert (recording.samples, recording.missing) == (3, 4)


def test_a_backlog_is_cut_into_seconds_and_keeps_its_times(element):
    recording = recording_on(element)
    store(recording.pk, [sample(i) for i in range(35)], arrived(300))
    assert [len(b.seconds) for b in recording.blocks.all()] == [10, 10, 10, 5]
    recording.refresh_from_db()
    assert recording.clock_shift_s == 0
    assert recording.last_at.timestamp() == pytest.approx(START + 3.4)


def test_a_clock_in_the_future_is_shifted_and_said(element):
    recording = recording_on(element)
    now = timezone.now()
    ahead = now.timestamp() + 2820 - START
    samples = [sample(i, offset=ahead - 0.9) for i in range(10)]
    store(recording.pk, samples, now)
    recording.refresh_from_db()
    assert recording.clock_shift_s == pytest.approx(2820, abs=0.1)
    assert recording.last_at == pytest.approx(now, abs=timedelta(seconds=0.01))


def test_minutes_are_the_raw_figures_thinned(element):
    recording = recording_on(element)
    rng = np.random.default_rng(1)
    level = 195 + rng.normal(0, 2, 2000)
    for first in range(0, 2000, 5):
        part = [sample(i, level=level[i]) for i in range(first, first + 5)]
        store(recording.pk, part, arrived(first + 5))
    minutes = list(recording.minutes.all())
    assert len(minutes) == 3
    assert (minutes[1].at - minutes[0].at).total_seconds() == 60
    inside = slice(0, int(60 - START % 60) * 10)
    first_channel = np.round(level, 1)[inside]
    assert minutes[0].high_c[0] == pytest.approx(first_channel.max(), abs=0.11)
    assert minutes[0].mean_c[0] == pytest.approx(level[inside].mean(), abs=0.1)


def test_a_key_that_was_ended_stores_no_more(element, lead):
    recording = recording_on(element)
    keys.end_key(lead, recording.key)
    with pytest.raises(InputError, match="key was revoked"):
        store(recording.pk, [sample(0)], arrived(0))
    assert not Block.objects.exists()


def test_another_number_of_channels_is_refused(element):
    key = key_for(element)
    with pytest.raises(InputError, match="this key is for 9 channels"):
        open_recording(key, Header(uuid4(), 8, 0.1))


def test_a_new_key_ends_the_one_before_and_only_a_lead_makes_one(element, technician, lead):
    first = key_for(element)
    with pytest.raises(Exception, match="Only a lead"):
        keys.make_key(technician, element, first.instrument, grid_places("3x3", 400, 500))
    secret = keys.make_key(lead, element, first.instrument, grid_places("3x3", 400, 500))
    first.refresh_from_db()
    assert first.ended_at is not None
    assert keys.key_of(secret).created_by == lead
    assert secret not in str(LoggerKey.objects.values())
    assert keys.key_of("guessed") is None


def test_old_raw_blocks_go_and_their_minutes_stay(element):
    recording = recording_on(element)
    store(recording.pk, [sample(i) for i in range(1400)], arrived(1400))
    store(recording.pk, [sample(1400)], arrived(1400))
    recording.blocks.update(from_at=timezone.now() - KEEP_RAW - timedelta(days=1))
    clear_old(recording.key)
    assert not recording.blocks.exists()
    assert recording.minutes.exists()


def test_the_view_of_a_recording_that_ended_long_ago_is_none(element):
    recording = recording_on(element)
    store(recording.pk, [sample(i) for i in range(10)], arrived(10))
    assert queries.live(element, arrived(20)) is not None
    assert queries.live(element, arrived(10) + timedelta(minutes=11)) is None


def test_corrections_of_the_logger_count_live_and_raw_stays_raw(element):
    recording = recording_on(element)
    Instrument.objects.update(corrections=[[100.0, 1.0], [200.0, 3.0]])
    recording.key.instrument.refresh_from_db()
    store(recording.pk, [sample(i) for i in range(10)], arrived(10))
    view = queries.live(element, arrived(10))
    assert view.state.now_c[0] == pytest.approx(195.0 + 1 + 2 * 0.95)
    assert recording.blocks.first().readings_c[0][0] == 195.0


def test_a_logger_that_sends_nonsense_is_told(client, lead, element):
    for raw, _ in files():
        answer = client.post("/live/stream/", raw, content_type="application/x-ndjson")
        assert answer.status_code < 500
    assert client.get("/sign-in/").status_code == 200
    assert room.soup(client.get("/sign-in/")).h1
