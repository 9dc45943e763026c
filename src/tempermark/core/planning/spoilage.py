"""How many blanks a job takes, by how many pieces were spoiled before.

Equation: the share spoiled is Beta(a + spoiled, b + good); the blanks are the fewest n with
P(good of n ≥ pieces) ≥ ``SURE`` by the beta-binomial. Expected: pieces ÷ (1 − mean share).
Source: the prior, three in a hundred with the weight of thirty pieces, is a starting value that a
shop's own pieces outweigh.
"""

import math
from functools import lru_cache

from scipy.stats import beta, betabinom

PRIOR_SPOILED, PRIOR_GOOD = 0.9, 29.1
SURE = 0.9
MANY_PIECES = 5_000


def spoiled_share(pressed: int, spoiled: int) -> float:
    """The share (0 to 1) of pieces that is likely spoiled, of so many that were."""
    return (PRIOR_SPOILED + spoiled) / (PRIOR_SPOILED + PRIOR_GOOD + pressed)


def expected_blanks(pieces: int, pressed: int, spoiled: int) -> int:
    """Blanks (pieces, whole) that so many good pieces take in the mean."""
    return round(pieces / (1 - spoiled_share(pressed, spoiled)))


@lru_cache(maxsize=4096)
def needed_blanks(pieces: int, pressed: int, spoiled: int) -> int:
    """Blanks (pieces, whole) with which so many good pieces are got in nine cases of ten."""
    good, bad = PRIOR_GOOD + pressed - spoiled, PRIOR_SPOILED + spoiled
    if pieces > MANY_PIECES:
        # Chance evens out; what the share is does not.
        return math.ceil(pieces / (1 - float(beta.ppf(SURE, bad, good))))

    def is_enough(blanks: int) -> bool:
        return float(betabinom.sf(pieces - 1, blanks, good, bad)) >= SURE

    low, high = pieces - 1, pieces
    while not is_enough(high):
        low, high = high, high + max(1, math.ceil((high - pieces + 1) * 1.5))
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if is_enough(middle) else (middle, high)
    return high
