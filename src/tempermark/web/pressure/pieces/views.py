"""What fits: seams under a print, vessels in sleeves, caps."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.metrology.map.usable import Rectangle
from tempermark.core.pressure.pieces import shadow as shadows
from tempermark.core.pressure.pieces.placing import RaisedOutline, grown, nearest_clear, overlaps
from tempermark.core.pressure.press.spring import SpringPad, usual_pad
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.figures import length_text
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import in_words
from tempermark.web.pressure import actions, mapping
from tempermark.web.pressure.forms import PieceForm, RaisedForm
from tempermark.web.pressure.maps import charts
from tempermark.web.pressure.models import RaisedPart
from tempermark.web.recipes.models import Blank

# A piece whose size is not noted is drawn so.
USUAL_PIECE_MM = (480.0, 560.0)
MIDDLE_KPA = 32.0
PATHS = {"mug": "vessel", "tumbler": "vessel", "cap": "cap"}


@require_GET
def pieces(request: Request) -> HttpResponse:
    """Every blank, or those named like it, with what there is to fit about each."""
    query = request.GET.get("q", "").strip()[:80]
    found = Blank.objects.filter(name__icontains=query).prefetch_related("raised_parts")
    blanks = [
        {"blank": b, "way": PATHS.get(b.kind, "piece"), "raised": len(b.raised_parts.all())}
        for b in found
    ]
    return render(request, "pressure/pieces.html", {"blanks": blanks, "query": query})


def _size(blank: Blank) -> tuple[float, float]:
    return mapping.size_of(blank) or USUAL_PIECE_MM


@require_http_methods(["GET", "POST"])
def piece(request: Request, pk: int) -> HttpResponse:
    """Seams and buttons of a blank, what they shade, and where a print keeps clear."""
    blank = get_object_or_404(Blank, pk=pk)
    raised_form = RaisedForm(request.POST or None, units=form_units(request))
    if request.method == "POST":
        must_work(request.user)
        if raised_form.is_valid():
            actions.add_raised(request.user, blank, raised_form.cleaned_data)
            messages.success(request, "Drawn on the piece.")
            return redirect("pressure:piece", pk)
    context = _piece(request, blank) | {"raised_form": raised_form}
    return render(
        request, "pressure/piece.html", context, status=422 if raised_form.errors else 200
    )


@require_GET
def piece_fragment(request: Request, pk: int) -> HttpResponse:
    """The answer again, for another place of the print."""
    blank = get_object_or_404(Blank, pk=pk)
    return render(request, "pressure/_piece.html", _piece(request, blank))


def _piece(request: Request, blank: Blank) -> dict[str, Any]:
    size = _size(blank)
    query = request.GET if "print_x_mm" in request.GET else None
    units = form_units(request)
    form = PieceForm(query or as_typed(PieceForm, _usual_print(size), units), units=units)
    parts = list(blank.raised_parts.all())
    context = {"blank": blank, "form": form, "parts": parts, "size": size}
    if not form.is_valid():
        return context
    data = form.cleaned_data
    print_ = Rectangle(
        data["print_x_mm"], data["print_y_mm"], data["print_width_mm"], data["print_depth_mm"]
    )
    pad = usual_pad("silicone")
    steps = [
        RaisedOutline(Rectangle(p.x_mm, p.y_mm, p.width_mm, p.depth_mm), p.rises_mm, _called(p))
        for p in parts
        if not (data["threaded"] and p.on_back)
    ]
    each = mapping.thickness_mm(blank)
    context |= {
        "threaded": data["threaded"],
        "two_layered": mapping.usual_layers(blank) == 2,
        "one_mm": each,
        "two_mm": 2 * each,
        "left_out": len(parts) - len(steps),
    }
    return context | _fit_of(
        print_, steps, pad, data["contact_kpa"], data["pillow_mm"], size, request.user.units
    )


def _called(part: RaisedPart) -> str:
    return f"{part.get_kind_display()} behind" if part.on_back else part.get_kind_display()


def _usual_print(size: tuple[float, float]) -> dict[str, Any]:
    wide, high = min(200.0, 0.6 * size[0]), min(240.0, 0.5 * size[1])
    return {
        "print_x_mm": round((size[0] - wide) / 2),
        "print_y_mm": round((size[1] - high) / 2),
        "print_width_mm": round(wide),
        "print_depth_mm": round(high),
        "contact_kpa": MIDDLE_KPA,
        "pillow_mm": 0,
        "threaded": "0",
    }


def _fit_of(
    print_: Rectangle,
    steps: list[RaisedOutline],
    pad: SpringPad,
    contact_kpa: float,
    pillow_mm: float,
    size: tuple[float, float],
    units: Units,
) -> dict[str, Any]:
    """Each step's shadow as pressed now, what a pillow does to it, and the nearest clear place."""
    rows: list[dict[str, Any]] = []
    dark = []
    for step in steps:
        bare = shadows.shadow(step.height_mm, pad, contact_kpa)
        now, raised = bare, None
        pillow = usual_pad("pillow", pillow_mm or None)
        if pillow_mm:
            raised = shadows.with_pillow(step.height_mm, pillow, pad, contact_kpa)
            now = raised.shadow
        reach = now.reach_mm.high
        zone = grown(step.outline, reach) if reach > 0 else None
        hit = zone is not None and overlaps(print_, zone)
        if zone is not None:
            dark.append(zone)
        rows.append(
            {
                "step": step,
                "bare": bare,
                "now": now,
                "raised": raised,
                "hit": hit,
                "under": overlaps(print_, step.outline),
                "pillow_mm": shadows.thinnest_pillow_mm(step.height_mm, pillow, contact_kpa),
            }
        )
    within = Rectangle(0.0, 0.0, *size)
    move = nearest_clear(print_, dark, within) if any(r["hit"] for r in rows) else None
    moved = None
    if move is not None:
        moved = Rectangle(
            print_.x_mm + move[0], print_.y_mm + move[1], print_.width_mm, print_.height_mm
        )
    hits = [r for r in rows if r["hit"]]
    return {
        "rows": rows,
        "hits": hits,
        "hit_names": _joined([f"the {r['step'].name}" for r in hits]),
        "move": move and _move_words(move, units),
        "moved": moved,
        "pillow_needed": max((r["pillow_mm"] for r in hits), default=None),
        "drawing": charts.piece_drawing(size, print_, steps, dark, moved),
        "off_piece": not _inside(print_, within),
        "worst": max((r["now"].reach_mm.high for r in hits), default=None),
    }


def _joined(names: list[str]) -> str:
    """`the zip, the hem and the seam`."""
    return in_words(list(dict.fromkeys(names)))


def _inside(print_: Rectangle, within: Rectangle) -> bool:
    return (
        print_.x_mm + print_.width_mm <= within.width_mm
        and print_.y_mm + print_.height_mm <= within.height_mm
    )


def _move_words(move: tuple[float, float], units: Units) -> str:
    ways = (("right", "left", move[0]), ("back", "forward", move[1]))
    parts = [
        f"{length_text(abs(by), units)} {name if by > 0 else other}"
        for name, other, by in ways
        if abs(by) > 0.5
    ]
    return " and ".join(parts) or "a hair"


@require_POST
def remove_raised(request: Request, pk: int) -> HttpResponse:
    """Take a raised part off the drawing."""
    part = get_object_or_404(RaisedPart.objects.select_related("blank"), pk=pk)
    blank = part.blank_id
    actions.remove_raised(request.user, part)
    messages.success(request, "Taken off the drawing.")
    return redirect("pressure:piece", blank)
