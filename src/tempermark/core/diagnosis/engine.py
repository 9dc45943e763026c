"""From a case to ranked causes: evidence as odds, symptoms through a noisy-OR.

Signs, context, arithmetic and checks shift each cause's prior odds; what was seen enters
the network of `network.py`, exact over all sets of causes at once, so that one cause
explains another away. What was not seen enters softly: people report what bothers them.
"""

from dataclasses import dataclass, replace
from math import exp, log

import numpy as np

from tempermark.core.diagnosis import network
from tempermark.core.diagnosis.case import Case, Observation
from tempermark.core.diagnosis.knowledge_base import Cause, KnowledgeBase, Shows
from tempermark.core.diagnosis.measures import MEASURES, Evidence
from tempermark.core.diagnosis.next_steps import (
    FALSE_ALARM,
    NextCheck,
    Question,
    next_checks,
    questions,
)
from tempermark.core.diagnosis.remedies import remedy
from tempermark.core.vocabulary import (
    METHOD_WORDS,
    METHODS,
    PLACE_GROUP_OF,
    PLACE_WORDS,
    TIME_WORDS,
)

# Chance that a thing is seen for a reason outside this knowledge.
LEAK = 0.012
# How much of the evidence of a symptom that nobody reported is believed.
SILENCE = 0.25
MOST_LOG_ODDS = 6.0
DEFAULT_SENSITIVITY = 0.75
# A row cause → symptom weaker than this explains nothing.
EXPLAINS_FROM = 0.03
# Less likely than this, or than this share of the leader, is left out: a short list is read. A
# cause spoken against must reach more, else it is named as such: all that is known makes it at most
# half as likely, one thing alone at most a quarter, or a check excluded it.
LEAST_PROBABILITY, LEAST_OF_LEADER, LEAST_WHEN_SPOKEN_AGAINST = 0.02, 0.05, 0.10
SPOKEN_AGAINST, PLAINLY_AGAINST = -log(2.0), -log(4.0)
# A cause spoken against is named when it would explain what was seen at least this often.
NAMED_FROM = 0.35
# Share of a strength left to a thing seen before the press from a cause that acts in it or later;
# times are told from memory.
BEFORE_ITS_TIME = 0.1
# Share of the strength of a row that holds at one time only, where the time was not told.
TIME_UNTOLD = 0.5
HUMID_FROM = 0.65
NORMAL = "normal_appearance"

CONTEXT_WORDS = {
    "blank.kind": "the blank is a {value}",
    "blank.colour": "the blank is {value}",
    "blank.coating": "coat: {value}",
    "blank.features": "the blank has: {value}",
    "press.kind": "a {value} press",
    "method": "method: {value}",
}


@dataclass(frozen=True)
class RankedCause:
    """One cause with its probability and its reasons, the strongest first."""

    cause: Cause
    probability: float
    evidence: tuple[Evidence, ...]
    remedy_text: str
    settings: dict
    cautions: tuple[str, ...]


@dataclass(frozen=True)
class SpokenAgainst:
    """A cause that would explain what was seen, and what is known against it, plainest first."""

    cause: Cause
    probability: float
    against: tuple[Evidence, ...]


@dataclass(frozen=True)
class Diagnosis:
    """The engine's answer."""

    causes: tuple[RankedCause, ...]
    spoken_against: tuple[SpokenAgainst, ...]
    normal_appearance: bool
    next_checks: tuple[NextCheck, ...]
    questions: tuple[Question, ...]
    notes: tuple[str, ...]


