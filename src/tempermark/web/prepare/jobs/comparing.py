"""What differs between two jobs: how they are printed first, then everything else."""

from collections.abc import Iterator
from typing import Any

from tempermark.web.jobs.models import Job
from tempermark.web.jobs.queries import ticked
from tempermark.web.kit.figures import length_text, size_text
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import say
from tempermark.web.prepare.jobs.lines import lines_before
from tempermark.web.printing.queries import DifferingValue, differences

NOT_KNOWN = "not recorded"


def job_differences(before: Job, now: Job, units: Units) -> list[DifferingValue]:
    """Each thing that differs, with its value in both, in the reader's units."""
    printed = differences(before.print_settings, now.print_settings)
    found = [DifferingValue(d.label, say(d.before, units), say(d.now, units)) for d in printed]
    if bool(before.print_settings) != bool(now.print_settings):
        names = [str(job.print_settings or NOT_KNOWN) for job in (before, now)]
        found.append(DifferingValue("print settings", *names))
    pairs = zip(_values(before, units), _values(now, units), strict=True)
    for (label, was), (_, is_now) in pairs:
        if was != is_now:
            found.append(DifferingValue(label, was, is_now))
    return found


def _values(job: Job, units: Units) -> Iterator[tuple[str, Any]]:
    yield "art", str(job.art or NOT_KNOWN)
    yield "art printed", size_text((job.art_width_mm, job.art_height_mm), units)
    yield "fold to the back", length_text(job.fold_mm, units) if job.fold_mm else "none"
    yield "recipe", f"{job.recipe.recipe.name}, version {job.recipe.number}"
    yield "blank", job.blank.name
    yield "press", job.press.name
    yield "pieces", str(job.quantity)
    humidity = job.relative_humidity
    yield "room humidity", NOT_KNOWN if humidity is None else f"{humidity:.0%}".replace("%", " %")
    done = ticked(job)
    texts = [line.do for line in lines_before(job, units) if line.code in done]
    yield "done before the press closed", " ".join(texts) or "nothing ticked"
