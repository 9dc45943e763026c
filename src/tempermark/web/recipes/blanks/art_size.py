"""The size of art by default: the blank's whole face, where the platen takes it."""

import math
from typing import Any

from django import forms

from tempermark.web.presses.models import Element
from tempermark.web.recipes.materials.library import kind_of
from tempermark.web.recipes.models import Blank

Size = tuple[float, float]


def face_mm(blank: Blank) -> Size | None:
    """Across and front to back of a blank, of a vessel round its wider end and its height, or of
    its kind in the library; None where neither is known.
    """
    ends = (blank.top_diameter_mm, blank.bottom_diameter_mm)
    if all(ends) and blank.height_mm:
        return math.pi * max(end for end in ends if end), blank.height_mm
    kind = kind_of(blank)
    wide, high = blank.width_mm, blank.height_mm
    if kind is not None and None in (wide, high):
        wide, high = kind.width_mm, kind.height_mm
    return (wide, high) if wide and high else None


def art_size_mm(blank: Blank, element: Element) -> Size | None:
    """Art that covers a blank, turned as it fits the platen; None for a blank without a size and
    for one that is larger than the platen, whose art is smaller than itself.
    """
    face = face_mm(blank)
    if face is None:
        return None
    platen = (element.width_mm, element.height_mm)
    ways = (face, (face[1], face[0]))
    fitting = [way for way in ways if way[0] <= platen[0] and way[1] <= platen[1]]
    return fitting[0] if fitting else None


class BlankSelect(forms.Select):
    """A list of blanks whose rows carry the art they ask for, mm, so that a page can follow."""

    sizes: dict[str, Size]

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.sizes = {}

    def create_option(self, name: str, value: Any, *args: Any, **kwargs: Any) -> dict[str, Any]:
        """One row, with its size where it has one."""
        option: dict[str, Any] = super().create_option(name, value, *args, **kwargs)
        size = self.sizes.get(str(value))
        if size is not None:
            option["attrs"] |= {"data-art-width": f"{size[0]:g}", "data-art-height": f"{size[1]:g}"}
        return option
