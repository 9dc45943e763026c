"""A drawing (SVG) from outside: refused when it runs, loads or multiplies anything.

Source: SVG 1.1, “Referenced resources”, “Scripting”; the bounds are ours (limits.py).
"""

import re
from collections.abc import Iterator
from functools import cache
from xml.etree.ElementTree import Element, ParseError, register_namespace, tostring

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from tempermark.core.errors import InputError
from tempermark.files.art.limits import (
    LONGEST_MM,
    MOST_DRAWING_BYTES,
    MOST_ELEMENTS,
    MOST_EXPANDED,
)

# As a drawing is written, without prefixes of the writer's own.
register_namespace("", "http://www.w3.org/2000/svg")
register_namespace("xlink", "http://www.w3.org/1999/xlink")
# Elements that run or bring in something.
RUNNING = frozenset(
    (
        "script",
        "handler",
        "listener",
        "foreignObject",
        "iframe",
        "object",
        "embed",
        "audio",
        "video",
        "canvas",
    )
)
MOVING = ("animate", "set", "discard")
# A picture inside a drawing stays where it carries itself.
INNER_PICTURE = re.compile(r"data:image/(png|jpe?g);base64,", re.IGNORECASE)
OUTSIDE_STYLE = re.compile(r"@import|url\(\s*['\"]?\s*(?!#)", re.IGNORECASE)
LENGTH = re.compile(r"\s*([0-9.eE+-]+)\s*(mm|cm|in|pt|pc|px|)\s*$")
# CSS: an inch is 96 px, 72 pt, 6 pc.
MM_OF = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "px": 25.4 / 96}
TEXT_NOTE = (
    "The drawing contains text. Its fonts may be missing here: check the preview, or export it "
    "with the text as outlines."
)


def checked_drawing(raw: bytes) -> tuple[bytes, tuple[float, float], tuple[str, ...]]:
    """The drawing to keep, its own size (width, height) in mm, and remarks for the person.

    Raises InputError where it is none, is too large, runs a script or loads anything.
    """
    if len(raw) > MOST_DRAWING_BYTES:
        raise _refused(f"The drawing has {len(raw) / 1e6:.0f} MB: 5 MB at most.")
    try:
        root = fromstring(raw, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException:
        raise _refused("The drawing defines entities of its own. Export it as plain SVG.") from None
    except (ParseError, ValueError, LookupError):
        raise _refused("This is not a drawing that can be read. Export it as plain SVG.") from None
    if _name(root) != "svg":
        raise _refused("This is not a drawing: its first element is not svg.")
    _check(root)
    notes = (TEXT_NOTE,) if any(_name(part) == "text" for part in root.iter()) else ()
    return tostring(root, encoding="utf-8"), _size_mm(root), notes


def _check(root: Element) -> None:
    for count, part in enumerate(root.iter()):
        if count > MOST_ELEMENTS:
            raise _refused(f"The drawing has more than {MOST_ELEMENTS} elements. Simplify it.")
        name = _name(part)
        if name in RUNNING:
            raise _refused(f"The drawing contains “{name}”, which runs or loads something.")
        if name.startswith(MOVING):
            raise _refused("The drawing moves. Export it as a still one.")
        if name == "style" and OUTSIDE_STYLE.search(part.text or ""):
            raise _refused("Its styles load something from elsewhere. Embed or remove it.")
        for key, value in part.attrib.items():
            _check_attribute(key.rsplit("}", 1)[-1], value)
    _check_repeats(root)


def _check_attribute(key: str, value: str) -> None:
    if key.lower().startswith("on"):
        raise _refused(f"The drawing carries a script ({key[:20]}). Export it as plain SVG.")
    if key == "base":
        raise _refused("The drawing says where to load things from. Export it as plain SVG.")
    if key == "href":
        if not value.strip().startswith("#") and not INNER_PICTURE.match(value.strip()):
            raise _refused("The drawing loads something from elsewhere. Embed or remove it.")
    elif OUTSIDE_STYLE.search(value):
        raise _refused("The drawing loads something from elsewhere. Embed or remove it.")


def _check_repeats(root: Element) -> None:
    """Parts that repeat parts that repeat parts: counted before anything is drawn."""
    by_id = {part.get("id"): part for part in root.iter() if part.get("id")}

    @cache
    def expanded(part: Element) -> int:
        total = 1
        for inner in part.iter():
            total += 1
            used = by_id.get(_reference(inner)) if _name(inner) == "use" else None
            total += expanded(used) if used is not None else 0
            if total > MOST_EXPANDED:
                raise _refused("The drawing repeats its parts too often. Simplify it.")
        return total

    try:
        expanded(root)
    except RecursionError:
        raise _refused("The drawing repeats a part inside itself.") from None


def _reference(part: Element) -> str:
    hrefs = (value for key, value in part.attrib.items() if key.rsplit("}", 1)[-1] == "href")
    return next(hrefs, "").strip().removeprefix("#")


def _size_mm(root: Element) -> tuple[float, float]:
    """Width and height in mm: as they are given, else those of the view box as CSS pixels."""
    box = [float(v) for v in _numbers(root.get("viewBox", ""))]
    inner = (box[2], box[3]) if len(box) == 4 else None
    sides = [_length_mm(root.get(key, "")) for key in ("width", "height")]
    if inner is not None and inner[0] > 0 and inner[1] > 0:
        ratio = inner[1] / inner[0]
        if sides[0] is None and sides[1] is None:
            sides = [inner[0] * MM_OF["px"], inner[1] * MM_OF["px"]]
        elif sides[1] is None:
            sides[1] = (sides[0] or 0) * ratio
        elif sides[0] is None:
            sides[0] = sides[1] / ratio
    size = (sides[0] or 0.0, sides[1] or 0.0)
    if not all(0 < side <= LONGEST_MM for side in size):
        raise _refused("The drawing has no size of its own. Give it a width and a height.")
    return size


def _numbers(text: str) -> Iterator[str]:
    yield from re.findall(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?", text)


def _length_mm(text: str) -> float | None:
    found = LENGTH.match(text)
    try:
        return float(found[1]) * MM_OF[found[2] or "px"] if found else None
    except ValueError:
        return None


def _name(part: Element) -> str:
    return str(part.tag).rsplit("}", 1)[-1]


def _refused(why: str) -> InputError:
    return InputError.single(None, why)
