"""Text of a document that no database can hold is refused with its reason."""

import json

import pytest

from tempermark.core.errors import InputError
from tempermark.files.document import parse_json


@pytest.mark.parametrize(
    "text", [r'{"name": "a\u0000b"}', r'["\ud800"]', r'{"\udc00": 1}', r'[[{"a": ["x\ud83d"]}]]']
)
def test_a_nul_or_half_a_character_is_refused(text):
    with pytest.raises(InputError, match="half a character"):
        parse_json(text)


@pytest.mark.parametrize("value", ["😀", "é ’", {"a": ["\u20ac", 1]}])
def test_whole_characters_are_read_as_they_are(value):
    assert parse_json(json.dumps(value)) == value
