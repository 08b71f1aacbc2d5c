"""Lookup: the rows of a table whose column fits a pattern, and other columns of them."""

from __future__ import annotations

import csv
import gc
import io
import json
from collections.abc import Mapping
from itertools import chain
from typing import TYPE_CHECKING, Any, Literal

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.data.delimited_blocks import TableBatch
from fieldstick.data.json_rows import cell_at
from fieldstick.data.named_rows import NamedRows
from fieldstick.data.rows import MISSING, text_of
from fieldstick.engines.budget import watching
from fieldstick.errors import UsageError, hint
from fieldstick.matching.candidates import Candidates, ExactTexts, exact_parameter
from fieldstick.matching.for_any_value import for_any_value
from fieldstick.matching.prepare import prepare
from fieldstick.suites.model import Name, Table
from fieldstick.suites.samples import content_beside
from fieldstick.suites.sections import Members, OperationTable, Section
from fieldstick.suites.suite import Difference, Expected, Operation, Pattern

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from fieldstick.data.batch import Batch
    from fieldstick.data.rows import Sink
    from fieldstick.data.source import Source
    from fieldstick.suites.operation_reader import OperationReader
    from fieldstick.suites.places import Path
    from fieldstick.suites.suite import Sample

Which = Literal["first", "last", "all"]
Answer = Mapping[str, Any]
"""What a lookup gives of one row, by column, values with the types that they have there."""

Row = Mapping[str, Any]


class LookupSampleTable(Table, frozen=True, kw_only=True):
    """Rows, or a CSV table of them, and what the lookup gives of them.

    `gives` is the answer: a text for one column, a table for several, an array of those with `take = "all"`.
    """

    rows: list[dict[str, str]] | None = None
    table: str | None = None
    note: str | None = None
    values: dict[Name, str] | None = msgspec.field(default=None, name="with")
    gives: str | dict[str, str] | list[str | dict[str, str]]


class LookupTable(OperationTable, frozen=True, kw_only=True):
    """Finds the rows whose column fits a pattern, and gives other columns of them."""

    column: str
    pattern: str
    give: Members
    take: Which = "first"
    otherwise: str = ""
    samples: list[LookupSampleTable] = msgspec.field(default_factory=list)


