"""What is computed about a faulty piece: the heat under its transfer, and its last good piece."""

from dataclasses import dataclass, replace

from tempermark.core.pressing.chain import REOPENED_S
from tempermark.core.pressing.closing import PressResult
from tempermark.core.pressing.request import ROOM_C
from tempermark.core.thermal.result.dwell import dwell_for
from tempermark.core.thermal.result.outcome import rates
from tempermark.core.thermal.solver import closing as press
from tempermark.core.thermal.solver.in_a_row import Phase, opened, run_phases
from tempermark.web.heat.lessons import trials
from tempermark.web.measure.press.history import SurveyHistory
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces import queries as runs
from tempermark.web.run.pieces.queries import UnderArt


@dataclass(frozen=True)
class UnderTransfer:
    """By the heat solver, at the coolest place under the art: °C at the end, dose (or flow), and
    its share of what the recipe's own stack lets through.
    """

    last_c: float
    dose: float | None
    flow_kpa_s: float | None
    share: float | None
    effective_s: float | None = None


def under_transfer(piece: TestPress, under: UnderArt | None) -> UnderTransfer | None:
    """What the heat did to a piece as it was pressed; None without a map or a transfer."""
    # The solver prints with the main press; other steps have only their window.
    if under is None or piece.step_number is not None:
        return None
    own = _pressed(piece, under.coolest_c, piece.pressed_stack)
    if own is None:
        return None
    by_recipe = _pressed(piece, under.coolest_c, tuple(piece.recipe.stack))
    wanted = _amount(by_recipe) if by_recipe is not None else 0.0
    share = _amount(own) / wanted if wanted > 0 else None
    return UnderTransfer(
        float(own.reached.last_c[0]),
        own.uptake if own.is_dye else None,
        None if own.is_dye else float(own.reached.flow_kpa_s[0]),
        share,
        _effective_s(piece, own) if piece.closures > 1 else None,
    )


def _effective_s(piece: TestPress, pressed: PressResult) -> float | None:
    """The dwell of one closing that gives what the piece's closings gave, opened for some seconds
    between equal ones.
    """
    keys = tuple(f"layer {n}" for n in range(len(pressed.layout.layers)))
    part = replace(pressed.closing, time_s=piece.dwell_s / piece.closures)
    phases = [Phase("press", part, keys)]
    for _ in range(piece.closures - 1):
        phases.append(Phase("open", opened(part, ROOM_C, REOPENED_S), ("air", *keys)))
        phases.append(Phase("press", replace(part, begins=None), keys))
    rate = rates(pressed.piece)["uptake" if pressed.is_dye else "flow_kpa_s"]
    kpa = 1.0 if pressed.is_dye else pressed.request.kpa
    whole = 0.0
    for phase, course in zip(phases, run_phases(phases), strict=True):
        # While it stands open the transfer lies loose: nothing passes and nothing flows.
        if phase.name == "press":
            whole += kpa * float(press.over_time(course, rate, pressed.interface)[0])
    return dwell_for(pressed.closing, pressed.piece, whole)


def _amount(pressed: PressResult) -> float:
    """Dye dose, or adhesive flow."""
    return float((pressed.reached.uptake if pressed.is_dye else pressed.reached.flow_kpa_s)[0])


def _pressed(piece: TestPress, true_c: float, stack: tuple[str, ...]) -> PressResult | None:
    pressed = trials.pressed_piece(piece, true_c, shop_materials(), stack, lessons=True)
    return pressed if pressed is not None and pressed.transfers else None


@dataclass(frozen=True)
class LastGood:
    """The last good piece of a recipe and blank on a press, and the heat under its art."""

    piece: TestPress
    under: UnderArt | None


def last_good(piece: TestPress, history: SurveyHistory | None = None) -> LastGood | None:
    """That of a piece, before it; None where there is none. `history` is its element's, where it
    was read already.
    """
    before = runs.worked_before(piece)
    return None if before is None else LastGood(before, runs.under_art(before, history))
