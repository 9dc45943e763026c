"""Hands that are free for a run.

Rule: while a dwell runs by itself, a person loads another press. A run needs its share of a person
(handling ÷ cycle), and people are given out up to ``MOST_BUSY`` each: beyond that, loads wait for
hands longer than their dwells hide.
"""

from collections.abc import Mapping, Sequence

from tempermark.core.planning.day import PlanJob, PlannedRun
from tempermark.core.planning.duty import SAME_TIME_MIN, Hands

# Share of a person's time that can be given to loads: made-up presses with random cycles, tended
# up to here, lose a tenth of their time to waiting at most in the mean (tests/core/planning).
MOST_BUSY = 0.8


def share_of(job: PlanJob) -> float:
    """The share (0 to ``MOST_BUSY``) of a person that a run needs."""
    return min(job.handling_s / (job.dwell_s + job.handling_s), MOST_BUSY)


def first_with_hands(
    hands: Hands,
    jobs: Mapping[str, PlanJob],
    done: Sequence[PlannedRun],
    job: PlanJob,
    earliest: float,
) -> float:
    """The first minute (min) from which hands are free for a run until its end, beside those that
    are ``done``.
    """
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
