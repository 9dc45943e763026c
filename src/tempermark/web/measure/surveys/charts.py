"""Results of a survey into numbers for the platen chart's SVG."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any

import numpy as np
from contourpy import FillType, contour_generator

from tempermark.core.metrology.map.usable import Grid, Rectangle
from tempermark.core.units import from_si, to_si
from tempermark.web.kit.drawing.projection import Projection
from tempermark.web.kit.figures import minus, place_text, temperature_number, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.surveys.mapping import Measured, StationValue
from tempermark.web.presses.models import Element

BOX = (500, 600)
MARGIN = 46
# At most about this many contour lines; steps people count in.
MOST_CONTOURS = 14
STEPS = (1, 2, 5, 10, 20)
MOST_FIGURES = 60
LABEL_CLEARANCE = 17
CORNER = 26


@dataclass(frozen=True)
class Text:
    """A figure on the chart."""

    x: float
    y: float
    text: str
    kind: str = ""
    anchor: str = "middle"


HATCHING = {"below": "fall-left", "above": "fall-right", "weak": "sparse"}


@dataclass(frozen=True)
class Line:
    """A contour line with its kind: below, target or above."""

    path: str
    kind: str

    @property
    def hatching(self) -> str:
        """Which hatching fills it: form tells too much from too little, not colour alone."""
        return HATCHING.get(self.kind, "dense")


@dataclass(frozen=True)
class StationMark:
    """A station as drawn."""

    pk: int
    x: float
    y: float
    label: str
    figure: str
    state: str
    text_x: float
    text_anchor: str
    description: str


@dataclass
class PlatenChart:
    """Everything the template draws, in SVG units."""

    projection: Projection
    width: float
    height: float
    frame: dict[str, Any]
    stations: list[StationMark]
    lines: list[Line] = field(default_factory=list)
    labels: list[Text] = field(default_factory=list)
    hatched: list[Line] = field(default_factory=list)
    corners: list[str] = field(default_factory=list)
    rulers: list[Text] = field(default_factory=list)
    ticks: list[str] = field(default_factory=list)
    suggestion: dict[str, Any] | None = None
    art: dict[str, Any] | None = None
    summary: str = ""

    @property
    def bottom(self) -> float:
        """Where the platen's front rim is drawn."""
        return self.projection.top + self.projection.height


def platen_chart(
    computed: Measured,
    rectangle: Rectangle | None,
    units: Units,
    current: int | None = None,
    shift_c: float = 0.0,
) -> PlatenChart:
    """The platen chart of a survey: deviation from target once moved by `shift_c`.

    Figures at the stations move with the contours, so that both speak of one dial.
    """
    chart = bare_platen(computed.survey.element, units)
    view = chart.projection
    with_figures = len(computed.stations) <= MOST_FIGURES
    chart.stations = [
        _station(v, view, units, v.station.pk == current, shift_c, with_figures)
        for v in computed.stations
    ]
    if computed.drawn is not None:
        _contours(chart, computed, units, shift_c)
    if computed.result is not None and computed.result.map is not None:
        if rectangle is not None:
            chart.corners = corner_marks(rectangle, view)
        _suggest(chart, computed, view)
    chart.summary = _summary(computed, units)
    return chart


def bare_platen(element: Element, units: Units) -> PlatenChart:
    """A platen with its rulers and nothing on it."""
    view = Projection.fitting(element.width_mm, element.height_mm, *BOX, left=MARGIN, top=8)
    chart = PlatenChart(
        projection=view,
        width=round(view.width + MARGIN + 34, 1),
        height=round(view.height + 52, 1),
        frame=view.box(0, 0, element.width_mm, element.height_mm),
        stations=[],
    )
    _rulers(chart, view, units)
    return chart


def _station(
    value: StationValue,
    view: Projection,
    units: Units,
    is_current: bool,
    shift_c: float,
    with_figures: bool,
) -> StationMark:
    station = value.station
    figure = ""
    if value.true is not None and with_figures:
        figure = _figure(value, units, shift_c)
    state = "current" if is_current else "read" if value.true else "open"
    summary = f"{figure} true" if figure else "not read"
    place = (station.x_mm, station.y_mm)
    described = f"Station {station.label}, {place_text(*place, units)}: {summary}"
    return station_mark(view, place, station.label, figure, state, described, station.pk)


def station_mark(
    view: Projection,
    place: list[float] | tuple[float, float],
    label: str,
    figure: str,
    state: str,
    described: str,
    pk: int = 0,
) -> StationMark:
    """A station at a place in mm, its figure kept inside the drawing."""
    x, y = view.x(place[0]), view.y(place[1])
    near_right = x > view.left + view.width - 40
    near_left = x < view.left + 30
    return StationMark(
        pk,
        x,
        y,
        label,
        figure,
        state,
        x + (8 if near_right else -8 if near_left else 0),
        "end" if near_right else "start" if near_left else "middle",
        described,
    )


def _figure(value: StationValue, units: Units, shift_c: float) -> str:
    """`193.4`; of a strip `190–199`, `≥190` or `<182`."""
    if value.bounds_c is None:
        return _shown(value.true.true_c + shift_c, units)
    low, high = (_shown(b + shift_c, units).removesuffix(".0") for b in value.bounds_c)
    if low == high:
        return low
    if np.isinf(value.bounds_c[0]):
        return f"<{high}"
    return f"≥{low}" if np.isinf(value.bounds_c[1]) else f"{low}–{high}"


def _shown(value_c: float, units: Units) -> str:
    return temperature_number(value_c, units, 1)


# The ruler's unit → steps of its marks, the coarser one on a platen from this many of them.
RULER_STEPS = {"mm": (50, 100), "in": (2, 4)}
COARSE_FROM_MM = 250


