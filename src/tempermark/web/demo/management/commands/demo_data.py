"""Builds the demo room: the same every time for the same day."""

from datetime import datetime, timedelta
from typing import Any
from uuid import NAMESPACE_URL, uuid5

import numpy as np
from django.core.management import BaseCommand
from django.core.management.base import CommandParser
from django.db import connection, transaction
from django.utils import timezone

from tempermark.core.metrology.reading.radiometry import true_surface_temperature
from tempermark.web.accounts.demo import DEMO_PASSWORD, DEMO_PEOPLE
from tempermark.web.accounts.models import User
from tempermark.web.demo.room_rows.heat import build_heat
from tempermark.web.demo.room_rows.known import survey_again
from tempermark.web.demo.room_rows.learning import build_learning
from tempermark.web.demo.room_rows.pieces import (
    CLOSED_CASE,
    FAULTY,
    GOOD_SERIES,
    LOTS,
    LOTS_USED,
    OPEN_CASE,
)
from tempermark.web.demo.room_rows.planning import build_planning
from tempermark.web.demo.room_rows.preparing import build_preparing
from tempermark.web.demo.room_rows.pressure import build_pressure
from tempermark.web.demo.room_rows.room import BLANKS, INSTRUMENTS, PRESSES, DemoPress
from tempermark.web.demo.room_rows.tables import ROOM
from tempermark.web.measure.instruments.instruments import keep_reported_check
from tempermark.web.measure.models import (
    Instrument,
    Reading,
    Station,
    Survey,
)
from tempermark.web.measure.surveys.actions import refresh_summary
from tempermark.web.measure.surveys.grids import grid_places
from tempermark.web.presses.models import Element, Press
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import Blank, Recipe
from tempermark.web.run.models import (
    SCORES,
    Lot,
    TestPress,
)
from tempermark.web.run.pieces import actions as runs
from tempermark.web.trace.board import actions as traces

NOISE_C = 0.6
EMISSIVITY, EMISSIVITY_SETTING, AMBIENT_C = 0.92, 0.95, 22.0
SEED = 1887


class Command(BaseCommand):
    """`demo_data [--reset] [--today 2026-11-24]`."""

    help = "Build the made-up room of the demo; without --reset nothing typed is touched."

    def add_arguments(self, parser: CommandParser) -> None:
        """--reset throws the room away first; --today fixes the day it is built for."""
        parser.add_argument("--reset", action="store_true")
        parser.add_argument("--today", type=datetime.fromisoformat, default=None)

    @transaction.atomic
    def handle(self, *args: Any, reset: bool = False, today: Any = None, **options: Any) -> None:
        """Build the room if it is empty or to be reset."""
        people = make_people()
        if Press.objects.exists() and not reset:
            return
        if reset:
            clear_room()
        now = timezone.make_aware(today) if today else timezone.now()
        noon = now.replace(hour=9, minute=30, second=0, microsecond=0)
        load_shipped_recipes()
        build_room(people["isla"], people["maren"], noon)
        build_planning(people["isla"], now)
        self.stdout.write("Built the Vellmere Regatta finishing room")


def make_people() -> dict[str, User]:
    """The demo's people, by name."""
    for name, given, role in DEMO_PEOPLE:
        if not User.objects.filter(username=name).exists():
            User.objects.create_user(name, password=DEMO_PASSWORD, first_name=given, role=role)
    return {u.username: u for u in User.objects.filter(username__in=[p[0] for p in DEMO_PEOPLE])}


def clear_room() -> None:
    """Everything of the room but its people and recipes; numbers start again at 1."""
    connection.check_constraints()
    tables = ", ".join(connection.ops.quote_name(m._meta.db_table) for m in ROOM)
    with connection.cursor() as cursor:
        # The record refuses this from anybody who works in the room.
        cursor.execute("SET session_replication_role = replica")
        cursor.execute(f"TRUNCATE {tables} RESTART IDENTITY")
        cursor.execute("SET session_replication_role = DEFAULT")


