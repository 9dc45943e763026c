"""What a bench sends, into the log and from there into pieces: each entry once, in order."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID, uuid5

from django.db import transaction
from django.db.models import F, QuerySet
from django.http import Http404
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.preparing.heat.changeover import LEAST_CHANGE_K
from tempermark.core.pressing.press_record import ClosedSpan, PressRecord, press_record
from tempermark.files.bench.run_entries import Rejected, RunEntries, RunEntry
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.bench import actions
from tempermark.web.bench.clocks import SKEW_S, TapTime, as_one_clock
from tempermark.web.bench.known import known_of_press, main_pressure
from tempermark.web.jobs import actions as jobs
from tempermark.web.jobs.models import Job, PlatenChange
from tempermark.web.kit.records.prepared import Prepared, by_key
from tempermark.web.measure.press.press_temperature import press_temperature
from tempermark.web.presses import actions as presses
from tempermark.web.presses.models import Element
from tempermark.web.recipes.cards.queries import version_by_key
from tempermark.web.recipes.models import Blank, PressedStep
from tempermark.web.run.models import (
    EntryKind,
    LogEntry,
    PieceOutcome,
    Run,
    TestPress,
)
from tempermark.web.run.pieces import actions as pieces
from tempermark.web.run.record.log import append

# An outcome of the bench → that of the piece, and its grade.
OUTCOMES = {
    "open": (PieceOutcome.OPEN, ""),
    "good": (PieceOutcome.GOOD, ""),
    "second": (PieceOutcome.FAULTY, "second"),
    "spoiled": (PieceOutcome.FAULTY, "spoiled"),
    "faulty": (PieceOutcome.FAULTY, ""),
}
NO_CLOSING = "The closing of this press did not arrive: log it by hand."


@dataclass(frozen=True)
class Receipt:
    """What became of an entry: kept, kept before, or refused and why."""

    key: str
    state: str
    why: str = ""


@dataclass(frozen=True)
class Arrival:
    """One batch as it arrives: who sent it, for which run, and what its clock is off by, s."""

    user: User
    run: Run
    shift_s: float

    def moment(self, at_s: float) -> datetime:
        """When something was done by the server's clock; never later than now."""
        at = datetime.fromtimestamp(at_s, UTC) + timedelta(seconds=self.shift_s)
        return min(at, timezone.now())


# What an entry reads by key or looks for, each tens of times a second in a full room.
HELD_RUN = Prepared(lambda pk: Run.objects.select_for_update().filter(pk=pk), pk=int)
JOB, BLANK, ELEMENT = by_key(Job), by_key(Blank), by_key(Element)
KEPT_BEFORE = Prepared(
    lambda key: LogEntry.objects.filter(entry_key=key).values_list("pk"), key=UUID
)


@transaction.atomic
def receive(user: User, run_pk: int, sent: RunEntries) -> list[Receipt]:
    """Take entries into the log of a run; what was kept before is answered as such. Raises Http404
    where there is no such run.
    """
    must_work(user)
    off_s = timezone.now().timestamp() - sent.sent_at_s
    run = HELD_RUN.first(pk=run_pk)
    if run is None:
        raise Http404("There is no such run.")
    _read(run, {entry.kind for entry in sent.entries if isinstance(entry, RunEntry)})
    arrival = Arrival(user, run, off_s if abs(off_s) > SKEW_S else 0.0)
    # One alone is undone with the transaction: it needs no savepoint.
    is_alone = len(sent.entries) == 1
    return [_receipt(arrival, entry, is_alone) for entry in sent.entries]


def _read(run: Run, kinds: set[str]) -> None:
    """What entries of some kinds need to know of their run."""
    if kinds & {"closed", "opened"}:
        job = run.job = JOB.only(pk=run.job_id)
        job.recipe = version_by_key(job.recipe_id)
    if "opened" in kinds:
        run.job.blank = BLANK.only(pk=run.job.blank_id)
    if kinds & {"opened", "set"}:
        run.element = ELEMENT.only(pk=run.element_id)


def _receipt(arrival: Arrival, entry: RunEntry | Rejected, is_alone: bool) -> Receipt:
    if isinstance(entry, Rejected):
        return Receipt(entry.key, "refused", entry.why)
    key = str(entry.key)
    if KEPT_BEFORE.exists(key=entry.key):
        return Receipt(key, "again")
    try:
        with transaction.atomic(savepoint=not is_alone):
            _keep(arrival, entry)
    except InputError as refused:
        return Receipt(key, "refused", str(refused))
    return Receipt(key, "kept")


