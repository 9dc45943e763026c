"""Art on sheets: which paper takes it, how the pieces lie, and the sheets as a PDF."""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET
from PIL import Image

from tempermark.core.errors import InputError
from tempermark.core.preparing.checklist import PRINTED_AS_READ
from tempermark.core.preparing.size.nesting.nest import nest_on_roll, nest_on_sheets
from tempermark.core.preparing.size.nesting.pieces import ArtPiece, Nesting, circle
from tempermark.core.preparing.size.sheets import SHEETS_MM, fit, smallest
from tempermark.files.art.artwork import MM_PER_IN, drawn
from tempermark.files.art.imposed import PieceArt, sheets_pdf
from tempermark.files.art.limits import LONGEST_MM
from tempermark.files.art.printed import print_dpi, printed_picture
from tempermark.files.art.silhouette import SIDE_PX, silhouette, to_ink
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs.models import Job
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.figures import length_text, size_text
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.prepare.jobs.placing import is_wrap, placement
from tempermark.web.prepare.tools.sheet_forms import OWN, ROLL, SheetForm
from tempermark.web.printing.models import Art

USUAL_ART = {
    "art_width_mm": 200.0,
    "art_height_mm": 240.0,
    "quantity": 1,
    "margin_mm": 5.0,
    "apart_mm": 5.0,
}
# Hatches by kind of piece: told apart without colour.
HATCHES = 6
OWN_NAME = "this art"


@dataclass(frozen=True)
class SheetAnswer:
    """The paper that was chosen, and what lies on it."""

    name: str
    size: str
    nesting: Nesting
    shapes: list[dict[str, Any]]
    view_box: str
    headline: str


@require_GET
def sheets(request: Request) -> HttpResponse:
    """Which sheet takes the art, which way round, how many to it, and how they lie."""
    form = _form(request)
    context: dict[str, Any] = {"form": form}
    if form.is_valid():
        data, units = form.cleaned_data, request.user.units
        art = (data["art_width_mm"], data["art_height_mm"])
        name = _paper(data)
        query = request.GET.urlencode() if "margin_mm" in request.GET else _query(form)
        context |= {
            "rows": _rows(data, art, units),
            "smallest": smallest(art, data["margin_mm"]),
            "art": size_text(art, units),
            "closely": "closely" in request.GET,
            "query": query,
            "shaped": data["shape"] in ("round", "outline"),
        }
        try:
            context["found"] = _answer(data, name, units, context["closely"]) if name else None
        except InputError as error:
            context["fault"] = str(error)
    return render(request, "prepare/sheets.html", context)


@require_GET
def printed(request: Request) -> HttpResponse:
    """Every sheet that is placed, with its art, as a PDF at 1:1."""
    form = _form(request)
    if not form.is_valid():
        return render(request, "prepare/sheets.html", {"form": form}, status=422)
    data = form.cleaned_data
    name = _paper(data)
    try:
        if not name:
            raise InputError.single("sheet", "No sheet takes this art.")
        nesting = _nesting(data, name, "closely" in request.GET)
        content = sheets_pdf(nesting, _pictures(data))
    except InputError as error:
        context = {"form": form, "fault": str(error)}
        return render(request, "prepare/sheets.html", context, status=422)
    return attachment(content, "application/pdf", "art-on-sheets.pdf")


def _form(request: Request) -> SheetForm:
    units = form_units(request)
    usual = as_typed(SheetForm, USUAL_ART, units) | {
        name: request.GET[name] for name in (*USUAL_ART, "art", "shape") if name in request.GET
    }
    return SheetForm(request.GET if "margin_mm" in request.GET else usual, units=units)


def _paper(data: dict[str, Any]) -> str | None:
    """The paper chosen, else the smallest sheet that takes the art, else the roll."""
    art = (data["art_width_mm"], data["art_height_mm"])
    roll = ROLL if data["roll_mm"] else None
    return data["sheet"] or smallest(art, data["margin_mm"]) or roll


def _query(form: SheetForm) -> str:
    return urlencode({"units": form.units.code} | {k: v for k, v in form.data.items() if v})


def _rows(data: dict[str, Any], art: tuple[float, float], units: Units) -> list[dict[str, Any]]:
    """Each sheet with what it takes in straight rows."""
    found = []
    for name, size in SHEETS_MM.items():
        way = fit(art, size, data["margin_mm"], data["apart_mm"])
        found.append(
            {
                "name": name,
                "size": size_text(size, units),
                "way": way,
                "needed": way.sheets_for(data["quantity"]) if way else None,
            }
        )
    return found


def _answer(data: dict[str, Any], name: str, units: Units, closely: bool) -> SheetAnswer:
    nesting = _nesting(data, name, closely)
    wide, high = nesting.sheet_mm
    label = {OWN: "a sheet of our own", ROLL: "the roll"}.get(name, name)
    if name == ROLL:
        size = f"{length_text(wide, units)} × {length_text(nesting.length_mm, units)}"
    else:
        size = size_text(nesting.sheet_mm, units)
    view_box = f"0 0 {wide:.2f} {high:.2f}"
    headline = _headline(nesting, label, units)
    return SheetAnswer(label, size, nesting, _shapes(nesting), view_box, headline)


