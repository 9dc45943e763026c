"""What is asked about the heat: press, blank, setting, stack; and what is usual."""

from dataclasses import dataclass
from typing import Any

from django import forms
from django.http import QueryDict
from django.utils import timezone

from tempermark.core.metrology.map.usable import Rectangle
from tempermark.core.pressing.chain import has_steps_before
from tempermark.core.pressing.request import (
    RESTING_KPA,
    USUAL_HUMIDITY,
    WHOLE_PLATEN,
    WORKING_PAD_C,
    shipped_blank,
)
from tempermark.core.pressing.schools import dwell_for_blank
from tempermark.core.pressure.press.contact import middle_kpa
from tempermark.core.recipes.blank_types import blank_types
from tempermark.core.recipes.layers import MOST_LAYERS
from tempermark.core.recipes.steps import MAIN, RecipeStep
from tempermark.web.heat.recipe.presses import elements_for
from tempermark.web.heat.simulate.stack_building import changed
from tempermark.web.heat.simulate.words import RISK_NAMES
from tempermark.web.kit.forms.fields import (
    DwellField,
    LengthField,
    NumberField,
    PressureField,
    TemperatureField,
    UnitForm,
    as_typed,
)
from tempermark.web.kit.forms.numbers import row_key, whole
from tempermark.web.kit.units import Units
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.art_size import art_size_mm
from tempermark.web.recipes.blanks.choice import BlankField, blank_from, usual_blank
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials
from tempermark.web.recipes.models import Blank, RecipeVersion

HUMIDITY = 100 * USUAL_HUMIDITY
LONGEST_ENTRY = 60


class OnPressForm(UnitForm):
    """A press, a blank, and the dial."""

    element = forms.ModelChoiceField(
        Element.objects.filter(taken_out_on=None).select_related("press"),
        label="Press",
        empty_label=None,
    )
    blank = BlankField(label="Blank")
    set_c = TemperatureField(label="Dial", low=20, high=260)

    def offer(self, version: RecipeVersion) -> None:
        """Blanks of the recipe's kind alone, with the art they ask for on the chosen element."""
        blank = self.fields["blank"]
        if isinstance(blank, BlankField):
            key = row_key(str(self["element"].value()))
            blank.offer(version, Element.objects.filter(pk=key).first())


SHOWN = [("", "the outcome"), *RISK_NAMES.items(), ("water", "water left, g/m²")]


class HeatForm(OnPressForm):
    """The press, the blank, and what is set."""

    dwell_s = DwellField(label="Dwell", low=1, high=1800)
    contact_kpa = PressureField(label="Contact", low=1, high=300)
    humidity = NumberField(label="Room humidity", min_value=0, max_value=100, suffix="%")
    pad_c = TemperatureField(
        label="Pad temperature at the start",
        low=0,
        high=250,
        required=False,
        help_text="cold for the first",
    )
    after = forms.BooleanField(label="After the earlier steps", required=False)
    dips = forms.BooleanField(label="The platen dips when it is loaded", required=False)
    art_x_mm = LengthField(label="Art from the left", required=False, low=0, high=5000)
    art_y_mm = LengthField(label="from the front", required=False, low=0, high=5000)
    art_width_mm = LengthField(label="Art, across", required=False, low=1, high=5000)
    art_height_mm = LengthField(label="front to back", required=False, low=1, high=5000)
    shown = forms.ChoiceField(
        label="Lines on the platen show",
        required=False,
        choices=SHOWN,
    )
    at_s = forms.FloatField(
        label="Moment",
        min_value=0,
        max_value=1800,
        required=False,
        widget=forms.NumberInput(attrs={"type": "range", "min": 0, "step": "any"}),
    )


@dataclass(frozen=True)
class Chosen:
    """Which step of a recipe is looked at, as which school does it, with which stack."""

    number: int
    step: RecipeStep
    school: str
    stack: tuple[str, ...]
    before: tuple[str, ...]

    @property
    def is_changed(self) -> bool:
        """Whether the stack is no longer the recipe's."""
        return self.stack != self.step.stack


