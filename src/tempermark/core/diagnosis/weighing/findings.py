"""What was seen and told, made ready: facts completed, contradictions said, times put right."""

from dataclasses import replace

from tempermark.core.constants import HUMID_FROM
from tempermark.core.diagnosis.case import Case, Observation
from tempermark.core.diagnosis.knowledge.base import KnowledgeBase
from tempermark.core.diagnosis.weighing import network
from tempermark.core.vocabulary.sightings import TIME_WORDS


def completed(case: Case, base: KnowledgeBase) -> tuple[Case, list[str]]:
    """Facts that follow from other entries; contradictions are set aside and said."""
    contradicted = case.facts & case.not_facts
    facts, not_facts = set(case.facts - contradicted), set(case.not_facts - contradicted)
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
        f"Reported both ways, so not counted: {base.facts[code].label}."
        for code in sorted(clash | contradicted)
    ]
    seen = {o.symptom for o in case.observations} & case.not_seen
    notes += [
        "Reported as seen and as not seen, so counted as seen: "
        f"{base.symptoms[code].label.lower()}."
        for code in sorted(seen)
    ]
    settled = replace(
        case,
        facts=frozenset(facts - clash),
        not_facts=frozenset(not_facts - clash),
        not_seen=case.not_seen - seen,
    )
    return settled, notes


def findings(case: Case, base: KnowledgeBase, notes: list[str]) -> list[Observation]:
    """Distinct observations, the severest first, as many as the exact sum can carry."""
    timed = [_in_its_time(o, base, notes) for o in case.observations]
    distinct = list({(o.symptom, o.where, o.when): o for o in timed}.values())
    distinct.sort(key=lambda o: (-o.severity, o.symptom, o.where or "", o.when or ""))
    if len(distinct) > network.MOST_FINDINGS:
        notes.append(
            f"{len(distinct)} faults were seen; the {network.MOST_FINDINGS} worst are weighed."
        )
    return distinct[: network.MOST_FINDINGS]


def _in_its_time(seen: Observation, base: KnowledgeBase, notes: list[str]) -> Observation:
    """A thing that can be seen at one time only is taken to have been seen then."""
    symptom = base.symptoms[seen.symptom]
    if not symptom.when or seen.when in (None, symptom.when):
        return replace(seen, when=symptom.when or seen.when)
    label = symptom.label.lower()
    notes.append(
        f"“{label}” is seen {TIME_WORDS[symptom.when]}, not {TIME_WORDS[seen.when]}: counted so."
    )
    return replace(seen, when=symptom.when)
