"""Which characters an engine's classes take, and what it lets case stand for: recorded by asking every engine.

`tools/record_meanings.py` records, in `meanings.json`, how each differs from Python's engine. Of characters that the
Unicode of Python does not know yet nothing is said: engines follow other editions.
"""

from __future__ import annotations

import json
import re
import unicodedata
from functools import cache, lru_cache
from importlib.resources import files
from itertools import groupby
from typing import TYPE_CHECKING, Any

from fieldstick.analysis.character_sets import cased_characters, cased_forms, kind_of_character
from fieldstick.syntax.characters import CharacterSet

if TYPE_CHECKING:
    from collections.abc import Callable

    from fieldstick.syntax.characters import Interval

CATEGORIES = (
    "Nd", "L", "N", "Lu", "Ll", "Lt", "Lm", "Lo", "M", "Mn", "Mc", "Me", "Nl", "No", "P", "Pc", "Pd", "Ps", "Pe", "Pi",
    "Pf", "Po", "S", "Sm", "Sc", "Sk", "So", "Z", "Zs", "Zl", "Zp", "Cc", "Cf", "Co",
)  # fmt: skip
"""The general categories of Unicode, and the letters that stand for several, but for what is not assigned."""

LONG_NAMES = {
    "Decimal_Number": "Nd", "Letter": "L", "Number": "N", "Uppercase_Letter": "Lu", "Lowercase_Letter": "Ll",
    "Titlecase_Letter": "Lt", "Modifier_Letter": "Lm", "Other_Letter": "Lo", "Mark": "M", "Combining_Mark": "M",
    "Nonspacing_Mark": "Mn", "Spacing_Mark": "Mc", "Enclosing_Mark": "Me", "Letter_Number": "Nl", "Other_Number": "No",
    "Punctuation": "P", "Connector_Punctuation": "Pc", "Dash_Punctuation": "Pd", "Open_Punctuation": "Ps",
    "Close_Punctuation": "Pe", "Initial_Punctuation": "Pi", "Final_Punctuation": "Pf", "Other_Punctuation": "Po",
    "Symbol": "S", "Math_Symbol": "Sm", "Currency_Symbol": "Sc", "Modifier_Symbol": "Sk", "Other_Symbol": "So",
    "Separator": "Z", "Space_Separator": "Zs", "Line_Separator": "Zl", "Paragraph_Separator": "Zp", "Control": "Cc",
    "Format": "Cf", "Private_Use": "Co",
}  # fmt: skip
"""The long names of general categories (Unicode's PropertyValueAliases.txt)."""

CASED = ("Lu", "Ll", "Lt")
"""Categories of letters of one case, of which engines make different things when case is let go."""

POSIX = {
    "alpha": "A-Za-z", "digit": "0-9", "alnum": "0-9A-Za-z", "upper": "A-Z", "lower": "a-z", "xdigit": "0-9A-Fa-f",
    "word": "0-9A-Za-z_", "space": "\t-\r ", "blank": "\t ", "punct": "!-/:-@[-`{-~", "cntrl": "\0-\x1f\x7f",
    "graph": "!-~", "print": " -~", "ascii": "\0-\x7f",
}  # fmt: skip
"""The characters of ASCII that a POSIX class takes (POSIX.1-2017, 7.3.1, in the locale C), as runs."""

_BEYOND_ASCII = {
    "alpha": ("L",), "digit": ("Nd",), "alnum": ("L", "Nd"), "upper": ("Lu",), "lower": ("Ll",), "punct": ("P",),
    "cntrl": ("Cc",),
}  # fmt: skip
"""The categories of Unicode that come near to a POSIX class."""

SPELLINGS = {
    "digit": r"\d",
    "word": r"\w",
    "space": r"\s",
    "dot": ".",
    "boundary": r"\b[^\n]",
    "Cn": r"\p{Cn}",
    **{each: f"\\p{{{each}}}" for each in CATEGORIES},
    **{f"posix {each}": f"[[:{each}:]]" for each in POSIX},
}
"""What is asked of an engine: a class, the characters that a boundary stands beside, properties of Unicode."""

KINDS = tuple(SPELLINGS)
FOLD = "fold"

_PLANES = ((0, 0xD7FF), (0xE000, 0x3FFFF), (0xE0000, 0xE0FFF))
"""Where characters lie that a class may take; no half of a surrogate pair."""

_LINE_FEED = CharacterSet.of_text("\n")


@cache
def _categories() -> dict[str, list[Interval]]:
    """Return the runs of characters of each general category of Unicode, by its short name."""
    found: dict[str, list[Interval]] = {}
    for first, last in _PLANES:
        start = first
        for category, run in groupby(map(unicodedata.category, map(chr, range(first, last + 1)))):
            end = start + sum(1 for _ in run)
            found.setdefault(category, []).append((start, end - 1))
            start = end
    return found


@cache
def known_characters() -> CharacterSet:
    """Return the characters that Python's edition of Unicode knows."""
    return CharacterSet.of(run for category, runs in _categories().items() if category != "Cn" for run in runs)


