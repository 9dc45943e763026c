"""Runs tended by the people who are there.

Rule: while a dwell runs by itself, a person loads another press. A run needs its share of a person
(handling ÷ cycle), and people are given out up to ``MOST_BUSY`` each: beyond that, loads wait for
hands longer than their dwells hide.
"""

from collections.abc import Mapping, Sequence

from tempermark.core.planning.day import PlanJob, PlannedRun, SequencedDay, change_between
from tempermark.core.planning.duty import SAME_TIME_MIN, Hands

# Share of a person's time that can be given to loads: made-up presses with random cycles, tended
# up to here, lose a tenth of their time to waiting at most in the mean (tests/core/planning).
MOST_BUSY = 0.8


def share_of(job: PlanJob) -> float:
    """The share (0 to ``MOST_BUSY``) of a person that a run needs."""
    return min(job.handling_s / (job.dwell_s + job.handling_s), MOST_BUSY)


def tended(
    day: SequencedDay, hands: Hands, settings_c: Mapping[str, float], wanted: Sequence[str]
) -> list[PlannedRun]:
    """Runs at these settings in °C, each as early as its press, what it waits for and hands allow;
    those that are ``wanted`` first are served first. In the order of their start. Raises ValueError
    for orders that wait for each other.
    """
    done: dict[str, PlannedRun] = {}
    left = {press: list(order) for press, order in day.order.items() if order}
    places = {name: n for n, name in enumerate(wanted)}
    last: dict[str, PlannedRun] = {}
    while left:
        ready = [
            (places[order[0]], press)
            for press, order in left.items()
            if all(w.job in done or w.job not in day.jobs for w in day.jobs[order[0]].after)
        ]
        if not ready:
            raise ValueError("The orders of the presses wait for each other.")
        press = min(ready)[1]
        name = left[press].pop(0)
        run = _tended(day, hands, press, name, last.get(press), settings_c, done)
        done[name] = last[press] = run
        if not left[press]:
            del left[press]
    return sorted(done.values(), key=lambda run: (run.start_min, run.press))


def _tended(
    day: SequencedDay,
    hands: Hands,
    press_name: str,
    name: str,
    before: PlannedRun | None,
    settings_c: Mapping[str, float],
    done: Mapping[str, PlannedRun],
) -> PlannedRun:
    press, job = day.presses[press_name], day.jobs[name]
    change = change_between(
        press,
        None if before is None else day.jobs[before.job],
        press.start_c if before is None else before.set_c,
        job,
        settings_c[name],
    )
    free = max(press.free_from_min, hands.opens_min) if before is None else before.end_min
    waits = [done[w.job].end_min + w.minutes for w in job.after if w.job in done]
    earliest = max([free + change, job.release_min, *waits])
    start = _with_hands(hands, day.jobs, list(done.values()), job, earliest)
    end = hands.ended(start, job.run_min)
    return PlannedRun(name, press_name, settings_c[name], change, start, end)


def _with_hands(
    hands: Hands,
    jobs: Mapping[str, PlanJob],
    done: Sequence[PlannedRun],
    job: PlanJob,
    earliest: float,
) -> float:
    """The first minute from which hands are free for a run until its end."""
    later = {run.end_min for run in done} | {span.from_min for span in hands.spans}
    for minute in sorted({earliest, *(at for at in later if at > earliest)}):
        start = hands.begun(minute)
        end = hands.ended(start, job.run_min)
        if _are_free(hands, jobs, done, share_of(job), start, end):
            return start
    raise ValueError("Nobody is there to run it.")


def _are_free(
    hands: Hands,
    jobs: Mapping[str, PlanJob],
    done: Sequence[PlannedRun],
    share: float,
    start: float,
    end: float,
) -> bool:
    here = [r for r in done if r.start_min < end - SAME_TIME_MIN and r.end_min > start]
    bends = {start, *(run.start_min for run in here), *(span.from_min for span in hands.spans)}
    return all(
        share
        + sum(
            share_of(jobs[run.job])
            for run in here
            if run.start_min <= at + SAME_TIME_MIN and run.end_min > at + SAME_TIME_MIN
        )
        <= hands.people_at(at) * MOST_BUSY + SAME_TIME_MIN
        for at in bends
        if start - SAME_TIME_MIN <= at < end - SAME_TIME_MIN
    )
