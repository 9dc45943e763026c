"""Every page as somebody who reads °F, inches and psi: no other unit but what was typed; and no
label of a chart covers another at any width.
"""

import re

import pytest
from bs4 import BeautifulSoup
from django.test import Client

from tempermark.web.accounts.models import User
from tempermark.web.kit.units import IMPERIAL
from tests.browser.labels import covered_labels
from tests.browser.person import Person
from tests.support.addresses import all_addresses, rows_of

pytestmark = pytest.mark.long
# Not in W/m², kg/m³ or kg/kg: a material's properties are in SI.
OTHERS = re.compile(r"(?<![\w/])(?:°C|mm|cm|kPa|ml|kg)(?![\w/²³·])|\d\s(?:K|g)(?![\w/²³])")
# The choice of units names them all, and so does what a field understands; a card is in both
# degrees; a file is in °C and mm; what a press’s own display shows is a fact about it.
MEANT = re.compile(
    r"^/me/units/|^/presses/[\w-]+/cards/|^also |Switch between °C and °F|in mm, as files have them"
    r"|, shows °C$|\(°C\)$|^383f or 195c|per kg dry"
)
SEEN = """
const UNSEEN = "script, style, textarea, datalist, [name=display_unit]";
const shown = [...document.querySelectorAll("main, header, nav")].flatMap((part) => {
  const walker = document.createTreeWalker(part, NodeFilter.SHOW_TEXT);
  const texts = [];
  while (walker.nextNode()) {
    const parent = walker.currentNode.parentElement;
    if (!parent.closest(UNSEEN)) texts.push(walker.currentNode.data);
  }
  return texts;
});
const names = ["aria-label", "title", "placeholder"];
const told = [...document.querySelectorAll(names.map((name) => `[${name}]`).join())];
const said = told.flatMap((part) => names.map((name) => part.getAttribute(name) || ""));
return [...shown, ...said];
"""
# A drawing with words in it, or what a script writes into the page.
IS_DRAWN = re.compile(r"<text|<canvas|data-run|hx-trigger=\"load|application/json")
IDLE = "return !document.querySelector('.htmx-request') && document.readyState === 'complete'"


@pytest.fixture
def maren(chromium, live_server, transactional_db):
    """A lead in a room that has a row of everything, who chose other units."""
    chromium.delete_all_cookies()
    return Person(chromium, live_server.url)


def test_every_page_speaks_its_reader_s_units(maren, technician, element, lead):
    maren.sign_in("maren")
    maren.go("/me/units/")
    maren.press("°F, inches, psi, fl oz, oz")
    maren.wait(lambda: User.objects.get(username="maren").units == IMPERIAL)
    looked, drawn, wrong, covered = 0, 0, [], []
    for address, page in opened_by(lead, all_addresses(rows_of(technician, element))):
        looked += 1
        if not IS_DRAWN.search(page):
            # What no script and no drawing changes reads the same without a browser.
            texts = (" ".join(text.split()) for text in written(page))
            wrong += [f"{address}: {text[:120]}" for text in texts if is_other(address, text)]
            continue
        maren.go(address)
        maren.wait(lambda: maren.driver.execute_script(IDLE))
        drawn += 1
        texts = (" ".join(text.split()) for text in maren.driver.execute_script(SEEN))
        wrong += [f"{address}: {text[:120]}" for text in texts if is_other(address, text)]
        covered += [f"{address} {text}" for text in covered_labels(maren.driver)]
    assert looked > 100
    assert drawn > 10
    assert not wrong, "\n".join(sorted(set(wrong)))
    assert not covered, "\n".join(sorted(set(covered)))


def is_other(address, text):
    """Whether a text names a unit that its reader did not choose."""
    meant = MEANT.search(text) or MEANT.search(address)
    return bool(OTHERS.search(text)) and not meant


def opened_by(person, addresses):
    """Those that answer with a page; files and fragments are not gone to."""
    asked = Client()
    asked.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
    for address in addresses:
        answer = asked.get(address)
        page = answer.status_code == 200 and "html" in answer.get("Content-Type", "")
        if page and b"<main" in answer.content:
            yield address, answer.content.decode()


def written(page):
    """Texts and names of a page as it was sent."""
    soup = BeautifulSoup(page, "html.parser")
    for unseen in soup.select("script, style, textarea, datalist, [name=display_unit], head"):
        unseen.decompose()
    names = ("aria-label", "title", "placeholder")
    return [
        *soup.find_all(string=True),
        *(part[name] for name in names for part in soup.select(f"[{name}]")),
    ]
