"""What facts, properties of the case, arithmetic and checks say of a cause, as log odds."""

from math import exp, log
from typing import Any

from tempermark.core.diagnosis.case import Case, Observation
from tempermark.core.diagnosis.knowledge.base import Cause, KnowledgeBase
from tempermark.core.diagnosis.weighing.measures.basis import Evidence
from tempermark.core.diagnosis.weighing.measures.registry import MEASURES
from tempermark.core.diagnosis.weighing.strengths import shown_by_now, silence

MOST_LOG_ODDS = 6.0
DEFAULT_SENSITIVITY = 0.75
# A check shows an outcome by mistake this often.
FALSE_ALARM = 0.06

CONTEXT_WORDS = {
    "blank.kind": "the blank is a {value}",
    "blank.colour": "the blank is {value}",
    "blank.coating": "coat: {value}",
    "blank.features": "the blank has: {value}",
    "press.kind": "a {value} press",
    "method": "method: {value}",
}


def evidence_on(
    cause: Cause, case: Case, base: KnowledgeBase, seen: list[Observation]
) -> list[Evidence]:
    """All that is known for and against a cause, apart from what was `seen`."""
    return [
        *_measured(cause, case, base),
        *_signs(cause, case, base),
        *_context(cause, case),
        *_checked(cause, case, base),
        *_not_seen(cause, case, base, seen),
    ]


def _measured(cause: Cause, case: Case, base: KnowledgeBase) -> list[Evidence]:
    found = (MEASURES[name](case, base.curves) for name in cause.measures)
    return [e for e in found if e is not None]


def _signs(cause: Cause, case: Case, base: KnowledgeBase) -> list[Evidence]:
    found = []
    for fact, (with_cause, without) in cause.signs.items():
        if _is_measured(fact, cause, case, base):
            continue
        label = base.facts[fact].label
        if fact in case.facts:
            found.append(Evidence(log(with_cause / without), label, cause.why(fact)))
        elif fact in case.not_facts:
            log_odds = log((1 - with_cause) / (1 - without))
            found.append(Evidence(log_odds, f"no: {label}", cause.why(fact)))
    return found


def _is_measured(fact: str, cause: Cause, case: Case, base: KnowledgeBase) -> bool:
    """Whether a measure of this cause says what a fact means for it: then the sign is not counted
    besides.
    """
    by = base.facts[fact].measured_by
    return any(MEASURES[m](case, base.curves) is not None for m in cause.measures if m in by)


def _context(cause: Cause, case: Case) -> list[Evidence]:
    found = []
    for name, factors in cause.context.items():
        value = _context_value(case, name)
        if value is None:
            continue
        values = value if isinstance(value, tuple) else (value,)
        hits = [(factors[v], v) for v in values if v in factors] or [
            (factors.get("other", 1.0), ", ".join(values) or "nothing found")
        ]
        factor, shown = max(hits)
        words = CONTEXT_WORDS[name].format(value=shown.replace("_", " "))
        found.append(Evidence(log(factor), words, cause.why(name)))
    return found


def _context_value(case: Case, name: str) -> Any:
    if "." not in name:
        return getattr(case, name)
    part, attribute = name.split(".")
    return getattr(getattr(case, part), attribute)


def _checked(cause: Cause, case: Case, base: KnowledgeBase) -> list[Evidence]:
    found = []
    for done in case.checks_done:
        if done.cause != cause.code or done.result == "unclear":
            continue
        check = base.checks[done.check]
        sensitivity = check.sensitivity(cause.code) or DEFAULT_SENSITIVITY
        if done.result == "confirms":
            log_odds = log(sensitivity / FALSE_ALARM)
        else:
            log_odds = log((1 - sensitivity) / (1 - FALSE_ALARM))
        found.append(Evidence(log_odds, f"check “{check.label.lower()}” {done.result} it"))
    return found


def _not_seen(
    cause: Cause, case: Case, base: KnowledgeBase, seen: list[Observation]
) -> list[Evidence]:
    """What was looked for and not found: exact in a noisy-OR, a factor on each cause."""
    return [
        Evidence(log(1 - chance), f"not seen: {base.symptoms[s].label.lower()}", cause.why(s))
        for s, chance in shown_by_now(cause, case, seen, base).items()
        if s in case.not_seen
    ]


def prior_chance(
    cause: Cause,
    evidence: list[Evidence],
    case: Case,
    seen: list[Observation],
    base: KnowledgeBase,
) -> float:
    """Chance 0–1 of a cause before what was seen is weighed, evidence and silence counted in."""
    shift = min(max(sum(e.log_odds for e in evidence), -MOST_LOG_ODDS), MOST_LOG_ODDS)
    odds = cause.prior / (1 - cause.prior) * exp(shift) * silence(cause, case, seen, base)
    return odds / (1 + odds)
