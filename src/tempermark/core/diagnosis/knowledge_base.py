"""Reads and checks the data files of `knowledge/`; see the README there for their shape."""

import tomllib
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

from tempermark.core import vocabulary as codes

FOLDER = Path(__file__).parent / "knowledge"
STRENGTHS = {"A": 0.90, "B": 0.55, "C": 0.20}
GROUPS = ("temperature", "movement", "moisture", "sheets", "print", "surface", "film")


@dataclass(frozen=True)
class Shows:
    """One row cause → symptom; `methods` and `when` empty for any. That a `silent` one was not
    reported tells nothing: it is seen on some blanks only.
    """

    symptom: str
    strength: float
    methods: tuple[str, ...]
    when: str | None
    silent: bool = False


@dataclass(frozen=True)
class Cause:
    """One cause with everything the engine reads of it."""

    code: str
    group: str
    label: str
    prior: float
    shows: tuple[Shows, ...]
    where: dict[str, float]
    signs: dict[str, tuple[float, float]]
    context: dict[str, dict[str, float]]
    measures: tuple[str, ...]
    settings: tuple[str, ...]
    remedy: str
    remedy_open: str
    piece: str
    prove: str
    source: str = ""
    before_press: bool = False
    reasons: dict[str, str] = field(default_factory=dict)

    def why(self, row: str) -> str:
        """Why a row stands: of a symptom, a fact or a property of the case; empty if unknown."""
        return self.reasons.get(row, "")


@dataclass(frozen=True)
class Outcome:
    """One way a check can come out, and how often it does when a cause is at work."""

    label: str
    causes: dict[str, float]


@dataclass(frozen=True)
class Check:
    """A next step, its cost, and what to mind while doing it."""

    code: str
    label: str
    minutes: float
    blanks: int
    how: str
    outcomes: tuple[Outcome, ...]
    caution: str = ""

    def sensitivity(self, cause: str) -> float | None:
        """How often this check shows the cause when it is at work; None if it cannot."""
        found = [o.causes[cause] for o in self.outcomes if cause in o.causes]
        return max(found) if found else None


@dataclass(frozen=True)
class Symptom:
    """What is seen; `normal` when it is seldom a fault by itself, `hovered` when a heat before the
    press makes it, `when` when it can be seen at one time only. `like` says of each symptom that it
    is taken for how to tell them apart. It is asked after with `methods` only, none meaning any.

    What is normal only with a fact (`normal_with`) is a fault where that fact is denied, and where
    it is not known on a blank with the feature `fault_on`.
    """

    code: str
    label: str
    normal: bool = False
    normal_with: str = ""
    fault_on: str = ""
    hovered: bool = False
    when: str | None = None
    methods: tuple[str, ...] = ()
    seen: str = ""
    like: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Fact:
    """Something known about how it was done."""

    code: str
    label: str
    ask: str
    base: float
    opposite: str | None = None
    excludes: tuple[str, ...] = ()
    methods: tuple[str, ...] = ()

    def is_asked_for(self, method: str) -> bool:
        """Whether the question makes sense for a method; no methods means any."""
        return not self.methods or method in self.methods


@dataclass(frozen=True)
class Curve:
    """A deviation turned into log odds, straight between points."""

    at: tuple[float, ...]
    log_odds: tuple[float, ...]


@dataclass(frozen=True)
class KnowledgeBase:
    """All of it."""

    causes: dict[str, Cause]
    symptoms: dict[str, Symptom]
    facts: dict[str, Fact]
    checks: dict[str, Check]
    curves: dict[str, Curve]


class KnowledgeError(ValueError):
    """A data file that breaks its shape, with every place that does."""


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


def _load(name: str) -> dict:
    with (FOLDER / f"{name}.toml").open("rb") as stream:
        return tomllib.load(stream)


def _reasons(code: str, rows: dict[str, dict[str, str]]) -> dict[str, str]:
    own = dict(rows.get(code, {}))
    like = own.pop("like", None)
    return {**rows.get(like, {}), **own} if like else own


def _cause(code: str, group: str, row: dict, source: str, reasons: dict[str, str]) -> Cause:
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
        before_press=row.get("before_press", False),
        reasons=reasons,
    )


def _fact(code: str, row: dict) -> Fact:
    """`methods` in the file names methods, or kinds of them such as `film`."""
    return Fact(code, **{**row, "methods": _methods(row)})


def _methods(row: dict) -> tuple[str, ...]:
    named = row.get("methods", ())
    return tuple(m for name in named for m in codes.METHOD_KINDS.get(name, (name,)))


def _shows(key: str, strength: str) -> Shows:
    rest, _, when = key.partition("@")
    symptom, _, kind = rest.partition(":")
    if kind and kind not in codes.METHOD_KINDS:
        raise KnowledgeError(f"{key}: unknown kind of methods {kind}")
    if when and when not in codes.TIMES:
        raise KnowledgeError(f"{key}: unknown time {when}")
    strength, _, silent = strength.partition(" ")
    if silent not in ("", "silent"):
        raise KnowledgeError(f"{key}: {silent} is not “silent”")
    if strength not in STRENGTHS:
        raise KnowledgeError(f"{key}: strength {strength}, not {', '.join(STRENGTHS)}")
    methods = codes.METHOD_KINDS[kind] if kind else ()
    return Shows(symptom, STRENGTHS[strength], methods, when or None, bool(silent))


def _check(code: str, row: dict) -> Check:
    outcomes = tuple(Outcome(o["label"], o["causes"]) for o in row["outcomes"])
    return Check(code, **{**row, "outcomes": outcomes})


def problems(base: KnowledgeBase) -> list[str]:
    """Everything in the knowledge that breaks its own shape; empty when sound."""
    found = []
    for name, given, known in (
        ("cause", base.causes, codes.CAUSES),
        ("symptom", base.symptoms, codes.SYMPTOMS),
        ("fact", base.facts, codes.FACTS),
        ("check", base.checks, codes.CHECKS),
    ):
        found += [f"{name} {code} is not in the vocabulary" for code in set(given) - set(known)]
        found += [f"{name} {code} is missing" for code in set(known) - set(given)]
    for symptom in base.symptoms.values():
        if not (symptom.seen and symptom.like):
            found.append(f"{symptom.code}: what it looks like is missing")
        if symptom.when is not None and symptom.when not in codes.TIMES:
            found.append(f"{symptom.code}: unknown time {symptom.when}")
        unknown = set(symptom.like) - set(base.symptoms)
        found += [f"{symptom.code}: unknown look-alike {code}" for code in unknown]
    for cause in base.causes.values():
        found += [f"{cause.code}: {text}" for text in _cause_problems(cause, base)]
    asked: list[Fact | Symptom] = [*base.facts.values(), *base.symptoms.values()]
    for item in asked:
        unknown = set(item.methods) - set(codes.METHODS)
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
    found += [f"no reason for {row}" for row in sorted(rows - set(cause.reasons))]
    # A cause that takes another's reasons may have fewer rows than they have.
    known = rows | set(base.symptoms) | set(base.facts)
    found += [f"a reason for unknown {row}" for row in sorted(set(cause.reasons) - known)]
    groups = set(codes.PLACE_GROUPS) | {"other"}
    found += [f"unknown place {place}" for place in set(cause.where) - groups]
    pairs = [p for pair in cause.signs.values() for p in pair]
    if not all(0 < p < 1 for p in (cause.prior, *pairs)):
        found.append("a probability outside 0–1")
    if not all(0 <= factor <= 1 for factor in cause.where.values()):
        found.append("a place factor outside 0–1")
    return found
