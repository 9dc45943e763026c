"""What a press would give over dial and dwell, for many shops at once: the physics with all that is
not known of it drawn at random.

Equation: the closing of core/pressing solved at a row of temperatures, its uptake for a row of
activations; a shop differs by its display's error, its dye's rate and activation, its adhesive's
flow, its limits and what its stack holds back.
Range: the main press of the receiver's usual recipe, 130 to 240 °C true, up to 600 s.
Source: core/thermal/result (starting laws and how well they are known).
"""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from tempermark.core.pressing.chain import state_before
from tempermark.core.pressing.closing import PressResult, press_once
from tempermark.core.pressing.request import BlankProperties, main_request, shipped_blank
from tempermark.core.pressure.press.contact import middle_kpa
from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.recipes.steps import Sheet
from tempermark.core.thermal.result.dwell import cumulated
from tempermark.core.thermal.result.dye import Law
from tempermark.core.thermal.result.outcome import DENTS_KPA_S, Reached, outcome, rates
from tempermark.core.thermal.result.sampled import FLOW_SHARE, LIMIT_K
from tempermark.core.thermal.solver.places import solve

# Receiver as a document names it → the shipped recipe whose stack stands for it.
RECIPE_OF = {
    "cloth": "polyester-vest",
    "hard_coat": "coated-panel",
    "plastic": "plastic-tag",
    "hot_melt": "film-on-tee",
}
# The tables: true temperatures in °C, dwells in s, activations around the law's own in standards.
TABLE_C, TABLE_POINTS = (120.0, 250.0), 27
TABLE_S = (0.0, 600.0)
ACTIVATIONS = (-3.0, -1.5, 0.0, 1.5, 3.0)
# How differently gas spreads, and what a stack holds back of the first seconds, standard. Starting
# values.
SPREAD_SHARE, LAG_SD_S = 0.25, 2.0


@dataclass(frozen=True)
class Shops:
    """Draws (n,) of what differs between shops: the display's error and the limits' in K, ln of the
    rate, activation in standards, ln of the adhesive's flow, ln of where gas spreads, s of lag.
    """

    display_k: np.ndarray
    limit_k: np.ndarray
    rate: np.ndarray
    activation: np.ndarray
    flow: np.ndarray
    spreads: np.ndarray
    lag_s: np.ndarray

    def chosen(self, rows: np.ndarray) -> "Shops":
        """Some of them, by their places; units as before (K, s)."""
        return Shops(**{name: values[rows] for name, values in vars(self).items()})


def drawn_shops(count: int, display_sd_k: float, rate_share: float, seed: int) -> Shops:
    """So many shops, the display known to a standard in K; the same every time."""
    rng = np.random.default_rng(seed)
    sds = (display_sd_k, LIMIT_K, rate_share, 1.0, FLOW_SHARE, SPREAD_SHARE, LAG_SD_S)
    return Shops(*(sd * rng.standard_normal(count) for sd in sds))


@dataclass(frozen=True)
class Expected:
    """What comes out, arrays as asked: share 0–1 of what is possible (bond of a film), and the
    greatest risk 0–1.
    """

    filled: np.ndarray
    risk: np.ndarray


