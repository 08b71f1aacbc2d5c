"""The ruler: a text printed once, with what was found marked beneath it.

A text wider than the room is cut into rows, each with its own ruler. Marks that overlap stand in lanes of
their own, the outer above the inner; a label that fits stands inside its span, any other below it.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from functools import cache
from itertools import groupby, pairwise
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.reporting.cells import Charset, Glyph, clipped, glyph_at, visible, width_of

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from fieldstick.reporting.document import Mark, Tone

MOST_ROWS = 10
"""Rows of a text that are shown whole; of a longer one, those without a mark are left out."""

MOST_MARKED = 20
"""Rows that are shown of a longer one for the marks in them, beside the one where a match stopped."""


class Segment(Struct, frozen=True):
    """A stretch of a line in one tone."""

    text: str
    tone: Tone = ""


Line = tuple[Segment, ...]


class Strokes(Struct, frozen=True):
    """The characters a ruler is drawn with."""

    left: str
    fill: str
    right: str
    point: str
    nothing: str
    match: str
    stop: str


BOX = Strokes("├", "─", "┤", "│", "╷", "━", "╳")
PLAIN = Strokes("|", "-", "|", "|", ",", "=", "x")


def strokes_for(charset: Charset) -> Strokes:
    """Return box characters where the output has them."""
    return BOX if charset.can_show("├─┤│╷━╳") else PLAIN


class _Row(Struct, frozen=True):
    """A stretch of the text that stands on one line, with the column of every code point and of the end."""

    start: int
    end: int
    glyphs: tuple[Glyph, ...]
    columns: tuple[int, ...]

    def column(self, position: int) -> int:
        return self.columns[max(0, min(position - self.start, len(self.columns) - 1))]


class _Span(Struct, frozen=True):
    """A mark as cells of one row: columns from `left` to before `right`, and whether its ends are here."""

    left: int
    right: int
    mark: Mark
    starts: bool
    ends: bool


def draw(text: str, marks: Iterable[Mark], width: int, charset: Charset = Charset()) -> list[Line]:
    """Draw `text` with `marks` beneath it, in at most `width` cells a line."""
    ordered = sorted(marks, key=lambda mark: (mark.start, -mark.end))
    strokes = strokes_for(charset)
    lines: list[Line] = []
    rows = _rows(text, max(width, 8), charset)
    starts = [row.start for row in rows]
    marked = _marked(starts, ordered)
    shown = _shown(len(rows), starts, marked, ordered)
    marks_of = _marks_of(shown, starts, ordered)
    for before, index in pairwise([-1, *shown]):
        if index > before + 1:
            lines.append((Segment(clipped(_left_out(before + 1, index, marked), width, charset)),))
        own = [replace(mark, label=visible(mark.label, charset)) for mark in marks_of[index]]
        spans = list(_spans(rows[index], own, max(width, 8), is_last=index == len(rows) - 1))
        lines.append(_text_line(rows[index], own))
        lines += _ruler_lines(spans, strokes, width)
    return lines


def _rows(text: str, width: int, charset: Charset) -> list[_Row]:
    rows: list[_Row] = []
    start = 0
    while True:
        row = _plain_row(text, start, width) or _row(text, start, width, charset)
        rows.append(row)
        start = row.end
        if start == len(text):
            return rows


def _plain_row(text: str, start: int, width: int) -> _Row | None:
    """Return the row that begins at a place of printable ASCII, a cell a character; None of anything else."""
    piece = text[start : start + width + 1]
    if len(piece) <= width or not (piece.isascii() and piece.isprintable()):
        return None
    return _Row(start, start + width, tuple(map(_glyph_of_ascii, piece[:width])), tuple(range(width + 1)))


@cache
def _glyph_of_ascii(character: str) -> Glyph:
    return Glyph(character, 1)


def _row(text: str, start: int, width: int, charset: Charset) -> _Row:
    """Return the row that begins at a place: up to where no cell is left, or a line feed that something follows."""
    glyphs, columns = list[Glyph](), [0]
    for position in range(start, len(text)):
        character = text[position]
        each = glyph_at(character, columns[-1], charset)
        if columns[-1] + each.width > width and glyphs:
            return _Row(start, position, tuple(glyphs), tuple(columns))
        glyphs.append(each)
        columns.append(columns[-1] + each.width)
        if character == "\n" and position + 1 < len(text):
            return _Row(start, position + 1, tuple(glyphs), tuple(columns))
    return _Row(start, len(text), tuple(glyphs), tuple(columns))


def _marked(starts: Sequence[int], marks: Sequence[Mark]) -> list[int]:
    """Return the numbers of the rows in which a mark begins or ends, by where rows start."""
    edges = {edge for mark in marks for edge in (mark.start, max(mark.start, mark.end - 1))}
    return sorted({_row_at(starts, edge) for edge in edges})


def _row_at(starts: Sequence[int], position: int) -> int:
    """Return the number of the row that a position of the text stands in."""
    return bisect_right(starts, position) - 1


def _shown(count: int, starts: Sequence[int], marked: Sequence[int], marks: Sequence[Mark]) -> list[int]:
    """Return the numbers of the rows to show."""
    if count <= MOST_ROWS:
        return [*range(count)]
    stops = [_row_at(starts, mark.start) for mark in marks if mark.kind == "stop"]
    return sorted({0, 1, 2, count - 2, count - 1, *marked[:MOST_MARKED], *stops})


def _left_out(first: int, end: int, marked: Sequence[int]) -> str:
    """Say what is not shown, and whether something is marked there."""
    many = bisect_left(marked, end) - bisect_left(marked, first)
    rows = f"{end - first:,} {'row' if end - first == 1 else 'rows'} left out"
    return f"({rows}, with marks in {many:,})" if many else f"({rows}: nothing begins or ends there)"


def _marks_of(shown: Sequence[int], starts: Sequence[int], marks: Sequence[Mark]) -> dict[int, list[Mark]]:
    """Return the marks that may touch each of the rows that are shown, in order."""
    found: dict[int, list[Mark]] = {index: [] for index in shown}
    for mark in marks:
        first, last = _row_at(starts, mark.start), _row_at(starts, mark.end)
        for place in range(bisect_left(shown, first), bisect_right(shown, last)):
            found[shown[place]].append(mark)
    return found


def _spans(row: _Row, marks: Iterable[Mark], width: int, *, is_last: bool) -> Iterable[_Span]:
    for mark in marks:
        touches = mark.start < row.end and mark.end > row.start
        if mark.start == mark.end or (mark.kind == "stop" and mark.start == row.end):
            touches = row.start <= mark.start < row.end or (is_last and mark.start == row.end)
        if not touches:
            continue
        left = min(row.column(mark.start), width - 1)
        right = max(row.column(mark.end), left + 1)
        starts, ends = mark.start >= row.start, mark.end <= row.end
        yield _Span(left, right, mark, starts, ends)


def _text_line(row: _Row, marks: Sequence[Mark]) -> Line:
    tones: list[Tone] = [""] * len(row.glyphs)
    for mark in marks:
        if mark.kind == "field":
            for offset in range(max(mark.start - row.start, 0), min(mark.end - row.start, len(tones))):
                tones[offset] = mark.tone
    glyphs = zip(row.glyphs, tones, strict=True)
    return tuple(
        Segment("".join(each.shown for each, _ in several), tone)
        for tone, several in groupby(glyphs, key=lambda each: each[1])
    )


def _ruler_lines(spans: list[_Span], strokes: Strokes, width: int) -> list[Line]:
    lines: list[Line] = []
    for lane in _lanes([span for span in spans if span.mark.kind == "field"]):
        below = [span for span in lane if span.starts and span.mark.label and not _fits_inside(span)]
        lines.append(_line([(span.left, _stroke(span, strokes), span.mark.tone) for span in lane]))
        lines += _labels(below, width)
    solid = _apart([span for span in spans if span.mark.kind != "field"])
    if solid:
        lines.append(_line([(span.left, _solid(span, strokes), span.mark.tone or span.mark.kind) for span in solid]))
    return lines


def _solid(span: _Span, strokes: Strokes) -> str:
    if span.mark.kind == "stop":
        return strokes.stop
    return strokes.nothing if span.mark.start == span.mark.end else strokes.match * (span.right - span.left)


def _apart(spans: list[_Span]) -> list[_Span]:
    """Drop spans that would be drawn over one before them (several matches of nothing in one cell)."""
    kept: list[_Span] = []
    for span in spans:
        if not kept or span.left >= kept[-1].right:
            kept.append(span)
    return kept


def _lanes(spans: list[_Span]) -> list[list[_Span]]:
    """Share spans out so that those of one lane do not touch the same cell, outer ones first."""
    lanes: list[list[_Span]] = []
    for span in spans:
        for lane in lanes:
            if lane[-1].right <= span.left:
                lane.append(span)
                break
        else:
            lanes.append([span])
    return lanes


def _fits_inside(span: _Span) -> bool:
    return span.right - span.left >= width_of(span.mark.label) + 4 and span.starts


def _stroke(span: _Span, strokes: Strokes) -> str:
    width = span.right - span.left
    if span.mark.start == span.mark.end:
        return strokes.nothing
    if width == 1:
        return strokes.point
    left = strokes.left if span.starts else strokes.fill
    right = strokes.right if span.ends else strokes.fill
    room = width - 2
    label = span.mark.label if _fits_inside(span) else ""
    before = (room - width_of(label)) // 2
    return left + strokes.fill * before + label + strokes.fill * (room - before - width_of(label)) + right


def _labels(spans: list[_Span], width: int) -> list[Line]:
    """Set labels below their spans; one that would touch another moves down a row."""
    rows: list[list[tuple[int, str, Tone]]] = []
    ends: list[int] = []
    for span in spans:
        size = width_of(span.mark.label)
        left = max(0, min(span.left, width - size))
        for number, end in enumerate(ends):
            if end < left or (end == 0 and left == 0):
                rows[number].append((left, span.mark.label, span.mark.tone))
                ends[number] = left + size
                break
        else:
            rows.append([(left, span.mark.label, span.mark.tone)])
            ends.append(left + size)
    return [_line(row) for row in rows]


def _line(pieces: list[tuple[int, str, Tone]]) -> Line:
    segments: list[Segment] = []
    column = 0
    for left, text, tone in sorted(pieces, key=lambda piece: piece[0]):
        if left > column:
            segments.append(Segment(" " * (left - column)))
        segments.append(Segment(text, tone))
        column = left + width_of(text)
    return tuple(segments)
