"""What fields are called, by what stands before them and by their values, and which values are truths."""

from __future__ import annotations

import re
import unicodedata
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.drafting.proposals.labelled_lines import LEADER
from fieldstick.drafting.proposals.pieces import Piece
from fieldstick.lean import compiled_later
from fieldstick.matching.keys import HAPPENED, LEVELS
from fieldstick.syntax.characters import without_marks

if TYPE_CHECKING:
    from collections.abc import Container, Iterator, Sequence

    from fieldstick.drafting.proposals.numerals import Table

LONGEST_NAME = 30
"""Characters of a field's name, at the most."""

DECIMAL = compiled_later(r"[-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d+)?")
"""What converts to a decimal."""

_UNITS = frozenset(
    re.split(
        " ",
        "mm cm km mg kg ml ha kb mb gb tb kib mib gib tib ms us ns min sec hrs hz khz mhz "
        "kw mw mv ma db pa hpa kpa mbar rpm deg ppm",
    )
)
"""Units of a number, which do not say what the next one is of."""

JOINING = frozenset(
    re.split(
        " ",
        "a after an and are as at because but by did every for from had has have in is of on only over than the to "
        "under up was were will with within",
    )
)
"""Words that join others and say nothing of what follows, where what follows that does."""

_ZONES = frozenset(("utc", "gmt", "cet", "cest", "z"))
"""Zones of time, which say nothing of what follows."""

_PARTING = frozenset("|;,")
"""Marks that part columns."""

_NUMBERED = frozenset(("no", "nr"))
"""Words that are shortened and say that what they stand behind has a number."""

_OF_FILES = frozenset(
    re.split(
        " ", "c cc cpp h hpp py java js ts rs go rb sh pl php cs kt txt log csv tsv md toml yaml yml json xml ini conf"
    )
)
"""What names of files of text end with, of which a number behind a colon is a line."""

_SAYING = frozenset(("are", "at", "has", "is", "of", "was", "were"))
"""And those by which something is said of what stands before them."""

_NOUN = compiled_later(r"[^\W\d_]{3,}")

_KEYED = compiled_later(r"(?<!\w)([^\W\d]\w*)[\"']?\s*[:=]\s*[\[({]*[\"']?\s*\Z|<([A-Za-z][\w.-]*)>\Z")
"""A key that what comes next is the value of."""

_LAST_WORD = compiled_later(r"(?<!\S)[^\W\d_]+\Z")

_PATH = compiled_later(r"/[^/\s]\S*")

_VERSION = compiled_later(r"v?\d+(?:\.[\w+~:-]+)+")


def _cases(words: tuple[str, str]) -> Iterator[tuple[str, str]]:
    for cased in (str.lower, str.upper, str.title):
        yield cased(words[0]), cased(words[1])


SIGNS = frozenset("<>=≤≥≈~±")
"""Marks that say something of the number behind them."""

ORDINAL_ENDINGS = frozenset(("st", "nd", "rd", "th"))
"""What makes a number one of an order; where there are two of them, there are all."""

TRUTHS = tuple({each, other} for both in (("true", "false"), ("yes", "no")) for each, other in _cases(both))
"""Words that say whether something is so, in one case."""

PLAIN_NAMES = ("word", "number", "text", "code", "duration")
"""What fields are called of which nothing says what they are."""


def boolean_of(values: Sequence[str]) -> Table:
    """Return the table of a field of words that say whether something is so."""
    true = next(each for each in values if each.lower() in ("true", "yes"))
    false = next(each for each in values if each.lower() in ("false", "no"))
    return (
        {"type": "boolean"}
        if (true, false) == ("true", "false")
        else {"type": "boolean", "true": [true], "false": [false]}
    )


def called(values: Sequence[str]) -> str:
    """Return what some values are called: paths, versions, levels, words, or any text."""
    different = set(values)
    if all(map(_PATH.fullmatch, different)):
        return "path"
    if all(map(_VERSION.fullmatch, different)) and not all(map(DECIMAL.fullmatch, different)):
        return "version"
    if all(value.lower() in LEVELS for value in different):
        return "level"
    return "word" if all(map(_is_word, different)) and not any(map(_is_prose, different)) else "text"


def _is_prose(value: str) -> bool:
    """Tell whether a value has more words than a name has."""
    return len(value.split()) > MOST_WORDS_OF_NAME


