"""What the shop's scored pieces and traces teach, and what of it was accepted and holds."""

from dataclasses import asdict, dataclass, replace

import numpy as np

from tempermark.core.pressure.contact import middle_kpa
from tempermark.core.recipes.steps import MAIN
from tempermark.core.thermal import dye, press
from tempermark.core.thermal.learn import (
    HeatTaught,
    Taught,
    Trace,
    Trial,
    teach_heat,
    teach_law,
)
from tempermark.core.thermal.sampled import UNTAUGHT, LawKnown
from tempermark.core.vocabulary import DYE_METHODS
from tempermark.web.run.models import TestPress
from tempermark.web.run.queries import under_art
from tempermark.web.setup import heat
from tempermark.web.setup.heat import Asked
from tempermark.web.setup.heat_row import state_before
from tempermark.web.setup.library import shop_materials
from tempermark.web.setup.models import Blank, Lesson, StackTrace, Subject

# So many of the newest pieces teach a surface; a page waits for them.
MOST_PIECES = 40
USUAL_HUMIDITY = 0.5
SURFACES = (Subject.CLOTH, Subject.COAT)


def holding(subject: str) -> Lesson | None:
    """The lesson of a subject that holds."""
    return Lesson.objects.filter(subject=subject, withdrawn_at=None).first()


def surface_of(blank: Blank, stack: tuple[str, ...]) -> str:
    """Whether dye finds cloth or a coat."""
    coated = blank.coating not in ("", "none") or any("laminate_film" in e for e in stack)
    return Subject.COAT if coated or blank.kind not in heat.SOFT else Subject.CLOTH


def law_of(lesson: Lesson | None) -> tuple[dye.Law, LawKnown]:
    """The law a lesson holds; the trade's without one."""
    if lesson is None:
        return dye.STARTING, UNTAUGHT
    held = lesson.values
    law = dye.Law(held["rate_per_s"], held["activation_j_mol"])
    known = LawKnown(held["rate_share"], held["activation_sd_j_mol"], held["together"])
    return law, known


def with_lessons(asked: Asked) -> Asked:
    """What is asked, with all that the shop has learned."""
    law, known = law_of(holding(surface_of(asked.blank, asked.stack)))
    return replace(_with_heat(asked), law=law, law_known=known)


def _with_heat(asked: Asked) -> Asked:
    lesson = holding(Subject.HEAT)
    if lesson is None:
        return asked
    held = lesson.values
    return replace(asked, contact_factor=held["contact_factor"], sheet_factor=held["sheet_factor"])


@dataclass(frozen=True)
class Learned:
    """What a surface's pieces would teach; `taught` is None without a piece that can."""

    surface: str
    label: str
    taught: Taught | None
    pieces: list[TestPress]
    lesson: Lesson | None

    @property
    def changes(self) -> list[tuple[TestPress, float, float]]:
        """The newest piece of each recipe, with its density before and after."""
        if self.taught is None:
            return []
        told = zip(self.pieces, self.taught.before, self.taught.after, strict=True)
        newest: dict[int, tuple[TestPress, float, float]] = {}
        for piece, before, after in told:
            newest.setdefault(piece.recipe.recipe_id, (piece, float(before), float(after)))
        return list(newest.values())

    @property
    def is_news(self) -> bool:
        """Whether the pieces say anything that does not hold yet."""
        if self.taught is None:
            return False
        held = None if self.lesson is None else self.lesson.values
        return held is None or any(
            abs(value - held[name]) > 1e-6 * abs(value) + 1e-9
            for name, value in law_values(self.taught).items()
        )


def law_values(taught: Taught) -> dict[str, float]:
    """A law as a lesson stores it."""
    return {
        "rate_per_s": taught.law.rate_per_s,
        "activation_j_mol": taught.law.activation_j_mol,
        "rate_share": taught.known.rate_share,
        "activation_sd_j_mol": taught.known.activation_j_mol,
        "together": taught.known.together,
    }


