"""JSON documents and JSON Lines: rows read and written, and values in them by JSON Pointer (RFC 6901)."""

from __future__ import annotations

import json
import re
from decimal import Decimal
from math import isfinite
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.data.batch import Batch, Entry
from fieldstick.data.coding import has_escapes
from fieldstick.data.json_blocks import keyed_block
from fieldstick.data.placed import written
from fieldstick.data.rows import MISSING, Column, text_of
from fieldstick.errors import UsageError
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping

    from fieldstick.data.compression import Stream
    from fieldstick.data.json_blocks import JsonBlock
    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Row
    from fieldstick.data.source import Source

_INDEX = compiled_later(r"0|[1-9][0-9]*", re.ASCII)
_BLANK = compiled_later(r"[ \t\r\n]*")
_DECODER = json.JSONDecoder()
_ESCAPE = compiled_later(r"~(?![01])")


class TooDeep(ValueError):
    """JSON is nested deeper than is read."""


class PointerError(UsageError):
    """A text that is no JSON Pointer."""


DEEPEST = 100
"""Levels of arrays and objects in one another that are read; RFC 8259, section 9, leaves a limit to the reader."""


def parsed(text: str) -> Any:
    """Parse JSON; a number with a fraction stays exact. Raises ValueError, TooDeep for what is nested too deep."""
    too_deep = TooDeep(f"nested more than {DEEPEST} deep")
    try:
        value = _EXACT.decode(text)
    except RecursionError:
        raise too_deep from None
    if text.count("[") + text.count("{") > DEEPEST:
        level, depth = [value], 0
        while level and depth <= DEEPEST:
            level = [inner for each in level for inner in _inner(each)]
            depth += 1
        if level:
            raise too_deep
    return value


def _inner(value: Any) -> Iterable[Any]:
    return value.values() if isinstance(value, dict) else value if isinstance(value, list) else ()


def _refused(name: str) -> Any:
    raise ValueError(f"{name} is no JSON")


_EXACT = json.JSONDecoder(parse_float=Decimal, parse_constant=_refused)
"""Reads numbers with a fraction exactly."""


def pointer(text: str) -> tuple[str, ...]:
    """Return the keys of a JSON Pointer; a text that begins with no slash is one key.

    Raises PointerError for a slash-led text with a `~` that escapes nothing.
    """
    if text == "":
        return ()
    if not text.startswith("/"):
        return (text,)
    if _ESCAPE.search(text):
        raise PointerError(f"'{text}' is no JSON Pointer: write ~0 for ~ and ~1 for / in a key")
    return tuple(key.replace("~1", "/").replace("~0", "~") for key in text[1:].split("/"))


def value_at(value: Any, keys: tuple[str, ...]) -> Any:
    """Return what lies below `value` at those keys; MISSING when nothing does."""
    for key in keys:
        if isinstance(value, dict):
            value = value.get(key, MISSING)
        elif isinstance(value, list) and _INDEX.fullmatch(key) and int(key) < len(value):
            value = value[int(key)]
        else:
            return MISSING
        if value is MISSING:
            return MISSING
    return value


def cell_at(row: Mapping[str, Any], column: str) -> Any:
    """Return what a row has in a column; one that begins with a slash is a JSON Pointer. MISSING for nothing."""
    value = row.get(column, MISSING)
    return value_at(row, pointer(column)) if value is MISSING and column.startswith("/") else value


def with_value(raw: str, keys: tuple[str, ...], text: str) -> str:
    """Return a line of JSON with a text as the value at `keys`, every other character as it stands.

    Of a key that is there twice the last one is meant, as when it is read.
    """
    start, end = _value_span(raw, _BLANK.match(raw, 0).end(), keys)  # type: ignore[union-attr]
    return raw[:start] + json_text(text) + raw[end:]


def with_value_at(value: Any, keys: tuple[str, ...], text: str) -> Any:
    """Return a value with a text below it at `keys`; what holds it is copied, all else is the same."""
    if not keys:
        return text
    first, *rest = keys
    if isinstance(value, dict):
        return {**value, first: with_value_at(value.get(first), tuple(rest), text)}
    changed = list(value)
    changed[int(first)] = with_value_at(changed[int(first)], tuple(rest), text)
    return changed


def _value_span(raw: str, at: int, keys: tuple[str, ...]) -> tuple[int, int]:
    """Return where the value below the one at `at` stands, as code-point offsets."""
    for key in keys:
        at = next(begins for name, begins in reversed(list(_members(raw, at))) if name == key)
    return at, _DECODER.raw_decode(raw, at)[1]


def _members(raw: str, at: int) -> Iterator[tuple[str, int]]:
    """Yield the keys of an object, or the numbers of an array, each with where its value begins (RFC 8259)."""

    def past_blanks(place: int) -> int:
        return _BLANK.match(raw, place).end()  # type: ignore[union-attr]

    is_object = raw[at] == "{"
    at, number = past_blanks(at + 1), 0
    while raw[at] not in "]}":
        name = str(number)
        if is_object:
            name, at = _DECODER.raw_decode(raw, at)
            at = past_blanks(past_blanks(at) + 1)
        yield name, at
        at, number = past_blanks(_DECODER.raw_decode(raw, at)[1]), number + 1
        if raw[at] == ",":
            at = past_blanks(at + 1)


