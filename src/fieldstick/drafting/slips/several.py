"""The same slip at several places: pieces that are written alike, and each of them amiss."""

from __future__ import annotations

import re
from collections import Counter
from functools import partial
from itertools import islice, pairwise
from typing import TYPE_CHECKING, TypeVar

from fieldstick.drafting.context import (
    class_spelling,
    class_with,
    escaped,
    escaped_text,
    quantifier,
    takes,
    written_alike,
)
from fieldstick.drafting.phrases import character_words
from fieldstick.drafting.slips.amounts import looser, repeats, shortening
from fieldstick.drafting.slips.numbers import DECIMALS
from fieldstick.drafting.slips.texts import look_alike
from fieldstick.engines.probing import fits
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import Character, CharClass, Group, Repeat, Shorthand, spelled

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.syntax.tree import Node

Piece = TypeVar("Piece", bound="Node")

MOST_WINDOWS = 10
"""Places in a row that are tried together."""

WHERE_NEEDED = 1.05
"""What it costs that a class is another at those of several places where the text needs it."""

MOST_TOGETHER = 12
"""Pieces that are spelled the same of which it is told which of them the text needs otherwise."""

MOST_MARKS = 4
"""Different marks of a text that are put in at several places."""

MOST_CLASSES = 4
"""Different classes that are all made several."""


def all_looser(context: RepairContext) -> Iterator[Proposal]:
    """The same piece several times, each of which may be lacking."""
    for spelling, nodes in written_alike(repeats(context, "+")):
        words = f"{spelling} may be lacking, each time: *"
        # Fields that take anything but what parts them may each be empty.
        cost = (0.95 if spelling.startswith("[^") else 1.1) + shortening(context)
        yield context.splice_all([(each.span, spelling[:-1] + "*") for each in nodes], words, cost)


def all_several(context: RepairContext) -> Iterator[Proposal]:
    """The same class several times for one character each, each of which may be several."""
    for spelling, nodes in written_alike(_single(context)):
        if not any(one.span[1] == other.span[0] for one, other in pairwise(nodes)):
            told = (f"{spelling} may be several, ", ": +")
            put = partial(_exchanged, context, every=len(nodes), new=spelling + "+", told=told)
            left = _needed(nodes, put)
            if 1 < len(left) < len(nodes):
                yield put(left)
            yield put(nodes, cost=1.18)


def _single(context: RepairContext) -> list[Shorthand | CharClass]:
    """Return the classes that are asked for once."""
    return [
        each
        for each in context.nodes
        if isinstance(each, Shorthand | CharClass)
        and not context.facts.is_repeated(each)
        and not context.facts.is_in_class(each)
    ]


def each_several(context: RepairContext) -> Iterator[Proposal]:
    """Different classes for one character each, each of which may be several."""
    single = _single(context)
    apart = not any(one.span[1] == other.span[0] for one, other in pairwise(single))
    if len({spelled(each) for each in single}) > 1 and len(single) <= MOST_CLASSES and apart:
        words = "each class takes one character alone: +, each time"
        yield context.splice_all([(each.span, spelled(each) + "+") for each in single], words, 1.25)


def all_bounds(context: RepairContext) -> Iterator[Proposal]:
    """The same number of times asked for at several places, and too tight at each."""
    counted = [each for each in context.nodes if isinstance(each, Repeat) and each.quantifier.startswith("{")]
    for _, nodes in written_alike(counted):
        if nodes[0].mode == "greedy":
            yield from _bounds_too_tight(context, nodes)
        sizes = range(2, len(nodes) + 1)
        windows = (nodes[at : at + size] for size in sizes for at in range(len(nodes) - size + 1))
        for some in islice(windows, MOST_WINDOWS) if nodes[0].mode == "greedy" else ():
            for least, most, cost in looser(nodes[0]):
                if least > 0:
                    new = quantifier(least, most)
                    yield _with_bounds(context, some, len(nodes), new, cost + 0.15 + 0.05 * (len(some) - 1))


def _times(some: Sequence[Node], every: int) -> str:
    """Say at how many of all places that are spelled the same something is amiss."""
    return "each time" if len(some) == every else f"at {len(some)} of {every} places"


