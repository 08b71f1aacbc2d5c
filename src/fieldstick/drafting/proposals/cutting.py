"""Cuts texts into pieces: words, numbers and what parts them, finer or coarser; what makes up a date or time is one."""

from __future__ import annotations

import re
from collections import Counter
from contextlib import contextmanager
from contextvars import ContextVar
from functools import lru_cache
from typing import TYPE_CHECKING, Literal, NamedTuple

from msgspec import Struct

from fieldstick.drafting.proposals import durations, moments, versions
from fieldstick.drafting.proposals.labelled_lines import LEADER
from fieldstick.drafting.proposals.special_pieces import DURATION, FOUND, VERSION, kind_of
from fieldstick.drafting.proposals.spelling import LONG_BASE_16
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

Cut = Literal["runs", "marks", "words", "names", "chunks", "whole"]
"""How far what stands together is one piece: digits apart from letters, both, `_` and `-` too, all but blanks, all.

`marks` are as `runs`, but that one mark may stand in the place of another.
"""


CUTS: tuple[Cut, ...] = ("runs", "marks", "words", "names", "chunks", "whole")


_DIGITS = (
    r"(?:\d{1,3}(?:,\d{3})+(?:\.\d+)?(?![\w,]|\.\d)"
    r"|\d{1,3}(?:\.\d{3})+,\d+(?![\w.]|,\d)"
    # A comma behind a decimal point parts columns.
    r"|\d*\.\d+(?:[eE][-+]?\d+)?(?!\w*\d)(?!\.\d)"
    r"|\d+(?:,\d+)?(?:[eE][-+]?\d+)?(?!\w*\d)(?![.,]\d))"
)

# Two points part the ends of a range. A comma parts columns, but for one between digits that three more follow.
_APART = r"(?:(?<![\w.])|(?<=[\d ]\.\.))(?<!\d,(?=\d{3}(?!\d|\.\d)))"
_NUMBER = compiled_later(rf"{_APART}[-+]?{_DIGITS}")
_NUMBER_AFTER_LETTERS = compiled_later(rf"{_APART}[-+]?{_DIGITS}|(?<=[^\W\d_])(?!\.|\d+[eE]\d){_DIGITS}")
"""Numbers: in groups of three with a decimal point or comma, or as they stand, with an exponent too.

After letters `1E47` is no power, but goes on with another letter.
"""

_PLAIN_DIGITS = r"(?:\d*\.\d+|\d+)(?:[eE][-+]?\d+)?(?!\w*\d)(?!\.\d)"
_PLAIN_NUMBER = compiled_later(rf"(?<![\w.])[-+]?{_PLAIN_DIGITS}")
_PLAIN_AFTER_LETTERS = compiled_later(rf"(?<![\w.])[-+]?{_PLAIN_DIGITS}|(?<=[^\W\d_])(?!\.|\d+[eE]\d){_PLAIN_DIGITS}")
"""Numbers as they are where commas part columns."""

_COMMAS = compiled_later(r"(?<![\w.,-])\d+(?:,-?\d+)+(?![\w.,-])")
_GROUPED = compiled_later(r"\d{1,3}(?:,\d{3})+")
_BETWEEN_DIGITS = compiled_later(r"\d,\d")
_BESIDE_LETTERS = compiled_later(r"(?:[^\W\d_],(?=\w)|(?<=\w),(?=[^\W\d_]))(?!\w*\s*[=:])")
"""A comma between columns of which one is a word, and no key of a value."""

PARTING_SHARE = 10
"""One text in so many of those with digits on both sides of a comma shows that a comma parts them, if it does."""

_BASE_16 = compiled_later(r"(?<!\w)(?=[0-9e]*[a-df])(?=[a-f]*\d)[0-9a-f]{5,}(?!\w)")
_POWER, _WORD_OF_BASE_16 = compiled_later(r"\d+e\d+"), compiled_later(r"[0-9a-f]+")


