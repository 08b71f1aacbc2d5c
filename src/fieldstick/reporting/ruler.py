"""The ruler: a text printed once, with what was found marked beneath it.

A text wider than the room is cut into rows, each with its own ruler. Marks that overlap stand in lanes of
their own, the outer above the inner; a label that fits stands inside its span, any other below it.
"""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.reporting.cells import Charset, Glyph, clipped, glyph_at, width_of

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from fieldstick.reporting.document import Mark, Tone

MOST_ROWS = 10
"""Rows of a text that are shown whole; of a longer one, those without a mark are left out."""


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
    for index, row in _kept(rows, ordered):
        if row is None:
            words = f"({index} {'row' if index == 1 else 'rows'} left out: nothing begins or ends there)"
            lines.append((Segment(clipped(words, width, charset)),))
            continue
        spans = list(_spans(row, ordered, max(width, 8), is_last=index == len(rows) - 1))
        lines.append(_text_line(row, ordered))
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


def _kept(rows: list[_Row], marks: Sequence[Mark]) -> Iterable[tuple[int, _Row | None]]:
    """Yield the rows to show with their number; for a run that is left out, its length and None."""
    edges = [edge for mark in marks for edge in (mark.start, mark.end - 1)]
    left_out = 0
    for index, row in enumerate(rows):
        near_end = index < 3 or index >= len(rows) - 2
        marked = any(row.start <= edge < max(row.end, row.start + 1) for edge in edges)
        if len(rows) <= MOST_ROWS or near_end or marked:
            if left_out:
                yield left_out, None
            left_out = 0
            yield index, row
        else:
            left_out += 1


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
    segments: list[Segment] = []
    fields = [mark for mark in marks if mark.kind == "field"]
    for offset, each in enumerate(row.glyphs):
        tone = _tone_at(row.start + offset, fields)
        if segments and segments[-1].tone == tone:
            segments[-1] = Segment(segments[-1].text + each.shown, tone)
        else:
            segments.append(Segment(each.shown, tone))
    return tuple(segments)


def _tone_at(position: int, fields: Sequence[Mark]) -> Tone:
    tone = ""
    for mark in fields:
        if mark.start <= position < mark.end:
            tone = mark.tone
    return tone


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
