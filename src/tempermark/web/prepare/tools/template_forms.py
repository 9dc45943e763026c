"""A vessel, and where art is on its wall."""

import math
from typing import Any

from django import forms

from tempermark.core.preparing.vessels.template import FlatTemplate, flat_template
from tempermark.files.art.arc import WrapArt
from tempermark.web.kit.forms.fields import LengthField, UnitForm


class TemplateForm(UnitForm):
    """Diameters, or circumferences measured with a paper strip; height; seam or handle."""

    top_diameter_mm = LengthField(label="Diameter at the top", required=False, low=5, high=2000)
    bottom_diameter_mm = LengthField(
        label="Diameter at the bottom", required=False, low=5, high=2000
    )
    top_round_mm = LengthField(
        label="or round the top", required=False, low=15, high=6500, help_text="by a paper strip"
    )
    bottom_round_mm = LengthField(
        label="or round the bottom", required=False, low=15, high=6500, help_text="by a paper strip"
    )
    height_mm = LengthField(label="Height, straight up", low=5, high=2000)
    overlap_mm = LengthField(label="Overlap at the seam", low=0, high=200)
    gap_mm = LengthField(label="Gap for a handle", low=0, high=1000, help_text="0 without a handle")
    tolerance_mm = LengthField(label="Straight art may bow by", low=0, high=50)
    rim_mm = LengthField(
        label="Sleeve cool at each rim",
        required=False,
        low=0,
        high=200,
        help_text="where nothing should be printed",
    )
    art_width_mm = LengthField(
        label="Art, round the wall",
        required=False,
        low=1,
        high=6500,
        help_text="at half height; empty: as large as fits",
    )
    art_right_mm = LengthField(
        label="Art to the right of the middle", required=False, low=-3300, high=3300
    )
    art_foot_mm = LengthField(
        label="Art above the foot",
        required=False,
        low=-2000,
        high=2000,
        help_text="empty: in the middle of the wall",
    )

    def clean(self) -> dict[str, Any]:
        """A circumference wins over a diameter; the gap must leave something."""
        super().clean()
        data = self.cleaned_data
        for end in ("top", "bottom"):
            if data.get(f"{end}_round_mm"):
                data[f"{end}_diameter_mm"] = data[f"{end}_round_mm"] / math.pi
            elif not data.get(f"{end}_diameter_mm") and f"{end}_diameter_mm" not in self.errors:
                self.add_error(f"{end}_diameter_mm", "Give the diameter, or what goes round it.")
        ends = [data.get("top_diameter_mm"), data.get("bottom_diameter_mm")]
        gap = data.get("gap_mm")
        if all(ends) and gap is not None and gap >= math.pi * min(e for e in ends if e):
            self.add_error("gap_mm", "The gap is as wide as the vessel: nothing is left to print.")
        return data

    @property
    def vessel_fields(self) -> list[forms.BoundField]:
        """What the vessel is."""
        return [field for field in self if not field.name.startswith("art_")]

    @property
    def art_fields(self) -> list[forms.BoundField]:
        """Where the art is on it."""
        return [field for field in self if field.name.startswith("art_")]

    def template(self) -> FlatTemplate:
        """The template, once the form is valid."""
        data = self.cleaned_data
        sides = (data["top_diameter_mm"], data["bottom_diameter_mm"], data["height_mm"])
        return flat_template(*sides)

    def wrap_art(self, ratio: float) -> WrapArt:
        """Art of a shape (height ÷ width) on the wall: as large as it fits between the cool rims
        and round, unless its width was given; once the form is valid.
        """
        data, template = self.cleaned_data, self.template()
        free = template.slant_mm - 2 * (data.get("rim_mm") or 0.0)
        low, high = template.circumferences_mm[1], template.circumferences_mm[0]
        round_mm = (low + high) / 2 * (1 - data["gap_mm"] / high)
        width = data.get("art_width_mm") or min(round_mm, max(free, 1.0) / ratio)
        height = width * ratio
        foot = data.get("art_foot_mm")
        above = (template.slant_mm - height) / 2 if foot is None else foot
        return WrapArt((width, height), data.get("art_right_mm") or 0.0, above)
