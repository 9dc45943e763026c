"""Packages never change under an open room: another lock has another environment."""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from launcher import packages, paths, server, system
from launcher.say import Stop


@pytest.fixture
def checkout(tmp_path, monkeypatch):
    """A small checkout whose environments are Pythons alone; what pip did to each is in it."""
    monkeypatch.setattr(paths, "ROOT", tmp_path)
    monkeypatch.setattr(paths, "LOCAL", tmp_path / ".local")
    monkeypatch.setattr(paths, "VENV", tmp_path / ".local" / "venv")
    monkeypatch.setattr(paths, "REQUIREMENTS", tmp_path)
    monkeypatch.setattr(system, "need_venv_module", lambda: None)
    monkeypatch.setattr(packages, "_run", run)
    monkeypatch.setenv(paths.ENVIRONMENT_VARIABLE, "")
    paths.LOCAL.mkdir()
    lock(tmp_path, "runtime", "one==1\n")
    lock(tmp_path, "dev", "one==1\ntwo==2\n")
    return tmp_path


def lock(folder, kind, text):
    (folder / f"{kind}.txt").write_text(text)


def run(command, failure):
    """What the real one does to an environment, without a network."""
    if "venv" in command:
        home = paths.LOCAL / "environments" / command[-1].rpartition("/")[2]
        (home / "bin").mkdir(parents=True)
        (home / "pyvenv.cfg").write_text(f"home = {Path(sys._base_executable).parent}\n")
        (home / "bin" / "python").symlink_to(sys._base_executable)
        packages_of(home).mkdir(parents=True)
    elif "pip" in command:
        home = Path(command[0]).parents[1]
        with (home / "pip.log").open("a") as log:
            log.write(Path(command[-1]).read_text())


def packages_of(home):
    return home / "lib" / f"python{sys.version_info[0]}.{sys.version_info[1]}" / "site-packages"


def new_start(monkeypatch):
    """Another launcher, which holds to nothing yet."""
    monkeypatch.setenv(paths.ENVIRONMENT_VARIABLE, "")


def open_room(monkeypatch, name="serve", **more):
    """A room that runs from the environment of now."""
    note = {"environment": str(paths.environment()), **more}
    (paths.LOCAL / f"running-{name}.json").write_text(json.dumps(note))
    monkeypatch.setattr(server, "noted", lambda room: note if room == name else None)


def test_the_first_start_makes_one_and_the_next_ones_find_it(checkout, monkeypatch):
    packages.prepare()
    first = paths.environment()
    assert paths.VENV.is_symlink()
    assert paths.python().exists()
    new_start(monkeypatch)
    packages.prepare()
    assert paths.environment() == first
    assert (first / "pip.log").read_text() == "one==1\n"


def test_what_nobody_runs_from_is_brought_up_to_date_in_place(checkout, monkeypatch):
    packages.prepare()
    first = paths.environment()
    new_start(monkeypatch)
    packages.prepare("dev")
    assert paths.environment() == first
    new_start(monkeypatch)
    packages.prepare()
    assert (first / "pip.log").read_text().count("one==1") == 2


def test_an_open_room_keeps_its_packages_and_the_next_start_has_the_new_ones(checkout, monkeypatch):
    packages.prepare()
    room = paths.environment()
    before = (room / "pip.log").read_text()
    open_room(monkeypatch)
    lock(checkout, "runtime", "one==2\n")
    # The room's own launcher goes on with what it began with.
    assert paths.python() == room / "bin" / "python"
    new_start(monkeypatch)
    packages.prepare()
    other = paths.environment()
    assert other != room
    assert (room / "pip.log").read_text() == before
    assert (other / "pip.log").read_text() == "one==2\n"
    assert paths.VENV.resolve() == other


def test_what_no_room_runs_from_is_deleted_but_for_the_one_before(checkout, monkeypatch):
    homes = []
    for number in range(4):
        lock(checkout, "runtime", f"one=={number}\n")
        new_start(monkeypatch)
        packages.prepare()
        homes.append(paths.environment())
        open_room(monkeypatch)
    # Each was begun beside the one that a room ran from; at the end only the last is run from.
    assert [home.exists() for home in homes] == [False, False, True, True]


