"""Every address, every method, every role, and rows that belong to somebody: what the matrix says
holds.
"""

import pytest
from django.db import transaction
from django.test import Client
from django.urls import ResolverMatch
from django.utils import timezone

from tempermark.web.accounts.matrix.gate import PermissionGate
from tempermark.web.accounts.matrix.rules import ACCESS, Reach
from tempermark.web.accounts.matrix.views import routes
from tempermark.web.accounts.models import User
from tempermark.web.accounts.pins.backend import PATH
from tempermark.web.accounts.pins.short_sessions import SEEN, SINCE
from tests.support import room
from tests.support.addresses import filled, rows_of
from tests.support.kept import kept

pytestmark = [pytest.mark.django_db, pytest.mark.long]
OTHER_METHODS = ("put", "patch", "delete", "options", "trace")
# What leads to the sign-in page by its nature; test_sign_in.py and test_pins.py look at them.
TO_THE_DOOR = {("accounts:sign-out", "post"), ("accounts:hands", "post")}
ROLES = {
    "nobody": Reach.ANYBODY,
    "clerk": Reach.CLERK,
    "technician": Reach.TECHNICIAN,
    "lead by PIN": Reach.TECHNICIAN,
    "lead": Reach.LEAD,
}
NAMES = {"clerk": "tomke", "technician": "bente", "lead by PIN": "maren", "lead": "maren"}


def build():
    """People, and a row of everything by a technician who is none of them."""
    room.person("maren", "lead")
    room.person("bente", "technician")
    room.person("tomke", "clerk")
    return rows_of(room.person("isla", "technician"), room.element("Heron"))[0]


@pytest.fixture(scope="module")
def built(django_db_setup, django_db_blocker):
    with kept(django_db_blocker, build) as found:
        yield found


@pytest.fixture
def rows(db, built):
    return built


def browser_of(role):
    browser = Client()
    browser.raise_request_exception = False
    if role != "nobody":
        by_pin = {"backend": PATH} if role == "lead by PIN" else {}
        browser.force_login(User.objects.get(username=NAMES[role]), **by_pin)
    if role == "lead by PIN":
        session = browser.session
        session[SINCE] = session[SEEN] = timezone.now().timestamp()
        session.save()
    return browser


def address_of(pattern, rows):
    """An address of a route, with a row behind it where there is one."""
    route = str(pattern.pattern)
    pk = str(rows.get(route.split("/", maxsplit=1)[0], 1))
    known = {"slug": "heron", "number": "1", "subject": "heat", "about": "presses.press:1"}
    if route.startswith("recipes/"):
        known["slug"] = "dye-on-a-polyester-vest"
    if "experiments" in route:
        known["kind"] = "search"
    code = pk if route.startswith("piece/") else "parchment"
    return "/" + filled(route, known | {"pk": pk, "code": code})


def test_the_matrix_names_every_address_and_no_other():
    assert {f"{app}:{pattern.name}" for app, pattern in routes()} == set(ACCESS)
    assert len(ACCESS) > 200


@pytest.mark.parametrize("role", ROLES)
def test_every_address_and_method_holds_to_the_matrix(rows, role):
    """Refusals and acts; what opens to whoever may look is looked at once, below."""
    browser, level, wrong = browser_of(role), ROLES[role], []
    for at, (app, pattern) in enumerate(routes()):
        access, address = ACCESS[f"{app}:{pattern.name}"], address_of(pattern, rows)
        # What no page has is tried in turn: every address by one role, every role at some.
        turn = OTHER_METHODS[(at + list(ROLES).index(role)) % len(OTHER_METHODS)]
        for method in ("get", "head", "post", turn):
            needed = {"get": access.look, "head": access.look, "post": access.send}.get(method)
            is_method = needed is not None and needed is not Reach.NOBODY
            if (f"{app}:{pattern.name}", method) in TO_THE_DOOR:
                continue
            reaches = is_method and level >= (
                Reach.TECHNICIAN if needed is Reach.AUTHOR else needed
            )
            if reaches and method in ("get", "head"):
                continue
            with transaction.atomic():
                status = status_of(browser, method, address)
                transaction.set_rollback(True)
            if needs_sign_in(access, role):
                expected = {"sign in"}
            elif not is_method:
                expected = {"405"}
            elif not reaches:
                expected = {"403"}
            else:
                expected = None
            if expected is None and status in ("403", "405", "sign in", "500"):
                # Some rows belong to somebody: their own test looks at them.
                if not (needed is Reach.AUTHOR and status == "403"):
                    wrong.append(f"{role} {method} {address}: {status}")
            elif expected is not None and status not in expected:
                wrong.append(f"{role} {method} {address}: {status}, not {expected}")
    assert not wrong, "\n".join(wrong)


