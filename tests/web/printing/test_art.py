"""Art: kept from a file, refused with what was typed, shown only as our own picture."""

import io
from uuid import uuid4

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from tempermark.web.printing.models import Art
from tests.support import room
from tests.support.pictures import bomb, encoded, pdf, quartered, svg


def sent(raw, filename="boat.png", **fields):
    file = SimpleUploadedFile(filename, raw)
    return {"file": file, "name": "", "page": "", "once": str(uuid4())} | fields


def test_a_picture_is_kept_and_shown_as_our_own(browse):
    response = browse.post("/art/", sent(encoded(quartered(), dpi=(200, 200))))
    art = Art.objects.get()
    assert response.url == f"/art/{art.pk}/"
    assert (art.name, art.kind, art.width_px, art.height_px) == ("boat", "png", 400, 200)
    assert "400 × 200 pixels" in room.words(browse.get(response.url))
    preview = browse.get(f"/art/{art.pk}/preview.png")
    assert preview["Content-Type"] == "image/png"
    assert Image.open(io.BytesIO(preview.content)).size == (1200, 600)


def test_a_page_of_a_pdf_and_a_drawing(browse):
    browse.post("/art/", sent(pdf(3), "plan.pdf", page="2", name="Bow plan"))
    browse.post("/art/", sent(svg('<rect width="9" height="9"/>'), "tag.svg"))
    drawing, page = Art.objects.all()
    assert (page.name, page.page, page.pages) == ("Bow plan", 2, 3)
    assert (drawing.kind, round(drawing.width_mm)) == ("svg", 100)
    assert "page 2 of 3" in room.words(browse.get(page.get_absolute_url()))


@pytest.mark.parametrize(
    ("raw", "why"),
    [
        (svg("<script/>"), "which runs or loads something"),
        (svg('<image href="http://127.0.0.1/x.png"/>'), "loads something from elsewhere"),
        (bomb(), "pixels are too many"),
        (pdf(100), "has 100 pages"),
        (b"", "no art that can be read"),
    ],
)
def test_what_is_refused_says_why_and_keeps_the_name(browse, raw, why):
    response = browse.post("/art/", sent(raw, name="Crew list"))
    assert response.status_code == 422
    assert why in room.words(response)
    assert 'value="Crew list"' in response.content.decode()
    assert not Art.objects.exists()


def test_art_is_found_by_its_name_and_taken_out_of_the_list(browse):
    for name in ("Bow four", "Oar tag"):
        browse.post("/art/", sent(encoded(quartered()), name=name))
    found = room.words(browse.get("/art/?find=oar"))
    assert "Oar tag" in found
    assert "Bow four" not in found
    art = Art.objects.get(name="Oar tag")
    browse.post(f"/art/{art.pk}/retire/")
    assert "No art is called “oar”" in room.words(browse.get("/art/?find=oar"))
    browse.post(f"/art/{art.pk}/retire/", {"back": "1"})
    assert "Oar tag" in room.words(browse.get("/art/"))


def test_a_clerk_looks_and_adds_nothing(browse_as, clerk):
    browser = browse_as(clerk)
    assert browser.get("/art/").status_code == 200
    assert browser.post("/art/", sent(encoded(quartered()))).status_code == 403
    assert not Art.objects.exists()
