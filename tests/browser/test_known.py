"""A press that is known, at the bench: surveyed in a few readings, and a new cold corner found."""

import numpy as np
import pytest

from tempermark.web.accounts.models import User
from tempermark.web.measure.models import Survey
from tempermark.web.presses.models import Element
from tests.support import room

MOST = 14


@pytest.fixture
def known(signed_in):
    """A press with a full survey a month ago."""
    technician, element = User.objects.get(username="isla"), Element.objects.get()
    room.survey(technician, element, days_ago=30)
    return signed_in


def walk(isla, truth, seed=5):
    """Start from the form and type what the gun shows until no more is asked for."""
    rng = np.random.default_rng(seed)
    isla.go("/presses/heron/surveys/new/")
    isla.choose("grid", "known press: is it as before, 3 to 8 as a rule")
    isla.press("Start")
    isla.sees("is remembered. A change would show best at the marked place")
    survey = Survey.objects.get(grid="known")
    for count in range(1, MOST):
        station = survey.stations.filter(readings=None).order_by("order").first()
        if station is None:
            return count - 1
        shown = truth(station.x_mm, station.y_mm) + 0.3 * rng.standard_normal()
        isla.wait(lambda label=station.label: label in isla.text("#entry-box"))
        isla.fill("typed", f"{shown:.1f}")
        isla.press("Next")
        isla.wait(lambda n=count: survey.stations.exclude(readings=None).count() == n)
    raise AssertionError("it never had enough")


def test_a_press_that_is_as_before_is_surveyed_in_a_few_readings(known):
    count = walk(known, room.true_platen)
    assert count <= 8
    known.sees(f"{count} readings are enough")
    known.press("Finish the survey")
    known.sees("As on ")


def test_a_cold_corner_that_is_new_is_found_and_named(known):
    def fallen(x_mm, y_mm):
        corner = ((x_mm - 0) ** 2 + (y_mm - 0) ** 2) / 2 / 80**2
        return room.true_platen(x_mm, y_mm) - 10 * np.exp(-corner)

    walk(known, fallen)
    known.sees("Not as before: the front left corner has fallen by about")
    known.press("Finish the survey")
    known.sees("Not as before")