def chosen(data: QueryDict, version: RecipeVersion, library: ShopLibrary) -> Chosen:
    """The step, school and stack asked for; the main press as the recipe has it where none is."""
    sheet = version.sheet
    main_at = sheet.steps.index(sheet.main)
    text = data.get("step", "")
    requested_at = whole(text)
    at = requested_at if requested_at is not None and requested_at < len(sheet.steps) else main_at
    step = sheet.steps[at]
    if not (step.is_heated and step.stack):
        at, step = main_at, sheet.main
    names = [school.name for school in sheet.schools]
    school = data.get("school", "") if data.get("school", "") in names else ""
    if at == main_at:
        step = sheet.main_by(school)
    query = tuple(e[:LONGEST_ENTRY] for e in data.getlist("layer") if e.strip())[:MOST_LAYERS]
    stack = query or step.stack
    before = tuple(e[:LONGEST_ENTRY] for e in data.getlist("was"))[:MOST_LAYERS]
    doing = data.get("op", "")
    if doing == "recipe":
        return Chosen(at, step, school, step.stack, stack)
    if doing == "back" and before:
        return Chosen(at, step, school, before, stack)
    result = changed(stack, doing, data.get("material", ""), library)
    return Chosen(at, step, school, result, stack if result != stack else before)


def art_of(element: Element, data: dict[str, Any], blank: Blank | None = None) -> Rectangle:
    """The art as asked, else in the middle of the platen: the blank's size where it fits there,
    half the platen's otherwise.
    """
    names = ("art_x_mm", "art_y_mm", "art_width_mm", "art_height_mm")
    given = [data.get(name) for name in names]
    wide, high = element.width_mm, element.height_mm
    size = (art_size_mm(blank, element) if blank else None) or (wide / 2, high / 2)
    usual = ((wide - size[0]) / 2, (high - size[1]) / 2, *size)
    return Rectangle(*(u if g is None else g for g, u in zip(given, usual, strict=True)))


def usual_element(data: QueryDict, version: RecipeVersion) -> Element | None:
    """The element asked for where it takes the recipe's kind of blank, else the one that suits it
    best; any at all where none takes it.
    """
    slug, fitting = data.get("press", ""), elements_for(version)
    best = [e for e in fitting if e.press.slug == slug] or fitting
    if best:
        return best[0]
    any_press = Element.objects.filter(taken_out_on=None).order_by("press__place", "pk")
    return any_press.filter(press__slug=slug).first() or any_press.first()


def usual(
    data: QueryDict, version: RecipeVersion, step: RecipeStep, units: Units
) -> dict[str, Any]:
    """The first press with its advised dial, a blank of the recipe's kind, the middle dwell."""
    element = usual_element(data, version)
    blank = usual_blank(data, version)
    low_c, high_c = step.temperature_c or (version.low_c, version.high_c)
    aim_c = (low_c + high_c) / 2
    advice = advised_dial(element, aim_c, timezone.now()) if element else None
    dial = advice.set_c if advice else aim_c
    times = step.time_s or (version.low_s, version.high_s)
    art = art_of(element, {}, blank_from(blank)) if element else None
    given = {
        "element": element.pk if element else "",
        "blank": blank,
        "set_c": dial,
        "dwell_s": usual_dwell_s(version, step, blank, times),
        "contact_kpa": middle_kpa(step.pressure) if step.pressure else RESTING_KPA,
        "humidity": f"{HUMIDITY:g}",
        "pad_c": WORKING_PAD_C,
        "after": "on" if has_steps_before(version.sheet) else "",
        "dips": "on",
        "at_s": "",
        **(
            {f"art_{name}": float(round(value)) for name, value in vars(art).items()} if art else {}
        ),
    }
    return as_typed(HeatForm, given, units)


def usual_dwell_s(
    version: RecipeVersion, step: RecipeStep, blank: str, times: tuple[Any, ...]
) -> float:
    """The middle of a step's dwells; for the main press on a rigid blank that is not the recipe's
    own, what brings that one there, inside the window.
    """
    middle = float(round(sum(times) / 2))
    row, usual = blank_from(blank), blank_types().get(version.blank_like)
    if row is None or usual is None or step.kind != MAIN or row.kind in WHOLE_PLATEN:
        return middle
    library = shop_materials()
    own, known = core_blank(row, library), shipped_blank(usual.code)
    same = (own.material, own.thickness_mm, own.area_m2)
    if same == (known.material, known.thickness_mm, known.area_m2):
        return middle
    found = dwell_for_blank(version.sheet, "", known, own, library)
    return middle if found is None else float(round(min(max(found, times[0]), times[1])))
