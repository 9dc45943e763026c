"""Entries of the record: by person, by what they are about, by day, by text."""

from typing import Any

from django.db import models
from django.db.models import Q, QuerySet
from django.db.models.functions import Cast

from tempermark.web.kit.records.audit import AuditEntry

MOST_TERMS = 6


def entries(filters: dict[str, Any]) -> QuerySet[AuditEntry]:
    """Entries that a form's clean values ask for, newest first: ``who`` a person, ``first`` and
    ``last`` moments, ``q`` words that all occur.
    """
    rows = AuditEntry.objects.select_related("who")
    if filters.get("who"):
        rows = rows.filter(who=filters["who"])
    if filters.get("first"):
        rows = rows.filter(at__gte=filters["first"])
    if filters.get("last"):
        rows = rows.filter(at__lt=filters["last"])
    terms = (filters.get("q") or "").split()[:MOST_TERMS]
    if terms:
        rows = rows.annotate(in_detail=Cast("detail", models.TextField()))
    for term in terms:
        rows = rows.filter(
            Q(did__icontains=term)
            | Q(name__icontains=term)
            | Q(subject__iexact=term)
            | Q(in_detail__icontains=term)
        )
    return rows.order_by("-at", "-pk")


def about(subject: str) -> QuerySet[AuditEntry]:
    """Entries about one row by its label: `presses.press:3`."""
    return AuditEntry.objects.filter(subject=subject).select_related("who")
