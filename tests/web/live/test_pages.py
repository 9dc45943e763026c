"""The live page in words: steady, dipped, silent, wrong clock; keys; surveys kept; files."""

import json
from datetime import timedelta
from uuid import UUID

import numpy as np
import pytest
from django.utils import timezone

from tempermark.files.live import Header, Sample, read_header, read_sample
from tempermark.web.live.models import LoggerKey, Recording
from tempermark.web.live.stream.ingest import open_recording, store
from tempermark.web.measure.models import Instrument, Survey
from tests.support import room
from tests.web.live.test_ingest import key_for, logger


def record(
    element, seconds=420, level=lambda s: 198.0, spoil=lambda s, row: None, ended_s=0.0, ahead_s=0.0
):
    """A recording that ended a while ago: nine channels, two samples a second."""
    key = LoggerKey.objects.filter(ended_at=None).first() or key_for(element)
    # As a logger's own: what is held in memory of another test's recording is not taken for it.
    recording = open_recording(key, Header(UUID(key.sha256[:32]), 9, 0.5))
    now = timezone.now()
    end = now.timestamp() - ended_s
    rng = np.random.default_rng(1)
    samples = []
    for i in range(seconds * 2):
        offset = i / 2
        row = [round(level(offset) + c / 2 + rng.normal(0, 0.05), 2) for c in range(9)]
        spoil(offset, row)
        samples.append(Sample(i, end - seconds + offset + 0.5 + ahead_s, tuple(row)))
    for part in range(0, len(samples), 240):
        store(recording.pk, samples[part : part + 240], now)
    return recording


def words(browse, path="/presses/heron/live/"):
    return room.words(browse.get(path))


def test_without_a_logger_the_page_says_how_to_begin(browse, element):
    told = words(browse)
    assert "No logger is sending from Heron" in told
    assert "A logger needs a key before it may send" in told
    assert "is kept here" in told
    assert "Live readings of Heron" in told
    assert "Heron is" not in words(browse, "/presses/heron/")


def test_steady_since_with_level_and_swing(browse, element):
    record(element, level=lambda s: 198.0 + 1.2 * np.sin(s / 5))
    told = words(browse)
    assert "Heron is at 200.0 °C, steady for 5 min." in told
    assert "the controller swings it by ± 1." in told
    assert "steady for 5 min." in words(browse, "/presses/heron/")


def test_warming_is_told_with_its_rate_and_cannot_be_kept(browse, element):
    record(element, level=lambda s: 150 + s / 10)
    assert "+6.0 K a minute" in words(browse)
    told = browse.post("/presses/heron/live/keep/", {"set_c": "200"})
    assert told.status_code == 422
    assert "Not steady for 5 minutes yet" in room.words(told)
    assert not Survey.objects.exists()


def test_a_dip_with_depth_and_recovery(browse, element):
    record(element, level=lambda s: 198.0 - (0 if s < 300 else 8 * np.exp(-(s - 300) / 20)))
    told = words(browse)
    assert "Loading dips in the last hour: 1" in told
    assert "−7." in told
    assert "back after 4" in told


def test_an_open_dip_leads(browse, element):
    record(element, level=lambda s: 198.0 - (0 if s < 400 else 8.0))
    assert "Heron dipped by 8." in words(browse)


def test_silence_is_said_first(browse, element):
    record(element, ended_s=45)
    assert "Heron’s logger has been silent for 4" in words(browse)


def test_a_clock_in_the_future_is_said_with_its_consequence(browse, element):
    record(element, ahead_s=2820)
    told = words(browse)
    assert "The logger’s clock is 47 min fast" in told
    assert "corrected for that, to within seconds" in told


def test_a_repeating_channel_is_named_placed_and_left_out(browse, element, technician):
    def spoil(offset, row):
        if offset > 200:
            row[8] = 150.0

    record(element, spoil=spoil)
    told = words(browse)
    assert "Channel 9 (back right corner) has repeated 150.0 °C for 3 min" in told
    assert "left out of the mean and the map" in told
    assert "Heron is at 199.7 °C" in told
    answer = browse.post("/presses/heron/live/keep/", {"set_c": "195"})
    survey = Survey.objects.get()
    assert answer.url == survey.get_absolute_url()
    assert survey.stations.count() == 8
    assert survey.mean_true_c == pytest.approx(199.75, abs=0.05)
    assert (survey.method, survey.instrument.name) == ("contact", "Logger 1")
    assert survey.soak_min == pytest.approx(6.0, abs=0.2)


def test_samples_never_sent_and_an_overdue_logger_are_told(browse, element):
    key_for(element)
    Instrument.objects.update(
        checked_on=timezone.localdate() - timedelta(days=200), check_every_days=180
    )
    recording = record(element)
    Recording.objects.filter(pk=recording.pk).update(missing=40)
    told = words(browse)
    assert "40 samples (4.5%) were never sent: short dips may be missing" in told
    assert "20 days past its check: a survey taken with it counts its uncertainty twice" in told


@pytest.mark.parametrize("minutes", ["5", "60", "480", "7", "x"])
def test_every_window_is_drawn_and_foreign_ones_fall_back(browse, element, minutes):
    record(element)
    page = room.soup(browse.get(f"/presses/heron/live/?minutes={minutes}"))
    assert len(page.select("path.trace")) == 9


def test_fahrenheit_reaches_sentence_and_drawing(browse, element, technician):
    technician.temperature_unit = "f"
    technician.save()
    record(element)
    told = words(browse)
    assert "Heron is at 392.0 °F" in told
    assert "383 °F" in told


def test_only_a_lead_makes_and_ends_keys(client, element, technician, lead):
    tool = logger()
    form = {"instrument": tool.pk, "grid": "3x3"}
    client.force_login(technician)
    assert client.post("/presses/heron/live/key/", form).status_code == 403
    client.force_login(lead)
    told = room.words(client.post("/presses/heron/live/key/", form))
    assert "The key, shown only now" in told
    assert len(LoggerKey.objects.get().places) == 9
    assert "shown only now" not in words(client)
    client.post("/presses/heron/live/key/end/")
    assert LoggerKey.objects.get().ended_at


def test_a_bad_key_form_keeps_what_was_typed(client, element, lead):
    client.force_login(lead)
    form = {"instrument": logger().pk, "grid": "own", "points": "10, 20\n999, 1"}
    answer = client.post("/presses/heron/live/key/", form)
    assert answer.status_code == 422
    assert "Line 2" in room.words(answer)
    assert "999, 1" in answer.content.decode()


def body(response):
    return b"".join(response.streaming_content).decode()


@pytest.mark.django_db(transaction=True)
def test_csv_and_json_lines_give_every_figure_back(client):
    who, element = room.person("isla", "technician"), room.element("Heron")
    client.force_login(who)
    recording = record(
        element, seconds=30, spoil=lambda s, row: row.__setitem__(0, None) if s == 3 else None
    )
    rows = body(client.get(f"/recordings/{recording.pk}.csv")).splitlines()
    assert len(rows) == 61
    assert rows[0].startswith("time_utc,seconds_since_1970,channel_1_c,")
    assert ",," in rows[7]
    lines = body(client.get(f"/recordings/{recording.pk}.ndjson")).encode().splitlines()
    header = read_header(lines[0])
    samples = [read_sample(line, header.channels) for line in lines[1:]]
    kept = [tuple(s) for block in recording.blocks.all() for s in block.readings_c]
    assert [s.reading_c for s in samples] == kept
    assert [s.number for s in samples] == list(range(60))
    assert json.loads(lines[0])["session"] == str(recording.session)