def _headline(nesting: Nesting, paper: str, units: Units) -> str:
    """What does not fit, else how many lie on the paper and how much of it they take."""
    if nesting.left:
        names = " and ".join(piece.name for piece in nesting.left)
        return f"Too large for {paper}: {names}."
    first = len(nesting.sheets[0])
    if nesting.length_mm:
        return f"{first} on {length_text(nesting.length_mm, units)} of {paper}."
    needed = nesting.sheets_needed
    return f"{first} on {paper}, {needed} sheet{'' if needed == 1 else 's'}."


def _nesting(data: dict[str, Any], name: str, closely: bool) -> Nesting:
    pieces, margins = _pieces(data), (data["margin_mm"], data["apart_mm"])
    if name == ROLL:
        return nest_on_roll(pieces, data["roll_mm"], *margins, closely)
    own = (data["own_width_mm"], data["own_height_mm"])
    return nest_on_sheets(pieces, own if name == OWN else SHEETS_MM[name], *margins, closely)


def _shapes(nesting: Nesting) -> list[dict[str, Any]]:
    """The first sheet's pieces as polygons, y downwards, each with the hatch of its kind."""
    if not nesting.sheets:
        return []
    kinds: dict[str, int] = {}
    high, found = nesting.sheet_mm[1], []
    for placed in nesting.sheets[0]:
        hatch = kinds.setdefault(placed.piece.name, len(kinds)) % HATCHES
        points = " ".join(f"{x:.2f},{high - y:.2f}" for x, y in placed.shape.exterior.coords)
        low_x, low_y, high_x, high_y = placed.shape.bounds
        found.append(
            {
                "points": points,
                "hatch": hatch,
                "name": placed.piece.name,
                "x": f"{(low_x + high_x) / 2:.2f}",
                "y": f"{high - (low_y + high_y) / 2:.2f}",
            }
        )
    return found


def _pieces(data: dict[str, Any]) -> list[ArtPiece]:
    """The art of the form, and that of other jobs."""
    size = (data["art_width_mm"], data["art_height_mm"])
    name = data["art"].name if data["art"] else OWN_NAME
    if data["shape"] == "round":
        own = circle(name, size[0], data["quantity"])
    elif data["shape"] == "outline":
        own = _outlined(data["art"], name, size, data["quantity"])
    else:
        own = ArtPiece(name, size, data["quantity"])
    return [own, *[_of_job(job) for job in data.get("job", ())]]


def _of_job(job: Job) -> ArtPiece:
    page = placement(job).placed.page_mm
    return ArtPiece(_job_name(job), page, job.quantity)


def _job_name(job: Job) -> str:
    return f"{job.blank.name}, job {job.pk}"


def _outlined(art: Art, name: str, size: tuple[float, float], quantity: int) -> ArtPiece:
    """Art by its outline, mirrored as it is printed."""
    wide = SIDE_PX if art.ratio <= 1 else round(SIDE_PX / art.ratio)
    picture = drawn(art.kind, bytes(art.data), wide, max(1, round(wide * art.ratio)))
    inked, inked_mm = to_ink(picture, size)
    outline = silhouette(inked, inked_mm)
    high_x, high_y = (max(point[i] for point in outline) for i in (0, 1))
    mirrored = tuple((high_x - x, y) for x, y in outline)
    return ArtPiece(name, (high_x, high_y), quantity, mirrored)


def _pictures(data: dict[str, Any]) -> dict[str, PieceArt]:
    """The art of each kind of piece as it is printed: mirrored, at its size."""
    found = {}
    if data["art"]:
        art = data["art"]
        size = (data["art_width_mm"], data["art_height_mm"])
        found[art.name] = _mirrored(art, size, cropped=data["shape"] == "outline")
    for job in data.get("job", ()):
        if job.art is None or is_wrap(job):
            continue
        placed = placement(job).placed
        mirrored = job.recipe.recipe.method not in PRINTED_AS_READ
        picture = printed_picture(job.art.artwork, placed, mirrored)
        found[_job_name(job)] = PieceArt(picture, placed.page_mm)
    return found


def _mirrored(art: Art, size: tuple[float, float], cropped: bool) -> PieceArt:
    if max(size) > LONGEST_MM:
        raise InputError.single("art_width_mm", "The art is too large to draw.")
    per_mm = print_dpi(art.artwork, size) / MM_PER_IN
    pixels = [max(1, round(side * per_mm)) for side in size]
    picture = drawn(art.kind, bytes(art.data), pixels[0], pixels[1])
    if cropped:
        picture, size = to_ink(picture, size)
    return PieceArt(picture.transpose(Image.Transpose.FLIP_LEFT_RIGHT), size)
