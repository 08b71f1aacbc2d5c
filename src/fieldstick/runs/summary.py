"""A summary of captured fields: how many values, how many different, the least and the most, and how they lie between.

Memory does not grow with the rows: of many different values the rarer half is let go again and again, so that the
commonest stay (see `survey`), and where values lie is told from an even sample of them.
"""

from __future__ import annotations

import datetime as dt
from collections import Counter
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field

from fieldstick.data.arrow_tables import ArrowShape, arrow_table
from fieldstick.data.extras import needed
from fieldstick.data.rows import Sink, TableSink, text_of
from fieldstick.runs.distinct import Distinct

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from fieldstick.data.arrow_columns import ArrowRows
    from fieldstick.data.placed import PlacedRows
    from fieldstick.data.rows import Column, Row
    from fieldstick.files import PartFile

MOST_COUNTED = 20_000
"""Different values of a field that are counted one by one."""

MOST_SAMPLED = 8192
"""Values of a field that tell where all of them lie."""

PENDING = 300_000
"""Counts of values that wait until they are summed up together: most of them are of the same values."""

_EPOCH = dt.datetime(1970, 1, 1)
_MICROSECOND = dt.timedelta(microseconds=1)

ORDERED = frozenset({"integer", "decimal", "date", "time", "timestamp"})
"""Types whose values have an order that tells something."""


