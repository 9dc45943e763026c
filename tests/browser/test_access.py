"""Every main page by machine: names, contrast, order; and nothing wider than its screen."""

import io
from pathlib import Path
from uuid import uuid4

import numpy as np
import pytest
from PIL import Image

from tempermark.stand_ins.carbon_print import PressedPad, scanned_print
from tempermark.web.accounts.models import User
from tempermark.web.certificates import actions as certificates
from tempermark.web.measure.models import Instrument
from tempermark.web.measure.surveys.grids import grid_places
from tempermark.web.presses.models import Element
from tempermark.web.pressure import actions as fit
from tempermark.web.pressure.maps import actions as pressure_actions
from tempermark.web.pressure.models import RaisedPart
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tests.browser.conftest import DESK
from tests.support import room

pytestmark = [pytest.mark.browser, pytest.mark.long]
AXE = (Path(__file__).parents[1] / "support" / "vendor" / "axe.min.js").read_text()
RUN = """
const done = arguments[arguments.length - 1];
axe.run(document, {runOnly: ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]})
  .then(r => done(r.violations.map(v => v.id + ": " + v.nodes.map(n => n.target).join(" | "))));
"""


@pytest.fixture
def pages(signed_in):
    """Addresses of every main view, with data on them."""
    load_shipped_recipes()
    who, element = room.person("maren", "lead"), Element.objects.get()
    # A lead sees every page a technician sees, and the forms that are hers alone.
    User.objects.filter(username="isla").update(role="lead")
    done = room.survey(who, element, days_ago=1)
    under_way = room.survey(who, element, grid="3x3", finish=False)
    station = under_way.stations.last()
    station.readings.all().delete()
    piece = room.piece(who, element)
    room.mark(who, piece)
    tool = Instrument.objects.create(name="Probe 2", kind="contact", corrections=[[100.0, 0.5]])
    certificate = certificates.sign(who, done)
    strips, scan = pressure_maps(who, element)
    part = {"width_mm": 12, "depth_mm": 200, "rises_mm": 3.0, "x_mm": 200, "y_mm": 100}
    RaisedPart.objects.create(blank=piece.blank, kind="zip", **part)
    signed_in.go(piece.get_absolute_url())
    signed_in.press("Trace this fault")
    signed_in.sees("Next check")
    return [
        "/",
        "/presses/heron/",
        "/presses/heron/surveys/new/",
        "/presses/heron/surveys/import/",
        done.get_absolute_url(),
        under_way.get_absolute_url(),
        "/surveys/",
        "/presses/heron/elements/",
        "/presses/labels/",
        "/instruments/",
        f"/instruments/{tool.pk}/",
        certificate.get_absolute_url(),
        "/test-presses/",
        "/presses/heron/test-presses/new/",
        f"/presses/heron/test-presses/new/?recipe={piece.recipe_id}",
        piece.get_absolute_url(),
        piece.fault_case.get_absolute_url(),
        "/cases/",
        "/recipes/",
        piece.recipe.recipe.get_absolute_url(),
        f"{piece.recipe.recipe.get_absolute_url()}versions/",
        "/recipes/film-on-a-cotton-bag/change/",
        "/recipes/import/",
        "/windows/?recipe=dye-on-a-polyester-vest",
        "/library/",
        "/library/materials/parchment/",
        "/lessons/",
        "/lessons/traces/new/",
        "/lots/",
        "/faults/",
        "/faults/ghosting/",
        "/knowledge/",
        "/knowledge/cold_zone/",
        "/knowledge/checks/",
        "/knowledge/how-well/",
        "/files/",
        "/presses/heron/calibration/",
        "/presses/heron/comparison/",
        "/presses/heron/photographs/",
        "/presses/heron/pressure/",
        "/presses/heron/pressure/learn/",
        "/presses/heron/pressure/wear/",
        "/presses/heron/pressure/combined-map/",
        "/presses/heron/pressure/strips/",
        "/presses/heron/pressure/print/",
        strips.get_absolute_url(),
        scan.get_absolute_url(),
        "/pieces/",
        f"/pieces/{piece.blank_id}/",
        "/vessels/",
        "/caps/",
        "/recipes/dye-on-a-polyester-vest/heat/",
        "/blanks/new/",
        "/nowhere/",
    ]


def pressure_maps(who, element):
    """A map by strips under way and one by a print, on a press whose knob is learned."""
    fit.learn(who, element.press, [(0.0, 0.0), (1.0, 0.75), (3.0, 2.25)])
    places = grid_places("3x3", element.width_mm, element.height_mm)
    strips = pressure_actions.start_pulls(
        who, element, "3x3", places, {"stack_mm": 1.0, "note": ""}
    )
    for station in list(strips.stations.all())[:5]:
        pressure_actions.enter_pull(who, station, "holds", uuid4())
    out = io.BytesIO()
    pad = PressedPad(1.5, 0.6, 0.0, ((200.0, 250.0, 0.6, 80.0, 80.0),))
    picture = scanned_print(pad, (400.0, 500.0), np.random.default_rng(1), pixels_per_mm=1.0)
    Image.fromarray(picture).save(out, "PNG")
    scan = pressure_actions.keep_print(
        who, element, out.getvalue(), 100.0, None, {"stack_mm": 1.0, "note": ""}
    )
    return strips, scan


def test_pages_are_accessible_and_fit_desk_tablet_and_phone(signed_in, pages):
    assert not faults_of(signed_in, pages)


def faults_of(person, pages):
    """What axe finds, and what is wider than its screen."""
    problems = []
    for path in pages:
        person.go(path)
        person.driver.execute_script(AXE)
        problems += [f"{path} {p}" for p in person.driver.execute_async_script(RUN)]
        for width, height in ((1280, 800), (800, 1280), (390, 844)):
            size = {**DESK, "width": width, "height": height}
            person.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
            wide = person.driver.execute_script("return document.documentElement.scrollWidth")
            if wide > width:
                problems.append(f"{path} is {wide} wide on a screen of {width}")
        person.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)
    return problems
