"""Sign-ins that fail from one address, whatever names they try."""

from datetime import timedelta

from axes.models import AccessAttempt
from django.conf import settings
from django.db.models import Sum
from django.utils import timezone

# A room's tablets may share an address behind a proxy: more than any of them mistype.
MOST_FAILURES_OF_ADDRESS = 30


def is_address_locked(address: str) -> bool:
    """Whether so many sign-ins failed from an address of late that the next must wait."""
    since = timezone.now() - timedelta(hours=settings.AXES_COOLOFF_TIME)
    rows = AccessAttempt.objects.filter(ip_address=address or None, attempt_time__gte=since)
    failures: int = rows.aggregate(failed=Sum("failures_since_start"))["failed"] or 0
    return failures >= MOST_FAILURES_OF_ADDRESS
