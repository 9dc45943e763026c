"""Which kinds of blank an element takes at all."""

from tempermark.core.vocabulary.things import BLANK_KINDS, VESSEL_KINDS
from tempermark.web.presses.models import Element, ElementRole, PressKind


def takes(element: Element, blank_kind: str) -> bool:
    """Whether a kind of blank can be pressed with an element at all."""
    if blank_kind in VESSEL_KINDS:
        return element.role == ElementRole.SLEEVE
    if element.role == ElementRole.SLEEVE:
        return False
    return blank_kind == "cap" or element.press.kind != PressKind.CAP


def kinds_taken(element: Element) -> list[str]:
    """Kinds of blank that can be pressed with an element."""
    return [kind for kind in BLANK_KINDS if takes(element, kind)]
