"""Codes of the knowledge as people read them."""

from django import template

from tempermark.core.diagnosis.knowledge.loading import shipped

register = template.Library()


@register.filter
def cause_label(code: str) -> str:
    """`dwell_short` as “Dwell too short”."""
    return shipped().causes[code].label


@register.filter
def symptom_label(code: str) -> str:
    """`edge_fade`, or a row's key that begins with it, as “Fades towards a margin”."""
    return shipped().symptoms[code.partition("|")[0]].label


@register.filter
def fact_label(code: str) -> str:
    """`blank_prepressed` as “blank pre-pressed”."""
    return shipped().facts[code].label
