"""What is known of faults, to read, to search and to adjust; and how well past guesses held."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from django import forms
from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.diagnosis.advice.remedies import remedy_in_general
from tempermark.core.diagnosis.knowledge.base import Cause, CheckOutcome, Shows, Symptom
from tempermark.core.diagnosis.knowledge.loading import GROUPS, shipped
from tempermark.core.diagnosis.knowledge.rates import CAUSE_WEIGHT, ROW_WEIGHT, row_key
from tempermark.core.diagnosis.past.reliability import Reliability, reliability
from tempermark.core.diagnosis.weighing.strengths import often
from tempermark.core.vocabulary.methods import METHOD_WORDS
from tempermark.core.vocabulary.sightings import PLACE_GROUPS
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.fields import NumberField
from tempermark.web.trace.board import actions
from tempermark.web.trace.knowledge.shop import ShopKnowledge, shop_knowledge
from tempermark.web.trace.models import FaultCase, KnowledgeChange

GROUP_LABELS = {
    "temperature": "temperature, time, pressure",
    "movement": "movement",
    "moisture": "moisture",
    "sheets": "sheets and cleanliness",
    "print": "print and placing",
    "surface": "the receiving surface",
    "film": "film technique and afterwards",
}
PLACE_GROUP_WORDS = {name: name.replace("_", " ") for name in PLACE_GROUPS} | {"other": "elsewhere"}
LEAST, MOST = 0.005, 0.985


@dataclass(frozen=True)
class KnowledgeRow:
    """A cause showing a symptom, as it reads."""

    key: str
    symptom: str
    label: str
    only: str
    strength: float
    often: str
    shipped: float
    why: str


def rows_of(cause: Cause) -> list[KnowledgeRow]:
    """What a cause shows, the strongest first."""
    before = {row_key(row): row.strength for row in shipped().causes[cause.code].shows}
    symptoms = shipped().symptoms
    result = [
        KnowledgeRow(
            row_key(row),
            row.symptom,
            symptoms[row.symptom].label,
            _only(row),
            row.strength,
            often(row.strength),
            before[row_key(row)],
            cause.why(row.symptom),
        )
        for row in cause.shows
    ]
    return sorted(result, key=lambda r: -r.strength)


def _only(row: Shows) -> str:
    """Methods and times that a row is limited to."""
    parts = [METHOD_WORDS[m] for m in row.methods]
    found = [f"with {', '.join(parts)}"] if parts else []
    return ", ".join(found + ([row.when.replace("_", " ")] if row.when else []))


@require_GET
def knowledge(request: Request) -> HttpResponse:
    """Every cause by its group, or those that show or are called what is asked."""
    query = request.GET.get("q", "").strip()[:60].lower()
    known = shop_knowledge()
    symptoms = shipped().symptoms
    groups = []
    for group in GROUPS:
        found = [
            {"cause": cause, "rows": rows_of(cause)}
            for cause in known.base.causes.values()
            if cause.group == group and _is_meant(cause, query, symptoms)
        ]
        if found:
            groups.append((GROUP_LABELS[group], found))
    context = {"groups": groups, "query": query, "known": known, **_counts(known)}
    return render(request, "trace/knowledge.html", context)


def _counts(known: ShopKnowledge) -> dict[str, Any]:
    rows = sum(len(cause.shows) for cause in known.base.causes.values())
    return {
        "rows": rows,
        "cause_weight": round(CAUSE_WEIGHT),
        "row_weight": round(ROW_WEIGHT),
        "shifts": known.shifts[:12],
    }


def _is_meant(cause: Cause, query: str, symptoms: dict[str, Symptom]) -> bool:
    texts = [cause.label, *(symptoms[row.symptom].label for row in cause.shows)]
    return not query or any(query in text.lower() for text in texts)


@require_GET
def checks(request: Request) -> HttpResponse:
    """Every check: what it costs, how it is done, what it can find; the quickest first."""
    causes = shop_knowledge().base.causes

    def finds(outcome: CheckOutcome) -> list[tuple[Cause, float]]:
        """Causes of an outcome with how often they come out so, the surest first."""
        surest = sorted(outcome.causes.items(), key=lambda pair: -pair[1])
        return [(causes[code], chance) for code, chance in surest]

    found: list[dict[str, Any]] = [
        {"check": check, "outcomes": [(o.label, finds(o)) for o in check.outcomes]}
        for check in shipped().checks.values()
    ]
    found.sort(key=lambda item: (item["check"].blanks, item["check"].minutes, item["check"].code))
    return render(request, "trace/checks.html", {"found": found})


class ChangeForm(forms.Form):
    """One number of a cause: its rate, or how often it shows something."""

    key = forms.CharField(max_length=120, required=False, widget=forms.HiddenInput)
    value = NumberField(label="Chance, 0 to 1", min_value=LEAST, max_value=MOST)
    why = forms.CharField(label="Why", max_length=300)


@require_http_methods(["GET", "POST"])
def cause(request: Request, code: str) -> HttpResponse:
    """One cause: what it shows, what tells of it, which checks speak on it, what to do."""
    known = shop_knowledge()
    found = known.base.causes.get(code)
    if found is None:
        raise Http404("There is no such cause.")
    form = ChangeForm(request.POST or None)
    keys = {row_key(row) for row in found.shows} | {""} | {f"sign:{f}" for f in found.signs}
    if request.method == "POST":
        must_lead(request.user)
        if form.is_valid() and form.cleaned_data["key"] in keys:
            data = form.cleaned_data
            head, _, fact = data["key"].partition("sign:")
            part = "sign" if fact else "shows" if head else "prior"
            actions.change_knowledge(
                request.user, code, part, fact or head, data["value"], data["why"]
            )
            messages.success(request, f"{found.label}: your number is used from now on.")
            return redirect("trace:cause", code)
    facts = shipped().facts
    checks: list[dict[str, Any]] = [
        {"check": check, "finds": check.sensitivity(code)}
        for check in shipped().checks.values()
        if check.sensitivity(code)
    ]
    context = {
        "cause": found,
        "remedy": remedy_in_general(found),
        "shipped": shipped().causes[code],
        "rows": rows_of(found),
        "signs": [
            {
                "fact": fact,
                "sign_key": f"sign:{fact}",
                "label": facts[fact].label,
                "with": pair[0],
                "without": pair[1],
                "for": pair[0] > pair[1],
                "why": found.why(fact),
            }
            for fact, pair in sorted(found.signs.items(), key=lambda s: -abs(s[1][0] - s[1][1]))
        ],
        "places": [(PLACE_GROUP_WORDS[name], factor) for name, factor in found.where.items()],
        "checks": sorted(checks, key=lambda c: c["check"].minutes),
        "shifts": [s for s in known.shifts if s.cause == code],
        "changes": KnowledgeChange.objects.filter(cause=code).select_related("by"),
        "form": form,
        "group": GROUP_LABELS[found.group],
    }
    return render(request, "trace/cause.html", context, status=422 if form.errors else 200)


@require_POST
def withdraw(request: Request, pk: int) -> HttpResponse:
    """Take one of the shop's numbers back."""
    row = get_object_or_404(KnowledgeChange, pk=pk, withdrawn_at=None)
    actions.withdraw_change(request.user, row)
    messages.success(request, "Undone: the earlier number is back.")
    return redirect("trace:cause", row.cause)


