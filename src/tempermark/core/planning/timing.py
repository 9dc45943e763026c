"""When runs begin and end whose order and settings are known: each as early as it can."""

from collections.abc import Mapping
from dataclasses import replace

from tempermark.core.planning.day import PlannedRun, SequencedDay, change_between
from tempermark.core.planning.tending import first_with_hands


def timed_runs(day: SequencedDay, settings_c: Mapping[str, float]) -> list[PlannedRun]:
    """Runs at these settings in °C, each begun as soon as its press, what it waits for and hands
    allow; hands go to those first that are ``day.wanted`` first. In the order of their start, times
    in minutes (min). Raises ValueError for orders that wait for each other.
    """
    wanted = {name: n for n, name in enumerate(day.wanted)}
    done: dict[str, PlannedRun] = {}
    last: dict[str, PlannedRun] = {}
    left = {press: list(order) for press, order in day.order.items() if order}
    while left:
        ready = []
        for press, order in left.items():
            waits = day.jobs[order[0]].after
            if all(wait.job in done or wait.job not in day.jobs for wait in waits):
                earliest = _earliest(day, press, order[0], last.get(press), settings_c, done)
                ready.append(
                    (wanted.get(order[0], len(wanted)), earliest.start_min, press, earliest)
                )
        if not ready:
            raise ValueError("The orders of the presses wait for each other.")
        _, _, press, run = min(ready, key=lambda found: found[:3])
        done[run.job] = last[press] = _tended(day, run, done)
        left[press].pop(0)
        if not left[press]:
            del left[press]
    return sorted(done.values(), key=lambda run: (run.start_min, run.press))


def _earliest(
    day: SequencedDay,
    press_name: str,
    name: str,
    before: PlannedRun | None,
    settings_c: Mapping[str, float],
    done: Mapping[str, PlannedRun],
) -> PlannedRun:
    """A run as early as its press and what it waits for allow."""
    press, job = day.presses[press_name], day.jobs[name]
    if before is None:
        opens_min = day.hands.opens_min if day.hands else 0.0
        free_min = max(press.free_from_min, opens_min)
        change = change_between(press, None, press.start_c, job, settings_c[name])
    else:
        free_min = before.end_min
        change = change_between(press, day.jobs[before.job], before.set_c, job, settings_c[name])
    waits = [done[w.job].end_min + w.minutes for w in job.after if w.job in done]
    start = max([free_min + change, job.release_min, *waits])
    return PlannedRun(name, press_name, settings_c[name], change, start, start + job.run_min)


def _tended(day: SequencedDay, run: PlannedRun, done: Mapping[str, PlannedRun]) -> PlannedRun:
    """The same run as soon as hands are free for it."""
    if day.hands is None:
        return run
    job = day.jobs[run.job]
    start = first_with_hands(day.hands, day.jobs, list(done.values()), job, run.start_min)
    end = day.hands.ended(start, job.run_min)
    return replace(run, start_min=start, end_min=end)
