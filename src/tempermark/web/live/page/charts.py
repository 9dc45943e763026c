"""Live readings as numbers for SVG: traces over time, and the platen as it is now."""

from dataclasses import dataclass, field
from functools import partial
from itertools import pairwise
from typing import Any

import numpy as np
from django.utils import timezone

from tempermark.core.metrology.live.thinning import Thinned
from tempermark.core.metrology.map.field import fit_field
from tempermark.core.metrology.map.usable import Grid
from tempermark.core.units import from_si, to_si
from tempermark.web.kit.figures import (
    difference_text,
    minus,
    temperature_number,
    temperature_text,
)
from tempermark.web.kit.units import Units
from tempermark.web.live.page.course import CourseState
from tempermark.web.live.page.queries import LiveView
from tempermark.web.live.stream.moments import moment
from tempermark.web.measure.surveys.charts import (
    PlatenChart,
    bare_platen,
    draw_deviation,
    station_mark,
)

WIDTH, HEIGHT = 900.0, 360.0
LEFT, RIGHT, TOP, BOTTOM = 58.0, 44.0, 12.0, 30.0
LEAST_SPAN_C = 8.0
LABEL_STEP = 15.0
# A young recording fills the drawing.
LEAST_WINDOW_S = 120.0
TIME_STEPS_S, MOST_TIMES = (30, 60, 120, 180, 300, 600, 1200, 1800, 3600), 8
# Further than this from its target a platen is on its way; contours would say nothing.
CONTOURS_WITHIN_C = 25.0
# Noise of a live figure averaged over the last seconds.
LIVE_NOISE_C = 0.3
COLUMNS, ROWS = 30, 36


@dataclass(frozen=True)
class ChannelTrace:
    """One channel: its path, its number at the right end, and whether it is left out."""

    number: int
    path: str
    label_y: float
    left_out: bool


@dataclass
class Traces:
    """Everything the template draws, in SVG units."""

    width: float = WIDTH
    height: float = HEIGHT
    traces: list[ChannelTrace] = field(default_factory=list)
    mean: str = ""
    band: str = ""
    target: dict[str, Any] | None = None
    levels: list[dict[str, Any]] = field(default_factory=list)
    times: list[dict[str, Any]] = field(default_factory=list)
    dips: list[dict[str, Any]] = field(default_factory=list)
    summary: str = ""


def traces_chart(view: LiveView, thinned: Thinned, window_min: int, units: Units) -> Traces | None:
    """Nine courses, the platen's mean, the target's band and the dips; None without readings."""
    shown = np.isfinite(thinned.mean_c)
    if not shown.any():
        return None
    state = view.state
    left_out = state.left_out if state else ()
    believed = np.delete(thinned.mean_c, list(left_out), axis=1)
    speaking = believed[np.isfinite(believed)]
    if not len(speaking):
        speaking = thinned.mean_c[shown]
    end_s = view.recording.last_at.timestamp()
    axes = _Axes(
        end_s=end_s,
        window_s=min(window_min * 60.0, max(LEAST_WINDOW_S, end_s - thinned.time_s[0])),
        low_c=float(speaking.min()),
        high_c=float(speaking.max()),
    )
    chart = Traces()
    press = view.element.press
    top, bottom = (axes.y(press.target_c + d) for d in (press.tolerance_c, -press.tolerance_c))
    if bottom > TOP and top < HEIGHT - BOTTOM:
        top, bottom = max(TOP, top), min(HEIGHT - BOTTOM, bottom)
        chart.target = {
            "y": top,
            "height": round(bottom - top, 1),
            "text": f"{temperature_text(press.target_c, units)} ± "
            f"{difference_text(press.tolerance_c, units, sign=False)}",
        }
    chart.levels = axes.levels(units)
    chart.times = axes.times()
    paths = [axes.path(thinned.time_s, course) for course in thinned.mean_c.T]
    chart.band = axes.band(
        thinned.time_s,
        _extreme(np.fmin, np.delete(thinned.low_c, list(left_out), axis=1)),
        _extreme(np.fmax, np.delete(thinned.high_c, list(left_out), axis=1)),
    )
    ends = [axes.y(_last(thinned.mean_c[:, i])) for i in range(len(paths))]
    for number, (path, label_y) in enumerate(zip(paths, _spaced(ends), strict=True)):
        chart.traces.append(ChannelTrace(number + 1, path, label_y, number in left_out))
    if state is not None:
        _mean_and_dips(chart, state, axes, units)
    chart.summary = f"Traces of {len(paths)} channels over the last {window_min} minutes."
    return chart


def _mean_and_dips(chart: Traces, state: CourseState, axes: "_Axes", units: Units) -> None:
    inside = state.time_s >= axes.end_s - axes.window_s
    chart.mean = axes.path(state.time_s[inside], state.level_c[inside])
    for dip in state.dips:
        if dip.start_s < axes.end_s - axes.window_s:
            continue
        end_s = axes.end_s if dip.recovery_s is None else dip.start_s + dip.recovery_s
        chart.dips.append(
            {
                "x": axes.x(dip.start_s),
                "width": round(axes.x(end_s) - axes.x(dip.start_s), 1),
                "y": axes.y(dip.before_c),
                "height": round(axes.y(dip.before_c - dip.depth_c) - axes.y(dip.before_c), 1),
                "text": difference_text(-dip.depth_c, units, 1),
            }
        )