MOST_WORDS_OF_NAME = 3
"""Words that somebody or something is called by."""


_GREEK = compiled_later(r"(?<!\w)[α-ωΑ-Ω](?!\w)")


def field_name(text: str) -> str:
    """Return a name for a field after a text; a Greek letter has one of its own."""
    text = _GREEK.sub(lambda found: unicodedata.name(found[0]).split()[-1].lower(), text)
    bare = re.sub(r"\W+", "_", without_marks(text.lower()), flags=re.ASCII)[:LONGEST_NAME].strip("_") or "field"
    return bare if bare[0].isalpha() else f"field_{bare}"


MOST_NAMING = 3
"""Words that a pattern is called by."""

_SLOTS = compiled_later(r"⟨[^⟩]*⟩")
_NAMING = compiled_later(r"[^\W\d_]{2,}")
_HAPPENED = compiled_later(rf"(?<!\S)(?:{'|'.join(HAPPENED)})=\"([^\"]*[^\W\d_]{{2}}[^\"]*)\"")
"""What says in so many words what happened."""


def _words_staying(template: str) -> list[str]:
    """Return the words of a template, without slots and such as say how grave something is."""
    words = map(str.lower, _NAMING.findall(without_marks(_SLOTS.sub(" ", template))))
    return [each for each in words if each not in LEVELS]


def pattern_name(template: str, taken: Container[str] = ()) -> str:
    """Return a name for a pattern of a kind of line: the first words that stay in it, `line` where there are none.

    There are more of them where the name is taken, as far as that helps. Words that say what happened come first.
    """
    happened = _HAPPENED.search(template)
    said = _words_staying(happened[1]) if happened is not None else []
    telling = list(dict.fromkeys([*said, *_words_staying(template)])) or ["line"]
    fewest = min(len(said) or MOST_NAMING, MOST_NAMING)
    counts = range(fewest, max(fewest, len(telling)) + 1)
    names = ["-".join(telling[:count])[:LONGEST_NAME].strip("-") for count in counts]
    return next((each for each in names if each not in taken), names[0])


def noun_of(before: Before, behind: Sequence[object]) -> str:
    """Return the word that a number is called by: the one behind it, where what stands before only joins words.

    So `after 3 tries` has tries, and `took 3 ms` what it took. `behind` are the pieces that follow the number; a key of
    what comes then is no such word.
    """
    if before.pair or before.key or (before.word and before.word.lower() not in JOINING):
        return ""
    words = [each.values for each in behind[:2] if isinstance(each, Piece) and each.kind in ("blank", "word")]
    if len(words) < 2 or len(set(words[1])) > 1 or set("".join(words[0])) != {" "}:
        return ""
    if any(isinstance(each, Piece) and each.kind in ("=", ":") for each in behind[2:3]):
        return ""
    if any(isinstance(each, Piece) and each.kind == "word" and {*each.values} == {words[1][0]} for each in behind[2:4]):
        # What stands there twice are names, of somebody and of a group.
        return ""
    noun = words[1][0].lower()
    is_noun = _NOUN.fullmatch(noun) and noun not in JOINING and noun not in _UNITS and noun not in LEVELS
    return noun if is_noun else ""


class Before(NamedTuple):
    """What stands before what comes next, where it is always the same: a word, and the key that it is a value of.

    A `pair` is a key that was told as such; `is_right` tells that the word stands right before. `apart` is a word if a
    blank comes next. `is_ending` tells of a word that a point stands before it, as of a file's, and of that point.
    `earlier` is the word before the word, or one in its place that says nothing unless it is a key. `is_glued` tells
    that the word says something of what comes next but a blank. `is_counted` tells of a number, or a blank behind one.
    """

    word: str = ""
    key: str = ""
    pair: str = ""
    is_right: bool = False
    apart: str = ""
    is_ending: bool = False
    earlier: str = ""
    is_glued: bool = False
    is_counted: bool = False

    @property
    def name(self) -> str:
        """What a value is called that comes next; empty where nothing says what it is.

        It is not what says that it is: that of `clock is 3` is the clock.
        """
        says = self.word.lower() in _SAYING and _NOUN.fullmatch(self.earlier) and self.earlier.lower() not in JOINING
        return self.pair or self.key or (self.earlier if says else self.word)


