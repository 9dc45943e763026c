"""People of a test, and the units they read."""

from dataclasses import asdict

from tempermark.web.accounts.models import User
from tempermark.web.kit.units import Units


def choose(person: User, units: Units) -> None:
    """Let a person read and type in some units, as the page of units does."""
    columns = {f"{quantity}_unit": unit for quantity, unit in asdict(units).items()}
    User.objects.filter(pk=person.pk).update(**columns)
    person.refresh_from_db()
