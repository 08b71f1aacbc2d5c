"""Reads the TOML of a suite file into its model, with everything that is wrong named by line."""

from __future__ import annotations

import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any

import tomli
from msgspec import Struct, field
from pydantic import ValidationError

from fieldstick.errors import Problem, UsageError, hint
from fieldstick.suites.model import (
    FORMAT,
    DefaultsTable,
    FieldTable,
    MatchTable,
    PatternTable,
    SampleTable,
    SuiteTable,
    Table,
)
from fieldstick.suites.places import Path, locate
from fieldstick.suites.suite import line_of
from fieldstick.suites.uses import SECTIONS

if TYPE_CHECKING:
    from pathlib import Path as FilePath

    from pydantic_core import ErrorDetails

_TWICE = re.compile(r"Cannot (declare|overwrite|mutate)")
_WORDS_OF_TYPE = {
    "string_type": "a text",
    "int_type": "a whole number",
    "bool_type": "true or false",
    "list_type": "an array",
    "dict_type": "a table",
    "model_type": "a table",
    "model_attributes_type": "a table",
}
_STAND_INS: dict[str, Any] = {"format": FORMAT, "suite": "unnamed"}


class Document(Struct):
    """A suite file as read: its text, its model, what is wrong with it so far.

    `table` is None when nothing could be made of the file. `damaged` holds the paths of values that were
    wrong and are left out of `table`, so that later checks do not complain of them again.
    """

    file: str
    location: FilePath
    text: str = ""
    table: SuiteTable | None = None
    problems: list[Problem] = field(default_factory=list)
    damaged: set[Path] = field(default_factory=set)
    _lines: dict[Path, int] | None = None

    def line_of(self, path: Path) -> int:
        """Return the line on which the value at `path` begins."""
        if self._lines is None:
            self._lines = locate(self.text)
        return line_of(self._lines, path)

    def problem(self, path: Path, message: str) -> None:
        """Note something wrong with the value at `path`."""
        self.problems.append(Problem(self.file, self.line_of(path), message))

    def is_damaged(self, path: Path) -> bool:
        """Tell whether something at `path` or below it was left out."""
        return bool(self.damaged) and any(each[: len(path)] == path for each in self.damaged)


def read_document(file: str, location: FilePath) -> Document:
    """Read a suite file; what is wrong with it stands in `problems`.

    Raises UsageError when there is no such file, or it cannot be opened.
    """
    document = Document(file, location)
    try:
        raw = location.read_bytes()
    except OSError as error:
        raise UsageError(f"{file}: cannot be read: {error.strerror or error}") from None
    text = _decoded(document, raw)
    if text is None:
        return document
    document.text = text
    data = _parsed(document)
    if data is not None:
        document.table = _validated(document, data)
    return document


def _decoded(document: Document, raw: bytes) -> str | None:
    try:
        return raw.decode("utf-8").removeprefix("\N{ZERO WIDTH NO-BREAK SPACE}").replace("\r\n", "\n")
    except UnicodeDecodeError as error:
        line = raw.count(b"\n", 0, error.start) + 1
        document.problems.append(
            Problem(document.file, line, f"not UTF-8: byte 0x{raw[error.start]:02X}; save the file as UTF-8")
        )
        return None


def _parsed(document: Document) -> dict[str, Any] | None:
    """Parse the TOML; a name used twice is noted, and the reading goes on with the second under no name."""
    lines = document.text.split("\n")
    for _ in range(len(lines)):
        try:
            data = tomli.loads("\n".join(lines), parse_float=Decimal)
        except tomli.TOMLDecodeError as error:
            again = _without_second(document, lines, error)
            if again is None:
                return None
            lines = again
        except RecursionError:
            document.problems.append(Problem(document.file, 0, "tables or arrays are nested too deeply"))
            return None
        else:
            document.text = "\n".join(lines)
            return data
    return None


