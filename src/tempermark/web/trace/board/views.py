"""The trace board and the list of cases."""

import json
from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from tempermark.core.diagnosis.advice.reversals import reversals
from tempermark.core.diagnosis.engine import Diagnosis, RankedCause
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.errors import InputError
from tempermark.files.case import case_document
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.paging import page_of
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text, say
from tempermark.web.run.lots.lots import named
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces.charts import piece_chart
from tempermark.web.trace.board import actions, queries
from tempermark.web.trace.board.changes import changed_since_good
from tempermark.web.trace.board.diagnosis import DiagnosedCase, diagnose_case
from tempermark.web.trace.board.figures import figure_summary
from tempermark.web.trace.board.follow_up import follow_up
from tempermark.web.trace.board.mapping import BuiltCase, build_case
from tempermark.web.trace.board.words import headline, moved, try_link
from tempermark.web.trace.facts.recurring import recurrence_of
from tempermark.web.trace.facts.sourced import ANSWERED, NOTED
from tempermark.web.trace.models import CheckRecord, FaultCase

# Closed cases of a page, and open ones above the first.
LISTED, MOST_OPEN = 50, 200
MOST_CAUSES = 8
# Causes after the first that are shown at once; the rest is one tap away.
SHOWN_FROM, MOST_SHOWN = 0.1, 3
MOST_REASONS = 5
MOST_CHECKS = 6
MOST_REVERSALS = 5


@require_GET
def cases(request: Request) -> HttpResponse:
    """Every case, or those that hold what is asked."""
    query = request.GET.get("q", "").strip()[:80]
    found = queries.found(query)
    page = page_of(found.exclude(closed_at=None), request.GET, "closed_at", LISTED)
    still_open = [] if page.newest else list(found.filter(closed_at=None)[:MOST_OPEN])
    context = {
        "cases": [*still_open, *page.rows],
        "page": page,
        "query": query,
        "open": queries.all_cases().filter(closed_at=None, seems_normal=False).count(),
    }
    return render(request, "trace/list.html", context)


@require_POST
def open_case(request: Request, pk: int) -> HttpResponse:
    """Trace the fault on a test press."""
    piece = get_object_or_404(TestPress, pk=pk)
    with refusal_shown(request):
        return redirect(actions.open_case(request.user, piece))
    return redirect(piece)


def _case(pk: int) -> FaultCase:
    found = queries.by_pk(str(pk))
    if found is None:
        raise Http404("There is no such case.")
    return found


@require_GET
def case(request: Request, pk: int) -> HttpResponse:
    """The board."""
    return render(request, "trace/case.html", board_context(request, _case(pk)))


@require_GET
def case_file(request: Request, pk: int) -> HttpResponse:
    """The case as the command `diagnose` takes it."""
    record = _case(pk)
    document = case_document(build_case(record).case)
    text = json.dumps(document, ensure_ascii=False, indent=1)
    return attachment(text, "application/json", f"tempermark-case-{record.pk}.json")


def board_context(request: Request, record: FaultCase, **more: Any) -> dict[str, Any]:
    """Everything the board shows."""
    diagnosed = diagnose_case(record)
    found, diagnosis = diagnosed.built, diagnosed.diagnosis
    over = request.GET.get("over", "platen")
    units = request.user.units
    likely = _shown_at_once(diagnosis.causes)
    return {
        "case": record,
        "piece": record.test_press,
        "press": record.test_press.element.press,
        "chart": piece_chart(record.test_press, found.others, over),
        "over": over,
        "recurrence": recurrence_of(record.test_press, found.others),
        "through": found.through,
        "changed": changed_since_good(record.test_press, found.under, found.last, units),
        "follow_up": follow_up(record, found.last, units) if record.closed_at else None,
        "under": found.under,
        "pressed": found.pressed,
        "diagnosis": diagnosis,
        "headline": headline(record, diagnosis, units),
        "separate": _separate(record, diagnosis),
        "aside": [shipped().symptoms[code].label for code in record.set_aside],
        "moved": moved(record, diagnosis),
        "causes": [_cause(record, ranked, units) for ranked in diagnosis.causes[:MOST_CAUSES]],
        "likely": likely,
        "less": -likely,
        "next": diagnosis.next_checks[:MOST_CHECKS],
        "questions": diagnosis.questions,
        "checks": [_check(c) for c in record.checks.filter(taken_back_at=None)],
        "answers": _answers(record),
        "computed": _computed(found),
        "lots": named(record.test_press),
        "proofs": queries.proofs(record)[:10],
        "closing_causes": _closing_causes(diagnosis),
        "figures": [
            (about, figure_summary(about, v, units)) for about, v in record.figures.items()
        ],
        "may_enter": request.user.may_work and record.closed_at is None,
        "untraced": _untraced(record),
        **more,
    }


