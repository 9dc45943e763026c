"""Surveys: figures, usable area, verdict, against brute force and simulated platens."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis.extra.numpy import arrays

from tempermark.core.metrology.map.usable import Grid, largest_rectangle, zones
from tempermark.core.metrology.survey import TemperatureSurvey, temperature_survey
from tempermark.core.pressure.map.pulls import pull_survey


def survey(place, value, **changes):
    base = {
        "width_mm": 400.0,
        "height_mm": 500.0,
        "set_c": 195.0,
        "target_c": 195.0,
        "tolerance_c": 5.0,
    }
    return temperature_survey(
        TemperatureSurvey(place_mm=place, value_c=value, **{**base, **changes}),
        np.random.default_rng(1),
    )


def grid_places(count=5):
    x, y = np.meshgrid(np.linspace(20, 380, count), np.linspace(25, 475, count))
    return np.column_stack([x.ravel(), y.ravel()])


@settings(max_examples=60)
@given(arrays(bool, (6, 5)))
def test_largest_rectangle_is_the_largest(inside):
    small = Grid(50.0, 60.0, columns=5, rows=6)
    best = 0
    for top in range(6):
        for bottom in range(top, 6):
            for left in range(5):
                for right in range(left, 5):
                    block = inside[top : bottom + 1, left : right + 1]
                    best = max(best, block.size * bool(block.all()))
    found = largest_rectangle(inside, small)
    assert (found.width_mm * found.height_mm if found else 0) == pytest.approx(best * 100)


@given(arrays(bool, (6, 5)))
def test_zones_share_out_every_cell_once(inside):
    cells = [tuple(cell) for zone in zones(inside) for cell in zone]
    assert sorted(cells) == sorted(map(tuple, np.argwhere(inside)))


def test_an_even_platen_passes_and_a_cold_corner_fails():
    rng = np.random.default_rng(5)
    place = grid_places()
    even = survey(place, 195 + rng.normal(0, 0.5, 25))
    corner = np.exp(-((place - [20, 475]) ** 2).sum(axis=1) / 2 / 80**2)
    cold = survey(place, 195 - 12 * corner + rng.normal(0, 0.5, 25))
    assert even.verdict == "pass"
    assert even.map.next_point is None
    assert cold.verdict == "fail"
    spot = cold.map.usable.cold_spots[0]
    assert spot.x_mm < 100
    assert spot.y_mm > 400


def test_correction_moves_the_mean_to_target_and_widens_the_usable_area():
    rng = np.random.default_rng(6)
    result = survey(grid_places(), 186 + rng.normal(0, 0.5, 25))
    assert result.corrected_set_c == pytest.approx(204, abs=0.4)
    assert result.map.usable.area_fraction == 0
    assert result.map.usable_after_correction.area_fraction == 1
    assert result.map.usable.rectangle is None


@pytest.mark.parametrize(
    "place",
    [[[10, 10]], [[10, 10], [200, 10], [10, 300]], [[10, 10], [100, 100], [200, 200], [300, 300]]],
)
def test_too_few_or_in_line_gives_figures_but_no_map(place):
    place = np.array(place, float)
    result = survey(place, np.linspace(190, 199, len(place)))
    assert result.map is None
    assert result.verdict == "undecided"
    assert (result.std_c is None) == (len(place) == 1)


def test_common_uncertainty_moves_the_verdict_but_not_the_shape():
    rng = np.random.default_rng(8)
    place, value = grid_places(), 198.5 + rng.normal(0, 0.4, 25)
    sure = survey(place, value)
    unsure = survey(place, value, common_standard_uncertainty_c=3.0)
    assert sure.map.probability_within > 0.9 > unsure.map.probability_within
    assert unsure.map.map_c == pytest.approx(sure.map.map_c)
    assert unsure.map.deviation_sd_c == pytest.approx(sure.map.deviation_sd_c)


def test_stated_probabilities_hold_on_platens_nobody_tuned_to():
    """Of platens called with certainty at most a few are called wrong."""
    rng = np.random.default_rng(11)
    fine = Grid(400.0, 500.0, 30, 38)
    # Read up to the rim: what lies beyond the outermost stations is rightly doubted.
    x, y = np.meshgrid(np.linspace(5, 395, 5), np.linspace(5, 495, 5))
    to_the_rim = np.column_stack([x.ravel(), y.ravel()])
    called, wrong = 0, 0
    for _ in range(60):
        centre, width = rng.uniform([0, 0], [400, 500]), rng.uniform(60, 160)
        tilt, depth, level = rng.normal(0, 0.5, 2), rng.normal(0, 3), rng.normal(0, 1)

        def truth(p, c=centre, w=width, t=tilt, d=depth, lv=level):
            bump = d * np.exp(-((p - c) ** 2).sum(axis=1) / 2 / w**2)
            return lv + (p - [200, 250]) @ t / 100 + bump

        result = survey(to_the_rim, 195 + truth(to_the_rim) + rng.normal(0, 0.8, 25))
        within = np.abs(truth(fine.places_mm)).max() <= 5
        if result.verdict != "undecided":
            called += 1
            wrong += (result.verdict == "pass") != within
    assert called >= 30
    assert wrong <= 0.05 * 60


def test_next_reading_is_asked_where_nothing_is_known():
    place = grid_places()
    near = place[place[:, 1] < 240]
    result = survey(near, 195 + 0.004 * near[:, 0] + 0.011 * near[:, 1], tolerance_c=4.5)
    assert result.verdict == "undecided"
    assert result.map.next_point[1] > 300


PLACES4 = np.array([[0, 0], [400, 0], [0, 500], [400, 500]], float)


@pytest.mark.parametrize(
    ("place", "steps", "side", "hollow", "verdict"),
    [
        (PLACES4, [2, 2, 2, 3], "none", None, "pass"),
        (PLACES4, [1, 3, 1, 3], "left", None, "fail"),
        (PLACES4, [3, 3, 2, 2], "back", None, "fail"),
        (PLACES4, [0, 3, 3, 3], "none", None, "fail"),
        (np.vstack([PLACES4, [200, 250]]), [3, 3, 3, 3, 1], "none", True, "fail"),
        (PLACES4, [1, 2, 2, 2], "none", None, "undecided"),
        (PLACES4[:3], [3, 3, 3], "none", None, "undecided"),
    ],
)
def test_pull_strips(place, steps, side, hollow, verdict):
    result = pull_survey(400, 500, place, np.array(steps))
    assert (result.hollow, result.verdict) == (hollow, verdict)
    if steps != [0, 3, 3, 3]:
        assert result.weak_side == side
