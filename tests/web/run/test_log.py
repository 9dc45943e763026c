"""The log asks before it keeps what cannot be right, and computes what was done."""

from datetime import timedelta

import pytest
from django.utils import timezone

from tempermark.web.heat.lessons import trials
from tempermark.web.presses.models import Press
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import Recipe
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces.proven import proven_on
from tempermark.web.trace.board.actions import open_case
from tempermark.web.trace.board.mapping import build_case
from tests.support import room
from tests.support.forms import Drawn

pytestmark = pytest.mark.django_db


def log_form(form):
    return form.get("id") == "log"


@pytest.fixture
def vest(technician, element):
    room.survey(technician, element, truth=lambda x, y: 195.0, days_ago=3)
    blank = room.blank(thickness_mm=0.5)
    room.piece(technician, element, days_ago=2)
    return blank


def version(slug="dye-on-a-polyester-vest"):
    return Recipe.objects.get(slug=slug).versions.first()


def draw(browse, step="", slug="dye-on-a-polyester-vest"):
    page = f"/presses/heron/test-presses/new/?recipe={version(slug).pk}&step_number={step}"
    return Drawn(browse, page, log_form)


def newest():
    return TestPress.objects.order_by("-pk").first()


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"either_cover": "no_cover", "stack": ""}, ""),
        ({"stack": "printed transfer\npolyester jersey\nplain tissue, inside"}, "There is nothing"),
        ({"stack": "parchment\nprinted transfer, face up\npolyester jersey\nplain tissue, inside"},
         "The ink faces the platen: right is transfer face down"),
        ({"stack": "parchment\nprinted transfer\nparchment\npolyester jersey"},
         "A sheet between the transfer and the blank"),
        ({"stack": "parchment\nprinted transfer\npolyester jersey"}, "Dye gas goes through"),
    ],
)  # fmt: skip
def test_a_stack_that_goes_wrong_is_asked_about_once(browse, vest, changes, said):
    before = TestPress.objects.count()
    page = draw(browse)
    answer = page.send(browse, **changes)
    if not said:
        # What was ticked by hand is known to be so.
        assert answer.status_code == 302
        return
    assert answer.status_code == 422
    assert said in room.words(answer)
    assert TestPress.objects.count() == before
    again = room.soup(answer).select_one("[name=confirmed]")["value"]
    assert page.send(browse, **changes, confirmed=again).status_code == 302
    assert TestPress.objects.count() == before + 1


def test_closings_are_proposed_from_the_timer(browse, vest):
    assert draw(browse).data["closures"] == "1"
    Press.objects.update(timer_max_s=20)
    page = draw(browse)
    # 52.5 s in the middle of the window, 20 s at most.
    assert page.data["closures"] == "3"
    answer = page.send(browse, closures="1")
    assert answer.status_code == 422
    assert "The timer goes up to 20 s: 52 s takes 3 closings" in room.words(answer)


def test_what_was_ticked_changes_what_is_computed(browse, vest):
    draw(browse).send(browse, either_cover="cover_plain_paper", done=["extra_layers"])
    piece = newest()
    assert piece.pressed_stack[:2] == ("plain_paper", "plain_paper")
    told = room.words(browse.get(piece.get_absolute_url()))
    assert "worked out from what was ticked" in told
    library = shop_materials()
    ticked = trials.piece_request(piece, 200.0, library)
    piece.facts = []
    assert ticked.stack != trials.piece_request(piece, 200.0, library).stack
    # Another layer lets less through.
    doses = []
    for facts in ([], ["extra_layers"]):
        piece.facts = facts
        doses.append(trials.pressed_piece(piece, 200.0, library).reached.uptake[0])
    assert doses[1] < doses[0]


def test_a_piece_is_logged_later_than_it_was_pressed(browse, vest):
    then = timezone.localtime() - timedelta(hours=5)
    page = draw(browse)
    assert page.data["pressed_at"] == ""
    page.send(browse, pressed_at=f"{then:%Y-%m-%dT%H:%M:%S}")
    piece = newest()
    assert abs(piece.pressed_at - then) < timedelta(seconds=1)
    assert timezone.now() - piece.logged_at < timedelta(minutes=1)
    assert ", logged " in room.words(browse.get(piece.get_absolute_url()))


@pytest.mark.parametrize("typed", ["9999-01-01T10:00", "1999-01-01T10:00", "yesterday"])
def test_a_time_that_cannot_be_is_refused(browse, vest, typed):
    assert draw(browse).send(browse, pressed_at=typed).status_code == 422


def test_pieces_logged_faster_than_they_are_pressed_are_asked_for_their_times(browse, vest):
    assert draw(browse).send(browse).status_code == 302
    page = draw(browse)
    answer = page.send(browse)
    assert answer.status_code == 422
    assert "Type when this one was pressed" in room.words(answer)
    then = timezone.localtime() - timedelta(minutes=9)
    assert page.send(browse, pressed_at=f"{then:%Y-%m-%dT%H:%M:%S}").status_code == 302


def heated(slug):
    return [step for step in version(slug).heated_steps if step.number is not None]


@pytest.mark.long
def test_every_heated_step_of_every_recipe_can_be_logged(browse, technician, element):
    room.survey(technician, element, truth=lambda x, y: 195.0)
    room.blank(thickness_mm=0.5)
    room.piece(technician, element, days_ago=2)
    logged, kinds = 0, set()
    for recipe in Recipe.objects.all():
        for step in heated(recipe.slug):
            page = draw(browse, step.number, recipe.slug)
            data = {"blank": room.Blank.objects.first().pk, "confirmed": ""}
            answer = page.send(browse, **data)
            if answer.status_code == 422:
                asked = room.soup(answer).select_one("[name=confirmed]")["value"]
                assert asked, room.words(answer)[:1500]
                answer = page.send(browse, **data | {"confirmed": asked})
            assert answer.status_code == 302
            piece = newest()
            assert piece.step_number == step.number
            assert step.low_s <= piece.dwell_s <= step.high_s
            assert step.name in room.words(browse.get(piece.get_absolute_url()), "h1")
            logged, kinds = logged + 1, kinds | {step.step.kind}
            TestPress.objects.filter(pk=piece.pk).update(
                pressed_at=timezone.now() - timedelta(hours=logged)
            )
    assert kinds >= {"pre_press", "laminate", "cure", "hover", "second_press"}


def test_another_step_neither_proves_nor_teaches_the_main_press(browse, vest, element):
    step = next(s for s in version().heated_steps if s.number is not None)
    draw(browse, step.number).send(browse)
    piece = newest()
    assert piece.step_number == step.number
    browse.post(f"/test-presses/{piece.pk}/outcome/", {"outcome": "good", "score_black": "5"})
    assert element.pk not in proven_on(version())
    assert piece not in [p for pairs in trials.trials_by_surface().values() for p, _ in pairs]


def test_a_case_of_another_step_is_held_against_that_step(browse, technician, vest):
    step = next(s for s in version().heated_steps if s.number is not None)
    draw(browse, step.number).send(browse)
    piece = newest()
    room.mark(technician, piece)
    case = build_case(open_case(technician, piece)).case
    assert case.recipe.temperature_c == (step.low_c, step.high_c)
    assert case.recipe.time_s == (step.low_s, step.high_s)
    assert case.actual.heat_through is None
