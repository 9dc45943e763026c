"""Reads the data files beside it; see the README for their shape."""

import tomllib
from functools import cache
from pathlib import Path
from typing import Any

from tempermark.core.diagnosis.knowledge.base import (
    Cause,
    Check,
    CheckOutcome,
    Curve,
    Fact,
    KnowledgeBase,
    KnowledgeError,
    Shows,
    Symptom,
)
from tempermark.core.diagnosis.knowledge.soundness import problems
from tempermark.core.vocabulary.methods import METHOD_KINDS
from tempermark.core.vocabulary.sightings import TIMES

FOLDER = Path(__file__).parent
STRENGTHS = {"A": 0.90, "B": 0.55, "C": 0.20}
GROUPS = ("temperature", "movement", "moisture", "sheets", "print", "surface", "film")
FLAGS = ("before_press", "normal", "at_one_place", "moves_art", "wants_survey")


@cache
def shipped() -> KnowledgeBase:
    """The knowledge that ships with the application, checked once per process."""
    causes, reasons = {}, _load("reasons")
    for group in GROUPS:
        rows = _load(group)
        source = rows.pop("source")
        for code, row in rows.items():
            causes[code] = _cause(code, group, row, source, _reasons(code, reasons))
    base = KnowledgeBase(
        causes=causes,
        symptoms=_symptoms(),
        facts={code: _fact(code, row) for code, row in _load("facts").items()},
        checks={code: _check(code, row) for code, row in _load("checks").items()},
        curves={
            name: Curve(tuple(row["at"]), tuple(row["log_odds"]))
            for name, row in _load("measures").items()
        },
    )
    wrong = problems(base)
    if wrong:
        raise KnowledgeError("; ".join(wrong))
    return base


def _symptoms() -> dict[str, Symptom]:
    looks = _load("look_alikes")
    return {
        code: Symptom(code, **{**row, "methods": _methods(row), **looks.get(code, {})})
        for code, row in _load("symptoms").items()
    }


def _load(name: str) -> dict[str, Any]:
    with (FOLDER / f"{name}.toml").open("rb") as stream:
        return tomllib.load(stream)


def _reasons(code: str, rows: dict[str, dict[str, str]]) -> dict[str, str]:
    own = dict(rows.get(code, {}))
    like = own.pop("like", None)
    return {**rows.get(like, {}), **own} if like else own


def _cause(
    code: str, group: str, row: dict[str, Any], source: str, reasons: dict[str, str]
) -> Cause:
    return Cause(
        code=code,
        group=group,
        label=row["label"],
        prior=row["prior"],
        shows=tuple(_shows(key, strength) for key, strength in row["shows"].items()),
        where=row.get("where", {}),
        signs={fact: tuple(pair) for fact, pair in row.get("signs", {}).items()},
        context=row.get("context", {}),
        measures=tuple(row.get("measures", ())),
        settings=tuple(row.get("settings", ())),
        remedy=row["remedy"],
        remedy_open=row.get("remedy_open", row["remedy"]),
        piece=row["piece"],
        prove=row["prove"],
        source=row.get("source", source),
        **{flag: row.get(flag, False) for flag in FLAGS},
        reasons=reasons,
    )


def _fact(code: str, row: dict[str, Any]) -> Fact:
    """`methods` in the file names methods, or kinds of them such as `film`."""
    return Fact(code, **{**row, "methods": _methods(row)})


def _methods(row: dict[str, Any]) -> tuple[str, ...]:
    named = row.get("methods", ())
    return tuple(m for name in named for m in METHOD_KINDS.get(name, (name,)))


def _shows(key: str, strength: str) -> Shows:
    rest, _, when = key.partition("@")
    symptom, _, kind = rest.partition(":")
    if kind and kind not in METHOD_KINDS:
        raise KnowledgeError(f"{key}: unknown kind of methods {kind}")
    if when and when not in TIMES:
        raise KnowledgeError(f"{key}: unknown time {when}")
    strength, _, silent = strength.partition(" ")
    if silent not in ("", "silent"):
        raise KnowledgeError(f"{key}: {silent} is not “silent”")
    if strength not in STRENGTHS:
        raise KnowledgeError(f"{key}: strength {strength}, not {', '.join(STRENGTHS)}")
    methods = METHOD_KINDS[kind] if kind else ()
    return Shows(symptom, STRENGTHS[strength], methods, when or None, bool(silent))


def _check(code: str, row: dict[str, Any]) -> Check:
    outcomes = tuple(CheckOutcome(o["label"], o["causes"]) for o in row["outcomes"])
    return Check(code, **{**row, "outcomes": outcomes})
