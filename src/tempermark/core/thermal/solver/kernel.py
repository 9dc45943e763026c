"""The compiled march: every place by itself, step by step, Newton and tridiagonal solution inside.

Compiled once and kept beside this file. What is solved, and why, stands in `conduction`; here are
loops over plain arrays.

Equation: γ = 2 − √2; trapezoid to γ·Δt, BDF2 to Δt, Newton on H(T) − w·F(T) = b.
Range: as `conduction`.
Source: Bank et al. 1985.
"""

import numpy as np
from numba import njit

# Cells of one place, or of all of them.
Array = np.ndarray

WATER_J_KGK, LATENT_J_KG = 4190.0, 2.257e6
BOILS_FROM_C, BOILS_TO_C = 98.0, 102.0
BAND_K = BOILS_TO_C - BOILS_FROM_C
# The heater's power falls from full to none over this much below its setting.
HOLD_BAND_K = 0.01
GAMMA = 2.0 - 2.0**0.5
WEIGHT, LAST_WEIGHT = 2.0**0.5 / 4, GAMMA / 2
NEWTON_K, NEWTON_ROUNDS = 2e-3, 12
MOST_HALVINGS = 12
# What stands in `powers` where there is no heater.
NO_HEATER = -1.0


@njit(cache=True)
def heat(
    temperature: float,
    highest: float,
    dry: float,
    water: float,
) -> tuple[float, float]:
    """Enthalpy above 0 °C of a cell in J/m², and its slope, along the wet curve where the cell is
    hotter than it ever was; below that its water is what that left, and nothing condenses.
    """
    if water == 0.0:
        return dry * temperature, dry
    turned = max(temperature, highest)
    left = min(max((BOILS_TO_C - turned) / BAND_K, 0.0), 1.0)
    boiling = min(max(turned, BOILS_FROM_C), BOILS_TO_C) - BOILS_FROM_C
    # ∫ of the water's share of the heat capacity from 0 °C.
    sensible = min(turned, BOILS_FROM_C) + boiling - boiling**2 / (2 * BAND_K)
    held = water * (WATER_J_KGK * sensible + LATENT_J_KG * boiling / BAND_K)
    capacity = dry + water * left * WATER_J_KGK
    value = dry * turned + held + capacity * (temperature - turned)
    if temperature >= highest and boiling > 0.0 and left > 0.0:
        capacity += water * LATENT_J_KG / BAND_K
    return value, capacity


@njit(cache=True)
def into_top(
    temperature: float,
    upper_c: float,
    top: float,
    power: float,
    set_c: float,
) -> tuple[float, float]:
    """Heat into the top cell in W/m² and minus its slope: from the platen held, or the heater."""
    if power < 0.0:
        return top * (upper_c - temperature), top
    lacking = (set_c - temperature) / HOLD_BAND_K
    if lacking >= 1.0:
        return power, 0.0
    if lacking <= 0.0:
        return 0.0, 0.0
    return power * lacking, power / HOLD_BAND_K


@njit(cache=True)
def fluxes(
    temperature: Array,
    between: Array,
    top: float,
    bottom: float,
    upper_c: float,
    lower_c: float,
    power: float,
    set_c: float,
    net: Array,
) -> None:
    """Net heat into each cell, W/m²."""
    count = len(temperature)
    net[0], _ = into_top(temperature[0], upper_c, top, power, set_c)
    for i in range(1, count):
        flux = between[i - 1] * (temperature[i - 1] - temperature[i])
        net[i - 1] -= flux
        net[i] = flux
    net[count - 1] -= bottom * (temperature[count - 1] - lower_c)


@njit(cache=True)
def stage(
    temperature: Array,
    base: Array,
    weight: float,
    highest: Array,
    dry: Array,
    water: Array,
    between: Array,
    top: float,
    bottom: float,
    upper_c: float,
    lower_c: float,
    power: float,
    set_c: float,
    diagonal: Array,
    right: Array,
    net: Array,
) -> bool:
    """T with H(T) − weight · F(T) = base by Newton, in place; whether it settled."""
    count = len(temperature)
    for _ in range(NEWTON_ROUNDS):
        fluxes(temperature, between, top, bottom, upper_c, lower_c, power, set_c, net)
        _, top_slope = into_top(temperature[0], upper_c, top, power, set_c)
        for i in range(count):
            value, capacity = heat(temperature[i], highest[i], dry[i], water[i])
            slope = top_slope if i == 0 else between[i - 1]
            slope += bottom if i == count - 1 else between[i]
            diagonal[i] = capacity + weight * slope
            right[i] = base[i] + weight * net[i] - value
        for i in range(1, count):
            share = -weight * between[i - 1] / diagonal[i - 1]
            diagonal[i] += share * weight * between[i - 1]
            right[i] -= share * right[i - 1]
        right[count - 1] /= diagonal[count - 1]
        most = abs(right[count - 1])
        for i in range(count - 2, -1, -1):
            right[i] = (right[i] + weight * between[i] * right[i + 1]) / diagonal[i]
            most = max(most, abs(right[i]))
        for i in range(count):
            temperature[i] += right[i]
        if most < NEWTON_K:
            return True
    return False


@njit(cache=True)
def keep(
    temperature: Array,
    between: Array,
    last: Array,
    first: Array,
    half: Array,
    lump: int,
    above: Array,
    below: Array,
) -> None:
    """Both faces of every interface, °C."""
    for k in range(len(last)):
        i, j = last[k] + lump, first[k] + lump
        flux = between[i] * (temperature[i] - temperature[j])
        above[k] = temperature[i] - flux * half[last[k]]
        below[k] = temperature[j] + flux * half[first[k]]


