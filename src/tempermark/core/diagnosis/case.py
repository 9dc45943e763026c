"""One fault case as the engine takes it. None is unknown, never false."""

from dataclasses import dataclass, field


@dataclass(frozen=True)
class CaseBlank:
    """The blank; sizes in mm, polyester as a share 0–1."""

    kind: str | None = None
    polyester: float | None = None
    colour: str | None = None
    coating: str | None = None
    features: tuple[str, ...] | None = None
    width_mm: float | None = None
    height_mm: float | None = None
    thickness_mm: float | None = None
    material: str | None = None


@dataclass(frozen=True)
class CaseWindow:
    """What the recipe asks: true temperature in °C, dwell in s, pressure class, peel; and the same
    of its long-and-lower school, where it has one that comes out alike.
    """

    temperature_c: tuple[float, float] | None = None
    time_s: tuple[float, float] | None = None
    pressure: str | None = None
    peel: str | None = None
    lower_temperature_c: tuple[float, float] | None = None
    lower_time_s: tuple[float, float] | None = None


@dataclass(frozen=True)
class Actual:
    """What was done: dial and true °C at the print, total dwell in s over closings."""

    set_c: float | None = None
    measured_c: float | None = None
    measured_uncertainty_c: float = 0.0
    time_s: float | None = None
    closures: int | None = None
    pressure: str | None = None
    peel: str | None = None
    # Dye dose or adhesive flow through the stack that was used, as a share of what the recipe's own
    # stack lets through at the same setting; by the heat solver.
    heat_through: float | None = None
    # The dwell of one closing that gives what several gave, in s; by the heat solver.
    effective_s: float | None = None


@dataclass(frozen=True)
class WorkedBefore:
    """A setting that printed well on this blank."""

    temperature_c: float | None = None
    time_s: float | None = None
    pressure: str | None = None


@dataclass(frozen=True)
class MapAtPrint:
    """From the press's survey: true °C at the mark and over the art, and the size in mm of the part
    that prints may go on.
    """

    at_mark_c: float | None = None
    at_mark_uncertainty_c: float = 0.0
    coolest_c: float | None = None
    hottest_c: float | None = None
    surveyed: str | None = None
    usable_mm: tuple[float, float] | None = None


@dataclass(frozen=True)
class CasePress:
    """The press, its calibration line and its pressure screw where learned."""

    kind: str | None = None
    name: str | None = None
    timer_max_s: float | None = None
    gain: float = 1.0
    resolution_c: float = 1.0
    lift_mm_per_turn: float | None = None
    tightens: str | None = None
    thickness_when_set_mm: float | None = None


@dataclass(frozen=True)
class CaseArt:
    """Size of the art and placing tolerance, in mm."""

    width_mm: float | None = None
    height_mm: float | None = None
    placement_mm: float | None = None


@dataclass(frozen=True)
class Observation:
    """One thing seen; severity 1 slight to 3 severe."""

    symptom: str
    where: str | None = None
    when: str | None = None
    severity: int = 2


@dataclass(frozen=True)
class CheckDone:
    """A check's result for one cause: confirms, excludes or unclear."""

    check: str
    result: str
    cause: str | None


@dataclass(frozen=True)
class Case:
    """Everything known about one faulty piece."""

    method: str
    observations: tuple[Observation, ...]
    press: CasePress = field(default_factory=CasePress)
    blank: CaseBlank = field(default_factory=CaseBlank)
    recipe: CaseWindow = field(default_factory=CaseWindow)
    actual: Actual = field(default_factory=Actual)
    worked_before: WorkedBefore = field(default_factory=WorkedBefore)
    map_at_print: MapAtPrint = field(default_factory=MapAtPrint)
    art: CaseArt = field(default_factory=CaseArt)
    ambient_c: float | None = None
    relative_humidity: float | None = None
    facts: frozenset[str] = frozenset()
    not_facts: frozenset[str] = frozenset()
    checks_done: tuple[CheckDone, ...] = ()
    # Symptoms looked for and not found.
    not_seen: frozenset[str] = frozenset()
