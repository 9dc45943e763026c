"""What the log fills in by itself: sheet and lots in use, how the pressure is set, what was done
in preparing.
"""

from collections.abc import Sequence
from typing import Any

from django.utils import timezone

from tempermark.core.preparing.checklist import preparation
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.web.jobs.models import Job
from tempermark.web.jobs.queries import ticked
from tempermark.web.kit.figures import pressure_text
from tempermark.web.kit.records.prepared import Prepared
from tempermark.web.kit.units import METRIC
from tempermark.web.prepare.jobs.lines import piece_of
from tempermark.web.presses.models import Element
from tempermark.web.pressure.models import PressureState
from tempermark.web.pressure.setting.words import position_text
from tempermark.web.recipes.models import PressedStep
from tempermark.web.run.lots.lots import is_past
from tempermark.web.run.models import LOT_FIELDS, Lot, LotKind, PressSetting, Run, TestPress

# Of these the only one in use is the one that is used; blanks and film are of many kinds.
ALONE_IS_USED = (LotKind.SHEET, LotKind.COAT)


# Each is looked up at every opening of every press.
CHOSEN = Prepared(
    lambda recipe, element: PressSetting.objects.filter(recipe=recipe, element=element)[:1],
    recipe=int,
    element=int,
)
PRESSED_LAST = Prepared(
    lambda element, recipe, blank: (
        TestPress.objects.filter(element=element, recipe__recipe=recipe, blank=blank)
        .order_by("-pressed_at", "-pk")
        .values_list(*LOT_FIELDS.values())[:1]
    ),
    element=int,
    recipe=int,
    blank=int,
)
SET_NOW = Prepared(
    lambda press: PressureState.objects.filter(press=press, taken_back_at=None)[:1], press=int
)
DESCRIBED = Prepared(lambda: Lot.objects.filter(kind__in=LOT_FIELDS))


def known_of_press(
    element: Element, job: Job, step: PressedStep, place_mm: Sequence[float]
) -> dict[str, Any]:
    """Field of a press → all that is known of it before it is pressed: of the job, the step, the
    press and the lots; the art with its lower left corner at a place.
    """
    return {
        "recipe": job.recipe,
        "blank": job.blank,
        "job": job,
        "step_number": step.number,
        "peel": step.peel,
        "stack": list(step.stack),
        "facts": facts_of(job),
        "knob": knob_text(element.press_id),
        "art_x_mm": place_mm[0],
        "art_y_mm": place_mm[1],
        "art_width_mm": job.art_width_mm,
        "art_height_mm": job.art_height_mm,
        **lots_in_use(element, job, step),
    }


def main_pressure(run: Run) -> str:
    """The class of pressure of a run's main press: what the run was begun with, what was chosen for
    the recipe on its press, else the recipe's.
    """
    version = run.job.recipe
    begun_with: str = run.settings.get("pressure") or ""
    if begun_with:
        return begun_with
    chosen = CHOSEN.first(recipe=version.recipe_id, element=run.element_id)
    if chosen and chosen.pressure in PRESSURE_CLASSES:
        return chosen.pressure
    return version.pressure


def lots_in_use(element: Element, job: Job, step: PressedStep) -> dict[str, str]:
    """Field of a press → the lot or sheet that is most likely in use: the one named last for the
    same, while it is not retired; else the only one there is. Blanks are of their job's lot.
    """
    last = PRESSED_LAST.rows(element=element.pk, recipe=job.recipe.recipe_id, blank=job.blank_id)
    names = dict(zip(LOT_FIELDS.values(), last[0], strict=True)) if last else {}
    described = DESCRIBED.all()
    found = {}
    for kind, field in LOT_FIELDS.items():
        of_kind = [lot for lot in described if lot.kind == kind]
        lots = [lot for lot in of_kind if lot.retired_on is None and _fits(lot, step)]
        named = names.get(field, "")
        codes = {lot.code for lot in lots}
        # A name that nobody described may still be in use.
        if named and (named in codes or named not in {lot.code for lot in of_kind}):
            found[field] = named
        elif kind in ALONE_IS_USED and len(lots) == 1:
            found[field] = lots[0].code
    if job.blank_lot:
        found["blank_lot"] = job.blank_lot
    return found


def _fits(lot: Lot, step: PressedStep) -> bool:
    """Whether a lot belongs to this step: a sheet of its stack, a coat while it keeps."""
    if lot.kind == LotKind.SHEET and lot.material:
        return any(layer.split()[0] == lot.material for layer in step.stack if layer.split())
    if lot.kind == LotKind.COAT:
        return bool(step.version.sheet.lays_coating) and not is_past(lot, timezone.localdate())
    return True


def knob_text(press_pk: int) -> str:
    """How a press's pressure is set now; empty where nobody noted it."""
    state = SET_NOW.first(press=press_pk)
    if state is None:
        return ""
    if state.position_turns is not None:
        return position_text(state.position_turns).replace("\u00a0", " ")[:60]
    if state.line_kpa is not None:
        # Kept in words that mean the same to everybody.
        return f"air {pressure_text(state.line_kpa, METRIC)}".replace("\u00a0", " ")
    return f"scale {state.figure:g}" if state.figure is not None else ""


def facts_of(job: Job) -> list[str]:
    """What the job's ticks say was done to every piece of it."""
    done = ticked(job)
    if not done:
        return []
    return [line.fact for line in preparation(piece_of(job)) if line.fact and line.code in done]
