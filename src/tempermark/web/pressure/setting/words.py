"""Pressure in words: what to turn, where a press stands, what a map says."""

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
from tempermark.web.kit.templatetags.figures import NO_BREAK
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
    """`¼ turn past empty touch`, `1½ turns open`; without a session only from where it was set."""
    if abs(position_turns) < 1 / 16:
        return "where the empty press just touches" if not by_feel else "at its mark"
    how = "tightened past" if position_turns > 0 else "open from"
    mark = "its mark" if by_feel else "the empty touch"
    return f"{turns_text(position_turns)} {how} {mark}"


def kpa_text(contact: Range) -> str:
    """`32 kPa (23–44)`."""
    if contact.value > MOST_SHOWN_KPA:
        return f"more than {MOST_SHOWN_KPA:g}{NO_BREAK}kPa"
    if contact.value < 0.05:
        return f"no contact (at most {contact.high:.0f}{NO_BREAK}kPa)"
    digits = 0 if contact.value >= 10 else 1
    low, high = f"{contact.low:.{digits}f}", f"{contact.high:.{digits}f}"
    return f"{contact.value:.{digits}f}{NO_BREAK}kPa ({low}–{high})"


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


def headline(advice: Advice) -> str:
    """What to do now, in the press's own sense."""
    name = advice.press.name
    if advice.missing == "lesson":
        part = "knob is not learned yet" if advice.mechanism == "knob" else "cylinder is not noted"
        return f"{name}’s {part}."
    if advice.missing == "plate":
        return f"How heavy is {name}’s plate by itself?"
    if advice.refused:
        return f"{name} cannot press {advice.load.blank.name} {advice.load.wanted}."
    answer = {
        "knob": _knob_headline,
        "pneumatic": lambda a: f"Dial {a.line_kpa:.0f}{NO_BREAK}kPa on {name}.",
        "scale": lambda a: f"Turn until {name}’s scale shows {a.figure:.1f}, with the piece in.",
        "hand": _hand_headline,
        "toggle": _lever_headline,
    }
    return answer[advice.mechanism](advice)


def _hand_headline(advice: Advice) -> str:
    name, load, found = advice.press.name, advice.load, advice.then
    if load.wanted == "resting":
        return f"Rest {name} on the piece and do not lean."
    if load.lean_kg is None:
        how = "by its strips" if advice.learned else "at a guess"
        return f"Lean on {name} with straight arms: {class_text(found.value)} {how}."
    if class_of(found.value) == load.wanted:
        return f"Lean on {name} as you did on the scale, {load.lean_kg:.0f}{NO_BREAK}kg."
    harder = "harder" if advice.lean_for_kg > load.lean_kg else "less hard"
    return f"Lean {harder} on {name} than on the scale: about {advice.lean_for_kg:.0f}{NO_BREAK}kg."


def _lever_headline(advice: Advice) -> str:
    name = advice.press.name
    if advice.missing == "strips":
        return f"{name}’s lever has no figure: pull strips to see what it presses."
    return f"{name}’s lever presses {class_text(advice.then.value)} by its strips."


def _knob_headline(advice: Advice) -> str:
    if advice.by_feel and advice.missing == "position":
        return f"Set {advice.press.name} by feel for this piece once, and note that it is right."
    turns, where = advice.turns, direction_text(advice.rotation)
    if not round(turns * 8):
        if advice.missing == "position":
            return f"Turn {advice.press.name} to where it just touches empty, and leave it so."
        return f"Leave {advice.press.name} as it stands."
    start = "From empty touch " if advice.missing == "position" else ""
    verb = "tighten" if turns > 0 else "back off"
    text = f"{start}{verb} {turns_text(turns)}, {where} here."
    return text[0].upper() + text[1:]


def then_text(advice: Advice) -> str:
    """What is reached once it is set."""
    if advice.refused:
        return advice.refused
    if advice.missing == "plate":
        return "Note the plate’s own weight with the press; then what it does by resting is known."
    if advice.missing == "lesson":
        return "Until then only the feeling in the arm tells its pressure."
    if advice.then is None:
        return "From then on every other piece is a matter of turns."
    right = class_of(advice.then.value) == advice.load.wanted
    share = sure_text(advice.chance) if right else ""
    text = f"{class_text(advice.then.value)}, {kpa_text(advice.then)}{share}."
    if advice.position_turns is not None:
        position = position_text(advice.position_turns, advice.by_feel)
        return f"Then it stands {position} for {advice.load.stack_mm:.1f}{NO_BREAK}mm: {text}"
    return f"That gives {text}"


