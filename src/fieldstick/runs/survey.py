"""Shows what a source holds before any pattern is written: the shapes of its texts, and what is odd about them.

A shape has A for a capital, a for a small letter, 9 for a digit, and every other character as it is; a letter of
another alphabet stands as a sample of that alphabet. Texts whose runs differ in length alone share a shape. Memory
does not grow with the number of texts: beyond a limit the rarest shapes so far are let go, and the result says so.
"""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from functools import cache, lru_cache
from itertools import islice
from typing import TYPE_CHECKING, Any, NamedTuple, TypeVar

from msgspec import Struct, field

from fieldstick.data.placed import as_lines, texts_as_lines
from fieldstick.data.rows import text_of
from fieldstick.kernels.walkers import NATIVE
from fieldstick.lean import compiled_later
from fieldstick.matching.character_kinds import BY_KIND, OTHER_DIGIT, KindTable, alphabet_of
from fieldstick.runs.column_types import ColumnTypes
from fieldstick.runs.distinct import Distinct
from fieldstick.runs.line_kinds import LineKinds

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

    from fieldstick.data.batch import Batch, StoredTexts
    from fieldstick.data.distant import DistantPart, PartSource
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
"""Characters of a text whose runs are remembered."""

MOST_REMEMBERED = 4096
"""Texts whose runs are remembered."""

LONGEST_SHAPE = 60
"""Runs of a text that make up its shape; what follows is folded into one."""

AT_A_TIME = 2000
"""Texts that are taken in together."""

T = TypeVar("T")
K = TypeVar("K")

_RUNS = compiled_later(r"((.)\2*)", re.DOTALL)
_ODD = compiled_later(r"[^\x20-\x7e]")


class Shape(Struct):
    """A shape: how many texts have it, how long they are, and some of them.

    `runs` holds the shortest and longest length of each run; `first` is the line of the first text.
    """

    kinds: tuple[str, ...]
    runs: list[list[int]]
    count: int = 0
    shortest: int = 0
    longest: int = 0
    first: int = 0
    examples: list[str] = field(default_factory=list)

    @property
    def text(self) -> str:
        """The shape as it is shown: runs folded to one letter and an ellipsis where lengths vary."""
        pieces = []
        for kind, (low, high) in zip(self.kinds, self.runs, strict=True):
            folded = low != high or high > LONGEST_RUN_SHOWN
            pieces.append(f"{kind}…" if folded else kind * low)
        return "".join(pieces)

    def merge(self, other: Shape) -> None:
        """Take in what another has of the same shape, of texts further on."""
        self.count += other.count
        self.shortest, self.longest = min(self.shortest, other.shortest), max(self.longest, other.longest)
        for bounds, (low, high) in zip(self.runs, other.runs, strict=True):
            bounds[:] = min(bounds[0], low), max(bounds[1], high)
        new = [each for each in other.examples if each not in self.examples]
        self.examples += new[: MOST_EXAMPLES - len(self.examples)]


class Oddity(Struct):
    """Something odd: in how many texts, and the line of the first."""

    count: int = 0
    first: int = 0


