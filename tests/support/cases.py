"""Fault cases for tests: small ones as documents, and the worked ones."""

from tempermark.files.case import answer
from tests.support import examples

GIVEN = {p.stem: examples.load(p) for p in sorted(examples.CASES.glob("*.json"))}


def case_of(symptom, where, **more):
    seen = {"symptom": symptom, "where": where, "when": "on_opening"}
    return {
        "format": "tempermark.case/1",
        "method": "dye_sublimation",
        "observations": [seen],
        **more,
    }


def chance(document, code):
    return {c["code"]: c["probability"] for c in answer(document)["causes"]}.get(code, 0.0)
