"""The room on the network: its names, a certificate that is kept fresh, what words are given."""

from datetime import UTC, datetime, timedelta

import pytest

from launcher import lan, network, paths
from launcher.arguments import chosen_tests, practice_arguments, serve_arguments
from launcher.say import Stop


@pytest.fixture
def addresses(monkeypatch, tmp_path):
    """Addresses that the machine has; its authority is the test's own."""
    found = ["10.0.0.7"]
    monkeypatch.setattr(network, "addresses", lambda: list(found))
    monkeypatch.setattr(paths, "AUTHORITY", tmp_path / "authority")
    return found


@pytest.fixture
def renewal(addresses):
    renewed = []
    made = lan.Renewal(["press-room.test"], lan.ready(["press-room.test"]), renewed.append)
    made.renewals = renewed
    made.look(0.0)
    return made


def later(renewal, hours=1):
    renewal.look(renewal.due + 3600.0 * (hours - 1))


def test_a_fresh_certificate_is_left_alone(renewal):
    later(renewal)
    later(renewal, 500)
    assert not renewal.renewals


def test_another_address_makes_another_certificate_and_one_that_went_none(renewal, addresses):
    addresses.append("10.0.0.9")
    later(renewal)
    (fresh,) = renewal.renewals
    assert {"10.0.0.7", "10.0.0.9", "press-room.test"} <= set(fresh.names)
    addresses.remove("10.0.0.7")
    later(renewal)
    assert len(renewal.renewals) == 1


def test_one_that_runs_out_is_made_anew_with_the_same_authority(renewal, monkeypatch):
    first = renewal.lan
    soon = (datetime.now(UTC) + timedelta(days=29)).date().isoformat()
    renewal.lan = lan.Lan(**{**vars(first), "lasts_until": soon})
    later(renewal)
    (fresh,) = renewal.renewals
    assert fresh.fingerprint == first.fingerprint
    assert fresh.lasts_until == first.lasts_until


def test_one_that_cannot_be_made_is_told_and_tried_again(renewal, addresses, monkeypatch, capsys):
    def fails(names):
        raise Stop("The certificate could not be made: no disk")

    addresses.append("10.0.0.9")
    with monkeypatch.context() as broken:
        broken.setattr(lan, "ready", fails)
        later(renewal)
    assert not renewal.renewals
    assert "no disk" in capsys.readouterr().err
    later(renewal)
    assert len(renewal.renewals) == 1


def test_a_machine_without_a_network_is_told(addresses, monkeypatch):
    addresses.clear()
    monkeypatch.setattr(network, "names", list)
    with pytest.raises(Stop, match="no address on a network"):
        lan.ready([])


def test_what_practice_is_given(monkeypatch):
    monkeypatch.setenv("TEMPERMARK_PRACTICE_OF", "")
    assert practice_arguments([]) is None
    assert practice_arguments(["--from", "http://127.0.0.1:8640/"]) is None
    assert practice_arguments(["--lan", "--name", "10.0.0.7"]) == ["10.0.0.7"]
    for wrong in (["--lan", "--name", "no name"], ["--port", "1"]):
        with pytest.raises(Stop):
            practice_arguments(wrong)


@pytest.mark.parametrize("given", [["--port", "80"], ["--name", "a.test"], ["--lan", "x"]])
def test_what_serve_is_not_given(given):
    with pytest.raises(Stop):
        serve_arguments(given)


@pytest.mark.parametrize("given", [["--host", "0.0.0.0"], ["--bind=0.0.0.0:8640"]])
def test_serve_is_not_opened_to_a_network_without_https(given):
    with pytest.raises(Stop, match="Without HTTPS"):
        serve_arguments(given)


@pytest.mark.parametrize(
    ("given", "pytest_has"),
    [
        ([], ["-m", "not long"]),
        (["-x"], ["-m", "not long", "-x"]),
        (["--all"], []),
        (["--all", "-x"], ["-x"]),
        (["tests/core"], ["tests/core"]),
        (["./tests/core/test_units.py::test_x"], ["./tests/core/test_units.py::test_x"]),
        (["-k", "survey"], ["-k", "survey"]),
        (["-mbrowser"], ["-mbrowser"]),
        (["-m", "browser"], ["-m", "browser"]),
    ],
)
def test_the_long_tests_are_run_where_they_are_chosen(given, pytest_has):
    assert chosen_tests(given) == pytest_has
