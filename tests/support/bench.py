"""What a bench sends, made up for tests."""

import time
from uuid import UUID, uuid4

from tempermark.files.bench.run_entries import FORMAT
from tempermark.web.bench import actions
from tempermark.web.jobs import actions as jobs
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import Recipe
from tests.support import room

VEST = "dye-on-a-polyester-vest"


def job(who, on, quantity=4, slug=VEST, **fields):
    """A job of vests."""
    load_shipped_recipes()
    version = Recipe.objects.get(slug=slug).versions.get()
    blank = room.Blank.objects.first() or room.blank()
    given = {
        "recipe": version,
        "blank": blank,
        "press": on.press,
        "quantity": quantity,
        "art_width_mm": 150.0,
        "art_height_mm": 150.0,
    }
    return jobs.begin(who, given | fields, uuid4())


def run(who, on, per_load=1, placings=(), quantity=4, **fields):
    """A run of vests."""
    return actions.start(who, job(who, on, quantity, **fields), on, uuid4(), per_load, placings)


def main_step(found):
    """The number of the recipe's main press."""
    sheet = found.job.recipe.sheet
    return sheet.steps.index(sheet.main)


def entry(kind, at_s=None, key=None, **detail):
    """One entry."""
    return {
        "key": str(key or uuid4()),
        "kind": kind,
        "at_s": time.time() if at_s is None else at_s,
        **detail,
    }


def pressed(found, pieces=(1,), spans=((0.0, 52.0),), ago_s=300.0, step=None, **detail):
    """A press over closings: spans in s after a moment some minutes ago."""
    press, start = str(uuid4()), time.time() - ago_s
    place = {"step": main_step(found) if step is None else step, "press": press}
    rows = []
    for n, (closed, opened) in enumerate(spans):
        rows.append(
            entry("closed", start + closed, pieces=list(pieces), set_c=201.0, **place, **detail)
        )
        rows.append(entry("opened", start + opened, is_last=n == len(spans) - 1, **place))
    return rows


def send(browser, found, rows, sent_at_s=None):
    """What the server answers: the state of each entry by its key."""
    document = {
        "format": FORMAT,
        "sent_at_s": time.time() if sent_at_s is None else sent_at_s,
        "entries": rows,
    }
    answer = browser.post(f"/runs/{found.pk}/entries/", document, content_type="application/json")
    assert answer.status_code == 200, answer.content
    return {row["key"]: row for row in answer.json()["receipts"]}


def states(receipts):
    """`kept`, `again` or `refused`, in order."""
    return [row["state"] for row in receipts.values()]


def as_uuid(text):
    """The key of an entry."""
    return UUID(text)
