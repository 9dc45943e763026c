"""People of the shop."""

from datetime import timedelta
from typing import Any, ClassVar

from django.contrib.auth.models import AbstractUser, UserManager
from django.db import models
from django.utils import timezone

from tempermark.web.kit.records.prepared import Prepared
from tempermark.web.kit.units import Units


class Role(models.TextChoices):
    """What a person may do; see `permissions.py`."""

    TECHNICIAN = "technician", "Technician"
    LEAD = "lead", "Lead"
    CLERK = "clerk", "Clerk"


class TemperatureUnit(models.TextChoices):
    """Temperatures as a person reads and types them."""

    CELSIUS = "c", "°C"
    FAHRENHEIT = "f", "°F"


class LengthUnit(models.TextChoices):
    """Lengths: millimetres, or inches with fractions to a sixteenth where a ruler is used."""

    MILLIMETRE = "mm", "mm"
    INCH = "in", "inches"


class PressureUnit(models.TextChoices):
    """Contact and line pressures."""

    KILOPASCAL = "kpa", "kPa"
    BAR = "bar", "bar"
    PSI = "psi", "psi"


class VolumeUnit(models.TextChoices):
    """Volumes of coatings and mixes."""

    MILLILITRE = "ml", "ml"
    FLUID_OUNCE = "floz", "fl oz and cups"


class MassUnit(models.TextChoices):
    """Weights of powder and ink."""

    GRAM = "g", "g"
    OUNCE = "oz", "oz"


UNIT_CHOICES: dict[str, type[models.TextChoices]] = {
    "temperature": TemperatureUnit,
    "length": LengthUnit,
    "pressure": PressureUnit,
    "volume": VolumeUnit,
    "mass": MassUnit,
}


class PersonManager(UserManager["User"]):
    """People; one that is looked up by key alone, as at every request, by a prepared query."""

    # Nothing of a migration depends on it.
    use_in_migrations = False

    def get(self, *args: Any, **lookups: Any) -> "User":
        """The one there is."""
        if args or not isinstance(lookups.get("pk"), int) or len(lookups) > 1:
            return super().get(*args, **lookups)
        if (found := PERSON.first(**lookups)) is None:
            raise self.model.DoesNotExist
        return found


class User(AbstractUser):
    """A person with a role and units."""

    objects: ClassVar[PersonManager] = PersonManager()

    role = models.CharField(max_length=12, choices=Role.choices, default=Role.TECHNICIAN)
    temperature_unit = models.CharField(
        max_length=1, choices=TemperatureUnit.choices, default=TemperatureUnit.CELSIUS
    )
    length_unit = models.CharField(
        max_length=2, choices=LengthUnit.choices, default=LengthUnit.MILLIMETRE
    )
    pressure_unit = models.CharField(
        max_length=3, choices=PressureUnit.choices, default=PressureUnit.KILOPASCAL
    )
    volume_unit = models.CharField(
        max_length=4, choices=VolumeUnit.choices, default=VolumeUnit.MILLILITRE
    )
    mass_unit = models.CharField(max_length=2, choices=MassUnit.choices, default=MassUnit.GRAM)

    # Whether this session began with a PIN (pins/backend.py): then a lead works as a technician.
    by_pin = False

    # Counts up when the person wants another address for their calendar.
    calendar_version = models.PositiveIntegerField(default=0)

    class Meta(AbstractUser.Meta):
        constraints = [
            models.CheckConstraint(
                condition=models.Q(role__in=Role.values), name="user_role_known"
            ),
            models.CheckConstraint(
                condition=models.Q(temperature_unit__in=TemperatureUnit.values)
                & models.Q(length_unit__in=LengthUnit.values)
                & models.Q(pressure_unit__in=PressureUnit.values)
                & models.Q(volume_unit__in=VolumeUnit.values)
                & models.Q(mass_unit__in=MassUnit.values),
                name="user_units_known",
            ),
        ]

    @property
    def units(self) -> Units:
        """The units this person reads and types."""
        return Units(**{quantity: getattr(self, f"{quantity}_unit") for quantity in UNIT_CHOICES})

    @property
    def may_work(self) -> bool:
        """Whether this person may measure, press and trace."""
        return self.role in (Role.TECHNICIAN, Role.LEAD)

    @property
    def may_lead(self) -> bool:
        """Whether this person may change presses and close cases; never by PIN."""
        return self.role == Role.LEAD and not self.by_pin


PERSON = Prepared(lambda pk: User.objects.filter(pk=pk), pk=int)
LINK_LASTS = timedelta(days=1)


def _link_expires() -> object:
    return timezone.now() + LINK_LASTS


class SignUpLink(models.Model):
    """A link with which one person signs up, once; its token is kept as a digest only."""

    digest = models.CharField(max_length=64, unique=True, help_text="SHA-256 of the token")
    role = models.CharField(max_length=12, choices=Role.choices)
    created_at = models.DateTimeField(default=timezone.now)
    expires_at = models.DateTimeField(default=_link_expires)
    used_at = models.DateTimeField(null=True, blank=True)
    used_by = models.OneToOneField(
        User, on_delete=models.PROTECT, null=True, blank=True, related_name="signed_up_with"
    )
    # Somebody who is there already chooses another password with it.
    for_person = models.ForeignKey(
        User, on_delete=models.CASCADE, null=True, blank=True, related_name="reset_links"
    )
    invited_by = models.ForeignKey(
        User, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(role__in=Role.values), name="sign_up_role_known"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.role}, made {self.created_at:%Y-%m-%d %H:%M}"

    @property
    def is_open(self) -> bool:
        """Whether somebody can still sign up with it."""
        return self.used_at is None and timezone.now() < self.expires_at


class SignedIn(models.Model):
    """A session of a person, with the device that it was begun on."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="signed_in")
    session_key = models.CharField(max_length=40, unique=True)
    device = models.CharField(max_length=200, blank=True)
    address = models.GenericIPAddressField(null=True, blank=True)
    since = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-since", "-pk"]
        verbose_name_plural = "signed in"

    def __str__(self) -> str:
        return f"{self.person} since {self.since:%Y-%m-%d %H:%M}"


class BenchPin(models.Model):
    """The PIN with which a person takes over a shared tablet; kept as a slow digest only."""

    person = models.OneToOneField(User, on_delete=models.CASCADE, related_name="bench_pin")
    digest = models.CharField(max_length=128)
    set_at = models.DateTimeField(default=timezone.now)
    failures = models.PositiveSmallIntegerField(default=0, help_text="wrong PINs in a row")

    def __str__(self) -> str:
        return f"PIN of {self.person}"


class SharedTablet(models.Model):
    """A tablet of the room that several people use; its token is kept as a digest only."""

    name = models.CharField(max_length=40)
    digest = models.CharField(max_length=64, unique=True, help_text="SHA-256 of the token")
    added_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    added_at = models.DateTimeField(default=timezone.now)
    used_at = models.DateTimeField(null=True, blank=True)
    failures = models.PositiveSmallIntegerField(default=0, help_text="wrong PINs in a row")
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["name", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["name"],
                condition=models.Q(ended_at=None),
                name="one_shared_tablet_of_a_name",
                violation_error_message="There is a shared tablet of this name already.",
            )
        ]

    def __str__(self) -> str:
        return self.name
