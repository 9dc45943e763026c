"""What the house promises about itself: commands, documents, locks, layers."""

import importlib
import re
import subprocess
import tomllib
from pathlib import Path

import pytest
from django.conf import settings

from benchmarks.__main__ import NAMES as BENCHMARKS
from launcher.__main__ import JSON_COMMANDS, WORDS
from tempermark.cli.__main__ import COMMANDS

ROOT = Path(__file__).resolve().parents[2]
README = (ROOT / "README.md").read_text()
TRACKED = subprocess.run(
    ["git", "ls-files", "-co", "--exclude-standard"], cwd=ROOT, capture_output=True, text=True
).stdout.split("\n")
# Written apart so that this file does not name what it forbids.
HOSTS = re.compile("py" + r"pi\.org|python" + r"hosted|npm" + r"js\.(org|com)|deb" + r"ian\.org")


def test_readme_begins_with_the_two_commands():
    block = re.search(r"```\n(.*?)\n```", README, re.DOTALL)[1]
    assert block.splitlines() == ["./tempermark demo", "./tempermark test"]


def test_commands_of_the_readme_are_those_the_launcher_knows():
    named = set(re.findall(r"\./tempermark ([\w-]+)", README))
    also = set(re.findall(r"`(\w+)`", re.search(r"also (`\w+`[^(]*)", README)[1]))
    known = set(WORDS) | set(JSON_COMMANDS)
    assert (named | also) - {"FILE"} <= known
    assert set(WORDS) - {"prepare"} <= named
    assert set(JSON_COMMANDS) <= named | also


def test_launcher_shell_and_python_know_the_same_json_commands():
    shell = re.search(r"^  ([a-z |]+)\)$", (ROOT / "tempermark").read_text(), re.MULTILINE)[1]
    assert set(shell.split(" | ")) == set(JSON_COMMANDS) == set(COMMANDS)


def test_every_json_command_is_documented():
    text = (ROOT / "docs" / "formats" / "README.md").read_text()
    assert [c for c in COMMANDS if f"| `{c}` |" not in text] == []


def test_pictures_and_links_of_the_documents_exist():
    missing = []
    for page in [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *ROOT.glob("docs/**/*.md")]:
        for target in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
            if not (page.parent / target).exists():
                missing.append(f"{page.name}: {target}")
    pictures = list((ROOT / "docs" / "screenshots").glob("*.png"))
    missing += [p.name for p in pictures if f"screenshots/{p.name}" not in README]
    assert not missing
    assert len(pictures) < 20


def test_paths_that_documents_name_exist():
    roots = [ROOT / base for base in ("", "src", "src/tempermark", "src/tempermark/web", "docs")]
    documents = [*(ROOT / "docs").rglob("*.md"), *(ROOT / "src").rglob("*.md"), *ROOT.glob("*.md")]
    named = [
        (document, path)
        for document in documents
        for path in re.findall(r"`([\w.-]+(?:/[\w.-]+)+)`", document.read_text())
        if "." in path.split("/")[-1] and not path.startswith((".", "-"))
    ]
    assert named
    lost = [
        f"{document.name}: {path}"
        for document, path in named
        if not any((root / path).exists() for root in [*roots, document.parent])
    ]
    assert lost == []


def test_locks_have_hashes_and_no_file_names_a_registry():
    for name in ("runtime", "dev"):
        lock = (ROOT / "requirements" / f"{name}.txt").read_text()
        pins = re.findall(r"^\S+==\S+", lock, re.MULTILINE)
        assert pins
        assert lock.count("--hash=sha256:") >= len(pins)
    guilty = []
    for name in TRACKED:
        path = ROOT / name
        if path.suffix in (".png", ".woff2") or ".min." in name or not path.is_file():
            continue
        if HOSTS.search(path.read_text(errors="replace")):
            guilty.append(name)
    assert not guilty


def test_runtime_pins_are_those_of_dev():
    pins = [
        set(
            re.findall(
                r"^[a-z0-9_.-]+==\S+", (ROOT / "requirements" / f"{n}.txt").read_text(), re.M
            )
        )
        for n in ("runtime", "dev")
    ]
    assert pins[0] <= pins[1]


def test_every_licence_of_what_ships_is_there():
    static = ROOT / "src" / "tempermark" / "web" / "static" / "tempermark"
    licences = " ".join(p.name for p in (static / "licences").iterdir())
    for font in static.glob("fonts/*.woff2"):
        assert font.name.split("-latin")[0] in licences
    assert "htmx" in licences


@pytest.mark.parametrize("name", ["INSTALLED_APPS", "MIDDLEWARE"])
def test_apps_and_layers_stand_once(name):
    listed = getattr(settings, name)
    assert len(listed) == len(set(listed))


def test_shipped_knowledge_and_recipes_are_utf8_toml():
    for path in ROOT.glob("src/**/*.toml"):
        assert tomllib.loads(path.read_text(encoding="utf-8")), path


# What reads a number, a moment or a document of somebody else's, outside the rooms made for it.
PARSES = re.compile(
    r"\b(?:int|float)\(\s*request|json\.loads?\((?!json\.dumps|export\.)|\bparse_date(?:time)?\("
    r"|\.fromisoformat\(|strptime\("
)
PARSING_ROOMS = (
    "kit/forms/numbers.py",
    "kit/forms/moments.py",
    "kit/records/correction_words.py",
    "kit/middleware.py",
)


def test_numbers_moments_and_documents_are_parsed_in_one_place_each():
    web = ROOT / "src" / "tempermark" / "web"
    found = [
        f"{path.relative_to(web)}: {line.strip()}"
        for path in web.rglob("*.py")
        if str(path.relative_to(web)) not in PARSING_ROOMS and "migrations" not in path.parts
        for line in path.read_text().splitlines()
        if PARSES.search(line)
    ]
    assert not found, "\n".join(found)


@pytest.mark.parametrize("name", BENCHMARKS)
def test_every_benchmark_finds_what_it_times(name):
    assert callable(importlib.import_module(f"benchmarks.{name}").run)
