"""tempermark.case/1: a fault case for `diagnose`."""

from dataclasses import asdict
from typing import Any

from tempermark.core.constants import DWELL_LIMIT_S, PLATEN_RANGE_MM
from tempermark.core.diagnosis.case import (
    Actual,
    Case,
    CaseArt,
    CaseBlank,
    CasePress,
    CaseWindow,
    CheckDone,
    MapAtPrint,
    Observation,
    WorkedBefore,
)
from tempermark.core.diagnosis.engine import Diagnosis, RankedCause, diagnose
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.phrases import metric
from tempermark.core.vocabulary.methods import METHODS
from tempermark.core.vocabulary.settings import PEELS, PRESSURE_CLASSES, PRESSURES
from tempermark.core.vocabulary.sightings import PLACES, TIMES
from tempermark.core.vocabulary.things import (
    BLANK_COATINGS,
    BLANK_COLOURS,
    BLANK_FEATURES,
    BLANK_KINDS,
    PRESS_KINDS,
)
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.case/1"
MOST_OBSERVATIONS = 100
RESULTS = ("confirms", "excludes", "unclear")
LONGEST_SIDE_MM = 20_000.0


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    return to_document(diagnose(from_document(data), shipped()))


def from_document(data: object) -> Case:
    """The checked case; raises InputError."""
    fields = read_format(data, FORMAT)
    ambient = _part(fields, "ambient")
    case = Case(
        method=fields.choice("method", METHODS),
        observations=tuple(
            _observation(o) for o in fields.objects("observations", 1, MOST_OBSERVATIONS)
        ),
        press=_press(_part(fields, "press")),
        blank=_blank(_part(fields, "blank")),
        recipe=_recipe(_part(fields, "recipe")),
        actual=_actual(_part(fields, "actual")),
        worked_before=_worked(_part(fields, "worked_before")),
        map_at_print=_map(_part(fields, "map_at_print")),
        art=_art(_part(fields, "art")),
        ambient_c=ambient.temperature("temperature_c", None),
        relative_humidity=ambient.number("relative_humidity", 0, 1, None),
        facts=frozenset(fields.codes("facts", tuple(shipped().facts))),
        not_facts=frozenset(fields.codes("not_facts", tuple(shipped().facts))),
        not_seen=frozenset(fields.codes("not_seen", tuple(shipped().symptoms))),
        checks_done=tuple(_check(c) for c in fields.objects("checks_done", 0, 200, default=[])),
    )
    fields.done()
    return case


def case_document(case: Case) -> dict[str, Any]:
    """The document that gives this case again; unknown things are left out."""
    whole = asdict(case)
    ambient = {
        "temperature_c": whole.pop("ambient_c"),
        "relative_humidity": whole.pop("relative_humidity"),
    }
    lists = {name: sorted(whole.pop(name)) for name in ("facts", "not_facts", "not_seen")}
    known = {"format": FORMAT, **whole, "ambient": ambient, **lists}
    return {key: _known(value) for key, value in known.items()}


def _known(value: Any) -> Any:
    """Without entries that are None, lists for tuples."""
    if isinstance(value, dict):
        return {key: _known(v) for key, v in value.items() if v is not None}
    if isinstance(value, (list, tuple)):
        return [_known(v) for v in value]
    return value


def _part(fields: Fields, key: str) -> Fields:
    return fields.object(key, None) or Fields({}, key, fields.problems)


def _size(fields: Fields, key: str) -> Any:
    return fields.number(key, 0, LONGEST_SIDE_MM, None, unit=" mm", above=True)


def _dwell(fields: Fields, key: str) -> Any:
    return fields.number(key, 0, DWELL_LIMIT_S, None, unit=" s")


def _observation(fields: Fields) -> Observation:
    severity = fields.number("severity", 1, 3, 2)
    return Observation(
        fields.choice("symptom", tuple(shipped().symptoms)),
        fields.choice("where", PLACES, None),
        fields.choice("when", TIMES, None),
        int(severity or 2),
    )


def _press(fields: Fields) -> CasePress:
    return CasePress(
        kind=fields.choice("kind", PRESS_KINDS, None),
        name=fields.text("name", None, limit=200),
        timer_max_s=fields.number("timer_max_s", 0, DWELL_LIMIT_S, None, unit=" s", above=True),
        gain=fields.number("gain", 0.1, 10, 1.0) or 1.0,
        resolution_c=fields.number("resolution_c", 0.01, 50, 1.0) or 1.0,
        lift_mm_per_turn=fields.number("lift_mm_per_turn", 0, 100, None, above=True),
        tightens=fields.choice("tightens", ("clockwise", "counterclockwise"), None),
        thickness_when_set_mm=fields.number("thickness_when_set_mm", 0, 200, None),
    )