def build_room(technician: User, lead: User, noon: datetime) -> None:
    """Presses with a year of surveys, test presses, and two cases."""
    rng = np.random.default_rng(SEED)
    for row in BLANKS:
        Blank.objects.create(**row)
    for tool, checked_days_ago in INSTRUMENTS:
        checked_on = noon.date() - timedelta(days=checked_days_ago)
        keep_reported_check(lead, Instrument.objects.create(checked_on=checked_on, **tool))
    for demo in PRESSES:
        press = Press.objects.create(**demo.record, dial_since=noon - timedelta(days=20))
        element = Element.objects.create(
            press=press, fitted_on=noon.date() - timedelta(days=800), **demo.element
        )
        for age in demo.survey_ages:
            if age > 0:
                _survey(demo, element, technician, noon, age, rng)
        for age, set_c in demo.other_settings:
            _survey(demo, element, technician, noon, age, np.random.default_rng(age), set_c)
    survey_again(technician, noon)
    for kind, code, age, keeps_months, note in LOTS:
        since = noon.date() - timedelta(days=age)
        Lot.objects.create(kind=kind, code=code, since=since, keeps_months=keeps_months, note=note)
    for series in GOOD_SERIES:
        _good_series(series, technician, noon)
    build_preparing(technician, lead, noon)
    build_learning(technician, noon)
    build_pressure(technician, noon)
    build_heat(technician, noon)
    pieces = [_faulty(row, technician, noon) for row in FAULTY]
    opened = noon - timedelta(days=1)
    traces.open_case(technician, pieces[OPEN_CASE], now=opened)
    _closed_case(technician, lead, noon)


def _survey(
    demo: DemoPress,
    element: Element,
    person: User,
    noon: datetime,
    age: int,
    rng: np.random.Generator,
    set_c: float | None = None,
) -> Survey:
    """One survey, its figures as a gun would have shown them on the pad."""
    taken = noon - timedelta(days=age)
    target = demo.record["target_c"]
    set_c = set_c or target
    survey = Survey.objects.create(
        element=element,
        taken_at=taken,
        taken_by=person,
        finished_at=taken,
        grid=demo.grid,
        set_c=set_c,
        target_c=set_c,
        tolerance_c=demo.record["tolerance_c"],
        ambient_c=AMBIENT_C,
        surface_emissivity=EMISSIVITY,
        emissivity_setting=EMISSIVITY_SETTING,
        surface_emissivity_uncertainty=0.01,
        instrument_uncertainty_c=1.0,
        repeatability_c=0.7,
    )
    places = grid_places(demo.grid, element.width_mm, element.height_mm)
    stations = Station.objects.bulk_create(
        Station(survey=survey, label=p.label, order=i, x_mm=p.x_mm, y_mm=p.y_mm)
        for i, p in enumerate(places)
    )
    x = np.array([p.x_mm for p in places]) / element.width_mm
    y = np.array([p.y_mm for p in places]) / element.height_mm
    true = (
        target
        + demo.gain * (set_c - target)
        + demo.shape(x, y, age)
        + NOISE_C * rng.standard_normal(len(places))
    )
    # What a gun shows is the inverse of its correction: the two emissivities change places.
    shown = true_surface_temperature(true, EMISSIVITY, EMISSIVITY_SETTING, AMBIENT_C)
    readings = [
        Reading(
            station=station,
            entry_key=uuid5(NAMESPACE_URL, f"demo:{survey.pk}:{station.label}"),
            typed=f"{value:.1f}",
            shown_c=round(float(value), 1),
            read_at=taken,
            read_by=person,
        )
        for station, value in zip(stations, shown, strict=True)
    ]
    Reading.objects.bulk_create(readings)
    refresh_summary(survey)
    return survey


