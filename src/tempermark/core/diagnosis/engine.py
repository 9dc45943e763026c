"""From a case to ranked causes: evidence as odds, symptoms through a noisy-OR.

Signs, context, arithmetic and checks shift each cause's prior odds (`evidence`); what was seen
(`findings`, `strengths`) enters the network of `network`, exact over all sets of causes at once, so
that one cause explains another away. What was not seen enters softly: people report what bothers
them.
"""

from dataclasses import dataclass
from math import log

import numpy as np

from tempermark.core.diagnosis.advice.next_steps import NextCheck, Question, next_checks, questions
from tempermark.core.diagnosis.advice.notes import harmless, undecided, unexplained, unrelated
from tempermark.core.diagnosis.advice.remedies import Remedy, remedy_for
from tempermark.core.diagnosis.advice.separate import separate_groups
from tempermark.core.diagnosis.case import Case, Observation
from tempermark.core.diagnosis.knowledge.base import Cause, KnowledgeBase
from tempermark.core.diagnosis.weighing import network
from tempermark.core.diagnosis.weighing.evidence import evidence_on, prior_chance
from tempermark.core.diagnosis.weighing.findings import completed, findings
from tempermark.core.diagnosis.weighing.measures.basis import Evidence
from tempermark.core.diagnosis.weighing.strengths import (
    EXPLAINS_FROM,
    is_normal,
    often,
    strength_of,
)
from tempermark.core.vocabulary.sightings import PLACE_WORDS

# Chance that a thing is seen for a reason outside this knowledge.
LEAK = 0.012
# Less likely than this, or than this share of the leader, is left out: a short list is read. A
# cause spoken against must reach more, else it is named as such: all that is known makes it at most
# half as likely, one thing alone at most a quarter, or a check excluded it.
LEAST_PROBABILITY, LEAST_OF_LEADER, LEAST_WHEN_SPOKEN_AGAINST = 0.02, 0.05, 0.10
SPOKEN_AGAINST, PLAINLY_AGAINST = -log(2.0), -log(4.0)
# A cause spoken against is named when it would explain what was seen at least this often.
NAMED_FROM = 0.35
# Reasons weaker than this are not told; one for a thing seen and not explained, as it is listed.
SHOWN_FROM, UNEXPLAINED_LOG_ODDS = 0.15, -0.5


@dataclass(frozen=True)
class RankedCause:
    """One cause with its probability and its reasons, the strongest first."""

    cause: Cause
    probability: float
    evidence: tuple[Evidence, ...]
    remedy: Remedy


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
    # Symptoms that no one cause shows together, in groups; empty where they may be one fault.
    separate: tuple[tuple[str, ...], ...] = ()


@dataclass(frozen=True)
class _Weighed:
    """One cause after weighing: its probability, how strongly it shows each thing seen (F,), and
    what is known of it apart from what was seen.
    """

    cause: Cause
    probability: float
    strength: np.ndarray
    known: list[Evidence]
    excluded: bool

    @property
    def explains(self) -> bool:
        """Whether it could show anything of what was seen."""
        return bool(self.strength.max() >= EXPLAINS_FROM)

    @property
    def is_spoken_against(self) -> bool:
        """Whether facts, arithmetic or checks speak against it, whatever was seen."""
        weights = [e.log_odds for e in self.known]
        against = sum(weights) <= SPOKEN_AGAINST or min(weights, default=0.0) <= PLAINLY_AGAINST
        return self.excluded or against


def diagnose(case: Case, base: KnowledgeBase) -> Diagnosis:
    """Ranked causes, next checks, questions and notes for a case."""
    reported = case.facts | case.not_facts
    case, notes = completed(case, base)
    seen = findings(case, base, notes)
    real = [o for o in seen if not is_normal(base.symptoms[o.symptom], case)]
    explained = real or seen
    weighed = _weighed(explained, case, base, with_normal=not real)
    ranked = _ranked(weighed, explained, case, base)
    against = _spoken_against(weighed)
    chances = {
        w.cause.code: w.probability
        for w in weighed
        if w.explains and w.probability >= LEAST_PROBABILITY
    }
    checks = next_checks(chances, case, base)
    most = ranked[0].probability if ranked else None
    notes += harmless(seen, case, base) + undecided(most, bool(against), bool(checks))
    notes += unexplained(explained, [w.strength for w in weighed], case, base)
    apart = separate_groups(real, [w.strength for w in weighed])
    notes += unrelated(apart, base)
    return Diagnosis(
        causes=tuple(ranked),
        spoken_against=tuple(against),
        normal_appearance=bool(not real and ranked and ranked[0].cause.normal),
        next_checks=tuple(checks),
        questions=tuple(questions(chances, case, base, explained, reported)),
        notes=tuple(notes),
        separate=tuple(tuple(o.symptom for o in group) for group in apart),
    )


