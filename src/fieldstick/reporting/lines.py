"""Renders a document as lines of text, in so many cells and the characters that the output has."""

from __future__ import annotations

from functools import singledispatch
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.reporting.cells import Charset, clipped, condensed, visible, width_of
from fieldstick.reporting.document import (
    Changed,
    Labelled,
    Mark,
    OutlineBlock,
    Ruled,
    Said,
    Shapes,
    Table,
    Texts,
)
from fieldstick.reporting.edits import new_stretches
from fieldstick.reporting.ruler import MOST_ROWS, Line, Segment, draw, strokes_for

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.reporting.document import Block

LEAST_WORDS = 16
"""Cells that words beside a label get at the least."""

WIDEST_SHAPE = 44
"""Cells that the column of shapes takes at the most."""

WIDEST_SOURCE = 36
"""Cells that the column of an outline's sources takes at the most."""


class Page(Struct, frozen=True):
    """What lines are made for: a width in cells, a character set, and whether it is a person's screen.

    Elsewhere sentences stay on one line, for whoever searches them.
    """

    width: int = 80
    charset: Charset = Charset()
    is_screen: bool = False


def lines_of(blocks: Iterable[Block], page: Page = Page()) -> Iterator[Line]:
    """Yield the lines of a document, in at most the page's width where words can be wrapped or texts cut."""
    for block in blocks:
        yield from _lines(block, page)


@singledispatch
def _lines(block: Any, page: Page) -> Iterator[Line]:
    raise TypeError(f"no lines are known for {type(block).__name__}")


