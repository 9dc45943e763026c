"""What a job costs, in the shop's own money."""

import pytest

from tempermark.web.jobs.models import Job
from tempermark.web.supplies.models import Price
from tests.support import room
from tests.web.prepare.test_job_art import begun, board, vest  # noqa: F401  fixtures


def price(code, amount, blank=None):
    Price.objects.create(code=code, blank=blank, amount=amount)


def test_without_prices_the_cost_says_what_is_missing(browse, board):  # noqa: F811
    text = room.words(browse.get(f"/jobs/{board.pk}/cost/"))
    assert "One piece costs at least 0.00 €" in text
    assert "for want of a price: Board, transfer paper, ink" in text


def test_a_board_costs_its_parts(browse, board):  # noqa: F811
    price("blank", "3.50", board.blank)
    price("paper", "4")
    page = room.soup(browse.get(f"/jobs/{board.pk}/cost/"))
    rows = {
        r.th.text: [c.text.replace("\u00a0", " ") for c in r.select("td")]
        for r in page.select("tr")[1:]
    }
    assert rows["Board"] == ["1", "1", "3.50 €"]
    # 383.6 × 303.2 mm with its bleed.
    assert rows["Transfer paper"] == ["0.116 m²", "0.116 m²", "0.47 €"]
    assert rows["Heat tape"][0] == "0.12 m"
    assert rows["One piece"][2] == "3.97 €"


def test_what_the_shop_keeps_and_what_it_loses(browse, vest):  # noqa: F811
    price("blank", "6", vest.blank)
    Job.objects.update(quantity=5)
    browse.post(f"/jobs/{vest.pk}/cost/", {"charge": "15", "minutes": "4"})
    text = room.words(browse.get(f"/jobs/{vest.pk}/cost/"))
    assert "the shop keeps 9.00 €, 60 %." in text
    assert "30.00 € in all" in text
    assert "Counted: 4.0 min of work." in text
    browse.post(f"/jobs/{vest.pk}/cost/", {"charge": "5", "minutes": ""})
    assert "1.00 € more than it brings." in room.words(browse.get(f"/jobs/{vest.pk}/cost/"))


@pytest.mark.parametrize(("field", "typed"), [("charge", "-1"), ("charge", "x"), ("minutes", "-3")])
def test_a_wrong_charge_is_kept_and_said(browse, vest, field, typed):  # noqa: F811
    response = browse.post(f"/jobs/{vest.pk}/cost/", {"charge": "", "minutes": "", field: typed})
    assert response.status_code == 422
    assert f'value="{typed}"' in response.content.decode()


def test_prices_are_a_lead_s_to_change_in_their_own_currency(browse_as, lead, technician, vest):  # noqa: F811
    fields = {"sign": "kr", "paper": "41.5", f"blank-{vest.blank.pk}": "60"}
    assert browse_as(technician).post("/prices/", fields).status_code == 403
    boss = browse_as(lead)
    assert boss.post("/prices/", fields).status_code == 302
    # 60 for the vest, 41.50 a m² for 200 × 240 mm of paper.
    assert "61.99 kr" in room.words(boss.get(f"/jobs/{vest.pk}/cost/"))
    assert Price.objects.count() == 2
    boss.post("/prices/", fields | {"paper": ""})
    assert Price.objects.count() == 1
    response = boss.post("/prices/", fields | {"film": "-2"})
    assert response.status_code == 422
    assert 'value="-2"' in response.content.decode()
