"""Art from outside: what is kept of it, how sharp it is, and what is refused."""

import io

import pytest
from PIL import Image

from tempermark.core.errors import InputError
from tempermark.files.art import artwork
from tempermark.files.art.artwork import drawn, effective_dpi, read_artwork
from tempermark.files.art.drawing import TEXT_NOTE
from tests.support.pictures import bomb, encoded, pdf, quartered, svg


def dpi_of(found):
    """What the sharpness of art hangs on."""
    width = found.size_px[0] if found.size_px else None
    return width, found.size_mm[0] if found.size_mm else None, found.inner_dpi


def test_a_png_keeps_its_pixels_and_nothing_else():
    raw = encoded(quartered(), dpi=(200, 200), pnginfo=None)
    found = read_artwork(raw)
    assert (found.kind, found.size_px) == ("png", (400, 200))
    assert found.size_mm == pytest.approx((50.8, 25.4), abs=0.01)
    assert Image.open(io.BytesIO(found.data)).info == {}
    assert effective_dpi(*dpi_of(found), 50.8) == pytest.approx(200, rel=1e-3)
    assert effective_dpi(*dpi_of(found), 101.6) == pytest.approx(100, rel=1e-3)


def test_a_camera_s_picture_is_turned_upright_and_loses_its_place():
    exif = Image.Exif()
    exif[0x0112] = 6  # taken with the camera on its side
    exif[0x010F] = "a camera"
    found = read_artwork(encoded(quartered(), "JPEG", exif=exif))
    assert (found.kind, found.size_px) == ("jpeg", (200, 400))
    assert not Image.open(io.BytesIO(found.data)).getexif()


def test_cmyk_is_converted_and_says_so():
    found = read_artwork(encoded(quartered().convert("CMYK"), "JPEG"))
    assert "CMYK" in found.notes[0]
    assert Image.open(io.BytesIO(found.data)).mode == "RGB"


def test_a_drawing_is_sharp_at_any_size_and_drawn_where_it_is():
    found = read_artwork(svg('<rect x="0" y="0" width="100" height="50" fill="#f00"/>'))
    assert (found.kind, found.size_mm, found.notes) == ("svg", (100.0, 50.0), ())
    assert effective_dpi(*dpi_of(found), 3000) is None
    picture = drawn("svg", found.data, 1000, 500).convert("RGBA")
    assert picture.size == (1000, 500)
    assert picture.getpixel((499, 249)) == (255, 0, 0, 255)
    assert picture.getpixel((501, 251))[3] == 0


def test_a_drawing_with_text_says_what_to_check():
    assert read_artwork(svg('<text x="1" y="9">Bow 4</text>')).notes == (TEXT_NOTE,)


@pytest.mark.parametrize(
    ("attributes", "size"),
    [
        ('width="2in" height="1in"', (50.8, 25.4)),
        ('viewBox="0 0 96 48"', (25.4, 12.7)),
        ('width="10cm" viewBox="0 0 4 1"', (100.0, 25.0)),
        ('width="72pt" height="6pc"', (25.4, 25.4)),
    ],
)
def test_a_drawing_s_own_size(attributes, size):
    assert read_artwork(svg("", attributes)).size_mm == pytest.approx(size)


def test_one_page_of_a_pdf_is_kept():
    found = read_artwork(pdf(3), page=2)
    assert (found.kind, found.page, found.pages) == ("pdf", 2, 3)
    assert found.size_mm == pytest.approx((105.83, 70.56), abs=0.01)
    picture = drawn("pdf", found.data, 600, 400)
    assert picture.getpixel((50, 350)) == (0, 0, 0)
    assert picture.getpixel((500, 100)) == (255, 255, 255)
    assert read_artwork(found.data).pages == 1


REFUSED = {
    "a script": (svg("<script>alert(1)</script>"), "script"),
    "an event": (svg("", 'width="9" height="9" onload="x()"'), "onload"),
    "a picture from elsewhere": (svg('<image href="http://127.0.0.1/a.png"/>'), "elsewhere"),
    "a file of the server": (svg('<image xlink:href="file:///etc/hostname"/>'), "elsewhere"),
    "a style from elsewhere": (svg("<style>@import 'x.css'</style>"), "elsewhere"),
    "a paint from elsewhere": (svg('<rect fill="url(http://x/#a)"/>'), "elsewhere"),
    "a page inside": (svg("<foreignObject/>"), "foreignObject"),
    "movement": (svg("<animate/>"), "moves"),
    "a base": (svg('<g xml:base="http://x/"/>'), "where to load"),
    "entities": (b'<!DOCTYPE svg [<!ENTITY a "b">]>' + svg("&a;"), "entities"),
    "a broken drawing": (b"<svg><g></svg>", "cannot|can be read"),
    "another XML": (b"<html/>", "not a drawing"),
    "a drawing without a size": (svg("", ""), "no size"),
    "a part inside itself": (svg('<g id="a"><use href="#a"/></g>'), "inside itself"),
    "a text": (b"hello", "no art"),
    "nothing": (b"", "no art"),
    "half a picture": (encoded(quartered())[:200], "damaged"),
    "a picture bomb": (bomb(), "50000 × 50000 pixels"),
    "a broken page": (b"%PDF-1.4 nothing", "damaged or locked"),
    "a hundred pages": (pdf(100), "has 100 pages"),
}


@pytest.mark.parametrize("name", REFUSED)
def test_what_is_refused_says_why(name):
    raw, why = REFUSED[name]
    with pytest.raises(InputError, match=why):
        read_artwork(raw)


def test_repeats_of_repeats_are_counted_before_anything_is_drawn():
    groups = '<g id="a0"><rect/></g>' + "".join(
        f'<g id="a{n}">' + f'<use xlink:href="#a{n - 1}"/>' * 10 + "</g>" for n in range(1, 9)
    )
    with pytest.raises(InputError, match="repeats its parts"):
        read_artwork(svg(groups))


def test_a_page_that_is_not_there():
    with pytest.raises(InputError, match="no page 4: the PDF has 2"):
        read_artwork(pdf(2), page=4)


def test_a_file_over_the_limit(monkeypatch):
    monkeypatch.setattr(artwork, "MOST_BYTES", 100)
    with pytest.raises(InputError, match="Save it smaller"):
        read_artwork(encoded(quartered()))


def test_more_pixels_than_are_drawn():
    with pytest.raises(InputError, match="million at most"):
        drawn("png", encoded(quartered()), 100_000, 100_000)
