"""Photographs of the pieces of a run, and the labels of its pieces."""

from django.core.files.uploadedfile import UploadedFile
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.bench import actions, queries
from tempermark.web.kit.addresses import opens_only_here
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.run.models import Run
from tempermark.web.run.record.photos import add_photo

REFUSED = 422
# A sheet of labels is printed for so many pieces at most.
MOST_LABELS = 200


@require_POST
def add(request: Request, pk: int) -> HttpResponse:
    """A photograph of a piece from the device's camera or a file; sent again it is kept once."""
    must_work(request.user)
    run = get_object_or_404(Run, pk=pk)
    number = row_key(request.POST.get("piece", "")) or 1
    upload = request.FILES.get("file")
    try:
        if not isinstance(upload, UploadedFile):
            raise InputError.single("file", "There is no picture in what was sent.")
        piece = actions.piece_of_run(run, number)
        add_photo(request.user, piece, upload.read(), form_key(request))
    except InputError as refused:
        return JsonResponse({"text": str(refused)}, status=REFUSED)
    return JsonResponse({"text": f"Photograph of piece {number} kept."})


@require_http_methods(["GET", "POST"])
def labels(request: Request, pk: int) -> HttpResponse:
    """Labels of a run's pieces to print; asked for, pieces that are still to come get theirs."""
    run = get_object_or_404(queries.runs(), pk=pk)
    if request.method == "POST":
        must_work(request.user)
        actions.label_pieces(request.user, run, min(MOST_LABELS, run.job.quantity))
        return redirect("bench:labels", pk)
    rows = list(run.pieces.order_by("number")[:MOST_LABELS])
    context = {
        "run": run,
        "press": run.element.press,
        "rows": rows,
        "left": min(MOST_LABELS, run.job.quantity) - len(rows),
        "only_here": opens_only_here(request.build_absolute_uri("/")),
    }
    return render(request, "bench/labels.html", context)
