"""Exact posterior of a noisy-OR network: causes on top, what was seen below.

Each finding f is present unless every cause at work and the leak fail to show it:
P(f absent) = (1 − leak_f)·Π(1 − q_if). All findings given here are present; absent ones
enter as a factor on a cause (see `engine`). Summing over causes one after the other with
the set of findings explained so far as the state keeps every term positive, so nothing
cancels (unlike the inclusion–exclusion of Heckerman 1989, "Quickscore").
"""

import numpy as np

MOST_FINDINGS = 10


def posteriors(prior: np.ndarray, strength: np.ndarray, leak: np.ndarray) -> np.ndarray:
    """P(cause at work | all findings present), (n,).

    `prior` (n,) within 0–1, `strength` (n, F) chance that a cause at work shows a
    finding, `leak` (F,) chance that none of them does and it is seen all the same.
    """
    forward = _forward(prior, strength, leak)
    backward = np.zeros(2 ** len(leak))
    backward[-1] = 1.0
    result = np.empty(len(prior))
    for index in range(len(prior) - 1, -1, -1):
        at_work = prior[index] * (_explain(forward[index], strength[index]) @ backward)
        idle = (1 - prior[index]) * (forward[index] @ backward)
        result[index] = at_work / (at_work + idle) if at_work + idle > 0 else prior[index]
        backward = (1 - prior[index]) * backward + prior[index] * _pull_back(
            backward, strength[index]
        )
        backward /= backward.max() or 1.0
    return result


def _forward(prior: np.ndarray, strength: np.ndarray, leak: np.ndarray) -> list[np.ndarray]:
    """Weight of each explained set before each cause, scaled to stay in range."""
    state = np.zeros(2 ** len(leak))
    state[0] = 1.0
    state = _explain(state, leak)
    states = []
    for chance, row in zip(prior, strength, strict=True):
        states.append(state)
        state = (1 - chance) * state + chance * _explain(state, row)
    return states


def _explain(state: np.ndarray, chances: np.ndarray) -> np.ndarray:
    """Each finding not yet explained becomes so with its chance, independently."""
    for finding, chance in enumerate(chances):
        if chance:
            cube = state.reshape(-1, 2, 2**finding)
            missing = cube[:, 0]
            state = np.stack([missing * (1 - chance), cube[:, 1] + missing * chance], axis=1)
            state = state.reshape(-1)
    return state


def _pull_back(value: np.ndarray, chances: np.ndarray) -> np.ndarray:
    """The transpose of `_explain`: expected later value of each explained set."""
    for finding, chance in enumerate(chances):
        if chance:
            cube = value.reshape(-1, 2, 2**finding)
            missing = (1 - chance) * cube[:, 0] + chance * cube[:, 1]
            value = np.stack([missing, cube[:, 1]], axis=1).reshape(-1)
    return value
