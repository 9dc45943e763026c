"""Forms of the instruments: what they are, their checks, and a gun against a probe."""

from typing import Any

from django import forms

from tempermark.core.errors import InputError
from tempermark.core.metrology.reading.fixed_points import (
    ALTITUDE_RANGE_M,
    PRESSURE_RANGE_KPA,
    boiling_point_c,
    checked,
    pressure_at_kpa,
)
from tempermark.web.kit.forms.editing import EditForm
from tempermark.web.kit.forms.fields import (
    AltitudeField,
    DifferenceField,
    NumberField,
    PressureField,
    TemperatureField,
    UnitForm,
)
from tempermark.web.kit.forms.moments import DayField
from tempermark.web.kit.records.withdrawals import WhyField
from tempermark.web.kit.units import METRIC
from tempermark.web.kit.wording import error_text
from tempermark.web.measure.models import Instrument, InstrumentKind
from tempermark.web.measure.surveys.fields import EmissivityField, TemperatureListField

MOST_PAIRS = 8


class InstrumentForm(EditForm):
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

    def clean(self) -> dict[str, Any]:
        """The range must be one."""
        super().clean()
        data = self.cleaned_data
        low, high = data.get("low_c"), data.get("high_c")
        if low is not None and high is not None and low >= high:
            self.add_error("high_c", "The end of the range must be above its start.")
        return data


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
        label="Emissivity of the pad, as assumed",
    )
    surface_emissivity_uncertainty = NumberField(
        label="Its uncertainty (standard)", min_value=0, max_value=0.5
    )
    repeatability_c = DifferenceField(
        label="Gun's repeatability (standard)", min_value=0.05, max_value=20
    )
    anyway = forms.BooleanField(label="Save them although they disagree", required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for number in range(1, MOST_PAIRS + 1):
            for side, label in (("gun", "Gun"), ("probe", "Probe")):
                field = TemperatureField(label=f"{label} {number}", required=False)
                field.use_units(kwargs.get("units", METRIC))
                self.fields[f"{side}_{number}"] = field

    @property
    def pair_fields(self) -> list[tuple[int, Any, Any]]:
        """Number, gun's field and probe's field, row by row."""
        return [(n, self[f"gun_{n}"], self[f"probe_{n}"]) for n in range(1, MOST_PAIRS + 1)]

    def clean(self) -> dict[str, Any]:
        """Pairs in `pairs`; a half pair is an error at its empty side."""
        super().clean()
        data = self.cleaned_data
        data["pairs"] = []
        for number in range(1, MOST_PAIRS + 1):
            names = (f"gun_{number}", f"probe_{number}")
            both = tuple(data.get(name) for name in names)
            for name, value, other in zip(names, both, both[::-1], strict=True):
                if value is None and other is not None and name not in self.errors:
                    self.add_error(name, "The other reading of this pair is missing.")
            if None not in both:
                data["pairs"].append(both)
        return data


class FixedPointForm(UnitForm):
    """A check in melting ice and boiling water; without a day it is today's."""

    on = DayField(
        label="Checked on",
        required=False,
        help_text="empty: today",
        widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
    )

    ice_c = TemperatureField(label="Shown in melting ice", required=False)
    boil_c = TemperatureField(label="Shown in boiling water", required=False)
    pressure_kpa = PressureField(
        label="Air pressure",
        low=PRESSURE_RANGE_KPA[0],
        high=PRESSURE_RANGE_KPA[1],
        required=False,
    )
    altitude_m = AltitudeField(
        label="or height above the sea",
        low=ALTITUDE_RANGE_M[0],
        high=ALTITUDE_RANGE_M[1],
        required=False,
    )

    def clean(self) -> dict[str, Any]:
        """The table of corrections in `table`."""
        super().clean()
        data = self.cleaned_data
        if self.errors:
            return data
        pressure, altitude = data.get("pressure_kpa"), data.get("altitude_m")
        if data.get("boil_c") is not None and pressure is None and altitude is None:
            self.add_error(
                "pressure_kpa",
                "Water boils at less the higher you are: give the air pressure or the height.",
            )
            return data
        if pressure is None:
            pressure = pressure_at_kpa(altitude or 0.0)
        try:
            data["table"] = checked(
                data.get("ice_c"), data.get("boil_c"), boiling_point_c(pressure)
            )
        except InputError as error:
            self.add_error(None, error_text(error, self.units))
        return data


class CheckCorrectionForm(EditForm, FixedPointForm):
    """A check as it should have been noted."""

    why = WhyField()
