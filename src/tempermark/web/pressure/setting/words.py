"""Pressure in words: what to turn, how a press is set, what a blank withstands."""

from datetime import date

from tempermark.core.pressing.limits import BRITTLE_KINDS
from tempermark.core.pressure.map.level import LEVEL_ENOUGH_MM, closes_at_all, pinch_mm
from tempermark.core.pressure.press.contact import (
    CLASS_KPA,
    HIGHEST_KPA,
    LEAST_LINE_KPA,
    LOWEST_KPA,
    Range,
    class_of,
)
from tempermark.core.pressure.press.knob import COUNTERCLOCKWISE
from tempermark.core.pressure.press.wear import Life
from tempermark.web.kit.figures import (
    NO_BREAK,
    length_text,
    pressure_number,
    pressure_text,
    weight_text,
)
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import say
from tempermark.web.pressure.models import PressureState
from tempermark.web.pressure.setting.setting import Advice

# Beyond this a pad is pressed flat, and no figure would be honest.
MOST_SHOWN_KPA = 200.0
# Corners, edges and middle: fewer strips tell a level only so far.
ENOUGH_STRIPS = 9
EIGHTHS = ("", "⅛", "¼", "⅜", "½", "⅝", "¾", "⅞")
PULL_WORDS = {
    "free": "slides freely",
    "drags": "drags",
    "holds": "holds",
    "tears": "tears",
}


def turns_text(turns: float) -> str:
    """`1½ turns`, `¼ turn`, `no turn`; to the nearest eighth, without its sign."""
    eighths = round(abs(turns) * 8)
    if not eighths:
        return "no turn"
    whole, part = divmod(eighths, 8)
    text = f"{whole or ''}{EIGHTHS[part]}"
    return f"{text}{NO_BREAK}turn{'s' if eighths > 8 else ''}"


def direction_text(rotation: str) -> str:
    """`clockwise` or `counter-clockwise`."""
    return "counter-clockwise" if rotation == COUNTERCLOCKWISE else rotation


def position_text(position_turns: float, by_feel: bool = False) -> str:
    """`¼ turn tighter than the touch point`; without a session only from where it was set."""
    if abs(position_turns) < 1 / 16:
        return "at the touch point" if not by_feel else "at its mark"
    how = "tighter than" if position_turns > 0 else "looser than"
    mark = "its mark" if by_feel else "the touch point"
    return f"{turns_text(position_turns)} {how} {mark}"


def contact_text(contact: Range, units: Units) -> str:
    """`32 kPa (23–44)`."""
    if contact.value > MOST_SHOWN_KPA:
        return f"more than {pressure_text(MOST_SHOWN_KPA, units)}"
    if contact.value < 0.05:
        return f"no contact (at most {pressure_text(contact.high, units)})"
    digits = 0 if contact.value >= 10 else 1
    low, high = (pressure_number(v, units, digits) for v in (contact.low, contact.high))
    return f"{pressure_text(contact.value, units, digits)} ({low}–{high})"


def sure_text(chance: float) -> str:
    """`, 86 % sure`; never 100."""
    return f", {min(chance, 0.99) * 100:.0f}{NO_BREAK}% sure"


def class_text(contact_kpa: float) -> str:
    """The class's name, or what is beyond the classes."""
    if contact_kpa < CLASS_KPA["resting"][0]:
        return "less than resting"
    if contact_kpa > HIGHEST_KPA:
        return "more than firm"
    return class_of(contact_kpa)


def headline(advice: Advice, units: Units) -> str:
    """What to do now, in the press's own sense."""
    name = advice.press.name
    if advice.is_unlearned_knob:
        return _unlearned_headline(advice)
    if advice.missing == "lesson":
        return f"{name}’s cylinder is not in the register yet."
    if advice.missing == "plate":
        return f"How heavy is {name}’s plate by itself?"
    if advice.refused:
        return f"{name} cannot press {advice.load.blank.name} {advice.load.wanted}."
    answer = {
        "knob": _knob_headline,
        "pneumatic": lambda a: f"Set {name}’s air to {pressure_text(a.line_kpa, units)}.",
        "scale": lambda a: f"Turn until {name}’s scale shows {a.figure:.1f}, with the piece in.",
        "hand": lambda a: _hand_headline(a, units),
        "toggle": _lever_headline,
    }
    return answer[advice.mechanism](advice)


