"""The log of a test press, its marks and its scores."""

from datetime import datetime
from typing import Any

from django import forms
from django.db.models import Q
from django.utils import timezone
from django.utils.text import capfirst

from tempermark.core.diagnosis.knowledge.base import Fact
from tempermark.core.errors import InputError
from tempermark.core.pressing.limits import refusal
from tempermark.core.recipes.layers import entry_text, read_layer
from tempermark.core.recipes.stack_as_done import as_done
from tempermark.core.recipes.stack_rules import Fault, faults
from tempermark.core.recipes.windows import closings
from tempermark.core.vocabulary.settings import PEELS, PRESSURES
from tempermark.web.kit.figures import size_text, temperature_text
from tempermark.web.kit.forms.editing import EditForm
from tempermark.web.kit.forms.fields import (
    DwellField,
    LengthField,
    NumberField,
    TemperatureField,
    UnitForm,
    choice_field,
    rows_field,
)
from tempermark.web.kit.forms.moments import MomentField
from tempermark.web.kit.records.withdrawals import WhyField
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.choice import ShopBlankField
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.cards.stacks import stacked_on
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials
from tempermark.web.recipes.models import Blank, PressedStep, RecipeVersion
from tempermark.web.run.models import (
    LOT_FIELDS,
    TestPress,
)
from tempermark.web.run.pieces.facts import either_or_facts, single_facts
from tempermark.web.run.pieces.queries import ArtPlace

UNKNOWN = [("", "not recorded")]
# Dials of transfer presses, °C, and dwells in all, s; what lies beyond is a slip of the pen.
LOW_DIAL_C, HIGH_DIAL_C, LONGEST_S = 20.0, 300.0, 1800.0
# Further than this from what the recipe wants a figure is asked about, K and as a factor.
FAR_K, FAR_FACTOR = 40.0, 3.0
MOST_STEPS = 100


def _fact_choices(facts: list[Fact]) -> list[tuple[str, str]]:
    return [(fact.code, fact.label) for fact in facts]


class ArtPlaceForm(UnitForm):
    """The art on the platen, and the dial."""

    set_c = TemperatureField(label="Setting on the dial", low=LOW_DIAL_C, high=HIGH_DIAL_C)
    art_width_mm = LengthField(label="Art, across", low=1, high=5000)
    art_height_mm = LengthField(label="Art, front to back", low=1, high=5000)
    art_x_mm = LengthField(label="From the left edge", low=-2000, high=5000)
    art_y_mm = LengthField(label="From the front edge", low=-2000, high=5000)
    # Asked for only where the whole window is looked at.
    dwell_s = DwellField(label="Total dwell", required=False, low=0.1, high=LONGEST_S)
    pressure: forms.Field = forms.CharField(required=False, max_length=10)

    def place(self, element: Element, when: datetime) -> ArtPlace:
        """The place, once the form is valid."""
        data = self.cleaned_data
        corner = (data["art_x_mm"], data["art_y_mm"])
        size = (data["art_width_mm"], data["art_height_mm"])
        return ArtPlace(element, *corner, *size, data["set_c"], when)


