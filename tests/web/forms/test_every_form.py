"""What every form on every page carries, and what it does when it is sent twice, with one wrong
value, or after the units were switched.
"""

from uuid import uuid4
from zlib import crc32

import pytest
from django.db import transaction

from tempermark.web.kit.forms.once import ONCE_FIELD
from tempermark.web.kit.forms.units import UNITS_FIELD
from tempermark.web.kit.units import IMPERIAL, METRIC
from tests.support import people
from tests.support.forms import fields_of
from tests.support.shop import WITHOUT_KEY, opened, sent, snapshot

pytestmark = [pytest.mark.django_db, pytest.mark.long]


def test_every_form_carries_its_token_its_key_and_its_units(shop):
    found, wrong = 0, []
    for action, form in shop.sent_forms():
        found += 1
        data, needed = fields_of(form), ["csrfmiddlewaretoken"]
        if not WITHOUT_KEY.search(action):
            needed += [ONCE_FIELD, UNITS_FIELD]
        missing = [name for name in needed if not data.get(name)]
        if missing:
            wrong.append(f"{action} lacks {missing}")
    assert found > 50
    assert not wrong, "\n".join(wrong)


def test_every_form_that_is_looked_up_with_figures_carries_its_units(shop):
    """Whatever a page draws otherwise in °F, inches and psi lies in a form that says so."""
    wrong, differ = [], 0
    people.choose(shop.lead, IMPERIAL)
    other_forms = opened(shop.leads, shop.addresses)
    for address, forms in shop.forms.items():
        for one, other in zip(forms, other_forms[address], strict=False):
            first, second = (
                {k: v for k, v in fields_of(f).items() if k != ONCE_FIELD} for f in (one, other)
            )
            for data in (first, second):
                data.pop("csrfmiddlewaretoken", None)
            if {k for k in first if first[k] != second.get(k)} - {UNITS_FIELD}:
                differ += 1
                if (first.get(UNITS_FIELD), second.get(UNITS_FIELD)) != (
                    METRIC.code,
                    IMPERIAL.code,
                ):
                    wrong.append(f"{address}: {sorted(first)[:6]}")
    assert differ >= 12
    assert not wrong, "\n".join(wrong)


def test_a_form_means_what_it_meant_when_it_was_drawn(shop):
    """Drawn in metric units, sent after another tab switched to others: the same is kept."""
    compared, wrong = set(), []
    for action, form in shop.sent_forms():
        if WITHOUT_KEY.search(action):
            continue
        kept = []
        for units in (METRIC, IMPERIAL):
            with transaction.atomic():
                people.choose(shop.lead, units)
                answer = shop.leads.post(action, sent(form, **{ONCE_FIELD: str(uuid4())}))
                held = snapshot()
                # Who reads in which unit, names of rows by their keys, and links: of themselves.
                for name in (
                    "User",
                    "AuditEntry",
                    "Certificate",
                    "CountChange",
                    "PressedPiece",
                    "SignUpLink",
                    "SurveyVersion",
                    "SharedTablet",
                ):
                    held.pop(name)
                kept.append((answer.status_code, held))
                transaction.set_rollback(True)
        if kept[0] != kept[1]:
            wrong.append(f"{action}: {kept[0][0]}, {kept[1][0]}")
        if kept[0][0] in (200, 204, 302):
            compared.add(action)
    assert not wrong, "\n".join(wrong)
    for word in (
        "/readings/",
        "/surveys/new/",
        "/change/",
        "/instruments/",
        "/blanks/",
        "/correct/",
    ):
        assert any(word in action for action in compared), (word, sorted(compared))


# Rows that are records themselves, with who and when, and are never changed: no second entry.
RECORDS = {"Reading", "Pull", "LogEntry"}


def test_several_clicks_are_one(shop):
    made, wrong, before, unrecorded = set(), [], snapshot(), []
    for action, form in shop.sent_forms():
        if WITHOUT_KEY.search(action):
            continue
        data = sent(form)
        with transaction.atomic():
            answers = [shop.leads.post(action, data)]
            first = snapshot()
            answers += [shop.leads.post(action, data) for _ in range(3)]
            if snapshot() != first:
                wrong.append(action)
            changed = {name for name in first if first[name] != before[name]}
            if changed:
                made.add(action)
            if changed - RECORDS and "AuditEntry" not in changed:
                unrecorded.append(f"{action}: {sorted(changed)}")
            if answers[0].status_code < 400:
                said = {(a.status_code, a.get("Location"), a.content) for a in answers}
                assert len(said) == 1, action
            transaction.set_rollback(True)
    assert not wrong, "\n".join(wrong)
    assert not unrecorded, "\n".join(unrecorded)
    assert len(made) > 25, sorted(made)


# What may stand in one field among others that are right.
WRONG = ("-1", "x", "9" * 5000, "1e400", "nan", "9999-12-31T23:59", "a" * 50_000, "\0", "<b>’😀")


def test_one_wrong_value_among_right_ones_is_answered(shop):
    """Fields of every form: refused or taken, never a failure. Each third field meets one of the
    wrong values, its neighbours another one of theirs.
    """
    failed, sent_ones = [], 0
    shop.leads.raise_request_exception = False
    for action, form in shop.sent_forms():
        if WITHOUT_KEY.search(action):
            continue
        data = sent(form)
        fields = sorted(data.keys() - {ONCE_FIELD})
        for name in fields[crc32(action.encode()) % 3 :: 3] or fields:
            wrong = WRONG[crc32(f"{action} {name}".encode()) % len(WRONG)]
            sent_ones += 1
            with transaction.atomic():
                answer = shop.leads.post(action, {**data, name: wrong, ONCE_FIELD: str(uuid4())})
                if answer.status_code >= 500:
                    failed.append(f"{action} {name}: {answer.exc_info[1]!r:.150}")
                transaction.set_rollback(True)
    assert sent_ones > 250
    assert not failed, "\n".join(failed)
