"""Wash trials: started, scored round by round, read."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.core.experiments.wash import compare_fading, fade_curve, survival
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.experiments.models import WashedPress, WashTrial
from tempermark.web.experiments.washing import actions, queries
from tempermark.web.experiments.washing.charts import wash_chart
from tempermark.web.experiments.washing.forms import WashTrialForm
from tempermark.web.kit.figures import chance_text
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import number, row_key, whole
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.paging import page_of
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.run.models import PiecePhoto, PressedPiece, TestPress
from tempermark.web.run.scoring.swatches import scales

# What is looked at after a wash; the rest of the scales say nothing of washing.
WASH_SCALES = ("black", "bond", "even", "hand")
MOST_DENSITY_PERCENT = 120.0
UNDECIDED = 0.8
ENDED_LISTED = 30
# So many of the newest good presses are looked at for so many pieces.
MOST_LOOKED_AT, MOST_OFFERED = 60, 12


@require_GET
def trials(request: Request) -> HttpResponse:
    """Trials under way with what is due, and those that have ended."""
    open_trials = queries.in_full()
    page = page_of(WashTrial.objects.exclude(ended_at=None), request.GET, "ended_at", ENDED_LISTED)
    context = {
        "rows": [{"trial": t, "due": queries.next_round(t)} for t in open_trials],
        "ended": page.rows,
        "page": page,
    }
    return render(request, "experiments/wash_trials.html", context)


@require_http_methods(["GET", "POST"])
def new(request: Request) -> HttpResponse:
    """A new trial; pieces may come from a link."""
    must_work(request.user)
    codes = [c[:12] for c in request.GET.getlist("piece")[:60]]
    initial = {"arms": "\n".join(f"arm {n}: {code}" for n, code in enumerate(codes, 1))}
    form = WashTrialForm(request.POST or None, units=form_units(request), initial=initial)
    if request.method == "POST" and form.is_valid():
        key = form_key(request)
        found = actions.start(request.user, form.fields_of_trial(), form.cleaned_data["arms"], key)
        return redirect(found)
    newest = TestPress.objects.filter(outcome="good").order_by("-pressed_at", "-pk")
    pieces = dict.fromkeys(newest.values_list("piece", flat=True)[:MOST_LOOKED_AT])
    latest = PressedPiece.objects.filter(pk__in=list(pieces)[:MOST_OFFERED])
    context = {"form": form, "latest": latest}
    return render(request, "experiments/new_wash.html", context, status=422 if form.errors else 200)


@require_GET
def trial(request: Request, pk: int) -> HttpResponse:
    """A trial: its rounds, what is left, the round to score now."""
    found = get_object_or_404(WashTrial.objects.select_related("started_by"), pk=pk)
    washed = list(found.washed.select_related("piece").prefetch_related("scored_rounds"))
    due = queries.next_round(found)
    chosen = whole(request.GET.get("washes"))
    washes = chosen if chosen in found.rounds else due.washes if due else None
    context = {
        "trial": found,
        "due": due,
        "washes": washes,
        "rows": [_row(one, washes) for one in washed],
        "scales": [s for s in scales() if s["code"] in WASH_SCALES],
        "photo_rows": _photo_rows(found, washed),
        **_result(found, washed),
    }
    return render(request, "experiments/wash_trial.html", context)


def _row(one: WashedPress, washes: int | None) -> dict[str, Any]:
    rounds = queries.newest_scores(one)
    earlier = [w for w in rounds if washes is not None and w < washes]
    return {
        "washed": one,
        "rounds": rounds,
        "given": rounds[washes].scores if washes in rounds else {},
        "prefix": f"piece_{one.pk}_",
        "has_failed": any(rounds[w].failed for w in earlier),
        "first": queries.first_density(one),
    }


def _photo_rows(trial: WashTrial, washed: list[WashedPress]) -> list[Any]:
    photos = list(
        PiecePhoto.objects.filter(piece__in=[w.piece_id for w in washed]).defer("image", "small")
    )
    counts = sorted({photo.washes for photo in photos})
    return [
        (n, [[p for p in photos if (p.piece_id, p.washes) == (w.piece_id, n)] for w in washed])
        for n in counts
    ]


def _result(trial: WashTrial, washed: list[WashedPress]) -> dict[str, Any]:
    """Curves, survival and the comparison of arms."""
    until = max(trial.rounds)
    points: dict[str, list[tuple[int, float]]] = {}
    alive: dict[str, list[Any]] = {}
    for one in washed:
        points.setdefault(one.arm, []).extend(queries.densities(one))
        alive.setdefault(one.arm, []).append(queries.survived(one))
    columns = {arm: ([w for w, _ in rows], [d for _, d in rows]) for arm, rows in points.items()}
    curves = {
        arm: curve
        for arm, rows in columns.items()
        if (curve := fade_curve(*rows, until)) is not None
    }
    steps = {arm: survival(rows) for arm, rows in alive.items()}
    looked_at = any(row.last_washes for rows in alive.values() for row in rows)
    return {
        "curves": curves,
        "chart": wash_chart(curves, points, steps, until) if curves else None,
        "survival": {arm: rows[-1] for arm, rows in steps.items()} if looked_at else {},
        "headline": _headline(trial, columns, alive, until),
    }


def _headline(trial: WashTrial, columns: Any, alive: Any, until: int) -> str:
    differences = compare_fading(columns, until)
    pieces = [row for rows in alive.values() for row in rows]
    failed = sum(row.failed_washes is not None for row in pieces)
    lost = (
        f"{failed} of {len(pieces)} pieces failed" if failed else f"All {len(pieces)} pieces hold"
    )
    last = max((row.last_washes for row in pieces), default=0)
    if not last:
        return f"{trial.title}: no round was scored yet."
    if not differences:
        return f"{trial.title}: {lost.lower() if not failed else lost} after {last} washes."
    first = differences[0]
    if first.chance < UNDECIDED:
        return f"{lost}; {first.better} and {first.worse} do not fade surely differently."
    gap = f"{100 * first.difference:.0f}"
    low, high = f"{100 * first.low:.0f}".replace("-", "−"), f"{100 * first.high:.0f}"
    return (
        f"{first.better} fades less than {first.worse}: {gap} % of its density more is left after "
        f"{until} washes ({low} to {high}), {chance_text(first.chance)} sure. {lost}."
    )


@require_POST
def score(request: Request, pk: int) -> HttpResponse:
    """One round's scores, all pieces in one form."""
    must_work(request.user)
    found = get_object_or_404(WashTrial, pk=pk)
    washes = whole(request.POST.get("washes"))
    with refusal_shown(request):
        if washes not in found.rounds:
            raise InputError.single("washes", "This trial has no such round.")
        rows = [_posted(request, one) for one in found.washed.all()]
        actions.score(request.user, found, washes, rows, form_key(request))
    return redirect(found)


def _posted(request: Request, one: WashedPress) -> dict[str, Any]:
    """What was given for one piece."""
    base = f"piece_{one.pk}_"
    given = {code: row_key(request.POST.get(f"{base}{code}", "")) for code in WASH_SCALES}
    text = request.POST.get(f"{base}density", "").replace(",", ".").strip()
    percent = number(text) if text else None
    if text and (percent is None or not 0 <= percent <= MOST_DENSITY_PERCENT):
        raise InputError.single("density", f"“{text[:20]}” is not a density from 0 to 120 %.")
    return {
        "washed": one,
        "scores": {code: step for code, step in given.items() if 1 <= step <= 5},
        "density": None if percent is None else percent / 100,
        "failed": request.POST.get(f"{base}failed") == "1",
        "note": request.POST.get(f"{base}note", "")[:300],
    }


@require_POST
def end(request: Request, pk: int) -> HttpResponse:
    """Ended, or taken up again."""
    found = get_object_or_404(WashTrial, pk=pk)
    actions.end(request.user, found, request.POST.get("ended") == "1")
    return redirect(found)
