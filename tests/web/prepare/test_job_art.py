"""A job's art: under the blank's outline, at 1:1 on paper, and how two jobs differ."""

from uuid import uuid4

import pypdfium2
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tempermark.web.jobs import actions
from tempermark.web.jobs.models import Job
from tempermark.web.printing.models import PrintSettings, PrintSettingsVersion
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import RecipeVersion
from tests.support import room
from tests.support.pictures import encoded, quartered

PANEL, VEST = "dye-on-a-large-coated-aluminium-panel", "dye-on-a-polyester-vest"
PT_MM = 25.4 / 72


@pytest.fixture
def begun(technician, element):
    load_shipped_recipes()

    def begin(recipe, size, blank):
        version = RecipeVersion.objects.filter(recipe__slug=recipe).first()
        return actions.begin(
            technician,
            {
                "recipe": version,
                "blank": blank,
                "press": element.press,
                "art_width_mm": size[0],
                "art_height_mm": size[1],
            },
            uuid4(),
        )

    return begin


@pytest.fixture
def board(begun):
    return begun(PANEL, (380, 300), room.board())


@pytest.fixture
def vest(begun):
    return begun(VEST, (200, 240), room.blank(name="Vest"))


def load(browse, job, size=(3000, 1500), **fields):
    raw = SimpleUploadedFile("boat.png", encoded(quartered(*size)))
    return browse.post(f"/jobs/{job.pk}/art/", {"file": raw, "once": str(uuid4())} | fields)


def place(browse, job, **fields):
    data = {"act": "place", "units": "c-mm-kpa-ml-g", "once": str(uuid4())} | fields
    return browse.post(f"/jobs/{job.pk}/art/", data, headers={"HX-Request": "true"})


def test_new_art_covers_a_board_with_its_bleed(browse, board):
    load(browse, board)
    job = Job.objects.get()
    # The board needs 383.6 × 303.2 mm; art twice as wide as high is as high as that.
    assert (job.art_width_mm, job.art_height_mm) == pytest.approx((606.5, 303.2), abs=0.1)
    text = room.words(browse.get(f"/jobs/{job.pk}/art/"))
    assert "The art covers the blank and its bleed." in text
    assert "126 dpi at this size: sharp at arm’s length." in text
    assert "read backwards" in text


def test_an_outline_beside_the_art_says_where_white_shows(browse, board):
    load(browse, board)
    response = place(browse, board, width_mm="606.3", left_mm="-5", top_mm="1.6")
    assert "White will show: the art is 6.8 mm short at the left." in room.words(
        response, "#placed"
    )
    job = Job.objects.get()
    assert (job.outline_left_mm, job.outline_top_mm) == (-5, 1.6)
    browse.post(f"/jobs/{job.pk}/art/", {"act": "cover", "once": str(uuid4())})
    assert Job.objects.get().outline_left_mm is None


def test_a_wrong_figure_is_kept_and_changes_nothing(browse, board):
    load(browse, board)
    response = place(browse, board, width_mm="wide", left_mm="0", top_mm="0")
    assert "“wide” is not a number" in room.words(response, "#placed")
    assert 'value="wide"' in response.content.decode()
    assert Job.objects.get().art_width_mm == pytest.approx(606.5, abs=0.1)


def test_coarse_art_is_said_to_be_coarse(browse, board):
    load(browse, board, size=(600, 400))
    assert "edges look coarse" in room.words(browse.get(f"/jobs/{board.pk}/art/"))


def test_a_board_s_print_is_the_board_and_its_bleed(browse, board):
    load(browse, board)
    response = browse.get(f"/jobs/{board.pk}/art/print.pdf")
    page = pypdfium2.PdfDocument(response.content)[0]
    media, trim = (
        tuple(side * PT_MM for side in box) for box in (page.get_mediabox(), page.get_trimbox())
    )
    assert media == pytest.approx((0, 0, 383.6, 303.2), abs=0.1)
    assert (trim[2] - trim[0], trim[3] - trim[1]) == pytest.approx((380, 300), abs=0.02)
    picture = page.render(scale=1).to_pil()
    # Mirrored: the art's green upper right quarter is printed at the left.
    assert picture.getpixel((20, 20)) == (0, 255, 0)


def test_art_on_a_vest_is_printed_as_large_as_it_is_on_the_sheet_chosen(browse, vest):
    load(browse, vest)
    assert (Job.objects.get().art_width_mm, Job.objects.get().art_height_mm) == (200, 100)
    response = browse.get(f"/jobs/{vest.pk}/art/print.pdf?sheet=A4")
    page = pypdfium2.PdfDocument(response.content)[0]
    assert [side * PT_MM for side in page.get_size()] == pytest.approx([210, 297], abs=0.01)
    low, high = page.get_bleedbox()[:2], page.get_bleedbox()[2:]
    size = [(b - a) * PT_MM for a, b in zip(low, high, strict=True)]
    assert size == pytest.approx([200, 100], abs=0.01)


def test_a_closed_job_keeps_its_art(browse, board, technician):
    load(browse, board)
    actions.close(technician, board, True)
    before = Job.objects.get().art_width_mm
    place(browse, board, width_mm="100", left_mm="0", top_mm="0")
    assert Job.objects.get().art_width_mm == before


def test_no_art_no_print(browse, board):
    assert browse.get(f"/jobs/{board.pk}/art/print.pdf").status_code == 404
    assert "Which art goes onto Board?" in room.words(browse.get(f"/jobs/{board.pk}/art/"))


@pytest.fixture
def printed(technician):
    settings = PrintSettings.objects.create(printer="Desk", paper="smooth", inks="A")

    def version(number, **values):
        fields = {"side": "matte", "mirrored_by": "program", "quality": "high", "colours": "off"}
        return PrintSettingsVersion.objects.create(
            settings=settings,
            number=number,
            dries_s=300,
            created_by=technician,
            **(fields | values),
        )

    return version


def test_the_list_takes_drying_and_mirroring_from_the_print_settings(browse, board, printed):
    version = printed(1, mirrored_by="driver")
    browse.post(f"/jobs/{board.pk}/print-settings/", {"version": version.pk})
    text = room.words(browse.get(f"/jobs/{board.pk}/"))
    assert "Let the print dry 5 min." in text
    assert "Here the printer’s driver does it." in text
    assert "version 1" in text


def test_two_jobs_say_what_differs_the_print_first(browse, board, vest, printed, technician):
    actions.choose_print_settings(technician, board, printed(1))
    actions.choose_print_settings(technician, vest, printed(2, quality="draft"))
    text = room.words(browse.get(f"/jobs/compare/?first={board.pk}&second={vest.pk}"))
    assert "things differ, first the quality." in text
    assert "Quality high draft" in text
    assert "Blank Board Vest" in text
    same = room.words(browse.get(f"/jobs/compare/?first={board.pk}&second={board.pk}"))
    assert "These two jobs do not differ." in same
