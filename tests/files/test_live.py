"""The logger's lines: what is taken, what is refused and why."""

import json
from uuid import uuid4

import pytest

from tempermark.core.errors import InputError
from tempermark.files.live import read_header, read_sample

HEADER = {"format": "live/1", "session": str(uuid4()), "channels": 9, "interval_s": 0.1}


def line(**changes):
    return json.dumps(HEADER | changes).encode()


def test_header_is_read():
    header = read_header(line())
    assert (header.channels, header.interval_s) == (9, 0.1)
    assert str(header.session) == HEADER["session"]


@pytest.mark.parametrize(
    ("changes", "told"),
    [
        ({"format": "live/9"}, "“live/1” is needed"),
        ({"session": "seven"}, "a UUID is needed"),
        ({"channels": 2.5}, "whole number"),
        ({"channels": 0}, "1 to 64"),
        ({"interval_s": 0}, "0.01 to 3600"),
    ],
)
def test_a_bad_header_says_what_would_be_right(changes, told):
    with pytest.raises(InputError, match=told):
        read_header(line(**changes))


def test_a_sample_with_dropouts_and_nonsense_keeps_the_rest():
    read = read_sample(b'{"n": 7, "at": 1764038412.1, "c": [195.2, null, 9999, "x", true]}', 5)
    assert (read.number, read.time_s) == (7, 1764038412.1)
    assert read.reading_c == (195.2, None, None, None, None)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        (b"{", "Not JSON"),
        (b'{"n": 7, "at": 1764038412.1, "c": [1]}', "at least 2"),
        (b'{"n": -1, "at": 1764038412.1, "c": [1, 2]}', "n is -1"),
        (b'{"n": 1.5, "at": 1764038412.1, "c": [1, 2]}', "whole number"),
        (b'{"n": 1, "at": 12, "c": [1, 2]}', "since 1970"),
        (b'{"n": 1, "at": NaN, "c": [1, 2]}', "NaN"),
    ],
)
def test_a_line_that_is_no_sample_is_refused(text, told):
    with pytest.raises(InputError, match=told):
        read_sample(text, 2)