def _without_second(document: Document, lines: list[str], error: tomli.TOMLDecodeError) -> list[str] | None:
    line = lines[error.lineno - 1] if error.lineno <= len(lines) else ""
    header = re.fullmatch(r"\s*(\[\[?)(.*?)\]\]?\s*(#.*)?", line)
    simple = re.fullmatch(r"\s*(?P<key>[^=\[\]\"']+?)\s*=(?!\s*(\"\"\"|'''|\[\s*$)).*", line)
    if not _TWICE.match(error.msg) or not (header or simple):
        document.problems.append(_not_toml(document, lines, error))
        return None
    changed = list(lines)
    number = error.lineno - 1
    if header:
        first = _first_line(lines[:number], rf"\s*\[\[?\s*{re.escape(header[2].strip())}\s*\]\]?\s*(#.*)?")
        name, changed[number] = f"[{header[2].strip()}]", f"{header[1]}again-{number}{']' * len(header[1])}"
        document.damaged.add((f"again-{number}",))
    else:
        assert simple is not None
        first = _first_line(lines[:number], rf"\s*{re.escape(simple['key'])}\s*=.*", last=True)
        name, changed[number] = f"'{simple['key']}'", ""
    told = f"; the first is on line {first}" if first else ""
    document.problems.append(Problem(document.file, error.lineno, f"{name} is there twice{told}"))
    return changed


def _not_toml(document: Document, lines: list[str], error: tomli.TOMLDecodeError) -> Problem:
    if error.msg == 'Expected "\'"':
        for number, line in enumerate(lines, 1):
            if re.fullmatch(r"[^'\"#]*'(?!'')[^']*", line):
                return Problem(document.file, number, "not TOML: a text in quotes is not closed on its line")
    if error.msg.endswith("character '\\n'"):
        return Problem(document.file, error.lineno, "not TOML: a text in quotes is not closed on its line")
    where = "" if error.pos < len(error.doc) else "at the end of the file: "
    return Problem(document.file, error.lineno, f"not TOML: {where}{_lower(error.msg)}")


def _lower(message: str) -> str:
    return message[:1].lower() + message[1:]


def _first_line(lines: list[str], expression: str, *, last: bool = False) -> int | None:
    found = [number for number, line in enumerate(lines, 1) if re.fullmatch(expression, line)]
    return found[-1 if last else 0] if found else None


def _validated(document: Document, data: dict[str, Any]) -> SuiteTable | None:
    for key in [key for key in data if (key,) in document.damaged]:
        del data[key]
    model: type[SuiteTable] = _with_uses().SuiteTableWithUses if data.keys() & set(SECTIONS) else SuiteTable
    try:
        return model.model_validate(data)
    except ValidationError as error:
        for each in error.errors(include_url=False):
            _note(document, data, each)
    try:
        return model.model_validate(data)
    except ValidationError:
        return None


def _note(document: Document, data: dict[str, Any], error: ErrorDetails) -> None:
    path: Path = tuple(key for key in error["loc"] if key != "[key]")
    if path[0] == "format" and error["type"] == "literal_error":
        message = f"format is {_shown(error['input'])}; this version reads format {FORMAT}"
    else:
        message = _message(path, error)
    missing = error["type"] == "missing"
    document.problem(path[:-1] if missing else path, message)
    document.damaged.add(path)
    _leave_out(data, path)


def _leave_out(data: dict[str, Any], path: Path) -> None:
    holder: Any = data
    for key in path[:-1]:
        try:
            holder = holder[key]
        except (KeyError, IndexError, TypeError):
            return
    last = path[-1]
    if isinstance(holder, dict):
        holder.pop(last, None)
        if holder is data and last in _STAND_INS:
            holder[last] = _STAND_INS[last]
    elif isinstance(holder, list) and isinstance(last, int) and last < len(holder):
        holder[last] = _harmless(path)


def _harmless(path: Path) -> Any:
    """Return what stands in for a wrong item of an array, so that the others keep their number."""
    if path[-2] in ("positive", "negative"):
        return {"note": "left out"}
    if path[-2] == "flags":
        return "ascii"
    return {} if path[-2] == "matches" else "left-out"


