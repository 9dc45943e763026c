"""The day band: presses against time, with each change as what it is and the platen's course."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from tempermark.core.planning.day import PlanJob, PlannedRun, PlanPress

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


@dataclass(frozen=True)
class BandJob:
    """What a block says of a stage, and where it leads."""

    label: str
    detail: str
    href: str
    order: str = ""


@dataclass(frozen=True)
class BandChange:
    """A change before a run: heats, cools, pressure, or waits."""

    kind: str
    x: float
    width: float
    title: str


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
    """The drawing: its rows, the hours (x, text), and where now is (None: outside)."""

    rows: list[BandRow]
    hours: list[tuple[float, str]]
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
    return Band(
        rows, _hours(day.begins_at, minutes, scale), now_x, WIDTH, TOP + len(rows) * ROW + 4
    )


def _fill(row: BandRow, day: BandDay, scale: float, degrees: Mapping[float, str]) -> None:
    press = row.press
    points = [(0.0, press.start_c)]
    set_c, pressure, free = press.start_c, press.pressure, press.free_from_min
    for run in (run for run in day.runs if run.press == press.name):
        job = day.jobs[run.job]
        begins = max(run.start_min - run.change_min, free)
        if run.change_min > 0:
            kind = _kind(press, set_c, run, pressure, job.pressure)
            title = _change_title(kind, run, degrees, job.pressure)
            row.changes.append(
                BandChange(kind, LEFT + begins * scale, run.change_min * scale, title)
            )
        points += [(begins, set_c), (run.start_min, run.set_c), (run.end_min, run.set_c)]
        row.runs.append(_block(run, day, scale, degrees))
        set_c, pressure, free = run.set_c, job.pressure, run.end_min
    row.course = " ".join(f"{LEFT + m * scale:.1f},{_level(row.y, c):.1f}" for m, c in points)
    row.degrees = [
        (LEFT + run.start_min * scale + 2, _level(row.y, run.set_c) - 3, degrees[run.set_c])
        for run, before in zip(
            (b.run for b in row.runs), [None, *(b.run for b in row.runs)], strict=False
        )
        if before is None or abs(before.set_c - run.set_c) >= 1
    ]


def _kind(press: PlanPress, from_c: float, run: PlannedRun, was: str, becomes: str) -> str:
    """What takes a change's time."""
    rate = press.heats_c_per_min if run.set_c >= from_c else press.cools_c_per_min
    if was != becomes and abs(run.set_c - from_c) / rate < run.change_min - 1e-6:
        return "pressure"
    return "heats" if run.set_c >= from_c else "cools"


def _change_title(kind: str, run: PlannedRun, degrees: Mapping[float, str], pressure: str) -> str:
    minutes = f"{run.change_min:.0f} min"
    if kind == "pressure":
        return f"to {pressure} pressure, {minutes}"
    return f"{kind} to {degrees[run.set_c]}, {minutes}"


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
    return BandRun(run, said, LEFT + run.start_min * scale, width, words, title, is_late)


def _hours(begins_at: datetime, minutes: float, scale: float) -> list[tuple[float, str]]:
    step = next(s for s in STEPS_H if minutes / 60 / s <= MOST_HOURS or s == STEPS_H[-1])
    midnight = begins_at.replace(hour=0, minute=0, second=0, microsecond=0)
    begins_h = (begins_at - midnight).total_seconds() / 3600
    found = []
    hour = math.ceil(begins_h / step) * step
    while (hour - begins_h) * 60 <= minutes:
        at = midnight + timedelta(hours=hour)
        shown = f"{at:%H:%M}" if at.date() == begins_at.date() else f"{at:%a %H:%M}"
        found.append((LEFT + (hour - begins_h) * 60 * scale, shown))
        hour += step
    return found
