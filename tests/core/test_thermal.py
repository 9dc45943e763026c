"""Heat through the stack against exact solutions, balances and what must always hold."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq
from scipy.special import erfc

from tempermark.core.thermal.cooling import cooling_time_s, time_constant_s
from tempermark.core.thermal.library.materials import materials
from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.outcome import Piece
from tempermark.core.thermal.result.sampled import LawKnown, sample
from tempermark.core.thermal.solver import closing as press
from tempermark.core.thermal.solver.closing import Closing
from tempermark.core.thermal.solver.conduction import LATENT_J_KG, WATER_J_KGK, Heater
from tempermark.core.thermal.solver.places import press_places
from tempermark.core.thermal.solver.stack import Layer, contact_m2k_w

SPONGE = Layer(4.0, 0.10, 400, 1300)


def closing(layers, **more):
    """One place, perfect contacts, 200 °C above and 20 °C below, unless told otherwise."""
    given = {
        "layers": layers,
        "initial_c": 20.0,
        "time_s": 120.0,
        "upper_c": np.array([200.0]),
        "lower_c": np.array([20.0]),
        "contacts": np.zeros(len(layers) - 1),
    }
    return Closing(**given | more)


def garment(humidity=0.5, thick=0.5, **more):
    """Parchment, transfer, jersey, sheet and pad at 30 kPa, as a vest is pressed."""
    library = materials()
    names = ("parchment", "transfer_paper", "polyester_jersey", "plain_paper", "silicone_pad")
    layers = [library[n].layer(humidity) for n in names]
    layers[2] = library["polyester_jersey"].layer(humidity, thick)
    given = {
        "initial_c": 22.0,
        "time_s": 45.0,
        "upper_c": np.array([200.0]),
        "lower_c": np.array([22.0]),
        "contacts": None,
        "pressure_kpa": np.array([30.0]),
    }
    return closing(layers, **given | more)


def slab_series(depth_share, time_s, thickness_m=8e-3, k=0.1, rho_c=400 * 1300):
    n = np.arange(1, 400)
    steady = 200 - 180 * depth_share
    decay = np.exp(-((n * np.pi / thickness_m) ** 2) * k / rho_c * time_s)
    return steady - 360 / np.pi * (np.sin(n * np.pi * depth_share) / n * decay).sum()


@pytest.mark.parametrize("depth", [0.125, 0.25, 0.5, 0.75])
def test_a_slab_follows_its_fourier_series(depth):
    upper, lower = Layer(8 * depth, 0.1, 400, 1300), Layer(8 * (1 - depth), 0.1, 400, 1300)
    times = (2.0, 5.0, 15.0, 30.0, 60.0, 120.0)
    course = press.press(closing([upper, lower]), times)
    told = press.at_times(course, np.array(times))[:, 0, 0]
    exact = [slab_series(depth, t) for t in times]
    assert told == pytest.approx(exact, abs=0.1)


def test_the_handbooks_figures():
    told = press.at_times(press.press(closing([SPONGE, SPONGE])), np.array([15, 30, 60, 120.0]))
    assert told[:, 0, 0] == pytest.approx([37.25, 62.94, 90.66, 106.74], abs=0.05)


def test_two_half_spaces_meet_where_their_effusivities_say():
    first, second = Layer(60, 0.2, 1100, 1500, initial_c=180.0), Layer(60, 1.2, 2200, 850)
    course = press.press(
        closing([first, second], upper_c=np.array([180.0]), time_s=20.0), (1.0, 5.0, 20.0)
    )
    e1, e2 = np.sqrt(0.2 * 1100 * 1500), np.sqrt(1.2 * 2200 * 850)
    meets = (e1 * 180 + e2 * 20) / (e1 + e2)
    told = press.at_times(course, np.array([1.0, 5.0, 20.0]))[:, 0, 0]
    assert told == pytest.approx([meets] * 3, abs=0.2)


def test_a_half_space_behind_a_resistance():
    """Carslaw and Jaeger, §2.7: heating through a surface conductance h."""
    body, h = Layer(100, 0.5, 1000, 1000), 1 / 2e-3
    thin = Layer(0.001, 1000, 1, 50)
    course = press.press(
        closing([thin, body], contacts=np.array([1 / h]), time_s=30.0), (1.0, 10.0, 30.0)
    )
    a = 0.5 / (1000 * 1000)
    for t in (1.0, 10.0, 30.0):
        x = h * np.sqrt(a * t) / 0.5
        exact = 20 + 180 * (1 - np.exp(x**2) * erfc(x))
        assert press.at_times(course, np.array([t]))[0, 0, 0] == pytest.approx(exact, abs=0.2)


def test_a_composite_settles_to_its_resistances():
    layers = [Layer(0.5, 0.05, 300, 1200), Layer(2, 0.2, 1200, 1200), Layer(1, 0.1, 500, 1300)]
    contacts = np.array([1e-3, 3e-3])
    course = press.press(closing(layers, contacts=contacts, time_s=3600.0))
    parts = [0.5e-3 / 0.05, 1e-3, 2e-3 / 0.2, 3e-3, 1e-3 / 0.1]
    falls = 200 - 180 * np.cumsum(parts) / sum(parts)
    assert course.above_c[-1, 0] == pytest.approx(falls[[0, 2]], abs=1e-3)
    assert course.below_c[-1, 0] == pytest.approx(falls[[1, 3]], abs=1e-3)


def test_an_insulated_side_lets_nothing_out_and_all_grows_hot():
    course = press.press(closing([SPONGE, SPONGE], lower_c=None, time_s=3600.0))
    assert course.energy_out[0] == 0
    assert course.final_c == pytest.approx(np.full_like(course.final_c, 200.0), abs=0.01)
    assert course.stored[0] == pytest.approx(180 * 8e-3 * 400 * 1300, rel=1e-4)


def test_halving_steps_and_cells_changes_nothing():
    times = np.array([2.0, 5.0, 15.0, 30.0, 45.0])
    for made in (closing([SPONGE, SPONGE]), garment(humidity=None), garment(humidity=0.6)):
        coarse = press.at_times(press.press(made), times)
        fine = press.at_times(press.press(made, fineness=2.0), times)
        assert np.abs(coarse - fine).max() < 0.05


@pytest.mark.parametrize("humidity", [None, 0.3, 0.9])
def test_energy_balances(humidity):
    course = press.press(garment(humidity))
    assert np.abs(course.imbalance).max() < 1e-9
    parts = course.energy_out + course.stored + course.evaporated
    assert course.energy_in == pytest.approx(parts, rel=1e-9)


def test_all_water_that_boils_costs_its_heat():
    wet = Layer(1.0, 0.2, 500, 1300, moisture_fraction=0.1)
    course = press.press(closing([wet, wet], lower_c=None, time_s=600.0))
    assert course.water_left.sum() == 0
    assert course.evaporated[0] == pytest.approx(2 * 1e-3 * 500 * 0.1 * LATENT_J_KG)
    dry = press.press(closing([Layer(1.0, 0.2, 500, 1300)] * 2, lower_c=None, time_s=600.0))
    sensible = course.stored[0] - dry.stored[0]
    # The water is warmed to the middle of the band in which it leaves.
    assert sensible == pytest.approx(0.1 * WATER_J_KGK * 80, rel=1e-3)


def test_a_heater_dips_and_comes_back():
    cold = Layer(6, 1.2, 2200, 850)
    heater = Heater(power_w_m2=8000, heat_capacity_j_m2k=25_000, set_c=200)
    course = press.press(
        closing([Layer(0.2, 0.1, 800, 1400), cold], lower_c=None, time_s=1200.0, heater=heater)
    )
    upper = course.upper_c[:, 0]
    assert upper[0] == 200
    assert 150 < upper.min() < 195
    assert upper[-1] == pytest.approx(200, abs=0.05)
    assert (upper < 200.01).all()
    assert np.abs(course.imbalance).max() < 1e-6


def test_a_heater_without_power_ends_where_the_heats_meet():
    body = Layer(3, 5, 1000, 1000)
    heater = Heater(power_w_m2=0, heat_capacity_j_m2k=3000, set_c=200)
    course = press.press(closing([body, body], lower_c=None, time_s=3000.0, heater=heater))
    meets = (3000 * 200 + 6000 * 20) / 9000
    assert course.upper_c[-1, 0] == pytest.approx(meets, abs=0.05)


def test_contacts_fall_with_pressure():
    assert contact_m2k_w(20.0) == pytest.approx(2e-4)
    assert contact_m2k_w(40.0) == pytest.approx(2e-4 * 2**-0.95)
    assert contact_m2k_w(0.0) == contact_m2k_w(1.0)


hot = st.floats(150, 215)


@settings(max_examples=25)
@given(hot, st.floats(1, 15), st.floats(5, 60))
def test_hotter_never_lowers_the_dose(set_c, more, kpa):
    pressed = np.full(2, kpa)
    made = garment(
        upper_c=np.array([set_c, set_c + more]), pressure_kpa=pressed, lower_c=np.full(2, 22.0)
    )
    low, high = press.dose(press.press(made), 1)
    assert high > low


@settings(max_examples=25)
@given(hot, st.floats(0.2, 1.0), st.floats(0.1, 1.0))
def test_a_thicker_cover_never_speeds_it(set_c, thin, more):
    def reached(cover):
        layers = [Layer(cover, 0.1, 900, 1400), *garment().layers[1:]]
        made = garment(upper_c=np.array([set_c]))
        return press.dose(press.press(Closing(**{**vars(made), "layers": layers})), 1)[0]

    assert reached(thin + more) < reached(thin)


@settings(max_examples=25)
@given(hot, st.floats(0, 0.5), st.floats(0.05, 0.5))
def test_more_moisture_never_speeds_it(set_c, damp, more):
    drier, damper = (garment(h, upper_c=np.array([set_c])) for h in (damp, damp + more))
    assert press.dose(press.press(damper), 1)[0] <= press.dose(press.press(drier), 1)[0] + 1e-6


def test_times_above_a_level_are_those_of_the_exact_course():
    course = press.press(closing([SPONGE, SPONGE]))
    crossed = brentq(lambda t: slab_series(0.5, t) - 60, 5, 110)
    assert press.seconds_above(course, 60.0, 0)[0] == pytest.approx(120 - crossed, abs=0.02)
    assert press.seconds_above(course, 250.0, 0)[0] == 0
    assert press.seconds_above(course, 0.0, 0)[0] == pytest.approx(120)


def test_dose_is_the_integral_of_the_rate():
    warm = Layer(1, 0.2, 1000, 1000, initial_c=200.0)
    course = press.press(closing([warm, warm], lower_c=np.array([200.0]), time_s=45.0))
    assert press.dose(course, 0)[0] == pytest.approx(3.0, rel=1e-6)
    assert dye.density(3.0, 0.5) == pytest.approx(0.5 * (1 - np.exp(-3)))
    assert dye.equal_dose_time_s(200, 45, 185) == pytest.approx(122.2, abs=0.05)


def test_a_platen_of_places_is_each_place_alone():
    rng = np.random.default_rng(4)
    warm, kpa = rng.uniform(186, 204, 60), rng.uniform(12, 45, 60)
    made = garment(upper_c=warm, pressure_kpa=kpa, lower_c=np.full(60, 22.0))
    exact = press.press(made)
    platen = press_places(made)
    carried = platen.over(lambda c: c.below_c[-1])
    assert carried == pytest.approx(exact.below_c[-1], abs=0.1)
    doses = platen.over(lambda c: press.dose(c, 1))
    assert doses == pytest.approx(press.dose(exact, 1), rel=0.01)


def test_one_temperature_or_pressure_for_all_is_fewer_solutions():
    made = garment(
        upper_c=np.full(9, 195.0), pressure_kpa=np.full(9, 30.0), lower_c=np.full(9, 22.0)
    )
    platen = press_places(made)
    assert platen.weights.shape == (9, 1)
    assert np.ptp(platen.over(lambda c: press.dose(c, 1))) == 0


def test_cooling_of_a_lump():
    assert cooling_time_s(190, 22, 48, 600) == pytest.approx(600 * np.log(168 / 26))
    assert cooling_time_s(190, 22, 22, 600) is None
    assert cooling_time_s(40, 22, 48, 600) == 0
    assert time_constant_s(0.5, 900, 0.1, 10) == pytest.approx(450)


def test_every_material_has_its_figures_and_source():
    library = materials()
    assert len(library) >= 40
    for material in library.values():
        assert material.source
        assert 0 <= material.regain < 0.2
    assert library["cotton_jersey"].moisture_fraction(0.65) == pytest.approx(0.0775)
    assert library["cotton_jersey"].moisture_fraction(None) == 0


def test_the_sampled_outcome_holds_the_plain_one_and_widens_with_doubt():
    made = garment()
    plain = press.dose(press.press(made), 1)[0]
    sure, unsure = sample(made, Piece(1), 0.5), sample(made, Piece(1), 5.0)
    low, high = sure.interval(sure.reached.uptake)
    assert low < plain < high
    wide = unsure.interval(unsure.reached.uptake)
    assert wide[1] - wide[0] > high - low
    again = sample(made, Piece(1), 0.5)
    assert (again.reached.uptake == sure.reached.uptake).all()
    assert np.median(sure.reached.uptake) == pytest.approx(plain, rel=0.25)


def test_a_doubt_of_the_platen_alone_is_the_rates_own_slope():
    """Ten kelvin are a factor of two: one kelvin moves the dose by some 6 to 7 %."""
    layers = [Layer(1, 0.2, 1000, 1000, initial_c=200.0)] * 2
    made = closing(layers, lower_c=None, time_s=300.0)
    known = LawKnown(rate_share=0.15, activation_j_mol=0.0)
    told = sample(made, Piece(0), 1.0, known, draws=200)
    spread = np.std(np.log(told.reached.uptake))
    assert spread == pytest.approx(np.hypot(0.15, 0.064), rel=0.15)
