"""What a pattern captures as Arrow tables, whole or in batches, and which texts it fits as an Arrow array."""

from __future__ import annotations

from array import array
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.data.arrow_columns import ArrowRows
from fieldstick.data.arrow_tables import ArrowShape, arrow_table
from fieldstick.data.extras import needed
from fieldstick.data.given_texts import WHAT, GivenBatch
from fieldstick.data.rows import Sink, TableSink
from fieldstick.errors import UsageError, hint
from fieldstick.matching.tally import Tally, tallied
from fieldstick.matching.walks import fit_walk
from fieldstick.runs.extract import PLACE, ExtractJob, ExtractOptions

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.data.batch import Batch
    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Column, Row
    from fieldstick.data.source import ReadFrom
    from fieldstick.files import PartFile
    from fieldstick.matching.matcher import Matcher

STREAMED_DECIMAL = (38, 18)
"""Digits in all, and after the point, of decimals in batches, whose types are settled before all values are seen."""


class TableOptions(Struct, frozen=True):
    """What is asked of a table: columns that say where each row comes from `with_place`, a row of nulls for each text
    that does not fit with `every_text`, and Arrow types of columns by name instead of those that would be chosen.
    """

    with_place: bool = False
    every_text: bool = False
    types: Mapping[str, Any] = {}