IN_TURNS = r"(?=[0-9a-f]{6,})(?:[0-9]+[a-f]+[0-9]+[a-f]|[a-f]+[0-9]+[a-f]+[0-9])[0-9a-f]*"
"""Letters and digits of base 16, in turns."""
_IN_PATH = compiled_later(r"(?<!\S)/\S*\Z")
"""What stands before something that is within a path."""


class Told(NamedTuple):
    """What some texts tell of how each of them is cut.

    `commas_part` says that a comma parts numbers whatever digits stand around it, `base_16` of how many digits words
    are that are numbers of base 16, so that `31e45` is none of base 10. `requests` says that what stands in quotes and
    is the first line of a request is told by its parts, since every text has one. `durations` says that a number with
    a unit of time is one, since others have several units, `versions` that versions are one piece, since some of them
    have more behind their numbers or cannot be days, and `days` which numbers are days, since all of their kind may
    be. `points_part` says that three numbers with points between are no day, since others cannot be one, and
    `versions_of_two` that two are a version, since most have three.
    """

    commas_part: bool = False
    base_16: frozenset[int] = frozenset()
    requests: bool = False
    durations: bool = False
    versions: bool = False
    days: frozenset[str] = frozenset()
    points_part: bool = False
    versions_of_two: bool = False


_NOTHING = Told()
_TOLD: ContextVar[Told] = ContextVar("told", default=_NOTHING)


@contextmanager
def cut_as_shown_by(texts: Sequence[str]) -> Iterator[None]:
    """Cut texts as some of them show that they are to be cut.

    That commas part numbers is shown by what has two commas or more and is no number in groups of three digits, and by
    a comma between a number and a word.
    """
    asked = [text for text in texts if _BETWEEN_DIGITS.search(text)]
    shown = sum(map(_shows_columns, asked))
    sizes = Counter(len(each) for text in texts for each in _BASE_16.findall(text))
    base_16 = frozenset(size for size, count in sizes.items() if PARTING_SHARE * count >= len(texts))
    requests = bool(texts) and all(map(_HAS_REQUEST.search, texts))
    shown_by = (sum(map(tells, texts)) for tells in (durations.has_several, versions.has_more))
    has_durations, has_versions = (0 < len(texts) <= PARTING_SHARE * count for count in shown_by)
    days = moments.shown_by(texts)
    commas_part = bool(shown) and PARTING_SHARE * shown >= len(asked)
    points_part = any(map(moments.has_three_numbers, texts))
    of_two = versions.have_two_numbers(texts)
    # What can be no day is a version, where all have one.
    has_versions = has_versions or of_two or versions.have_three_numbers(texts)
    token = _TOLD.set(Told(commas_part, base_16, requests, has_durations, has_versions, days, points_part, of_two))
    try:
        yield
    finally:
        _TOLD.reset(token)


def _shows_columns(text: str) -> bool:
    runs = _COMMAS.findall(text)
    return _BESIDE_LETTERS.search(text) is not None or any(
        each.count(",") > 1 and not _GROUPED.fullmatch(each) for each in runs
    )


def _is_of_base_16(text: str, number: re.Match[str], sizes: frozenset[int]) -> bool:
    """Tell whether a power of ten is, or is part of, a word of base 16 that has as many digits as others have."""
    if not _POWER.fullmatch(number[0]):
        return False
    start, end = number.span()
    while start and text[start - 1].isalnum():
        start -= 1
    while end < len(text) and text[end].isalnum():
        end += 1
    return end - start in sizes and _WORD_OF_BASE_16.fullmatch(text, start, end) is not None


_REQUEST = compiled_later(r"([A-Z]{3,10}) (\S+) HTTP(/)(\d(?:\.\d)?)")
_HAS_REQUEST = compiled_later(r'"[A-Z]{3,10} [^\s"]+ HTTP/\d(?:\.\d)?"')
"""The first line of a request: its method, what it is for, and a version (RFC 9112, section 3)."""


def _tokens_of_request(found: re.Match[str]) -> Iterator[Token]:
    method, target, slash, version = found.groups()
    yield from (Token("method", method), Token("blank", " "), Token("target", target), Token("blank", " "))
    yield from (Token("word", "HTTP"), Token(slash, slash), Token("protocol", version))


