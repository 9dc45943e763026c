"""What pieces and traces teach: shown first, accepted by a lead, held everywhere, taken back."""

import re
from io import StringIO

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from tempermark.core.thermal.library.receivers import receivers
from tempermark.stand_ins.stack_trace import trace_under
from tempermark.web.heat.lessons import held, learning
from tempermark.web.heat.models import Lesson, StackTrace
from tempermark.web.recipes.models import RecipeVersion
from tempermark.web.run.pieces import actions as runs
from tests.support import room

LEARN = "/lessons/"
CLOTH = receivers()["polyester_cloth"]
ACCEPT, REVERT = (f"/lessons/polyester_cloth/{act}/" for act in ("accept", "revert"))


@pytest.fixture
def scored(technician, element):
    """Three pieces on a measured press, darker than the surface's own law says."""
    room.survey(technician, element, truth=lambda x, y: 195.0)
    room.blank(thickness_mm=0.5)
    pieces = []
    for dwell_s, density in ((14.0, 0.75), (20.0, 0.93), (30.0, 0.98)):
        piece = room.piece(technician, element, dwell_s=dwell_s, set_c=200.0)
        pieces.append(
            runs.score(technician, piece, runs.Scored("good", scores={"black": 5}, density=density))
        )
    return pieces


def law():
    return held.law_of(CLOTH, held.holding("polyester_cloth"))[0]


def outcome(browse, element):
    page = browse.get("/recipes/dye-on-a-polyester-vest/heat/uncertainty/?press=heron")
    return float(re.search(r"uptake (\d+\.\d+)", " ".join(room.soup(page).get_text().split()))[1])


def test_a_change_is_shown_accepted_held_and_taken_back(browse, browse_as, lead, element, scored):
    told = room.words(browse.get(LEARN))
    assert "New lessons about polyester cloth" in told
    assert "Ask a lead to accept it" in told
    assert browse.post(ACCEPT).status_code == 403
    before = outcome(browse, element)
    leads = browse_as(lead)
    leads.post(ACCEPT)
    assert law().rate_per_s > 1.2 * CLOTH.law.rate_per_s
    assert outcome(browse, element) > before
    assert "Nothing new to accept" in room.words(browse.get(LEARN))
    leads.post(REVERT)
    assert law() == CLOTH.law
    assert outcome(browse, element) == before
    assert Lesson.objects.get().withdrawn_at is not None
    assert leads.post(REVERT).status_code == 404


def test_a_doubt_learned_away_narrows_the_interval(browse, browse_as, lead, element, scored):
    def width():
        page = browse.get("/recipes/dye-on-a-polyester-vest/heat/uncertainty/?press=heron")
        low, high = re.search(r": (\d+)\s% to (\d+)\s% of full", room.words(page, "p")).groups()
        return int(high) - int(low)

    before = width()
    browse_as(lead).post(ACCEPT)
    assert width() < before


def test_pieces_without_a_map_or_a_score_teach_nothing(browse, technician, element):
    room.blank(thickness_mm=0.5)
    piece = room.piece(technician, element)
    runs.score(technician, piece, runs.Scored("good", scores={"black": 5}))
    assert "Nothing new to accept" in room.words(browse.get(LEARN))
    assert "Score the black of test presses made on a surveyed press" in room.words(
        browse.get(LEARN)
    )


def test_a_coat_teaches_apart_from_cloth(technician, element, scored):
    plate = room.blank(name="Plate", kind="panel", coating="factory", thickness_mm=1.1)
    version = RecipeVersion.objects.get(recipe__slug="dye-on-a-coated-aluminium-panel")
    panel = room.piece(technician, element, recipe=version, blank=plate, stack=version.stack)
    runs.score(technician, panel, runs.Scored("good", scores={"black": 5}))
    assert learning.learned("polyester_cloth").taught.pieces == 3
    assert learning.learned("coat_on_panel").taught.pieces == 1


def trace_fields(element, text, **more):
    version = RecipeVersion.objects.get(recipe__slug="dye-on-a-polyester-vest")
    given = {
        "recipe": version.pk,
        "element": element.pk,
        "blank": version.recipe.versions.first() and room.Blank.objects.get().pk,
        "set_c": "200",
        "contact_kpa": "32",
        "humidity": "50",
        "place": "transfer",
        "readings": text,
    }
    return given | more


def made_up(**more):
    times, shown = trace_under(np.random.default_rng(3), true_c=200.0, dwell_s=40.0, **more)
    out = StringIO()
    for at, value in zip(times, shown, strict=True):
        out.write(f"{at:.1f}, {value:.1f}\n")
    return out.getvalue()


def test_a_trace_teaches_contacts_and_sheets(browse, browse_as, lead, technician, element, scored):
    room.survey(technician, element, truth=lambda x, y: 200.0, set_c=200.0, target_c=200.0)
    assert (
        browse.post(reverse("heat:new-trace"), trace_fields(element, made_up())).status_code == 302
    )
    told = room.words(browse.get(LEARN))
    missed = re.search(r"misses the traces by (\S+) K before and (\S+) K after", told)
    assert float(missed[2]) < float(missed[1])
    browse_as(lead).post("/lessons/heat/accept/")
    assert held.holding("heat").values["contact_factor"] > 1.05
    trace = StackTrace.objects.get()
    browse.post(reverse("heat:turn-trace", args=[trace.pk]))
    assert "left out" in room.words(browse.get(LEARN))


def test_a_trace_comes_as_a_file(browse, element, scored):
    file = SimpleUploadedFile("trace.csv", ("s, °C\n" + made_up()).encode())
    fields = trace_fields(element, "", file=file)
    assert browse.post(reverse("heat:new-trace"), fields).status_code == 302
    assert len(StackTrace.objects.get().time_s) == 80


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "Send a file, or type its lines"),
        ("1, 50\n2, sixty\n3, 70", "Line 2, “2, sixty”"),
        ("1, 50\n2, 60", "At least 5 readings"),
        ("1, 5000\n" * 6, "0 to 1800 s and -20 to 400 °C"),
        ("1, 50\n" * 6, "after each other"),
    ],
)
def test_a_wrong_trace_is_said_and_kept(browse, element, scored, text, said):
    response = browse.post(reverse("heat:new-trace"), trace_fields(element, text))
    assert response.status_code == 422
    assert said in room.words(response)
    assert room.soup(response).select_one("[name=readings]").text.strip() == text.strip()
