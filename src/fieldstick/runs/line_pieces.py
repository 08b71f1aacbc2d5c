"""Cuts lines into pieces with their slots filled in: timestamps, numbers, addresses and so on."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.runs.line_marks import CONTINUED, GROUP, RECORD, TABS
from fieldstick.runs.line_quotes import QUOTED_TEXT, Quotes
from fieldstick.runs.line_slots import JOINED, WORD

if TYPE_CHECKING:
    import re

LONGEST_PIECE = 2_000
"""Code points of a piece up to which slots are looked for in it; a longer one is a word."""

MOST_REMEMBERED, LONGEST_REMEMBERED = 20_000, 500
"""Lines of which it is remembered how they are spelled, and code points of one, at the most."""

MOST_CACHED = 500_000
"""Pieces of lines, their digits folded, that are remembered."""

MOST_WORDS = 200_000
"""Different pieces, their slots filled in, that are told apart."""

_FIRST = 0x4E00
"""The first of the characters that stand for pieces."""

_TRUTHS = "(?:true|false|null|True|False|TRUE|FALSE|NULL)"

_APART = r"(?:(?<![\w.])|(?<=\d\.\.))"
"""Where a number begins; two points part the ends of a range."""

SLOTS: tuple[tuple[str, str], ...] = (
    ("timestamp", r"\d{4}-\d\d-\d\dT\d\d:\d\d(?::\d\d(?:[.,]\d+)?)?(?:Z|[+-]\d\d:?\d\d)?"),
    ("timestamp", r"\d{1,2}/[A-Z][a-z]{2}/\d{4}:\d\d:\d\d:\d\d|(?<![\w.-])\d{8}(?:T\d{6}Z?|[-_]\d{6})(?![\w-])"),
    ("timestamp", r"(?<![\w.-])\d{8}[-_]\d{1,2}:\d{1,2}:\d{1,2}(?:[:.,]\d{1,6})?(?![\w:-])"),
    ("date", r"\d{4}[-/.]\d\d[-/.]\d\d|\d{1,2}[./]\d{1,2}[./](?:\d{4}|\d\d)(?![\w+-]|\.\d)"),
    ("date", r"(?<![\w.-])\d{1,2}-\d\d-\d{4}(?![\w-])"),
    ("time", r"\d{1,2}:\d\d(?::\d\d(?:[.,]\d+)?)?(?:Z|[+-]\d\d:?\d\d)?(?!\w|:\w|[.]\d|,\d{3}\b)"),
    ("address", r"[a-z][a-z+.-]*://\S+|\d{1,3}(?:\.\d{1,3}){3}(?::\d+)?(?![\w.])"),
    (
        "address",
        rf"(?<![\w:.])(?=[A-Fa-f:]*\d)(?:(?:{GROUP}:){{1,7}}(?::|(?::{GROUP}){{1,6}})|:(?::{GROUP}){{1,7}})(?![\w:])",
    ),
    ("address", r"(?:[0-9A-Fa-f]{2}:){5}[0-9A-Fa-f]{2}|(?:[0-9a-fA-F]{1,4}:){3,7}:?[0-9a-fA-F]{1,4}"),
    ("identifier", r"(?<![\w:])(?=[\d:]*[A-Fa-f])[0-9A-Fa-f]{2}(?::[0-9A-Fa-f]{2}){2,}(?![\w:])"),
    ("identifier", r"[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F-]{4,}|[09]x[0-9a-fA-F]+"),
    ("path", r"(?<![\w<])(?:~|\.{1,2})?(?:/[\w.+@%:~-]+)+/?|(?:/[\w.+@%:~-]+){2,}/?|[A-Za-z]:\\[\w\\.-]+"),
    ("number", rf"{_APART}[-+]?\d+(?:[.,]\d+)?(?=[A-Za-z%°µ]{{1,3}}(?![\w.:+~-]))"),
    (
        "version",
        r"(?<![\w.])v?\d+(?:[.:]\d+)+(?:[-+~][-+~.:\w]*|\.?[a-z]+[-+~.:\w]*)|(?<![\w.])v?\d+(?:\.\d+){2,}(?!\w)",
    ),
    ("number", rf"{_APART}[-+]?\d+(?:[.,]\d+)*(?![\w]*\d)(?!\w*-\w*\d)"),
    ("word", rf"(?<![\w.:+~@-]){_TRUTHS}(?![\w.:+~@-])|(?<=\":){_TRUTHS}\b"),
    ("identifier", r"(?=[\w.:+~@-]*\d)(?=[\w.:+~@-]*[A-Za-z])\w[\w.:+~@-]*\w|\d+[\w-]+(?:\.\w+)*"),
)
"""What a slot is called, and what it is made of, the first that fits counts."""

_WORDS_IN_SLOTS = frozenset(_TRUTHS[3:-1].split("|"))
"""Pieces of letters alone that are slots: all others have a digit, or a mark."""

_LONG = r"(?P<long>(?![\w.:+~@-]*\d)\w[\w.:+~@-]{100,}\w)"
"""So much without a digit that no slot is looked for within it, which would take as long as it is long, squared."""

_SLOT = compiled_later("|".join([*(f"(?P<s{number}>{shape})" for number, (_, shape) in enumerate(SLOTS)), _LONG]))
_APOSTROPHES = compiled_later(r"(?<!\w)'[^'\n]*'(?!\w)")
FOLDED_CHARACTERS = str.maketrans("0123456789", "9" * 10)
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_HALVES = ("AM", "PM", "am", "pm")
_NAMED = (
    "(?:Jan(?:uary)?|Feb(?:ruary)?|Mar(?:ch)?|Apr(?:il)?|May|June?|July?|Aug(?:ust)?|Sep(?:tember)?|Oct(?:ober)?"
    "|Nov(?:ember)?|Dec(?:ember)?)"
)
_WEEKDAY = "(?:(?:Mon|Tue|Wed|Thu|Fri|Sat|Sun),? )?"
_MONTH = compiled_later(
    rf"\b{_WEEKDAY}{_NAMED} {{1,2}}\d{{1,2}}(?:,? \d{{4}})?\b(?P<time> \d\d:\d\d(?::\d\d)?\b(?: \d{{4}}\b(?![:.-]))?)?"
    rf"|\b{_WEEKDAY}\d{{1,2}} {_NAMED}(?: \d{{4}})?\b(?P<later> \d\d:\d\d:\d\d\b(?: [+-]\d{{4}}\b)?)?"
)
"""A day with the name of its month, with a time or without."""
_COLOURS = compiled_later(r"\x1b\[[\d;]*m")
_WITHOUT_YEAR = compiled_later(r"(?<![\w.:/-])\d\d[-./]\d\d \d\d:\d\d:\d\d(?:[.,]\d{1,6})?(?![\w:.-])")
"""A time with a day that has no year."""
_HALF_OF_DAY = compiled_later(r"(?<![\w:.])\d{1,2}:\d\d(?::\d\d)? ?(?:[AP]M|[ap]m)\b")
_BYTES = compiled_later(r"(?<![\w:-])[0-9A-Fa-f]{2}(?: {1,2}[0-9A-Fa-f]{2}){3,}(?![\w:-])")
_A_BYTE = compiled_later(r" (?:\d[A-Fa-f]|[A-Fa-f]\d) [0-9A-Fa-f]{2} [0-9A-Fa-f]{2}(?![\w:-])")
"""Bytes in hexadecimal, four or more, and three of them of which one can hardly be something else."""
_LEVELLED = compiled_later(
    r"(?m)^(TRACE|DEBUG|INFO|NOTICE|WARN|WARNING|ERROR|CRITICAL|FATAL):(?:([\w./-]+):)?(?=[^\s:])"
)
"""How grave a line is, and who says so, with no blanks behind."""
_SEVERAL_BLANKS = compiled_later(" {2,}")
_PADDED = compiled_later(r"\[ +(?=[-+]?\d)")
"""A number in brackets with blanks before it, which makes it as wide as others."""

HEAD, HEAD_LINES = 8_192, 1_000
"""Code points, and lines, in which it is seen whether lines have timestamps that hold blanks, and what parts them."""

_STAMP, _BLANK, _DATE, _SEVERAL_BYTES, _TIME = "\x02", "\x03", "\x04", "\x05", "\x06"
"""What stands for slots that hold blanks, and for a blank in a cell, while a line is cut; of ASCII, which is faster."""
_LINES, _LEVEL = "\x07", "\x0e"
_HOLD_BLANKS = {
    QUOTED_TEXT: "quoted text",
    _STAMP: "timestamp",
    _DATE: "date",
    _SEVERAL_BYTES: "bytes",
    _TIME: "time",
    _LINES: "lines",
    _LEVEL: "word",
}
_GOES_ON = compiled_later(rf"{CONTINUED}[^{RECORD}\n]*")
"""Lines of a record that begin with a blank, as those of where something went wrong."""


class Pieces(dict[str, str]):
    """Maps a piece of a line to a character that stands for what it becomes once its slots are filled in."""

    def __init__(self, quotes: Quotes) -> None:
        super().__init__({"\n": "\n"})
        self.quotes = quotes
        self.meaning: dict[str, str] = {}
        self._character: dict[str, str] = {}
        self.is_full = False

    def __missing__(self, piece: str) -> str:
        made = _slots_in(piece.replace(_BLANK, " "), self.quotes)
        if made not in self._character and len(self._character) >= MOST_WORDS:
            # Further words are told from the others no more.
            self.is_full = True
            made = WORD
        character = self._character.get(made)
        if character is None:
            character = chr(_FIRST + len(self._character))
            self._character[made] = character
            self.meaning[character] = made
        if len(self) < MOST_CACHED:
            self[piece] = character
        return character


class LineCutter:
    """Cuts lines into pieces, and puts each by a character that stands for what it becomes with its slots filled in."""

    def __init__(self) -> None:
        self.quotes = Quotes(_slots_in)
        self.pieces = Pieces(self.quotes)
        self._remembered: dict[str, str] = {}
        """Lines as they are spelled."""

        self._has_levels = False
        """Whether lines were seen that begin with how grave they are, in more than one way, and no blank behind."""

        self._has_bytes = False
        """Whether lines were seen that hold bytes in hexadecimal, so that those of digits alone are such, too."""

    def spelled(self, text: str, mark: str) -> list[str]:
        """Return lines, each piece put by the character that stands for it; most came before.

        A `mark` parts them instead of blanks, as `parting_mark` has it.
        """
        lines = text.split("\n")
        lines.pop()
        known = self._remembered
        if len(known) > MOST_REMEMBERED:
            known.clear()
        fresh = [each for each in lines if each not in known]
        spelled = self._spelled_anew("".join([f"{each}\n" for each in fresh]), mark) if fresh else []
        made = dict(zip(fresh, spelled, strict=True))
        if len(made) <= MOST_REMEMBERED:
            known.update({line: each for line, each in made.items() if len(line) <= LONGEST_REMEMBERED})
        return [made[each] if each in made else known[each] for each in lines]

    def _spelled_anew(self, text: str, mark: str) -> list[str]:
        if "\x1b[" in text:
            # Colours say nothing that words do not.
            text = _COLOURS.sub("", text)
        if '"' in text:
            text = self.quotes.put(text)
        if "'" in text:
            text = _APOSTROPHES.sub(QUOTED_TEXT, text)
        if "[ " in text:
            text = _PADDED.sub("[", text)
        self._has_bytes = self._has_bytes or _A_BYTE.search(text, 0, HEAD) is not None
        if self._has_bytes:
            text = _BYTES.sub(_SEVERAL_BYTES, text)
        if any(map(text[:HEAD].__contains__, _HALVES)):
            text = _HALF_OF_DAY.sub(_TIME, text)
        if any(map(text[:HEAD].__contains__, _MONTHS)) and _MONTH.search(text, 0, HEAD):
            text = _MONTH.sub(lambda found: _STAMP if found["time"] or found["later"] else _DATE, text)
        if _WITHOUT_YEAR.search(text, 0, HEAD):
            text = _WITHOUT_YEAR.sub(_STAMP, text)
        if CONTINUED in text:
            text = _GOES_ON.sub(f" {_LINES}", text)
        if mark == RECORD:
            text = _SEVERAL_BLANKS.sub(" ", text)
        elif RECORD in text:
            text = text.replace(RECORD, " ")
        self._has_levels = self._has_levels or len({each[0] for each in _LEVELLED.findall(text, 0, HEAD)}) > 1
        if self._has_levels:
            text = _LEVELLED.sub(_parted, text)
        if mark:
            # What stands in a cell is one piece, its blanks too.
            text = text.replace(" ", _BLANK)
            parting = f" {mark.strip(' ')[0]} "
            text = TABS.sub(parting, text) if mark == "\t\t" else text.replace(mark.replace(" ", _BLANK), parting)
        known = self.pieces
        pieces = text.replace("\n", " \n ").split(" ")
        pieces.pop()
        spelled = "".join(map(known.__getitem__, pieces)).split("\n")
        spelled.pop()
        return spelled


def _parted(found: re.Match[str]) -> str:
    """Return what stands for how grave a line is, and who says so, with blanks behind that are not shown."""
    return f"{_LEVEL}: {JOINED}" + (f"{found[2]}: {JOINED}" if found[2] else "")


def _slots_in(piece: str, quotes: Quotes | None = None) -> str:
    """Return a piece of a line with its slots in the place of what fills them."""

    def named(found: re.Match[str]) -> str:
        assert found.lastgroup is not None
        return found[0] if found.lastgroup == "long" else f"⟨{SLOTS[int(found.lastgroup[1:])][0]}⟩"

    if len(piece) > LONGEST_PIECE:
        return WORD
    if piece.isalpha() and piece not in _WORDS_IN_SLOTS:
        return piece
    made = _SLOT.sub(named, piece)
    if not made.isprintable():
        made = made if quotes is None else quotes.told_in(made)
        for character, slot in _HOLD_BLANKS.items():
            made = made.replace(character, f"⟨{slot}⟩")
    return made
