"""Which blank a recipe is computed for: the shop's own of its kind, else the library's."""

from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.http import QueryDict

from tempermark.core.pressing.limits import refusal
from tempermark.core.pressing.request import as_coated
from tempermark.core.recipes.blank_types import BlankType, blank_types
from tempermark.core.thermal.library.receivers import BARE, receiver_code
from tempermark.core.vocabulary.methods import DYE_METHODS
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.art_size import BlankSelect, Size, art_size_mm
from tempermark.web.recipes.blanks.core import core_blank, material_of
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import Blank, RecipeVersion

# A kind from the library stands in a form as this and its code.
LIKE = "like:"
# Cloth whose share of polyester is further off than this is another cloth.
OTHER_CLOTH = 0.4
# So is cloth more than so many times as thick or as thin.
OTHER_WEIGHT = 3.0
# What a blank of a shipped kind begins with; its limits are inherited and not copied.
COPIED = (
    "kind",
    "material",
    "thickness_mm",
    "width_mm",
    "height_mm",
    "polyester",
    "colour",
    "coating",
    "features",
)


def library_blank(code: str) -> Blank | None:
    """A blank as the library has it, not saved; None for a code it does not know."""
    kind = blank_types().get(code)
    if kind is None:
        return None
    values = {name: getattr(kind, name) for name in COPIED}
    values["features"] = list(values["features"])
    return Blank(name=kind.label, like=code, **values)


def blank_from(text: str) -> Blank | None:
    """The blank a form's value names."""
    if text.startswith(LIKE):
        return library_blank(text.removeprefix(LIKE))
    return Blank.objects.filter(pk=row_key(text)).first()


def suits(version: RecipeVersion, blank: Blank) -> bool:
    """Whether a recipe is for such a blank: its kind, and for dye a face that takes it."""
    library = shop_materials()
    if blank.kind != version.recipe.blank_kind or refusal(core_blank(blank, library), library):
        return False
    kind = blank_types().get(version.blank_like)
    if kind is None or blank.like == version.blank_like:
        return True
    material = material_of(blank, library)
    if kind.polyester is not None and _is_other_cloth(blank, kind):
        return False
    if version.recipe.method in DYE_METHODS:
        stack = tuple(version.stack)
        # A recipe that coats takes a bare blank of its kind.
        coating = as_coated(core_blank(blank, library), version.sheet).coating
        own = receiver_code(blank.kind, coating, material, stack)
        return own == receiver_code(kind.kind, kind.coating, kind.material, stack) != BARE
    return library[material].group == library[kind.material].group


def _is_other_cloth(blank: Blank, kind: BlankType) -> bool:
    """Whether cloth is of another make than a library kind's: in polyester or in weight."""
    times = (blank.thickness_mm or kind.thickness_mm) / kind.thickness_mm
    share = abs((blank.polyester or 0.0) - kind.polyester)
    return share > OTHER_CLOTH or not 1 / OTHER_WEIGHT <= times <= OTHER_WEIGHT


def suitable(version: RecipeVersion) -> list[Blank]:
    """The shop's blanks a recipe is for, those like its own first."""
    found = [b for b in Blank.objects.filter(kind=version.recipe.blank_kind) if suits(version, b)]
    kind = blank_types().get(version.blank_like)
    share = 1.0 if kind is None or kind.polyester is None else kind.polyester

    def off(blank: Blank) -> tuple[Any, ...]:
        """Its own kind first, then what has most nearly its share of polyester."""
        other = abs((blank.polyester or 0.0) - share)
        return blank.like != version.blank_like, round(other, 3), blank.name

    return sorted(found, key=off)


def usual_blank(data: QueryDict, version: RecipeVersion) -> str:
    """The form's value of the blank to open a recipe with: the one asked for where it suits, one of
    the shop's, else the library's own; empty where nobody knows.
    """
    text = data.get("blank", "")
    query = blank_from(text)
    if query is not None and query.kind == version.recipe.blank_kind:
        return text
    own = suitable(version)
    if own:
        return str(own[0].pk)
    return f"{LIKE}{version.blank_like}" if version.blank_like in blank_types() else ""


def offered(version: RecipeVersion) -> list[tuple[str, list[tuple[str, str]]]]:
    """The shop's blanks of a recipe's kind in groups: those it is for, then the rest."""
    own = suitable(version)
    kind = version.recipe.blank_kind
    rest = [blank for blank in Blank.objects.filter(kind=kind) if blank not in own]
    groups = (("for this recipe", own), ("others of its kind", rest))
    return [(name, [(str(b.pk), b.name) for b in blanks]) for name, blanks in groups]


class BlankField(forms.ChoiceField):
    """One of the shop's blanks, or a kind from the library."""

    widget = BlankSelect

    def offer(self, version: RecipeVersion, element: Element | None = None) -> None:
        """Only what a recipe's kind of blank is, what suits it first; with an element its rows
        carry the art that covers them.
        """
        own, rest = offered(version)
        own[1].extend(_of_library(version))
        self.choices = [("", "choose"), *(group for group in (own, rest) if group[1])]
        if element is not None:
            self.widget.sizes = sizes_on(element, [row[0] for row in own[1] + rest[1]])

    def valid_value(self, value: str) -> bool:
        """Any blank there is: links name one that is not offered first."""
        return blank_from(str(value)) is not None

    def clean(self, value: str | None) -> Blank:
        """The blank; one of the library's is not saved."""
        blank = blank_from(super().clean(value))
        if blank is None:
            raise ValidationError("Choose the blank you press.")
        return blank


class ShopBlankField(forms.ModelChoiceField):  # type: ignore[type-arg]  # no generic at run time
    """One of the shop's blanks; with a recipe only those of its kind are shown."""

    widget = BlankSelect

    def offer(self, version: RecipeVersion, element: Element) -> None:
        """As for a blank that may come from the library."""
        groups = [group for group in offered(version) if group[1]]
        self.choices = [("", "choose"), *groups]
        self.widget.sizes = sizes_on(element, [pk for _, rows in groups for pk, _ in rows])


def sizes_on(element: Element, values: list[str]) -> dict[str, Size]:
    """A form's value of a blank → the art that covers it on an element, mm; without those that
    have no size there.
    """
    found = ((value, blank_from(value)) for value in values)
    sizes = ((value, blank and art_size_mm(blank, element)) for value, blank in found)
    return {value: size for value, size in sizes if size}


def _of_library(version: RecipeVersion) -> list[tuple[str, str]]:
    kind = blank_types().get(version.blank_like)
    return [(f"{LIKE}{kind.code}", f"{kind.label} (library)")] if kind else []
