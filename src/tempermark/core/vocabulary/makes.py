"""How presses of a kind are usually built: taken of a new press until somebody says more."""

from dataclasses import dataclass


@dataclass(frozen=True)
class UsualMake:
    """Codes of the mechanism, and of the heated part, of a kind of press."""

    mechanism: str = "knob"
    role: str = "upper"
    shape: str = "flat"


# Handbook 1, section 1: an automatic press is pneumatic, a plate and an iron are leant on, a wrap
# press has a sleeve and closes by a lever.
_OTHERS = {
    "auto": UsualMake("pneumatic"),
    "handheld": UsualMake("hand"),
    "iron": UsualMake("hand"),
    "wrap": UsualMake("toggle", "sleeve", "straight"),
}


def usual_make(kind: str) -> UsualMake:
    """The make of most presses of a kind: a flat upper platen and a knob for all not listed."""
    return _OTHERS.get(kind, UsualMake())