@cache
def of_category(prefix: str) -> CharacterSet:
    """Return the known characters of a general category, by its short name or the first letter of it."""
    return CharacterSet.of(run for name, runs in _categories().items() if name.startswith(prefix) for run in runs)


def _python(kind: str, *, ascii_alone: bool) -> CharacterSet:
    if kind.startswith("posix "):
        return posix_class(kind.removeprefix("posix "), ascii_alone=ascii_alone)
    if kind == "dot":
        return ~_LINE_FEED
    if kind in ("digit", "word", "space", "boundary"):
        return kind_of_character("word" if kind == "boundary" else kind, ascii_alone=ascii_alone)
    return of_category(kind) if kind != "Cn" else CharacterSet()


@cache
def posix_class(name: str, *, ascii_alone: bool) -> CharacterSet:
    """Return the characters of a POSIX class, of ASCII alone, or of all of Unicode that comes near to it."""
    if ascii_alone or name not in (*_BEYOND_ASCII, "space", "word"):
        return _runs(POSIX[name])
    if name in ("space", "word"):
        return kind_of_character(name, ascii_alone=False)
    return CharacterSet.of(run for each in _BEYOND_ASCII[name] for run in of_category(each).intervals)


def _runs(written: str) -> CharacterSet:
    """Return the characters of runs like `a-z`, each of three characters or one."""
    found, at = [], 0
    while at < len(written):
        size = 3 if written[at + 1 : at + 2] == "-" and at + 2 < len(written) else 1
        found.append((ord(written[at]), ord(written[at + size - 1])))
        at += size
    return CharacterSet.of(found)


NEAREST: dict[str, Callable[[str], CharacterSet]] = {
    "unicode": lambda kind: _python(kind, ascii_alone=False),
    "ascii": lambda kind: _python(kind, ascii_alone=True),
}
"""The sets of Python that those of an engine are held against."""


def written_set(characters: CharacterSet) -> str:
    """Write a set as hexadecimal runs."""
    return ",".join(f"{first:x}" if first == last else f"{first:x}-{last:x}" for first, last in characters.intervals)


def _read_set(written: str) -> CharacterSet:
    runs = [each.partition("-") for each in written.split(",") if each]
    return CharacterSet.of((int(first, 16), int(last or first, 16)) for first, _, last in runs)


@cache
def _recorded() -> dict[str, Any]:
    data: dict[str, Any] = json.loads(files("fieldstick.analysis").joinpath("meanings.json").read_text("utf-8"))
    return data


@cache
def class_of(engine: str, kind: str) -> CharacterSet | None:
    """Return the characters that a class of an engine takes, of those that are known; None where it has none such."""
    if engine == "python":
        return (
            None
            if kind == "Cn" or kind in CATEGORIES or kind.startswith("posix ")
            else _python(kind, ascii_alone=False) & known_characters()
        )
    if engine == "rfc9485":
        # No engine is asked: the standard says it.
        if kind == "dot":
            return ~CharacterSet.of_text("\n\r") & known_characters()
        return of_category(kind) if kind in CATEGORIES else None
    found = _recorded().get(engine, {}).get(kind)
    if found is None:
        return None
    base = NEAREST[found["base"]](kind) & known_characters()
    return (base - _read_set(found["minus"])) | _read_set(found["plus"])


@cache
def known_to(engine: str) -> CharacterSet:
    """Return the characters that both Python's edition of Unicode and that of an engine know."""
    unknown = None if engine == "python" else class_of(engine, "Cn")
    return known_characters() if unknown is None else known_characters() - unknown


@cache
def folded(engine: str, character: str) -> CharacterSet | None:
    """Return the characters that one stands for under ignore-case; None where the engine knows no such flag."""
    recorded = {} if engine == "python" else _recorded().get(engine, {}).get(FOLD)
    if recorded is None:
        return None
    if character in recorded:
        return CharacterSet.of_text(recorded[character])
    return CharacterSet.of_text(_folded_here(character))


def _folded_here(character: str) -> str:
    """Return what Python's engine lets a character stand for: asked of those alone that share a form with it."""
    fits = re.compile(re.escape(character), re.IGNORECASE).fullmatch
    return "".join([each for each in _relatives().get(character, character) if fits(each)])


@cache
def _relatives() -> dict[str, str]:
    """Return for each character that has case all that share a form with it, be it through others."""
    group_of: dict[str, set[str]] = {}
    for character in cased_characters():
        group = {character}
        for form in cased_forms(character):
            group |= group_of.get(form, {form})
            if len(form) == 2 and unicodedata.combining(form[1]):
                # A letter that another case has with a mark of its own.
                group |= group_of.get(form[0], {form[0]})
        for each in group:
            group_of[each] = group
    return {each: "".join(sorted(other for other in group if len(other) == 1)) for each, group in group_of.items()}


@lru_cache(maxsize=4096)
def folds_alike(engine: str, characters: CharacterSet) -> CharacterSet | None:
    """Return all that a set of characters stands for under ignore-case; None where the engine knows no such flag."""
    there = [folded(engine, each) for each in cased_characters() if each in characters]
    if None in there:
        return None
    return CharacterSet.of(pair for each in (characters, *there) if each is not None for pair in each.intervals)
