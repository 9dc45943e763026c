"""What the demo's room knows of pressure, drawn from hidden presses like its temperatures."""

import io
from collections.abc import Callable, Iterator
from datetime import datetime, timedelta
from typing import Any
from uuid import NAMESPACE_URL, uuid5

import numpy as np
from PIL import Image

from tempermark.stand_ins.carbon_print import PressedPad, scanned_print
from tempermark.web.accounts.models import User
from tempermark.web.measure.surveys.grids import KNOWN, grid_places
from tempermark.web.presses.models import Element, Press
from tempermark.web.pressure import actions, queries
from tempermark.web.pressure.maps import actions as map_actions
from tempermark.web.pressure.maps import remembered
from tempermark.web.pressure.models import (
    ContactReading,
    KnobLesson,
    PressureState,
    PressureSurvey,
    PullStation,
    RaisedPart,
    WearNote,
)
from tempermark.web.pressure.setting.setting import Load, advise
from tempermark.web.recipes.models import Blank

# Grebe's knob, as hidden: mm a turn, counter-clockwise tightens, empty touch 2 turns clockwise.
GREBE_LIFT_MM, GREBE_ZERO = 1.25, 2.0
SHIMS_MM = (0.0, 1.0, 2.0, 4.0)
# Strips: kPa from which one drags, holds, tears on a pad that gives 3 × 48 kPa a share.
STRIP_FROM_KPA = (2.0, 15.0, 70.0)
STRIPS = ("free", "drags", "holds", "tears")
# Press, days ago, stack and how its pad is pressed at shares x, y: mm of compression.
# Heron's newest was pulled as that of a known press.
KNOWN_AGAIN = ("heron", 6)
STRIP_MAPS = (
    ("heron", 68, 1.1, lambda x, y: 1.45 + 0.1 * (x - 0.5)),
    ("heron", 34, 1.1, lambda x, y: 1.40 + 0.1 * (y - 0.5)),
    ("heron", 6, 1.1, lambda x, y: 1.42 - 0.1 * (x - 0.5)),
    ("plover", 74, 1.5, lambda x, y: 1.45 + 0.1 * (x - 0.5)),
    ("plover", 46, 1.5, lambda x, y: 1.35 + 0.5 * (x - 0.5)),
    ("plover", 18, 1.5, lambda x, y: 1.25 + 1.5 * (x - 0.5)),
    ("grebe", 40, 2.0, lambda x, y: 1.5 + 0.1 * (y - 0.5)),
    ("dipper", 12, 0.7, lambda x, y: 1.4 + 0.0 * x),
)
RAISED = (
    ("Coxswain's hooded sweatshirt", "zip", 254.0, 300.0, 12.0, 320.0, 3.2),
    ("Coxswain's hooded sweatshirt", "seam", 90.0, 180.0, 340.0, 8.0, 2.6),
    ("Coxswain's hooded sweatshirt", "hem", 0.0, 0.0, 520.0, 50.0, 2.4),
    ("Coxswain's hooded sweatshirt", "seam", 60.0, 470.0, 400.0, 8.0, 2.0, True),
    ("Cotton bag, natural", "seam", 0.0, 0.0, 8.0, 400.0, 1.6),
)


def build_pressure(technician: User, noon: datetime) -> None:
    """Lessons, states, maps, readings and wear of the room."""
    rng = np.random.default_rng(41)
    _grebe(technician, noon, rng)
    _heron(technician, noon)
    for slug, age, stack_mm, shape in STRIP_MAPS:
        grid = KNOWN if (slug, age) == KNOWN_AGAIN else "3x3"
        _strips(technician, slug, noon - timedelta(days=age), stack_mm, shape, grid)
    _print(technician, noon - timedelta(days=9), rng)
    _plover(technician, noon)
    _sleeves(noon)
    _wear(technician, noon)
    for name, kind, x, y, wide, deep, rises, *behind in RAISED:
        RaisedPart.objects.create(
            blank=Blank.objects.get(name=name),
            kind=kind,
            x_mm=x,
            y_mm=y,
            width_mm=wide,
            depth_mm=deep,
            rises_mm=rises,
            on_back=bool(behind),
        )


def _at(model: Any, pk: int, when: datetime) -> None:
    """Move what an action just wrote to the day it is told of."""
    model.objects.filter(pk=pk).update(at=when)


def _grebe(person: User, noon: datetime, rng: np.random.Generator) -> None:
    press = Press.objects.get(slug="grebe")
    turns = GREBE_ZERO + np.array(SHIMS_MM) / GREBE_LIFT_MM + 0.03 * rng.standard_normal(4)
    shims = [(mm, round(float(t) * 8) / 8) for mm, t in zip(SHIMS_MM, turns, strict=True)]
    lesson = actions.learn(person, press, shims)
    _at(KnobLesson, lesson.pk, noon - timedelta(days=50))
    _set(person, press, Load(Blank.objects.get(name="Cotton bag, natural"), 1, 0.2, 0.0, "medium"))
    state = PressureState.objects.get(press=press)
    reading = actions.add_reading(
        person,
        press,
        {
            "means": "load_cell",
            "contact_kpa": 34.0,
            "stack_mm": state.stack_mm,
            "position_turns": state.position_turns,
        },
    )
    _at(ContactReading, reading.pk, noon - timedelta(days=45))
    _at(PressureState, state.pk, noon - timedelta(days=2))


