"""Turns the sample tables of a pattern into samples: files and CSV rows read, contradictions named."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field

from fieldstick.errors import hint
from fieldstick.suites.model import PLACE_WORDS, SampleTable
from fieldstick.suites.suite import ExpectedMatch, Sample

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping

    from fieldstick.engines.protocol import Take
    from fieldstick.suites.document import Document
    from fieldstick.suites.places import Path
    from fieldstick.suites.suite import Kind

TEXT_COLUMN = "text"
_EXPECTATIONS = ("fields", "absent", "place", "count", "matches")
_PLAIN_KEYS = frozenset({"text", "note"})
_ONLY_WITH_ALL = ("count", "matches")


class OutsideTreeError(Exception):
    """A path that leads out of the suite's folder tree."""


def within_tree(document: Document, value: str) -> str:
    """Return the file that `value` names, seen from the suite file's folder.

    Raises OutsideTreeError when it, or what it links to, lies outside that folder's tree.
    """
    root = os.path.realpath(os.path.dirname(document.location) or ".")
    try:
        found = os.path.realpath(os.path.join(root, value))
    except (OSError, ValueError) as error:
        raise OutsideTreeError(f"'{value}' is no path: {error}") from None
    if os.path.commonpath([root, found]) != root:
        raise OutsideTreeError(
            f"'{value}' lies outside the suite's folder tree; a suite reads only below its own folder"
        )
    return found


def content_beside(document: Document, path: Path, value: str) -> str | None:
    """Return the text of a file beside a suite; None, and a problem at `path`, when it cannot be read."""
    try:
        with open(within_tree(document, value), "rb") as stream:
            return stream.read().decode("utf-8")
    except OutsideTreeError as error:
        document.problem(path, str(error))
    except OSError as error:
        document.problem(path, f"'{value}' cannot be read: {error.strerror or error}")
    except UnicodeDecodeError as error:
        document.problem(path, f"'{value}' is not UTF-8: the byte at {error.start} cannot be read")
    return None