def _unlearned_headline(advice: Advice) -> str:
    """By feel; or left alone, where it was set for as thick a stack and the same class before."""
    state, load, name = advice.position, advice.load, advice.press.name
    if state is not None and state.wanted == load.wanted:
        thicker = load.stack_mm - state.stack_mm
        if abs(thicker) < SAME_STACK_MM:
            return f"Leave {name}’s knob where it is: it was set for the same stack."
        way = "Back off" if thicker > 0 else "Tighten"
        change = "thicker" if thicker > 0 else "thinner"
        return f"{way}, then set {name} by feel: {load.blank.name} is {change} than the last stack."
    return f"Set {name} by feel for {load.blank.name}: {load.wanted}."


def _hand_headline(advice: Advice, units: Units) -> str:
    name, load, found = advice.press.name, advice.load, advice.then
    if load.wanted == "resting":
        return f"Rest {name} on the piece and do not lean."
    if load.lean_kg is None:
        how = "by its strips" if advice.learned else "at a guess"
        return f"Lean on {name} with straight arms: {class_text(found.value)} {how}."
    if class_of(found.value) == load.wanted:
        return f"Lean on {name} as you did on the scale, {weight_text(load.lean_kg, units)}."
    harder = "harder" if advice.lean_for_kg > load.lean_kg else "less hard"
    about = weight_text(advice.lean_for_kg, units)
    return f"Lean {harder} on {name} than on the scale: about {about}."


def _lever_headline(advice: Advice) -> str:
    name = advice.press.name
    if advice.missing == "strips":
        return f"Pull strips to see how hard {name}’s lever presses."
    return f"{name}’s lever presses {class_text(advice.then.value)} by its strips."


def _knob_headline(advice: Advice) -> str:
    if advice.by_feel and advice.missing == "position":
        return f"Set {advice.press.name} by feel for this piece once, then record that it is right."
    turns, where = advice.turns, direction_text(advice.rotation)
    if not round(turns * 8):
        if advice.missing == "position":
            return f"Turn {advice.press.name}’s knob to the touch point and leave it there."
        return f"Leave {advice.press.name}’s knob where it is."
    start = "From the touch point " if advice.missing == "position" else ""
    verb = "tighten" if turns > 0 else "back off"
    text = f"{start}{verb} {turns_text(turns)}, {where} on this press."
    return text[0].upper() + text[1:]


NOT_YET = {
    "plate": "Add the plate’s own weight to the press; its pressure at rest then follows.",
    "lesson": "Until then its pressure can only be judged by feel.",
}
# A stack so little thicker or thinner needs no other setting by feel.
SAME_STACK_MM = 0.1
# How a strip of paper under a corner feels when pulled (handbook 1, section 3), by class.
STRIP_FEEL = {
    "resting": "slip out freely",
    "light": "slip out with a little drag",
    "medium": "drag, and just not tear",
    "firm": "hold fast",
}


def then_text(advice: Advice, units: Units) -> str:
    """What is reached once it is set."""
    if advice.refused:
        return say(advice.refused, units)
    if advice.is_unlearned_knob:
        return (
            "Close on the piece with a strip of paper under each corner and pull: all four should "
            f"{STRIP_FEEL[advice.load.wanted]}. Learned once with shims, the knob’s setting is "
            "worked out in turns for every blank."
        )
    if advice.missing in NOT_YET:
        return NOT_YET[advice.missing]
    if advice.then is None:
        knob = advice.mechanism == "knob"
        return "After that, every other piece is so many turns from it." if knob else ""
    right = class_of(advice.then.value) == advice.load.wanted
    share = sure_text(advice.chance) if right else ""
    text = f"{class_text(advice.then.value)}, {contact_text(advice.then, units)}{share}."
    if advice.position_turns is None:
        return f"That gives {text}"
    position = position_text(advice.position_turns, advice.by_feel)
    stack = length_text(advice.load.stack_mm, units, 1)
    return f"The knob is then {position} for a stack of {stack}: {text}"


def unchanged_text(advice: Advice, units: Units) -> str:
    """What happens if nothing is changed; empty when that is right anyway."""
    if advice.unchanged is None or advice.mechanism in ("toggle", "hand"):
        return ""
    found, wanted = advice.unchanged, advice.load.wanted
    if class_of(found.value) == wanted and LOWEST_KPA <= found.value <= HIGHEST_KPA:
        if advice.turns is not None and not round(advice.turns * 8):
            return ""
        now = contact_text(found, units)
        return f"Left unchanged, this piece gets {now}: still {wanted}, so it may stay."
    harm = _pinch(advice, units)
    if found.value > CLASS_KPA[wanted][1]:
        harm += " That marks cloth, squeezes film out at its edge and strains the press."
    elif found.value < CLASS_KPA[wanted][0]:
        harm += " Film will lift and dye will stay pale where the pressure is least."
    now = contact_text(found, units)
    return f"Left unchanged, this piece gets {now}: {class_text(found.value)}.{harm}"


