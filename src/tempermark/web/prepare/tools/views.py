"""Helpers that a line of the list leads to, and that can be opened by themselves: mixes, sheets."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.core.constants import EXPANSION_PER_K
from tempermark.core.preparing.coating.mix import use_by, volumes_ml
from tempermark.core.preparing.size.growth import PLACED_WITHIN_MM, ROOM_C, bleed, folded_mm
from tempermark.core.preparing.size.straight import SEEN_FROM_DEG, crooked_deg, off_at_end_mm
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.figures import length_text, size_text, volume_text
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.units import form_units
from tempermark.web.prepare.tools.forms import BleedForm, MixForm, StraightForm
from tempermark.web.presses.queries import fitted_first

USUAL_MIX = {
    "concentrate_parts": 1.0,
    "water_parts": 4.0,
    "bottle_ml": 500.0,
    "shelf_months": 6,
}
USUAL_PANEL = {
    "width_mm": 400.0,
    "height_mm": 300.0,
    "from_c": ROOM_C,
    "to_c": 195.0,
    "placement_mm": PLACED_WITHIN_MM,
}
USUAL_EDGE = {"offset_mm": 2.0, "apart_mm": 280.0, "side_mm": 300.0}


@require_GET
def mix(request: Request) -> HttpResponse:
    """How much of each goes into a bottle, and until when it is good."""
    units = form_units(request)
    usual = as_typed(MixForm, USUAL_MIX, units) | {"mixed_on": timezone.localdate().isoformat()}
    form = MixForm(request.GET if "bottle_ml" in request.GET else usual, units=units)
    context: dict[str, Any] = {"form": form}
    if form.is_valid():
        data = form.cleaned_data
        concentrate, water = volumes_ml(
            data["concentrate_parts"], data["water_parts"], data["bottle_ml"]
        )
        context |= {
            "concentrate": volume_text(concentrate, request.user.units),
            "water": volume_text(water, request.user.units),
            "use_by": use_by(data["mixed_on"], data["shelf_months"]),
            "data": data,
        }
    return render(request, "prepare/mix.html", context)


@require_GET
def bleed_page(request: Request) -> HttpResponse:
    """How much larger than a rigid blank its art must be."""
    units = form_units(request)
    usual = as_typed(BleedForm, USUAL_PANEL, units) | {"material": "aluminium"}
    form = BleedForm(request.GET if "to_c" in request.GET else usual, units=units)
    context: dict[str, Any] = {"form": form}
    if form.is_valid():
        data, mine = form.cleaned_data, request.user.units
        size = (data["width_mm"], data["height_mm"])
        alpha = EXPANSION_PER_K[data["material"]]
        plain = bleed(size, alpha, data["from_c"], data["to_c"], data["placement_mm"])
        found = folded_mm(plain, data["thickness_mm"] or 0.0, data["fold_mm"] or 0.0)
        context |= {
            "found": found,
            "folds": data["fold_mm"],
            "art": size_text(found.art_mm, mine, 1),
            "growth": [length_text(side, mine, 1) for side in found.growth_mm],
            "each": [length_text(side, mine, 1) for side in found.bleed_mm],
        }
    return render(request, "prepare/bleed.html", context)


@require_GET
def straight(request: Request) -> HttpResponse:
    """How crooked a print lies, and whether anybody will see it."""
    units = form_units(request)
    usual = as_typed(StraightForm, USUAL_EDGE, units)
    form = StraightForm(request.GET if "offset_mm" in request.GET else usual, units=units)
    context: dict[str, Any] = {"form": form}
    if form.is_valid():
        data, mine = form.cleaned_data, request.user.units
        angle = crooked_deg(data["offset_mm"], data["apart_mm"])
        context |= {
            "angle": f"{angle:.1f}°",
            "is_seen": angle >= SEEN_FROM_DEG,
            "offset": length_text(data["offset_mm"], mine, 1),
            "apart": length_text(data["apart_mm"], mine),
            "end": length_text(off_at_end_mm(data["side_mm"], angle), mine, 1),
        }
    return render(request, "prepare/straight.html", context)


@require_GET
def pick_press(request: Request, target: str) -> HttpResponse:
    """The press that a helper is about, where none is named yet."""
    presses = [
        (element.press, reverse(f"prepare:{target}", args=[element.press.slug]))
        for element in fitted_first().select_related("press").order_by("press__place", "pk")
    ]
    heading = PICKED_FOR[target]
    return render(request, "prepare/pick_press.html", {"rows": presses, "heading": heading})


@require_GET
def tools(request: Request) -> HttpResponse:
    """Every helper by its name, to be found by typing."""
    return render(request, "prepare/tools.html", {"tools": TOOLS})


# What a press is picked for.
PICKED_FOR = {
    "change": "Which press changes its setting?",
    "overlay": "Which platen is put on paper?",
}
# Name, address, what it answers, and other words somebody may type.
TOOLS = (
    ("Template of a vessel", "prepare:template", "the wrap of a mug or beaker at 1:1", "wrap arc"),
    ("Bleed", "prepare:bleed", "how much larger than a hot panel its art must be", "growth size"),
    ("Art on sheets", "prepare:sheets", "which paper, which way round, how many", "paper fit"),
    ("Art", "printing:arts", "pictures and drawings to print, mirrored at 1:1", "file dpi pdf svg"),
    ("Print settings", "printing:settings", "printer, paper and inks", "driver profile ink mirror"),
    ("Two jobs compared", "prepare:compare", "what differs between them", "difference"),
    ("Tablets", "lan:tablets", "how a tablet of the room is brought in", "phone network wifi lan"),
    ("Prices", "supplies:prices", "what blanks, paper, film and power cost", "money cost currency"),
    ("Lots and sheets", "run:lots", "age, uses and wear", "retire parchment tape pillow"),
    ("Mix a coating", "prepare:mix", "concentrate and water, and its last day", "ratio spray coat"),
    ("Sprayed coats", "prepare:spray", "how much of the bottle they take", "area ml mist"),
    ("Brushed varnish", "prepare:brush", "pieces that dry side by side", "stagger wood drying"),
    (
        "Cooling",
        "prepare:cooling",
        "when to peel, touch and pack",
        "rack table weight gloves",
    ),
    ("Hovering", "prepare:hover", "gap, time and turn over powder or a damp print", "melt dry"),
    (
        "Placing guides",
        "prepare:guides",
        "where art goes on a garment",
        "collar chest ruler",
    ),
    ("Changing a setting", "prepare:pick-change", "how long a platen takes", "heat up cool down"),
    ("The platen on paper", "prepare:pick-overlay", "where blank and art go, 1:1", "overlay place"),
    ("Straightness", "prepare:straight", "how crooked a print lies", "angle level placing"),
    ("Clocks", "prepare:clocks", "a wait that rings on every tablet", "timer countdown"),
    ("Windows", "heat:windows", "what works over time and temperature", "overlap share setting"),
    ("Which sleeve fits", "pressure:vessel", "a vessel in a wrap press", "mug tumbler gap"),
    ("Strokes across a cap’s seam", "pressure:cap", "the thinnest line that holds", "cap seam"),
    ("Seams under a print", "pressure:pieces", "where nothing presses", "zip button pillow"),
    ("What the fault looks like", "trace:faults", "42 faults drawn", "ghost blowout symptom"),
    ("Materials and kinds of blank", "recipes:library", "what heat knows of them", "library"),
)
