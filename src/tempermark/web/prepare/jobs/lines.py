"""A job's list as it is read: the core's lines, and those that only this press can say."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any
from urllib.parse import urlencode

from django.urls import reverse
from django.utils import timezone

from tempermark.core.preparing.after_press import after_lines
from tempermark.core.preparing.checklist import (
    PRINT_DRIES_S,
    PieceToPrepare,
    PreparationLine,
    preparation,
)
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.core.preparing.waits import Wait
from tempermark.core.vocabulary.things import VESSEL_KINDS
from tempermark.web.jobs.models import Job
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import say
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.prepare.jobs.cooling import leaving_job
from tempermark.web.prepare.jobs.pressing import pressure_advice
from tempermark.web.prepare.tools.guide_views import placing_text
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import fitted_first
from tempermark.web.pressure.setting import words as pressure_words
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.run.lots.in_use import coats_text, worn_sheets_text

FROM, HOW_LONG = "Where that is from", "How long it takes"
# Kind of step, or method and kind → the helper that works it out.
STEP_HELPERS: dict[Any, str] = {
    "hover": "prepare:hover",
    "dry": "prepare:brush",
    ("spray_coating", "coat"): "prepare:spray",
    "coat": "prepare:brush",
}


@dataclass(frozen=True)
class JobLine:
    """One line in the reader's units; `address` leads to where its number comes from, and `link`
    says so.
    """

    code: str
    do: str
    because: str
    caution: str = ""
    fact: str = ""
    waits: tuple[Wait, ...] = ()
    choices: tuple[Wait, ...] = ()
    address: str = ""
    link: str = "Work it out"


def piece_of(job: Job) -> PieceToPrepare:
    """What the core needs to know of a job."""
    printed = job.print_settings
    return PieceToPrepare(
        job.recipe.sheet,
        core_blank(job.blank, shop_materials()),
        (job.art_width_mm, job.art_height_mm),
        job.relative_humidity,
        job.fold_mm,
        printed.dries_s if printed else PRINT_DRIES_S,
        printed.get_mirrored_by_display() if printed else "",
    )


def lines_before(job: Job, units: Units) -> list[JobLine]:
    """What is done before the press closes."""
    element = _element(job)
    found = [
        _on_press(line, _line(line, units, _address(line.code, job)), element, units)
        for line in preparation(piece_of(job))
    ]
    found = [_with_lots(line) for line in found]
    if job.guide is not None:
        found = [_guided(job, line, units) if line.code == "place" else line for line in found]
    if job.blank.kind in VESSEL_KINDS:
        found.append(_template(job))
    if element is not None:
        found += [_pressure(job, element, units), _dial(job, element, units)]
    return found


def _with_lots(line: JobLine) -> JobLine:
    """What is in use of what the line needs: its coat and until when it keeps, worn sheets."""
    if line.code == "mix":
        return replace(line, because=f"{line.because} {coats_text()}".strip())
    if line.code == "sheets":
        return replace(line, because=f"{line.because} {worn_sheets_text()}".strip())
    return line


def _guided(job: Job, line: JobLine, units: Units) -> JobLine:
    """Where the job's guide puts the art."""
    size = job.guide.size(job.guide_size)
    if size is None:
        return line
    return replace(line, do=f"{line.do} {placing_text(job.guide, size, units)}")


def _template(job: Job) -> JobLine:
    """The wrap of a vessel: drawn flat, and whether straight art bows on it."""
    return JobLine(
        "template",
        "Lay the art out on the vessel’s template.",
        "Straight art looks bent on a taper beyond a width that the taper sets.",
        address=f"{reverse('prepare:template')}?blank={job.blank.pk}"
        + (f"&art={job.art_id}" if job.art_id else ""),
    )


def _address(code: str, job: Job) -> tuple[str, str]:
    """The helper behind a line, its figures already in it, and what its link says; both empty for
    lines that have none.
    """
    if code.startswith("step-"):
        return _step_address(job, int(code.removeprefix("step-")))
    helper = HELPERS.get(code)
    return helper(job) if helper else ("", "")


def _mix_address(job: Job) -> tuple[str, str]:
    return reverse("prepare:mix"), "Work it out"


def _place_address(job: Job) -> tuple[str, str]:
    if piece_of(job).is_cloth:
        return f"{reverse('prepare:guides')}?job={job.pk}", "Where it goes on the garment"
    return reverse("prepare:straight"), "How straight it is"