def learned(surface: str) -> Learned:
    """What the scored pieces of a surface teach, all of them against the trade's own law."""
    pairs = trials_of(surface)
    taught = teach_law([trial for _, trial in pairs]) if pairs else None
    pieces = [piece for piece, _ in pairs]
    return Learned(surface, Subject(surface).label, taught, pieces, holding(surface))


def trials_of(surface: str) -> list[tuple[TestPress, Trial]]:
    """Scored pieces of a surface whose true temperature is known, newest first."""
    scored = (
        TestPress.objects.filter(recipe__recipe__method__in=DYE_METHODS)
        .exclude(scores={}, density=None)
        .select_related("element__press", "recipe__recipe", "blank")
        .prefetch_related("marks")
    )
    found, library = [], shop_materials()
    for piece in scored:
        if surface_of(piece.blank, tuple(piece.stack)) != surface:
            continue
        trial = _trial(piece, library)
        if trial is not None:
            found.append((piece, trial))
        if len(found) == MOST_PIECES:
            break
    return found


def _trial(piece: TestPress, library) -> Trial | None:
    score = piece.scores.get("black")
    under = under_art(piece) if score or piece.density is not None else None
    if under is None:
        return None
    asked = _as_pressed(piece, under.mean_c)
    sheet = piece.recipe.sheet
    begins = None
    if "blank_prepressed" in piece.facts:
        begins = state_before(sheet, "", asked, library)
    made = heat.pressed(asked, library, begins)
    if made is None or not made.is_dye or made.piece.share == 0:
        return None
    return Trial(
        made.course,
        made.interface,
        made.piece.share,
        score,
        piece.density,
        f"survey {under.survey.pk}",
        under.standard_uncertainty_c,
    )


def _as_pressed(piece: TestPress, true_c: float) -> Asked:
    main = piece.recipe.sheet.main
    kpa = middle_kpa(piece.pressure if piece.pressure != "unknown" else main.pressure)
    humidity = piece.relative_humidity
    asked = Asked(
        main,
        piece.recipe.recipe.method,
        tuple(piece.stack) or main.stack,
        piece.blank,
        true_c,
        piece.dwell_s,
        kpa,
        USUAL_HUMIDITY if humidity is None else humidity,
    )
    return _with_heat(asked)


def trace_asked(trace: StackTrace) -> Asked:
    """What was pressed when a trace was taken, at the true temperature of then."""
    main = trace.recipe.sheet.main
    true_c, _ = heat.true_under(trace.element, trace.set_c, trace.at)
    return Asked(
        replace(main, kind=MAIN),
        trace.recipe.recipe.method,
        main.stack,
        trace.blank,
        true_c,
        max(trace.time_s),
        trace.contact_kpa,
        trace.relative_humidity,
    )


def _core_trace(trace: StackTrace, library) -> Trace | None:
    asked = trace_asked(trace)
    laid = heat.lay(asked, library)
    at = laid.interface
    if at is None:
        return None
    if trace.under_blank:
        below = laid.blank_at
        if below is None or below >= len(laid.layers) - 1:
            return None
        at = below

    def face_c(contact: float, sheet: float, times: np.ndarray) -> np.ndarray:
        changed = replace(asked, contact_factor=contact, sheet_factor=sheet)
        course = press.press(heat.closing_of(changed, heat.lay(changed, library)))
        return press.at_times(course, times)[:, 0, at]

    return Trace(face_c, np.array(trace.time_s), np.array(trace.seen_c))


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
    return HeatLearned(taught, [row for row, _ in sound], holding(Subject.HEAT))


def before_values(subject: str) -> dict[str, float]:
    """What holds of a subject now, as a lesson stores it."""
    lesson = holding(subject)
    if lesson is not None:
        return lesson.values
    if subject == Subject.HEAT:
        return {"contact_factor": 1.0, "sheet_factor": 1.0}
    return {**asdict(dye.STARTING), "rate_share": UNTAUGHT.rate_share}
