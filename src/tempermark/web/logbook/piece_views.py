"""A piece by its label: all that was done to it, its photographs, and what it rests on."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.experiments.models import WashScore
from tempermark.web.kit.drawing.codes import code_response
from tempermark.web.kit.drawing.pictures import picture_response
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.logbook.comparing import wash_text
from tempermark.web.logbook.forms import PiecePhotoForm
from tempermark.web.logbook.provenance import chain
from tempermark.web.run.models import LogEntry, PiecePhoto, PressedPiece, TestPress
from tempermark.web.run.record.photos import add_photo as keep_photo
from tempermark.web.run.record.photos import shown

MOST_ENTRIES = 60


@require_GET
def find(request: Request) -> HttpResponse:
    """A label typed in: its piece."""
    code = request.GET.get("code", "").strip().upper().replace("-", "")[:12]
    found = PressedPiece.objects.filter(code=code).first() if code else None
    if found is not None:
        return redirect(found)
    return render(request, "logbook/find.html", {"code": code}, status=404 if code else 200)


@require_GET
def piece(request: Request, code: str) -> HttpResponse:
    """Everything about one piece."""
    found = _piece(code)
    presses = list(
        TestPress.every.filter(piece=found)
        .select_related("element__press", "recipe__recipe", "blank", "pressed_by", "run__job")
        .prefetch_related("marks", "fault_cases")
        .order_by("pressed_at", "pk")
    )
    main = [p for p in presses if p.step_number is None] or presses
    last = main[-1] if main else None
    washes = WashScore.objects.filter(washed__piece=found).select_related("washed__trial")
    entries = LogEntry.objects.filter(piece=found).select_related("by", "corrects")
    context = {
        "piece": found,
        "presses": presses,
        "last": last,
        "press": last.element.press if last else None,
        "chain": chain(last, request.user.units) if last else [],
        "photos": shown(found).select_related("added_by"),
        "photo_form": PiecePhotoForm(),
        "washes": [(score, wash_text(score)) for score in washes.order_by("washes", "pk")],
        "entries": entries.order_by("-pk")[:MOST_ENTRIES],
    }
    return render(request, "logbook/piece.html", context)


def _piece(code: str) -> PressedPiece:
    return get_object_or_404(
        PressedPiece.objects.select_related("run__job__blank"), code=code.upper()
    )


@require_GET
def code(request: Request, code: str) -> HttpResponse:
    """The label's QR code as SVG."""
    found = _piece(code)
    return code_response(request.build_absolute_uri(found.get_absolute_url()))


@require_POST
def add_photo(request: Request, code: str) -> HttpResponse:
    """A photograph of the piece."""
    must_work(request.user)
    found = _piece(code)
    form = PiecePhotoForm(request.POST, request.FILES)
    with refusal_shown(request):
        if not form.is_valid():
            raise InputError.single("file", "Choose a picture first.")
        data = form.cleaned_data
        keep_photo(
            request.user,
            found,
            data["file"].read(),
            form_key(request),
            washes=data["washes"] or 0,
            caption=data["caption"],
        )
    return redirect(found)


@require_GET
def photo(request: Request, pk: int, size: str) -> HttpResponse:
    """A photograph's bytes; always a JPEG that was encoded here."""
    column = "small" if size == "small" else "image"
    data = PiecePhoto.objects.filter(pk=pk).values_list(column, flat=True).first()
    return picture_response(data)


@require_POST
def withdraw_photo(request: Request, pk: int) -> HttpResponse:
    """A photograph that was taken of the wrong piece: it stays on record and is shown no more."""
    must_work(request.user)
    found = get_object_or_404(
        PiecePhoto.objects.defer("image", "small").select_related("piece"), pk=pk
    )
    with refusal_shown(request):
        found.withdraw(request.user, request.POST.get("why", ""))
        messages.success(request, "Withdrawn: the photograph stays on record.")
    return redirect(reverse("logbook:piece", args=[found.piece.code]))
