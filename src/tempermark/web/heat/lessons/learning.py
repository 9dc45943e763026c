"""What the shop's scored pieces and traces teach, and what of it was accepted and holds."""

from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache

import numpy as np

from tempermark.core.pressing.closing import PressResult, closing_of, receiver_of
from tempermark.core.pressing.layout import build_layout
from tempermark.core.pressing.request import (
    ROOM_C,
    USUAL_HUMIDITY,
    PressRequest,
    main_request,
)
from tempermark.core.pressure.press.contact import middle_kpa
from tempermark.core.recipes.steps import MAIN
from tempermark.core.thermal.library.receivers import BARE, Receiver, receiver_code, receivers
from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.dye import LawKnown
from tempermark.core.thermal.result.learn import (
    HeatTaught,
    Taught,
    ThermocoupleTrace,
    Trial,
    teach_heat,
    teach_law,
)
from tempermark.core.thermal.solver import closing as press
from tempermark.core.vocabulary.methods import DYE_METHODS
from tempermark.web.heat.models import HEAT_SUBJECT, Lesson, StackTrace
from tempermark.web.heat.simulate import pressing
from tempermark.web.heat.simulate.on_press import on_element, true_under
from tempermark.web.measure.press.history import SurveyHistory
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.core import core_blank, material_of
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials
from tempermark.web.recipes.models import Blank
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces.queries import under_art

# So many of the newest pieces teach a surface; a page waits for them.
MOST_PIECES = 40
KEPT_LESSONS = 32
# A rate off by so many of its own standard deviations is news, and so is one known to less than
# this share of what it was.
NEWS_SDS, SURER_SHARE = 0.5, 0.6


def surfaces() -> list[str]:
    """Surfaces that a shop's pieces can teach."""
    return [code for code in receivers() if code != BARE]


def holding(subject: str) -> Lesson | None:
    """The lesson of a subject that holds."""
    return Lesson.objects.filter(subject=subject, withdrawn_at=None).first()


def surface_of(blank: Blank, stack: tuple[str, ...], library: ShopLibrary) -> str:
    """The surface that receives the dye."""
    return receiver_code(blank.kind, blank.coating, material_of(blank, library), stack)


def law_of(receiver: Receiver, lesson: Lesson | None) -> tuple[dye.Law, LawKnown]:
    """The law a lesson holds; the surface's starting law without one."""
    if lesson is None:
        return receiver.law, receiver.known
    held = lesson.values
    law = dye.Law(held["rate_per_s"], held["activation_j_mol"])
    known = LawKnown(held["rate_share"], held["activation_sd_j_mol"], held["correlation"])
    return law, known


def with_lessons(request: PressRequest) -> PressRequest:
    """What is requested, with all that the shop has learned."""
    receiver = receiver_of(request)
    lesson = holding(receiver.code)
    request = _with_heat(request)
    if lesson is None:
        return request
    law, known = law_of(receiver, lesson)
    return replace(request, law=law, law_known=known)


def _with_heat(request: PressRequest) -> PressRequest:
    lesson = holding(HEAT_SUBJECT)
    if lesson is None:
        return request
    held = lesson.values
    return replace(
        request, contact_factor=held["contact_factor"], sheet_factor=held["sheet_factor"]
    )


@dataclass(frozen=True)
class LearnedSurface:
    """What a surface's pieces would teach; `taught` is None without a piece that can."""

    receiver: Receiver
    taught: Taught | None
    pieces: list[TestPress]
    lesson: Lesson | None

    @property
    def surface(self) -> str:
        """The surface's code."""
        return self.receiver.code

    @property
    def label(self) -> str:
        """The surface as people read it."""
        return f"dye on {self.receiver.label}"

    @property
    def changes(self) -> list[tuple[TestPress, float, float]]:
        """The newest piece of each recipe, with its density before and after."""
        if self.taught is None:
            return []
        summary = zip(self.pieces, self.taught.before, self.taught.after, strict=True)
        newest: dict[int, tuple[TestPress, float, float]] = {}
        for piece, before, after in summary:
            newest.setdefault(piece.recipe.recipe_id, (piece, float(before), float(after)))
        return list(newest.values())

    @property
    def is_news(self) -> bool:
        """Whether the pieces say what matters and is not in use: another rate, or one known much
        better.
        """
        if self.taught is None:
            return False
        law, known = law_of(self.receiver, self.lesson)
        off = abs(np.log(self.taught.law.rate_per_s / law.rate_per_s))
        surer = self.taught.known.rate_share < SURER_SHARE * known.rate_share
        return bool(off > NEWS_SDS * known.rate_share or surer)


