"""tempermark.outcome/1: how a shipped recipe comes out, or all at their windows' corners."""

from typing import Any

from tempermark.core.constants import DWELL_LIMIT_S
from tempermark.core.phrases import metric
from tempermark.core.pressing.recipe_outcome import RecipeOutcome, recipe_outcome, window_points
from tempermark.core.pressing.request import USUAL_HUMIDITY
from tempermark.core.pressure.press.contact import middle_kpa
from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.recipes.steps import Sheet
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.outcome/1"
# Contact on a press, kPa: from a plate that just rests to far beyond the trade's classes.
PRESSURE_RANGE_KPA = (0.0, 500.0)


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    recipes = {sheet.code: sheet for sheet in shipped_recipes()}
    if fields.flag("list", default=False):
        fields.done()
        return {"recipes": [_listed(sheet) for sheet in recipes.values()]}
    code = fields.choice("recipe", tuple(recipes))
    true_c = fields.temperature("true_c")
    time_s = fields.number("time_s", 0, DWELL_LIMIT_S, unit=" s", above=True)
    kpa = _kpa(fields)
    humidity = fields.number("relative_humidity", 0, 1, default=USUAL_HUMIDITY)
    polyester = fields.number("polyester", 0, 1, default=None)
    fields.done()
    sheet = recipes[code]
    return {"recipe": code} | _document(
        recipe_outcome(sheet, true_c, time_s, kpa, humidity, polyester)
    )


def _kpa(fields: Fields) -> Any:
    """Contact pressure given, the middle of a class given, or None for the recipe's own."""
    if fields.has("pressure_kpa"):
        return fields.number("pressure_kpa", *PRESSURE_RANGE_KPA, unit=" kPa", above=True)
    name = fields.choice("pressure", PRESSURE_CLASSES, default=None)
    return None if name is None else middle_kpa(name)


def _listed(sheet: Sheet) -> dict[str, Any]:
    main = sheet.main
    points = {
        name: {"true_c": true_c, "time_s": time_s}
        | _document(recipe_outcome(sheet, true_c, time_s, draws=False))
        for name, (true_c, time_s) in window_points(sheet).items()
    }
    return {
        "code": sheet.code,
        "name": sheet.name,
        "method": sheet.method,
        "blank": sheet.blank,
        "temperature_c": list(main.temperature_c or ()),
        "time_s": list(main.time_s or ()),
        "pressure": main.pressure,
        "centre": points.pop("centre"),
        "corners": list(points.values()),
    }


def _document(result: RecipeOutcome) -> dict[str, Any]:
    found = result.pressed
    dye = found.is_dye
    document: dict[str, object] = {
        "density": _rounded(found.density) if dye else None,
        "density_of_possible": _rounded(found.filled) if dye else None,
        "bond": None if dye else _rounded(found.bond),
        "risks": {name: _rounded(float(v[0])) for name, v in found.outcome.risks.items()},
        "water_left_g_m2": _rounded(found.water_g_m2),
        "interface_c": round(float(found.reached.last_c[0]), 3),
        "verdict": result.verdict.code,
        "because": [metric(text) for text in (*result.verdict.because, *result.notes)],
    }
    if result.drawn is not None:
        document["interval"] = {
            "density": _pair(result.interval("density")) if dye else None,
            "bond": None if dye else _pair(result.interval("bond")),
        }
    return document


def _pair(interval: tuple[float, float] | None) -> list[float] | None:
    return None if interval is None else [_rounded(end) for end in interval]


def _rounded(value: float) -> float:
    return round(value, 5)
