"""People of the shop."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Role(models.TextChoices):
    """What a person may do; see `permissions.py`."""

    TECHNICIAN = "technician", "Technician"
    LEAD = "lead", "Lead"
    CLERK = "clerk", "Clerk"


class TemperatureUnit(models.TextChoices):
    """The unit a person reads and types."""

    CELSIUS = "c", "°C"
    FAHRENHEIT = "f", "°F"


class User(AbstractUser):
    """A person with a role and a unit."""

    role = models.CharField(max_length=12, choices=Role.choices, default=Role.TECHNICIAN)
    temperature_unit = models.CharField(
        max_length=1, choices=TemperatureUnit.choices, default=TemperatureUnit.CELSIUS
    )

    # Counts up when the person wants another address for their calendar.
    calendar_version = models.PositiveIntegerField(default=0)

    class Meta(AbstractUser.Meta):
        constraints = [
            models.CheckConstraint(
                condition=models.Q(role__in=Role.values), name="user_role_known"
            ),
            models.CheckConstraint(
                condition=models.Q(temperature_unit__in=TemperatureUnit.values),
                name="user_unit_known",
            ),
        ]

    @property
    def may_work(self) -> bool:
        """Whether this person may measure, press and trace."""
        return self.role in (Role.TECHNICIAN, Role.LEAD)

    @property
    def may_lead(self) -> bool:
        """Whether this person may change presses and close cases."""
        return self.role == Role.LEAD
