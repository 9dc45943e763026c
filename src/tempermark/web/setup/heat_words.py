"""What the heat does to a piece, in words with numbers."""

from tempermark.core.thermal.sampled import Sampled
from tempermark.web.kit.templatetags.figures import NO_BREAK, temperature_text
from tempermark.web.setup.heat import FULL_DENSITY, Pressed

# Risks are spoken of from here.
TOLD_FROM = 0.2
LIKELY_FROM = 0.5
PALE_BELOW = 0.75
DAMP_FROM_G_M2 = 2.0


def headline(made: Pressed, unit: str) -> str:
    """The outcome in one sentence."""
    there = temperature_text(made.at_interface_c, unit)
    if made.is_dye:
        word = _dye_word(made)
        return f"{word}: density {made.density:.2f}, {there} under the transfer at the end."
    if made.seconds_active <= 0:
        return f"The adhesive stays cold: {there} under the film at the end."
    return f"The adhesive flows for {made.seconds_active:.0f}{NO_BREAK}s, {there} under the film."


def how_sure(made: Pressed, drawn: Sampled) -> str:
    """The outcome's interval, from what is known of its parameters."""
    if made.is_dye:
        low, high = (made.share * v for v in drawn.interval(drawn.density))
        return f"Density {low:.2f} to {high:.2f} with 90{NO_BREAK}% chance."
    return ""


def how_warm(drawn: Sampled, unit: str) -> str:
    """The interface's interval."""
    low, high = (temperature_text(v, unit) for v in drawn.interval(drawn.interface_c))
    return f"Under the transfer {low} to {high} at the end."


def _dye_word(made: Pressed) -> str:
    filled = made.density / made.share if made.share else 0.0
    if filled >= FULL_DENSITY:
        return "Dark" if made.share >= PALE_BELOW else "As dark as this cloth gets"
    return "Nearly dark" if filled >= PALE_BELOW else "Pale"


def warnings(made: Pressed) -> list[str]:
    """What goes wrong, likeliest first."""
    said = []
    if made.scorch >= TOLD_FROM:
        said.append((made.scorch, "Scorch: the cloth begins to yellow at this heat and dwell."))
    if made.blowout >= TOLD_FROM:
        said.append((made.blowout, f"Blowout: dose {made.dose:.1f}, more than the face takes up."))
    if made.squeeze is not None and made.squeeze >= 1:
        said.append((0.6, "Squeeze-out: the adhesive is pressed out and a rim shows."))
    if made.water_g_m2 >= DAMP_FROM_G_M2:
        damp = f"{made.water_g_m2:.0f}{NO_BREAK}g/m²"
        said.append((0.3, f"{damp} of water is still in the stack: pre-press, or dry it first."))
    if made.is_dye and made.share < PALE_BELOW:
        said.append((0.25, f"The cloth holds {made.share:.0%} of the dye: a vintage look at best."))
    return [text.replace("%", f"{NO_BREAK}%") for _, text in sorted(said, reverse=True)]
