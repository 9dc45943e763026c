"""Layers of a stack as people write them: a material's name, and words behind a comma."""

import re
from collections.abc import Mapping
from difflib import get_close_matches

from tempermark.core.errors import InputError
from tempermark.core.phrases import length, phrase
from tempermark.core.thermal.library.materials import Material

# What stands in a vessel's stack for the heated sleeve itself: the platen, no layer of its own.
SLEEVE = "sleeve"
MOST_LAYERS = 20
THICKNESS = re.compile(r"(?<![\d.])(\d{1,3}(?:\.\d{1,3})?) mm\b")
LEAST_MM, MOST_MM = 0.005, 100.0


def code_of(entry: str) -> str:
    """The material's code in a stored entry `plain_paper inside`."""
    return entry.split(maxsplit=1)[0] if entry.strip() else ""


def thickness_of(entry: str) -> float | None:
    """The thickness in mm behind a code, `wicking_cloth 0.2 mm`; None where none stands."""
    found = THICKNESS.search(entry)
    return float(found[1]) if found else None


def entry_text(entry: str, library: Mapping[str, Material]) -> str:
    """A stored entry as people read it: `plain tissue, inside`."""
    code, _, words = entry.partition(" ")
    label = library[code].label if code in library else code.replace("_", " ")
    return f"{label}, {words}" if words else label


def read_layer(text: str, library: Mapping[str, Material]) -> str:
    """The stored entry of what was typed; InputError names what is meant perhaps."""
    name, _, words = (part.strip() for part in text.partition(","))
    known = {material.label.lower(): code for code, material in library.items()}
    known |= {code: code for code in library} | {SLEEVE: SLEEVE}
    found = known.get(name.lower()) or known.get(name.lower().replace(" ", "_"))
    if found is None and name.split():
        # Without a comma the words may follow at once.
        head, _, tail = name.partition(" ")
        if head in library:
            found, words = head, f"{tail} {words}".strip()
    if found is None:
        near = get_close_matches(name.lower(), known, 3, 0.5)
        hint = f" Perhaps {', '.join(near)}." if near else ""
        raise InputError.single("stack", f"The library has no “{name[:40]}”.{hint}")
    entry = f"{found} {words.replace(',', '.') if THICKNESS.search(words) else words}".strip()
    thick = thickness_of(entry)
    if thick is not None and not LEAST_MM <= thick <= MOST_MM:
        wrong = phrase("{thick} is not a thickness of a layer.", thick=length(thick))
        raise InputError.single("stack", wrong)
    return entry
