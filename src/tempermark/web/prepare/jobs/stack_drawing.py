"""A stack as written, drawn as a section for a card: which layer lies on which."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tempermark.core.recipes.layers import SLEEVE, code_of, entry_text, thickness_of
from tempermark.core.thermal.library.materials import Material
from tempermark.web.heat.simulate.charts import HATCHES, layer_height
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import in_units

# As drawn: the stack's width, the room for its names, and the platen above it.
WIDTH, NAMES, PLATEN = 150.0, 330.0, 20.0
# Drawn this much lower than the page of the simulated press draws them.
SHRUNK = 0.62
PAD_GROUPS = ("pad", "pillow")


@dataclass(frozen=True)
class DrawnLayer:
    """A layer's band and its name."""

    y: float
    height: float
    name: str
    hatch: str

    @property
    def middle(self) -> float:
        """Where its name is written."""
        return self.y + self.height / 2


@dataclass(frozen=True)
class StackDrawing:
    """All bands from the platen down."""

    layers: list[DrawnLayer]
    width: float
    height: float

    @property
    def summary(self) -> str:
        """Its names in their order."""
        return ", ".join(layer.name for layer in self.layers)


def stack_drawing(
    entries: Sequence[str], library: Mapping[str, Material], units: Units
) -> StackDrawing:
    """The layers of a stack as it is written; a sleeve is drawn as a pad."""
    y, layers = PLATEN, []
    for entry in entries:
        code = code_of(entry)
        material = library.get(code)
        thick = thickness_of(entry) or (material.thickness_mm if material else 1.0)
        group = "pad" if code == SLEEVE else material.group if material else ""
        height = SHRUNK * layer_height(thick, group in PAD_GROUPS)
        name = in_units(entry_text(entry, library), units)
        layers.append(DrawnLayer(y, height, name, HATCHES.get(group, "solid")))
        y += height
    return StackDrawing(layers, WIDTH + NAMES, y + 2)
