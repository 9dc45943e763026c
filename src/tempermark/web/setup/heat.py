"""A recipe's stack on a press: rows into the heat solver, and what comes of it."""

from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.recipes.stack_rules import TRANSFERS, Stacked
from tempermark.core.thermal import dye, press
from tempermark.core.thermal.conduction import Course
from tempermark.core.thermal.materials import materials
from tempermark.core.thermal.press import Closing
from tempermark.core.thermal.stack import Layer
from tempermark.web.floor.models import Element
from tempermark.web.measure import queries as surveys
from tempermark.web.setup.models import Blank, RecipeVersion

# What a blank of a kind is of, in the library, where its material is not noted.
KIND_MATERIAL = {
    "garment": "polyester_jersey",
    "bag": "cotton_jersey",
    "cap": "cotton_jersey",
    "hardboard": "hardboard",
    "panel": "aluminium_panel",
    "tile": "ceramic_tile",
    "glass": "glass",
    "wood": "plywood",
    "mug": "stoneware_wall",
    "tumbler": "steel_wall",
    "plastic": "petg",
    "leather": "leather",
}
NOTED_MATERIAL = {"aluminium": "aluminium_panel", "stainless": "steel_wall"}
# A cloth with this share of polyester or more is laid out as polyester.
MOSTLY = 0.5
PADS = ("silicone_pad", "aramid_felt", "foam_pillow")
# Without a pad in the recipe the lower side is the room through a still table.
ROOM_C = 22.0
# Density from which a print counts as full.
FULL_DENSITY = 0.9
MOMENTS = 160


@dataclass(frozen=True)
class Pressed:
    """A closing of a recipe on an element: the course and what it means for the piece.

    `interface` is where the transfer meets the blank; `left_out` names layers of the recipe that
    the library does not know.
    """

    closing: Closing
    course: Course
    interface: int
    is_dye: bool
    share: float
    left_out: tuple[str, ...]
    dose: float
    density: float
    at_interface_c: float
    hottest_c: float
    window_low_c: float
    seconds_active: float
    water_g_m2: float
    scorch: float
    blowout: float
    squeeze: float | None


def layers_of(
    version: RecipeVersion, blank: Blank, humidity: float
) -> tuple[list[Layer], int | None, tuple[str, ...]]:
    """The recipe's layers with this blank in them, the interface under the transfer, and what is
    left out for want of a material.
    """
    library = materials()
    own = material_of(blank)
    layers, left_out, under = [], [], None
    received = False
    for entry in version.stack:
        name = entry.split()[0] if entry.strip() else ""
        if name not in library:
            left_out.append(entry)
            continue
        if layers and layers[-1].name in TRANSFERS and name not in TRANSFERS and not received:
            # What the transfer lies on is the blank, whatever the recipe was written for.
            received, under = True, len(layers) - 1
            layers.append(library[own].layer(humidity, blank.thickness_mm))
            continue
        layers.append(library[name].layer(humidity))
    return layers, under, tuple(left_out)


def material_of(blank: Blank) -> str:
    """The library's material of a blank."""
    noted = NOTED_MATERIAL.get(blank.material, blank.material)
    if noted in materials():
        return noted
    cloth = blank.kind in ("garment", "bag", "cap")
    if cloth and blank.polyester is not None:
        return "polyester_jersey" if blank.polyester >= MOSTLY else "cotton_jersey"
    return KIND_MATERIAL[blank.kind]


def receiving_share(blank: Blank) -> float:
    """Share of what dye finds: polyester, or all of a coat."""
    if blank.coating not in ("", "none"):
        return 1.0
    return 1.0 if blank.polyester is None else blank.polyester


def stacked(
    version: RecipeVersion, blank: Blank, element: Element, humidity_percent: float
) -> Stacked:
    """The recipe's stack with this blank on this press, for the rules."""
    return Stacked(
        layers=tuple(version.stack),
        method=version.recipe.method,
        blank_kind=blank.kind,
        coating=blank.coating,
        features=tuple(blank.features),
        width_mm=blank.width_mm,
        height_mm=blank.height_mm,
        relative_humidity=humidity_percent / 100,
        fixed_cover=element.press.cover,
    )


def closing_of(layers: list[Layer], true_c: float, dwell_s: float, kpa: float) -> Closing:
    """One place of a press closed on them; the lower side is at room temperature."""
    return Closing(
        layers=layers,
        initial_c=ROOM_C,
        time_s=dwell_s,
        upper_c=np.array([true_c]),
        lower_c=np.array([ROOM_C]),
        pressure_kpa=np.array([kpa]),
    )


def pressed(
    version: RecipeVersion, blank: Blank, true_c: float, dwell_s: float, kpa: float, humidity: float
) -> Pressed | None:
    """What the heat does; None where the recipe's stack has no transfer on a blank."""
    layers, interface, left_out = layers_of(version, blank, humidity)
    if interface is None:
        return None
    closing = closing_of(layers, true_c, dwell_s, kpa)
    course = press.press(closing)
    is_dye = layers[interface].name == "transfer_paper"
    dose = float(press.dose(course, interface)[0])
    film = next((i for i, y in enumerate(layers[:-1]) if y.name == "film_pu"), None)
    squeeze = None
    if film is not None:
        squeeze = float(press.squeeze(course, film, closing.pressure_kpa)[0])
    share = receiving_share(blank)
    return Pressed(
        closing,
        course,
        interface,
        is_dye,
        share,
        left_out,
        dose,
        float(dye.density(dose, share)),
        float(course.below_c[-1, 0, interface]),
        float(course.below_c[:, 0, interface].max()),
        version.low_c,
        float(press.seconds_above(course, version.low_c - ACTIVE_BELOW_C, interface)[0]),
        float(course.water_left.sum() * 1e3),
        float(press.risk(press.over_time(course, press.scorch_rate, interface)[0])),
        float(press.risk(dose / dye.BLOWOUT_FROM)) if is_dye else 0.0,
        squeeze,
    )


# Film flows some way below the platen's own window: the interface never gets all of it.
ACTIVE_BELOW_C = 15.0


def profile(made: Pressed, at_s: float) -> tuple[np.ndarray, np.ndarray]:
    """Depth (n,) in mm from the platen and temperature (n,) in °C at a moment of the run."""
    moment = replace(made.closing, time_s=max(min(at_s, made.closing.time_s), 0.01))
    cells = press.cells_of(moment)
    course = press.press(moment)
    depth = (np.cumsum(cells.dx_m) - cells.dx_m / 2) * 1e3
    total = float(cells.dx_m.sum() * 1e3)
    lower = made.closing.lower_c
    bottom = float(lower[0]) if lower is not None else float(course.final_c[0, -1])
    return (
        np.concatenate([[0.0], depth, [total]]),
        np.concatenate([moment.upper_c, course.final_c[0], [bottom]]),
    )


def true_under(element: Element, set_c: float, when) -> tuple[float, float | None]:
    """True °C in the middle of an element at a dial, and its standard uncertainty; the dial
    itself, and None, while it was never measured.
    """
    middle = np.array([[element.width_mm / 2, element.height_mm / 2]])
    known = surveys.true_at(element, middle, set_c, when)
    if known is None:
        return set_c, None
    return float(known.value_c[0]), float(known.standard_uncertainty_c[0])
