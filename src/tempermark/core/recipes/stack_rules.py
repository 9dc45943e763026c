"""Stacks that go wrong, caught with the reason (handbook 1 §4, "stack order")."""

from dataclasses import dataclass
from itertools import pairwise

from tempermark.core.constants import HUMID_FROM
from tempermark.core.recipes.steps import WITHOUT_CONTACT
from tempermark.core.thermal.library.materials import codes_of
from tempermark.core.vocabulary.methods import DYE_METHODS, FILM_METHODS
from tempermark.core.vocabulary.things import TWO_LAYERED

# Layers by what they do. An entry may carry words behind its code: `plain_paper inside`.
COVERS = codes_of("cover")
TRANSFERS = codes_of("transfer", "film", "carrier")
FILMS, CARRIERS = codes_of("film"), codes_of("carrier")
BLANKS = codes_of("cloth", "rigid", "plastic")
TRIMS = ("metal_trim", "plastic_trim")
# A panel is large from this on a side (handbook 1 §4; job 5).
LARGE_MM = 300.0


@dataclass(frozen=True)
class Stacked:
    """A stack from the platen down, and what is pressed with it.

    `layers` are codes with words behind; `kind` of the step: press, cure or hover; sizes in mm,
    humidity 0–1; None is unknown. `fixed_cover` is what is fixed on the upper platen.
    """

    layers: tuple[str, ...]
    method: str
    step: str = "press"
    blank_kind: str = "garment"
    coating: str = ""
    features: tuple[str, ...] = ()
    width_mm: float | None = None
    height_mm: float | None = None
    relative_humidity: float | None = None
    fixed_cover: str = ""


@dataclass(frozen=True)
class Fault:
    """What is wrong with a stack, why, and what would be right."""

    code: str
    because: str
    right: str


def faults(stack: Stacked) -> list[Fault]:
    """Everything wrong with a stack, what spoils a piece first leading."""
    codes = [entry.split()[0] for entry in stack.layers if entry.strip()]
    found = (rule(stack, codes) for rule in RULES)
    return [fault for fault in found if fault is not None]


def _paper_on_wet_coat(stack: Stacked, codes: list[str]) -> Fault | None:
    if stack.step != "cure" or stack.method != "spray_coating":
        return None
    blank = next((i for i, code in enumerate(codes) if code in BLANKS), len(codes))
    if not {"plain_paper", "wicking_cloth"} & set(codes[:blank]):
        return None
    return Fault(
        "paper_on_wet_coat",
        "plain porous paper sticks fast to a wet coating",
        "use only parchment above a wet coating, with cloth under it",
    )


def _ptfe_while_hovering(stack: Stacked, codes: list[str]) -> Fault | None:
    if stack.step != "hover" or ("ptfe_sheet" not in codes and stack.fixed_cover != "ptfe"):
        return None
    return Fault(
        "ptfe_while_hovering",
        "a PTFE cover holds the heat back from the powder",
        "take the PTFE off to hover",
    )


def _face_up(stack: Stacked, codes: list[str]) -> Fault | None:
    if not any(e.split()[0] in TRANSFERS and "face up" in e for e in stack.layers if e.strip()):
        return None
    if stack.method in FILM_METHODS:
        return None
    return Fault("face_up", "the ink faces the platen", "transfer face down, ink to the blank")


def _bare_side(stack: Stacked, codes: list[str]) -> Fault | None:
    if "uncoated side" not in " ".join(stack.layers):
        return None
    return Fault("bare_side", "dye does not hold on a bare side", "coated side to the ink")


def _sheet_between(stack: Stacked, codes: list[str]) -> Fault | None:
    """A sheet between the transfer and what it shall print."""
    last = max((i for i, code in enumerate(codes) if code in TRANSFERS), default=None)
    if last is None or codes[last + 1 : last + 2] == [] or codes[last + 1] not in COVERS:
        return None
    if stack.step in WITHOUT_CONTACT:
        return None
    return Fault(
        "sheet_between",
        "a sheet between the transfer and the blank takes the print itself",
        "the transfer directly on the blank",
    )


def _film_upside_down(stack: Stacked, codes: list[str]) -> Fault | None:
    """A carrier below its film: the adhesive looks at the platen."""
    pairs = pairwise(codes)
    if stack.step in WITHOUT_CONTACT or not any(a in FILMS and b in CARRIERS for a, b in pairs):
        return None
    return Fault(
        "film_upside_down",
        "the carrier is under its film, so the adhesive faces the platen",
        "carrier up, adhesive to the cloth",
    )


def _no_cover(stack: Stacked, codes: list[str]) -> Fault | None:
    if stack.step in WITHOUT_CONTACT:
        return None
    first = next((i for i, code in enumerate(codes) if code in TRANSFERS), None)
    if first is None or any(code in COVERS for code in codes[:first]) or "sleeve" in codes[:first]:
        return None
    if stack.fixed_cover == "ptfe" and stack.method in FILM_METHODS:
        return None
    return Fault(
        "no_cover",
        "there is nothing between the platen and the transfer",
        "a fresh sheet of parchment or paper above it",
    )


def _no_inside_sheet(stack: Stacked, codes: list[str]) -> Fault | None:
    if stack.method not in DYE_METHODS or stack.blank_kind not in TWO_LAYERED:
        return None
    if stack.step != "press" or any("inside" in entry for entry in stack.layers):
        return None
    return Fault(
        "no_inside_sheet",
        "dye gas goes through to the back of the garment",
        "a sheet of plain paper inside",
    )


def _no_wicking(stack: Stacked, codes: list[str]) -> Fault | None:
    humid = stack.relative_humidity is not None and stack.relative_humidity >= HUMID_FROM
    side = max(stack.width_mm or 0.0, stack.height_mm or 0.0)
    if stack.method not in DYE_METHODS or stack.blank_kind != "panel" or side <= LARGE_MM:
        return None
    if not humid or "wicking_cloth" in codes:
        return None
    return Fault(
        "no_wicking",
        "in a humid room moisture cannot escape from under a large panel and mottles it",
        "a moisture-wicking cloth above the transfer",
    )


def _fixed_ptfe_for_dye(stack: Stacked, codes: list[str]) -> Fault | None:
    if stack.fixed_cover != "ptfe" or stack.method not in DYE_METHODS:
        return None
    return Fault(
        "fixed_ptfe_for_dye",
        "a fixed PTFE cover keeps the moisture in and may carry old ink",
        "take the PTFE cover off for dye work",
    )


def _trim_in_heat(stack: Stacked, codes: list[str]) -> Fault | None:
    trims = [f.replace("_", " ") for f in stack.features if f in (*TRIMS, "zip", "button")]
    if not trims or "foam_pillow" in codes:
        return None
    return Fault(
        "trim_in_heat",
        f"the heat melts or marks {' and '.join(trims)}, and nothing presses beside it",
        "keep trims off the platen, or put a pillow under the print",
    )


RULES = (
    _face_up,
    _film_upside_down,
    _sheet_between,
    _bare_side,
    _paper_on_wet_coat,
    _no_cover,
    _no_inside_sheet,
    _no_wicking,
    _ptfe_while_hovering,
    _fixed_ptfe_for_dye,
    _trim_in_heat,
)
