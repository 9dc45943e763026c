"""A recipe as a sequence of typed steps, and the schools that do a step differently."""

from dataclasses import asdict, dataclass, field, replace
from typing import Any

from tempermark.core.thermal.result.dye import equal_dose_time_s

# Kinds of step in the order in which they usually come: what the step is called, and whether the
# press's heat does it.
KINDS = {
    "check": ("check", False),
    "mix": ("mix", False),
    "prepare": ("prepare", False),
    "coat": ("coat", False),
    "dry": ("dry", False),
    "powder": ("powder", False),
    "hover": ("hover", True),
    "cure": ("cure", True),
    "laminate": ("laminate", True),
    "trim": ("trim", False),
    "set": ("change the dial", False),
    "pre_press": ("pre-press", True),
    "place": ("place and fix", False),
    "press": ("press", True),
    "peel": ("peel", False),
    "second_press": ("second press", True),
    "cool": ("cool", False),
    "rest": ("rest", False),
    "wash_test": ("wash test", False),
}
MAIN = "press"
# What a recipe of a method lays onto its blank; others that coat brush it on.
COATING_OF_METHOD = {"spray_coating": "sprayed", "laminate_coating": "laminated"}
BRUSHED = "brushed"
# Steps in which the stack lies open under the platen, without contact.
WITHOUT_CONTACT = ("hover",)


@dataclass(frozen=True)
class RecipeStep:
    """One step: what is done, and where the press does it the window, pressure and stack.

    `temperature_c` true, from and to, `lower_c` of a heated lower platen; `time_s` from and to;
    `stack` codes of layers from the platen down, with words behind; `gap_mm` of a hover.
    """

    kind: str
    do: str = ""
    temperature_c: tuple[float, float] | None = None
    time_s: tuple[float, float] | None = None
    pressure: str = ""
    peel: str = ""
    gap_mm: float | None = None
    lower_c: tuple[float, float] | None = None
    stack: tuple[str, ...] = ()
    look_for: str = ""
    cautions: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """What the step is called."""
        return KINDS[self.kind][0]

    @property
    def is_heated(self) -> bool:
        """Whether a window belongs to it."""
        return KINDS[self.kind][1]


@dataclass(frozen=True)
class School:
    """One of several ways the trade does the main press: what it changes, costs and risks.

    Only what differs is given. `equal_dose` asks for the dwell that comes out like the main press
    at this school's temperature: by the dye's clock alone until core/pressing/schools.py has
    pressed it through its own stack; `upper_only` leaves a heated lower platen off. `polyester`
    is the share of the blanks it accepts, from and to.
    """

    name: str
    costs: str
    risks: str
    temperature_c: tuple[float, float] | None = None
    time_s: tuple[float, float] | None = None
    equal_dose: bool = False
    pressure: str = ""
    peel: str = ""
    stack: tuple[str, ...] = ()
    polyester: tuple[float, float] | None = None
    upper_only: bool = False

    def applied(self, main: RecipeStep) -> RecipeStep:
        """The main press as this school does it."""
        warm = self.temperature_c or main.temperature_c
        time_s = self.time_s or main.time_s
        if self.equal_dose and not self.time_s and main.temperature_c and main.time_s and warm:
            time_s = equal_dose_window(main.temperature_c, main.time_s, warm)
        return replace(
            main,
            temperature_c=warm,
            time_s=time_s,
            pressure=self.pressure or main.pressure,
            peel=self.peel or main.peel,
            stack=self.stack or main.stack,
            lower_c=None if self.upper_only else main.lower_c,
        )


def equal_dose_window(
    temperature_c: tuple[float, float], time_s: tuple[float, float], to_c: tuple[float, float]
) -> tuple[float, float]:
    """Dwells from and to that give the dye dose of a window at the middle of another, whole s."""
    middle, target = sum(temperature_c) / 2, sum(to_c) / 2
    low, high = (float(round(equal_dose_time_s(middle, t, target))) for t in time_s)
    return low, high


@dataclass(frozen=True)
class Sheet:
    """All of a recipe: for which method and blank, its steps and schools, what is normal.

    `blank` is the code of the kind of blank it is written for (core/recipes/blank_types.toml);
    `code` names a shipped recipe for good.
    """

    name: str
    method: str
    blank_kind: str
    steps: tuple[RecipeStep, ...]
    schools: tuple[School, ...] = ()
    cautions: tuple[str, ...] = ()
    normal: tuple[str, ...] = ()
    faults: tuple[str, ...] = ()
    note: str = ""
    jobs: tuple[int, ...] = field(default=())
    code: str = ""
    blank: str = ""

    @property
    def lays_coating(self) -> str:
        """The coating that the recipe itself lays on before its main press; empty for none."""
        if self.method in COATING_OF_METHOD:
            return COATING_OF_METHOD[self.method]
        before = self.steps[: self.steps.index(self.main)]
        return BRUSHED if any(step.kind == "coat" for step in before) else ""

    @property
    def main(self) -> RecipeStep:
        """The step the recipe is named for: its first press."""
        return next(step for step in self.steps if step.kind == MAIN)

    def main_by(self, school: str) -> RecipeStep:
        """The main press as a school does it; as written for a name it does not have."""
        found = next((s for s in self.schools if s.name == school), None)
        return found.applied(self.main) if found else self.main


def step_from_dict(row: dict[str, Any]) -> RecipeStep:
    """A step as stored; what is left out is empty. Raises TypeError on a key it does not have."""
    return RecipeStep(**{key: _held(value) for key, value in row.items()})


def school_from_dict(row: dict[str, Any]) -> School:
    """A school as stored."""
    return School(**{key: _held(value) for key, value in row.items()})


def to_dict(part: RecipeStep | School) -> dict[str, Any]:
    """As stored: only what is given."""
    return {key: value for key, value in asdict(part).items() if value not in (None, "", (), False)}


def _held(value: Any) -> Any:
    return tuple(value) if isinstance(value, list) else value


def sheet_from_dict(row: dict[str, Any]) -> Sheet:
    """A recipe as in the shipped files."""
    rest = {key: _held(value) for key, value in row.items() if key not in ("step", "school")}
    steps = tuple(step_from_dict(step) for step in row["step"])
    return Sheet(steps=steps, schools=tuple(map(school_from_dict, row.get("school", ()))), **rest)
