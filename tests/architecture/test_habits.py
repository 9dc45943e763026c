"""What the code promises about its own shape: types, docstrings, lengths, folders, words."""

import ast
import re
from pathlib import Path

import pytest

from tools.figures import arguments, length, modules

ROOT = Path(__file__).resolve().parents[2]
SOURCE = ROOT / "src" / "tempermark"
CORE = SOURCE / "core"
# A unit, or what has none: a share, a chance, a count.
UNIT = re.compile(
    r"°C|\bK\b|\bmm\b|µm|\bkPa\b|\bs\b|\bseconds?\b|\bmin\b|\bminutes?\b|\bdays?\b|\bN\b|\bkg\b|g/m²"
    r"|W/m|J/|mol|m²|\bturns?\b|\bdegrees?\b|%|0–1|0 to 1|\bshares?\b|\bprobabilit|\bchances?\b"
    r"|\bbits\b|\bodds\b|\bpixels?\b|\bfactors?\b|\bweights?\b|\bcounts?\b|\bsteps\b|\bdensity\b"
    r"|\bdose\b|\bnumbers?\b|unitless|Shore|\bml\b|\bmonths?\b|\bmoney\b"
)
# Physics: a law with an equation, the range it holds in, and where it is from.
PHYSICS = (
    "metrology/reading/radiometry",
    "metrology/reading/opening",
    "metrology/reading/fixed_points",
    "metrology/reading/comparison",
    "thermal/cooling",
    "thermal/result/dye",
    "thermal/result/outcome",
    "thermal/solver/conduction",
    "thermal/solver/kernel",
    "thermal/solver/stack",
    "thermal/solver/in_a_row",
    "pressure/press/contact",
    "pressure/press/hand",
    "pressure/press/knob",
    "pressure/press/spring",
    "pressure/press/wear",
    "pressure/map/carbon",
    "pressure/pieces/shadow",
    "pressure/pieces/vessel",
    "pressing/hover",
)
# Names of their own making, which a newcomer has to learn first (shared voice, "In code").
PRIVATE_WORDS = re.compile(
    r"(?:^|_)(?:told|made|asked|stands?|word|lay|laid|gathered|happened|anew|freedom)(?:_|$)", re.I
)
# Terms that only look like one of them.
TERMS = {
    "degrees_of_freedom",
    "_degrees_of_freedom",
    "STAND_INS",
    "is_asked_for",
    "pressure_as_asked",
} | {"MOST_SYMPTOMS_ASKED"}
MOST_MODULES_OF_A_FOLDER = 14


@pytest.fixture(scope="module")
def all_modules():
    """Every module of the sources, read: hundreds of trees, for this file's tests alone."""
    return modules(SOURCE)


@pytest.fixture(scope="module")
def functions(all_modules):
    return [(m.path, f) for m in all_modules for f in m.functions]


def names_of(tree: ast.Module) -> set[str]:
    """Every name that a module gives: functions, classes, arguments, variables, fields."""
    found = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
            found.add(node.name)
        elif isinstance(node, ast.arg):
            found.add(node.arg)
        elif isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store):
            found.add(node.id)
    return found


def test_every_argument_and_result_is_annotated(functions):
    missing = [
        f"{path.relative_to(SOURCE)}:{function.lineno} {function.name}"
        for path, function in functions
        if function.returns is None or any(a.annotation is None for a in arguments(function))
    ]
    assert not missing


def test_functions_and_modules_are_seldom_long(all_modules, functions):
    long = [length(f) for _, f in functions if length(f) > 30]
    assert len(long) <= 0.025 * len(functions)
    assert max(long) < 70
    lines = [m.lines for m in all_modules]
    assert sum(n > 300 for n in lines) <= 0.05 * len(lines)
    # One file is a list of drawings, one function each.
    assert sorted(lines)[-2] <= 370


def test_every_module_says_what_it_is_for(all_modules):
    # A package that only leads to commands or tags holds nothing.
    silent = [m.path for m in all_modules if not ast.get_docstring(m.tree) and m.tree.body]
    assert silent == []


def test_a_folder_has_about_a_dozen_modules(all_modules):
    folders = {m.path.parent for m in all_modules}
    counts = {f: len([m for m in all_modules if m.path.parent == f]) for f in folders}
    assert {f: n for f, n in counts.items() if n > MOST_MODULES_OF_A_FOLDER} == {}


def public_functions(module):
    for node in ast.walk(module.tree):
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            yield from (n for n in node.body if isinstance(n, ast.FunctionDef))
    yield from (n for n in module.tree.body if isinstance(n, ast.FunctionDef))


def is_numeric(function: ast.FunctionDef) -> bool:
    """Whether it takes or gives figures."""
    notes = [a.annotation for a in arguments(function)] + [function.returns]
    return any(n is not None and re.search("float|ndarray|Array", ast.unparse(n)) for n in notes)


def test_docstrings_of_the_core_give_units(all_modules):
    missing = [
        f"{m.path.relative_to(CORE)}: {function.name}"
        for m in all_modules
        if CORE in m.path.parents
        for function in public_functions(m)
        if not function.name.startswith("_")
        and is_numeric(function)
        and not UNIT.search(ast.get_docstring(function) or "")
    ]
    assert not missing


@pytest.mark.parametrize("name", PHYSICS)
def test_physics_gives_its_equation_range_and_source(name):
    text = ast.get_docstring(ast.parse((CORE / f"{name}.py").read_text())) or ""
    for part in ("Equation: ", "Range: ", "Source: "):
        assert re.search(rf"^{part}\S", text, re.MULTILINE), part


def test_names_are_the_field_s_own(all_modules):
    found = {
        name: str(m.path.relative_to(SOURCE))
        for m in all_modules
        for name in names_of(m.tree)
        if PRIVATE_WORDS.search(name) and name not in TERMS
    }
    assert found == {}


def test_a_class_name_stands_for_one_thing(all_modules):
    seen: dict[str, str] = {}
    twice = []
    for m in all_modules:
        for node in ast.walk(m.tree):
            if isinstance(node, ast.ClassDef) and node.name not in ("Meta", "Command"):
                if node.name in seen:
                    twice.append((node.name, seen[node.name], str(m.path)))
                seen[node.name] = str(m.path)
    assert twice == []


def test_lines_of_templates_are_short():
    long = [
        f"{path.name}:{number}"
        for path in SOURCE.rglob("*.html")
        for number, line in enumerate(path.read_text().splitlines(), 1)
        if len(line) > 120
    ]
    assert long == []


def test_a_quarter_of_the_code_is_tests(all_modules):
    def lines(folder: str) -> int:
        return sum(p.read_text().count("\n") for p in (ROOT / folder).rglob("*.py"))

    tests, own = lines("tests"), sum(m.lines for m in all_modules) + lines("launcher")
    assert tests / (tests + own) >= 0.25


GLOSSARY = (ROOT / "docs" / "glossary.md").read_text()


def test_the_terms_of_the_code_are_in_the_glossary(all_modules):
    """Public classes of the core are the terms of the trade: each is in the table of names."""
    listed = set(re.findall(r"`([A-Za-z_.]+)`", GLOSSARY))
    classes = {
        node.name
        for m in all_modules
        if CORE in m.path.parents
        for node in m.tree.body
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_")
    }
    assert classes - listed == set()
    known = classes | {n for m in all_modules for n in names_of(m.tree)}
    gone = {n for n in listed if re.fullmatch("[A-Z][a-z]+[A-Za-z]*", n)} - known
    assert gone == set()
