"""What the noted stack of a piece tells: its cover, inside sheet, wicking layer, extra layers."""

from tempermark.core.recipes.layers import code_of
from tempermark.core.recipes.stack_rules import (
    BLANKS,
    COVERS,
    FILMS,
    LARGE_MM,
    TRANSFERS,
    Stacked,
    faults,
)
from tempermark.core.vocabulary.methods import DYE_METHODS
from tempermark.core.vocabulary.things import TWO_LAYERED
from tempermark.web.run.models import TestPress

# A cover above the transfer, nearest to it first.
COVER_FACTS = {
    "parchment": "cover_parchment",
    "plain_paper": "cover_plain_paper",
    "ptfe_sheet": "cover_ptfe",
}
FAULT_FACTS = {
    "no_cover": "no_cover",
    "no_inside_sheet": "no_inside_sheet",
    "bare_side": "uncoated_face_up",
}


# Films that stand on the cloth instead of going into its weave.
THICK_FILMS = frozenset({"film_thick", "film_flock", "film_glitter"})


def stack_facts(piece: TestPress) -> dict[str, bool]:
    """What a piece's noted stack tells: what is so, and what lies in it and so was not left out;
    nothing where no stack was noted.
    """
    codes = [code_of(entry) for entry in piece.stack]
    if not any(code in TRANSFERS for code in codes):
        return {}
    return dict.fromkeys(_denied(piece), False) | dict.fromkeys(_held(piece, codes), True)


def _denied(piece: TestPress) -> set[str]:
    done = piece.pressed_stack
    codes = [code_of(entry) for entry in done]
    if not any(code in TRANSFERS for code in codes):
        return set()
    found = set()
    if any(code in COVERS for code in codes[: _first_transfer(codes)]):
        found.add("no_cover")
    if any("inside" in entry.split() for entry in done):
        found.add("no_inside_sheet")
    if "wicking_cloth" in codes:
        found.add("no_wicking_layer")
    films = [code for code in codes if code in FILMS]
    if films and not THICK_FILMS & set(films):
        found.add("thick_film")
    return found


def _held(piece: TestPress, codes: list[str]) -> set[str]:
    blank, method = piece.blank, piece.recipe.recipe.method
    stacked = Stacked(
        tuple(piece.stack),
        method,
        piece.pressed_step.step.kind,
        blank_kind=blank.kind,
        fixed_cover=piece.element.press.cover,
    )
    found = {FAULT_FACTS[f.code] for f in faults(stacked) if f.code in FAULT_FACTS}
    before = codes[: _first_transfer(codes)]
    nearest = next((c for c in reversed(before) if c in COVER_FACTS), None)
    if nearest:
        found.add(COVER_FACTS[nearest])
    if "foam_pillow" in codes:
        found.add("pillow_used")
    if THICK_FILMS & set(codes):
        found.add("thick_film")
    side = max(blank.width_mm or 0.0, blank.height_mm or 0.0)
    if method in DYE_METHODS and blank.kind == "panel" and side > LARGE_MM:
        found |= set() if "wicking_cloth" in codes else {"no_wicking_layer"}
    if _above(codes) > _above([code_of(entry) for entry in piece.pressed_step.stack]):
        found.add("extra_layers")
    return found if blank.kind in TWO_LAYERED else found - {"no_inside_sheet"}


def _first_transfer(codes: list[str]) -> int:
    return next(i for i, code in enumerate(codes) if code in TRANSFERS)


def _above(codes: list[str]) -> int:
    """How many covers lie above the blank."""
    blank = next((i for i, code in enumerate(codes) if code in BLANKS), len(codes))
    return sum(code in COVERS or code in ("aramid_felt", "silicone_pad") for code in codes[:blank])
