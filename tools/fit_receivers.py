"""`python tools/fit_receivers.py`: what the shipped windows say of each receiving surface.

At the middle of every ordinary window a piece is full, at its weak corner hardly pale, and 15 K
colder and 40 % shorter plainly pale (handbook 3, "What each surface needs"). Each bounds the
receptivity from one side; the handbook's starting value, known to a factor of two, is cut off at
the bounds. Gas must not yet spread at the strong corner. Prints what receivers.toml holds.
"""

from collections import defaultdict
from dataclasses import replace

import numpy as np
from scipy.stats import truncnorm

from tempermark.core.constants import DYE_RATE_PER_S
from tempermark.core.pressing.chain import press_chain
from tempermark.core.pressing.closing import receiver_of
from tempermark.core.pressing.request import main_request, shipped_blank
from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.recipes.steps import Sheet
from tempermark.core.thermal.result.dye import Law
from tempermark.core.vocabulary.methods import DYE_METHODS

# Handbook 3: polyester cloth 1.5, hard coats 4, sprayed, brushed and laminate 2.5, PETG 20 or more.
STARTING = {
    "polyester_cloth": 1.5,
    "polyester_mesh": 1.5,
    "sprayed_coat": 2.5,
    "varnish": 2.5,
    "laminate": 2.5,
    "petg": 20.0,
}
HARD, STARTING_SD = 4.0, float(np.log(2.0))
# Density of what is possible: full in the middle, hardly pale at the weak corner, plainly pale
# when colder and shorter; each with some room to its limit of 0.92, 0.75 and 0.75.
FULL, WEAK, PALE = 0.935, 0.78, 0.72
# Inks, lots and makers' coats differ beyond what windows say, standard, as a share. Starting value.
BETWEEN_SHOPS = 0.25
# At the strong corner gas has reached at most this share of where it spreads.
STRONG_SHARE = 0.6


def uptakes(sheet: Sheet, activation_j_mol: float) -> dict[str, float]:
    """Uptake for a receptivity of 1 in the middle, at two corners, and colder and shorter."""
    (low_c, high_c), (low_s, high_s) = sheet.main.temperature_c, sheet.main.time_s
    middle_c, middle_s = (low_c + high_c) / 2, (low_s + high_s) / 2
    places = {
        "centre": (middle_c, middle_s),
        "weak": (low_c, low_s),
        "strong": (high_c, high_s),
        "pale": (middle_c - 15, 0.6 * middle_s),
    }
    found = {}
    for name, (true_c, dwell_s) in places.items():
        law = Law(DYE_RATE_PER_S, activation_j_mol)
        request = main_request(sheet, shipped_blank(sheet.blank), true_c=true_c, dwell_s=dwell_s)
        found[name] = press_chain(sheet, "", replace(request, law=law)).main.uptake
    return found


def main() -> None:
    """Fit and print."""
    by_surface = defaultdict(list)
    for sheet in shipped_recipes():
        if sheet.method in DYE_METHODS:
            request = main_request(sheet, shipped_blank(sheet.blank))
            by_surface[receiver_of(request).code].append(
                uptakes(sheet, receiver_of(request).activation_j_mol)
            )
    for code, rows in by_surface.items():
        low = max(max(-np.log(1 - FULL) / u["centre"], -np.log(1 - WEAK) / u["weak"]) for u in rows)
        high = min(-np.log(1 - PALE) / u["pale"] for u in rows)
        start = float(np.log(STARTING.get(code, HARD)))
        ends = (np.log([low, high]) - start) / STARTING_SD
        cut = truncnorm(*ends, loc=start, scale=STARTING_SD)
        value = float(np.exp(cut.mean()))
        spreads = value * max(u["strong"] for u in rows) / STRONG_SHARE
        spread = float(np.hypot(cut.std(), BETWEEN_SHOPS))
        print(
            f"{code:18} {low:6.2f} … {high:6.2f}: receptivity {value:.2f}, "
            f"rate_share {spread:.2f}, spreads_from {spreads:.1f}"
        )


if __name__ == "__main__":
    main()
