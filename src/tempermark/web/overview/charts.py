"""The control chart of an element as numbers for its SVG."""

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from tempermark.core.units import from_si
from tempermark.web.kit.figures import minus
from tempermark.web.kit.units import Units
from tempermark.web.overview.queries import PressState

WIDTH, HEIGHT = 620.0, 190.0
LEFT, RIGHT, TOP, BOTTOM = 58.0, 12.0, 14.0, 26.0
LEAST_SPAN_K = 4.0


@dataclass(frozen=True)
class DriftPoint:
    """A survey on the chart; a spot check is drawn hollow."""

    x: float
    y: float
    full: bool
    speaks: bool
    title: str


@dataclass
class DriftChart:
    """Lines, points and labels in SVG units."""

    width: float = WIDTH
    height: float = HEIGHT
    points: list[DriftPoint] = field(default_factory=list)
    ewma: str = ""
    levels: list[dict[str, Any]] = field(default_factory=list)
    first: str = ""
    last: str = ""


def drift_chart(entry: PressState, units: Units) -> DriftChart | None:
    """Offsets of an element against time; None until there is a chart."""
    chart = entry.state.chart
    if chart is None:
        return None
    per_degree = from_si(1.0, "difference", units.temperature)
    days = [day for day, _, _ in entry.offsets]
    values = [offset * per_degree for offset in entry.state.charted_c]
    centre, sigma = chart.centre_c * per_degree, chart.sigma_c * per_degree
    x, y = _scales(days, [*values, centre - 3.3 * sigma, centre + 3.3 * sigma])
    speaking = {s.index for s in chart.signals}
    drawn = DriftChart(first=_day(days[0]), last=_day(days[-1]))
    drawn.levels = [
        {"y": y(level), "text": minus(f"{level:+.1f}"), "kind": kind}
        for level, kind in (
            (centre, "target"),
            (centre - 3 * sigma, "limit"),
            (centre + 3 * sigma, "limit"),
        )
    ]
    drawn.points = [
        DriftPoint(x(day), y(value), full, i in speaking, f"{_day(day)}: {minus(f'{value:+.1f}')}")
        for i, (day, value, (_, _, full)) in enumerate(
            zip(days, values, entry.offsets, strict=True)
        )
    ]
    weighted = zip(days, chart.ewma_c * per_degree, strict=True)
    drawn.ewma = "M" + " L".join(f"{x(day)} {y(value)}" for day, value in weighted)
    return drawn


def _scales(days: list[date], values: list[float]) -> tuple[Callable[..., Any], Callable[..., Any]]:
    first, span = days[0].toordinal(), max(1, (days[-1] - days[0]).days)
    low, high = min(values), max(values)
    middle, half = (low + high) / 2, max((high - low) / 2, LEAST_SPAN_K / 2)

    def x(day: date) -> float:
        return round(LEFT + (day.toordinal() - first) / span * (WIDTH - LEFT - RIGHT), 1)

    def y(value: float) -> float:
        share = (value - middle + half) / (2 * half)
        return round(HEIGHT - BOTTOM - share * (HEIGHT - TOP - BOTTOM), 1)

    return x, y


def _day(day: date) -> str:
    return f"{day.day} {day:%b %Y}"
