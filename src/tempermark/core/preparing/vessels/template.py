"""The flat template of a straight or tapered vessel, and points on it rolled back.

Equation: s = √(h² + ((D − d)/2)²), R = s·D/(D − d), r = s·d/(D − d), angle = π·D/R. Straight art
as a chord of the outer arc bows by at most a tolerance t up to a width of 2·√(2·R·t − t²).
Range: rigid vessels whose wall is straight from rim to foot.
Source: handbook 3, “Size”: unrolling a cone.
"""

from dataclasses import dataclass

import numpy as np

# Diameters closer than this share of themselves are equal: the arc would be flat within 1 µm.
STRAIGHT_SHARE = 1e-9


@dataclass(frozen=True)
class ConeArc:
    """A cone unrolled: the radii of its arcs in mm, the outer one of the larger diameter, and its
    full turn in radians.
    """

    outer_mm: float
    inner_mm: float
    turn_rad: float


@dataclass(frozen=True)
class FlatTemplate:
    """A vessel's wall unrolled: its slant height in mm, and the arcs of a tapered one."""

    top_diameter_mm: float
    bottom_diameter_mm: float
    height_mm: float
    slant_mm: float
    arc: ConeArc | None

    @property
    def circumferences_mm(self) -> tuple[float, float]:
        """Round the larger and round the smaller end, mm."""
        ends = (self.top_diameter_mm, self.bottom_diameter_mm)
        return np.pi * max(ends), np.pi * min(ends)

    @property
    def is_wider_on_top(self) -> bool:
        """Whether the larger diameter is the upper one."""
        return self.top_diameter_mm >= self.bottom_diameter_mm


def flat_template(top_mm: float, bottom_mm: float, height_mm: float) -> FlatTemplate:
    """The template of a vessel by its diameters and height in mm, all above 0."""
    large, small = max(top_mm, bottom_mm), min(top_mm, bottom_mm)
    taper = large - small
    if taper <= STRAIGHT_SHARE * large:
        return FlatTemplate(top_mm, bottom_mm, height_mm, height_mm, None)
    slant = float(np.hypot(height_mm, taper / 2))
    outer, inner = slant * large / taper, slant * small / taper
    arc = ConeArc(outer, inner, float(np.pi * large / outer))
    return FlatTemplate(top_mm, bottom_mm, height_mm, slant, arc)


def widest_straight_mm(template: FlatTemplate, tolerance_mm: float) -> float:
    """The widest straight-edged art in mm whose edge leaves the arc by at most a tolerance in mm;
    never more than round the smaller end.
    """
    smaller = template.circumferences_mm[1]
    if template.arc is None:
        return smaller
    outer = template.arc.outer_mm
    # Beyond its radius an arc rises no further.
    rise = min(tolerance_mm, outer)
    chord = 2 * np.sqrt(rise * (2 * outer - rise))
    return float(min(chord, smaller))


def rolled_on(template: FlatTemplate, flat_mm: np.ndarray) -> np.ndarray:
    """Where points (n, 2) of the template lie on the vessel: (n, 2) of the angle in radians from
    the middle and the height in mm above its foot.

    On the template x runs from the middle line, y upwards from the foot along that line.
    """
    x, y = np.asarray(flat_mm, float).T
    if template.arc is None:
        return np.stack([2 * x / template.top_diameter_mm, y], axis=1)
    inner, slant = template.arc.inner_mm, template.slant_mm
    # The point of the cone is below the foot where the vessel is wider on top.
    along = inner + y if template.is_wider_on_top else inner + slant - y
    radius = np.hypot(x, along)
    turn = np.arctan2(x, along) * 2 * np.pi / template.arc.turn_rad
    from_small = (radius - inner) / slant * template.height_mm
    height = from_small if template.is_wider_on_top else template.height_mm - from_small
    return np.stack([turn, height], axis=1)


def unrolled(template: FlatTemplate, rolled: np.ndarray) -> np.ndarray:
    """Points (n, 2) of the vessel, as angle in radians from the middle and height in mm, on the
    template in mm: the reverse of `rolled_on`.
    """
    turn, height = np.asarray(rolled, float).T
    if template.arc is None:
        return np.stack([turn * template.top_diameter_mm / 2, height], axis=1)
    inner, slant = template.arc.inner_mm, template.slant_mm
    share = height / template.height_mm
    radius = inner + slant * (share if template.is_wider_on_top else 1 - share)
    angle = turn * template.arc.turn_rad / (2 * np.pi)
    along = radius * np.cos(angle)
    y = along - inner if template.is_wider_on_top else inner + slant - along
    return np.stack([radius * np.sin(angle), y], axis=1)


def outline(
    template: FlatTemplate, overlap_mm: float = 0.0, gap_mm: float = 0.0, points: int = 181
) -> np.ndarray:
    """The edge of a template as a closed ring of points (n, 2) in mm, x from the middle line and y
    up from the foot along it: the whole turn less a gap (a handle), and an overlap at the right.

    Both are measured at the larger end; a gap takes the overlap's place. Raises ValueError for a
    gap that leaves nothing.
    """
    whole = template.circumferences_mm[0]
    if not gap_mm < whole:
        raise ValueError("the gap is as wide as the vessel")
    left = -np.pi * (1 - gap_mm / whole)
    right = -left + (0.0 if gap_mm else 2 * np.pi * overlap_mm / whole)
    turns = np.linspace(left, right, points)
    foot = unrolled(template, np.stack([turns, np.zeros(points)], axis=1))
    rim = unrolled(template, np.stack([turns[::-1], np.full(points, template.height_mm)], axis=1))
    return np.concatenate([foot, rim, foot[:1]])
