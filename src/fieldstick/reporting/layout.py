"""Paragraphs and tables of segments, as plain as a log needs them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.reporting.cells import width_of
from fieldstick.reporting.ruler import Line, Segment

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence


def paragraph(label: str, words: str, width: int, *, indent: int = 4, gap: int = 11, tone: str = "") -> Iterator[Line]:
    """Set words beside a label, wrapped to `width` cells, further lines aligned with the first."""
    import textwrap

    room = max(width - indent - gap, 16)
    wrapped = textwrap.wrap(words, room, break_long_words=True, break_on_hyphens=False) or [""]
    for number, line in enumerate(wrapped):
        head = label if number == 0 else ""
        yield (
            Segment(" " * indent),
            Segment(f"{head:<{gap - 2}}  ", "quiet"),
            Segment(line, tone),
        )


def table(header: Sequence[str], rows: Sequence[Sequence[str]], *, tones: Sequence[str] = ()) -> Iterator[Line]:
    """Set rows in columns: the first to the left, all others (figures) to the right."""
    widths = [max(width_of(cell) for cell in column) for column in zip(header, *rows, strict=True)]
    yield tuple(Segment(text, "quiet") for text in _cells(header, widths))
    for row in rows:
        cells = _cells(row, widths)
        yield tuple(
            Segment(text, (tones[index] if index < len(tones) and row[index] != "" else ""))
            for index, text in enumerate(cells)
        )


def _cells(row: Sequence[str], widths: Sequence[int]) -> list[str]:
    padded = []
    for index, (cell, width) in enumerate(zip(row, widths, strict=True)):
        space = " " * (width - width_of(cell))
        padded.append(cell + space if index == 0 else "  " + space + cell)
    return padded
