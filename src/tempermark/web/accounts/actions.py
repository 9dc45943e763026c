"""Changes to people's own settings."""

from django.db import transaction

from tempermark.web.accounts.models import TemperatureUnit, User
from tempermark.web.kit.records.audit import record


@transaction.atomic
def choose_unit(user: User, unit: str) -> None:
    """Set the unit a person reads and types; ValueError for an unknown one."""
    if unit not in TemperatureUnit.values:
        raise ValueError(f"unknown unit {unit}")
    user.temperature_unit = unit
    user.save(update_fields=["temperature_unit"])
    record(user, "chose unit", user, unit=unit)
