"""Leaves nothing in a proposal that would be named as a hazard once it is kept."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.effort import Effort
from fieldstick.analysis.hazards.flags import digits_beyond_ascii
from fieldstick.analysis.hazards.suspect import edited
from fieldstick.analysis.relation import relation_of
from fieldstick.engines.probing import batch_of
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    Alternation,
    Character,
    CharClass,
    Dot,
    Group,
    Node,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    spelled,
    walk,
)

if TYPE_CHECKING:
    from collections.abc import Iterator
    from collections.abc import Sequence as Texts

    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span

MOST_OPTIONS, COMPARING = 12, 20_000
"""Options up to which it is asked whether one takes in another, and states that are gone through for that."""


def polished(expression: str) -> str:
    """Return an expression for what another takes, but for digits beyond ASCII behind letters that are all of it.

    `[A-F]\\d{2}-\\d` becomes `[A-F][0-9]{2}-[0-9]`. What may be parted in many ways is told in one: `\\w+\\d+` as
    `\\w+\\d`, `\\w+(?:[._]\\w+)*` as `\\w+(?:\\.\\w+)*`. An option that another one takes in is left out.
    """
    parsed = parse(_without_hidden(expression))
    made = edited(parsed, *_parted_in_one_way(parsed))
    while True:
        parsed = parse(made)
        suspect = next(digits_beyond_ascii(parsed, "whole"), None)
        if suspect is None:
            return made
        around = [node for node in _sequences(parsed) if node.span[0] <= suspect.span[0] < node.span[1]]
        home = min(around, key=lambda node: node.span[1] - node.span[0])
        made = edited(parsed, *((node.span, "[0-9]") for node in map(_repeated, home.items) if _is(node, r"\d")))


def without_idle(expression: str, texts: Texts[str]) -> str:
    """Leave out what may be absent, captures nothing of any of the texts, and without which as much is taken.

    `(?P<word>\\w+)(?:_(?P<number>\\d))?` becomes `(?P<word>\\w+)`: what could be a number is part of the word.
    """
    parsed = parse(expression)
    for node in parsed.tree.items if isinstance(parsed.tree, Sequence) else ():
        if not isinstance(node, Repeat) or node.least:
            continue
        named = [each for each in walk(node) if isinstance(each, Group) and each.name is not None]
        groups = [each.number for each in named if each.number is not None]
        if not groups or not _capture_nothing(expression, groups, texts):
            continue
        made = edited(parsed, (node.span, ""))
        if relation_of(Reading(made), Reading(expression), Effort(COMPARING)).relation == "same":
            return without_idle(made, texts)
    return expression


def _capture_nothing(expression: str, groups: Texts[int], texts: Texts[str]) -> bool:
    """Tell whether groups take part in the match of no text; that is not known where texts take long."""
    found = batch_of(expression, frozenset(), "whole", texts)
    return found is not None and all(places is None or places[group][0] < 0 for places in found for group in groups)


def _without_hidden(expression: str) -> str:
    """Leave options without fields out of which another option takes all texts: `\\w+|\\d+e\\d+`."""
    while True:
        parsed = parse(expression)
        for node in walk(parsed.tree):
            options = node.options if isinstance(node, Alternation) else ()
            left = [each for at, each in enumerate(options) if not _is_hidden(at, options)]
            if len(left) < len(options):
                expression = edited(parsed, (node.span, "|".join(map(spelled, left))))
                break
        else:
            return expression


def _is_hidden(at: int, options: tuple[Node, ...]) -> bool:
    """Tell whether one of several options has no field and takes nothing that another does not take."""
    own, text = spelled(options[at]), literal_of(options[at])
    if "(?P<" in own or not own or len(options) > MOST_OPTIONS:
        return False
    for number, other in enumerate(options):
        if number == at or None not in (text, literal_of(other)):
            continue
        if text is not None:
            hidden = re.fullmatch(spelled(other), text) is not None
        else:
            found = relation_of(Reading(own), Reading(spelled(other)), Effort(COMPARING)).relation
            hidden = found == "narrower" or (found == "same" and number < at)
        if hidden:
            return True
    return False


def _parted_in_one_way(parsed: Parsed) -> Iterator[tuple[Span, str]]:
    for node in _sequences(parsed):
        for one, other in pairwise(node.items):
            if _is_any_number(one, r"\w") and _is_any_number(other, r"\d"):
                yield other.span, r"\d"
            elif _is_any_number(one, r"\w") and isinstance(other, Repeat) and other.quantifier == "*":
                again = other.item.body if isinstance(other.item, Group) else other.item
                if isinstance(again, Sequence) and len(again.items) == 2 and _is_any_number(again.items[1], r"\w"):
                    yield from _without_underscore(_repeated(again.items[0]), other)
            elif _is_any_blank(one) and isinstance(other, Group) and other.name is not None:
                yield from _begun_apart(other.body)
            if isinstance(other, Repeat) and other.quantifier in ("?", "*") and _goes_on_with(one, other):
                yield other.span, ""


def _goes_on_with(before: Node, option: Repeat) -> bool:
    """Tell whether what may follow is part of what any number of characters before it take: `[\\w-]+(?:-a)?`."""
    kind = _any_at_end(before)
    if kind is None or any(isinstance(each, Group) and each.name is not None for each in walk(option)):
        return False
    asked = Reading(spelled(option)), Reading(f"{spelled(kind)}*")
    return relation_of(*asked, Effort(COMPARING)).relation in ("narrower", "same")


def _any_at_end(node: Node) -> Node | None:
    """Return the class of characters that a node ends with any number of; None where it does not end so."""
    if isinstance(node, Group):
        return _any_at_end(node.body)
    if isinstance(node, Sequence):
        return _any_at_end_of(node.items)
    if not isinstance(node, Repeat):
        return None
    if isinstance(node.item, (CharClass, Shorthand, Dot)):
        return node.item if node.most is None else None
    return _any_at_end(node.item) if node.least else None


def _any_at_end_of(items: tuple[Node, ...]) -> Node | None:
    *before, last = items
    if not isinstance(last, Repeat) or last.least or not before or not isinstance(last.item, Group):
        return _any_at_end(last)
    # What may be absent must end as what stands before it does.
    first, other = _any_at_end_of((*before,)), _any_at_end(last.item)
    return first if first is not None and other is not None and spelled(first) == spelled(other) else None


def _without_underscore(mark: Node, again: Repeat) -> Iterator[tuple[Span, str]]:
    """Yield what leaves `_` out of the marks between words that hold it."""
    if isinstance(mark, Character) and mark.character == "_":
        yield again.span, ""
    elif isinstance(mark, CharClass) and not mark.negated and "_" in spelled(mark):
        marks = spelled(mark).replace("_", "")
        yield mark.span, re.escape(marks[1]) if len(marks) == len("[.]") else marks


def _is_any_blank(node: Node) -> bool:
    """Tell whether a node is any number of blanks."""
    blank = _repeated(node)
    is_blank = (isinstance(blank, Character) and blank.character == " ") or _is(blank, r"\s")
    return isinstance(node, Repeat) and node.most is None and is_blank


def _begun_apart(value: Node) -> Iterator[tuple[Span, str]]:
    """Yield what lets a value begin with no blank: blanks before it then are no part of it."""
    if isinstance(value, Repeat) and value.quantifier in ("*", "+"):
        first = _but_blank(value.item)
        if first:
            made = f"{first}{spelled(value.item)}*"
            yield value.span, made if value.quantifier == "+" else f"(?:{made})?"


def _but_blank(node: Node) -> str:
    """Return what takes what a class does, but no blank; nothing for what takes none."""
    if isinstance(node, Dot):
        return r"\S"
    if not isinstance(node, CharClass):
        return ""
    written = spelled(node)
    blanks = [each for each in node.items if spelled(each) in (" ", r"\s")]
    if node.negated and not blanks:
        head = 3 if written.startswith("[^]") else 2
        others = "".join(spelled(each) for each in node.items if spelled(each) not in (r"\n", r"\t", r"\r"))
        others = others.removeprefix("]") if head > len("[^") else others
        return rf"{written[:head]}\s{others}]" if others or head > len("[^") else r"\S"
    if node.negated or not blanks or len(blanks) == len(node.items):
        return ""
    made = "".join(spelled(each) for each in node.items if each not in blanks)
    return made if made in (r"\w", r"\d") else f"[{made}]"


def _sequences(parsed: Parsed) -> Iterator[Sequence]:
    return (node for node in walk(parsed.tree) if isinstance(node, Sequence))


def _is_any_number(node: Node, shorthand: str) -> bool:
    return isinstance(node, Repeat) and node.quantifier == "+" and _is(node.item, shorthand)


def _is(node: Node, shorthand: str) -> bool:
    return isinstance(node, Shorthand) and spelled(node) == shorthand


def _repeated(node: Node) -> Node:
    return node.item if isinstance(node, Repeat) else node
