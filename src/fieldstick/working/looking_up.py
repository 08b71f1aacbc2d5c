"""Looks rows up: for each value the row whose column fits a pattern, and other columns of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.data.jsonvalues import text_of
from fieldstick.data.rowtext import Column
from fieldstick.errors import UsageError, hint
from fieldstick.matching.lookups import ReadyLookup

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence

    from fieldstick.data.sink import Sink, TableSink
    from fieldstick.data.source import Source
    from fieldstick.suites.uses import Lookup


class LookupTally(Struct):
    """Counts of a lookup: values asked for, those found, rows given; the first values that were not found."""

    asked: int = 0
    found: int = 0
    rows: int = 0
    searched: int = 0
    unlisted: list[str] = field(default_factory=list)
    gave_up: int = 0


def rows_of(source: Source) -> Iterator[dict[str, str]]:
    """Yield the rows of a table as texts, an empty one where there is no value."""
    for item in source.items():
        if item.row is not None:
            yield {name: text_of(value) or "" for name, value in item.row.items()}


def look_up(
    lookup: Lookup,
    sources: Sequence[Source],
    sink: Sink,
    *,
    values: Mapping[str, str],
    asked: Source | None = None,
    columns: Mapping[str, str] | None = None,
    progress: Callable[[int], None] | None = None,
) -> LookupTally:
    """Write what the lookup gives: once for `values`, or for each row of `asked`, beside that row's own cells.

    `columns` names the column of `asked` that each parameter is taken from. Raises UsageError when a source cannot
    be read, has no such column, or the sink cannot be written.
    """
    rows = [row for source in sources for row in rows_of(source)]
    ready = ReadyLookup(lookup, rows)
    tally = LookupTally(searched=len(rows))
    if asked is None:
        answers = sink.table("found", [Column(name) for name in lookup.give])
        found = ready.find(values)
        _count(tally, found.rows, len(found.answers), len(found.gave_up), " ".join(values.values()))
        answers.write(answers.encode([list(answer.values()) for answer in found.answers]))
        return tally
    table: TableSink | None = None
    for row in rows_of(asked):
        if table is None:
            for column in (columns or {}).values():
                if column not in row:
                    raise UsageError(f"{asked.name} has no column '{column}'{hint(column, row)}")
            table = sink.table("found", [Column(name) for name in (*row, *_new_names(row, lookup.give))])
        own = {name: row.get(column, "") for name, column in (columns or {}).items()}
        found = ready.find({**values, **own})
        _count(tally, found.rows, len(found.answers), len(found.gave_up), " ".join(own.values()))
        table.write(table.encode([[*row.values(), *answer.values()] for answer in found.answers]))
        if progress is not None:
            progress(1)
    if table is None:
        sink.table("found", [Column(name) for name in lookup.give])
    return tally


def _new_names(row: Mapping[str, str], names: Sequence[str]) -> list[str]:
    return [f"{name} found" if name in row else name for name in names]


def _count(tally: LookupTally, rows: Sequence[int], answers: int, gave_up: int, value: str) -> None:
    tally.asked += 1
    tally.rows += answers
    tally.gave_up += gave_up
    if rows:
        tally.found += 1
    elif value not in tally.unlisted:
        tally.unlisted.append(value)
