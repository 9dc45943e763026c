"""Whatever file is sent to any import: refused with its reason, nothing kept, never a failure."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tempermark.web.overview.file_views import TABLES
from tests.support.shop import sent, snapshot

pytestmark = [pytest.mark.django_db, pytest.mark.long]

FORMATS = ("tempermark.survey/1", "tempermark.pressure/1", "tempermark.recipe/1")


def documents(formats):
    """Documents of these formats, each spoiled in one way."""
    for name in formats:
        good = {"format": name, "name": "x", "survey": {"press": "Heron"}, "readings": [{}]}
        yield json.dumps(good | {"name": "\ud800"}), f"{name}, half a character"
        yield json.dumps(good | {"note": "a\0b"}), f"{name}, NUL"
        yield json.dumps(good | {"survey": {"taken_at": "9999-12-31T23:59"}}), f"{name}, 9999"
        yield json.dumps(good).replace("{}", "9" * 5000), f"{name}, 5000 digits"
        yield json.dumps(good | {"name": "n" * 100_000}), f"{name}, a long name"
        yield (
            json.dumps({"format": name, "items": [None, 1, "x", [], {"press": 5}]}),
            f"{name}, rows",
        )


def files(formats=FORMATS):
    """Files of every kind with what is wrong in them."""
    yield from ((text.encode("utf-8", "surrogatepass"), said) for text, said in documents(formats))
    yield b"", "empty"
    yield b"\xed\xa0\x80,b\n1,2\n", "half a character as bytes"
    yield b"press,kind,at,note\nHeron,repair,9999-12-31T23:59,x\n", "an event of 9999"
    yield b"x_mm,y_mm,value_c\n1,2," + b"9" * 5000 + b"\n", "5000 digits"
    yield b"station,x_mm\nwarm,\n,\n", "stations that are none"
    yield b"a,b\n" + b"\0" * 50 + b",1\n", "NUL"
    yield b"PK\x03\x04" + bytes(60), "a broken archive"
    yield b"\x89PNG\r\n\x1a\n" + bytes(80), "a broken picture"
    yield bytes(range(256)), "noise"
    yield ("[" * 5000).encode(), "nested deeply"


def test_every_import_answers_every_file(shop):
    leads, failed, kept, met = shop.leads, [], [], set()
    leads.raise_request_exception = False
    forms = [
        (action, form, form.select_one("input[type=file]")["name"])
        for action, form in shop.sent_forms()
        if form.select("input[type=file]")
    ]
    for action, form, name in forms:
        tables = TABLES if "/table/" in action else [None]
        for table in tables:
            data = sent(form) | ({"table": table} if table else {})
            data.pop("once")
            before = snapshot()
            for raw, said in files([TABLES[table].FORMAT] if table else FORMATS):
                upload = SimpleUploadedFile("sent.json" if raw[:1] == b"{" else "sent.csv", raw)
                answer = leads.post(action, data | {name: upload})
                met.add((action, table))
                if answer.status_code >= 500:
                    failed.append(f"{action} {table} {said}: {answer.exc_info[1]!r:.150}")
            # A table of orders is kept until its columns are matched.
            if action != "/orders/import/" and snapshot() != before:
                kept.append(f"{action} {table}")
    assert len(met) >= 14, sorted(map(str, met))
    assert not failed, "\n".join(failed)
    assert not kept, "\n".join(kept)
    # The room goes on.
    assert leads.get("/").status_code == 200