@njit(cache=True)
def piece(
    now: Array,
    highest: Array,
    step: float,
    dry: Array,
    water: Array,
    between: Array,
    top: float,
    bottom: float,
    upper_c: float,
    lower_c: float,
    power: float,
    set_c: float,
    lump: int,
    middle: Array,
    room: Array,
) -> tuple[bool, float, float]:
    """One TR-BDF2 step in place: whether Newton settled, and the heat in and out, J/m².

    `middle` gets the inner stage, `room` (5, n) is scratch. With a `lump` on top, what goes in is
    counted below it.
    """
    count = len(now)
    base, flux, net, diagonal, right = room[0], room[1], room[2], room[3], room[4]
    weight = GAMMA / 2 * step
    share_in = share_out = 0.0
    fluxes(now, between, top, bottom, upper_c, lower_c, power, set_c, flux)
    for i in range(count):
        value, _ = heat(now[i], highest[i], dry[i], water[i])
        base[i] = value + weight * flux[i]
        middle[i] = now[i]
    if not stage(
        middle, base, weight, highest, dry, water, between, top, bottom, upper_c, lower_c, power,
        set_c, diagonal, right, net,
    ):  # fmt: skip
        return False, 0.0, 0.0
    fluxes(middle, between, top, bottom, upper_c, lower_c, power, set_c, net)
    share_in += WEIGHT * (through_top(now, between, top, upper_c, lump))
    share_in += WEIGHT * (through_top(middle, between, top, upper_c, lump))
    share_out += WEIGHT * bottom * (now[count - 1] + middle[count - 1] - 2 * lower_c)
    for i in range(count):
        base[i] += (WEIGHT * step - weight) * flux[i] + WEIGHT * step * net[i]
        now[i] += (middle[i] - now[i]) / GAMMA
    if not stage(
        now, base, weight, highest, dry, water, between, top, bottom, upper_c, lower_c, power,
        set_c, diagonal, right, net,
    ):  # fmt: skip
        return False, 0.0, 0.0
    share_in += LAST_WEIGHT * through_top(now, between, top, upper_c, lump)
    share_out += LAST_WEIGHT * bottom * (now[count - 1] - lower_c)
    for i in range(count):
        highest[i] = max(highest[i], now[i])
    return True, share_in * step, share_out * step


@njit(cache=True)
def through_top(
    temperature: Array,
    between: Array,
    top: float,
    upper_c: float,
    lump: int,
) -> float:
    """Heat through the stack's own top face, W/m²."""
    if lump:
        return float(between[0] * (temperature[0] - temperature[1]))
    return float(top * (upper_c - temperature[0]))


@njit(cache=True)
def enthalpies(
    temperature: Array,
    highest: Array,
    dry: Array,
    water: Array,
) -> Array:
    """Enthalpy of the cells of every place (p,), J/m²."""
    sums = np.zeros(temperature.shape[0])
    for p in range(temperature.shape[0]):
        for i in range(temperature.shape[1]):
            sums[p] += heat(temperature[p, i], highest[p, i], dry[i], water[i])[0]
    return sums


@njit(cache=True)
def march(
    times: Array,
    start: Array,
    dry: Array,
    water: Array,
    between: Array,
    top: Array,
    bottom: Array,
    upper_c: Array,
    lower_c: Array,
    power: float,
    set_c: Array,
    last: Array,
    first: Array,
    half: Array,
    lump: int,
    above: Array,
    below: Array,
    middle_above: Array,
    middle_below: Array,
    upper: Array,
    energy: Array,
    final: Array,
    highest: Array,
) -> int:
    """All places over all steps; fills the arrays after `lump`. Number of places that failed.

    `between` (p, n − 1), `top`, `bottom`, `upper_c`, `lower_c`, `set_c` (p,); `energy` (p, 2)
    in and out. A step with which Newton does not settle is halved until it does.
    """
    count = start.shape[1]
    middle, blend = np.empty(count), np.empty(count)
    state, seen = np.empty(count), np.empty(count)
    room = np.empty((5, count))
    for p in range(start.shape[0]):
        now, hot, links = start[p].copy(), highest[p], between[p]
        keep(now, links, last, first, half, lump, above[0, p], below[0, p])
        upper[0, p] = now[0] if lump else upper_c[p]
        passed = 0.0
        for n in range(len(times)):
            state[:], seen[:] = now, hot
            pieces, settled, into, out = 1, False, 0.0, 0.0
            while not settled and pieces <= 2**MOST_HALVINGS:
                now[:], hot[:], into, out = state, seen, 0.0, 0.0
                for k in range(pieces):
                    inner = k == int(GAMMA * pieces)
                    if inner:
                        blend[:] = now
                    settled, more_in, more_out = piece(
                        now, hot, (times[n] - passed) / pieces, dry, water, links, top[p],
                        bottom[p], upper_c[p], lower_c[p], power, set_c[p], lump, middle, room,
                    )  # fmt: skip
                    if not settled:
                        break
                    into, out = into + more_in, out + more_out
                    if inner and pieces > 1:
                        # The step's own inner moment, on the way through this piece.
                        blend += (GAMMA * pieces - k) * (now - blend)
                if settled:
                    within = middle if pieces == 1 else blend
                    inside, under = middle_above[n, p], middle_below[n, p]
                    keep(within, links, last, first, half, lump, inside, under)
                pieces *= 2
            if not settled:
                return p + 1
            energy[p, 0] += into
            energy[p, 1] += out
            passed = times[n]
            keep(now, links, last, first, half, lump, above[n + 1, p], below[n + 1, p])
            upper[n + 1, p] = now[0] if lump else upper_c[p]
        final[p] = now
    return 0
