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
    "cool": "tempermark.files.cool",
    "diagnose": "tempermark.files.case",
}
USAGE = "tempermark COMMAND FILE|- [--batch]"


def main(arguments: list[str]) -> int:
    """Run one command; 0, or 2 with a JSON error object on stderr."""
    try:
        command, source, batch = _arguments(arguments)
        respond = importlib.import_module(COMMANDS[command]).answer
        if batch:
            return _batch(respond, source)
        print(_dump(_respond(respond, _read(source))))
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