def _rulers(chart: PlatenChart, view: Projection, units: Units) -> None:
    each_mm = to_si(1.0, "length", units.length)
    step = RULER_STEPS[units.length][max(view.width_mm, view.height_mm) >= COARSE_FROM_MM]
    for mark in _marks(view.width_mm / each_mm, step):
        x, y = view.x(mark * each_mm), view.y(0)
        chart.ticks.append(f"M{x} {y} V{y + 6}")
        chart.rulers.append(Text(x, y + 20, f"{mark:.0f}"))
    for mark in _marks(view.height_mm / each_mm, step):
        x, y = view.x(0), view.y(mark * each_mm)
        chart.ticks.append(f"M{x} {y} H{x - 6}")
        chart.rulers.append(Text(x - 9, y + 4, f"{mark:.0f}", anchor="end"))


def _marks(length: float, step: int) -> np.ndarray:
    return np.arange(0, length + 0.02 * step, step)


def _contours(chart: PlatenChart, computed: Measured, units: Units, shift_c: float) -> None:
    mapped = computed.drawn
    deviation_c = mapped.map_c - computed.survey.target_c + shift_c
    draw_deviation(chart, mapped.grid, deviation_c, computed.survey.tolerance_c, units)


def draw_deviation(
    chart: PlatenChart, grid: Grid, deviation_c: np.ndarray, tolerance_c: float, units: Units
) -> None:
    """Contours with their labels, and hatching beyond the tolerance, from (rows, columns) in K."""
    view = chart.projection
    x, y, values = grid.to_the_rims(deviation_c)
    per_degree = from_si(1.0, "difference", units.temperature)
    deviation = values * per_degree
    generator = contour_generator(x, y, deviation, fill_type=FillType.OuterOffset)
    busy = [(s.x, s.y - 8) for s in chart.stations if s.figure]
    for level in _levels(deviation):
        kind = "target" if level == 0 else "below" if level < 0 else "above"
        for points in generator.lines(level):
            chart.lines.append(Line(view.path(points), kind))
            _label(chart, points, view, minus(f"{level:+d}") if level else "±0", kind, busy)
    tolerance = tolerance_c * per_degree
    for low, high, kind in ((-np.inf, -tolerance, "below"), (tolerance, np.inf, "above")):
        chart.hatched += [Line(p, kind) for p in filled_paths(generator, low, high, view)]


def _levels(deviation: np.ndarray) -> list[int]:
    spread = float(np.ptp(deviation))
    step = next((s for s in STEPS if spread / s <= MOST_CONTOURS), 50)
    low = int(np.ceil(deviation.min() / step)) * step
    return list(range(low, int(np.floor(deviation.max())) + 1, step))


def filled_paths(generator: Any, low: float, high: float, view: Any) -> Iterator[str]:
    """SVG paths of the areas between two levels."""
    polygons, offsets = generator.filled(low, high)
    for points, starts in zip(polygons, offsets, strict=True):
        rings = [points[a:b] for a, b in pairwise(starts)]
        yield " ".join(view.path(ring, close=True) for ring in rings)


def _label(
    chart: PlatenChart,
    points: Any,
    view: Projection,
    text: str,
    kind: str,
    busy: list[tuple[float, float]],
) -> None:
    """Put the label where the line is farthest from figures; leave it out if nowhere."""
    if len(points) < 4:
        return
    inner = points[1:-1:2]
    spots = [(view.x(px), view.y(py)) for px, py in inner]
    clear = [
        min((abs(sx - bx) * 0.7 + abs(sy - by) * 1.3 for bx, by in busy), default=99)
        for sx, sy in spots
    ]
    best = int(np.argmax(clear))
    if clear[best] < LABEL_CLEARANCE:
        return
    sx, sy = spots[best]
    if not (
        view.left + 12 < sx < view.left + view.width - 12
        and view.top + 8 < sy < view.top + view.height - 8
    ):
        return
    busy.append((sx, sy))
    chart.labels.append(Text(sx, sy + 4, text, kind))


def corner_marks(rectangle: Rectangle, view: Projection) -> list[str]:
    """Paths of the four corner marks of a rectangle."""
    box = view.box(rectangle.x_mm, rectangle.y_mm, rectangle.width_mm, rectangle.height_mm)
    left, top = box["x"] + 2, box["y"] + 2
    right, bottom = box["x"] + box["width"] - 2, box["y"] + box["height"] - 2
    reach = min(CORNER, box["width"] / 3, box["height"] / 3)
    return [
        f"M{left + reach:.1f} {top:.1f} H{left:.1f} V{top + reach:.1f}",
        f"M{right - reach:.1f} {top:.1f} H{right:.1f} V{top + reach:.1f}",
        f"M{left + reach:.1f} {bottom:.1f} H{left:.1f} V{bottom - reach:.1f}",
        f"M{right - reach:.1f} {bottom:.1f} H{right:.1f} V{bottom - reach:.1f}",
    ]


def _suggest(chart: PlatenChart, computed: Measured, view: Projection) -> None:
    place = computed.result.map.next_point
    if place is not None and not computed.survey.finished_at:
        chart.suggestion = {"x": view.x(place[0]), "y": view.y(place[1])}


def _summary(computed: Measured, units: Units) -> str:
    read = len(computed.read)
    if not read:
        remembered = ", as it is remembered" if computed.drawn is not None else ""
        return f"Platen without readings yet{remembered}."
    result = computed.result
    low, high = (temperature_text(v, units, 1) for v in (result.min_c, result.max_c))
    return f"Platen with {read} stations read, from {low} to {high} true."
