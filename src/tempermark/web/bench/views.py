"""Run mode: starting, the strip, what the bench sends."""

from pathlib import Path
from typing import Any

from django.contrib import messages
from django.contrib.staticfiles import finders
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.errors import InputError
from tempermark.files.bench.run_entries import read_entries
from tempermark.files.document import parse_json
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.bench import actions, queries
from tempermark.web.bench.entries import receive
from tempermark.web.bench.forms import RunForm, RunLoadForm
from tempermark.web.bench.known import main_pressure
from tempermark.web.bench.plan import entries_after, run_document
from tempermark.web.bench.platen import platen_state
from tempermark.web.heat.recipe.presses import elements_for, on_chosen_press
from tempermark.web.jobs import actions as jobs
from tempermark.web.jobs import queries as job_queries
from tempermark.web.jobs.models import Job
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import number, row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.prepare.jobs import lines
from tempermark.web.prepare.jobs.pressing import pressure_advice
from tempermark.web.prepare.jobs.views import initial_job
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import element_in_use, with_element
from tempermark.web.pressure.setting import words as pressure_words
from tempermark.web.run.models import Run
from tempermark.web.run.pieces.placing import recipes_here

REFUSED = 400


@require_GET
def bench(request: Request) -> HttpResponse:
    """Runs under way, jobs that wait, and where a run may be started."""
    running = queries.bench_states()
    busy = {state.run.job_id for state in running}
    # The pieces of an experiment are pressed from its sheet.
    jobs_open = job_queries.open_jobs().filter(experiment=None)
    waiting = [job for job in jobs_open[: queries.MOST_LISTED] if job.pk not in busy]
    ended = queries.counted(queries.runs().exclude(ended_at=None)).order_by("-ended_at")
    context = {
        "running": running,
        "waiting": waiting,
        "presses": with_element(),
        "ended": ended[:12],
    }
    return render(request, "bench/bench.html", context)


@require_GET
def at_press(request: Request, slug: str) -> HttpResponse:
    """What can be run at the press one stands at: its runs, its jobs, its recipes, once more."""
    element = element_in_use(slug)
    press = element.press
    context = {
        "press": press,
        "running": [s for s in queries.bench_states() if s.run.element.press_id == press.pk],
        "waiting": job_queries.open_jobs().filter(press=press, experiment=None)[
            : queries.MOST_LISTED
        ],
        "again": queries.last_on(press),
        "here": recipes_here(element),
    }
    return render(request, "bench/at_press.html", context)


@require_http_methods(["GET", "POST"])
def start_job(request: Request, pk: int) -> HttpResponse:
    """A run of a job: how many to a load, and where each piece is printed."""
    must_work(request.user)
    job = get_object_or_404(job_queries.jobs_in_full(), pk=pk)
    element = _element(job)
    form = RunLoadForm(
        request.POST or None, units=form_units(request), initial={"per_load": job.per_load}
    )
    if request.method == "POST" and form.is_valid():
        with refusal_shown(request):
            data = form.cleaned_data
            run = actions.start(
                request.user,
                job,
                element,
                form_key(request),
                data["per_load"],
                data["placings"],
            )
            return redirect("bench:run", run.pk)
        return redirect(job)
    context = {
        "job": job,
        "press": job.press,
        "form": form,
        "running": [s for s in queries.bench_states() if s.run.job_id == job.pk],
    }
    return render(request, "bench/start_job.html", context, status=422 if form.errors else 200)


def _element(job: Job) -> Element:
    """What the job is pressed on: the press's element that takes its recipe."""
    fitting = [e for e in elements_for(job.recipe) if e.press_id == job.press_id]
    return fitting[0] if fitting else element_in_use(job.press.slug)


