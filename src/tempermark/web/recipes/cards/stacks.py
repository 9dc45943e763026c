"""A stack on a press, as the rules of stacks take it."""

from collections.abc import Iterable

from tempermark.core.pressing import request as pressing
from tempermark.core.recipes.stack_rules import Stacked
from tempermark.web.presses.models import Element
from tempermark.web.recipes.models import Blank


def stacked_on(
    element: Element,
    blank: Blank | pressing.BlankProperties,
    layers: Iterable[str],
    method: str,
    step: str,
    humidity: float | None = None,
) -> Stacked:
    """Layers from the platen down with a blank on a press; `step` a kind, humidity 0–1."""
    return Stacked(
        layers=tuple(layers),
        method=method,
        step=step,
        blank_kind=blank.kind,
        coating=blank.coating,
        features=tuple(blank.features),
        width_mm=blank.width_mm,
        height_mm=blank.height_mm,
        relative_humidity=humidity,
        fixed_cover=element.press.cover,
    )