def unchanged_text(advice: Advice) -> str:
    """What happens if nothing is changed; empty when that is right anyway."""
    if advice.unchanged is None or advice.mechanism in ("toggle", "hand"):
        return ""
    found, wanted = advice.unchanged, advice.load.wanted
    if class_of(found.value) == wanted and LOWEST_KPA <= found.value <= HIGHEST_KPA:
        if advice.turns is not None and not round(advice.turns * 8):
            return ""
        return f"Left as it is this piece gets {kpa_text(found)}: still {wanted}, and may stay."
    harm = _pinch(advice)
    if found.value > CLASS_KPA[wanted][1]:
        harm += " It marks cloth, squeezes film out at its rim and strains the press."
    elif found.value < CLASS_KPA[wanted][0]:
        harm += " Film will lift and dye stay pale where it is pressed least."
    return f"Left as it is this piece gets {kpa_text(found)}: {class_text(found.value)}.{harm}"


def _pinch(advice: Advice) -> str:
    """A hinged press that is not backed off for a thicker stack closes tighter at its back."""
    thicker = advice.load.stack_mm - (advice.position.stack_mm if advice.position else 0.0)
    if advice.press.kind != "clamshell" or not advice.depth_mm or thicker < LEVEL_ENOUGH_MM:
        return ""
    closer = pinch_mm(thicker, advice.depth_mm)
    if not closes_at_all(closer, advice.pad.thickness_mm):
        return " Hinged, it would pinch the back so hard that it does not close: back it off first."
    return f" Hinged, it closes up to {closer:.1f}{NO_BREAK}mm tighter at its back than its front."


def limit_text(advice: Advice) -> str:
    """What the blank stands, when that matters."""
    limit, name = advice.limit_kpa, advice.load.blank.name
    parts = []
    if advice.concentrated is not None:
        parts.append(
            f"{name} is rigid and smaller than the platen: it takes all of the force, "
            f"{advice.concentrated:.1f} times the pressure of the whole platen."
        )
    if advice.line_kpa is not None and advice.line_kpa < LEAST_LINE_KPA:
        parts.append(
            f"Below {LEAST_LINE_KPA:g}{NO_BREAK}kPa of line a cylinder may not close: lay pieces "
            "of the same thickness beside it, so that they share the force."
        )
    if limit is not None and not advice.overload:
        if advice.then is not None and advice.then.high > limit:
            parts.append(
                f"{name} stands {limit:g}{NO_BREAK}kPa; this may reach {advice.then.high:.0f}."
            )
        elif advice.unchanged is not None and advice.unchanged.high > limit:
            parts.append(f"{name} stands {limit:g}{NO_BREAK}kPa: do not press it unchanged.")
    return " ".join(parts)


def overload_text(advice: Advice) -> str:
    """That the blank would be overloaded: the first thing said. Nothing where it would not."""
    if not advice.overload:
        return ""
    name, limit = advice.load.blank.name, advice.limit_kpa
    does = "break" if advice.load.blank.kind in BRITTLE_KINDS else "dent"
    if advice.overload == "then":
        instead = "Press it more lightly, or lay pieces of the same thickness beside it."
        if advice.mechanism == "hand":
            instead = "Let the plate rest on it and do not lean."
        return (
            f"{name} stands {limit:g}{NO_BREAK}kPa and may {does}: this gives "
            f"{kpa_text(advice.then)}. {instead}"
        )
    return (
        f"Do not close {advice.press.name} on {name} as it stands: {kpa_text(advice.unchanged)}, "
        f"and it stands {limit:g}{NO_BREAK}kPa. It would {does}."
    )


def state_text(state: PressureState | None, name: str, by_feel: bool = False) -> str:
    """`Grebe stands 2¼ turns open from the empty touch for 1.1 mm (Cotton bag)`."""
    if state is None:
        return f"Where {name} stands is not noted."
    piece = f" ({state.blank.name})" if state.blank else ""
    stack = f"for {state.stack_mm:.1f}{NO_BREAK}mm{piece}, {state.wanted}"
    if state.position_turns is not None:
        return f"{name} stands {position_text(state.position_turns, by_feel)} {stack}."
    if state.line_kpa is not None:
        return f"{name}’s line stands at {state.line_kpa:.0f}{NO_BREAK}kPa {stack}."
    if state.figure is not None:
        return f"{name}’s scale stands at {state.figure:.1f} {stack}."
    return f"{name} was set {stack}."


def grouped(number: int) -> str:
    """`17 209`, thousands apart."""
    return f"{number:,}".replace(",", NO_BREAK)


def life_text(life: Life | None, part: str, today: date) -> str:
    """How far a pad or cover is through its life."""
    if life is None:
        return f"No {part} is noted in the register."
    used = f"{grouped(life.closings)} of {grouped(life.life_closings)} closings"
    if life.is_due(today):
        reasons = {"closings": "its closings", "age": "its age", "hardness": "its hardness"}
        return f"Change the {part}: it is past {reasons[life.by]} ({used})."
    if life.due_on is None:
        return f"The {part} has done {used}; since when it is there is not noted."
    return f"The {part} has done {used}; change it by {life.due_on:%-d %b %Y}, by its {life.by}."
