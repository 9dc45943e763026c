"""A shop's pieces and traces as the learning takes them."""

from dataclasses import replace
from datetime import datetime

import numpy as np

from tempermark.core.pressing.closing import PressResult, closing_of
from tempermark.core.pressing.layout import build_layout
from tempermark.core.pressing.request import (
    ROOM_C,
    USUAL_HUMIDITY,
    PressRequest,
    as_coated,
    main_request,
)
from tempermark.core.pressure.press.contact import middle_kpa
from tempermark.core.recipes.steps import MAIN, Sheet
from tempermark.core.thermal.library.receivers import BARE, receiver_code, receivers
from tempermark.core.thermal.result.learn import (
    ThermocoupleTrace,
    Trial,
)
from tempermark.core.thermal.solver import closing as press
from tempermark.core.vocabulary.methods import DYE_METHODS
from tempermark.web.heat.lessons.held import _with_heat, with_lessons
from tempermark.web.heat.models import StackTrace
from tempermark.web.heat.simulate import pressing
from tempermark.web.heat.simulate.on_press import on_element, true_under
from tempermark.web.measure.press.history import SurveyHistory
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.core import core_blank, material_of
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials
from tempermark.web.recipes.models import Blank
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces.queries import under_art

# So many of the newest pieces teach a surface; a page waits for them.
MOST_PIECES = 40


def surface_of(
    blank: Blank, stack: tuple[str, ...], library: ShopLibrary, sheet: Sheet | None = None
) -> str:
    """The surface that receives the dye: the blank's own, or the coat that a recipe lays on it."""
    own = core_blank(blank, library)
    coating = own.coating if sheet is None else as_coated(own, sheet).coating
    return receiver_code(blank.kind, coating, material_of(blank, library), stack)


def surface_of_piece(piece: TestPress) -> str:
    """The surface that a logged piece speaks about."""
    library = shop_materials()
    return surface_of(piece.blank, piece.pressed_stack, library, piece.recipe.sheet)


def trials_by_surface(
    until: datetime | None = None,
) -> dict[str, list[tuple[TestPress, Trial]]]:
    """Scored pieces whose true temperature is known, newest first, by their surface."""
    scored = (
        TestPress.objects.filter(recipe__recipe__method__in=DYE_METHODS, step_number=None)
        .exclude(scores={}, density=None)
        .select_related("element__press", "recipe__recipe", "blank")
        .prefetch_related("marks")
    )
    if until is not None:
        scored = scored.filter(pressed_at__lte=until)
    found: dict[str, list[tuple[TestPress, Trial]]] = {}
    library, histories = shop_materials(), Histories()
    for piece in scored[: MOST_PIECES * len(receivers())]:
        surface = surface_of(piece.blank, piece.pressed_stack, library, piece.recipe.sheet)
        of_surface = found.setdefault(surface, [])
        if len(of_surface) == MOST_PIECES:
            continue
        trial = _trial(piece, library, histories)
        if trial is not None:
            of_surface.append((piece, trial))
    return {surface: pairs for surface, pairs in found.items() if pairs and surface != BARE}


class Histories(dict[int, SurveyHistory]):
    """Surveys of the elements that pieces were pressed on, each element's read once."""

    def of(self, element: Element) -> SurveyHistory:
        """Those of an element."""
        if element.pk not in self:
            self[element.pk] = SurveyHistory(element)
        return self[element.pk]


def _trial(piece: TestPress, library: ShopLibrary, histories: Histories) -> Trial | None:
    score = piece.scores.get("black")
    if not score and piece.density is None:
        return None
    under = under_art(piece, histories.of(piece.element))
    if under is None:
        return None
    pressed = pressed_piece(piece, round(under.mean_c, 1), library)
    if pressed is None or not pressed.is_dye or pressed.piece.share == 0:
        return None
    return Trial(
        pressed.course,
        pressed.interface,
        pressed.piece.share,
        score,
        piece.density,
        f"survey {under.survey.pk}",
        under.standard_uncertainty_c,
    )


def pressed_piece(
    piece: TestPress,
    true_c: float,
    library: ShopLibrary,
    stack: tuple[str, ...] = (),
    lessons: bool = False,
) -> PressResult:
    """What the heat did to a logged piece at a true temperature, by the surface's starting law or
    with the shop's `lessons`; None where nothing receives it.

    Steps before count unless it was noted that the blank was not pre-pressed.
    """
    sheet = piece.recipe.sheet
    request = piece_request(piece, true_c, library, stack)
    request = with_lessons(request) if lessons else _with_heat(request)
    before = "blank_not_prepressed" not in piece.facts
    return pressing.chain_of(sheet, "", request, library, None, before).main


def piece_request(
    piece: TestPress, true_c: float, library: ShopLibrary, stack: tuple[str, ...] = ()
) -> PressRequest:
    """A logged piece as the core presses it again."""
    sheet = piece.recipe.sheet
    humidity = piece.relative_humidity
    request = main_request(
        sheet,
        core_blank(piece.blank, library),
        true_c=true_c,
        dwell_s=piece.dwell_s,
        kpa=middle_kpa(piece.pressure if piece.pressure != "unknown" else sheet.main.pressure),
        humidity=USUAL_HUMIDITY if humidity is None else humidity,
    )
    request = replace(request, stack=stack or piece.pressed_stack)
    return on_element(request, piece.element)


def trace_request(trace: StackTrace, library: ShopLibrary) -> PressRequest:
    """What was pressed when a trace was taken, at the true temperature of then."""
    sheet = trace.recipe.sheet
    true_c, _ = true_under(trace.element, trace.set_c, trace.at)
    request = main_request(
        sheet,
        core_blank(trace.blank, library),
        true_c=true_c,
        dwell_s=max(trace.time_s),
        kpa=trace.contact_kpa,
        humidity=trace.relative_humidity,
        # A probe lies in a cold stack, under a plate that is held.
        pad_c=ROOM_C,
        dips=False,
    )
    return replace(request, step=replace(sheet.main, kind=MAIN))


def _core_trace(trace: StackTrace, library: ShopLibrary) -> ThermocoupleTrace | None:
    request = trace_request(trace, library)
    layout = build_layout(request, library)
    at = layout.interface
    if at is None:
        return None
    if trace.under_blank:
        below = layout.blank_at
        if below is None or below >= len(layout.layers) - 1:
            return None
        at = below

    def face_c(contact: float, sheet: float, times: np.ndarray) -> np.ndarray:
        changed = replace(request, contact_factor=contact, sheet_factor=sheet)
        course = press.press(closing_of(changed, build_layout(changed, library)))
        return press.at_times(course, times)[:, 0, at]

    return ThermocoupleTrace(face_c, np.array(trace.time_s), np.array(trace.seen_c))
