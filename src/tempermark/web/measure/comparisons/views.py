"""Pages of the comparison of a gun with a contact probe on a pad."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.wording import error_text
from tempermark.web.measure.comparisons import comparisons
from tempermark.web.measure.instruments.forms import ComparisonForm
from tempermark.web.measure.models import Instrument, InstrumentKind, PadComparison
from tempermark.web.measure.surveys import queries
from tempermark.web.measure.surveys.forms import initial_header
from tempermark.web.presses.queries import element_in_use


@require_http_methods(["GET", "POST"])
def new(request: Request, slug: str) -> HttpResponse:
    """Read pairs and learn from them."""
    must_work(request.user)
    element = element_in_use(slug)
    press = element.press
    initial = initial_header(element, queries.latest_survey(element))
    initial["gun"] = initial.pop("instrument", None) or _only(InstrumentKind.INFRARED)
    initial["probe"] = _only(InstrumentKind.CONTACT)
    form = ComparisonForm(request.POST or None, initial=initial, units=form_units(request))
    strange = False
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            kept = comparisons.keep(request.user, press, data["gun"], data["probe"], data)
            return redirect(kept)
        except InputError as error:
            form.add_error(None, error_text(error, form_units(request)))
            strange = error.problems[0].code == "strange"
    context = {"press": press, "form": form, "strange": strange}
    status = 422 if request.method == "POST" else 200
    return render(request, "measure/compare.html", context, status=status)


def _only(kind: str) -> Instrument | None:
    """The one instrument of a kind; None where there is a choice."""
    found = list(Instrument.objects.filter(kind=kind, retired=False)[:2])
    return found[0] if len(found) == 1 else None


@require_GET
def comparison(request: Request, pk: int) -> HttpResponse:
    """What a comparison taught."""
    found = PadComparison.objects.select_related("press", "gun", "probe", "taken_by")
    record = get_object_or_404(found, pk=pk)
    context = {
        "it": record,
        "press": record.press,
        "why_not": comparisons.why_not(record),
        "pairs": [(gun, probe, probe - gun) for gun, probe in record.pairs],
    }
    return render(request, "measure/comparison.html", context)


@require_POST
def withdraw(request: Request, pk: int) -> HttpResponse:
    """Let it count no more."""
    record = get_object_or_404(PadComparison, pk=pk)
    comparisons.withdraw(request.user, record)
    return redirect(record)
