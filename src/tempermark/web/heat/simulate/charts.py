"""The stack as a section, with the temperature through it, and the interface over time."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.utils.text import Truncator

from tempermark.core.pressing.chain import Chain
from tempermark.core.pressing.closing import PressResult, profile
from tempermark.core.pressing.layout import PADS
from tempermark.core.pressing.verdict import GOOD_FROM
from tempermark.core.recipes.layers import THICKNESS, code_of
from tempermark.core.thermal.library.materials import Material
from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.outcome import rates
from tempermark.core.thermal.solver import closing as press
from tempermark.core.thermal.solver.kernel import BOILS_TO_C
from tempermark.core.units import from_si
from tempermark.web.kit.drawing.labels import Box, Labels, Spot
from tempermark.web.kit.figures import decimals_of, length_text, temperature_text
from tempermark.web.kit.units import Units

SECTION_WIDTH, SECTION_HEIGHT, LABELS = 572.0, 470.0, 222.0
# Thin sheets are drawn no thinner, thick pads no thicker than this.
LEAST_DRAWN, MOST_DRAWN = 30.0, 130.0
COURSE_WIDTH, COURSE_HEIGHT, LEFT, BOTTOM = 560.0, 200.0, 48.0, 26.0
MOMENTS = 160
# So many letters have room beside a layer.
NAME_CHARS = 26
HATCHES = {
    "transfer": "paper",
    "cover": "paper",
    "carrier": "film",
    "film": "film",
    "cloth": "cloth",
    "pad": "pad",
    "pillow": "pad",
}


@dataclass(frozen=True)
class LayerBand:
    """One layer as drawn; `material` only of a blank, which bears its own name."""

    y: float
    height: float
    name: str
    thickness: str
    material: str
    hatch: str
    receives: bool
    number: int


@dataclass(frozen=True)
class StackSection:
    """Layers from the platen down, and the temperature through them at a moment."""

    bands: list[LayerBand]
    path: str
    ticks: list[dict[str, Any]]
    width: float
    height: float
    at_s: float
    summary: str


def stack_section(
    pressed: PressResult, at_s: float, units: Units, library: Mapping[str, Material]
) -> StackSection:
    """The section at a moment of the run. A band's number is its place in the stack as written."""
    layers = pressed.closing.layers
    requested = list(enumerate(pressed.request.stack))
    numbers = [n for n, entry in requested if code_of(entry) in library]
    heights = [layer_height(layer.thickness_mm, layer.name in PADS) for layer in layers]
    scale = SECTION_HEIGHT / sum(heights)
    tops = np.concatenate([[0.0], np.cumsum(heights)]) * scale + 24
    depth, temperature = profile(pressed, at_s)
    faces = np.concatenate([[0.0], np.cumsum([layer.thickness_mm for layer in layers])])
    low, high = 20.0, float(max(pressed.closing.upper_c[0] + 5, 100))
    y = np.interp(depth, faces, tops)
    x = 20 + (temperature - low) / (high - low) * (SECTION_WIDTH - LABELS - 40)
    path = "M" + " L".join(f"{a:.1f} {b:.1f}" for a, b in zip(x, y, strict=True))
    bands = [
        LayerBand(
            round(float(tops[i]), 1),
            round(float(tops[i + 1] - tops[i]), 1),
            _name(pressed, i, library),
            length_text(layer.thickness_mm, units, decimals_of(layer.thickness_mm)),
            library[layer.name].label if i == pressed.layout.blank_at else "",
            HATCHES.get(library[layer.name].group, "solid"),
            i == pressed.interface + 1,
            numbers[i],
        )
        for i, layer in enumerate(layers)
    ]
    ticks = [
        {"x": round(20 + (c - low) / (high - low) * (SECTION_WIDTH - LABELS - 40), 1), "text": t}
        for c, t in _temperature_ticks(low, high, units)
    ]
    face = float(np.interp(faces[pressed.interface + 1], depth, temperature))
    under = temperature_text(face, units)
    summary = f"Stack of {len(layers)} layers; {under} under the transfer after {at_s:.0f} s"
    return StackSection(bands, path, ticks, SECTION_WIDTH, SECTION_HEIGHT + 60, at_s, summary)


