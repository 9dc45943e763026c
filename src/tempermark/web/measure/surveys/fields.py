"""Form fields of measuring."""

import re
from typing import Any

from tempermark.core.constants import EMISSIVITY_RANGE
from tempermark.web.kit.forms.fields import NumberField, TemperatureField

SEPARATED = re.compile(r"[;\s]+")


class EmissivityField(NumberField):
    """An emissivity; 0 would be a perfect mirror."""

    default_error_messages = {
        "min_value": "No gun can read a surface of emissivity 0, a perfect mirror: its figure "
        "would tell the room only. Right is 0.01 to 1; a pad has about 0.9.",
        "max_value": "No surface radiates more than a black one. Right is 0.01 to 1.",
    }

    def __init__(self, **kwargs: Any) -> None:
        low, high = EMISSIVITY_RANGE
        super().__init__(min_value=low, max_value=high, **kwargs)
        validators: list[Any] = self.validators
        for check in validators:
            if check.code in self.default_error_messages:
                check.message = self.default_error_messages[check.code]


class TemperatureListField(TemperatureField):
    """Several temperatures, ascending: `182 188 193`, `182; 188,5` or `360f 370f`."""

    def clean(self, value: str | None) -> Any:
        """The temperatures in °C, lowest first."""
        text = (value or "").replace(", ", " ")
        return sorted(
            super(TemperatureListField, self).clean(p) for p in SEPARATED.split(text) if p
        )

    def prepare_value(self, value: Any) -> str:
        """The list in the person's unit."""
        if isinstance(value, list):
            return " ".join(super(TemperatureListField, self).prepare_value(v) for v in value)
        return value
