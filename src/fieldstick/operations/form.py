"""Form: the pattern of each column of a record; rows are accepted, or rejected with a reason for each cell."""

from __future__ import annotations

import json
import sys
from collections import Counter
from itertools import compress
from operator import not_
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
from msgspec import Meta, Struct, field
from msgspec.structs import replace

from fieldstick.data.batch import StoredTexts
from fieldstick.data.coding import encoded
from fieldstick.data.delimited_blocks import TableBatch
from fieldstick.data.json_rows import cell_at
from fieldstick.data.placed import doubt, gathered
from fieldstick.data.rows import text_of
from fieldstick.errors import hint
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import BLANK, GAVE_UP, Unfit
from fieldstick.matching.shapes import Shapes
from fieldstick.matching.tally import Tally
from fieldstick.matching.walks import FitWalk, fit_walk
from fieldstick.suites.model import Table
from fieldstick.suites.sections import OperationTable, Section
from fieldstick.suites.suite import Difference, Expected, Operation, Pattern

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

    from fieldstick.data.batch import Batch
    from fieldstick.data.rows import TableSink
    from fieldstick.data.source import Source
    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.operation_reader import OperationReader
    from fieldstick.suites.places import Path
    from fieldstick.suites.suite import Sample

VALUE = "value"
"""What the only column is called when lines are validated, not rows."""

MOST_SHOWN = 200

NOTHING_ENTERED = Unfit(BLANK, "nothing is entered, and something must be")
ABOUT_THE_BUDGET = Unfit(GAVE_UP, "reading it took about as long as the budget")


class FormSampleTable(Table, frozen=True):
    """A row and the columns for which it is rejected; none for a row that is accepted."""

    row: dict[str, str]
    rejects: list[str] = msgspec.field(default_factory=list)
    note: str | None = None


class FormTable(OperationTable, frozen=True, kw_only=True):
    """The pattern of each column of a form or record; `blank` lists the texts that mean nothing was entered."""

    columns: Annotated[dict[str, str], Meta(min_length=1)]
    required: list[str] = msgspec.field(default_factory=list)
    blank: list[str] = msgspec.field(default_factory=lambda: [""])
    samples: list[FormSampleTable] = msgspec.field(default_factory=list)


