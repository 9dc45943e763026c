"""How many pieces come out well: by press, by recipe, by place on the platen."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from scipy.stats import beta

from tempermark.web.logbook.filters import LogbookForm, matching
from tempermark.web.presses.models import Element
from tempermark.web.recipes.models import Blank, RecipeVersion
from tempermark.web.run.counts.counting import YIELDS, Row, yield_cells
from tempermark.web.run.counts.reading import Counts
from tempermark.web.run.models import PieceOutcome, TestPress

# Thirds of the platen, from the left and from the front.
ACROSS = ("left", "middle", "right")
ALONG = ("front", "middle", "back")
SURE = 0.9
# Of filters that no count is kept for, so many of the newest judged pieces.
MOST_JUDGED = 2_000


@dataclass(frozen=True)
class YieldRow:
    """Of what, how many pieces were judged, and how many of them were good, second, spoiled."""

    label: str
    judged: int
    good: int
    second: int
    spoiled: int

    @property
    def share(self) -> float:
        """Good ones of those judged."""
        return self.good / self.judged

    @property
    def interval(self) -> tuple[float, float]:
        """Where the share of good ones lies with 90 %, by what was counted alone."""
        low, high = (1 - SURE) / 2, (1 + SURE) / 2
        good, bad = self.good, self.judged - self.good
        return (
            float(beta.ppf(low, good + 0.5, bad + 0.5)),
            float(beta.ppf(high, good + 0.5, bad + 0.5)),
        )


@dataclass(frozen=True)
class Yields:
    """Yields of the same presses, by what they are grouped by, the lowest first; whether there are
    older ones that are not counted.
    """

    by_press: list[YieldRow]
    by_recipe: list[YieldRow]
    by_blank: list[YieldRow]
    by_place: list[YieldRow]
    is_cut: bool

    @property
    def judged(self) -> int:
        """Pieces that were judged."""
        return sum(row.judged for row in self.by_press)

    @property
    def good(self) -> int:
        """Pieces that came out good."""
        return sum(row.good for row in self.by_press)


# The filters that the kept counts can answer; the others look at the newest presses.
KEPT_FILTERS = frozenset({"press", "recipe", "blank", "since", "until"})


def yields_of(form: LogbookForm) -> Yields:
    """The yields of the judged main presses that a form finds; test presses of experiments, which
    are to fail at the edges, say nothing of a press.
    """
    rows = matching(form)
    chosen = {name for name, value in form.cleaned_data.items() if value}
    if chosen <= KEPT_FILTERS:
        return _named(_kept(form.cleaned_data), is_cut=False)
    judged = rows.exclude(outcome=PieceOutcome.OPEN)
    newest = list(judged.values_list("pk", flat=True)[: MOST_JUDGED + 1])
    cells = yield_cells(TestPress.objects.filter(pk__in=newest[:MOST_JUDGED]))
    return _named(cells, is_cut=len(newest) > MOST_JUDGED)


def _kept(data: dict[str, Any]) -> Iterable[Row]:
    """The cells of a filter that the counts know, of whatever time."""
    where: dict[str, set[int]] = {}
    if press := data.get("press"):
        where["element"] = set(press.elements.values_list("pk", flat=True))
    if recipe := data.get("recipe"):
        where["recipe"] = set(recipe.versions.values_list("pk", flat=True))
    if blank := data.get("blank"):
        where["blank"] = {blank.pk}
    found = Counts().sums(YIELDS, YIELDS.keys, where, data.get("since"), data.get("until"))
    return [dict(zip(YIELDS.keys, key, strict=True)) | row for key, row in found.items()]


def _named(cells: Iterable[Row], is_cut: bool) -> Yields:
    """Cells under the names that people know them by."""
    presses = dict(Element.objects.values_list("pk", "press__name"))
    recipes = dict(RecipeVersion.objects.values_list("pk", "recipe__name"))
    blanks = dict(Blank.objects.values_list("pk", "name"))
    named = [
        cell
        | {
            "element": presses[cell["element"]],
            "recipe": recipes[cell["recipe"]],
            "blank": blanks[cell["blank"]],
            "ninth": _name(cell["ninth"]),
        }
        for cell in cells
    ]
    press, recipe, blank, place = (_grouped(named, name) for name in YIELDS.keys)
    return Yields(press, recipe, blank, place, is_cut)


def _grouped(cells: Iterable[Any], name: str) -> list[YieldRow]:
    sums: dict[str, list[int]] = {}
    for cell in cells:
        held = sums.setdefault(str(cell[name]), [0] * len(YIELDS.sums))
        for n, column in enumerate(YIELDS.sums):
            held[n] += cell[column]
    found = [YieldRow(label, *counts) for label, counts in sums.items()]
    return sorted(found, key=lambda row: (row.share, row.label))


def _name(ninth: int) -> str:
    along, across = ALONG[ninth // 3], ACROSS[ninth % 3]
    return (
        "middle"
        if along == across == "middle"
        else f"{along} {across}".replace(" middle", "").replace("middle ", "")
    )
