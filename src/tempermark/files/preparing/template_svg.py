"""A vessel's template as an SVG that prints at 1:1, with a ruler to check the printer's scale."""

import math
from dataclasses import dataclass
from html import escape

import numpy as np

from tempermark.core.preparing.vessels.template import ConeArc, FlatTemplate, outline
from tempermark.core.preparing.vessels.template_marks import quarter_marks, safe_lines

MARGIN_MM = 10.0
# Under the template: a line of 100 mm with a mark each 10 mm.
RULER_MM, RULER_ROOM_MM = 100.0, 16.0
LINE = 'fill="none" stroke="#000" stroke-width="0.25"'


@dataclass(frozen=True)
class _Band:
    """The band of a cone: its arcs, half its turn and the overlap at its seam in radians."""

    arc: ConeArc
    half: float
    overlap: float

    def at(self, radius: float, angle: float) -> tuple[float, float]:
        """A point right of and above the cone's tip, mm."""
        return radius * math.sin(angle), radius * math.cos(angle)

    def box(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top of the band in mm from the tip."""
        ends = (-self.half, self.half + self.overlap)
        turning = [a for a in (-math.pi / 2, math.pi / 2, math.pi) if ends[0] < a < ends[1]]
        angles = [*ends, 0.0, *turning]
        points = [self.at(r, a) for r in (self.arc.outer_mm, self.arc.inner_mm) for a in angles]
        xs, ys = [p[0] for p in points], [p[1] for p in points]
        return min(xs), min(ys), max(xs), max(ys)


def template_svg(
    template: FlatTemplate,
    overlap_mm: float = 0.0,
    gap_mm: float = 0.0,
    in_words: bool = True,
    rim_mm: float = 0.0,
    picture: str = "",
) -> str:
    """The template with its seam's overlap or less a handle's gap, its middle line, quarters and
    cool rims, and the ruler; sizes in mm; `in_words` says what the ruler is; the address of a
    picture lies under the lines. Raises ValueError for
    a gap that leaves nothing.
    """
    whole_mm = template.circumferences_mm[0]
    if not gap_mm < whole_mm:
        raise ValueError("the gap is as wide as the vessel")
    overlap_mm = 0.0 if gap_mm else overlap_mm
    share = 1 - gap_mm / whole_mm
    if template.arc is None:
        width, height, shapes = _rectangle(template, overlap_mm, share)
    else:
        width, height, shapes = _cone(template.arc, template.is_wider_on_top, overlap_mm, share)
    shapes += _marks(template, overlap_mm, gap_mm, rim_mm)
    if picture:
        box = f'width="{_n(width)}" height="{_n(height)}"'
        shapes = f'<image href="{escape(picture)}" {box} preserveAspectRatio="none"/>\n' + shapes
    whole = max(width, RULER_MM) + 2 * MARGIN_MM
    tall = height + 2 * MARGIN_MM + RULER_ROOM_MM
    left = (whole - width) / 2
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_n(whole)}mm" height="{_n(tall)}mm" '
        f'viewBox="0 0 {_n(whole)} {_n(tall)}">\n'
        f'<g transform="translate({_n(left)} {_n(MARGIN_MM)})">\n{shapes}</g>\n'
        f"{_ruler(MARGIN_MM, height + 2 * MARGIN_MM, in_words)}</svg>\n"
    )


def _rectangle(template: FlatTemplate, overlap_mm: float, share: float) -> tuple[float, float, str]:
    round_mm, high = share * template.circumferences_mm[0], template.slant_mm
    wide = round_mm + overlap_mm
    shapes = f'<path id="outline" d="M0 0 H{_n(wide)} V{_n(high)} H0 Z" {LINE}/>\n'
    shapes += _line("middle", (round_mm / 2, 0.0), (round_mm / 2, high))
    if overlap_mm:
        shapes += _line("seam", (round_mm, 0.0), (round_mm, high))
    return wide, high, shapes


def _cone(arc: ConeArc, up: bool, overlap_mm: float, share: float) -> tuple[float, float, str]:
    """A band of a cone, a share of its turn; `up`: the larger end is the upper one."""
    outer, inner, half = arc.outer_mm, arc.inner_mm, share * arc.turn_rad / 2
    # Never more than once round the tip: paper cannot overlap itself there.
    overlap = min(overlap_mm / outer, 2 * math.pi - arc.turn_rad)
    band = _Band(arc, half, overlap)
    left, bottom, right, top = band.box()

    def place(radius: float, angle: float) -> tuple[float, float]:
        x, y = band.at(radius, angle)
        return x - left, (top - y) if up else (y - bottom)

    first, last = -half, half + overlap
    large = 1 if last - first > math.pi else 0
    sweep = 1 if up else 0
    a, b = place(outer, first), place(outer, last)
    c, d = place(inner, last), place(inner, first)
    path = (
        f"M{_xy(a)} A{_n(outer)} {_n(outer)} 0 {large} {sweep} {_xy(b)} L{_xy(c)} "
        f"A{_n(inner)} {_n(inner)} 0 {large} {1 - sweep} {_xy(d)} Z"
    )
    shapes = f'<path id="outline" d="{path}" {LINE}/>\n'
    shapes += _line("middle", place(outer, 0.0), place(inner, 0.0))
    if overlap:
        shapes += _line("seam", place(outer, half), place(inner, half))
    return right - left, top - bottom, shapes


def _marks(template: FlatTemplate, overlap_mm: float, gap_mm: float, rim_mm: float) -> str:
    """Quarters and cool rims, in the drawing's mm: from the template's upper left corner."""
    ring = outline(template, overlap_mm, gap_mm)
    left, top = ring[:, 0].min(), ring[:, 1].max()

    def path(points: np.ndarray) -> str:
        return "M" + " L".join(_xy((x - left, top - y)) for x, y in points)

    shapes = "".join(
        f'<path class="quarter" d="{path(mark)}" {LINE}/>\n'
        for mark in quarter_marks(template, gap_mm)
    )
    return shapes + "".join(
        f'<path class="safe" d="{path(line)}" {LINE} stroke-dasharray="1 1.5"/>\n'
        for line in safe_lines(template, rim_mm, gap_mm)
    )


def _line(name: str, start: tuple[float, float], end: tuple[float, float]) -> str:
    dashes = 'stroke-dasharray="3 2"'
    return f'<path id="{name}" d="M{_xy(start)} L{_xy(end)}" {LINE} {dashes}/>\n'


def _ruler(left: float, top: float, in_words: bool) -> str:
    ticks = "".join(
        f" M{_n(left + mm)} {_n(top)} v{5 if mm % 50 == 0 else 3}" for mm in range(0, 101, 10)
    )
    line = f'<path id="ruler" d="M{_n(left)} {_n(top)} h{_n(RULER_MM)}{ticks}" {LINE}/>\n'
    if not in_words:
        return line
    return line + (
        f'<text x="{_n(left)}" y="{_n(top + 10)}" font-size="4" font-family="sans-serif">'
        "100 mm: measure it on the print, and print at 100 %</text>\n"
    )


def _xy(point: tuple[float, float]) -> str:
    return f"{_n(point[0])} {_n(point[1])}"


def _n(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".")
