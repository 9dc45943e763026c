"""What in the knowledge of faults breaks its own shape."""

from tempermark.core.diagnosis.advice.remedies import SETTINGS
from tempermark.core.diagnosis.knowledge.base import Cause, Fact, KnowledgeBase, Symptom
from tempermark.core.diagnosis.weighing.measures.registry import MEASURES
from tempermark.core.vocabulary.methods import METHODS
from tempermark.core.vocabulary.sightings import PLACE_GROUPS, TIMES


def problems(base: KnowledgeBase) -> list[str]:
    """Everything in the knowledge that breaks its own shape; empty when sound."""
    found = []
    normal = [cause.code for cause in base.causes.values() if cause.normal]
    if len(normal) != 1:
        found.append(f"one cause is to be the normal appearance, not {len(normal)}")
    for symptom in base.symptoms.values():
        if not (symptom.seen and symptom.like):
            found.append(f"{symptom.code}: what it looks like is missing")
        if symptom.when is not None and symptom.when not in TIMES:
            found.append(f"{symptom.code}: unknown time {symptom.when}")
        unknown = set(symptom.like) - set(base.symptoms)
        found += [f"{symptom.code}: unknown look-alike {code}" for code in unknown]
    for cause in base.causes.values():
        found += [f"{cause.code}: {text}" for text in _cause_problems(cause, base)]
    query: list[Fact | Symptom] = [*base.facts.values(), *base.symptoms.values()]
    for item in query:
        unknown = set(item.methods) - set(METHODS)
        found += [f"{item.code}: unknown method {name}" for name in unknown]
    for check in base.checks.values():
        for outcome in check.outcomes:
            found += [
                f"{check.code}: unknown cause {code}"
                for code in set(outcome.causes) - set(base.causes)
            ]
    return found


def _cause_problems(cause: Cause, base: KnowledgeBase) -> list[str]:
    found = [f"unknown symptom {s.symptom}" for s in cause.shows if s.symptom not in base.symptoms]
    found += [f"unknown fact {fact}" for fact in set(cause.signs) - set(base.facts)]
    rows = {s.symptom for s in cause.shows} | set(cause.signs) | set(cause.context)
    found += [f"unknown measure {name}" for name in set(cause.measures) - set(MEASURES)]
    found += [f"unknown setting {name}" for name in set(cause.settings) - set(SETTINGS)]
    found += [f"no reason for {row}" for row in sorted(rows - set(cause.reasons))]
    # A cause that takes another's reasons may have fewer rows than they have.
    known = rows | set(base.symptoms) | set(base.facts)
    found += [f"a reason for unknown {row}" for row in sorted(set(cause.reasons) - known)]
    groups = set(PLACE_GROUPS) | {"other"}
    found += [f"unknown place {place}" for place in set(cause.where) - groups]
    pairs = [p for pair in cause.signs.values() for p in pair]
    if not all(0 < p < 1 for p in (cause.prior, *pairs)):
        found.append("a probability outside 0–1")
    if not all(0 <= factor <= 1 for factor in cause.where.values()):
        found.append("a place factor outside 0–1")
    return found