def _art_address(job: Job) -> tuple[str, str]:
    """The art itself, or which paper takes its size."""
    if job.art_id:
        return reverse("prepare:art", args=[job.pk]), "See it on the art"
    art = {"art_width_mm": job.art_width_mm, "art_height_mm": job.art_height_mm}
    query = {name: f"{value:.1f} mm" for name, value in art.items()}
    address = f"{reverse('prepare:sheets')}?{urlencode(query | {'quantity': job.quantity})}"
    return address, "Which sheet it fits"


# Code of a line → what works it out.
HELPERS: dict[str, Callable[[Job], tuple[str, str]]] = {
    "mix": _mix_address,
    "place": _place_address,
    "mirror": _art_address,
    "size": _art_address,
}


def _step_address(job: Job, number: int) -> tuple[str, str]:
    """What works out one of the recipe's own steps."""
    step = job.recipe.sheet.steps[number]
    name = STEP_HELPERS.get((job.recipe.recipe.method, step.kind)) or STEP_HELPERS.get(step.kind)
    if step.kind == "set":
        return reverse("prepare:change", args=[job.press.slug]), HOW_LONG
    return (reverse(name), "Work it out") if name else ("", "")


def _line(line: PreparationLine, units: Units, link: tuple[str, str]) -> JobLine:
    return JobLine(
        line.code,
        say(line.do, units),
        say(line.because, units),
        say(line.caution, units),
        line.fact,
        line.waits,
        line.choices,
        *link,
    )


def _element(job: Job) -> Element | None:
    return fitted_first().filter(press=job.press).select_related("press").first()


def _on_press(
    line: PreparationLine, shown: JobLine, element: Element | None, units: Units
) -> JobLine:
    """A heated step says what this press is set to for it."""
    if line.window_c is None or element is None:
        return shown
    aim_c = sum(line.window_c) / 2
    advice = advised_dial(element, aim_c, timezone.now())
    dial = temperature_text(aim_c if advice is None else advice.set_c, units)
    name = element.press.name
    if advice is None:
        known = f"Set {name} to {dial}; it has no survey."
    else:
        known = f"Set {name} to {dial}, {temperature_text(aim_c, units)} true."
    return replace(shown, because=f"{known} {shown.because}".strip())


def _pressure(job: Job, element: Element, units: Units) -> JobLine:
    address = reverse("pressure:pressure", args=[job.press.slug])
    address += f"?recipe={job.recipe.pk}&blank={job.blank.pk}"
    advice = pressure_advice(element, job.blank, job.recipe)
    if advice is None:
        text = f"Set the pressure: {job.recipe.pressure}."
        because = f"What is known of {job.press.name} does not allow more."
    else:
        text = pressure_words.headline(advice, units)
        because = pressure_words.then_text(advice, units)
    caution = "Set pressure with the heat off the piece and hands out of the press."
    return JobLine("pressure", text, because, caution, address=address, link=FROM)


def _dial(job: Job, element: Element, units: Units) -> JobLine:
    address = reverse("prepare:change", args=[job.press.slug])
    aim = temperature_text(job.recipe.middle_c, units)
    advice = advised_dial(element, job.recipe.middle_c, timezone.now())
    if advice is None:
        return JobLine(
            "dial",
            f"Set {job.press.name} to {aim} and wait until it is steady.",
            f"{job.press.name} has no survey: what its display means is not known.",
            address=address,
            link=HOW_LONG,
        )
    return JobLine(
        "dial",
        f"Set {job.press.name} to {temperature_text(advice.set_c, units)} and wait until it is "
        "steady.",
        f"That gives {aim} true, by its survey; closed too soon it is cold at first.",
        address=address,
        link=HOW_LONG,
    )


def lines_after(job: Job, units: Units) -> list[JobLine]:
    """What is done after the press opens, with its waits for this piece."""
    element = _element(job)
    cooling = (reverse("prepare:cooling") + f"?job={job.pk}", "Work it out")
    found = after_lines(piece_of(job), leaving_job(job), ROOM_C)
    shown = [(line, _line(line, units, cooling if line.choices else ("", ""))) for line in found]
    return [_on_press(line, plain, element, units) for line, plain in shown]
