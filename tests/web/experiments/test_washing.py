"""Wash trials: started by labels, scored by round, read with their intervals; reminders."""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.web.experiments.models import WashScore, WashTrial
from tempermark.web.experiments.washing import queries
from tempermark.web.jobs.models import Clock
from tempermark.web.run.pieces import actions as runs
from tests.support import room

pytestmark = pytest.mark.django_db


@pytest.fixture
def pieces(technician, element):
    made = [room.piece(technician, element) for _ in range(4)]
    for one in made:
        runs.score(technician, one, runs.Scored("good", scores={"black": 5}))
    return [one.piece for one in made]


def start(browse, pieces, **changes):
    codes = [p.code for p in pieces]
    data = {
        "title": "Paper A or B",
        "arms": f"paper A: {codes[0]}, {codes[1].lower()}\npaper B: {codes[2]} {codes[3]}",
        "rounds": "1, 2, 5, 10",
        "rest_h": "24",
        "machine": "drum",
        "wash_c": "40",
        "drying": "line",
        "note": "",
        "once": str(uuid4()),
    }
    return browse.post("/wash-trials/new/", data | changes)


def score(browse, trial, washes, by_arm, **more):
    data = {"washes": str(washes), "once": str(uuid4())} | more
    for one in trial.washed.all():
        given = by_arm.get(one.arm, {})
        data |= {f"piece_{one.pk}_{name}": str(value) for name, value in given.items()}
    return browse.post(f"/wash-trials/{trial.pk}/score/", data, follow=True)


@pytest.fixture
def trial(browse, pieces):
    start(browse, pieces)
    return WashTrial.objects.get()


def test_a_trial_has_its_arms_its_rounds_and_the_clock_of_its_rest(trial, pieces):
    assert [(w.arm, w.piece) for w in trial.washed.all()] == [
        ("paper A", pieces[0]),
        ("paper A", pieces[1]),
        ("paper B", pieces[2]),
        ("paper B", pieces[3]),
    ]
    assert trial.rounds == [1, 2, 5, 10]
    clock = Clock.objects.get()
    assert clock.ends_at - clock.started_at == timedelta(hours=24)
    assert "Paper A or B" in clock.name


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"arms": "paper A: NOSUCH"}, "No piece has the label NOSUCH"),
        ({"arms": " : "}, "Name at least one piece"),
        ({"rounds": "one, two"}, "Numbers of washes"),
        ({"rounds": "0, 5"}, "between 1 and 200"),
        ({"rounds": ""}, "required"),
        ({"rest_h": "-1"}, "greater than or equal to 0"),
        ({"title": ""}, "required"),
    ],
)
def test_a_trial_that_is_none_is_refused_and_kept(browse, pieces, changes, says):
    answer = start(browse, pieces, **changes)
    assert answer.status_code == 422
    assert says in room.words(answer)
    assert not WashTrial.objects.exists()


def test_a_piece_named_twice_and_arms_of_one_name_are_refused(browse, pieces):
    code = pieces[0].code
    assert "named twice" in room.words(start(browse, pieces, arms=f"a: {code}\nb: {code}"))
    same = f"a: {code}\nA: {pieces[1].code}"
    assert "name of its own" in room.words(start(browse, pieces, arms=same))


def test_a_round_is_scored_for_all_pieces_in_one_form(browse, trial):
    assert queries.next_round(trial).washes == 1
    score(browse, trial, 1, {"paper A": {"density": "94"}, "paper B": {"density": "80", "bond": 4}})
    assert WashScore.objects.count() == 4
    fresh = WashTrial.objects.get()
    assert queries.next_round(fresh).washes == 2
    text = room.words(browse.get(f"/wash-trials/{trial.pk}/"))
    assert "Paper A or B" in text or "paper A" in text
    assert "94 %" in text.replace("\u00a0", " ")


def test_the_arm_that_fades_less_is_named_with_its_interval(browse, trial):
    for washes, (a, b) in {1: (94, 84), 2: (93, 78), 5: (91, 68), 10: (90, 58)}.items():
        score(browse, trial, washes, {"paper A": {"density": a}, "paper B": {"density": b}})
    text = room.words(browse.get(f"/wash-trials/{trial.pk}/")).replace("\u00a0", " ")
    assert "paper A fades less than paper B" in text
    assert "% sure" in text
    assert "All 4 pieces hold" in text
    assert queries.next_round(WashTrial.objects.get()) is None


def test_a_piece_that_failed_is_not_washed_on_and_counts_in_the_survival(browse, trial):
    score(browse, trial, 1, {"paper A": {"black": 5}, "paper B": {"failed": "1"}})
    score(browse, trial, 2, {"paper A": {"black": 5}})
    assert queries.next_round(WashTrial.objects.get()).washes == 5
    text = room.words(browse.get(f"/wash-trials/{trial.pk}/"))
    assert "2 of 4 pieces failed" in text
    form = room.soup(browse.get(f"/wash-trials/{trial.pk}/")).select_one("#round form")
    assert len(form.select("section")) == 2


def test_a_round_scored_again_counts_by_its_later_score_and_keeps_the_first(browse, trial):
    for value in ("70", "90"):
        score(browse, trial, 1, {"paper A": {"density": value}})
    first = trial.washed.first()
    assert queries.newest_scores(first)[1].density == 0.9
    assert first.scored_rounds.count() == 2


@pytest.mark.parametrize(
    ("washes", "given", "says"),
    [
        (1, {}, "Score at least one piece"),
        (3, {"paper A": {"black": 5}}, "no such round"),
        (1, {"paper A": {"density": "lots"}}, "not a density"),
        (1, {"paper A": {"density": "140"}}, "not a density"),
        (1, {"paper A": {"black": "9"}}, "Score at least one piece"),
    ],
)
def test_scores_that_are_none_are_refused_in_words(browse, trial, washes, given, says):
    assert says in room.words(score(browse, trial, washes, given))
    assert not WashScore.objects.exists()


def test_the_floor_reminds_of_a_round_once_the_pieces_have_rested(browse, trial):
    assert "wash 1 is due" not in room.words(browse.get("/"))
    WashTrial.objects.update(started_at=timezone.now() - timedelta(hours=25))
    assert "Paper A or B: wash 1 is due" in room.words(browse.get("/"))
    browse.post(f"/wash-trials/{trial.pk}/end/", {"ended": "1"})
    assert "is due" not in room.words(browse.get("/"))
    answer = score(browse, trial, 1, {"paper A": {"black": 5}})
    assert "has ended" in room.words(answer)


def test_an_empty_room_says_what_a_trial_is_for(browse):
    assert "No wash trial is under way" in room.words(browse.get("/wash-trials/"))