def entries(source: Source, stream: Stream) -> Iterator[Entry]:
    """Yield the rows of a source that is a JSON document or JSON Lines."""
    if source.kind == "json":
        raws = source.read_options.raws_wanted
        for number, value in rows_of(source.name, source.all_text_of(stream), source.read_options.rows_at):
            yield _entry(source, number, value, json_cell(value) + "\n" if raws else None)
        return
    for found in source.lines_of(stream):
        yield from _entries_of(source, found)


def blocks(source: Source, stream: Stream) -> Iterator[JsonBlock | Iterator[Entry]]:
    """Yield the rows of JSON Lines of which one key is read: in blocks, or singly where they must be."""
    options = source.read_options
    key = options.column
    assert key is not None

    def text_of_line(number: int, raw: str) -> str | None:
        [entry] = _entries_of(source, Batch([number], [raw.rstrip("\n").removesuffix("\r")], [raw]))
        return entry.text

    for block in source.line_blocks(stream):
        for found in block.parts():
            stored = found.stored
            if stored is not None and (options.longest is None or stored.longest <= options.longest):
                made = keyed_block(found, key, text_of_line, parsed, options.everything_wanted)
                if made is not None:
                    yield made
                    continue
            source.merge(found.notes)
            yield _entries_of(source, found)


def _entries_of(source: Source, found: Batch) -> Iterator[Entry]:
    for index, (number, text) in enumerate(zip(found.numbers, found.texts, strict=True)):
        try:
            value = parsed(text)
        except ValueError as error:
            if text.strip():
                (source.notes.too_deep if isinstance(error, TooDeep) else source.notes.not_json).note(number)
            yield Entry(number, None, None, found.raw(index))
            continue
        yield _entry(source, number, value, found.raw(index))


def _entry(source: Source, number: int, value: Any, raw: str | None) -> Entry:
    row = value if isinstance(value, dict) else {"value": value}
    column = source.read_options.column
    if column is None:
        return Entry(number, "" if source.read_options.rows_wanted else text_of(value), row, raw)
    text = text_of(value_at(value, pointer(column)))
    if text is None:
        source.notes.missing.note(number)
    return Entry(number, text, row, raw)


def rows_of(name: str, text: str, rows_at: str | None) -> Iterator[tuple[int, Any]]:
    """Yield the rows of a JSON document with their numbers: the items of the array at `rows_at`, or of the whole.

    Raises UsageError when the text is no JSON, or there is no array.
    """
    try:
        document = parsed(text)
    except ValueError as error:
        place = f":{error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise UsageError(f"{name}{place}: not JSON that is read: {error}") from None
    found = value_at(document, pointer(rows_at or ""))
    if found is MISSING:
        raise UsageError(f"{name} has nothing at {rows_at}{_arrays(document)}")
    if rows_at is not None and not isinstance(found, list):
        raise UsageError(f"{name} has no array at {rows_at}{_arrays(document)}")
    yield from enumerate(found if isinstance(found, list) else [found], 1)


def _arrays(document: Any) -> str:
    """Name the arrays of the topmost level, where rows may be."""
    if not isinstance(document, dict):
        return ""
    names = [
        f"/{key.replace('~', '~0').replace('/', '~1')}" for key, each in document.items() if isinstance(each, list)
    ]
    return f"; there are arrays at {', '.join(names[:8])}" if names else ""


class JsonLines(Struct, frozen=True):
    """An object a line; a decimal is a number with all its digits, an absent field is null."""

    columns: tuple[Column, ...]

    def head(self) -> str:
        """Return nothing: each line names its keys."""
        return ""

    def body(self, rows: list[Row]) -> str:
        """See `RowFormat.body`."""
        keys = [f"{json_text(column.name)}: " for column in self.columns]
        lines = [
            "{" + ", ".join([key + json_cell(cell) for key, cell in zip(keys, row, strict=True)]) + "}\n"
            for row in rows
        ]
        return "".join(lines)

    @property
    def takes_placed(self) -> bool:
        """See `RowFormat.takes_placed`."""
        return True

    def placed_body(self, placed: PlacedRows) -> bytes:
        """See `RowFormat.placed_body`."""
        keys = [f"{json_text(column.name)}: " for column in self.columns]
        heads = [f"{'{' if number == 0 else ', '}{key}".encode() for number, key in enumerate(keys)]
        bare = frozenset(number for number, column in enumerate(self.columns) if column.type in _BARE)
        same = [json_text(text).encode() for text in placed.same_texts()]
        return written(placed, same, [*heads, b"}"], bare=bare)


_BARE = ("integer", "decimal", "boolean")
"""Types whose values JSON has without quotes."""


def json_text(text: str) -> str:
    """Write a text as JSON; what stands for undecodable bytes as escapes."""
    return json.dumps(text, ensure_ascii=not text.isascii() and has_escapes(text))


def json_cell(cell: Any) -> str:
    """Write a cell as JSON, numbers with all their digits."""
    if isinstance(cell, str):
        return json_text(cell)
    if cell is None:
        return "null"
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, int | Decimal):
        return str(cell)
    if isinstance(cell, float):
        return repr(cell) if isfinite(cell) else json_text(str(cell))
    if isinstance(cell, dict):
        return "{" + ", ".join([f"{json_text(str(key))}: {json_cell(value)}" for key, value in cell.items()]) + "}"
    if isinstance(cell, list):
        return "[" + ", ".join(map(json_cell, cell)) + "]"
    return json_text(text_of(cell) or "")
