"""The day band: presses against time, with each change as what it is and the platen's course."""

import math
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from tempermark.core.planning.day import PlanJob, PlannedRun, PlanPress, swaps
from tempermark.core.planning.duty import Hands

WIDTH, LEFT, RIGHT = 1200.0, 124.0, 8.0
TOP, ROW, RUNS, COURSE = 26.0, 96.0, 40.0, 34.0
LEAST_MINUTES = 60.0
# So many hours are named along the top.
MOST_HOURS = 10
STEPS_H = (0.25, 0.5, 1, 2, 3, 6, 12, 24)
# The platen's course is drawn between these, °C.
LOW_C, HIGH_C = 20.0, 240.0
# A block of fewer units has no room for words.
ROOM_FOR_WORDS, CHARACTER = 44.0, 6.9
# An hour's words reach so far to each side.
HALF_HOUR_LABEL = 36.0


@dataclass(frozen=True)
class BandJob:
    """What a block says of a stage, and where it leads."""

    label: str
    detail: str
    href: str
    order: str = ""


@dataclass(frozen=True)
class BandChange:
    """A change before a run: heats, cools, pressure, cover or element; it may end anywhere from
    ``early_x`` to ``late_x``.
    """

    kind: str
    x: float
    width: float
    title: str
    early_x: float
    late_x: float


@dataclass(frozen=True)
class BandRun:
    """A run's block."""

    run: PlannedRun
    job: BandJob
    x: float
    width: float
    words: str
    title: str
    is_late: bool
    is_done: bool = False

    @property
    def middle(self) -> float:
        """Where its middle lies."""
        return self.x + self.width / 2


@dataclass
class BandRow:
    """A press's row."""

    press: PlanPress
    name: str
    y: float
    runs: list[BandRun] = field(default_factory=list)
    changes: list[BandChange] = field(default_factory=list)
    course: str = ""
    degrees: list[tuple[float, float, str]] = field(default_factory=list)
    note: str = ""


@dataclass(frozen=True)
class Band:
    """The drawing: its rows, the hours (x, text), when nobody is there (x, width, text), and where
    now is (None: outside).
    """

    rows: list[BandRow]
    hours: list[tuple[float, str]]
    empty: list[tuple[float, float, str]]
    now_x: float | None
    width: float
    height: float


@dataclass(frozen=True)
class BandDay:
    """What is drawn: presses with their names and notes, stages, runs, what the blocks say."""

    begins_at: datetime
    presses: Sequence[PlanPress]
    names: Mapping[str, str]
    notes: Mapping[str, str]
    jobs: Mapping[str, PlanJob]
    said: Mapping[str, BandJob]
    runs: Sequence[PlannedRun]
    within: Mapping[str, Sequence[float]]
    hands: Hands | None
    done: Set[str] = frozenset()


def _known_between(
    change_min: float, kind: str, within: Sequence[float]
) -> tuple[float, float] | None:
    """The minutes between which a change lies, by how well the platen's rates are known; None for
    one of hands or of an element.
    """
    if kind in ("pressure", "cover", "element"):
        return None
    factor = within[0 if kind == "heats" else 1]
    return change_min / factor, change_min * factor


def draw(day: BandDay, now: datetime, degrees: Mapping[float, str]) -> Band:
    """The band of a day; ``degrees``: each setting in °C in its reader's words."""
    ends = max((run.end_min for run in day.runs), default=0.0)
    minutes = max(ends, LEAST_MINUTES) * 1.02
    scale = (WIDTH - LEFT - RIGHT) / minutes
    rows = []
    for number, press in enumerate(day.presses):
        row = BandRow(press, day.names[press.name], TOP + number * ROW)
        row.note = day.notes.get(press.name, "")
        _fill(row, day, scale, degrees)
        rows.append(row)
    elapsed = (now - day.begins_at).total_seconds() / 60
    now_x = LEFT + elapsed * scale if 0 <= elapsed <= minutes else None
    hours, empty = _hours(day.begins_at, minutes, scale), _empty(day, minutes, scale)
    return Band(rows, hours, empty, now_x, WIDTH, TOP + len(rows) * ROW + 4)


