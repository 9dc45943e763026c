"""Headers of surveys, and imports."""

from typing import Any

from django import forms
from django.conf import settings
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.metrology.reading.surfaces import SURFACES
from tempermark.web.kit.forms.fields import (
    DifferenceField,
    NumberField,
    TemperatureField,
    UnitForm,
    choice_field,
    row_field,
    rows_field,
)
from tempermark.web.kit.wording import say
from tempermark.web.measure.comparisons import comparisons
from tempermark.web.measure.instruments.first import AT_HAND
from tempermark.web.measure.instruments.instruments import header_of
from tempermark.web.measure.known.remembered import is_known
from tempermark.web.measure.models import Instrument, InstrumentKind, Method, Survey
from tempermark.web.measure.surveys.fields import EmissivityField
from tempermark.web.measure.surveys.grids import (
    ADAPTIVE,
    GRIDS,
    KNOWN,
    SPOT,
    first_stations,
    grid_places,
    own_places,
    spot_station,
)
from tempermark.web.presses.models import Element

GRID_CHOICES = [
    ("3x3", "3 × 3, quick look"),
    ("4x4", "4 × 4"),
    ("5x5", "5 × 5, full survey"),
    (ADAPTIVE, "as few as needed, 5 to 17"),
    (KNOWN, "known press: is it as before, 3 to 8 as a rule"),
    (SPOT, "spot check, the middle"),
    ("own", "own points"),
]
NOT_KNOWN = "Nothing is known of this element yet: survey it once with nine stations or more."
# Which kinds of instrument a method can have.
READS_BY = {
    Method.PAD: (InstrumentKind.INFRARED,),
    Method.PATCH: (InstrumentKind.INFRARED,),
    Method.CONTACT: (InstrumentKind.CONTACT, InstrumentKind.LOGGER),
    Method.STRIP: (InstrumentKind.STRIP,),
}
# Fields of the form that are fields of the survey under the same name.
HEADER_FIELDS = (
    "grid",
    "method",
    "set_c",
    "target_c",
    "tolerance_c",
    "correction_c",
    "instrument_uncertainty_c",
    "emissivity_setting",
    "surface_emissivity",
    "surface_emissivity_uncertainty",
    "repeatability_c",
    "ambient_c",
    "soak_min",
    "delay_s",
    "note",
)


class HeaderForm(UnitForm):
    """What is set, aimed at, and read with."""

    set_c = TemperatureField(label="Setting on the dial")
    target_c = TemperatureField(label="Target, true")
    tolerance_c = DifferenceField(label="Tolerance ±", min_value=0.1, max_value=50)
    method = forms.ChoiceField(label="Read by", choices=Method.choices)
    correction_c = DifferenceField(label="Instrument's correction", min_value=-100, max_value=100)
    instrument_uncertainty_c = DifferenceField(
        label="Its uncertainty (k = 2)", min_value=0, max_value=100
    )
    emissivity_setting = EmissivityField(
        label="Emissivity set on the gun",
    )
    surface_emissivity = EmissivityField(
        label="Emissivity of the surface",
    )
    surface_emissivity_uncertainty = NumberField(
        label="Its uncertainty (standard)", min_value=0, max_value=0.5
    )
    repeatability_c = DifferenceField(
        label="Repeatability (standard)", min_value=0.05, max_value=20
    )
    ambient_c = TemperatureField(label="Ambient", low=-30, high=60)
    soak_min = NumberField(label="Soak", min_value=0, max_value=600, suffix="min")
    delay_s = NumberField(label="Delay after opening", min_value=0, max_value=600, suffix="s")
    note = forms.CharField(label="Note", required=False, max_length=400)

    def header(self) -> dict[str, Any]:
        """Values by field of `Survey`."""
        return {
            name: self.cleaned_data[name] for name in HEADER_FIELDS if name in self.cleaned_data
        }


