"""Photographs of presses: added, shown, taken away and put back."""

from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.drawing.pictures import picture_response, remade
from tempermark.web.kit.records.audit import record
from tempermark.web.presses.forms import PhotoForm
from tempermark.web.presses.models import Press, PressPhoto

MOST_PHOTOS = 40


@transaction.atomic
def add_photo(user: User, press: Press, raw: bytes, caption: str) -> PressPhoto:
    """Keep a picture of a press; InputError when it is none, or there are too many."""
    must_work(user)
    if press.photos.filter(taken_away_at=None).count() >= MOST_PHOTOS:
        raise InputError.single(None, f"{MOST_PHOTOS} pictures are there: remove one first.")
    image, small, (width, height) = remade(raw)
    photo = PressPhoto.objects.create(
        press=press,
        image=image,
        small=small,
        width=width,
        height=height,
        caption=caption,
        added_by=user,
    )
    record(user, "added photograph", photo, press=press.pk)
    return photo


@transaction.atomic
def take_away(user: User, photo: PressPhoto, back: bool) -> None:
    """Take a picture away, or put it back."""
    must_work(user)
    photo.taken_away_at = None if back else timezone.now()
    photo.save(update_fields=["taken_away_at"])
    record(user, "put photograph back" if back else "took photograph away", photo)


def shown(press: Press) -> QuerySet[PressPhoto]:
    """A press's pictures, newest first, without their bytes."""
    return press.photos.filter(taken_away_at=None).defer("image", "small")


@require_http_methods(["GET", "POST"])
def photos(request: Request, slug: str) -> HttpResponse:
    """The press's pictures, and adding one."""
    press = get_object_or_404(Press, slug=slug)
    form = PhotoForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        raw = form.cleaned_data["file"].read()
        try:
            add_photo(request.user, press, raw, form.cleaned_data["caption"])
            return redirect("presses:photos", slug=slug)
        except InputError as error:
            form.add_error("file", str(error))
    away = press.photos.exclude(taken_away_at=None).order_by("-taken_away_at")
    context = {
        "press": press,
        "form": form,
        "photos": shown(press).select_related("added_by"),
        "away": away.defer("image", "small").first(),
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "presses/photos.html", context, status=status)


@require_GET
def photo(request: Request, pk: int, size: str) -> HttpResponse:
    """A picture's bytes; always a JPEG of our own making."""
    found = PressPhoto.objects.filter(pk=pk, taken_away_at=None)
    column = "small" if size == "small" else "image"
    data = found.values_list(column, flat=True).first()
    return picture_response(data)


@require_POST
def change_photo(request: Request, pk: int) -> HttpResponse:
    """Take a picture away, or put it back."""
    kept = get_object_or_404(PressPhoto.objects.select_related("press"), pk=pk)
    take_away(request.user, kept, back="back" in request.POST)
    return redirect("presses:photos", slug=kept.press.slug)
