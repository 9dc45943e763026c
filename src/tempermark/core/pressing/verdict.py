"""How a piece comes out, in one word, and why: the same everywhere."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from tempermark.core.phrases import Text, duration, phrase, pressure, temperature
from tempermark.core.pressing.closing import PressResult

# Of the density that the blank can take, or of a full bond (formats/commands.md, "outcome"): from
# here good, from here slightly pale or weak, below it plainly.
GOOD_FROM, SLIGHTLY_FROM = 0.9, 0.75
# No risk may be greater in a good piece; from the second figure on most are ruined.
RISK_LIMIT, OVERDONE_FROM = 0.2, 0.5
# Water that counts as some, g/m² where it reaches the print.
DAMP_FROM_G_M2 = 0.5
# A cloth with less polyester stays weak however full it is.
WEAK_SHARE = 0.75
GOOD, PALE, WEAK_BOND, OVERDONE, DAMP = "good", "pale", "weak_bond", "overdone", "damp"


@dataclass(frozen=True)
class PieceVerdict:
    """One of good, pale, weak_bond, overdone and damp, and what speaks for it."""

    code: str
    because: tuple[Text, ...]


def is_good(filled: np.ndarray, worst_risk: np.ndarray) -> np.ndarray:
    """Whether pieces with these shares of what is possible and worst risks are good (arrays)."""
    return (np.asarray(filled) >= GOOD_FROM) & (np.asarray(worst_risk) <= RISK_LIMIT)


def verdict_of(pressed: PressResult) -> PieceVerdict:
    """The verdict of one piece; what is short comes before what is overdone or damp."""
    short = pressed.transfers and pressed.filled < GOOD_FROM
    risks = {name: float(values[0]) for name, values in pressed.outcome.risks.items()}
    over = [name for name, value in risks.items() if value > RISK_LIMIT]
    code = GOOD
    if short:
        code = PALE if pressed.is_dye else WEAK_BOND
    elif over:
        code = OVERDONE
    elif pressed.water_g_m2 >= DAMP_FROM_G_M2:
        code = DAMP
    if short and over and max(risks.values()) >= OVERDONE_FROM:
        code = OVERDONE
    return PieceVerdict(code, tuple(_because(pressed, over)))


def _because(pressed: PressResult, over: list[str]) -> Iterator[Text]:
    face = float(pressed.reached.last_c[0])
    if pressed.is_dye and pressed.piece.share == 0:
        yield "a bare surface takes no dye"
        return
    if pressed.is_dye and pressed.receiver is not None:
        yield phrase(
            "{surface} takes {share} of the dye it can hold; {face} under the transfer at the end",
            surface=pressed.receiver.label,
            share=_percent(pressed.filled),
            face=temperature(face, 0),
        )
        if pressed.piece.share < WEAK_SHARE:
            yield f"{_percent(pressed.piece.share)} polyester: weak even when full"
    elif pressed.has_film:
        yield phrase(
            "the adhesive flows for {flows} and reaches {share} of a full bond; {face} under the "
            "film at the end",
            flows=duration(float(pressed.reached.flows_s[0]), 0),
            share=_percent(pressed.bond),
            face=temperature(face, 0),
        )
    for name in over:
        yield _too_much(pressed, name)
    if pressed.water_g_m2 >= DAMP_FROM_G_M2:
        yield f"{pressed.water_g_m2:.1f} g/m² of water is left where it reaches the print"


def _too_much(pressed: PressResult, name: str) -> Text:
    r, p, kpa = pressed.reached, pressed.piece, pressed.request.kpa
    hottest = float(r.hottest_c[0])
    words: dict[str, Text] = {
        "scorch": phrase(
            "{hottest} for this long marks it: its limit is {limit}",
            hottest=temperature(hottest, 0),
            limit=temperature(p.scorch_c, 0),
        ),
        "blowout": "more dye arrives than the surface can take up: "
        f"{pressed.uptake / p.spreads_from:.1f} times the uptake above which dye spreads",
        "rim": "too much adhesive is pressed out",
        "migration": phrase(
            "the dye of the cloth moves into the film from {limit}",
            limit=temperature(p.migrates_c or 0.0, 0),
        ),
        "dents": phrase(
            "soft from {limit} and under {kpa}",
            limit=temperature(p.softens_c or 0.0, 0),
            kpa=pressure(kpa),
        ),
    }
    return words[name]


def _percent(share: float) -> str:
    return f"{100 * share:.0f} %"
