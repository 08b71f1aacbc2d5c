"""What an engine calls a set of characters: a shorthand, properties of Unicode, a run from one character to another."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from fieldstick.analysis.meanings import CATEGORIES, class_of, known_to
from fieldstick.analysis.rendering.dialects import literal
from fieldstick.syntax.characters import CharacterSet

if TYPE_CHECKING:
    from fieldstick.analysis.rendering.dialects import Dialect

_UNDERSCORE = CharacterSet.of_text("_")


def run_written(first: int, last: int, dialect: Dialect) -> str:
    """Write a run of characters as it stands in a class."""
    if chr(first) == "-" and last > first:
        return literal("-", dialect, in_class=True) + run_written(first + 1, last, dialect)
    if chr(last) == "-" and last > first:
        return run_written(first, last - 1, dialect) + literal("-", dialect, in_class=True)
    one = literal(chr(first), dialect, in_class=True)
    if last == first:
        return one
    other = literal(chr(last), dialect, in_class=True)
    return one + other if last == first + 1 else f"{one}-{other}"


def kind_of(engine: str, kind: str) -> CharacterSet | None:
    """Return what a class of an engine takes of the characters that it knows; None where it has none such."""
    found = class_of(engine, kind)
    return None if found is None else found & known_to(engine)


@cache
def sets_with_a_name(engine: str) -> dict[CharacterSet, str]:
    """Return the sets that an engine has a shorthand for."""
    known = known_to(engine)
    found: dict[CharacterSet, str] = {}
    for kind, letter in (("digit", "d"), ("word", "w"), ("space", "s")):
        taken = kind_of(engine, kind)
        if taken is not None:
            found[taken] = f"\\{letter}"
            if engine != "postgres":
                found[known - taken] = f"\\{letter.upper()}"
    for kind in CATEGORIES:
        taken = kind_of(engine, kind)
        if taken:
            found.setdefault(taken, f"\\p{{{kind}}}")
            found.setdefault(known - taken, f"\\P{{{kind}}}")
    return found


def shorthand_of(characters: CharacterSet, engine: str) -> str | None:
    """Return the shorthand of a set of several characters; None where the engine has none."""
    return sets_with_a_name(engine).get(characters & known_to(engine)) if len(characters) > 1 else None


def by_properties(characters: CharacterSet, engine: str) -> str | None:
    """Return letters, numbers and the underscore as properties, as they stand in a class; None for other sets."""
    return property_sets(engine).get(characters & known_to(engine))


@cache
def property_sets(engine: str) -> dict[CharacterSet, str]:
    """Return the sets that are made of letters, numbers and the underscore, and how each stands in a class."""
    letters, numbers, digits = (kind_of(engine, each) for each in ("L", "N", "Nd"))
    if letters is None and engine == "python":
        word, digit = kind_of(engine, "word"), kind_of(engine, "digit")
        assert word is not None and digit is not None
        others = known_to(engine) - word
        return {
            others | _UNDERSCORE: r"\W_",
            others | digit: r"\W\d",
            others | digit | _UNDERSCORE: r"\W\d_",
        }
    if letters is None or numbers is None or digits is None:
        return {}
    # Numbers are decimal digits, letters for numbers and others (Unicode, General_Category).
    found = {
        digits: r"\p{Nd}",
        letters: r"\p{L}",
        letters | numbers: r"\p{L}\p{N}",
        letters | (numbers - digits): r"\p{L}\p{Nl}\p{No}",
    }
    return found | {each | _UNDERSCORE: f"{spelled}_" for each, spelled in found.items()}
