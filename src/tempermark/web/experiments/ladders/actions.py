"""Changes to experiments: planned, pressed, scored, ended; a setting chosen by them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID, uuid5

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.experiments.search import ScoredPress, is_confirming
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.bench import actions as bench
from tempermark.web.bench.known import known_of_press
from tempermark.web.bench.places import places_of_load
from tempermark.web.experiments.models import Experiment, PlannedPress
from tempermark.web.jobs import actions as jobs
from tempermark.web.jobs.models import Job
from tempermark.web.kit.records.audit import record
from tempermark.web.presses.models import Element
from tempermark.web.run.models import PieceOutcome, PressSetting, Run, TestPress
from tempermark.web.run.pieces import actions as pieces
from tempermark.web.run.record.log import labelled

# A scrap is pressed with art of this size where nothing else is said, mm.
SCRAP_ART_MM = (60.0, 60.0)


@dataclass(frozen=True)
class PressToPlan:
    """A press as a form plans it: on which element, dial in °C, dwell in s."""

    element: Element
    set_c: float
    dwell_s: float
    pressure: str
    arm: str = ""
    block: int = 1
    scrap: int = 1
    because: str = ""


@transaction.atomic
def plan(
    user: User, fields: dict[str, Any], presses: Sequence[PressToPlan], key: UUID
) -> Experiment:
    """A new experiment with its presses; the same form sent twice is one."""
    must_work(user)
    experiment, fresh = Experiment.objects.get_or_create(
        entry_key=key, defaults={**fields, "started_by": user}
    )
    if fresh:
        for order, press in enumerate(presses, 1):
            PlannedPress.objects.create(experiment=experiment, order=order, **vars(press))
        record(user, "planned experiment", experiment, presses=len(presses))
    return experiment


@transaction.atomic
def add_press(user: User, experiment: Experiment, press: PressToPlan) -> PlannedPress:
    """One more press, as the search proposes it. Raises InputError once the experiment has ended or
    while the last proposal is still to be pressed.
    """
    held = _open(user, experiment)
    waiting = [p for p in held.planned_presses.all() if p.pressed is None and not p.skipped_at]
    if waiting:
        raise InputError.single(None, f"Press {waiting[0].order} is still to be made: do it first.")
    last = held.planned_presses.aggregate(order=Max("order"), scrap=Max("scrap"))
    values = vars(press) | {"scrap": (last["scrap"] or 0) + 1}
    order = (last["order"] or 0) + 1
    planned = PlannedPress.objects.create(experiment=held, order=order, **values)
    record(user, "planned press", held, order=order, set_c=press.set_c, dwell_s=press.dwell_s)
    return planned


def _open(user: User, experiment: Experiment) -> Experiment:
    must_work(user)
    held = Experiment.objects.select_for_update(of=("self",)).get(pk=experiment.pk)
    if held.ended_at is not None:
        raise InputError.single(None, "This experiment has ended: take it up again first.")
    return held


def _job(user: User, experiment: Experiment) -> Job:
    """The job of an experiment's pieces: made when the first is pressed."""
    if experiment.job is not None:
        return experiment.job
    fields = {
        "recipe": experiment.recipe,
        "blank": experiment.blank,
        "press": experiment.element.press,
        "quantity": max(1, experiment.planned_presses.count()),
        "art_width_mm": SCRAP_ART_MM[0],
        "art_height_mm": SCRAP_ART_MM[1],
        "note": f"Test presses: {experiment.question or experiment.get_kind_display()}"[:400],
    }
    experiment.job = jobs.begin(user, fields, uuid5(experiment.entry_key, "job"))
    experiment.save(update_fields=["job"])
    return experiment.job


@transaction.atomic
def start_run(user: User, planned: PlannedPress, key: UUID) -> Run:
    """Press a planned press in run mode, with its own setting."""
    experiment = _open(user, planned.experiment)
    _not_pressed(planned)
    if planned.run is not None and planned.run.ended_at is None:
        return planned.run
    job = _job(user, experiment)
    settings = {
        "set_c": planned.set_c,
        "dwell_s": planned.dwell_s,
        "pressure": planned.pressure,
    }
    run = bench.start(user, job, planned.element, key, settings=settings)
    planned.run = run
    planned.save(update_fields=["run"])
    return run


