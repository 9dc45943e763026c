"""The network against plain enumeration of every set of causes."""

from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.diagnosis.weighing.network import posteriors


def enumerated(prior, strength, leak):
    total, at_work = 0.0, np.zeros(len(prior))
    for bits in product((0, 1), repeat=len(prior)):
        state = np.array(bits)
        weight = np.prod(np.where(state, prior, 1 - prior))
        silent = (1 - leak) * np.prod(np.where(state[:, None], 1 - strength, 1), axis=0)
        weight *= np.prod(1 - silent)
        total += weight
        at_work += weight * state
    return at_work / total


@st.composite
def networks(draw):
    causes, findings = draw(st.integers(1, 6)), draw(st.integers(1, 4))
    chance = st.floats(0.001, 0.95)
    prior = np.array(draw(st.lists(chance, min_size=causes, max_size=causes)))
    row = st.lists(st.one_of(st.just(0.0), chance), min_size=findings, max_size=findings)
    strength = np.array(draw(st.lists(row, min_size=causes, max_size=causes)))
    leak = np.array(draw(st.lists(st.floats(0.001, 0.2), min_size=findings, max_size=findings)))
    return prior, strength, leak


@settings(max_examples=80, deadline=None)
@given(networks())
def test_exact(network):
    assert posteriors(*network) == pytest.approx(enumerated(*network), rel=1e-9)


@settings(max_examples=40, deadline=None)
@given(networks(), st.randoms())
def test_order_of_causes_and_findings_does_not_matter(network, random):
    prior, strength, leak = network
    causes, findings = list(range(len(prior))), list(range(len(leak)))
    random.shuffle(causes)
    random.shuffle(findings)
    shuffled = posteriors(prior[causes], strength[causes][:, findings], leak[findings])
    assert shuffled == pytest.approx(posteriors(*network)[causes], rel=1e-9)


@settings(max_examples=40, deadline=None)
@given(networks(), st.floats(1.0, 20.0))
def test_more_prior_odds_never_lower_a_cause(network, factor):
    prior, strength, leak = network
    odds = prior[0] / (1 - prior[0]) * factor
    raised = prior.copy()
    raised[0] = odds / (1 + odds)
    assert posteriors(raised, strength, leak)[0] >= posteriors(*network)[0] - 1e-12


def test_ten_findings_of_small_chance_do_not_cancel():
    prior = np.array([1e-6, 0.02])
    strength = np.array([np.full(10, 0.9), np.full(10, 0.02)])
    leak = np.full(10, 1e-4)
    assert posteriors(prior, strength, leak) == pytest.approx(
        enumerated(prior, strength, leak), rel=1e-9
    )
