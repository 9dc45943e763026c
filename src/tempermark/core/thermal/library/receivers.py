"""Surfaces that receive dye: how readily each takes it up, and when gas spreads sideways in it."""

import tomllib
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

from tempermark.core.constants import DYE_RATE_PER_S
from tempermark.core.thermal.result.dye import Law, LawKnown

DATA = Path(__file__).with_name("receivers.toml")
# A blank's coat by its coating and kind; what is not here is a hard coat of no special kind.
COATED = {
    ("factory", "panel"): "coat_on_panel",
    ("factory", "hardboard"): "coat_on_hardboard",
    ("factory", "tile"): "coat_on_tile",
    ("factory", "mug"): "coat_on_mug",
    ("factory", "tumbler"): "coat_on_steel",
    ("factory", "glass"): "coat_on_glass",
}
COATINGS = {"sprayed": "sprayed_coat", "brushed": "varnish", "laminated": "laminate"}
# A sheet in the stack that receives the dye in the blank's stead.
IN_STACK = {"laminate_film": "laminate", "coat_sprayed": "sprayed_coat", "coat_varnish": "varnish"}
BARE_FACE = "uncoated side"
CLOTH_KINDS = ("garment", "bag", "cap", "leather")
HARD_COAT, BARE = "hard_coat", "bare"


@dataclass(frozen=True)
class Receiver:
    """A receiving surface. Uptake is receptivity × dose (handbook 3, "What each surface needs");
    density = share × (1 − e^(−uptake)).

    `activation_j_mol` of its uptake; from `spreads_from` of uptake gas spreads sideways, softly
    where `is_soft`; `known` is how well the law is known before a shop's own pieces.
    """

    code: str
    label: str
    receptivity: float
    activation_j_mol: float
    spreads_from: float
    is_soft: bool
    known: LawKnown
    source: str

    @property
    def law(self) -> Law:
        """Its uptake: the clock's rate at 200 °C times its receptivity."""
        return Law(self.receptivity * DYE_RATE_PER_S, self.activation_j_mol)


@lru_cache(maxsize=1)
def receivers() -> dict[str, Receiver]:
    """Every shipped surface by its code."""
    data = tomllib.loads(DATA.read_text(encoding="utf-8"))
    return {code: _receiver(code, row) for code, row in data.items()}


def _receiver(code: str, row: dict[str, Any]) -> Receiver:
    return Receiver(
        code,
        row["label"],
        float(row["receptivity"]),
        float(row["activation_kj_mol"]) * 1e3,
        float(row["spreads_from"]),
        bool(row["soft"]),
        LawKnown(float(row["rate_share"]), float(row["activation_sd_kj_mol"]) * 1e3),
        row["source"],
    )


def receiver_code(kind: str, coating: str, material: str, stack: tuple[str, ...] = ()) -> str:
    """The surface that meets the transfer, by the blank's kind, coating and material and the
    stack's entries; `bare` where dye finds nothing.
    """
    if any(BARE_FACE in entry for entry in stack):
        return BARE
    for entry in stack:
        code = IN_STACK.get(entry.split(" ")[0])
        if code:
            return code
    if coating not in ("", "none"):
        return COATED.get((coating, kind)) or COATINGS.get(coating, HARD_COAT)
    if kind in CLOTH_KINDS:
        return "polyester_mesh" if material == "polyester_mesh" else "polyester_cloth"
    if kind == "plastic":
        return "petg" if material == "petg" else "plastic"
    return BARE


def receiver_of_material(material: str) -> str | None:
    """The surface that a library material is by itself; None where nobody can tell."""
    return {
        "polyester_jersey": "polyester_cloth",
        "polyester_satin": "polyester_cloth",
        "polycotton_jersey": "polyester_cloth",
        "fleece": "polyester_cloth",
        "polyester_mesh": "polyester_mesh",
        "laminate_film": "laminate",
        "coat_sprayed": "sprayed_coat",
        "coat_varnish": "varnish",
        "coat_factory": HARD_COAT,
        "petg": "petg",
    }.get(material)
