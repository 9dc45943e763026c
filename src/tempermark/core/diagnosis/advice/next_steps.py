"""What to find out next: checks by information per cost, questions by information.

Hypotheses are the ranked causes, taken one at a time, with the rest as one more; the
information of a check is the mutual information between its outcome and them.
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import xlogy

from tempermark.core.diagnosis.case import Case, Observation
from tempermark.core.diagnosis.knowledge.base import Check, Fact, KnowledgeBase
from tempermark.core.diagnosis.weighing.evidence import FALSE_ALARM
from tempermark.core.diagnosis.weighing.measures.registry import NEEDS
from tempermark.core.diagnosis.weighing.strengths import SILENCE, unreported

# A blank costs about this many minutes of a technician's time.
MINUTES_PER_BLANK = 4.0
# A check costs at least the walk to the press.
SHORTEST_MINUTES = 1.0
LEAST_BITS = 0.02
SEEN = "seen:"
# How often a symptom that nobody told of is there when no listed cause is at work.
SEEN_BESIDES = 0.03
MOST_QUESTIONS, MOST_SYMPTOMS_ASKED = 5, 2


@dataclass(frozen=True)
class NextCheck:
    """A check with its worth; `separates` are the causes it speaks on."""

    check: Check
    bits: float
    separates: tuple[str, ...]

    @property
    def worth(self) -> float:
        """Bits per minute, blanks counted as time."""
        return self.bits / max(
            SHORTEST_MINUTES, self.check.minutes + MINUTES_PER_BLANK * self.check.blanks
        )


@dataclass(frozen=True)
class Question:
    """Something unknown that would matter: a fact code, a key of the case, or `seen:` a symptom."""

    about: str
    text: str
    bits: float

    @property
    def symptom(self) -> str:
        """The symptom asked after, or nothing."""
        return self.about.removeprefix(SEEN) if self.about.startswith(SEEN) else ""


def _entropy(p: np.ndarray) -> np.ndarray:
    """Bits of distributions along the last axis."""
    return np.asarray(-(xlogy(p, p) / np.log(2)).sum(axis=-1))


def information_bits(weights: np.ndarray, likelihood: np.ndarray) -> float:
    """Mutual information in bits of hypotheses (n,) and outcomes; both are probabilities,
    `likelihood` (n, outcomes)."""
    gained = _entropy(weights @ likelihood) - weights @ _entropy(likelihood)
    return max(0.0, float(gained))


def bits_of_answers(weights: np.ndarray, yes: np.ndarray) -> np.ndarray:
    """Mutual information (q,) in bits of hypotheses (n,) and some yes-or-no questions, `yes`
    (q, n) being how often it is yes.
    """
    mean = yes @ weights
    both = np.stack([mean, 1 - mean], axis=-1)
    each = np.stack([yes, 1 - yes], axis=-1)
    return np.asarray(np.maximum(_entropy(both) - _entropy(each) @ weights, 0.0))


def hypotheses(probabilities: dict[str, float]) -> tuple[list[str], np.ndarray]:
    """Causes and their weights with one more for none of them, summing to 1."""
    names = list(probabilities)
    chance = np.array([probabilities[n] for n in names])
    none = float(np.prod(1 - chance))
    weights = np.append(chance, none)
    return names, weights / weights.sum()


def next_checks(
    probabilities: dict[str, float], case: Case, base: KnowledgeBase
) -> list[NextCheck]:
    """Checks worth doing by the causes' probabilities, most bits per minute first; those done
    with a clear result are left out."""
    names, weights = hypotheses(probabilities)
    settled = {d.check for d in case.checks_done if d.result != "unclear"}
    found = []
    for check in base.checks.values():
        separates = tuple(n for n in names if check.sensitivity(n))
        if check.code in settled or not separates:
            continue
        bits = information_bits(weights, _outcome_likelihood(check, names))
        if bits >= LEAST_BITS:
            found.append(NextCheck(check, bits, separates))
    return sorted(found, key=lambda item: (-item.worth, item.check.code))


def _outcome_likelihood(check: Check, names: list[str]) -> np.ndarray:
    """P(outcome | cause) (n + 1, outcomes + 1), the last outcome being nothing found."""
    count = len(check.outcomes)
    table = np.full((len(names) + 1, count + 1), FALSE_ALARM / count)
    for column, outcome in enumerate(check.outcomes):
        for row, name in enumerate(names):
            if name in outcome.causes:
                table[row, column] = outcome.causes[name]
    table[:, -1] = 0.0
    total = table.sum(axis=1, keepdims=True)
    table = np.where(total > 0.98, table * 0.98 / total, table)
    table[:, -1] = 1 - table[:, :-1].sum(axis=1)
    return table


def questions(
    probabilities: dict[str, float],
    case: Case,
    base: KnowledgeBase,
    seen: list[Observation],
    reported: frozenset[str] = frozenset(),
) -> list[Question]:
    """Facts, figures and symptoms that nobody reported and that would matter, most bits first;
    `seen` is what was. Facts that were `reported`, also those set aside as told both ways, and what
    follows from them, are not asked again.
    """
    names, weights = hypotheses(probabilities)
    known = case.facts | case.not_facts | reported
    known |= {fact.opposite for fact in map(base.facts.__getitem__, reported) if fact.opposite}
    query = [
        fact
        for fact in base.facts.values()
        if fact.code not in known and fact.is_asked_for(case.method)
    ]
    found = []
    if query:
        yes = np.array([_yes_chances(fact, names, base) for fact in query])
        weighed = zip(query, bits_of_answers(weights, yes), strict=True)
        found = [Question(fact.code, fact.ask, float(bits)) for fact, bits in weighed]
    found += _missing_figures(names, weights, case, base)
    found += _other_symptoms(names, weights, case, base, seen)
    telling = sorted((q for q in found if q.bits >= LEAST_BITS), key=lambda q: (-q.bits, q.about))
    too_many = [q for q in telling if q.symptom][MOST_SYMPTOMS_ASKED:]
    kept = [q for q in telling if q not in too_many]
    return _without_opposites(kept, base)[:MOST_QUESTIONS]


def _without_opposites(ordered: list[Question], base: KnowledgeBase) -> list[Question]:
    """Of a pair of opposite facts only the more telling is asked."""
    kept: list[Question] = []
    for question in ordered:
        fact = base.facts.get(question.about)
        if fact is None or fact.opposite not in {q.about for q in kept}:
            kept.append(question)
    return kept


def _yes_chances(fact: Fact, names: list[str], base: KnowledgeBase) -> list[float]:
    """How often a fact is true under each hypothesis; by itself under none of them."""
    signs = [base.causes[n].signs.get(fact.code) for n in names]
    return [*(fact.base if pair is None else pair[0] for pair in signs), fact.base]


def _other_symptoms(
    names: list[str], weights: np.ndarray, case: Case, base: KnowledgeBase, seen: list[Observation]
) -> list[Question]:
    """Symptoms that one cause would show and another not; silence has spoken for some of it."""
    likely = [unreported(base.causes[n], case, seen, base) for n in names]
    found = []
    for code in sorted({symptom for chances in likely for symptom in chances}):
        symptom = base.symptoms[code]
        if symptom.normal or (symptom.methods and case.method not in symptom.methods):
            continue
        strength = np.array([chances.get(code, 0.0) for chances in likely])
        there = strength * (1 - SILENCE) / (1 - SILENCE * strength)
        yes = np.append(np.maximum(there, SEEN_BESIDES), SEEN_BESIDES)
        text = f"Is this seen too: {symptom.label.lower()}?"
        bits = float(bits_of_answers(weights, yes[None])[0])
        found.append(Question(f"{SEEN}{code}", text, bits))
    return found


def _missing_figures(
    names: list[str], weights: np.ndarray, case: Case, base: KnowledgeBase
) -> list[Question]:
    found: dict[str, Question] = {}
    for about, text in dict(NEEDS.values()).items():
        if _value_at(case, about) is not None:
            continue
        touched = [
            any(NEEDS.get(m, ("",))[0] == about for m in base.causes[n].measures) for n in names
        ]
        yes = np.where([*touched, False], 0.85, 0.15)
        found[about] = Question(about, text, float(bits_of_answers(weights, yes[None])[0]))
    return list(found.values())


def _value_at(case: Case, about: str) -> float | str | None:
    part, name = about.split(".")
    value = getattr(getattr(case, part), name)
    return None if value == "unknown" else value
