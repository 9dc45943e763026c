"""Changes to presses."""

from django.db import transaction
from django.utils import timezone

from tempermark.core.constants import TEMPERATURE_RANGE_C
from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.presses.models import Press


@transaction.atomic
def use_setting(user: User, press: Press, set_c: float) -> Press:
    """Note what the press's dial stands at now."""
    must_work(user)
    low, high = TEMPERATURE_RANGE_C
    if not low <= set_c <= high:
        raise InputError.single(None, f"No dial can be set to {set_c:g} °C.")
    press.dial_c, press.dial_since = set_c, timezone.now()
    press.save(update_fields=["dial_c", "dial_since"])
    record(user, "set dial", press, set_c=set_c)
    return press
