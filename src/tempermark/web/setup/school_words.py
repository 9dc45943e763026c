"""What each school gives by computation, beside what people say of it."""

from tempermark.core.pressure.contact import middle_kpa
from tempermark.core.recipes.steps import School
from tempermark.web.setup import heat, learning
from tempermark.web.setup.heat_forms import HUMIDITY
from tempermark.web.setup.heat_row import state_before
from tempermark.web.setup.heat_words import RISK_NAMES
from tempermark.web.setup.models import Blank, RecipeVersion

# Risks are told from here.
TOLD_FROM = 0.1


def computed(version: RecipeVersion, school: School, blank: Blank | None, library) -> str:
    """Density or bond and risks at the middle of a school's window, truly there; nothing without a
    blank of the recipe's kind.
    """
    main = school.applied(version.sheet.main)
    if blank is None or not (main.temperature_c and main.time_s and main.pressure):
        return ""
    asked = heat.Asked(
        main,
        version.recipe.method,
        main.stack,
        blank,
        sum(main.temperature_c) / 2,
        sum(main.time_s) / 2,
        middle_kpa(main.pressure),
        HUMIDITY / 100,
    )
    asked = learning.with_lessons(asked)
    begins = state_before(version.sheet, school.name, asked, library)
    made = heat.pressed(asked, library, begins)
    if made is None or not made.transfers:
        return ""
    told = [f"density {made.density:.2f}" if made.is_dye else f"bond {made.bond:.2f}"]
    told += [
        f"{label} {made.risk(name):.2f}"
        for name, label in RISK_NAMES.items()
        if made.risk(name) >= TOLD_FROM
    ]
    return f"Computed on {blank.name}: {', '.join(told)}."
