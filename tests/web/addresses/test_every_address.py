"""Whatever is sent to any address, the answer is a page: never a failure of the server."""

import re
from pathlib import Path

import pytest
from django.test import Client

import tempermark.web
from tempermark.web.accounts.models import User
from tempermark.web.recipes.models import RecipeVersion
from tempermark.web.trace.models import FaultCase
from tests.support import room
from tests.support.addresses import all_addresses, rows_of
from tests.support.kept import kept

pytestmark = [pytest.mark.django_db, pytest.mark.long]
WEB = Path(tempermark.web.__file__).parent
ASKED = re.compile(r"(?:request|data)\.?(?:GET|POST)?(?:\.get(?:list)?\(|\[)\"(\w+)\"")
FIELD = re.compile(r"^    (\w+) = (?:\w+\.)?\w*(?:Field|_choice|_day|_press)\(", re.M)
# Every value meets each so manieth address.
TURNS = 7
JUNK = (
    "",
    "-1",
    "x",
    "9" * 5000,
    "٣",
    "1e400",
    "nan",
    "9999-12-31T23:59",
    "a" * 100_000,
    "\0",
    "😀 ’“<script>",
)


def asked_names():
    """Every name a request or a form is asked for, by the source."""
    names = set()
    for path in WEB.rglob("*.py"):
        if "migrations" not in path.parts:
            text = path.read_text()
            names |= {*ASKED.findall(text), *FIELD.findall(text)}
    return sorted(names)


def build():
    """The lead, and a row of everything."""
    room.person("maren", "lead")
    return rows_of(room.person("isla", "technician"), room.element("Heron"))


@pytest.fixture(scope="module")
def built(django_db_setup, django_db_blocker):
    with kept(django_db_blocker, build) as found:
        yield found


@pytest.fixture
def rows(db, built):
    return built


def test_names_and_addresses_are_found(rows):
    assert len(asked_names()) > 120
    assert {"station", "set_c", "recipe", "taken_at"} <= set(asked_names())
    assert len(all_addresses(rows)) > 150
    assert RecipeVersion.objects.exists()
    assert FaultCase.objects.exists()


@pytest.mark.parametrize("junk", JUNK, ids=lambda j: repr(j[:12]))
@pytest.mark.parametrize("method", ["get", "post"])
def test_whatever_is_sent_is_answered(rows, junk, method):
    leads = Client()
    leads.force_login(User.objects.get(username="maren"))
    leads.raise_request_exception = False
    names = asked_names()
    # An address line has an end long before a body has.
    value = junk[:40] if method == "get" else junk
    sent = dict.fromkeys(names, value if len(junk) < 50_000 else junk[:1000])
    failed = []
    # Each address meets some values in its line and others in a body: neighbours share the rest
    # between them.
    turn = (JUNK.index(junk) + 2 * (method == "post")) % TURNS
    for address in all_addresses(rows)[turn::TURNS]:
        if address.startswith("/sign-out"):
            continue
        answer = getattr(leads, method)(address, sent)
        if answer.status_code >= 500:
            failed.append(f"{address} {answer.exc_info[1]!r:.150}")
    assert not failed, "\n".join(failed)
