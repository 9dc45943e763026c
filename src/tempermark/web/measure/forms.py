"""Headers of surveys, and imports."""

import re

from django import forms
from django.conf import settings
from django.utils import timezone

from tempermark.core.constants import EMISSIVITY_RANGE
from tempermark.core.errors import InputError
from tempermark.core.metrology.fixed_points import (
    ALTITUDE_RANGE_M,
    PRESSURE_RANGE_KPA,
    boiling_point_c,
    checked,
    pressure_at_kpa,
)
from tempermark.core.metrology.surfaces import SURFACES
from tempermark.web.floor.models import Element
from tempermark.web.kit.forms import DifferenceField, NumberField, TemperatureField, UnitForm
from tempermark.web.measure import comparisons
from tempermark.web.measure.grids import (
    ADAPTIVE,
    GRIDS,
    SPOT,
    first_stations,
    grid_places,
    own_places,
    spot_station,
)
from tempermark.web.measure.instruments import header_of
from tempermark.web.measure.models import Instrument, InstrumentKind, Method, Survey

GRID_CHOICES = [
    ("3x3", "3 × 3, quick look"),
    ("4x4", "4 × 4"),
    ("5x5", "5 × 5, full survey"),
    (ADAPTIVE, "as few as needed, 5 to 17"),
    (SPOT, "spot check, the middle"),
    ("own", "own points"),
]
MOST_PAIRS = 8
SEPARATED = re.compile(r"[;\s]+")
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


class EmissivityField(NumberField):
    """An emissivity; 0 would be a perfect mirror."""

    default_error_messages = {
        "min_value": "No gun can read a surface of emissivity 0, a perfect mirror: its figure "
        "would tell the room only. Right is 0.01 to 1; a pad has about 0.9.",
        "max_value": "No surface gives off more than a black one. Right is 0.01 to 1.",
    }

    def __init__(self, **kwargs):
        low, high = EMISSIVITY_RANGE
        super().__init__(min_value=low, max_value=high, **kwargs)
        for check in self.validators:
            if check.code in self.default_error_messages:
                check.message = self.default_error_messages[check.code]


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

    def header(self) -> dict:
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
        empty_label="figures typed below",
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
    grid = forms.ChoiceField(label="Stations", choices=GRID_CHOICES)
    points = forms.CharField(
        label="Own points",
        required=False,
        max_length=60_000,
        widget=forms.Textarea(attrs={"rows": 4, "placeholder": "120, 250"}),
        help_text="x, y in mm from the front left corner, one point a line",
    )
    field_order = ["grid", "points", "set_c", "target_c", "tolerance_c", "method"]

    def __init__(self, *args, element: Element, **kwargs):
        super().__init__(*args, **kwargs)
        self.element = element

    def clean(self):
        """Stations in `places`."""
        data = super().clean()
        self._check_instrument(data)
        size = (self.element.width_mm, self.element.height_mm)
        if data.get("grid") in GRIDS:
            data["places"] = grid_places(data["grid"], *size)
        elif data.get("grid") == ADAPTIVE:
            data["places"] = first_stations(*size)
        elif data.get("grid") == SPOT:
            data["places"] = spot_station(*size)
        elif data.get("grid") == "own":
            try:
                data["places"] = own_places(data.get("points", ""), *size)
            except InputError as error:
                for problem in error.problems[:20]:
                    self.add_error("points", problem.message)
        return data

    def _check_instrument(self, data) -> None:
        """An infrared method needs a gun, a contact method something that touches."""
        chosen, method = data.get("instrument"), data.get("method")
        if chosen is None or method is None:
            return
        if chosen.kind not in READS_BY.get(method, InstrumentKind.values):
            self.add_error(
                "instrument",
                f"{chosen.name} is of the kind “{chosen.get_kind_display()}”: choose another, "
                "or another way to read.",
            )

    def header(self) -> dict:
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

    def clean_file(self):
        """The file's bytes, within the limit."""
        upload = self.cleaned_data["file"]
        if upload.size > settings.IMPORT_LIMIT_BYTES:
            raise forms.ValidationError(
                f"{upload.name} holds {upload.size / 1e6:.0f} MB; right is at most "
                f"{settings.IMPORT_LIMIT_BYTES / 2**20:.0f} MB. Nothing was imported."
            )
        return upload.read()


def initial_header(element: Element, last: Survey | None) -> dict:
    """Defaults of a new survey: as the last one on this element, else the press's."""
    press = element.press
    initial = {
        name: Survey._meta.get_field(name).default
        for name in HEADER_FIELDS
        if name not in ("set_c", "target_c", "note")
    }
    if last is not None:
        initial |= {name: getattr(last, name) for name in HEADER_FIELDS if name != "note"}
        if last.instrument_id and not last.instrument.retired:
            initial["instrument"] = last.instrument
        if initial["method"] == Method.CORRECTED:
            initial["method"] = Method.PAD
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


