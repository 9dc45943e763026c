"""What pieces teach: a known truth is found again, and doubt shrinks as it should."""

import numpy as np
import pytest

from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.learn import (
    SCORE_FROM,
    ThermocoupleTrace,
    Trial,
    score_middle,
    teach_heat,
    teach_law,
)
from tempermark.core.thermal.result.sampled import UNTAUGHT
from tempermark.core.thermal.solver import closing as press
from tempermark.core.thermal.solver.closing import Closing
from tempermark.core.thermal.solver.stack import Layer, contact_m2k_w

RNG = np.random.default_rng(4)


def course(true_c, dwell_s):
    """A sheet that is at the platen's temperature at once and all the time."""
    layers = [Layer(0.5, 0.2, 1000, 1000, initial_c=true_c)] * 2
    return press.press(
        Closing(layers, true_c, dwell_s, np.array([true_c]), None, contacts=np.zeros(1))
    )


def seen(law, true_c, dwell_s):
    return float(dye.density(law.at(true_c) * dwell_s))


def trials(law, settings, measured=True, sd_c=0.3):
    made = []
    for n, (true_c, dwell_s) in enumerate(settings):
        density = seen(law, true_c, dwell_s) + 0.03 * RNG.standard_normal() * measured
        score = None if measured else 1 + sum(density >= edge for edge in SCORE_FROM)
        shown = density if measured else None
        made.append(Trial(course(true_c, dwell_s), 0, 1.0, score, shown, f"g{n}", sd_c))
    return made


LADDER = [(c, s) for c in (180.0, 190.0, 200.0, 208.0) for s in (8.0, 20.0, 45.0, 80.0)]


def test_a_ladder_teaches_the_law_that_made_it():
    truth = dye.Law(0.11, 135_000.0)
    told = teach_law(trials(truth, LADDER))
    assert told.law.rate_per_s == pytest.approx(truth.rate_per_s, rel=0.1)
    assert told.law.activation_j_mol == pytest.approx(truth.activation_j_mol, abs=8_000)
    assert told.known.rate_share < UNTAUGHT.rate_share / 3
    assert np.abs(told.after - told.seen).mean() < np.abs(told.before - told.seen).mean()


def test_scores_by_eye_teach_the_same_way_but_less():
    truth = dye.Law(0.11, 120_000.0)
    eye = teach_law(trials(truth, LADDER, measured=False))
    meter = teach_law(trials(truth, LADDER))
    assert eye.law.rate_per_s > dye.STARTING.rate_per_s * 1.2
    assert meter.known.rate_share < eye.known.rate_share < UNTAUGHT.rate_share


def test_one_piece_moves_the_rate_against_a_conjugate_solution():
    """A measured density near the middle is a normal reading of ln(dose): precision adds up."""
    true_c, dwell_s = 200.0, 12.0
    truth = dye.Law(dye.STARTING.rate_per_s * 1.3, dye.STARTING.activation_j_mol)
    density = seen(truth, true_c, dwell_s)
    told = teach_law([Trial(course(true_c, dwell_s), 0, 1.0, None, density, "a", 0.0)])
    dose = -np.log(1 - density)
    log_sd = 0.03 / ((1 - density) * dose)
    gain = UNTAUGHT.rate_share**2 / (UNTAUGHT.rate_share**2 + log_sd**2)
    assert np.log(told.law.rate_per_s / dye.STARTING.rate_per_s) == pytest.approx(
        gain * np.log(1.3), abs=0.02
    )


def test_a_temperature_wrong_in_common_cannot_be_averaged_away():
    truth = dye.Law(0.09, 120_000.0)
    settings = [(200.0, s) for s in (10.0, 12.0, 14.0, 16.0, 18.0)] * 2
    apart = teach_law(trials(truth, settings, sd_c=5.0))
    one = [Trial(**{**vars(t), "group": "one survey"}) for t in trials(truth, settings, sd_c=5.0)]
    assert teach_law(one).known.rate_share > 1.5 * apart.known.rate_share


def test_nothing_is_taught_by_nothing():
    with pytest.raises(ValueError, match="no pieces"):
        teach_law([])
    with pytest.raises(ValueError, match="no traces"):
        teach_heat([])
    assert score_middle(5) > score_middle(4) > score_middle(1) > 0


def test_a_trace_teaches_contacts_and_sheets():
    pad = Layer(8.0, 0.1, 400, 1300)

    def face_c(contact, sheet, times):
        layers = [Layer(0.12, 0.09 * sheet, 850, 1400)] * 2 + [Layer(3.0, 0.15, 900, 1700), pad]
        closing = Closing(
            layers,
            22.0,
            60.0,
            np.array([200.0]),
            np.array([22.0]),
            pressure_kpa=np.array([30.0]),
            contact_factor=contact,
        )
        return press.at_times(press.press(closing), np.asarray(times))[:, 0, 1]

    times = np.arange(0.5, 60, 0.5)
    truth = {"contact": 1.6, "sheet": 0.95}
    seen_c = face_c(*truth.values(), times) + 0.3 * RNG.standard_normal(len(times))
    told = teach_heat([ThermocoupleTrace(face_c, times, seen_c)])
    assert told.missed_k[1] < 0.5 < told.missed_k[0]
    # One trace tells the whole resistance above the couple, not which part is whose.
    sheets, contact = 2 * 0.12e-3 / 0.09, 2 * float(contact_m2k_w(30.0))
    whole = sheets / told.sheet_factor + contact * told.contact_factor
    assert whole == pytest.approx(sheets / 0.95 + contact * 1.6, rel=0.02)
    for name, value in truth.items():
        off = np.log(getattr(told, f"{name}_factor") / value)
        assert abs(off) < 2.5 * getattr(told, f"{name}_share")