class Lookup(Operation, frozen=True):
    """Finds the rows whose `column` fits the pattern, and gives other columns of them; else the stated answer."""

    pattern: Pattern | None = None
    column: str = ""
    give: tuple[str, ...] = ()
    take: Which = "first"
    otherwise: str = ""

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Operation.patterns`."""
        return (self.pattern,) if self.pattern is not None else ()

    @property
    def reason(self) -> tuple[str, str]:
        """See `Operation.reason`."""
        return "gives-differs", "the lookup gives something else"

    def made(self, sample: Sample) -> list[Answer]:
        """See `Operation.made`."""
        assert sample.expected is not None
        rows = [dict(row) for row in sample.expected.rows]
        return [dict(answer) for answer in LookupReader(self, rows).find(sample.values).answers]

    def differences(self, expected: Any, made: Any) -> Iterator[Difference]:
        """See `Operation.differences`."""
        for number in range(max(len(expected), len(made))):
            one = expected[number] if number < len(expected) else {}
            other = made[number] if number < len(made) else {}
            for column in dict.fromkeys([*one, *(other if number >= len(expected) else ())]):
                if one.get(column) != other.get(column):
                    yield Difference("answer", f"{number + 1} {column}", one.get(column), other.get(column))


def read(reader: OperationReader) -> Iterator[Lookup]:
    """Yield the lookups of a suite file."""
    for name, table in reader.tables.items():
        found = _lookup(reader, name, table)
        if found is not None:
            yield found


def _lookup(reader: OperationReader, name: str, table: LookupTable) -> Lookup | None:
    path: Path = (reader.section, name)
    pattern = reader.home.member(table.pattern, (*path, "pattern"))
    if pattern is None:
        return None
    own = (name, table.about, tuple(table.tags), (), path)
    made = Lookup(*own, pattern, table.column, tuple(table.give), table.take, table.otherwise)
    samples = []
    for index, sample in enumerate(table.samples):
        where: Path = (*path, "samples", index)
        rows = _rows(reader, sample, where)
        answers = _answers(reader, made, sample.gives, where)
        reader.check_values(made, sample.values or {}, where)
        if rows is not None and answers is not None:
            text = json.dumps([dict(row) for row in rows], ensure_ascii=False)
            samples.append(reader.sample(index, text, sample, where, Expected(answers, tuple(rows))))
    return replace(made, samples=tuple(samples))


def _rows(reader: OperationReader, sample: LookupSampleTable, where: Path) -> Sequence[Row] | None:
    if (sample.rows is None) == (sample.table is None):
        reader.problem(where, "a sample of a lookup has either rows, or table, a CSV beside the suite")
        return None
    if sample.rows is not None:
        return sample.rows
    assert sample.table is not None
    content = content_beside(reader.document, (*where, "table"), sample.table)
    if content is None:
        return None
    try:
        lines = io.StringIO(content.removeprefix("\ufeff"), newline="")
        rows = csv.DictReader(lines, strict=True, restval="")
        return [{key: value for key, value in row.items() if key is not None} for row in rows]
    except csv.Error as error:
        reader.problem((*where, "table"), f"'{sample.table}': not CSV: {error}")
        return None


def _answers(reader: OperationReader, lookup: Lookup, given: Any, where: Path) -> tuple[Answer, ...] | None:
    listed = given if isinstance(given, list) else [given]
    if lookup.take != "all" and len(listed) != 1:
        reader.problem((*where, "gives"), f"the lookup takes the {lookup.take} row; give one answer")
        return None
    answers: list[Answer] = []
    for each in listed:
        if isinstance(each, str):
            answers.append(dict.fromkeys(lookup.give, each))
            if len(lookup.give) > 1 and each != lookup.otherwise:
                reader.problem((*where, "gives"), "the lookup gives several columns; write { COLUMN = 'text', … }")
        else:
            for column in each:
                if column not in lookup.give:
                    words = f"the lookup does not give the column '{column}'{hint(column, lookup.give)}"
                    reader.problem((*where, "gives"), words)
            answers.append(each)
    return tuple(answers)


SECTION = Section("lookups", LookupTable, LookupSampleTable, read)


class Found(Struct, frozen=True):
    """What a lookup gives: the answers, and the indexes of the rows they come from, none for the stated answer.

    `gave_up` are the indexes of rows that spent their budget.
    """

    answers: tuple[Answer, ...]
    rows: tuple[int, ...]
    gave_up: tuple[int, ...] = ()


class Searched:
    """What is searched: the text of each row in the column that must fit, and the cells of those that are given."""

    def __init__(self, lookup: Lookup) -> None:
        self._column = lookup.column
        self.texts: list[str] = []
        self._cells: dict[str, list[Any]] = {name: [] for name in lookup.give}

    def add(self, rows: Sequence[Row]) -> None:
        """Take rows."""
        column = self._column
        self.texts += [text_of(cell_at(row, column)) or "" for row in rows]
        for name, cells in self._cells.items():
            cells += [_cell(row, name) for row in rows]

    def add_batch(self, batch: Batch) -> None:
        """Take the rows of a batch; of CSV no cells but these are looked at."""
        if isinstance(batch, TableBatch) and all(name in batch.table.cells for name in (self._column, *self._cells)):
            self.texts += batch.table.texts(self._column)
            for name, cells in self._cells.items():
                cells += batch.table.texts(name)
        else:
            self.add(batch.rows or ())

    def answer(self, index: int) -> Answer:
        """Return what is given of a row."""
        return {name: cells[index] for name, cells in self._cells.items()}


class LookupReader:
    """A lookup made ready for some rows; answers for values seen before are remembered."""

    def __init__(self, lookup: Lookup, rows: Sequence[Row] | Searched) -> None:
        assert lookup.pattern is not None
        self._lookup, self._pattern = lookup, lookup.pattern
        if isinstance(rows, Searched):
            self._searched = rows
        else:
            known = dict.fromkeys(chain.from_iterable(rows))
            for column in (lookup.column, *lookup.give):
                if rows and column not in known and not column.startswith("/"):
                    raise UsageError(f"the rows have no column '{column}'{hint(column, known)}")
            self._searched = Searched(lookup)
            self._searched.add(rows)
        self._texts = self._searched.texts
        exact = exact_parameter(lookup.pattern)
        self._exact = ExactTexts(exact, self._texts) if exact is not None else None
        by_pieces = lookup.pattern.parameters and exact is None
        self._candidates = Candidates(lookup.pattern, self._texts) if by_pieces else None
        self._for_any_value = for_any_value(lookup.pattern) if by_pieces else None
        self._known: dict[tuple[tuple[str, str], ...], Found] = {}

    def find(self, values: Mapping[str, str]) -> Found:
        """Return what the lookup gives, the pattern's parameters standing for `values`.

        Raises ExpressionError, EngineUnusable and UsageError as `prepare` does.
        """
        if self._exact is not None and self._exact.parameter in values and len(values) == 1:
            return self._given(self._exact.of(values))
        key = tuple(sorted(values.items()))
        if key not in self._known:
            self._known[key] = self._found(values)
        return self._known[key]

    def _found(self, values: Mapping[str, str]) -> Found:
        candidates = self._candidates.of(values) if self._candidates is not None else range(len(self._texts))
        texts = [self._texts[index] for index in candidates]
        found = self._for_any_value.fits(values, texts) if self._for_any_value is not None else None
        fits = found if found is not None else prepare(self._pattern, values).fits(texts)
        judged = list(zip(candidates, fits, strict=True))
        rows = [index for index, each in judged if each]
        return self._given(rows, tuple(index for index, each in judged if each is None))

    def _given(self, rows: Sequence[int], gave_up: tuple[int, ...] = ()) -> Found:
        """Return what is given of the rows that fit."""
        lookup = self._lookup
        if lookup.take != "all":
            rows = rows[:1] if lookup.take == "first" else rows[-1:]
        if not rows:
            return Found((dict.fromkeys(lookup.give, lookup.otherwise),), (), gave_up)
        return Found(tuple(map(self._searched.answer, rows)), tuple(rows), gave_up)


def _cell(row: Row, name: str) -> Any:
    value = cell_at(row, name)
    return None if value is MISSING else value


class LookupTally(Struct):
    """Counts of a lookup: values asked for, those found, rows given; the first values that were not found."""

    asked: int = 0
    found: int = 0
    rows: int = 0
    searched: int = 0
    unlisted: dict[str, None] = field(default_factory=dict)
    gave_up: int = 0

    def count(self, found: Found, value: str) -> None:
        """Count a value that was looked up."""
        self.asked += 1
        self.rows += len(found.answers)
        self.gave_up += len(found.gave_up)
        if found.rows:
            self.found += 1
        else:
            self.unlisted[value] = None


def rows_of(source: Source) -> Iterator[Row]:
    """Yield the rows of a table."""
    for batch in source.batches():
        yield from batch.rows or ()


def look_up(
    lookup: Lookup,
    sources: Sequence[Source],
    sink: Sink,
    *,
    values: Mapping[str, str],
    asked: Source | None = None,
    columns: Mapping[str, str] | None = None,
    progress: Callable[[int], None] | None = None,
    limit: int | None = None,
) -> LookupTally:
    """Write what the lookup gives: once for `values`, or for each row of `asked`, beside that row's own cells.

    `columns` names the column of `asked` that each parameter is taken from; no more than `limit` rows are given. Raises
    UsageError when a source cannot be read, has no such column, or the sink cannot be written.
    """
    gc.disable()
    try:
        # Rows are held for good and refer to nothing: looking through them again and again would find no garbage.
        searched = Searched(lookup)
        for source in sources:
            for batch in source.batches():
                searched.add_batch(batch)
        ready = LookupReader(lookup, searched)
        gc.freeze()
    finally:
        gc.enable()
    tally = LookupTally(searched=len(searched.texts))
    made = NamedRows(sink, "found", beside=lookup.give)
    if asked is None:
        found = ready.find(values)
        tally.count(found, " ".join(values.values()))
        for answer in found.answers[:limit]:
            made.add({}, answer)
    else:
        asked.needed_columns = tuple((columns or {}).values())
        pairs = list((columns or {}).items())
        with watching():
            for row in rows_of(asked):
                own = {name: text_of(cell_at(row, column)) or "" for name, column in pairs}
                found = ready.find({**values, **own} if values else own)
                tally.count(found, " ".join(own.values()))
                left = None if limit is None else max(0, limit - tally.rows + len(found.answers))
                for answer in found.answers[:left]:
                    made.add(row, answer)
                if limit is not None and tally.rows >= limit:
                    break
                if progress is not None:
                    progress(1)
        made.expect(asked.columns)
    if limit is not None:
        tally.rows = min(tally.rows, limit)
    made.finish()
    return tally
