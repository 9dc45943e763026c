"""Placing guides: measured once, chosen by a job, on paper at 1:1."""

import numpy as np
import pypdfium2
import pytest

from tempermark.core.preparing.size.guide import GuideSize
from tempermark.web.accounts.models import User
from tempermark.web.jobs.models import Job
from tempermark.web.recipes.models import PlacingGuide
from tests.support import room
from tests.web.prepare.test_job_art import begun, vest  # noqa: F401  fixtures

PT_MM = 25.4 / 72
GUIDE = {
    "name": "Vest, chest",
    "blank_kind": "garment",
    "anchor": "top",
    "first_edge": "collar seam",
    "second_edge": "side seam",
    "note": "",
    "size-TOTAL_FORMS": "3",
    "size-INITIAL_FORMS": "0",
    "size-0-size": "M",
    "size-0-first_mm": "75",
    "size-0-second_mm": "",
    "size-0-across_mm": "480",
    "size-1-size": "L",
    "size-1-first_mm": "3 1/4 in",
    "size-1-second_mm": "255",
    "size-1-across_mm": "",
}


@pytest.fixture
def guide(browse):
    browse.post("/placing/new/", GUIDE)
    return PlacingGuide.objects.get()


def test_a_guide_keeps_its_sizes_and_says_where(browse, guide):
    assert [size.size for size in guide.sizes] == ["M", "L"]
    text = room.words(browse.get(guide.get_absolute_url()))
    assert "Top edge of the art 75 mm from the collar seam, its middle 240 mm from the side" in text
    assert "83 mm from the collar seam, its middle 255 mm from the side seam" in text


def test_in_inches_it_is_said_in_inches(browse, guide):
    User.objects.update(length_unit="in")
    assert "Top edge of the art 3 1/4 in from" in room.words(browse.get(guide.get_absolute_url()))


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"size-0-size": ""}, "Name the size."),
        ({"size-0-first_mm": ""}, "Give the distance."),
        ({"size-0-first_mm": "far"}, "is not a number"),
        (
            {f"size-{n}-{k}": "" for n in (0, 1) for k in ("size", "first_mm", "across_mm")}
            | {"size-1-second_mm": ""},
            "Enter at least one size",
        ),
    ],
)
def test_a_guide_that_is_wrong_is_said_and_kept(browse, db, changes, said):
    response = browse.post("/placing/new/", GUIDE | changes)
    assert response.status_code == 422
    assert said in room.words(response)
    assert 'value="Vest, chest"' in response.content.decode()
    assert not PlacingGuide.objects.exists()


def test_a_name_is_given_once(browse, guide):
    response = browse.post("/placing/new/", GUIDE)
    assert "There is a guide of this name" in room.words(response)


def test_it_is_changed_and_retired_and_brought_back(browse, guide):
    page = f"/placing/{guide.pk}/"
    browse.post(f"{page}change/", GUIDE | {"size-0-first_mm": "80"})
    assert PlacingGuide.objects.get().sizes[0].first_mm == 80
    browse.post(f"{page}retire/")
    assert "No longer offered Vest, chest" in room.words(browse.get("/placing/"))
    browse.post(f"{page}retire/", {"back": "1"})
    assert "No longer offered" not in room.words(browse.get("/placing/"))


def test_a_job_takes_a_size_and_its_list_says_where(browse, guide, vest):  # noqa: F811
    text = room.words(browse.get(f"/placing/?job={vest.pk}"))
    # 480 mm across, art of 200 mm: 140 mm on each side.
    assert "140 mm left to the nearer side." in text
    browse.post(f"/jobs/{vest.pk}/guide/", {"guide": f"{guide.pk}:M"})
    assert Job.objects.get().guide_size == "M"
    listed = room.words(browse.get(f"/jobs/{vest.pk}/"))
    assert "75 mm from the collar seam, its middle 240 mm from the side seam." in listed
    browse.post(f"/jobs/{vest.pk}/guide/", {"guide": f"{guide.pk}:XXL"})
    assert Job.objects.get().guide_size == "M"


def test_art_over_the_seam_is_said(browse, guide, vest):  # noqa: F811
    Job.objects.update(art_width_mm=470)
    text = room.words(browse.get(f"/placing/?job={vest.pk}"))
    assert "5 mm left to the nearer side: it lies on the seam." in text


@pytest.mark.parametrize(
    ("size", "middle", "left"),
    [
        (GuideSize("M", 75, None, 480), 240, 140),
        (GuideSize("M", 75, 100, 480), 100, 0),
        (GuideSize("M", 75, 400, 480), 400, -20),
        (GuideSize("M", 75, 100), 100, None),
        (GuideSize("M", 75), None, None),
    ],
)
def test_clearance_is_to_the_nearer_side(size, middle, left):
    assert size.middle_mm == middle
    assert size.clearance_mm(200) == left
    assert size.is_clear(200) == (None if left is None else left >= 15)


def pages(content):
    return pypdfium2.PdfDocument(content)


def test_the_ruler_is_as_long_as_the_distance(browse, guide):
    page = pages(browse.get(f"/placing/{guide.pk}/ruler.pdf?size=M").content)[0]
    wide, high = (side * PT_MM for side in page.get_size())
    # Tab, 75 mm, the arm's foot and air round it.
    assert (wide, high) == pytest.approx((196, 124), abs=0.1)
    # The fold's broken line and the art's line are 75 mm apart: rows with the most ink.
    per_mm = 8
    picture = np.asarray(page.render(scale=per_mm * PT_MM).to_pil().convert("L")) < 128
    inked = picture.sum(axis=1)
    arm = int(np.argmax(inked))
    fold = round((8 + 15) * per_mm)
    assert (arm - fold) / per_mm == pytest.approx(75, abs=0.3)
    assert browse.get(f"/placing/{guide.pk}/ruler.pdf?size=S").status_code == 404


def test_the_platen_on_paper_is_at_full_size_or_in_pages(browse, element):
    one = pages(browse.get("/presses/heron/overlay/", {"sheet": "one"} | BOX).content)
    assert [s * PT_MM for s in one[0].get_size()] == pytest.approx(
        [element.width_mm + 14, element.height_mm + 14], abs=0.1
    )
    many = pages(browse.get("/presses/heron/overlay/", {"sheet": "A4"} | BOX).content)
    across = -(-(element.width_mm - 10) // (210 - 14 - 10))
    deep = -(-(element.height_mm - 10) // (297 - 14 - 10))
    assert len(many) == across * deep
    assert {tuple(round(s * PT_MM) for s in page.get_size()) for page in many} == {(210, 297)}


BOX = {"left_mm": "50", "front_mm": "60", "width_mm": "200", "depth_mm": "240"}


def test_art_over_the_platen_s_edge_is_said(browse, element):
    text = room.words(browse.get("/presses/heron/overlay/", BOX | {"left_mm": "-5"}))
    assert "The art reaches 5.0 mm over the platen’s edge." in text