@dataclass(frozen=True, eq=False)
class PressTables:
    """A receiver's tables over true °C, dwell in s and, for uptake, activation in standards."""

    pressed: PressResult
    kpa: float
    rate_share: float
    tables: dict[str, RegularGridInterpolator]

    def expected(self, shops: Shops, set_c: np.ndarray, time_s: np.ndarray) -> Expected:
        """What each shop (n,) gets at dials in °C and dwells in s (m,): arrays (m, n)."""
        true = np.clip(set_c[:, None] + shops.display_k[None, :], *TABLE_C)
        dwell = np.clip(time_s[:, None] - shops.lag_s[None, :], *TABLE_S)
        limited = np.clip(true - shops.limit_k[None, :], *TABLE_C)
        activation = np.broadcast_to(np.clip(shops.activation, -3, 3), true.shape)
        nothing = np.zeros(true.shape)
        uptake, flow = nothing, nothing
        if "uptake" in self.tables:
            points = np.stack([activation, true, dwell], axis=-1)
            uptake = self.tables["uptake"](points) * np.exp(shops.rate)
        at = np.stack([limited, dwell], axis=-1)
        if "flow_kpa_s" in self.tables:
            flow = self.kpa * self.tables["flow_kpa_s"](at) * np.exp(shops.flow)
        scorch = self.tables["scorch"](at)
        migration = self.tables["migration"](at) if "migration" in self.tables else nothing
        dents = (
            self.kpa * self.tables["soft"](at) / DENTS_KPA_S if "soft" in self.tables else nothing
        )
        result = Reached(uptake, flow, nothing, scorch, migration, dents, nothing, true, true)
        piece = self.pressed.piece
        found = outcome(result, piece, np.full(true.shape, self.kpa))
        risks = dict(found.risks)
        if self.pressed.is_dye:
            easier = replace(result, uptake=uptake * np.exp(-shops.spreads))
            risks["blowout"] = outcome(easier, piece, np.full(true.shape, self.kpa)).risks[
                "blowout"
            ]
        filled = 1 - np.exp(-uptake) if self.pressed.is_dye else found.bond
        return Expected(filled, np.max(list(risks.values()), axis=0))


@lru_cache(maxsize=16)
def surface(receiver: str, pressure: str) -> PressTables:
    """The tables of a receiver under a class of pressure. Raises KeyError for an unknown one."""
    sheets = {sheet.code: sheet for sheet in shipped_recipes()}
    sheet = sheets[RECIPE_OF[receiver]]
    found = press_tables(sheet, shipped_blank(sheet.blank), pressure)
    if found is None:
        raise KeyError(receiver)
    return found


@lru_cache(maxsize=16)
def press_tables(sheet: Sheet, blank: BlankProperties, pressure: str) -> PressTables | None:
    """The tables of a recipe's own main press on a blank under a class of pressure; None where its
    stack is not known well enough.
    """
    kpa = middle_kpa(pressure)
    request = main_request(sheet, blank, kpa=kpa, dwell_s=TABLE_S[1])
    # The main press begins as the steps before it leave the stack.
    pressed = press_once(request, begins=state_before(sheet, "", request))
    if pressed is None or pressed.closing.pressure_kpa is None:
        return None
    return _tabulated(pressed, kpa)


def _tabulated(pressed: PressResult, kpa: float) -> PressTables:
    closing = replace(pressed.closing, time_s=TABLE_S[1])
    warm = np.linspace(*TABLE_C, TABLE_POINTS)
    course = solve(closing, TABLE_C, TABLE_POINTS).course
    at = pressed.interface
    tables: dict[str, RegularGridInterpolator] = {}
    for name, rate in rates(pressed.piece).items():
        if name != "uptake":
            sums = cumulated(course, rate, at).T
            tables[name] = _table((warm, course.time_s), sums)
    if pressed.piece.softens_c is not None:
        soft = pressed.piece.softens_c
        seconds = cumulated(course, lambda t: 1.0 / (1.0 + np.exp(soft - t)), at).T
        tables["soft"] = _table((warm, course.time_s), seconds)
    known = pressed.receiver.known if pressed.receiver else None
    if pressed.is_dye and known is not None:
        law = pressed.piece.law
        laws = [
            Law(law.rate_per_s, max(law.activation_j_mol + z * known.activation_j_mol, 10_000.0))
            for z in ACTIVATIONS
        ]
        sums = np.stack([cumulated(course, one.at, at).T for one in laws])
        tables["uptake"] = _table((np.array(ACTIVATIONS), warm, course.time_s), sums)
    return PressTables(pressed, kpa, known.rate_share if known else 0.0, tables)


def _table(axes: tuple[np.ndarray, ...], values: np.ndarray) -> RegularGridInterpolator:
    return RegularGridInterpolator(axes, values, bounds_error=False, fill_value=None)
