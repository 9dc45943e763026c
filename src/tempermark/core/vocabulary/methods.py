"""Methods, the kinds of them that knowledge speaks of, and their words."""

METHODS = (
    "dye_sublimation",
    "heat_transfer_film",
    "transfer_paper",
    "powder_film",
    "patch",
    "spray_coating",
    "laminate_coating",
)

# Methods in which dye passes into the blank, and those that bond a film.
DYE_METHODS = ("dye_sublimation", "spray_coating", "laminate_coating")

FILM_METHODS = ("heat_transfer_film", "transfer_paper", "powder_film", "patch")

# Prints through which the blank's own colour shows.
TRANSPARENT_METHODS = (*DYE_METHODS, "powder_film")

METHOD_WORDS = {
    "dye_sublimation": "dye",
    "heat_transfer_film": "cut film",
    "transfer_paper": "transfer paper",
    "powder_film": "powder film",
    "patch": "patch",
    "spray_coating": "dye on a sprayed coat",
    "laminate_coating": "dye on a laminate",
}

METHOD_KINDS = {
    "dye": DYE_METHODS,
    "film": FILM_METHODS,
    "laid": (*FILM_METHODS, "laminate_coating"),
    "powder": ("powder_film",),
    "transparent": TRANSPARENT_METHODS,
}
