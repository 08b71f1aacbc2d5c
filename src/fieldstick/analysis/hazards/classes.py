"""Hazards in character classes: what looks like more, or less, than one character out of those listed."""

from __future__ import annotations

import re
from bisect import bisect_left, insort
from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.analysis.digits import numbers_meant
from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.hazards.suspect import Suspect, edited
from fieldstick.engines.probing import character_test
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import Character, CharClass, Range, Repeat, Shorthand, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import ClassItem, Node

MOST_RANGES = 50
"""Ranges and shorthands of a class that a character is held against: nobody writes more by hand."""


def _classes(parsed: Parsed) -> Iterator[CharClass]:
    return (node for node in facts_of(parsed).nodes if isinstance(node, CharClass))


def kind_of(item: Character) -> str:
    """Tell whether a character is a digit, a capital, a small letter, or a mark."""
    if not item.character.isalnum():
        return "mark"
    return "digit" if item.character.isdigit() else "capital" if item.character.isupper() else "small"


def wide_range(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[A-z]` and `[+-/]`: a range that takes in marks between its ends."""
    for each in _classes(parsed):
        for item in each.items:
            if not isinstance(item, Range) or len(item.first.spelling) + len(item.last.spelling) != 2:
                continue
            first, last = item.first.character, item.last.character
            if not (first.isascii() and last.isascii() and first > " "):
                continue
            between = [chr(code) for code in range(ord(first) + 1, ord(last))]
            kinds = {kind_of(item.first), kind_of(item.last)}
            extra = "".join(each for each in between if not each.isalnum())
            if len(kinds) == 2 and "mark" not in kinds and extra:
                named = "0-9A-Za-z" if "digit" in kinds else "A-Za-z"
                reason, remedy = f"{spelled(item)} takes in {extra} as well", f"name each kind: {named}"
                changed = edited(parsed, (item.span, named))
                yield Suspect("wide-range", item.span, reason, remedy, changed, forced=((each, tuple(extra)),))
            elif kinds == {"mark"} and 0 < len(between) <= 8 and "-" in between:
                reason = f"{spelled(item)} is a range, and takes in {''.join(between)} as well"
                changed = edited(parsed, (item.span, f"{first}{last}\\-"))
                others = tuple(each for each in between if each != "-")
                remedy = "escape the hyphen, or put it last"
                yield Suspect("wide-range", item.span, reason, remedy, changed, forced=((each, others),))


def bar_in_class(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[in|out]`: in a class a bar is a character like any other."""
    for each in _classes(parsed):
        items = each.items
        bars = [item for item in items if isinstance(item, Character) and item.spelling == "|"]
        inner = [item for item in items[1:-1] if item in bars]
        beside = [(items[at - 1], items[at + 1]) for at, item in enumerate(items) if item in inner]
        if not inner or not any(_is_word(one) and _is_word(other) for one, other in beside):
            continue
        reason = "inside [...] a | is itself, not an alternative"
        words = "".join(item.character if isinstance(item, Character) else "[" for item in items).split("|")
        if not each.negated and all(word.isalpha() for word in words) and max(map(len, words)) > 1:
            new = f"(?:{'|'.join(words)})"
            changed, remedy = edited(parsed, (each.span, new)), f"write {new} for alternatives"
        else:
            changed, remedy = edited(parsed, *((bar.span, "") for bar in bars)), "leave the | out"
        yield Suspect("bar-in-class", inner[0].span, reason, remedy, changed, forced=((each, ("|", "x")),))


def _is_word(item: ClassItem) -> bool:
    return not isinstance(item, Character) or item.character.isalnum()


_POSIX = {
    "alpha": "A-Za-z", "digit": "0-9", "alnum": "0-9A-Za-z", "upper": "A-Z", "lower": "a-z", "space": r"\s",
    "word": r"\w", "xdigit": "0-9A-Fa-f", "blank": r" \t", "punct": r"!-/:-@\[-`{-~",
}  # fmt: skip
_POSIX_CLASS = compiled_later(r"\[(\^?)((?:\[:[a-z]+:\])+)\]")
_SUBTRACTION = compiled_later(r"\[([^\[\]]+)(?:&&\[\^|--\[)([^\[\]]+)\]\]")
_MARKED = compiled_later(r"\[:\^?[a-z]+:|&&\[|--\[")


def other_notation(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[[:alpha:]]`, `[a-z&&[^b]]`: other engines read more into a class, which here ends at its first bracket."""
    for each in _classes(parsed):
        marked = _MARKED.search(spelled(each))
        if marked is None:
            continue
        start = each.span[0]
        named = _POSIX_CLASS.match(parsed.expression, start)
        found = named or _SUBTRACTION.match(parsed.expression, start)
        if found is None:
            continue
        if named is not None:
            names = re.findall("[a-z]+", found[2])
            if any(name not in _POSIX for name in names):
                continue
            new, texts = f"[{found[1]}{''.join(_POSIX[name] for name in names)}]", ("b", "7", "B", "%")
        else:
            new, texts = f"(?![{found[2]}])[{found[1]}]", ("b", "c", "7", "e")
        reason = f"{marked[0]} in a class is notation of other engines; here the class ends at its first ]"
        changed = edited(parsed, (found.span(), new))
        yield Suspect("other-notation", each.span, reason, f"write {new}", changed, texts, ((each, texts),))


_VOWELS = frozenset("aeiou")


def word_in_class(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[north]` is one character out of five, not the word."""
    repeated = {node.item for node in facts_of(parsed).nodes if isinstance(node, Repeat)}
    for each in _classes(parsed):
        if each in repeated or each.negated or not 4 <= len(each.items) <= 20:
            continue
        word = "".join(item.spelling if isinstance(item, Character) else "-" for item in each.items)
        if word.isascii() and word.islower() and word.isalpha() and _reads_as_word(word):
            reason = f"[{word}] is one character out of these, not the word {word}"
            changed = edited(parsed, (each.span, f"(?:{word})"))
            remedy = f"write (?:{word}) for the word"
            yield Suspect("word-in-class", each.span, reason, remedy, changed, forced=((each, (word,)),))


def _reads_as_word(word: str) -> bool:
    """Letters in the order of the alphabet are a list; a word has vowels and others, in turns or doubled."""
    vowels = sum(each in _VOWELS for each in word)
    if list(word) == sorted(word) or not 0 < vowels < len(word):
        return False
    turns = sum((one in _VOWELS) != (other in _VOWELS) for one, other in pairwise(word))
    doubled = any(one == other for one, other in pairwise(word))
    return doubled or (turns >= 2 and len(word) >= 5 and vowels * 2 <= len(word))


def number_in_class(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[1-12]`, `[0-255]`: a class takes one digit, and knows nothing of numbers."""
    for each in _classes(parsed):
        numbers = numbers_meant(spelled(each))
        if numbers is None:
            continue
        low, high, new = numbers
        taken = "".join(sorted({item for digit in "0123456789" for item in digit if re.match(spelled(each), digit)}))
        reason = f"{spelled(each)} is one digit out of {taken}, not a number from {low} to {high}"
        changed = edited(parsed, (each.span, new))
        remedy = f"write {new} for these numbers"
        yield Suspect("number-in-class", each.span, reason, remedy, changed, forced=((each, (high, "9")),))


def backspace(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[\\b]`: in a class it is the backspace character, not the edge of a word."""
    for each in _classes(parsed):
        for item in each.items:
            if isinstance(item, Character) and item.spelling == r"\b":
                alone = len(each.items) == 1 and not each.negated
                reason = r"in a class \b is the backspace character, not the edge of a word"
                changed = edited(parsed, (each.span if alone else item.span, r"\b" if alone else ""))
                remedy = r"write \b outside the class" if alone else "leave it out, and write \\b outside the class"
                yield Suspect("backspace", item.span, reason, remedy, changed, forced=((each, ("\b", "")),))


def twice_in_class(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[\\w_]`: what the class has already; it does no harm, and tells that something else was meant."""
    for each in _classes(parsed):
        found = doubled(each)
        if found is None:
            continue
        item, other, taken = found
        reason = f"{spelled(item)} is in the class already, by {spelled(other)}"
        if spelled(item) == spelled(other):
            reason = f"{spelled(item)} is in the class twice"
        changed = edited(parsed, (item.span, ""))
        words = "leave one of them out, or write what was meant"
        forced = () if each.negated else ((each, (taken,)),)
        yield Suspect("twice-in-class", item.span, reason, words, changed, forced=forced, claim="same")


def doubled(each: CharClass) -> tuple[Node, Node, str] | None:
    """Return the first item that another one of the class covers, that other, and a character that both take."""
    characters: dict[str, Character] = {}
    points: list[int] = []
    others: list[Range | Shorthand] = []
    for item in each.items:
        if isinstance(item, Character):
            if item.character in characters:
                return item, characters[item.character], item.character
            covering = next((other for other in others[:MOST_RANGES] if _takes(other, item.character)), None)
            if covering is not None:
                return item, covering, item.character
            characters[item.character] = item
            insort(points, ord(item.character))
        elif isinstance(item, Range | Shorthand):
            if isinstance(item, Range):
                at = bisect_left(points, ord(item.first.character))
                if at < len(points) and points[at] <= ord(item.last.character):
                    taken = chr(points[at])
                    return characters[taken], item, taken
            else:
                held = next((one for one in list(characters)[:MOST_RANGES] if _takes(item, one)), None)
                if held is not None:
                    return characters[held], item, held
            for other in others[:MOST_RANGES]:
                for outer, inner in ((other, item), (item, other)):
                    if _covers(outer, inner):
                        return inner, outer, inner.first.character if isinstance(inner, Range) else "7"
            others.append(item)
    return None


def _takes(item: Range | Shorthand, character: str) -> bool:
    if isinstance(item, Range):
        return item.first.character <= character <= item.last.character
    plain = not item.negated and item.name in ("digit", "word", "space")
    return plain and character_test(spelled(item), frozenset({"ascii"}))(character)


def _covers(one: Range | Shorthand, other: Range | Shorthand) -> bool:
    if isinstance(one, Range):
        inside = isinstance(other, Range) and one.first.character <= other.first.character
        return inside and isinstance(other, Range) and other.last.character <= one.last.character
    if isinstance(other, Shorthand):
        return spelled(one) == spelled(other) or (one.name, other.name, one.negated, other.negated) == (
            "word", "digit", False, False,
        )  # fmt: skip
    ends = _takes(one, other.first.character) and _takes(one, other.last.character)
    return ends and kind_of(other.first) == kind_of(other.last)


def folded_letters(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[a-z]` under ignore-case takes letters beyond ASCII that fold to k, s and i."""
    if "ignore-case" not in parsed.flags or "ascii" in parsed.flags:
        return
    for each in _classes(parsed):
        if each.negated or not all(spelled(item).isascii() for item in each.items):
            continue
        for item in each.items:
            if not isinstance(item, Range) or kind_of(item.first) not in ("small", "capital"):
                continue
            test = character_test(f"[{spelled(item)}]", frozenset({"ignore-case"}))
            taken = "".join(one for one in "\u212a\u017f\u0130\u0131" if test(one))
            if taken:
                named = " and ".join(f"{one} (U+{ord(one):04X})" for one in taken)
                reason = f"with ignore-case, {spelled(item)} takes {named} too"
                ends = item.first.character.lower() + "-" + item.last.character.lower()
                both = spelled(each).replace(spelled(item), f"{ends}{ends.upper()}")
                changed = edited(parsed, (each.span, f"(?-i:{both})"))
                remedy = f"add the flag ascii, or write (?-i:{both})"
                yield Suspect("folded-letter", item.span, reason, remedy, changed, forced=((each, tuple(taken)),))
                return
