"""A recording's last hour in memory, brought up to date by reading only what is new.

Every viewer of a press looks at the same course; each process keeps its own.
"""

import threading
from collections import OrderedDict
from dataclasses import dataclass, field

import numpy as np

from tempermark.core.metrology.fixed_points import correction_table
from tempermark.core.metrology.live.channels import ChannelFault, channel_faults, platen_level
from tempermark.core.metrology.live.loading import Dip, dips
from tempermark.core.metrology.live.soak import Soak, soak
from tempermark.core.metrology.live.thinning import thin
from tempermark.web.live.models import Recording
from tempermark.web.live.moments import moment

KEPT_S = 3600.0
MOST_COURSES = 32
# What is shown as "now": the mean of this long.
NOW_S = 2.0


@dataclass(frozen=True)
class State:
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


@dataclass
class Course:
    """Blocks' extremes and means (n, channels) at times (n,) in s since 1970."""

    recording: int
    channels: int
    next_number: int = 0
    time_s: np.ndarray = field(default_factory=lambda: np.empty(0))
    low_c: np.ndarray = field(init=False)
    mean_c: np.ndarray = field(init=False)
    high_c: np.ndarray = field(init=False)
    state: State | None = None
    lock: threading.Lock = field(default_factory=threading.Lock)

    def __post_init__(self):
        """Empty arrays of the right width."""
        self.low_c, self.mean_c, self.high_c = (np.empty((0, self.channels)) for _ in range(3))

    def update(self, recording: Recording) -> None:
        """Take in blocks stored since; computes the state anew if there were any."""
        rows = recording.blocks.filter(first_number__gte=self.next_number)
        if not self.next_number and recording.last_at is not None:
            since = recording.last_at.timestamp() - KEPT_S
            rows = rows.filter(from_at__gte=moment(since))
        table = list(rows.values_list("first_number", "from_at", "low_c", "mean_c", "high_c"))
        if not table:
            return
        self.next_number = table[-1][0] + 1
        fresh_s = np.array([row[1].timestamp() for row in table])
        time_s = np.concatenate([self.time_s, fresh_s])
        kept = time_s > time_s[-1] - KEPT_S
        self.time_s = time_s[kept]
        for name, column in (("low_c", 2), ("mean_c", 3), ("high_c", 4)):
            fresh = corrected(recording, np.array([row[column] for row in table], dtype=float))
            setattr(self, name, np.vstack([getattr(self, name), fresh])[kept])
        self.state = state_of(self.time_s, self.mean_c)


def corrected(recording: Recording, shown_c: np.ndarray) -> np.ndarray:
    """Figures (n, channels) with the logger's corrections; what is stored stays raw."""
    rows = recording.key.instrument.corrections
    if not rows or not len(shown_c):
        return shown_c
    there = np.isfinite(shown_c)
    moved = shown_c.copy()
    moved[there] += correction_table([tuple(row) for row in rows]).at(shown_c[there])
    return moved


def state_of(time_s: np.ndarray, mean_c: np.ndarray) -> State:
    """Faults, level, soak and dips from means (n, channels) at times (n,)."""
    faults = channel_faults(time_s, mean_c)
    level = platen_level(mean_c, tuple(f.channel for f in faults))[:, None]
    seconds = thin(time_s, level, level, level, 1.0)
    recent = mean_c[time_s > time_s[-1] - NOW_S]
    there = np.isfinite(recent)
    with np.errstate(invalid="ignore"):
        now = np.where(there, recent, 0).sum(axis=0) / there.sum(axis=0)
    return State(
        now_c=now,
        faults=faults,
        time_s=seconds.time_s,
        level_c=seconds.mean_c[:, 0],
        soak=soak(seconds.time_s, seconds.mean_c[:, 0]),
        dips=dips(seconds.time_s, seconds.mean_c[:, 0]),
    )


_courses: OrderedDict[int, Course] = OrderedDict()
_courses_lock = threading.Lock()


def course_of(recording: Recording) -> Course:
    """The course of a recording, up to date."""
    with _courses_lock:
        course = _courses.setdefault(recording.pk, Course(recording.pk, recording.channels))
        _courses.move_to_end(recording.pk)
        while len(_courses) > MOST_COURSES:
            _courses.popitem(last=False)
    with course.lock:
        course.update(recording)
    return course
