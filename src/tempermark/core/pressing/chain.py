"""A recipe's heated steps one after the other: what each does to the blank and leaves it with.

One chain serves every page: the main press begins as the steps before left its layers.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tempermark.core.pressing.closing import PressResult, closing_of, result_of
from tempermark.core.pressing.layout import PADS, StackLayout, build_layout
from tempermark.core.pressing.request import RESTING_KPA, ROOM_C, PressRequest
from tempermark.core.pressure.press.contact import middle_kpa
from tempermark.core.recipes.layers import code_of
from tempermark.core.recipes.stack_rules import TRANSFERS
from tempermark.core.recipes.steps import MAIN, RecipeStep, Sheet
from tempermark.core.recipes.windows import closings
from tempermark.core.thermal.library.materials import Library, Material, materials
from tempermark.core.thermal.result.outcome import Reached, outcome
from tempermark.core.thermal.solver import closing as press
from tempermark.core.thermal.solver.conduction import HeatCourse, HeatState
from tempermark.core.thermal.solver.in_a_row import Phase, opened, run_with_pasts, state_after

# A step by hand without a time of its own, and an opening between two closings, s. Starting values.
HANDLING_S, REOPENED_S = 15.0, 4.0
# Longer rests change nothing more: the piece is at the room's temperature.
LONGEST_REST_S = 2400.0
# What adds up over the closings of one press; the rest is as the last closing leaves it.
ADDED = ("uptake", "flow_kpa_s", "flows_s", "scorch", "migration", "dents")


@dataclass(frozen=True)
class Stretch:
    """One phase: when it begins and ends, the receiving face over it, and what is left in g/m² of
    the blank's water. `is_main` for closings of the main press.
    """

    name: str
    begins_s: float
    ends_s: float
    times_s: np.ndarray
    face_c: np.ndarray
    water_g_m2: float
    closed: bool
    is_main: bool

    @property
    def starts_c(self) -> float:
        """The face at its beginning, °C."""
        return float(self.face_c[0])

    @property
    def ends_c(self) -> float:
        """The face at its end, °C."""
        return float(self.face_c[-1])


@dataclass(frozen=True)
class Chain:
    """All stretches; the main press as a whole (None where nothing receives it), what later heated
    steps add to it, and how well energy balances.
    """

    stretches: list[Stretch]
    main: PressResult | None
    whole: PressResult | None
    imbalance: float

    @property
    def closings(self) -> int:
        """Closings of the main press."""
        return sum(stretch.is_main and stretch.closed for stretch in self.stretches)

    @property
    def starts_c(self) -> float | None:
        """What the receiving face begins the main press at, °C."""
        first = next((s for s in self.stretches if s.is_main), None)
        return None if first is None else first.starts_c

    @property
    def has_steps_before(self) -> bool:
        """Whether a heated step came before the main press."""
        return bool(self.stretches) and not self.stretches[0].is_main


@dataclass(frozen=True)
class _Planned:
    """A phase with the request it came from and where its blank is."""

    phase: Phase
    request: PressRequest
    layout: StackLayout
    interface: int | None
    blank_at: int | None
    closed: bool
    is_main: bool


def press_chain(
    sheet: Sheet,
    school: str,
    request: PressRequest,
    library: Mapping[str, Material] | None = None,
    timer_max_s: float | None = None,
    steps_before: bool = True,
) -> Chain:
    """A recipe's heated steps in a row; the main press as requested, the others at the middles of
    their windows. A timer with a ceiling splits the main press.
    """
    library = library or materials()
    planned = _plan(sheet, school, request, library, timer_max_s, steps_before)
    runs = run_with_pasts([p.phase for p in planned])
    courses = [course for _, course in runs]
    planned = [
        replace(p, phase=replace(p.phase, closing=closing))
        for p, (closing, _) in zip(planned, runs, strict=True)
    ]
    stretches, clock = [], 0.0
    for one, course in zip(planned, courses, strict=True):
        if not one.phase.meanwhile:
            stretches.append(_stretch(one, course, clock))
            clock = stretches[-1].ends_s
    pairs = list(zip(planned, courses, strict=True))
    main = _result([(p, c) for p, c in pairs if p.is_main and p.closed], library)
    if main is not None and main.closing.time_s < request.dwell_s:
        # Drawn as one dwell, with what its closings give.
        whole = press_chain(sheet, school, request, library, None, steps_before).main
        main = whole and replace(whole, reached=main.reached, outcome=main.outcome)
    return Chain(
        stretches,
        main,
        _result([(p, c) for p, c in pairs if p.closed and _prints(p)], library),
        max((float(np.abs(c.imbalance).max()) for c in courses), default=0.0),
    )


def state_before(
    sheet: Sheet, school: str, request: PressRequest, library: Mapping[str, Material] | None = None
) -> HeatState | None:
    """How the main press's cells begin after the heated steps before it; None without any."""
    library = library or materials()
    planned = _plan(sheet, school, request, library, None, True)
    first = next((n for n, p in enumerate(planned) if p.is_main), None)
    if not first:
        return None
    main = planned[first].phase
    return state_after([p.phase for p in planned[:first]], main.closing, main.keys)


def has_steps_before(sheet: Sheet) -> bool:
    """Whether heated steps come before the main press."""
    before = sheet.steps[: sheet.steps.index(sheet.main)]
    return any(step.is_heated and step.stack for step in before)


