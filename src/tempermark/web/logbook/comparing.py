"""Two to four presses side by side: what differs first, in the reader's units."""

from collections.abc import Iterator
from dataclasses import dataclass

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.recipes.layers import entry_text
from tempermark.core.vocabulary.sightings import PLACE_WORDS
from tempermark.web.experiments.models import WashScore
from tempermark.web.kit.figures import place_text, size_text, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.run.models import LOT_FIELDS, SCORES, TestPress
from tempermark.web.run.pieces.queries import under_art

NOT_RECORDED = "not recorded"
TRUE_UNDER = "true temperature under the art"
LOT_LABELS = {
    "blank_lot": "lot of blanks",
    "film_lot": "lot of film or paper",
    "coat_lot": "coat",
    "cover_sheet": "cover sheet",
}


@dataclass(frozen=True)
class ComparedRow:
    """One thing in every press; whether it differs."""

    label: str
    values: tuple[str, ...]

    @property
    def differs(self) -> bool:
        """Whether not all are the same."""
        return len(set(self.values)) > 1


@dataclass(frozen=True)
class Compared:
    """What was set and done, and how it came out: both with what differs first."""

    done: list[ComparedRow]
    result: list[ComparedRow]

    @property
    def differing(self) -> list[ComparedRow]:
        """What was set or done otherwise."""
        return [row for row in self.done if row.differs]


def compared(presses: list[TestPress], units: Units) -> Compared:
    """Every press's values in rows."""
    return Compared(
        _rows([list(_done(press, units)) for press in presses]),
        _rows([list(_result(press)) for press in presses]),
    )


def _rows(columns: list[list[tuple[str, str]]]) -> list[ComparedRow]:
    labels = [label for label, _ in columns[0]]
    rows = [
        ComparedRow(label, tuple(column[n][1] for column in columns))
        for n, label in enumerate(labels)
    ]
    return sorted(rows, key=lambda row: not row.differs)


def _done(press: TestPress, units: Units) -> Iterator[tuple[str, str]]:
    heat = under_art(press)
    yield "press", press.element.press.name
    yield (
        TRUE_UNDER,
        (temperature_text(heat.mean_c, units) if heat else NOT_RECORDED),
    )
    yield "dial", temperature_text(press.set_c, units)
    yield "dwell", f"{press.dwell_s:g} s"
    yield "closings", str(press.closures)
    yield "open between closings", f"{press.open_s:g} s" if press.open_s else "not opened"
    yield "pressure", press.pressure if press.pressure != "unknown" else NOT_RECORDED
    yield "pressure as set", press.knob or NOT_RECORDED
    yield "recipe", f"{press.recipe.recipe.name}, version {press.recipe.number}"
    yield "step", press.pressed_step.name
    yield "blank", press.blank.name
    library = shop_materials()
    yield "stack", " / ".join(entry_text(layer, library) for layer in press.pressed_stack)
    yield "peel", press.peel or NOT_RECORDED
    yield "placing", press.placing or "one place"
    yield "art", size_text((press.art_width_mm, press.art_height_mm), units)
    yield "art from left and front", place_text(press.art_x_mm, press.art_y_mm, units)
    facts = shipped().facts
    yield (
        "done in preparing",
        (", ".join(sorted(facts[f].label for f in press.facts if f in facts)) or NOT_RECORDED),
    )
    humidity = press.relative_humidity
    yield "room humidity", NOT_RECORDED if humidity is None else f"{100 * humidity:.0f} %"
    for field in LOT_FIELDS.values():
        yield LOT_LABELS[field], getattr(press, field) or NOT_RECORDED
    printed = press.job.print_settings if press.job else None
    yield "print settings", str(printed or NOT_RECORDED)
    yield "operator", press.pressed_by.get_short_name() or press.pressed_by.username


def _result(press: TestPress) -> Iterator[tuple[str, str]]:
    yield "outcome", outcome_text(press)
    for code, label in SCORES:
        score = press.scores.get(code)
        yield label, "not scored" if score is None else f"{score} of 5"
    yield (
        "density of black, measured",
        (NOT_RECORDED if press.density is None else f"{100 * press.density:.0f} %"),
    )
    symptoms = shipped().symptoms
    marks = [f"{symptoms[m.symptom].label}, {PLACE_WORDS[m.where]}" for m in press.marks.all()]
    yield "marks", "; ".join(sorted(marks)) or "none"


def wash_rows(presses: list[TestPress]) -> list[ComparedRow]:
    """How each piece looked after so many washes, a row for each number of washes."""
    scores = WashScore.objects.filter(washed__piece__in=[p.piece_id for p in presses])
    found: dict[int, dict[int, str]] = {}
    for score in scores.select_related("washed").order_by("pk"):
        found.setdefault(score.washes, {})[score.washed.piece_id] = wash_text(score)
    return [
        ComparedRow(
            f"after {washes} wash{'' if washes == 1 else 'es'}",
            tuple(rows.get(p.piece_id, "not looked at") for p in presses),
        )
        for washes, rows in sorted(found.items())
    ]


def wash_text(score: WashScore) -> str:
    """`density 94 %, bond 5 of 5`, or that it failed."""
    if score.failed:
        return "failed"
    labels = dict(SCORES)
    parts = [] if score.density is None else [f"density {100 * score.density:.0f} %"]
    parts += [f"{labels[code]} {step} of 5" for code, step in score.scores.items()]
    return ", ".join(parts) or "looked at"


def outcome_text(press: TestPress) -> str:
    """`good`, `second`, `spoiled`, `faulty`, `not scored yet`."""
    return str(press.get_grade_display() if press.grade else press.get_outcome_display())


def headline(found: Compared, presses: list[TestPress]) -> str:
    """The one thing that differs, named; else how many do."""
    rows = [row for row in found.differing if row.label != "operator"]
    if any(row.label == "dial" for row in rows):
        # Another dial is another temperature: that is one difference.
        rows = [row for row in rows if row.label != TRUE_UNDER]
    outcomes = " and ".join(dict.fromkeys(outcome_text(press) for press in presses))
    if not rows:
        return f"Nothing that was recorded differs; they came out {outcomes}."
    values = " against ".join(dict.fromkeys(rows[0].values))
    if len(rows) == 1:
        return f"Only the {rows[0].label} differs: {values}."
    others = ", ".join(row.label for row in rows[1:4])
    more = f" and {len(rows) - 4} more" if len(rows) > 4 else ""
    return f"The {rows[0].label} differs ({values}), and also {others}{more}."
