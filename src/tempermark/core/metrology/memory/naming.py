"""What has most likely happened to an element: neighbours of a kind are one, chances added."""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.memory.recall import Recalled

# From this share of all that may have happened on, it is named.
NAMED_FROM = 0.7


@dataclass(frozen=True)
class Leading:
    """The likeliest of what may be new: its kind, where (2,) in mm, its strength in K, and its
    share (0–1) of the chance that anything is; `kind` is "all" where all of it is new.
    """

    kind: str
    at_mm: np.ndarray
    strength_c: float
    share: float

    @property
    def is_named(self) -> bool:
        """Whether it stands out of the others."""
        return self.share >= NAMED_FROM


def leading(found: Recalled) -> Leading:
    """What has most likely happened, if anything has."""
    changes, change = found.kept.changes, found.change
    whole = max(change.any, 1e-300)
    if change.all_new > change.chance.sum():
        return Leading("all", np.zeros(2), 0.0, change.all_new / whole)
    signs = np.sign(changes.mean_c)
    groups = [
        (kind, sign, tuple(at) if kind == "corner" else ())
        for kind, sign, at in zip(changes.kind, signs, changes.at_mm, strict=True)
    ]
    shares = dict.fromkeys(groups, 0.0)
    for group, chance in zip(groups, change.chance, strict=True):
        shares[group] += float(chance)
    best = max(shares, key=shares.__getitem__)
    weight = np.where([group == best for group in groups], change.chance, 0.0)
    weight = weight / max(float(weight.sum()), 1e-300)
    strength = float(weight @ found.strength_c)
    return Leading(best[0], weight @ changes.at_mm, strength, shares[best] / whole)