def leader(case: Case, base: KnowledgeBase) -> tuple[Cause, float] | None:
    """The cause that leads a diagnosis and its probability, and nothing else of it."""
    case, notes = completed(case, base)
    seen = findings(case, base, notes)
    real = [o for o in seen if not is_normal(base.symptoms[o.symptom], case)]
    listed = _listed(_weighed(real or seen, case, base, with_normal=not real))
    first = min(listed, key=lambda w: (-w.probability, w.cause.code), default=None)
    return None if first is None else (first.cause, first.probability)


def _weighed(
    seen: list[Observation], case: Case, base: KnowledgeBase, with_normal: bool
) -> list[_Weighed]:
    """Every cause with its probability given all that is seen and known."""
    causes = [c for c in base.causes.values() if with_normal or not c.normal]
    strength = np.array([[strength_of(c, o, case, base) for o in seen] for c in causes])
    known = [evidence_on(c, case, base, seen) for c in causes]
    prior = [prior_chance(c, k, case, seen, base) for c, k in zip(causes, known, strict=True)]
    chance = network.posteriors(np.array(prior), strength, np.full(len(seen), LEAK))
    return [
        _Weighed(c, float(p), row, k, _is_excluded(c, case))
        for c, p, row, k in zip(causes, chance, strength, known, strict=True)
    ]


def _is_excluded(cause: Cause, case: Case) -> bool:
    """Whether a check excluded a cause and none confirmed it."""
    results = {done.result for done in case.checks_done if done.cause == cause.code}
    return "excludes" in results and "confirms" not in results


def _spoken_against(weighed: list[_Weighed]) -> list[SpokenAgainst]:
    """Causes that would explain what was seen and are left out for what speaks against them."""
    found = []
    for w in weighed:
        left_out = w.probability < LEAST_WHEN_SPOKEN_AGAINST and w.is_spoken_against
        if left_out and w.strength.max() >= NAMED_FROM:
            against = sorted((e for e in w.known if e.log_odds < 0), key=lambda e: e.log_odds)
            found.append(SpokenAgainst(w.cause, w.probability, tuple(against)))
    return sorted(found, key=lambda s: (-s.probability, s.cause.code))


def _ranked(
    weighed: list[_Weighed], seen: list[Observation], case: Case, base: KnowledgeBase
) -> list[RankedCause]:
    """The causes worth a line, the likeliest first."""
    found = []
    for w in _listed(weighed):
        reasons = [r for r in _seen_words(w, seen, base) + w.known if abs(r.log_odds) >= SHOWN_FROM]
        reasons.sort(key=lambda r: -abs(r.log_odds))
        remedy = remedy_for(w.cause, case)
        found.append(RankedCause(w.cause, w.probability, tuple(reasons), remedy))
    return sorted(found, key=lambda r: (-r.probability, r.cause.code))


def _listed(weighed: list[_Weighed]) -> list[_Weighed]:
    """Causes that are worth a line."""
    explaining = [w for w in weighed if w.explains]
    most = max((w.probability for w in explaining), default=0.0)
    share = max(LEAST_PROBABILITY, LEAST_OF_LEADER * most)
    return [
        w
        for w in explaining
        if w.probability >= (LEAST_WHEN_SPOKEN_AGAINST if w.is_spoken_against else share)
    ]


def _seen_words(w: _Weighed, seen: list[Observation], base: KnowledgeBase) -> list[Evidence]:
    """What was seen, as reasons: how well this cause explains it."""
    found = []
    for observation, chance in zip(seen, w.strength, strict=True):
        label = base.symptoms[observation.symptom].label.split(":")[0].lower()
        place = f" {PLACE_WORDS[observation.where]}" if observation.where else ""
        if chance < EXPLAINS_FROM:
            found.append(Evidence(UNEXPLAINED_LOG_ODDS, f"does not explain: {label}{place}"))
            continue
        # Half the weight of a lone finding: what was seen is shared by the causes that show it.
        weight = float(np.log((chance + LEAK) / LEAK)) / 2
        text = f"{often(chance)} shows as: {label}{place}"
        found.append(Evidence(weight, text, w.cause.why(observation.symptom)))
    return found