def told() -> Told:
    """Return what is told of how texts are cut."""
    return _TOLD.get()


NOT_GIVEN = ("n/a", "N/A")
"""What stands where there is no value, of letters with a mark between them."""

_NOT_GIVEN = rf"(?<![\w/])(?:{'|'.join(NOT_GIVEN)})(?![\w/])"
# A tab parts cells, of which one may be empty.
_PIECE = compiled_later(rf"{_NOT_GIVEN}|[^\W_]+|\t|[^\S\t]+|\.{{3,}}|.", re.DOTALL)

_WORDS = {
    "runs": _PIECE,
    "marks": _PIECE,
    "words": _PIECE,
    "names": re.compile(rf"{_NOT_GIVEN}|[\w-]+|\t|[^\S\t]+|\.{{3,}}|.", re.DOTALL),
    "chunks": re.compile(r"\S+|\s+"),
    "whole": re.compile(r".+", re.DOTALL),
}


_RUNS = compiled_later(r"\d+|[^\W\d_]+")

_QUOTED = compiled_later(r"""(?<!\w)(?:"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*')(?!\w)""", re.DOTALL)


_TAG = compiled_later(r"</?[A-Za-z][\w.:-]*/?>")
"""What begins or ends an element, where texts have such."""


COLOUR, ANY_COLOUR = "colour", r"\x1b\[[\d;]*m"
"""What sets the colour of what follows in a terminal (ECMA-48, 8.3.117), and what takes any such."""
_COLOURS = compiled_later(f"({ANY_COLOUR})")


class Token(Struct, frozen=True):
    """A piece of a text: a word, a number, what parts them, or several that are a date and the like together."""

    kind: str
    text: str


def tokens_of(text: str, cut: Cut = "words") -> tuple[Token, ...]:
    """Cut a text into its pieces; what stands in quotes is one."""
    return _tokens_of(text, cut, told())


@lru_cache(maxsize=1 << 15)
def _tokens_of(text: str, cut: Cut, shown: Told) -> tuple[Token, ...]:
    if cut in ("chunks", "whole"):
        return (*_unquoted_tokens(text, cut, shown, tags=False),)
    found: list[Token] = []
    if "\x1b[" in text and _COLOURS.search(text):
        for part in _COLOURS.split(text):
            is_colour = _COLOURS.fullmatch(part) is not None
            found += [Token(COLOUR, part)] if is_colour else _tokens_of(part, cut, shown) if part else ()
        return (*found,)
    at = 0
    tags = "</" in text
    for quoted in _QUOTED.finditer(text):
        found += _unquoted_tokens(text[at : quoted.start()], cut, shown, tags=tags)
        mark, held = quoted[0][0], quoted[0][1:-1]
        request = _REQUEST.fullmatch(held) if shown.requests else None
        inner = [Token("quoted", held)] if request is None else _tokens_of_request(request)
        found += [Token(mark, mark), *inner, Token(mark, mark)]
        at = quoted.end()
    return (*found, *_unquoted_tokens(text[at:], cut, shown, tags=tags))


def _tagged_tokens(text: str, cut: Cut, shown: Told) -> Iterator[Token]:
    """Yield the tokens of a text, each tag in it as one."""
    at = 0
    for tag in _TAG.finditer(text):
        yield from _plain_tokens(text[at : tag.start()], cut, shown)
        yield Token(f"tag {tag[0]}", tag[0])
        at = tag.end()
    yield from _plain_tokens(text[at:], cut, shown)


