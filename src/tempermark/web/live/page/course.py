"""A recording's last hour in memory, brought up to date by reading only what is new.

Every viewer of a press looks at the same course; each process keeps its own.
"""

import threading
from collections import OrderedDict
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tempermark.core.metrology.live.channels import ChannelFault, channel_faults, platen_level
from tempermark.core.metrology.live.loading import Dip, dips
from tempermark.core.metrology.live.soak import Soak, soak
from tempermark.core.metrology.live.thinning import thin
from tempermark.core.metrology.reading.fixed_points import correction_table
from tempermark.web.live.models import Recording
from tempermark.web.live.stream.moments import moment

KEPT_S = 3600.0
MOST_COURSES = 32
# What is shown as "now": the mean of this long.
NOW_S = 2.0


@dataclass(frozen=True)
class CourseState:
    """What the channels say together at the newest moment.

    `now_c` (channels,) in °C, NaN where silent; `level_c` (n,) the platen's mean at `time_s`.
    """

    now_c: np.ndarray
    faults: tuple[ChannelFault, ...]
    time_s: np.ndarray
    level_c: np.ndarray
    soak: Soak | None
    dips: tuple[Dip, ...]

    @property
    def left_out(self) -> tuple[int, ...]:
        """Channels that are not believed."""
        return tuple(f.channel for f in self.faults)

    @property
    def mean_c(self) -> float | None:
        """The platen's mean now, °C."""
        return float(self.level_c[-1]) if np.isfinite(self.level_c[-1:]).all() else None

    @property
    def open_dip(self) -> Dip | None:
        """A dip it has not come back from."""
        return self.dips[-1] if self.dips and self.dips[-1].recovery_s is None else None


@dataclass(frozen=True)
class RecordingCourse:
    """Blocks' extremes and means (n, channels) at times (n,) in s since 1970, and what they say."""

    time_s: np.ndarray
    low_c: np.ndarray
    mean_c: np.ndarray
    high_c: np.ndarray
    next_number: int = 0
    state: CourseState | None = None


def _nothing(channels: int) -> RecordingCourse:
    low, mean, high = (np.empty((0, channels)) for _ in range(3))
    return RecordingCourse(np.empty(0), low, mean, high)


def _continued(course: RecordingCourse, recording: Recording) -> RecordingCourse:
    """The course with blocks stored since; itself if there are none."""
    rows = recording.blocks.filter(first_number__gte=course.next_number)
    if not course.next_number and recording.last_at is not None:
        since = recording.last_at.timestamp() - KEPT_S
        rows = rows.filter(from_at__gte=moment(since))
    table = list(rows.values_list("first_number", "from_at", "low_c", "mean_c", "high_c"))
    if not table:
        return course
    fresh_s = np.array([row[1].timestamp() for row in table])
    time_s = np.concatenate([course.time_s, fresh_s])
    kept = time_s > time_s[-1] - KEPT_S
    low, mean, high = (
        np.vstack([old, corrected(recording, np.array([row[i] for row in table], float))])[kept]
        for i, old in ((2, course.low_c), (3, course.mean_c), (4, course.high_c))
    )
    state = state_of(time_s[kept], mean)
    return RecordingCourse(time_s[kept], low, mean, high, table[-1][0] + 1, state)


def corrected(recording: Recording, shown_c: np.ndarray) -> np.ndarray:
    """Figures (n, channels) with the logger's corrections; what is stored stays raw."""
    rows = recording.key.instrument.corrections
    if not rows or not len(shown_c):
        return shown_c
    there = np.isfinite(shown_c)
    moved = shown_c.copy()
    moved[there] += correction_table([tuple(row) for row in rows]).at(shown_c[there])
    return moved


def state_of(time_s: np.ndarray, mean_c: np.ndarray) -> CourseState:
    """Faults, level, soak and dips from means (n, channels) at times (n,)."""
    faults = channel_faults(time_s, mean_c)
    level = platen_level(mean_c, tuple(f.channel for f in faults))[:, None]
    seconds = thin(time_s, level, level, level, 1.0)
    recent = mean_c[time_s > time_s[-1] - NOW_S]
    there = np.isfinite(recent)
    with np.errstate(invalid="ignore"):
        now = np.where(there, recent, 0).sum(axis=0) / there.sum(axis=0)
    return CourseState(
        now_c=now,
        faults=faults,
        time_s=seconds.time_s,
        level_c=seconds.mean_c[:, 0],
        soak=soak(seconds.time_s, seconds.mean_c[:, 0]),
        dips=dips(seconds.time_s, seconds.mean_c[:, 0]),
    )


@dataclass
class _Shelf:
    """One recording's course, replaced whole, and the lock under which it is brought on."""

    course: RecordingCourse
    lock: threading.Lock = field(default_factory=threading.Lock)


_shelves: OrderedDict[tuple[Any, ...], _Shelf] = OrderedDict()
_shelves_lock = threading.Lock()


def course_of(recording: Recording) -> RecordingCourse:
    """The course of a recording, up to date."""
    # With the session, so that a room that was reset does not meet an old recording's number.
    name = (recording.pk, recording.session)
    with _shelves_lock:
        shelf = _shelves.setdefault(name, _Shelf(_nothing(recording.channels)))
        _shelves.move_to_end(name)
        while len(_shelves) > MOST_COURSES:
            _shelves.popitem(last=False)
    with shelf.lock:
        shelf.course = _continued(shelf.course, recording)
        return shelf.course
