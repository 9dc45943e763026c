"""Placing guides: where art goes on a garment; paper rulers and platen overlays at 1:1."""

from typing import Any

from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.preparing.size.guide import GuideSize
from tempermark.core.preparing.size.sheets import SHEETS_MM
from tempermark.files.preparing.overlay_pdf import Overlay, overlay_pdf
from tempermark.files.preparing.ruler_pdf import ruler_pdf
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs import actions
from tempermark.web.jobs.models import Job
from tempermark.web.jobs.queries import jobs_in_full
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.figures import length_text
from tempermark.web.kit.forms.editing import for_change
from tempermark.web.kit.forms.fields import LengthField, UnitForm, as_typed
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.records.audit import record
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.units import Units
from tempermark.web.prepare.tools.guide_forms import GuideForm, SizeForm, SizeRows
from tempermark.web.presses.queries import element_in_use
from tempermark.web.recipes.models import PlacingGuide


@require_GET
def guides(request: Request) -> HttpResponse:
    """All guides; for a job also choosing one of its sizes."""
    job = _job(request)
    rows = PlacingGuide.objects.filter(retired_at=None)
    if job is not None:
        rows = rows.filter(blank_kind=job.blank.kind)
    units = request.user.units
    context: dict[str, Any] = {
        "job": job,
        "guides": [(guide, [_row(guide, s, units, job) for s in guide.sizes]) for guide in rows],
        "retired": PlacingGuide.objects.exclude(retired_at=None),
    }
    return render(request, "prepare/guides.html", context)


@require_GET
def guide(request: Request, pk: int) -> HttpResponse:
    """One guide with its sizes."""
    found = get_object_or_404(PlacingGuide.objects.select_related("created_by"), pk=pk)
    rows = [_row(found, size, request.user.units, None) for size in found.sizes]
    return render(request, "prepare/guide.html", {"placing": found, "rows": rows})


@require_http_methods(["GET", "POST"])
def edit_guide(request: Request, pk: int | None = None) -> HttpResponse:
    """A new guide, or one that is measured again."""
    must_work(request.user)
    held = for_change(request, PlacingGuide.objects.all(), pk=pk) if pk else None
    units = form_units(request)
    posted = request.POST if request.method == "POST" else None
    initial = {n: getattr(held, n) for n in GuideForm.base_fields} if held else {}
    form = GuideForm(posted, initial=initial, record=held, units=units)
    own_rows = [as_typed(SizeForm, row, units) for row in held.rows] if held else []
    sizes = SizeRows(posted, initial=own_rows, prefix="size", form_kwargs={"units": units})
    if posted is not None and form.is_valid() and sizes.is_valid():
        rows = [dict(f.cleaned_data) for f in sizes.forms if f.cleaned_data.get("size")]
        if rows:
            return redirect(_save(request.user, held, form.cleaned_data, rows))
        form.add_error(None, "Enter at least one size: “one size” will do.")
    context = {"form": form, "sizes": sizes, "placing": held}
    status = 422 if posted is not None else 200
    return render(request, "prepare/guide_edit.html", context, status=status)


@transaction.atomic
def _save(
    user: User, held: PlacingGuide | None, data: dict[str, Any], rows: list[dict[str, Any]]
) -> PlacingGuide:
    values = data | {"rows": rows}
    if held is None:
        held = PlacingGuide.objects.create(created_by=user, **values)
    else:
        for name, value in values.items():
            setattr(held, name, value)
        held.save()
    record(user, "saved a placing guide", held)
    return held


@require_POST
def retire_guide(request: Request, pk: int) -> HttpResponse:
    """No longer offered, or offered again."""
    must_work(request.user)
    found = get_object_or_404(PlacingGuide, pk=pk)
    back = request.POST.get("back") == "1"
    found.retired_at = None if back else timezone.now()
    found.save(update_fields=["retired_at"])
    record(request.user, "brought a guide back" if back else "retired a guide", found)
    return redirect("prepare:guides")


@require_POST
def choose_guide(request: Request, pk: int) -> HttpResponse:
    """A job takes a guide's size, or none."""
    job = get_object_or_404(Job, pk=pk)
    key, _, size = request.POST.get("guide", "").partition(":")
    found = PlacingGuide.objects.filter(pk=row_key(key)).first() if key else None
    with refusal_shown(request):
        actions.choose_guide(request.user, job, found, size[:20])
    return redirect(job)


