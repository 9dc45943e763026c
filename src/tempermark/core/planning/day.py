"""A day to be planned: its presses, its jobs, and a plan of it. Times in minutes of the day.

Source of the rules: formats/commands.md, “plan”.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tempermark.core.planning.duty import Hands
from tempermark.core.preparing.heat.changeover import RATE_AT_EXCESS_K
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES

SECONDS_PER_MINUTE = 60.0
MM2_PER_M2 = 1e6
# An element is cool enough to be taken out at this; to unplug, exchange and plug takes so long.
# Starting values.
TOUCH_C, SWAP_MIN = 45.0, 10.0
# A cover is exchanged for another, laid on or taken off, within this. Starting value.
COVER_MIN = 1.0


@dataclass(frozen=True)
class SpareElement:
    """An element in store that can be fitted to a press in place of the one that is in it."""

    name: str
    width_mm: float
    height_mm: float


@dataclass(frozen=True)
class PlanPress:
    """A press as it stands when the plan begins: its platen's true temperature and its pressure,
    how fast the platen goes up and down, how long one step of pressure takes. ``free_from_min``:
    it is not there before. ``cover`` lies on it; empty: none.
    """

    name: str
    kind: str
    width_mm: float
    height_mm: float
    start_c: float
    heats_c_per_min: float
    cools_c_per_min: float
    pressure: str
    pressure_step_s: float
    free_from_min: float = 0.0
    whole_mm2: float | None = None
    spares: tuple[SpareElement, ...] = ()
    cover: str = ""

    @property
    def platen_m2(self) -> float:
        """All that is heated, m²; the size above may be its usable part alone."""
        whole = self.width_mm * self.height_mm if self.whole_mm2 is None else self.whole_mm2
        return whole / MM2_PER_M2


@dataclass(frozen=True)
class AfterJob:
    """A job may begin so many minutes after another one ended: drying, cooling, resting."""

    job: str
    minutes: float = 0.0


@dataclass(frozen=True)
class PlanJob:
    """So many pieces at one setting within a window of true temperature, from low to high °C.

    ``press_kinds`` and ``presses`` limit where it may run; None: anywhere. ``behind`` names the job
    that it follows on its press; empty: it begins its press, for it is under way or somebody wants
    it so. ``was_on`` is its press in the plan before. ``spare_on``: press and the spare element
    that it takes there.
    """

    name: str
    quantity: int
    per_load: int
    low_c: float
    high_c: float
    dwell_s: float
    handling_s: float
    pressure: str
    width_mm: float
    height_mm: float
    press_kinds: frozenset[str] | None = None
    due_min: float | None = None
    presses: frozenset[str] | None = None
    release_min: float = 0.0
    after: tuple[AfterJob, ...] = ()
    behind: str | None = None
    was_on: str | None = None
    spare_on: tuple[tuple[str, str], ...] = ()
    cover: str = ""

    def element_on(self, press: str) -> str:
        """The element that it is pressed with on a press; empty: the one that is fitted."""
        return dict(self.spare_on).get(press, "")

    @property
    def loads(self) -> int:
        """How often the press is closed."""
        return math.ceil(self.quantity / self.per_load)

    @property
    def run_min(self) -> float:
        """Minutes (min) of the run, without the change before it."""
        return self.loads * (self.dwell_s + self.handling_s) / SECONDS_PER_MINUTE


@dataclass(frozen=True)
class PlannedRun:
    """A job on a press at a setting: it begins after its change."""

    job: str
    press: str
    set_c: float
    change_min: float
    start_min: float
    end_min: float


@dataclass(frozen=True)
class DayPlan:
    """Runs in the order of their start; ``unplaced`` are jobs that no press takes, with why.

    No plan can end before ``lower_bound_min`` (or, for lateness, be less late than that);
    ``is_proved``: this one is the best, to a tenth of a second.
    """

    runs: tuple[PlannedRun, ...]
    unplaced: tuple[tuple[str, str], ...]
    makespan_min: float
    lateness_min: float
    lower_bound_min: float
    is_proved: bool

    def on(self, press: str) -> list[PlannedRun]:
        """What runs on a press, in order."""
        return [run for run in self.runs if run.press == press]


@dataclass(frozen=True)
class SequencedDay:
    """Jobs in order on each press, by names; the hands that tend them, None for as many as are
    needed, and the jobs in the order in which hands go to them (empty: as their presses are ready).
    """

    presses: Mapping[str, PlanPress]
    jobs: Mapping[str, PlanJob]
    order: Mapping[str, Sequence[str]]
    hands: Hands | None = None
    wanted: Sequence[str] = ()


def thermal_minutes(press: PlanPress, from_c: float, to_c: float) -> float:
    """Minutes (min) in which a platen goes from one setting in °C to another."""
    rate = press.heats_c_per_min if to_c >= from_c else press.cools_c_per_min
    return abs(to_c - from_c) / rate


def swaps(press: PlanPress, before: PlanJob | None, job: PlanJob) -> bool:
    """Whether the element is exchanged before a job; before None: from the press as it stands."""
    fitted = "" if before is None else before.element_on(press.name)
    return job.element_on(press.name) != fitted


def swap_minutes(press: PlanPress, before: PlanJob | None) -> float:
    """Minutes (min) to cool to the touch and exchange the element: Newton's cooling from the top of
    the window before, at the press's rate near working heat.
    """
    from_c = press.start_c if before is None else before.high_c
    if from_c <= TOUCH_C:
        return SWAP_MIN
    lasting_min = RATE_AT_EXCESS_K / press.cools_c_per_min
    return lasting_min * math.log((from_c - ROOM_C) / (TOUCH_C - ROOM_C)) + SWAP_MIN


def hands_minutes(press: PlanPress, before: PlanJob | None, job: PlanJob) -> float:
    """Minutes (min) of hands before a job while the platen changes: steps of pressure, then the
    cover; before None: from the press as it stands.
    """
    here: PlanPress | PlanJob = press if before is None else before
    steps = abs(PRESSURE_CLASSES.index(job.pressure) - PRESSURE_CLASSES.index(here.pressure))
    cover_min = COVER_MIN if job.cover != here.cover else 0.0
    return steps * press.pressure_step_s / SECONDS_PER_MINUTE + cover_min


def change_between(
    press: PlanPress, before: PlanJob | None, from_c: float, job: PlanJob, to_c: float
) -> float:
    """Minutes (min) from a job at one setting in °C to another at its own, platen and hands side by
    side; before None: from the press as it stands.
    """
    by_hand = hands_minutes(press, before, job)
    if not swaps(press, before, job):
        return max(thermal_minutes(press, from_c, to_c), by_hand)
    heats = max(to_c - ROOM_C, 0.0) / press.heats_c_per_min
    return max(swap_minutes(press, before) + heats, by_hand)


def least_change_minutes(press: PlanPress, before: PlanJob | None, job: PlanJob) -> float:
    """The least that a change can take, min, whatever is set within both windows; before None: from
    the press as it stands.
    """
    low_c, high_c = (press.start_c,) * 2 if before is None else (before.low_c, before.high_c)
    if job.low_c > high_c:
        ends = high_c, job.low_c
    elif job.high_c < low_c:
        ends = low_c, job.high_c
    else:
        ends = job.low_c, job.low_c
    if swaps(press, before, job):
        ends = ends[0], job.low_c
    return change_between(press, before, ends[0], job, ends[1])


def order_of(presses: Sequence[PlanPress], runs: Sequence[PlannedRun]) -> dict[str, list[str]]:
    """The jobs on each press in order, by names."""
    return {
        press.name: [
            run.job
            for run in sorted(runs, key=lambda run: run.start_min)
            if run.press == press.name
        ]
        for press in presses
    }
