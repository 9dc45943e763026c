"""A case's rows into the core's case: what the application already knows, and answers."""

from dataclasses import dataclass, replace
from typing import Any

from tempermark.core.diagnosis.case import (
    Actual,
    Case,
    CaseArt,
    CaseBlank,
    CasePress,
    CaseWindow,
    CheckDone,
    MapAtPrint,
    Observation,
    WorkedBefore,
)
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.recipes.steps import School
from tempermark.web.measure.press.history import SurveyHistory
from tempermark.web.measure.surveys.results import printable_part
from tempermark.web.measure.surveys.words import rectangle_mm
from tempermark.web.pressure.mapping import knob_of
from tempermark.web.pressure.maps.under import PressureUnder, pressure_under
from tempermark.web.recipes.blanks.core import material_of
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import RecipeVersion
from tempermark.web.run.models import Mark, TestPress
from tempermark.web.run.pieces import queries as runs
from tempermark.web.run.pieces.queries import UnderArt
from tempermark.web.trace.board.evidence import LastGood, UnderTransfer, last_good, under_transfer
from tempermark.web.trace.board.queries import same_marks
from tempermark.web.trace.facts.sourced import SourcedFacts, sourced_facts
from tempermark.web.trace.models import CheckRecord, FaultCase

# Pad readings and maps agree at best to this (standard, K).
LEAST_UNCERTAINTY_C = 0.5


@dataclass(frozen=True)
class BuiltCase:
    """A case for the engine, and what was computed for it: heat under the art and the transfer, the
    last good piece, pressure, facts that hold and that are computed not to, each with where it came
    from, and marks of the same kinds on other pieces.
    """

    case: Case
    under: UnderArt | None
    through: UnderTransfer | None
    pressed: PressureUnder
    facts: SourcedFacts
    last: LastGood | None
    others: list[Mark]


def build_case(case: FaultCase) -> BuiltCase:
    """Everything the application knows and computes about a case."""
    piece = case.test_press
    history = SurveyHistory(piece.element)
    under = runs.under_art(piece, history)
    pressed = pressure_of(piece)
    through = under_transfer(piece, under)
    last = last_good(piece, history)
    others = same_marks(piece, case.closed_at)
    facts = sourced_facts(case, pressed, others, last.piece if last else None)
    built = Case(
        method=piece.recipe.recipe.method,
        observations=(
            *(
                Observation(m.symptom, m.where, m.when, m.severity)
                for m in piece.marks.all()
                if m.symptom not in case.set_aside
            ),
            *(Observation(symptom) for symptom in case.also_seen),
        ),
        not_seen=frozenset(case.not_seen),
        press=_press(piece, under, pressed),
        blank=_blank(piece),
        recipe=_window(piece),
        actual=replace(
            _actual(piece, under, pressed),
            heat_through=through.share if through else None,
            effective_s=through.effective_s if through else None,
        ),
        worked_before=_worked(last),
        map_at_print=_map(under, history, _traced(case)),
        art=CaseArt(piece.art_width_mm, piece.art_height_mm),
        ambient_c=piece.room_c,
        relative_humidity=piece.relative_humidity,
        facts=frozenset(facts.held),
        not_facts=frozenset({*piece.not_facts, *case.not_facts, *facts.denied}),
        checks_done=tuple(
            done
            for record in case.checks.filter(taken_back_at=None)
            for done in checks_done(record)
        ),
    )
    whole = _with_figures(built, case.figures)
    return BuiltCase(whole, under, through, pressed, facts, last, others)


def pressure_of(piece: TestPress) -> PressureUnder:
    """What a pressure map of then tells of the piece's place."""
    art = (piece.art_x_mm, piece.art_y_mm, piece.art_width_mm, piece.art_height_mm)
    return pressure_under(piece.element, art, piece.pressed_at)


def _press(piece: TestPress, under: UnderArt | None, pressed: PressureUnder) -> CasePress:
    press = piece.element.press
    knob = knob_of(press, piece.pressed_at)
    return CasePress(
        kind=press.kind,
        name=press.name,
        timer_max_s=press.timer_max_s,
        gain=under.gain if under else 1.0,
        resolution_c=press.resolution_c,
        lift_mm_per_turn=knob.lift_mm_per_turn if knob else press.lift_mm_per_turn,
        tightens=knob.tightens if knob else press.tightens or None,
        thickness_when_set_mm=pressed.thickness_mm,
    )


