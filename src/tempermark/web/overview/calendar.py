"""Due checks as a calendar feed (iCalendar, RFC 5545)."""

from datetime import date, datetime, timedelta
from typing import Any

from django.contrib.auth import get_user_model
from django.core.signing import BadSignature, Signer
from django.db import transaction
from django.db.models import F, QuerySet
from django.urls import reverse
from icalendar import Calendar, Event

from tempermark.web.accounts.models import User
from tempermark.web.kit.records.audit import record
from tempermark.web.measure.models import Instrument
from tempermark.web.overview.queries import PressState
from tempermark.web.presses.models import Press

# Names the signature, so that a token of another purpose opens nothing here.
SALT = "tempermark.due-checks"


def feed_path(user: User) -> str:
    """The path a calendar may subscribe to: signed for this person, until they make a new one."""
    token = Signer(salt=SALT).sign_object([user.pk, user.calendar_version])
    return reverse("overview:feed", args=[token])


def person_of(token: str) -> User | None:
    """Whose feed a token is; None when it is not, or no longer, good."""
    try:
        pk, version = Signer(salt=SALT).unsign_object(token)
    except (BadSignature, ValueError, TypeError):
        return None
    people = get_user_model().objects.filter(is_active=True)
    return people.filter(pk=pk, calendar_version=version).first()


@transaction.atomic
def new_feed(user: User) -> None:
    """Another address; the old one opens nothing from now on."""
    get_user_model().objects.filter(pk=user.pk).update(calendar_version=F("calendar_version") + 1)
    record(user, "made new calendar address", user)


def _event(uid: str, day: date, summary: str, detail: str, now: datetime) -> Event:
    """A whole day that blocks nobody's time."""
    event = Event()
    event.add("uid", f"{uid}@tempermark.local")
    event.add("dtstamp", now)
    event.add("dtstart", day)
    event.add("dtend", day + timedelta(days=1))
    event.add("summary", summary)
    event.add("description", detail)
    event.add("transp", "TRANSPARENT")
    return event


def feed(
    entries: list[PressState],
    instruments: QuerySet[Instrument] | list[Any],
    worn: list[tuple[Press, str, date, str]],
    now: datetime,
) -> str:
    """Surveys of presses, checks of instruments, and pads and covers to be changed, by their day.

    `worn` holds (press, part, day, by what); `now` is in UTC.
    """
    calendar = Calendar()
    calendar.add("version", "2.0")
    calendar.add("prodid", "-//Tempermark//due checks//EN")
    calendar.add("x-wr-calname", "Tempermark")
    for entry in entries:
        name, state = entry.press.name, entry.state
        day = state.due_on or now.date()
        why = "never surveyed" if state.due_on is None else f"last surveyed {state.surveyed_on}"
        if state.due_by_trend:
            why += ", early because it drifts"
        uid = f"press-{entry.press.pk}"
        calendar.add_component(_event(uid, day, f"Survey {name}", why, now))
    for tool in instruments:
        day, kind = tool.due_on or now.date(), tool.get_kind_display()
        calendar.add_component(
            _event(f"instrument-{tool.pk}", day, f"Check {tool.name}", kind, now)
        )
    for press, part, day, by in worn:
        last, what = max(day, now.date()), f"Change the {part} of {press.name}"
        calendar.add_component(_event(f"{part}-{press.pk}", last, what, f"past its {by} then", now))
    return calendar.to_ical().decode()
