"""A survey from live readings."""

from uuid import uuid4

import numpy as np
from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.metrology.live.soak import SMOOTH_S
from tempermark.web.accounts.models import User
from tempermark.web.live.models import Recording
from tempermark.web.live.page.queries import LiveView
from tempermark.web.live.stream.moments import moment
from tempermark.web.measure.instruments.instruments import header_of
from tempermark.web.measure.models import Method, Reading, Survey
from tempermark.web.measure.surveys import actions as surveys
from tempermark.web.measure.surveys.grids import GridPlace

# A minute's mean of a contact channel hardly repeats worse than this.
REPEATABILITY_C = 0.3


@transaction.atomic
def keep_survey(user: User, view: LiveView, set_c: float) -> Survey:
    """The last minute's means of the channels that can be believed, as a finished survey.

    InputError when the platen is not soaked, or no channel is left.
    """
    state = view.state
    if view.silent or state is None or state.soak is None or not state.soak.soaked:
        raise InputError.single(None, "Not steady for 5 minutes yet: wait, then keep it.")
    means = minute_means(view.recording)
    kept = [i for i, value in enumerate(means) if np.isfinite(value) and i not in state.left_out]
    if not kept:
        raise InputError.single(None, "No channel can be trusted at the moment.")
    press, recording = view.element.press, view.recording
    header = header_of(recording.key.instrument, timezone.localdate()) | {
        "grid": "own",
        "method": Method.CONTACT,
        "set_c": set_c,
        "target_c": press.target_c,
        "tolerance_c": press.tolerance_c,
        "soak_min": round(state.soak.steady_s / 60, 1),
        "repeatability_c": REPEATABILITY_C,
        "note": f"Saved from live readings, means over {SMOOTH_S:.0f} s.",
    }
    places = [GridPlace(f"L{i + 1}", *recording.key.places[i]) for i in kept]
    survey = surveys.start_survey(user, view.element, header, places)
    for station, channel in zip(survey.stations.order_by("order"), kept, strict=True):
        Reading.objects.create(
            station=station,
            entry_key=uuid4(),
            typed=f"{means[channel]:.2f} c",
            shown_c=float(means[channel]),
            read_by=user,
        )
    return surveys.finish(user, survey)


def minute_means(recording: Recording) -> np.ndarray:
    """Means (channels,) of the raw figures of the last minute; NaN where there are none."""
    since = moment(recording.last_at.timestamp() - SMOOTH_S)
    rows = recording.blocks.filter(from_at__gte=since).values_list("readings_c", flat=True)
    raw = np.array([sample for block in rows for sample in block], dtype=float)
    raw = raw.reshape(-1, recording.channels)
    there = np.isfinite(raw)
    with np.errstate(invalid="ignore"):
        return np.asarray(np.where(there, raw, 0).sum(axis=0) / there.sum(axis=0))
