"""How strongly a cause at work shows a symptom, there and then, and what its silence says."""

from math import prod

from tempermark.core.diagnosis.case import Case, Observation
from tempermark.core.diagnosis.knowledge.base import Cause, KnowledgeBase, Shows, Symptom
from tempermark.core.thermal.library.materials import materials
from tempermark.core.vocabulary.sightings import AFTER_WASH, PLACE_GROUP_OF

# A row cause → symptom weaker than this explains nothing.
EXPLAINS_FROM = 0.03
# How much of the evidence of a symptom that nobody reported is believed.
SILENCE = 0.25
# Share of a strength left to a thing seen before the press from a cause that acts in it or later;
# times are told from memory.
BEFORE_ITS_TIME = 0.1
# Share of the strength of a row that holds at one time only, where the time was not told.
TIME_UNTOLD = 0.5


# From which chance a word is used.
OFTEN_WORDS = ((0.7, "nearly always"), (0.35, "often"), (0.1, "sometimes"), (0.0, "seldom"))


def often(chance: float) -> str:
    """A chance in a word."""
    return next(label for least, label in OFTEN_WORDS if chance >= least)


TEXTURE = "texture"


def is_normal(symptom: Symptom, case: Case) -> bool:
    """Whether a thing seen is no fault by itself in this case. A thick film does not take the
    cloth's texture; a thin one that bridges its hollows was pressed too lightly.
    """
    if not symptom.normal or not symptom.normal_with or symptom.normal_with in case.facts:
        return symptom.normal
    if symptom.normal_with in case.not_facts:
        return False
    return not _has_feature(symptom.fault_on, case)


def _has_feature(feature: str, case: Case) -> bool:
    noted = feature in (case.blank.features or ())
    material = materials().get(case.blank.material or "")
    return noted or (feature == TEXTURE and material is not None and material.textured)


def strength_of(cause: Cause, seen: Observation, case: Case, base: KnowledgeBase) -> float:
    """Chance 0–1 that this cause at work shows this symptom, there and then."""
    rows = [
        row.strength * (TIME_UNTOLD if row.when and not seen.when else 1.0)
        for row in cause.shows
        if row.symptom == seen.symptom and _row_applies(row, case, seen.when)
    ]
    symptom = base.symptoms[seen.symptom]
    if not rows or not _may_show(cause, symptom, case):
        return 0.0
    early = seen.when == "before_press" and not symptom.hovered
    time_factor = BEFORE_ITS_TIME if early and not cause.before_press else 1.0
    return max(rows) * _place_factor(cause, seen.where) * time_factor


def _may_show(cause: Cause, symptom: Symptom, case: Case) -> bool:
    """A thing that is normal or a fault by the case is shown by the one or by the others."""
    return not symptom.normal_with or is_normal(symptom, case) == cause.normal


def _row_applies(row: Shows, case: Case, when: str | None) -> bool:
    if row.methods and case.method not in row.methods:
        return False
    return row.when is None or when is None or row.when == when


def _place_factor(cause: Cause, where: str | None) -> float:
    if where is None or not cause.where:
        return 1.0
    return cause.where.get(PLACE_GROUP_OF[where], cause.where.get("other", 1.0))


def unreported(
    cause: Cause, case: Case, seen: list[Observation], base: KnowledgeBase
) -> dict[str, float]:
    """Symptoms that this cause would show by now and nobody told of either way, each with its
    chance.
    """
    reported = {o.symptom for o in seen} | case.not_seen
    return {
        s: chance
        for s, chance in shown_by_now(cause, case, seen, base).items()
        if s not in reported
    }


def shown_by_now(
    cause: Cause, case: Case, seen: list[Observation], base: KnowledgeBase
) -> dict[str, float]:
    """Symptoms that this cause shows with this method up to the last time looked at, each with
    its chance 0–1."""
    if seen and all(o.when == "before_press" for o in seen):
        return {}
    washed = any(o.when == AFTER_WASH for o in seen)
    found: dict[str, float] = {}
    for row in cause.shows:
        later = AFTER_WASH in (row.when, base.symptoms[row.symptom].when)
        if not row.silent and _row_applies(row, case, None) and (washed or not later):
            found[row.symptom] = max(row.strength, found.get(row.symptom, 0.0))
    return found


def silence(cause: Cause, case: Case, seen: list[Observation], base: KnowledgeBase) -> float:
    """Factor 0–1 for symptoms that this cause would show by now and nobody reported."""
    return prod(1 - SILENCE * chance for chance in unreported(cause, case, seen, base).values())