class SurveyForm(HeaderForm):
    """A new survey: header and stations."""

    instrument = forms.ModelChoiceField(
        label="Instrument",
        queryset=Instrument.objects.filter(retired=False),
        required=False,
        empty_label="as typed below",
    )

    surface = forms.ChoiceField(
        label="Surface the gun reads",
        required=False,
        choices=[
            ("", "the emissivity typed below"),
            *(
                (name, f"{s.label}, {s.emissivity:g} ± {s.uncertainty:g}")
                for name, s in SURFACES.items()
            ),
        ],
    )
    at_hand = forms.ChoiceField(
        label="What do you have to read with?",
        required=False,
        choices=[(kind.value, row.label) for kind, row in AT_HAND.items()],
        widget=forms.RadioSelect,
    )
    grid = forms.ChoiceField(label="Stations", choices=GRID_CHOICES)
    points = forms.CharField(
        label="Own points",
        required=False,
        max_length=60_000,
        widget=forms.Textarea(attrs={"rows": 4, "placeholder": "x, y"}),
        help_text="x, y from the front left corner, one point a line",
    )
    field_order = ["grid", "points", "set_c", "target_c", "tolerance_c", "method"]

    def __init__(self, *args: Any, element: Element, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.element = element
        if not is_known(element):
            grids = choice_field(self, "grid")
            grids.choices = [c for c in GRID_CHOICES if c[0] != KNOWN]
        # A room without an instrument is asked what is at hand.
        if rows_field(self, "instrument").queryset.exists():
            del self.fields["at_hand"]

    def clean(self) -> dict[str, str]:
        """Stations in `places`; what is at hand brings its way to read."""
        super().clean()
        data = self.cleaned_data
        if data.get("at_hand"):
            data["method"] = AT_HAND[data["at_hand"]].method
        self._check_instrument(data)
        size = (self.element.width_mm, self.element.height_mm)
        if data.get("grid") in GRIDS:
            data["places"] = grid_places(data["grid"], *size)
        elif data.get("grid") == ADAPTIVE:
            data["places"] = first_stations(*size)
        elif data.get("grid") == KNOWN:
            self._check_known(data)
        elif data.get("grid") == SPOT:
            data["places"] = spot_station(*size)
        elif data.get("grid") == "own":
            try:
                data["places"] = own_places(data.get("points", ""), *size, self.units)
            except InputError as error:
                for problem in error.problems[:20]:
                    self.add_error("points", say(problem.message, self.units))
        return data

    def _check_known(self, data: dict[str, Any]) -> None:
        """What is remembered must be there, and the first place is where it tells most."""
        data["places"] = []
        if not is_known(self.element):
            self.add_error("grid", NOT_KNOWN)
        elif data.get("method") == Method.STRIP:
            self.add_error("grid", "Strips only bound a temperature: choose a grid.")

    def _check_instrument(self, data: dict[str, Any]) -> None:
        """An infrared method needs a gun, a contact method something that touches."""
        chosen, method = data.get("instrument"), data.get("method")
        if chosen is None or method is None:
            return
        if chosen.kind not in READS_BY.get(method, InstrumentKind.values):
            self.add_error(
                "instrument",
                f"{chosen.name} is a “{chosen.get_kind_display()}”: choose another, "
                "or another way to read.",
            )

    def header(self) -> dict[str, Any]:
        """Values by field of `Survey`, the instrument's leading."""
        head, chosen = super().header(), self.cleaned_data.get("instrument")
        surface = SURFACES.get(self.cleaned_data.get("surface", ""))
        if surface is not None:
            head["surface_emissivity"] = surface.emissivity
            head["surface_emissivity_uncertainty"] = surface.uncertainty
        if not chosen:
            return head
        own = header_of(chosen, timezone.localdate())
        compared = comparisons.holding(self.element.press, chosen)
        if compared is not None and self.cleaned_data["method"] == Method.PAD:
            own |= comparisons.header(compared, own)
        return head | own


class ImportForm(UnitForm):
    """A file, and what it may not say itself."""

    file = forms.FileField(label="File", help_text="CSV or JSON, up to 4 MB", allow_empty_file=True)
    set_c = TemperatureField(label="Setting on the dial", required=False)
    target_c = TemperatureField(label="Target, true", required=False)
    tolerance_c = DifferenceField(label="Tolerance ±", min_value=0.1, max_value=50, required=False)

    def clean_file(self) -> bytes:
        """The file's bytes, within the limit."""
        upload = self.cleaned_data["file"]
        if upload.size > settings.IMPORT_LIMIT_BYTES:
            raise forms.ValidationError(
                f"{upload.name} holds {upload.size / 1e6:.0f} MB; right is at most "
                f"{settings.IMPORT_LIMIT_BYTES / 2**20:.0f} MB. Nothing was imported."
            )
        return upload.read()


def initial_header(element: Element, last: Survey | None) -> dict[str, Any]:
    """Defaults of a new survey: as the last one on this element, else the press's."""
    press = element.press
    initial = {
        name: row_field(Survey, name).default
        for name in HEADER_FIELDS
        if name not in ("set_c", "target_c", "note")
    }
    if last is not None:
        initial |= {name: getattr(last, name) for name in HEADER_FIELDS if name != "note"}
        if last.instrument_id and not last.instrument.retired:
            initial["instrument"] = last.instrument
        if initial["method"] == Method.CORRECTED:
            initial["method"] = Method.PAD
        if initial["grid"] == ADAPTIVE and is_known(element):
            initial["grid"] = KNOWN
        if initial["grid"] not in dict(GRID_CHOICES) or initial["grid"] in ("own", SPOT):
            initial["grid"] = "5x5"
    initial["surface"] = next(
        (
            name
            for name, s in SURFACES.items()
            if (s.emissivity, s.uncertainty)
            == (initial["surface_emissivity"], initial["surface_emissivity_uncertainty"])
        ),
        "",
    )
    dial = press.dial_c if press.dial_c is not None else press.target_c
    return initial | {
        "set_c": dial,
        "target_c": press.target_c,
        "tolerance_c": press.tolerance_c,
        "note": "",
    }


class TargetForm(UnitForm):
    """A true temperature wanted."""

    target_c = TemperatureField(label="True temperature wanted", low=20, high=400)
