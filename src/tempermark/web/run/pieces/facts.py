"""Which facts the log of a test press asks for: either-or groups, and single ones."""

from typing import Any

from tempermark.core.diagnosis.knowledge.base import Fact
from tempermark.core.diagnosis.knowledge.loading import shipped

ALONE = "alone"


def either_or_facts() -> dict[str, list[Fact]]:
    """Label of each group → its facts, of which one at most holds."""
    groups: dict[str, list[Fact]] = {}
    for fact in shipped().facts.values():
        if fact.log not in ("", ALONE):
            groups.setdefault(fact.log, []).append(fact)
    return groups


def single_facts() -> list[Fact]:
    """Facts that are asked for by themselves."""
    return [fact for fact in shipped().facts.values() if fact.log == ALONE]


def stated(codes: list[str]) -> dict[str, Any]:
    """Facts that are known already, as the log's fields hold them; unknown codes are left out."""
    known = shipped().facts
    found: dict[str, Any] = {"done": []}
    for code in codes:
        fact = known.get(code)
        if fact is None or not fact.log:
            continue
        if fact.log == ALONE:
            found["done"].append(code)
        else:
            found[f"either_{fact.log.lower()}"] = code
    return found
