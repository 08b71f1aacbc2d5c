"""Sources: the texts of a file or of standard input, one by one or in blocks, with what was met on the way."""

from __future__ import annotations

import importlib
import io
import os
import stat
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, Protocol, TypeVar, cast

from msgspec.structs import replace

from fieldstick.data.batch import Batch, Entry, LineNumbers, SourceNotes
from fieldstick.data.coding import BLOCK, Coding, Transcoded, checked_encoding, coding_of, has_escapes, led_by
from fieldstick.data.compression import STANDARD_INPUT, Stream
from fieldstick.data.lines import MOST_BYTES, PIECE, LineBlock, Overlong, line_blocks, whole_blocks, whole_characters
from fieldstick.data.packing import without_packing
from fieldstick.data.read_options import Kind, ReadOptions
from fieldstick.data.rows import second_of
from fieldstick.data.storage import is_url, named_like, stored
from fieldstick.errors import UsageError, hint
from fieldstick.kernels.walkers import NATIVE

if TYPE_CHECKING:
    from collections import Counter
    from collections.abc import Callable, Iterable, Iterator, Sequence

    from fieldstick.data.batch import Block, StoredTexts
    from fieldstick.data.lines import MakeAtOnce

__all__ = ["STANDARD_INPUT", "ReadOptions", "Source", "open_sources"]

_MAGIC: tuple[tuple[bytes, Kind], ...] = (
    (b"PAR1", "parquet"),
    (b"SQLite format 3\x00", "sqlite"),
    (b"PK\x03\x04", "xlsx"),
)
_ENDINGS: dict[str, Kind] = {".jsonl": "jsonl", ".ndjson": "jsonl", ".json": "json"}
_FORMATS: dict[Kind, str] = {
    "csv": "fieldstick.data.delimited",
    "json": "fieldstick.data.json_rows",
    "jsonl": "fieldstick.data.json_rows",
    "parquet": "fieldstick.data.parquet",
    "xlsx": "fieldstick.data.xlsx",
    "sqlite": "fieldstick.data.sqlite",
}
"""The module of each form of a table; its `entries(source, stream)` gives the rows."""

_NAMES = {"parquet": "a Parquet file", "sqlite": "a SQLite database", "xlsx": "a workbook"}

LEAST_AHEAD = 4 << 20
"""Bytes, as stored, of a file from which on it is read ahead: a thread costs as much as reading some of them."""

BLOCK_ITEMS = 2000
BLOCK_CHARACTERS = 1 << 20
"""Items and code points of a block of items: large enough to share well, small enough to keep memory flat."""


T = TypeVar("T")


class ReadFrom(Protocol):
    """What texts are read from, as those who work on them see it; `Source` says what each of it means."""

    name: str
    notes: SourceNotes
    read_options: ReadOptions
    kind: Kind
    ended_early: str | None
    changed: bool
    lacks_record_start: bool

    def blocks(self) -> Iterator[Block]:
        """Yield the texts in blocks."""

    def merge(self, notes: SourceNotes) -> None:
        """Note what was met in a block."""


