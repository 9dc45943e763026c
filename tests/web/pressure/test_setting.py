"""Learning a press and setting it for a blank: turns, lines, figures, and what is refused."""

import re
from datetime import timedelta

import pytest
from django.utils import timezone

from tempermark.core.pressure.press.knob import learn_knob
from tempermark.web.accounts.models import User
from tempermark.web.presses.models import Press
from tempermark.web.pressure import actions, mapping, queries
from tempermark.web.pressure.models import ContactReading, KnobLesson, PressureState
from tests.support import room

SHIMS = [(0.0, 2.0), (1.0, 2.75), (2.0, 3.625), (4.0, 5.25)]
PAGE = "/presses/heron/pressure/"


@pytest.fixture
def press(element):
    Press.objects.update(mechanism="knob", pad="silicone", pad_mm=8.0)
    return Press.objects.get()


@pytest.fixture
def tee(db):
    return room.blank(name="Tee", kind="garment", thickness_mm=0.5, width_mm=480, height_mm=560)


@pytest.fixture
def hoodie(db):
    return room.blank(name="Hoodie", kind="garment", thickness_mm=2.0)


def lesson(browse, rows):
    data = {"form-TOTAL_FORMS": "4", "form-INITIAL_FORMS": "0"}
    for i, (mm, turns) in enumerate(rows):
        data |= {f"form-{i}-shim_mm": str(mm), f"form-{i}-turns": str(turns)}
    return browse.post(f"{PAGE}learn/", data)


def ask(browse, blank, **more):
    given = {
        "blank": blank.pk,
        "layers": 2,
        "sheets_mm": "0.3",
        "pillow_mm": "0",
        "wanted": "medium",
    }
    return browse.get(PAGE, given | more)


def set_so(browse, response):
    form = room.soup(response).select_one("#summary form[action$='/set/']")
    return browse.post(form["action"], {f["name"]: f["value"] for f in form.select("input[name]")})


def test_an_unlearned_knob_asks_for_a_session(browse, press, tee):
    text = room.words(ask(browse, tee))
    assert "Set Heron by feel for Tee: medium." in text
    assert "all four should drag" in text
    assert "Learn it with shims" in text


def test_an_unlearned_knob_is_set_by_feel_and_kept(browse, press, tee):
    """What an inch person confirms is the same stack; the next stack says which way to go."""
    User.objects.update(length_unit="in", pressure_unit="psi")
    sheets = {"sheets_mm": "0.3 mm"}
    form = room.soup(ask(browse, tee, **sheets)).select_one("form[action$='/set/']")
    browse.post(f"{PAGE}set/", {i["name"]: i["value"] for i in form.select("input[name]")})
    state = queries.state(press)
    assert state.position_turns is None
    assert state.stack_mm == pytest.approx(2 * 0.5 + 0.3)
    assert "Leave Heron’s knob where it is" in room.words(ask(browse, tee, **sheets))
    hood = room.blank(name="Hood", thickness_mm=4.0)
    text = room.words(ask(browse, hood, **sheets))
    assert "Back off, then set Heron by feel: Hood is thicker" in text


def test_a_session_tells_lift_and_direction(browse, press, tee):
    assert lesson(browse, SHIMS).status_code == 302
    text = room.words(browse.get(f"{PAGE}learn/"))
    assert "lifts 1.22 mm a turn; counter-clockwise tightens" in text
    assert mapping.knob_of(press).tightens == "counterclockwise"
    assert "From the touch point tighten" in room.words(ask(browse, tee))


@pytest.mark.parametrize(
    ("rows", "said"),
    [
        ([(0, 1), (1, 1), (2, 1)], "no lift per turn follows"),
        ([(0, 1)], "two at least"),
        ([(-1, 1), (2, 2)], "Right is 0 to 60 mm"),
        ([("thick", 1), (2, 2)], "is not a number"),
        ([(0, ""), (2, 2)], "This row needs its other number too"),
        ([(0, 0), (1, 0.8), (2, 5), (3, 2.4)], "off the line of the others"),
    ],
)
def test_a_session_that_teaches_nothing_is_said_and_kept(browse, press, rows, said):
    response = lesson(browse, rows)
    assert response.status_code == 422
    assert said in room.words(response)
    kept = room.soup(response).select_one("[name=form-0-shim_mm]")["value"]
    assert kept == str(rows[0][0])
    assert not KnobLesson.objects.exists()


def test_a_thicker_piece_is_backed_off_in_the_presss_own_sense(browse, press, tee, hoodie):
    lesson(browse, SHIMS)
    set_so(browse, ask(browse, tee))
    text = room.words(ask(browse, hoodie))
    turns = re.search(r"Back off (\S+)\sturns?, clockwise on this press", text)
    assert turns, text
    assert "Left unchanged, this piece gets" in text
    assert "more than firm. That marks cloth" in text
    # 3 mm more at 1.22 mm a turn are 2.46 turns; both places are rounded to an eighth.
    assert turns[1] in ("2⅜", "2½")


