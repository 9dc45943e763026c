"""What is remembered of an element: exact against a plain computation, right on imagined ones."""

from dataclasses import replace

import numpy as np
import pytest

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.memory.changes import ALL_NEW_SHARE, changes_of
from tempermark.core.metrology.memory.imagined import ImaginedFault, imagine_history
from tempermark.core.metrology.memory.kept import keep, packed, unpacked
from tempermark.core.metrology.memory.looks import FoundChanges, Look, Rates, stacked
from tempermark.core.metrology.memory.naming import leading
from tempermark.core.metrology.memory.recall import prepare_reading, recall
from tempermark.core.metrology.memory.steps import is_enough, is_same, look_on, survey_known
from tempermark.core.metrology.memory.weighed import seen_at
from tempermark.core.metrology.survey import TemperatureSurvey, decide_survey, remembered_map
from tests.support.looks import NOISE, SIZE, TOLERANCE, grid, looks, shape


@pytest.fixture(scope="module")
def kept():
    return keep(looks(), SIZE, Rates(), "A", 0.4)


def test_before_the_first_reading_the_map_is_what_is_remembered(kept):
    none = {"place_mm": np.zeros((0, 2)), "value_c": np.zeros(0), "repeatability_c": NOISE}
    survey = TemperatureSurvey(*SIZE, 195.0, 193.0, TOLERANCE, kept=kept, **none)
    found = remembered_map(survey, decide_survey(survey, np.random.default_rng(1)))
    place = rng_places(40)
    value, spread = found.true_c(place, 193.0)
    assert np.abs(value - 193.0 - shape(place)).max() < 4 * spread.max()
    assert spread.min() > 0.4
    x, y = np.meshgrid(found.grid.x_mm, found.grid.y_mm)
    at = np.column_stack([x.ravel(), y.ravel()])
    assert np.abs(found.true_c(at, 193.0)[0] - found.map_c.ravel()).max() < 0.05
    with pytest.raises(ValueError, match="Nothing is remembered"):
        remembered_map(replace(survey, kept=None), None)


def rng_places(count):
    return np.random.default_rng(2).uniform([20, 20], [380, 480], (count, 2))


def test_a_belief_is_the_joint_normal_conditioned_on_everything_at_once(kept):
    """Past and today in one covariance, the element on a place of the lattice beside them."""
    rng, belief = np.random.default_rng(8), kept.beliefs[0]
    now = rng.uniform([30, 30], [370, 470], (4, 2))
    value = shape(now) + 1.0 + NOISE * rng.standard_normal(4)
    found = recall(kept, now, value, NOISE)
    past, lattice = kept.past, kept.place_mm[[7, 130, 255]]
    base = belief.rest, belief.fault
    everywhere = np.vstack([past.place_mm, now])
    count = len(past.place_mm)
    whole = kept.element.covariance(*base, everywhere, everywhere)
    size = np.array(SIZE)
    whole[:count, :count] += past.walked(kept.rates, size)
    common = np.concatenate([past.common_c, np.full(4, 0.4)])
    whole += np.outer(common, common)
    noise = belief.rest.noise_factor * np.concatenate([past.noise_c, np.full(4, NOISE)])
    whole += np.diag(noise**2)
    basis = prior.basis(everywhere, size, belief.rest.margin_reach_mm) @ prior.BASIS_MEAN
    missed = np.concatenate([past.deviation_c, value]) - basis
    cross = kept.element.covariance(*base, lattice, everywhere)
    at_lattice = prior.basis(lattice, size, belief.rest.margin_reach_mm) @ prior.BASIS_MEAN
    mean = at_lattice + cross @ np.linalg.solve(whole, missed)
    told = (cross * np.linalg.solve(whole, cross.T).T).sum(axis=1)
    variance = kept.element.variance(*base, lattice) - told
    part = found.parts[0]
    at = [7, 130, 255]
    ours = belief.mean_c[at] + part.cross[at] @ (part.inverse @ part.missed)
    spread = belief.variance[at] - ((part.cross[at] @ part.inverse) * part.cross[at]).sum(axis=1)
    assert ours == pytest.approx(mean, abs=1e-5)
    assert spread == pytest.approx(variance, abs=1e-4)


