"""Extracts the fields of fitting texts as rows, or as text by a template."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.data.limited import Enough
from fieldstick.data.parts import PartsSink
from fieldstick.data.placed import HEAD, PlacedColumn, with_cells
from fieldstick.data.rows import MISSING, Column, told_apart
from fieldstick.errors import UsageError
from fieldstick.matching.result import DID_NOT_MATCH, FIELD_INVALID, GAVE_UP, NO_MATCH, Unfit
from fieldstick.matching.tally import Tally
from fieldstick.matching.template_fields import template_fields
from fieldstick.matching.walks import row_walk

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.batch import Batch
    from fieldstick.data.distant import DistantPart
    from fieldstick.data.rows import Sink, TableSink
    from fieldstick.data.source import Source
    from fieldstick.data.text_file import TextFile
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.row_walks import RowWalk
    from fieldstick.suites.templates import Template

PLACE = ("source", "line", "start", "end")
"""The columns that say where a row comes from; start and end are code-point offsets into the text."""

PATTERN = "pattern"


class ExtractOptions(Struct, frozen=True):
    """What is asked of an extraction.

    `with_place` adds where each row comes from, `together` puts the rows of several patterns into one table, and
    `otherwise` is what stands in every field of a row for a text that does not fit. `carry` are other columns of the
    source that stand before the fields, with the types of their values. With several `columns` each of their cells, up
    to `longest` code points, is a text, and a column tells which one a row is of.
    """

    with_place: bool = False
    together: bool = False
    otherwise: str | None = None
    carry: tuple[Column, ...] = ()
    columns: tuple[str, ...] = ()
    longest: int | None = None


class Plan(Struct, frozen=True):
    """A pattern, and where its rows go in a row of the table."""

    matcher: Matcher
    label: str
    places: tuple[int, ...]
    width: int
    table: int
    walk: RowWalk | None = None


class ExtractJob:
    """Writes the rows of each pattern to a table of its own, or of all together to one; a tally a pattern.

    Each pattern reads every text; rows stand in the order of the texts. Where there is room for so many rows alone, one
    pattern reads no text after the one that gives the last of them.
    """

    def __init__(self, matchers: Sequence[Matcher], sink: Sink, asked: ExtractOptions = ExtractOptions()) -> None:
        self._plans, self._tables = _planned(matchers, sink, asked)
        self._asked = asked
        self._parts = sink if isinstance(sink, PartsSink) else None
        self.tallies = [Tally() for _ in matchers]

    @property
    def keeps_parts(self) -> bool:
        """Whether whoever works on a part writes its rows."""
        return self._parts is not None

    def keep(self, part: DistantPart, results: list[Any]) -> list[Any]:
        """Write the rows of a part; return what was made of it without them. Raises UsageError."""
        assert self._parts is not None
        payloads = [[made[0][table] for made, _, _ in results] for table in range(len(self._tables))]
        self._parts.keep(part.number, payloads)
        return [(([b""] * len(self._tables), tallies), notes, count) for (_, tallies), notes, count in results]

    @property
    def is_walked(self) -> bool:
        """See `Job`."""
        return not self._asked.columns and all(plan.walk is not None for plan in self._plans)

    @property
    def tells_numbers(self) -> bool:
        """See `Job`."""
        return self._asked.with_place

    def take(self, source: Source, made: tuple[list[Any], list[Tally]]) -> None:
        """See `Job.take`."""
        payloads, counts = made
        for tally, count in zip(self.tallies, counts, strict=True):
            tally.merge(count)
        for table, payload in zip(self._tables, payloads, strict=True):
            table.write(payload)

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""

    def work(self, source: str, batch: Batch) -> tuple[list[Any], list[Tally]]:
        """See `Job.work`."""
        if self._asked.together:
            found = [self._rows(plan, source, batch) for plan in self._plans]
            mixed = [row for each in zip(*(rows for rows, _ in found), strict=True) for rows in each for row in rows]
            return [self._tables[0].encode(mixed)], [tally for _, tally in found]
        payloads, tallies = [], []
        for plan, table in zip(self._plans, self._tables, strict=True):
            walked = self._walked(plan, table, source, batch)
            if walked is not None:
                payloads.append(walked[0])
                tallies.append(walked[1])
                continue
            rows, tally = self._flat_rows(plan, source, batch)
            payloads.append(table.encode(rows))
            tallies.append(tally)
        return payloads, tallies

    def _walked(self, plan: Plan, table: TableSink, source: str, batch: Batch) -> tuple[Any, Tally] | None:
        """Return what is written of lines that walkers read, and their tally; None where they cannot."""
        walk, stored = plan.walk, batch.stored
        if self._asked.columns:
            return None
        if walk is None or stored is None or self._asked.otherwise is not None or not table.takes_placed:
            return None
        if self._asked.carry and not hasattr(batch, "table"):
            return None
        walked = walk.rows(stored, batch.numbers[0])
        if walked is None:
            return None
        placed = walked.placed
        room = self._room
        if room is not None and placed.left >= room:
            placed.let_go()
            return None
        placed.columns = self._placed_columns(plan, source, placed.width)
        if self._asked.carry:
            from fieldstick.data.delimited_blocks import TableBatch

            assert isinstance(batch, TableBatch)
            placed = with_cells(placed, [batch.table.cells[column.name] for column in self._asked.carry])
        payload = table.encode_placed(placed)
        tally = Tally(read=stored.count, fit=walked.fit, rows=placed.left)
        walked.placed.let_go()
        if payload is None:
            return None
        for name, count in walked.invalid.items():
            tally.misses[FIELD_INVALID, name] += count
        if stored.count > walked.matched:
            tally.misses[DID_NOT_MATCH, None] += stored.count - walked.matched
        return payload, tally

    @property
    def _room(self) -> int | None:
        """Rows for which there is room still, of one pattern that has a table of its own; None for any number."""
        return self._tables[0].room if len(self._plans) == 1 and not self._asked.columns else None

    def _captured(self, plan: Plan, batch: Batch, *, with_place: bool = False) -> list[Any]:
        """Read texts, up to the one that gives the last row there is room for."""
        captured, room = plan.matcher.rows(batch.texts, with_place=with_place), self._room
        without = 0 if self._asked.otherwise is None else 1
        for index, each in enumerate(captured if room is not None else ()):
            assert room is not None
            room -= without if isinstance(each, Unfit) else len(each)
            if room <= 0:
                return captured[: index + 1]
        return captured

    def _placed_columns(self, plan: Plan, source: str, width: int) -> list[PlacedColumn]:
        first = 1 if plan.matcher.field_names else 0
        cells = [PlacedColumn("cell", HEAD + 2 * (first + number)) for number in range(len(plan.matcher.row_names))]
        carried = [PlacedColumn("cell", width + 2 * number) for number in range(len(self._asked.carry))]
        if not self._asked.with_place:
            return [*carried, *cells]
        place = [PlacedColumn("place", HEAD), PlacedColumn("place", HEAD + 1)]
        return [PlacedColumn("same", text=source), PlacedColumn("number"), *place, *carried, *cells]

    def _flat_rows(self, plan: Plan, source: str, batch: Batch) -> tuple[list[Any], Tally]:
        asked = self._asked
        if asked.with_place or asked.otherwise is not None or asked.carry or asked.columns:
            rows, tally = self._rows(plan, source, batch)
            return [row for each in rows for row in each], tally
        captured = self._captured(plan, batch)
        found: list[Any] = []
        unmatched = 0
        tally = Tally(read=len(captured))
        for at, each in enumerate(captured):
            if each is NO_MATCH:
                unmatched += 1
            elif isinstance(each, Unfit):
                tally.miss(each, source, batch.numbers[at])
            else:
                found += each
        tally.fit = tally.read - unmatched - tally.missed
        tally.rows = len(found) if self._room is None else min(len(found), self._room)
        if unmatched:
            tally.misses[NO_MATCH.reason, None] += unmatched
        return found, tally

    def _rows(self, plan: Plan, source: str, batch: Batch) -> tuple[list[list[Any]], Tally]:
        """Return the rows of each text, and their tally."""
        if self._asked.columns:
            return self._rows_of_columns(plan, source, batch)
        captured = self._captured(plan, batch, with_place=self._asked.with_place)
        tally = Tally(read=len(captured))
        rows: list[list[Any]] = []
        with_place, otherwise = self._asked.with_place, self._asked.otherwise
        carry = self._asked.carry
        shaped = with_place or self._asked.together or carry
        for index, (number, each) in enumerate(zip(batch.numbers, captured, strict=False)):
            place = [source, number] if with_place else []
            beside = self._carried(batch, index) if carry else []
            if isinstance(each, Unfit):
                tally.miss(each, source, number)
                rows.append([] if otherwise is None else [self._shaped(plan, place, beside, None, otherwise)])
                continue
            tally.fit += 1
            tally.rows += len(each)
            rows.append([self._shaped(plan, place, beside, row, None) for row in each] if shaped else each)
        if self._room is not None:
            tally.rows -= max(0, sum(map(len, rows)) - self._room)
        return rows, tally

    def _rows_of_columns(self, plan: Plan, source: str, batch: Batch) -> tuple[list[list[Any]], Tally]:
        """Return the rows of the cells of several columns, row by row, and their tally."""
        from fieldstick.data.cells import texts_by_column

        asked, tally = self._asked, Tally()
        rows: list[list[Any]] = [[] for _ in batch.numbers]
        for column, texts in zip(asked.columns, texts_by_column(batch, asked.columns, asked.longest), strict=True):
            there = [index for index, text in enumerate(texts) if text is not None]
            captured = plan.matcher.rows([texts[index] or "" for index in there], with_place=asked.with_place)
            tally.read += len(there)
            for index, each in zip(there, captured, strict=True):
                number = batch.numbers[index]
                place = [source, number] if asked.with_place else []
                beside = [*(self._carried(batch, index) if asked.carry else []), column]
                if isinstance(each, Unfit):
                    tally.miss(each, source, number)
                    if asked.otherwise is not None:
                        rows[index].append(self._shaped(plan, place, beside, None, asked.otherwise))
                    continue
                tally.fit += 1
                tally.rows += len(each)
                rows[index] += [self._shaped(plan, place, beside, row, None) for row in each]
        return rows, tally

    def _carried(self, batch: Batch, index: int) -> list[Any]:
        """Return the cells of a row that stand before the fields."""
        if batch.rows is None:
            raise UsageError("--carry takes columns of a table along; these are lines")
        from fieldstick.data.json_rows import cell_at

        values = [cell_at(batch.rows[index], column.name) for column in self._asked.carry]
        return [None if value is MISSING else value for value in values]

    def _shaped(
        self, plan: Plan, place: list[Any], beside: list[Any], row: list[Any] | None, otherwise: str | None
    ) -> list[Any]:
        fields: list[Any] = [otherwise] * plan.width
        head = [*place, None, None] if place else []
        if row is not None:
            if place:
                head[2:], row = row[:2], row[2:]
            for at, value in zip(plan.places, row, strict=True):
                fields[at] = value
        return [*head, *beside, *([plan.label] if self._asked.together else []), *fields]


def _planned(matchers: Sequence[Matcher], sink: Sink, asked: ExtractOptions) -> tuple[list[Plan], list[TableSink]]:
    head = [Column(name, "integer" if name != "source" else "text") for name in PLACE] if asked.with_place else []
    head += asked.carry
    if asked.columns:
        head.append(Column("column"))
    if not asked.together:
        plans, tables = [], []
        for number, matcher in enumerate(matchers):
            fields = _fields([matcher], asked)
            plans.append(Plan(matcher, "", tuple(range(len(fields))), len(fields), number, row_walk(matcher)))
            tables.append(sink.table(matcher.pattern.name, _columns([*head, *fields])))
        return plans, tables
    fields = _fields(matchers, asked)
    names = [column.name for column in fields]
    plans = [
        Plan(matcher, matcher.pattern.name, tuple(names.index(name) for name in matcher.row_names), len(names), 0)
        for matcher in matchers
    ]
    return plans, [sink.table("rows", _columns([*head, Column(PATTERN), *fields]))]


def _columns(columns: list[Column]) -> list[Column]:
    names = told_apart([column.name for column in columns])
    return [Column(name, column.type) for name, column in zip(names, columns, strict=True)]


def _fields(matchers: Sequence[Matcher], asked: ExtractOptions) -> list[Column]:
    """Return the fields of patterns as columns; one whose types differ holds values as they come."""
    types: dict[str, str] = {}
    for matcher in matchers:
        own = matcher.row_types()
        for name in matcher.row_names:
            kind = own[name] if asked.otherwise is None else "mixed"
            types[name] = kind if types.get(name, kind) == kind else "mixed"
    return [Column(name, kind) for name, kind in types.items()]


class PrintJob:
    """Writes a line for each taken match: the template with the match's fields, `{source}` and `{line}` filled in.

    No more than `limit` lines are written; it then says that it is enough.
    """

    def __init__(
        self,
        matcher: Matcher,
        template: Template,
        target: TextFile,
        *,
        otherwise: str | None = None,
        limit: int | None = None,
    ) -> None:
        self.tally = Tally()
        self._left = limit
        self._matcher, self._template, self._target, self._otherwise = matcher, template, target, otherwise

    def work(self, source: str, batch: Batch) -> tuple[str, Tally]:
        """See `Job.work`."""
        made: list[str] = []
        tally = Tally(read=len(batch.texts))
        for number, text in zip(batch.numbers, batch.texts, strict=True):
            reading = self._matcher.read_or_give_up(text)
            if reading.unfit is not None:
                tally.miss(reading.unfit, source, number)
                if self._otherwise is not None and reading.unfit.reason != GAVE_UP:
                    made.append(self._otherwise)
                continue
            tally.fit += 1
            also = {"source": source, "line": str(number)}
            lines = [self._template.filled(template_fields(match, reading.also, also)) for match in reading.matches]
            made += lines
            tally.rows += len(lines)
        if self._left is not None:
            made = made[: self._left]
            self._left -= len(made)
        return "".join(f"{line}\n" for line in made), tally

    @property
    def tells_numbers(self) -> bool:
        """See `Job`."""
        return "line" in self._template.names

    def take(self, source: Source, made: tuple[str, Tally]) -> None:
        """See `Job.take`."""
        text, count = made
        self._target.write(text)
        self.tally.merge(count)
        if self._left == 0:
            raise Enough

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""
