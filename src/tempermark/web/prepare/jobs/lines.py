"""A job's list as it is read: the core's lines, and those that only this press can say."""

from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse
from django.utils import timezone

from tempermark.core.preparing.after import touch_safe_s
from tempermark.core.preparing.checklist import (
    PRINT_DRIES_S,
    PieceToPrepare,
    PreparationLine,
    preparation,
)
from tempermark.core.preparing.growth import ROOM_C
from tempermark.core.recipes.steps import RecipeStep
from tempermark.core.thermal.cooling import TOUCH_C
from tempermark.core.vocabulary.things import VESSEL_KINDS
from tempermark.web.jobs.models import Job
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import in_units, say
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.prepare.jobs.pressing import pressure_advice
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import fitted_first
from tempermark.web.pressure.setting import words as pressure_words
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.materials.library import shop_materials

FROM = "Where that is from"
# Waits of a recipe's steps without heat that somebody may want to be called for.
WAITED_FOR = ("dry", "cool", "rest")


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
    wait_s: float | None = None
    wait_for: str = ""
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
    found = [_line(line, units, _address(line.code, job)) for line in preparation(piece_of(job))]
    if job.blank.kind in VESSEL_KINDS:
        found.append(_template(job))
    element = fitted_first().filter(press=job.press).select_related("press").first()
    if element is not None:
        found += [_pressure(job, element, units), _dial(job, element, units)]
    return found


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
    if code == "mix":
        return reverse("prepare:mix"), "Work it out"
    if code == "place":
        return reverse("prepare:straight"), "Work it out"
    if code in ("mirror", "size") and job.art_id:
        return reverse("prepare:art", args=[job.pk]), "See it on the art"
    if code in ("mirror", "size"):
        art = {"art_width_mm": job.art_width_mm, "art_height_mm": job.art_height_mm}
        query = {name: f"{value:.1f} mm" for name, value in art.items()}
        address = f"{reverse('prepare:sheets')}?{urlencode(query | {'quantity': job.quantity})}"
        return address, "Which sheet it fits"
    return "", ""


def _line(line: PreparationLine, units: Units, link: tuple[str, str]) -> JobLine:
    return JobLine(
        line.code,
        say(line.do, units),
        say(line.because, units),
        say(line.caution, units),
        line.fact,
        line.wait_s,
        line.wait_for,
        *link,
    )


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
    address = reverse("overview:press", args=[job.press.slug])
    aim = temperature_text(job.recipe.middle_c, units)
    advice = advised_dial(element, job.recipe.middle_c, timezone.now())
    if advice is None:
        return JobLine(
            "dial",
            f"Set {job.press.name} to {aim} and wait until it is steady.",
            f"{job.press.name} has no survey: what its display means is not known.",
            address=address,
            link=FROM,
        )
    return JobLine(
        "dial",
        f"Set {job.press.name} to {temperature_text(advice.set_c, units)} and wait until it is "
        "steady.",
        f"That gives {aim} true, by its survey; closed too soon it is cold at first.",
        address=address,
        link=FROM,
    )


def lines_after(job: Job, units: Units) -> list[JobLine]:
    """Waits after the press opens: until it may be touched, and what the recipe asks for."""
    found = [_touch(job, units)] if not piece_of(job).is_cloth else []
    for number, step in enumerate(job.recipe.sheet.steps):
        if step.kind in WAITED_FOR and step.time_s:
            found.append(_waited(number, step, units))
    return [line for line in found if line is not None]


def _touch(job: Job, units: Units) -> JobLine | None:
    blank = core_blank(job.blank, shop_materials())
    if not blank.thickness_mm:
        return None
    material = shop_materials()[blank.material]
    seconds = touch_safe_s(material, blank.thickness_mm, job.recipe.middle_c, ROOM_C)
    if not seconds:
        return None
    limit = temperature_text(TOUCH_C, units)
    return JobLine(
        "touch",
        "Let it cool in still air until it may be touched.",
        f"It leaves the press at about {temperature_text(job.recipe.middle_c, units)}; below "
        f"{limit} a hand may hold it. A cold metal table is quicker.",
        "Gloves until then, and a tool for the tape.",
        wait_s=seconds,
        wait_for="touch-safe",
    )


def _waited(number: int, step: RecipeStep, units: Units) -> JobLine:
    seconds = sum(step.time_s or (0.0, 0.0)) / 2
    text = in_units(step.do, units) or step.name.capitalize()
    cautions = " ".join(in_units(text, units) for text in step.cautions)
    return JobLine(
        f"step-{number}", text, in_units(step.look_for, units), cautions, "", seconds, step.name
    )
