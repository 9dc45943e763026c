"""Sheets, tape and pillows that are used again: what the next use risks, and when to stop.

Method: the chance that the next piece is spoiled, times what a spoiled piece costs, against what a
use of a new one costs. Source: handbook 1 §4 “reuse”: free of ink, still sticky, not browned; the
chances are starting values.
"""

from dataclasses import dataclass

# How often one may be used before its wear begins to show. Starting values.
LIVES = {
    "plain_paper": 5,
    "parchment": 15,
    "ptfe_sheet": 150,
    "wicking_cloth": 60,
    "foam_pillow": 400,
    "tape": 3,
}
USUAL_LIFE = 10
# The chance that ink on it prints itself onto the next piece, and that browning (0 none to 3
# brown) yellows a white one.
INK_SPOILS = 0.3
BROWNING_SPOILS = (0.0, 0.03, 0.15, 0.4)
# At the end of its life, and how it grows beyond: by the square of its uses.
WORN_SPOILS, MOST_WORN_SPOILS = 0.01, 0.3


@dataclass(frozen=True)
class Wear:
    """Uses of something, whether ink was seen on it, and its browning from 0 to 3."""

    material: str
    uses: int
    ink_seen: bool = False
    browning: int = 0

    @property
    def life(self) -> int:
        """After how many uses wear begins to show."""
        return LIVES.get(self.material, USUAL_LIFE)

    @property
    def spoils(self) -> float:
        """The chance, 0–1, that the next piece under it is spoiled."""
        worn = min(WORN_SPOILS * (self.uses / self.life) ** 2, MOST_WORN_SPOILS)
        browned = BROWNING_SPOILS[min(max(self.browning, 0), len(BROWNING_SPOILS) - 1)]
        good = (1 - worn) * (1 - browned) * (1 - INK_SPOILS * self.ink_seen)
        return 1 - good


@dataclass(frozen=True)
class WearAdvice:
    """What going on costs for each use, and what a use of a new one costs, in the shop's money."""

    goes_on: float
    new: float

    @property
    def is_over(self) -> bool:
        """Whether it is cheaper to take a new one."""
        return self.goes_on > self.new


def wear_advice(wear: Wear, new_price: float, spoiled_cost: float) -> WearAdvice:
    """Going on with something against a new one at a price; all in the shop's money."""
    fresh = Wear(wear.material, 0)
    new = new_price / wear.life + fresh.spoils * spoiled_cost
    return WearAdvice(wear.spoils * spoiled_cost, new)
