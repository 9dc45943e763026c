"""A carbon print or pressure film, scanned as a grey picture, as contact pressure over the platen.

The picture shows the whole print, its front at the bottom edge, and beside it a scale bar: a solid
bar of known length. The bar gives millimetres and what is darkest; the paper what is blank; the
print's own edges, as sharp as the platen's rim, say where it lies.

Equation: d = d_max·(1 − e^(−p/p₀)).
Range: darkness 2 to 94 % of full.
Source: starting values of the simulated film (decision 12).
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy import ndimage
from scipy.optimize import brentq

from tempermark.core.errors import InputError
from tempermark.core.phrases import length, phrase, pressure
from tempermark.core.pressure.press.spring import SpringPad

# A picture is reduced to this many pixels on its longer side: finer only shows the paper's grain.
WORKING_PIXELS = 1600
LEAST_PIXELS = 200
# A bar is at least this many times longer than wide, filled to this share, and so dark.
BAR_SLENDER, BAR_FILLED, BAR_DARK = 5.0, 0.85, 0.6
LEAST_BAR_PIXELS = 40
# Cells over the platen, and what is left off at its rim, mm: the press line there is no pressure.
CELLS = (24, 30)
RIM_MM = 2.0
# Darkness below this is blank paper, above this share of the darkest the film is full.
BLANK, FULL_SHARE = 0.02, 0.94
# Grey of a cell is known to this much darkness (grain, uneven light), standard.
DARKNESS_SD = 0.012
LEAST_CONTRAST = 40.0
# A rim is seen when darkness changes there by this within two millimetres.
SEEN_EDGE = 0.04


@dataclass(frozen=True)
class FilmCurve:
    """Darkness of a film under pressure: d = most · (1 − exp(−p / scale)), p in kPa.

    `share`: relative standard uncertainty of the scale, common to a whole print.
    """

    most: float = 0.85
    scale_kpa: float = 30.0
    share: float = 0.2

    def darkness(self, contact_kpa: Any) -> Any:
        """Darkness 0–1 at a pressure (scalar or array)."""
        return self.most * (1.0 - np.exp(-np.asarray(contact_kpa, float) / self.scale_kpa))

    def contact_kpa(self, darkness: np.ndarray) -> np.ndarray:
        """Pressure in kPa of a darkness (scalar or array), held at the film's ends."""
        held = np.clip(np.asarray(darkness, float) / self.most, 0.0, FULL_SHARE)
        return -self.scale_kpa * np.log1p(-held)


@dataclass(frozen=True)
class Print:
    """Darkness (rows, columns), front row first, of a print over a platen.

    `turned_deg` and `mm_per_pixel` of the picture as it was; `unseen` names the sides whose rim
    could not be seen, so that the print's place rests on the others.
    """

    width_mm: float
    height_mm: float
    darkness: np.ndarray
    mm_per_pixel: float
    turned_deg: float
    unseen: tuple[str, ...]

    @property
    def places_mm(self) -> np.ndarray:
        """Centres of the cells (rows · columns, 2) in mm."""
        rows, columns = self.darkness.shape
        x = _centres(self.width_mm, columns)
        y = _centres(self.height_mm, rows)
        return np.column_stack([a.ravel() for a in np.meshgrid(x, y)])


def _centres(size_mm: float, count: int) -> np.ndarray:
    return RIM_MM + (np.arange(count) + 0.5) * (size_mm - 2 * RIM_MM) / count


def read_print(grey: np.ndarray, size_mm: tuple[float, float], bar_mm: float) -> Print:
    """A print from a picture (height, width) of grey 0–255, dark being low.

    `size_mm` is the platen's width and height, `bar_mm` the scale bar's length. Raises InputError
    with what to do when the picture is too small or flat, has no bar, or is too small for the
    platen at the bar's scale.
    """
    darkness, per_pixel = _darkness(grey)
    bar = _find_bar(darkness)
    darkness = np.clip(darkness / bar.darkness, 0.0, 1.2)
    mm_per_pixel = bar_mm / bar.length
    upright, bar_rows, bar_columns = _upright(darkness, bar)
    upright[bar_rows, bar_columns] = 0.0
    wide, high = size_mm[0] / mm_per_pixel, size_mm[1] / mm_per_pixel
    if wide > upright.shape[1] or high > upright.shape[0]:
        seen = [n * mm_per_pixel for n in upright.shape[::-1]]
        raise InputError.single(
            "picture",
            phrase(
                "Going by its bar the picture shows {wide} × {high}, but the platen is {width} × "
                "{height}: scan all of the print, or correct the bar's length.",
                wide=length(seen[0], 0),
                high=length(seen[1], 0),
                width=length(size_mm[0], 0),
                height=length(size_mm[1], 0),
            ),
            "too_small",
        )
    left, unseen_x = _place(upright.mean(axis=0), wide, 2 / mm_per_pixel, ("left", "right"))
    across = upright[:, int(left) : int(left + wide) + 1].mean(axis=1)
    top, unseen_y = _place(across, high, 2 / mm_per_pixel, ("back", "front"))
    cells = _cells(upright, left, top, mm_per_pixel, size_mm)
    return Print(*size_mm, cells, mm_per_pixel / per_pixel, bar.turned_deg, (*unseen_x, *unseen_y))


