"""A leaflet's range against the shop's windows."""

from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.experiments.leaflet import first_try, overlaps
from tempermark.core.recipes.windows import SettingWindow

LEAFLET = SettingWindow((190.0, 205.0), (40.0, 60.0))
OWN = SettingWindow((195.0, 210.0), (50.0, 70.0), "vest")
FAR = SettingWindow((150.0, 160.0), (10.0, 15.0), "film")


def test_the_most_in_common_comes_first_and_a_miss_says_by_how_much():
    first, last = overlaps(LEAFLET, [FAR, OWN])
    assert first.window.name == "vest"
    assert first.common.temperature_c == (195.0, 205.0)
    assert first.common.time_s == (50.0, 60.0)
    assert last.share == 0
    assert last.common.temperature_gap_c == 30.0
    assert last.common.time_gap_s == 25.0


def test_the_first_setting_is_inside_the_leaflet_and_what_works_here():
    found = first_try(LEAFLET, [FAR, OWN])
    assert (found.true_c, found.time_s, found.windows) == (200.0, 55.0, 1)


def test_a_leaflet_that_nothing_fits_is_tried_in_its_own_middle():
    found = first_try(LEAFLET, [FAR])
    assert (found.true_c, found.time_s, found.windows) == (197.5, 50.0, 0)


SPAN = st.tuples(st.floats(100, 250), st.floats(0, 40)).map(lambda p: (p[0], p[0] + p[1]))


@given(SPAN, SPAN, st.lists(st.tuples(SPAN, SPAN), max_size=5))
def test_the_first_setting_always_lies_in_the_leaflet_s_range(warm, dwell, others):
    leaflet = SettingWindow(warm, dwell)
    found = first_try(leaflet, [SettingWindow(*pair) for pair in others])
    assert warm[0] - 1e-9 <= found.true_c <= warm[1] + 1e-9
    assert dwell[0] - 1e-9 <= found.time_s <= dwell[1] + 1e-9
