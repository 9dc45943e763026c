"""Where and when something is seen, and the words for it."""

PLACES = (
    "all",
    "centre",
    "edge_left",
    "edge_right",
    "edge_front",
    "edge_back",
    "corner_front_left",
    "corner_front_right",
    "corner_back_left",
    "corner_back_right",
    "all_edges",
    "two_opposite_edges",
    "along_seam",
    "around_trim",
    "around_print",
    "back_of_blank",
    "random",
    "same_spot_every_time",
    "rim_of_element",
)

# Place groups that the knowledge speaks of, each with its codes.
PLACE_GROUPS = {
    "all": ("all",),
    "centre": ("centre",),
    "one_side": ("edge_left", "edge_right", "edge_front", "edge_back"),
    "corner": (
        "corner_front_left",
        "corner_front_right",
        "corner_back_left",
        "corner_back_right",
    ),
    "all_edges": ("all_edges",),
    "two_edges": ("two_opposite_edges",),
    "along_seam": ("along_seam",),
    "around_trim": ("around_trim",),
    "around_print": ("around_print",),
    "back": ("back_of_blank",),
    "random": ("random",),
    "same_spot": ("same_spot_every_time",),
    "rim": ("rim_of_element",),
}

PLACE_GROUP_OF = {place: group for group, places in PLACE_GROUPS.items() for place in places}

PLACE_WORDS = {
    "all": "all over",
    "centre": "in the middle",
    "edge_left": "at the left",
    "edge_right": "at the right",
    "edge_front": "at the front",
    "edge_back": "at the back",
    "corner_front_left": "at the front left",
    "corner_front_right": "at the front right",
    "corner_back_left": "at the back left",
    "corner_back_right": "at the back right",
    "all_edges": "at all edges",
    "two_opposite_edges": "at two opposite edges",
    "along_seam": "along the seam",
    "around_trim": "around the trim",
    "around_print": "around the print",
    "back_of_blank": "on the back",
    "random": "here and there",
    "same_spot_every_time": "at the same spot every time",
    "rim_of_element": "at the element's edge",
}

TIMES = (
    "before_press",
    "on_opening",
    "on_peel",
    "after_cooling",
    "after_wash",
)

# What is seen then was not looked at in every case.
AFTER_WASH = "after_wash"

TIME_WORDS = {
    "before_press": "before pressing",
    "on_opening": "on opening",
    "on_peel": "on peeling",
    "after_cooling": "after cooling",
    "after_wash": "after washing",
}
