"""Our own pictures of faults: what each does to one made-up emblem on a blank.

Each picture is drawn from its symptom and a severity of 1 to 3. A drawing is a list of shapes;
colours alone never tell a fault, form does.
"""

from collections.abc import Callable

import numpy as np

from tempermark.web.trace.pictures.shapes import (
    BLACK,
    BLANK,
    FIELD,
    HEIGHT,
    LEFT,
    PARTS,
    PINE,
    RULE,
    RUST,
    SIZE,
    TOP,
    WIDTH,
    Shape,
    art,
    blank,
    box,
    disc,
    line,
    moved,
    scattered,
)

SEVERITIES = (1, 2, 3)

DRAWN: dict[str, Callable[[int], list[Shape]]] = {}


def drawing(draw: Callable[[int], list[Shape]]) -> Callable[[int], list[Shape]]:
    """Registers a drawing under its symptom: its name without the underscore."""
    DRAWN[draw.__name__.removeprefix("_")] = draw
    return draw


@drawing
def _ghosting(s: int) -> list[Shape]:
    copy = moved(art(), 2.5 + 2.5 * s, 1.0 + s, 0.18 + 0.08 * s)
    return blank() + copy + art()


@drawing
def _blowout(s: int) -> list[Shape]:
    rims = [
        Shape(d, stroke=c, width=3.0 * n, opacity=0.14)
        for n in range(1, 2 * s + 2)
        for d, c in PARTS
    ]
    return blank() + rims + art()


@drawing
def _press_line(s: int) -> list[Shape]:
    return (
        blank()
        + art()
        + [
            Shape(
                line((LEFT - 20, TOP + 58), (LEFT + WIDTH + 20, TOP + 58)),
                stroke=BLANK,
                width=w,
                opacity=o,
            )
            for w, o in ((1.0 + s, 0.9),)
        ]
        + [
            Shape(
                line((LEFT - 20, TOP + 61), (LEFT + WIDTH + 20, TOP + 61)),
                stroke=BLACK,
                width=0.6 * s,
            )
        ]
    )


@drawing
def _low_density(s: int) -> list[Shape]:
    return blank() + art(0.75 - 0.2 * s)


@drawing
def _weak_black(s: int) -> list[Shape]:
    browns = ("#4a3d33", "#6b5a4c", "#8b7d70")
    return blank() + art(colours=(browns[s - 1], PINE, RUST))


@drawing
def _edge_fade(s: int) -> list[Shape]:
    reach = 12.0 + 16.0 * s
    # Veils laid over each other, each a little narrower: no seams show between them.
    veils, margin = 24, 0.5 + 0.16 * s
    opacity = round(1 - (1 - margin) ** (1 / veils), 4)
    veil = [
        Shape(box(LEFT - 2, TOP - 2, (n + 1) * reach / veils, HEIGHT + 4), BLANK, opacity=opacity)
        for n in range(veils)
    ]
    return blank() + art() + veil


@drawing
def _patch_fade(s: int) -> list[Shape]:
    patches = list(scattered("patch_fade", 2 + 2 * s))
    return (
        blank()
        + art()
        + [
            Shape(disc(x, y, (5 + 8 * size) * k), BLANK, opacity=0.3)
            for x, y, size in patches
            for k in (1, 0.75, 0.5)
        ]
    )


@drawing
def _colour_shift(s: int) -> list[Shape]:
    casts = (
        ("#33291f", "#34582f", "#cf7a1d"),
        ("#473521", "#4f5c22", "#d58c14"),
        ("#5c4322", "#6b6216", "#dc9f0c"),
    )
    return blank() + art(colours=casts[s - 1])


@drawing
def _scorch(s: int) -> list[Shape]:
    tones = ("#f6ecd2", "#ead6a4", "#d5b26b")
    glow = [
        Shape(disc(SIZE / 2, SIZE / 2, 66 - 14 * n), tones[s - 1], opacity=0.35) for n in range(3)
    ]
    return [*blank(tones[s - 1]), *glow, *art()]


@drawing
def _sheen_box(s: int) -> list[Shape]:
    lines = [
        Shape(line((20 + 8 * n, 20), (20 + 8 * n, 140)), stroke=RULE, width=0.8 + 0.7 * s)
        for n in range(16)
    ]
    return [*blank("#dfe3df"), Shape(box(18, 18, 124, 124), "#eef1ee", RULE), *lines, *art()]


def _curled(d_from: str, s: int, x: float, y: float) -> Shape:
    lift = 7.0 * s
    return Shape(
        f"M{x} {y} l{lift} {-lift * 0.4:.1f} l{lift * 0.2:.1f} {lift} Z", "#8fb3a8", BLACK, 0.8
    )


