"""Extracts the fields of fitting texts as rows, or as text by a template."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.data.delimited import told_apart
from fieldstick.data.rowtext import Column
from fieldstick.errors import BudgetSpent, EngineFailure
from fieldstick.matching.bulk import DID_NOT_MATCH, BulkReader, Miss
from fieldstick.matching.tally import Tally
from fieldstick.matching.template_fields import template_fields
from fieldstick.runs.executor import done

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.batch import Texts
    from fieldstick.data.sink import Sink, TableSink
    from fieldstick.data.source import Source
    from fieldstick.data.text_file import Target
    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.templates import Template

PLACE = ("source", "line", "start", "end")
"""The columns that say where a row comes from; start and end are code-point offsets into the text."""

PATTERN = "pattern"

Encoder = Callable[[list[Any], str | None], Any]


class ExtractOptions(Struct, frozen=True):
    """What is asked of an extraction.

    `with_place` adds where each row comes from, `together` puts the rows of several patterns into one table, and
    `nothing` is what stands in every field of a row for a text that does not fit.
    """

    with_place: bool = False
    together: bool = False
    nothing: str | None = None
    blank_absent: bool = False
    """Whether what is written makes no difference between absent and empty."""


class Plan(Struct, frozen=True):
    """A pattern, and where its rows go in a row of the table."""

    reader: BulkReader
    label: str
    places: tuple[int, ...]
    width: int
    table: int


def extract(
    patterns: Sequence[Matcher],
    sources: Sequence[Source],
    sink: Sink,
    asked: ExtractOptions = ExtractOptions(),
    *,
    jobs: int = 1,
    progress: Callable[[int], None] | None = None,
) -> list[Tally]:
    """Write the rows of each pattern to a table of its own, or of all together to one; return a tally a pattern.

    Each pattern reads every text; rows stand in the order of the texts. Raises UsageError when a source cannot be
    read, or the sink not written.
    """
    plans, tables = _planned(patterns, sink, asked)
    work = Extract(tuple(plans), tuple(table.encode for table in tables), asked)
    tallies = [Tally() for _ in patterns]
    for _, (payloads, counts) in done(work, sources, jobs=jobs, progress=progress):
        for table, payload in zip(tables, payloads, strict=True):
            table.write(payload)
        for tally, count in zip(tallies, counts, strict=True):
            tally.merge(count)
    return tallies


def _planned(patterns: Sequence[Matcher], sink: Sink, asked: ExtractOptions) -> tuple[list[Plan], list[TableSink]]:
    readers = [BulkReader(each, with_place=asked.with_place) for each in patterns]
    head = [Column(name, "integer" if name != "source" else "text") for name in PLACE] if asked.with_place else []
    if not asked.together:
        plans, tables = [], []
        for number, reader in enumerate(readers):
            fields = _fields([reader], asked)
            plans.append(Plan(reader, "", tuple(range(len(fields))), len(fields), number))
            tables.append(sink.table(reader.ready.pattern.name, _columns([*head, *fields])))
        return plans, tables
    fields = _fields(readers, asked)
    names = [column.name for column in fields]
    plans = [
        Plan(reader, reader.ready.pattern.name, tuple(names.index(name) for name in reader.names), len(names), 0)
        for reader in readers
    ]
    return plans, [sink.table("rows", _columns([*head, Column(PATTERN), *fields]))]


def _columns(columns: list[Column]) -> list[Column]:
    names = told_apart([column.name for column in columns])
    return [Column(name, column.type) for name, column in zip(names, columns, strict=True)]


def _fields(readers: list[BulkReader], asked: ExtractOptions) -> list[Column]:
    """Return the fields of readers as columns; one whose types differ holds values as they come."""
    types: dict[str, str] = {}
    for reader in readers:
        own = reader.types()
        for name in reader.names:
            kind = own[name] if asked.nothing is None else "mixed"
            types[name] = kind if types.get(name, kind) == kind else "mixed"
    return [Column(name, kind) for name, kind in types.items()]


class Extract(Struct, frozen=True):
    """The work on a block: rows encoded for each table, and a tally for each pattern."""

    plans: tuple[Plan, ...]
    encoders: tuple[Encoder, ...]
    asked: ExtractOptions

    def __call__(self, source: str, texts: Texts) -> tuple[list[Any], list[Tally]]:
        """See `Work`."""
        if self.asked.together:
            found = [self._rows(plan, source, texts) for plan in self.plans]
            mixed = [row for each in zip(*(rows for rows, _ in found), strict=True) for rows in each for row in rows]
            return [self.encoders[0](mixed, None)], [tally for _, tally in found]
        payloads, tallies = [], []
        for plan, encode in zip(self.plans, self.encoders, strict=True):
            block = self._block(plan, source, texts)
            rows, tally = block or self._flat_rows(plan, source, texts)
            payloads.append(encode(rows, texts.joined if block else None))
            tallies.append(tally)
        return payloads, tallies

    def _block(self, plan: Plan, source: str, texts: Texts) -> tuple[list[Any], Tally] | None:
        """Return the rows of lines read as a block, and their tally; None where they must be read one by one."""
        if texts.joined is None or self.asked.with_place or self.asked.nothing is not None:
            return None
        found = plan.reader.block_rows(texts.joined, lambda: texts.texts, blank_absent=self.asked.blank_absent)
        if found is None:
            return None
        rows, misses = found
        tally = Tally(read=len(texts.numbers), fit=len(rows), rows=len(rows))
        for miss in misses:
            tally.miss(miss, source, 0)
        without = tally.read - tally.fit - len(misses)
        if without:
            tally.misses[DID_NOT_MATCH, None] += without
        return rows, tally

    def _flat_rows(self, plan: Plan, source: str, texts: Texts) -> tuple[list[Any], Tally]:
        rows, tally = self._rows(plan, source, texts)
        return [row for each in rows for row in each], tally

    def _rows(self, plan: Plan, source: str, texts: Texts) -> tuple[list[list[Any]], Tally]:
        """Return the rows of each text, and their tally."""
        captured = plan.reader.captured(texts.texts)
        tally = Tally(read=len(captured))
        rows: list[list[Any]] = []
        with_place, nothing = self.asked.with_place, self.asked.nothing
        shaped = with_place or self.asked.together
        for number, each in zip(texts.numbers, captured, strict=True):
            if isinstance(each, Miss):
                tally.miss(each, source, number)
                rows.append([] if nothing is None else [self._shaped(plan, source, number, None, nothing)])
                continue
            tally.fit += 1
            tally.rows += len(each)
            rows.append([self._shaped(plan, source, number, row, None) for row in each] if shaped else each)
        return rows, tally

    def _shaped(self, plan: Plan, source: str, number: int, row: list[Any] | None, nothing: str | None) -> list[Any]:
        fields: list[Any] = [nothing] * plan.width
        start = end = None
        if row is not None:
            if self.asked.with_place:
                start, end, *row = row
            for place, value in zip(plan.places, row, strict=True):
                fields[place] = value
        label = [plan.label] if self.asked.together else []
        return [source, number, start, end, *label, *fields] if self.asked.with_place else [*label, *fields]


def extract_as_text(
    pattern: Matcher,
    template: Template,
    sources: Sequence[Source],
    target: Target,
    *,
    nothing: str | None = None,
    jobs: int = 1,
    progress: Callable[[int], None] | None = None,
) -> Tally:
    """Write a line for each taken match: the template with the match's fields, `{source}` and `{line}` filled in.

    Raises UsageError when a source cannot be read, or the target not written.
    """
    tally = Tally()
    for _, (text, count) in done(Print(pattern, template, nothing), sources, jobs=jobs, progress=progress):
        target.write(text)
        tally.merge(count)
    return tally


class Print(Struct, frozen=True):
    """The work on a block: the filled templates, and their tally."""

    pattern: Matcher
    template: Template
    nothing: str | None

    def __call__(self, source: str, texts: Texts) -> tuple[str, Tally]:
        """See `Work`."""
        made: list[str] = []
        tally = Tally(read=len(texts.texts))
        for number, text in zip(texts.numbers, texts.texts, strict=True):
            try:
                reading = self.pattern.read(text)
            except (BudgetSpent, EngineFailure):
                tally.give_up(source, number)
                continue
            if reading.unfit is not None:
                tally.misses[reading.unfit.reason, reading.unfit.field] += 1
                if self.nothing is not None:
                    made.append(self.nothing)
                continue
            tally.fit += 1
            also = {"source": source, "line": str(number)}
            lines = [self.template.filled(template_fields(match, reading.also, also)) for match in reading.matches]
            made += lines
            tally.rows += len(lines)
        return "".join(f"{line}\n" for line in made), tally