def _with_bounds(context: RepairContext, some: Sequence[Repeat], every: int, new: str, cost: float) -> Proposal:
    """Propose other bounds for some of `every` pieces that are spelled the same."""
    places = [((each.span[1] - len(each.quantifier), each.span[1]), new) for each in some]
    return context.splice_all(places, f"{spelled(some[0])} is too tight, {_times(some, every)}: {new}", cost)


def _bounds_too_tight(context: RepairContext, nodes: Sequence[Repeat]) -> Iterator[Proposal]:
    """Yield looser bounds for those of several pieces that the text needs them for, wherever these stand."""
    for least, most, cost in looser(nodes[0]):
        if least > 0:
            new = quantifier(least, most)
            left = _needed(nodes, partial(_with_bounds, context, every=len(nodes), new=new, cost=cost))
            if len(left) > 1:
                yield _with_bounds(context, left, len(nodes), new, cost + 0.1 + 0.05 * (len(left) - 1))


def _needed(nodes: Sequence[Piece], changed: Callable[[Sequence[Piece]], Proposal]) -> Sequence[Piece]:
    """Return those of several pieces that must be changed for the text to fit; none where that is not enough."""
    left = [*nodes]
    if len(nodes) > MOST_TOGETHER or not _fits(changed(left)):
        return ()
    for each in nodes:
        fewer = [other for other in left if other is not each]
        if fewer and _fits(changed(fewer)):
            left = fewer
    return left


def _fits(proposal: Proposal) -> bool:
    case = proposal.case
    return fits(case.expression, case.flags, case.reach, case.text)


def all_lacking(context: RepairContext) -> Iterator[Proposal]:
    """A mark that is asked for at several places, and that the text has nowhere."""
    text = context.case.text
    marks = [
        each
        for each in context.nodes
        if isinstance(each, Character)
        and not each.character.isalnum()
        and each.character not in text + ".,"
        and not context.facts.is_in_class(each)
        and not context.facts.is_repeated(each)
    ]
    for spelling, nodes in written_alike(marks):
        if context.held:
            words = f"{character_words(nodes[0].character)} need not be there, each time: {spelling}?"
            yield context.splice_all([(each.span, spelling + "?") for each in nodes], words, 0.95)


def all_wider(context: RepairContext) -> Iterator[Proposal]:
    """The same class several times, each of which lacks a mark of the text."""
    text = context.case.text
    marks = [each for each in context.characters if not each.isalnum() and text.count(each) > 1][:MOST_MARKS]
    classes = [
        each
        for each in context.nodes
        if isinstance(each, Shorthand | CharClass) and not each.negated and context.facts.is_repeated(each)
    ]
    written = {each.character for each in context.nodes if isinstance(each, Character)}
    for spelling, nodes in written_alike(classes):
        known = takes(spelling, context.parsed.flags - {"verbose"})
        for mark in marks:
            if known(mark) or (mark in written and not mark.isspace()):
                continue
            new = class_with(spelling.removeprefix("[").removesuffix("]"), class_spelling(mark))
            told = (f"{spelling} lacks {character_words(mark)}, ", f": {new}")
            put = partial(_exchanged, context, every=len(nodes), new=new, told=told)
            left = _needed(nodes, put)
            if 1 < len(left) < len(nodes):
                yield put(left)
            if not mark.isspace():
                yield put(nodes, cost=1.1)


def _exchanged(
    context: RepairContext,
    some: Sequence[Node],
    *,
    every: int,
    new: str,
    told: tuple[str, str],
    cost: float = WHERE_NEEDED,
) -> Proposal:
    """Propose to put the same in the place of some of `every` pieces; `told` stands before and behind how many."""
    words = _times(some, every).join(told)
    return context.splice_all([(each.span, new) for each in some], words, cost)


def all_marked(context: RepairContext) -> Iterator[Proposal]:
    """The same piece several times, after each of which the text has a blank or a mark that is not asked for."""
    text = context.case.text
    marks = [each for each in context.characters if not each.isalnum() and text.count(each) > 1][:MOST_MARKS]
    pieces = [
        each
        for each in context.nodes
        if (isinstance(each, Group) and each.number is not None)
        or (isinstance(each, Repeat) and not isinstance(context.facts.parents.get(each), Group))
    ]
    for spelling, nodes in written_alike(pieces):
        behind = r"\d" if r"\d" in spelling or "0-9" in spelling else r"\w"
        for mark in marks:
            if len(re.findall(behind + re.escape(mark), text)) < len(nodes):
                continue
            if any(DECIMALS.match(context.case.expression, each.span[1]) for each in nodes):
                continue
            if mark.isspace() and all(context.case.expression[each.span[1] :][:1] == mark for each in nodes):
                # There is white space already, which varies.
                continue
            new = escaped(mark) + ("?" if context.held else "")
            words = f"{character_words(mark)} stands after it, each time: {new}"
            yield context.splice_all([((each.span[1], each.span[1]), new) for each in nodes], words, 0.95)