def surface_of_piece(piece: TestPress) -> str:
    """The surface that a logged piece speaks about."""
    return surface_of(piece.blank, piece.pressed_stack, shop_materials())


def law_values(taught: Taught) -> dict[str, float]:
    """A law as a lesson stores it."""
    return {
        "rate_per_s": taught.law.rate_per_s,
        "activation_j_mol": taught.law.activation_j_mol,
        "rate_share": taught.known.rate_share,
        "activation_sd_j_mol": taught.known.activation_j_mol,
        "correlation": taught.known.correlation,
    }


def learned(surface: str, until: datetime | None = None) -> LearnedSurface:
    """What the scored pieces of a surface teach, all of them against its starting law; only those
    pressed `until` a moment where one is given.
    """
    return learned_of(surface, trials_by_surface(until).get(surface, []))


def learned_of(surface: str, pairs: list[tuple[TestPress, Trial]]) -> LearnedSurface:
    """What some pieces of a surface teach."""
    receiver = receivers()[surface]
    taught = None
    if pairs:
        taught = _taught(tuple(trial for _, trial in pairs), receiver.law, receiver.known)
    return LearnedSurface(receiver, taught, [piece for piece, _ in pairs], holding(surface))


@lru_cache(maxsize=KEPT_LESSONS)
def _taught(trials: tuple[Trial, ...], law: dye.Law, known: LawKnown) -> Taught:
    """The same pieces teach the same."""
    return teach_law(list(trials), law, known)


def trials_by_surface(
    until: datetime | None = None,
) -> dict[str, list[tuple[TestPress, Trial]]]:
    """Scored pieces whose true temperature is known, newest first, by their surface."""
    scored = (
        TestPress.objects.filter(recipe__recipe__method__in=DYE_METHODS, step_number=None)
        .exclude(scores={}, density=None)
        .select_related("element__press", "recipe__recipe", "blank")
        .prefetch_related("marks")
    )
    if until is not None:
        scored = scored.filter(pressed_at__lte=until)
    found: dict[str, list[tuple[TestPress, Trial]]] = {}
    library, histories = shop_materials(), Histories()
    for piece in scored[: MOST_PIECES * len(receivers())]:
        of_surface = found.setdefault(surface_of(piece.blank, piece.pressed_stack, library), [])
        if len(of_surface) == MOST_PIECES:
            continue
        trial = _trial(piece, library, histories)
        if trial is not None:
            of_surface.append((piece, trial))
    return {surface: pairs for surface, pairs in found.items() if pairs and surface != BARE}


class Histories(dict[int, SurveyHistory]):
    """Surveys of the elements that pieces were pressed on, each element's read once."""

    def of(self, element: Element) -> SurveyHistory:
        """Those of an element."""
        if element.pk not in self:
            self[element.pk] = SurveyHistory(element)
        return self[element.pk]


def _trial(piece: TestPress, library: ShopLibrary, histories: Histories) -> Trial | None:
    score = piece.scores.get("black")
    if not score and piece.density is None:
        return None
    under = under_art(piece, histories.of(piece.element))
    if under is None:
        return None
    pressed = pressed_piece(piece, round(under.mean_c, 1), library)
    if pressed is None or not pressed.is_dye or pressed.piece.share == 0:
        return None
    return Trial(
        pressed.course,
        pressed.interface,
        pressed.piece.share,
        score,
        piece.density,
        f"survey {under.survey.pk}",
        under.standard_uncertainty_c,
    )


def pressed_piece(
    piece: TestPress,
    true_c: float,
    library: ShopLibrary,
    stack: tuple[str, ...] = (),
    lessons: bool = False,
) -> PressResult:
    """What the heat did to a logged piece at a true temperature, by the surface's starting law or
    with the shop's `lessons`; None where nothing receives it.

    Steps before count unless it was noted that the blank was not pre-pressed.
    """
    sheet = piece.recipe.sheet
    request = piece_request(piece, true_c, library, stack)
    request = with_lessons(request) if lessons else _with_heat(request)
    before = "blank_not_prepressed" not in piece.facts
    return pressing.chain_of(sheet, "", request, library, None, before).main


