"""Windows drawn: time across, true temperature up, what works, and the press's own ellipse."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from contourpy import FillType, contour_generator

from tempermark.core.pressing.verdict import RISK_LIMIT, SLIGHTLY_FROM
from tempermark.core.thermal.result.dwell import TIMER_SD_S
from tempermark.web.heat.windows.windows import WindowAnswer
from tempermark.web.kit.drawing.labels import Box, Labels, Spot
from tempermark.web.kit.figures import temperature_number
from tempermark.web.kit.units import Units
from tempermark.web.measure.surveys.charts import Line, Text, filled_paths

WIDTH, HEIGHT, LEFT, TOP, BOTTOM = 640.0, 460.0, 56.0, 10.0, 40.0
LEVELS = (0.5, 0.75, 0.9, 0.95)
# The ellipse holds 95 % of where the press really is (two dimensions: 2.45 standard deviations).
ELLIPSE_SIGMAS = 2.45


@dataclass(frozen=True)
class View:
    """Seconds and °C to the drawing."""

    time_s: tuple[float, float]
    warm_c: tuple[float, float]

    def x(self, seconds: float) -> float:
        """Across."""
        low, high = self.time_s
        return round(LEFT + (seconds - low) / (high - low) * (WIDTH - LEFT - 10), 2)

    def y(self, warm_c: float) -> float:
        """Up."""
        low, high = self.warm_c
        return round(HEIGHT - BOTTOM - (warm_c - low) / (high - low) * (HEIGHT - BOTTOM - TOP), 2)

    def path(self, points: Iterable[Any], close: bool = False) -> str:
        """A line through (s, °C) points."""
        joined = " L".join(f"{self.x(t)} {self.y(c)}" for t, c in points)
        return f"M{joined}{' Z' if close else ''}"


@dataclass
class WindowChart:
    """What the template draws."""

    view: View
    lines: list[Line]
    labels: list[Text]
    hatched: list[Line]
    boxes: list[dict[str, Any]]
    shared: dict[str, Any] | None
    ellipse: dict[str, Any]
    time_ticks: list[dict[str, Any]]
    warm_ticks: list[dict[str, Any]]
    summary: str
    width: float = WIDTH
    height: float = HEIGHT


def window_chart(answer: WindowAnswer, units: Units, summary: str) -> WindowChart:
    """The chart of an answer."""
    area = answer.area
    view = View(
        (float(area.time_s[0]), float(area.time_s[-1])),
        (float(area.warm_c[0]), float(area.warm_c[-1])),
    )
    enough = contour_generator(
        area.time_s, area.warm_c, answer.filled, fill_type=FillType.OuterOffset
    )
    over = contour_generator(
        area.time_s, area.warm_c, area.outcome.worst_risk, fill_type=FillType.OuterOffset
    )
    lines = [
        Line(view.path(points), "target" if level == SLIGHTLY_FROM else "even")
        for level in LEVELS
        for points in enough.lines(level)
    ]
    hatched = [Line(p, "below") for p in filled_paths(enough, -np.inf, SLIGHTLY_FROM, view)]
    hatched += [Line(p, "above") for p in filled_paths(over, RISK_LIMIT, np.inf, view)]
    boxes = [_box(view, w.temperature_c, w.time_s) | {"name": w.name} for w in answer.windows]
    ellipse = _ellipse(view, answer)
    common = answer.shared
    whole = common.temperature_c is not None and common.time_s is not None
    return WindowChart(
        view,
        lines,
        _labels(view, enough, boxes, ellipse),
        hatched,
        boxes,
        _box(view, common.temperature_c, common.time_s)
        if whole and len(answer.windows) > 1
        else None,
        ellipse,
        [{"at": view.x(t), "text": f"{t:g}"} for t in _even(view.time_s, 7)],
        [{"at": view.y(c), "text": _degrees(c, units)} for c in _even(view.warm_c, 7)],
        summary,
    )


def _ellipse(view: View, answer: WindowAnswer) -> dict[str, float]:
    """Where the press really is, drawn."""
    return {
        "x": view.x(answer.dwell_s),
        "y": view.y(answer.press.true_c),
        "rx": round(ELLIPSE_SIGMAS * TIMER_SD_S * _per(view.x, view.time_s), 2),
        "ry": round(ELLIPSE_SIGMAS * answer.press.sd_c * _per(view.y, view.warm_c), 2),
    }


def _labels(
    view: View, enough: Any, boxes: list[dict[str, Any]], ellipse: dict[str, float]
) -> list[Text]:
    """Numbers of several windows in their corners, shares on their lines: where each has room. The
    windows' names stand below the chart, where any length of them has room.
    """
    labels = Labels(Box(LEFT + 4, TOP + 4, WIDTH - 14, HEIGHT - BOTTOM - 4), [_around(ellipse)])
    found = []
    for number, box in enumerate(boxes, 1):
        text = str(number)
        spot = labels.place(text, _corners(box)) if len(boxes) > 1 else None
        if spot is not None:
            found.append(Text(spot.x, spot.y, text, "number"))
    for place, level in enumerate(LEVELS, 1):
        for points in enough.lines(level):
            text = f"{100 * level:.0f} %"
            # Begins further along its line than the one before.
            turned = np.roll(points, -len(points) * place // (len(LEVELS) + 1), axis=0)
            spots = (Spot(view.x(t), view.y(c) + 4, "middle") for t, c in turned)
            spot = labels.place(text, spots)
            if spot is not None:
                found.append(Text(spot.x, spot.y, text, "target"))
    return found


def _around(ellipse: dict[str, float]) -> Box:
    x, y, rx, ry = (ellipse[name] for name in ("x", "y", "rx", "ry"))
    return Box(x - rx, y - ry, x + rx, y + ry)


def _corners(box: dict[str, Any]) -> Iterator[Spot]:
    """Inside each corner of a window, then outside."""
    right, bottom = box["x"] + box["width"], box["bottom"]
    for across, x in ((10, box["x"]), (-10, right)):
        for down, y in ((17, box["y"]), (-6, bottom), (-6, box["y"]), (17, bottom)):
            yield Spot(x + across, y + down, "middle")


def _degrees(value_c: float, units: Units) -> str:
    return temperature_number(value_c, units)


def _per(along: Callable[..., Any], span: tuple[float, float]) -> float:
    """Drawn length of one unit."""
    return float(abs(along(span[1]) - along(span[0])) / (span[1] - span[0]))


def _box(view: View, warm_c: tuple[float, float], time_s: tuple[float, float]) -> dict[str, Any]:
    left, right = view.x(time_s[0]), view.x(time_s[1])
    top, bottom = view.y(warm_c[1]), view.y(warm_c[0])
    return {
        "x": left,
        "y": top,
        "bottom": bottom,
        "width": max(right - left, 1.5),
        "height": max(bottom - top, 1.5),
    }


def _even(span: tuple[float, float], most: int) -> list[float]:
    """Round marks within a span."""
    steps = (1, 2, 5, 10, 20, 30, 60, 120, 300)
    step = next((s for s in steps if (span[1] - span[0]) / s <= most), steps[-1])
    first = np.ceil(span[0] / step) * step
    return [float(v) for v in np.arange(first, span[1] + 1e-9, step)]