def _keep(arrival: Arrival, entry: RunEntry) -> None:
    """The entry as it was sent, of the run; what follows for its pieces has entries of its own."""
    at = arrival.moment(entry.at_s)
    corrects = _corrected(arrival, entry)
    APPLIED[entry.kind](arrival, entry, at)
    append(
        arrival.user,
        EntryKind(entry.kind),
        entry.detail,
        run=arrival.run,
        corrects=corrects,
        at=at,
        key=entry.key,
        clock_shift_s=arrival.shift_s,
    )


def _corrected(arrival: Arrival, entry: RunEntry) -> LogEntry | None:
    """The earlier entry of this run that this one corrects."""
    key = entry.detail.get("corrects")
    if key is None:
        return None
    found = LogEntry.objects.filter(run=arrival.run, entry_key=UUID(key)).first()
    if found is None:
        raise InputError.single("corrects", "The entry that this corrects is not in the log.")
    return found


def _set(arrival: Arrival, entry: RunEntry, at: datetime) -> None:
    """The dial is set: from now on it is known, and the platen's change is timed."""
    set_c, element = entry.detail.get("set_c"), arrival.run.element
    press = element.press
    if set_c is None or press.dial_c == set_c:
        return
    known = press_temperature(element, timezone.now())
    if known is not None and press.dial_c is not None:
        from_c, to_c = (float(known.line.true_c(c)) for c in (press.dial_c, set_c))
        if abs(to_c - from_c) >= LEAST_CHANGE_K:
            jobs.begin_change(arrival.user, element, from_c, to_c, entry.key, at)
    presses.use_setting(arrival.user, press, set_c)


def _ready(arrival: Arrival, entry: RunEntry, at: datetime) -> None:
    """The platen is at its setting: a change that was timed is over."""
    change = PlatenChange.objects.filter(
        element=arrival.run.element, there_at=None, given_up_at=None
    ).first()
    if change is not None:
        jobs.end_change(arrival.user, change, is_there=True, at=at)


def _closed(arrival: Arrival, entry: RunEntry, at: datetime) -> None:
    """The press closes; what it amounts to is known once it opens."""
    _pressed_step(arrival, entry.detail["step"])


def _pressed_step(arrival: Arrival, number: int) -> PressedStep:
    version = arrival.run.job.recipe
    steps = version.sheet.steps
    if number >= len(steps) or not steps[number].is_heated:
        raise InputError.single("step", f"Step {number + 1} of this recipe is not pressed.")
    return version.pressed(number)


def _opened(arrival: Arrival, entry: RunEntry, at: datetime) -> None:
    """The press opens; after its last closing every piece of the load is logged."""
    if not entry.detail["is_last"]:
        return
    taps = _taps(arrival.run, entry.detail["press"])
    if not taps:
        raise InputError.single("press", NO_CLOSING)
    first = taps[0].detail
    step = _pressed_step(arrival, first["step"])
    now = TapTime(at.timestamp(), arrival.shift_s)
    found = press_record(_closings(taps, now, _planned_s(arrival.run, step)))
    began = min(datetime.fromtimestamp(found.began_s, UTC), timezone.now())
    for position, number in enumerate(first["pieces"]):
        data = _logged(arrival.run, step, first, found, position)
        pieces.log_test_press(
            arrival.user,
            arrival.run.element,
            data | {"piece": actions.piece_of_run(arrival.run, number), "pressed_at": began},
            uuid5(UUID(first["press"]), str(number)),
        )


def _taps(run: Run, press: str) -> list[LogEntry]:
    kinds = (EntryKind.CLOSED, EntryKind.OPENED)
    return list(LogEntry.objects.filter(run=run, kind__in=kinds, detail__press=press))


def _closings(taps: list[LogEntry], last: TapTime, planned_s: float) -> list[ClosedSpan]:
    """Closed and opened in turn; the last is opened now."""
    times = [TapTime(tap.at.timestamp(), tap.clock_shift_s) for tap in taps]
    moments = as_one_clock([*times, last], planned_s)
    in_turn = sorted(zip(moments, taps, strict=False), key=lambda pair: pair[0])
    found, closed_s = [], None
    for at_s, tap in in_turn:
        if tap.kind == EntryKind.CLOSED:
            closed_s = at_s if closed_s is None else closed_s
        elif closed_s is not None:
            found.append(ClosedSpan(closed_s, at_s))
            closed_s = None
    if closed_s is not None:
        found.append(ClosedSpan(closed_s, moments[-1]))
    return found