def _blank(piece: TestPress) -> CaseBlank:
    blank = piece.blank
    return CaseBlank(
        kind=blank.kind,
        polyester=blank.polyester,
        colour=blank.colour or None,
        coating=blank.coating or None,
        features=tuple(blank.features),
        width_mm=blank.width_mm,
        height_mm=blank.height_mm,
        thickness_mm=blank.thickness_mm,
        material=material_of(blank, shop_materials()),
    )


def _window(piece: TestPress) -> CaseWindow:
    version, step = piece.recipe, piece.pressed_step
    if piece.step_number is not None:
        times = (step.low_s, step.high_s)
        return CaseWindow(
            (step.low_c, step.high_c), times, step.pressure or None, step.peel or None
        )
    lower = next((s for s in version.sheet.schools if _is_lower(s, version)), None)
    return CaseWindow(
        (version.low_c, version.high_c),
        (version.low_s, version.high_s),
        version.pressure,
        version.peel or None,
        lower.temperature_c if lower else None,
        lower.time_s if lower else None,
    )


def _is_lower(school: School, version: RecipeVersion) -> bool:
    """Whether a school comes out like the main press at a lower temperature."""
    warm = school.temperature_c
    return (
        school.equal_dose and school.time_s is not None and bool(warm and warm[0] < version.low_c)
    )


def _actual(piece: TestPress, under: UnderArt | None, pressed: PressureUnder) -> Actual:
    return Actual(
        set_c=piece.set_c,
        measured_c=round(under.mean_c, 1) if under else None,
        measured_uncertainty_c=max(LEAST_UNCERTAINTY_C, under.standard_uncertainty_c)
        if under
        else 0.0,
        time_s=piece.dwell_s,
        closures=piece.closures,
        # What a map measured there leads over what was felt.
        pressure=pressed.name or (piece.pressure if piece.pressure != "unknown" else None),
        peel=piece.peel or None,
    )


def _worked(last: LastGood | None) -> WorkedBefore:
    """The last good piece's setting; its true temperature where a survey held."""
    if last is None:
        return WorkedBefore()
    true_c = round(last.under.mean_c, 1) if last.under else None
    pressure = last.piece.pressure if last.piece.pressure != "unknown" else None
    return WorkedBefore(true_c, last.piece.dwell_s, pressure)


def _traced(case: FaultCase) -> set[int]:
    """Marks of a case that are traced, by their key."""
    return {m.pk for m in case.test_press.marks.all() if m.symptom not in case.set_aside}


def _map(under: UnderArt | None, history: SurveyHistory, traced: set[int]) -> MapAtPrint:
    if under is None:
        return MapAtPrint()
    at_mark = _telling_mark(under, traced)
    part = printable_part(history.computed(under.survey))
    return MapAtPrint(
        at_mark_c=round(at_mark[0], 1) if at_mark else None,
        at_mark_uncertainty_c=at_mark[1] if at_mark else 0.0,
        coolest_c=round(under.coolest_c, 1),
        hottest_c=round(under.hottest_c, 1),
        surveyed=f"{under.survey.taken_at.day} {under.survey.taken_at:%B}",
        usable_mm=rectangle_mm(part) if part else None,
    )


def _telling_mark(under: UnderArt, traced: set[int]) -> tuple[float, float] | None:
    """The mark whose place is farthest from the print's mean: it tells most."""
    known = [value for pk, value in under.at_mark.items() if pk in traced]
    return max(known, key=lambda v: abs(v[0] - under.mean_c), default=None)


def _with_figures(case: Case, figures: dict[str, Any]) -> Case:
    """Answers in numbers lead over what was computed."""
    for about, value in figures.items():
        part, _, name = about.partition(".")
        case = replace(case, **{part: replace(getattr(case, part), **{name: value})})
        if about == "actual.measured_c":
            case = replace(case, actual=replace(case.actual, measured_uncertainty_c=1.0))
    return case


def checks_done(record: CheckRecord) -> list[CheckDone]:
    """A recorded outcome as results for every cause that the check speaks on."""
    check = shipped().checks[record.check_code]
    found = []
    for outcome in check.outcomes:
        for cause in outcome.causes:
            if record.unclear:
                result = "unclear"
            else:
                result = "confirms" if outcome.label == record.outcome else "excludes"
            found.append(CheckDone(check.code, result, cause))
    confirmed = {d.cause for d in found if d.result == "confirms"}
    return [d for d in found if d.result == "confirms" or d.cause not in confirmed]
