"""Hazards of flags: those that change nothing, and what they turn into nothing."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.building import program_of
from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.hazards.suspect import Suspect, edited
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import FLAG_NAMES, parse
from fieldstick.syntax.tree import (
    Anchor,
    Aside,
    Backreference,
    Character,
    CharClass,
    Dot,
    FlagSetting,
    Group,
    Range,
    Sequence,
    Shorthand,
    once,
    spelled,
    walk,
)

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Node, Span


def _has_case(node: Node) -> bool:
    if isinstance(node, Character):
        return node.character.lower() != node.character.upper()
    return isinstance(node, Range | Backreference) or (isinstance(node, CharClass) and node.negated)


_MATTERS: dict[str, Callable[[Node], bool]] = {
    "i": _has_case,
    "s": lambda node: isinstance(node, Dot),
    "m": lambda node: isinstance(node, Anchor) and node.name in ("line-start", "line-end"),
    "a": lambda node: isinstance(node, Shorthand) or (isinstance(node, Anchor) and "boundary" in node.name),
}
"""What a flag makes a difference to, by its letter; ascii also limits how case is folded."""

_ASKS = {"i": "no letter", "s": "no dot", "m": "no ^ or $", "a": r"no \w, \d, \s or \b"}


def without_each_flag(parsed: Parsed, node: Node) -> Iterator[tuple[str, Span, str]]:
    """Yield each letter of `(?i)` or `(?i:...)` that may change what is asked for, where the flags stand, and the
    expression without it.
    """
    if isinstance(node, FlagSetting):
        letters, spelling = node.flags, node.spelling
    elif isinstance(node, Group) and node.kind == "flags":
        letters, spelling = node.on, node.opening
    else:
        return
    span = (node.span[0], node.span[0] + len(spelling))
    for letter in letters:
        if letter in _MATTERS:
            shorter = spelling.replace(letter, "", 1)
            yield letter, span, edited(parsed, (span, "" if shorter == "(?)" else shorter))


def idle_flag(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`(?i)\\d+`, `(?s)a+`: a flag that changes nothing here; something else was meant, or is missing.

    Where nothing stands that it could change, that is said; else it is proven: with the flag and without it, the
    expression is one and the same automaton, as `(?i)[^\\W]`.
    """
    for node in facts_of(parsed).nodes:
        if isinstance(node, Group) and node.off:
            continue
        body = node.body if isinstance(node, Group) else parsed.tree
        for letter, span, changed in without_each_flag(parsed, node):
            asked = any(map(_MATTERS[letter], walk(body))) or (letter == "a" and "i" in parsed.expression[slice(*span)])
            if not asked:
                nothing = f": there is {_ASKS[letter]} that it could change"
            elif means_the_same(parsed, changed, parsed.flags - {FLAG_NAMES[letter]}, reach):
                nothing = " that this asks for"
            else:
                continue
            reason = f"the flag {FLAG_NAMES[letter]} changes nothing{nothing}"
            yield Suspect("idle-flag", span, reason, "leave it out, or write what was meant", changed, claim="same")


def means_the_same(parsed: Parsed, expression: str, flags: frozenset[str], reach: Reach) -> bool:
    """Tell whether an expression with other flags is the same automaton, state by state, groups too."""
    try:
        one, other = program_of(parsed, reach), program_of(parse(expression, flags), reach)
    except (OutOfReach, SyntaxFault):
        return False
    return (one.states, one.start, one.behind) == (other.states, other.start, other.behind)


def blank_ignored(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """Under verbose a blank between words and a # are nothing; on one line, both were meant."""
    if "verbose" not in parsed.flags or "\n" in parsed.expression:
        return
    for node in facts_of(parsed).nodes:
        items = node.items if isinstance(node, Sequence) else ()
        for before, aside, after in zip(items, items[1:], (*items[2:], None), strict=False):
            if not isinstance(aside, Aside):
                continue
            if aside.kind == "comment" and aside.spelling.startswith("#"):
                reason = "under the flag verbose, # begins a comment up to the end of the line"
                changed = edited(parsed, (aside.span, "\\" + aside.spelling.replace(" ", r"\ ")))
                yield Suspect("blank-ignored", aside.span, reason, "write \\# for the character", changed)
            elif aside.kind == "blank" and aside.spelling == " " and _is_word(before) and _is_word(after):
                reason = "under the flag verbose, a blank asks for nothing"
                changed = edited(parsed, (aside.span, r"\ "))
                yield Suspect("blank-ignored", aside.span, reason, "write \\  or [ ] for a blank", changed)
                return


def _is_word(node: Node | None) -> bool:
    return isinstance(node, Character) and node.character.isalpha() and len(spelled(node)) == 1


def digits_beyond_ascii(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`[A-F]\\d\\d`: beside letters of ASCII alone, `\\d` takes the digits of every script."""
    if "ascii" in parsed.flags or not parsed.expression.isascii():
        return
    for node in facts_of(parsed).nodes:
        items = node.items if isinstance(node, Sequence) else ()
        for before, after in pairwise(items):
            letters, digit = once(before), once(after)
            if not (isinstance(letters, CharClass) and _is_letters(letters)):
                continue
            if isinstance(digit, Shorthand) and spelled(digit) == r"\d":
                reason = "beside letters of ASCII alone, \\d takes the digits of every script"
                changed = edited(parsed, (digit.span, "[0-9]"))
                forced = ((digit, ("٣",)),)
                remedy = "write [0-9], or add the flag ascii"
                yield Suspect("digit-beyond-ascii", digit.span, reason, remedy, changed, (), forced)
                return


def _is_letters(node: CharClass) -> bool:
    return not node.negated and all(
        isinstance(item, Range) and item.first.character.isalpha() and item.last.character.isalpha()
        for item in node.items
    )