def _not_pressed(planned: PlannedPress) -> None:
    if planned.pressed is not None:
        raise InputError.single(None, f"Press {planned.order} was made already.")
    if planned.skipped_at is not None:
        raise InputError.single(None, f"Press {planned.order} was left out.")


@transaction.atomic
def log_pressed(user: User, planned: PlannedPress, key: UUID) -> TestPress:
    """A planned press was made as planned: it is logged with all that is known. Presses on one
    scrap are one piece, each with as many closings as it was covered for.
    """
    experiment = _open(user, planned.experiment)
    _not_pressed(planned)
    job, step = _job(user, experiment), experiment.recipe.pressed(None)
    element = planned.element
    place = places_of_load(element, job.art_width_mm, job.art_height_mm, 1)[0]
    data = {
        **known_of_press(element, job, step, place),
        "set_c": planned.set_c,
        "dwell_s": planned.dwell_s,
        "closures": _closings_on_scrap(planned),
        "pressure": planned.pressure,
        "note": f"Test press {planned.order}" + (f", {planned.arm}" if planned.arm else ""),
    }
    shared = _on_same_scrap(planned)
    data["piece"] = shared.piece if shared else labelled(key)
    press = pieces.log_test_press(user, element, data, key)
    planned.test_press = press
    planned.save(update_fields=["test_press"])
    return press


def _on_same_scrap(planned: PlannedPress) -> TestPress | None:
    others = planned.experiment.planned_presses.filter(scrap=planned.scrap).exclude(pk=planned.pk)
    return next((p.pressed for p in others if p.pressed is not None), None)


def _closings_on_scrap(planned: PlannedPress) -> int:
    """On a scrap that is uncovered step by step the longest dwell has closed most often."""
    shorter = planned.experiment.planned_presses.filter(
        scrap=planned.scrap, dwell_s__lt=planned.dwell_s
    )
    return 1 + shorter.count()


@transaction.atomic
def score(user: User, planned: PlannedPress, scores: dict[str, int]) -> TestPress:
    """Scores of a pressed press; what is full and not overdone is good. Raises InputError where it
    was not pressed yet, or nothing was scored.
    """
    must_work(user)
    press = planned.pressed
    if press is None:
        raise InputError.single(None, f"Press {planned.order} was not made yet.")
    if not scores:
        raise InputError.single(None, "Choose a step for at least one score.")
    kept = {**press.scores, **scores}
    density = kept.get("bond") if "bond" in kept and "black" not in kept else kept.get("black")
    confirmed = is_confirming(ScoredPress(press.set_c, press.dwell_s, density, kept.get("marks")))
    outcome = press.outcome
    if density is not None and kept.get("marks") is not None:
        outcome = PieceOutcome.GOOD if confirmed else PieceOutcome.FAULTY
    found = pieces.Scored(outcome, press.grade, kept, dict(press.zone_scores), press.density)
    return pieces.score(user, press, found)


@transaction.atomic
def skip(user: User, planned: PlannedPress, skipped: bool) -> None:
    """A press is left out, or taken up again."""
    _open(user, planned.experiment)
    if skipped:
        _not_pressed(planned)
    planned.skipped_at = timezone.now() if skipped else None
    planned.save(update_fields=["skipped_at"])
    did = "left press out" if skipped else "took press up again"
    record(user, did, planned.experiment, order=planned.order)


@transaction.atomic
def end(user: User, experiment: Experiment, ended: bool) -> None:
    """Nothing more is pressed for it, or it goes on."""
    must_work(user)
    experiment.ended_at = timezone.now() if ended else None
    experiment.save(update_fields=["ended_at"])
    record(user, "ended experiment" if ended else "resumed experiment", experiment)


@transaction.atomic
def choose_setting(
    user: User, experiment: Experiment, values: dict[str, Any], key: UUID
) -> PressSetting:
    """What an experiment found becomes the recipe's setting on its press."""
    must_lead(user)
    setting, fresh = PressSetting.every.get_or_create(
        entry_key=key,
        defaults={
            **values,
            "recipe": experiment.recipe.recipe,
            "element": experiment.element,
            "chosen_by": user,
        },
    )
    if fresh:
        record(user, "chose setting", setting, experiment=experiment.pk)
    return setting


def withdraw_setting(user: User, setting: PressSetting, why: str) -> None:
    """A chosen setting holds no more. Raises InputError without a reason."""
    must_lead(user)
    setting.withdraw(user, why)
