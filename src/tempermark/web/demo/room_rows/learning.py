"""What is being pressed and learned in the demo's room: runs, a ladder under way, a wash trial."""

import io
from datetime import datetime, timedelta
from typing import Any
from uuid import NAMESPACE_URL, uuid5

import numpy as np
from django.db.models import F
from django.utils import timezone
from PIL import Image, ImageFilter

from tempermark.files.bench.run_entries import RunEntries, RunEntry
from tempermark.web.accounts.models import User
from tempermark.web.bench import actions as bench
from tempermark.web.bench.entries import receive
from tempermark.web.experiments.ladders import actions as ladders
from tempermark.web.experiments.models import Experiment, WashTrial
from tempermark.web.experiments.washing import actions as washing
from tempermark.web.jobs.models import Clock, Job
from tempermark.web.presses.models import Element
from tempermark.web.printing.models import Art
from tempermark.web.recipes.models import Blank, RecipeVersion
from tempermark.web.run.models import PressedPiece, Run, TestPress
from tempermark.web.run.record.photos import add_photo

CLOTH = (236, 234, 226)
PHOTO_PX = 900
# Dial in °C → scores of density (bond) and marks of the rungs that are pressed.
RUNGS = {152.0: (3, 5), 158.0: (4, 5), 164.0: (5, 5)}
RUNGS_LEFT = (170.0, 176.0)
# How much of the print is left after so many washes, by arm.
ARMS = {
    "paper A": {0: 1.0, 1: 0.98, 2: 0.96, 5: 0.93},
    "paper B": {0: 0.97, 1: 0.88, 2: 0.82, 5: 0.72},
}
ROUNDS = [1, 2, 5, 10]


def build_learning(technician: User, noon: datetime) -> None:
    """Runs of the last days, one that goes on, a ladder half done, a wash trial that is due."""
    _vests(technician, noon - timedelta(days=8, hours=2))
    _boards(technician)
    _ladder(technician, noon - timedelta(hours=2))
    _wash_trial(technician, noon - timedelta(days=7))


def _entry(name: str, kind: str, at: datetime, **detail: Any) -> RunEntry:
    return RunEntry(_key(name), kind, at.timestamp(), detail)


def _press(
    name: str, step: int, pieces: list[int], set_c: float, spans: list[tuple[datetime, datetime]]
) -> list[RunEntry]:
    """Closed and opened, once or more."""
    press = str(_key(f"{name}:press"))
    place = {"load": pieces[0], "placing": 0, "step": step, "press": press}
    found = []
    for n, (closed, opened) in enumerate(spans):
        is_last = n == len(spans) - 1
        found += [
            _entry(f"{name}:c{n}", "closed", closed, **place, pieces=pieces, set_c=set_c),
            _entry(f"{name}:o{n}", "opened", opened, **place, is_last=is_last),
        ]
    return found


def _send(user: User, run: Run, entries: list[RunEntry]) -> None:
    receive(user, run.pk, RunEntries(timezone.now().timestamp(), tuple(entries)))
    TestPress.objects.filter(run=run).update(logged_at=F("pressed_at"))
    PressedPiece.objects.filter(run=run).update(
        created_at=TestPress.objects.filter(run=run).order_by("pressed_at").first().pressed_at
    )


def _vests(user: User, start: datetime) -> None:
    """Four vests on two papers: what the wash trial is about."""
    version = RecipeVersion.objects.get(recipe__slug="dye-on-a-polyester-vest")
    job = Job.objects.create(
        recipe=version,
        blank=Blank.objects.get(name="Crew vest, white"),
        press=Element.objects.get(press__slug="heron").press,
        quantity=4,
        art_width_mm=240,
        art_height_mm=240,
        note="Two papers, for washing",
        created_by=user,
        created_at=start,
        closed_at=start + timedelta(hours=1),
        entry_key=_key("job:vests"),
    )
    run = _run(user, job, "heron", start)
    number = version.sheet.steps.index(version.sheet.main)
    entries = [_entry("vests:ready", "ready", start, step=number, set_c=205.0)]
    for piece in range(1, 5):
        at = start + timedelta(minutes=4 * piece)
        name = f"vests:{piece}"
        entries += _press(name, number, [piece], 205.0, [(at, at + timedelta(seconds=52))])
        entries.append(
            _entry(
                f"{name}:out", "outcome", at + timedelta(minutes=2), pieces=[piece], outcome="good"
            )
        )
    entries.append(_entry("vests:end", "ended", start + timedelta(minutes=25)))
    _send(user, run, entries)
    Run.objects.filter(pk=run.pk).update(ended_at=start + timedelta(minutes=25))
    for press in TestPress.objects.filter(run=run).order_by("pressed_at"):
        paper = "A" if press.piece.number % 2 else "B"
        TestPress.objects.filter(pk=press.pk).update(
            film_lot=f"Paper {paper}", scores={"black": 5, "even": 5, "marks": 5}
        )


def _run(user: User, job: Job, slug: str, when: datetime) -> Run:
    """A run of a job, closed since or not."""
    closed, job.closed_at = job.closed_at, None
    run = bench.start(user, job, Element.objects.get(press__slug=slug), _key(f"run:{job.pk}"))
    Run.objects.filter(pk=run.pk).update(started_at=when)
    job.closed_at = closed
    return run