class TestPressForm(ArtPlaceForm):
    """What was set and done."""

    __test__ = False

    recipe: Any = forms.ModelChoiceField(
        queryset=None, label="Recipe", empty_label="choose", widget=forms.HiddenInput
    )
    blank = ShopBlankField(queryset=Blank.objects.all(), label="Blank", empty_label="choose")
    step_number = forms.IntegerField(
        label="Step", required=False, min_value=0, max_value=MOST_STEPS, widget=forms.HiddenInput
    )
    dwell_s = DwellField(label="Total dwell", low=0.5, high=LONGEST_S)
    closures = forms.IntegerField(label="Closings", min_value=1, max_value=50)
    pressure = forms.ChoiceField(
        label="Pressure",
        choices=[(p, p if p != "unknown" else "not recorded") for p in PRESSURES],
    )
    peel = forms.ChoiceField(
        label="Peel",
        choices=[("", "none or not recorded"), *((p, p) for p in PEELS)],
        required=False,
    )
    stack = forms.CharField(
        label="Stack, top to bottom",
        required=False,
        max_length=1200,
        widget=forms.Textarea(attrs={"rows": 5}),
    )
    room_c = TemperatureField(label="Room", required=False, low=-30, high=60)
    relative_humidity = NumberField(
        label="Humidity", required=False, min_value=0, max_value=100, suffix="%"
    )
    done = forms.MultipleChoiceField(
        label="Also true", required=False, widget=forms.CheckboxSelectMultiple, choices=()
    )
    note = forms.CharField(label="Note", required=False, max_length=1000)
    pressed_at = MomentField(label="Time pressed", required=False, help_text="empty: just now")
    confirmed = forms.CharField(required=False, max_length=200, widget=forms.HiddenInput)
    blank_lot = forms.CharField(label="Lot of blanks", required=False, max_length=40)
    film_lot = forms.CharField(label="Lot of film or paper", required=False, max_length=40)
    coat_lot = forms.CharField(label="Coat, by its label", required=False, max_length=40)
    cover_sheet = forms.CharField(label="Cover sheet, by its mark", required=False, max_length=40)

    def __init__(
        self, *args: Any, element: Element, advised_c: float | None = None, **kwargs: Any
    ) -> None:
        super().__init__(*args, **kwargs)
        self.element, self.advised_c = element, advised_c
        self.to_confirm = ""
        rows_field(self, "recipe").queryset = current_versions()
        recipe: Any = self.fields["recipe"]
        recipe.label_from_instance = lambda version: version.recipe.name
        version = self.initial.get("recipe")
        blank = self.fields["blank"]
        if version is not None and isinstance(blank, ShopBlankField):
            blank.offer(version, element)
        choice_field(self, "done").choices = _fact_choices(single_facts())
        for label, facts in either_or_facts().items():
            self.fields[f"either_{label.lower()}"] = forms.ChoiceField(
                label=label, required=False, choices=UNKNOWN + _fact_choices(facts)
            )
        for name in LOT_FIELDS.values():
            self.fields[name].widget.attrs |= {"list": f"known_{name}", "autocomplete": "off"}

    def either_or(self) -> list[Any]:
        """The bound either-or fields, for the template."""
        return [self[f"either_{label.lower()}"] for label in either_or_facts()]

    def lots(self) -> list[Any]:
        """The bound fields that name lots, for the template."""
        return [self[name] for name in LOT_FIELDS.values()]

    def clean_stack(self) -> list[str]:
        """Layers, one a line: the library's as their codes, others as they were typed."""
        library = shop_materials()
        typed = [line.strip() for line in self.cleaned_data["stack"].splitlines() if line.strip()]
        layers = [_layer(line, library) for line in typed]
        if len(layers) > 20:
            raise forms.ValidationError("At most 20 layers.")
        long = [layer for layer in layers if len(layer) > 60]
        if long:
            raise forms.ValidationError(f"“{long[0][:30]}…” is over 60 characters.")
        return layers

    def clean(self) -> dict[str, Any]:
        """The art must lie on the platen at least in part; facts gathered."""
        super().clean()
        data = self.cleaned_data
        keys = ("art_x_mm", "art_y_mm", "art_width_mm", "art_height_mm")
        if all(data.get(k) is not None for k in keys):
            x, y, width, height = (data[k] for k in keys)
            off = x >= self.element.width_mm or y >= self.element.height_mm
            if off or x + width <= 0 or y + height <= 0:
                platen = size_text((self.element.width_mm, self.element.height_mm), self.units)
                self.add_error("art_x_mm", f"The art is off the platen of {platen}.")
        data["facts"] = self._facts(data)
        if data.get("recipe") is not None:
            # As kept: none for the main press, and for a number that is no heated step.
            data["step_number"] = data["recipe"].pressed(data.get("step_number")).number
        self._refuse(data.get("blank"))
        self._question(data)
        return data

    def _refuse(self, blank: Blank | None) -> None:
        """A blank that is never pressed is not logged as pressed by mistake."""
        if blank is None:
            return
        library = shop_materials()
        refused = refusal(core_blank(blank, library), library)
        if refused is not None:
            self.add_error("blank", f"Do not press it: {refused.because}.")

    def _question(self, data: dict[str, Any]) -> None:
        """What is far from what the recipe wants, or goes wrong, is asked about once; sent again it
        is kept.
        """
        version = data.get("recipe")
        step = version.pressed(data.get("step_number")) if version else None
        query = {**self._far_figures(step, data), **self._timer(data), **self._too_soon(data)}
        if step is not None and "stack" not in self.errors and data.get("blank"):
            query |= self._stack_faults(step, data)
        self.to_confirm = "; ".join(key for key, _ in query.values())
        if query and data.get("confirmed") != self.to_confirm:
            for name, (_, text) in query.items():
                self.add_error(name, f"{text} Is that right? Save again to keep it.")

    def _far_figures(
        self, step: PressedStep | None, data: dict[str, Any]
    ) -> dict[str, tuple[str, str]]:
        query = {}
        dwell_s, set_c = data.get("dwell_s"), data.get("set_c")
        if step is not None and dwell_s is not None:
            low, high = step.low_s / FAR_FACTOR, step.high_s * FAR_FACTOR
            if not low <= dwell_s <= high:
                wants = f"the recipe asks for {step.low_s:g} to {step.high_s:g} s"
                query["dwell_s"] = (f"dwell_s={dwell_s:g}", f"{dwell_s:g} s, but {wants}.")
        wanted = self.advised_c
        if wanted is None and step is not None:
            wanted = step.middle_c
        if wanted is not None and set_c is not None and abs(set_c - wanted) > FAR_K:
            shown, right = (temperature_text(c, self.units) for c in (set_c, wanted))
            text = f"{shown}, but about {right} is right here."
            query["set_c"] = (f"set_c={set_c:g}", text)
        return query

    def _timer(self, data: dict[str, Any]) -> dict[str, tuple[str, str]]:
        """A closing longer than the press's timer runs."""
        most_s, dwell_s, count = (
            self.element.press.timer_max_s,
            data.get("dwell_s"),
            data.get("closures"),
        )
        if not most_s or not dwell_s or not count or dwell_s / count <= most_s:
            return {}
        needed = len(closings(dwell_s, most_s))
        text = f"The timer goes up to {most_s} s: {dwell_s:g} s takes {needed} closings."
        return {"closures": (f"closures={count}", text)}

    def _too_soon(self, data: dict[str, Any]) -> dict[str, tuple[str, str]]:
        """Pieces that are logged faster than they can be pressed need their own times."""
        dwell_s = data.get("dwell_s")
        if data.get("pressed_at") is not None or "pressed_at" in self.errors or not dwell_s:
            return {}
        last = TestPress.objects.filter(element=self.element).order_by("-pressed_at").first()
        if last is None:
            return {}
        ago_s = (timezone.now() - last.pressed_at).total_seconds()
        if not 0 <= ago_s < dwell_s:
            return {}
        text = (
            f"The piece before was pressed {ago_s:.0f} s ago by its log, and this one took "
            f"{dwell_s:g} s. Type when this one was pressed."
        )
        return {"pressed_at": (f"after={last.pk}", text)}

    def _stack_faults(self, step: PressedStep, data: dict[str, Any]) -> dict[str, tuple[str, str]]:
        """What goes wrong with the stack as it was done, and not with the recipe's own here."""
        facts = frozenset(data["facts"])
        done = as_done(tuple(data.get("stack") or step.stack), facts)
        own = {fault.code for fault in stack_faults(step, step.stack, self.element, data)}
        found = [
            fault
            for fault in stack_faults(step, done, self.element, data)
            if fault.code not in own and fault.code not in facts
        ]
        if not found:
            return {}
        text = " ".join(f"{capfirst(f.because)}: right is {f.right}." for f in found)
        return {"stack": (f"stack={','.join(f.code for f in found)}", text)}

    def _facts(self, data: dict[str, Any]) -> list[str]:
        chosen = [data.get(f"either_{label.lower()}") for label in either_or_facts()]
        return [fact for fact in chosen if fact] + list(data.get("done") or [])


