"""Shows what a source holds before any pattern is written: the shapes of its texts, and what is odd about them.

A shape has A for a capital, a for a small letter, 9 for a digit, and every other character as it is; a letter of
another alphabet stands as a sample of that alphabet. Texts whose runs differ in length alone share a shape. Memory
does not grow with the number of texts: beyond a limit the rarest shapes so far are let go, and the result says so.
"""

from __future__ import annotations

from array import array
from collections import Counter
from itertools import islice
from typing import TYPE_CHECKING, Any, NamedTuple, TypeVar

from msgspec import Struct, field

from fieldstick.data.placed import as_lines, texts_as_lines
from fieldstick.data.rows import text_of
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching.character_kinds import OTHER_DIGIT
from fieldstick.runs.column_types import ColumnTypes
from fieldstick.runs.distinct import Distinct
from fieldstick.runs.line_kinds import LineKinds
from fieldstick.runs.oddities import oddities_of
from fieldstick.runs.shape_groups import Groups, ToldApart, groups_of, kinds_of, stored_groups, take_into, told_apart

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

    from fieldstick.data.batch import Batch, StoredTexts
    from fieldstick.data.distant import DistantPart, PartSource
    from fieldstick.data.flat_rows import FlatRows
    from fieldstick.data.source import Source

MOST_SHAPES = 20_000
"""Shapes that are kept apart; when there are more, the rarer half of them is let go.

So one that most texts have is found however late it comes (after G. S. Manku and R. Motwani, "Approximate Frequency
Counts over Data Streams", 2002).
"""

MOST_EXAMPLES = 3
LONGEST_RUN_SHOWN = 8
"""Letters or digits in a row that a shape shows one by one; longer runs, and those that vary, are folded."""

LONGEST_REMEMBERED = 500
"""Characters of a folded text of which it is remembered what is to be said."""

MOST_REMEMBERED = 20_000
"""Such texts."""

MOST_VALUES = 8
"""Different values of a column up to which each is counted."""

AT_A_TIME = 2000
"""Texts that are taken in together."""

_LONGEST = 1 << 31
"""More code points than a text has."""

T = TypeVar("T")


class Shape(Struct):
    """A shape: how many texts have it, how long they are, and some of them.

    `tally` (int64) holds how many there are, the shortest and longest length, and those of each run, one after the
    other; `first` is the line of the first text.
    """

    kinds: str
    tally: array[int]
    first: int = 0
    examples: list[str] = field(default_factory=list)

    @property
    def count(self) -> int:
        """How many texts have it."""
        return self.tally[0]

    @property
    def shortest(self) -> int:
        """The code points of the shortest text."""
        return self.tally[1]

    @property
    def longest(self) -> int:
        """The code points of the longest text."""
        return self.tally[2]

    @property
    def text(self) -> str:
        """The shape as it is shown: runs folded to one letter and an ellipsis where lengths vary."""
        pieces = []
        for kind, low, high in zip(self.kinds, self.tally[3::2], self.tally[4::2], strict=True):
            folded = low != high or high > LONGEST_RUN_SHOWN
            pieces.append(f"{kind}…" if folded else kind * low)
        return "".join(pieces)

    def add_examples(self, texts: Iterable[str]) -> None:
        """Take texts of it as examples that are unlike those before them, while there are few."""
        for text in texts:
            if len(self.examples) < MOST_EXAMPLES and text not in self.examples:
                self.examples.append(text)

    def merge(self, other: Shape) -> None:
        """Take in what another has of the same shape, of texts further on."""
        count, shortest, longest, *spans = other.tally
        take_into(self.tally, count, shortest, longest, array("i", spans))
        self.add_examples(other.examples)


class Oddity(Struct):
    """Something odd: in how many texts, and the line of the first."""

    count: int = 0
    first: int = 0


class Seen(NamedTuple):
    """What is to be said of texts that are the same once folded: None for oddities that each is to be asked for."""

    shape: Shape
    is_filled: bool
    oddities: tuple[str, ...] | None


