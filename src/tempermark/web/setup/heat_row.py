"""The steps of a recipe in a row on a press: what each does to the blank, and leaves it with."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.pressure.contact import middle_kpa
from tempermark.core.recipes.layers import code_of
from tempermark.core.recipes.steps import MAIN, Sheet, Step
from tempermark.core.recipes.windows import closings
from tempermark.core.thermal import dye, press
from tempermark.core.thermal.conduction import Course, State
from tempermark.core.thermal.in_a_row import Phase, opened, run_phases, state_after
from tempermark.core.thermal.materials import Material
from tempermark.core.thermal.outcome import bond, fluidity
from tempermark.core.thermal.press import Closing
from tempermark.web.setup import heat
from tempermark.web.setup.heat import Asked, Laid

# A step by hand without a time of its own, and an opening between two closings, s. Starting values.
HANDLING_S, REOPENED_S = 15.0, 4.0
# Longer rests change nothing more: the piece is at the room's temperature.
LONGEST_REST_S = 2400.0
LIGHT_KPA = 2.0


@dataclass(frozen=True)
class Stretch:
    """One phase as told: when it begins and ends, the receiving face over it, and what is left."""

    name: str
    begins_s: float
    ends_s: float
    times_s: np.ndarray
    face_c: np.ndarray
    water_g_m2: float
    dose: float
    flow_kpa_s: float
    closed: bool


@dataclass(frozen=True)
class InARow:
    """All stretches, and what the piece gets of them: dye or bond (the other is None)."""

    stretches: list[Stretch]
    dose: float
    density: float | None
    bond: float | None
    imbalance: float
    closings: int


@dataclass(frozen=True)
class _Made:
    """A phase with where its blank is."""

    phase: Phase
    interface: int | None
    blank_at: int | None
    dye_at: int | None
    flows_c: float | None = None


def in_a_row(
    sheet: Sheet,
    school: str,
    asked: Asked,
    library: Mapping[str, Material],
    timer_max_s: float | None,
) -> InARow | None:
    """The heated steps of a recipe one after the other; None where there is only one closing.

    The main press is as asked; other steps take the middles of their windows.
    """
    made = _phases(sheet, school, asked, library, timer_max_s)
    if len(made) < 2:
        return None
    courses = run_phases([m.phase for m in made])
    stretches, clock = [], 0.0
    share = heat.receiving_share(asked.blank, asked.stack)
    for one, course in zip(made, courses, strict=True):
        if one.phase.meanwhile:
            continue
        stretch = _told(one, course, clock, asked.law)
        stretches.append(stretch)
        clock = stretch.ends_s
    dose = sum(stretch.dose for stretch in stretches)
    flow = sum(stretch.flow_kpa_s for stretch in stretches)
    dyes = any(m.dye_at is not None for m in made)
    films = any(m.flows_c is not None for m in made)
    return InARow(
        stretches,
        dose,
        float(dye.density(dose, share)) if dyes else None,
        float(bond(flow)) if films else None,
        max(float(np.abs(course.imbalance).max()) for course in courses),
        sum(s.closed and s.name == MAIN for s in stretches),
    )


def state_before(
    sheet: Sheet, school: str, asked: Asked, library: Mapping[str, Material]
) -> State | None:
    """How the main press's cells begin after the heated steps before it; None without any."""
    until = Sheet("", sheet.method, sheet.blank_kind, sheet.steps[: sheet.steps.index(sheet.main)])
    before = _phases(until, school, asked, library, None)
    laid = heat.lay(asked, library)
    if not before or not laid.layers:
        return None
    waits = sum(_by_hand_s(step) for step in _since_heated(until.steps))
    before += _resting(before, min(waits, LONGEST_REST_S)) if waits else []
    keys = tuple(_key(laid, i, len(until.steps), code) for i, code in _codes(laid))
    return state_after([m.phase for m in before], heat.closing_of(asked, laid), keys)


def _since_heated(steps: tuple[Step, ...]) -> list[Step]:
    """Steps by hand after the last heated one."""
    last = max((n for n, step in enumerate(steps) if step.is_heated and step.stack), default=-1)
    return [step for step in steps[last + 1 :] if not step.is_heated]


def has_steps_before(sheet: Sheet) -> bool:
    """Whether heated steps come before the main press."""
    before = sheet.steps[: sheet.steps.index(sheet.main)]
    return any(step.is_heated and step.stack for step in before)