class FieldSummary(Struct):
    """What is known of the values of one field. `absent` are rows without one."""

    name: str
    type: str
    values: int = 0
    absent: int = 0
    least: Any = None
    most: Any = None
    common: Counter[Any] = field(default_factory=Counter)
    different: Distinct = field(default_factory=Distinct)
    let_go: int = 0
    """Values that were counted once and then let go, there being too many different ones."""

    sample: list[Any] = field(default_factory=list)
    stride: int = 1
    with_offset: bool = False
    """Whether timestamps have an offset from UTC; they are held as microseconds since 1970 (in UTC then)."""

    _passed: int = 0
    _pending: list[Any] = field(default_factory=list)
    _pending_count: int = 0

    @property
    def is_ordered(self) -> bool:
        """Whether the values have an order that tells something."""
        return self.type in ORDERED

    def shown(self, value: Any) -> str:
        """Return a value as text."""
        if self.type == "timestamp" and isinstance(value, int):
            moment = _EPOCH + value * _MICROSECOND
            return (moment.replace(tzinfo=dt.UTC) if self.with_offset else moment).isoformat()
        return text_of(value) or ""

    def add_arrow(self, counts: Any, *, with_offset: bool) -> None:
        """Take in values with how often each is there, as an Arrow table of both."""
        self.with_offset = self.with_offset or with_offset
        self._pending.append(counts)
        self._pending_count += len(counts)
        if self._pending_count >= PENDING:
            self.settle()

    def settle(self) -> None:
        """Sum up what waits."""
        if not self._pending:
            return
        arrow = needed("pyarrow", "a summary")
        pending, self._pending, self._pending_count = self._pending, [], 0
        try:
            together = arrow.concat_tables(pending, promote_options="permissive")
            pending = [
                together.group_by("value", use_threads=False)
                .aggregate([("count", "sum")])
                .rename_columns(["value", "count"])
            ]
        except (arrow.ArrowInvalid, arrow.ArrowTypeError, arrow.ArrowNotImplementedError):
            # Types that no other holds: each is summed up for itself.
            pass
        for each in pending:
            self.add(zip(each.column("value").to_pylist(), each.column("count").to_pylist(), strict=True))

    def add(self, counts: Iterable[tuple[Any, int]]) -> None:
        """Take in values with how often each is there, None for absent."""
        fresh = []
        for value, count in counts:
            if value is None:
                self.absent += count
                continue
            if isinstance(value, dt.datetime):
                self.with_offset = self.with_offset or value.tzinfo is not None
                moment = value.astimezone(dt.UTC).replace(tzinfo=None) if value.tzinfo is not None else value
                value = (moment - _EPOCH) // _MICROSECOND
            self.values += count
            self.common[value] += count
            fresh.append(text_of(value) or "")
            if self.is_ordered:
                self._extend(value, count)
        self.different.add_many(fresh)
        if len(self.common) > MOST_COUNTED:
            ranked = self.common.most_common()
            self.common = Counter(dict(ranked[: MOST_COUNTED // 2]))
            self.let_go += sum(count for _, count in ranked[MOST_COUNTED // 2 :])

    def _extend(self, value: Any, count: int) -> None:
        key = _key(value)
        if self.least is None or key < _key(self.least):
            self.least = value
        if self.most is None or key > _key(self.most):
            self.most = value
        for _ in range((self._passed + count) // self.stride - self._passed // self.stride):
            self.sample.append(value)
        self._passed += count
        if len(self.sample) > MOST_SAMPLED:
            self.sample = self.sample[1::2]
            self.stride *= 2

    def quarters(self) -> tuple[Any, Any, Any] | None:
        """Return the values below which a quarter, half and three quarters lie; None where nothing is ordered.

        Exact as long as no value was let go, else about: a sample tells.
        """
        if not self.is_ordered or not self.values:
            return None
        if self.let_go:
            ordered = sorted(self.sample, key=_key) or [self.least]
            low, middle, high = (ordered[len(ordered) * part // 4] for part in (1, 2, 3))
            return low, middle, high
        found: list[Any] = []
        passed = 0
        wanted = [-(-self.values * part // 4) for part in (1, 2, 3)]
        for value, count in sorted(self.common.items(), key=lambda each: _key(each[0])):
            passed += count
            while len(found) < len(wanted) and passed >= wanted[len(found)]:
                found.append(value)
        return found[0], found[1], found[2]


def _key(value: Any) -> Any:
    """Return what values are ordered by; times with an offset from UTC after those without one."""
    return (value.tzinfo is not None, value) if isinstance(value, dt.time) else value


class _Counts(Struct):
    """How often each value is there, by column."""

    columns: Sequence[list[tuple[Any, int]] | tuple[Any, bool]]


class Summarized(Struct):
    """Rows as another sink takes them, and how often each value is there in them."""

    payload: Any
    counts: _Counts


class SummarySink(Sink):
    """Summarises rows on their way to another sink, or instead of writing them. `fields` are by table."""

    def __init__(self, sink: Sink | None) -> None:
        self._sink = sink
        self.several_tables = sink.several_tables if sink is not None else True
        self.fields: dict[str, list[FieldSummary]] = {}

    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """See `Sink.table`."""
        self.fields[name] = [FieldSummary(column.name, column.type) for column in columns]
        inner = self._sink.table(name, columns) if self._sink is not None else None
        return _SummaryTable(inner, columns, self.fields[name])

    def complete(self) -> list[PartFile]:
        """See `Sink.complete`."""
        for fields in self.fields.values():
            for each in fields:
                each.settle()
        return self._sink.complete() if self._sink is not None else []

    def abandon(self) -> None:
        """See `Sink.abandon`."""
        if self._sink is not None:
            self._sink.abandon()


class _SummaryTable(TableSink):
    def __init__(self, inner: TableSink | None, columns: Sequence[Column], fields: list[FieldSummary]) -> None:
        self._inner, self._fields = inner, fields
        self._columns = columns

    def __getstate__(self) -> dict[str, Any]:
        # A copy counts the values of each batch, and sums nothing up.
        return self.__dict__ | {"_fields": []}

    def encode(self, rows: list[Row]) -> Summarized:
        """See `TableSink.encode`."""
        counted = [list(Counter(map(_plain, column)).items()) for column in zip(*rows, strict=True)]
        return Summarized(self._inner.encode(rows) if self._inner is not None else None, _Counts(counted))

    @property
    def takes_placed(self) -> bool:
        """See `TableSink.takes_placed`."""
        inner = self._inner is None or self._inner.takes_placed
        return inner and ArrowShape(self._columns).takes_placed

    def encode_placed(self, placed: PlacedRows) -> Summarized | None:
        """See `TableSink.encode_placed`."""
        shape = ArrowShape(self._columns)
        rows = shape.placed(placed)
        if rows is None:
            return None
        payload = self._inner.encode_placed(placed) if self._inner is not None else None
        if payload is None and self._inner is not None:
            return None
        return Summarized(payload, _Counts(_counted(shape, rows)))

    def write(self, payload: Summarized) -> None:
        """See `TableSink.write`."""
        for each, counts in zip(self._fields, payload.counts.columns, strict=False):
            if isinstance(counts, tuple):
                each.add_arrow(counts[0], with_offset=counts[1])
            else:
                each.add(counts)
        if self._inner is not None:
            self._inner.write(payload.payload)


def _counted(shape: ArrowShape, rows: ArrowRows) -> list[list[tuple[Any, int]] | tuple[Any, bool]]:
    """Return for each column a table of its values and how often each is there, and whether they have an offset."""
    arrow = needed("pyarrow", "a summary")
    shape.learn(rows)
    found: list[list[tuple[Any, int]] | tuple[Any, bool]] = []
    for column in arrow_table(arrow, shape.schema(arrow), rows).columns:
        with_offset = arrow.types.is_timestamp(column.type) and column.type.tz is not None
        held = column.cast(arrow.int64()) if arrow.types.is_timestamp(column.type) else column
        counts = held.combine_chunks().value_counts()
        both = [counts.field("values"), counts.field("counts")]
        found.append((arrow.Table.from_arrays(both, names=["value", "count"]), with_offset))
    return found


def _plain(value: Any) -> Any:
    """Return a value that can be counted: one that holds others as JSON."""
    return text_of(value) if isinstance(value, list | dict) else value
