"""Places on a platen in words, as the operator sees it."""


def place_words(x_share: float, y_share: float) -> str:
    """`back left corner`, `left edge`, `middle`; shares 0–1 from the front left."""
    across = "left" if x_share < 1 / 3 else "right" if x_share > 2 / 3 else ""
    along = "front" if y_share < 1 / 3 else "back" if y_share > 2 / 3 else ""
    if across and along:
        return f"{along} {across} corner"
    return f"{across or along} edge" if across or along else "middle"


def where_code(x_share: float, y_share: float) -> str:
    """The vocabulary's code for a mark at this share of the art."""
    words = place_words(x_share, y_share)
    if words == "middle":
        return "centre"
    name, kind = words.rsplit(" ", 1)
    return f"{kind}_{name.replace(' ', '_')}"


# Where a place in words lies on the art, as shares from its front left corner; places that are no
# one place (all edges, random) are left out.
PLACE_SHARES = {
    "centre": (0.5, 0.5),
    "edge_left": (0.07, 0.5),
    "edge_right": (0.93, 0.5),
    "edge_front": (0.5, 0.07),
    "edge_back": (0.5, 0.93),
    "corner_front_left": (0.09, 0.09),
    "corner_front_right": (0.91, 0.09),
    "corner_back_left": (0.09, 0.91),
    "corner_back_right": (0.91, 0.91),
}