def test_a_room_that_does_not_say_from_which_keeps_all(checkout, monkeypatch):
    packages.prepare()
    first = paths.environment()
    monkeypatch.setattr(server, "noted", lambda room: {"pid": 1})
    (paths.LOCAL / "running-serve.json").write_text("{}")
    lock(checkout, "runtime", "one==2\n")
    new_start(monkeypatch)
    packages.prepare()
    assert first.exists()
    assert paths.environment() != first


def test_an_older_version_s_own_folder_becomes_a_link_unless_a_room_runs_from_it(
    checkout, monkeypatch
):
    (paths.VENV / "bin").mkdir(parents=True)
    monkeypatch.setattr(server, "noted", lambda room: {"pid": 1})
    (paths.LOCAL / "running-serve.json").write_text("{}")
    with pytest.raises(Stop, match="stop"):
        packages.prepare()
    assert (paths.VENV / "bin").is_dir()
    monkeypatch.setattr(server, "noted", lambda room: None)
    new_start(monkeypatch)
    packages.prepare()
    assert paths.VENV.is_symlink()


def test_a_copy_of_a_checkout_has_environments_of_its_own(checkout, monkeypatch, tmp_path):
    packages.prepare()
    copy = tmp_path / "copy"
    shutil.copytree(paths.LOCAL, copy, symlinks=True)
    monkeypatch.setattr(paths, "LOCAL", copy)
    monkeypatch.setattr(paths, "VENV", copy / "venv")
    assert paths.environment() == copy / "environments" / "0001"


def test_another_checkout_s_environment_is_none_of_ours(checkout, monkeypatch, tmp_path):
    packages.prepare()
    ours = paths.environment()
    monkeypatch.setenv(
        paths.ENVIRONMENT_VARIABLE, str(tmp_path / "elsewhere" / "environments" / "1")
    )
    assert paths.environment() == ours


def test_an_environment_that_does_not_start_is_made_again(checkout, monkeypatch):
    packages.prepare()
    first = paths.environment()
    paths.python().unlink()
    new_start(monkeypatch)
    packages.prepare()
    assert paths.environment() != first
    assert paths.python().exists()


def test_a_python_that_took_another_s_place_has_an_environment_of_its_own(checkout, monkeypatch):
    packages.prepare()
    first = paths.environment()
    # A newer version under the same name looks elsewhere for its packages.
    packages_of(first).rename(packages_of(first).parent / "of-an-older-version")
    new_start(monkeypatch)
    packages.prepare()
    assert paths.environment() != first


def test_an_environment_that_another_python_made_is_made_again(checkout, monkeypatch):
    packages.prepare()
    first = paths.environment()
    monkeypatch.setattr(sys, "base_prefix", "/opt/another-python")
    new_start(monkeypatch)
    packages.prepare()
    assert paths.environment() != first


def test_the_distribution_s_python_is_chosen_before_another_of_the_path(tmp_path):
    distribution = "/usr/bin/python3"
    fits = "import ensurepip, sys; sys.exit(sys.version_info < (3, 11))"
    if not Path(distribution).exists() or subprocess.run([distribution, "-c", fits]).returncode:
        pytest.skip("the distribution has no Python that makes environments")
    other = tmp_path / "python3"
    other.write_text("#!/bin/sh\nexit 7\n")
    other.chmod(0o755)
    launcher = Path(__file__).parents[2] / "tempermark"
    path = f"{tmp_path}:{os.environ['PATH']}"
    done = subprocess.run([launcher, "--help"], env={**os.environ, "PATH": path})
    assert done.returncode == 0


def test_a_failed_installation_says_why_and_leads_nowhere_new(checkout, monkeypatch):
    packages.prepare()
    first = paths.environment()
    open_room(monkeypatch)
    lock(checkout, "runtime", "one==2\n")

    def fails(command, failure):
        if "pip" in command:
            raise Stop(failure)
        run(command, failure)

    monkeypatch.setattr(packages, "_run", fails)
    new_start(monkeypatch)
    with pytest.raises(Stop, match="could not be installed"):
        packages.prepare()
    assert paths.VENV.resolve() == first