def _log(
    person: User,
    slug: str,
    recipe_slug: str,
    blank: str,
    noon: datetime,
    days_ago: int,
    key: str,
    **fields: Any,
) -> TestPress:
    element = Element.objects.get(press__slug=slug)
    version = Recipe.objects.get(slug=recipe_slug).versions.first()
    data = {
        "recipe": version,
        "blank": Blank.objects.get(name=blank),
        "closures": 1,
        "stack": version.stack,
        "facts": [],
        "room_c": AMBIENT_C,
        "relative_humidity": None,
        "note": "",
        "peel": version.peel,
        **LOTS_USED.get(recipe_slug, {}),
        **fields,
    }
    pressed = noon - timedelta(days=days_ago) + timedelta(hours=3)
    return runs.log_test_press(person, element, data, uuid5(NAMESPACE_URL, f"demo:{key}"), pressed)


def _good_series(series: tuple[Any, ...], person: User, noon: datetime) -> None:
    slug, recipe, blank, set_c, dwell, pressure, art, ages, scores = series
    element = Element.objects.get(press__slug=slug)
    for age in ages:
        piece = _log(
            person,
            slug,
            recipe,
            blank,
            noon,
            age,
            f"{slug}:{blank}:{age}",
            set_c=float(set_c),
            dwell_s=float(dwell),
            pressure=pressure,
            art_width_mm=float(art[0]),
            art_height_mm=float(art[1]),
            art_x_mm=(element.width_mm - art[0]) / 2,
            art_y_mm=(element.height_mm - art[1]) / 2 - 15,
            facts=["transfer_fixed", "blank_prepressed"],
        )
        given = zip([code for code, _ in SCORES], scores, strict=False)
        runs.score(
            person,
            piece,
            runs.Scored("good", scores={code: value for code, value in given if value}),
        )


def _faulty(row: tuple[Any, ...], person: User, noon: datetime) -> TestPress:
    slug, recipe, blank, set_c, dwell, pressure, peel, art, age, facts, marks = row
    piece = _log(
        person,
        slug,
        recipe,
        blank,
        noon,
        age,
        f"faulty:{slug}:{age}",
        set_c=float(set_c),
        dwell_s=float(dwell),
        pressure=pressure,
        peel=peel,
        facts=list(facts),
        art_x_mm=float(art[0]),
        art_y_mm=float(art[1]),
        art_width_mm=float(art[2]),
        art_height_mm=float(art[3]),
    )
    for number, (symptom, when, severity, place, where) in enumerate(marks):
        x, y = place or (None, None)
        mark = {
            "symptom": symptom,
            "when": when,
            "severity": severity,
            "x_mm": x,
            "y_mm": y,
            "where": where,
        }
        runs.mark(person, piece, mark, uuid5(NAMESPACE_URL, f"demo:mark:{slug}:{age}:{number}"))
    return runs.score(person, piece, runs.Scored("faulty"))


def _closed_case(technician: User, lead: User, noon: datetime) -> None:
    piece = _faulty(CLOSED_CASE["piece"], technician, noon)
    opened = piece.pressed_at + timedelta(minutes=20)
    case = traces.open_case(technician, piece, now=opened)
    check, outcome = CLOSED_CASE["check"]
    key = uuid5(NAMESPACE_URL, "demo:check")
    traces.record_check(technician, case, check, outcome, key, now=opened + timedelta(minutes=2))
    proof = _log(
        technician,
        "grebe",
        piece.recipe.recipe.slug,
        piece.blank.name,
        noon,
        CLOSED_CASE["proof_days_ago"],
        "proof",
        set_c=piece.set_c,
        dwell_s=float(CLOSED_CASE["proof_dwell_s"]),
        pressure=piece.pressure,
        peel=piece.peel,
        art_x_mm=piece.art_x_mm,
        art_y_mm=piece.art_y_mm,
        art_width_mm=piece.art_width_mm,
        art_height_mm=piece.art_height_mm,
        facts=["blank_prepressed"],
    )
    runs.score(technician, proof, runs.Scored("good", scores={"bond": 5, "edge": 5}))
    closed = proof.pressed_at + timedelta(minutes=30)
    traces.close_case(lead, case, CLOSED_CASE["cause"], proof, CLOSED_CASE["note"], now=closed)
