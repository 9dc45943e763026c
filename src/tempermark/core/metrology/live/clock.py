"""A logger's clock against ours.

Figures cannot have been taken later than they arrived: a clock that says so is ahead, and its
times are moved back by as much. A late figure may be honest (sent again after a lost connection),
so a clock behind cannot be told from one. Times never run backwards within a recording.
"""

import numpy as np

# Transport and a second's disagreement are no matter.
ALLOWED_AHEAD_S = 2.0
# Two figures of one recording are never at the same moment.
LEAST_STEP_S = 1e-3


def settled(
    time_s: np.ndarray, arrived_s: float, shift_s: float, after_s: float | None
) -> tuple[np.ndarray, float]:
    """Times (n,) that can be, and the shift now taken off the logger's clock.

    `time_s` as the logger says; `shift_s` found before; `after_s` the last time kept. A clock
    that runs ahead, or that was set back in mid-recording, is shifted so that the last figure
    was taken when it arrived; once its times are possible again the shift is given up.
    """
    last = float(time_s[-1])
    if shift_s > 0 and last <= arrived_s + ALLOWED_AHEAD_S:
        shift_s = 0.0
    set_back = after_s is not None and float(time_s[0]) - shift_s <= after_s
    if set_back or last - shift_s > arrived_s + ALLOWED_AHEAD_S:
        shift_s = last - arrived_s
    moved = np.maximum.accumulate(time_s - shift_s)
    if after_s is not None and moved[0] <= after_s:
        moved = np.maximum(moved, after_s + LEAST_STEP_S * np.arange(1, len(moved) + 1))
    return moved, shift_s
