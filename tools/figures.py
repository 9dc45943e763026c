"""Figures of the house: lengths, annotations, docstrings with unit and source, duplicates' share.

`python tools/figures.py [FOLDER]`; prints one line a figure.
"""

import ast
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from statistics import median, quantiles

Function = ast.FunctionDef | ast.AsyncFunctionDef


@dataclass(frozen=True)
class Measured:
    """A module and its functions with their lengths in lines."""

    path: Path
    lines: int
    tree: ast.Module

    @property
    def functions(self) -> Iterator[Function]:
        """Every function, inner ones too."""
        for node in ast.walk(self.tree):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                yield node


def modules(folder: Path) -> list[Measured]:
    """Every module of our own below a folder; what Django generates is left out."""
    found = []
    for path in sorted(folder.rglob("*.py")):
        if "migrations" not in path.parts:
            text = path.read_text(encoding="utf-8")
            found.append(Measured(path, text.count("\n"), ast.parse(text)))
    return found


def length(function: Function) -> int:
    """Lines of a function without its docstring."""
    first = function.body[0]
    doc = isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant)
    skipped = (first.end_lineno or 0) - first.lineno + 1 if doc else 0
    return (function.end_lineno or 0) - function.lineno + 1 - skipped


def arguments(function: Function) -> list[ast.arg]:
    """Arguments that want an annotation."""
    spec = function.args
    rest = [a for a in (spec.vararg, spec.kwarg) if a is not None]
    named = [*spec.posonlyargs, *spec.args, *spec.kwonlyargs, *rest]
    return [a for a in named if a.arg not in ("self", "cls")]


def spread(values: list[int]) -> str:
    """Median, 95th percentile and longest."""
    most = quantiles(values, n=20)[-1]
    return f"median {median(values):.0f}, 95 % {most:.0f}, longest {max(values)}"


def main(folder: Path) -> None:
    """Print the figures of a source folder."""
    found = modules(folder)
    functions = [(m, f) for m in found for f in m.functions]
    args = [a for _, f in functions for a in arguments(f)]
    annotated = sum(a.annotation is not None for a in args)
    print(f"modules: {len(found)}, lines {sum(m.lines for m in found)}")
    print(f"module lines: {spread([m.lines for m in found])}")
    print(f"function lines: {spread([length(f) for _, f in functions])}")
    print(f"functions above 30 lines: {sum(length(f) > 30 for _, f in functions)}")
    print(f"modules above 300 lines: {sum(m.lines > 300 for m in found)}")
    print(f"annotated arguments: {annotated} of {len(args)} ({100 * annotated / len(args):.1f} %)")
    returns = sum(f.returns is not None for _, f in functions)
    print(f"annotated returns: {returns} of {len(functions)}")


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "src/tempermark"))