@require_GET
def what_would_change(request: Request, pk: int) -> HttpResponse:
    """Outcomes of checks and answers that would put another cause first."""
    record = _case(pk)
    found = _reversals(diagnose_case(record)) if not record.closed_at else []
    return render(request, "trace/_reversals.html", {"reversals": found})


def _reversals(diagnosed: DiagnosedCase) -> list[dict[str, Any]]:
    """What would put another cause first, in words."""
    base = diagnosed.knowledge.base
    found = reversals(diagnosed.built.case, diagnosed.diagnosis, base)
    return [
        {
            "if": f"“{base.checks[r.check].label}” finds {r.outcome.lower() or 'nothing'}"
            if r.check
            else f"“{r.question}” {r.outcome}",
            "leads": base.causes[r.leads].label,
            "probability": r.probability,
        }
        for r in found[:MOST_REVERSALS]
    ]


def _untraced(record: FaultCase) -> bool:
    """Whether a mark of the piece was set aside in every case of it."""
    cases = record.test_press.fault_cases.all()
    marked = {mark.symptom for mark in record.test_press.marks.all()}
    return bool(marked.intersection(*[case.set_aside for case in cases]))


def _separate(record: FaultCase, diagnosis: Diagnosis) -> list[dict[str, Any]]:
    """Groups of marks that no one cause shows together, to choose from; none once chosen."""
    symptoms = shipped().symptoms
    if record.closed_at is not None:
        return []
    return [
        {"codes": codes, "label": " and ".join(symptoms[c].label.lower() for c in codes)}
        for codes in map(dict.fromkeys, diagnosis.separate)
    ]


def _shown_at_once(causes: tuple[RankedCause, ...]) -> int:
    """How many causes stand open: the first, and others that are likely enough."""
    return max(1, sum(c.probability >= SHOWN_FROM for c in causes[:MOST_SHOWN]))


def _cause(record: FaultCase, ranked: RankedCause, units: Units) -> dict[str, Any]:
    return {
        "ranked": ranked,
        "reasons": [
            {"sign": "+" if e.log_odds > 0 else "−", "text": say(e.text, units), "why": e.why}
            for e in ranked.evidence[:MOST_REASONS]
        ],
        "try": try_link(record, ranked),
    }


def _check(result: CheckRecord) -> dict[str, Any]:
    check = shipped().checks[result.check_code]
    outcome = "unclear" if result.unclear else result.outcome or "nothing found"
    return {"record": result, "label": check.label, "summary": outcome}


def _closing_causes(diagnosis: Diagnosis) -> list[tuple[str, str]]:
    """Causes to close with: those listed first, in their order, then all others."""
    ranked = {r.cause.code: r.cause.label for r in diagnosis.causes}
    return list((ranked | {c.code: c.label for c in shipped().causes.values()}).items())


def _computed(found: BuiltCase) -> list[dict[str, Any]]:
    """Facts that nobody figure_summary, for and against, with where they came from."""
    labels = shipped().facts
    own = (NOTED, ANSWERED)
    stated = [
        {"text": labels[f].label, "source": s} for f, s in found.facts.held.items() if s not in own
    ]
    denied = [
        {"text": f"no: {labels[f].label}", "source": s}
        for f, s in sorted(found.facts.denied.items())
    ]
    return stated + denied


