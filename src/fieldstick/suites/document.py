"""Reads the TOML of a suite file into its model, with everything that is wrong named by line."""

from __future__ import annotations

import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any

import tomli
from msgspec import Struct, field

from fieldstick.errors import UsageError
from fieldstick.lean import compiled_later
from fieldstick.problem import Problem
from fieldstick.suites.model import (
    FORMAT,
    DefaultsTable,
    FieldTable,
    MatchTable,
    PatternTable,
    SampleTable,
    SuiteTable,
    Table,
    TrialTable,
    converted,
)
from fieldstick.suites.sections import suite_model
from fieldstick.suites.suite import line_of

if TYPE_CHECKING:
    from fieldstick.suites.places import Path
    from fieldstick.suites.sections import Sections
    from fieldstick.suites.tables import Mistake

_TWICE = compiled_later(r"Cannot (declare|overwrite|mutate)")
_OWN_KEYS = frozenset(SuiteTable.__struct_encode_fields__)
_STAND_INS: dict[str, Any] = {"format": FORMAT, "suite": "unnamed"}


class Document(Struct):
    """A suite file as read: its text, its model, what is wrong with it so far.

    `table` is None when nothing could be made of the file. `damaged` holds the paths of values that were
    wrong and are left out of `table`, so that later checks do not complain of them again.
    """

    file: str
    location: str
    text: str = ""
    table: SuiteTable | None = None
    sections: dict[str, dict[str, Any]] = field(default_factory=dict)
    """The tables of the operations, by section and name."""
    problems: list[Problem] = field(default_factory=list)
    damaged: set[Path] = field(default_factory=set)
    _lines: dict[Path, int] | None = None

    def line_of(self, path: Path) -> int:
        """Return the line on which the value at `path` begins."""
        if self._lines is None:
            from fieldstick.suites.places import locate

            self._lines = locate(self.text)
        return line_of(self._lines, path)

    def problem(self, path: Path, message: str) -> None:
        """Note something wrong with the value at `path`, unless it was left out: then it stands for nothing."""
        if self.damaged and any(path[: len(each)] == each for each in self.damaged):
            return
        self.problems.append(Problem(self.file, self.line_of(path), message))

    def is_damaged(self, path: Path) -> bool:
        """Tell whether something at `path` or below it was left out."""
        return bool(self.damaged) and any(each[: len(path)] == path for each in self.damaged)


def read_document(file: str, location: str, sections: Sections, edited: str | None = None) -> Document:
    """Read a suite file; what is wrong with it stands in `problems`. What is `edited` is taken for what it holds.

    Raises UsageError when there is no such file, or it cannot be opened.
    """
    document = Document(file, location)
    try:
        if edited is not None:
            raw = edited.encode("utf-8", "surrogatepass")
        else:
            with open(location, "rb") as stream:
                raw = stream.read()
    except OSError as error:
        raise UsageError(f"{file}: cannot be read: {error.strerror or error}") from None
    text = _decoded(document, raw)
    if text is None:
        return document
    document.text = text
    data = _parsed(document)
    if data is not None:
        document.table = _read_tables(document, data, sections)
        if document.table is not None:
            document.sections = {key: getattr(document.table, key) for key in data if key not in _OWN_KEYS}
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


def _read_tables(document: Document, data: dict[str, Any], sections: Sections) -> SuiteTable | None:
    for key in [key for key in data if (key,) in document.damaged]:
        del data[key]
    others = data.keys() - _OWN_KEYS
    model = suite_model(sections, [name for name in sections.names() if name in others] if others else ())
    table = converted(data, model)
    if table is not None:
        return table
    from fieldstick.suites.tables import mistakes

    found = mistakes(data, model)
    for each in found:
        document.problem(each.path, each.words if each.key is None else _unknown_key(each, model, sections))
        document.damaged.add(each.damaged)
    for each in reversed(found):
        _leave_out(data, _without_lack(each))
    table = converted(data, model)
    if not found:
        document.problem((), "a value does not have the shape that it should have")
    return table


def _without_lack(mistake: Mistake) -> Path:
    """Return the path of what is to be left out: for a key that is missing, the named table that lacks it."""
    path = mistake.damaged
    if len(path) == 1 or len(path) == len(mistake.path):
        return path
    path = mistake.path
    while len(path) > 1 and isinstance(path[-1], int):
        path = path[:-1]
    return path


def _unknown_key(mistake: Mistake, model: type[SuiteTable], sections: Sections) -> str:
    """Say of a key that a table does not have in which other table it belongs, or else which key is the nearest."""
    here = _called(mistake.path[:-1], sections)
    homes = [name for name, table in _tables(sections).items() if name != here and mistake.key in _keys_of(table)]
    return f"unknown key '{mistake.key}'; it is a key of {homes[0]}" if homes else mistake.words


def _leave_out(data: dict[str, Any], path: Path) -> None:
    """Take a value out of the data; of a table that lacks a key, the table with what it stands in."""
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
    if path[-2] == "trials":
        return {"data": "."}
    return {} if path[-2] == "matches" else "left-out"


def _tables(sections: Sections) -> dict[str, type[Table]]:
    found: dict[str, type[Table]] = {
        "a suite": suite_model(sections, sections.names()),
        "[defaults]": DefaultsTable,
        "a pattern": PatternTable,
        "a field": FieldTable,
        "a sample": SampleTable,
        "a match": MatchTable,
        "a trial": TrialTable,
    }
    for name in sections.names():
        found[f"a {name.removesuffix('s')}"] = sections.section(name).table
        found[f"a sample of a {name.removesuffix('s')}"] = sections.section(name).sample_table
    return found


def _keys_of(table: type[Table]) -> tuple[str, ...]:
    return table.__struct_encode_fields__


def _called(path: Path, sections: Sections) -> str:
    """Return what the table at a path is called."""
    if path[:1] == ("defaults",):
        return "[defaults]"
    if len(path) >= 2 and path[0] in sections.names():
        name = str(path[0]).removesuffix("s")
        return f"a sample of a {name}" if len(path) >= 4 and path[2] == "samples" else f"a {name}"
    if path[:1] == ("trials",) and len(path) > 1:
        return "a trial"
    if path[:1] != ("patterns",):
        return "a suite"
    if len(path) >= 6 and path[4] == "matches":
        return "a match"
    if len(path) >= 4:
        return "a field" if path[2] == "fields" else "a sample"
    return "a pattern"