def stack_faults(
    step: PressedStep, stack: tuple[str, ...], element: Element, data: dict[str, Any]
) -> list[Fault]:
    """What is wrong with a stack on a press, for the blank and the room of a form."""
    blank, humidity = data["blank"], data.get("relative_humidity")
    share = None if humidity is None else humidity / 100
    method = step.version.recipe.method
    return faults(stacked_on(element, blank, stack, method, step.step.kind, share))


def _layer(line: str, library: ShopLibrary) -> str:
    """A layer as stored; one the library does not know stays as it was typed."""
    try:
        return read_layer(line, library)
    except InputError:
        return line


class PieceCorrectionForm(EditForm, TestPressForm):
    """What was set and done, as it should have been logged."""

    why = WhyField()

    def __init__(self, *args: Any, record: TestPress, **kwargs: Any) -> None:
        super().__init__(*args, element=record.element, record=record, **kwargs)
        recipe: Any = self.fields["recipe"]
        recipe.widget, recipe.empty_label = forms.Select(), None
        versions = current_versions().values("pk")
        recipe.queryset = RecipeVersion.objects.filter(
            Q(pk__in=versions) | Q(pk=record.recipe_id)
        ).select_related("recipe")
        recipe.label_from_instance = lambda version: f"{version.recipe.name}, v{version.number}"
        self.fields["pressed_at"].required, self.fields["pressed_at"].help_text = True, ""

    def clean_pressed_at(self) -> Any:
        """The moment; as kept where only what a browser does not show differs."""
        moment, kept = self.cleaned_data["pressed_at"], self.record.pressed_at
        is_same = moment is not None and moment == kept.replace(microsecond=0)
        return kept if is_same else moment


def logged(piece: TestPress) -> dict[str, Any]:
    """What was logged of a piece, as the form shows it."""
    library = shop_materials()
    humidity = piece.relative_humidity
    names = [name for name in TestPressForm.base_fields if hasattr(piece, name)]
    values = {name: getattr(piece, name) for name in names}
    either = {
        f"either_{label.lower()}": next((f.code for f in facts if f.code in piece.facts), "")
        for label, facts in either_or_facts().items()
    }
    return {
        **values,
        **either,
        "stack": "\n".join(entry_text(entry, library) for entry in piece.stack),
        "relative_humidity": None if humidity is None else round(100 * humidity, 3),
        "done": [fact.code for fact in single_facts() if fact.code in piece.facts],
    }
