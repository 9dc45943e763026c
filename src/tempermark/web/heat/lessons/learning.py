"""What the shop's scored pieces and traces teach, and what of it was accepted and holds."""

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

import numpy as np

from tempermark.core.thermal.library.receivers import BARE, Receiver, receivers
from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.dye import LawKnown
from tempermark.core.thermal.result.learn import (
    HeatTaught,
    Taught,
    Trial,
    teach_heat,
    teach_law,
)
from tempermark.web.heat.lessons.held import heat_values, holding, law_of
from tempermark.web.heat.lessons.trials import _core_trace, trials_by_surface
from tempermark.web.heat.models import HEAT_SUBJECT, Lesson, StackTrace
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.run.models import TestPress

KEPT_LESSONS = 32
# A rate off by so many of its own standard deviations is news, and so is one known to less than
# this share of what it was.
NEWS_SDS, SURER_SHARE = 0.5, 0.6


def surfaces() -> list[str]:
    """Surfaces that a shop's pieces can teach."""
    return [code for code in receivers() if code != BARE]


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
