"""What pressure a recipe asks of a press for one blank."""

from tempermark.core.errors import InputError
from tempermark.web.presses.models import Element
from tempermark.web.pressure.forms import initial_load
from tempermark.web.pressure.setting.setting import Advice, Load, advise
from tempermark.web.recipes.models import Blank, RecipeVersion


def pressure_advice(
    element: Element, blank: Blank, version: RecipeVersion, wanted: str = ""
) -> Advice | None:
    """The setting for a blank in a recipe's stack at a class of pressure (the recipe's); None where
    what is known of the press does not allow one.
    """
    values = initial_load(blank, version) | {"blank": blank, "lean_kg": None}
    load = Load(**(values | {"wanted": wanted or version.pressure}))
    try:
        return advise(element.press, element, load)
    except InputError:
        return None
