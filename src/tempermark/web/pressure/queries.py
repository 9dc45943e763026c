"""Reading what is known of a press's pressure."""

from datetime import date, datetime, timedelta
from functools import partial
from typing import Any

from django.db.models import F, Prefetch, Q, QuerySet
from django.utils import timezone

from tempermark.core.pressure.press.wear import PACE_DAYS, USUAL_LIFE, Life, life
from tempermark.web.accounts.models import User
from tempermark.web.presses.history import map_since
from tempermark.web.presses.models import Element, ElementRole, Press
from tempermark.web.pressure.models import (
    ContactReading,
    KnobLesson,
    LeanReading,
    PressureState,
    PressureSurvey,
    Pull,
    WearingPart,
    WearNote,
)
from tempermark.web.run.counts.counting import CLOSINGS
from tempermark.web.run.counts.reading import Counts


def lesson(press: Press, when: datetime | None = None) -> KnobLesson | None:
    """The knob's session that holds, now or at a moment: the newest that stands."""
    found = press.knob_lessons.select_related("by")
    return (found if when is None else found.filter(at__lte=when)).first()


def lean(press: Press, user: User) -> LeanReading | None:
    """How a person leans on a hand plate, as a scale showed it; None while nobody read it."""
    return LeanReading.objects.filter(press=press, by=user, withdrawn_at=None).first()


def contact_readings(press: Press) -> QuerySet[ContactReading]:
    """Contact readings that count, newest first."""
    readings = ContactReading.objects.filter(press=press, withdrawn_at=None)
    return readings.select_related("by")


def state(press: Press, when: datetime | None = None) -> PressureState | None:
    """How the press stands now, or stood at a moment."""
    states = press.pressure_states.filter(taken_back_at=None)
    if when is not None:
        states = states.filter(at__lte=when)
    return states.select_related("blank", "by").first()


def states(press: Press) -> QuerySet[PressureState]:
    """Every setting noted, newest first."""
    return press.pressure_states.filter(taken_back_at=None).select_related("blank", "by")


def stations(survey: PressureSurvey) -> list[Any]:
    """Stations in order; `held` is the pull that counts there, or None."""
    live = Pull.objects.filter(taken_back_at=None).order_by("-pk")
    found = list(survey.stations.prefetch_related(Prefetch("pulls", live, to_attr="live")))
    for station in found:
        station.held = station.live[0] if station.live else None
    return found


def last_pull(survey: PressureSurvey, user: User) -> Pull | None:
    """The last live pull this person entered."""
    pulls = Pull.objects.filter(station__survey=survey, taken_back_at=None, by=user)
    return pulls.select_related("station").order_by("-pk").first()


def surveys(element: Element) -> QuerySet[PressureSurvey]:
    """Finished pressure surveys of an element, newest first."""
    found = PressureSurvey.objects.filter(element=element).exclude(finished_at=None)
    return found.select_related("element__press", "taken_by", "blank")


def of_press(press: Press) -> QuerySet[PressureSurvey]:
    """Pressure surveys on any element of a press, open ones leading."""
    found = PressureSurvey.objects.filter(element__press=press)
    return found.select_related("element__press", "taken_by", "blank")


def latest(element: Element, when: datetime | None = None) -> PressureSurvey | None:
    """The newest finished pressure survey that describes the element at a moment (now)."""
    found = surveys(element)
    if when is not None:
        found = found.filter(taken_at__lte=when)
    since = map_since(element, when)
    return (found if since is None else found.filter(taken_at__gte=since)).first()


def newest_maps() -> dict[int, PressureSurvey]:
    """The newest pressure survey that describes each element now, by the element's key."""
    holding = Q(element__map_since=None) | Q(taken_at__gte=F("element__map_since"))
    rows = (
        PressureSurvey.objects.exclude(finished_at=None)
        .filter(holding)
        .order_by("element_id", "-taken_at", "-pk")
        .distinct("element_id")
    )
    return {row.element_id: row for row in rows}


def set_since(press: Press, moment: datetime, until: datetime) -> bool:
    """Whether the press was set anew between two moments."""
    states = press.pressure_states.filter(taken_back_at=None)
    return states.filter(at__gt=moment, at__lte=until).exists()


def sleeves() -> QuerySet[Element]:
    """Every sleeve of the shop with known diameters, in a press or in store."""
    return (
        Element.objects.filter(role=ElementRole.SLEEVE)
        .exclude(Q(top_diameter_mm=None) & Q(bottom_diameter_mm=None))
        .select_related("press")
        .order_by("press__place", "pk")
    )


def closings(
    press: Press, part: str, since: date | None, recent: date, counts: Counts | None = None
) -> tuple[int, int]:
    """Closings since a pad or cover was fitted, and those since a day of late.

    Logged pieces count on their day. Closings that were only noted are spread evenly over the
    days back to the note before, or to when the part was fitted.
    """
    counts = counts or Counts()
    elements = {"element": {element.pk for element in press.elements.all()}}
    notes = WearNote.objects.filter(press=press, part=part, closings__gt=0).order_by("at", "pk")
    if since is not None:
        notes = notes.filter(at__date__gte=since)
    of_day = partial(counts.sums, CLOSINGS, (), elements)
    total = sum(row["closings"] for row in of_day(since).values())
    late = sum(row["closings"] for row in of_day(recent).values())
    begun, spread = since, 0.0
    for note in notes:
        day = timezone.localdate(note.at)
        days = max((day - (begun or day)).days, 1)
        spread += note.closings * min(max((day - recent).days, 0), days) / days
        total, begun = total + note.closings, day
    return total, late + round(spread)


def wear(
    press: Press, part: str, today: date | None = None, counts: Counts | None = None
) -> Life | None:
    """The life of a press's pad or cover; None where it has none."""
    today = today or timezone.localdate()
    kind = press.pad if part == "pad" else press.cover
    if kind in ("", "none"):
        return None
    since = press.pad_since if part == "pad" else press.cover_since
    usual_closings, usual_days = USUAL_LIFE[kind]
    own = press.pad_life_closings if part == "pad" else press.cover_life_closings
    recent = today - timedelta(days=PACE_DAYS)
    total, late = closings(press, part, since, max(since, recent) if since else recent, counts)
    return life(
        since,
        total,
        late,
        today,
        own or usual_closings,
        usual_days,
        _hardened(press, part, since),
    )


def worn() -> list[tuple[Press, str, date, str]]:
    """Pads and covers with the day they are to be changed, and by what."""
    counts = Counts()
    lives = (
        (press, part.value, wear(press, part.value, counts=counts))
        for press in Press.objects.prefetch_related("elements")
        for part in WearingPart
    )
    return [
        (press, part, life.due_on, life.by)
        for press, part, life in lives
        if life is not None and life.due_on is not None
    ]


def _hardened(press: Press, part: str, since: date | None) -> float | None:
    """Points of Shore 00 gained since the first note after it was fitted."""
    notes = WearNote.objects.filter(press=press, part=part).exclude(hardness=None)
    if since is not None:
        notes = notes.filter(at__date__gte=since)
    noted = list(notes.order_by("at").values_list("hardness", flat=True))
    return noted[-1] - noted[0] if len(noted) > 1 else None


def wear_notes(press: Press) -> QuerySet[WearNote]:
    """Notes on pad and cover, newest first."""
    return WearNote.objects.filter(press=press).select_related("by")
