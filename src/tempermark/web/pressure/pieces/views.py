"""What fits: seams under a print, vessels in sleeves, caps."""

from typing import Any

import numpy as np
from django.contrib import messages
from django.db.models import QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.core.metrology.map.usable import Rectangle
from tempermark.core.pressure.pieces import cap as caps
from tempermark.core.pressure.pieces import shadow as shadows
from tempermark.core.pressure.pieces import vessel as vessels
from tempermark.core.pressure.pieces.placing import RaisedOutline, grown, nearest_clear, overlaps
from tempermark.core.pressure.press.spring import SpringPad, usual_pad
from tempermark.core.vocabulary.things import VESSEL_KINDS
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.measure.surveys import queries as temperatures
from tempermark.web.presses.models import Element, Press, PressKind
from tempermark.web.pressure import actions, mapping, queries
from tempermark.web.pressure.forms import CapForm, PieceForm, RaisedForm, VesselForm
from tempermark.web.pressure.maps import charts
from tempermark.web.pressure.models import RaisedPart
from tempermark.web.recipes.blanks.sleeves import tube_of
from tempermark.web.recipes.models import Blank

# A piece whose size is not noted is drawn so.
USUAL_PIECE_MM = (480.0, 560.0)
MIDDLE_KPA = 32.0
# Sleeve ends lie open to the room; they are warmed by what they touch. Starting value.
OPENING_SHARE = 0.65
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
    raised_form = RaisedForm(request.POST or None)
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
    form = PieceForm(query or _usual_print(size))
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
    return context | _fit_of(print_, steps, pad, data["contact_kpa"], data["pillow_mm"], size)


def _called(part: RaisedPart) -> str:
    return f"{part.get_kind_display()} behind" if part.on_back else part.get_kind_display()


def _usual_print(size: tuple[float, float]) -> dict[str, Any]:
    wide, high = min(200.0, 0.6 * size[0]), min(240.0, 0.5 * size[1])
    return {
        "print_x_mm": f"{(size[0] - wide) / 2:.0f}",
        "print_y_mm": f"{(size[1] - high) / 2:.0f}",
        "print_width_mm": f"{wide:.0f}",
        "print_depth_mm": f"{high:.0f}",
        "contact_kpa": f"{MIDDLE_KPA:g}",
        "pillow_mm": "0",
        "threaded": "0",
    }


def _fit_of(
    print_: Rectangle,
    steps: list[RaisedOutline],
    pad: SpringPad,
    contact_kpa: float,
    pillow_mm: float,
    size: tuple[float, float],
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
        "move": move and _move_words(move),
        "moved": moved,
        "pillow_needed": max((r["pillow_mm"] for r in hits), default=None),
        "drawing": charts.piece_drawing(size, print_, steps, dark, moved),
        "off_piece": not _inside(print_, within),
        "worst": max((r["now"].reach_mm.high for r in hits), default=None),
    }


def _joined(names: list[str]) -> str:
    """`the zip, the hem and the seam`."""
    unique = list(dict.fromkeys(names))
    return " and ".join([", ".join(unique[:-1]), unique[-1]] if len(unique) > 1 else unique)


def _inside(print_: Rectangle, within: Rectangle) -> bool:
    return (
        print_.x_mm + print_.width_mm <= within.width_mm
        and print_.y_mm + print_.height_mm <= within.height_mm
    )


