"""What the pieces just before tell: a fast series, and first pieces that were good."""

from datetime import timedelta

from tempermark.web.run.models import Outcome, TestPress

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


def series_denials(piece: TestPress) -> set[str]:
    """`rapid_series` where the pieces before are known and lay far apart."""
    series = series_before(piece)
    if len(series) < FEWEST:
        return set()
    gap_s = (piece.pressed_at - series[0].pressed_at).total_seconds() - series[0].dwell_s
    return {"rapid_series"} if gap_s > RAPID_GAP_S else set()


def series_facts(piece: TestPress) -> set[str]:
    """`rapid_series` where the last pieces were pressed one right after the other,
    `first_pieces_good` where the series began with good ones of the same recipe.
    """
    series = series_before(piece)
    if len(series) < FEWEST:
        return set()
    told = set()
    times = [piece.pressed_at, *(one.pressed_at for one in series[:FEWEST])]
    gaps = [
        (a - b).total_seconds() - one.dwell_s
        for a, b, one in zip(times, times[1:], series[:FEWEST], strict=False)
    ]
    # Times closer than the dwell are those of logging, and tell nothing of the pressing.
    if max(gaps) <= RAPID_GAP_S and min(gaps) >= 0:
        told.add("rapid_series")
    first = series[-FEWEST:]
    if all(
        one.outcome == Outcome.GOOD
        and (one.recipe.recipe_id, one.step_number) == (piece.recipe.recipe_id, piece.step_number)
        for one in first
    ):
        told.add("first_pieces_good")
    return told
