"""The calibration line of a press: what to set for any true temperature, anywhere."""

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.units import form_units
from tempermark.web.measure.press import line
from tempermark.web.measure.press.press_temperature import press_temperature, true_temperature
from tempermark.web.measure.surveys import queries
from tempermark.web.measure.surveys.forms import TargetForm
from tempermark.web.presses.queries import element_in_use


@require_GET
def calibration(request: Request, slug: str) -> HttpResponse:
    """The line with its band, for one target."""
    element, now = element_in_use(slug, request.GET.get("element", "")), timezone.now()
    press, units = element.press, request.user.units
    known = press_temperature(element, now)
    usual_c = known.survey.target_c if known and element.own_setting else press.target_c
    given = request.GET if "target_c" in request.GET else None
    form = TargetForm(given, units=form_units(request), initial={"target_c": usual_c})
    target_c = form.cleaned_data["target_c"] if form.is_valid() else usual_c
    context = {"press": press, "element": element, "form": form}
    if known is not None:
        dial = known.dial_for(target_c)
        set_c = dial.set_c
        surveys = queries.of_line(element, known.survey)
        summary = line.summary(
            known.line, element.called, target_c, dial, known.is_far(set_c), units
        )
        places = line.ninths_mm(element)
        at = true_temperature(element, places, set_c, now, known.history)
        context |= {
            "summary": summary,
            "target_c": target_c,
            "set_c": set_c,
            "surveys": surveys,
            "chart": line.line_chart(known.line, surveys, target_c, units),
            "places": at and line.place_settings(at, target_c, set_c, units),
        }
    status = 422 if form.errors else 200
    return render(request, "measure/calibration.html", context, status=status)
