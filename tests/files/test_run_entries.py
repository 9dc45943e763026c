"""tempermark.run-entries/1: one bad entry holds up no other; each says what is wrong."""

import time
from uuid import uuid4

import pytest

from tempermark.core.errors import InputError
from tempermark.files.bench.run_entries import FORMAT, Rejected, read_entries

NOW = time.time()


def entry(kind, **more):
    return {"key": str(uuid4()), "kind": kind, "at_s": NOW, **more}


def read(*entries, **changes):
    document = {"format": FORMAT, "sent_at_s": NOW, "entries": list(entries)} | changes
    return read_entries(document).entries


def test_a_closing_brings_its_press_pieces_and_dial():
    press = str(uuid4())
    (found,) = read(entry("closed", press=press, pieces=[2, 1], set_c=201, step=3))
    assert found.detail == {
        "load": 1,
        "placing": 0,
        "step": 3,
        "press": press,
        "pieces": [1, 2],
        "set_c": 201.0,
    }


@pytest.mark.parametrize(
    ("bad", "says"),
    [
        (entry("closed", pieces=[1], set_c=201), "press is missing"),
        (entry("closed", press="x", pieces=[1], set_c=201), "a UUID is needed"),
        (entry("closed", press=str(uuid4()), pieces=[], set_c=201), "at least 1"),
        (entry("closed", press=str(uuid4()), pieces=[1], set_c=9999), "right is"),
        (entry("outcome", pieces=[1], outcome="lovely"), "unknown"),
        (entry("outcome", pieces=[0], outcome="good"), "right is"),
        (entry("outcome", pieces=[1.5], outcome="good"), "whole number"),
        (entry("mark", pieces=[1], symptom="sad"), "unknown"),
        (entry("note", text="  "), "is empty"),
        (entry("dance"), "unknown"),
        ({"kind": "ended", "at_s": NOW}, "key is missing"),
        ({"key": str(uuid4()), "kind": "ended", "at_s": 3}, "right is"),
        ("a text", "an object is needed"),
    ],
)
def test_a_bad_entry_is_rejected_alone(bad, says):
    good, refused, last = read(entry("ended"), bad, entry("note", text="fine"))
    assert isinstance(refused, Rejected)
    assert says in refused.why
    assert good.kind == "ended"
    assert last.detail["text"] == "fine"


@pytest.mark.parametrize(
    "changes",
    [{"format": "other/1"}, {"entries": []}, {"entries": [1] * 501}, {"sent_at_s": "now"}],
)
def test_what_is_no_document_is_refused_whole(changes):
    with pytest.raises(InputError):
        read(entry("ended"), **changes)
