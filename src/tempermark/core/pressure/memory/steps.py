"""Which strip to pull next on a press that is known, when the strips are enough, and the verdict
on the whole platen from a few.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.pressure.map.pulls import PULL_STEPS, PullResult, pull_survey
from tempermark.core.pressure.memory.kept import KeptPressure
from tempermark.core.pressure.memory.looks import strips_look
from tempermark.core.pressure.memory.recall import RecalledPressure, recall_pressure
from tempermark.core.pressure.press.spring import SpringPad

# Less sure that nothing has happened than this, the whole platen is pulled.
SURE_SAME = 0.5
# Of the chance that something happens, the best strip left would still settle this share: then the
# strips are enough. By `./tempermark bench adaptive`: five to six strips, about as many right
# verdicts as nine strips have.
TELLS_LEFT = 0.12
FEWEST_STRIPS = 4


@dataclass(frozen=True)
class StandingStrips:
    """Where a map of a known press stands after `count` strips: the station to pull next (its
    number in the list), None once they are enough; and the verdict, every station not pulled taken
    as the likeliest.
    """

    recalled: RecalledPressure
    count: int
    next_station: int | None
    pull: PullResult

    @property
    def is_enough(self) -> bool:
        """Whether the strips are enough; before that the verdict rests on memory alone."""
        return self.next_station is None


def look_on_strips(
    kept: KeptPressure, station_mm: np.ndarray, pulls: dict[int, str], pad: SpringPad
) -> StandingStrips:
    """What strips say so far that pulled so at some of the stations (s, 2) in mm."""
    read = sorted(pulls)
    named = [pulls[number] for number in read]
    now = strips_look(station_mm[read], named, pad) if read else None
    found = recall_pressure(kept, now, pad)
    left = [number for number in range(len(station_mm)) if number not in pulls]
    chance = found.pull_chance(station_mm)
    step = np.tensordot(found.weight, chance, axes=1).argmax(axis=1)
    for number, pull in pulls.items():
        step[number] = PULL_STEPS[pull]
    whole = pull_survey(*kept.size_mm, station_mm, step)
    telling = _tells_new(found.weight, chance[:, left])
    best = None
    if left and not _is_enough(found, len(read), float(telling.max())):
        best = left[int(telling.argmax())]
    return StandingStrips(found, len(read), best, whole)


def _is_enough(found: RecalledPressure, count: int, telling: float) -> bool:
    """Whether so many strips are enough. What has changed is mapped wholly."""
    settled = telling <= TELLS_LEFT * found.kept.rates.new_chance
    return count >= FEWEST_STRIPS and found.unchanged >= SURE_SAME and settled


def _tells_new(weight: np.ndarray, chance: np.ndarray) -> np.ndarray:
    """How much of the chance of a change a strip at each place (m,) is expected to settle where
    nothing is new: of each the share that its Bayes factor leaves, on average in its logarithm
    (the Kullback–Leibler divergence of its pulls, `chance` (1 + J + 1, m, 4)).
    """
    usual = chance[0]
    log_factor = (usual * (np.log(usual) - np.log(chance[1:]))).sum(axis=2)
    return np.asarray(weight[1:] @ (1 - np.exp(-log_factor)))


def strips_of_known(
    kept: KeptPressure, station_mm: np.ndarray, truth: list[str], pad: SpringPad
) -> tuple[StandingStrips, dict[int, str]]:
    """Walk a map of a known press whose strips would pull as `truth` (s,) at the stations. For
    simulations; at the bench the technician pulls.
    """
    pulls: dict[int, str] = {}
    while True:
        standing = look_on_strips(kept, station_mm, pulls, pad)
        if standing.next_station is None:
            return standing, pulls
        pulls[standing.next_station] = truth[standing.next_station]
