"""Pictures from outside: only pixels stay, and nothing that is no picture gets in."""

import io
import struct
import zlib

import pytest
from PIL import Image

from tempermark.core.errors import InputError
from tempermark.web.kit.drawing.pictures import LONGEST_SIDE, SMALL_SIDE, remade

ORIENTATION, CAMERA = 274, 272


def picture(kind="JPEG", size=(60, 40), mode="RGB", colour=(200, 30, 30), **options):
    out = io.BytesIO()
    Image.new(mode, size, colour).save(out, kind, **options)
    return out.getvalue()


def opened(data):
    return Image.open(io.BytesIO(data))


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_each_kind_comes_out_as_a_plain_jpeg(kind):
    large, small, size = remade(picture(kind))
    assert (opened(large).format, size) == ("JPEG", (60, 40))
    assert opened(small).size == (60, 40)


def test_it_is_turned_upright_and_forgets_where_it_was_taken():
    notes = Image.Exif()
    notes[ORIENTATION], notes[CAMERA] = 6, "camera of someone"
    notes.get_ifd(0x8825)[1] = "N"
    large, _, size = remade(picture(exif=notes))
    assert size == (40, 60)
    assert not dict(opened(large).getexif())
    assert b"camera of someone" not in large


def test_large_ones_are_made_smaller_and_keep_their_proportions():
    large, small, size = remade(picture(size=(4000, 2000)))
    assert size == opened(large).size == (LONGEST_SIDE, LONGEST_SIDE // 2)
    assert max(opened(small).size) == SMALL_SIDE


def test_what_is_clear_becomes_white():
    large, _, _ = remade(picture("PNG", mode="RGBA", colour=(0, 0, 0, 0)))
    assert min(opened(large).getpixel((5, 5))) > 250


def bomb():
    """A PNG of a few bytes that says it is 60,000 × 60,000."""
    head = struct.pack(">IIBBBBB", 60_000, 60_000, 8, 2, 0, 0, 0)

    def chunk(name, data):
        return (
            struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))
        )

    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(b"\0"))
        + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    ("raw", "told"),
    [
        (b"", "not a picture"),
        (
            b"<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>",
            "not a picture",
        ),
        (b"GIF89a" + b"\0" * 40, "not a picture"),
        (picture()[:300], "damaged|no picture"),
        (bomb(), "not a picture|too many"),
        (b"\xff\xd8" + b"\0" * (12 * 2**20), "at most 12 MB"),
    ],
)
def test_what_is_no_picture_is_refused_with_the_reason(raw, told):
    with pytest.raises(InputError, match=told):
        remade(raw)


def test_a_script_hidden_behind_a_picture_does_not_survive():
    large, small, _ = remade(picture() + b"<script>alert(1)</script>")
    assert b"<script>" not in large + small