class Source:
    """Something that texts are read from.

    `name` is as the user gave it, `size` in bytes as stored, None for standard input. `notes` fill while it is
    read; `ended_early` and `changed` are told when it was read to its end. `columns` are those of a table, known
    once its rows are read, `needed_columns` those that a table must have, and `namesakes` those to be read of whose
    name there are more. `coding` says how its text is stored, `delimiter` what parts the cells of CSV, `header` what
    stands before its rows. `lacks_record_start` is told at the end: no line of it began a record.

    `first_line` is the number of its first line, and `read_elsewhere` the bytes that others have read of it. One that
    `reads_ahead` may be read in a thread while what was read of it is worked on; what is to be made of its
    lines `beside` is made there, too.

    What is no plain file, such as a pipe, is opened once: what was looked at to tell its kind is then read.
    """

    def __init__(self, name: str, read_options: ReadOptions = ReadOptions()) -> None:
        self.name = "standard input" if name == STANDARD_INPUT else name
        self.read_options = read_options
        self.notes = SourceNotes()
        self.ended_early: str | None = None
        self.changed = False
        self.columns: list[str] = []
        self.header = ""
        self.delimiter = ","
        self.kind: Kind = "lines"
        self.lacks_record_start = False
        self.needed_columns: tuple[str, ...] = ()
        self.namesakes: tuple[str, ...] = ()
        self.first_line = 1
        self.read_elsewhere: int | None = None
        self.reads_ahead = False
        self.beside: Callable[[StoredTexts], Any] | None = None
        self.glance: MakeAtOnce | None = None
        self._given = name
        self._stream: Stream | None = None
        self._waiting: Stream | None = None
        self._once = name == STANDARD_INPUT
        self._read = False
        self.size: int | None = None
        self._coding: Coding | None = None
        self._folder_size = _folder_size(name) if _may_be_folder(name) else None
        if self._folder_size is not None:
            self.size = self._folder_size
        elif is_url(name):
            self.size = stored(name).state()[0]
        elif name != STANDARD_INPUT:
            try:
                if os.path.isdir(name):
                    raise UsageError(f"{name} is a folder; name files, or - for standard input")
                found = os.stat(name)
                self._once = not stat.S_ISREG(found.st_mode)
                self.size = None if self._once else found.st_size
            except (OSError, ValueError) as error:
                raise UsageError(f"{name}: cannot be read: {getattr(error, 'strerror', None) or error}") from None

    @property
    def path(self) -> str | None:
        """The path or URL of the file; None for standard input."""
        return self._given if self._given != STANDARD_INPUT else None

    @property
    def is_folder(self) -> bool:
        """Whether it is a folder of Parquet files."""
        return self._folder_size is not None

    @property
    def is_live(self) -> bool:
        """Whether more of it may come while it is read: what is written of it is then written at once."""
        return self._once

    grows = False
    """Whether it is followed as it grows, for as long as nobody ends that."""

    @property
    def ending(self) -> str:
        """The ending of its name in small letters, what says that it is compressed left out."""
        return os.path.splitext(without_packing(self.name))[1].lower()

    def table_kind(self) -> Kind:
        """Return what kind of table it is, told from its first bytes and its name."""
        with self._looked_at() as stream:
            return self._told_kind(stream)

    def is_packed(self) -> bool:
        """Tell whether it is compressed."""
        with self._looked_at() as stream:
            return stream.packing is not None

    @property
    def coding(self) -> Coding:
        """How its text is stored, told from its first bytes. Raises UsageError for an encoding that is not known."""
        if self._coding is None:
            with self._looked_at() as stream:
                self._coding = coding_of(self.read_options.encoding, stream.head)
        return self._coding

    @contextmanager
    def _looked_at(self) -> Iterator[Stream]:
        """Open it for a look at its first bytes; what can be opened once alone waits to be read."""
        if not self._once:
            with self._stream_of() as stream:
                yield stream
            return
        if self._waiting is None:
            self._waiting = self._opened_once()
        yield self._waiting

    def _opened_once(self) -> Stream:
        if self._once and self._read:
            raise UsageError(f"{self.name} can be read once, and this needs it twice; save it as a file first")
        self._read = True
        return self._stream_of()

    def _stream_of(self) -> Stream:
        if self._folder_size is None:
            return Stream(self._given)
        from fieldstick.data.parquet_folders import FolderStream

        return cast("Stream", FolderStream(self._folder_size))

    @property
    def consumed(self) -> int:
        """Bytes of the stored file that were read so far."""
        if self.read_elsewhere is not None:
            return self.read_elsewhere
        return self._stream.consumed if self._stream is not None and not self._stream.closed else self.size or 0

    @property
    def undecodable(self) -> LineNumbers:
        """Lines with bytes that are not text in the encoding."""
        return self.notes.undecodable

    @property
    def ragged(self) -> LineNumbers:
        """Rows with more or fewer cells than the header."""
        return self.notes.ragged

    @property
    def line_ends(self) -> Counter[str]:
        """How lines end, counted."""
        return self.notes.line_ends

    def blocks(self) -> Iterator[Block]:
        """Yield the texts in blocks, which may be loaded in another process; what is met there goes to `merge`.

        Raises UsageError when the source cannot be read as asked.
        """
        with self._opened() as stream:
            if self.kind == "lines":
                yield from self.line_blocks(stream)
            elif NATIVE is not None and (self.kind == "csv" or self._reads_one_key() or self._reads_texts_alone()):
                yield from self._table_blocks(stream)
            else:
                yield from _grouped(self._items(stream), everything=self.read_options.everything_wanted)

    def _reads_one_key(self) -> bool:
        """Tell whether one key of each line of JSON is read."""
        column = self.read_options.column
        return self.kind == "jsonl" and bool(column) and not str(column).startswith("/")

    def _reads_texts_alone(self) -> bool:
        """Tell whether of a Parquet file nothing is wanted but the texts of a column."""
        options = self.read_options
        wanted = options.raws_wanted or options.rows_wanted or options.everything_wanted
        return self.kind == "parquet" and options.column is not None and not wanted

    def _table_blocks(self, stream: Stream) -> Iterator[Block]:
        """Yield the rows of CSV or JSON Lines in blocks, those that must be read singly in groups."""
        for found in importlib.import_module(_FORMATS[self.kind]).blocks(self, stream):
            if hasattr(found, "parts"):
                yield found
            else:
                yield from _grouped(self._short_enough(found), everything=self.read_options.everything_wanted)

    def items(self) -> Iterator[Entry]:
        """Yield each text with its number and, for a table, its row; a row without a value has no text.

        Raises UsageError when the source cannot be read as asked.
        """
        with self._opened() as stream:
            yield from self._items(stream)

    def merge(self, notes: SourceNotes) -> None:
        """Note what was met in a block. Raises UsageError for undecodable bytes when they are to be refused."""
        self.notes.merge(notes)
        self.refuse_undecodable()

    def refuse_undecodable(self) -> None:
        """Raise UsageError for undecodable bytes when they are to be refused."""
        if self.read_options.refuse_undecodable and self.notes.undecodable:
            number = self.notes.undecodable[0]
            name = "name the encoding with --encoding"
            if self.notes.led_by:
                name = f"it begins as {self.notes.led_by.upper()} does, which --encoding {self.notes.led_by} reads"
            raise UsageError(
                f"{self.name}:{number}: bytes that are not {self.read_options.encoding}; {name}, or read them all the "
                "same with --undecodable keep"
            )

    def texts(self) -> Iterator[tuple[int, str]]:
        """Yield each text with its number (from 1), without its line end."""
        for found in self.batches():
            yield from zip(found.numbers, found.texts, strict=True)

    def batches(self) -> Iterator[Batch]:
        """Yield the texts some at a time, with their numbers."""
        for block in self.blocks():
            for found in block.parts():
                found.notes.line_ends = found.line_ends()
                self.merge(found.notes)
                yield found

    def chunks(self, size: int) -> Iterator[list[str]]:
        """Yield the texts in lists of up to `size`, for counting in bulk."""
        for found in self.batches():
            for start in range(0, len(found.texts), size):
                yield found.texts[start : start + size]

    @contextmanager
    def _opened(self) -> Iterator[Stream]:
        self.lacks_record_start = False
        stream = self._stream = self._waiting or self._opened_once()
        self._waiting = None
        self.kind = self._told_kind(stream)
        self._coding = coding_of(self.read_options.encoding, stream.head)
        self.notes = SourceNotes(led_by="" if self._coding.marked else led_by(stream.head))
        try:
            yield stream
            self.ended_early = stream.ended_early
            self.changed = stream.changed()
            self.refuse_undecodable()
        except OSError as error:
            raise UsageError(f"{self.name}: cannot be read: {error.strerror or error}") from None
        finally:
            stream.close()

    def _told_kind(self, stream: Stream) -> Kind:
        read_options = self.read_options
        found = next((kind for magic, kind in _MAGIC if stream.head.startswith(magic)), None)
        if read_options.kind is not None:
            return read_options.kind
        if found is not None:
            if not read_options.asks_for_table:
                raise UsageError(f"{self.name} is {_NAMES[found]}: name the column to read with --column")
            return found
        if read_options.asks_for_table:
            return "json" if read_options.rows_at is not None else _ENDINGS.get(self.ending, "csv")
        return "records" if read_options.begins_record is not None else "lines"

    def bytes_of(self, stream: Stream) -> io.RawIOBase:
        """Return the bytes of a stream as UTF-8, whatever its encoding, without a byte-order mark."""
        coding = self.coding
        stream.skip(len(coding.mark))
        return stream if coding.name == "utf-8" else Transcoded(stream, coding.name)

    def is_cut_by_lines(self) -> bool:
        """Tell whether each line end of the stored bytes is one between two texts: plain lines as UTF-8."""
        with self._looked_at() as stream:
            kind = self._told_kind(stream)
            return kind in ("lines", "jsonl") and stream.packing is None and self.coding == Coding()

    def line_range(self, stream: io.RawIOBase) -> io.RawIOBase:
        """Return the lines of a stream that are to be read; all of them."""
        return stream

    def line_blocks(self, stream: Stream) -> Iterator[Block]:
        """Yield the lines of a stream in blocks."""
        found = self.line_range(self.bytes_of(stream))
        longest = self.read_options.longest_row if self.kind == "jsonl" else self.read_options.longest
        passes_on = self.kind == "records" or self.read_options.passes_on
        size = PIECE // 2 if self.read_options.piece_by_piece else BLOCK
        number = self.first_line
        if found is stream and stream.is_plain:
            like = LineBlock(number, b"", longest, passes_on)
            shares = self._may_read_ahead()
            for block, lines in whole_blocks(stream, like, size, self.glance, self.beside, shares=shares):
                yield replace(block, first=number)
                number += lines
        cut = line_blocks(
            lambda size: found.read(size) or b"",
            longest,
            passes_on=passes_on,
            broken_off=lambda: stream.ended_early is not None,
            first=number,
            size=size,
        )
        yield from self.noted(self.ahead(cut))

    def noted(self, blocks: Iterable[Block | Overlong]) -> Iterator[Block]:
        """Yield blocks, the lines between them that are too long noted."""
        for found in blocks:
            if not isinstance(found, Overlong):
                yield found
            elif self.kind != "records":
                # A record is as long as its lines together: which of them are too long is told of it alone.
                self.notes.overlong.note(found.number)

    def ahead(self, blocks: Iterable[T]) -> Iterable[T]:
        """Return blocks that touch nothing but the stream, made before they are asked for where that may be."""
        if not self._may_read_ahead():
            return blocks
        from fieldstick.data.ahead import ahead

        return ahead(blocks, self._with_beside if self.beside is not None else None)

    def _with_beside(self, block: T) -> T:
        """Return a block, what is wanted beside made of its lines where they are whole and short enough."""
        if self.beside is None or not isinstance(block, LineBlock):
            return block
        return cast("T", block.with_beside(self.beside))

    @property
    def shares_work(self) -> bool:
        """Whether the thread that reads it has a part in what is made of its lines: whoever takes that has time."""
        return self.beside is not None and self._may_read_ahead()

    def _may_read_ahead(self) -> bool:
        """Tell whether it is read ahead: a file here, large enough that a thread is worth it."""
        plain = not self._once and not is_url(self._given) and not self.read_options.piece_by_piece
        return self.reads_ahead and plain and (self.size or 0) >= LEAST_AHEAD

    def lines_of(self, stream: Stream) -> Iterator[Batch]:
        """Yield the lines of a stream, some at a time."""
        for block in self.line_blocks(stream):
            for found in block.parts():
                if self.kind == "records":
                    found.notes.overlong = LineNumbers()
                self.merge(found.notes)
                yield found

    def all_text_of(self, stream: Stream) -> str:
        """Return the whole source as one text, as far as it can be read."""
        return self._decoded(io.BufferedReader(self.bytes_of(stream)).read())

    def _decoded(self, raw: bytes) -> str:
        text = raw.decode("utf-8", "surrogateescape")
        if not text.isascii() and has_escapes(text):
            for number, line in enumerate(text.split("\n"), 1):
                if has_escapes(line):
                    self.notes.undecodable.note(number)
            self.refuse_undecodable()
        return text

    def _items(self, stream: Stream) -> Iterator[Entry]:
        if self.kind == "whole":
            yield from self._whole(stream)
        elif self.kind == "records":
            yield from self._records(stream)
        elif self.kind in _FORMATS:
            format_module = importlib.import_module(_FORMATS[self.kind])
            yield from self._short_enough(format_module.entries(self, stream))
        else:
            for found in self.lines_of(stream):
                for index, (number, text) in enumerate(zip(found.numbers, found.texts, strict=True)):
                    yield Entry(number, None if index in found.without_text else text, None, found.raw(index))

    def _short_enough(self, entries: Iterator[Entry]) -> Iterator[Entry]:
        """Leave out, or give without text where everything is wanted, rows whose text is longer than is read."""
        longest = self.read_options.longest
        for entry in entries:
            if longest is None or entry.text is None or len(entry.text) <= longest:
                yield entry
                continue
            self.notes.overlong.note(entry.number)
            if self.read_options.everything_wanted:
                yield replace(entry, text=None)

    def _whole(self, stream: Stream) -> Iterator[Entry]:
        longest = self.read_options.longest
        reader = io.BufferedReader(self.bytes_of(stream))
        raw = reader.read(-1 if longest is None else longest * MOST_BYTES + 1)
        surely_longer = longest is not None and len(raw) > longest * MOST_BYTES
        text = "" if surely_longer else self._decoded(raw)
        if not surely_longer and (longest is None or len(text) <= longest):
            if text:
                yield Entry(1, text, None, text)
            return
        self.notes.overlong.note(1)
        while raw and self.read_options.passes_on:
            cut = whole_characters(raw)
            yield Entry(1, None, None, self._decoded(raw[:cut]))
            raw = raw[cut:] + reader.read(BLOCK)

    def _records(self, stream: Stream) -> Iterator[Entry]:
        """Yield lines together with those after them, up to the next line that begins a record."""
        begins = self.read_options.begins_record
        assert begins is not None
        longest = self.read_options.longest
        first, length, begun, last = 0, 0, False, 0
        raws: list[str] = []
        for found in self.lines_of(stream):
            for index, (number, text) in enumerate(zip(found.numbers, found.texts, strict=True)):
                unread = index in found.without_text
                # Of a line that is too long to be held, its head tells whether it begins a record.
                head = found.raw(index)[:longest] if unread else text
                starts = number != last and begins(head)
                last = number
                begun = begun or starts
                if starts or not first:
                    if raws:
                        yield _record(first, raws)
                    first, raws, length = number, [], 0
                raws.append(found.raw(index))
                length += len(raws[-1])
                if unread or (longest is not None and length > longest):
                    self.notes.overlong.note(first)
                    if self.read_options.passes_on:
                        yield Entry(first, None, None, "".join(raws))
                    raws = []
        if raws:
            yield _record(first, raws)
        self.lacks_record_start = first > 0 and not begun

    def unparted(self, columns: Sequence[str]) -> str:
        """Say what would part a header that is one cell, as `--delimiter` takes it; empty where nothing would."""
        if len(columns) != 1 or self.kind != "csv" or self.read_options.delimiter is not None:
            return ""
        marks = {"';'": ";", "tab": "\t", "'|'": "|"}
        counts = {shown: columns[0].count(mark) for shown, mark in marks.items() if mark in columns[0]}
        if not counts:
            return ""
        return f"the header is one cell, which --delimiter {max(counts, key=counts.__getitem__)} would part"

    def check_columns(self, columns: list[str]) -> None:
        """Note the columns to be read that have namesakes; raise UsageError for one that is not there."""
        own = (self.read_options.column,) if self.read_options.column is not None else self.read_options.columns
        asked = (*own, *self.needed_columns)
        for column in asked:
            if column not in columns:
                unparted = self.unparted(columns)
                why = f"; {unparted}" if unparted else hint(column, columns)
                raise UsageError(f"{self.name} has no column '{column}'{why}")
        self.namesakes = tuple(each for each in asked if second_of(each) in columns)


