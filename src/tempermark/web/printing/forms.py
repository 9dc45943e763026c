"""Art from a file, and print settings."""

from typing import Any

from django import forms

from tempermark.files.art.limits import MOST_PAGES
from tempermark.web.kit.forms.editing import EditForm
from tempermark.web.kit.forms.fields import DwellField, UnitForm
from tempermark.web.printing.models import (
    ColourHandling,
    Mirroring,
    PrintQuality,
    PrintSettingsVersion,
)

# The longest that a print dries, s: overnight.
LONGEST_DRYING_S = 24 * 3600.0
# A print dries so long where nobody says, s (handbook 1 §4).
USUAL_DRYING_S = 12 * 60.0


class ArtForm(UnitForm):
    """A file, its name on our lists, and of a PDF the page."""

    file = forms.FileField(
        label="File",
        allow_empty_file=True,
        widget=forms.ClearableFileInput(
            attrs={"accept": ".png,.jpg,.jpeg,.svg,.pdf,image/png,image/jpeg,image/svg+xml"}
        ),
    )
    name = forms.CharField(
        label="Name", max_length=80, required=False, help_text="empty: the file’s own"
    )
    page = forms.IntegerField(
        label="Page of a PDF", min_value=1, max_value=MOST_PAGES, initial=1, required=False
    )


class PrintSettingsForm(EditForm):
    """A printer, a paper and inks, and how they are set."""

    printer = forms.CharField(label="Printer", max_length=40)
    paper = forms.CharField(label="Paper or film", max_length=40)
    inks = forms.CharField(label="Inks", max_length=40)
    side = forms.CharField(
        label="Printed side", max_length=40, help_text="like: the brighter one, the matte one"
    )
    mirrored_by = forms.ChoiceField(
        label="Mirrored by",
        choices=Mirroring.choices,
        help_text="by one of them: twice is not mirrored",
    )
    quality = forms.ChoiceField(label="Quality", choices=PrintQuality.choices)
    colours = forms.ChoiceField(label="Colours handled by", choices=ColourHandling.choices)
    profile = forms.CharField(label="Profile", max_length=60, required=False)
    is_fast = forms.BooleanField(
        label="Fast mode is on", required=False, help_text="both ways of the head: off is sharper"
    )
    is_carried = forms.BooleanField(
        label="Taped onto a carrier sheet", required=False, help_text="thin film that would jam"
    )
    ink_limit = forms.IntegerField(label="Ink limit, %", min_value=1, max_value=400, required=False)
    dries_s = DwellField(label="Dries", low=0, high=LONGEST_DRYING_S)
    note = forms.CharField(label="Note", max_length=300, required=False)

    def clean(self) -> dict[str, Any]:
        """A profile is asked for only where one is used; it is used once."""
        data = super().clean()
        if data.get("colours") == ColourHandling.PROFILE and not data.get("profile"):
            self.add_error("profile", "Name the profile that the program uses.")
        return data


def settings_values(version: PrintSettingsVersion) -> dict[str, Any]:
    """What a form shows of a version."""
    own = [name for name in PrintSettingsForm.base_fields if hasattr(version, name)]
    values = {name: getattr(version, name) for name in own}
    parts = ("printer", "paper", "inks")
    return values | {name: getattr(version.settings, name) for name in parts}
