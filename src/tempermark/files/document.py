"""Reading a JSON document: strict, bounded, every problem with its key path.

A value that is wrong is None and its problem noted: `done` raises before anybody uses it.
"""

import json
import math
from collections.abc import Iterator, Sequence
from difflib import get_close_matches
from typing import Any

from tempermark.core.constants import TEMPERATURE_RANGE_C
from tempermark.core.errors import InputError, Problem

# So many codes are named where one is unknown.
MOST_KNOWN = 12
TEXT_LIMIT_BYTES = 64 * 1024 * 1024
MOST_PROBLEMS = 50
REQUIRED = object()


def parse_json(text: bytes | str) -> object:
    """The value in `text`; NaN, Infinity, bad encoding and depth are refused."""
    raw = text.encode("utf-8", "surrogatepass") if isinstance(text, str) else text
    if len(raw) > TEXT_LIMIT_BYTES:
        raise InputError.single(None, "The text is over 64 MB: split it.", "too_large")
    try:
        value = json.loads(raw.decode("utf-8-sig"), parse_constant=_refuse_constant)
    except UnicodeDecodeError as error:
        message = f"Not UTF-8 text (byte {error.start + 1}): save it as UTF-8."
    except json.JSONDecodeError as error:
        message = f"Not JSON: {error.msg} at line {error.lineno}, column {error.colno}."
    except RecursionError:
        message = "Not a document of ours: nested too deeply."
    except ValueError as error:
        message = f"Not JSON: {error}."
    else:
        # Only an escape can bring what UTF-8 itself refuses.
        if b"\\u" not in raw or all(map(_can_be_kept, _texts(value))):
            return value
        message = "Not text: a NUL or half a character stands in it; write it anew as UTF-8."
    raise InputError.single(None, message, "not_json")


def _texts(value: object) -> Iterator[str]:
    """Every text in a value, keys too."""
    left = [value]
    while left:
        one = left.pop()
        if isinstance(one, str):
            yield one
        elif isinstance(one, dict):
            left += [*one, *one.values()]
        elif isinstance(one, list):
            left += one


def _can_be_kept(text: str) -> bool:
    """Whether a text is one that UTF-8 and the database can hold: no NUL, no lone surrogate."""
    return "\0" not in text and not any("\ud800" <= sign <= "\udfff" for sign in text)


def _refuse_constant(name: str) -> None:
    raise ValueError(f"{name} is no number; leave the key out or give a figure")