class SampleReader(Struct):
    """Reads the samples of one pattern; what is wrong goes to the document's problems."""

    document: Document
    pattern_path: Path
    parameters: tuple[str, ...]
    parameters_known: bool
    take: Take
    combined: bool
    _first: dict[tuple[str, tuple[tuple[str, str], ...]], Path] = field(default_factory=dict)

    def read(self, kind: Kind, tables: Iterable[str | SampleTable]) -> Iterator[Sample]:
        """Yield the samples of one kind in order."""
        number = 0
        for index, table in enumerate(tables):
            path: Path = (*self.pattern_path, kind, index)
            if isinstance(table, str):
                if not self.parameters:
                    number += 1
                    self._check_new(table, {}, path)
                    yield Sample(kind, number, table, path)
                    continue
                table = SampleTable(text=table)
            if self.document.is_damaged(path) and self._source_damaged(path, table):
                number += 1
                continue
            given = table.given()
            self._check_keys(kind, table, path, given)
            for text, expected, row in self._texts(kind, table, path):
                number += 1
                values = table.values or {}
                self._check_new(text, values, path)
                yield self._sample(kind, number, text, table, path, given, expected, row)

    def _source_damaged(self, path: Path, table: SampleTable) -> bool:
        own = (table.text, table.file, table.table)
        return path in self.document.damaged or all(each is None for each in own)

    def _sample(
        self,
        kind: Kind,
        number: int,
        text: str,
        table: SampleTable,
        path: Path,
        given: frozenset[str],
        expected: Mapping[str, Any] | None,
        row: int | None,
    ) -> Sample:
        if given <= _PLAIN_KEYS:
            return Sample(kind, number, text, path, table.note)
        return Sample(
            kind=kind,
            number=number,
            text=text,
            path=path,
            note=table.note,
            fields=table.fields or {} if expected is None else expected,
            absent=tuple(table.absent or ()),
            place=table.place,
            count=table.count,
            matches=_expected_matches(table),
            values=table.values or {},
            message=table.message,
            row=row,
            table_fields=expected is not None,
        )

    def _check_keys(self, kind: Kind, table: SampleTable, path: Path, given: frozenset[str]) -> None:
        if given <= _PLAIN_KEYS and "text" in given and not self.parameters:
            return
        sources = [key for key in ("text", "file", "table") if getattr(table, key) is not None]
        if len(sources) != 1:
            several = f"has {' and '.join(sources)}" if sources else "has no text"
            self.document.problem(path, f"a sample {several}; give exactly one of text, file or table")
        for key in _EXPECTATIONS:
            if key in given and kind == "negative":
                self.document.problem(
                    (*path, key), f"'{key}' on a negative sample: a text that must not fit captures nothing"
                )
            elif key in given and "table" in given:
                self.document.problem(
                    (*path, key), f"'{key}' beside 'table': the table's columns name what is expected"
                )
            elif key in _ONLY_WITH_ALL and key in given and (self.take != "all" or self.combined):
                self.document.problem((*path, key), f"'{key}' needs take = \"all\" in the pattern")
        if "message" in given and kind == "positive":
            self.document.problem((*path, "message"), "'message' on a positive sample: nobody is shown a message")
        self._check_places(table, path)
        self._check_absent(table, path)
        self._check_values(table, path)

    def _check_places(self, table: SampleTable, path: Path) -> None:
        listed = [(path, table.place)]
        listed += [((*path, "matches", index), each.place) for index, each in enumerate(table.matches or ())]
        for where, place in listed:
            if place is not None and place[0] > place[1]:
                self.document.problem((*where, "place"), f"'place': {PLACE_WORDS}")

    def _check_absent(self, table: SampleTable, path: Path) -> None:
        for name in table.absent or ():
            if name in (table.fields or {}):
                self.document.problem((*path, "absent"), f"'{name}' is both expected in fields and absent")

    def _check_values(self, table: SampleTable, path: Path) -> None:
        if not self.parameters_known:
            return
        values = table.values or {}
        for name in values:
            if name not in self.parameters:
                self.document.problem(
                    (*path, "with", name),
                    f"the pattern has no parameter '{name}'{hint(name, self.parameters)}",
                )
        for name in self.parameters:
            if name not in values:
                self.document.problem(
                    path,
                    f"the sample gives no value for the parameter '{name}'; add with = {{ {name} = '…' }}",
                )

    def _check_new(self, text: str, values: Mapping[str, str], path: Path) -> None:
        key = (text, tuple(sorted(values.items())) if values else ())
        first = self._first.setdefault(key, path)
        if first is not path:
            line = self.document.line_of(first)
            shown = text if len(text) <= 40 else text[:40] + "…"
            self.document.problem(path, f"the same sample is on line {line} already: {shown!r}")

    def _texts(
        self, kind: Kind, table: SampleTable, path: Path
    ) -> Iterator[tuple[str, Mapping[str, Any] | None, int | None]]:
        if table.text is not None:
            yield table.text, None, None
        elif table.file is not None:
            text = content_beside(self.document, (*path, "file"), table.file)
            if text is not None:
                yield text, None, None
        elif table.table is not None:
            content = content_beside(self.document, (*path, "table"), table.table)
            if content is not None:
                yield from self._rows(kind, content, (*path, "table"), table.table)

    def _rows(self, kind: Kind, content: str, path: Path, value: str) -> Iterator[tuple[str, Mapping[str, Any], int]]:
        import csv
        import io

        content = content.removeprefix("\N{ZERO WIDTH NO-BREAK SPACE}")
        rows = csv.reader(io.StringIO(content, newline=""), strict=True)
        try:
            header = next(rows, None)
            if not self._header_fits(kind, header, path, value):
                return
            assert header is not None
            number = 0
            for cells in rows:
                if not cells:
                    continue
                number += 1
                if len(cells) != len(header):
                    self.document.problem(
                        path,
                        f"'{value}' line {rows.line_num}: {len(cells)} cells under a header of {len(header)}",
                    )
                    continue
                named = dict(zip(header, cells, strict=True))
                yield named.pop(TEXT_COLUMN), named, number
            if number == 0:
                self.document.problem(path, f"'{value}' has no rows under its header")
        except csv.Error as error:
            self.document.problem(path, f"'{value}' line {rows.line_num}: not CSV: {error}")

    def _header_fits(self, kind: Kind, header: list[str] | None, path: Path, value: str) -> bool:
        if header is None:
            self.document.problem(path, f"'{value}' is empty; its first line names the columns, one of them 'text'")
        elif TEXT_COLUMN not in header:
            self.document.problem(path, f"'{value}' has no column 'text'{hint(TEXT_COLUMN, header)}")
        elif len(set(header)) != len(header):
            twice = next(name for name in header if header.count(name) > 1)
            self.document.problem(path, f"'{value}' has the column '{twice}' twice")
        elif kind == "negative" and len(header) > 1:
            other = next(name for name in header if name != TEXT_COLUMN)
            self.document.problem(
                path, f"'{value}' has the column '{other}': a text that must not fit captures nothing"
            )
        else:
            return True
        return False


def _expected_matches(table: SampleTable) -> tuple[ExpectedMatch, ...] | None:
    if table.matches is None:
        return None
    return tuple(ExpectedMatch(each.text, each.place, each.fields or {}) for each in table.matches)
