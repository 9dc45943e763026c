"""What is done before the press closes, for one piece: generated from method, blank and recipe.

Source: handbook 1 §4; an order in which no line undoes one before it.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from tempermark.core.constants import HUMID_FROM, expansion_per_k
from tempermark.core.phrases import Text, duration, length, phrase, wait_text
from tempermark.core.preparing.size.growth import (
    PLACED_WITHIN_MM,
    ROOM_C,
    Bleed,
    bleed,
    folded_mm,
    taping,
)
from tempermark.core.preparing.waits import LOOK_EVERY_S, Wait
from tempermark.core.pressing.request import BlankProperties
from tempermark.core.recipes.steps import RecipeStep, Sheet
from tempermark.core.thermal.library.receivers import CLOTH_KINDS
from tempermark.core.vocabulary.methods import DYE_METHODS
from tempermark.core.vocabulary.things import VESSEL_KINDS

# A print dries before it is pressed (handbook 1 §4), s.
PRINT_DRIES_S = 12 * 60.0
# Printed films that are laid face up, and patches, read as they are.
PRINTED_AS_READ = ("patch", "transfer_paper")
# A blank that is not pre-pressed by its recipe but may be damp, s.
USUAL_DRYING_S = {"cloth": 5.0, "panel": 30.0}


# The recipe's own steps before its main press that no other line stands for.
OWN_STEPS = (
    "coat",
    "dry",
    "powder",
    "hover",
    "cure",
    "laminate",
    "trim",
    "set",
    "second_press",
    "cool",
)
STEP_REASONS = {
    "coat": "A dry island takes no dye: look against the light.",
    "dry": "What is still wet under the platen steams and blisters.",
    "cure": "A coat that is not cured comes off with the transfer.",
    "set": "A platen that is still changing is cold or hot for the first pieces.",
    "hover": "Nothing touches: what is loose stays where it lies.",
    "second_press": "It sets what the first press left standing up.",
    "cool": "Hot it is soft and burns.",
}


@dataclass(frozen=True)
class PreparationLine:
    """One line of the list: what to do, why, what to beware of; the fact that a tick reports
    (a code of the knowledge, or empty), the waits that it starts together, and those of which one
    is chosen. Of a heated step its window in true °C.
    """

    code: str
    do: Text
    because: Text
    caution: Text = ""
    fact: str = ""
    waits: tuple[Wait, ...] = ()
    choices: tuple[Wait, ...] = ()
    window_c: tuple[float, float] | None = None


@dataclass(frozen=True)
class PieceToPrepare:
    """What is prepared: recipe, blank, the size of its art in mm, the room's humidity, 0–1, how far
    the transfer is folded to the back, mm, how long this print dries, s, and who mirrors it.
    """

    sheet: Sheet
    blank: BlankProperties
    art_mm: tuple[float, float]
    humidity: float | None = None
    fold_mm: float = 0.0
    dries_s: float = PRINT_DRIES_S
    mirrored_by: str = ""

    @property
    def is_cloth(self) -> bool:
        """Whether the blank is of cloth or leather."""
        return self.blank.kind in CLOTH_KINDS

    @property
    def is_dye(self) -> bool:
        """Whether dye passes into the blank."""
        return self.sheet.method in DYE_METHODS

    @property
    def is_taped(self) -> bool:
        """Whether its transfer is taped: paper is, film on its carrier holds by itself."""
        return self.is_dye

    @property
    def is_humid(self) -> bool:
        """Whether the room is known to be humid."""
        return self.humidity is not None and self.humidity >= HUMID_FROM

    @property
    def steps_before(self) -> list[tuple[int, RecipeStep]]:
        """The steps before the main press with their places in the recipe."""
        steps = self.sheet.steps
        return list(enumerate(steps))[: steps.index(self.sheet.main)]

    def step(self, kind: str) -> RecipeStep | None:
        """The recipe's first step of a kind."""
        return next((step for step in self.sheet.steps if step.kind == kind), None)


