"""Figures and words that a technician may tell of a case where it did not know them."""

from dataclasses import dataclass

from tempermark.core.errors import InputError
from tempermark.core.units import read_entry
from tempermark.core.vocabulary.settings import PEELS, PRESSURE_CLASSES
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units

BOUNDS = {"temperature": (-50.0, 600.0), "time": (0.0, 7200.0)}


@dataclass(frozen=True)
class Figure:
    """What is figure_summary: its label, and a kind of entry or the words to choose from."""

    label: str
    kind: str | tuple[str, ...]


# Key of the case → what may be figure_summary of it.
FIGURES = {
    "actual.measured_c": Figure("true temperature there", "temperature"),
    "actual.time_s": Figure("total dwell", "time"),
    "actual.pressure": Figure("pressure", PRESSURE_CLASSES),
    "actual.peel": Figure("peel", PEELS),
    "blank.polyester": Figure("polyester", "share"),
}


def read(about: str, typed: str, units: Units) -> float | str:
    """The value typed, in °C, s or as a share; raises InputError."""
    kind = FIGURES[about].kind
    if isinstance(kind, tuple):
        if typed not in kind:
            raise InputError.single(about, f"“{typed[:20]}” is none of {', '.join(kind)}.")
        return typed
    if kind == "share":
        share = read_entry(typed.replace("%", ""), "length", "mm").value / 100
        if not 0 <= share <= 1:
            raise InputError.single(about, "A share of polyester is between 0 and 100 %.")
        return share
    value = read_entry(typed, kind, units.of(kind)).value
    low, high = BOUNDS[kind]
    if not low <= value <= high:
        raise InputError.single(about, f"“{typed[:20]}” is out of range.")
    return value


def figure_summary(about: str, value: float | str | None, units: Units) -> str:
    """Label and value in a person's unit; without a value it was forgotten."""
    figure = FIGURES[about]
    if value is None:
        return f"{figure.label}: forgotten"
    if figure.kind == "temperature":
        return f"{figure.label}: {temperature_text(float(value), units)}"
    if figure.kind == "share":
        return f"{figure.label}: {value:.0%}".replace("%", "\u00a0%")
    return (
        f"{figure.label}: {value:g}\u00a0s" if figure.kind == "time" else f"{figure.label}: {value}"
    )
