"""What is being prepared in the demo's room: art, print settings, guides, prices, jobs."""

import io
import math
from datetime import datetime, timedelta
from typing import Any
from uuid import NAMESPACE_URL, uuid5

from PIL import Image, ImageDraw, ImageFont

from tempermark.web.accounts.models import User
from tempermark.web.jobs.models import Job, PlatenChange, Tick
from tempermark.web.presses.models import Element, Press
from tempermark.web.printing.actions import add_art
from tempermark.web.printing.models import Art, PrintSettings, PrintSettingsVersion
from tempermark.web.recipes.models import Blank, PlacingGuide, RecipeVersion
from tempermark.web.run.models import Lot
from tempermark.web.supplies.models import Currency, Price

PINE, CREAM, GOLD, NIGHT = "#14584a", "#f3eede", "#d9a441", "#1b2326"

PRINTED = (
    (
        ("Wide printer", "smooth transfer paper", "dye set A"),
        (
            {"mirrored_by": "driver", "quality": "high", "colours": "driver", "dries_s": 900.0},
            {
                "mirrored_by": "program",
                "quality": "best",
                "colours": "profile",
                "profile": "smooth A, panel",
                "ink_limit": 260,
                "dries_s": 720.0,
            },
        ),
    ),
    (
        ("Desk printer", "matte film", "dye set B"),
        (
            {
                "mirrored_by": "program",
                "quality": "high",
                "colours": "driver",
                "is_carried": True,
                "ink_limit": 180,
                "dries_s": 300.0,
                "side": "the matte one",
            },
        ),
    ),
)

GUIDES: tuple[dict[str, Any], ...] = (
    {
        "name": "Crew vest, chest",
        "blank_kind": "garment",
        "anchor": "top",
        "first_edge": "collar seam",
        "second_edge": "side seam",
        "rows": [
            {"size": "S", "first_mm": 70.0, "second_mm": None, "across_mm": 440.0},
            {"size": "M", "first_mm": 75.0, "second_mm": None, "across_mm": 480.0},
            {"size": "L", "first_mm": 80.0, "second_mm": None, "across_mm": 520.0},
        ],
    },
    {
        "name": "Cotton bag, front",
        "blank_kind": "bag",
        "anchor": "middle",
        "first_edge": "top hem",
        "rows": [{"size": "one size", "first_mm": 210.0, "second_mm": None, "across_mm": 380.0}],
    },
)

PRICES = {
    "paper": "3.60",
    "film": "14.50",
    "ink": "6.20",
    "coating": "28",
    "plain_paper": "0.06",
    "parchment": "0.35",
    "ptfe_sheet": "9.50",
    "wicking_cloth": "4.80",
    "foam_pillow": "16",
    "tape": "0.11",
    "kwh": "0.31",
    "hour": "24",
}
BLANK_PRICES = {
    "Crew vest, white": "6.40",
    "Bow-number board": "5.20",
    "Tapered steel beaker": "4.10",
    "Boat-house door plate": "2.30",
    "Cotton bag, natural": "1.90",
}
# Kind, name, material, uses by tap, browning, days old.
REUSED = (
    ("sheet", "P-9", "parchment", 11, 1, 20),
    ("sheet", "T-2", "ptfe_sheet", 64, 0, 90),
    ("pillow", "Small pillow", "foam_pillow", 130, 0, 300),
)
# Press, from and to in true °C, seconds, days ago.
CHANGES = (
    ("heron", 168.0, 201.0, 205.0, 9),
    ("heron", 201.0, 170.0, 640.0, 6),
    ("heron", 150.0, 200.0, 300.0, 2),
)
# Press, recipe, blank, pieces, art, size of the art in mm, charged, lines that are ticked.
JOBS = (
    (
        "coot",
        "dye-on-a-large-coated-aluminium-panel",
        "Bow-number board",
        8,
        "Bow number 4",
        (404.2, 303.4),
        "18",
        ("side", "film_off"),
    ),
    ("heron", "dye-on-a-polyester-vest", "Crew vest, white", 9, "Crew crest", (240, 240), "22", ()),
    (
        "dipper",
        "dye-on-a-tapered-steel-beaker",
        "Tapered steel beaker",
        12,
        "Waves",
        (180, 90),
        "16",
        (),
    ),
)