@pytest.mark.parametrize("count", [1, 3])
def test_what_is_kept_is_the_same_from_its_arrays(count):
    """Packed and unpacked, with lasting faults and hidden ones, and with none that is hidden."""
    fallen = [
        replace(one, deviation_c=one.deviation_c - 7.0 * (one.place_mm[:, 0] < 60.0))
        for one in looks(count)
    ]
    of = fallen, SIZE, Rates(), "A", 0.4
    first = keep(*of)
    assert any(belief.fault is not None for belief in first.beliefs)
    bare = replace(first, beliefs=tuple(replace(b, hidden=None) for b in first.beliefs))
    now = grid(3)[::2]
    for whole in (first, bare):
        again = unpacked(packed(whole), first.element, "A", 0.4)
        one, other = (look_on(k, now, shape(now), 5.0, NOISE, seeded()) for k in (whole, again))
        assert (one.recalled.weight == other.recalled.weight).all()
        assert [f.tolist() for f in one.recalled.hidden] == [
            f.tolist() for f in other.recalled.hidden
        ]
        assert one.draws.deviation_c == pytest.approx(other.draws.deviation_c, abs=1e-4)
        assert one.next_mm == other.next_mm
        for a, b in zip(one.recalled.moments(now), other.recalled.moments(now), strict=True):
            assert a == pytest.approx(b, abs=1e-9)
    with pytest.raises(KeyError):
        unpacked({}, first.element, "A", 0.4)


def seeded():
    return np.random.default_rng(5)


def test_what_is_prepared_for_a_reading_is_what_it_needs_and_changes_nothing():
    """Once it is prepared, nothing of it is computed when the reading comes."""
    own, other = (keep(looks(), SIZE, Rates(), "A", 0.4) for _ in range(2))
    now = grid(3)[:3]
    prepare_reading(own, now[:2], now[2], NOISE)
    prepared = [seen_at(own, n, now, np.full(3, NOISE)) for n in range(len(own.beliefs))]
    assert all({"cross", "whitened", "left"} <= vars(at).keys() for at in prepared)
    value = shape(now) + np.array([0.3, -0.2, 4.0])
    ready, afresh = (look_on(k, now, value, TOLERANCE, NOISE, seeded()) for k in (own, other))
    for part, at in zip(ready.recalled.parts, prepared, strict=True):
        assert part.at is at
    assert (ready.recalled.weight == afresh.recalled.weight).all()
    assert (ready.draws.deviation_c == afresh.draws.deviation_c).all()
    assert ready.next_mm == afresh.next_mm
    # Another noise or another place is another reading.
    assert seen_at(own, 0, now, np.full(3, 2 * NOISE)) is not prepared[0]
    assert seen_at(own, 0, now[::-1], np.full(3, NOISE)) is not prepared[0]


def test_before_the_first_reading_the_chances_are_the_rates(kept):
    found = recall(kept, np.zeros((0, 2)), np.zeros(0), NOISE)
    known = kept.rates.new_chance * (1 - ALL_NEW_SHARE)
    assert found.unchanged == pytest.approx(
        (1 - kept.rates.new_chance) / (1 - kept.rates.new_chance + known), abs=1e-3
    )
    hidden = sum(chance.sum() for chance in found.hidden)
    assert found.weight.sum() + hidden + found.all_new == pytest.approx(1.0)


def test_moments_are_those_of_the_draws(kept):
    rng = np.random.default_rng(4)
    now = grid(3)
    found = recall(kept, now, shape(now) + NOISE * rng.standard_normal(9), NOISE)
    draws = found.draws(20_000, rng)
    mean, spread = found.moments(kept.place_mm)
    assert np.abs(draws.deviation_c.mean(axis=0) - mean).max() < 0.06
    assert np.abs(draws.deviation_c.std(axis=0) / spread - 1).max() < 0.08


def walk(kept, truth, seed=1):
    rng = np.random.default_rng(seed)

    def read(place):
        return truth(place) + NOISE * rng.standard_normal(len(place))

    return survey_known(kept, read, TOLERANCE, NOISE, rng)


@pytest.mark.parametrize("level", [-1.0, 0.0, 1.0])
def test_an_element_that_kept_its_shape_is_known_by_a_few_readings(kept, level):
    standing = walk(kept, lambda place: shape(place) + level)
    assert is_same(standing.recalled.unchanged, standing.recalled.large_left)
    assert len(standing.recalled.deviation_c) <= 8
    mean, _ = standing.recalled.moments(grid())
    assert np.abs(mean - shape(grid()) - level).max() < 1.5


