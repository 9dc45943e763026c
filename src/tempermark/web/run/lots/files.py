"""Lots and marked sheets as a table."""

from typing import Any

from django.db import transaction

from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.kit.forms import tables
from tempermark.web.run.lots import lots
from tempermark.web.run.lots.views import LotForm
from tempermark.web.run.models import Lot

FORMAT, KEY = "tempermark.lots/1", "lots"
COLUMNS = tuple(LotForm.base_fields)


def rows() -> list[dict[str, Any]]:
    """Every lot that is described."""
    return [{name: getattr(lot, name) for name in COLUMNS} for lot in Lot.objects.all()]


@transaction.atomic
def take_in(user: User, raw: bytes) -> str:
    """Add and change lots from a file, whole or not at all."""
    must_lead(user)
    given = tables.checked(tables.read_rows(raw, FORMAT, KEY, COLUMNS), LotForm, COLUMNS)
    for fields in given:
        lots.describe(user, fields)
    return f"{len(given)} lots imported."