class _Shapes(Sink, TableSink):
    """A sink that brings rows into the form of Arrow tables, and keeps none."""

    columns: Sequence[Column] = ()

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        self.columns = columns
        return self

    def encode(self, rows: list[Row]) -> list[Row]:
        """See `TableSink.encode`."""
        return rows

    @property
    def takes_placed(self) -> bool:
        """See `TableSink.takes_placed`."""
        return ArrowShape(self.columns).takes_placed

    def encode_placed(self, placed: PlacedRows) -> ArrowRows | None:
        """See `TableSink.encode_placed`."""
        return ArrowShape(self.columns).placed(placed)

    def write(self, payload: Any) -> None:
        """See `TableSink.write`."""

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`."""
        return []

    def abandon(self) -> None:
        """See `Sink.abandon`."""


class _Made(Struct):
    """The rows of some texts of a source, and the numbers of those texts, those without a row among them."""

    rows: list[Row] | ArrowRows
    source: str = ""
    numbers: Sequence[int] = ()


class Tabling:
    """Reads sources with a pattern, for its rows as Arrow tables. `tally` fills while they are read."""

    def __init__(self, matcher: Matcher, sources: Sequence[ReadFrom], asked: TableOptions) -> None:
        self._arrow = needed("pyarrow", WHAT)
        self.tally = Tally()
        self._sources, self._asked = sources, asked
        self._shapes = _Shapes()
        self._job = ExtractJob([matcher], self._shapes, ExtractOptions(asked.with_place or asked.every_text))
        names = [column.name for column in self._shapes.columns]
        for name in asked.types:
            if name not in names:
                raise UsageError(f"types: there is no column '{name}'{hint(name, names)}")

    def whole(self) -> Any:
        """Return all rows as one `pyarrow.Table`; each column has the narrowest type that holds all its values."""
        made = list(self._made())
        shape = self._learnt([each.rows for each in made])
        schema = shape.schema(self._arrow)
        tables = [self._finished(each, schema) for each in made]
        return self._arrow.concat_tables(tables) if tables else self._finished(_Made([]), schema)

    def stream(self) -> Any:
        """Return the rows as a `pyarrow.RecordBatchReader`, some texts at a time; types are settled beforehand."""
        going = self._made()
        first = next(going, _Made([]))
        started = self._settled(first)
        settled = self._arrow.schema([self._streamed(each, known) for each, known in self._wanted(started.schema)])

        def batches() -> Iterator[Any]:
            yield from _cast(started, settled).to_batches()
            for each in going:
                yield from _cast(self._settled(each), settled).to_batches()

        return self._arrow.RecordBatchReader.from_batches(settled, batches())

    def _settled(self, made: _Made) -> Any:
        return self._finished(made, self._learnt([made.rows]).schema(self._arrow))

    def _learnt(self, payloads: list[list[Row] | ArrowRows]) -> ArrowShape:
        shape = ArrowShape(self._shapes.columns)
        for each in payloads:
            shape.learn(each)
        return shape

    def _wanted(self, schema: Any) -> Iterator[tuple[Any, str]]:
        """Yield each field of a finished table with the field type of its column."""
        kinds = {column.name: column.type for column in self._shapes.columns}
        for each in schema:
            yield each, kinds.get(each.name, "text")

    def _streamed(self, field: Any, kind: str) -> Any:
        """Return a field with the type that its column has in batches."""
        arrow = self._arrow
        if field.name in self._asked.types:
            return field
        if kind == "integer":
            return field.with_type(arrow.int64())
        if kind == "decimal":
            return field.with_type(arrow.decimal128(*STREAMED_DECIMAL))
        if kind == "time":
            return field.with_type(arrow.time64("us"))
        return field.with_type(arrow.string()) if kind == "mixed" else field

    def _made(self) -> Iterator[_Made]:
        for source, batch in batches_of(self._sources):
            numbers = every_number(batch)
            if not batch.numbers:
                yield _Made([], source.name, numbers)
                continue
            (rows,), (tally,) = self._job.work(source.name, batch)
            self.tally.merge(tally)
            yield _Made(rows, source.name, numbers)

    def _finished(self, made: _Made, schema: Any) -> Any:
        """Return rows as a table of the columns that are asked for."""
        if isinstance(made.rows, ArrowRows) or made.rows:
            found = arrow_table(self._arrow, schema, made.rows)
        else:
            found = schema.empty_table()
        if self._asked.every_text:
            found = found.take(
                self._arrow.array(_row_of_each(found.column("line").to_pylist(), made.numbers), self._arrow.int64())
            )
            if self._asked.with_place:
                lines = self._arrow.array(_lines(found.column("line"), made.numbers), self._arrow.int64())
                found = found.set_column(1, found.schema.field(1), lines)
                source = self._arrow.repeat(made.source, len(found))
                found = found.set_column(0, found.schema.field(0), source)
        if self._asked.every_text and not self._asked.with_place:
            found = found.select(list(range(len(PLACE), found.num_columns)))
        for name, kind in self._asked.types.items():
            if name in found.schema.names:
                wanted = found.schema.set(found.schema.names.index(name), found.schema.field(name).with_type(kind))
                found = _cast(found, wanted)
        return found


def _row_of_each(lines: list[int], numbers: Sequence[int]) -> list[int | None]:
    """Return the indexes of the rows of each text, None for a text that has none; both in the order of the texts."""
    found: list[int | None] = []
    at, end = 0, len(lines)
    for number in numbers:
        if at >= end or lines[at] != number:
            found.append(None)
            continue
        while at < end and lines[at] == number:
            found.append(at)
            at += 1
    return found


def _lines(lines: Any, numbers: Sequence[int]) -> list[int]:
    """Return the number of each row, of those without one too."""
    found: list[int] = []
    left = iter(numbers)
    last = 0
    for each in lines.to_pylist():
        if each is None or each != last:
            last = next(left)
        found.append(last)
    return found


def batches_of(sources: Sequence[ReadFrom]) -> Iterator[tuple[ReadFrom, Batch]]:
    """Yield the texts of sources some at a time, what was met merged into their notes."""
    for source in sources:
        for block in source.blocks():
            for batch in block.parts():
                source.merge(batch.notes)
                yield source, batch


def every_number(batch: Batch) -> Sequence[int]:
    """Return the numbers of all texts, those that are null among them."""
    return batch.every_number if isinstance(batch, GivenBatch) else batch.numbers


def fitting(matcher: Matcher, sources: Sequence[ReadFrom]) -> tuple[Any, Tally]:
    """Return for each text whether the pattern fits, as an Arrow array of booleans, and the tally.

    Null for a text that is null, or that was given up.
    """
    arrow, compute = needed("pyarrow", WHAT), needed("pyarrow.compute", WHAT)
    walk = fit_walk(matcher)
    total = Tally()
    chunks: list[Any] = []
    for source, batch in batches_of(sources):
        every = every_number(batch)
        walked = walk.fits(batch.stored) if walk is not None and batch.stored is not None and batch.numbers else None
        if walked is not None:
            finishes = arrow.Array.from_buffers(arrow.int16(), len(batch.numbers), [None, arrow.py_buffer(walked)])
            found = compute.greater_equal(finishes, 0)
            fit = compute.sum(found).as_py() or 0
            total.merge(tallied([True] * fit + [False] * (len(found) - fit), source.name, batch.numbers))
        else:
            told = matcher.fits(batch.texts)
            total.merge(tallied(told, source.name, batch.numbers))
            found = arrow.array(told, arrow.bool_())
        if len(every) > len(batch.numbers):
            places = array("i", [-1]) * len(every)
            for index, number in enumerate(batch.numbers):
                places[number - every[0]] = index
            found = found.take(arrow.array([each if each >= 0 else None for each in places], arrow.int32()))
        chunks.append(found)
    return (arrow.concat_arrays(chunks) if chunks else arrow.array([], arrow.bool_())), total


def _cast(table: Any, schema: Any) -> Any:
    """Return a table with the types of a schema. Raises UsageError for a value that its type does not hold."""
    arrow = needed("pyarrow", WHAT)
    columns = []
    for column, was, wanted in zip(table.columns, table.schema, schema, strict=True):
        zones = [getattr(each, "tz", None) is None for each in (was.type, wanted.type)]
        try:
            if arrow.types.is_timestamp(was.type) and zones[0] != zones[1] and column.null_count < len(column):
                raise arrow.ArrowInvalid("timestamps with and without an offset from UTC")
            if arrow.types.is_decimal(was.type) and arrow.types.is_floating(wanted.type):
                # By way of its digits it is the nearest; by way of a power of ten it may be the one beside it.
                column = column.cast(arrow.string())
            columns.append(column.cast(wanted.type))
        except (arrow.ArrowInvalid, arrow.ArrowNotImplementedError) as error:
            words = str(error).split("\n")[0]
            raise UsageError(
                f"the column '{wanted.name}' has values that {wanted.type} does not hold ({words}); "
                f"say another with types={{'{wanted.name}': …}}"
            ) from None
    return arrow.Table.from_arrays(columns, schema=schema)
