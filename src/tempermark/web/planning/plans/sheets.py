"""Job sheets of a plan as a PDF: a page for each press, its runs in order, each with the code that
opens its job.
"""

from collections.abc import Callable
from typing import Any

from django.utils import timezone
from reportlab.lib.units import mm
from reportlab.platypus import (
    Image,
    KeepTogether,
    PageBreak,
    Spacer,
)

from tempermark.core.recipes.cycle import HEAT_CAUTION
from tempermark.web.kit.drawing.codes import code_picture
from tempermark.web.kit.drawing.pdf import pdf_of, pdf_table, pdf_text
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.planning.day import stage_of
from tempermark.web.planning.models import Plan
from tempermark.web.planning.plans.shown import NextRun, ShownPlan
from tempermark.web.planning.queries import jobs_left
from tempermark.web.planning.stock.queries import JobBlanks, blanks_of
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import fitted_first

CODE_MM = 24


def as_pdf(plan: Plan, shown: ShownPlan, units: Units, address: Callable[[str], str]) -> bytes:
    """The sheets in their reader's units; ``address`` makes a page's address whole."""
    needs = {need.job.pk: need for need in blanks_of(*jobs_left())}
    elements = {element.press.slug: element for element in reversed(list(fitted_first()))}
    begins_at = timezone.localtime(plan.begins_at)
    parts: list[Any] = []
    for slug, name, rows in shown.presses:
        if parts:
            parts.append(PageBreak())
        parts += [pdf_text(f"{name}, {begins_at:%A %-d %B}", "Title"), pdf_text(HEAT_CAUTION)]
        for row in rows:
            facts = _facts(row, elements.get(slug), needs.get(row.job.pk), units)
            table = pdf_table([[pdf_text(a), pdf_text(b)] for a, b in facts], (34 * mm, 106 * mm))
            picture = code_picture(address(row.job.get_absolute_url()))
            code = Image(picture, CODE_MM * mm, CODE_MM * mm)
            title = f"{row.begins_at:%H:%M} to {row.ends_at:%H:%M}: {_called(row)}"
            block = [pdf_text(title, "Heading3"), pdf_table([[table, code]], (144 * mm, 28 * mm))]
            parts.append(KeepTogether([*block, Spacer(1, 4 * mm)]))
    parts = parts or [pdf_text("Nothing is left to run.", "Title")]
    return pdf_of(f"Job sheets, {begins_at:%Y-%m-%d}", parts)


def _called(row: NextRun) -> str:
    order = row.job.order
    for_whom = f" for {order.customer}" if order and order.customer else ""
    return f"{order.reference + ': ' if order else ''}{row.job.blank.name}{for_whom}"


def _facts(
    row: NextRun, element: Element | None, need: JobBlanks | None, units: Units
) -> list[tuple[str, str]]:
    job, stage = row.job, stage_of(row.job, row.run.job)
    advice = advised_dial(element, row.run.set_c, timezone.now()) if element else None
    dial = "not known: this platen was never surveyed"
    if advice is not None:
        dial = temperature_text(advice.set_c, units) + (", a guess" if advice.far else "")
    pieces = f"{job.quantity}, {job.per_load} to a load"
    if need is not None and need.needed != job.quantity:
        pieces += f"; take {need.needed} blanks"
    facts = [
        ("Recipe", job.recipe.recipe.name),
        ("Pieces", pieces),
        ("Dial", f"{dial}; the platen then has {row.set_text}"),
    ]
    if stage is not None:
        pressure = stage.pressure or job.recipe.pressure
        facts.append(("Dwell", f"{stage.dwell_s:.0f} s under {pressure} pressure"))
    if row.run.change_min >= 0.5:
        facts.append(("Before", f"{row.run.change_min:.0f} min to change the press"))
    if job.blank_lot:
        facts.append(("Lot of blanks", job.blank_lot))
    if job.note:
        facts.append(("Note", job.note))
    return [*facts, ("Done, spoiled", ".  .  .  .  .  .  .  .")]