class Seen(NamedTuple):
    """What is to be said of texts that are the same by kind: None for oddities that each is to be asked for."""

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
    shapes: dict[tuple[str, ...], Shape] = field(default_factory=dict)
    other_shapes: int = 0
    oddities: dict[str, Oddity] = field(default_factory=dict)
    values: Distinct = field(default_factory=Distinct)
    kinds: LineKinds | None = None
    """The kinds of line; None for a column of a table."""

    types: ColumnTypes | None = None
    """What the texts of a column would convert to; None for lines."""

    widened_by: set[str] = field(default_factory=set)
    """Texts given by kind that the runs of their shapes were widened for already."""

    taken_in: dict[bytes, Seen] = field(default_factory=dict)
    """What is to be said of texts given by kind, by how they are stored."""

    @property
    def may_be_key(self) -> bool:
        """Whether every text is filled in and there once, as far as all were told apart."""
        return self.texts > 1 and self.filled == self.texts == len(self.values) and self.values.is_exact

    def merge(self, other: Survey) -> None:
        """Take in what another holds of texts further on."""
        self.values.merge(other.values)
        if self.types is not None and other.types is not None:
            self.types.merge(other.types)
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
            self._add_stored(stored, batch.numbers, lambda: batch.texts)

    def _add_texts(self, numbers: Sequence[int], texts: Sequence[str]) -> None:
        """Take in all of texts but how many are different.

        Texts that read the same once every letter and digit is put by its kind are taken in together.
        """
        if self.types is not None:
            self.types.add_many(texts)
        by_kind = _by_kind(texts)
        firsts = dict(zip(reversed(by_kind), reversed(numbers), strict=True))
        wanted: dict[str, tuple[Shape, bool]] = {}
        for kinds, count in Counter(by_kind).items():
            self._take_in(kinds, self._seen(kinds, firsts[kinds]), count, firsts[kinds], wanted)
        self._look_at(wanted, by_kind, numbers, lambda: texts)

    def _add_stored(self, stored: StoredTexts, numbers: Sequence[int], texts: Callable[[], Sequence[str]]) -> None:
        """Take in all of lines but how many are different, as `_add_texts` does."""
        if self.types is not None:
            self.types.add_many(texts())
        group_of = bytearray(4 * stored.count)
        wanted: dict[int, tuple[Shape, bool]] = {}
        for group, (data, count, first) in enumerate(_grouped_by_kind(stored, group_of)):
            seen = self.taken_in.get(data)
            if seen is None:
                seen = self._seen(data.decode("utf-8", "surrogateescape"), numbers[first])
                if len(data) <= LONGEST_REMEMBERED and len(self.taken_in) < MOST_REMEMBERED:
                    self.taken_in[data] = seen
            self._take_in(group, seen, count, numbers[first], wanted)
        self._look_at(wanted, memoryview(group_of).cast("i"), numbers, texts)

    def _seen(self, kinds: str, first: int) -> Seen:
        """Return what is to be said of a text given by kind, its shape widened for it; `first` is its line."""
        shape = self._shape_at(kinds, first)
        self._count(shape, len(kinds), 0)
        return Seen(shape, bool(kinds.strip()), None if OTHER_DIGIT in kinds else _oddities_of(kinds))

    def _take_in(self, key: K, seen: Seen, count: int, first: int, wanted: dict[K, tuple[Shape, bool]]) -> None:
        """Count texts that are the same by kind; where they are to be looked at, note that by their key."""
        shape, is_filled, oddities = seen
        self.texts += count
        shape.count += count
        self.filled += count if is_filled else 0
        for name in oddities or ():
            self._odd(name, first, count)
        if oddities is None or len(shape.examples) < MOST_EXAMPLES:
            wanted[key] = shape, oddities is None

    def _look_at(
        self,
        wanted: Mapping[Any, tuple[Shape, bool]],
        keys: Sequence[Any],
        numbers: Sequence[int],
        texts: Callable[[], Sequence[str]],
    ) -> None:
        """Note examples of shapes that lack some, and what is odd about texts where their kinds do not tell."""
        for index, key in enumerate(keys) if wanted else ():
            if key not in wanted:
                continue
            shape, is_odd = wanted[key]
            text = texts()[index]
            for name in _oddities_of(text) if is_odd else ():
                self._odd(name, numbers[index])
            if len(shape.examples) < MOST_EXAMPLES and text not in shape.examples:
                shape.examples.append(text)

    def _count(self, shape: Shape, size: int, count: int) -> None:
        shape.count += count
        shape.shortest, shape.longest = min(shape.shortest, size), max(shape.longest, size)
        self.longest = max(self.longest, size)
        self.shortest = size if self.shortest is None else min(self.shortest, size)

    def _shape_at(self, text: str, first: int) -> Shape:
        """Return the shape of a text given by kind, its runs widened for it; `first` is the line of a new shape."""
        kinds, sizes = _shape_of(text)
        shape = self.shapes.get(kinds)
        if shape is None:
            if len(self.shapes) >= MOST_SHAPES:
                self._let_go()
            shape = self.shapes[kinds] = Shape(kinds, [[size, size] for size in sizes], shortest=len(text), first=first)
        if text in self.widened_by:
            return shape
        if len(text) <= LONGEST_REMEMBERED and len(self.widened_by) < MOST_REMEMBERED:
            self.widened_by.add(text)
        for bounds, size in zip(shape.runs, sizes, strict=True):
            if size < bounds[0]:
                bounds[0] = size
            elif size > bounds[1]:
                bounds[1] = size
        return shape

    def _let_go(self) -> None:
        """Let the rarer half of the shapes go, of those equally rare the ones that came first."""
        ranked = sorted(self.shapes.items(), key=lambda each: (each[1].count, each[1].first))
        for kinds, shape in ranked[: len(ranked) // 2]:
            self.other_shapes += shape.count
            del self.shapes[kinds]
        self.widened_by.clear()
        self.taken_in.clear()

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
    the kinds of line are found too, with `of_column` what the texts would convert to.
    """

    tells_numbers = True
    """See `Job`: the first line of what is odd is told."""

    is_walked = NATIVE is not None
    """See `Job`."""

    def __init__(self, *, by_column: bool, of_lines: bool = False, of_column: bool = False) -> None:
        self._of_lines, self._of_column = of_lines, of_column
        self.found: dict[str, Survey] = {}
        self._by_column = by_column
        self._is_copy = False

    def __getstate__(self) -> dict[str, Any]:
        return self.__dict__ | {"found": {}, "_is_copy": True}

    def work(self, source: str, batch: Batch) -> None:
        """See `Job.work`."""
        batch.notes.line_ends = batch.line_ends()
        if not self._by_column:
            self._of("").add_batch(batch)
            return
        from fieldstick.data.delimited_blocks import TableBatch

        if isinstance(batch, TableBatch) and batch.table.has_all_cells:
            for name, column in batch.columns():
                self._of(name).add_batch(column)
        else:
            rows = [{name: text_of(value) or "" for name, value in row.items()} for row in batch.rows or ()]
            survey_columns(zip(batch.numbers, rows, strict=False), self.found, to_be_merged=self._is_copy)

    def _of(self, name: str) -> Survey:
        if name not in self.found:
            kinds = LineKinds() if self._of_lines else None
            types = ColumnTypes() if self._of_column or self._by_column else None
            values = Distinct(to_be_merged=self._is_copy)
            self.found[name] = Survey(values=values, kinds=kinds, types=types)
        return self.found[name]

    def take(self, source: Source, made: None) -> None:
        """See `Job.take`."""

    def opened(self, part: DistantPart, first: int) -> PartSource:
        """See `PartsJob.opened`."""
        self.found = {}
        return part.opened(first)

    def told(self, source: PartSource) -> dict[str, Survey]:
        """See `PartsJob.told`."""
        return self.found

    def take_told(self, source: Source, told: dict[str, Survey]) -> None:
        """See `PartsJob.take_told`."""
        for name, found in told.items():
            self._of(name).merge(found)

    def close(self, sources: Sequence[Source]) -> None:
        """See `Job.close`."""


def _by_kind(texts: Sequence[str]) -> list[str]:
    """Return texts with every letter and digit put by its kind."""
    joined = "\n".join(texts)
    # One character beyond ASCII would slow all the others.
    found = joined.translate(BY_KIND).split("\n") if joined.isascii() else []
    return found if len(found) == len(texts) else [text.translate(BY_KIND) for text in texts]


@cache
def _kind_table() -> KindTable:
    """Return the kinds of the characters beyond ASCII that were met."""
    return KindTable()


def _grouped_by_kind(stored: StoredTexts, group_of: bytearray) -> Iterator[tuple[bytes, int, int]]:
    """Yield what lines are put by kind, each once, with how often it is there and the index of the first.

    Their numbers among those are written to `group_of` (int32).
    """
    assert NATIVE is not None
    if stored.is_ascii():
        lines, counts, firsts, _ = NATIVE.grouped(stored.data, stored.ends or b"", group_of, True, None)
        return zip(lines, counts, firsts, strict=True)
    table, unknown = _kind_table(), [0]
    while unknown:
        lines, counts, firsts, unknown = NATIVE.grouped(stored.data, stored.ends or b"", group_of, True, table.stored)
        table.learn(unknown)
    return zip(lines, counts, firsts, strict=True)


def _oddities_of(text: str) -> tuple[str, ...]:
    """Name what is odd about a text: printable ASCII, blanks one by one within, has nothing."""
    found = []
    if not text.strip():
        found.append("blanks alone" if text else "empty")
    elif text[0].isspace() or text[-1].isspace():
        found.append("white space at an edge")
    if "  " in text:
        found.append("blanks in a row")
    if not (text.isascii() and text.isprintable()):
        found += {name for character in set(_ODD.findall(text)) if (name := _oddity(character))}
    return tuple(found)


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


@lru_cache(maxsize=MOST_SHAPES)
def _shape_of(by_kind: str) -> tuple[tuple[str, ...], tuple[int, ...]]:
    """Return the runs of a text in which each character stands by its kind: what they are of, and how long."""
    return _remembered_runs(by_kind) if len(by_kind) <= LONGEST_REMEMBERED else _runs_of(by_kind)


def _runs_of(by_kind: str) -> tuple[tuple[str, ...], tuple[int, ...]]:
    text = by_kind.replace(OTHER_DIGIT, "9")
    if len(text) <= LONGEST_REMEMBERED:
        runs = _RUNS.findall(text)
    else:
        runs = [found.groups() for found in islice(_RUNS.finditer(text), LONGEST_SHAPE + 1)]
    kinds, sizes = [kind for _, kind in runs], [len(run) for run, _ in runs]
    if len(runs) > LONGEST_SHAPE:
        kinds[LONGEST_SHAPE:], sizes[LONGEST_SHAPE:] = ["…"], [1]
    return tuple(kinds), tuple(sizes)


_remembered_runs = lru_cache(MOST_REMEMBERED)(_runs_of)


@lru_cache(maxsize=4096)
def _oddity(character: str) -> str:
    """Name what is odd about a character that is not plain ASCII; empty for what is common in Latin text."""
    if character == "\t":
        return "tab"
    category = unicodedata.category(character)
    if "\udc80" <= character <= "\udcff":
        return "byte that is not UTF-8"
    if category == "Cc":
        return f"control character U+{ord(character):04X}"
    if category == "Zs":
        return unicodedata.name(character).lower()
    if category in ("Cf", "Zl", "Zp", "Cs", "Co", "Cn"):
        return f"invisible character U+{ord(character):04X} ({unicodedata.name(character, 'no name').lower()})"
    if character.isalpha():
        alphabet = alphabet_of(character)
        return "" if alphabet == "LATIN" else f"{alphabet.lower()} letters"
    if character.isdigit() or category == "Nd":
        return f"{alphabet_of(character).lower()} digits"
    if category in ("Mn", "Mc"):
        return "combining mark"
    return ""
