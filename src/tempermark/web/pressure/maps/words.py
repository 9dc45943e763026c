"""Pressure maps in words: what they say and what to do."""

from tempermark.core.pressure.map.level import Hollow
from tempermark.core.pressure.memory.changes import pressure_changes
from tempermark.core.pressure.memory.recall import RecalledPressure
from tempermark.core.pressure.memory.steps import StandingStrips
from tempermark.core.pressure.press.contact import chance_in
from tempermark.web.kit.drawing.places import place_words
from tempermark.web.kit.figures import NO_BREAK, chance_text, day_text, length_text, size_text
from tempermark.web.kit.units import Units
from tempermark.web.pressure.mapping import Mapped
from tempermark.web.pressure.models import PressureSurvey
from tempermark.web.pressure.setting.words import ENOUGH_STRIPS, class_text, contact_text, sure_text


def mapped_headline(computed: Mapped, name: str) -> str:
    """The verdict on a pressure map."""
    if computed.is_too_early:
        return f"Too few strips to tell whether {name} is as before."
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
        few = computed.strips < ENOUGH_STRIPS and computed.standing is None
        loose = computed.pull is not None and few
        return f"{name} presses evenly{', as far as these strips show' if loose else ''}."
    if computed.pull is not None and computed.pull.tilt is None:
        return f"Too few strips to tell whether {name} is level."
    return f"{name} presses evenly so far, but not firmly everywhere."


def mapped_lead(computed: Mapped, units: Units) -> str:
    """Figures of the map: tilt, hollow, mean."""
    parts = []
    if computed.map is not None:
        parts += [
            tilt_text(computed.right_mm, computed.right_sd_mm, ("left", "right"), units),
            tilt_text(computed.back_mm, computed.back_sd_mm, ("front", "back"), units),
        ]
    if computed.hollow is not None:
        parts.append(hollow_text(computed.hollow, computed, units))
    mean, name = contact_text(computed.contact, units), class_text(computed.contact.value)
    # Beyond the classes there is none to be sure of.
    is_class = name == computed.name
    sure = sure_text(chance_in(computed.contact, name)) if is_class else ""
    parts.append(f"On average {mean}: {name}{sure}")
    return ". ".join(p for p in parts if p) + "."


def memory_text(
    survey: PressureSurvey,
    standing: StandingStrips | None,
    before: list[PressureSurvey],
    units: Units,
) -> str:
    """Whether a known press is as `before`, or what has happened; that an earlier map it rests on
    was changed. Empty where nothing is known.
    """
    if standing is None or not before:
        return ""
    text = _as_before(standing, day_text(before[0].taken_at), units)
    changed = (survey.memory or {}).get("changed_on")
    if not changed:
        return text
    return f"{text} A map that this one rests on was changed on {changed}: it was computed again."


def _as_before(standing: StandingStrips, day: str, units: Units) -> str:
    found = standing.recalled
    count = standing.count
    if not count:
        return f"The map of {day} is remembered. A change would show best at the marked station."
    strips = f"{count} strip{'' if count == 1 else 's'}"
    if found.unchanged < 0.5:
        if standing.is_enough:
            return f"Not as before: {change_text(found, units)}."
        what = change_text(found, units) if found.is_named else "what has happened is not clear yet"
        return f"Not as before: {what}; pull on."
    if not standing.is_enough:
        return f"So far as on {day}: {strips}."
    sure = chance_text(found.unchanged)
    return f"As on {day} as far as strips show, {sure} sure: {strips}."


def change_text(found: RecalledPressure, units: Units) -> str:
    """The likeliest of what may have happened to a closed press."""
    change, changes = found.change, pressure_changes()
    if change.all_new > change.chance.sum():
        return "nothing is where it was. Was the pad changed? Then note it on the press’s page"
    best = int(change.chance.argmax())
    kind, at = changes.kind[best], changes.at[best]
    size = length_text(abs(float(found.strength_mm[best])), units, 1)
    if kind == "side":
        low = {(0.0, 0.5): "left", (1.0, 0.5): "right", (0.5, 0.0): "front", (0.5, 1.0): "back"}
        return f"the {low[tuple(at.tolist())]} is pressed less, by about {size} across the platen"
    place = place_words(float(at[0]), float(at[1]))
    if kind == "corner":
        return f"the {place.removesuffix(' corner')} corner is pressed less, by about {size}"
    return f"the pad gives way by about {size} at the {place}"


def rests_on_text(before: list[PressureSurvey]) -> str:
    """The earlier maps that a map by a few strips rests on."""
    return ", ".join(day_text(one.taken_at) for one in before)


def tilt_text(value_mm: float, sd_mm: float, sides: tuple[str, str], units: Units) -> str:
    """`The right sits 0.60 mm closer than the left (± 0.02 mm)`."""
    low, high = sides
    spread = f"±{NO_BREAK}{length_text(2 * sd_mm, units, 2)}"
    if abs(value_mm) <= 2 * sd_mm or abs(value_mm) < 0.05:
        return f"{low.capitalize()} and {high} are level ({spread})"
    near, far = (high, low) if value_mm > 0 else (low, high)
    by = length_text(abs(value_mm), units, 2)
    return f"The {near} sits {by} closer than the {far} ({spread})"


def hollow_text(hollow: Hollow, computed: Mapped, units: Units) -> str:
    """Where a hollow is, how deep and how wide."""
    element = computed.survey.element
    place = place_words(hollow.x_mm / element.width_mm, hollow.y_mm / element.height_mm)
    about = "about " if computed.pull is not None else ""
    deep = length_text(hollow.depth_mm, units, 2)
    wide = size_text((2 * hollow.half_width_mm, 2 * hollow.half_height_mm), units)
    return f"There is a hollow {about}{deep} deep at the {place}, {wide} across"


def what_to_do(computed: Mapped, kind: str, units: Units) -> list[str]:
    """What to shim, change or check, in the order of the work."""
    steps: list[str] = []
    if computed.is_too_early:
        return steps
    if computed.weak_side is not None:
        across = computed.right_mm if computed.weak_side in ("left", "right") else computed.back_mm
        strong = {"left": "right", "right": "left", "front": "back", "back": "front"}
        steps.append(
            f"Shim under the pad at the {computed.weak_side} by "
            f"{length_text(abs(across), units, 1)}, tapering to nothing at the "
            f"{strong[computed.weak_side]}; then pull strips again."
        )
        if kind == "clamshell" and computed.weak_side == "front":
            steps.append(
                "A hinged press pinches thick pieces at the back: set it for this thickness and "
                "try a thinner stack before you shim anything."
            )
    if computed.hollow is not None and computed.verdict == "fail":
        depth = length_text(computed.hollow.depth_mm, units, 1)
        steps.append(
            f"As a stopgap lay felt {depth} thick under the pad there; change the pad when it is "
            "worn out."
        )
    if computed.pull is not None and not steps and computed.verdict == "fail":
        steps.append("Where a strip slides freely there is no pressure: tighten and pull again.")
    if steps:
        steps.append("To level the platen itself, follow the maker’s manual: cold and unplugged.")
    return steps
