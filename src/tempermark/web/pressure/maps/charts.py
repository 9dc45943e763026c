"""Numbers for the drawings of pressure and fit, in SVG units."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from contourpy import FillType, contour_generator

from tempermark.core.metrology.map.usable import Grid, Rectangle, largest_rectangle
from tempermark.core.pressure.map.field import PressureMap
from tempermark.core.pressure.pieces.placing import RaisedOutline
from tempermark.core.pressure.press.contact import CLASS_KPA
from tempermark.web.kit.drawing.projection import Projection
from tempermark.web.kit.figures import length_text, place_text, pressure_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.surveys.charts import (
    Line,
    PlatenChart,
    Text,
    bare_platen,
    corner_marks,
    filled_paths,
    station_mark,
)
from tempermark.web.pressure.mapping import Mapped
from tempermark.web.pressure.models import PressureSurvey, PullStation
from tempermark.web.pressure.setting.setting import Advice

# Lines of equal pressure, kPa: the classes' bounds, and between them.
LEVELS_KPA = (2, 7, 13, 20, 27, 35, 45, 55, 65, 80, 100)
BOUNDS_KPA = {7, 20, 45, 80}
SECTION_HEIGHT = 150.0
PLATEN_HEIGHT = 22
MOST_MM_DRAWN = 30.0


@dataclass(frozen=True)
class Closed:
    """One closed press in section, tops and heights in SVG units; the pad stands on the base."""

    platen_top: float
    stack_top: float
    stack_height: float
    pad_top: float
    pad_height: float
    pad_free_top: float
    gap: float
    words: str


@dataclass(frozen=True)
class Section:
    """The press as it stands and as it will be set; the first may be missing."""

    now: Closed | None
    then: Closed
    height: float
    base: float


def section(advice: Advice) -> Section | None:
    """The closed press drawn to scale; None where compression is not known."""
    if advice.then is None or advice.missing == "lesson":
        return None
    stack, pad = advice.load.stack_mm, advice.pad
    deep = float(pad.compression_mm(advice.then.value))
    deeper = deep - advice.lift_mm * (advice.turns or 0.0)
    compressions = [deep, deeper] if advice.unchanged is not None and advice.turns else [deep]
    tallest = max(pad.thickness_mm + stack - min(c, 0.9 * pad.thickness_mm) for c in compressions)
    per_mm = SECTION_HEIGHT / min(tallest, MOST_MM_DRAWN)
    base = tallest * per_mm + PLATEN_HEIGHT + 4

    def closed(compression: float, words: str) -> Closed:
        return _closed(stack, pad.thickness_mm, compression, per_mm, base, words)

    now = closed(deeper, "as it is now") if len(compressions) > 1 else None
    return Section(now, closed(deep, "as set"), base + 30, base)


def _closed(
    stack_mm: float, pad_mm: float, deep_mm: float, per_mm: float, base: float, words: str
) -> Closed:
    gap = max(-deep_mm, 0.0) * per_mm
    pad_height = (pad_mm - min(max(deep_mm, 0.0), 0.9 * pad_mm)) * per_mm
    stack_height = max(stack_mm * per_mm, 1.5)
    stack_top = base - pad_height - stack_height
    return Closed(
        round(stack_top - gap - PLATEN_HEIGHT, 1),
        round(stack_top, 1),
        round(stack_height, 1),
        round(base - pad_height, 1),
        round(pad_height, 1),
        round(base - pad_mm * per_mm, 1),
        round(gap, 1),
        words,
    )


def strip_chart(
    survey: PressureSurvey,
    stations: list[PullStation],
    computed: Mapped | None,
    units: Units,
    current: int | None = None,
) -> PlatenChart:
    """The platen with its strips, and the pressure between them once a map is there."""
    chart = bare_platen(survey.element, units)
    for station in stations:
        held = station.held
        state = "current" if station.pk == current else "read" if held else "open"
        summary = held.pull if held else ""
        place = place_text(station.x_mm, station.y_mm, units)
        described = f"Station {station.label}, {place}: {summary or 'not pulled'}"
        chart.stations.append(
            station_mark(
                chart.projection,
                (station.x_mm, station.y_mm),
                station.label,
                summary,
                state,
                described,
                station.pk,
            )
        )
    if computed is not None and computed.map is not None:
        draw_pressure(chart, computed.map)
    chart.summary = _summary(stations, computed, units)
    return chart


def print_chart(computed: Mapped, units: Units) -> PlatenChart:
    """The platen with the pressure of a print."""
    chart = bare_platen(computed.survey.element, units)
    draw_pressure(chart, computed.map)
    chart.summary = (
        f"Platen with contact pressure, mean {pressure_text(computed.contact.value, units)}."
    )
    return chart


def _summary(stations: list[PullStation], computed: Mapped | None, units: Units) -> str:
    pulled = len([s for s in stations if s.held])
    if not pulled:
        return "Platen without strips yet."
    kpa = f", mean about {pressure_text(computed.contact.value, units)}" if computed else ""
    return f"Platen with {pulled} strips pulled{kpa}."


def draw_pressure(chart: PlatenChart, mapped: PressureMap, wanted: str | None = None) -> None:
    """Lines of equal pressure; hatched where it is below light or outside the wanted class."""
    low, high = CLASS_KPA[wanted] if wanted else (CLASS_KPA["light"][0], CLASS_KPA["firm"][1])
    x, y, values = mapped.grid.to_the_rims(mapped.compression_mm)
    contact = mapped.pad.pressure_kpa(np.maximum(values, 0.0))
    generator = contour_generator(x, y, contact, fill_type=FillType.OuterOffset)
    view = chart.projection
    for level in LEVELS_KPA:
        for points in generator.lines(level):
            kind = "bound" if level in BOUNDS_KPA else "between"
            chart.lines.append(Line(view.path(points), f"pressure {kind}"))
            _label(chart, points, view, level)
    for lower, upper, kind in ((-np.inf, low, "weak"), (high, np.inf, "strong")):
        chart.hatched += [Line(p, kind) for p in filled_paths(generator, lower, upper, view)]


def _label(chart: PlatenChart, points: Any, view: Projection, level: int) -> None:
    """A line's pressure where it is far from the stations' words."""
    if len(points) < 6:
        return
    busy = [(s.x, s.y - 8) for s in chart.stations] + [(t.x, t.y) for t in chart.labels]
    spots = [(view.x(px), view.y(py)) for px, py in points[2:-2]]
    inside = [
        (x, y)
        for x, y in spots
        if view.left + 16 < x < view.left + view.width - 16
        and view.top + 12 < y < view.top + view.height - 12
    ]
    if not inside:
        return

    def clear(spot: tuple[float, float]) -> float:
        return min((abs(spot[0] - bx) * 0.6 + abs(spot[1] - by) for bx, by in busy), default=99)

    best = max(inside, key=clear)
    if clear(best) > 18:
        chart.labels.append(Text(best[0], best[1] + 4, f"{level}", "pressure"))


@dataclass(frozen=True)
class BothHold:
    """Where temperature and pressure both suit a recipe."""

    rectangle: Rectangle | None
    area_fraction: float
    temperature_fraction: float
    pressure_fraction: float


def both_hold(
    grid: Grid, deviation_c: np.ndarray, tolerance_c: float, pressure: PressureMap, wanted: str
) -> BothHold:
    """The part of a platen in tolerance (rows, columns in K from target) and in a class."""
    warm = np.abs(deviation_c) <= tolerance_c
    low, high = CLASS_KPA[wanted]
    contact = grid.shaped(pressure.at(grid.places_mm))
    held = (contact >= low) & (contact <= high)
    both = warm & held
    return BothHold(
        largest_rectangle(both, grid), float(both.mean()), float(warm.mean()), float(held.mean())
    )


def mark_rectangle(chart: PlatenChart, rectangle: Rectangle | None) -> None:
    """Corner marks of the part where both hold."""
    if rectangle is not None:
        chart.corners = corner_marks(rectangle, chart.projection)


@dataclass(frozen=True)
class PieceDrawing:
    """A piece with its print, raised parts and their shadows, in SVG units."""

    view: Projection
    width: float
    height: float
    frame: dict[str, Any]
    print_box: dict[str, Any]
    parts: list[dict[str, Any]]
    shadows: list[dict[str, Any]]
    moved: dict[str, Any] | None

    @property
    def bottom(self) -> float:
        """Where the piece's front edge is drawn."""
        return self.view.top + self.view.height