def _boards(user: User) -> None:
    """The boards on Coot: two are done, the third is next."""
    job = Job.objects.get(press__slug="coot", closed_at=None)
    now = timezone.now()
    start = now - timedelta(minutes=34)
    run = _run(user, job, "coot", start)
    number = job.recipe.sheet.steps.index(job.recipe.sheet.main)
    dial = 203.0
    entries = [_entry("boards:ready", "ready", start, step=number, set_c=dial)]
    for piece in (1, 2):
        at = start + timedelta(minutes=2 + 14 * (piece - 1))
        name = f"boards:{piece}"
        entries += _press(name, number, [piece], dial, [(at, at + timedelta(seconds=190))])
        for done, step in enumerate(job.recipe.sheet.steps[number + 1 :], number + 1):
            if step.kind in ("peel", "cool"):
                place = {"load": piece, "placing": 0, "step": done}
                entries.append(_entry(f"{name}:{done}", "done", at + timedelta(minutes=7), **place))
        entries.append(
            _entry(
                f"{name}:out", "outcome", at + timedelta(minutes=8), pieces=[piece], outcome="good"
            )
        )
    _send(user, run, entries)


def _ladder(user: User, start: datetime) -> None:
    """A ladder of temperatures for film on cotton bags: three rungs of five are pressed."""
    element = Element.objects.get(press__slug="grebe")
    presses = [
        ladders.PressToPlan(element, set_c, 12.0, "medium", scrap=n)
        for n, set_c in enumerate((*RUNGS, *RUNGS_LEFT), 1)
    ]
    fields = {
        "kind": "temperature",
        "question": "How hot for the new film?",
        "recipe": RecipeVersion.objects.get(recipe__slug="film-on-a-cotton-bag"),
        "blank": Blank.objects.get(name="Cotton bag, natural"),
        "element": element,
        "low_c": 144.0,
        "high_c": 184.0,
        "low_s": 5.0,
        "high_s": 22.0,
        "pressure": "medium",
    }
    experiment = ladders.plan(user, fields, presses, _key("ladder"))
    Experiment.objects.filter(pk=experiment.pk).update(started_at=start)
    for n, planned in enumerate(experiment.planned_presses.all()[: len(RUNGS)]):
        press = ladders.log_pressed(user, planned, _key(f"rung:{n}"))
        at = start + timedelta(minutes=6 * n)
        TestPress.objects.filter(pk=press.pk).update(pressed_at=at, logged_at=at)
        bond, marks = RUNGS[planned.set_c]
        ladders.score(user, planned, {"bond": bond, "marks": marks})


def _wash_trial(user: User, start: datetime) -> None:
    """Two papers, washed twice; the fifth wash is due."""
    rows = PressedPiece.objects.filter(run__job__note="Two papers, for washing")
    pieces = list(rows.order_by("number"))
    arms = [("paper A", pieces[0::2]), ("paper B", pieces[1::2])]
    fields = {
        "title": "Paper A or B on vests",
        "rounds": ROUNDS,
        "rest_h": 24.0,
        "machine": "drum, colour programme",
        "wash_c": 40.0,
        "drying": "Line dried",
    }
    trial = washing.start(user, fields, arms, _key("wash"))
    WashTrial.objects.filter(pk=trial.pk).update(started_at=start)
    # It began a week ago: its rest has long rung.
    Clock.objects.filter(name=f"first wash: {trial.title}").delete()
    crest = Image.open(io.BytesIO(bytes(Art.objects.get(name="Crew crest").data)))
    for washes in (0, 1, 2):
        if washes:
            scores = [_washed(one, washes) for one in trial.washed.all()]
            washing.score(user, trial, washes, scores, _key(f"wash:{washes}"))
        for one in trial.washed.all():
            left = ARMS[one.arm][washes]
            picture = _photograph(crest, left, one.piece.number * 10 + washes)
            key = _key(f"photo:{one.piece.code}:{washes}")
            add_photo(user, one.piece, picture, key, washes=washes)


def _washed(one: Any, washes: int) -> dict[str, Any]:
    left = ARMS[one.arm][washes] - 0.01 * (one.piece.number > 2)
    step = 5 if left >= 0.9 else 4
    return {
        "washed": one,
        "scores": {"black": step, "bond": 5},
        "density": round(left, 2),
        "failed": False,
        "note": "",
    }


def _photograph(crest: Image.Image, left: float, seed: int) -> bytes:
    """A made-up photograph of a vest: cloth with its weave, a print that has faded."""
    rng = np.random.default_rng(seed)
    weave = rng.normal(0, 5, (PHOTO_PX, PHOTO_PX)) + 3 * np.sin(np.arange(PHOTO_PX) / 1.7)
    cloth = np.clip(np.array(CLOTH)[None, None, :] + weave[:, :, None], 0, 255).astype("uint8")
    ground = Image.fromarray(cloth, "RGB")
    printed = crest.convert("RGBA").resize((620, 620))
    alpha = printed.getchannel("A").point(lambda value: int(value * left))
    ground.paste(printed.convert("RGB"), (140 + seed % 7, 120 + seed % 11), alpha)
    fall = np.linspace(1.04, 0.9, PHOTO_PX)[None, :, None]
    lit = np.clip(np.asarray(ground) * fall, 0, 255).astype("uint8")
    out = io.BytesIO()
    Image.fromarray(lit, "RGB").filter(ImageFilter.GaussianBlur(0.8)).save(out, "JPEG", quality=88)
    return out.getvalue()


def _key(name: str) -> Any:
    return uuid5(NAMESPACE_URL, f"demo:learning:{name}")
