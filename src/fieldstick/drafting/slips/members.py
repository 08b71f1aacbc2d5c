"""Members of a class that were not meant: a bar, a range that takes more than it seems, what no text needs."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.context import class_spelling, takes
from fieldstick.drafting.phrases import character_words
from fieldstick.syntax.tree import Character, CharClass, Range, Repeat, Shorthand, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext, Took


WHOLE_CASES = (("a", "z"), ("A", "Z"), ("0", "9"))
"""Ranges of all letters of a case, or of all digits, which nobody began too early or ended too late."""

FEWEST_DIGITS = 4
"""Texts from which on it is no chance that they have the ends of a range of digits alone."""


def fewer_members(context: RepairContext, node: CharClass, took: Took | None) -> Iterator[Proposal]:
    """Change what a class takes, whether it is known what it took or not."""
    yield from _unseen_ranges(context, node)
    if node.negated:
        yield from _more_shut_out(context, node, took)
        return
    yield from _without_bars(context, node)
    yield from _word_meant(context, node)
    if took is not None:
        yield from _needless(context, node, took)
        yield from _needed_alone(context, node, took)
        yield from _ends_alone(context, node, took)


def _ends_alone(context: RepairContext, node: CharClass, took: Took) -> Iterator[Proposal]:
    """`[N-S]` for `[NS]`: all that should fit has one of the ends of a range."""
    for item in node.items:
        if not isinstance(item, Range):
            continue
        ends = {item.first.character, item.last.character}
        if {*"".join(took.others)} == ends and not {*took.own} & ends:
            chance = item.first.character.isdigit() and len(took.others) < FEWEST_DIGITS
            new = f"{spelled(item.first)}{spelled(item.last)}"
            words = f"{spelled(item)} takes what lies between, too, and the texts that should fit have its ends: {new}"
            yield context.splice(item.span, new, words, 1.4 if chance else 0.85)


def _unseen_ranges(context: RepairContext, node: CharClass) -> Iterator[Proposal]:
    """Ranges that take more than it seems: `[A-z]`, `[+-/]`, `[À-ÿ]`."""
    for item in node.items:
        if not isinstance(item, Range):
            continue
        low, high = item.first.character, item.last.character
        if low.isupper() and high.islower() and low.isascii() and high.isascii():
            others = {spelled(each) for each in node.items}
            new = "".join(each for each in (f"{low}-Z", f"a-{high}") if each not in others)
            instead = f": {new}" if new else ", and what else it takes is there beside it"
            yield context.splice(item.span, new, f"{spelled(item)} takes in [\\]^_` as well{instead}", 0.8)
        elif not (low.isalnum() and high.isalnum()):
            new = f"{spelled(item.first)}\\-{spelled(item.last)}"
            yield context.splice(item.span, new, f"{spelled(item)} is a range; the hyphen itself is \\-: {new}", 0.8)
            new = f"{spelled(item.first)}{spelled(item.last)}"
            words = f"{spelled(item)} is a range, and takes more than its ends: {new}"
            yield context.splice(item.span, new, words, 1.0)
        elif low <= "×" <= high and low <= "÷" <= high:
            new = f"{low}-ÖØ-öø-{high}"
            yield context.splice(item.span, new, f"{spelled(item)} takes in × and ÷ as well: {new}", 0.8)


def _more_shut_out(context: RepairContext, node: CharClass, took: Took | None) -> Iterator[Proposal]:
    """A class that shuts out too little, or what it should take."""
    if took is None:
        return
    bare = f"[{spelled(node)[2:-1]}]"
    if took.others and all(map(takes(bare, context.parsed.flags - {"verbose"}), "".join(took.others))):
        yield context.splice(node.span, bare, f"{spelled(node)} is meant the other way round: {bare}", 0.9)
    marks = [each for each in dict.fromkeys(took.own) if not each.isalnum()]
    if any(map(str.isspace, took.own)):
        new = f"{spelled(node)[:-1]}\\s]"
        yield context.splice(node.span, new, f"{spelled(node)} takes white space too: {new}", 1.08)
    for mark in marks:
        new = f"{spelled(node)[:-1]}{class_spelling(mark)}]"
        yield context.splice(node.span, new, f"{spelled(node)} takes {character_words(mark)} too: {new}", 1.05)
    if len(marks) > 1:
        extra = "".join(map(class_spelling, marks))
        new = f"{spelled(node)[:-1]}{extra}]"
        yield context.splice(node.span, new, f"{spelled(node)} takes {extra} too: {new}", 1.2)


def _word_meant(context: RepairContext, node: CharClass) -> Iterator[Proposal]:
    """`[open]+` for the word that all texts which should fit have."""
    word, around, fitting = spelled(node)[1:-1], context.facts.parents.get(node), context.beside.fitting
    if len(word) > 2 and word.isalpha() and fitting and all(word in each for each in fitting):
        span = around.span if isinstance(around, Repeat) else node.span
        yield context.splice(span, word, f"{context.case.expression[slice(*span)]} is meant as the word {word}", 0.65)


def _without_bars(context: RepairContext, node: CharClass) -> Iterator[Proposal]:
    """A bar in a class, which is a member there, or the whole was meant as options."""
    kept = [item for item in node.items if not (isinstance(item, Character) and item.character == "|")]
    if not 0 < len(kept) < len(node.items):
        return
    new = f"[{''.join(map(spelled, kept))}]"
    yield context.splice(node.span, new, f"a class needs no | between its members: {new}", 0.7)
    inner, around = spelled(node)[1:-1], context.facts.parents.get(node)
    if len(inner) > 2:
        if isinstance(around, Repeat) and all(len(each) > 1 and each.isalnum() for each in inner.split("|")):
            words = f"{spelled(around)} is meant as alternatives: (?:{inner})"
            yield context.splice(around.span, f"(?:{inner})", words, 0.65)
        words = f"{spelled(node)} is meant as alternatives: (?:{inner})"
        yield context.splice(node.span, f"(?:{inner})", words, 0.75)


def _needless(context: RepairContext, node: CharClass, took: Took) -> Iterator[Proposal]:
    """Members that took what no text which should fit has, and the ends of ranges that did."""
    for item in node.items:
        if isinstance(item, Range):
            yield from _shorter_range(context, item, took)
        white = {each for each in "".join(took.others) if each.isspace()}
        if isinstance(item, Shorthand) and item.spelling == r"\s" and white == {" "}:
            yield context.splice(item.span, " ", f"{spelled(node)} takes other white space than blanks too", 0.95)
        if len(node.items) > 1 and isinstance(item, Character | Range | Shorthand):
            alone = takes(f"[{spelled(item)}]", context.parsed.flags - {"verbose"})
            if any(map(alone, took.own)) and not any(map(alone, "".join(took.others))):
                new = f"[{''.join(spelled(each) for each in node.items if each is not item)}]"
                words = f"{spelled(node)} takes {spelled(item)} too: {new}"
                yield context.splice(node.span, new, words, 1.0 if took.others else 1.2)


def _needed_alone(context: RepairContext, node: CharClass, took: Took) -> Iterator[Proposal]:
    """`[NS]` for `[NSEW]`: of characters that are listed, those that the texts which should fit have."""
    listed = [each for each in node.items if isinstance(each, Character)]
    used = {*"".join(took.others)}
    kept = [each for each in listed if each.character in used]
    several = len(listed) == len(node.items) and 1 < len(kept) < len(listed) - 1
    if several and used <= {each.character for each in listed} and not used & {*took.own}:
        new = f"[{''.join(map(spelled, kept))}]"
        yield context.splice(node.span, new, f"the texts that should fit have these alone there: {new}", 1.05)


def _shorter_range(context: RepairContext, item: Range, took: Took) -> Iterator[Proposal]:
    """A range that goes on for one character too many, or begins one too early."""
    low, high, used = item.first.character, item.last.character, "".join(took.others)
    before, after = chr(ord(high) - 1), chr(ord(low) + 1)
    for odd, nearest, new in ((high, before, f"{low}-{before}"), (low, after, f"{after}-{high}")):
        if odd in took.own and odd not in used and ord(high) - ord(low) > 1:
            # That it is one too many is likely where the next one comes.
            likely = 0.95 if nearest in used else 1.4 + 0.3 * ((low, high) in WHOLE_CASES)
            yield context.splice(item.span, new, f"{spelled(item)} takes {character_words(odd)} too: {new}", likely)
