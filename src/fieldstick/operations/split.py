"""Split: a text cut up at each match of a pattern, into rows or columns."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from fieldstick.data.placed import HEAD, PlacedColumn, cut_up
from fieldstick.data.rows import Column
from fieldstick.data.spool import Spool
from fieldstick.engines.budget import note_spent
from fieldstick.errors import BudgetSpent, EngineFailure
from fieldstick.matching.prepare import prepare
from fieldstick.matching.tally import Tally
from fieldstick.matching.walks import row_walk
from fieldstick.suites.sections import Flags, OperationTable, SampleTable, Section
from fieldstick.suites.suite import Difference, Operation, Pattern

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.data.batch import Batch
    from fieldstick.data.rows import Sink
    from fieldstick.data.source import Source
    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.operation_reader import OperationReader
    from fieldstick.suites.places import Path
    from fieldstick.suites.suite import Sample


class SplitSampleTable(SampleTable, frozen=True, kw_only=True):
    """A text and the pieces it is cut into."""

    pieces: list[str]


class SplitTable(OperationTable, frozen=True):
    """Where a text is cut: at each match of an expression or of a pattern."""

    at: str | None = None
    pattern: str | None = None
    flags: Flags | None = None
    keep_separators: bool = False
    drop_empty: bool = False
    samples: list[SplitSampleTable] = msgspec.field(default_factory=list)


class Split(Operation, frozen=True):
    """Cuts a text up at each match of its pattern."""

    pattern: Pattern | None = None
    keep_separators: bool = False
    drop_empty: bool = False

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Operation.patterns`."""
        return (self.pattern,) if self.pattern is not None else ()

    @property
    def reason(self) -> tuple[str, str]:
        """See `Operation.reason`."""
        return "pieces-differ", "it is cut up otherwise"

    def made(self, sample: Sample) -> list[str]:
        """See `Operation.made`."""
        return list(prepare_split(self, sample.values).pieces(sample.text))

    def differences(self, expected: Any, made: Any) -> Iterator[Difference]:
        """See `Operation.differences`."""
        for number in range(max(len(expected), len(made))):
            one = expected[number] if number < len(expected) else None
            other = made[number] if number < len(made) else None
            if one != other:
                yield Difference("piece", str(number + 1), one, other)


def read(reader: OperationReader) -> Iterator[Split]:
    """Yield the splits of a suite file."""
    for name, table in reader.tables.items():
        found = _split(reader, name, table)
        if found is not None:
            yield found


def _split(reader: OperationReader, name: str, table: SplitTable) -> Split | None:
    path: Path = (reader.section, name)
    if (table.at is None) == (table.pattern is None):
        reader.problem(path, "a split has either at, an expression, or pattern, the name of one")
        return None
    if table.at is not None:
        flags = tuple(table.flags) if table.flags is not None else None
        pattern = reader.home.bare(table.at, flags, (*path, "at"))
    else:
        assert table.pattern is not None
        pattern = reader.home.member(table.pattern, (*path, "pattern"))
        if table.flags is not None:
            reader.problem((*path, "flags"), "'flags' beside 'pattern': the pattern has its own")
    if pattern is None:
        return None
    if pattern.combination in ("all_of", "none_of"):
        reader.problem((*path, "pattern"), f"'{table.pattern}' is {pattern.combination}: it has no match to cut at")
        return None
    made = Split(name, table.about, tuple(table.tags), (), path, pattern, table.keep_separators, table.drop_empty)
    return replace(made, samples=reader.text_samples(made, table.samples, lambda sample: tuple(sample.pieces)))


SECTION = Section("splits", SplitTable, SplitSampleTable, read)


class Splitter(Struct, frozen=True):
    """A split made ready."""

    matcher: Matcher
    keep_separators: bool = False
    drop_empty: bool = False

    def pieces(self, text: str) -> tuple[str, ...]:
        """Cut a text up; one that the pattern does not fit is one piece.

        A match of nothing cuts between two characters; at the edges of the text it cuts nothing off. Raises
        BudgetSpent.
        """
        reading = self.matcher.read(text)
        found: list[str] = []
        at = 0
        for match in reading.matches if reading.fits else ():
            start, end = match.place
            if start == end and start in (0, len(text)):
                continue
            found.append(text[at:start])
            if self.keep_separators and start < end:
                found.append(text[start:end])
            at = end
        found.append(text[at:])
        return tuple(piece for piece in found if piece or not self.drop_empty)


