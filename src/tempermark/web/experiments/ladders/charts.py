"""The ladder sheet in SVG units: settings over time and temperature, and a ladder's curve."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from tempermark.core.experiments.sheet import FittedCurve
from tempermark.core.units import from_si
from tempermark.web.experiments.ladders.engine import SheetEngine, scores_of
from tempermark.web.kit.units import Units
from tempermark.web.run.scoring.swatches import ScaleStep, scale

WIDTH, HEIGHT = 640, 430
LEFT, BOTTOM, TOP, RIGHT = 62, 44, 18, 14
CURVE_HEIGHT = 260
SWATCH = 34
TICKS = 5
# A cell that is this unlikely is not drawn.
LEAST_DRAWN = 0.05


@dataclass(frozen=True)
class SheetScale:
    """From dwell in s and dial in °C to the drawing."""

    time_s: tuple[float, float]
    warm_c: tuple[float, float]

    def x(self, seconds: float) -> float:
        """Across."""
        low, high = self.time_s
        share = (seconds - low) / (high - low) if high > low else 0.5
        return round(LEFT + share * (WIDTH - LEFT - RIGHT), 1)

    def y(self, dial_c: float) -> float:
        """Down."""
        low, high = self.warm_c
        share = (dial_c - low) / (high - low) if high > low else 0.5
        return round(HEIGHT - BOTTOM - share * (HEIGHT - BOTTOM - TOP), 1)


def sheet_chart(engine: SheetEngine, units: Units) -> dict[str, Any]:
    """Swatches where they lie, how likely each setting is good, the best and the next."""
    drawn = _scale(engine)
    found = engine.answer
    return {
        "width": WIDTH,
        "height": HEIGHT,
        "frame": (LEFT, TOP, WIDTH - LEFT - RIGHT, HEIGHT - TOP - BOTTOM),
        "cells": _cells(engine, drawn) if found else [],
        "swatches": _swatches(engine, drawn),
        "best": _cross(drawn, found.result.best) if found else None,
        "next": _cross(drawn, found.result.next_press) if found else None,
        "across": _ticks(drawn.time_s, drawn.x, 1.0),
        "up": _dial_ticks(drawn, units),
    }


def _scale(engine: SheetEngine) -> SheetScale:
    """The window, and whatever was pressed outside it."""
    warm, dwell = engine.experiment.window
    dials = [p.set_c for p in engine.planned] + [*warm]
    times = [p.dwell_s for p in engine.planned] + [*dwell]
    pad_c, pad_s = max(1.0, np.ptp(dials) * 0.07), max(1.0, np.ptp(times) * 0.05)
    return SheetScale(
        (max(0.0, min(times) - pad_s), max(times) + pad_s), (min(dials) - pad_c, max(dials) + pad_c)
    )


def _cells(engine: SheetEngine, drawn: SheetScale) -> list[dict[str, Any]]:
    region = engine.answer.result.region
    dials = sorted({one.set_c for one in region})
    times = sorted({one.time_s for one in region})
    half_c = (dials[1] - dials[0]) / 2 if len(dials) > 1 else 0.5
    half_s = (times[1] - times[0]) / 2 if len(times) > 1 else 0.5
    cells = []
    for one in region:
        if one.chance < LEAST_DRAWN:
            continue
        left, top = drawn.x(one.time_s - half_s), drawn.y(one.set_c + half_c)
        cells.append(
            {
                "x": left,
                "y": top,
                "width": round(drawn.x(one.time_s + half_s) - left, 1),
                "height": round(drawn.y(one.set_c - half_c) - top, 1),
                "opacity": round(0.42 * one.chance**2, 3),
            }
        )
    return cells


def _swatches(engine: SheetEngine, drawn: SheetScale) -> list[dict[str, Any]]:
    rows: dict[tuple[float, float], dict[str, Any]] = {}
    for planned in engine.planned:
        press = planned.pressed
        step, overdone = _seen(press, engine) if press else (None, None)
        set_c = press.set_c if press else planned.set_c
        dwell_s = press.dwell_s if press else planned.dwell_s
        place = drawn.x(dwell_s) - SWATCH / 2, drawn.y(set_c) - SWATCH / 2
        # Presses at one setting are one square: its numbers beside it, the last one scored in it.
        before = rows.get(place, {"order": "", "step": None, "overdone": None})
        rows[place] = {
            "x": place[0],
            "y": place[1],
            "side": SWATCH,
            "order": f"{before['order']}, {planned.order}".removeprefix(", "),
            "step": step or before["step"],
            "overdone": overdone or before["overdone"],
            "skipped": planned.skipped_at is not None,
        }
    return list(rows.values())


def _seen(press: Any, engine: SheetEngine) -> tuple[ScaleStep | None, int | None]:
    density, overdone = scores_of(press, engine.is_bond)
    code = "bond" if engine.is_bond else "black"
    return (scale(code)[density - 1] if density else None), overdone


def _cross(drawn: SheetScale, one: Any) -> dict[str, float] | None:
    return None if one is None else {"x": drawn.x(one.time_s), "y": drawn.y(one.set_c)}


def _ticks(span: tuple[float, float], place: Any, per: float) -> list[dict[str, Any]]:
    step = _step((span[1] - span[0]) * per / TICKS)
    first = np.ceil(span[0] * per / step) * step
    values = np.arange(first, span[1] * per + 1e-9, step)
    return [{"at": place(float(v / per)), "text": f"{v:g}"} for v in values]


def _dial_ticks(drawn: SheetScale, units: Units) -> list[dict[str, Any]]:
    low, high = (from_si(c, "temperature", units.temperature) for c in drawn.warm_c)
    step = _step((high - low) / TICKS)
    values = np.arange(np.ceil(low / step) * step, high + 1e-9, step)
    share = (drawn.warm_c[1] - drawn.warm_c[0]) / (high - low)
    return [
        {"at": drawn.y(drawn.warm_c[0] + (float(v) - low) * share), "text": f"{v:g}"}
        for v in values
    ]


def _step(raw: float) -> float:
    """A round step of at least so much."""
    power = 10.0 ** np.floor(np.log10(max(raw, 1e-6)))
    return float(next(s * power for s in (1, 2, 5, 10) if s * power >= raw))


def curve_chart(
    curve: FittedCurve, factor: str, points: list[tuple[float, float]], units: Units
) -> dict[str, Any]:
    """Density and risk along a ladder with their bands; `points` are the scored presses."""
    values = np.array(
        [from_si(v, "temperature", units.temperature) for v in curve.values]
        if factor == "set_c"
        else curve.values
    )
    low, high = float(values.min()), float(values.max())

    def x(value: float) -> float:
        return round(LEFT + (value - low) / (high - low) * (WIDTH - LEFT - RIGHT), 1)

    def y(share: float) -> float:
        return round(CURVE_HEIGHT - BOTTOM - share * (CURVE_HEIGHT - BOTTOM - TOP), 1)

    def line(row: np.ndarray) -> str:
        return "M" + " L".join(f"{x(v)} {y(float(s))}" for v, s in zip(values, row, strict=True))

    def band(rows: np.ndarray) -> str:
        forth = [f"{x(v)} {y(float(s))}" for v, s in zip(values, rows[:, 0], strict=True)]
        back = [f"{x(v)} {y(float(s))}" for v, s in zip(values, rows[:, 2], strict=True)]
        return "M" + " L".join(forth + back[::-1]) + " Z"

    shown = [
        (from_si(v, "temperature", units.temperature) if factor == "set_c" else v, share)
        for v, share in points
    ]
    return {
        "width": WIDTH,
        "height": CURVE_HEIGHT,
        "frame": (LEFT, TOP, WIDTH - LEFT - RIGHT, CURVE_HEIGHT - TOP - BOTTOM),
        "filled": line(curve.filled[:, 1]),
        "filled_band": band(curve.filled),
        "risk": line(curve.risk[:, 1]),
        "risk_band": band(curve.risk),
        "points": [{"x": x(v), "y": y(share)} for v, share in shown if low <= v <= high],
        "across": _ticks((low, high), x, 1.0),
        "up": [{"at": y(s), "text": f"{100 * s:.0f}"} for s in (0, 0.25, 0.5, 0.75, 1.0)],
        "limit": y(0.9),
    }