def _plan(
    sheet: Sheet,
    school: str,
    request: PressRequest,
    library: Library | dict[str, Material],
    timer_max_s: float | None,
    steps_before: bool,
) -> list[_Planned]:
    planned: list[_Planned] = []
    waits = 0.0
    main_at = sheet.steps.index(sheet.main)
    for number, step in enumerate(sheet.steps):
        if number < main_at and not steps_before:
            continue
        if not (step.is_heated and step.stack):
            waits += sum(step.time_s) / 2 if step.time_s else HANDLING_S
            continue
        own = _request_for(step, sheet, school, request)
        layout = build_layout(own, library)
        if len(layout.layers) < 2:
            continue
        if planned and waits:
            planned += _resting(planned, min(waits, LONGEST_REST_S))
        waits = 0.0
        limit = timer_max_s if number == main_at else None
        planned += _closed(own, layout, number, limit, planned, number == main_at)
    return planned


def _request_for(
    step: RecipeStep, sheet: Sheet, school: str, request: PressRequest
) -> PressRequest:
    """What one step is pressed with: the main press as it stands, others by their windows."""
    if step == sheet.main:
        return replace(request, step=sheet.main_by(school))
    warm = sum(step.temperature_c) / 2 if step.temperature_c else request.true_c
    dwell = sum(step.time_s) / 2 if step.time_s else request.dwell_s
    kpa = middle_kpa(step.pressure) if step.pressure else RESTING_KPA
    return replace(request, step=step, stack=step.stack, true_c=warm, dwell_s=dwell, kpa=kpa)


def _closed(
    request: PressRequest,
    layout: StackLayout,
    number: int,
    timer_max_s: float | None,
    before: list[Any],
    is_main: bool,
) -> list[_Planned]:
    """A step's closings, split over the timer's ceiling."""
    closing = closing_of(request, layout)
    keys = tuple(_key(layout, i, number, code) for i, code in _codes(layout))
    parts = closings(request.dwell_s, timer_max_s)
    at, blank_at = layout.interface, layout.blank_at
    planned = []
    for turn, seconds in enumerate(parts):
        if turn:
            open_too = opened(closing, ROOM_C, REOPENED_S)
            phase = Phase("open", open_too, ("air", *keys))
            # The transfer lies loose meanwhile: nothing passes and nothing flows.
            planned.append(
                _Planned(phase, request, layout, _below(at), _below(blank_at), False, is_main)
            )
        phase = Phase(request.step.name, replace(closing, time_s=seconds), keys)
        planned.append(_Planned(phase, request, layout, at, blank_at, True, is_main))
    if blank_at is None and before:
        # The blank lies elsewhere and cools meanwhile.
        beside = _resting(before, sum(parts))
        planned += [replace(p, phase=replace(p.phase, meanwhile=True)) for p in beside]
    return planned


def _below(at: int | None) -> int | None:
    """A layer's number with air above the stack."""
    return None if at is None else at + 1


def _resting(before: list[_Planned], seconds: float) -> list[_Planned]:
    """The blank and what lies under it, open, after the last phase that held it."""
    last = next((p for p in reversed(before) if p.blank_at is not None), None)
    if last is None or last.blank_at is None:
        return []
    lying = opened(last.phase.closing, ROOM_C, seconds, last.blank_at)
    keys = ("air", *last.phase.keys[last.blank_at :])
    phase = Phase("open", lying, keys)
    return [_Planned(phase, last.request, last.layout, 0, 1, False, False)]


def _codes(layout: StackLayout) -> Iterator[Any]:
    return enumerate(code_of(entry) for entry in layout.entries)


def _key(layout: StackLayout, at: int, number: int, code: str) -> str:
    """Which thing a layer is: the blank, pads and the transfer stay; sheets are fresh each step."""
    if at == layout.blank_at:
        return "blank"
    if code in PADS or code in TRANSFERS:
        return code
    return f"{number}:{at}"


def _prints(planned: _Planned) -> bool:
    return planned.request.step.kind in (MAIN, "second_press") or planned.is_main


def _result(
    parts: list[tuple[_Planned, HeatCourse]], library: Library | dict[str, Material]
) -> PressResult | None:
    """Closings of one print as one result: what adds up is added, the rest is as the last leaves
    it, the course that of the first.
    """
    parts = [(p, c) for p, c in parts if p.layout.interface is not None]
    if not parts:
        return None
    results = [
        result_of(p.request, p.layout, p.phase.closing, course, library) for p, course in parts
    ]
    first = results[0]
    if len(results) == 1:
        return first
    reached_values = _added([r.reached for r in results])
    kpa = np.array([first.request.kpa])
    return replace(
        first,
        reached=reached_values,
        outcome=outcome(reached_values, first.piece, kpa),
        course=first.course,
    )


def _added(parts: list[Reached]) -> Reached:
    last = parts[-1]
    sums = {name: np.sum([getattr(p, name) for p in parts], axis=0) for name in ADDED}
    hottest = np.max([p.hottest_c for p in parts], axis=0)
    return replace(last, hottest_c=hottest, **sums)


def _stretch(planned: _Planned, course: HeatCourse, clock: float) -> Stretch:
    closing = planned.phase.closing
    at = planned.interface if planned.interface is not None else 0
    water = float(course.water_left.sum() * 1e3)
    if planned.blank_at is not None:
        cells = press.cells_of(closing)
        span = slice(cells.first[planned.blank_at], cells.last[planned.blank_at] + 1)
        water = float(course.water_left[0, span].sum() * 1e3)
    return Stretch(
        planned.phase.name,
        clock,
        clock + closing.time_s,
        course.time_s,
        course.below_c[:, 0, at],
        water,
        planned.closed,
        planned.is_main,
    )