@require_http_methods(["GET", "POST"])
def start_recipe(request: Request, slug: str) -> HttpResponse:
    """A job and its run from a recipe, in one form."""
    must_work(request.user)
    chosen = on_chosen_press(slug, request.POST.get("press") or request.GET.get("press"))
    version, offered, element = chosen.version, chosen.offered, chosen.element
    form = RunForm(
        request.POST or None,
        initial=initial_job(version, element) | {"per_load": 1},
        units=form_units(request),
        version=version,
        element=element,
    )
    if request.method == "POST" and form.is_valid():
        key = form_key(request)
        fields = form.fields_of_job() | {"recipe": version, "press": element.press}
        job = jobs.begin(request.user, fields, key)
        data = form.cleaned_data
        run = actions.start(request.user, job, element, key, data["per_load"], data["placings"])
        return redirect("bench:run", run.pk)
    context = {
        "form": form,
        "version": version,
        "element": element,
        "press": element.press,
        "offered": offered,
    }
    return render(request, "bench/start_recipe.html", context, status=422 if form.errors else 200)


@require_POST
def again(request: Request, pk: int) -> HttpResponse:
    """The same once more: one tap."""
    last = get_object_or_404(queries.runs(), pk=pk)
    run = actions.start_again(request.user, last, form_key(request))
    return redirect("bench:run", run.pk)


@require_GET
def run(request: Request, pk: int) -> HttpResponse:
    """The strip of a run."""
    found = get_object_or_404(queries.counted(queries.runs()), pk=pk)
    units = request.user.units
    before = lines.lines_before(found.job, units)
    done = job_queries.ticked(found.job)
    context = {
        **_panel(request, found),
        "press": found.element.press,
        "before": [{"line": row, "done": row.code in done} for row in before],
        "left": [row for row in before if row.code not in done],
        "others": [s for s in queries.bench_states() if s.run.pk != found.pk],
        "job": found.job,
    }
    return render(request, "bench/run.html", context)


@require_GET
def together(request: Request) -> HttpResponse:
    """Every run under way side by side: one pair of hands at several presses."""
    found = list(queries.under_way()[:4])
    panels = [_panel(request, each) for each in found]
    return render(request, "bench/together.html", {"panels": panels})


def _panel(request: Request, found: Run) -> dict[str, Any]:
    """What one strip needs."""
    wanted = main_pressure(found)
    advice = pressure_advice(found.element, found.job.blank, found.job.recipe, wanted)
    units = request.user.units
    return {
        "run": found,
        "document_id": f"run-document-{found.pk}",
        "document": run_document(found, units),
        "pressure_text": pressure_words.headline(advice, units) if advice else "",
        "symptoms": shipped().symptoms.values(),
    }


@require_POST
def entries(request: Request, pk: int) -> HttpResponse:
    """What a bench has queued, in order; each entry is kept once however often it is sent."""
    must_work(request.user)
    try:
        if request.content_type != "application/json":
            raise InputError.single(None, "Entries are sent as application/json.")
        sent = read_entries(parse_json(request.body))
    except InputError as error:
        return JsonResponse(error.as_document(), status=REFUSED)
    receipts = receive(request.user, pk, sent)
    rows = [{"key": r.key, "state": r.state, "why": r.why} for r in receipts]
    return JsonResponse({"format": "tempermark.run-receipts/1", "receipts": rows})


@require_GET
def platen(request: Request, pk: int) -> HttpResponse:
    """Whether the platen is at a setting, and what was logged to the run elsewhere meanwhile."""
    found = get_object_or_404(Run.objects.select_related("element__press"), pk=pk)
    news, last = entries_after(found, row_key(request.GET.get("after", "")))
    answer: dict[str, Any] = {
        "text": "",
        "ready": False,
        "entries": news,
        "last": last,
        "now_s": timezone.now().timestamp(),
    }
    set_c = number(request.GET.get("set_c"))
    if set_c is not None:
        state = platen_state(found.element, set_c, request.user.units)
        answer |= {"text": state.text, "ready": state.ready}
    return JsonResponse(answer)


@require_GET
def worker(request: Request) -> HttpResponse:
    """The script that keeps a run's page for when the connection is lost."""
    path = finders.find("tempermark/run-worker.js")
    if path is None:
        raise Http404("There is no such file.")
    text = Path(str(path)).read_text(encoding="utf-8")
    return HttpResponse(text, content_type="text/javascript", headers={"Cache-Control": "no-cache"})


@require_POST
def resume(request: Request, pk: int) -> HttpResponse:
    """A run that was ended too early goes on."""
    found = get_object_or_404(Run, pk=pk)
    actions.resume(request.user, found)
    messages.success(request, "The run goes on.")
    return redirect(reverse("bench:run", args=[pk]))