def _answers(record: FaultCase) -> list[dict[str, Any]]:
    facts, symptoms = shipped().facts, shipped().symptoms
    answers: list[tuple[str, Any, list[str], bool]] = [
        ("fact", facts, record.facts, True),
        ("fact", facts, record.not_facts, False),
        ("symptom", symptoms, record.also_seen, True),
        ("symptom", symptoms, record.not_seen, False),
    ]
    return [
        {"name": name, "code": code, "text": known[code].label, "yes": yes}
        for name, known, codes, yes in answers
        for code in codes
    ]


def _done(request: Request, record: FaultCase, act: Callable[..., Any]) -> HttpResponse:
    """Run an action and show the board again, its error said on the board."""
    try:
        act()
    except InputError as error:
        typed = request.POST.get("typed", "")
        context = board_context(
            request,
            _case(record.pk),
            error=error_text(error, form_units(request)),
            typed=typed,
            closing=request.POST,
        )
        return render(request, "trace/case.html", context, status=422)
    return redirect(record)


@require_POST
def answer(request: Request, pk: int) -> HttpResponse:
    """Answer a question, by yes or no or by a figure."""
    record = _case(pk)
    if "about" in request.POST:
        units = form_units(request)
        about, typed = request.POST["about"], request.POST.get("typed", "")
        return _done(
            request,
            record,
            lambda: actions.answer_figure(request.user, record, about, typed, units),
        )
    reply = request.POST.get("answer", "")
    if "symptom" in request.POST:
        symptom = request.POST["symptom"]
        return _done(
            request, record, lambda: actions.answer_seen(request.user, record, symptom, reply)
        )
    fact = request.POST.get("fact", "")
    return _done(request, record, lambda: actions.answer_fact(request.user, record, fact, reply))


@require_POST
def check(request: Request, pk: int) -> HttpResponse:
    """Record a check's outcome."""
    record = _case(pk)
    key = form_key(request)
    code, outcome = request.POST.get("check", ""), request.POST.get("outcome", "")
    return _done(
        request, record, lambda: actions.record_check(request.user, record, code, outcome, key)
    )


@require_POST
def take_check_back(request: Request, pk: int) -> HttpResponse:
    """Take a check back."""
    record = _case(pk)
    text = request.POST.get("check", "")
    number = row_key(text)
    return _done(request, record, lambda: actions.take_check_back(request.user, record, number))


@require_POST
def close(request: Request, pk: int) -> HttpResponse:
    """Close with cause and proof."""
    record = _case(pk)
    text = request.POST.get("proof", "")
    proof = TestPress.objects.filter(pk=row_key(text)).first()
    cause, second = request.POST.get("cause", ""), request.POST.get("second", "")
    note, why = request.POST.get("note", ""), request.POST.get("unproven_why", "")
    return _done(
        request,
        record,
        lambda: actions.close_case(
            request.user, record, cause, proof, note, second=second, unproven_why=why
        ),
    )


@require_POST
def close_as_normal(request: Request, pk: int) -> HttpResponse:
    """What is seen is no fault: closed by one tap."""
    record = _case(pk)
    return _done(
        request,
        record,
        lambda: actions.close_case(request.user, record, shipped().normal.code, None, ""),
    )


@require_POST
def choose_marks(request: Request, pk: int) -> HttpResponse:
    """Which of the marks are traced, the others being set aside."""
    record, chosen = _case(pk), request.POST.getlist("symptom")
    return _done(request, record, lambda: actions.trace_only(request.user, record, chosen))


@require_POST
def reopen(request: Request, pk: int) -> HttpResponse:
    """Open a closed case again."""
    record = _case(pk)
    return _done(request, record, lambda: actions.reopen_case(request.user, record))
