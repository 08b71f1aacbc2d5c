"""What the compiled walkers are called with, for those who check types."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    from array import array
    from collections.abc import Sequence

Table = tuple[Any, Any, Any, Any, Any, Any, Any, Any, Any, int, int, int]
"""A table; see the head of `_walkers.c`."""

Survey = tuple[int, int, int, bool, int, list[int], bytes]
"""Lines, those with CR LF, bytes of the longest, whether all is ASCII, lines with bytes that are no text, the first of
these, and where each line ends.
"""

Picked = tuple[int, int, int, bytes]
"""Lines, those that fit, those that end with CR LF, and those that were picked as they stand."""

Progress = tuple[int, int, int, int, int, int]
"""Status (0 done, 1 the table lacks an entry, 2 no room is left), where to go on, the number of the text there, the
rows so far, and the row and letter of what is lacking.
"""


class Walkers(Protocol):
    """What `_walkers.c` does; its own words say more of each."""

    def read(
        self,
        data: bytes,
        cells: Any,
        table: Table,
        first: int,
        at: int,
        number: int,
        out: Any,
        count: int,
        needle: bytes | None,
        ends: bytes | None,
        /,
    ) -> Progress:
        """Walk lines, or the texts at `cells`, and write a row of places to `out` for each that fits."""

    def sort(
        self,
        data: bytes,
        cells: Any,
        table: Table,
        first: int,
        at: int,
        number: int,
        out: Any,
        needle: bytes | None,
        ends: bytes | None,
        /,
    ) -> Progress:
        """Walk lines, or the texts at `cells`, and write the finish of each to `out`, -1 where it does not fit."""

    def read_all(
        self,
        data: bytes,
        cells: Any,
        table: Table,
        first: int,
        restarts: Any,
        at: int,
        number: int,
        out: Any,
        count: int,
        needle: bytes | None,
        ends: bytes | None,
        /,
    ) -> Progress:
        """Walk as `read` does, and write a row for each match of a text."""

    def replace(
        self, data: bytes, rows: Any, width: int, count: int, refused: Any, parts: Any, texts: Sequence[bytes], /
    ) -> tuple[bytes, int, int]:
        """Put something in place of each match; return all, how many texts changed, and how many matches in them."""

    def pieces(
        self, data: bytes, cells: Any, rows: Any, width: int, count: int, keep: bool, drop: bool, out: Any, /
    ) -> tuple[int, int] | None:
        """Write a row for each piece of texts cut at their matches; return how many, and how many texts were cut."""

    def delimited(
        self,
        data: bytes,
        final: bool,
        delimiter: int,
        quote: int,
        width: int,
        longest: int,
        first_line: int,
        wanted: Any,
        cells: bytearray,
        raws: bytearray,
        numbers: bytearray,
        extra: bytearray,
        most: int,
        /,
    ) -> tuple[int, int, int, int, int, int, list[int], int, list[int]]:
        """Find the rows and the wanted cells of CSV."""

    def keyed(
        self, data: bytes, key: bytes, cells: bytearray, raws: bytearray, extra: bytearray, /
    ) -> tuple[int, int, list[int]]:
        """Find the value of a key in each line of JSON."""

    def values(
        self,
        data: bytes,
        side: Any,
        rows: Any,
        width: int,
        count: int,
        refused: Any,
        index: int,
        kind: int,
        out: bytearray,
        valid: bytearray,
        /,
    ) -> tuple[int, int, int, int, int, int, int] | None:
        """Write the values of a typed column as Arrow stores them."""

    def texts(
        self,
        data: bytes,
        side: Any,
        rows: Any,
        width: int,
        count: int,
        refused: Any,
        index: int,
        offsets: bytearray,
        valid: bytearray,
        /,
    ) -> tuple[int, int, bytes] | None:
        """Write the texts of a column as Arrow stores them."""

    def strings(self, data: bytes, cells: Any, /) -> list[str]:
        """Return the texts at pairs of start and end, bytes that are no UTF-8 as PEP 383 has them."""

    def lined(self, data: bytes, cells: Any, /) -> bytes:
        """Put the texts at pairs of start and end one after the other, each ended by a line feed."""

    def widened(self, values: Any, tens: int, /) -> bytes:
        """Return int64 values times a power of ten as integers of 16 bytes."""

    def scatter(self, data: bytes, /) -> int:
        """Return the number that `scatters` has of a text."""

    def scatters(self, data: bytes, ends: bytes, /) -> bytes:
        """Return a number (uint64) for each different line."""

    def learn(self, table: bytearray, numbers: Any, most: int, /) -> bytes:
        """Return those of numbers (uint64) that a table does not hold, and put up to so many of them into it."""

    def sketch(self, data: bytes, ends: bytes, multiplier: int, kept: Any, most: int, /) -> bytes:
        """Return the smallest of the checksums of lines and of those kept before."""

    def grouped(
        self, data: bytes, ends: bytes, group_of: bytearray, letters: bool, kinds: Any, /
    ) -> tuple[list[bytes], list[int], list[int], list[int]]:
        """Tell lines apart, digits and maybe letters put by kind: how often each is there, and where first; or name
        characters whose kind is not known.
        """

    def shaped(
        self,
        data: bytes,
        ends: bytes,
        group_of: bytearray,
        kinds: Any,
        other_digit: int,
        most: int,
        letters: bool,
        /,
    ) -> tuple[list[bytes], list[int], list[int], list[int], bytes, bytes, bytes, bytes]:
        """Tell lines apart as `grouped` does, with runs of a kind folded; tell where some stand, and how long texts and
        runs are.
        """

    def measured(self, tally: array[int], count: int, shortest: int, longest: int, spans: Any, /) -> None:
        """Take texts, and how long their runs are (int32), into a tally (int64) of as many runs."""

    def measures(
        self,
        known: dict[str | bytes, array[int]],
        texts: list[bytes],
        counts: list[int],
        lengths: bytes,
        runs: bytes,
        spans: bytes,
        /,
    ) -> tuple[list[int], int, int, int]:
        """Take texts as `shaped` tells them into known tallies; return which are left, and of the others how many they
        are, and the shortest and longest.
        """

    def doubt(
        self, data: bytes, cells: Any, fits: Any, blanks: Sequence[bytes], required: bool, doubted: bytearray, /
    ) -> None:
        """Mark the texts that are not to be accepted, or may not be."""

    def mark(self, rows: Any, width: int, count: int, refused: Any, out: bytearray, /) -> None:
        """Mark the texts of which a row is not refused."""

    def survey(self, data: bytes, most: int, /) -> Survey:
        """Count lines, those ended by CR LF, the bytes of the longest, and tell which hold bytes that are no UTF-8, and
        where each ends.
        """

    def cut(self, rest: bytes, chunk: bytes, most: int, /) -> tuple[bytes, bytes, Survey] | None:
        """Cut bytes that follow a rest behind their last line feed, and survey the lines."""

    def read_block(self, file: int, place: int, size: int, most: int, /) -> tuple[bytes, Survey]:
        """Read whole lines of an open file from a place on, and survey them; there on POSIX systems."""

    def pick(
        self, file: int, place: int, size: int, table: Table, needle: bytes, unfit: bool, giving: bool, /
    ) -> Picked | None:
        """Pick the lines of a file that fit, or the others, where few hold what each that fits holds; there on POSIX
        systems.
        """

    def gather(
        self, data: bytes, raws: Any, finishes: Any, heap_of: Any, heaps: int, ends: bytes | None, /
    ) -> list[bytes]:
        """Put lines, each with its end, on heaps by their finishes."""

    def tally(self, finishes: Any, kinds: int, /) -> list[int]:
        """Count finishes: those of -1 first."""

    def write(
        self,
        data: bytes,
        side: Any,
        rows: Any,
        width: int,
        count: int,
        refused: Any,
        columns: Any,
        same: Sequence[bytes],
        heads: Sequence[bytes] | None,
        mark: int,
        first_number: int,
        numbers: Any,
        /,
    ) -> bytes:
        """Write rows of places as CSV or, with `heads`, as JSON Lines."""

    def numbers(
        self,
        data: bytes,
        side: bytearray,
        side_at: int,
        rows: bytearray,
        width: int,
        count: int,
        index: int,
        blame: int,
        refused: bytearray,
        unusual: bytearray,
        with_fraction: bool,
        mark: int,
        group: int,
        least: tuple[int, int] | None,
        most: tuple[int, int] | None,
        /,
    ) -> int:
        """Judge and rewrite a column of integers or decimals."""

    def moments(
        self,
        data: bytes,
        side: bytearray,
        side_at: int,
        rows: bytearray,
        width: int,
        count: int,
        index: int,
        blame: int,
        refused: bytearray,
        unusual: bytearray,
        has_date: bool,
        has_time: bool,
        least: int | None,
        most: int | None,
        bound_has_offset: bool,
        /,
    ) -> int:
        """Judge and rewrite a column of dates, times or timestamps of ISO 8601."""

    def listed(
        self,
        data: bytes,
        side: bytearray,
        side_at: int,
        rows: bytearray,
        width: int,
        count: int,
        index: int,
        blame: int,
        refused: bytearray,
        unusual: bytearray,
        texts: Sequence[bytes],
        written: Sequence[bytes] | None,
        /,
    ) -> int:
        """Judge and rewrite a column whose cells are one of a few texts."""

    def is_sound(self, table: Table, /) -> bool:
        """Tell whether every entry of a table leads to what is there."""

    def leaps(self, table: Table, data: bytes, cells: Any, first: int, again: bool, /) -> tuple[bytes, bytes]:
        """Tell for each row which bytes mostly lead on from it, one after the other, as texts have them."""

    def spread(self, starts: Any, letters: Any, /) -> bytes:
        """Return the letter of each code point of the basic plane."""

    def swap(self, one: bytes, other: bytes, /) -> bool:
        """Let two files have each other's names, both at once; tell whether that was done."""