def piece_drawing(
    size_mm: tuple[float, float],
    print_: Rectangle,
    parts: list[RaisedOutline],
    shadows: list[Rectangle],
    moved: Rectangle | None,
) -> PieceDrawing:
    """A piece as it lies, its front at the bottom."""
    view = Projection.fitting(*size_mm, 480, 560, left=12, top=12)

    def box(r: Rectangle) -> dict[str, Any]:
        return view.box(r.x_mm, r.y_mm, r.width_mm, r.height_mm)

    return PieceDrawing(
        view,
        view.width + 24,
        view.height + 40,
        view.box(0, 0, *size_mm),
        box(print_),
        [box(p.outline) | {"name": p.name} for p in parts],
        [box(s) for s in shadows],
        box(moved) if moved else None,
    )


@dataclass(frozen=True)
class History:
    """Tilt over time as a small chart."""

    points: list[dict[str, Any]]
    path: str
    width: float
    height: float
    limit_y: tuple[float, float]
    zero_y: float
    first: str
    last: str


def tilt_history(surveys: list[PressureSurvey], enough_mm: float, units: Units) -> History | None:
    """How level a press lay at each survey, oldest first: the worse of both ways, mm."""
    rows = [s for s in reversed(surveys) if s.right_mm is not None]
    if len(rows) < 2:
        return None
    width, height, left = 560.0, 130.0, 44.0
    worst = [s.right_mm if abs(s.right_mm) >= abs(s.back_mm) else s.back_mm for s in rows]
    reach = max(1.0, max(abs(w) for w in worst) * 1.15)
    begun, ended = rows[0].taken_at, rows[-1].taken_at
    span = max((ended - begun).total_seconds(), 1.0)

    def y(value: float) -> float:
        return round(height / 2 - value / reach * (height / 2 - 12), 1)

    points = [
        {
            "x": round(left + (s.taken_at - begun).total_seconds() / span * (width - left - 16), 1),
            "y": y(w),
            "text": f"{s.taken_at:%-d %b}: {length_text(w, units, 2, sign=True)}",
        }
        for s, w in zip(rows, worst, strict=True)
    ]
    path = "M" + " L".join(f"{p['x']} {p['y']}" for p in points)
    return History(
        points,
        path,
        width,
        height,
        (y(enough_mm), y(-enough_mm)),
        y(0),
        f"{begun:%-d %b %Y}",
        f"{ended:%-d %b %Y}",
    )
