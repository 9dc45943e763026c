"""How strongly a cause at work shows a symptom, there and then, and what its silence says."""

from tempermark.core.diagnosis.case import Case, Observation
from tempermark.core.diagnosis.knowledge_base import Cause, KnowledgeBase, Shows
from tempermark.core.vocabulary import PLACE_GROUP_OF

# A row cause → symptom weaker than this explains nothing.
EXPLAINS_FROM = 0.03
# How much of the evidence of a symptom that nobody reported is believed.
SILENCE = 0.25
# Share of a strength left to a thing seen before the press from a cause that acts in it or later;
# times are told from memory.
BEFORE_ITS_TIME = 0.1
# Share of the strength of a row that holds at one time only, where the time was not told.
TIME_UNTOLD = 0.5


def strength_of(cause: Cause, seen: Observation, case: Case, base: KnowledgeBase) -> float:
    """Chance that this cause at work shows this symptom, there and then."""
    rows = [
        row.strength * (TIME_UNTOLD if row.when and not seen.when else 1.0)
        for row in cause.shows
        if row.symptom == seen.symptom and _row_applies(row, case, seen.when)
    ]
    if not rows:
        return 0.0
    early = seen.when == "before_press" and not base.symptoms[seen.symptom].hovered
    time_factor = BEFORE_ITS_TIME if early and not cause.before_press else 1.0
    return max(rows) * _place_factor(cause, seen.where) * time_factor


def _row_applies(row: Shows, case: Case, when: str | None) -> bool:
    if row.methods and case.method not in row.methods:
        return False
    return row.when is None or when is None or row.when == when


def _place_factor(cause: Cause, where: str | None) -> float:
    if where is None or not cause.where:
        return 1.0
    return cause.where.get(PLACE_GROUP_OF[where], cause.where.get("other", 1.0))


def silence(cause: Cause, case: Case, seen: list[Observation]) -> float:
    """Factor for symptoms that this cause would show by now and nobody reported."""
    reported = {o.symptom for o in seen}
    washed = any(o.when == "after_wash" for o in seen)
    factor = 1.0
    for row in cause.shows:
        later = row.symptom == "washout" or row.when == "after_wash"
        if row.symptom in reported or not _row_applies(row, case, None) or (later and not washed):
            continue
        factor *= 1 - SILENCE * row.strength
    return factor