def diagnose(case: Case, base: KnowledgeBase) -> Diagnosis:
    """Ranked causes, next checks, questions and notes for a case."""
    case, notes = _completed(case, base)
    findings = _findings(case, base, notes)
    real = [o for o in findings if not base.symptoms[o.symptom].normal]
    causes = [c for c in base.causes.values() if not (real and c.code == NORMAL)]
    explained = real or findings
    strength = np.array([[_strength(c, o, case, base) for o in explained] for c in causes])
    evidence = {c.code: _evidence(c, case, base) for c in causes}
    prior = np.array([_prior(c, evidence[c.code], case, explained) for c in causes])
    posterior = network.posteriors(prior, strength, np.full(len(explained), LEAK))
    ranked = _ranked(causes, posterior, strength, explained, evidence, case, base)
    against = _spoken_against(causes, posterior, strength, evidence, case)
    notes += _closing_notes(ranked, against, findings, real, base)
    notes += _unexplained(explained, strength, case, base)
    chances = _chances(causes, posterior, strength)
    return Diagnosis(
        causes=tuple(ranked),
        spoken_against=tuple(against),
        normal_appearance=bool(not real and ranked and ranked[0].cause.code == NORMAL),
        next_checks=tuple(next_checks(chances, case, base)),
        questions=tuple(questions(chances, case, base)),
        notes=tuple(notes),
    )


def _completed(case: Case, base: KnowledgeBase) -> tuple[Case, list[str]]:
    """Facts that follow from other entries; contradictions are set aside and said."""
    told_both_ways = case.facts & case.not_facts
    facts, not_facts = set(case.facts - told_both_ways), set(case.not_facts - told_both_ways)
    if case.actual.closures is not None:
        (facts if case.actual.closures > 1 else not_facts).add("closed_more_than_once")
    if case.actual.peel in ("hot", "cold"):
        other = "cold" if case.actual.peel == "hot" else "hot"
        facts.add(f"peeled_{case.actual.peel}")
        not_facts.add(f"peeled_{other}")
    humid = case.relative_humidity is not None and case.relative_humidity >= HUMID_FROM
    if humid and "humid_room" not in not_facts:
        facts.add("humid_room")
    for code in tuple(facts):
        fact = base.facts[code]
        not_facts.update(fact.excludes)
        if fact.opposite:
            not_facts.add(fact.opposite)
    for code in tuple(not_facts):
        opposite = base.facts[code].opposite
        if opposite and opposite not in not_facts:
            facts.add(opposite)
    clash = facts & not_facts
    notes = [
        f"Told both ways and so set aside: {base.facts[code].label}."
        for code in sorted(clash | told_both_ways)
    ]
    settled = replace(case, facts=frozenset(facts - clash), not_facts=frozenset(not_facts - clash))
    return settled, notes


def _findings(case: Case, base: KnowledgeBase, notes: list[str]) -> list[Observation]:
    """Distinct observations, the severest first, as many as the exact sum can carry."""
    timed = [_in_its_time(o, base, notes) for o in case.observations]
    distinct = list({(o.symptom, o.where, o.when): o for o in timed}.values())
    distinct.sort(key=lambda o: (-o.severity, o.symptom, o.where or "", o.when or ""))
    if len(distinct) > network.MOST_FINDINGS:
        notes.append(
            f"{len(distinct)} things were seen; the {network.MOST_FINDINGS} severest are weighed."
        )
    return distinct[: network.MOST_FINDINGS]


def _in_its_time(seen: Observation, base: KnowledgeBase, notes: list[str]) -> Observation:
    """A thing that can be seen at one time only is taken to have been seen then."""
    symptom = base.symptoms[seen.symptom]
    if not symptom.when or seen.when in (None, symptom.when):
        return replace(seen, when=symptom.when or seen.when)
    label = symptom.label.lower()
    notes.append(
        f"“{label}” is seen {TIME_WORDS[symptom.when]}, not {TIME_WORDS[seen.when]}: taken so."
    )
    return replace(seen, when=symptom.when)


def _row_applies(row: Shows, case: Case, when: str | None) -> bool:
    if row.methods and case.method not in row.methods:
        return False
    return row.when is None or when is None or row.when == when


def _strength(cause: Cause, seen: Observation, case: Case, base: KnowledgeBase) -> float:
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


def _place_factor(cause: Cause, where: str | None) -> float:
    if where is None or not cause.where:
        return 1.0
    return cause.where.get(PLACE_GROUP_OF[where], cause.where.get("other", 1.0))