def all_look_alikes(context: RepairContext) -> Iterator[Proposal]:
    """Marks of which the text has look-alikes, not the same at each place: quotes that open and those that close."""
    text = context.case.text
    written = {each.character for each in context.nodes if isinstance(each, Character)}
    for mark in sorted(each for each in written if not each.isalnum()):
        nodes = [
            each
            for each in context.nodes
            if isinstance(each, Character) and each.character == mark and not context.facts.is_in_class(each)
        ]
        alike = {each for each in context.characters if each not in written and look_alike(each, mark)}
        found = [each for each in text if each == mark or each in alike] if alike else []
        if not 1 < len(found) == len(nodes):
            continue
        known = f"{character_words(mark)} and what the text has in its place look alike"
        instead = [escaped(each) for each in found]
        either = [
            new if each == mark else f"[{new}{class_spelling(mark)}]" for each, new in zip(found, instead, strict=True)
        ]
        for new, cost in ((either, 0.85), (instead, 0.95)):
            places = [(each.span, spelling) for each, spelling in zip(nodes, new, strict=True)]
            yield context.splice_all(places, f"{known}: {' and '.join(dict.fromkeys(new))}", cost)


_NOTHING = compiled_later(r"(?<![^\s,;|])(?:[-–?]|n/a|N/A|NA|NULL|null|None|none|nil)(?![^\s,;|])")
"""What a text may have where nothing is given."""


def all_or_nothing(context: RepairContext) -> Iterator[Proposal]:
    """The same group at several places, in some of which the text says that nothing is given."""
    said = Counter(_NOTHING.findall(context.case.text))
    groups = [each for each in context.nodes if isinstance(each, Group) and each.number is not None]
    for word in [word for word, count in said.most_common(MOST_MARKS) if count > 1]:
        for spelling, nodes in written_alike(groups):
            words = f"'{word}' may stand in the place of {spelling}"
            either = partial(_with_option, context, every=len(nodes), option=f"|{escaped_text(word)}", words=words)
            left = _needed(nodes, either)
            if len(left) > 1:
                yield either(nodes, cost=1.0)
                yield either(left)


def _with_option(
    context: RepairContext, some: Sequence[Group], *, every: int, option: str, words: str, cost: float = 0.9
) -> Proposal:
    """Propose one more option for some of `every` groups that are spelled the same."""
    places = [((each.body.span[1], each.body.span[1]), option) for each in some]
    return context.splice_all(places, f"{words}, {_times(some, every)}: {option}", cost)


_IN_QUOTES = compiled_later(r"(\\?([\"'`]))((?:\((?:\?P<\w+>|\?:)?)*)(\\w[+*])(\)*)(?=\1)")


def quoted(context: RepairContext) -> Iterator[Proposal]:
    """Words in quotes, one or several of them: what stands in quotes may be anything but one."""
    found = list(_IN_QUOTES.finditer(context.case.expression))
    if not found or len({each[2] for each in found}) > 1:
        return
    quote = found[0][2]
    for amount in "+*":
        # As many as were asked for before are the likeliest.
        cost = 0.1 * (amount != found[0][4][-1])
        new = f"[^{quote}]{amount}"
        words = f"what stands in quotes may be anything but {quote}"
        if len(found) > 1:
            yield context.splice_all([(each.span(4), new) for each in found], f"{words}, each time: {new}", 1.0 + cost)
        for each in found if 2 * quote not in context.case.text else ():
            near = context.near_span(each.span(4)) / 4
            yield context.splice(each.span(4), new, f"{words}: {new}", ALONE_IN_QUOTES + cost + near)


ALONE_IN_QUOTES = 0.81
"""What it costs that words in one pair of quotes are to be anything but a quote."""


RULES = (
    all_wider,
    all_look_alikes,
    quoted,
    each_several,
    all_bounds,
    all_marked,
    all_lacking,
    all_looser,
    all_several,
    all_or_nothing,
)
