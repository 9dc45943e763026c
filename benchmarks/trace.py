"""Closed loop: a hidden cause, symptoms drawn from the model, checks answered by it with noise, and
what it costs until the cause stands out.

Three ways to choose the next check: ours (most information per minute and blank), the likeliest
cause's own check, and the best pair of checks (two steps ahead, every outcome followed). The same
hidden causes and the same luck for each. Also: how long one diagnosis takes.
"""

import time
from dataclasses import replace
from typing import Any

import numpy as np

from tempermark.core.diagnosis.advice.next_steps import (
    MINUTES_PER_BLANK,
    SHORTEST_MINUTES,
)
from tempermark.core.diagnosis.advice.reversals import with_outcome
from tempermark.core.diagnosis.case import Actual, Case, CaseBlank, CaseWindow, Observation
from tempermark.core.diagnosis.engine import diagnose
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.diagnosis.weighing.evidence import FALSE_ALARM
from tempermark.core.vocabulary.sightings import PLACE_GROUPS

CASES, SEED = 150, 7
SURE, MOST_CHECKS = 0.8, 8
LOOKED_AT = 6
BASE = shipped()
# A dye print and a film, pressed as asked.
SITUATIONS = (
    Case(
        "dye_sublimation",
        (),
        blank=CaseBlank(kind="garment", polyester=1.0, colour="white", coating="none"),
        recipe=CaseWindow((195, 205), (45, 60), "medium"),
        actual=Actual(set_c=200, time_s=52, closures=1),
    ),
    Case(
        "heat_transfer_film",
        (),
        blank=CaseBlank(kind="bag", polyester=0.0, colour="light", coating="none"),
        recipe=CaseWindow((155, 162), (10, 15), "medium"),
        actual=Actual(set_c=158, time_s=12, closures=1),
    ),
)


def cost(check) -> float:
    """Minutes of a technician, blanks counted as time."""
    return max(SHORTEST_MINUTES, check.minutes + MINUTES_PER_BLANK * check.blanks)


def drawn(rng) -> tuple[Case, str] | None:
    """A case with what a hidden cause shows, and that cause; None where it shows nothing."""
    case = SITUATIONS[rng.integers(len(SITUATIONS))]
    codes = list(BASE.causes)
    prior = np.array([BASE.causes[c].prior for c in codes])
    cause = BASE.causes[codes[rng.choice(len(codes), p=prior / prior.sum())]]
    group = max(cause.where, key=lambda g: cause.where[g]) if cause.where else "all"
    place = PLACE_GROUPS.get(group, ("all",))[0]
    seen = [
        Observation(row.symptom, place, row.when or "on_opening", 2)
        for row in cause.shows
        if (not row.methods or case.method in row.methods) and rng.random() < row.strength
    ]
    if not seen or all(BASE.symptoms[o.symptom].normal for o in seen):
        return None
    return replace(case, observations=tuple(seen[:4])), cause.code


def answered(case: Case, code: str, hidden: str, luck: float) -> Case:
    """The case with a check's outcome: as the hidden cause shows it, or nothing found."""
    check = BASE.checks[code]
    chances = [o.causes.get(hidden, FALSE_ALARM / len(check.outcomes)) for o in check.outcomes]
    steps = np.cumsum(np.array(chances) * min(1.0, 0.98 / sum(chances)))
    found = int(np.searchsorted(steps, luck))
    label = check.outcomes[found].label if found < len(check.outcomes) else ""
    return with_outcome(case, check, label)


def ours(case: Case, summary) -> str:
    """The first of the next checks."""
    return summary.next_checks[0].check.code


def likeliest(case: Case, summary) -> str:
    """The check that shows the likeliest cause best, the cheapest of such."""
    done = {d.check for d in case.checks_done}
    for ranked in summary.causes:
        speaks = [
            c
            for c in BASE.checks.values()
            if c.code not in done and c.sensitivity(ranked.cause.code)
        ]
        if speaks:
            best = max(speaks, key=lambda c: (c.sensitivity(ranked.cause.code), -cost(c)))
            return best.code
    return summary.next_checks[0].check.code


def two_ahead(case: Case, summary) -> str:
    """The check whose information, with the best one after each outcome, is most per minute."""
    best, most = summary.next_checks[0].check.code, -1.0
    for item in summary.next_checks[:LOOKED_AT]:
        outcomes = item.check.outcomes
        chances = np.array([_chance(o, summary) for o in outcomes])
        chances = np.append(chances, max(0.02, 1 - chances.sum()))
        bits, spent = item.bits, cost(item.check)
        for n, chance in enumerate(chances / chances.sum()):
            label = outcomes[n].label if n < len(outcomes) else ""
            then = diagnose(with_outcome(case, item.check, label), BASE)
            if _isolated(then) or not then.next_checks:
                continue
            after = then.next_checks[0]
            bits += chance * after.bits
            spent += chance * cost(after.check)
        if bits / spent > most:
            best, most = item.check.code, bits / spent
    return best


def _chance(outcome, summary) -> float:
    whole = sum(r.probability for r in summary.causes) or 1.0
    by_cause = [
        outcome.causes.get(r.cause.code, 0.0) * r.probability / whole for r in summary.causes
    ]
    return sum(by_cause) + FALSE_ALARM / 2


def _isolated(summary) -> bool:
    chances = [r.probability for r in summary.causes]
    return bool(chances) and chances[0] >= SURE and (len(chances) == 1 or chances[1] < SURE / 2)


def traced(case: Case, hidden: str, choose, luck: np.ndarray) -> tuple[float, bool]:
    """What it costs until a cause stands out or checks are used up, and whether it is the one."""
    spent = 0.0
    summary = diagnose(case, BASE)
    for step in range(MOST_CHECKS):
        if _isolated(summary) or not summary.next_checks:
            break
        code = choose(case, summary)
        spent += cost(BASE.checks[code])
        case = answered(case, code, hidden, float(luck[step]))
        summary = diagnose(case, BASE)
    return spent, bool(summary.causes) and summary.causes[0].cause.code == hidden


def run() -> None:
    """Print costs and shares found, and ratios to ours."""
    rng = np.random.default_rng(SEED)
    result: list[Any] = []
    while len(result) < CASES:
        found = drawn(rng)
        if found is not None:
            result.append((*found, rng.random(MOST_CHECKS)))
    spent = {}
    for name, choose in (("ours", ours), ("two steps ahead", two_ahead), ("likeliest", likeliest)):
        results = [traced(case, hidden, choose, luck) for case, hidden, luck in result]
        costs = np.array([r[0] for r in results])
        spent[name] = costs.mean()
        right = np.mean([r[1] for r in results])
        spread = costs.std(ddof=1) / np.sqrt(len(costs))
        print(f"{name}: {costs.mean():.1f} ± {2 * spread:.1f} min, right in {right:.0%}")
    print(f"ours against two steps ahead: {spent['ours'] / spent['two steps ahead']:.2f}")
    print(f"ours against the likeliest cause's check: {spent['ours'] / spent['likeliest']:.2f}")
    begun = time.perf_counter()
    for case, _, _ in result:
        diagnose(case, BASE)
    each = (time.perf_counter() - begun) / len(result)
    print(f"one diagnosis: {each * 1e3:.1f} ms; a thousand: {each * 1e3:.1f} s")
