"""What fits where."""

from collections.abc import Sequence

from tempermark.core.planning.day import PlanJob, PlanPress


def why_not(job: PlanJob, press: PlanPress) -> str | None:
    """Why a press does not take a job; None when it does."""
    if job.press_kinds is not None and press.kind not in job.press_kinds:
        return "of another kind"
    if job.presses is not None and press.name not in job.presses:
        return "not for this job"
    if not _lies_on(job, press):
        return "too small"
    return None


def _lies_on(job: PlanJob, press: PlanPress) -> bool:
    """Either way round, on the element that it takes."""
    across, along = sorted((job.width_mm, job.height_mm))
    spares = {spare.name: spare for spare in press.spares}
    element = spares.get(job.element_on(press.name), press)
    width, height = sorted((element.width_mm, element.height_mm))
    return across <= width and along <= height


def fitting(jobs: Sequence[PlanJob], presses: Sequence[PlanPress]) -> dict[str, list[int]]:
    """The presses, by their places in the list, that take each job."""
    return {
        job.name: [n for n, press in enumerate(presses) if why_not(job, press) is None]
        for job in jobs
    }


def unplaced(jobs: Sequence[PlanJob], presses: Sequence[PlanPress]) -> dict[str, str]:
    """Jobs that cannot be planned, with why: none fits, or what they wait for cannot be planned."""
    fits = fitting(jobs, presses)
    reasons = {job.name: _reason(job, presses) for job in jobs if not fits[job.name]}
    names = {job.name for job in jobs}
    left = [job for job in jobs if job.name not in reasons]
    while True:
        held = {
            job.name: f"waits for {wait.job}, which is not planned"
            for job in left
            for wait in job.after
            if wait.job in reasons or wait.job not in names
        }
        if not held:
            return reasons | _in_circles(left)
        reasons |= held
        left = [job for job in left if job.name not in held]


def _reason(job: PlanJob, presses: Sequence[PlanPress]) -> str:
    found = {why_not(job, press) for press in presses}
    if found == {"too small"}:
        return "no press fits: larger than every press"
    if found == {"of another kind"}:
        return "no press fits: no press of its kind"
    return "no press fits"


def _in_circles(jobs: Sequence[PlanJob]) -> dict[str, str]:
    """Jobs that wait for each other in a circle, and what waits for those."""
    left = {job.name: {wait.job for wait in job.after} for job in jobs}
    while True:
        free = [name for name, waits in left.items() if not waits & left.keys()]
        if not free:
            return dict.fromkeys(left, "its steps wait for each other in a circle")
        for name in free:
            del left[name]
