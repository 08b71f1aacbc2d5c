"""What sources give: texts with their numbers, singly or many at a time, and what was met on the way."""

from __future__ import annotations

from collections import Counter
from functools import cached_property
from typing import TYPE_CHECKING, Any, Protocol

from msgspec import Struct, field

from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from array import array
    from collections.abc import Iterator, Mapping, Sequence

MOST_NAMED = 1000
"""Lines of a kind that are named; further ones are counted alone."""


class LineNumbers(list[int]):
    """The numbers of lines of which something is to be said: the first ones, and how many there are in all."""

    total = 0

    def note(self, number: int) -> None:
        """Add the number of a line; the last one again counts once."""
        if self and self[-1] == number:
            return
        self.total += 1
        if len(self) < MOST_NAMED:
            self.append(number)

    def merge(self, other: LineNumbers) -> None:
        """Add what was noted further on in the same source."""
        self.extend(other[: MOST_NAMED - len(self)])
        self.total += other.total


class SourceNotes(Struct):
    """What was met while a source was read.

    `undecodable` are lines with bytes that are not text in the encoding, `ragged` rows with more or fewer cells
    than the header, `overlong` texts beyond the limit, which are not read, `missing` rows without a value,
    `not_json` lines that are no JSON, `too_deep` lines of JSON that is nested deeper than is read. `line_ends` counts
    how lines end. `led_by` is the encoding whose byte-order mark leads a source
    that is read in another.
    """

    undecodable: LineNumbers = field(default_factory=LineNumbers)
    ragged: LineNumbers = field(default_factory=LineNumbers)
    overlong: LineNumbers = field(default_factory=LineNumbers)
    missing: LineNumbers = field(default_factory=LineNumbers)
    not_json: LineNumbers = field(default_factory=LineNumbers)
    too_deep: LineNumbers = field(default_factory=LineNumbers)
    line_ends: Counter[str] = field(default_factory=Counter)
    led_by: str = ""

    def merge(self, other: SourceNotes) -> None:
        """Add what was met further on in the same source."""
        for name in _NUMBERED:
            found: LineNumbers = getattr(other, name)
            if found.total:
                getattr(self, name).merge(found)
        if other.line_ends:
            self.line_ends += other.line_ends
        self.led_by = self.led_by or other.led_by


_NUMBERED = ("undecodable", "ragged", "overlong", "missing", "not_json", "too_deep")


class Entry(Struct, frozen=True, gc=False):
    """A text with its line (from 1); None where a row has no value.

    `row` holds the row's cells by column, None for lines. `raw` is the text as it stands in the source, line end
    included; None where it has no such form.
    """

    number: int
    text: str | None
    row: Mapping[str, Any] | None = None
    raw: str | None = None


class StoredTexts(Struct, frozen=True):
    """Texts as they are stored, in UTF-8: how many they are, and how many of them are lines that end with CR LF.

    Without `cells` they are whole lines, each ended by a line feed. With `cells` (int32, start and end of each in
    bytes) they are cells of rows; `raws` (int32, likewise) tells where the row of each stands, line end included, and
    `numbers` (int32) the number of the line that it begins in.
    """

    data: bytes
    count: int
    returns: int = 0
    cells: array[int] | None = None
    raws: array[int] | None = None
    numbers: array[int] | None = None
    longest: int = 0
    """The bytes of the longest line; 0 where there are no lines, or nobody looked."""
    ends: bytes | None = None
    """Where each line ends (int32, in bytes), line end included; None where there are no lines, or nobody looked."""

    known_ascii: bool = False
    """Whether somebody looked, and all is ASCII."""

    def are_all(self) -> bool:
        """Tell whether the texts, with what ends them, are all that is stored: lines, or one text alone."""
        return self.cells is None or (self.count == 1 and self.cells[1] - self.cells[0] == len(self.data))

    def is_ascii(self) -> bool:
        """Tell whether all is ASCII."""
        return self.known_ascii or self.data.isascii()

    def line(self, index: int) -> str:
        """Return one of the lines of which it is known where they end, without its line end."""
        assert self.ends is not None
        ends = memoryview(self.ends).cast("i")
        found = self.data[ends[index - 1] if index else 0 : ends[index]].decode("utf-8", "surrogateescape")
        return found.removesuffix("\n").removesuffix("\r") if found.endswith("\n") else found

    def some(self, runs: Sequence[tuple[int, int]]) -> StoredTexts:
        """Return runs of the lines, each from one index to before another, where it is known where all end."""
        assert self.ends is not None and NATIVE is not None
        ends = memoryview(self.ends).cast("i")
        data = b"".join([self.data[ends[first - 1] if first else 0 : ends[after - 1]] for first, after in runs])
        count, returns, longest, is_ascii, _, _, places = NATIVE.survey(data, 0)
        return StoredTexts(data, count, returns, longest=longest, ends=places, known_ascii=is_ascii)

    def texts(self) -> list[str]:
        """Return the texts, without line ends; bytes that are no UTF-8 as PEP 383 has them."""
        data, cells = self.data, self.cells
        if cells is None:
            return data.decode("utf-8", "surrogateescape").replace("\r\n", "\n").split("\n")[: self.count]
        if NATIVE is not None:
            return NATIVE.strings(data, cells)
        pairs = zip(*[iter(cells)] * 2, strict=True)
        return [data[start:end].decode("utf-8", "surrogateescape") for start, end in pairs]


class Glance(Struct, frozen=True):
    """What was made of whole lines at once, all of them ASCII: how many there are, end with CR LF, and what it is."""

    lines: int
    returns: int
    made: Any


