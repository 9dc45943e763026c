"""What the pieces just before tell: a fast series, and first pieces that were good."""

from datetime import timedelta
from itertools import pairwise

from tempermark.web.run.models import PieceOutcome, TestPress

# Pieces belong to one series while no more than this lies between two of them, s; a press that is
# loaded again sooner than `RAPID_GAP_S` after the last closing may not have recovered.
SERIES_GAP_S, RAPID_GAP_S = 15 * 60.0, 180.0
FEWEST, MOST_LOOKED_AT = 2, 30


def series_before(piece: TestPress) -> list[TestPress]:
    """Pieces of the same series on the same element before a piece, the newest first."""
    earlier = TestPress.objects.filter(
        element=piece.element,
        pressed_at__lt=piece.pressed_at,
        pressed_at__gte=piece.pressed_at - timedelta(seconds=SERIES_GAP_S * MOST_LOOKED_AT),
    ).order_by("-pressed_at")[:MOST_LOOKED_AT]
    series, last = [], piece.pressed_at
    for one in earlier:
        if (last - one.pressed_at).total_seconds() > SERIES_GAP_S:
            break
        series.append(one)
        last = one.pressed_at
    return series


def series_facts(piece: TestPress) -> dict[str, bool]:
    """`rapid_series`: whether the last pieces were pressed one right after the other, where they
    are known; `first_pieces_good` where the series began with good ones of the same recipe.
    """
    series = series_before(piece)
    found: dict[str, bool] = {}
    if len(series) < FEWEST:
        return found
    gaps = _gaps_s(piece, series)
    # Times closer than the dwell are those of logging, and tell nothing of the pressing.
    if max(gaps) <= RAPID_GAP_S and min(gaps) >= 0:
        found["rapid_series"] = True
    elif gaps[0] > RAPID_GAP_S:
        found["rapid_series"] = False
    if all(_is_good_of_recipe(one, piece) for one in series[-FEWEST:]):
        found["first_pieces_good"] = True
    return found


def _gaps_s(piece: TestPress, series: list[TestPress]) -> list[float]:
    """Seconds between the last pieces, from the opening of one to the closing of the next."""
    last = series[:FEWEST]
    times = [piece.pressed_at, *(one.pressed_at for one in last)]
    return [
        (later - earlier).total_seconds() - one.dwell_s
        for (later, earlier), one in zip(pairwise(times), last, strict=True)
    ]


def _is_good_of_recipe(one: TestPress, piece: TestPress) -> bool:
    same = (one.recipe.recipe_id, one.step_number) == (piece.recipe.recipe_id, piece.step_number)
    return same and one.outcome == PieceOutcome.GOOD
