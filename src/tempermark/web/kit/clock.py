"""Whether the clock went back: then what is entered now gets a wrong time."""

from django.utils import timezone

from tempermark.web.kit.forms.moments import CLOCK_SKEW
from tempermark.web.kit.records.audit import AuditEntry


def clock_fault() -> str:
    """What is wrong with the clock, by the newest entry of the record; empty where it went on."""
    newest = AuditEntry.objects.order_by("-pk").values_list("at", flat=True).first()
    now = timezone.now()
    if newest is None or newest <= now + CLOCK_SKEW:
        return ""
    position, entered = (f"{timezone.localtime(m):%Y-%m-%d %H:%M}" for m in (now, newest))
    return (
        f"The clock stands at {position}, and the newest entry is of {entered}. Set the clock of "
        "this computer: what is entered until then gets a wrong time."
    )