def _unquoted_tokens(text: str, cut: Cut, shown: Told, *, tags: bool) -> list[Token]:
    found: list[Token] = []
    at = 0
    specials: Iterable[re.Match[str]] = FOUND.finditer(text) if cut != "whole" else ()
    if cut == "chunks" and "/" in text:
        specials = (each for each in specials if not _IN_PATH.search(text, 0, each.start()))
    places = [(*each.span(), kind_of(each)) for each in specials]
    if shown.points_part:
        places = [each for each in places if each[2] not in moments.WITH_POINTS]
    if (shown.durations or shown.versions or shown.days) and cut != "whole":
        places = sorted([*places, *_shown_in(text, shown)], key=lambda place: (place[0], -place[1]))
    for start, end, kind in places:
        if start >= at:
            found += _plain_tokens_of(text[at:start], cut, shown, tags=tags)
            found.append(Token(kind, text[start:end]))
            at = end
    return [*found, *_plain_tokens_of(text[at:], cut, shown, tags=tags)]


def _shown_in(text: str, shown: Told) -> Iterator[tuple[int, int, str]]:
    """Yield where durations, versions and days stand in a text, as far as others show them, and which."""
    if shown.days:
        yield from moments.in_doubt(text, shown.days)
    if shown.durations:
        yield from ((*span, DURATION) for span in durations.durations_in(text))
    if shown.versions:
        yield from ((*span, VERSION) for span in versions.versions_in(text, of_two=shown.versions_of_two))


def _plain_tokens_of(text: str, cut: Cut, shown: Told, *, tags: bool) -> Iterator[Token]:
    return _tagged_tokens(text, cut, shown) if tags else _plain_tokens(text, cut, shown)


@lru_cache
def _of_base_16(sizes: frozenset[int]) -> re.Pattern[str]:
    """Return what finds numbers of base 16: letters and digits in turns, and what has as many digits as others have."""
    either = [rf"[0-9a-f]{{{size}}}" for size in sorted(sizes) if size >= LONG_BASE_16]
    return re.compile(rf"(?<![\w.-])(?:{'|'.join([*either, IN_TURNS])})(?![\w.-])")


def _plain_tokens(text: str, cut: Cut, shown: Told) -> Iterator[Token]:
    """Yield the pieces of a text without dates and the like; each number of base 16 that is told as one is a word."""
    at = 0
    if cut in ("runs", "marks"):
        for found in _of_base_16(shown.base_16).finditer(text):
            yield from _numbers_and_words(text[at : found.start()], cut, shown)
            yield Token("word", found[0])
            at = found.end()
    yield from _numbers_and_words(text[at:], cut, shown)


def _numbers_and_words(text: str, cut: Cut, shown: Told) -> Iterator[Token]:
    at = 0
    both = (_PLAIN_NUMBER, _PLAIN_AFTER_LETTERS) if shown.commas_part else (_NUMBER, _NUMBER_AFTER_LETTERS)
    number_in = both[cut in ("runs", "marks")]
    numbers: Iterable[re.Match[str]] = number_in.finditer(text) if cut not in ("chunks", "whole") else ()
    if shown.base_16:
        numbers = (each for each in numbers if not _is_of_base_16(text, each, shown.base_16))
    if cut == "names":
        # Digits alone are part of a name.
        numbers = (each for each in numbers if not each[0].isdecimal())
    elif cut == "words":
        # Digits are part of a word that they begin.
        numbers = (
            each for each in numbers if not (each[0].isdecimal() and text[each.end() : each.end() + 1].isalpha())
        )
    for number in (*numbers, None):
        end = number.start() if number is not None else len(text)
        for each in _WORDS[cut].findall(text[at:end]):
            if cut == "marks" and len(each) == 1 and not each.isalnum():
                yield Token("mark", each)
            elif each.isspace():
                yield Token("blank", each)
            elif each.startswith("..."):
                yield Token(LEADER, each)
            elif each in NOT_GIVEN:
                yield Token(each, each)
            elif cut in ("chunks", "whole") or (cut == "names" and (each[0].isalnum() or each[0] in "_-")):
                yield Token("chunk", each)
            elif not each[0].isalnum():
                yield Token(each, each)
            elif cut == "words":
                yield Token("word", each)
            else:
                yield from (Token("number" if run.isdecimal() else "word", run) for run in _RUNS.findall(each))
        if number is not None:
            yield Token("word" if cut == "words" and number[0].isdecimal() else "number", number[0])
            at = number.end()
