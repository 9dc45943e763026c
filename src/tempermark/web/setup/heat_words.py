"""What the heat does to a piece, in words with numbers."""

from tempermark.core.thermal.outcome import HALVED_KPA_S
from tempermark.core.thermal.sampled import Sampled
from tempermark.web.kit.templatetags.figures import NO_BREAK, temperature_text
from tempermark.web.setup.heat import FULL_DENSITY, Pressed
from tempermark.web.setup.heat_row import InARow

# Risks are spoken of from here.
TOLD_FROM = 0.2
PALE_BELOW, BOND_ENOUGH = 0.75, 0.8
DAMP_FROM_G_M2 = 2.0
SAME_OUTCOME = 0.02
RISK_NAMES = {
    "scorch": "scorch",
    "blowout": "blowout",
    "rim": "squeeze-out rim",
    "migration": "dye migration",
    "dents": "dents",
}


def headline(made: Pressed, unit: str) -> str:
    """The outcome in one sentence."""
    there = temperature_text(float(made.reached.last_c[0]), unit)
    if made.is_dye:
        return (
            f"{_dye_word(made)}: density {made.density:.2f}, {there} under the transfer at the end."
        )
    if made.has_film:
        return f"{_bond_word(made)}: bond {made.bond:.2f}, {there} under the film at the end."
    left = made.water_g_m2
    if left < DAMP_FROM_G_M2:
        return f"Dry: {there} under the cover at the end, {left:.1f}{NO_BREAK}g/m² of water left."
    return f"Still damp: {left:.0f}{NO_BREAK}g/m² of water left, {there} under the cover."


def _dye_word(made: Pressed) -> str:
    if made.piece.share == 0:
        return "Nothing takes"
    filled = made.density / made.piece.share
    if filled >= FULL_DENSITY:
        return "Dark" if made.piece.share >= PALE_BELOW else "As dark as this cloth gets"
    return "Nearly dark" if filled >= PALE_BELOW else "Pale"


def _bond_word(made: Pressed) -> str:
    if made.bond >= BOND_ENOUGH:
        return "Bonded"
    if made.reached.flow_kpa_s[0] > HALVED_KPA_S:
        return "Squeezed out"
    return "The adhesive stays cold" if made.reached.flows_s[0] <= 0 else "Half bonded"


def outcome_rows(made: Pressed, drawn: Sampled | None = None) -> list[dict]:
    """Every outcome with its value, its reason and, where drawn, its 90 % interval."""
    rows = []
    r, p = made.reached, made.piece
    if made.is_dye:
        because = f"dose {made.dose:.2f} on a share of {p.share:.2f}: share × (1 − e^−dose)"
        rows.append(_row("density", made.density, because, drawn and drawn.outcome.density, drawn))
    if made.has_film:
        because = (
            f"adhesive flows {r.flows_s[0]:.0f} s, pressure × time at fluidity 1: "
            f"{r.flow_kpa_s[0]:.0f} kPa·s"
        )
        rows.append(_row("bond", made.bond, because, drawn and drawn.outcome.bond, drawn))
    for name, label in RISK_NAMES.items():
        because = _because(made, name)
        if because:
            values = drawn and drawn.outcome.risks[name]
            rows.append(_row(label, made.risk(name), because, values, drawn))
    water = drawn and drawn.reached.water_kg_m2 * 1e3
    because = "in all layers at the end of the dwell, g/m²"
    rows.append(_row("water left", made.water_g_m2, because, water, drawn, ".1f"))
    return rows


def _row(label, value, because, values, drawn, shown=".2f") -> dict:
    row = {"label": label, "value": format(value, shown), "because": because}
    if values is not None:
        low, high = drawn.interval(values)
        row |= {"low": format(low, shown), "high": format(high, shown)}
    return row


