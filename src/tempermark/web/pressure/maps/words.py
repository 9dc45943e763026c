"""Pressure maps in words: what they say and what to do."""

from tempermark.core.pressure.map.level import Hollow
from tempermark.core.pressure.press.contact import (
    chance_in,
)
from tempermark.web.kit.drawing.places import place_words
from tempermark.web.kit.templatetags.figures import NO_BREAK
from tempermark.web.pressure.mapping import Mapped
from tempermark.web.pressure.setting.words import ENOUGH_STRIPS, class_text, kpa_text, sure_text


def mapped_headline(computed: Mapped, name: str) -> str:
    """The verdict on a pressure map."""
    parts = []
    if computed.weak_side:
        parts.append(f"has less pressure on the {computed.weak_side}")
    if computed.hollow is not None and computed.verdict == "fail":
        parts.append("has a hollow in its pad")
    if computed.pull is not None and not parts and computed.verdict == "fail":
        parts.append("does not press everywhere")
    if parts:
        return f"{name} {' and '.join(parts)}."
    if computed.verdict == "pass":
        loose = computed.pull is not None and computed.strips < ENOUGH_STRIPS
        return f"{name} presses level{', as far as these strips tell' if loose else ''}."
    if computed.pull is not None and computed.pull.tilt is None:
        return f"{name}: too few strips to tell its level."
    return f"{name} presses level so far, but not firmly everywhere."


def mapped_lead(computed: Mapped) -> str:
    """Figures of the map: tilt, hollow, mean."""
    parts = []
    if computed.map is not None:
        parts += [
            tilt_text(computed.right_mm, computed.right_sd_mm, "left", "right"),
            tilt_text(computed.back_mm, computed.back_sd_mm, "front", "back"),
        ]
    if computed.hollow is not None:
        parts.append(hollow_text(computed.hollow, computed))
    sure = sure_text(chance_in(computed.contact, computed.name))
    parts.append(f"Mean {kpa_text(computed.contact)}: {class_text(computed.contact.value)}{sure}")
    return ". ".join(p for p in parts if p) + "."


def tilt_text(value_mm: float, sd_mm: float, low: str, high: str) -> str:
    """`The right lies 0.60 mm closer than the left (± 0.02)`."""
    spread = f"±{NO_BREAK}{2 * sd_mm:.2f}"
    if abs(value_mm) <= 2 * sd_mm or abs(value_mm) < 0.05:
        return f"{low.capitalize()} and {high} alike ({spread}{NO_BREAK}mm)"
    near, far = (high, low) if value_mm > 0 else (low, high)
    return f"The {near} lies {abs(value_mm):.2f}{NO_BREAK}mm closer than the {far} ({spread})"


def hollow_text(hollow: Hollow, computed: Mapped) -> str:
    """Where a hollow is, how deep and how wide."""
    element = computed.survey.element
    place = place_words(hollow.x_mm / element.width_mm, hollow.y_mm / element.height_mm)
    about = "about " if computed.pull is not None else ""
    return (
        f"A hollow {about}{hollow.depth_mm:.2f}{NO_BREAK}mm deep lies at the {place}, "
        f"{2 * hollow.half_width_mm:.0f} × {2 * hollow.half_height_mm:.0f}{NO_BREAK}mm wide"
    )


def what_to_do(computed: Mapped, kind: str) -> list[str]:
    """What to shim, change or check, in the order of the work."""
    steps = []
    if computed.weak_side is not None:
        across = computed.right_mm if computed.weak_side in ("left", "right") else computed.back_mm
        strong = {"left": "right", "right": "left", "front": "back", "back": "front"}
        steps.append(
            f"Shim under the pad at the {computed.weak_side} by {abs(across):.1f}{NO_BREAK}mm, "
            f"tapering to nothing at the {strong[computed.weak_side]}; then pull strips again."
        )
        if kind == "clamshell" and computed.weak_side == "front":
            steps.append(
                "A hinged press pinches thick pieces at the back: first set it for this thickness, "
                "and try a thinner stack before any shim."
            )
    if computed.hollow is not None and computed.verdict == "fail":
        depth = computed.hollow.depth_mm
        steps.append(
            f"Lay a felt of {depth:.1f}{NO_BREAK}mm under the pad there as a stopgap; change the "
            "pad when it is past its life."
        )
    if computed.pull is not None and not steps and computed.verdict == "fail":
        steps.append("Where a strip slides freely nothing is pressed: tighten, and pull again.")
    if steps:
        steps.append("Levelling the platen itself follows the maker's manual, cold and unplugged.")
    return steps