@require_GET
def ruler(request: Request, pk: int) -> HttpResponse:
    """The paper ruler of one size."""
    found = get_object_or_404(PlacingGuide, pk=pk)
    size = found.size(request.GET.get("size", ""))
    if size is None:
        raise Http404("There is no such size.")
    anchor = found.get_anchor_display()
    content = ruler_pdf(size.first_mm, found.first_edge, anchor, size.middle_mm)
    return attachment(content, "application/pdf", f"ruler-{slugify(found.name)}-{size.size}.pdf")


class OverlayForm(UnitForm):
    """Where the art lies on the platen."""

    left_mm = LengthField(label="Art from the left", low=-500, high=3000)
    front_mm = LengthField(label="Art from the front", low=-500, high=3000)
    width_mm = LengthField(label="Art, across", low=1, high=3000)
    depth_mm = LengthField(label="Art, front to back", low=1, high=3000)


@require_GET
def overlay(request: Request, slug: str) -> HttpResponse:
    """A platen on paper at 1:1 with the place of the art; PDF by `?sheet=`."""
    element = element_in_use(slug, request.GET.get("element", ""))
    units = form_units(request)
    job = _job(request)
    size = (job.art_width_mm, job.art_height_mm) if job else (200.0, 240.0)
    usual = {
        "left_mm": (element.width_mm - size[0]) / 2,
        "front_mm": (element.height_mm - size[1]) / 2,
        "width_mm": size[0],
        "depth_mm": size[1],
    }
    given = request.GET if "left_mm" in request.GET else as_typed(OverlayForm, usual, units)
    form = OverlayForm(given, units=units)
    context: dict[str, Any] = {"press": element.press, "element": element, "form": form, "job": job}
    if not form.is_valid():
        return render(request, "prepare/overlay.html", context)
    data = form.cleaned_data
    box = (data["left_mm"], data["front_mm"], data["width_mm"], data["depth_mm"])
    platen = (element.width_mm, element.height_mm)
    if "sheet" in request.GET:
        blank = _blank_box(job, box)
        drawn = Overlay(platen, box, blank, element.press.name)
        content = overlay_pdf(drawn, SHEETS_MM.get(request.GET["sheet"]))
        return attachment(content, "application/pdf", f"platen-{slug}.pdf")
    over = max(-box[0], -box[1], box[0] + box[2] - platen[0], box[1] + box[3] - platen[1])
    context |= {
        "over": length_text(over, request.user.units, 1) if over > 0 else "",
        "art": {"x": box[0], "y": platen[1] - box[1] - box[3], "w": box[2], "h": box[3]},
        "sheets": list(SHEETS_MM),
    }
    return render(request, "prepare/overlay.html", context)


def _blank_box(
    job: Job | None, art: tuple[float, float, float, float]
) -> tuple[float, float, float, float] | None:
    """The blank about the same middle as the art."""
    if job is None or not (job.blank.width_mm and job.blank.height_mm):
        return None
    wide, deep = job.blank.width_mm, job.blank.height_mm
    middle = (art[0] + art[2] / 2, art[1] + art[3] / 2)
    return (middle[0] - wide / 2, middle[1] - deep / 2, wide, deep)


def _job(request: Request) -> Job | None:
    key = row_key(request.GET.get("job", ""))
    return jobs_in_full().filter(pk=key).first() if key else None


def _row(guide: PlacingGuide, size: GuideSize, units: Units, job: Job | None) -> dict[str, Any]:
    row: dict[str, Any] = {"size": size.size, "text": placing_text(guide, size, units)}
    if job is not None:
        left = size.clearance_mm(job.art_width_mm)
        row["clearance"] = "" if left is None else length_text(left, units)
        row["is_clear"] = size.is_clear(job.art_width_mm)
        row["chosen"] = job.guide_id == guide.pk and job.guide_size == size.size
    return row


def placing_text(guide: PlacingGuide, size: GuideSize, units: Units) -> str:
    """Where the art goes, in a sentence."""
    down = length_text(size.first_mm, units)
    text = f"{str(guide.get_anchor_display()).capitalize()} {down} from the {guide.first_edge}"
    middle = size.middle_mm
    if middle is None or (size.second_mm is None and not guide.second_edge):
        return f"{text}, in the middle of the garment."
    edge = guide.second_edge or "side"
    return f"{text}, its middle {length_text(middle, units)} from the {edge}."
