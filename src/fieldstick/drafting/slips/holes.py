"""What a piece of an expression would have to take: found by leaving a hole in its place, or between two pieces.

A hole takes any text. Where an expression with one hole matches, the piece that was there, or lacking, is the only
thing amiss, and what the hole takes says what it should have been. Where several texts are known that should fit, what
it takes of all of them counts.
"""

from __future__ import annotations

from functools import partial
from itertools import groupby
from typing import TYPE_CHECKING

from fieldstick.drafting.context import compiling
from fieldstick.drafting.slips.exchanged import another_word, instead
from fieldstick.drafting.slips.inserted import put_in
from fieldstick.drafting.slips.lacking_words import word_for_rest
from fieldstick.drafting.slips.taking import Taken, last_numbered
from fieldstick.drafting.slips.windows import window_around
from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.probing import compiled_by_engine, method_of
from fieldstick.errors import BudgetSpent
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Aside,
    Character,
    Dot,
    FlagSetting,
    Group,
    Node,
    Repeat,
    Sequence,
    literal_of,
    once,
    walk,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.syntax.tree import Span

MOST_PLACES = 60
"""Places of an expression that a hole is tried at, those nearest to where the match stopped."""

MOST_TEXTS = 6
"""Texts beside the one in question that a hole is held against."""

LONGEST = 60
"""Code points of what a hole takes up to which it says something."""

PARTING = " ,;|"
"""Characters that part the values of a text."""

MOST_RESTS = 8
"""Last pieces of an expression in the place of which a word is looked for."""

MILLISECONDS, MOST_SPENT, LONG = 20, 4, 20_000
"""How long the texts may take with one hole, and holes that may take longer: one less for so many code points."""

_HOLE = r"(?P<hole_>(?s:.)*?)"
_SOME = r"(?P<hole_>(?s:.)+?)"
_SMALL_LETTERS = r"(?P<hole_>[a-z]+)"
_WORD_HOLE = r"(?P<hole_>\w+)"


def taken_at(context: RepairContext, span: Span, hole: str = "") -> Taken | None:
    """Return what a hole in the place of a span takes, one of a given kind; None where there is no match with it.

    Raises BudgetSpent where that takes too long.
    """
    case = context.case
    # At the end of a match that need not be that of the text, nothing would say where it ends.
    open_end = case.reach != "whole" and not case.expression[span[1] :].strip(")") and span[0] < span[1]
    # A search would find a place where there is nothing of the piece.
    free = _HOLE if case.reach == "whole" or span[0] == span[1] else _SOME
    window = window_around(context, span)
    compiled = compiled_by_engine(window.around(span, hole or (_WORD_HOLE if open_end else free)), case.flags)
    before = window.before()
    if compiled is None or before is None or "hole_" not in compiled.groupindex:
        return None
    method, begin = method_of(compiled, case.reach), before.match

    def read(text: str) -> str | None:
        begun = begin(text)
        found = method(text, begun.end()) if begun is not None else None
        return found["hole_"] if found is not None else None

    def read_all() -> tuple[str | None, list[str | None], list[str | None]]:
        own = read(case.text)
        if own is None:
            return None, [], []
        return own, list(map(read, context.missed[:MOST_TEXTS])), list(map(read, context.held[:MOST_TEXTS]))

    try:
        own, missed, held = run_within(MILLISECONDS, read_all) if timer_usable() else read_all()
    except (SystemError, MemoryError, RecursionError):
        return None
    if own is None or len(own) > LONGEST or None in missed:
        return None
    return Taken(own, tuple(each or "" for each in missed), tuple(each for each in held if each is not None))


def in_place(context: RepairContext) -> Iterator[Proposal]:
    """A piece exchanged for what the texts have in its place."""
    for span, node, taken in _holes(context, list(_pieces(context))):
        spelled_out = context.case.expression[slice(*span)] if node is None else ""
        if not _takes_option(context, span, taken.own.removeprefix(spelled_out)):
            yield from instead(context, span, node, taken)
    for span, _, taken in _holes(context, [(span, None) for span in _loose_words(context)]):
        yield from another_word(context, span, taken)
    for span, _, taken in _holes(context, [(span, None) for span in _words_apart(context)], _SMALL_LETTERS):
        yield from another_word(context, span, taken)
    for span, _, taken in _holes(context, [(span, None) for span in _rests(context)]):
        yield from word_for_rest(context, span, taken)


def between(context: RepairContext) -> Iterator[Proposal]:
    """Something put where the texts have it and the expression does not."""
    places = {span[0] for span, _ in _pieces(context)} | {span[1] for span, _ in _pieces(context)}
    for span, _, taken in _holes(context, [((place, place), None) for place in sorted(places)]):
        if taken.own and not _takes_option(context, span, taken.own):
            yield from put_in(context, span, taken)


def _takes_option(context: RepairContext, span: Span, more: str) -> bool:
    """Tell whether what a hole takes begins with what may stand right behind it: `day` and `s.` before `s?`."""
    return any(
        isinstance(each, Repeat)
        and each.span[0] == span[1]
        and (each.least, each.most) == (0, 1)
        and (option := literal_of(each.item)) is not None
        and more.startswith(option)
        and more not in ("", option)
        for each in context.nodes
    )


