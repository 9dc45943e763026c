"""A small room for tests, made with the application's own actions."""

import re
from datetime import timedelta
from functools import partial
from uuid import uuid4

import numpy as np
from bs4 import BeautifulSoup
from django.db.models import F
from django.utils import timezone

from tempermark.web.accounts.models import User
from tempermark.web.measure.models import Method, Reading, Survey
from tempermark.web.measure.surveys import actions
from tempermark.web.measure.surveys.forms import HEADER_FIELDS
from tempermark.web.measure.surveys.grids import STEP_BY_STEP, grid_places, spot_station
from tempermark.web.presses.models import Element, Press
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import Blank, Recipe
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces import actions as runs

PASSWORD = "regatta-week-demo"


def person(name, role, **fields):
    return User.objects.create_user(name, password=PASSWORD, role=role, **fields)


def element(name, **press):
    made = Press.objects.create(name=name, slug=name.lower(), kind="swing_away", **press)
    return Element.objects.create(press=made, width_mm=400.0, height_mm=500.0)


def header(**changes):
    fields = {name: Survey._meta.get_field(name).default for name in HEADER_FIELDS}
    fields |= {"set_c": 195.0, "target_c": 195.0, "method": "corrected", "note": "", "delay_s": 0.0}
    return fields | {"instrument_uncertainty_c": 0.5, "repeatability_c": 0.5} | changes


def true_platen(x_mm, y_mm):
    """What the room's platen really is, dial at 195: 5 K low, colder at the back left."""
    corner = ((x_mm - 0) ** 2 + (y_mm - 500) ** 2) / 2 / 110**2
    return 190.0 - 9 * 2.718281828**-corner + 0.3 * ((x_mm * 7 + y_mm * 3) % 5 - 2)


def survey(who, on, grid="5x5", finish=True, days_ago=0, truth=true_platen, **changes):
    """A survey with every station read."""
    taken = timezone.now() - timedelta(days=days_ago, milliseconds=1)
    places = {"spot": spot_station}.get(grid, partial(grid_places, grid))(on.width_mm, on.height_mm)
    made = actions.start_survey(who, on, header(grid=grid, **changes), places, taken)
    stations = made.stations.all()
    figures = [f"{truth(station.x_mm, station.y_mm):.1f}" for station in stations]
    if made.grid in STEP_BY_STEP or made.method == Method.STRIP:
        # Where it is read next, or what is possible, hangs on what was read before.
        for station, figure in zip(stations, figures, strict=True):
            actions.enter_reading(who, station, figure, uuid4())
    else:
        _enter_all(who, made, zip(stations, figures, strict=True))
    return actions.finish(who, made) if finish else made


def _enter_all(who, on, pairs):
    """All readings of a survey at once."""
    Reading.objects.bulk_create(
        Reading(
            entry_key=uuid4(),
            station=station,
            typed=figure,
            read_by=who,
            **actions.understood(on, station, figure, who.units),
        )
        for station, figure in pairs
    )


def blank(**fields):
    return Blank.objects.create(
        **{
            "name": "Crew vest",
            "kind": "garment",
            "polyester": 1.0,
            "colour": "white",
            "coating": "none",
        }
        | fields
    )


def board(**changes):
    """A coated aluminium panel of the shop's own."""
    fields = {
        "name": "Board",
        "kind": "panel",
        "like": "coated_aluminium_panel",
        "material": "aluminium_panel",
        "coating": "factory",
        "polyester": None,
        "thickness_mm": 1.1,
        "width_mm": 380,
        "height_mm": 300,
    }
    return blank(**(fields | changes))


def piece(who, on, days_ago=0, key=None, **fields):
    """A test press of the vest recipe with its art over the back left corner."""
    if not Recipe.objects.exists():
        load_shipped_recipes()
    version = Recipe.objects.get(slug="dye-on-a-polyester-vest").versions.get()
    data = {
        "recipe": version,
        "blank": Blank.objects.first() or blank(),
        "set_c": 205.0,
        "dwell_s": 52.0,
        "closures": 1,
        "pressure": "medium",
        "peel": "hot",
        "art_width_mm": 240.0,
        "art_height_mm": 240.0,
        "art_x_mm": 20.0,
        "art_y_mm": 240.0,
        "stack": version.stack,
        "facts": ["transfer_fixed", "blank_prepressed"],
        "room_c": None,
        "relative_humidity": None,
        "note": "",
    }
    when = timezone.now() - timedelta(days=days_ago)
    return runs.log_test_press(who, on, data | fields, key or uuid4(), when)


def minutes_later(minutes):
    """So much time goes by: every piece was pressed that much earlier."""
    TestPress.objects.update(pressed_at=F("pressed_at") - timedelta(minutes=minutes))


def mark(who, on, **fields):
    data = {
        "symptom": "edge_fade",
        "when": "on_opening",
        "severity": 2,
        "x_mm": 40.0,
        "y_mm": 460.0,
        "where": "",
    }
    return runs.mark(who, on, data | fields, uuid4())


AS_WRITTEN = re.compile(r"(<(textarea|script|pre)\b.*?</\2>)", re.DOTALL)
SPACES = re.compile(r"[ \t\r\n]+")


def columns(rows):
    """Rows as one array for each column."""
    return tuple(np.array(column, float) for column in zip(*rows, strict=True))


def soup(response):
    """The page as a browser shows its text: runs of spaces and line ends are one space."""
    parts = AS_WRITTEN.split(response.content.decode())
    # Between what is not drawn as written: that, and the name of its element.
    drawn = [SPACES.sub(" ", part) if at % 3 == 0 else part for at, part in enumerate(parts)]
    return BeautifulSoup("".join(p for at, p in enumerate(drawn) if at % 3 != 2), "html.parser")


def words(response, selector="main"):
    """The text a person reads, spaces made single."""
    return " ".join(soup(response).select_one(selector).get_text(" ").split())