@drawing
def _peeling(s: int) -> list[Shape]:
    corners = [(LEFT + 36, TOP), (LEFT + 92, TOP + 46), (LEFT + 40, TOP + 52)][:s]
    return blank() + art() + [_curled(FIELD, s, x, y) for x, y in corners]


@drawing
def _carrier_pulls_film(s: int) -> list[Shape]:
    height = 14 + 12 * s
    lifted = f"M{LEFT + 36} {TOP + 52} v{-height} q28 {-8 * s} 56 0 v{height} Z"
    return (
        blank()
        + art()
        + [
            Shape(box(LEFT + 36, TOP + 52 - height, 56, height), BLANK),
            Shape(lifted, "#8fb3a8", BLACK, 0.8, 0.9),
            Shape(
                line((LEFT + 30, TOP + 52 - height), (LEFT + 98, TOP + 46 - height)),
                stroke=RULE,
                width=3,
            ),
        ]
    )


@drawing
def _adhesive_halo(s: int) -> list[Shape]:
    rims = [Shape(d, stroke="#b9c0b4", width=3.0 + 4.0 * s, opacity=0.75) for d, _ in PARTS]
    return (
        blank("#e7e3d8")
        + rims
        + [Shape(d, stroke=BLACK, width=0.4, opacity=0.7) for d, _ in PARTS]
        + art()
    )


@drawing
def _film_cracking(s: int) -> list[Shape]:
    cracks = [
        Shape(
            line((x - 8, y - 3), (x - 2, y + 2), (x + 3, y - 2), (x + 9, y + 3)),
            stroke=BLANK,
            width=1.4,
        )
        for x, y, _ in scattered("film_cracking", 4 * s)
    ]
    return blank() + art() + cracks


@drawing
def _bubbles(s: int) -> list[Shape]:
    return (
        blank()
        + art()
        + [
            Shape(disc(x, y, 2 + 5 * size), "#ffffff", BLACK, 0.8, 0.45)
            for x, y, size in scattered("bubbles", 5 * s)
        ]
    )


@drawing
def _wrinkled_film(s: int) -> list[Shape]:
    folds = [
        Shape(
            f"M{LEFT + 36} {TOP + 10 + 12 * n} q14 {-6 - 2 * s} 28 0 t28 0",
            stroke=BLANK if n % 2 else BLACK,
            width=1.0 + 0.6 * s,
        )
        for n in range(1 + s)
    ]
    return blank() + art() + folds


@drawing
def _white_specks(s: int) -> list[Shape]:
    return (
        blank()
        + art()
        + [
            Shape(disc(x, y, 0.9 + 0.8 * size), BLANK)
            for x, y, size in scattered("white_specks", 14 * s)
        ]
    )


@drawing
def _coloured_specks(s: int) -> list[Shape]:
    hairs = [
        Shape(f"M{x:.1f} {y:.1f} q4 -6 {6 + 8 * size:.1f} -2", stroke="#7a2f52", width=1.0)
        for x, y, size in scattered("hairs", 3 * s)
    ]
    dots = [
        Shape(disc(x, y, 1 + size), "#7a2f52") for x, y, size in scattered("coloured_specks", 5 * s)
    ]
    return blank() + art() + hairs + dots


@drawing
def _moisture_mottle(s: int) -> list[Shape]:
    clouds = [
        Shape(disc(x, y, 4 + 9 * size), BLANK, opacity=0.13 + 0.05 * s)
        for x, y, size in scattered("moisture_mottle", 12 + 10 * s)
    ]
    ring = Shape(disc(SIZE / 2, SIZE / 2, 60), stroke="#9aa7a4", width=1.0 + s, opacity=0.6)
    return blank() + art() + [*clouds, ring]


@drawing
def _white_rim(s: int) -> list[Shape]:
    inset = 2.5 + 4.0 * s
    return [
        Shape(box(8, 8, SIZE - 16, SIZE - 16), BLANK, BLACK, 1.2),
        Shape(box(8 + inset, 8 + inset, SIZE - 16 - 2 * inset, SIZE - 16 - 2 * inset), PINE),
        Shape(disc(SIZE / 2, SIZE / 2, 26), RUST),
    ]


@drawing
def _strike_through(s: int) -> list[Shape]:
    mirrored = [
        Shape(box(LEFT + WIDTH - 30, TOP, 30, HEIGHT), BLACK, opacity=0.12 + 0.14 * s),
        Shape(box(LEFT, TOP, 56, 52), PINE, opacity=0.12 + 0.14 * s),
        Shape(disc(LEFT + 28, TOP + 72, 15), RUST, opacity=0.12 + 0.14 * s),
    ]
    return [*blank("#f0eee6"), *mirrored, Shape(line((8, 18), (152, 18)), stroke=RULE, width=2)]