def build_preparing(technician: User, lead: User, noon: datetime) -> None:
    """All of it; jobs are some hours old."""
    arts = {
        name: add_art(technician, _png(draw()), name, 1, _key(f"art:{name}"))
        for name, draw in DRAWN.items()
    }
    printed = [_print_settings(lead, row, noon) for row in PRINTED]
    for guide in GUIDES:
        PlacingGuide.objects.create(created_by=lead, created_at=noon, **guide)
    Currency.objects.create(sign="€")
    Price.objects.bulk_create(Price(code=code, amount=amount) for code, amount in PRICES.items())
    for name, amount in BLANK_PRICES.items():
        Price.objects.create(code="blank", blank=Blank.objects.get(name=name), amount=amount)
    for kind, code, material, taps, browning, age in REUSED:
        Lot.objects.create(
            kind=kind,
            code=code,
            material=material,
            taps=taps,
            browning=browning,
            since=noon.date() - timedelta(days=age),
        )
    for slug, from_c, to_c, seconds, age in CHANGES:
        started = noon - timedelta(days=age)
        PlatenChange.objects.create(
            element=Element.objects.get(press__slug=slug),
            from_c=from_c,
            to_c=to_c,
            started_at=started,
            there_at=started + timedelta(seconds=seconds),
            by=technician,
            entry_key=_key(f"change:{slug}:{age}"),
        )
    for number, job in enumerate(JOBS):
        _job(job, arts, printed[0], technician, noon - timedelta(hours=3 - number))


def _print_settings(lead: User, row: Any, noon: datetime) -> PrintSettingsVersion:
    (printer, paper, inks), versions = row
    settings = PrintSettings.objects.create(printer=printer, paper=paper, inks=inks)
    found = [
        PrintSettingsVersion.objects.create(
            settings=settings,
            number=number,
            created_at=noon - timedelta(days=200 - 60 * number),
            created_by=lead,
            **({"side": "the brighter one"} | values),
        )
        for number, values in enumerate(versions, 1)
    ]
    return found[-1]


def _job(
    row: Any, arts: dict[str, Art], printed: PrintSettingsVersion, person: User, when: datetime
) -> None:
    press, recipe, blank, quantity, art, size, charge, ticked = row
    job = Job.objects.create(
        recipe=RecipeVersion.objects.filter(recipe__slug=recipe).first(),
        blank=Blank.objects.get(name=blank),
        press=Press.objects.get(slug=press),
        quantity=quantity,
        art=arts[art],
        art_width_mm=size[0],
        art_height_mm=size[0] * arts[art].ratio,
        print_settings=printed,
        charge=charge,
        created_by=person,
        created_at=when,
        entry_key=_key(f"job:{press}:{recipe}"),
    )
    for line in ticked:
        Tick.objects.create(job=job, line=line, by=person, at=when + timedelta(minutes=4))


def _key(name: str) -> Any:
    return uuid5(NAMESPACE_URL, f"demo:{name}")


def _png(picture: Image.Image) -> bytes:
    out = io.BytesIO()
    picture.save(out, "PNG", dpi=(150, 150))
    return out.getvalue()


def _board() -> Image.Image:
    """A bow number over a wake."""
    picture = Image.new("RGB", (2400, 1800), CREAM)
    draw = ImageDraw.Draw(picture)
    draw.rectangle((0, 1260, 2400, 1800), fill=PINE)
    for row in range(4):
        points = [(x, 1340 + 110 * row + 26 * math.sin(x / 95 + row)) for x in range(-20, 2440, 20)]
        draw.line(points, fill=CREAM, width=12)
    draw.text((1200, 640), "4", font=ImageFont.load_default(1050), fill=NIGHT, anchor="mm")
    draw.text(
        (1200, 1170), "VELLMERE REGATTA", font=ImageFont.load_default(120), fill=PINE, anchor="mm"
    )
    return picture


def _crest() -> Image.Image:
    """Two crossed oars in a ring, on nothing."""
    picture = Image.new("RGBA", (1600, 1600), (0, 0, 0, 0))
    draw = ImageDraw.Draw(picture)
    draw.ellipse((40, 40, 1560, 1560), fill=PINE)
    draw.ellipse((130, 130, 1470, 1470), fill=CREAM)
    for side in (-1, 1):
        low, high = (800 - side * 430, 1180), (800 + side * 360, 420)
        draw.line((*low, *high), fill=NIGHT, width=44)
        draw.ellipse((high[0] - 120, high[1] - 190, high[0] + 120, high[1] + 120), fill=GOLD)
    draw.text((800, 1290), "VELLMERE", font=ImageFont.load_default(150), fill=PINE, anchor="mm")
    return picture


def _waves() -> Image.Image:
    """A band of waves for a beaker."""
    picture = Image.new("RGB", (2200, 1000), CREAM)
    draw = ImageDraw.Draw(picture)
    for row in range(6):
        y = 480 + 95 * row
        points = [(x, y + 34 * math.sin(x / 110 + row * 0.9)) for x in range(0, 2220, 20)]
        draw.polygon([*points, (2200, 1000), (0, 1000)], fill=(PINE, GOLD)[row % 2])
    draw.text(
        (1100, 230), "REGATTA WEEK", font=ImageFont.load_default(210), fill=NIGHT, anchor="mm"
    )
    return picture


DRAWN = {"Bow number 4": _board, "Crew crest": _crest, "Waves": _waves}