def prepare_split(split: Split, values: Mapping[str, str] | None = None) -> Splitter:
    """Make a split ready: it cuts at all matches, unless its pattern takes its last one or one by number.

    Raises ExpressionError, EngineUnusable and UsageError as `prepare` does.
    """
    assert split.pattern is not None
    known = split.pattern.own_values(values or {})
    return Splitter(prepare(split.pattern.taking("all"), known), split.keep_separators, split.drop_empty)


Cut = tuple[str, int, tuple[str, ...]]
"""A source's name, a text's number, its pieces."""


class Encoded(Struct, frozen=True):
    """Rows in the form that their table writes."""

    payload: Any


class SplitJob:
    """Writes the pieces of each text, numbered from 1, a row each; with `wide` a row a text, a column a piece.

    The columns of wide rows are as many as the text with the most pieces has; `names` names the first of them.
    In the tally, `fit` are the texts that were cut.
    """

    def __init__(self, splitter: Splitter, sink: Sink, *, wide: bool, names: Sequence[str]) -> None:
        self.tally = Tally()
        self._splitter, self._sink, self._names = splitter, sink, names
        self._walk = row_walk(splitter.matcher) if not wide else None
        self._head = [Column("source"), Column("line", "integer")]
        self._spool = Spool() if wide else None
        self._width = 0
        if not wide:
            columns = [*self._head, Column("number", "integer"), Column(names[0] if names else "piece")]
            self._table = sink.table("pieces", columns)

    def __getstate__(self) -> dict[str, Any]:
        # A copy cuts texts up, and writes to nothing.
        return self.__dict__ | {"_spool": None, "_sink": None}

    def work(self, source: str, batch: Batch) -> tuple[list[Cut] | Encoded, Tally]:
        """See `Job.work`."""
        walked = self._walked(source, batch)
        if walked is not None:
            return walked
        tally = Tally(read=len(batch.texts))
        cuts: list[Cut] = []
        for number, text in zip(batch.numbers, batch.texts, strict=True):
            try:
                pieces = self._splitter.pieces(text)
            except (BudgetSpent, EngineFailure):
                note_spent()
                tally.give_up(source, number)
                pieces = (text,)
            if len(pieces) > 1:
                tally.fit += 1
            room = self._table.room if self._spool is None else None
            tally.rows += len(pieces)
            cuts.append((source, number, pieces))
            if room is not None and tally.rows >= room:
                tally.rows, tally.read = room, len(cuts)
                break
        return cuts, tally

    def _walked(self, source: str, batch: Batch) -> tuple[Encoded, Tally] | None:
        """Return what is written of the pieces, where walkers can tell them; None where they cannot."""
        walk, stored = self._walk, batch.stored
        if walk is None or not walk.several or stored is None or not self._table.takes_placed:
            return None
        walked = walk.rows(stored, batch.numbers[0])
        if walked is None:
            return None
        room = self._table.room
        if walked.placed.left < walked.placed.count or (room is not None and walked.placed.left + stored.count >= room):
            walked.placed.let_go()
            return None
        keep, drop = self._splitter.keep_separators, self._splitter.drop_empty
        pieces, cut = cut_up(stored, walked.placed, keep_separators=keep, drop_empty=drop)
        walked.placed.let_go()
        place = [PlacedColumn("same", text=source), PlacedColumn("number"), PlacedColumn("value", HEAD)]
        pieces.columns = [*place, PlacedColumn("cell", HEAD + 1)]
        tally = Tally(read=stored.count, fit=cut, rows=pieces.count)
        return Encoded(self._table.encode_placed(pieces)), tally

    @property
    def is_walked(self) -> bool:
        """See `Job`."""
        return self._walk is not None

    tells_numbers = True
    """See `Job`."""

    def take(self, source: Source, made: tuple[list[Cut] | Encoded, Tally]) -> None:
        """See `Job.take`."""
        cuts, found = made
        self.tally.merge(found)
        if isinstance(cuts, Encoded):
            self._table.write(cuts.payload)
            return
        if self._spool is None:
            rows = [[name, number, at, piece] for name, number, pieces in cuts for at, piece in enumerate(pieces, 1)]
            self._table.write(self._table.encode(rows))
            return
        self._width = max([self._width, *(len(pieces) for _, _, pieces in cuts)])
        self._spool.put(cuts)

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""
        if self._spool is None:
            return
        width, names = self._width, self._names
        called = [*names[:width], *(f"piece {number}" for number in range(len(names) + 1, width + 1))]
        table = self._sink.table("pieces", [*self._head, *(Column(name) for name in called)])
        for cuts in self._spool:
            rows = [[name, number, *pieces, *([None] * (width - len(pieces)))] for name, number, pieces in cuts]
            table.write(table.encode(rows))
