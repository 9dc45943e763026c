"""Pages of the certificates."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from tempermark.web.accounts.requests import Request
from tempermark.web.certificates import actions
from tempermark.web.certificates.content import facts, readings, shown_in
from tempermark.web.certificates.models import Certificate
from tempermark.web.certificates.pdf import as_pdf
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.measure.models import Survey


@require_POST
def sign(request: Request, pk: int) -> HttpResponse:
    """Sign a survey."""
    survey = get_object_or_404(Survey, pk=pk)
    with refusal_shown(request):
        return redirect(actions.sign(request.user, survey))
    return redirect(survey)


def _certificate(number: int, version: int) -> Certificate:
    found = Certificate.objects.select_related("survey__element__press", "signed_by")
    return get_object_or_404(found, number=number, version=version)


@require_GET
def certificate(request: Request, number: int, version: int) -> HttpResponse:
    """A certificate as signed."""
    record, units = _certificate(number, version), request.user.units
    shown = shown_in(record, units)
    context = {
        "certificate": record,
        "press": record.survey.element.press,
        "content": record.content,
        "shown": shown,
        "chart": shown["chart"],
        "facts": facts(record, units),
        "readings": readings(record.content, units),
        "whole": actions.is_whole(record),
        "others": record.survey.certificates.exclude(pk=record.pk),
    }
    return render(request, "certificates/certificate.html", context)


@require_GET
def pdf(request: Request, number: int, version: int) -> HttpResponse:
    """The certificate as PDF."""
    record = _certificate(number, version)
    name = f"certificate-{record.number:04d}-{record.version}.pdf"
    return attachment(as_pdf(record, request.user.units), "application/pdf", name)


@require_GET
def as_json(request: Request, number: int, version: int) -> HttpResponse:
    """The signed content, byte for byte what the hash is of."""
    record = _certificate(number, version)
    body = actions.canonical(record.content)
    name = f"certificate-{record.number:04d}-{record.version}.json"
    return attachment(body, "application/json", name)
