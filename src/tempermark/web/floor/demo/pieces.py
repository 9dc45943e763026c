"""The demo's test presses: series of good pieces, and the two that became cases."""

# press, recipe slug, blank, dial °C, dwell s, pressure, art (w, h), days ago of each, scores
GOOD_SERIES = (
    ("heron", "dye-on-a-polyester-vest", "Crew vest, white", 205, 52, "medium", (210, 250),
     (170, 150, 128, 96, 74, 55, 41), (5, 5, 4, 4, None, 5)),
    ("heron", "dye-on-a-polyester-vest", "Marshal's bib, yellow", 205, 55, "medium", (180, 120),
     (160, 121, 88, 33), (4, 4, 5, 4, None, 5)),
    ("grebe", "film-on-a-cotton-bag", "Cotton bag, natural", 159, 13, "medium", (160, 160),
     (190, 165, 140, 109, 81, 52, 24), (5, 5, 5, 5, 5, 4)),
    ("coot", "dye-on-a-coated-aluminium-panel", "Bow-number board", 206, 62, "medium", (406, 306),
     (155, 130, 101, 70, 45), (5, 4, 5, 5, None, None)),
    ("coot", "dye-on-a-hardboard-plate", "Boat-house door plate", 200, 85, "medium", (206, 126),
     (118, 90, 61, 30), (5, 5, 4, 5, None, None)),
    ("dipper", "dye-on-a-tapered-steel-beaker", "Tapered steel beaker", 181, 62, "medium", (90, 80),
     (143, 112, 77, 48, 19), (4, 5, 4, 4, None, None)),
    ("plover", "film-on-a-cap-front", "Sun hat, five panels", 158, 20, "medium", (90, 50),
     (133, 98, 64, 36), (5, 5, 5, 4, 5, 4)),
    ("wren", "film-on-a-cotton-bag", "Cotton bag, natural", 160, 14, "light", (90, 90),
     (49, 22), (4, 4, 4, 3, 3, 4)),
)

# Faulty pieces: press, recipe, blank, dial, dwell, pressure, peel, art (x, y, w, h), days ago, facts, marks
# A mark: symptom, when, severity, place on the platen in mm (or None and a place in words).
FAULTY = (
    ("heron", "dye-on-a-polyester-vest", "Crew vest, white", 200, 52, "medium", "hot", (40, 215, 240, 260), 6,
     ("transfer_fixed", "blank_prepressed"), (("edge_fade", "on_opening", 1, (62, 448), None),)),
    ("heron", "dye-on-a-polyester-vest", "Crew vest, white", 200, 52, "medium", "hot", (40, 215, 240, 260), 2,
     ("transfer_fixed", "blank_prepressed"), (("edge_fade", "on_opening", 2, (58, 455), None),)),
    ("wren", "film-on-a-cotton-bag", "Cotton bag, natural", 160, 12, "light", "hot", (15, 15, 90, 90), 11,
     ("blank_not_prepressed",), (("peeling", "on_peel", 2, None, "all_edges"),)),
    ("coot", "dye-on-a-coated-aluminium-panel", "Bow-number board", 206, 60, "medium", "hot",
     (97, 97, 406, 306), 16, ("transfer_not_fixed",), (("ghosting", "on_opening", 2, None, "all"),)),
)
OPEN_CASE = 1

CLOSED_CASE = {
    "piece": ("grebe", "film-on-a-cotton-bag", "Cotton bag, natural", 159, 6, "medium", "hot",
              (110, 110, 160, 160), 38, ("blank_prepressed",),
              (("carrier_pulls_film", "on_peel", 2, None, "all"), ("peeling", "on_peel", 1, None, "all_edges"))),
    "check": ("time_the_dwell", "Shorter than asked"),
    "cause": "dwell_short",
    "proof_dwell_s": 13,
    "proof_days_ago": 37,
    "note": "The clock had been set for another film. 13 s, film stays down.",
}
