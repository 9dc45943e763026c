"""Changes to the hours of people and to how the shop plans."""

from typing import Any
from uuid import UUID

from django.db import transaction

from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.kit.records.audit import record
from tempermark.web.planning.hours.queries import rules
from tempermark.web.planning.models import WorkHours


@transaction.atomic
def add_hours(user: User, fields: dict[str, Any], key: UUID) -> WorkHours:
    """Hours of a person; the same form sent twice is one."""
    must_lead(user)
    given = WorkHours.objects.filter(entry_key=key).first()
    if given is not None:
        return given
    row = WorkHours.objects.create(entry_key=key, **fields)
    record(user, "added hours", row)
    return row


@transaction.atomic
def remove_hours(user: User, row: WorkHours) -> None:
    """These hours are no more; plans that were made with them stay as they are."""
    must_lead(user)
    record(user, "removed hours", row)
    row.delete()


@transaction.atomic
def change_rules(user: User, overdue: str) -> None:
    """What is done with presses that are overdue."""
    must_lead(user)
    row = rules()
    row.overdue = overdue
    row.save()
    record(user, "changed plan rules", row, overdue=overdue)