def _evidence(cause: Cause, case: Case, base: KnowledgeBase) -> list[Evidence]:
    return [
        *_measured(cause, case, base),
        *_signs(cause, case, base),
        *_context(cause, case),
        *_checked(cause, case, base),
    ]


def _measured(cause, case, base) -> list[Evidence]:
    found = (MEASURES[name](case, base.curves) for name in cause.measures)
    return [e for e in found if e is not None]


def _signs(cause, case, base) -> list[Evidence]:
    found = []
    for fact, (with_cause, without) in cause.signs.items():
        label = base.facts[fact].label
        if fact in case.facts:
            found.append(Evidence(log(with_cause / without), label, cause.why(fact)))
        elif fact in case.not_facts:
            log_odds = log((1 - with_cause) / (1 - without))
            found.append(Evidence(log_odds, f"not so: {label}", cause.why(fact)))
    return found


def _context(cause, case) -> list[Evidence]:
    found = []
    for name, factors in cause.context.items():
        value = _context_value(case, name)
        if value is None:
            continue
        values = value if isinstance(value, tuple) else (value,)
        hits = [(factors[v], v) for v in values if v in factors] or [
            (factors.get("other", 1.0), ", ".join(values) or "nothing of the kind")
        ]
        factor, shown = max(hits)
        words = CONTEXT_WORDS[name].format(value=shown.replace("_", " "))
        found.append(Evidence(log(factor), words, cause.why(name)))
    return found


def _context_value(case: Case, name: str):
    if "." not in name:
        return getattr(case, name)
    part, attribute = name.split(".")
    return getattr(getattr(case, part), attribute)


def _checked(cause, case, base) -> list[Evidence]:
    found = []
    for done in case.checks_done:
        if done.cause != cause.code or done.result == "unclear":
            continue
        check = base.checks[done.check]
        sensitivity = check.sensitivity(cause.code) or DEFAULT_SENSITIVITY
        if done.result == "confirms":
            log_odds = np.log(sensitivity / FALSE_ALARM)
        else:
            log_odds = np.log((1 - sensitivity) / (1 - FALSE_ALARM))
        found.append(Evidence(float(log_odds), f"check “{check.label.lower()}” {done.result} it"))
    return found


def _prior(cause: Cause, evidence: list[Evidence], case: Case, seen: list[Observation]) -> float:
    shift = min(max(sum(e.log_odds for e in evidence), -MOST_LOG_ODDS), MOST_LOG_ODDS)
    odds = cause.prior / (1 - cause.prior) * exp(shift) * _silence(cause, case, seen)
    return odds / (1 + odds)


def _silence(cause: Cause, case: Case, seen: list[Observation]) -> float:
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


def _chances(causes, posterior, strength) -> dict[str, float]:
    """Causes that the next check is chosen for, listed or spoken against."""
    return {
        cause.code: float(chance)
        for cause, chance, row in zip(causes, posterior, strength, strict=True)
        if row.max() >= EXPLAINS_FROM and chance >= LEAST_PROBABILITY
    }


def _is_spoken_against(cause: Cause, evidence: list[Evidence], case: Case) -> bool:
    """Whether facts, arithmetic or checks speak against a cause, whatever was seen."""
    results = {done.result for done in case.checks_done if done.cause == cause.code}
    if "excludes" in results and "confirms" not in results:
        return True
    weights = [e.log_odds for e in evidence]
    return sum(weights) <= SPOKEN_AGAINST or min(weights, default=0.0) <= PLAINLY_AGAINST


def _spoken_against(causes, posterior, strength, evidence, case) -> list[SpokenAgainst]:
    """Causes that would explain what was seen and are left out for what speaks against them."""
    found = []
    for index, cause in enumerate(causes):
        known = evidence[cause.code]
        left_out = posterior[index] < LEAST_WHEN_SPOKEN_AGAINST
        if (
            left_out
            and _is_spoken_against(cause, known, case)
            and strength[index].max() >= NAMED_FROM
        ):
            against = sorted((e for e in known if e.log_odds < 0), key=lambda e: e.log_odds)
            found.append(SpokenAgainst(cause, float(posterior[index]), tuple(against)))
    return sorted(found, key=lambda s: (-s.probability, s.cause.code))


