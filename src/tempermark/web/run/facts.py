"""Which facts the log of a test press asks for: either-or groups, and single ones."""

# Label of the group → fact codes of which one at most holds.
EITHER_OR = {
    "Transfer": ("transfer_fixed", "transfer_not_fixed"),
    "Pre-press": ("blank_prepressed", "blank_not_prepressed"),
    "Wiped": ("blank_wiped", "blank_not_wiped"),
    "Print": ("transfer_dried", "transfer_fresh"),
    "Cover": ("cover_parchment", "cover_plain_paper", "cover_ptfe", "no_cover"),
}
SINGLE = (
    "cover_reused",
    "no_inside_sheet",
    "pillow_used",
    "seam_in_print_area",
    "trim_in_print_area",
    "pressure_set_without_blank",
    "thickness_changed_since_set",
    "rapid_series",
    "timer_started_before_recovery",
    "steam_seen",
    "humid_room",
    "no_wicking_layer",
    "dragged_on_opening",
    "extra_layers",
)
