"""The counts that are kept say at every moment what a count of all pieces says."""

import random
import threading
from collections import Counter
from datetime import timedelta
from uuid import uuid4

import pytest
from django.db import connection
from django.utils import timezone

from tempermark.web.experiments.models import Experiment, PlannedPress
from tempermark.web.logbook.filters import LogbookForm
from tempermark.web.logbook.yields import yields_of
from tempermark.web.planning.models import StockEntry
from tempermark.web.planning.stock.queries import stock
from tempermark.web.pressure.queries import closings
from tempermark.web.run.counts import keeping
from tempermark.web.run.counts.counting import ALL
from tempermark.web.run.counts.days import changed
from tempermark.web.run.counts.keeping import keep
from tempermark.web.run.lots import lots
from tempermark.web.run.models import CountChange, CountedIn, TestPress, YieldCount
from tests.support import room

pytestmark = pytest.mark.django_db
TURNS = 40


def all_presses():
    return list(
        TestPress.objects.select_related("element__press", "planned_press", "run__planned_press")
    )


def closed(element, since):
    rows = [p for p in all_presses() if p.element_id == element.pk]
    return sum(p.closures for p in rows if timezone.localdate(p.pressed_at) >= since)


def pieces_by_lot():
    found = {}
    for press in all_presses():
        for kind, code in (("film", press.film_lot), ("sheet", press.cover_sheet)):
            if code:
                pieces, faulty = found.setdefault((kind, code), (set(), set()))
                pieces.add(press.piece_id)
                if press.outcome == "faulty":
                    faulty.add(press.piece_id)
    return {key: (len(pieces), len(faulty)) for key, (pieces, faulty) in found.items()}


def judged():
    at_work = [
        p
        for p in all_presses()
        if p.step_number is None and p.outcome != "open" and not hasattr(p, "planned_press")
    ]
    return Counter((p.element.press.name, p.outcome == "good") for p in at_work)


def used_up(blank, after):
    first = {}
    for press in sorted(all_presses(), key=lambda p: (p.pressed_at, p.pk)):
        if press.step_number is None and press.blank_id == blank.pk:
            first.setdefault(press.piece_id, press.pressed_at)
    return sum(at > after for at in first.values())


class Shop:
    """People who log, change and withdraw pieces as it comes."""

    def __init__(self, seed, who):
        self.dice, self.who = random.Random(seed), who
        self.elements = [room.element("Heron"), room.element("Grebe")]
        self.blank = room.blank()
        self.experiment = None
        self.turns = (
            self.log,
            self.log,
            self.log,
            self.press_once_more,
            self.judge,
            self.judge,
            self.move,
            self.name_a_lot,
            self.withdraw,
            self.resize,
            self.plan,
            keep,
        )

    def turn(self):
        self.dice.choice(self.turns)()

    def log(self):
        self.press(room.piece, self.who, self.dice.choice(self.elements))

    def press(self, log, *args, **fields):
        return log(
            *args,
            days_ago=self.dice.randrange(200) / 10,
            closures=self.dice.choice((1, 1, 2)),
            film_lot=self.dice.choice(("", "F-1", "F-2")),
            cover_sheet=self.dice.choice(("", "P-1")),
            **fields,
        )

    def some(self):
        return self.dice.choice(list(TestPress.objects.order_by("pk")) or [None])

    def press_once_more(self):
        """The same piece, a step or its print a second time."""
        press = self.some()
        if press is not None:
            again = self.press(room.piece, self.who, press.element)
            again.piece, again.step_number = press.piece, self.dice.choice((None, 0))
            again.save()

    def judge(self):
        press = self.some()
        if press is not None:
            press.outcome = self.dice.choice(("open", "good", "faulty"))
            press.grade = "spoiled" if press.outcome == "faulty" else ""
            press.save()

    def move(self):
        press = self.some()
        if press is not None:
            press.pressed_at -= timedelta(hours=self.dice.randrange(60))
            press.art_x_mm = self.dice.choice((0.0, 150.0))
            press.element = self.dice.choice(self.elements)
            press.save()

    def name_a_lot(self):
        press = self.some()
        TestPress.objects.filter(pk=getattr(press, "pk", None)).update(film_lot="F-3")

    def withdraw(self):
        press = self.some()
        if press is not None:
            press.withdraw(self.who, "another piece")

    def resize(self):
        element = self.dice.choice(self.elements)
        element.width_mm = self.dice.choice((400.0, 600.0))
        element.save()

    def plan(self):
        """A piece turns out to be one of an experiment."""
        press = self.some()
        if press is None or hasattr(press, "planned_press"):
            return
        if self.experiment is None:
            self.experiment = Experiment.objects.create(
                kind="time",
                recipe=press.recipe,
                blank=press.blank,
                element=press.element,
                started_by=self.who,
                entry_key=uuid4(),
                **dict.fromkeys(("low_c", "high_c", "low_s", "high_s"), 1.0),
            )
        PlannedPress.objects.create(
            experiment=self.experiment,
            order=PlannedPress.objects.count(),
            element=press.element,
            set_c=200.0,
            dwell_s=40.0,
            pressure="medium",
            test_press=press,
        )


