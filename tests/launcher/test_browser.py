"""The browser that the tests and some benchmarks drive: found, or installed."""

import pytest

from launcher import __main__ as words
from launcher import system
from launcher.say import Stop


@pytest.fixture
def installed(monkeypatch):
    """What would be installed, package by package."""
    found: list[list[str]] = []
    monkeypatch.setattr(system, "install", lambda packages, what: found.append(packages))
    return found


def having(monkeypatch, *programs):
    """A machine that has these programs only."""
    found = {program: f"/usr/bin/{program}" for program in programs}
    monkeypatch.setattr(system.shutil, "which", found.get)


@pytest.mark.parametrize(
    ("there", "missing"),
    [
        ((), ["chromium", "chromium-driver"]),
        (("chromium",), ["chromium-driver"]),
        (("chromedriver",), ["chromium"]),
    ],
)
def test_what_is_missing_of_a_browser_is_installed(monkeypatch, installed, there, missing):
    having(monkeypatch, *there)
    system.need_browser()
    assert installed == [missing]


def test_a_browser_that_is_there_is_not_installed_again(monkeypatch, installed):
    having(monkeypatch, "chromium", "chromedriver")
    system.need_browser()
    assert installed == []


def test_without_rights_the_packages_are_named(monkeypatch):
    having(monkeypatch)
    monkeypatch.setattr(system, "_root_prefix", lambda: None)
    with pytest.raises(Stop, match="apt-get install chromium chromium-driver"):
        system.need_browser()


@pytest.mark.parametrize(
    ("benchmark", "calls"), [("entry", 1), ("setting", 1), ("solver", 0), ("adaptive", 0)]
)
def test_a_benchmark_at_the_pages_asks_for_a_browser(monkeypatch, benchmark, calls):
    found: list[str] = []
    monkeypatch.setattr(words.packages, "prepare", lambda which: None)
    monkeypatch.setattr(words.system, "need_browser", lambda: found.append("browser"))
    monkeypatch.setattr(
        words.subprocess, "run", lambda *_, **__: type("Done", (), {"returncode": 0})
    )
    assert words.bench([benchmark]) == 0
    assert len(found) == calls
