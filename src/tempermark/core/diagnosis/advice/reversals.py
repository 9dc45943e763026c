"""What would change the order: outcomes of checks and answers that put another cause first."""

from dataclasses import dataclass, replace

from tempermark.core.diagnosis.case import Case, CheckDone
from tempermark.core.diagnosis.engine import Diagnosis, leader
from tempermark.core.diagnosis.knowledge.base import Check, KnowledgeBase

# Checks and answers looked at; each outcome is weighed once more.
MOST_CHECKS, MOST_ANSWERS = 4, 3


@dataclass(frozen=True)
class Reversal:
    """An outcome of a check (or an answer) and the cause that then leads, with its probability."""

    check: str
    outcome: str
    question: str
    leads: str
    probability: float


def reversals(case: Case, diagnosis: Diagnosis, base: KnowledgeBase) -> list[Reversal]:
    """Everything looked at that puts another cause first, the surest new leader leading."""
    if not diagnosis.causes:
        return []
    first, found = diagnosis.causes[0].cause.code, []
    for item in diagnosis.next_checks[:MOST_CHECKS]:
        labels = [o.label for o in item.check.outcomes] + [""]
        for label in labels:
            then = leader(with_outcome(case, item.check, label), base)
            if then is not None and then[0].code != first:
                found.append(Reversal(item.check.code, label, "", then[0].code, then[1]))
    for question in diagnosis.questions[:MOST_ANSWERS]:
        if question.about not in base.facts:
            continue
        for field in ("facts", "not_facts"):
            more = getattr(case, field) | {question.about}
            then = leader(replace(case, **{field: more}), base)
            if then is not None and then[0].code != first:
                sentence = "yes" if field == "facts" else "no"
                found.append(Reversal("", sentence, question.text, then[0].code, then[1]))
    return sorted(found, key=lambda r: (-r.probability, r.check, r.outcome, r.question))


def with_outcome(case: Case, check: Check, outcome: str) -> Case:
    """The case with a check's outcome recorded for every cause it speaks on; empty: none found."""
    confirmed = {c for o in check.outcomes if o.label == outcome for c in o.causes}
    spoken = {c for o in check.outcomes for c in o.causes}
    done = tuple(
        CheckDone(check.code, "confirms" if c in confirmed else "excludes", c)
        for c in sorted(spoken)
    )
    return replace(case, checks_done=(*case.checks_done, *done))