@_lines.register(Said)
def _said(block: Said, page: Page) -> Iterator[Line]:
    segments: list[Segment] = []
    used = 0
    for piece in block.pieces:
        if piece.most is not None:
            text = clipped(piece.text, min(piece.most, page.width // 2), page.charset)
        elif piece.least is None:
            text = visible(piece.text, page.charset)
        else:
            text = clipped(piece.text, max(page.width - used, piece.least), page.charset)
        segments.append(Segment(text, piece.tone))
        used += width_of(text)
    yield tuple(segments)


@_lines.register(Labelled)
def _labelled(block: Labelled, page: Page) -> Iterator[Line]:
    if not block.gap and not page.is_screen:
        yield (Segment(visible(block.words, page.charset), block.tone),)
        return
    import textwrap

    room = max(page.width - block.indent - block.gap, LEAST_WORDS)
    words = (condensed if block.condensed else visible)(block.words, page.charset)
    wrapped = textwrap.wrap(words, room, break_long_words=True, break_on_hyphens=False) or [""]
    for number, line in enumerate(wrapped):
        head = block.label if number == 0 else ""
        beside = (Segment(" " * block.indent), Segment(f"{head:<{block.gap - 2}}  ", "quiet")) if block.gap else ()
        yield (*beside, Segment(line, block.tone))


@_lines.register(Ruled)
def _ruled(block: Ruled, page: Page) -> Iterator[Line]:
    room = page.width - block.indent
    drawn = draw(block.text, block.marks, room, page.charset) if block.text or block.marks else [NOTHING]
    for number, line in enumerate(drawn):
        head = f"{'  ' if block.label else ''}{block.label if number == 0 else ''}"
        yield (Segment(f"{head:<{block.indent}}", "quiet"), *line)


NOTHING: Line = (Segment("(nothing)", "quiet"),)


@_lines.register(Table)
def _table(block: Table, page: Page) -> Iterator[Line]:
    header, *rows = [[visible(cell, page.charset) for cell in row] for row in (block.header, *block.rows)]
    widths = [max(width_of(cell) for cell in column) for column in zip(header, *rows, strict=True)]
    yield tuple(Segment(text, "quiet") for text in _aligned(header, widths))
    for row in rows:
        yield tuple(
            Segment(text, (block.tones[index] if index < len(block.tones) and row[index] != "" else ""))
            for index, text in enumerate(_aligned(row, widths))
        )


def _aligned(row: Sequence[str], widths: Sequence[int]) -> list[str]:
    padded = []
    for index, (cell, width) in enumerate(zip(row, widths, strict=True)):
        space = " " * (width - width_of(cell))
        padded.append(cell + space if index == 0 else "  " + space + cell)
    return padded


@_lines.register(Texts)
def _texts(block: Texts, page: Page) -> Iterator[Line]:
    room = max(6, (page.width - 8) // max(len(block.header) - 1, 1) - 2)
    shown = [[row[0], *(clipped(cell, room, page.charset) for cell in row[1:])] for row in (block.header, *block.rows)]
    widths = [max(width_of(row[index]) for row in shown) for index in range(len(block.header))]
    for number, row in enumerate(shown):
        tones = block.tones if number else ("quiet",) * len(row)
        yield tuple(
            Segment(cell + " " * (size - width_of(cell) + 2), tone)
            for cell, size, tone in zip(row, widths, tones, strict=True)
        )


@_lines.register(Shapes)
def _shapes(block: Shapes, page: Page) -> Iterator[Line]:
    charset = page.charset
    sizes = [max(len(row[at]) for row in (block.header, *(each.figures for each in block.rows))) for at in range(3)]
    room = page.width - sum(sizes) - 6
    widest = max((width_of(visible(row.shape, charset)) for row in block.rows), default=0)
    beside = widest <= min(WIDEST_SHAPE, room // 2)
    column = max(widest, len("shape")) if beside else room
    head = _figures(block.header, sizes) + f"{'shape':<{column}}  {'example' if beside else ''}"
    yield (Segment(head, "quiet"),)
    for row in block.rows:
        text = clipped(row.shape, column, charset) or "(nothing)"
        yield (
            Segment(_figures(row.figures, sizes)),
            Segment(text + " " * (column - width_of(text)), "field0"),
            Segment("  " + clipped(row.example, max(room - column - 2, 8), charset) if beside else ""),
        )
        if not beside:
            yield (Segment(" " * (sum(sizes) + 6)), Segment(clipped(row.example, room, charset), "quiet"))


def _figures(cells: Sequence[str], sizes: Sequence[int]) -> str:
    return "".join(f"{cell:>{size}}  " for cell, size in zip(cells, sizes, strict=True))


@_lines.register(OutlineBlock)
def _outline(block: OutlineBlock, page: Page) -> Iterator[Line]:
    import textwrap

    charset = page.charset
    longest = max((2 * row.depth + width_of(visible(row.source, charset)) for row in block.rows), default=0)
    column = min(longest, WIDEST_SOURCE, page.width // 2)
    for row in block.rows:
        indent = "  " * row.depth
        source = clipped(row.source, max(column - len(indent), 8), charset)
        if not source.strip():
            source = ("␣" if charset.can_show("␣") else "_") * len(source)
        wrapped = textwrap.wrap(condensed(row.words, charset), max(page.width - column - 6 - len(indent), 20)) or [""]
        for number, text in enumerate(wrapped):
            head = indent + source if number == 0 else ""
            gap = " " * (max(column - width_of(head), 0) + 2)
            yield (Segment("  "), Segment(head, "field0"), Segment(f"{gap}{indent}{text}"))


def _marked(block: Changed, page: Page) -> Iterator[Line]:
    """Yield a text after a change, and marks beneath what is new, where the page is wide enough for them."""
    shown: list[Segment] = []
    marks, at, cells, strokes = "", 0, 0, strokes_for(page.charset)
    for start, end in new_stretches(block.before, block.after):
        same, new = (visible(block.after[slice(*each)], page.charset) for each in ((at, start), (start, end)))
        shown += [Segment(same), Segment(new, block.tone)]
        cells += width_of(same)
        marks = f"{marks:{cells}}" + (strokes.match * width_of(new) or strokes.nothing)
        at, cells = end, cells + width_of(new)
    rest = visible(block.after[at:], page.charset)
    yield (Segment(" " * block.indent), *(each for each in (*shown, Segment(rest)) if each.text))
    if marks and block.indent + cells + width_of(rest) <= page.width:
        yield (Segment(" " * block.indent), Segment(marks, block.tone))


@_lines.register(Changed)
def _changed(block: Changed, page: Page) -> Iterator[Line]:
    if block.whole and page.is_screen and width_of(visible(block.after, page.charset)) > MOST_ROWS * page.width:
        marks = [Mark(*each, kind="match", tone=block.tone) for each in new_stretches(block.before, block.after)]
        yield from _lines(Ruled(block.after, tuple(marks), indent=block.indent), page)
        yield (Segment(" " * block.indent), Segment("(--format json has it whole)", "quiet"))
        return
    if block.whole:
        yield from _marked(block, page)
        return
    cells = max(page.width - block.indent - 1, LEAST_WORDS)
    pairs = enumerate(zip(block.before, block.after, strict=False))
    change = next((at for at, (one, other) in pairs if one != other), 0)
    start = max(0, change - cells // 2) if len(block.after) > cells else 0
    lead = page.charset.ellipsis if start else ""
    shown = lead + clipped(block.after[start:], cells - len(lead), page.charset)
    yield (Segment(" " * block.indent), Segment(shown, block.tone))