def _name(pressed: PressResult, at: int, library: Mapping[str, Material]) -> str:
    """The layer's name with the words behind it, as long as there is room for; a blank's own name
    where it is the blank.
    """
    label = library[pressed.closing.layers[at].name].label
    if at == pressed.layout.blank_at:
        label = pressed.request.blank.name
    words = pressed.layout.entries[at].partition(" ")[2]
    words = THICKNESS.sub("", words).strip()
    return Truncator(f"{label}, {words}" if words else label).chars(NAME_CHARS)


def layer_height(thickness_mm: float, is_pad: bool) -> float:
    """Height of a layer: grows with the logarithm, so that paper can be seen beside a pad."""
    height = 46 + 22 * np.log10(max(thickness_mm, 0.01))
    return float(np.clip(height, LEAST_DRAWN, MOST_DRAWN if is_pad else 80.0))


def _temperature_ticks(low: float, high: float, units: Units) -> Iterator[Any]:
    step = 50
    for value in range(50, int(high) + 1, step):
        shown = from_si(value, "temperature", units.temperature)
        if value > low:
            yield float(value), f"{shown:.0f}"


@dataclass(frozen=True)
class Moment:
    """Something that happens during the dwell, and where its label stands, if anywhere."""

    x: float
    y: float
    at_s: float
    text: str
    label: Spot | None


@dataclass(frozen=True)
class CourseChart:
    """The receiving face over time, with its moments."""

    path: str
    moments: list[Moment]
    ticks: list[dict[str, Any]]
    levels: list[dict[str, Any]]
    width: float
    height: float
    now_x: float


def course_chart(pressed: PressResult, at_s: float, units: Units) -> CourseChart:
    """The temperature under the transfer over the dwell."""
    end = pressed.closing.time_s
    times = np.linspace(0, end, MOMENTS)
    face = press.at_times(pressed.course, times)[:, 0, pressed.interface]
    high = float(pressed.closing.upper_c[0]) + 8

    def x(t: float | np.ndarray) -> Any:
        return LEFT + np.asarray(t) / end * (COURSE_WIDTH - LEFT - 12)

    def y(c: float | np.ndarray) -> Any:
        return (
            COURSE_HEIGHT
            - BOTTOM
            - (np.asarray(c) - 20) / (high - 20) * (COURSE_HEIGHT - BOTTOM - 10)
        )

    path = "M" + " L".join(f"{a:.1f} {b:.1f}" for a, b in zip(x(times), y(face), strict=True))
    labels = Labels(Box(LEFT, 0, COURSE_WIDTH, COURSE_HEIGHT - BOTTOM))
    moments = []
    for t, text in sorted(_moments(pressed, times, face)):
        px, py = float(x(t)), float(y(np.interp(t, times, face)))
        spot = labels.place(f"{text}, {t:.0f} s", _beside(px, py))
        moments.append(Moment(px, py, t, text, spot))
    step = next(s for s in (1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1200) if end / s <= 8)
    ticks = [{"x": float(x(t)), "text": f"{t:g}"} for t in np.arange(0, end + 0.1, step)]
    levels = [{"y": float(y(c)), "text": t} for c, t in _temperature_ticks(20, high, units)]
    return CourseChart(
        path, moments, ticks, levels, COURSE_WIDTH, COURSE_HEIGHT, float(x(min(at_s, end)))
    )


def _beside(x: float, y: float) -> Iterator[Spot]:
    """Below a point of a rising line, ever lower, then above it."""
    for down in (16, 36, 56, 76, 96, 116, -8, -28):
        yield Spot(x + 8, y + down)
        yield Spot(x - 8, y + down, "end")


def _moments(pressed: PressResult, times: np.ndarray, face: np.ndarray) -> Iterator[Any]:
    """When each thing that adds up over the dwell, or the face's own heat, passes its mark."""
    for values, mark, text in _marks(pressed, times, face):
        passed = np.flatnonzero(values >= mark)
        if len(passed):
            yield float(times[passed[0]]), text


