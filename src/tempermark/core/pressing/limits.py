"""What a blank does not stand, said before anything else is computed."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from tempermark.core.phrases import Text, phrase, temperature
from tempermark.core.pressing.request import BlankProperties
from tempermark.core.recipes.layers import code_of
from tempermark.core.thermal.library.materials import Material, materials

# Dye needs some 170 °C at the face. A plastic that softens this far below gives way under any load
# and is never pressed (handbook 3, "Dye": PETG near 80 °C survives, PLA near 60 °C: refuse).
REFUSED_BELOW_C = 70.0
# What cannot give: overloaded, it breaks rather than dents.
BRITTLE_KINDS = ("tile", "glass", "mug")
# A minute at the limit marks it; a few seconds this far beyond do too.
FAR_BEYOND_K = 15.0


@dataclass(frozen=True)
class Refusal:
    """Why something is not to be pressed, and what else to do."""

    because: Text
    instead: str


def softens_c(
    blank: BlankProperties, library: Mapping[str, Material] | None = None
) -> float | None:
    """From where a blank gives way under load, °C; None where it never does here."""
    material = (library or materials()).get(blank.material)
    return blank.softens_c or (material.softens_c if material else None)


def refusal(
    blank: BlankProperties, library: Mapping[str, Material] | None = None
) -> Refusal | None:
    """Why a blank may not be pressed at all; None where it may. A limit of the blank's own does not
    excuse a material that gives way: a plastic that stands more is a material of its own.
    """
    softens = softens_c(blank, library)
    gives_way = refused_layers((blank.material,), library)
    if gives_way:
        softens = min(softens or np.inf, *(m.softens_c or np.inf for m in gives_way))
    if softens is None or softens >= REFUSED_BELOW_C:
        return None
    return Refusal(
        phrase(
            "{blank} softens near {softens}, far below the heat a transfer needs: it flattens "
            "under any load",
            blank=blank.name,
            softens=temperature(softens, 0),
        ),
        "print on PETG or a coated blank, or use a method without heat",
    )


def refused_layers(
    stack: tuple[str, ...], library: Mapping[str, Material] | None = None
) -> list[Material]:
    """Plastics among a stack's entries that are never pressed."""
    known = [(library or materials()).get(code_of(entry)) for entry in stack]
    return [
        m
        for m in known
        if m is not None and m.group == "plastic" and (m.softens_c or np.inf) < REFUSED_BELOW_C
    ]


def is_overloaded(blank: BlankProperties, contact_kpa: float) -> bool:
    """Whether a contact pressure in kPa is over what the blank stands."""
    return blank.limit_kpa is not None and contact_kpa > blank.limit_kpa


def beyond_heat(
    blank: BlankProperties, true_c: float, library: Mapping[str, Material] | None = None
) -> float | None:
    """The blank's heat limit in °C where a platen is beyond it at once; None where it is not."""
    material = (library or materials()).get(blank.material)
    limit = blank.scorch_c or (material.scorch_c if material else None)
    return limit if limit is not None and true_c > limit + FAR_BEYOND_K else None