def test_a_hinged_press_left_as_it_is_pinches_at_its_back(browse, press, tee, hoodie):
    Press.objects.update(kind="clamshell")
    lesson(browse, SHIMS)
    set_so(browse, ask(browse, tee))
    # 3 mm more on 500 mm, hinge 60 mm behind: 3 · 500 / 310.
    assert "The hinge closes the back up to 4.8 mm tighter" in room.words(ask(browse, hoodie))


def test_for_a_then_b_then_a_the_knob_stands_where_it_stood(browse, press, tee, hoodie):
    lesson(browse, SHIMS)
    stood = []
    for blank in (tee, hoodie, tee, hoodie):
        set_so(browse, ask(browse, blank))
        stood.append(queries.state(press).position_turns)
    assert stood[0] == stood[2]
    assert stood[1] == stood[3]
    assert stood[0] > stood[1]


def test_threading_presses_one_layer(browse, press, hoodie):
    lesson(browse, SHIMS)
    both = room.words(ask(browse, hoodie))
    one = room.words(ask(browse, hoodie, layers=1))
    assert "for a stack of 4.3 mm" in both
    assert "for a stack of 2.3 mm" in one


def test_a_pillow_counts_as_it_is_pressed(browse, press, tee):
    lesson(browse, SHIMS)
    text = room.words(ask(browse, tee, pillow_mm="10"))
    assert "pillow of 10 mm, as pressed" in text
    assert "for a stack of 6." in text


def test_the_last_setting_can_be_taken_back(browse, press, tee, hoodie):
    lesson(browse, SHIMS)
    set_so(browse, ask(browse, tee))
    set_so(browse, ask(browse, hoodie))
    browse.post(f"{PAGE}take-back/")
    assert queries.state(press).blank == tee


def test_the_same_form_twice_is_one_setting(browse, press, tee):
    lesson(browse, SHIMS)
    page = ask(browse, tee)
    set_so(browse, page)
    set_so(browse, page)
    assert PressureState.objects.count() == 1


def test_a_new_session_starts_positions_anew(browse, press, tee):
    lesson(browse, SHIMS)
    set_so(browse, ask(browse, tee))
    lesson(browse, [(0, 0), (2, 1.5)])
    assert queries.state(press) is None
    browse.post(f"/knob-lessons/{queries.lesson(press).pk}/withdraw/", {"why": "a shim misread"})
    assert queries.lesson(press).lift_mm_per_turn == pytest.approx(
        learn_knob(*room.columns(SHIMS)).lift_mm_per_turn
    )


def test_by_feel_the_register_and_one_good_setting_are_enough(browse, press, tee, hoodie):
    Press.objects.update(lift_mm_per_turn=1.5, tightens="clockwise")
    first = ask(browse, tee)
    assert "Set Heron by feel for this piece once" in room.words(first)
    set_so(browse, first)
    text = room.words(ask(browse, hoodie))
    assert "Back off 2 turns, counter-clockwise on this press." in text
    assert "depends on how it was first set by feel" in text


def test_a_load_cell_teaches_the_pads_stiffness(browse, press, tee):
    lesson(browse, SHIMS)
    set_so(browse, ask(browse, tee))
    before = room.words(ask(browse, tee))
    reading = {"means": "load_cell", "contact_kpa": "50", "stack_mm": "1.3"}
    assert browse.post(f"{PAGE}readings/", reading).status_code == 302
    after = room.words(ask(browse, tee))
    assert before != after
    assert "48 kPa ± 25 %" in before
    assert "± 5 %" in after
    browse.post(f"/contact-readings/{ContactReading.objects.get().pk}/withdraw/")
    assert "48 kPa ± 25 %" in room.words(ask(browse, tee))


def pneumatic(**more):
    fields = {"mechanism": "pneumatic", "cylinder_mm": 100.0, "cylinders": 1, "line_kpa": 550.0}
    Press.objects.update(**fields | more)


def test_a_line_pressure_is_dialled(browse, press, tee):
    pneumatic()
    text = room.words(ask(browse, tee))
    # 32.5 kPa over 400 × 500 mm: 6500 N of 7.854 N a kPa, 5 % lost in seals.
    assert "Set Heron’s air to 870 kPa." in text
    assert "medium" in text