def _message(path: Path, error: ErrorDetails) -> str:
    kind, key, given = error["type"], str(path[-1]), error["input"]
    context = error.get("ctx") or {}
    if kind == "extra_forbidden":
        return f"unknown key '{key}'{_key_hint(path)}"
    if kind == "missing":
        return f"the key '{key}' is missing"
    if kind == "literal_error":
        choices = re.findall(r"'([^']*)'", str(context["expected"]))
        listed = ", ".join(choices[:-1]) + f" or {choices[-1]}" if len(choices) > 1 else choices[0]
        return f"{_subject(path)} is {_shown(given)}; choose {listed}{_near(given, choices)}"
    if kind in _WORDS_OF_TYPE:
        return f"{_subject(path)} must be {_WORDS_OF_TYPE[kind]}, not {_shown(given)}"
    if kind in ("greater_than_equal", "less_than_equal"):
        bound = f"at least {context['ge']}" if "ge" in context else f"at most {context['le']}"
        return f"{_subject(path)} is {_shown(given)}; it must be {bound}"
    if kind == "too_short":
        return f"{_subject(path)} is an empty array; name at least one"
    if kind in ("string_too_short", "string_too_long"):
        return f"{_subject(path)} must be one character, not {_shown(given)}"
    return error["msg"] if kind in ("name", "take") else f"{_subject(path)}: {error['msg']}"


def _subject(path: Path) -> str:
    """Name a value by its key, an item of an array by its number and its array's key."""
    if isinstance(path[-1], int) and len(path) > 1:
        return f"item {path[-1] + 1} of '{path[-2]}'"
    return f"'{path[-1]}'"


def _near(given: Any, choices: list[str]) -> str:
    found = hint(given, choices) if isinstance(given, str) else ""
    return found if "nearest" in found else ""


def _shown(value: Any) -> str:
    if isinstance(value, str):
        return f"'{value[:40]}'" + ("…" if len(value) > 40 else "")
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, dict | list):
        return "a table" if isinstance(value, dict) else "an array"
    return str(value)


_TABLES: dict[str, type[Table]] = {
    "a suite": SuiteTable,
    "[defaults]": DefaultsTable,
    "a pattern": PatternTable,
    "a field": FieldTable,
    "a sample": SampleTable,
    "a match": MatchTable,
}


def _with_uses() -> Any:
    """Load the models of uses, which most files and most runs do without."""
    from fieldstick.suites import use_model

    return use_model


def _tables() -> dict[str, type[Table]]:
    uses = _with_uses()
    return {
        **_TABLES,
        "a rewrite": uses.RewriteTable,
        "a split": uses.SplitTable,
        "a route": uses.RouteTable,
        "a lookup": uses.LookupTable,
        "a form": uses.FormTable,
    }


def _use_table(section: str, *, sample: bool) -> type[Table]:
    """Return the model of a use of one section, or of one of its samples."""
    name = section.removesuffix("s").capitalize()
    found: type[Table] = getattr(_with_uses(), f"{name}SampleTable" if sample else f"{name}Table")
    return found


def _keys_of(table: type[Table]) -> list[str]:
    return [found.alias or name for name, found in table.model_fields.items()]


def _key_hint(path: Path) -> str:
    here = _table_at(path[:-1])
    homes = [name for name, table in _tables().items() if table is not here and path[-1] in _keys_of(table)]
    return f"; it is a key of {homes[0]}" if homes else hint(str(path[-1]), _keys_of(here))


def _table_at(path: Path) -> type[Table]:
    """Return the model of the table at a path."""
    if path[:1] == ("defaults",):
        return DefaultsTable
    if len(path) >= 2 and path[0] in SECTIONS:
        return _use_table(str(path[0]), sample=len(path) >= 4 and path[2] == "samples")
    if path[:1] != ("patterns",):
        return SuiteTable
    if len(path) >= 6 and path[4] == "matches":
        return MatchTable
    if len(path) >= 4:
        return FieldTable if path[2] == "fields" else SampleTable
    return PatternTable
