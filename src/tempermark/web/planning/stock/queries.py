"""How many blanks are there, by the last count, what came since and what was pressed since."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import NamedTuple

from django.utils import timezone

from tempermark.core.planning.spoilage import expected_blanks, needed_blanks
from tempermark.web.jobs.models import Job
from tempermark.web.planning.models import StockEntry, StockKind
from tempermark.web.recipes.models import Blank, RecipeVersion
from tempermark.web.run.counts.counting import BLANKS, first_of_blank
from tempermark.web.run.counts.days import pressed_on
from tempermark.web.run.counts.reading import Counts
from tempermark.web.run.models import Grade, PieceOutcome, Run, TestPress

# So many of a recipe's newest pieces say how many spoil today.
NEWEST_JUDGED = 200
# A shortage names so many of its jobs.
MOST_NAMED = 5
# Blank's key and lot; the empty lot stands for all lots together.
Held = tuple[int, str]


@dataclass(frozen=True)
class BlankStock:
    """Blanks that are there, since when that is known, and those of each lot that was named."""

    blank: Blank
    pieces: int
    counted_at: datetime
    lots: list[tuple[str, int]]


@dataclass(frozen=True)
class JobBlanks:
    """Blanks that a job takes: pieces still to press, with the spoiled ones in the mean, and so
    that they are enough in nine cases of ten; and what that rests on.
    """

    job: Job
    pieces: int
    expected: int
    needed: int
    pressed: int
    spoiled: int


@dataclass(frozen=True)
class Shortage:
    """A blank that the open jobs take more of than there are; the jobs that it is short for."""

    blank: Blank
    needed: int
    there: int
    jobs: list[Job]

    @property
    def missing(self) -> int:
        """How many are missing."""
        return self.needed - self.there

    @property
    def named(self) -> list[Job]:
        """The first of its jobs: those due first."""
        return self.jobs[:MOST_NAMED]

    @property
    def not_named(self) -> int:
        """How many jobs it is short for besides."""
        return max(len(self.jobs) - MOST_NAMED, 0)


def stock() -> dict[int, BlankStock]:
    """Blank, by its key → how many are there; blanks that were never counted are left out."""
    entries = list(StockEntry.objects.select_related("blank").order_by("at", "pk"))
    begun: dict[Held, StockEntry] = {}
    held: dict[Held, int] = {}
    for entry in entries:
        keys = [(entry.blank_id, entry.lot)]
        # What came in a lot is there in all; a count of one lot says nothing of the others.
        if entry.lot and entry.kind == StockKind.RECEIVED:
            keys.append((entry.blank_id, ""))
        for key in keys:
            if entry.kind == StockKind.COUNTED or key not in begun:
                begun[key], held[key] = entry, entry.pieces
            else:
                held[key] += entry.pieces
    used = _pressed_since({key: entry.at for key, entry in begun.items()})
    blanks = {entry.blank_id: entry.blank for entry in entries}
    left = {key: max(pieces - used.get(key, 0), 0) for key, pieces in held.items()}
    found = {}
    for pk, blank in blanks.items():
        lots = sorted((lot, n) for (owner, lot), n in left.items() if owner == pk and lot)
        if (pk, "") in left:
            there, since = left[pk, ""], begun[pk, ""].at
        else:
            # Counted lot by lot only.
            there = sum(n for _, n in lots)
            since = max(entry.at for (owner, _), entry in begun.items() if owner == pk)
        found[pk] = BlankStock(blank, there, since, lots)
    return found


def _pressed_since(since: dict[Held, datetime]) -> dict[Held, int]:
    """Pieces of blanks, and of their lots, that used one up after a moment each: those of the
    moment's own day are counted one by one, those of the days after it are kept by day.
    """
    counts = Counts()
    found = dict.fromkeys(since, 0)
    for day in {timezone.localdate(at) for at in since.values()}:
        of_day = {held: at for held, at in since.items() if timezone.localdate(at) == day}
        blanks = {blank for blank, _ in of_day}
        later = counts.sums(BLANKS, ("blank", "blank_lot"), {"blank": blanks}, since=_next(day))
        that_day = TestPress.objects.filter(pressed_on([day]), blank__in=blanks)
        pressed: dict[int, list[tuple[str, datetime]]] = {}
        for blank, lot, at in first_of_blank(that_day).values_list(
            "blank", "blank_lot", "pressed_at"
        ):
            pressed.setdefault(blank, []).append((lot, at))
        for (blank, lot), at in of_day.items():
            found[blank, lot] = sum(
                row["pieces"]
                for (of, its_lot), row in later.items()
                if of == blank and lot in ("", its_lot)
            ) + sum(when > at and lot in ("", its_lot) for its_lot, when in pressed.get(blank, ()))
    return found


def _next(day: date) -> date:
    return day + timedelta(days=1)


def blanks_of(jobs: Sequence[Job], left: dict[int, int]) -> list[JobBlanks]:
    """What the pieces that are left of jobs (by their keys) take."""
    history = _history({job.recipe.recipe_id for job in jobs})
    found = []
    for job in jobs:
        pressed, spoiled = history.get(job.recipe.recipe_id, (0, 0))
        pieces = max(left[job.pk], 0)
        expected = expected_blanks(pieces, pressed, spoiled) if pieces else 0
        needed = needed_blanks(pieces, pressed, spoiled) if pieces else 0
        found.append(JobBlanks(job, pieces, expected, needed, pressed, spoiled))
    return found


def _history(recipes: Iterable[int]) -> dict[int, tuple[int, int]]:
    """Recipe, by its key → how many of its newest pieces were judged, and how many of them spoiled;
    test presses of experiments left aside.
    """
    versions = RecipeVersion.objects.filter(recipe__in=set(recipes)).values_list("pk", "recipe")
    judged = [(recipe, row) for version, recipe in versions for row in _newest_judged(version)]
    in_experiments = _in_experiments([row for _, row in judged])
    newest: dict[int, list[tuple[datetime, bool]]] = {}
    for recipe, row in judged:
        if row.press not in in_experiments:
            newest.setdefault(recipe, []).append((row.at, row.is_spoiled))
    found = {}
    for recipe, pieces in newest.items():
        last = sorted(pieces, reverse=True)[:NEWEST_JUDGED]
        found[recipe] = (len(last), sum(is_spoiled for _, is_spoiled in last))
    return found


class _Judged(NamedTuple):
    """A judged piece by the keys of its press and run, and when it was pressed."""

    press: int
    run: int | None
    at: datetime
    outcome: str
    grade: str

    @property
    def is_spoiled(self) -> bool:
        """Whether its blank is lost."""
        return self.outcome == PieceOutcome.FAULTY and self.grade == Grade.SPOILED


def _newest_judged(version: int) -> list[_Judged]:
    """The newest pieces of a version that were judged."""
    judged = TestPress.objects.filter(recipe=version, step_number=None).exclude(
        outcome=PieceOutcome.OPEN
    )
    newest = judged.order_by("-pressed_at", "-pk")
    rows = newest.values_list("pk", "run_id", "pressed_at", "outcome", "grade")
    return [_Judged(*row) for row in rows[:NEWEST_JUDGED]]


def _in_experiments(judged: Sequence[_Judged]) -> set[int]:
    """Those of these presses, by their keys, that an experiment or one of its runs made."""
    presses = TestPress.objects.filter(pk__in=[row.press for row in judged])
    tried = set(presses.exclude(planned_press=None).values_list("pk", flat=True))
    runs = Run.objects.filter(pk__in={row.run for row in judged if row.run})
    in_tries = set(runs.exclude(planned_press=None).values_list("pk", flat=True))
    return tried | {row.press for row in judged if row.run in in_tries}


def shortages(needs: Sequence[JobBlanks], there: Mapping[int, BlankStock]) -> list[Shortage]:
    """Blanks that are short of what is there for these jobs, which take theirs in this order."""
    taken: dict[int, int] = {}
    short: dict[int, list[Job]] = {}
    for need in needs:
        blank = need.job.blank_id
        if blank not in there or not need.pieces:
            continue
        taken[blank] = taken.get(blank, 0) + need.needed
        if taken[blank] > there[blank].pieces:
            short.setdefault(blank, []).append(need.job)
    return [
        Shortage(there[blank].blank, taken[blank], there[blank].pieces, jobs)
        for blank, jobs in short.items()
    ]
