"""Changes to people's own settings."""

from collections.abc import Mapping

from django.db import transaction

from tempermark.web.accounts.models import UNIT_CHOICES, User
from tempermark.web.kit.records.audit import record


@transaction.atomic
def choose_units(user: User, chosen: Mapping[str, str]) -> None:
    """Set the units a person reads and types, by quantity; ValueError for an unknown one."""
    known = {quantity: unit for quantity, unit in chosen.items() if quantity in UNIT_CHOICES}
    for quantity, unit in known.items():
        if unit not in UNIT_CHOICES[quantity].values:
            raise ValueError(f"unknown unit of {quantity}: {unit}")
        setattr(user, f"{quantity}_unit", unit)
    if not known:
        raise ValueError("no unit chosen")
    user.save(update_fields=[f"{quantity}_unit" for quantity in known])
    record(user, "chose units", user, **known)
