"""What is taught, drawn and in rows: seen against predicted, traces against the course."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from tempermark.core.thermal.result.learn import HeatTaught, Taught
from tempermark.core.thermal.result.sampled import CONTACT_SHARE, PROPERTY_SHARE
from tempermark.web.heat.lessons.held import law_of
from tempermark.web.heat.lessons.learning import HeatLearned, LearnedSurface
from tempermark.web.kit.figures import difference_text, temperature_number, temperature_text
from tempermark.web.kit.units import Units

SIDE, EDGE = 330.0, 44.0
WIDTH, HEIGHT = 560.0, 240.0


@dataclass(frozen=True)
class SeenChart:
    """Pieces by predicted (across) and seen density (up), before and after."""

    points: list[dict[str, Any]]
    ticks: list[dict[str, Any]]
    side: float
    summary: str


def seen_chart(taught: Taught) -> SeenChart:
    """The chart of a law's pieces."""

    def along(value: float) -> float:
        return round(EDGE + min(value, 1.1) / 1.1 * (SIDE - EDGE - 8), 1)

    def up(value: float) -> float:
        return round(SIDE - EDGE - min(value, 1.1) / 1.1 * (SIDE - EDGE - 8), 1)

    points = [
        {"x0": along(b), "x1": along(a), "y": up(s)}
        for b, a, s in zip(taught.before, taught.after, taught.seen, strict=True)
    ]
    ticks = [{"x": along(v), "y": up(v), "text": f"{v:g}"} for v in (0.0, 0.2, 0.4, 0.6, 0.8, 1.0)]
    missed = [float(np.abs(t - taught.seen).mean()) for t in (taught.before, taught.after)]
    before, after = (f"{100 * m:.0f}\u00a0%" for m in missed)
    summary = (
        f"The computed density misses by {before} as shipped and by {after} with what the pieces "
        "teach, on average."
    )
    return SeenChart(points, ticks, SIDE, summary)


def law_rows(learned: LearnedSurface, units: Units) -> list[dict[str, Any]]:
    """Rate and activation: what the surface starts with, what holds, what would hold."""
    start, known = learned.receiver.law, learned.receiver.known
    held_law, held = law_of(learned.receiver, learned.lesson)
    taught = learned.taught
    rows: list[dict[str, Any]] = []
    laws: tuple[tuple[str, str, Callable[..., float], Callable[..., float]], ...] = (
        (
            f"Rate at {temperature_text(200, units)}",
            "1/s",
            lambda w: w.rate_per_s,
            lambda w, k: w.rate_per_s * k.rate_share,
        ),
        (
            "Activation",
            "kJ/mol",
            lambda w: w.activation_j_mol / 1e3,
            lambda w, k: k.activation_j_mol / 1e3,
        ),
    )
    for label, symbol, value, spread in laws:
        row: dict[str, Any] = {
            "label": label,
            "unit": symbol,
            "trade": _with(value(start), spread(start, known)),
            "held": _with(value(held_law), spread(held_law, held)),
        }
        if taught is not None:
            row["taught"] = _with(value(taught.law), spread(taught.law, taught.known))
        rows.append(row)
    return rows


def heat_rows(learned: HeatLearned) -> list[dict[str, Any]]:
    """Factors on contacts and sheets: shipped, what holds, what would hold."""
    rows = []
    for label, name, share in (
        ("Contact resistances", "contact", CONTACT_SHARE),
        ("Conductivity of sheets", "sheet", PROPERTY_SHARE),
    ):
        row = {"label": label, "unit": "×", "trade": _with(1.0, share), "held": _with(1.0, share)}
        if learned.lesson is not None:
            held = learned.lesson.values
            factor = held[f"{name}_factor"]
            row["held"] = _with(factor, factor * held[f"{name}_share"])
        if learned.taught is not None:
            factor = getattr(learned.taught, f"{name}_factor")
            spread = factor * getattr(learned.taught, f"{name}_share")
            row["taught"] = _with(factor, spread)
        rows.append(row)
    return rows


def _with(value: float, spread: float) -> str:
    """A value with its two standard deviations."""
    return f"{value:.3g} ± {2 * spread:.2g}"


def headline(surfaces: list[LearnedSurface], heat: HeatLearned) -> str:
    """What there is to accept, in one sentences."""
    sentences = [one.receiver.label for one in surfaces if one.is_news]
    if heat.is_news:
        sentences.append("contacts and sheets")
    if not sentences:
        return "Nothing new to accept."
    last = sentences.pop()
    return f"New lessons about {', '.join(sentences)}{' and ' if sentences else ''}{last}."


@dataclass(frozen=True)
class TraceChart:
    """The newest trace, and the course before and after."""

    seen: list[dict[str, Any]]
    before: str
    after: str
    time_ticks: list[dict[str, Any]]
    warm_ticks: list[dict[str, Any]]
    summary: str
    width: float = WIDTH
    height: float = HEIGHT


def trace_chart(taught: HeatTaught, units: Units) -> TraceChart:
    """The chart of the newest trace."""
    trace, before, after = taught.traces[0], taught.before_c[0], taught.after_c[0]
    end = float(trace.time_s[-1])
    high = float(max(trace.seen_c.max(), before.max(), after.max())) + 8

    def x(t: float) -> float:
        return round(EDGE + t / end * (WIDTH - EDGE - 10), 1)

    def y(c: float) -> float:
        return round(HEIGHT - 26 - (c - 15) / (high - 15) * (HEIGHT - 34), 1)

    def line(values: np.ndarray) -> str:
        return "M" + " L".join(f"{x(t)} {y(c)}" for t, c in zip(trace.time_s, values, strict=True))

    was, now = (difference_text(k, units, 1, sign=False) for k in taught.missed_k)
    step = next(s for s in (1, 2, 5, 10, 20, 30, 60, 120, 300, 600) if end / s <= 8)
    return TraceChart(
        [{"x": x(t), "y": y(c)} for t, c in zip(trace.time_s, trace.seen_c, strict=True)],
        line(before),
        line(after),
        [{"at": x(t), "text": f"{t:g}"} for t in np.arange(0, end + 0.1, step)],
        [{"at": y(c), "text": _degrees(c, units)} for c in range(50, int(high), 50)],
        f"The computed course misses the traces by {was} before and {now} after.",
    )


def _degrees(value_c: float, units: Units) -> str:
    return temperature_number(value_c, units)
