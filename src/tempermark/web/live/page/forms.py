"""Keys for loggers, and the dial a survey is kept for."""

from typing import Any

from django import forms

from tempermark.core.errors import InputError
from tempermark.files.live import MOST_CHANNELS
from tempermark.web.kit.forms.fields import TemperatureField, UnitForm
from tempermark.web.kit.wording import say
from tempermark.web.measure.models import Instrument, InstrumentKind
from tempermark.web.measure.surveys.grids import GRIDS, grid_places, own_places
from tempermark.web.presses.models import Element

GRID_CHOICES = [("3x3", "3 × 3"), ("4x4", "4 × 4"), ("5x5", "5 × 5"), ("own", "own points")]


class KeyForm(UnitForm):
    """Which logger reads the element, and where its probes are."""

    instrument = forms.ModelChoiceField(
        label="Logger",
        empty_label="choose",
        queryset=Instrument.objects.filter(retired=False, kind=InstrumentKind.LOGGER),
    )
    grid = forms.ChoiceField(label="Probe positions", choices=GRID_CHOICES)
    points = forms.CharField(
        label="Own points",
        required=False,
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 3, "placeholder": "x, y"}),
        help_text="x, y from the front left corner, in the order of the channels",
    )

    def __init__(self, *args: Any, element: Element, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.element = element

    def clean(self) -> dict[str, Any]:
        """Places in `places`, in the order of the channels: row by row from the front left."""
        super().clean()
        data = self.cleaned_data
        size = (self.element.width_mm, self.element.height_mm)
        if data.get("grid") in GRIDS:
            places = grid_places(data["grid"], *size)
            data["places"] = sorted(places, key=lambda p: (p.y_mm, p.x_mm))
        elif data.get("grid") == "own":
            try:
                data["places"] = own_places(data.get("points", ""), *size, self.units)
            except InputError as error:
                for problem in error.problems[:20]:
                    self.add_error("points", say(problem.message, self.units))
        if len(data.get("places", ())) > MOST_CHANNELS:
            self.add_error("points", f"At most {MOST_CHANNELS} channels.")
        return data


class KeepForm(UnitForm):
    """Where the dial was set."""

    set_c = TemperatureField(label="Dial was set to")
