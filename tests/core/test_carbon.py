"""Scanned carbon prints against the tilt and hollow they were made with."""

import numpy as np
import pytest

from tempermark.core.errors import InputError
from tempermark.core.pressure.map.carbon import FilmCurve, pressed, read_print, scaled_to_mean
from tempermark.core.pressure.map.level import fit_level, pinch_mm
from tempermark.core.pressure.press.spring import usual_pad
from tempermark.stand_ins.carbon_print import PressedPad, scanned_print

SIZE = (400.0, 500.0)
SPONGE = usual_pad("silicone")


def level_of(pad: PressedPad, seed=1, size=SIZE, **scan):
    picture = scanned_print(pad, size, np.random.default_rng(seed), **scan)
    found = read_print(picture, size, 100.0)
    told = pressed(found, FilmCurve(), SPONGE)
    return found, fit_level(found.places_mm, told.low_mm, told.high_mm, told.sd_mm, size)


@pytest.mark.parametrize(
    ("pad", "turned", "per_mm"),
    [
        (PressedPad(1.5, 0.6, 0.0), 0.0, 2.0),
        (PressedPad(1.5, 0.6, -0.4, ((180, 275, 0.5, 64, 70),)), 0.8, 2.0),
        (PressedPad(1.2, -0.3, 0.8, ((250, 150, 0.35, 60, 50),)), -1.5, 2.0),
        (PressedPad(1.8, 0.3, 0.3, ((200, 250, 0.6, 100, 120),)), 3.0, 1.5),
        (PressedPad(1.4, 0.5, 0.0, ((120, 330, 0.45, 50, 60),)), 0.4, 4.0),
    ],
)
def test_tilt_and_hollow_are_measured_within_a_tenth(pad, turned, per_mm):
    found, level = level_of(pad, turned_deg=turned, pixels_per_mm=per_mm)
    assert found.turned_deg == pytest.approx(turned, abs=0.05)
    assert found.mm_per_pixel == pytest.approx(1 / per_mm, rel=0.003)
    assert level.right_mm == pytest.approx(pad.right_mm, rel=0.1, abs=0.02)
    assert level.back_mm == pytest.approx(pad.back_mm, rel=0.1, abs=0.02)
    if not pad.hollows:
        assert level.hollow is None
        return
    x, y, depth, _, _ = pad.hollows[0]
    assert level.hollow.depth_mm == pytest.approx(depth, rel=0.1)
    assert level.hollow.x_mm == pytest.approx(x, abs=10)
    assert level.hollow.y_mm == pytest.approx(y, abs=10)


def test_a_hollow_of_another_shape_has_its_depth_too():
    class Bowl(PressedPad):
        def contact_kpa(self, x_mm, y_mm, size_mm):
            away = ((x_mm - 210) / 90) ** 2 + ((y_mm - 240) / 90) ** 2
            deep = 1.6 + 0.4 * (x_mm / 400 - 0.5) - 0.5 * np.clip(1 - away, 0, None)
            share = deep / 8.0
            return 144 * share / (1 - share)

    _, level = level_of(Bowl())
    assert level.hollow.depth_mm == pytest.approx(0.5, rel=0.1)
    assert level.right_mm == pytest.approx(0.4, rel=0.1)
    assert level.weak_side == "left"


def test_an_even_press_has_no_weak_side_and_no_hollow():
    for seed in range(6):
        _, level = level_of(PressedPad(1.5), seed=seed)
        assert level.weak_side is None
        assert level.hollow is None


def test_a_side_without_contact_is_a_bound_and_not_a_figure():
    found, level = level_of(PressedPad(1.0, 2.2), turned_deg=0.5)
    assert found.unseen == ("left",)
    assert level.right_mm == pytest.approx(2.2, rel=0.1)
    full = pressed(found, FilmCurve(most=0.4), SPONGE)
    assert np.isinf(full.high_mm).any()
    assert np.isinf(full.low_mm).any()


def test_a_known_mean_sets_the_films_scale():
    found, _ = level_of(PressedPad(1.5))
    curve = scaled_to_mean(found, FilmCurve(scale_kpa=90.0), 33.4)
    assert curve.scale_kpa == pytest.approx(30.0, rel=0.05)
    with pytest.raises(InputError, match="No scale of this film"):
        scaled_to_mean(found, FilmCurve(), 1e7)


def picture(**changes):
    made = scanned_print(PressedPad(1.5), (200.0, 200.0), np.random.default_rng(0))
    return made if not changes else changes["change"](made)


@pytest.mark.parametrize(
    ("grey", "size", "code"),
    [
        (np.full((400, 400), 230, np.uint8), (200, 200), "flat"),
        (np.full((50, 400), 230, np.uint8), (200, 200), "too_small"),
        (picture()[:500], (200, 200), "no_bar"),
        (picture(), (600, 200), "too_small"),
        (np.random.default_rng(0).integers(0, 255, (400, 400), np.uint8), (200, 200), "no_bar"),
    ],
)
def test_pictures_that_cannot_be_read_say_why(grey, size, code):
    with pytest.raises(InputError) as caught:
        read_print(grey, size, 100.0)
    assert caught.value.problems[0].code == code


def test_a_thick_blank_pinches_at_the_hinge():
    assert pinch_mm(3.0, 380.0, 60.0) == pytest.approx(4.56)
    assert pinch_mm(-1.0, 380.0, 60.0) < 0
