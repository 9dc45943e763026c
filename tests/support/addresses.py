"""Every address of the application, with a row behind each kind of page."""

import re
from uuid import uuid4

from django.urls import get_resolver

from tempermark.web.bench import actions
from tempermark.web.experiments.ladders import actions as ladders
from tempermark.web.experiments.washing import actions as washing
from tempermark.web.measure.models import Instrument, InstrumentCheck, Reading
from tempermark.web.measure.surveys.grids import grid_places
from tempermark.web.pressure import actions as pressures
from tempermark.web.pressure.maps import actions as pressures_actions
from tempermark.web.trace.board.actions import open_case
from tests.support import bench, room

SHIMS = [(0.0, 0.0), (2.0, 1.35), (4.0, 2.66)]
# Streams do not end by themselves; they are tested with the hub.
ENDLESS = ("stream",)


def routes():
    """Every route that ends."""
    found = [
        str(pattern.pattern)
        for included in get_resolver().url_patterns
        for pattern in getattr(included, "url_patterns", [included])
    ]
    return [route for route in found if not any(word in route for word in ENDLESS)]


def rows_of(technician, element):
    """A key of a row for every kind of page; pages of other kinds meet a key without a row."""
    survey = room.survey(technician, element)
    going = room.survey(technician, element, grid="3x3", finish=False)
    piece = room.piece(technician, element)
    mark = room.mark(technician, piece)
    case = open_case(technician, piece)
    gun = Instrument.objects.create(name="Gun 1", kind="infrared", low_c=20.0, high_c=300.0)
    check = InstrumentCheck.objects.create(
        instrument=gun, on="2026-10-01", by=technician, ice_c=0.4, corrections=[[0.4, -0.4]]
    )
    keys = {
        "test-presses": piece.pk,
        "cases": case.pk,
        "blanks": piece.blank_id,
        "fit": piece.blank_id,
        "marks": mark.pk,
        "instruments": gun.pk,
        "checks": check.pk,
        "readings": Reading.objects.filter(station__survey=survey).first().pk,
        "knob-lessons": pressures.learn(technician, element.press, SHIMS).pk,
        "pressure-maps": _pulled(technician, element).pk,
        **_learning(technician, element),
    }
    return [keys | {"surveys": survey.pk}, keys | {"surveys": going.pk}]


def _learning(who, on):
    """A run, a ladder, a wash trial and a labelled piece."""
    run = bench.run(who, on)
    labelled = actions.piece_of_run(run, 1)
    step = ladders.PressToPlan(on, 205.0, 50.0, "medium")
    window = {"low_c": 190.0, "high_c": 215.0, "low_s": 30.0, "high_s": 90.0}
    fields = {"kind": "time", "recipe": run.job.recipe, "blank": run.job.blank, "element": on}
    ladder = ladders.plan(who, fields | window, [step, step], uuid4())
    given = {"title": "Two papers", "rounds": [1, 5], "rest_h": 0.0}
    trial = washing.start(who, given, [("A", [labelled])], uuid4())
    return {
        "runs": run.pk,
        "jobs": run.job_id,
        "piece": labelled.code,
        "experiments": ladder.pk,
        "planned-presses": ladder.planned_presses.first().pk,
        "wash-trials": trial.pk,
    }


def _pulled(who, on):
    """A pressure map with some strips pulled."""
    places = grid_places("3x3", on.width_mm, on.height_mm)
    fields = {"blank": None, "stack_mm": 1.0}
    made = pressures_actions.start_pulls(who, on, "3x3", places, fields)
    for station in list(made.stations.all())[:5]:
        pressures_actions.enter_pull(who, station, "3", uuid4())
    return made


def filled(route, known):
    """A route with what is known in its places, 1 where nothing is."""
    return re.sub(r"<(?:\w+:)?(\w+)>", lambda part: known.get(part[1], "1"), route)


def all_addresses(rows):
    """Every address for every set of rows, once for a press and once for a recipe."""
    found = set()
    for keys in rows:
        for slug in ("heron", "dye-on-a-polyester-vest"):
            known = {"slug": slug, "number": "1", "subject": "heat"}
            for route in routes():
                pk = str(keys.get(route.split("/")[0], 1))
                code = pk if route.startswith("piece/") else "parchment"
                kind = {"kind": "search"} if "experiments" in route else {}
                found.add("/" + filled(route, known | kind | {"pk": pk, "code": code}))
    return sorted(found)