def _darkness(grey: np.ndarray) -> tuple[np.ndarray, int]:
    """Darkness over the paper's own grey, from block means, and the blocks' size."""
    if min(grey.shape) < LEAST_PIXELS:
        raise InputError.single(
            "picture",
            f"The picture is {grey.shape[1]} × {grey.shape[0]} pixels: {LEAST_PIXELS} each way at "
            "least.",
            "too_small",
        )
    block = max(1, int(np.ceil(max(grey.shape) / WORKING_PIXELS)))
    rows, columns = (n // block * block for n in grey.shape)
    small = grey[:rows, :columns].astype(np.float32)
    small = small.reshape(rows // block, block, columns // block, block).mean(axis=(1, 3))
    paper, ink = np.quantile(small, (0.98, 0.001))
    if paper - ink < LEAST_CONTRAST:
        raise InputError.single(
            "picture", "The picture is one even grey: no print can be seen on it.", "flat"
        )
    # The middle of what is paper, and not its brightest grain.
    paper = float(np.median(small[small > paper - 0.1 * (paper - ink)]))
    return (paper - small) / 255.0, block


@dataclass(frozen=True)
class _Bar:
    length: float
    turned_deg: float
    darkness: float
    middle: tuple[float, float]
    width: float


def _find_bar(darkness: np.ndarray) -> _Bar:
    """The most slender solid dark blob; its moments give length, direction and middle."""
    dark = darkness > BAR_DARK * darkness.max()
    label, count = ndimage.label(dark)
    boxes = ndimage.find_objects(label)
    sizes = np.bincount(label.ravel(), minlength=count + 1)
    best, best_slender = None, BAR_SLENDER
    for index in np.argsort(-sizes[1:])[:40] + 1:
        if sizes[index] < LEAST_BAR_PIXELS:
            break
        rows, columns = boxes[index - 1]
        # Half-dark pixels at its rim count by their darkness.
        window = (
            slice(max(rows.start - 2, 0), rows.stop + 2),
            slice(max(columns.start - 2, 0), columns.stop + 2),
        )
        bar = _moments(darkness[window], window)
        slender = bar.length / max(bar.width, 1e-6)
        solid = sizes[index] / (bar.length * bar.width)
        level = abs(bar.turned_deg) < 30
        if (
            slender > best_slender
            and solid > BAR_FILLED
            and level
            and bar.length > LEAST_BAR_PIXELS
        ):
            best, best_slender = bar, slender
    if best is None:
        raise InputError.single(
            "picture",
            "There is no scale bar: draw a solid black bar beside the print, at least five times "
            "as long as wide and level with the front, and scan it with the print.",
            "no_bar",
        )
    return best


def _moments(darkness: np.ndarray, window: tuple[slice, slice]) -> _Bar:
    """A filled bar's length and width from its second moments: variance = length² ÷ 12."""
    full = np.median(darkness[darkness > BAR_DARK * darkness.max()])
    weight = np.clip(darkness / full, 0.0, 1.0)
    weight[weight < 0.1] = 0.0
    row, column = np.mgrid[window[0].start : window[0].start + weight.shape[0],
                           window[1].start : window[1].start + weight.shape[1]]  # fmt: skip
    total = weight.sum()
    middle = ((weight * row).sum() / total, (weight * column).sum() / total)
    down, right = row - middle[0], column - middle[1]
    spread = np.array(
        [
            [(weight * right * right).sum(), (weight * right * down).sum()],
            [(weight * right * down).sum(), (weight * down * down).sum()],
        ]
    )
    values, vectors = np.linalg.eigh(spread / total)
    along = vectors[:, 1] * np.sign(vectors[0, 1] or 1.0)
    width, length = np.sqrt(12.0 * np.maximum(values, 1e-9))
    turned = float(np.degrees(np.arctan2(along[1], along[0])))
    return _Bar(float(length), turned, float(full), middle, float(width))


def _upright(darkness: np.ndarray, bar: _Bar) -> tuple[np.ndarray, slice, slice]:
    """The picture turned so that its bar is level, and where the bar then lies."""
    if abs(bar.turned_deg) < 0.02:
        turned, middle = darkness.copy(), bar.middle
    else:
        turned = ndimage.rotate(darkness, bar.turned_deg, order=1, reshape=True, cval=0.0)
        angle = np.radians(bar.turned_deg)
        down = bar.middle[0] - (darkness.shape[0] - 1) / 2
        right = bar.middle[1] - (darkness.shape[1] - 1) / 2
        middle = (
            (turned.shape[0] - 1) / 2 - np.sin(angle) * right + np.cos(angle) * down,
            (turned.shape[1] - 1) / 2 + np.cos(angle) * right + np.sin(angle) * down,
        )
    half_height, half_width = bar.width / 2 + 4, bar.length / 2 + 4
    rows = slice(max(int(middle[0] - half_height), 0), int(middle[0] + half_height) + 1)
    columns = slice(max(int(middle[1] - half_width), 0), int(middle[1] + half_width) + 1)
    return turned, rows, columns


def _place(
    profile: np.ndarray, size: float, blur: float, names: tuple[str, str]
) -> tuple[Any, ...]:
    """Where a print of a size begins along a profile, and the sides whose rim is not seen.

    Darkness rises at its first rim and falls at its second, exactly `size` apart.
    """
    change = ndimage.gaussian_filter1d(profile, max(blur / 3, 0.7), order=1)
    starts = np.arange(0.0, len(profile) - size + 1e-9, 0.25)
    index = np.arange(len(profile))
    first = np.maximum(np.interp(starts, index, change), 0.0)
    second = np.maximum(-np.interp(starts + size, index, change), 0.0)
    best = int(np.argmax(first + second))
    step = max(blur, 2.0)
    rises = [
        _rise(profile, starts[best], step),
        -_rise(profile, starts[best] + size, step),
    ]
    unseen = tuple(n for n, r in zip(names, rises, strict=True) if r < SEEN_EDGE)
    if len(unseen) == 2:
        raise InputError.single(
            "picture",
            f"Neither the {names[0]} nor the {names[1]} rim of the print can be seen: press "
            "firmer, or scan it darker.",
            "no_edges",
        )
    return float(starts[best]), unseen


def _rise(profile: np.ndarray, at: float, step: float) -> float:
    ends = np.clip([at - step, at + step], 0, len(profile) - 1)
    before, after = np.interp(ends, np.arange(len(profile)), profile)
    return float(after - before)


def _cells(
    upright: np.ndarray, left: float, top: float, mm_per_pixel: float, size_mm: tuple[float, float]
) -> np.ndarray:
    """Mean darkness of each cell, front row first."""
    columns, rows = CELLS
    cell = (
        (size_mm[1] - 2 * RIM_MM) / rows / mm_per_pixel,
        (size_mm[0] - 2 * RIM_MM) / columns / mm_per_pixel,
    )
    smooth = ndimage.uniform_filter(upright, size=[max(1, int(c)) for c in cell])
    x = left + _centres(size_mm[0], columns) / mm_per_pixel
    y = top + (size_mm[1] - _centres(size_mm[1], rows)) / mm_per_pixel
    across, down = np.meshgrid(x, y)
    return np.asarray(ndimage.map_coordinates(smooth, [down, across], order=1))


@dataclass(frozen=True)
class ScannedPrint:
    """A print as pressure: mean contact in kPa; compressions with bounds, (n,) mm each."""

    mean_kpa: float
    contact_kpa: np.ndarray
    low_mm: np.ndarray
    high_mm: np.ndarray
    sd_mm: np.ndarray
    full_share: float
    blank_share: float


def pressed(found: Print, curve: FilmCurve, pad: SpringPad) -> ScannedPrint:
    """What a print says of the pad: figures where the film shows them, bounds where it cannot."""
    darkness = found.darkness.ravel()
    contact = curve.contact_kpa(darkness)
    compression = pad.compression_mm(contact)
    beside = pad.compression_mm(curve.contact_kpa(darkness + DARKNESS_SD))
    full, blank = darkness >= FULL_SHARE * curve.most, darkness <= BLANK
    low = np.where(blank, -np.inf, compression)
    high = np.where(full, np.inf, compression)
    sd = np.maximum(beside - compression, 0.01)
    return ScannedPrint(
        float(contact.mean()), contact, low, high, np.where(full | blank, 0.05, sd),
        float(full.mean()), float(blank.mean()),
    )  # fmt: skip


def scaled_to_mean(found: Print, curve: FilmCurve, mean_kpa: float) -> FilmCurve:
    """The curve with which a print's mean pressure is one known otherwise, in kPa.

    Raises InputError when no scale of the film gives that mean.
    """

    def off(log_scale: float) -> float:
        tried = FilmCurve(curve.most, float(np.exp(log_scale)), curve.share)
        return float(np.log(tried.contact_kpa(found.darkness).mean() / mean_kpa))

    low, high = np.log(curve.scale_kpa / 100), np.log(curve.scale_kpa * 100)
    if not found.darkness.max() > BLANK or off(low) * off(high) > 0:
        raise InputError.single(
            "mean_kpa",
            phrase(
                "No scale of this film gives {mean} for this print: check the number.",
                mean=pressure(mean_kpa, None),
            ),
        )
    return FilmCurve(curve.most, float(np.exp(brentq(off, low, high))), 0.05)
