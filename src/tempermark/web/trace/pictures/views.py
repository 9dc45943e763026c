"""The library of faults: what each looks like, what it is taken for, and what makes it."""

from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.diagnosis.weighing.strengths import often
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.numbers import whole
from tempermark.web.trace.knowledge.shop import shop_knowledge
from tempermark.web.trace.pictures.pictures import SEVERITIES, picture
from tempermark.web.trace.pictures.shapes import SIZE

SEVERITY_WORDS = {1: "slight", 2: "plain", 3: "severe"}
# A cause is named under a fault from this strength.
NAMED_FROM = 0.15


def _came_from(request: Request) -> dict[str, Any]:
    """`case` or `piece` that a person came from, and both as `carried` on to the next link."""
    found = {name: request.GET.get(name, "") for name in ("case", "piece")}
    known = {name: value for name, value in found.items() if whole(value) is not None}
    return {**known, "carried": f"?{urlencode(known)}" if known else ""}


@require_GET
def faults(request: Request) -> HttpResponse:
    """Every symptom with its picture, or those called what is asked."""
    query = request.GET.get("q", "").strip()[:60].lower()
    found = [
        {"symptom": s, "shapes": picture(s.code, 2)}
        for s in shipped().symptoms.values()
        if not query or query in f"{s.label} {s.seen}".lower()
    ]
    context = {"found": found, "query": query, "size": SIZE, "count": len(shipped().symptoms)}
    context |= _came_from(request)
    return render(request, "trace/faults.html", context)


@require_GET
def fault(request: Request, code: str) -> HttpResponse:
    """One symptom at three severities, its look-alikes beside it, and its causes."""
    symptoms = shipped().symptoms
    found = symptoms.get(code)
    if found is None:
        raise Http404("There is no such fault.")
    base = shop_knowledge().base
    causes: list[dict[str, Any]] = []
    for cause in base.causes.values():
        strengths = [row.strength for row in cause.shows if row.symptom == code]
        if strengths and max(strengths) >= NAMED_FROM:
            causes.append({"cause": cause, "often": often(max(strengths)), "of": max(strengths)})
    context = {
        "symptom": found,
        "pictures": [(n, SEVERITY_WORDS[n], picture(code, n)) for n in SEVERITIES],
        "like": [
            {"symptom": symptoms[other], "how": how, "shapes": picture(other, 2)}
            for other, how in found.like.items()
        ],
        "causes": sorted(causes, key=lambda c: (-c["of"] * c["cause"].prior, c["cause"].code)),
        "size": SIZE,
        **_came_from(request),
    }
    return render(request, "trace/fault.html", context)
