"""Reference swatches: what each step of each scale looks like, drawn in a square of 48 units.

They are our own drawings: a patch of print whose depth, rim, evenness or hold is that of the step.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from tempermark.core.experiments.wash import DENSITY_OF_SCORE
from tempermark.web.run.models import SCORES

SIDE = 48
INK, SPOT = "#1b2326", "#14584a"
SHEET, MARK = "#fbfaf6", "#a8490f"

# What a step of a scale says in words, from 1 to 5.
WORDS = {
    "black": ("barely there", "very pale", "pale", "slightly pale", "as the proof"),
    "colour": ("barely there", "very pale", "pale", "slightly pale", "as the proof"),
    "edge": ("runs out", "soft", "a little soft", "nearly sharp", "sharp"),
    "even": ("patches", "blotchy", "cloudy", "nearly even", "even"),
    "bond": ("falls off", "lifts easily", "lifts at corners", "holds, edge lifts", "holds"),
    "hand": ("stiff as board", "stiff", "noticeable", "soft", "as the cloth"),
    "marks": ("ruined", "strong", "plain", "a trace", "none"),
}


@dataclass(frozen=True)
class SwatchShape:
    """One element of a drawing: its name and attributes."""

    tag: str
    attrs: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class ScaleStep:
    """A step of a scale: its number, what it says, how it looks."""

    step: int
    label: str
    shapes: tuple[SwatchShape, ...]


def _rect(x: float, y: float, width: float, height: float, **attrs: Any) -> SwatchShape:
    return SwatchShape("rect", {"x": x, "y": y, "width": width, "height": height, **attrs})


def _patch(opacity: float, colour: str = INK) -> SwatchShape:
    return _rect(6, 6, 36, 36, fill=colour, **{"fill-opacity": round(opacity, 2)})


def _density(step: int) -> tuple[SwatchShape, ...]:
    return (_patch(DENSITY_OF_SCORE[step]),)


def _colour(step: int) -> tuple[SwatchShape, ...]:
    return (_patch(DENSITY_OF_SCORE[step], SPOT),)


def _edge(step: int) -> tuple[SwatchShape, ...]:
    """A rim that runs out further the lower the step."""
    wide = 5 - step
    rims = [
        _rect(6 - n, 6 - n, 36 + 2 * n, 36 + 2 * n, fill=INK, **{"fill-opacity": 0.16})
        for n in range(1, wide + 2)
        if wide
    ]
    return (*rims, _rect(6 + wide, 6 + wide, 36 - 2 * wide, 36 - 2 * wide, fill=INK))


def _even(step: int) -> tuple[SwatchShape, ...]:
    """Pale clouds in the patch, more and paler the lower the step."""
    spots = ((14, 14, 8), (32, 20, 9), (20, 33, 8), (36, 36, 5))
    clouds = [
        SwatchShape(
            "circle", {"cx": x, "cy": y, "r": r, "fill": SHEET, "fill-opacity": 0.18 * (5 - step)}
        )
        for x, y, r in spots[: 5 - step]
    ]
    return (_patch(0.95), *clouds)


def _bond(step: int) -> tuple[SwatchShape, ...]:
    """A corner that has lifted, larger the lower the step."""
    lifted = (5 - step) * 9
    if not lifted:
        return (_patch(0.95),)
    away = SwatchShape("path", {"d": f"M42 6 V{6 + lifted} L{42 - lifted} 6 Z", "fill": SHEET})
    fold = SwatchShape(
        "path",
        {
            "d": f"M42 {6 + lifted} L{42 - lifted} 6 L{42 - lifted} {6 + lifted} Z",
            "fill": "#cfccc0",
            "stroke": INK,
        },
    )
    return (_patch(0.95), away, fold)


def _hand(step: int) -> tuple[SwatchShape, ...]:
    """A strip that hangs over an edge: stiff it stands out, soft it falls."""
    fall = 4 + 7 * (step - 1)
    table = _rect(4, 30, 20, 14, fill="#cfccc0")
    line = {"d": f"M4 28 H22 Q36 28 40 {28 + fall * 0.6:.0f}", "fill": "none", "stroke": INK}
    return (table, SwatchShape("path", line | {"stroke-width": 4}))


def _marks(step: int) -> tuple[SwatchShape, ...]:
    """A scorched, bled rim, stronger the lower the step."""
    strong = 5 - step
    rim = {"fill": "none", "stroke": MARK, "stroke-width": 2 * strong}
    rims = [_rect(6, 6, 36, 36, **rim, **{"stroke-opacity": 0.2 + 0.2 * strong})] if strong else []
    return (_patch(0.85), *rims)


DRAWN: dict[str, Callable[[int], tuple[SwatchShape, ...]]] = {
    "black": _density,
    "colour": _colour,
    "edge": _edge,
    "even": _even,
    "bond": _bond,
    "hand": _hand,
    "marks": _marks,
}


def scale(code: str) -> list[ScaleStep]:
    """The five steps of a scale."""
    return [ScaleStep(n, WORDS[code][n - 1], DRAWN[code](n)) for n in range(1, 6)]


def scales() -> list[dict[str, Any]]:
    """Every scale: code, label, steps."""
    return [{"code": code, "label": label, "steps": scale(code)} for code, label in SCORES]
