"""A shop's own rates: conjugate counting, bounded, and nothing moved by nothing."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.diagnosis.knowledge.rates import (
    CAUSE_WEIGHT,
    LEAST,
    MOST,
    ROW_WEIGHT,
    Change,
    ClosedCase,
    changed,
    learned,
    row_key,
)
from tempermark.core.diagnosis.knowledge.soundness import problems
from tempermark.core.diagnosis.past.reliability import reliability
from tests.support.contract_codes import CAUSES, FACTS, SYMPTOMS

BASE = shipped()


def closed(
    cause="cold_zone",
    symptoms=("edge_fade",),
    facts=(),
    not_facts=(),
    method="dye_sublimation",
    second="",
):
    known = (frozenset(symptoms), frozenset(facts), frozenset(not_facts))
    return ClosedCase(cause, method, *known, second)


def strength(base, cause, symptom):
    return max(r.strength for r in base.causes[cause].shows if r.symptom == symptom)


def test_nothing_closed_moves_nothing():
    base, shifts = learned(BASE, [])
    assert base == BASE
    assert shifts == []


def test_ten_cases_of_one_cause_count_as_ten():
    base, shifts = learned(BASE, [closed()] * 10)
    before = BASE.causes["cold_zone"].prior
    expected = (CAUSE_WEIGHT * before + 10) / (CAUSE_WEIGHT + 10)
    assert base.causes["cold_zone"].prior == pytest.approx(expected)
    other = BASE.causes["dust"].prior
    assert base.causes["dust"].prior == pytest.approx(CAUSE_WEIGHT * other / (CAUSE_WEIGHT + 10))
    # Seen each time: up; never seen: down.
    faded = (ROW_WEIGHT * 0.9 + 10) / (ROW_WEIGHT + 10)
    assert strength(base, "cold_zone", "edge_fade") == pytest.approx(faded)
    pale = ROW_WEIGHT * 0.55 / (ROW_WEIGHT + 10)
    assert strength(base, "cold_zone", "low_density") == pytest.approx(pale)
    assert shifts[0].seen <= shifts[0].looked == 10


def test_two_causes_at_work_count_for_both_but_not_for_what_they_show():
    cases = [closed(symptoms=("ghosting",), facts=("follows_platen",), second="sliding")] * 10
    base, _ = learned(BASE, cases)
    for cause in ("cold_zone", "sliding"):
        before = BASE.causes[cause].prior
        expected = (CAUSE_WEIGHT * before + 10) / (CAUSE_WEIGHT + 10)
        assert base.causes[cause].prior == pytest.approx(expected)
        assert base.causes[cause].shows == BASE.causes[cause].shows
    with_it, _ = base.causes["cold_zone"].signs["follows_platen"]
    assert with_it == pytest.approx((ROW_WEIGHT * 0.9 + 10) / (ROW_WEIGHT + 10))


def test_rows_of_other_methods_and_later_times_are_not_moved_by_silence():
    base, _ = learned(BASE, [closed()] * 10)
    for row, before in zip(
        base.causes["cold_zone"].shows, BASE.causes["cold_zone"].shows, strict=True
    ):
        if row.methods or row.symptom == "washout":
            assert row == before


def test_signs_learn_from_those_who_said_yes_or_no():
    cases = [closed(facts=("follows_platen",))] * 4 + [closed(not_facts=("follows_platen",))] * 4
    cases += [closed("dust", ("white_specks",), not_facts=("follows_platen",))] * 6
    base, _ = learned(BASE, cases)
    with_cause, without = base.causes["cold_zone"].signs["follows_platen"]
    before = BASE.causes["cold_zone"].signs["follows_platen"]
    assert with_cause == pytest.approx((ROW_WEIGHT * before[0] + 4) / (ROW_WEIGHT + 8))
    assert without == pytest.approx(ROW_WEIGHT * before[1] / (ROW_WEIGHT + 6))


def test_a_shop_s_number_stands_and_nonsense_does_nothing():
    key = row_key(BASE.causes["dust"].shows[0])
    made = changed(
        BASE,
        [
            Change("dust", "prior", "", 0.2),
            Change("dust", "shows", key, 0.4),
            Change("dust", "shows", "no such row", 0.4),
            Change("gremlins", "prior", "", 0.9),
            Change("lint", "prior", "", 7.0),
        ],
    )
    assert made.causes["dust"].prior == 0.2
    assert made.causes["dust"].shows[0].strength == 0.4
    assert made.causes["lint"].prior == MOST
    assert problems(made) == []


cases = st.builds(
    ClosedCase,
    st.sampled_from(CAUSES),
    st.sampled_from(("dye_sublimation", "heat_transfer_film", "patch")),
    st.frozensets(st.sampled_from(SYMPTOMS), max_size=4),
    st.frozensets(st.sampled_from(FACTS[:20]), max_size=4),
    st.frozensets(st.sampled_from(FACTS[20:]), max_size=4),
)


@given(st.lists(cases, max_size=30))
@settings(max_examples=30)
def test_whatever_is_closed_the_knowledge_stays_sound_and_order_does_not_matter(found):
    base, _ = learned(BASE, found)
    assert problems(base) == []
    for cause in base.causes.values():
        assert LEAST <= cause.prior <= MOST
        assert all(0 < row.strength < 1 for row in cause.shows)
    assert learned(BASE, list(reversed(found)))[0] == base


def test_reliability_of_a_forecaster_that_tells_the_truth_and_one_that_boasts():
    rng = np.random.default_rng(5)
    chance = rng.random(4000)
    so = rng.random(4000) < chance
    true = reliability(chance, so)
    for part in true.bins:
        assert part.interval[0] - 0.03 <= part.stated <= part.interval[1] + 0.03
    boast = reliability(np.where(chance > 0.5, 0.99, 0.01), so)
    assert true.brier == pytest.approx(1 / 6, abs=0.01)
    assert boast.brier > true.brier
    assert true.brier < true.brier_of_mean
    assert sum(part.count for part in true.bins) == 4000
    with pytest.raises(ValueError, match="Nothing"):
        reliability(np.array([]), np.array([]))