def _move_words(move: tuple[float, float]) -> str:
    ways = (("right", "left", move[0]), ("back", "forward", move[1]))
    parts = [
        f"{abs(by):.0f} mm {name if by > 0 else other}" for name, other, by in ways if abs(by) > 0.5
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


@require_GET
def vessel(request: Request, pk: int | None = None) -> HttpResponse:
    """Which sleeve holds a vessel without a gap, where its rims stay cool, the second press."""
    blank = get_object_or_404(Blank, pk=pk) if pk else None
    query = request.GET if "top_mm" in request.GET else None
    form = VesselForm(query or _usual_vessel(blank))
    context = {"form": form, "blank": blank, "vessels": _vessels()}
    context["ask"] = query is None and blank is not None and tube_of(blank) is None
    if context["ask"]:
        return render(request, "pressure/vessel.html", context)
    if form.is_valid():
        data = form.cleaned_data
        tube = vessels.Tube(data["top_mm"], data["bottom_mm"], data["height_mm"])
        rows = [_sleeve_row(s, tube, data["art_mm"]) for s in queries.sleeves()]
        rows.sort(key=lambda r: (not r["fits"], r["widest"]))
        context |= {"rows": rows, "best": rows[0] if rows and rows[0]["fits"] else None}
    return render(request, "pressure/vessel.html", context, status=422 if form.errors else 200)


def _vessels() -> QuerySet[Blank]:
    return Blank.objects.filter(kind__in=VESSEL_KINDS)


def _usual_vessel(blank: Blank | None) -> dict[str, Any]:
    """A vessel as noted; of a blank whose diameters nobody noted nothing is guessed."""
    given = {"top_mm": "82", "bottom_mm": "82", "height_mm": "95", "art_mm": "200"}
    if blank is None:
        return given
    if tube_of(blank) is None:
        given = dict.fromkeys(given, "")
    noted = {
        "top_mm": blank.top_diameter_mm,
        "bottom_mm": blank.bottom_diameter_mm,
        "height_mm": blank.height_mm,
        "art_mm": blank.width_mm,
    }
    return given | {name: f"{value:g}" for name, value in noted.items() if value}


def _sleeve_row(element: Element, tube: vessels.Tube, art_mm: float) -> dict[str, Any]:
    top = element.top_diameter_mm or element.bottom_diameter_mm
    bottom = element.bottom_diameter_mm or element.top_diameter_mm
    sleeve = vessels.Tube(top, bottom, element.height_mm)
    row = {"element": element, "in_use": element.taken_out_on is None}
    try:
        seat = vessels.seat(tube, sleeve, element.closes_by_mm or vessels.CLOSES_BY_MM)
    except InputError as error:
        return row | {"fits": False, "widest": 1e9, "reason": str(error), "seat": None}
    row |= {"fits": seat.fits, "widest": seat.widest_mm, "reason": seat.reason, "seat": seat}
    return row | _warmth(element, tube, art_mm) if seat.fits else row


def _warmth(element: Element, tube: vessels.Tube, art_mm: float) -> dict[str, Any]:
    """The second short press and cool rims by the sleeve's temperature map; nothing without one."""
    survey = temperatures.latest_survey(element)
    computed = compute_survey(survey) if survey else None
    mapped = computed.result.map if computed and computed.result else None
    if mapped is None:
        return {"unmapped": True}
    around = float(np.pi * (tube.top_mm + tube.bottom_mm) / 2)
    columns, rows = mapped.map_c.mean(axis=0), mapped.map_c.mean(axis=1)
    room = survey.ambient_c
    opening = room + OPENING_SHARE * (float(columns.mean()) - room)
    second = vessels.second_press(columns, element.width_mm, around, art_mm, opening)
    low = survey.target_c + (float(mapped.map_c.mean()) - survey.target_c) - survey.tolerance_c
    lower, upper = vessels.rim_zone_mm(rows, element.height_mm, low)
    return {"second": second, "rims": (lower, upper), "around": around, "surveyed": survey}


@require_GET
def cap(request: Request, pk: int | None = None) -> HttpResponse:
    """A cap's seam, and the thinnest stroke that may cross it."""
    blank = get_object_or_404(Blank, pk=pk) if pk else None
    query = request.GET if "panels" in request.GET else None
    form = CapForm(query or _usual_cap(blank))
    context = {"form": form, "blank": blank, "presses": _cap_presses()}
    if form.is_valid():
        data = form.cleaned_data
        front = caps.CapFront.of(data["panels"], data["seam_at_mm"])
        found = caps.crossing(
            front,
            data["art_width_mm"],
            data["art_off_mm"],
            usual_pad("silicone"),
            data["contact_kpa"],
            data["seam_height_mm"],
        )
        context |= {
            "found": found,
            "front": front,
            "stroke": data["stroke_mm"],
            "too_thin": found.crosses and data["stroke_mm"] < found.thinnest_stroke_mm,
        }
    return render(request, "pressure/cap.html", context, status=422 if form.errors else 200)


def _usual_cap(blank: Blank | None) -> dict[str, Any]:
    return {
        "panels": str(blank.panels if blank and blank.panels else 6),
        "seam_at_mm": "",
        "seam_height_mm": f"{caps.SEAM_HEIGHT_MM:g}",
        "art_width_mm": "90",
        "art_off_mm": "0",
        "stroke_mm": "3",
        "contact_kpa": f"{MIDDLE_KPA:g}",
    }


def _cap_presses() -> list[dict[str, Any]]:
    """Cap presses with the dial of each heated element that has its own."""
    found = []
    for press in Press.objects.filter(kind=PressKind.CAP):
        fitted = press.elements.filter(taken_out_on=None).select_related("press").order_by("pk")
        rows = [
            {
                "element": e,
                "advice": advised_dial(e, press.target_c, timezone.now()),
                "own": e.own_setting,
            }
            for e in fitted
        ]
        found.append({"press": press, "rows": rows})
    return found