def piece_request(
    piece: TestPress, true_c: float, library: ShopLibrary, stack: tuple[str, ...] = ()
) -> PressRequest:
    """A logged piece as the core presses it again."""
    sheet = piece.recipe.sheet
    humidity = piece.relative_humidity
    request = main_request(
        sheet,
        core_blank(piece.blank, library),
        true_c=true_c,
        dwell_s=piece.dwell_s,
        kpa=middle_kpa(piece.pressure if piece.pressure != "unknown" else sheet.main.pressure),
        humidity=USUAL_HUMIDITY if humidity is None else humidity,
    )
    request = replace(request, stack=stack or piece.pressed_stack)
    return on_element(request, piece.element)


def trace_request(trace: StackTrace, library: ShopLibrary) -> PressRequest:
    """What was pressed when a trace was taken, at the true temperature of then."""
    sheet = trace.recipe.sheet
    true_c, _ = true_under(trace.element, trace.set_c, trace.at)
    request = main_request(
        sheet,
        core_blank(trace.blank, library),
        true_c=true_c,
        dwell_s=max(trace.time_s),
        kpa=trace.contact_kpa,
        humidity=trace.relative_humidity,
        # A probe lies in a cold stack, under a plate that is held.
        pad_c=ROOM_C,
        dips=False,
    )
    return replace(request, step=replace(sheet.main, kind=MAIN))


def _core_trace(trace: StackTrace, library: ShopLibrary) -> ThermocoupleTrace | None:
    request = trace_request(trace, library)
    layout = build_layout(request, library)
    at = layout.interface
    if at is None:
        return None
    if trace.under_blank:
        below = layout.blank_at
        if below is None or below >= len(layout.layers) - 1:
            return None
        at = below

    def face_c(contact: float, sheet: float, times: np.ndarray) -> np.ndarray:
        changed = replace(request, contact_factor=contact, sheet_factor=sheet)
        course = press.press(closing_of(changed, build_layout(changed, library)))
        return press.at_times(course, times)[:, 0, at]

    return ThermocoupleTrace(face_c, np.array(trace.time_s), np.array(trace.seen_c))


@dataclass(frozen=True)
class HeatLearned:
    """What the traces would teach, and what holds."""

    taught: HeatTaught | None
    traces: list[StackTrace]
    lesson: Lesson | None

    @property
    def is_news(self) -> bool:
        """Whether the traces say anything that does not hold yet."""
        if self.taught is None:
            return False
        held = None if self.lesson is None else self.lesson.values
        now = heat_values(self.taught)
        return held is None or any(abs(now[k] - held[k]) > 1e-6 for k in now)


def heat_values(taught: HeatTaught) -> dict[str, float]:
    """Factors as a lesson stores them."""
    names = ("contact_factor", "contact_share", "sheet_factor", "sheet_share")
    return {name: getattr(taught, name) for name in names}


def heat_learned() -> HeatLearned:
    """What all traces that stand teach together."""
    rows = list(
        StackTrace.objects.filter(withdrawn_at=None).select_related(
            "recipe__recipe", "element__press", "blank"
        )[:8]
    )
    library = shop_materials()
    pairs = [(row, _core_trace(row, library)) for row in rows]
    sound = [(row, trace) for row, trace in pairs if trace is not None]
    taught = teach_heat([trace for _, trace in sound]) if sound else None
    return HeatLearned(taught, [row for row, _ in sound], holding(HEAT_SUBJECT))


def before_values(subject: str) -> dict[str, float]:
    """What holds of a subject now, as a lesson stores it."""
    lesson = holding(subject)
    if lesson is not None:
        return lesson.values
    if subject == HEAT_SUBJECT:
        return {"contact_factor": 1.0, "sheet_factor": 1.0}
    receiver = receivers()[subject]
    return {
        "rate_per_s": receiver.law.rate_per_s,
        "activation_j_mol": receiver.law.activation_j_mol,
        "rate_share": receiver.known.rate_share,
    }
