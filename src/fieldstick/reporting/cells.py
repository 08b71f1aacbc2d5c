"""Text as terminal cells: what each character shows as, and how many cells it takes.

Widths follow Unicode's East Asian Width (UAX #11) as the terminal library tabulates it. Nothing that steers
a terminal, reorders text or cannot be seen is shown as itself.
"""

from __future__ import annotations

from functools import lru_cache

from msgspec import Struct

TAB_STOP = 8
_DRAWN = "├─┤│╷━╳…⟨⟩"
"""Characters of our own drawings, each one cell wide; what else is wide or not the library tells."""

_SHOWN_AS_CODE = frozenset({"Cc", "Cf", "Cs", "Co", "Cn", "Zl", "Zp", "Zs"})
_CONTROL_PICTURES = 0x2400

_DELETE_PICTURE = "\u2421"

LONGEST_RUN, LONGEST_WORDS = 160, 800
"""Characters of a run without a blank, and of words as a whole, from which on their middle is left out where that may
be.
"""


class Glyph(Struct, frozen=True):
    """What one code point shows as, and the cells it takes."""

    shown: str
    width: int


class Charset(Struct, frozen=True):
    """What the output can show: any character, or those of an encoding."""

    encoding: str = "utf-8"

    def can_show(self, text: str) -> bool:
        """Tell whether the output's encoding has all of `text`."""
        return _encodes(text, self.encoding)

    @property
    def ellipsis(self) -> str:
        """What stands for what is left out, one cell wide."""
        return "…" if self.can_show("…") else "~"


@lru_cache(maxsize=4096)
def _encodes(text: str, encoding: str) -> bool:
    try:
        text.encode(encoding)
    except (UnicodeError, LookupError):
        return False
    return True


@lru_cache(maxsize=8192)
def glyph(character: str, charset: Charset) -> Glyph:
    """Return the glyph of one code point; a tab is given the width of its symbol alone."""
    point = ord(character)
    if 0x20 <= point < 0x7F:
        return Glyph(character, 1)
    picture = _picture(point)
    if picture is not None and charset.can_show(picture):
        return Glyph(picture, 1)
    import unicodedata

    if unicodedata.category(character) in _SHOWN_AS_CODE or not charset.can_show(character):
        left, right = ("⟨", "⟩") if charset.can_show("⟨⟩") else ("<", ">")
        code = f"{left}U+{point:04X}{right}"
        return Glyph(code, len(code))
    return Glyph(character, _cells_of(character))


def _cells_of(character: str) -> int:
    if " " <= character < "\x7f" or character in _DRAWN:
        return 1
    from rich.cells import get_character_cell_size

    return get_character_cell_size(character)


def _picture(point: int) -> str | None:
    if point == 0x09:
        return "→"
    if point < 0x20:
        return chr(_CONTROL_PICTURES + point)
    return _DELETE_PICTURE if point == 0x7F else None


def glyph_at(character: str, column: int, charset: Charset) -> Glyph:
    """Return the glyph of a code point that stands at `column`: a tab reaches to the next stop."""
    found = glyph(character, charset)
    if character == "\t":
        width = max(TAB_STOP - column % TAB_STOP, found.width)
        return Glyph(found.shown + " " * (width - found.width), width)
    if found.width == 0 and column == 0 and charset.can_show("◌"):
        return Glyph("◌" + found.shown, 1)
    return found


def visible(text: str, charset: Charset = Charset()) -> str:
    """Return `text` with everything that cannot be shown as itself replaced by a symbol or its code."""
    if text.isascii() and text.isprintable():
        return text
    return "".join(glyph(character, charset).shown for character in text)


def clipped(text: str, cells: int, charset: Charset = Charset()) -> str:
    """Return `visible(text)` cut to at most `cells` cells, an ellipsis for what is left out."""
    shown, used = [], 0
    for index, character in enumerate(text):
        each = glyph(character, charset)
        last = index == len(text) - 1
        if used + each.width > cells - (0 if last else 1):
            shown.append(charset.ellipsis)
            break
        shown.append(each.shown)
        used += each.width
    return "".join(shown)


def condensed(text: str, charset: Charset = Charset()) -> str:
    """Return `visible(text)`, an ellipsis for the middle of what is very long: of words without a blank, and of all."""
    words = [_without_middle(each, LONGEST_RUN, charset) for each in visible(text, charset).split(" ")]
    return _without_middle(" ".join(words), LONGEST_WORDS, charset)


def _without_middle(text: str, most: int, charset: Charset) -> str:
    if len(text) <= most:
        return text
    return f"{text[: most * 2 // 3]}{charset.ellipsis}{text[-most // 4 :]}"


def width_of(text: str) -> int:
    """Return the cells that an already visible text takes."""
    return len(text) if text.isascii() and text.isprintable() else sum(map(_cells_of, text))
