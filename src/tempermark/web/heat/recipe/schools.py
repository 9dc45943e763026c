"""What each school gives by computation, beside what people say of it."""

from tempermark.core.pressing.request import main_request
from tempermark.core.pressing.verdict import RISK_LIMIT
from tempermark.core.recipes.steps import School
from tempermark.web.heat.lessons import held
from tempermark.web.heat.simulate import pressing
from tempermark.web.heat.simulate.words import RISK_NAMES
from tempermark.web.kit.figures import share_text
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.materials.library import ShopLibrary
from tempermark.web.recipes.models import Blank, RecipeVersion


def computed(
    version: RecipeVersion, school: School, blank: Blank | None, library: ShopLibrary
) -> str:
    """Density or bond and risks at the middle of a school's window, truly there; nothing without a
    blank the recipe is for.
    """
    main = school.applied(version.sheet.main)
    if blank is None or not (main.temperature_c and main.time_s and main.pressure):
        return ""
    request = main_request(version.sheet, core_blank(blank, library), school.name)
    request = held.with_lessons(request)
    pressed = pressing.chain_of(version.sheet, school.name, request, library).main
    if pressed is None or not pressed.transfers:
        return ""
    what = "full density" if pressed.is_dye else "a full bond"
    sentences = [f"{share_text(pressed.filled)} of {what}"]
    sentences += [
        f"{label} {share_text(pressed.risk(name))} likely"
        for name, label in RISK_NAMES.items()
        if pressed.risk(name) > RISK_LIMIT
    ]
    return f"Computed on {blank.name}: {', '.join(sentences)}."