class Form(Operation, frozen=True):
    """The pattern of each column of a record. A text of `blank`, or of blanks alone, means nothing was entered."""

    columns: tuple[tuple[str, Pattern], ...] = ()
    required: tuple[str, ...] = ()
    blank: tuple[str, ...] = ("",)

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Operation.patterns`."""
        return tuple(pattern for _, pattern in self.columns)

    @property
    def kinds(self) -> tuple[str, ...]:
        """See `Operation.kinds`."""
        return tuple(column for column, _ in self.columns)

    @property
    def reason(self) -> tuple[str, str]:
        """See `Operation.reason`."""
        return "rejects-differ", "other columns are rejected"

    def made(self, sample: Sample) -> dict[str, str]:
        """See `Operation.made`."""
        assert sample.expected is not None
        rejects = FormReader(self).judge([dict(sample.expected.rows[0])])[0]
        return {each.column: each.why.reason for each in rejects}

    def differences(self, expected: Any, made: Any) -> Iterator[Difference]:
        """See `Operation.differences`."""
        for column in dict.fromkeys([*expected, *made]):
            if (column in expected) != (column in made):
                wanted = "rejected" if column in expected else "accepted"
                came = f"rejected: {made[column]}" if column in made else "accepted"
                yield Difference("column", column, wanted, came)


def read(reader: OperationReader) -> Iterator[Form]:
    """Yield the forms of a suite file."""
    for name, table in reader.tables.items():
        found = _form(reader, name, table)
        if found is not None:
            yield found


def _form(reader: OperationReader, name: str, table: FormTable) -> Form | None:
    path: Path = (reader.section, name)
    columns: list[tuple[str, Pattern]] = []
    for column, address in table.columns.items():
        pattern = reader.home.member(address, (*path, "columns", column))
        if pattern is not None:
            if pattern.parameters:
                words = f"'{address}' has parameters, for which a form has no values"
                reader.problem((*path, "columns", column), words)
            columns.append((column, pattern))
    _check_columns(reader, table, table.required, (*path, "required"))
    if len(columns) < len(table.columns):
        return None
    blank = tuple(table.blank)
    made = Form(name, table.about, tuple(table.tags), (), path, tuple(columns), tuple(table.required), blank)
    samples = []
    for index, sample in enumerate(table.samples):
        where: Path = (*path, "samples", index)
        _check_columns(reader, table, sample.row, (*where, "row"))
        _check_columns(reader, table, sample.rejects, (*where, "rejects"))
        text = json.dumps(sample.row, ensure_ascii=False)
        samples.append(reader.sample(index, text, sample, where, Expected(tuple(sample.rejects), (sample.row,))))
    return replace(made, samples=reader.all_new(samples))


def _check_columns(reader: OperationReader, table: FormTable, names: Sequence[str] | Any, where: Path) -> None:
    for column in names:
        if column not in table.columns:
            reader.problem(where, f"the form has no column '{column}'{hint(column, table.columns)}")


SECTION = Section("forms", FormTable, FormSampleTable, read)


class Reject(Struct, frozen=True):
    """Why a cell is rejected; `message` is what whoever entered it should be told."""

    column: str
    value: str
    why: Unfit
    message: str | None = None


class FormReader:
    """A form made ready: judges rows, given as texts by column, None for no value."""

    def __init__(self, form: Form, values: Mapping[str, str] | None = None) -> None:
        given = values or {}
        self.columns = tuple(column for column, _ in form.columns)
        self._matchers: tuple[Matcher, ...] = tuple(
            prepare(pattern, pattern.own_values(given)) for _, pattern in form.columns
        )
        self._walks: tuple[FitWalk | None, ...] | None = None
        self._required = frozenset(form.required)
        self._blank = frozenset(form.blank)

    @property
    def is_walked(self) -> bool:
        """Whether walkers judge every column."""
        return None not in self._made_walks()

    def _made_walks(self) -> tuple[FitWalk | None, ...]:
        if self._walks is None:
            self._walks = tuple(fit_walk(matcher) for matcher in self._matchers)
        return self._walks

    def doubted(self, columns: Mapping[str, StoredTexts | None]) -> bytearray | None:
        """Return a byte for each row, not 0 for one that may have a reject; None where walkers cannot tell.

        `columns` are the texts of each column of the form, None for a column that is not there.
        """
        pairs = [(columns[column], walk) for column, walk in zip(self.columns, self._made_walks(), strict=True)]
        # All are asked before one that cannot tell decides, so that each learns how much there is to read.
        told = [
            (stored, walk.fits(stored)) if walk is not None and stored is not None else None for stored, walk in pairs
        ]
        blanks = [encoded(each) for each in self._blank]
        found: bytearray | None = None
        for column, each in zip(self.columns, told, strict=True):
            stored, fits = each if each is not None else (None, None)
            if stored is None or fits is None:
                return None
            found = found if found is not None else bytearray(stored.count)
            doubt(stored, fits, blanks, required=column in self._required, doubted=found)
        return found

    def doubted_rows(self, batch: Batch) -> bytearray | None:
        """Return a byte for each row of a batch, not 0 for one that may have a reject; None where nobody can tell."""
        if isinstance(batch, TableBatch):
            table = batch.table
            count, cells = len(table.numbers), table.cells
            return self.doubted(
                {
                    name: StoredTexts(table.data, count, cells=cells[name]) if name in cells else None
                    for name in self.columns
                }
            )
        return self.doubted({VALUE: batch.stored}) if self.columns == (VALUE,) else None

    def judge_at(self, batch: Batch, indexes: Sequence[int]) -> list[list[Reject]]:
        """Judge those rows of a batch of which `doubted_rows` could tell."""
        if isinstance(batch, TableBatch):
            cells = [batch.table.texts(column, indexes) for column in self.columns]
            return self.judge([dict(zip(self.columns, row, strict=True)) for row in zip(*cells, strict=True)])
        return self.judge([{VALUE: batch.texts[index]} for index in indexes])

    def judge(self, rows: Sequence[Mapping[str, str | None]]) -> list[list[Reject]]:
        """Return the rejects of each row, in the order of the columns; none for a row that is accepted."""
        found: list[list[Reject]] = [[] for _ in rows]
        for column, matcher in zip(self.columns, self._matchers, strict=True):
            cells = [row.get(column) for row in rows]
            entered = [index for index, cell in enumerate(cells) if not self._is_blank(cell)]
            if column in self._required:
                for index in set(range(len(rows))).difference(entered):
                    reject = Reject(column, cells[index] or "", NOTHING_ENTERED, matcher.pattern.message)
                    found[index].append(reject)
            fits = matcher.fits([cells[index] or "" for index in entered])
            for index, each in zip(entered, fits, strict=True):
                if each is None:
                    found[index].append(Reject(column, cells[index] or "", ABOUT_THE_BUDGET, matcher.pattern.message))
                elif not each:
                    found[index].append(self._reject(column, cells[index] or "", matcher))
        return found

    def _is_blank(self, cell: str | None) -> bool:
        return cell is None or not cell.strip() or cell in self._blank

    @staticmethod
    def _reject(column: str, cell: str, matcher: Matcher) -> Reject:
        reading = matcher.read_unfit(cell)
        # One that fits after all spent its budget in bulk, and did not alone.
        why = reading.unfit if reading.unfit is not None else ABOUT_THE_BUDGET
        message = matcher.pattern.message
        return Reject(column, cell, why, message if why.reason == GAVE_UP else reading.message or message)


class ValidationTally(Tally):
    """Counts of a validation: `fit` are the accepted rows; `rejects` counts cells by column and reason.

    `shown` holds the first rejects with source and row, `shapes` those of rejected values by column.
    """

    rejects: Counter[tuple[str, str]] = field(default_factory=Counter)
    shown: list[tuple[str, int, Reject]] = field(default_factory=list)
    shapes: dict[str, Shapes] = field(default_factory=dict)

    @property
    def rejected(self) -> int:
        """The rows that were rejected."""
        return self.read - self.fit

    def note_shapes(self, told: Iterable[list[Any]]) -> None:
        """Count the shapes of values in rows that tell of rejected cells, but of those that are blank."""
        values: dict[str, list[str]] = {}
        for _, _, column, value, reason, _, _ in told:
            if reason != BLANK:
                values.setdefault(column, []).append(value)
        for column, some in values.items():
            self.shapes.setdefault(column, Shapes()).add_many(some)

    def merge(self, other: Tally) -> None:
        """Add the counts of rows further on."""
        Tally.merge(self, other)
        if isinstance(other, ValidationTally):
            self.rejects += other.rejects
            self.shown += other.shown[: MOST_SHOWN - len(self.shown)]
            for column, shapes in other.shapes.items():
                self.shapes.setdefault(column, Shapes()).merge(shapes)


Judged = tuple["str | bytes", "Iterable[Mapping[str, Any]]", ValidationTally, list[list[Any]]]
"""The accepted rows of a batch as they stand and as cells, the tally, and a row for each rejected cell."""


class AcceptedRows:
    """The rows of a batch whose byte is 0: as they stand, and cell by cell when they are gone through."""

    def __init__(self, batch: Batch, rejected: bytearray) -> None:
        self._batch, self._rejected = batch, rejected

    def as_they_stand(self) -> bytes:
        """Return the rows as they are stored, each with a line end."""
        if isinstance(self._batch, TableBatch):
            table = self._batch.table
            stored = StoredTexts(table.data, len(table.numbers), raws=table.raws)
        else:
            assert self._batch.stored is not None
            stored = self._batch.stored
        finishes = bytearray(2 * len(self._rejected))
        finishes[sys.byteorder == "big" :: 2] = self._rejected
        return gathered(stored, finishes, [-1, 0, -1])[0]

    def __iter__(self) -> Iterator[Mapping[str, Any]]:
        rows = self._batch.rows or [{VALUE: text} for text in self._batch.texts]
        return compress(rows, map(not_, self._rejected))


class ValidateJob:
    """Judges each row; hands accepted rows on, and writes a row for each rejected cell."""

    def __init__(
        self,
        form: FormReader,
        *,
        accepted: Callable[[Source, str | bytes, Iterable[Mapping[str, Any]]], None] | None = None,
        rejects: TableSink | None = None,
    ) -> None:
        self.tally = ValidationTally()
        self._form, self._accepted, self._rejects = form, accepted, rejects

    def work(self, source: str, batch: Batch) -> Judged:
        """See `Job.work`."""
        doubted = self._form.doubted_rows(batch)
        if doubted is not None:
            return self._settled(source, batch, doubted)
        rows = (
            [self._cells(row) for row in batch.rows]
            if batch.rows is not None
            else [{VALUE: text} for text in batch.texts]
        )
        judged = self._form.judge(rows)
        tally = ValidationTally(read=len(rows))
        told: list[list[Any]] = []
        raws: list[str] = []
        kept: list[Mapping[str, Any]] = []
        for index, rejects in enumerate(judged):
            if not rejects:
                tally.fit += 1
                if self._accepted is not None:
                    raw = batch.raw(index)
                    raws.append(raw if raw.endswith("\n") else raw + "\n")
                    kept.append(batch.rows[index] if batch.rows is not None else rows[index])
            self._tell(source, batch.numbers[index], rejects, tally, told)
        tally.note_shapes(told)
        return "".join(raws), kept, tally, told

    @staticmethod
    def _tell(source: str, number: int, rejects: list[Reject], tally: ValidationTally, told: list[list[Any]]) -> None:
        for each in rejects:
            tally.rejects[each.column, each.why.reason] += 1
            if each.why.reason == GAVE_UP:
                tally.give_up(source, number)
            if len(tally.shown) < MOST_SHOWN:
                tally.shown.append((source, number, each))
            told.append([source, number, each.column, each.value, each.why.reason, each.why.words, each.message])

    def _settled(self, source: str, batch: Batch, doubted: bytearray) -> Judged:
        """Judge the rows in doubt; the others are accepted."""
        tally = ValidationTally(read=len(doubted))
        told: list[list[Any]] = []
        doubts = [index for index, each in enumerate(doubted) if each] if any(doubted) else []
        for index, rejects in zip(doubts, self._form.judge_at(batch, doubts), strict=True):
            doubted[index] = bool(rejects)
            self._tell(source, batch.numbers[index], rejects, tally, told)
        tally.note_shapes(told)
        tally.fit = doubted.count(0)
        if self._accepted is None:
            return b"", [], tally, told
        accepted = AcceptedRows(batch, doubted)
        return accepted.as_they_stand(), accepted, tally, told

    def _cells(self, row: Mapping[str, Any]) -> dict[str, str | None]:
        """Return the cells of the form's columns as texts."""
        return {column: text_of(cell_at(row, column)) for column in self._form.columns}

    @property
    def is_walked(self) -> bool:
        """See `Job`."""
        return self._form.is_walked

    @property
    def tells_numbers(self) -> bool:
        """See `Job`."""
        return True

    def take(self, source: Source, made: Judged) -> None:
        """See `Job.take`."""
        raw, rows, found, told = made
        self.tally.merge(found)
        if self._accepted is not None:
            self._accepted(source, raw, rows)
        if self._rejects is not None:
            self._rejects.write(self._rejects.encode(told))

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""