def after(piece: Piece, before: Before) -> Before:
    """Return what stands before what comes next, after a piece.

    A word that a hyphen follows is a part of the value of the key before it, where there is one.
    """
    values = set(piece.values)
    # Where one mark may stand for another, a point and a colon are what they are.
    kind = piece.values[0] if piece.kind == "mark" and values <= {".", ":"} and len(values) == 1 else piece.kind
    if piece.kind.startswith("tag "):
        return Before("" if piece.kind.startswith("tag </") else piece.kind[5:].rstrip("/>"))
    if piece.kind.startswith("pair "):
        return Before(pair=piece.kind.removeprefix("pair "))
    if piece.kind == "protocol":
        # Behind a request stands what came of it.
        return Before("status")
    if before.pair and piece.kind in ("=", ":", LEADER, '"', "'"):
        return Before(piece.kind, pair=before.pair)
    if piece.kind == LEADER:
        # Points lead from what a value is called to it.
        return before._replace(is_ending=False)
    if before.pair:
        # Blanks may stand before the mark that ends a key, and behind it.
        return Before(before.word, pair=before.pair) if piece.kind == "blank" else Before()
    if piece.kind in ("word", "quoted"):
        if len(values) == 1 and (named := _KEYED.search(piece.values[0])) is not None:
            return Before(named[1] or named[2], named[1] or "")
        same = len(values) == 1 and re.fullmatch(r"[\w .-]*[^\W\d_][\w .-]*", piece.values[0]) is not None
        # How grave something is says nothing of what follows.
        names = same and not piece.values[0][0].isdecimal() and piece.values[0].lower() not in LEVELS | _ZONES
        if not same:
            return Before()
        word = values.pop()
        if before.is_counted and (len(word) == 1 or word.lower() in _UNITS):
            # A unit says nothing of what follows, unless it is its key.
            return Before(earlier=word)
        earlier = before.word if names else word
        return Before(word * names, before.key, is_right=True, is_ending=before.is_ending, earlier=earlier)
    if piece.kind == "chunk" and len(values) == 1:
        # A name with marks around it, as "gate": or gate=.
        name = re.sub(r"^\W+|[\s:=\"']+$", "", values.pop())
        return Before(name if name.isidentifier() else "")
    if piece.kind == "key shared":
        named = _KEYED.search(piece.values[0])
        last = _LAST_WORD.search(piece.values[0])
        if named is None and last is not None and last[0].lower() not in LEVELS:
            return Before(apart=last[0])
        return Before(named[1] or named[2]) if named is not None else Before()
    if kind == "." and before.word.lower() in _NUMBERED:
        return Before(before.earlier)
    if kind == ".":
        return Before(is_ending=True)
    if kind == "°" and before.is_counted:
        # The letter behind it is part of the unit.
        return before
    if before.is_glued and piece.kind == "blank":
        return Before()
    if before.is_ending and kind == ":":
        # Behind the name of a file stands a line of it, behind that of a machine a port.
        return Before("line" if before.word.lower() in _OF_FILES else "port", is_glued=True)
    if before.is_ending and piece.kind != "=":
        # What a file's name ends with says what is in it, not what follows.
        return Before()
    if piece.kind == "blank" and before.apart:
        return Before(before.apart)
    small = len(before.word) == 1 and not before.word.isupper()
    if piece.kind == "blank" and before.is_right and (small or before.word.lower() in _UNITS):
        # A unit of the number before it.
        return Before()
    if piece.kind == "blank" and " " in before.word and not before.key:
        # What is parted by a blank alone is called by the word right before it.
        return Before(before.word.split()[-1])
    if piece.kind == "=":
        word = before.word or before.earlier
        return Before(word, word)
    if piece.kind == "-":
        return Before(before.key or before.word)
    if piece.kind == "/":
        return Before(before.key or (before.word if len(before.word) > 1 else ""), before.key, is_glued=True)
    if before.key and piece.kind == "<":
        return before
    if piece.kind == "number":
        return Before(is_counted=True)
    if piece.kind == "blank":
        return Before(before.word, earlier=before.earlier, is_counted=before.is_counted)
    if piece.kind == "mark" and values <= _PARTING:
        # What parts columns says nothing.
        return Before()
    return Before(before.word if piece.kind in (":", "#", "_", "mark", '"', "'", "[", "(") else "")


def _is_word(value: str) -> bool:
    return value.replace("_", "").replace("-", "").isalnum()
