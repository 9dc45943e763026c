"""Every measure by the name that the knowledge files call it by, and what each needs to know."""

from tempermark.core.diagnosis.weighing.measures import heat, piece, setting
from tempermark.core.diagnosis.weighing.measures.basis import Measure

MEASURES: dict[str, Measure] = {
    function.__name__: function
    for function in (
        heat.dial_below_window,
        heat.dial_above_window,
        heat.true_below_window,
        heat.true_above_window,
        heat.place_below_window,
        heat.place_above_window,
        heat.true_inside_window,
        heat.even_map,
        setting.dwell_below_window,
        setting.dwell_above_window,
        setting.pressure_below_window,
        setting.pressure_above_window,
        setting.pressure_as_asked,
        setting.set_for_thicker,
        setting.set_for_thinner,
        heat.heat_held_back,
        setting.timer_ceiling,
        piece.synthetic_cloth,
        piece.humid_air,
        piece.thirsty_blank,
        piece.large_panel,
        piece.art_not_larger,
        piece.growth_over_bleed,
        piece.polyester_share,
        piece.softening,
        piece.dyed_polyester,
        setting.peel_early,
        setting.peel_late,
    )
}

# What a measure would need and the case may lack, as a question for the technician.
NEEDS = {
    "true_below_window": (
        "actual.measured_c",
        "What is the true temperature at the print?",
    ),
    "true_above_window": (
        "actual.measured_c",
        "What is the true temperature at the print?",
    ),
    "dwell_below_window": ("actual.time_s", "How long was it pressed in total?"),
    "dwell_above_window": ("actual.time_s", "How long was it pressed in total?"),
    "pressure_below_window": ("actual.pressure", "Was the pressure light, medium or firm?"),
    "pressure_above_window": ("actual.pressure", "Was the pressure light, medium or firm?"),
    "polyester_share": ("blank.polyester", "How much polyester is in the cloth?"),
    "peel_early": ("actual.peel", "Was it peeled hot, warm or cold?"),
    "peel_late": ("actual.peel", "Was it peeled hot, warm or cold?"),
}
