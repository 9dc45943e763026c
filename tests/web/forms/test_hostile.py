"""Bad inputs by the thousand over all forms and imports: nothing fails, nothing is slow, nothing is
half kept, no mark-up comes back as mark-up.
"""

import io
import json
import os
import random
import time
import zipfile
from uuid import uuid4

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction

from tempermark.web.kit.forms.once import ONCE_FIELD
from tests.support.forms import fields_of
from tests.support.pictures import encoded, quartered
from tests.support.shop import WITHOUT_KEY, sent, snapshot

pytestmark = [pytest.mark.django_db, pytest.mark.long]
# All of them by TEMPERMARK_HOSTILE=10000: a quarter of an hour. Each run of the suite tries some
# hundred, the same ones of the same sources.
INPUTS, PARTS = int(os.environ.get("TEMPERMARK_HOSTILE", "300")), 4
LONGEST_S = 5.0
# The kept rows are compared after each so manieth refusal: all of them would take an hour.
LOOKED_AT_EACH = 40
MARKER = "<qx7 onload=steal()>"
PLAIN = (
    "",
    " ",
    "-1",
    "0",
    "1e309",
    "-1e-309",
    "nan",
    "inf",
    "1/0",
    "0x1F",
    "1_000",
    "٣٤",
    "1,5,5",
    "9" * 400,
    "2026-02-30",
    "9999-12-31T23:59",
    "25:61",
    "12 parsecs",
    "\0",
    "a\r\nSet-Cookie: x=1",
    "../../etc/passwd",
    "'; DROP TABLE run_testpress; --",
    "{{ 7 * 7 }}{% debug %}",
    "=cmd|' /C calc'!A1",
    "\u202egnp.exe",
    "😀" * 50,
    "\ud7ff\uffff",
    MARKER,
    f"\"'>{MARKER}",
    f"</textarea>{MARKER}",
    "x" * 70_000,
    "null",
    "[[[[",
    "true",
)


def deep_json():
    return b"[" * 20_000 + b"]" * 20_000


def bomb():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for number in range(30):
            archive.writestr(f"{number}.json", b"0" * 2_000_000)
    return out.getvalue()


PICTURE = encoded(quartered())
FILES = (
    b"",
    b"\0" * 2000,
    PICTURE[: len(PICTURE) // 2],
    PICTURE[:8] + b"\xff" * 3000,
    b"%PDF-1.7\n" + b"1 0 obj\n" * 500,
    f"<svg xmlns='http://www.w3.org/2000/svg' onload='x'>{MARKER}</svg>".encode(),
    b"<?xml version='1.0'?><!DOCTYPE a [<!ENTITY b 'c'>]><svg>&b;</svg>",
    b"x_mm,y_mm,value_c\n" + b"1,2,=1+1\n" * 3000,
    b'x_mm,y_mm\n"unclosed',
    f"reference,due\n{MARKER},2026-01-01\n".encode(),
    json.dumps({"format": "tempermark.survey/1", "readings": [{"x_mm": MARKER}]}).encode(),
    json.dumps({"format": MARKER, "recipe": {"name": MARKER}}).encode(),
    b'{"format": "tempermark.recipe/1", "steps": ' + b"[" * 5000,
    deep_json(),
    bomb(),
    "\ufeff;;;\n".encode("utf-16"),
    bytes(range(256)) * 40,
)


def bad_data(rng, form):
    """What a browser would send of a form, with one to all of its fields wrong."""
    data = sent(form)
    names = sorted(data.keys() - {ONCE_FIELD})
    many = rng.choice((1, 1, 1, 2, 3, len(names) or 1))
    for name in rng.sample(names, min(many, len(names))):
        act = rng.random()
        if act < 0.08:
            del data[name]
        elif act < 0.16:
            data[name] = [rng.choice(PLAIN) for _ in range(rng.choice((2, 30)))]
        else:
            data[name] = mixed(rng)
    if rng.random() < 0.1:
        data[rng.choice(("next", "back", "pk", "__proto__", MARKER))] = mixed(rng)
    for field in form.select("input[type=file][name]"):
        name = rng.choice(("a.csv", "a.json", "a.png", f"{MARKER}.zip", "../a.pdf", "x" * 300))
        content = rng.choice(FILES)
        kind = rng.choice(("text/csv", "image/png", "application/zip", MARKER))
        data[field["name"]] = SimpleUploadedFile(name, content, content_type=kind)
    return data | {ONCE_FIELD: str(uuid4())}


def mixed(rng):
    value = rng.choice(PLAIN)
    return value + rng.choice(PLAIN)[:200] if rng.random() < 0.2 else value


@pytest.mark.parametrize("part", range(PARTS))
def test_bad_inputs_by_the_thousand(shop, part):
    rng = random.Random(f"hostile {part}")
    forms = [(a, f) for a, f in shop.sent_forms() if not WITHOUT_KEY.search(a)]
    forms += [(a, f) for a, f in forms if f.select_one("input[type=file]")] * 4
    shop.leads.raise_request_exception = False
    before, failed, refused, taken = snapshot(), [], 0, 0
    for number in range(INPUTS // PARTS):
        action, form = forms[(number * PARTS + part) % len(forms)]
        data = bad_data(rng, form)
        with transaction.atomic():
            begun = time.perf_counter()
            answer = shop.leads.post(action, data)
            took_s = time.perf_counter() - begun
            refused += answer.status_code >= 400
            taken += answer.status_code < 400
            wrong = faults_of(shop, answer, took_s)
            if answer.status_code >= 400 and refused % LOOKED_AT_EACH == 0:
                wrong += ["half kept"] if snapshot() != before else []
            failed += [f"{action}: {one} {shown(data)}" for one in wrong]
            transaction.set_rollback(True)
    assert not failed, "\n".join(failed[:20])
    # Both happen: inputs that are taken (escaped) and inputs that are refused.
    assert refused > INPUTS / PARTS / 10
    assert taken > INPUTS / PARTS / 10


def faults_of(shop, answer, took_s):
    wrong = []
    if answer.status_code >= 500:
        wrong.append(f"{answer.status_code} {answer.exc_info[1]!r:.200}")
    if took_s > LONGEST_S:
        wrong.append(f"took {took_s:.1f} s")
    if is_marked(answer):
        wrong.append("marker unescaped")
    if answer.status_code == 302 and answer.url.startswith("/"):
        page = shop.leads.get(answer.url)
        if page.status_code >= 500:
            wrong.append(f"then {answer.url}: {page.exc_info[1]!r:.200}")
        elif is_marked(page):
            wrong.append(f"marker unescaped at {answer.url}")
    if "\n" in answer.get("Location", ""):
        wrong.append("a header was split")
    return wrong


def is_marked(answer):
    kind = answer.get("Content-Type", "")
    is_page = "html" in kind or "svg" in kind
    return is_page and not answer.streaming and MARKER.encode() in answer.content


def shown(data):
    return {k: repr(v)[:60] for k, v in data.items() if k != ONCE_FIELD}


def test_the_forms_that_are_tried_have_files_among_them(shop):
    assert sum(bool(f.select_one("input[type=file]")) for _, f in shop.sent_forms()) >= 6
    assert all(fields_of(f) or f.select("button") for _, f in shop.sent_forms())