@drawing
def _stray_image(s: int) -> list[Shape]:
    other = [
        Shape(
            disc(LEFT + 20 + 6 * n, TOP + 96, 8), stroke="#7a2f52", width=2, opacity=0.2 + 0.2 * s
        )
        for n in range(2 + s)
    ]
    return blank() + art() + other


@drawing
def _yellow_cast(s: int) -> list[Shape]:
    tones = ("#faf5dd", "#f4e9b8", "#ecd98c")
    return [*blank(), Shape(box(22, 14, 116, 132), tones[s - 1]), *art()]


@drawing
def _paper_stuck(s: int) -> list[Shape]:
    torn = f"M{LEFT + 30} {TOP + 20} l20 {-6 * s} l24 8 l14 {10 * s} l-16 14 l-30 4 Z"
    return (
        blank()
        + art()
        + [
            Shape(torn, "#efe9d8", RULE, 1.2),
            *(
                Shape(disc(x, y, 3 + 4 * size), "#efe9d8", RULE, 0.6)
                for x, y, size in scattered("stuck", 2 * s)
            ),
        ]
    )


@drawing
def _paper_residue(s: int) -> list[Shape]:
    fibres = [
        Shape(f"M{x:.1f} {y:.1f} q3 -3 {5 + 5 * size:.1f} 1", stroke="#f4f1e6", width=1.2)
        for x, y, size in scattered("paper_residue", 24 * s)
    ]
    return blank("#d9b98a") + art() + fibres


@drawing
def _tape_mark(s: int) -> list[Shape]:
    strips = [
        Shape(f"M{x} {y} l26 10 l-4 11 l-26 -10 Z", "#d8c37e", "#a98f3c", 0.6 * s, 0.3 + 0.2 * s)
        for x, y in ((LEFT - 14, TOP - 12), (LEFT + WIDTH - 12, TOP + HEIGHT - 6))
    ]
    return blank() + art() + strips


@drawing
def _banding(s: int) -> list[Shape]:
    bands = [
        Shape(
            line((LEFT - 2, TOP + 5 * n), (LEFT + WIDTH + 2, TOP + 5 * n)),
            stroke=BLANK,
            width=0.5 + 0.6 * s,
        )
        for n in range(1, 18)
    ]
    return blank() + art() + bands


@drawing
def _smudge(s: int) -> list[Shape]:
    smear = [
        Shape(box(LEFT + 30, TOP + 20 + 4 * n, 10 + 12 * s, 3), BLACK, opacity=0.16 + 0.06 * s)
        for n in range(8)
    ]
    return blank() + art() + smear


@drawing
def _melted_trim(s: int) -> list[Shape]:
    drip = (
        f"M112 14 a14 14 0 1 0 28 0 a14 14 0 1 0 -28 0 m6 {10 + 2 * s} q4 {10 * s} 8 0 t8 {4 * s}"
    )
    return blank() + art() + [Shape(drip, "none", "#7d8488", 3.5)]


@drawing
def _warped_blank(s: int) -> list[Shape]:
    bow = 7.0 * s
    side = f"M14 96 q66 {-bow - 30:.0f} 132 0 l0 12 q-66 {-bow - 30:.0f} -132 0 Z"
    return [
        Shape(line((8, 128), (152, 128)), stroke=BLACK, width=2),
        Shape(side, "#eef1ee", BLACK, 1.5),
    ]


@drawing
def _flattened_blank(s: int) -> list[Shape]:
    height = 34 - 8 * s
    thick = Shape(box(14, 128 - 34, 40, 34), "#eef1ee", RULE, 1.2)
    thin = Shape(box(62 - 4 * s, 128 - height, 84 + 4 * s, height), "#eef1ee", BLACK, 1.5)
    return [Shape(line((8, 128), (152, 128)), stroke=BLACK, width=2), thick, thin]


@drawing
def _size_change(s: int) -> list[Shape]:
    share = 1 - 0.07 * s
    outline = Shape(box(LEFT, TOP, WIDTH, HEIGHT), stroke=RULE, width=1.4)
    small = [
        Shape(box(LEFT, TOP, 30 * share, HEIGHT), BLACK),
        Shape(box(LEFT + 36 * share, TOP, 56 * share, 52), PINE),
        Shape(disc(LEFT + 64 * share, TOP + 72, 15 * share), RUST),
    ]
    return [*blank(), *small, outline]