@pytest.mark.parametrize(
    ("fault", "kind"),
    [
        (ImaginedFault(0, np.array([260.0, 0.0]), 70.0, 7.0), "band_x"),
        (ImaginedFault(1, np.array([0.0, 330.0]), 70.0, 7.0), "band_y"),
        (ImaginedFault(-1, np.array([400.0, 500.0]), 70.0, 7.0), "corner"),
    ],
    ids=["band across", "band along", "corner"],
)
def test_what_has_happened_is_found_and_named(kept, fault, kind):
    rng, now = np.random.default_rng(1), grid()
    value = shape(now) + fault.deviation_c(now) + NOISE * rng.standard_normal(25)
    found = recall(kept, now, value, NOISE)
    assert found.unchanged < 0.01
    assert found.large > 0.75
    named = np.array(found.kept.changes.kind) == kind
    assert found.change.chance[named].sum() > 0.5
    best = int(np.argmax(np.where(named, found.change.chance, 0.0)))
    assert found.strength_c[best] == pytest.approx(-7.0, abs=3.0)


@pytest.mark.long
def test_few_sudden_faults_are_missed(kept):
    """A dead band anywhere: found by a short survey in nearly all of thirty."""
    rng, found = np.random.default_rng(12), 0
    for seed in range(30):
        axis = int(rng.integers(2))
        fault = ImaginedFault(axis, rng.uniform(0.1, 0.9) * np.array(SIZE), 100.0, 7.5)
        standing = walk(kept, lambda place, f=fault: shape(place) + f.deviation_c(place), seed)
        found += standing.recalled.unchanged < 0.5
    assert found >= 28


def test_another_element_is_all_new(kept):
    rng = np.random.default_rng(2)

    def other(place):
        return 3.0 * np.sin(place[:, 0] / 40.0) + 3.0 * np.cos(place[:, 1] / 55.0) + 4.0

    now = grid(4)
    found = recall(kept, now, other(now) + NOISE * rng.standard_normal(16), NOISE)
    assert found.all_new > 0.9
    mean, _ = found.moments(now)
    assert np.abs(mean - other(now)).max() < 1.5


def test_another_gun_is_no_change_of_the_press():
    """The same element 1.5 K higher: one gun's word against its own, or another gun's."""
    now = grid(3)
    value = shape(now) + 3.0
    by_same = recall(keep(looks(gun="A"), SIZE, Rates(), "A", 1.5), now, value, NOISE)
    by_other = recall(
        keep(
            [Look(**{**vars(one), "common_c": 1.5}) for one in looks(gun="A")],
            SIZE,
            Rates(),
            "B",
            1.5,
        ),
        now,
        value,
        NOISE,
    )
    level = by_other.kept.changes.kind.index("level")
    assert by_other.unchanged > by_same.unchanged
    assert by_other.change.chance[level : level + 2].sum() < 0.2


def test_a_look_that_disagreed_parts_what_was_before_it():
    """A corner that fell at the newest look is not averaged with the looks before."""
    changes = changes_of(SIZE)
    corner = ImaginedFault(-1, np.array([400.0, 500.0]), 70.0, 8.0)
    chance = np.array(
        [
            1.0 if kind == "corner" and (at == [400, 500]).all() and mean < 0 else 0.0
            for kind, at, mean in zip(changes.kind, changes.at_mm, changes.mean_c, strict=True)
        ]
    )
    new = Look(
        grid(),
        shape(grid()) + corner.deviation_c(grid()),
        30.0,
        NOISE,
        "A",
        0.4,
        change=FoundChanges(chance / chance.sum(), 0.0),
    )
    older = [Look(**{**vars(one), "days_ago": one.days_ago + 30.0}) for one in looks(3)]
    known = keep([new, *older], SIZE, Rates(), "A", 0.4)
    mean, _ = recall(known, np.zeros((0, 2)), np.zeros(0), NOISE).moments(
        np.array([[375.0, 475.0]])
    )
    truth = shape(np.array([[375.0, 475.0]])) + corner.deviation_c(np.array([[375.0, 475.0]]))
    assert mean == pytest.approx(truth, abs=1.2)


def test_older_looks_count_less():
    new, old = looks(1)[0], looks(1, level=2.0, seed=5)[0]
    spreads = []
    for days in (31.0, 720.0):
        old = Look(**{**vars(old), "days_ago": days})
        known = keep([new, old], SIZE, Rates(), "A", 0.4)
        mean, _ = recall(known, np.zeros((0, 2)), np.zeros(0), NOISE).moments(grid())
        spreads.append(abs(float((mean - shape(grid())).mean())))
    assert spreads[1] < spreads[0]


