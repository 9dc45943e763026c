"""Building a stack on the page: layers put in, moved, swapped, turned over and taken out."""

from collections.abc import Mapping

from tempermark.core.recipes.layers import MOST_LAYERS, code_of
from tempermark.core.recipes.stack_rules import BLANKS
from tempermark.core.thermal.library.materials import Material
from tempermark.web.kit.forms.numbers import whole

FACE_UP, BARE_SIDE, INSIDE = "face up", "uncoated side up", "inside"
# What stands behind a layer and how it reads when turned over.
TURNED = {"transfer": FACE_UP, "cloth": BARE_SIDE, "rigid": BARE_SIDE, "plastic": BARE_SIDE}


def changed(
    stack: tuple[str, ...], doing: str, material: str, library: Mapping[str, Material]
) -> tuple[str, ...]:
    """A stack after `put`, `up:2`, `move:2:0`, `swap:2`, `turn:2`, `inside:2` or `out:2`.

    What cannot be done leaves it as it is. `material` is what is put in or swapped for.
    """
    act, *numbers = doing.split(":")
    places = [at for n in numbers if (at := whole(n)) is not None]
    layers = list(stack)
    if act == "put" and material in library and len(layers) < MOST_LAYERS:
        return (material, *stack)
    if not places or places[0] >= len(layers):
        return stack
    at = places[0]
    if act in ("up", "down", "move"):
        to = {"up": at - 1, "down": at + 1}.get(act, places[-1])
        layer = layers.pop(at)
        layers.insert(min(max(to, 0), len(layers)), layer)
    elif act == "swap" and material in library:
        layers[at] = material
    elif act == "turn":
        layers[at] = turned(layers[at], library)
    elif act == "inside":
        layers[at] = _with(layers[at], INSIDE)
    elif act == "out":
        layers.pop(at)
    return tuple(layers)


def turned(entry: str, library: Mapping[str, Material]) -> str:
    """A layer with its other face up; one without faces as it is."""
    material = library.get(code_of(entry))
    words = TURNED.get(material.group) if material else None
    if words is None:
        return entry
    plain = entry.replace(" face down", "").replace(" coated side up", "")
    return _with(plain if "uncoated" not in entry else entry, words)


def _with(entry: str, words: str) -> str:
    """An entry with words behind it, or without them where they stood."""
    return entry.replace(f" {words}", "") if f" {words}" in entry else f"{entry} {words}"


def may_turn(entry: str, library: Mapping[str, Material]) -> bool:
    """Whether a layer has two faces that differ."""
    material = library.get(code_of(entry))
    return material is not None and material.group in TURNED


def lies_below_blank(stack: tuple[str, ...], at: int) -> bool:
    """Whether a layer lies under the blank, so that it may be inside the piece."""
    return any(code_of(entry) in BLANKS for entry in stack[:at])
