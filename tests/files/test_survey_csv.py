"""Survey CSV: dialects understood, bad lines named, nothing half read."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.errors import InputError
from tempermark.files import survey_csv


def parse(text, **more):
    return survey_csv.parse(text, 400.0, 500.0, **more)


def test_plain():
    found = parse("# set_c: 195\nx_mm,y_mm,value_c\n20,30,188.4\n")
    assert [(r.x_mm, r.y_mm, r.value_c, r.line) for r in found.readings] == [(20, 30, 188.4, 3)]
    assert found.comments == {"set_c": "195"}


def test_fahrenheit_semicolons_and_decimal_commas():
    reading = parse("x_mm;y_mm;value_f\r\n20,5;30;383,0\r\n").readings[0]
    assert (reading.x_mm, reading.value_c, reading.written) == (20.5, pytest.approx(195), "383,0f")


def test_columns_in_any_order_and_more_than_needed():
    reading = parse("note,value_c,y_mm,x_mm\nhello,190,30,20\n").readings[0]
    assert (reading.x_mm, reading.y_mm, reading.value_c) == (20, 30, 190)


@pytest.mark.parametrize(
    ("text", "where", "what"),
    [
        ("x_mm,y_mm\n1,2\n", "line 1", "value_c"),
        ("x_mm,y_mm,value_c\n1,2,hot\n", "line 2", "hot"),
        ("x_mm,y_mm,value_c\n1,2,\n", "line 2", "empty"),
        ("x_mm,y_mm,value_c\n1,2\n", "line 2", "empty"),
        ("x_mm,y_mm,value_c\n1,2,601\n", "line 2", "600"),
        ("x_mm,y_mm,value_c\n1,2,-300\n", "line 2", "-300"),
        ("x_mm,y_mm,value_c\n401,2,190\n", "line 2", "off the platen"),
        ("x_mm,y_mm,value_c\n1,2,=1+1\n", "line 2", "formulas"),
        ("x_mm,y_mm,value_c\n1,2,nan\n", "line 2", "no number"),
        ("x_mm,y_mm,value_c\n1,2,190\n3,4,190\n1,2,191\n", "line 4", "line 2"),
        ("x_mm,y_mm,value_c\n", None, "no readings"),
        ("# only a comment\n", None, "no readings"),
    ],
)
def test_bad_lines_are_named(text, where, what):
    with pytest.raises(InputError) as caught:
        parse(text, refuse_duplicates=True)
    problem = caught.value.problems[0]
    assert what in problem.message
    assert where is None or problem.path == where


def test_all_bad_lines_are_told_together():
    with pytest.raises(InputError) as caught:
        parse("x_mm,y_mm,value_c\n1,2,hot\n3,4,190\n999,2,190\n")
    assert [p.path for p in caught.value.problems] == ["line 2", "line 4"]


@pytest.mark.parametrize(
    "raw", [b"", b"  \n", b"x_mm,y_mm,value_c\n\xff\xfe,1,2\n", b"PK\x03\x04\x00\x00", b"\x00\x01"]
)
def test_no_text_is_refused(raw):
    with pytest.raises(InputError):
        parse(survey_csv.decode(raw))


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16"])
def test_encodings(encoding):
    text = survey_csv.decode("# Größe\nx_mm,y_mm,value_c\n1,2,190\n".encode(encoding))
    assert len(parse(text).readings) == 1


PLACE = st.tuples(st.floats(0, 400), st.floats(0, 500), st.floats(-50, 600))


@settings(max_examples=50)
@given(st.lists(PLACE, min_size=1, max_size=20))
def test_written_files_read_back(rows):
    again = parse(survey_csv.write(rows, {"press": "Heron\n=cmd"})).readings
    for row, reading in zip(rows, again, strict=True):
        assert (reading.x_mm, reading.y_mm) == pytest.approx(row[:2], abs=1e-6)
        assert reading.value_c == pytest.approx(row[2], abs=6e-5)


@given(st.text(max_size=200))
def test_no_text_breaks_it(text):
    try:
        parse(text)
    except InputError as error:
        assert str(error)
