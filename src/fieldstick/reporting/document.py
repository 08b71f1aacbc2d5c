"""What is to be told, before anybody says how it looks: a document is a list of blocks.

Texts stand here as they came; whoever renders a document makes them safe to show. Tones say what a piece is: a field,
a match, good or bad news; a rendering that has colour gives each its own.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct

if TYPE_CHECKING:
    from collections.abc import Iterable

Tone = str
"""What a piece is: "" for plain, "match", "stop", "field0" to "field5", "good", "bad", "warn", "quiet", "strong"."""


class Mark(Struct, frozen=True):
    """Something found in a text: a span of code points (start included, end not), its label, what it is."""

    start: int
    end: int
    label: str = ""
    kind: Literal["field", "match", "stop"] = "field"
    tone: Tone = ""


class Piece(Struct, frozen=True):
    """A stretch of a line.

    `least` is set for one that may be cut to the room left, but not below so many cells; `most` for one that takes so
    many at the most, and never more than half of the page.
    """

    text: str
    tone: Tone = ""
    least: int | None = None
    most: int | None = None


class Said(Struct, frozen=True):
    """One line."""

    pieces: tuple[Piece, ...] = ()


class Labelled(Struct, frozen=True):
    """Words beside a label, wrapped; further lines stand under the first. `gap` are the cells of the label's column.

    Of what is `condensed`, the middle of very long runs is left out: it stands elsewhere as well.
    """

    label: str
    words: str
    indent: int = 4
    gap: int = 11
    tone: Tone = ""
    condensed: bool = False


class Ruled(Struct, frozen=True):
    """A text printed once, with what was found marked beneath it; `label` stands before its first line."""

    text: str
    marks: tuple[Mark, ...] = ()
    indent: int = 4
    label: str = ""


class Table(Struct, frozen=True):
    """Rows under a header: the first column to the left, all others (figures) to the right."""

    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    tones: tuple[Tone, ...] = ()


class Texts(Struct, frozen=True):
    """Rows of captured texts under a header, all to the left, each cut to its share of the width."""

    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    tones: tuple[Tone, ...] = ()


class ShapeRow(Struct, frozen=True):
    """A shape of text: its figures, the shape and an example."""

    figures: tuple[str, ...]
    shape: str
    example: str


class Shapes(Struct, frozen=True):
    """Shapes of text with their figures; an example beside each, or below it where shapes are wide."""

    header: tuple[str, ...]
    rows: tuple[ShapeRow, ...]


class OutlineRow(Struct, frozen=True):
    """A piece of source, how deep it stands, and what it asks for."""

    depth: int
    source: str
    words: str


class OutlineBlock(Struct, frozen=True):
    """The pieces of an expression, each beside what it asks for."""

    rows: tuple[OutlineRow, ...]


class Changed(Struct, frozen=True):
    """A text after a change, cut at its head where the change would else fall outside; `whole`, so that it can be taken
    over from there, in one line of any length, or on a screen in as many rows as a text has that is drawn.
    """

    before: str
    after: str
    indent: int = 8
    tone: Tone = "good"
    whole: bool = False


Block = Said | Labelled | Ruled | Table | Texts | Shapes | OutlineBlock | Changed

BLANK = Said()
"""An empty line."""


def said(*pieces: str | tuple[str, Tone] | Piece) -> Said:
    """Make a line of pieces: texts alone, texts with their tone, or pieces."""
    return Said(tuple(_piece(each) for each in pieces))


def sentence(words: str, tone: Tone = "") -> Labelled:
    """Make words that are wrapped where the page ends."""
    return Labelled("", words, indent=0, gap=0, tone=tone)


def cut(text: str, tone: Tone = "", *, least: int = 16) -> Piece:
    """Make a piece that is cut to the room left, but not below `least` cells."""
    return Piece(text, tone, least)


def table(header: Iterable[str], rows: Iterable[Iterable[str]], tones: Iterable[Tone] = ()) -> Table:
    """Make a table."""
    return Table(tuple(header), tuple(tuple(row) for row in rows), tuple(tones))


def _piece(given: str | tuple[str, Tone] | Piece) -> Piece:
    if isinstance(given, Piece):
        return given
    return Piece(given) if isinstance(given, str) else Piece(*given)
