"""Spells what texts have as classes of characters and quantifiers, as tight or as loose as is asked."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING, Literal

from fieldstick.drafting.context import class_spelling, escaped, escaped_text, quantifier
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Sequence

Level = Literal["tight", "middle", "loose"]
LEVELS: tuple[Level, ...] = ("tight", "middle", "loose")

FEWEST_HEXADECIMAL = 4
"""Different letters of a number of base 16 from which on it is taken for one."""

FEWEST_OF_SOME_DIGITS = 8
"""Different numbers of some of the digits alone from which on no others are taken."""

BASES = (2, 8)
"""Bases below ten that numbers of several digits are written in."""

BY_CHANCE = 0.03
"""How likely something may be by chance that is taken to be meant."""

DIGITS_BY_CHANCE, FEWEST_HEADS = 0.2, 8
"""The same for words that begin with no digit, and words that tell of themselves what words begin with."""

NEW_MARK = {"tight": 0.4, "middle": 0.2, "loose": 0.1}
"""How likely a mark may be that no example has, for a class that lists those that they have."""


FEWEST_MARKS, WORDS_OF_PROSE = 3, 3
"""Marks beside blanks, and words on average, from which on texts are prose, in which any other mark may stand."""

MOST_LISTED, OFTEN, OFTEN_OF_MANY = 12, 5, 3
"""Different texts up to which they are listed, and how often each must be there for that; where the others are there
more often.
"""


def listed_of(texts: Iterable[str]) -> str | None:
    """Return the alternatives of a choice of all texts, where these are few and each comes so often that there are
    hardly others; None where that is not so.
    """
    times = Counter(texts)
    often = OFTEN_SAID if _are_said(times) else OFTEN_OF_MANY if times.total() >= OFTEN * len(times) else OFTEN
    if not 1 < len(times) <= MOST_LISTED or min(times.values()) < often:
        return None
    return "|".join(escaped_text(text) for text in sorted(times, key=lambda each: (-len(each), each)))


FEW = 8
"""Examples below which hardly anything that they have alike is meant."""

OFTEN_SAID, MOST_SAID, SAID = 2, 6, 4
"""How often each of a few texts of several words must be there to be listed, how few they are, and how often they are
there on average."""


def _are_said(times: Counter[str]) -> bool:
    """Tell whether texts say the same few things in several words, again and again, which are no chance."""
    words = len(times) <= MOST_SAID and times.total() >= SAID * len(times)
    return words and any(" " in each for each in times) and all(each.replace(" ", "").isalpha() for each in times)


def members_of(characters: Iterable[str]) -> str:
    """Spell characters as members of a class, a hyphen last."""
    return "".join(map(class_spelling, sorted(characters, key=lambda each: (each == "-", each))))


def amount_of(lengths: set[int], count: int, level: Level) -> str:
    """Return the quantifier of what has these lengths in so many texts."""
    low, high = min(lengths), max(lengths)
    if level == "loose":
        return "+"
    if low == high and (low == 1 or count > 1):
        return quantifier(low, high)
    if high <= 3 and count >= 2 * (high - low + 1) and len(lengths) == high - low + 1:
        return quantifier(low, high)
    return "+"


def is_anything(values: Sequence[str], level: Level) -> bool:
    """Tell whether words have more kinds of marks than are listed."""
    used = set("".join(values))
    marks = {each for each in used if not each.isalnum()}
    if not used or not all(each.isascii() for each in marks):
        return True
    return bool(marks - {"_"}) and (_are_prose(values, marks) or not _are_listed(marks - {"_"}, values, level))


def _are_prose(values: Sequence[str], marks: set[str]) -> bool:
    """Tell whether texts are of several words each with marks of several kinds among them, of which there are more."""
    words = sum(len(each.split()) for each in values)
    return len(marks - {" ", "_"}) >= FEWEST_MARKS and words >= WORDS_OF_PROSE * len(values)


def anything(values: Sequence[str]) -> str:
    """Return the class of all characters, or where words have no blanks, of all but these."""
    used = set("".join(values))
    if "\n" in used:
        return r"[\s\S]"
    return "." if any(map(str.isspace, used)) or not used else r"\S"


def class_of(values: Sequence[str], level: Level) -> str:
    """Return the class of characters that words are made of, no wider than they are many."""
    if is_anything(values, level):
        return anything(values)
    used = set("".join(values))
    marks = {each for each in used if not each.isalnum()}
    if len(used) == 1 and marks:
        return escaped(used.pop())
    others = members_of(marks)
    if not all(each.isascii() for each in used):
        made = r"^\W\d_" if not marks and all(map(str.isalpha, used)) else rf"\w{others}"
    elif level == "loose" and len(values) > 1 and used - marks:
        made = rf"\d{others}" if all(map(str.isdecimal, used - marks)) else rf"\w{others.replace('_', '')}"
    else:
        digits = ["".join(filter(str.isdecimal, each)) for each in values]
        made = "0-9" if any(digits) else ""
        if level == "tight" and digit_of([*filter(None, digits)] or ["0"]) != r"\d":
            made = digit_of([*filter(None, digits)]).strip("[]")
        for case in (str.isupper, str.islower):
            letters = set(filter(case, used))
            times = sum(each in letters for value in values for each in value) if level == "tight" else 0
            made += _hexadecimal(letters, used) or letters_of(letters, times)
        if made == "0-9A-Za-z" and (not marks or "_" in marks):
            # Beside no other mark, what takes digits and letters of both cases takes _ too, more often than not.
            made, others = r"\w", others.replace("_", "")
        made += others
    if made in ("0-9", r"\d", r"\w", " "):
        return r"\d" if made == "0-9" else made
    return f"[{made}]"


def digit_of(values: Sequence[str]) -> str:
    """Return the class of digits: some of them, where it can hardly be by chance that many texts have those alone."""
    used = sorted(set("".join(values)))
    size = ord(used[-1]) - ord(used[0]) + 1
    single = max(map(len, values)) == 1
    few = size == len(used) < 10 and (single or len(set(values)) >= FEWEST_OF_SOME_DIGITS) and used[0] in "01"
    # Numbers of several digits without any 0 are that by chance, and so are those without a 9 or 8 that are of no base.
    few = few and (single or (used[0] == "0" and size in BASES))
    if not few or (size / 10) ** sum(map(len, values)) >= BY_CHANCE / 10:
        return r"\d"
    return f"[{ranges_of(used)}]"


def never_first(values: Sequence[str]) -> set[str]:
    """Return the kinds of characters that words never begin with, though they are frequent in the rest of them.

    That it is by chance must be less likely than `BY_CHANCE`, were each character drawn like those further on; of
    digits, with which names seldom begin, less than `DIGITS_BY_CHANCE`. Many words that begin otherwise than they go on
    begin with no other letters or digits than they show.
    """
    rest: Counter[str] = Counter()
    for character, count in Counter("".join([value[1:] for value in values])).items():
        rest[kind_of(character)] += count
    heads = {kind_of(value[0]) for value in values}
    found = {
        kind
        for kind, count in rest.items()
        if kind not in heads
        and (1 - count / rest.total()) ** len(values) < (DIGITS_BY_CHANCE if kind == "9" else BY_CHANCE)
    }
    return found | ({*"Aa9"} - heads) if found and len(values) >= FEWEST_HEADS else found


def kind_of(character: str) -> str:
    """Return `A`, `a` or `9` for letters and digits, any other character itself."""
    if character.isalpha():
        return "A" if character.isupper() else "a"
    return "9" if character.isdecimal() else character


def _are_listed(marks: set[str], values: Sequence[str], level: Level) -> bool:
    """Tell whether these marks are likely all that there are.

    How likely a new one is, the share tells of those that were seen but once (Good 1953).
    """
    if len(marks) == 1:
        return True
    times = Counter(each for value in values for each in set(value) & marks)
    once = sum(count == 1 for count in times.values())
    return once <= NEW_MARK[level] * times.total()


def _hexadecimal(letters: set[str], used: set[str]) -> str:
    """Return A-F where digits stand with several letters of numbers of base 16, and no others; else nothing."""
    every = {each.lower() for each in used if each.isalpha()}
    if (
        not any(map(str.isdecimal, used))
        or len(every) < FEWEST_HEXADECIMAL
        or not every <= set("abcdef")
        or not letters
    ):
        return ""
    return "A-F" if min(letters).isupper() else "a-f"


LONG_BASE_16 = 12
"""Digits from which on what has as many as others, which are of base 16, is so too, whatever digits it has."""

_OF_BASE_16 = compiled_later(r"[0-9a-f]+")


def are_of_base_16(different: Collection[str]) -> bool:
    """Tell whether all are numbers of base 16 of as many digits: these begin with zeros, if with anything alike."""
    size = len(min(different, key=len))
    letters = sum(not each.isdecimal() for each in different)
    return (
        size >= LONG_BASE_16
        and letters * 2 > len(different)
        and all(len(each) == size and _OF_BASE_16.fullmatch(each) for each in different)
    )


def cases_of_base_16(digits: str) -> str:
    """Return the letters that digits of base 16 may be, in the cases that some show; nothing where all are decimal."""
    return "A-F" * any(map(str.isupper, digits)) + "a-f" * any(map(str.islower, digits))


def hexadecimal_in(words: Sequence[str]) -> str:
    """Return A-F or a-f where words are numbers of base 16 together, though one by one they may not tell."""
    joined = "".join(words)
    if not joined.isalnum() or not (joined.isupper() or joined.islower()):
        return ""
    used = set(joined)
    return _hexadecimal({*filter(str.isalpha, used)}, used)


def letters_of(used: set[str], count: int = 0) -> str:
    """Return letters of one case as the inside of a class: all of them, or where many texts have a few alone, those."""
    if not used:
        return ""
    ordered = sorted(used)
    if len(used) == 1 and count >= 4:
        return ordered[0]
    size = ord(ordered[-1]) - ord(ordered[0]) + 1
    if len(used) <= 4 and count >= 4 * len(used) + 4:
        return ranges_of(ordered)
    if 1 < size <= 10 and 3 * len(used) >= 2 * size and count >= max(2 * size, FEW):
        return ranges_of([chr(each) for each in range(ord(ordered[0]), ord(ordered[-1]) + 1)])
    return "A-Z" if ordered[0].isupper() else "a-z"


def ranges_of(characters: Sequence[str]) -> str:
    """Spell some characters, those that follow one another as a range."""
    if len(characters) > 2 and ord(characters[-1]) - ord(characters[0]) == len(characters) - 1:
        return f"{characters[0]}-{characters[-1]}"
    return "".join(characters)