class Fields:
    """One JSON object being read; problems gather until `done` raises them together."""

    def __init__(self, data: object, path: str = "", problems: list[Problem] | None = None) -> None:
        self.problems: list[Problem] = [] if problems is None else problems
        self.path = path
        if not isinstance(data, dict):
            self.problem("", f"is {_kind(data)}; an object is needed", "wrong_type")
            data = {}
        self.data: dict[str, Any] = data

    def at(self, key: str) -> str | None:
        """The key's path in the whole document."""
        joined = f"{self.path}.{key}" if self.path and key else self.path or key
        return joined or None

    def problem(self, key: str, message: str, code: str = "bad_value") -> None:
        """Note a problem; a document that is all wrong is not listed to its end."""
        if len(self.problems) < MOST_PROBLEMS:
            name = self.at(key) or "The document"
            self.problems.append(Problem(self.at(key), f"{name} {message}.", code))

    def done(self) -> None:
        """Raise InputError if anything was wrong."""
        if self.problems:
            raise InputError(self.problems)

    def has(self, key: str) -> bool:
        """Whether the key is there and not null."""
        return self.data.get(key) is not None

    def _value(self, key: str, default: Any) -> Any:
        value = self.data.get(key)
        if value is None and default is REQUIRED:
            self.problem(key, "is missing", "missing_key")
        return value

    def number(
        self,
        key: str,
        low: float = -math.inf,
        high: float = math.inf,
        default: Any = REQUIRED,
        unit: str = "",
        above: bool = False,
    ) -> Any:
        """A finite number in [low, high] (`above`: greater than low)."""
        value = self._value(key, default)
        if value is None:
            return None if default is REQUIRED else default
        if isinstance(value, bool) or not isinstance(value, (int, float)):
            self.problem(key, f"is {_kind(value)}; a number is needed", "wrong_type")
            return None
        return self._within(key, value, low, high, unit, above)

    def _within(
        self, key: str, value: float, low: float, high: float, unit: str, above: bool
    ) -> float | None:
        try:
            number = float(value)
        except OverflowError:
            number = math.inf
        if not math.isfinite(number):
            self.problem(key, "is not a finite number", "bad_value")
            return None
        if number > high or number < low or (above and number == low):
            self.problem(
                key, f"is {number:g}; right is {_span(low, high, unit, above)}", "out_of_range"
            )
            return None
        return number

    def temperature(self, key: str, default: Any = REQUIRED) -> Any:
        """A temperature in °C within −50…600."""
        return self.number(key, *TEMPERATURE_RANGE_C, default=default, unit=" °C")

    def choice(self, key: str, codes: Sequence[str], default: Any = REQUIRED) -> Any:
        """One of the codes."""
        value = self._value(key, default)
        if value is None:
            return None if default is REQUIRED else default
        if not isinstance(value, str) or value not in codes:
            shown = value[:60] if isinstance(value, str) else _kind(value)
            near = _nearest(value, codes) if isinstance(value, str) else None
            hint = f"the nearest is {near}" if near else _known(codes)
            self.problem(key, f"is “{shown}”, which is unknown; {hint}", "unknown_code")
            return None
        return value

    def codes(self, key: str, known: Sequence[str], limit: int = 500) -> list[str]:
        """A list of codes, empty when missing."""
        found = []
        for index, value in enumerate(self.items(key, 0, limit, default=[])):
            inner = Fields({f"{key}[{index}]": value}, self.path, self.problems)
            code = inner.choice(f"{key}[{index}]", known)
            if code is not None:
                found.append(code)
        return found

    def text(self, key: str, default: Any = REQUIRED, limit: int = TEXT_LIMIT_BYTES) -> Any:
        """A string."""
        value = self._value(key, default)
        if value is None:
            return None if default is REQUIRED else default
        if not isinstance(value, str):
            self.problem(key, f"is {_kind(value)}; text is needed", "wrong_type")
            return None
        if len(value) > limit:
            self.problem(key, f"is over {limit} characters", "too_large")
            return None
        return value

    def flag(self, key: str, default: Any = None) -> Any:
        """true or false."""
        value = self._value(key, default)
        if value is not None and not isinstance(value, bool):
            self.problem(key, f"is {_kind(value)}; true or false is needed", "wrong_type")
            return default
        return default if value is None else value

    def object(self, key: str, default: Any = REQUIRED) -> Any:
        """A nested object."""
        value = self._value(key, default)
        if value is None:
            return None
        return Fields(value, self.at(key) or "", self.problems)

    def items(self, key: str, fewest: int, most: int, default: Any = REQUIRED) -> list[Any]:
        """A list of between `fewest` and `most` entries."""
        value = self._value(key, default)
        if value is None:
            return []
        if not isinstance(value, list):
            self.problem(key, f"is {_kind(value)}; a list is needed", "wrong_type")
            return []
        if len(value) < fewest:
            self.problem(key, f"holds {len(value)} entries; at least {fewest} needed", "too_few")
            return []
        if len(value) > most:
            self.problem(key, f"holds {len(value)} entries; at most {most} allowed", "too_many")
            return []
        return value

    def objects(self, key: str, fewest: int, most: int, default: Any = REQUIRED) -> list["Fields"]:
        """A list of objects."""
        base = self.at(key)
        return [
            Fields(entry, f"{base}[{index}]", self.problems)
            for index, entry in enumerate(self.items(key, fewest, most, default))
        ]

    def window(
        self, key: str, low: float, high: float, unit: str = "", default: Any = REQUIRED
    ) -> tuple[float, float] | None:
        """A pair [lo, hi] with lo ≤ hi, both within [low, high]."""
        ends = self.pair(key, low, high, unit, default)
        if ends is not None and ends[0] > ends[1]:
            self.problem(key, f"runs from {ends[0]:g} down to {ends[1]:g}; lowest first")
            return None
        return ends

    def pair(
        self, key: str, low: float, high: float, unit: str = "", default: Any = REQUIRED
    ) -> tuple[float, float] | None:
        """Two numbers within [low, high], such as a width and a height."""
        items = self.items(key, 2, 2, default)
        if len(items) != 2:
            return None
        inner = Fields({f"{key}[{i}]": v for i, v in enumerate(items)}, self.path, self.problems)
        first, second = (inner.number(f"{key}[{i}]", low, high, unit=unit) for i in (0, 1))
        return None if first is None or second is None else (first, second)


def read_format(data: object, expected: str) -> Fields:
    """The document's fields, its `format` checked first."""
    fields = Fields(data)
    fields.done()
    name = fields.data.get("format")
    if name is None:
        raise InputError.single(
            "format", f"format is missing: “{expected}” is needed.", "missing_key"
        )
    if name != expected:
        shown = name[:60] if isinstance(name, str) else _kind(name)
        raise InputError.single(
            "format", f"format is “{shown}”: “{expected}” is needed.", "unknown_format"
        )
    return fields


def _known(codes: Sequence[str]) -> str:
    """The first codes of a list, and how many more there are."""
    more = len(codes) - MOST_KNOWN
    shown = "known are " + ", ".join(codes[:MOST_KNOWN])
    return f"{shown} and {more} more" if more > 0 else shown


def _span(low: float, high: float, unit: str, above: bool) -> str:
    if math.isinf(high):
        return f"{'above' if above else 'at least'} {low:g}{unit}"
    if math.isinf(low):
        return f"at most {high:g}{unit}"
    return f"{'above ' if above else ''}{low:g} to {high:g}{unit}"


def _kind(value: object) -> str:
    if value is None:
        return "null"
    if isinstance(value, bool):
        return "true or false"
    names = {dict: "an object", list: "a list", str: "text", int: "a number", float: "a number"}
    return names.get(type(value), "of another kind")


def _nearest(value: str, codes: Sequence[str]) -> str | None:
    near = get_close_matches(value, codes, n=1)
    return near[0] if near else None