def preparation(piece: PieceToPrepare) -> list[PreparationLine]:
    """The lines for a piece, in the order in which they are done."""
    parts = (_mixing, _checks, _surface, _trim, _print, _size, _steps, _drying, _stack, _fixing)
    return [line for part in parts for line in part(piece)]


def _mixing(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    step = piece.step("mix")
    if step is not None:
        yield PreparationLine(
            "mix",
            step.do or "Mix the coat and label the bottle with the date.",
            "A coat past its date fades in the wash.",
            "Sprays burn: never near a hot platen, and with the extractor on.",
        )


def _checks(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    """What the recipe wants looked at before anything else."""
    for number, step in piece.steps_before:
        if step.kind == "check":
            waits = tuple(Wait("check", sum(step.time_s) / 2) for _ in (0,) if step.time_s)
            yield _step_line(number, step, waits)


def _steps(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    """The recipe's own steps before its main press, in its order: coats, cures, hovers, waits."""
    for number, step in piece.steps_before:
        if step.kind in OWN_STEPS:
            yield _step_line(number, step, _step_waits(step))


def _step_waits(step: RecipeStep) -> tuple[Wait, ...]:
    if not step.time_s:
        return ()
    middle = float(round(sum(step.time_s) / 2))
    if step.kind == "hover":
        # A hinged platen is nearer at its back: half the time each way round.
        return Wait("turn it under the platen", middle / 2), Wait("hover", middle)
    if step.kind == "laminate":
        return Wait("look at the rim", LOOK_EVERY_S, repeats=True), Wait("laminate", middle)
    return (Wait(step.name, middle),)


def _step_line(number: int, step: RecipeStep, waits: tuple[Wait, ...]) -> PreparationLine:
    do = step.do or f"{step.name.capitalize()}."
    because = step.look_for or STEP_REASONS.get(step.kind, "The recipe asks for it here.")
    cautions = " ".join(step.cautions)
    if step.is_heated and not cautions:
        cautions = "Platen and piece burn at a touch: gloves."
    window = step.temperature_c if step.is_heated else None
    return PreparationLine(f"step-{number}", do, because, cautions, waits=waits, window_c=window)


def _surface(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    """The blank's face: the right side, bare, clean and dry to the touch."""
    if not piece.is_cloth:
        yield PreparationLine(
            "side",
            "Turn the coated side to the ink.",
            "A bare side takes no dye: nothing is left after the press opens.",
        )
        yield PreparationLine(
            "film_off",
            "Pull the protective film off.",
            "Film that stays on melts onto the platen’s sheet.",
        )
        yield PreparationLine(
            "clean",
            "Wipe it with alcohol and a lint-free cloth.",
            "Fingerprints and dust print as pale marks.",
            "Alcohol burns: let it dry away from the hot platen.",
            fact="blank_wiped",
        )
        if piece.blank.kind == "hardboard":
            yield PreparationLine(
                "edges", "Feel the edges for burrs of foil.", "A burr holds the transfer off."
            )
    else:
        yield PreparationLine(
            "lint",
            "Roll the lint off, once more just before it goes in.",
            "A fibre under the transfer prints as a blue or grey thread.",
        )


def _trim(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    if piece.is_cloth:
        yield PreparationLine(
            "trim",
            "Keep buttons, zips, snaps and cords off the heat.",
            "They melt or mark, and hold the platen off what is beside them.",
        )


def _print(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    if piece.sheet.method in PRINTED_AS_READ:
        return
    by = f" Here {piece.mirrored_by} does it." if piece.mirrored_by else ""
    yield PreparationLine(
        "mirror",
        f"Check that the print is mirrored, once and not twice.{by}",
        "It is laid face down: text must read backwards on the paper.",
    )
    if piece.is_dye and piece.dries_s > 0:
        yield PreparationLine(
            "dry_print",
            f"Let the print dry {wait_text(piece.dries_s)}.",
            "Wet ink blooms at its edges and steams under the platen.",
            fact="transfer_dried",
            waits=(Wait("print dry", piece.dries_s),),
        )


def needed_bleed(piece: PieceToPrepare) -> Bleed | None:
    """The bleed of art that covers a rigid blank: growth, placing error and fold; None where the
    art does not cover the blank, or its size or material is not known.
    """
    blank, press = piece.blank, piece.sheet.main
    alpha = expansion_per_k(blank.material)
    sides = (blank.width_mm, blank.height_mm)
    if blank.kind in VESSEL_KINDS or alpha is None or None in sides or not piece.is_dye:
        return None
    size = (float(sides[0] or 0), float(sides[1] or 0))
    if piece.art_mm[0] < size[0] or piece.art_mm[1] < size[1]:
        return None
    hot_c = sum(press.temperature_c) / 2 if press.temperature_c else 195.0
    found = bleed(size, alpha, ROOM_C, hot_c, PLACED_WITHIN_MM)
    return folded_mm(found, blank.thickness_mm or 0.0, piece.fold_mm)


def _size(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    """Art that covers a rigid blank is larger than it by its growth and the placing error."""
    found = needed_bleed(piece)
    if found is None:
        return
    fold = (
        phrase("; {fold} more folds to the back", fold=length(piece.fold_mm, digits=1))
        if piece.fold_mm
        else ""
    )
    yield PreparationLine(
        "size",
        phrase(
            "Print the art {width} × {height}.",
            width=length(found.art_mm[0], digits=1),
            height=length(found.art_mm[1], digits=1),
        ),
        phrase(
            "Hot, it is {wide} wider at each end and {high} higher; {placing} more on each side "
            "for placing{fold}. Smaller art leaves white rims.",
            wide=length(found.growth_mm[0], digits=1),
            high=length(found.growth_mm[1], digits=1),
            placing=length(PLACED_WITHIN_MM, digits=1),
            fold=fold,
        ),
    )


def _drying(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    step = piece.step("pre_press")
    usual = USUAL_DRYING_S["cloth"] if piece.is_cloth else USUAL_DRYING_S["panel"]
    if step is None and not (piece.is_cloth or piece.is_humid):
        return
    wait_s = float(round(sum(step.time_s) / 2)) if step is not None and step.time_s else usual
    yield PreparationLine(
        "dry",
        phrase("Pre-press the blank {wait} to dry it.", wait=duration(wait_s)),
        "Moisture is the first enemy: it steams the print pale and mottled.",
        "Platen and blank burn at a touch: gloves.",
        fact="blank_prepressed",
        waits=(Wait("pre-press", wait_s),),
        window_c=step.temperature_c if step else None,
    )


def _stack(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    if (
        piece.is_humid
        and piece.is_dye
        and not any(layer.startswith("wicking_cloth") for layer in piece.sheet.main.stack)
    ):
        yield PreparationLine(
            "wicking",
            "Lay a moisture-wicking cloth above the transfer.",
            "The room is humid: steam needs somewhere to go.",
        )
    yield PreparationLine(
        "sheets",
        "Take cover sheets without ink and without browning.",
        "Ink on a sheet prints itself onto the next blank.",
    )


def _fixing(piece: PieceToPrepare) -> Iterator[PreparationLine]:
    own = piece.step("place")
    yield PreparationLine(
        "place",
        (own.do if own else "") or "Lay the transfer face down.",
        "Measure that it is straight: by eye one degree looks straight, a ruler shows it.",
        " ".join(own.cautions) if own else "",
    )
    if not piece.is_taped:
        return
    where = "all four corners" if taping(piece.art_mm) == "all_corners" else "two opposite corners"
    yield PreparationLine(
        "fix",
        f"Tape {where} with clear heat tape.",
        "A transfer that moves on a hot surface ghosts; coloured tape may stain.",
        fact="transfer_fixed",
    )