def _planned_s(run: Run, step: PressedStep) -> float:
    middle_s = (step.low_s + step.high_s) / 2
    return middle_s if step.number is not None else float(run.settings.get("dwell_s", middle_s))


def _logged(
    run: Run, step: PressedStep, first: dict[str, Any], found: PressRecord, position: int
) -> dict[str, Any]:
    """What was set and done, by field of a press."""
    places = run.places_mm
    place_mm = places[position] if position < len(places) else (0.0, 0.0)
    pressure = main_pressure(run) if step.number is None else step.pressure
    placing = first.get("placing", 0)
    humidity = run.job.relative_humidity
    return {
        **known_of_press(run.element, run.job, step, place_mm),
        "run": run,
        "set_c": first["set_c"],
        "dwell_s": round(found.dwell_s, 1),
        "closures": found.closings,
        "open_s": round(found.open_s, 1),
        "placing": run.placings[placing] if placing < len(run.placings) else "",
        "pressure": pressure or "unknown",
        "relative_humidity": None if humidity is None else 100 * humidity,
        "note": "",
    }


def _speaks_for_piece(run: int, number: int) -> QuerySet[TestPress]:
    newest_main = F("step_number").asc(nulls_first=True)
    presses = TestPress.objects.filter(piece__run=run, piece__number=number)
    return presses.order_by(newest_main, "-pressed_at", "-pk")[:1]


SPEAKS_FOR_PIECE = Prepared(_speaks_for_piece, run=int, number=int)


def _presses(arrival: Arrival, entry: RunEntry) -> list[TestPress]:
    """The press that speaks for each piece an entry is about: its last main press, else its last
    of any step.
    """
    found = []
    for number in entry.detail["pieces"]:
        last = SPEAKS_FOR_PIECE.first(run=arrival.run.pk, number=number)
        if last is None:
            raise InputError.single("pieces", f"Piece {number} was not pressed in this run.")
        found.append(last)
    return found


def _outcome(arrival: Arrival, entry: RunEntry, at: datetime) -> None:
    """How pieces came out; a symptom is marked on each."""
    outcome, grade = OUTCOMES[entry.detail["outcome"]]
    for press in _presses(arrival, entry):
        scored = pieces.Scored(
            outcome, grade, dict(press.scores), dict(press.zone_scores), press.density
        )
        pieces.score(arrival.user, press, scored, at)
        if entry.detail.get("symptom"):
            _sight(arrival, press, entry)


def _mark(arrival: Arrival, entry: RunEntry, at: datetime) -> None:
    """Something seen on pieces."""
    for press in _presses(arrival, entry):
        _sight(arrival, press, entry)


def _sight(arrival: Arrival, press: TestPress, entry: RunEntry) -> None:
    """A mark, placed by shares of the art or in words; over the whole print where nobody said."""
    detail = entry.detail
    x, y = detail.get("x"), detail.get("y")
    placed = x is not None and y is not None
    data = {
        "symptom": detail["symptom"],
        "where": detail.get("where") or ("" if placed else "all"),
        "when": "on_opening",
        "severity": 2,
        "x_mm": press.art_x_mm + x * press.art_width_mm if placed else None,
        "y_mm": press.art_y_mm + y * press.art_height_mm if placed else None,
    }
    pieces.mark(arrival.user, press, data, uuid5(entry.key, str(press.pk)))
    append(arrival.user, EntryKind.MARK, detail, test_press=press)


def _note(arrival: Arrival, entry: RunEntry, at: datetime) -> None:
    """A note on pieces; without any it is on the run, in the log alone."""
    if not entry.detail.get("pieces"):
        return
    for press in _presses(arrival, entry):
        press.note = " ".join((press.note, entry.detail["text"].strip())).strip()[:1000]
        press.save(update_fields=["note"])
        append(arrival.user, EntryKind.NOTE, {"text": entry.detail["text"]}, test_press=press)


def _ended(arrival: Arrival, entry: RunEntry, at: datetime) -> None:
    actions.end(arrival.user, arrival.run)


def _log_only(arrival: Arrival, entry: RunEntry, at: datetime) -> None:
    """Where the bench is; nothing else follows from it."""


APPLIED: dict[str, Callable[[Arrival, RunEntry, datetime], None]] = {
    "set": _set,
    "ready": _ready,
    "closed": _closed,
    "opened": _opened,
    "done": _log_only,
    "went_to": _log_only,
    "outcome": _outcome,
    "mark": _mark,
    "note": _note,
    "ended": _ended,
}