def _folder_size(name: str) -> int | None:
    from fieldstick.data.parquet_folders import folder_size

    return folder_size(name)


def _record(first: int, raws: list[str]) -> Entry:
    whole = "".join(raws)
    text = whole.replace("\r\n", "\n").removesuffix("\n")
    return Entry(first, text, None, whole)


def _grouped(items: Iterator[Entry], *, everything: bool) -> Iterator[Batch]:
    """Group items into blocks, `everything` also with those that hold no text."""
    group: list[Entry] = []
    length = 0
    for item in items:
        if item.text is None and not everything:
            continue
        group.append(item)
        length += len(item.text or item.raw or "")
        if len(group) >= BLOCK_ITEMS or length >= BLOCK_CHARACTERS:
            yield _block(group)
            group, length = [], 0
    if group:
        yield _block(group)


def _block(group: list[Entry]) -> Batch:
    rows = [item.row or {} for item in group] if any(item.row is not None for item in group) else None
    raws = [item.raw if item.raw is not None else "" for item in group]
    texts = [item.text or "" for item in group]
    without_text = frozenset(index for index, item in enumerate(group) if item.text is None)
    return Batch([item.number for item in group], texts, raws, rows, without_text=without_text)


def open_sources(names: tuple[str, ...], read_options: ReadOptions = ReadOptions()) -> list[Source]:
    """Return the sources of those names; `-` is standard input, a name with `*`, `?` or `[` stands for files, and a URL
    for a file of a store.

    Raises UsageError for a file that is not there, or an encoding that is not known.
    """
    checked_encoding(read_options.encoding)
    return [Source(each, read_options) for name in names or (STANDARD_INPUT,) for each in _expanded(name)]


def _may_be_folder(name: str) -> bool:
    if is_url(name):
        return "." not in name.rstrip("/").rpartition("/")[2]
    return name != STANDARD_INPUT and os.path.isdir(name)


_WILD = frozenset("*?[")
"""What a name holds that stands for several."""


def _expanded(name: str) -> list[str]:
    if is_url(name):
        return named_like(name)
    if name == STANDARD_INPUT or not _WILD.intersection(name) or os.path.exists(name):
        return [name]
    import glob

    found = sorted(each for each in glob.glob(name, recursive=True) if os.path.isfile(each))
    if not found:
        raise UsageError(f"no file is named like {name}")
    return found
