"""Live readings in words."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils import timezone

from tempermark.core.metrology.live.channels import FAR, SILENT, ChannelFault
from tempermark.core.metrology.live.loading import Dip
from tempermark.core.metrology.live.soak import Soak
from tempermark.web.kit.drawing.places import place_words
from tempermark.web.kit.figures import difference_text, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.live.page.queries import LiveView
from tempermark.web.live.stream.moments import moment

WARMS_FROM_C_PER_MIN = 1.0
# A dip is the news for this long after recovery; its rise is no warming up.
RECENT_S = 90.0


@dataclass(frozen=True)
class LiveSummary:
    """The sentence, what stands beside it, warnings, and the last dips."""

    headline: str
    rest: str
    warnings: tuple[str, ...]
    dips: tuple[dict[str, Any], ...]
    may_keep: bool


def summary(view: LiveView, units: Units, now: datetime) -> LiveSummary:
    """What a live view says."""
    headline, rest = _headline(view, units)
    return LiveSummary(
        headline=headline,
        rest=rest,
        warnings=tuple(_warnings(view, units)),
        dips=tuple(_dip(d, units) for d in reversed(view.state.dips[-6:])) if view.state else (),
        may_keep=bool(
            view.state and view.state.soak and view.state.soak.soaked and not view.silent
        ),
    )


def duration(seconds: float) -> str:
    """`40 s`, `4 min`, `2 h 10 min`."""
    if seconds < 90:
        return f"{seconds:.0f} s"
    if seconds < 5400:
        return f"{int(seconds // 60)} min"
    return f"{int(seconds // 3600)} h {int(seconds % 3600 // 60)} min"


def _headline(view: LiveView, units: Units) -> tuple[str, str]:
    name = view.element.press.name
    state = view.state
    if view.silent:
        since = duration(view.silent_s)
        return (
            f"{name}’s logger has been silent for {since}.",
            "The readings below are from before that.",
        )
    if state is None or state.mean_c is None:
        return f"No channel on {name} gives a temperature.", ""
    mean = temperature_text(state.mean_c, units, 1)
    dip = state.open_dip
    if dip is not None:
        depth = difference_text(dip.depth_c, units, 1, sign=False)
        since = duration(state.time_s[-1] - dip.start_s)
        return (
            f"{name} dipped by {depth} and is not back after {since}.",
            f"Now {mean}. A dip is normal if it comes back within the dwell.",
        )
    last = state.dips[-1] if state.dips else None
    if last and state.time_s[-1] - last.start_s - last.recovery_s < RECENT_S:
        depth = difference_text(last.depth_c, units, 1, sign=False)
        return (
            f"{name} is at {mean}, back from a dip of {depth} after {duration(last.recovery_s)}.",
            "A dip that comes back within the dwell is normal.",
        )
    if state.soak is None:
        return (
            f"{name} is at {mean}.",
            "After a minute of readings you will see whether it is steady.",
        )
    return _steady(name, state.soak, mean, units)


def _steady(name: str, soak: Soak, mean: str, units: Units) -> tuple[str, str]:
    slope = difference_text(soak.slope_c_per_min, units, 1)
    if abs(soak.slope_c_per_min) >= WARMS_FROM_C_PER_MIN:
        verb = "warming" if soak.slope_c_per_min > 0 else "cooling"
        return f"{name} is {verb}: {mean}, {slope} a minute.", "Wait with surveys and pieces."
    level = temperature_text(soak.level_c, units, 1)
    swing = difference_text(soak.swing_c, units, 1, sign=False)
    since = duration(soak.steady_s)
    rest = f"Mean of the platen over the last minute; the controller swings it by ± {swing}."
    if soak.soaked:
        return f"{name} is at {level}, steady for {since}.", rest
    return (
        f"{name} is at {level}, steady for {since}: not soaked yet.",
        rest + " A survey needs 5 minutes.",
    )


def _warnings(view: LiveView, units: Units) -> Iterator[Any]:
    recording = view.recording
    shift = recording.clock_shift_s
    if shift > 0:
        yield (
            f"The logger’s clock is {duration(shift)} fast. Its times are corrected for that, to "
            "within seconds. Set its clock."
        )
    elif shift < 0:
        yield (
            f"The logger’s clock was set back by {duration(-shift)}. Its times carry on from the "
            "last one, to within seconds."
        )
    for fault in view.state.faults if view.state else ():
        yield _fault(fault, view, units)
    if recording.missing:
        share = recording.missing / (recording.missing + recording.samples)
        yield (
            f"{recording.missing} samples ({share:.1%}) were never sent: short dips may be missing."
        )
    overdue = recording.key.instrument.days_overdue(timezone.localdate())
    if overdue:
        yield (
            f"{recording.key.instrument.name} is {overdue} days past its check: a survey taken "
            "with it counts its uncertainty twice."
        )


def _fault(fault: ChannelFault, view: LiveView, units: Units) -> str:
    x, y = view.recording.key.places[fault.channel]
    element = view.element
    where = place_words(x / element.width_mm, y / element.height_mm)
    name = f"Channel {fault.channel + 1} ({where})"
    since = duration(view.course.time_s[-1] - fault.since_s)
    if fault.kind == SILENT:
        return f"{name} has been silent for {since}. It is left out of the mean and the map."
    value = temperature_text(fault.value_c, units, 1)
    if fault.kind == FAR:
        return (
            f"{name} shows {value}, far from the others. It is left out of the mean and the map. "
            "Has it come off the platen?"
        )
    return (
        f"{name} has repeated {value} for {since} while the others change. "
        "It is left out of the mean and the map. Check its plug and lead."
    )


def _dip(dip: Dip, units: Units) -> dict[str, Any]:
    began = timezone.localtime(moment(dip.start_s))
    back = "not back" if dip.recovery_s is None else f"back after {duration(dip.recovery_s)}"
    return {
        "at": f"{began:%H:%M:%S}",
        "before": temperature_text(dip.before_c, units, 1),
        "depth": difference_text(-dip.depth_c, units, 1),
        "deepest": duration(dip.deepest_after_s),
        "back": back,
        "recovered": dip.recovery_s is not None,
    }