@dataclass(frozen=True)
class _Axes:
    """Seconds and °C to SVG units."""

    end_s: float
    window_s: float
    low_c: float
    high_c: float

    @property
    def middle_c(self) -> float:
        return (self.low_c + self.high_c) / 2

    @property
    def half_c(self) -> float:
        return max(LEAST_SPAN_C, (self.high_c - self.low_c) * 1.06) / 2

    def x(self, time_s: float) -> float:
        share = 1 - (self.end_s - time_s) / self.window_s
        return round(LEFT + max(0.0, min(1.0, share)) * (WIDTH - LEFT - RIGHT), 1)

    def y(self, value_c: float) -> float:
        share = (value_c - self.middle_c + self.half_c) / (2 * self.half_c)
        return round(HEIGHT - BOTTOM - share * (HEIGHT - TOP - BOTTOM), 1)

    def path(self, time_s: np.ndarray, value_c: np.ndarray) -> str:
        """A line; gaps stay gaps."""
        steps, drawing = [], False
        for t, value in zip(time_s, value_c, strict=True):
            if np.isfinite(value):
                steps.append(f"{'L' if drawing else 'M'}{self.x(t)} {self._inside(value)}")
            drawing = bool(np.isfinite(value))
        return " ".join(steps)

    def band(self, time_s: np.ndarray, low_c: np.ndarray, high_c: np.ndarray) -> str:
        """The area between two courses (n,), NaN left out."""
        there = np.flatnonzero(np.isfinite(low_c))
        along = [f"{self.x(time_s[i])} {self._inside(high_c[i])}" for i in there]
        back = [f"{self.x(time_s[i])} {self._inside(low_c[i])}" for i in there[::-1]]
        return f"M{' L'.join(along + back)} Z" if len(there) > 1 else ""

    def _inside(self, value_c: float) -> float:
        return max(TOP, min(HEIGHT - BOTTOM, self.y(value_c)))

    def levels(self, units: Units) -> list[dict[str, Any]]:
        """Round figures up the left side."""
        to = partial(from_si, quantity="temperature", unit=units.temperature)
        low, high = to(self.middle_c - self.half_c), to(self.middle_c + self.half_c)
        step = next((s for s in (1, 2, 5, 10, 20, 50, 100) if (high - low) / s <= 7), 200)
        found = []
        for value in np.arange(np.ceil(low / step) * step, high, step):
            celsius = to_si(value, "temperature", units.temperature)
            found.append({"y": self.y(celsius), "text": minus(f"{value:.0f}")})
        return found

    def times(self) -> list[dict[str, Any]]:
        """Clock times along the bottom."""
        step_s = next((s for s in TIME_STEPS_S if self.window_s / s <= MOST_TIMES), 7200)
        first = np.ceil((self.end_s - self.window_s) / step_s) * step_s
        marks = np.arange(first, self.end_s, step_s)
        clock = "%H:%M:%S" if step_s < 60 else "%H:%M"
        return [
            {"x": self.x(t), "text": f"{timezone.localtime(moment(t)):{clock}}"}
            for t in marks
            if LEFT + 10 < self.x(t) < WIDTH - RIGHT - 10
        ]


def _extreme(ufunc: Any, values: np.ndarray) -> np.ndarray:
    """Lowest or highest over channels (n, k), NaN only where all are."""
    return np.asarray(ufunc.reduce(values, axis=1, initial=np.nan))


def _last(values: np.ndarray) -> float:
    there = values[np.isfinite(values)]
    return float(there[-1]) if len(there) else 0.0


def _spaced(ends: list[float]) -> list[float]:
    """Heights for labels beside their ends, pushed apart until none covers another."""
    order = np.argsort(ends)
    placed = np.clip(np.array(ends, float), TOP, HEIGHT - BOTTOM)
    for before, here in pairwise(order):
        placed[here] = max(placed[here], placed[before] + LABEL_STEP)
    over = placed[order[-1]] - (HEIGHT - BOTTOM + 6)
    if over > 0:
        placed -= over
    return [round(float(v), 1) for v in placed]


def live_platen(view: LiveView, units: Units) -> PlatenChart:
    """The platen as it is now: every channel's figure, contours of deviation from the target."""
    chart = bare_platen(view.element, units)
    state, places = view.state, view.recording.key.places
    now_c = state.now_c if state else np.full(len(places), np.nan)
    faulty = set(state.left_out) if state else set()
    for number, (place, value) in enumerate(zip(places, now_c, strict=True), 1):
        figure = "" if not np.isfinite(value) else _figure(value, units)
        wrong = number - 1 in faulty
        shown = f"({figure})" if wrong and figure else figure
        described = f"Channel {number}: {figure or 'silent'}{', left out' if wrong else ''}"
        mark = "open" if wrong or not figure else "read"
        chart.stations.append(
            station_mark(chart.projection, place, str(number), shown, mark, described)
        )
    _live_contours(chart, view, units)
    chart.summary = "Platen as the logger sees it now."
    return chart


def _live_contours(chart: PlatenChart, view: LiveView, units: Units) -> None:
    state, press = view.state, view.element.press
    if state is None or state.mean_c is None:
        return
    kept = np.isfinite(state.now_c)
    kept[list(state.left_out)] = False
    if kept.sum() < 4 or abs(state.mean_c - press.target_c) > CONTOURS_WITHIN_C:
        return
    size = (view.element.width_mm, view.element.height_mm)
    place = np.array(view.recording.key.places, float)[kept]
    mapped = fit_field(place, state.now_c[kept] - press.target_c, LIVE_NOISE_C, size)
    grid = Grid(*size, COLUMNS, ROWS)
    deviation = grid.from_nodes(mapped.mean(grid.nodes_mm))
    draw_deviation(chart, grid, deviation, press.tolerance_c, units)


def _figure(value_c: float, units: Units) -> str:
    return temperature_number(value_c, units, 1)