@require_GET
def how_well(request: Request) -> HttpResponse:
    """Stated probabilities of closed cases against what it was."""
    proven = FaultCase.objects.filter(test_press__withdrawn_at=None, unproven_why="")
    closed = list(proven.exclude(closed_at=None).order_by("closed_at"))
    found = {}
    for name, attribute in (("first", "first_thought"), ("last", "last_thought")):
        pairs = [pair for row in closed for pair in _stated(getattr(row, attribute), row.causes)]
        if pairs:
            found[name] = reliability(*np.array(pairs, float).T)
    tops = [row for row in closed if row.first_thought]
    first_right = sum(_top(row.first_thought) in row.causes for row in tops)
    context = {
        "summary": found,
        "closed": len(closed),
        "thought": len(tops),
        "first_right": first_right,
        "chart": _chart(found.get("first")),
    }
    return render(request, "trace/how_well.html", context)


def _stated(thought: dict[str, float], found: tuple[str, ...]) -> list[tuple[float, bool]]:
    """Each chance that was stated with whether it was so; what was found and not thought of counts
    as stated with none. Nothing where no thought was kept.
    """
    missed = [(0.0, True) for cause in found if thought and cause not in thought]
    return [(chance, cause in found) for cause, chance in thought.items()] + missed


def _top(thought: dict[str, float]) -> str:
    return max(thought, key=lambda cause: thought[cause])


SIDE, EDGE = 330.0, 44.0


def _chart(found: Reliability | None) -> dict[str, Any] | None:
    """Where each bin lies in the drawing."""
    if found is None:
        return None

    def x(value: float) -> float:
        return round(EDGE + value * (SIDE - EDGE - 10), 1)

    def y(value: float) -> float:
        return round(SIDE - EDGE - value * (SIDE - EDGE - 10), 1)

    return {
        "side": SIDE,
        "bins": [
            {
                "x": x(b.stated),
                "y": y(b.came_true),
                "low": y(b.interval[0]),
                "high": y(b.interval[1]),
                "count": b.count,
            }
            for b in found.bins
        ],
        "ticks": [{"x": x(v), "y": y(v), "text": f"{v:g}"} for v in (0, 0.25, 0.5, 0.75, 1)],
    }
