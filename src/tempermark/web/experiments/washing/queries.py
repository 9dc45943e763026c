"""Reading wash trials: what is due, what each piece looked like after each round."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db.models import Prefetch, QuerySet
from django.utils import timezone

from tempermark.core.experiments.wash import DENSITY_OF_SCORE, WashedPiece
from tempermark.web.experiments.models import WashedPress, WashScore, WashTrial
from tempermark.web.run.models import TestPress


@dataclass(frozen=True)
class DueRound:
    """What a trial waits for: its next round and since when it could be washed."""

    trial: WashTrial
    washes: int
    ready_at: datetime

    @property
    def is_ready(self) -> bool:
        """Whether its pieces have rested long enough."""
        return self.ready_at <= timezone.now()


def in_full() -> list[WashTrial]:
    """Trials under way with their scores."""
    return list(_with_scores().filter(ended_at=None))


def _with_scores() -> QuerySet[WashTrial]:
    scores = WashScore.objects.order_by("washes", "pk").select_related("by")
    washed = WashedPress.objects.select_related("piece").prefetch_related(
        Prefetch("scored_rounds", queryset=scores)
    )
    return WashTrial.objects.prefetch_related(Prefetch("washed", queryset=washed))


def due() -> list[DueRound]:
    """The next round of every trial under way, the longest ready first."""
    found = [row for trial in in_full() if (row := next_round(trial)) is not None]
    return sorted(found, key=lambda row: row.ready_at)


def next_round(trial: WashTrial) -> DueRound | None:
    """The first round in which a piece that has not failed was not looked at; None once all are."""
    ready = trial.started_at + timedelta(hours=trial.rest_h)
    for washes in sorted(trial.rounds):
        for washed in trial.washed.all():
            rows = list(washed.scored_rounds.all())
            failed = any(row.failed and row.washes < washes for row in rows)
            if not failed and not any(row.washes == washes for row in rows):
                return DueRound(trial, washes, ready)
    return None


def newest_scores(washed: WashedPress) -> dict[int, WashScore]:
    """Number of washes → the score that counts: the last one given."""
    return {row.washes: row for row in washed.scored_rounds.all()}


def densities(washed: WashedPress) -> list[tuple[int, float]]:
    """Numbers of washes with the density then, a share of full: measured, else by its step; as
    pressed at 0.
    """
    found = []
    first = first_density(washed)
    if first is not None:
        found.append((0, first))
    for washes, row in newest_scores(washed).items():
        value = row.density
        if value is None and row.scores.get("black"):
            value = DENSITY_OF_SCORE[row.scores["black"]]
        if value is not None and washes > 0:
            found.append((washes, value))
    return found


def first_density(washed: WashedPress) -> float | None:
    """The density as it was pressed."""
    press = (
        TestPress.objects.filter(piece=washed.piece, step_number=None)
        .order_by("-pressed_at")
        .first()
    )
    if press is None:
        return None
    if press.density is not None:
        return press.density
    step = press.scores.get("black")
    return DENSITY_OF_SCORE[step] if step else None


def survived(washed: WashedPress) -> WashedPiece:
    """A piece as the survival curve counts it."""
    rows = newest_scores(washed)
    failed = min((w for w, row in rows.items() if row.failed), default=None)
    last = failed if failed is not None else max(rows, default=0)
    return WashedPiece(last, failed)