@pytest.mark.parametrize("role", [role for role in ROLES if role != "nobody"])
def test_a_method_that_no_page_has_is_refused_at_every_address(rf, rows, role):
    """At the gate itself, in front of every view; the test above comes to it over the network."""
    gate, person = PermissionGate(lambda r: None), User.objects.get(username=NAMES[role])
    for app, pattern in routes():
        for method in OTHER_METHODS:
            request = rf.generic(method.upper(), "/")
            request.user, request.resolver_match = person, match_of(app, pattern)
            assert gate.process_view(request, lambda: None, (), {}).status_code == 405


def match_of(app, pattern):
    return ResolverMatch(lambda: None, (), {}, url_name=pattern.name, namespaces=[app])


def needs_sign_in(access, role):
    open_to_all = Reach.ANYBODY in (access.look, access.send)
    return role == "nobody" and not open_to_all


def status_of(browser, method, address):
    answer = getattr(browser, method)(address)
    if answer.status_code == 302 and answer.url.startswith("/sign-in"):
        return "sign in"
    return str(answer.status_code)


@pytest.mark.parametrize("role", ["clerk", "technician", "lead"])
def test_every_page_that_a_role_may_look_at_opens_for_it(rows, role):
    browser, wrong = browser_of(role), []
    slow = ("heat-", "uncertainty", "events", "room-archive", "hands")
    for app, pattern in routes():
        access = ACCESS[f"{app}:{pattern.name}"]
        if access.look is Reach.NOBODY or any(part in pattern.name for part in slow):
            continue
        level = Reach.LEAD if access.look is Reach.AUTHOR else access.look
        if ROLES[role] == max(level, Reach.CLERK):
            address = address_of(pattern, rows)
            status = status_of(browser, "get", address)
            if status in ("403", "405", "sign in", "500"):
                wrong.append(f"{role} {address}: {status}")
    assert not wrong, "\n".join(wrong)


def test_an_address_that_is_not_named_is_closed(rf, rows):
    request = rf.get("/")
    request.user = User.objects.get(username="maren")
    request.resolver_match = ResolverMatch(
        lambda: None, (), {}, url_name="new", namespaces=["none"]
    )
    with pytest.raises(Exception, match="not open to anybody"):
        PermissionGate(lambda r: None).process_view(request, lambda: None, (), {})


OWN = {
    "trace:correct-piece": "test-presses",
    "trace:withdraw-piece": "test-presses",
    "trace:correct-mark": "marks",
    "trace:withdraw-mark": "marks",
    "trace:correct-reading": "readings",
    "trace:withdraw-reading": "readings",
    "trace:correct-check": "checks",
    "trace:withdraw-check": "checks",
    "pressure:withdraw-lesson": "knob-lessons",
}


def test_every_address_of_authors_is_tried():
    authors = {name for name, access in ACCESS.items() if access.send is Reach.AUTHOR}
    assert authors == set(OWN)


@pytest.mark.parametrize("name", OWN)
def test_what_somebody_entered_is_theirs_and_the_lead_s(rows, name):
    pattern = next(p for app, p in routes() if f"{app}:{p.name}" == name)
    address, data = address_of(pattern, rows), {"why": "a slip"}
    for username, may in (("tomke", False), ("bente", False), ("isla", True), ("maren", True)):
        browser = Client()
        browser.force_login(User.objects.get(username=username))
        with transaction.atomic():
            status = browser.post(address, data).status_code
            transaction.set_rollback(True)
        assert (status != 403) is may, (username, address, status)


def test_the_page_of_permissions_says_what_the_matrix_says(rows):
    page = room.soup(browser_of("clerk").get("/permissions/"))
    lines = [
        [cell.get_text(" ", strip=True) for cell in row.select("td")] for row in page.select("tr")
    ]
    by_address = {line[0].rpartition(" ")[2]: line[1:] for line in lines if line}
    assert len(by_address) > 200
    assert by_address["/people/"] == ["no", "no", "changes"]
    assert by_address["/surveys/<int:pk>/readings/"] == ["no", "changes", "changes"]
    assert by_address["/marks/<int:pk>/withdraw/"] == ["no", "changes own", "changes"]
    assert by_address["/logbook/"] == ["looks", "looks", "looks"]