@drawing
def _crooked(s: int) -> list[Shape]:
    turn = np.radians(3.5 * s)
    c, n = np.cos(turn), np.sin(turn)

    def at(x: float, y: float) -> tuple[float, float]:
        dx, dy = x - SIZE / 2, y - SIZE / 2
        return SIZE / 2 + c * dx - n * dy, SIZE / 2 + n * dx + c * dy

    def turned(x: float, y: float, w: int, h: float) -> str:
        return line(at(x, y), at(x + w, y), at(x + w, y + h), at(x, y + h)) + " Z"

    x, y = at(LEFT + 64, TOP + 72)
    return [
        *blank(),
        Shape(turned(LEFT, TOP, 30, HEIGHT), BLACK),
        Shape(turned(LEFT + 36, TOP, 56, 52), PINE),
        Shape(disc(x, y, 15), RUST),
    ]


@drawing
def _reversed_image(s: int) -> list[Shape]:
    stems = ((118, 0), (96, 1), (70, 2))[: 1 + (s > 1) + (s > 2)]
    letters = [
        Shape(f"M{x} 52 v56 m0 -56 q{-22 - 2 * n} 4 {-18} 26 q{4} 8 18 2", "none", BLACK, 5)
        for x, n in stems
    ]
    return [*blank(), *letters]


@drawing
def _dye_migration(s: int) -> list[Shape]:
    tints = ("#f6e4e6", "#eecbd0", "#e2a9b2")
    return [
        *blank("#8f2f45"),
        Shape(box(LEFT, TOP, WIDTH, HEIGHT), tints[s - 1]),
        Shape(disc(SIZE / 2, SIZE / 2, 20), BLACK),
    ]


@drawing
def _washout(s: int) -> list[Shape]:
    before = [Shape(box(14, 40, 60, 80), PINE), Shape(box(22, 48, 18, 64), BLACK)]
    after = [
        Shape(box(86, 40, 60, 80), PINE, opacity=0.8 - 0.22 * s),
        Shape(box(94, 48, 18, 64), BLACK, opacity=0.8 - 0.22 * s),
    ]
    arrow = Shape("M76 80 h8 m-3 -3 l3 3 l-3 3", stroke=BLACK, width=1.2)
    return [*blank(), *before, *after, arrow]


@drawing
def _no_texture(s: int) -> list[Shape]:
    cloth = [
        Shape(line((8, 12 + 6 * n), (152, 12 + 6 * n)), stroke=RULE, width=1.4) for n in range(24)
    ]
    return [
        *blank("#efece2"),
        *cloth,
        *art(),
        Shape(box(LEFT + 38, TOP + 4, 52, 8 + 4 * s), "#ffffff", opacity=0.28),
    ]


@drawing
def _haze(s: int) -> list[Shape]:
    return (
        blank()
        + art()
        + [
            Shape(disc(80 + 10 * n, 78, 34 + 8 * s), "#ffffff", opacity=0.2 + 0.07 * s)
            for n in (-2, 0, 2)
        ]
    )


@drawing
def _dull_before_press(s: int) -> list[Shape]:
    dull = ("#5a5f60", "#6f8a80", "#b99a83")
    paper = Shape("M20 20 h112 l12 12 v108 h-124 Z", "#f3efe2", BLACK, 1.2)
    return [paper, *art(1 - 0.12 * s, colours=dull)]


@drawing
def _loading_dip(s: int) -> list[Shape]:
    depth = 14 + 14 * s
    axis = Shape("M20 24 v110 h124", stroke=BLACK, width=1.5)
    course = f"M22 46 h34 q6 {depth} 14 {depth} q18 0 30 {-depth + 4} q10 -4 40 -4"
    return [
        axis,
        Shape(course, stroke=PINE, width=2.4),
        Shape(line((22, 46), (140, 46)), stroke=RULE, width=1),
    ]


@drawing
def _film_ripple(s: int) -> list[Shape]:
    waves = " ".join(f"q4 {-3 - 2 * s} 8 0 t8 0" for _ in range(8))
    return [
        *blank(),
        Shape(box(24, 24, 112, 112), "#eef1ee", RULE, 1),
        Shape(f"M16 18 {waves}", stroke=PINE, width=1.6),
        Shape(f"M16 144 {waves}", stroke=PINE, width=1.6),
        *art(),
    ]


@drawing
def _unmelted_powder(s: int) -> list[Shape]:
    grains = [
        Shape(disc(x, y, 1.2 + 0.8 * size), "#ffffff", RULE, 0.6)
        for x, y, size in scattered("unmelted_powder", 22 * s)
    ]
    return blank("#e9ebea") + art() + grains


def picture(symptom: str, severity: int) -> list[Shape]:
    """The shapes of a symptom at a severity of 1 to 3. KeyError without a drawing."""
    return DRAWN[symptom](severity)
