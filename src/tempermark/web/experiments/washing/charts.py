"""Fading and survival over washes in SVG units."""

from typing import Any

import numpy as np

from tempermark.core.experiments.wash import FadeCurve, SurvivalStep

WIDTH, HEIGHT, LEFT, BOTTOM, TOP, RIGHT = 640, 280, 56, 40, 16, 120
DASHES = ("", "9 5", "3 4", "12 4 3 4")


def wash_chart(
    curves: dict[str, FadeCurve],
    points: dict[str, list[tuple[int, float]]],
    steps: dict[str, list[SurvivalStep]],
    until: int,
) -> dict[str, Any]:
    """Curves with bands and points of each arm; survival as steps below; arms by dashes."""

    def x(washes: float) -> float:
        return round(LEFT + washes / until * (WIDTH - LEFT - RIGHT), 1)

    def y(share: float) -> float:
        return round(HEIGHT - BOTTOM - min(share, 1.1) / 1.1 * (HEIGHT - BOTTOM - TOP), 1)

    arms = []
    for n, (arm, curve) in enumerate(curves.items()):
        middle = [f"{x(w)} {y(d)}" for w, d in zip(curve.washes, curve.density[:, 1], strict=True)]
        low = [f"{x(w)} {y(d)}" for w, d in zip(curve.washes, curve.density[:, 0], strict=True)]
        high = [f"{x(w)} {y(d)}" for w, d in zip(curve.washes, curve.density[:, 2], strict=True)]
        arms.append(
            {
                "arm": arm,
                "curve": "M" + " L".join(middle),
                "band": "M" + " L".join(low + high[::-1]) + " Z",
                "dash": DASHES[n % len(DASHES)],
                "points": [{"x": x(w), "y": y(d)} for w, d in points.get(arm, [])],
                "end": {"x": x(until) + 6, "y": y(float(curve.density[-1, 1])) + 5},
            }
        )
    return {
        "width": WIDTH,
        "height": HEIGHT,
        "frame": (LEFT, TOP, WIDTH - LEFT - RIGHT, HEIGHT - TOP - BOTTOM),
        "arms": arms,
        "across": [{"at": x(w), "text": f"{w:g}"} for w in np.linspace(0, until, 6).round()],
        "up": [{"at": y(s), "text": f"{100 * s:.0f}"} for s in (0, 0.25, 0.5, 0.75, 1.0)],
        "survival": _survival(steps, until, x),
    }


def _survival(steps: dict[str, list[SurvivalStep]], until: int, x: Any) -> list[dict[str, Any]]:
    rows = []
    for n, (arm, found) in enumerate(steps.items()):
        path, share = f"M{x(0)} 0", 1.0
        for step in found:
            path += f" H{x(step.washes)} V{round((1 - step.share) * 60, 1)}"
            share = step.share
        rows.append({"arm": arm, "path": path + f" H{x(until)}", "share": share, "n": n})
    return rows
