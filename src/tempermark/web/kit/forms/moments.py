"""Days and moments from outside, read in one place: never before 2000, never after now."""

from datetime import date, datetime, timedelta
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils import timezone
from django.utils.dateparse import parse_datetime

from tempermark.core.days import EARLIEST_YEAR
from tempermark.core.errors import InputError

# Clocks of a room differ by so much at most; what they tell is taken as it is.
TYPED_FORMAT = "%Y-%m-%dT%H:%M:%S"
CLOCK_SKEW = timedelta(minutes=10)


def fault_of_moment(moment: datetime) -> str:
    """Why nothing can have happened then; empty where it can."""
    if moment.year < EARLIEST_YEAR:
        return f"{moment:%Y-%m-%d} is before {EARLIEST_YEAR}: check the year."
    if moment > timezone.now() + CLOCK_SKEW:
        return f"{moment:%Y-%m-%d %H:%M} has not come yet: check the date and the clock."
    return ""


def fault_of_day(day: date) -> str:
    """Why nothing can have happened on a day; empty where it can."""
    if day.year < EARLIEST_YEAR:
        return f"{day:%Y-%m-%d} is before {EARLIEST_YEAR}: check the year."
    if day > timezone.localdate(timezone.now() + CLOCK_SKEW):
        return f"{day:%Y-%m-%d} has not come yet."
    return ""


def read_moment(text: str | None, path: str | None = None) -> datetime | None:
    """The moment an ISO 8601 text names, in the room's zone where it names none; None for no text.

    Errors: `InputError` for what is no moment, or one that cannot have been.
    """
    if not text:
        return None
    try:
        moment = parse_datetime(text)
        if moment is not None and timezone.is_naive(moment):
            moment = timezone.make_aware(moment)
        fault = fault_of_moment(moment) if moment is not None else None
    except (ValueError, OverflowError):
        fault = None
    if fault is None:
        raise InputError.single(
            path, f"“{text[:40]}” is not a date and time like 2026-11-20T09:30.", "out_of_range"
        )
    if fault:
        raise InputError.single(path, fault, "out_of_range")
    return moment


class MomentField(forms.DateTimeField):
    """When something happened."""

    def __init__(self, **kwargs: Any) -> None:
        attrs = {"type": "datetime-local", "step": "1"}
        kwargs.setdefault("widget", forms.DateTimeInput(attrs=attrs, format=TYPED_FORMAT))
        super().__init__(**kwargs)

    def prepare_value(self, value: datetime | str | None) -> str:
        """The moment in the room's zone, to the second, as a browser types it."""
        shown = super().prepare_value(value)
        return shown if shown is None or isinstance(shown, str) else f"{shown:{TYPED_FORMAT}}"

    def clean(self, value: str | None) -> datetime:
        """The moment, refused where it cannot have been."""
        try:
            moment = super().clean(value)
        except OverflowError:
            raise ValidationError(self.error_messages["invalid"], code="invalid") from None
        if moment is not None and (fault := fault_of_moment(moment)):
            raise ValidationError(fault, code="out_of_range")
        return moment


class DayField(forms.DateField):
    """The day something happened."""

    def clean(self, value: str | None) -> date:
        """The day, refused where it cannot have been."""
        day = super().clean(value)
        if day is not None and (fault := fault_of_day(day)):
            raise ValidationError(fault, code="out_of_range")
        return day