def _pinch(advice: Advice, units: Units) -> str:
    """A hinged press that is not backed off for a thicker stack closes tighter at its back."""
    thicker = advice.load.stack_mm - (advice.position.stack_mm if advice.position else 0.0)
    if advice.press.kind != "clamshell" or not advice.depth_mm or thicker < LEVEL_ENOUGH_MM:
        return ""
    closer = pinch_mm(thicker, advice.depth_mm)
    if not closes_at_all(closer, advice.pad.thickness_mm):
        return " The hinge would pinch the back so hard that the press does not close: back it off."
    tighter = length_text(closer, units, 1)
    return f" The hinge closes the back up to {tighter} tighter than the front."


def limit_text(advice: Advice, units: Units) -> str:
    """What the blank withstands, when that matters."""
    limit, name = advice.limit_kpa, advice.load.blank.name
    parts = []
    if advice.concentrated is not None:
        parts.append(
            f"{name} is rigid and smaller than the platen: it takes all of the force, "
            f"{advice.concentrated:.1f} times the pressure of the whole platen."
        )
    if advice.line_kpa is not None and advice.line_kpa < LEAST_LINE_KPA:
        parts.append(
            f"Below {pressure_text(LEAST_LINE_KPA, units)} of air a cylinder may not close: lay "
            "pieces of the same thickness beside this one, so that they share the force."
        )
    if limit is not None and not advice.overload:
        most = f"{name} takes at most {pressure_text(limit, units)}"
        if advice.then is not None and advice.then.high > limit:
            parts.append(f"{most}; this may reach {pressure_text(advice.then.high, units)}.")
        elif advice.unchanged is not None and advice.unchanged.high > limit:
            parts.append(f"{most}: do not press it before the pressure is changed.")
    return " ".join(parts)


def overload_text(advice: Advice, units: Units) -> str:
    """That the blank would be overloaded: the first thing said. Nothing where it would not."""
    if not advice.overload:
        return ""
    name, most = advice.load.blank.name, pressure_text(advice.limit_kpa, units)
    does = "break" if advice.load.blank.kind in BRITTLE_KINDS else "dent"
    if advice.overload == "then":
        instead = "Press it more lightly, or lay pieces of the same thickness beside it."
        if advice.mechanism == "hand":
            instead = "Let the plate rest on it and do not lean."
        return (
            f"{name} may {does} above {most}, and this gives "
            f"{contact_text(advice.then, units)}. {instead}"
        )
    return (
        f"Do not close {advice.press.name} on {name} as it is set now: "
        f"{contact_text(advice.unchanged, units)}. It would {does}: {name} takes at most {most}."
    )


def state_text(state: PressureState | None, name: str, units: Units, by_feel: bool = False) -> str:
    """`Grebe’s knob is 2¼ turns looser than the touch point, set for 1.1 mm (Cotton bag)`."""
    if state is None:
        return f"Where {name}’s pressure is set has not been recorded."
    piece = f" ({state.blank.name})" if state.blank else ""
    stack = f"set for {length_text(state.stack_mm, units, 1)}{piece}, {state.wanted}"
    if state.position_turns is not None:
        return f"{name}’s knob is {position_text(state.position_turns, by_feel)}, {stack}."
    if state.line_kpa is not None:
        return f"{name}’s air is at {pressure_text(state.line_kpa, units)}, {stack}."
    if state.figure is not None:
        return f"{name}’s scale shows {state.figure:.1f}, {stack}."
    return f"{name} was {stack}."


def grouped(number: int) -> str:
    """`17 209`, thousands apart."""
    return f"{number:,}".replace(",", NO_BREAK)


def life_text(life: Life | None, part: str, today: date) -> str:
    """How far a pad or cover is through its life."""
    if life is None:
        return f"The register names no {part}."
    used = f"{grouped(life.closings)} of {grouped(life.life_closings)} closings"
    if life.is_due(today):
        reasons = {"closings": "its closings", "age": "its age", "hardness": "its hardness"}
        return f"Change the {part}: it is past {reasons[life.by]} ({used})."
    if life.due_on is None:
        return f"The {part} has done {used}; the day it was fitted is not recorded."
    due = f"{life.due_on:%-d %b %Y}"
    return f"The {part} has done {used}; change it by {due} because of its {life.by}."