def test_above_the_rating_is_refused_with_the_reason(browse, press, tee):
    pneumatic(max_line_kpa=700.0)
    page = ask(browse, tee)
    text = room.words(page)
    assert "Heron cannot press Tee medium." in text
    assert "rated for 700 kPa: never set more" in text
    assert "At 700 kPa this blank gets 26 kPa" in text
    assert room.soup(page).select_one("#summary form[action$='/set/']") is None


def test_a_small_rigid_blank_takes_all_the_force_and_has_its_limit(browse, press, db):
    pneumatic()
    plate = room.blank(
        name="Glass plate", kind="glass", thickness_mm=3, width_mm=200, height_mm=150, limit_kpa=25
    )
    text = room.words(ask(browse, plate, layers=1))
    assert "takes all of the force, 6.7 times the pressure of the whole platen" in text
    assert "Left unchanged, this piece gets 137 kPa" in text
    assert "Do not close Heron on Glass plate as it is set now" in text
    assert "takes at most 25 kPa" in text


def test_a_scale_is_believed_until_it_is_read(browse, press, tee):
    Press.objects.update(mechanism="scale")
    text = room.words(ask(browse, tee))
    assert "scale shows 5.1" in text or "scale shows 5.0" in text
    assert "has never been checked with a load cell" in text
    for figure, kpa in ((3, 12), (5, 22), (8, 38)):
        data = {"means": "load_cell", "contact_kpa": kpa, "figure": figure}
        browse.post(f"{PAGE}readings/", data)
    text = room.words(ask(browse, tee))
    assert re.search(r"scale shows 7\.[0-4]", text), text
    assert "was never read" not in text


def test_a_reading_that_makes_the_scale_fall_is_refused(browse, press):
    Press.objects.update(mechanism="scale")
    for figure, kpa in ((2, 60), (5, 30)):
        browse.post(
            f"{PAGE}readings/", {"means": "load_cell", "contact_kpa": kpa, "figure": figure}
        )
    data = {"means": "load_cell", "contact_kpa": 8, "figure": 8}
    response = browse.post(f"{PAGE}readings/", data)
    assert response.status_code == 422
    assert "A higher figure would press less" in room.words(response)
    assert room.soup(response).select_one("[name=contact_kpa]")["value"] == "8"


def test_hand_and_lever_say_how_little_is_known(browse, press, tee):
    Press.objects.update(mechanism="hand")
    assert "Lean on Heron with straight arms" in room.words(ask(browse, tee))
    Press.objects.update(mechanism="toggle")
    assert "Pull strips to see how hard Heron’s lever presses" in room.words(ask(browse, tee))


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"pillow_mm": "-3"}, "Pillow: -3 is out of range"),
        ({"sheets_mm": "thin"}, "is not a number"),
        ({"layers": "7"}, "Layers"),
        ({"wanted": "crushing"}, "Pressure"),
    ],
)
def test_a_wrong_load_is_said_and_kept(browse, press, tee, more, said):
    lesson(browse, SHIMS)
    page = ask(browse, tee, **more)
    assert said in room.words(page)
    name, value = next(iter(more.items()))
    field = room.soup(page).select_one(f"#load [name={name}]")
    assert field.get("value", value) == value


def test_without_blanks_the_page_says_so(browse, press):
    assert "There is no blank yet." in room.words(browse.get(PAGE))


def test_another_blank_brings_its_own_layers(browse, press, tee):
    lesson(browse, SHIMS)
    plate = room.blank(name="Plate", kind="hardboard", thickness_mm=3.2)
    given = {"blank": plate.pk, "shown": tee.pk, "layers": 2, "sheets_mm": "0.3"}
    page = room.soup(browse.get(PAGE, given | {"pillow_mm": "0", "wanted": "medium"}))
    assert page.select_one("#load [name=layers] [selected]")["value"] == "1"


def test_a_clerk_looks_and_sets_nothing(client, clerk, press, tee):
    client.force_login(clerk)
    page = ask(client, tee)
    assert room.soup(page).select_one("form[action$='/set/']") is None
    data = {"blank": tee.pk, "layers": 1, "sheets_mm": "0", "pillow_mm": "0", "wanted": "medium"}
    assert client.post(f"{PAGE}set/", data).status_code == 403
    assert client.post(f"{PAGE}take-back/").status_code == 403
    assert lesson(client, SHIMS).status_code == 403


def test_wear_counts_closings_and_hardness(browse, technician, press, element, tee):
    Press.objects.update(pad_since="2026-01-01", pad_life_closings=1000)
    room.piece(technician, element, closures=3)
    assert "3 of 1 000 closings" in room.words(browse.get(f"{PAGE}wear/"))
    note = {"part": "pad", "closings": "300", "hardness": "30", "text": "counter"}
    assert browse.post(f"{PAGE}wear/", note).status_code == 302
    actions.note_wear(technician, press, {"part": "pad", "hardness": 46.0, "text": ""})
    text = room.words(browse.get(f"{PAGE}wear/"))
    assert "Change the pad: it is past its hardness (303 of 1 000 closings)" in text
    empty = browse.post(f"{PAGE}wear/", {"part": "pad"})
    assert "Give a hardness, closings, or what was seen." in room.words(empty)


