"""`tempermark COMMAND FILE|- [--batch]`: one JSON document in, one out."""

import importlib
import json
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from tempermark.core.errors import InputError
from tempermark.files.document import TEXT_LIMIT_BYTES, parse_json

# Command → module with `answer(document) -> document`; imported when called.
COMMANDS = {
    "reading": "tempermark.files.reading",
    "survey": "tempermark.files.survey",
    "setpoint": "tempermark.files.setpoint",
    "pressure": "tempermark.files.pressure",
    "simulate": "tempermark.files.press",
    "window": "tempermark.files.window",
    "outcome": "tempermark.files.outcome",
    "bleed": "tempermark.files.preparing.bleed",
    "wrap": "tempermark.files.preparing.wrap",
    "mix": "tempermark.files.preparing.mix",
    "cool": "tempermark.files.cool",
    "diagnose": "tempermark.files.case",
    "search": "tempermark.files.experiments.search",
    "plan": "tempermark.files.planning.plan",
}
# Commands that also draw: module with `drawing(document) -> SVG`.
DRAWN = ("wrap",)
USAGE = "tempermark COMMAND FILE|- [--batch | --svg OUT.svg]"


def main(arguments: list[str]) -> int:
    """Run one command; 0, or 2 with a JSON error object on stderr."""
    try:
        arguments, svg = _without_svg(arguments)
        command, source, batch = _arguments(arguments)
        module = importlib.import_module(COMMANDS[command])
        if svg is not None and (batch or command not in DRAWN):
            raise InputError.single(None, f"--svg goes with one document of {DRAWN[0]}.", "usage")
        if batch:
            return _batch(module.answer, source)
        raw = _read(source)
        text = _dump(_respond(module.answer, raw))
        if svg is not None:
            _write(svg, module.drawing(parse_json(raw)))
        print(text)
    except InputError as error:
        print(_dump(error.as_document()), file=sys.stderr)
        return 2
    return 0


def _arguments(arguments: list[str]) -> tuple[str, str, bool]:
    names = [a for a in arguments if a != "--batch"]
    if not names or names[0] not in COMMANDS:
        known = ", ".join(COMMANDS)
        query = f"“{names[0][:60]}” is no command" if names else "No command given"
        raise InputError.single(None, f"{query}. Known: {known}. {USAGE}", "unknown_command")
    if len(names) != 2:
        raise InputError.single(None, f"One file, or - for standard input: {USAGE}", "usage")
    return names[0], names[1], "--batch" in arguments


def _without_svg(arguments: list[str]) -> tuple[list[str], str | None]:
    """The arguments but `--svg OUT.svg`, and that file's name where it is given."""
    if "--svg" not in arguments:
        return arguments, None
    at = arguments.index("--svg")
    if at + 1 == len(arguments):
        raise InputError.single(None, f"--svg names no file: {USAGE}", "usage")
    return arguments[:at] + arguments[at + 2 :], arguments[at + 1]


def _write(name: str, text: str) -> None:
    try:
        Path(name).write_text(text, encoding="utf-8")
    except OSError as error:
        raise InputError.single(
            None, f"{name}: {error.strerror or error}. Name a file that can be written.", "no_file"
        ) from None


def _read(source: str) -> bytes:
    with _open(source) as stream:
        return bytes(stream.read(TEXT_LIMIT_BYTES + 1))


def _open(source: str) -> Any:
    if source == "-":
        return sys.stdin.buffer
    try:
        return Path(source).open("rb")  # closed by the callers' with
    except OSError as error:
        raise InputError.single(
            None, f"{source}: {error.strerror or error}. Give a file, or -.", "no_file"
        ) from None


def _respond(respond: Callable[[object], dict[str, Any]], raw: bytes) -> dict[str, Any]:
    """The answer; what no check foresaw is still an error object, never a traceback."""
    document = parse_json(raw)
    try:
        return respond(document)
    except InputError:
        raise
    except (ArithmeticError, ValueError, MemoryError) as error:
        raise InputError.single(
            None,
            f"This input cannot be computed ({type(error).__name__}): check its figures.",
            "not_computable",
        ) from error


def _batch(respond: Callable[[object], dict[str, Any]], source: str) -> int:
    for line in _lines(source):
        try:
            print(_dump(_respond(respond, line)))
        except InputError as error:
            print(_dump(error.as_document()))
    return 0


def _lines(source: str) -> Iterator[bytes]:
    with _open(source) as stream:
        for line in stream:
            if line.strip():
                yield line


def _dump(document: dict[str, Any]) -> str:
    return json.dumps(document, ensure_ascii=False, allow_nan=False)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
