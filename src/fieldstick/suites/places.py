"""Finds the line on which each key, table and array item of a TOML document begins.

The document must be valid TOML 1.0 (https://toml.io/en/v1.0.0): the scan follows its grammar only as far as
needed to know where values end.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from functools import lru_cache

from msgspec import Struct, field

from fieldstick.lean import compiled_later

Path = tuple[str | int, ...]
"""Keys and array indexes from the document down to a value."""

_SPACE = compiled_later(r"(?:[ \t\r\n]+|\#[^\n]*)*")
_BLANK = compiled_later(r"[ \t]*")
_KEY = compiled_later(r'"(?P<basic>(?:[^"\\\n]|\\.)*)"|\'(?P<literal>[^\'\n]*)\'|(?P<bare>[A-Za-z0-9_-]+)')
_STRING = compiled_later(
    r'"""(?:[^\\]|\\.)*?"""(?:"{0,2})'
    r"|'''.*?'''(?:'{0,2})"
    r'|"(?:[^"\\\n]|\\.)*"'
    r"|'[^'\n]*'",
    re.DOTALL,
)
_SCALAR = compiled_later(r"[^,\]}\#\n]+")
_PLAIN_LINE = compiled_later(
    r"[ \t]*(?:"
    r"(?P<key>[A-Za-z0-9_-]+)[ \t]*=[ \t]*(?:'[^'\n]*'|\"[^\"\\\n]*\"|[^\s'\"\[{\#]+)"
    r"|\[(?P<array>\[)?(?P<head>[A-Za-z0-9_.-]+)\]\]?"
    r")?[ \t]*(?:\#[^\n]*)?(?:\n|\Z)"
)
"""A line that is blank, a header or an assignment with nothing in it that needs a closer look."""


class _Scan(Struct):
    document: str
    lines: dict[Path, int] = field(default_factory=dict)
    counts: dict[Path, int] = field(default_factory=dict)
    """How many tables each array of tables has so far."""
    starts: list[int] = field(default_factory=list)
    ends: dict[Path, int] = field(default_factory=dict)
    """Where the values of arrays and their items end: the position after them."""

    def __post_init__(self) -> None:
        self.starts = [0, *(found.end() for found in re.finditer("\n", self.document))]

    def line(self, position: int) -> int:
        return bisect_right(self.starts, position)

    def note(self, path: Path, position: int) -> None:
        """Note where a value begins, and the tables around it that have no place yet."""
        line = self.line(position)
        while path and path not in self.lines:
            self.lines[path] = line
            path = path[:-1]


def locate(document: str) -> dict[Path, int]:
    """Map the path of every key, table and array item of `document` to its line, counted from 1."""
    return _scanned(document).lines


def locate_ends(document: str) -> dict[Path, int]:
    """Map the path of every array, and of every item of one, to the position (code points) after its end."""
    return _scanned(document).ends


def place_in_text(document: str, path: Path, offset: int) -> tuple[int, int]:
    """Return the line and column (from 1, in code points) of a character of the text that a key has.

    `offset` counts the text's code points. Where the text is not found, it is where what is around it begins.
    """
    scan = _last_scanned(document)
    known = path
    while known and known not in scan.lines:
        known = known[:-1]
    line = scan.lines.get(known, 0)
    if not line:
        return 0, 0
    assigned = rf"{re.escape(str(path[-1]))}[\"']?[ \t]*=[ \t]*({_STRING.pattern})"
    found = re.compile(assigned, re.DOTALL).search(document, scan.starts[line - 1])
    if known != path or found is None:
        return line, 1
    written = found[1]
    quotes = 3 if written[:3] in ('"""', "'''") else 1
    at = found.start(1)
    if quotes == 3:
        # A line end right after the quotes is no part of the text (TOML 1.0, String).
        at += 2 if written.startswith("\r\n", 3) else written.startswith("\n", 3)
    at += quotes
    at += offset if written[0] == "'" else _escaped_length(document, at, offset)
    line = scan.line(at)
    return line, at - scan.starts[line - 1] + 1


_ESCAPE = compiled_later(r"\\(?:u.{4}|U.{8}|[ \t]*\r?\n\s*|.)", re.DOTALL)
"""An escape in a text between double quotes; a backslash at the end of a line joins it with the next text."""