def _heron(person: User, noon: datetime) -> None:
    press = Press.objects.get(slug="heron")
    state = _set(
        person, press, Load(Blank.objects.get(name="Crew vest, white"), 2, 0.3, 0.0, "medium")
    )
    _at(PressureState, state.pk, noon - timedelta(days=3))


def _set(person: User, press: Press, load: Load) -> PressureState:
    advice = advise(press, press.elements.first(), load)
    return actions.set_pressure(person, advice, uuid5(NAMESPACE_URL, f"demo:{press.slug}"))


def _strips(
    person: User,
    slug: str,
    when: datetime,
    stack_mm: float,
    shape: Callable[..., Any],
    grid: str,
) -> None:
    element = Element.objects.get(press__slug=slug, role__in=("upper", "sleeve"))
    places = grid_places("3x3", element.width_mm, element.height_mm)
    survey = map_actions.start_pulls(
        person, element, grid, places, {"stack_mm": stack_mm, "taken_at": when, "note": ""}
    )
    for station in _pulled(survey):
        deep = shape(station.x_mm / element.width_mm, station.y_mm / element.height_mm)
        share = max(deep, 0.0) / 8.0
        step = int(np.searchsorted(STRIP_FROM_KPA, 144.0 * share / (1 - share), side="right"))
        key = uuid5(NAMESPACE_URL, f"demo:strip:{survey.pk}:{station.label}")
        map_actions.enter_pull(person, station, STRIPS[step], key)
    map_actions.finish(person, survey)
    PressureSurvey.objects.filter(pk=survey.pk).update(finished_at=when)


def _pulled(survey: PressureSurvey) -> Iterator[PullStation]:
    """Every station; of a known press those that it leads to."""
    if survey.grid != KNOWN:
        yield from survey.stations.all()
        return
    while True:
        stations = queries.stations(survey)
        standing = remembered.standing(survey, stations)
        if standing is None or standing.next_station is None:
            return
        yield stations[standing.next_station]


def _print(person: User, when: datetime, rng: np.random.Generator) -> None:
    """Coot's carbon print: weaker at the front, a hollow where the boards' edge always lies."""
    element = Element.objects.get(press__slug="coot")
    pad = PressedPad(
        0.55, -0.06, 0.16, ((360.0, 290.0, 0.34, 70.0, 60.0),), pad_mm=6.0, quarter_kpa=110.0
    )
    size = (element.width_mm, element.height_mm)
    picture = scanned_print(pad, size, rng, pixels_per_mm=1.5, turned_deg=-0.7)
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG")
    fields = {"stack_mm": 1.9, "taken_at": when, "note": "Boards of the season all lie here."}
    survey = map_actions.keep_print(person, element, out.getvalue(), 100.0, None, fields)
    PressureSurvey.objects.filter(pk=survey.pk).update(finished_at=when)


def _plover(person: User, noon: datetime) -> None:
    press = Press.objects.get(slug="plover")
    for figure, kpa in ((3.0, 17.0), (5.0, 33.0), (7.0, 52.0)):
        reading = actions.add_reading(
            person, press, {"means": "load_cell", "contact_kpa": kpa, "figure": figure}
        )
        _at(ContactReading, reading.pk, noon - timedelta(days=30))
    Element.objects.create(
        press=press,
        role="lower",
        label="lower platen",
        width_mm=150.0,
        height_mm=90.0,
        own_setting=True,
        fitted_on=noon.date() - timedelta(days=800),
    )


def _sleeves(noon: datetime) -> None:
    """A straight sleeve for mugs, in store beside the tapered one."""
    Element.objects.create(
        press=Press.objects.get(slug="dipper"),
        role="sleeve",
        label="mug sleeve",
        shape="straight",
        width_mm=230.0,
        height_mm=115.0,
        top_diameter_mm=87.0,
        bottom_diameter_mm=87.0,
        closes_by_mm=6.0,
        fitted_on=noon.date() - timedelta(days=800),
        taken_out_on=noon.date() - timedelta(days=200),
    )


def _wear(person: User, noon: datetime) -> None:
    notes = (
        ("grebe", 400, 32.0, 0, "new"),
        ("grebe", 20, 45.0, 17200, "counter on the press"),
        ("heron", 15, None, 6400, "counter on the press"),
    )
    for slug, age, hardness, closings, text in notes:
        press = Press.objects.get(slug=slug)
        fields = {"part": "pad", "hardness": hardness, "closings": closings, "text": text}
        note = actions.note_wear(person, press, fields)
        _at(WearNote, note.pk, noon - timedelta(days=age))