def _fill(row: BandRow, day: BandDay, scale: float, degrees: Mapping[float, str]) -> None:
    press = row.press
    points = [(0.0, press.start_c)]
    set_c, before, free = press.start_c, None, press.free_from_min
    for run in (run for run in day.runs if run.press == press.name):
        job = day.jobs[run.job]
        begins = max(run.start_min - run.change_min, free)
        if run.change_min > 0:
            kind = _change_kind(press, set_c, before, job, run)
            between = _known_between(run.change_min, kind, day.within.get(press.name, (1.0, 1.0)))
            title = _change_title(kind, run, degrees, job.pressure, between)
            least, most = between or (run.change_min, run.change_min)
            x = LEFT + begins * scale
            width = run.change_min * scale
            row.changes.append(
                BandChange(kind, x, width, title, x + least * scale, x + most * scale)
            )
        points += [(begins, set_c), (run.start_min, run.set_c), (run.end_min, run.set_c)]
        row.runs.append(_block(run, day, scale, degrees))
        set_c, before, free = run.set_c, job, run.end_min
    row.course = " ".join(f"{LEFT + m * scale:.1f},{_level(row.y, c):.1f}" for m, c in points)
    row.degrees = [
        (LEFT + run.start_min * scale + 2, _level(row.y, run.set_c) - 3, degrees[run.set_c])
        for run, before in zip(
            (b.run for b in row.runs), [None, *(b.run for b in row.runs)], strict=False
        )
        if before is None or abs(before.set_c - run.set_c) >= 1
    ]


def _change_kind(
    press: PlanPress, from_c: float, before: PlanJob | None, job: PlanJob, run: PlannedRun
) -> str:
    """What takes a change's time."""
    if swaps(press, before, job):
        return "element"
    here: PlanPress | PlanJob = press if before is None else before
    rate = press.heats_c_per_min if run.set_c >= from_c else press.cools_c_per_min
    if abs(run.set_c - from_c) / rate < run.change_min - 1e-6:
        return "pressure" if here.pressure != job.pressure else "cover"
    return "heats" if run.set_c >= from_c else "cools"


def _change_title(
    kind: str,
    run: PlannedRun,
    degrees: Mapping[float, str],
    pressure: str,
    between: tuple[float, float] | None,
) -> str:
    minutes = f"{run.change_min:.0f} min"
    if kind == "element":
        return f"another element is fitted: cool, unplug, exchange, heat, {minutes}"
    if kind == "cover":
        return f"another cover, {minutes}"
    if between is None:
        return f"to {pressure} pressure, {minutes}"
    known = f" ({between[0]:.0f} to {between[1]:.0f})" if round(between[1] - between[0]) else ""
    return f"{kind} to {degrees[run.set_c]}, {minutes}{known}"


def _empty(day: BandDay, minutes: float, scale: float) -> list[tuple[float, float, str]]:
    """When nobody is there."""
    if day.hands is None:
        return []
    spans = [(pause.from_min, pause.to_min) for pause in day.hands.pauses]
    if day.hands.opens_min > 0:
        spans.insert(0, (0.0, day.hands.opens_min))
    found = []
    for begins, ends in spans:
        if begins < minutes:
            times = " to ".join(
                f"{day.begins_at + timedelta(minutes=m):%H:%M}" for m in (begins, ends)
            )
            width = (min(ends, minutes) - begins) * scale
            found.append((LEFT + begins * scale, width, f"nobody there, {times}"))
    return found


def _level(y: float, set_c: float) -> float:
    share = (min(max(set_c, LOW_C), HIGH_C) - LOW_C) / (HIGH_C - LOW_C)
    return y + RUNS + 6 + COURSE * (1 - share)


def _block(run: PlannedRun, day: BandDay, scale: float, degrees: Mapping[float, str]) -> BandRun:
    said, due = day.said[run.job], day.jobs[run.job].due_min
    width = (run.end_min - run.start_min) * scale
    words = said.label
    if len(words) * CHARACTER > width - 8:
        words = said.order if len(said.order) * CHARACTER <= width - 8 else ""
    is_late = due is not None and run.end_min > due
    times = " to ".join(
        f"{day.begins_at + timedelta(minutes=m):%H:%M}" for m in (run.start_min, run.end_min)
    )
    late = f", {run.end_min - due:.0f} min late" if due is not None and is_late else ""
    title = f"{said.label}, {said.detail}: {times} at {degrees[run.set_c]}{late}"
    x, is_done = LEFT + run.start_min * scale, run.job in day.done
    return BandRun(run, said, x, width, words, title, is_late, is_done)


def _hours(begins_at: datetime, minutes: float, scale: float) -> list[tuple[float, str]]:
    step = next(s for s in STEPS_H if minutes / 60 / s <= MOST_HOURS or s == STEPS_H[-1])
    midnight = begins_at.replace(hour=0, minute=0, second=0, microsecond=0)
    begins_h = (begins_at - midnight).total_seconds() / 3600
    found = []
    hour = math.ceil(begins_h / step) * step
    while (hour - begins_h) * 60 <= minutes:
        at = midnight + timedelta(hours=hour)
        shown = f"{at:%H:%M}" if at.date() == begins_at.date() else f"{at:%a %H:%M}"
        x = LEFT + (hour - begins_h) * 60 * scale
        if x <= WIDTH - HALF_HOUR_LABEL:
            found.append((x, shown))
        hour += step
    return found