def _ranked(causes, posterior, strength, seen, evidence, case, base) -> list[RankedCause]:
    found = []
    explains = strength.max(axis=1) >= EXPLAINS_FROM
    leader = posterior[explains].max(initial=0.0)
    share = max(LEAST_PROBABILITY, LEAST_OF_LEADER * leader)
    for index, cause in enumerate(causes):
        spoken_against = _is_spoken_against(cause, evidence[cause.code], case)
        least = LEAST_WHEN_SPOKEN_AGAINST if spoken_against else share
        if not explains[index] or posterior[index] < least:
            continue
        reasons = _seen_words(cause, seen, strength[index], base) + evidence[cause.code]
        reasons = [r for r in reasons if abs(r.log_odds) >= 0.15]
        reasons.sort(key=lambda r: -abs(r.log_odds))
        text, settings, cautions = remedy(cause, case)
        found.append(
            RankedCause(
                cause, float(posterior[index]), tuple(reasons), text, settings, tuple(cautions)
            )
        )
    return sorted(found, key=lambda r: (-r.probability, r.cause.code))


def _seen_words(cause: Cause, seen: list[Observation], strength, base) -> list[Evidence]:
    """What was seen, as reasons: how well this cause explains it."""
    found = []
    for observation, chance in zip(seen, strength, strict=True):
        label = base.symptoms[observation.symptom].label.split(":")[0].lower()
        place = f" {PLACE_WORDS[observation.where]}" if observation.where else ""
        if chance >= EXPLAINS_FROM:
            often = "nearly always" if chance > 0.7 else "often" if chance > 0.35 else "sometimes"
            found.append(
                Evidence(
                    float(np.log((chance + LEAK) / LEAK)) / 2,
                    f"{often} shows as: {label}{place}",
                    cause.why(observation.symptom),
                )
            )
        else:
            found.append(Evidence(-0.5, f"does not explain: {label}{place}"))
    return found


def _unexplained(seen: list[Observation], strength, case: Case, base: KnowledgeBase) -> list[str]:
    """What no cause shows, each with what would help."""
    notes = []
    for observation, column in zip(seen, strength.T, strict=True):
        if column.max() >= EXPLAINS_FROM:
            continue
        label = base.symptoms[observation.symptom].label.split(":")[0].lower()
        methods = _methods_of(observation.symptom, base)
        if methods and case.method not in methods:
            known = ", ".join(METHOD_WORDS[m] for m in METHODS if m in methods)
            notes.append(
                f"Nothing known shows “{label}” with {METHOD_WORDS[case.method]}, only with "
                f"{known}: look at the method again."
            )
        else:
            notes.append(f"Nothing known shows “{label}” there or then: look where and when again.")
    return notes


def _methods_of(symptom: str, base: KnowledgeBase) -> set[str]:
    """Methods that a symptom is known of; empty for any."""
    rows = [row for c in base.causes.values() for row in c.shows if row.symptom == symptom]
    return set() if any(not row.methods for row in rows) else {m for r in rows for m in r.methods}


def _closing_notes(ranked, against, findings, real, base) -> list[str]:
    notes = []
    normal = [o for o in findings if base.symptoms[o.symptom].normal]
    if real and normal:
        names = ", ".join(base.symptoms[o.symptom].label.lower() for o in normal)
        notes.append(f"By itself no fault: {names}. The ranking is about the rest.")
    if not ranked and against:
        notes.append(
            "What is known speaks against every cause that would explain this. Look again at what "
            "was entered, at what was seen and when, or do a check."
        )
    elif not ranked:
        notes.append(
            "No cause in the knowledge explains what was seen. Add where and when it appeared, "
            "or what else was seen."
        )
    elif ranked[0].probability < 0.5:
        notes.append(
            "Nothing here separates the causes yet: do the first check before changing anything."
        )
    return notes