def _phases(sheet: Sheet, school: str, asked: Asked, library, timer_max_s) -> list[_Made]:
    made: list[_Made] = []
    waits = 0.0
    for number, step in enumerate(sheet.steps):
        if not (step.is_heated and step.stack):
            waits += _by_hand_s(step)
            continue
        own = _asked_for(step, sheet, school, asked)
        laid = heat.lay(own, library)
        if not laid.layers:
            continue
        if made and waits:
            made += _resting(made, min(waits, LONGEST_REST_S))
        waits = 0.0
        made += _closed(own, laid, number, timer_max_s, made, library)
    return made


def _by_hand_s(step: Step) -> float:
    return sum(step.time_s) / 2 if step.time_s else HANDLING_S


def _asked_for(step: Step, sheet: Sheet, school: str, asked: Asked) -> Asked:
    """What is asked of one step: the main press as it stands, others by their windows."""
    if step.kind == MAIN and step == sheet.main:
        return replace(asked, step=sheet.main_by(school))
    warm = sum(step.temperature_c) / 2 if step.temperature_c else asked.true_c
    dwell = sum(step.time_s) / 2 if step.time_s else asked.dwell_s
    kpa = middle_kpa(step.pressure) if step.pressure else LIGHT_KPA
    return replace(asked, step=step, stack=step.stack, true_c=warm, dwell_s=dwell, kpa=kpa)


def _closed(
    asked: Asked, laid: Laid, number: int, timer_max_s, before: list[_Made], library
) -> list[_Made]:
    """A step's closings, split over the timer's ceiling where it is the main press."""
    closing = heat.closing_of(asked, laid)
    keys = tuple(_key(laid, i, number, library_code) for i, library_code in _codes(laid))
    is_main = asked.step.kind == MAIN
    parts = closings(asked.dwell_s, timer_max_s if is_main else None)
    dye_at = laid.interface if heat.is_dyeing(asked, laid) else None
    flows_c = None if laid.interface is None else heat.piece_of(asked, laid, library).flows_c
    made = []
    for turn, seconds in enumerate(parts):
        if turn:
            open_too = opened(closing, heat.ROOM_C, REOPENED_S)
            at = None if laid.interface is None else laid.interface + 1
            blank_at = None if laid.blank_at is None else laid.blank_at + 1
            phase = Phase("open", open_too, ("air", *keys))
            # The transfer lies loose meanwhile: no dye passes.
            made.append(_Made(phase, at, blank_at, None))
        phase = Phase(asked.step.name, replace(closing, time_s=seconds), keys)
        made.append(_Made(phase, laid.interface, laid.blank_at, dye_at, flows_c))
    if laid.blank_at is None:
        # The blank lies elsewhere and cools meanwhile.
        made += [replace(m, phase=replace(m.phase, meanwhile=True)) for m in _beside(before, parts)]
    return made


def _beside(before: list[_Made], parts: list[float]) -> list[_Made]:
    return _resting(before, sum(parts)) if before else []


def _resting(before: list[_Made], seconds: float) -> list[_Made]:
    """The blank and what lies under it, open, after the last phase that held it."""
    last = next((m for m in reversed(before) if m.blank_at is not None), None)
    if last is None or last.blank_at is None:
        return []
    closing = last.phase.closing
    lying = opened(closing, heat.ROOM_C, seconds, last.blank_at)
    keys = ("air", *last.phase.keys[last.blank_at :])
    return [_Made(Phase("open", lying, keys), 0, 1, None)]


def _codes(laid: Laid):
    return enumerate(code_of(entry) for entry in laid.entries)


def _key(laid: Laid, at: int, number: int, code: str) -> str:
    """Which thing a layer is: the blank, pads and the transfer stay; sheets are fresh each step."""
    if at == laid.blank_at:
        return "blank"
    if code in heat.PADS or code in heat.TRANSFERS:
        return code
    return f"{number}:{at}"


def _told(made: _Made, course: Course, clock: float, law: dye.Law) -> Stretch:
    closing: Closing = made.phase.closing
    at = made.interface if made.interface is not None else 0
    water = float(course.water_left.sum() * 1e3)
    if made.blank_at is not None:
        cells = press.cells_of(closing)
        span = slice(cells.first[made.blank_at], cells.last[made.blank_at] + 1)
        water = float(course.water_left[0, span].sum() * 1e3)
    dose = 0.0
    if made.dye_at is not None:
        dose = float(press.over_time(course, law.at, made.dye_at)[0])
    flow = 0.0
    if made.flows_c is not None and made.interface is not None and closing.pressure_kpa is not None:
        fluid = press.over_time(course, fluidity(made.flows_c), made.interface)
        flow = float(closing.pressure_kpa[0] * fluid[0])
    return Stretch(
        made.phase.name,
        clock,
        clock + closing.time_s,
        course.time_s,
        course.below_c[:, 0, at],
        water,
        dose,
        flow,
        made.phase.name != "open",
    )