def _escaped_length(document: str, start: int, offset: int) -> int:
    """Return how many characters of a document spell the first `offset` characters of a text that begins there."""
    at = start
    while True:
        found = _ESCAPE.match(document, at)
        joins = found is not None and found[0].rstrip(" \t")[-1] == "\n"
        if not joins:
            if not offset:
                return at - start
            offset -= 1
        at = found.end() if found is not None else at + 1


@lru_cache(maxsize=4)
def _last_scanned(document: str) -> _Scan:
    return _scanned(document)


def _scanned(document: str) -> _Scan:
    scan = _Scan(document)
    prefix: Path = ()
    position = 0
    while position < len(document):
        plain = _PLAIN_LINE.match(document, position)
        if plain is None:
            position = _skip(scan, position)
            if document[position] == "[":
                position, prefix = _header(scan, position)
            else:
                position = _assignment(scan, position, prefix)
            position = _skip(scan, position)
            continue
        if plain["key"] is not None:
            scan.note((*prefix, plain["key"]), position)
        elif plain["head"] is not None:
            prefix = _table(scan, tuple(plain["head"].split(".")), position, array=plain["array"] is not None)
        position = plain.end()
    return scan


def _skip(scan: _Scan, position: int) -> int:
    found = _SPACE.match(scan.document, position)
    return found.end() if found else position


def _blank(scan: _Scan, position: int) -> int:
    found = _BLANK.match(scan.document, position)
    return found.end() if found else position


def _header(scan: _Scan, position: int) -> tuple[int, Path]:
    array = scan.document.startswith("[[", position)
    end, keys = _keys(scan, position + (2 if array else 1))
    return end + (2 if array else 1), _table(scan, keys, position, array=array)


def _table(scan: _Scan, keys: Path, position: int, *, array: bool) -> Path:
    """Note a table's header and return the table's path."""
    if not array:
        path = _resolved(scan, keys)
        scan.note(path, position)
        return path
    path = (*_resolved(scan, keys[:-1]), keys[-1])
    number = scan.counts.get(path, 0)
    scan.counts[path] = number + 1
    scan.note((*path, number), position)
    return (*path, number)


def _resolved(scan: _Scan, keys: Path) -> Path:
    """Put the index of the latest table after each key that names an array of tables."""
    path: Path = ()
    for key in keys:
        path += (key,)
        number = scan.counts.get(path)
        if number is not None:
            path += (number - 1,)
    return path


def _keys(scan: _Scan, position: int) -> tuple[int, Path]:
    keys: Path = ()
    while found := _KEY.match(scan.document, _blank(scan, position)):
        keys += (_unquoted(found),)
        position = _blank(scan, found.end())
        if not scan.document.startswith(".", position):
            break
        position += 1
    return position, keys


def _unquoted(found: re.Match[str]) -> str:
    if found["basic"] is None:
        return found["literal"] if found["literal"] is not None else found["bare"]
    if "\\" not in found["basic"]:
        return found["basic"]
    import tomli

    return next(iter(tomli.loads(f"{found[0]} = 0")))


def _assignment(scan: _Scan, position: int, prefix: Path) -> int:
    start = position
    position, keys = _keys(scan, position)
    scan.note(prefix + keys, start)
    return _value(scan, _blank(scan, position + 1), prefix + keys)


def _value(scan: _Scan, position: int, path: Path) -> int:
    first = scan.document[position]
    if first == "[":
        return _array(scan, position, path)
    if first == "{":
        return _inline_table(scan, position, path)
    found = (_STRING if first in "\"'" else _SCALAR).match(scan.document, position)
    return found.end() if found else len(scan.document)


def _array(scan: _Scan, position: int, path: Path) -> int:
    position, index = _skip(scan, position + 1), 0
    while not scan.document.startswith("]", position):
        scan.note((*path, index), position)
        position = _value(scan, position, (*path, index))
        scan.ends[(*path, index)] = position
        position = _skip(scan, position)
        if scan.document.startswith(",", position):
            position = _skip(scan, position + 1)
        index += 1
    scan.ends[path] = position + 1
    return position + 1


def _inline_table(scan: _Scan, position: int, path: Path) -> int:
    position = _blank(scan, position + 1)
    while not scan.document.startswith("}", position):
        position = _blank(scan, _assignment(scan, position, path))
        if scan.document.startswith(",", position):
            position = _blank(scan, position + 1)
    return position + 1
