"""The knowledge of faults as the engine reads it: causes, symptoms, facts, checks and curves."""

from dataclasses import dataclass, field


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
    """One cause with everything the engine reads of it.

    `normal`: what is seen is no fault; `at_one_place`: it sits on one part of the platen;
    `moves_art`: its remedy is another place for the art; `wants_survey`: after it the press wants a
    survey.
    """

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
    normal: bool = False
    at_one_place: bool = False
    moves_art: bool = False
    wants_survey: bool = False
    reasons: dict[str, str] = field(default_factory=dict)

    def why(self, row: str) -> str:
        """Why a row stands: of a symptom, a fact or a property of the case; empty if unknown."""
        return self.reasons.get(row, "")


@dataclass(frozen=True)
class CheckOutcome:
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
    outcomes: tuple[CheckOutcome, ...]
    caution: str = ""

    def sensitivity(self, cause: str) -> float | None:
        """Chance 0–1 that this check shows the cause when it is at work; None if it cannot."""
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
    """Something known about how it was done.

    `log`: the log of a test press asks for it, by itself (`alone`) or as one of a group of which
    one at most holds. `measured_by`:
    measures that say what it means for a cause, where they can.
    """

    code: str
    label: str
    ask: str
    base: float
    opposite: str | None = None
    excludes: tuple[str, ...] = ()
    methods: tuple[str, ...] = ()
    log: str = ""
    measured_by: tuple[str, ...] = ()

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

    @property
    def normal(self) -> Cause:
        """The cause that is none: what is seen is normal."""
        return next(cause for cause in self.causes.values() if cause.normal)


class KnowledgeError(ValueError):
    """A data file that breaks its shape, with every place that does."""