@pytest.mark.parametrize(
    "seed", [0, *(pytest.param(n, marks=pytest.mark.long) for n in (1, 2, 3, 4))]
)
def test_counts_are_those_of_all_pieces_whatever_happens_to_them(technician, seed):
    shop = Shop(seed, technician)
    counted_at = timezone.now() - timedelta(days=9.4)
    StockEntry.objects.create(
        blank=shop.blank,
        kind="counted",
        pieces=1000,
        at=counted_at,
        by=technician,
        entry_key=uuid4(),
    )
    since, recent = (timezone.localdate() - timedelta(days=d) for d in (12, 5))
    for _ in range(TURNS):
        shop.turn()
        for element in shop.elements:
            both = closed(element, since), closed(element, recent)
            assert closings(element.press, "pad", since, recent) == both
        found = {(r.kind, r.code): (r.pieces, r.faulty) for r in lots.overview()}
        assert found == pieces_by_lot()
        rows = yields_of(LogbookForm({})).by_press
        kept = Counter({(row.label, True): row.good for row in rows})
        kept.update({(row.label, False): row.judged - row.good for row in rows})
        assert +kept == judged()
        assert stock()[shop.blank.pk].pieces == 1000 - used_up(shop.blank, counted_at)
    assert keep() >= 0
    assert not changed()


def test_a_day_is_kept_and_read_without_a_look_at_its_pieces(technician, element):
    room.piece(technician, element)
    TestPress.objects.update(outcome="good")
    keep()
    assert not changed()
    # What no trigger saw shows that the kept count is what is read.
    YieldCount.objects.update(good=41, judged=50)
    assert yields_of(LogbookForm({})).good == 41
    room.piece(technician, element)
    TestPress.objects.update(outcome="good")
    assert yields_of(LogbookForm({})).good == 2


def test_another_time_zone_counts_all_days_again(technician, element, settings):
    late = timezone.now().replace(hour=23, minute=30) - timedelta(days=3)
    press = room.piece(technician, element)
    press.pressed_at = late
    press.save()
    keep()
    settings.TIME_ZONE = "Etc/GMT-5"
    day = timezone.localdate(press.pressed_at)
    assert keep() == 1
    assert CountedIn.objects.get().zone == "Etc/GMT-5"
    assert day == late.date() + timedelta(days=1)
    assert closings(element.press, "pad", day, day) == (1, 1)


@pytest.mark.django_db(transaction=True)
def test_what_is_logged_while_days_are_counted_is_counted_too(technician, element, monkeypatch):
    room.piece(technician, element)

    def log_meanwhile(counted, days, count=keeping._count):
        count(counted, days)
        other = threading.Thread(target=log_elsewhere)
        other.start()
        other.join()

    def log_elsewhere():
        room.piece(technician, element)
        connection.close()

    monkeypatch.setattr(keeping, "_count", log_meanwhile)
    today = timezone.localdate()
    # The day goes on changing, and is counted once for all that.
    assert keep() == 1
    assert changed() == {today}
    monkeypatch.undo()
    pieces = 1 + len(ALL)
    assert closings(element.press, "pad", today, today) == (pieces, pieces)
    assert keep() == 1
    assert not CountChange.objects.exists()
    assert closings(element.press, "pad", today, today) == (pieces, pieces)