def test_nothing_is_remembered_of_nothing():
    with pytest.raises(ValueError, match="nothing to remember"):
        stacked([])


@pytest.mark.parametrize(
    ("unchanged", "large", "worth", "within", "count", "named", "enough"),
    [
        (0.99, 0.0, 0.0, 0.98, 2, False, False),
        (0.99, 0.0, 0.0, 0.98, 3, False, True),
        (0.99, 0.2, 0.0, 0.98, 5, False, False),
        (0.99, 0.0, 0.0, 0.96, 5, False, False),
        (0.99, 0.0, 0.0, 0.5, 5, False, False),
        (0.99, 0.0, 0.0, 0.5, 6, False, True),
        # A corner that nobody looked at is worth a reading.
        (0.99, 0.08, 0.1, 0.98, 5, False, False),
        (0.99, 0.08, 0.1, 0.5, 9, False, False),
        (0.99, 0.08, 0.1, 0.5, 10, False, True),
        (0.5, 0.0, 0.0, 0.99, 9, True, False),
        (0.01, 0.9, 0.0, 0.99, 8, True, False),
        (0.01, 0.9, 0.0, 0.99, 9, True, True),
        (0.01, 0.9, 0.0, 0.01, 4, True, True),
        # One figure far off, or two, may be a slip.
        (0.01, 0.9, 0.0, 0.01, 1, True, False),
        (0.01, 0.9, 0.0, 0.01, 2, True, False),
        (0.01, 0.9, 0.0, 0.01, 4, False, False),
        (0.5, 0.4, 0.0, 0.5, 9, False, False),
        (0.5, 0.4, 0.0, 0.5, 10, False, True),
        # Something small may have happened: for a sure verdict it does not matter.
        (0.7, 0.05, 0.0, 0.99, 6, False, True),
        (0.7, 0.05, 0.0, 0.99, 5, False, False),
        (0.7, 0.05, 0.0, 0.5, 9, False, False),
        (0.7, 0.3, 0.0, 0.99, 9, False, False),
    ],
)
def test_when_readings_are_enough(unchanged, large, worth, within, count, named, enough):
    assert is_enough(unchanged, large, worth, within, count, named, False) is enough


@pytest.mark.parametrize(
    ("unchanged", "large", "worth", "count", "enough"),
    [
        (0.99, 0.0, 0.0, 4, False),
        (0.99, 0.0, 0.05, 5, True),
        # Where a sixth is worth something it is read.
        (0.99, 0.0, 0.055, 5, False),
        (0.99, 0.0, 0.055, 6, True),
        # What may have happened is looked for all the same.
        (0.99, 0.2, 0.0, 5, False),
        (0.99, 0.08, 0.1, 5, False),
        (0.5, 0.0, 0.0, 5, False),
    ],
)
def test_a_tolerance_that_can_be_said_is_enough_for_an_open_verdict(
    unchanged, large, worth, count, enough
):
    assert is_enough(unchanged, large, worth, 0.5, count, False, True) is enough


def test_one_reading_in_a_fallen_corner_names_nothing_yet(kept):
    """All of it may have fallen, or a band, or the corner: it is read on until one stands out."""
    corner = np.array([[24.0, 24.0]])
    first = recall(kept, corner, shape(corner) - 9.0, NOISE)
    assert first.unchanged < 0.1
    assert not leading(first).is_named
    standing = survey_known(
        kept,
        lambda at: shape(at) - 9.0 * np.exp(-0.5 * ((at / 80.0) ** 2).sum(axis=1)),
        TOLERANCE,
        NOISE,
        np.random.default_rng(2),
    )
    found = leading(standing.recalled)
    assert (found.kind, found.at_mm.tolist()) == ("corner", [0.0, 0.0])
    assert found.strength_c == pytest.approx(-9.0, abs=2.0)


def test_a_survey_ends_and_says_where_it_reads_on(kept):
    rng = np.random.default_rng(0)
    first = look_on(kept, np.zeros((0, 2)), np.zeros(0), TOLERANCE, NOISE, rng)
    assert first.next_mm is not None
    assert 0 < first.next_mm[0] < SIZE[0]


def test_imagined_histories_keep_what_has_happened():
    rng = np.random.default_rng(5)
    states = imagine_history(*SIZE, 30, rng)
    faults = [len(state.faults) for state in states]
    assert faults == sorted(faults)
    assert faults[-1] == sum(state.new is not None for state in states) > 0
    assert states[0].new is None
