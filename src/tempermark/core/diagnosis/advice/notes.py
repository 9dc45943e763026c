"""What must be said beside the ranking: harmless things, what is not explained, what would help."""

import numpy as np

from tempermark.core.diagnosis.case import Case, Observation
from tempermark.core.diagnosis.knowledge.base import KnowledgeBase
from tempermark.core.diagnosis.weighing.strengths import EXPLAINS_FROM, is_normal
from tempermark.core.vocabulary.methods import METHOD_WORDS, METHODS

# Below this the leader is told to be undecided.
UNDECIDED_BELOW = 0.5


def harmless(seen: list[Observation], case: Case, base: KnowledgeBase) -> list[str]:
    """Normal appearances beside a real fault, said to be so."""
    normal = [o for o in seen if is_normal(base.symptoms[o.symptom], case)]
    if len(normal) in (0, len(seen)):
        return []
    names = ", ".join(base.symptoms[o.symptom].label.lower() for o in normal)
    return [f"Not a fault on its own: {names}. The ranking covers the rest."]


def undecided(leader: float | None, any_against: bool, any_check: bool) -> list[str]:
    """What stands in the way of an answer, and what would help; `leader` its probability."""
    if leader is None and any_against:
        return [
            "The facts rule out every cause that would explain this. Look again at what "
            "was entered, at what was seen and when, or do a check."
        ]
    if leader is None:
        return [
            "No known cause explains what was seen. Add where and when it appeared, "
            "or what else was seen."
        ]
    if leader >= UNDECIDED_BELOW:
        return []
    do = "do the first check" if any_check else "answer the questions"
    return [f"Nothing here separates the causes yet: {do} before changing anything."]


def unexplained(
    seen: list[Observation], strengths: list[np.ndarray], case: Case, base: KnowledgeBase
) -> list[str]:
    """What no cause shows, each with what would help; `strengths` (F,) of each cause, chances
    0–1.
    """
    notes = []
    for observation, column in zip(seen, np.transpose(strengths), strict=True):
        if column.max() >= EXPLAINS_FROM:
            continue
        label = base.symptoms[observation.symptom].label.split(":")[0].lower()
        methods = _methods_of(observation.symptom, base)
        if methods and case.method not in methods:
            known = ", ".join(METHOD_WORDS[m] for m in METHODS if m in methods)
            notes.append(
                f"No known cause shows “{label}” with {METHOD_WORDS[case.method]}, only with "
                f"{known}: look at the method again."
            )
        else:
            notes.append(
                f"No known cause shows “{label}” there or then: look where and when again."
            )
    return notes


def unrelated(groups: list[list[Observation]], base: KnowledgeBase) -> list[str]:
    """Things seen that no one cause shows together: traced one at a time."""
    if not groups:
        return []
    names = "; ".join(
        " and ".join(dict.fromkeys(base.symptoms[o.symptom].label.lower() for o in group))
        for group in groups
    )
    return [f"These look like {len(groups)} separate faults: {names}. Trace one at a time."]


def _methods_of(symptom: str, base: KnowledgeBase) -> set[str]:
    """Methods that a symptom is known of; empty for any."""
    rows = [row for c in base.causes.values() for row in c.shows if row.symptom == symptom]
    return set() if any(not row.methods for row in rows) else {m for r in rows for m in r.methods}
