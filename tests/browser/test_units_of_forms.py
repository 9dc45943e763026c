"""Every page with a form for temperatures, left open while another tab switches to °F: what is sent
means what it showed.
"""

from datetime import timedelta

import pytest
from django.utils import timezone

from tempermark.web.accounts.models import User
from tempermark.web.kit.units import IMPERIAL
from tempermark.web.measure.models import Instrument, InstrumentCheck, Reading, Survey
from tempermark.web.presses.models import Element, Press
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import Blank, OwnMaterial, RecipeVersion
from tempermark.web.run.models import TestPress
from tempermark.web.trace.board import actions as cases
from tempermark.web.trace.models import FaultCase
from tests.support import people, room

pytestmark = pytest.mark.browser


# Page, what is typed in °C or K, the button, and what is kept of which row, in °C or K.
FORMS = {
    "survey": (
        "/presses/heron/surveys/new/",
        {"set_c": "191", "tolerance_c": "4"},
        "Start reading",
        (Survey, {"set_c": 191.0, "target_c": 195.0, "tolerance_c": 4.0}),
    ),
    "press": (
        "/presses/heron/change/",
        {"target_c": "188", "resolution_c": "2"},
        "Save the changes",
        (Press, {"name": "Heron", "target_c": 188.0, "tolerance_c": 5.0, "resolution_c": 2.0}),
    ),
    "new press": (
        "/presses/new/",
        {"name": "Smew", "width_mm": "300", "height_mm": "300", "target_c": "177"},
        "Add the press",
        (Press, {"name": "Smew", "target_c": 177.0, "tolerance_c": 5.0}),
    ),
    "instrument": (
        "/instruments/new/",
        {"name": "Gun 7", "expanded_uncertainty_c": "2", "low_c": "30", "high_c": "250"},
        "Save",
        (Instrument, {"name": "Gun 7", "expanded_uncertainty_c": 2.0, "low_c": 30.0}),
    ),
    "check": (
        "/instruments/{gun}/",
        {"ice_c": "1"},
        "Save the check",
        (InstrumentCheck, {"ice_c": 1.0}),
    ),
    "blank": (
        "/blanks/{blank}/",
        {"scorch_c": "210"},
        "Save the changes",
        (Blank, {"scorch_c": 210.0}),
    ),
    "material": (
        "/library/materials/parchment/",
        {"scorch_c": "240", "source": "a leaflet"},
        "Save them",
        (OwnMaterial, {"scorch_c": 240.0}),
    ),
    "log": (
        "/presses/heron/test-presses/new/?recipe={recipe}",
        {"set_c": "199", "dwell_s": "50"},
        "Save the test press",
        (TestPress, {"dwell_s": 50.0, "set_c": 199.0}),
    ),
    "correction": (
        "/test-presses/{piece}/correct/",
        {"set_c": "201", "why": "misread"},
        "Save the correction",
        (TestPress, {"set_c": 201.0}),
    ),
    "reading": (
        "/readings/{reading}/correct/",
        {"typed": "189", "why": "misread"},
        "Save the correction",
        (Reading, {"typed": "189", "shown_c": 189.0}),
    ),
    "recipe": (
        "/recipes/dye-on-a-polyester-vest/change/",
        {"change": "nothing"},
        "Save as version 2",
        (RecipeVersion, {"number": 2, "low_c": 195.0, "high_c": 205.0}),
    ),
    "figure": ("/cases/{case}/", {}, None, (FaultCase, {"figures": {"actual.measured_c": 187.0}})),
}


@pytest.fixture
def kept(isla):
    """A room with a row for each page; its keys by name."""
    lead = room.person("maren", "lead")
    element = Element.objects.get()
    load_shipped_recipes()
    survey = room.survey(lead, element, "3x3", truth=lambda x, y: 195.0, days_ago=2)
    blank = room.blank(thickness_mm=0.5)
    piece = room.piece(lead, element, days_ago=1)
    gun = Instrument.objects.create(name="Gun 1", kind="infrared", checked_on=timezone.localdate())
    bare = Element.objects.create(
        press=Press.objects.create(name="Bare", slug="bare", kind="draw"),
        width_mm=400.0,
        height_mm=500.0,
    )
    faulty = room.piece(lead, bare, days_ago=1)
    TestPress.objects.filter(pk=faulty.pk).update(pressed_at=timezone.now() - timedelta(days=3))
    room.mark(lead, faulty, symptom="low_density", where="all", x_mm=None, y_mm=None)
    case = cases.open_case(lead, faulty)
    return {
        "gun": gun.pk,
        "blank": blank.pk,
        "piece": piece.pk,
        "reading": Reading.objects.filter(station__survey=survey).last().pk,
        "recipe": piece.recipe_id,
        "case": case.pk,
    }


@pytest.mark.parametrize("form", FORMS)
def test_a_form_means_what_it_showed(isla, kept, form):
    page, typed, button, (model, meant) = FORMS[form]
    isla.sign_in("maren")
    isla.go(page.format(**kept))
    for name, value in typed.items():
        isla.fill(name, value)
    # Another tab of the same person.
    people.choose(User.objects.get(username="maren"), IMPERIAL)
    if button is None:
        answer_figure(isla)
    else:
        isla.press(button)
    isla.wait(lambda: any(is_meant(row, meant) for row in model.objects.all()))


def is_meant(row, meant):
    """Whether a row holds what was meant, to what a form rounds."""
    return all(
        getattr(row, name) == (pytest.approx(v, abs=0.06) if not isinstance(v, str) else v)
        for name, v in meant.items()
    )


def answer_figure(isla):
    """The true temperature that the board asks for."""
    asked = "//form[.//input[@value='actual.measured_c']]"
    isla.driver.find_element("xpath", f"{asked}//input[@name='typed']").send_keys("187")
    isla.press("Save", inside=asked)
