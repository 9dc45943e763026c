"""tempermark.setpoint/1: the calibration line of one element."""

from typing import Any

import numpy as np

from tempermark.core.metrology.press.calibration import calibration_line
from tempermark.files.document import read_format

FORMAT = "tempermark.setpoint/1"
MOST_POINTS = 100


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    rows = fields.objects("points", 1, MOST_POINTS)
    settings = [row.temperature("set_c") for row in rows]
    truths = [row.temperature("true_c") for row in rows]
    target = fields.temperature("target_c")
    fields.done()
    line = calibration_line(np.array(settings), np.array(truths))
    setting = line.dial_for(target).exact_c
    uncertainty = line.setting_uncertainty_c(setting)
    return {
        "gain": round(line.gain, 6),
        "offset_c": round(line.offset_c, 4),
        "set_c": round(setting, 4),
        "expanded_uncertainty_c": None if uncertainty is None else round(uncertainty, 4),
        "notes": _notes(setting, settings),
    }


def _notes(setting: float, settings: list[float]) -> list[str]:
    reach = max(15.0, max(settings) - min(settings))
    if min(settings) - reach <= setting <= max(settings) + reach:
        return []
    return ["The setting lies far outside the surveyed ones: outside the validated range."]