def _holes(
    context: RepairContext, places: list[tuple[Span, Node | None]], hole: str = ""
) -> Iterator[tuple[Span, Node | None, Taken]]:
    """Yield what a hole takes at each place where there is a match with one, until some took too long."""
    last, spent = last_numbered(context), 0
    for span, node in _nearest(context, places):
        try:
            taken = taken_at(context, span, hole) if span[0] > last else None
        except BudgetSpent:
            # The engine looks up from what it does the later, the longer the text is.
            spent += 1 + len(context.case.text) // LONG
            if spent >= MOST_SPENT:
                return
            continue
        if taken is not None:
            yield span, node, taken


def _pieces(context: RepairContext) -> Iterator[tuple[Span, Node | None]]:
    """Yield what may be exchanged: items of sequences, runs of characters as one with no node."""
    for node in context.nodes:
        if isinstance(node, Sequence):
            yield from _items(node)
        elif isinstance(node, Alternation | Group | Repeat):
            inner = (
                node.options
                if isinstance(node, Alternation)
                else (node.item if isinstance(node, Repeat) else node.body,)
            )
            for each in inner:
                if not isinstance(each, Sequence | Alternation) and not isinstance(node, Repeat):
                    yield each.span, None if isinstance(each, Character) else each
    tree = context.parsed.tree
    if not isinstance(tree, Sequence):
        yield tree.span, None if isinstance(tree, Character) else tree


def _items(node: Sequence) -> Iterator[tuple[Span, Node | None]]:
    start: int | None = None
    end = 0
    for item in node.items:
        if isinstance(item, Character):
            start = item.span[0] if start is None else start
            end = item.span[1]
            continue
        if start is not None:
            yield (start, end), None
            start = None
        if not isinstance(item, Aside | Anchor | FlagSetting):
            yield item.span, item
    if start is not None:
        yield (start, end), None


def _loose_words(context: RepairContext) -> Iterator[Span]:
    """Yield where words are spelled out of which letters may be lacking: `jpe?g`."""
    for node in context.nodes:
        items = node.items if isinstance(node, Sequence) else ()
        for is_word, run in groupby(items, key=_is_letter):
            several = list(run) if is_word else []
            if len(several) > 1 and any(isinstance(each, Repeat) for each in several):
                yield several[0].span[0], several[-1].span[1]


def _words_apart(context: RepairContext) -> Iterator[Span]:
    """Yield where words are spelled out between blanks, behind what may take the word of the text: `[a-z ]+ over `."""
    for node in context.nodes:
        items = node.items if isinstance(node, Sequence) else ()
        rows = [(is_word, list(row)) for is_word, row in groupby(items, key=_is_spelled_letter)]
        for at, (is_word, row) in enumerate(rows):
            before, behind = (rows[each][1] if 0 <= each < len(rows) else [] for each in (at - 1, at + 1))
            apart = literal_of(before[-1]) == " " and literal_of(behind[0]) == " " if before and behind else False
            if is_word and len(row) > 1 and apart and len(before) > 1 and not isinstance(before[-2], Character):
                word = context.case.expression[row[0].span[0] : row[-1].span[1]]
                if word.islower() and word not in context.case.text:
                    yield row[0].span[0], row[-1].span[1]


def _is_spelled_letter(node: Node) -> bool:
    return isinstance(node, Character) and node.character.isalpha()


def _rests(context: RepairContext) -> Iterator[Span]:
    """Yield the last pieces of the whole, several of them, that begin with one that takes digits or letters; and those
    between two blanks or commas, a number with its unit or the mark of a currency.
    """
    tree = context.parsed.tree
    items = tree.items if isinstance(tree, Sequence) and context.case.reach == "whole" else ()
    for at in range(max(1, len(items) - MOST_RESTS), len(items) - 1):
        if isinstance(items[at], Group | Repeat):
            yield items[at].span[0], items[-1].span[1]
    # What takes anything behind a value would take the rest of any text.
    last_open = max(
        (at for at, item in enumerate(items) if any(isinstance(each, Dot) for each in walk(item))), default=-1
    )
    for marks in (PARTING, PARTING.strip()):
        at = 0
        for parts, run in groupby(items, key=partial(_is_one_of, marks)):
            chunk = tuple(run)
            at += len(chunk)
            is_value = len(chunk) > 1 and any(isinstance(each, Group | Repeat) for each in chunk)
            if not parts and is_value and last_open < at and not _is_letter(chunk[0]):
                yield chunk[0].span[0], chunk[-1].span[1]


def _is_one_of(marks: str, node: Node) -> bool:
    return isinstance(node, Character) and node.character in marks


def _is_letter(node: Node) -> bool:
    one = once(node)
    return isinstance(one, Character) and one.character.isalpha()


def _nearest(context: RepairContext, places: list[tuple[Span, Node | None]]) -> list[tuple[Span, Node | None]]:
    unique = list({span: (span, node) for span, node in places}.values())
    nearest = sorted(unique, key=lambda each: context.near_span(each[0]))
    looked_at = window_around(context, nearest[0][0]).text if nearest else ""
    most = min(MOST_PLACES, context.compiled // (1 + compiling(looked_at, context.case.flags)))
    return unique if len(unique) <= most else nearest[:most]


RULES = (in_place, between)
