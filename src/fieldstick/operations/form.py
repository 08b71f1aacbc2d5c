"""Form: the pattern of each column of a record; rows are accepted, or rejected with a reason for each cell."""

from __future__ import annotations

import json
from collections import Counter
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
from msgspec import Meta, Struct, field
from msgspec.structs import replace

from fieldstick.data.json_rows import cell_at
from fieldstick.data.rows import text_of
from fieldstick.errors import hint
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import BLANK, GAVE_UP, Unfit
from fieldstick.matching.tally import Tally
from fieldstick.suites.model import Table
from fieldstick.suites.sections import OperationTable, Section
from fieldstick.suites.suite import Difference, Expected, Operation, Pattern

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence

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
            prepare(pattern, {name: given[name] for name in pattern.parameters if name in given})
            for _, pattern in form.columns
        )
        self._required = frozenset(form.required)
        self._blank = frozenset(form.blank)

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
        reading = matcher.read_or_give_up(cell)
        # One that fits after all spent its budget in bulk, and did not alone.
        why = reading.unfit if reading.unfit is not None else ABOUT_THE_BUDGET
        message = matcher.pattern.message
        return Reject(column, cell, why, message if why.reason == GAVE_UP else reading.message or message)


class ValidationTally(Tally):
    """Counts of a validation: `fit` are the accepted rows; `rejects` counts cells by column and reason.

    `shown` holds the first rejects with source and row.
    """

    rejects: Counter[tuple[str, str]] = field(default_factory=Counter)
    shown: list[tuple[str, int, Reject]] = field(default_factory=list)

    @property
    def rejected(self) -> int:
        """The rows that were rejected."""
        return self.read - self.fit

    def merge(self, other: Tally) -> None:
        """Add the counts of rows further on."""
        Tally.merge(self, other)
        if isinstance(other, ValidationTally):
            self.rejects += other.rejects
            self.shown += other.shown[: MOST_SHOWN - len(self.shown)]


Judged = tuple[str, "list[Mapping[str, Any]]", ValidationTally, list[list[Any]]]
"""The accepted rows of a batch as they stand and as cells, the tally, and a row for each rejected cell."""


class ValidateJob:
    """Judges each row; hands accepted rows on, and writes a row for each rejected cell."""

    def __init__(
        self,
        form: FormReader,
        *,
        accepted: Callable[[Source, str, list[Mapping[str, Any]]], None] | None = None,
        rejects: TableSink | None = None,
    ) -> None:
        self.tally = ValidationTally()
        self._form, self._accepted, self._rejects = form, accepted, rejects

    def work(self, source: str, batch: Batch) -> Judged:
        """See `Job.work`."""
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
            number = batch.numbers[index]
            if not rejects:
                tally.fit += 1
                if self._accepted is not None:
                    raw = batch.raw(index)
                    raws.append(raw if raw.endswith("\n") else raw + "\n")
                    kept.append(batch.rows[index] if batch.rows is not None else rows[index])
            for each in rejects:
                tally.rejects[each.column, each.why.reason] += 1
                if each.why.reason == GAVE_UP:
                    tally.give_up(source, number)
                if len(tally.shown) < MOST_SHOWN:
                    tally.shown.append((source, number, each))
                told.append([source, number, each.column, each.value, each.why.reason, each.why.words, each.message])
        return "".join(raws), kept, tally, told

    def _cells(self, row: Mapping[str, Any]) -> dict[str, str | None]:
        """Return the cells of the form's columns as texts."""
        return {column: text_of(cell_at(row, column)) for column in self._form.columns}

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