class Batch:
    """Texts of one source that follow one another.

    `stored` are the texts as UTF-8, and `joined` lines as one text, each ended by a line feed, where they can be worked
    on so; `joined` and `texts` are made when first asked for. `rows` is None for lines. `without_text` are the
    indexes of what holds no text, such as a row without a value; an empty one stands in for it. What was made of the
    texts while they were read is at hand `beside` them.
    """

    def __init__(
        self,
        numbers: Sequence[int] | None,
        texts: list[str] | None,
        raws: list[str] | None = None,
        rows: Sequence[Mapping[str, Any]] | None = None,
        notes: SourceNotes | None = None,
        *,
        first: int = 1,
        stored_texts: StoredTexts | None = None,
        joined: str | None = None,
        stored: str | None = None,
        without_text: frozenset[int] = frozenset(),
    ) -> None:
        self.stored, self.without_text = stored_texts, without_text
        self._rows = rows
        self._joined = joined
        self.notes = notes if notes is not None else SourceNotes()
        self._first, self._numbers = first, numbers
        self._texts, self._raws, self._as_stored = texts, raws, stored
        self.beside: Any = None

    @property
    def rows(self) -> Sequence[Mapping[str, Any]] | None:
        """The row of each text, by column; None for lines."""
        return self._rows

    @property
    def joined(self) -> str | None:
        """The lines as one text; None where they cannot be worked on so."""
        if self._joined is None and self.stored is not None and self.stored.cells is None:
            stored = self.stored.data.decode("utf-8", "surrogateescape")
            self._joined = stored.replace("\r\n", "\n") if self.stored.returns else stored
            self._as_stored = stored if self.stored.returns else None
        return self._joined

    @property
    def numbers(self) -> Sequence[int]:
        """The number of each text."""
        if self._numbers is None:
            count = self._line_count() if self._texts is None else len(self._texts)
            self._numbers = range(self._first, self._first + count)
        return self._numbers

    def _line_count(self) -> int:
        if self.stored is not None:
            return self.stored.count
        assert self._joined is not None
        return self._joined.count("\n")

    def line_ends(self) -> Counter[str]:
        """Count how the lines end; a last line without an end is not counted."""
        stored = self._as_stored if self._as_stored is not None else self._joined
        if self.stored is not None:
            returns, feeds = self.stored.returns, self.stored.count - self.stored.returns
        elif stored is None:
            ended = [raw for raw in self._raws or () if raw.endswith("\n")]
            returns = sum(raw.endswith("\r\n") for raw in ended)
            feeds = len(ended) - returns
        else:
            returns = stored.count("\r\n") if "\r" in stored else 0
            feeds = len(self.numbers) - returns
        return Counter({name: count for name, count in (("CR LF", returns), ("LF", feeds)) if count})

    @property
    def texts(self) -> list[str]:
        """The texts, without line ends."""
        if self._texts is None:
            assert self.joined is not None
            self._texts = self.joined.split("\n")
            self._texts.pop()
        return self._texts

    def parts(self) -> Iterator[Batch]:
        """Yield itself; see `Block`."""
        yield self

    @property
    def as_they_stand(self) -> bool:
        """Whether every text stands in its source as it is, followed by a line feed alone."""
        return self._raws is None and (self._as_stored is None if self.stored is None else not self.stored.returns)

    def raw(self, index: int) -> str:
        """Return the text at `index` as it stands in the source."""
        if self._raws is None and self.joined is not None and self._as_stored is not None:
            self._raws = [line + "\n" for line in self._as_stored.split("\n")[:-1]]
        return self._raws[index] if self._raws is not None else self.texts[index] + "\n"

    def some(self, runs: Sequence[tuple[int, int]]) -> Batch:
        """Return runs of the lines, each from one index to before another, as they are stored."""
        assert self.stored is not None
        numbers = [number for first, after in runs for number in self.numbers[first:after]]
        return Batch(numbers, None, notes=self.notes, stored_texts=self.stored.some(runs))

    def without(self, unwanted: set[int]) -> Batch:
        """Return the texts but those at some indexes."""
        kept = [index for index in range(len(self.numbers)) if index not in unwanted]
        return Batch(
            [self.numbers[index] for index in kept],
            [self.texts[index] for index in kept],
            [self.raw(index) for index in kept],
            [self.rows[index] for index in kept] if self.rows is not None else None,
            self.notes,
        )

    def without_texts(self, unwanted: set[int]) -> Batch:
        """Return all as it stands, those at some indexes without a text."""
        count = range(len(self.numbers))
        texts = ["" if index in unwanted else self.texts[index] for index in count]
        raws = [self.raw(index) for index in count]
        return Batch(self.numbers, texts, raws, self.rows, self.notes, without_text=frozenset(unwanted))


class CellBatch(Batch):
    """Cells of rows that follow one another, as they are stored; texts are made when first asked for."""

    def __init__(self, stored: StoredTexts, notes: SourceNotes) -> None:
        assert stored.raws is not None and stored.numbers is not None
        self._raw_places = stored.raws
        super().__init__(stored.numbers, None, notes=notes, stored_texts=stored)

    @cached_property
    def texts(self) -> list[str]:
        """See `Batch.texts`."""
        assert self.stored is not None
        return self.stored.texts()

    @property
    def as_they_stand(self) -> bool:
        """See `Batch.as_they_stand`."""
        return False

    def line_ends(self) -> Counter[str]:
        """See `Batch.line_ends`; those of tables are not counted."""
        return Counter()

    def raw(self, index: int) -> str:
        """See `Batch.raw`."""
        assert self.stored is not None
        start, end = self._raw_places[2 * index : 2 * index + 2]
        return self.stored.data[start:end].decode("utf-8", "surrogateescape")


class Block(Protocol):
    """Texts on their way to whoever works on them."""

    def parts(self) -> Iterator[Batch]:
        """Yield the texts, some at a time, in order."""
