"""Reading recordings."""

from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np
from django.db.models import QuerySet

from tempermark.core.metrology.live.thinning import Thinned, thin
from tempermark.web.live.models import LoggerKey, Recording
from tempermark.web.live.page.course import (
    KEPT_S,
    CourseState,
    RecordingCourse,
    corrected,
    course_of,
)
from tempermark.web.live.stream.moments import moment
from tempermark.web.presses.models import Element

# Minutes one can look back over, and into how many points that is thinned.
WINDOWS_MIN = (5, 15, 60, 480)
DEFAULT_WINDOW_MIN = 15
POINTS = 300
# A logger from which nothing came for this long is called silent, then gone.
SILENT_AFTER_S = 4.0
GONE_AFTER = timedelta(minutes=10)


@dataclass(frozen=True)
class LiveView:
    """A recording as it stands: its course, what it says, and how long ago it last spoke."""

    recording: Recording
    element: Element
    course: RecordingCourse
    state: CourseState | None
    silent_s: float

    @property
    def silent(self) -> bool:
        """Whether figures should have come and did not."""
        return self.silent_s > SILENT_AFTER_S


def key_on(element: Element) -> LoggerKey | None:
    """The key of the logger that stands on an element now."""
    return element.logger_keys.filter(ended_at=None).select_related("instrument").first()


def recordings(element: Element) -> QuerySet[Recording]:
    """Recordings of an element that brought anything, newest first."""
    return (
        Recording.objects.filter(key__element=element, samples__gt=0)
        .select_related("key__instrument", "key__element")
        .order_by("-last_at", "-pk")
    )


def live(element: Element, now: datetime) -> LiveView | None:
    """What the newest recording says, if it is not long over."""
    recording = recordings(element).filter(last_at__gte=now - GONE_AFTER).first()
    if recording is None:
        return None
    course = course_of(recording)
    silent_s = (now - recording.last_at).total_seconds()
    return LiveView(recording, element, course, course.state, silent_s)


def traces(view: LiveView, window_min: int) -> Thinned:
    """The recording's channels over the last minutes, thinned for drawing."""
    end = view.recording.last_at.timestamp()
    since = end - window_min * 60
    young_s = end - view.recording.started_at.timestamp()
    bucket_s = max(1.0, min(window_min * 60.0, young_s) / POINTS)
    if window_min * 60 <= KEPT_S:
        course = view.course
        recent = course.time_s >= since
        parts = (course.time_s, course.low_c, course.mean_c, course.high_c)
        low, mean, high = (part[recent] for part in parts[1:])
        return thin(parts[0][recent], low, mean, high, bucket_s)
    rows = view.recording.minutes.filter(at__gte=moment(since)).values_list(
        "at", "low_c", "mean_c", "high_c"
    )
    table = list(rows)
    time_s = np.array([row[0].timestamp() + 30.0 for row in table])
    width = view.recording.channels
    columns = [
        corrected(view.recording, np.array([r[i] for r in table], float).reshape(-1, width))
        for i in (1, 2, 3)
    ]
    low, mean, high = columns
    return thin(time_s, low, mean, high, bucket_s)
