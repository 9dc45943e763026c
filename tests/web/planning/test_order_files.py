"""Orders from a shop's own table: columns matched, rows taken, the rest named."""

from uuid import uuid4

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tempermark.files.planning.order_table import guessed_columns, read_lines, read_table
from tempermark.web.jobs.models import Job, Order
from tempermark.web.planning.models import OrderFile
from tests.support import bench, room

pytestmark = pytest.mark.django_db
VEST = "Dye on a polyester vest"


@pytest.fixture
def blank(technician, element):
    """The recipe and its blank."""
    return bench.job(technician, element).blank


def sent(browse, text, name="orders.csv"):
    upload = SimpleUploadedFile(name, text if isinstance(text, bytes) else text.encode())
    return browse.post("/orders/import/", {"file": upload, "once": str(uuid4())})


def take(browse, file, **changes):
    table = read_table(bytes(file.raw))
    columns = {f: str(n) for f, n in guessed_columns(table.header).items()}
    return browse.post(file.get_absolute_url(), {**columns, "take": "1", **changes})


def test_a_table_with_its_own_names_is_matched_and_taken(browse, blank, element):
    text = (
        "Order No;Client;Needed by;Process;Item;Qty;Width\n"
        f"A-1;Crew 4;2026-12-01 15:00;{VEST};{blank.name};12;9,5 in\n"
        f"A-1;Crew 4;2026-12-01 15:00;{VEST.upper()};{blank.name};3;\n"
        f"A-2;Marshals;1.12.2026;{VEST};{blank.name};30;200\n"
    )
    assert sent(browse, text).status_code == 302
    file = OrderFile.objects.get()
    page = room.words(browse.get(file.get_absolute_url()))
    assert "2 orders in 3 lines can be taken" in page
    assert take(browse, file)["Location"] == "/orders/"
    first, second = Order.objects.order_by("reference")
    assert (first.customer, first.jobs.count()) == ("Crew 4", 2)
    assert first.jobs.order_by("pk")[0].art_width_mm == pytest.approx(241.3)
    assert second.due_at.astimezone().strftime("%H:%M") == "17:00"
    take(browse, file)
    assert Order.objects.count() == 2, "taken twice it is taken once"


def test_rows_that_cannot_be_taken_are_named_and_the_rest_is_taken(browse, blank):
    rows = [
        f"B-1,{VEST},{blank.name},12,2026-12-01",
        f"B-2,{VEST},{blank.name},0,",
        f"B-3,{VEST},{blank.name},many,",
        f"B-4,Etching,{blank.name},5,",
        f"B-5,{VEST},Trumpet,5,",
        f"B-6,{VEST},{blank.name},5,tomorrow",
        f",{VEST},{blank.name},5,",
        f"B-1,{VEST},{blank.name},4,2026-12-24",
    ]
    sent(browse, "reference,recipe,blank,quantity,due\n" + "\n".join(rows))
    file = OrderFile.objects.get()
    page = room.words(browse.get(file.get_absolute_url()))
    for said in (
        "Line 3: quantity is 0; right is 1 to 100000",
        "Line 4: quantity is “many”, not a whole number",
        "Line 5: no recipe is called “Etching”",
        "Line 6: no blank is called “Trumpet”",
        "Line 7: due is “tomorrow”, not a time",
        "Line 8: reference is empty",
        "Line 9: B-1 has another due in line 2",
    ):
        assert said in page
    take(browse, file)
    assert list(Order.objects.values_list("reference", flat=True)) == ["B-1"]


def test_a_reference_that_is_open_is_not_taken_again(browse, blank):
    text = f"reference,recipe,blank,quantity\nC-1,{VEST},{blank.name},2\n"
    for _ in range(2):
        sent(browse, text)
    first, second = OrderFile.objects.all()
    take(browse, first)
    assert "an open order has the reference C-1" in room.words(take(browse, second))
    assert Job.objects.filter(order__reference="C-1").count() == 1


@pytest.mark.parametrize(
    "raw", [b"", b"reference,recipe\n", b"\xff\xfe\x00", b"\x89PNG\r\n\x1a\n" + bytes(50)]
)
def test_what_is_no_table_is_refused(browse, blank, raw):
    assert sent(browse, raw).status_code == 422
    assert not OrderFile.objects.exists()


def test_columns_that_are_not_found_are_asked_for(browse, blank):
    sent(browse, f"a,b,c,d\nD-1,{VEST},{blank.name},4\n")
    file = OrderFile.objects.get()
    assert "What are the columns of orders.csv?" in room.words(browse.get(file.get_absolute_url()))
    browse.post(
        file.get_absolute_url(),
        {"reference": "0", "recipe": "1", "blank": "2", "quantity": "3", "take": "1"},
    )
    assert Order.objects.get().reference == "D-1"


@pytest.mark.long
def test_ten_thousand_lines_are_read_and_one_more_is_refused(browse, blank):
    row = f"{{}},{VEST},{blank.name},4\n"
    lines = "".join(row.format(f"E-{n}") for n in range(10_000))
    table = read_table(("reference,recipe,blank,quantity\n" + lines).encode())
    taken, refused = read_lines(table, guessed_columns(table.header), None)
    assert (len(taken), refused) == (10_000, [])
    assert sent(browse, "reference,recipe,blank,quantity\n" + lines + row).status_code == 422
    assert sent(browse, "reference,recipe,blank,quantity\n" + lines).status_code == 302
    take(browse, OrderFile.objects.get())
    assert Order.objects.count() == 10_000
    assert browse.get("/orders/").status_code == 200
