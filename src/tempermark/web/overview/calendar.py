"""Due checks as a calendar feed (iCalendar, RFC 5545)."""

from datetime import date, datetime, timedelta
from typing import Any

from django.contrib.auth import get_user_model
from django.core.signing import BadSignature, Signer
from django.db import transaction
from django.db.models import F, QuerySet
from django.urls import reverse

from tempermark.web.accounts.models import User
from tempermark.web.kit.records.audit import record
from tempermark.web.measure.models import Instrument
from tempermark.web.overview.queries import PressState
from tempermark.web.presses.models import Press

LONGEST_LINE_BYTES = 75
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


def _text(value: str) -> str:
    """Escaped as RFC 5545, 3.3.11 asks."""
    for plain, escaped in (("\\", "\\\\"), (";", "\\;"), (",", "\\,"), ("\n", "\\n")):
        value = value.replace(plain, escaped)
    return value


def _folded(line: str) -> str:
    """Lines of at most 75 bytes, broken between characters (RFC 5545, 3.1)."""
    parts: list[str] = []
    part = ""
    for letter in line:
        if len((part + letter).encode()) > LONGEST_LINE_BYTES - bool(parts):
            parts.append(part)
            part = ""
        part += letter
    return "\r\n ".join([*parts, part])


def _event(uid: str, day: date, summary: str, detail: str, now: datetime) -> list[str]:
    return [
        "BEGIN:VEVENT",
        f"UID:{uid}@tempermark.local",
        f"DTSTAMP:{now:%Y%m%dT%H%M%SZ}",
        f"DTSTART;VALUE=DATE:{day:%Y%m%d}",
        f"DTEND;VALUE=DATE:{day + timedelta(days=1):%Y%m%d}",
        f"SUMMARY:{_text(summary)}",
        f"DESCRIPTION:{_text(detail)}",
        "TRANSP:TRANSPARENT",
        "END:VEVENT",
    ]


def feed(
    entries: list[PressState],
    instruments: QuerySet[Instrument] | list[Any],
    worn: list[tuple[Press, str, date, str]],
    now: datetime,
) -> str:
    """Surveys of presses, checks of instruments, and pads and covers to be changed, by their day.

    `worn` holds (press, part, day, by what); `now` is in UTC.
    """
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Tempermark//due checks//EN"]
    lines.append("X-WR-CALNAME:Tempermark")
    for entry in entries:
        name, state = entry.press.name, entry.state
        day = state.due_on or now.date()
        why = "never measured" if state.due_on is None else f"last surveyed {state.surveyed_on}"
        if state.due_by_trend:
            why += ", sooner because it drifts"
        lines += _event(f"press-{entry.press.pk}", day, f"Survey {name}", why, now)
    for tool in instruments:
        day = tool.due_on or now.date()
        uid = f"instrument-{tool.pk}"
        lines += _event(uid, day, f"Check {tool.name}", tool.get_kind_display(), now)
    for press, part, day, by in worn:
        uid, detail = f"{part}-{press.pk}", f"past its {by} then"
        lines += _event(
            uid, max(day, now.date()), f"Change the {part} of {press.name}", detail, now
        )
    return "\r\n".join(_folded(line) for line in [*lines, "END:VCALENDAR"]) + "\r\n"