def _marks(
    pressed: PressResult, times: np.ndarray, face: np.ndarray
) -> list[tuple[np.ndarray, float, str]]:
    """Courses (t,) with the mark each may pass, and what that is called."""
    piece = pressed.piece
    sums = {name: _summed(times, rate(face)) for name, rate in rates(piece).items()}
    marks = [(face, BOILS_TO_C, "dry"), (sums["scorch"], 1.0, "scorch begins")]
    if "uptake" in sums:
        marks.append((dye.density(sums["uptake"]), GOOD_FROM, "full density"))
        marks.append((sums["uptake"], piece.spreads_from, "dye spreads"))
    if piece.adhesive is not None:
        marks.append((face, piece.adhesive.flows_c, "adhesive flows"))
        flow = pressed.request.kpa * sums["flow_kpa_s"]
        marks.append((flow, piece.adhesive.bonded_kpa_s, "bonded"))
    if "migration" in sums:
        marks.append((sums["migration"], 1.0, "cloth tints"))
    if piece.softens_c is not None:
        marks.append((face, piece.softens_c, "soft"))
    return marks


def _summed(times: np.ndarray, rate: np.ndarray) -> np.ndarray:
    return np.concatenate([[0.0], np.cumsum((rate[1:] + rate[:-1]) / 2 * np.diff(times))])


CHAIN_WIDTH, CHAIN_HEIGHT, LEAST_STRETCH = 600.0, 210.0, 42.0


@dataclass(frozen=True)
class ChainChart:
    """The steps in a row: the receiving face through all of them, short ones drawn wider."""

    path: str
    stretches: list[dict[str, Any]]
    levels: list[dict[str, Any]]
    width: float = CHAIN_WIDTH
    height: float = CHAIN_HEIGHT


def chain_chart(chain: Chain, units: Units) -> ChainChart:
    """The chart of a chain; a stretch is as wide as the root of its time."""
    roots = np.array([np.sqrt(s.ends_s - s.begins_s) for s in chain.stretches])
    room = CHAIN_WIDTH - LEFT - 6
    widths = np.maximum(roots / roots.sum() * room, LEAST_STRETCH)
    widths *= room / widths.sum()
    lefts = LEFT + np.concatenate([[0.0], np.cumsum(widths)[:-1]])
    high = max(float(s.face_c.max()) for s in chain.stretches) + 12

    def y(c: float | np.ndarray) -> Any:
        return CHAIN_HEIGHT - 44 - (np.asarray(c) - 20) / (high - 20) * (CHAIN_HEIGHT - 54)

    points: list[tuple[float, float]] = []
    drawn: list[dict[str, Any]] = []
    names = Labels(Box(0, CHAIN_HEIGHT - 42, CHAIN_WIDTH, CHAIN_HEIGHT))
    for stretch, left, width in zip(chain.stretches, lefts, widths, strict=True):
        length = stretch.ends_s - stretch.begins_s
        x = left + stretch.times_s / length * width
        points += list(zip(x, y(stretch.face_c), strict=True))
        drawn.append(
            {
                "x": round(float(left), 1),
                "width": round(float(width), 1),
                "middle": round(float(left + width / 2), 1),
                "name": stretch.name,
                "time": _clock(length),
                "closed": stretch.closed,
            }
        )
    # What is closed is named first; a name without room stands in the table alone.
    for row in sorted(drawn, key=lambda row: not row["closed"]):
        row["named"] = names.place(row["name"], [Spot(row["middle"], CHAIN_HEIGHT - 26, "middle")])
        row["timed"] = names.place(row["time"], [Spot(row["middle"], CHAIN_HEIGHT - 6, "middle")])
    path = "M" + " L".join(f"{a:.1f} {b:.1f}" for a, b in points)
    levels = [{"y": float(y(c)), "text": t} for c, t in _temperature_ticks(20, high, units)]
    return ChainChart(path, drawn, levels)


def _clock(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 600 else f"{seconds / 60:.0f} min"
