"""What is known of pressure as tables: sessions at knobs, contact readings, raised parts."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django import forms
from django.db import transaction

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.forms import tables
from tempermark.web.kit.forms.moments import MomentField
from tempermark.web.presses.models import Press
from tempermark.web.pressure import actions
from tempermark.web.pressure.forms import MOST_SHIMS, RaisedForm
from tempermark.web.pressure.models import ContactReading, KnobLesson, Means, RaisedPart
from tempermark.web.recipes.models import Blank


def _press() -> "forms.ModelChoiceField[Any]":
    return forms.ModelChoiceField(queryset=Press.objects.all(), to_field_name="name")


class LessonRow(forms.Form):
    """A session at a knob: what it teaches is learned anew."""

    press = _press()
    at = MomentField()
    shims = forms.CharField(max_length=400)

    def clean_shims(self) -> list[list[float]]:
        """`0:2 1:2.75 4:5.25` as pairs of mm and turns clockwise."""
        pairs = tables.pairs(self.cleaned_data["shims"], "mm:turns, like 1:2.75")
        if len(pairs) > MOST_SHIMS:
            raise forms.ValidationError(f"{len(pairs)} shims: at most {MOST_SHIMS}.")
        return pairs


class ReadingRow(forms.Form):
    """A contact pressure."""

    press = _press()
    at = MomentField()
    means = forms.ChoiceField(choices=Means.choices)
    contact_kpa = forms.FloatField(min_value=0.5, max_value=2000)
    figure = forms.FloatField(min_value=0.5, max_value=12, required=False)
    position_turns = forms.FloatField(min_value=-200, max_value=200, required=False)
    stack_mm = forms.FloatField(min_value=0, max_value=200, required=False)


class RaisedRow(RaisedForm):
    """A raised part of a blank."""

    blank = forms.ModelChoiceField(queryset=Blank.objects.all(), to_field_name="name")


@dataclass(frozen=True)
class Table:
    """One table out and in: its format, its rows' form, the rows, and how a row is added."""

    FORMAT: str
    KEY: str
    form: type[forms.Form]
    rows_of: Callable[[], list[dict[str, Any]]]
    add: Callable[[User, dict[str, Any]], Any]

    @property
    def COLUMNS(self) -> tuple[str, ...]:  # noqa: N802  (as the tables made of modules)
        """Names of its columns."""
        return tuple(self.form.base_fields)

    def rows(self) -> list[dict[str, Any]]:
        """Every row."""
        return self.rows_of()

    @transaction.atomic
    def take_in(self, user: User, raw: bytes) -> str:
        """Add the rows of a file, whole or not at all; one that is there already stays."""
        must_work(user)
        given = tables.read_rows(raw, self.FORMAT, self.KEY, self.COLUMNS)
        clean = tables.checked(given, self.form, self.COLUMNS)
        added = 0
        for row, fields in zip(given, clean, strict=True):
            try:
                added += bool(self.add(user, fields))
            except InputError as error:
                raise InputError.single(row.where, f"{row.where}: {error}") from None
        return f"{added} rows added, {len(given) - added} were there already."


def _lesson_rows() -> list[dict[str, Any]]:
    found = KnobLesson.objects.filter(withdrawn_at=None).select_related("press").order_by("at")
    return [
        {
            "press": it.press.name,
            "at": it.at.isoformat(),
            "shims": " ".join(f"{mm:.10g}:{turns:.10g}" for mm, turns in it.shims),
        }
        for it in found
    ]


def _add_lesson(user: User, fields: dict[str, Any]) -> bool:
    press, at = fields["press"], fields["at"]
    if KnobLesson.objects.filter(press=press, at=at).exists():
        return False
    lesson = actions.learn(user, press, fields["shims"])
    KnobLesson.objects.filter(pk=lesson.pk).update(at=at)
    return True


def _reading_rows() -> list[dict[str, Any]]:
    found = ContactReading.objects.filter(withdrawn_at=None).select_related("press").order_by("at")
    names = ("means", "contact_kpa", "figure", "position_turns", "stack_mm")
    return [
        {"press": it.press.name, "at": it.at.isoformat()} | {n: getattr(it, n) for n in names}
        for it in found
    ]


def _add_reading(user: User, fields: dict[str, Any]) -> bool:
    same = ContactReading.objects.filter(press=fields["press"], at=fields["at"])
    if same.filter(contact_kpa=fields["contact_kpa"]).exists():
        return False
    given = dict(fields)
    actions.add_reading(user, given.pop("press"), given)
    return True


def _raised_rows() -> list[dict[str, Any]]:
    names = tuple(RaisedForm.base_fields)
    found = RaisedPart.objects.select_related("blank").order_by("blank__name", "pk")
    return [{"blank": it.blank.name} | {n: getattr(it, n) for n in names} for it in found]


def _add_raised(user: User, fields: dict[str, Any]) -> bool:
    if RaisedPart.objects.filter(**fields).exists():
        return False
    given = dict(fields)
    actions.add_raised(user, given.pop("blank"), given)
    return True


KNOBS = Table("tempermark.knobs/1", "sessions", LessonRow, _lesson_rows, _add_lesson)
CONTACTS = Table("tempermark.contacts/1", "readings", ReadingRow, _reading_rows, _add_reading)
RAISED = Table("tempermark.raised/1", "parts", RaisedRow, _raised_rows, _add_raised)
