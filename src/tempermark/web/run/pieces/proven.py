"""What is proven on a press: the true temperature and dwell of its good pieces."""

from collections import Counter
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from tempermark.core.pressing.window_check import outside_window
from tempermark.core.pressure.press.contact import middle_kpa
from tempermark.web.measure.press.history import SurveyHistory
from tempermark.web.presses.models import Element
from tempermark.web.recipes.models import RecipeVersion
from tempermark.web.run.models import PieceOutcome, PressSetting, TestPress
from tempermark.web.run.pieces.queries import under_art

# The newest good pieces speak for a press; older ones were pressed on another pad or cover.
NEWEST = 5


@dataclass(frozen=True)
class Proven:
    """The middle of the newest good pieces of a recipe on an element, in true °C and s.

    `inside` tells whether that lies in the version's window: temperature, dwell and pressure;
    `chosen` that an experiment was made the setting here: it goes before older good pieces.
    """

    true_c: float
    dwell_s: float
    pressure: str
    count: int
    last: datetime
    inside: bool
    chosen: bool = False


def proven_on(version: RecipeVersion) -> dict[int, Proven]:
    """What is proven of a recipe, by the pk of the element."""
    versions = list(version.recipe.versions.values_list("pk", flat=True))
    good = TestPress.objects.filter(
        recipe__in=versions, step_number=None, outcome=PieceOutcome.GOOD
    ).order_by("-pressed_at", "-pk")
    found: dict[int, Proven | None] = {}
    # A few of each element, however many there are.
    for pk in Element.objects.values_list("pk", flat=True):
        newest = good.filter(element=pk).select_related("element__press")
        pieces = list(newest.prefetch_related("marks")[:NEWEST])
        if pieces:
            found[pk] = _middle(pieces, version)
    known = {pk: proven for pk, proven in found.items() if proven is not None}
    return known | _chosen(version)


def _chosen(version: RecipeVersion) -> dict[int, Proven]:
    """The settings that experiments gave, by the pk of the element."""
    rows = PressSetting.objects.filter(recipe=version.recipe).order_by("chosen_at", "pk")
    main = version.sheet.main
    found = {}
    for row in rows:
        kpa = middle_kpa(row.pressure) if row.pressure != "unknown" else None
        inside = not outside_window(main, row.true_c, row.dwell_s, kpa)
        found[row.element_id] = Proven(
            row.true_c, row.dwell_s, row.pressure, row.presses, row.chosen_at, inside, chosen=True
        )
    return found


def _middle(pieces: list[TestPress], version: RecipeVersion) -> Proven | None:
    history = SurveyHistory(pieces[0].element)
    heats = [(piece, under_art(piece, history)) for piece in pieces]
    known = [(piece, heat.mean_c) for piece, heat in heats if heat is not None]
    if not known:
        return None
    true_c = float(np.median([heat for _, heat in known]))
    dwell_s = float(np.median([piece.dwell_s for piece, _ in known]))
    classes = Counter(p.pressure for p, _ in known if p.pressure != "unknown")
    pressure = classes.most_common(1)[0][0] if classes else ""
    kpa = middle_kpa(pressure) if pressure else None
    return Proven(
        true_c,
        dwell_s,
        pressure,
        len(known),
        known[0][0].pressed_at,
        not outside_window(version.sheet.main, true_c, dwell_s, kpa),
    )