def _because(made: Pressed, name: str) -> str:
    """Why a risk is what it is; nothing where it cannot happen."""
    r, p, kpa = made.reached, made.piece, made.asked.kpa
    if name == "scorch":
        return (
            f"{r.scorch[0]:.2f} of a beginning mark; a minute at {p.scorch_c:.0f} °C is one, "
            f"hottest {r.hottest_c[0]:.0f} °C"
        )
    if name == "blowout" and made.is_dye:
        face = "soft" if p.is_soft else "hard"
        return f"dose {made.dose:.1f} on a {face} face at {kpa:.0f} kPa"
    if name == "rim" and made.has_film:
        return f"{r.flow_kpa_s[0] / HALVED_KPA_S:.2f} of what presses half the adhesive out"
    if name == "migration" and made.has_film and p.migrates_c is not None and p.dyed > 0:
        return f"dyed cloth, {p.dyed:.2f} polyester: 15 s at {p.migrates_c:.0f} °C begin to tint"
    if name == "dents" and p.softens_c is not None:
        return (
            f"soft from {p.softens_c:.0f} °C, hottest {r.hottest_c[0]:.0f} °C under {kpa:.0f} kPa"
        )
    return ""


def how_sure(made: Pressed, drawn: Sampled, unit: str) -> str:
    """The outcome's interval, from what is known of its parameters."""
    told = []
    if made.is_dye:
        low, high = drawn.interval(drawn.outcome.density)
        told.append(f"Density {low:.2f} to {high:.2f}")
    elif made.has_film:
        low, high = drawn.interval(drawn.outcome.bond)
        told.append(f"Bond {low:.2f} to {high:.2f}")
    low_c, high_c = (temperature_text(v, unit) for v in drawn.interval(drawn.reached.last_c))
    face = f"{low_c} to {high_c} under the transfer"
    told.append(face if told else face.capitalize())
    return f"{', '.join(told)}, with 90{NO_BREAK}% chance."


def row_sentence(row: InARow, made: Pressed) -> str:
    """What the steps before give the main press, against the press alone."""
    if row.density is not None:
        told = f"After all steps: density {row.density:.2f}"
        if made.is_dye and abs(row.density - made.density) >= SAME_OUTCOME:
            told += f"; the press alone would give {made.density:.2f}"
    elif row.bond is not None:
        told = f"After all steps: bond {row.bond:.2f}"
        if made.has_film and abs(row.bond - made.bond) >= SAME_OUTCOME:
            told += f"; the press alone would give {made.bond:.2f}"
    else:
        told = "After all steps the blank is warm and dry"
    left = row.stretches[-1].water_g_m2
    if left >= DAMP_FROM_G_M2:
        told += f"; {left:.0f}{NO_BREAK}g/m² of water is still in the blank"
    return f"{told}."


def warnings(made: Pressed) -> list[str]:
    """What goes wrong, likeliest first."""
    said = [
        (made.risk(name), text)
        for name, text in (
            ("scorch", "Scorch: the face begins to yellow or glaze at this heat and dwell."),
            ("blowout", f"Blowout: dose {made.dose:.1f}, more than the face takes up."),
            ("rim", "Squeeze-out: the adhesive is pressed out, a rim shows and the bond falls."),
            ("migration", "Migration: the cloth’s own dye tints a light film."),
            ("dents", "Dents: the blank is soft under this pressure."),
        )
        if made.risk(name) >= TOLD_FROM
    ]
    if made.has_film and made.bond < BOND_ENOUGH and made.risk("rim") < TOLD_FROM:
        said.append((0.6, "Weak bond: hotter, longer or harder until the adhesive has flowed in."))
    if made.water_g_m2 >= DAMP_FROM_G_M2 and made.transfers:
        damp = f"{made.water_g_m2:.0f}{NO_BREAK}g/m²"
        said.append((0.3, f"{damp} of water is still in the stack: pre-press, or dry it first."))
    share = made.piece.share
    if made.is_dye and 0 < share < PALE_BELOW:
        said.append((0.25, f"The cloth holds {share:.0%} of the dye: a vintage look at best."))
    return [text.replace("%", f"{NO_BREAK}%") for _, text in sorted(said, reverse=True)]
