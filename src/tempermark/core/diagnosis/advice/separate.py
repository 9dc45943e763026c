"""Whether what was seen may be one fault: things that some cause shows together belong together."""

import numpy as np
from scipy.sparse.csgraph import connected_components

from tempermark.core.diagnosis.case import Observation

# Two things belong together where a cause at work shows each of them at least this often.
LINKED_FROM = 0.1
# Two faults on one piece are common and are weighed together; of three one is traced at a time.
FEWEST_GROUPS = 3


def separate_groups(
    seen: list[Observation], strengths: list[np.ndarray]
) -> list[list[Observation]]:
    """Groups of observations that no cause links, the severest first; none below three groups.

    `strengths` (F,) of each cause: the chance 0–1 that it shows each thing seen. What no cause
    shows is told elsewhere and is no group.
    """
    if len(seen) < FEWEST_GROUPS:
        return []
    shows = np.array(strengths) >= LINKED_FROM
    linked = (shows[:, :, None] & shows[:, None, :]).any(axis=0)
    same = np.array([[a.symptom == b.symptom for b in seen] for a in seen])
    _, group_of = connected_components(linked | same, directed=False)
    groups = [
        [o for o, group in zip(seen, group_of, strict=True) if group == number]
        for number in dict.fromkeys(group_of)
        if shows[:, group_of == number].any()
    ]
    return groups if len(groups) >= FEWEST_GROUPS else []