class TemperatureListField(TemperatureField):
    """Several temperatures, ascending: `182 188 193`, `182; 188,5` or `360f 370f`."""

    def clean(self, value):
        """The temperatures in °C, lowest first."""
        text = (value or "").replace(", ", " ")
        return sorted(
            super(TemperatureListField, self).clean(p) for p in SEPARATED.split(text) if p
        )

    def prepare_value(self, value):
        """The list in the person's unit."""
        if isinstance(value, list):
            return " ".join(super(TemperatureListField, self).prepare_value(v) for v in value)
        return value


class InstrumentForm(UnitForm):
    """An instrument."""

    name = forms.CharField(label="Name", max_length=60)
    kind = forms.ChoiceField(label="Kind", choices=InstrumentKind.choices)
    expanded_uncertainty_c = DifferenceField(
        label="Uncertainty (k = 2)", min_value=0, max_value=100
    )
    emissivity_setting = EmissivityField(
        label="Emissivity set on it",
        required=False,
        help_text="guns only",
    )
    low_c = TemperatureField(label="Its range from", required=False)
    high_c = TemperatureField(label="Its range to", required=False)
    fields_c = TemperatureListField(
        label="Fields of the strips",
        required=False,
        max_length=200,
        help_text="strips only, like 182 188 193 199",
    )
    check_every_days = forms.IntegerField(
        label="Check every", min_value=1, max_value=2000, help_text="days"
    )
    retired = forms.BooleanField(label="Out of use", required=False)
    note = forms.CharField(label="Note", max_length=400, required=False)

    def clean(self):
        """The range must be one."""
        data = super().clean()
        low, high = data.get("low_c"), data.get("high_c")
        if low is not None and high is not None and low >= high:
            self.add_error("high_c", "The end of the range must lie above its start.")
        return data


class TargetForm(UnitForm):
    """A true temperature wanted."""

    target_c = TemperatureField(label="Wanted, true", low=20, high=400)


class ComparisonForm(UnitForm):
    """A gun against a contact probe on the pad, pair by pair."""

    gun = forms.ModelChoiceField(
        label="Gun",
        empty_label="choose",
        queryset=Instrument.objects.filter(retired=False, kind=InstrumentKind.INFRARED),
    )
    probe = forms.ModelChoiceField(
        label="Contact probe",
        empty_label="choose",
        queryset=Instrument.objects.filter(retired=False, kind=InstrumentKind.CONTACT),
    )
    set_c = TemperatureField(label="Setting on the dial")
    ambient_c = TemperatureField(label="Ambient", low=-30, high=60)
    emissivity_setting = EmissivityField(
        label="Emissivity set on the gun",
    )
    surface_emissivity = EmissivityField(
        label="Emissivity of the pad, as believed",
    )
    surface_emissivity_uncertainty = NumberField(
        label="Its uncertainty (standard)", min_value=0, max_value=0.5
    )
    repeatability_c = DifferenceField(
        label="Gun's repeatability (standard)", min_value=0.05, max_value=20
    )
    anyway = forms.BooleanField(label="Keep it although they disagree", required=False)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        for number in range(1, MOST_PAIRS + 1):
            for side, label in (("gun", "Gun"), ("probe", "Probe")):
                field = TemperatureField(label=f"{label} {number}", required=False)
                field.use_unit(kwargs.get("unit", "c"))
                self.fields[f"{side}_{number}"] = field

    @property
    def pair_fields(self):
        """Number, gun's field and probe's field, row by row."""
        return [(n, self[f"gun_{n}"], self[f"probe_{n}"]) for n in range(1, MOST_PAIRS + 1)]

    def clean(self):
        """Pairs in `pairs`; a half pair is an error at its empty side."""
        data = super().clean()
        data["pairs"] = []
        for number in range(1, MOST_PAIRS + 1):
            names = (f"gun_{number}", f"probe_{number}")
            both = tuple(data.get(name) for name in names)
            for name, value, other in zip(names, both, both[::-1], strict=True):
                if value is None and other is not None and name not in self.errors:
                    self.add_error(name, "Its other half is missing.")
            if None not in both:
                data["pairs"].append(both)
        return data


class FixedPointForm(UnitForm):
    """A check in melting ice and boiling water."""

    ice_c = TemperatureField(label="Shown in melting ice", required=False)
    boil_c = TemperatureField(label="Shown in boiling water", required=False)
    pressure_kpa = NumberField(
        label="Air pressure",
        min_value=PRESSURE_RANGE_KPA[0],
        max_value=PRESSURE_RANGE_KPA[1],
        required=False,
        suffix="kPa",
    )
    altitude_m = NumberField(
        label="or height above the sea",
        min_value=ALTITUDE_RANGE_M[0],
        max_value=ALTITUDE_RANGE_M[1],
        required=False,
        suffix="m",
    )

    def clean(self):
        """The table of corrections in `table`."""
        data = super().clean()
        if self.errors:
            return data
        pressure, altitude = data.get("pressure_kpa"), data.get("altitude_m")
        if data.get("boil_c") is not None and pressure is None and altitude is None:
            self.add_error("pressure_kpa", "Water boils lower up high: give pressure or height.")
            return data
        if pressure is None:
            pressure = pressure_at_kpa(altitude or 0.0)
        try:
            data["table"] = checked(
                data.get("ice_c"), data.get("boil_c"), boiling_point_c(pressure)
            )
        except InputError as error:
            self.add_error(None, str(error))
        return data