class Survey(Struct):
    """What the texts of a source, or of one column, hold.

    `other_shapes` counts texts of shapes that were let go.
    """

    texts: int = 0
    filled: int = 0
    shortest: int | None = None
    longest: int = 0
    shapes: dict[str, Shape] = field(default_factory=dict)
    other_shapes: int = 0
    oddities: dict[str, Oddity] = field(default_factory=dict)
    values: Distinct = field(default_factory=Distinct)
    kinds: LineKinds | None = None
    """The kinds of line; None for a column of a table."""

    types: ColumnTypes | None = None
    """What the texts of a column would convert to; None for lines."""

    few: Counter[str] | None = field(default_factory=Counter)
    """How often each text of a column is there; None for more than `MOST_VALUES`."""

    taken_in: dict[str | bytes, Seen] = field(default_factory=dict)
    """What is to be said of folded texts."""

    tallies: dict[str | bytes, array[int]] = field(default_factory=dict)
    """The tallies of folded texts of which there is no more to be said."""

    @property
    def may_be_key(self) -> bool:
        """Whether every text is filled in and there once, as far as all were told apart."""
        return self.texts > 1 and self.filled == self.texts == len(self.values) and self.values.is_exact

    def merge(self, other: Survey) -> None:
        """Take in what another holds of texts further on."""
        self.values.merge(other.values)
        if self.types is not None and other.types is not None:
            self.types.merge(other.types)
            self._count_values(other.few)
        if self.kinds is not None and other.kinds is not None:
            self.kinds.merge(other.kinds)
        self.texts += other.texts
        self.filled += other.filled
        self.other_shapes += other.other_shapes
        self.longest = max(self.longest, other.longest)
        if other.shortest is not None:
            self.shortest = other.shortest if self.shortest is None else min(self.shortest, other.shortest)
        for kinds, shape in other.shapes.items():
            known = self.shapes.get(kinds)
            if known is None:
                if len(self.shapes) >= MOST_SHAPES:
                    self._let_go()
                self.shapes[kinds] = shape
            else:
                known.merge(shape)
        for name, oddity in other.oddities.items():
            self._odd(name, oddity.first, oddity.count)

    def add_many(self, numbers: Sequence[int], texts: Sequence[str]) -> None:
        """Take in texts with the numbers of their lines."""
        stored = texts_as_lines(texts) if NATIVE is not None else None
        if stored is None:
            self.values.add_many(texts)
            self._add_texts(numbers, texts)
        else:
            self.values.add_stored(stored, lambda: texts)
            self._add_stored(stored, numbers, lambda: texts)

    def add_batch(self, batch: Batch) -> None:
        """Take in the texts of a batch; lines, all at once."""
        stored = batch.stored
        if stored is not None and stored.cells is not None and NATIVE is not None:
            stored = as_lines(stored.data, stored.cells)
        if stored is not None and (NATIVE is None or stored.ends is None):
            stored = None
        if self.kinds is not None:
            self.kinds.add_batch(batch)
        if stored is None:
            self.values.add_many(batch.texts)
            self._add_texts(batch.numbers, batch.texts)
        else:
            self.values.add_stored(stored, lambda: batch.texts)
            self._add_stored(stored, batch.numbers, lambda: batch.texts, batch.beside)

    def _add_texts(self, numbers: Sequence[int], texts: Sequence[str]) -> None:
        """Take in all of texts but how many are different."""
        if self.types is not None:
            self.types.add_many(texts)
            self._count_values(texts)
        self._take_in(groups_of(texts), numbers, texts.__getitem__)

    def _add_stored(
        self,
        stored: StoredTexts,
        numbers: Sequence[int],
        texts: Callable[[], Sequence[str]],
        apart: ToldApart | None = None,
    ) -> None:
        """Take in all of lines but how many are different, as `_add_texts` does; they may be told apart already."""
        if self.types is not None:
            self.types.add_many(texts())
            self._count_values(texts())
        self._take_in(stored_groups(apart or told_apart(stored), self.tallies), numbers, stored.line)

    def _count_values(self, texts: Iterable[str] | None) -> None:
        """Count texts, or take in counts of theirs, as long as few are different."""
        if self.few is None:
            return
        if texts is None or len(self.values) > MOST_VALUES:
            self.few = None
        else:
            self.few.update(texts)

    def _take_in(self, found: Groups, numbers: Sequence[int], text_at: Callable[[int], str]) -> None:
        """Take in texts of which each one's group is told, those of a group together."""
        odd = set[int]()
        wanted: dict[int, tuple[Shape, list[int]]] = {}
        count, shortest, longest = found.tallied
        if count:
            self._count(count, count, shortest, longest)
        for key, folded, count, first, shortest, longest, spans in found.groups:
            seen = self.taken_in.get(folded)
            if seen is None:
                seen = self._seen(folded, spans, numbers[first])
            shape, is_filled, oddities = seen
            take_into(shape.tally, count, shortest, longest, spans)
            self._count(count, count if is_filled else 0, shortest, longest)
            for name in oddities or ():
                self._odd(name, numbers[first], count)
            if oddities is None:
                odd.add(key)
            if len(shape.examples) < MOST_EXAMPLES:
                wanted.setdefault(id(shape), (shape, []))[1].extend(found.places(key))
            elif is_filled and oddities == () and folded in self.taken_in:
                self.tallies[folded] = shape.tally
        for shape, places in wanted.values():
            shape.add_examples(text_at(index) for index in sorted(places) if index >= 0)
        for index, key in enumerate(found.group_of) if odd else ():
            if key in odd:
                for name in oddities_of(text_at(index)):
                    self._odd(name, numbers[index])

    def _count(self, texts: int, filled: int, shortest: int, longest: int) -> None:
        self.texts += texts
        self.filled += filled
        self.longest = max(self.longest, longest)
        self.shortest = shortest if self.shortest is None else min(self.shortest, shortest)

    def _seen(self, folded: str | bytes, spans: Any, first: int) -> Seen:
        """Return what is to be said of texts that are folded for the first time; `first` is the line of one of them."""
        text = folded if isinstance(folded, str) else folded.decode("utf-8", "surrogateescape")
        kinds = kinds_of(text)
        shape = self.shapes.get(kinds)
        if shape is None:
            if len(self.shapes) >= MOST_SHAPES:
                self._let_go()
            nothing = array("q", [0, _LONGEST, 0]) + array("q", [_LONGEST, 0] * (len(memoryview(spans).cast("B")) // 8))
            shape = self.shapes[kinds] = Shape(kinds, nothing, first)
        seen = Seen(shape, bool(text.strip()), None if OTHER_DIGIT in text else oddities_of(text))
        if len(text) <= LONGEST_REMEMBERED and len(self.taken_in) < MOST_REMEMBERED:
            self.taken_in[folded] = seen
        return seen

    def _let_go(self) -> None:
        """Let the rarer half of the shapes go, of those equally rare the ones that came first."""
        ranked = sorted(self.shapes.items(), key=lambda each: (each[1].count, each[1].first))
        for kinds, shape in ranked[: len(ranked) // 2]:
            self.other_shapes += shape.count
            del self.shapes[kinds]
        self.taken_in.clear()
        self.tallies.clear()

    def _odd(self, name: str, number: int, count: int = 1) -> None:
        found = self.oddities.setdefault(name, Oddity(first=number))
        found.count += count
        found.first = min(found.first, number)

    def ranked(self, *, rare: bool = False) -> list[Shape]:
        """Return the shapes, the commonest first, or the rarest."""
        return sorted(self.shapes.values(), key=lambda shape: (shape.count if rare else -shape.count, shape.first))


class SurveyJob:
    """Surveys texts, or with `by_column` each column of a table.

    Here batches are taken in as they come; a copy elsewhere surveys each part of a source for itself. With `of_lines`
    the kinds of line are found too, with `of_column` what the texts would convert to. `size` is how many bytes there
    are, where that is known. `rows` counts those of tables: not each has every column where keys may be absent. Of
    `nested` rows the keys of objects within them are columns too.
    """

    tells_numbers = True
    """See `Job`: the first line of what is odd is told."""

    is_walked = NATIVE is not None
    """See `Job`."""

    def __init__(
        self,
        *,
        by_column: bool,
        of_lines: bool = False,
        of_column: bool = False,
        nested: bool = False,
        size: int | None = None,
    ) -> None:
        self._nested = nested
        self._flat: FlatRows | None = None
        self._of_lines, self._of_column, self._size = of_lines, of_column, size
        self.found: dict[str, Survey] = {}
        self.rows = 0
        self._by_column = by_column
        self._is_copy = False

    @property
    def beside(self) -> Callable[[StoredTexts], ToldApart] | None:
        """See `Job`: lines are told apart by their shape while further ones are read."""
        return told_apart if self._of_lines and NATIVE is not None else None

    def __getstate__(self) -> dict[str, Any]:
        return self.__dict__ | {"found": {}, "rows": 0, "_is_copy": True, "_size": None, "_flat": None}

    def work(self, source: str, batch: Batch) -> None:
        """See `Job.work`."""
        batch.notes.line_ends = batch.line_ends()
        if not self._by_column:
            self._of("").add_batch(batch)
            return
        from fieldstick.data.delimited_blocks import TableBatch

        self.rows += len(batch.numbers)
        if isinstance(batch, TableBatch) and batch.table.has_all_cells:
            for name, column in batch.columns():
                self._of(name).add_batch(column)
        else:
            rows = [{name: text_of(value) or "" for name, value in row.items()} for row in self._laid_out(batch)]
            survey_columns(zip(batch.numbers, rows, strict=False), self.found, to_be_merged=self._is_copy)

    def _laid_out(self, batch: Batch) -> Iterable[Mapping[str, Any]]:
        rows = batch.rows or []
        if not self._nested:
            return rows
        if self._flat is None:
            from fieldstick.data.flat_rows import FlatRows

            self._flat = FlatRows()
        return self._flat.of(rows)

    def _of(self, name: str) -> Survey:
        if name not in self.found:
            kinds = LineKinds(size=self._size) if self._of_lines else None
            types = ColumnTypes() if self._of_column or self._by_column else None
            values = Distinct(to_be_merged=self._is_copy)
            self.found[name] = Survey(values=values, kinds=kinds, types=types)
        return self.found[name]

    def take(self, source: Source, made: None) -> None:
        """See `Job.take`."""

    def opened(self, part: DistantPart, first: int) -> PartSource:
        """See `PartsJob.opened`."""
        self.found, self.rows = {}, 0
        return part.opened(first)

    def told(self, source: PartSource) -> tuple[int, dict[str, Survey]]:
        """See `PartsJob.told`."""
        return self.rows, self.found

    def take_told(self, source: Source, told: tuple[int, dict[str, Survey]]) -> None:
        """See `PartsJob.take_told`."""
        rows, columns = told
        self.rows += rows
        for name, found in columns.items():
            self._of(name).merge(found)

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""


def survey(texts: Iterable[tuple[int, str]]) -> Survey:
    """Survey texts that come with the number of their line."""
    found = Survey()
    for some in _some_at_a_time(texts):
        numbers, lines = zip(*some, strict=True)
        found.add_many(numbers, lines)
    return found


def survey_columns(
    rows: Iterable[tuple[int, dict[str, str]]], known: dict[str, Survey] | None = None, *, to_be_merged: bool = False
) -> dict[str, Survey]:
    """Survey each column of a table, together with what is `known` of others before it."""
    found = known if known is not None else {}
    for some in _some_at_a_time(rows):
        for name in dict.fromkeys(name for _, row in some for name in row):
            having = [(number, row[name]) for number, row in some if name in row]
            numbers, texts = zip(*having, strict=True)
            if name not in found:
                found[name] = Survey(values=Distinct(to_be_merged=to_be_merged), types=ColumnTypes())
            found[name].add_many(numbers, texts)
    return found


def _some_at_a_time(items: Iterable[T]) -> Iterator[list[T]]:
    waiting = iter(items)
    while some := list(islice(waiting, AT_A_TIME)):
        yield some
