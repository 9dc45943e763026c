"""Experiments: planned, pressed, scored, answered, and made the setting."""

from typing import Any
from uuid import uuid5

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from tempermark.core.errors import InputError
from tempermark.core.experiments.arms import ScoredArm, compare_arms
from tempermark.core.experiments.wash import DENSITY_OF_SCORE
from tempermark.web.accounts.requests import Request
from tempermark.web.experiments.ladders import actions
from tempermark.web.experiments.ladders.charts import curve_chart, sheet_chart
from tempermark.web.experiments.ladders.engine import SheetEngine, engine_of, scores_of
from tempermark.web.experiments.ladders.words import answer_text, arms_text, dials_text, more_text
from tempermark.web.experiments.models import Experiment, ExperimentKind, PlannedPress
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import whole
from tempermark.web.kit.paging import page_of
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.presses.queries import with_element
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.run.models import SCORES, PressSetting
from tempermark.web.run.scoring.swatches import scales

FULL_SCORE = 5
# Ended experiments of a page, and open ones.
ENDED_LISTED, MOST_OPEN = 30, 50
NEEDED = ("recipe__recipe", "blank", "element__press", "started_by", "job")


@require_GET
def experiments(request: Request) -> HttpResponse:
    """Experiments under way, and those that have ended."""
    rows = Experiment.objects.select_related(*NEEDED).prefetch_related(
        "planned_presses__test_press", "planned_presses__run__test_presses"
    )
    page = page_of(rows.exclude(ended_at=None), request.GET, "ended_at", ENDED_LISTED)
    context = {
        "open": [_counted(e) for e in rows.filter(ended_at=None)[:MOST_OPEN]],
        "ended": [_counted(e) for e in page.rows],
        "page": page,
        "recipes": sorted(current_versions(), key=lambda v: v.recipe.name),
        "has_press": with_element().exists(),
    }
    return render(request, "experiments/experiments.html", context)


def _counted(experiment: Experiment) -> dict[str, Any]:
    rows = list(experiment.planned_presses.all())
    pressed = sum(1 for p in rows if p.pressed is not None)
    return {"it": experiment, "pressed": pressed, "planned": len(rows)}


@require_GET
def sheet(request: Request, pk: int) -> HttpResponse:
    """The ladder sheet."""
    experiment = _experiment(pk)
    return render(request, "experiments/sheet.html", sheet_context(request, experiment))


def _experiment(pk: int) -> Experiment:
    return get_object_or_404(Experiment.objects.select_related(*NEEDED), pk=pk)


def sheet_context(request: Request, experiment: Experiment) -> dict[str, Any]:
    """What the sheet shows."""
    units = request.user.units
    engine = engine_of(experiment)
    found = engine.answer
    rows = [_row(planned, engine) for planned in engine.planned]
    todo = [r["planned"] for r in rows if r["press"] is None and not r["planned"].skipped_at]
    unscored = [r for r in rows if r["press"] and r["density"] is None]
    context: dict[str, Any] = {
        "experiment": experiment,
        "press": experiment.element.press,
        "rows": rows,
        "next_planned": todo[0] if todo else None,
        "blanks": len({r["planned"].scrap for r in rows if r["press"]}),
        "unscored": unscored,
        "scales": _scales(engine),
        "other_pressures": engine.has_other_pressures and engine.is_over_settings,
        "setting": setting_of(experiment),
        "chart": sheet_chart(engine, units),
        "is_bond": engine.is_bond,
        "answer": found,
    }
    if found is not None:
        context |= {
            "headline": answer_text(experiment, found, len(engine.tested), units),
            "more": more_text(found),
            "dials": dials_text(found.dials_c, units),
            "curve": _curve(engine, units),
        }
    else:
        arms = _arms(engine)
        context |= {"arms": arms, "headline": arms_text(experiment.factor, arms)}
    return context


def setting_of(experiment: Experiment) -> PressSetting | None:
    """What was chosen last for the recipe on the press."""
    rows = PressSetting.objects.filter(recipe=experiment.recipe.recipe, element=experiment.element)
    return rows.first()


def _scales(engine: SheetEngine) -> list[dict[str, Any]]:
    """The two that the answer rests on first; the rest follow, folded."""
    leading = ("bond" if engine.is_bond else "black", "marks")
    return sorted(
        (s | {"leads": s["code"] in leading} for s in scales()),
        key=lambda s: (not s["leads"], leading.index(s["code"]) if s["leads"] else 0),
    )


def _row(planned: PlannedPress, engine: SheetEngine) -> dict[str, Any]:
    press = planned.pressed
    density, overdone = scores_of(press, engine.is_bond) if press else (None, None)
    return {"planned": planned, "press": press, "density": density, "overdone": overdone}


def _curve(engine: SheetEngine, units: Any) -> dict[str, Any] | None:
    """Along what the ladder varies; of a search along its best dial."""
    found, experiment = engine.answer, engine.experiment
    if found is None:
        return None
    if experiment.kind == ExperimentKind.TEMPERATURE:
        factor, fixed = "set_c", engine.planned[0].dwell_s if engine.planned else experiment.low_s
    elif experiment.kind == ExperimentKind.TIME and engine.planned:
        factor, fixed = "time_s", engine.planned[0].set_c
    else:
        factor, fixed = "time_s", found.result.best.set_c
    curve = engine.curve(factor, fixed)
    if curve is None:
        return None
    points = [
        (press.set_c if factor == "set_c" else press.dwell_s, DENSITY_OF_SCORE[density])
        for planned in engine.planned
        if (press := planned.pressed) and (density := scores_of(press, engine.is_bond)[0])
    ]
    drawn = curve_chart(curve, factor, points, units)
    return drawn | {"factor": factor, "fixed": fixed}