def test_closings_noted_at_once_are_spread_over_the_time_they_took(technician, press):
    today = timezone.localdate()
    Press.objects.update(pad_since=today - timedelta(days=400), pad_life_closings=20_000)
    press.refresh_from_db()
    note = {"part": "pad", "closings": 16_000, "text": "counter"}
    actions.note_wear(technician, press, note)
    told = queries.wear(press, "pad", today)
    # 40 a day over 400 days: 4000 more last about 100 days.
    assert told.closings == 16_000
    assert (told.due_on - today).days == pytest.approx(100, abs=2)


def test_a_withdrawn_session_leaves_the_register_as_it_was(browse, press):
    Press.objects.update(lift_mm_per_turn=1.5, tightens="clockwise")
    lesson(browse, SHIMS)
    press.refresh_from_db()
    assert mapping.knob_of(press).tightens == "counterclockwise"
    browse.post(f"/knob-lessons/{queries.lesson(press).pk}/withdraw/", {"why": "a shim misread"})
    press.refresh_from_db()
    knob = mapping.knob_of(press)
    assert (knob.lift_mm_per_turn, knob.tightens) == (1.5, "clockwise")


def on_hand_plate(**fields):
    """A small plate pressed by hand."""
    Press.objects.update(mechanism="hand", kind="handheld", **fields)
    plate = Press.objects.get().elements.get()
    plate.width_mm, plate.height_mm = 120.0, 120.0
    plate.save()
    return Press.objects.get()


def test_a_hand_plate_knows_its_own_weight(browse, press, tee):
    on_hand_plate()
    assert "How heavy is Heron’s plate by itself?" in room.words(ask(browse, tee, wanted="resting"))
    on_hand_plate(plate_kg=2.0)
    text = room.words(ask(browse, tee, wanted="resting"))
    # 2 kg · 9.81 m/s² on 120 × 120 mm.
    assert "Rest Heron on the piece and do not lean. That gives resting" in text
    assert "1.4 kPa" in text


def test_a_kitchen_scale_teaches_a_person_s_own_lean(
    browse, browse_as, technician, lead, press, tee
):
    on_hand_plate(plate_kg=2.0)
    guess = room.words(ask(browse, tee))
    assert "at a guess" in guess
    learn = "/presses/heron/pressure/lean/"
    assert "kitchen scale" in room.words(browse.get("/presses/heron/pressure/learn/"))
    wrong = browse.post(learn, {"kg": "0"})
    assert wrong.status_code == 422
    assert browse.post(learn, {"kg": "44"}).status_code == 302
    known = room.words(ask(browse, tee))
    # (44 + 2) kg on 0.0144 m² are 31 kPa.
    assert "Lean on Heron as you did on the scale, 44 kg." in known
    assert "31 kPa" in known
    light = room.words(ask(browse, tee, wanted="light"))
    assert "Lean less hard on Heron than on the scale: about 18 kg." in light
    # Nobody else leans like that, and a slip is withdrawn.
    assert "at a guess" in room.words(ask(browse_as(lead), tee))
    reading = queries.lean(press, technician)
    browse.post(f"/leans/{reading.pk}/withdraw/")
    assert "at a guess" in room.words(ask(browse, tee))


def test_a_brittle_blank_that_would_break_is_the_first_thing_said(browse, press):
    Press.objects.update(
        mechanism="pneumatic", cylinder_mm=100.0, cylinders=1, line_kpa=600.0, max_line_kpa=700.0
    )
    glass = room.blank(name="Pane", kind="glass", width_mm=80, height_mm=80, like="frosted_glass")
    page = room.soup(ask(browse, glass, wanted="medium"))
    first = page.select_one("#summary > *")
    assert "Do not close Heron on Pane as it is set now" in first.text
    assert "It would break: Pane takes at most" in first.text


def test_a_stack_far_too_thick_for_a_hinge_does_not_close(browse, press, tee):
    Press.objects.update(kind="clamshell", lift_mm_per_turn=1.5, tightens="clockwise")
    lesson(browse, SHIMS)
    set_so(browse, ask(browse, tee))
    thick = room.blank(name="Block", kind="wood", thickness_mm=11.0)
    text = room.words(ask(browse, thick, layers=1))
    assert "The hinge would pinch the back so hard that the press does not close" in text
    assert "mm tighter at its back" not in text