def _blank(fields: Fields) -> CaseBlank:
    features = None
    if fields.has("features"):
        features = tuple(fields.codes("features", BLANK_FEATURES))
    return CaseBlank(
        kind=fields.choice("kind", BLANK_KINDS, None),
        polyester=fields.number("polyester", 0, 1, None),
        colour=fields.choice("colour", BLANK_COLOURS, None),
        coating=fields.choice("coating", BLANK_COATINGS, None),
        features=features,
        width_mm=_size(fields, "width_mm"),
        height_mm=_size(fields, "height_mm"),
        thickness_mm=fields.number("thickness_mm", 0, 200, None, unit=" mm", above=True),
        material=fields.text("material", None, limit=100),
    )


def _recipe(fields: Fields) -> CaseWindow:
    return CaseWindow(
        temperature_c=fields.window("temperature_c", -50, 600, " °C", None),
        time_s=fields.window("time_s", 0, DWELL_LIMIT_S, " s", None),
        pressure=fields.choice("pressure", PRESSURES, None),
        peel=fields.choice("peel", PEELS, None),
        lower_temperature_c=fields.window("lower_temperature_c", -50, 600, " °C", None),
        lower_time_s=fields.window("lower_time_s", 0, DWELL_LIMIT_S, " s", None),
    )


def _actual(fields: Fields) -> Actual:
    closures = fields.number("closures", 1, 1000, None)
    return Actual(
        set_c=fields.temperature("set_c", None),
        measured_c=fields.temperature("measured_c", None),
        measured_uncertainty_c=fields.number("measured_uncertainty_c", 0, 100, 0.0) or 0.0,
        time_s=_dwell(fields, "time_s"),
        closures=None if closures is None else int(closures),
        pressure=fields.choice("pressure", PRESSURES, None),
        peel=fields.choice("peel", PEELS, None),
        heat_through=fields.number("heat_through", 0, 1000, None),
        effective_s=_dwell(fields, "effective_s"),
    )


def _worked(fields: Fields) -> WorkedBefore:
    return WorkedBefore(
        fields.temperature("temperature_c", None),
        _dwell(fields, "time_s"),
        fields.choice("pressure", PRESSURE_CLASSES, None),
    )


def _map(fields: Fields) -> MapAtPrint:
    return MapAtPrint(
        at_mark_c=fields.temperature("at_mark_c", None),
        at_mark_uncertainty_c=fields.number("at_mark_uncertainty_c", 0, 100, 0.0) or 0.0,
        coolest_c=fields.temperature("coolest_c", None),
        hottest_c=fields.temperature("hottest_c", None),
        surveyed=fields.text("surveyed", None, limit=100),
        usable_mm=fields.pair("usable_mm", 0, LONGEST_SIDE_MM, " mm", None),
    )


def _art(fields: Fields) -> CaseArt:
    return CaseArt(
        _size(fields, "width_mm"),
        _size(fields, "height_mm"),
        fields.number("placement_mm", 0, PLATEN_RANGE_MM[1], None, unit=" mm"),
    )


def _check(fields: Fields) -> CheckDone:
    return CheckDone(
        fields.choice("check", tuple(shipped().checks)),
        fields.choice("result", RESULTS),
        fields.choice("cause", tuple(shipped().causes), None),
    )


def to_document(diagnosis: Diagnosis) -> dict[str, Any]:
    """The answer of the command."""
    return {
        "causes": [_cause_document(ranked) for ranked in diagnosis.causes],
        "spoken_against": [
            {
                "code": item.cause.code,
                "probability": round(item.probability, 4),
                "because": [f"− {metric(e.text)}" for e in item.against],
            }
            for item in diagnosis.spoken_against
        ],
        "normal_appearance": diagnosis.normal_appearance,
        "next_checks": [
            {
                "check": item.check.code,
                "minutes": item.check.minutes,
                "blanks": item.check.blanks,
                "expected_information_bits": round(item.bits, 4),
                "separates": list(item.separates),
            }
            for item in diagnosis.next_checks
        ],
        "questions": [
            {"about": q.about, "text": q.text, "expected_information_bits": round(q.bits, 4)}
            for q in diagnosis.questions
        ],
        "notes": list(diagnosis.notes),
    }


def _cause_document(ranked: RankedCause) -> dict[str, Any]:
    signed = [f"{'+' if e.log_odds > 0 else '−'} {metric(e.text)}" for e in ranked.evidence]
    return {
        "code": ranked.cause.code,
        "probability": round(ranked.probability, 4),
        "because": signed,
        "remedy": {
            "text": metric(ranked.remedy.text),
            "settings": ranked.remedy.settings,
            "piece": metric(ranked.cause.piece),
            "cautions": [metric(caution) for caution in ranked.remedy.cautions],
        },
        "prove": metric(ranked.cause.prove),
    }