def _arms(engine: SheetEngine) -> Any:
    rows = []
    for planned in engine.planned:
        press = planned.pressed
        if press is None or not press.scores:
            continue
        density, overdone = scores_of(press, engine.is_bond)
        given = [s for s in (density, overdone) if s is not None] or list(press.scores.values())
        rows.append(ScoredArm(planned.arm, planned.block, sum(given) / len(given)))
    return compare_arms(rows)


@require_POST
def log_pressed(request: Request, pk: int) -> HttpResponse:
    """The planned press was made as planned."""
    planned = _planned(pk)
    with refusal_shown(request):
        actions.log_pressed(request.user, planned, form_key(request))
    return _back(planned.experiment_id, f"press-{planned.pk}")


@require_POST
def start_run(request: Request, pk: int) -> HttpResponse:
    """Make the planned press in run mode."""
    planned = _planned(pk)
    with refusal_shown(request):
        run = actions.start_run(request.user, planned, form_key(request))
        return redirect("bench:run", run.pk)
    return _back(planned.experiment_id)


@require_POST
def score(request: Request, pk: int) -> HttpResponse:
    """Score a press of the sheet."""
    planned = _planned(pk)
    given = {code: whole(request.POST.get(f"score_{code}")) for code, _ in SCORES}
    kept = {code: n for code, n in given.items() if n is not None and 1 <= n <= FULL_SCORE}
    with refusal_shown(request):
        actions.score(request.user, planned, kept)
    return _back(planned.experiment_id)


@require_POST
def skip(request: Request, pk: int) -> HttpResponse:
    """Leave a planned press out, or take it up again."""
    planned = _planned(pk)
    with refusal_shown(request):
        actions.skip(request.user, planned, request.POST.get("skipped") == "1")
    return _back(planned.experiment_id)


@require_POST
def propose(request: Request, pk: int) -> HttpResponse:
    """The next press, as the search proposes it, onto the sheet."""
    experiment = _experiment(pk)
    engine = engine_of(experiment)
    found = engine.answer
    with refusal_shown(request):
        if found is None:
            raise InputError.single(None, "Nothing is known of this stack: plan a ladder instead.")
        after = found.result.next_press or found.result.best
        step = actions.PressToPlan(
            experiment.element,
            after.set_c,
            float(round(after.time_s)),
            experiment.pressure,
            because=f"{after.chance:.0%} likely to come out well".replace("%", " %"),
        )
        actions.add_press(request.user, experiment, step)
    return _back(pk)


@require_POST
def choose(request: Request, pk: int) -> HttpResponse:
    """The best setting becomes the recipe's on this press: one tap."""
    experiment = _experiment(pk)
    engine = engine_of(experiment)
    found = engine.answer
    with refusal_shown(request):
        if found is None or not engine.tested:
            raise InputError.single(None, "No press was scored yet: nothing can be chosen.")
        best = found.result.best
        values = {
            "true_c": engine.true_c(best.set_c),
            "dwell_s": float(round(best.time_s)),
            "pressure": experiment.pressure,
            "chance": best.chance,
            "presses": len(engine.tested),
            "because": answer_text(experiment, found, len(engine.tested), request.user.units)[:300],
        }
        key = uuid5(form_key(request), "setting")
        actions.choose_setting(request.user, experiment, values, key)
        messages.success(
            request,
            f"{experiment.element.press.name} is now set so for {experiment.recipe.recipe}.",
        )
    return _back(pk)


@require_POST
def withdraw_setting(request: Request, pk: int) -> HttpResponse:
    """The chosen setting of a sheet's recipe and press holds no more; the one before does."""
    experiment = _experiment(pk)
    with refusal_shown(request):
        found = setting_of(experiment)
        if found is None:
            raise InputError.single(None, "No setting is chosen here: it was withdrawn before.")
        actions.withdraw_setting(request.user, found, request.POST.get("why", ""))
        messages.success(request, "Withdrawn: the setting stays on record.")
    return _back(pk)


@require_POST
def end(request: Request, pk: int) -> HttpResponse:
    """Finished with, or taken up again."""
    actions.end(request.user, _experiment(pk), request.POST.get("ended") == "1")
    return _back(pk)


@require_GET
def labels(request: Request, pk: int) -> HttpResponse:
    """Labels of the pieces of a sheet."""
    experiment = _experiment(pk)
    engine = engine_of(experiment)
    rows = [_row(planned, engine) for planned in engine.planned]
    context = {
        "experiment": experiment,
        "press": experiment.element.press,
        "rows": [row for row in rows if row["press"]],
    }
    return render(request, "experiments/labels.html", context)


def _planned(pk: int) -> PlannedPress:
    rows = PlannedPress.objects.select_related(
        "experiment__recipe__recipe",
        "experiment__blank",
        "experiment__element__press",
        "experiment__job",
        "element__press",
        "test_press",
        "run",
    )
    return get_object_or_404(rows, pk=pk)


def _back(pk: int, anchor: str = "") -> HttpResponse:
    address = reverse("experiments:sheet", args=[pk])
    return redirect(f"{address}#{anchor}" if anchor else address)
