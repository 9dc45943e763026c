"""Stations of a survey: the fixed grids and a person's own points."""

from dataclasses import dataclass
from string import ascii_uppercase
from typing import Any

from tempermark.core.errors import InputError, Problem
from tempermark.core.metrology.map.adaptive import first_places
from tempermark.core.phrases import phrase
from tempermark.core.units import read_entry
from tempermark.web.kit.figures import place_text, size_text
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text

ADAPTIVE, KNOWN, SPOT = "adaptive", "known", "spot"
# Their stations come one by one, each where it tells most.
STEP_BY_STEP = (ADAPTIVE, KNOWN)
GRIDS = {"3x3": (3, 3), "4x4": (4, 4), "5x5": (5, 5)}
# Elements run cool at their margins, so the outer stations stand close to the rim.
INSET_SHARE, LARGEST_INSET_MM = 0.06, 25.0
MOST_POINTS = 2000


@dataclass(frozen=True)
class GridPlace:
    """A station to be: label and place in mm."""

    label: str
    x_mm: float
    y_mm: float


def grid_places(grid: str, width_mm: float, height_mm: float) -> list[GridPlace]:
    """Stations of a fixed grid, walked to and fro from the front left."""
    columns, rows = GRIDS[grid]
    xs = _spread(width_mm, columns)
    ys = _spread(height_mm, rows)
    places = []
    for row, y in enumerate(ys):
        walk = range(columns) if row % 2 == 0 else reversed(range(columns))
        places += [GridPlace(f"{ascii_uppercase[c]}{row + 1}", xs[c], y) for c in walk]
    return places


def spot_station(width_mm: float, height_mm: float) -> list[GridPlace]:
    """The one place of a spot check: always the middle."""
    return [GridPlace("middle", round(width_mm / 2, 1), round(height_mm / 2, 1))]


def first_stations(width_mm: float, height_mm: float) -> list[GridPlace]:
    """Where a survey begins that asks for as few readings as it needs."""
    places = first_places(width_mm, height_mm)
    return [GridPlace(f"N{i}", round(x, 1), round(y, 1)) for i, (x, y) in enumerate(places, 1)]


def known_station(place_mm: tuple[float, float], order: int) -> GridPlace:
    """The next place of a survey of an element that is known."""
    return GridPlace(f"N{order + 1}", round(place_mm[0], 1), round(place_mm[1], 1))


def _spread(size_mm: float, count: int) -> list[float]:
    inset = min(LARGEST_INSET_MM, INSET_SHARE * size_mm)
    step = (size_mm - 2 * inset) / (count - 1)
    return [round(inset + i * step, 1) for i in range(count)]


def own_places(text: str, width_mm: float, height_mm: float, units: Units) -> list[GridPlace]:
    """Stations from lines `x, y` or `x y` in a person's units; InputError names every bad line."""
    places: list[GridPlace] = []
    problems: list[Problem] = []
    seen: dict[tuple[float, float], int] = {}
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        place, problem = _own_place(line, (width_mm, height_mm), units)
        if not problem and place in seen:
            problem = f"the same point as line {seen[place]}"
        if problem:
            problems.append(
                Problem(
                    f"line {number}", phrase("Line {n}: {problem}.", n=str(number), problem=problem)
                )
            )
            continue
        seen[place] = number
        places.append(GridPlace(f"P{len(places) + 1}", *place))
    if not places and not problems:
        problems.append(
            Problem(
                None, f"Give at least one point, as “x, y” in {units.symbol('length')}, one a line."
            )
        )
    if len(places) > MOST_POINTS:
        problems.append(Problem(None, f"At most {MOST_POINTS} points."))
    if problems:
        raise InputError(problems)
    return places


def _halves(line: str) -> list[str]:
    """Split at a semicolon, else at the one comma, else at spaces: `120; 30`, `120, 30`,
    `7,5; 30` and `10 cm, 4 in` all hold two parts.
    """
    if ";" in line:
        return line.split(";")
    return line.split(",") if line.count(",") == 1 else line.split()


def _own_place(line: str, size_mm: tuple[float, float], units: Units) -> tuple[Any, ...]:
    parts = _halves(line)
    if len(parts) != 2:
        return None, f"“{line.strip()[:40]}” is not a point; right is “x, y”"
    try:
        x, y = (read_entry(part, "length", units.length).value for part in parts)
    except InputError as error:
        return None, error_text(error, units).rstrip(".")
    width_mm, height_mm = size_mm
    if not (0 <= x <= width_mm and 0 <= y <= height_mm):
        where, platen = place_text(x, y, units), size_text(size_mm, units)
        return None, f"{where} is off the platen of {platen}"
    return (round(x, 3), round(y, 3)), None
