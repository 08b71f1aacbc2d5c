"""What comes and goes with what stands beside it, where a quantifier holds for one of the two alone."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.drafting.phrases import text_words
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Character,
    CharClass,
    Dot,
    Group,
    Node,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    once_at_most,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext

LONGEST_WORDS = 40
"""Characters of words before an option up to which they are tried to come and go with it."""

_BLANKS = frozenset((" ", r"\s", " +", r"\s+", " ?", " *", r"\s?", r"\s*"))
"""White space before an option that comes and goes with it."""

LONGEST_UNIT = 4
"""Letters behind an option up to which they are its unit."""


def marks_before(context: RepairContext) -> Iterator[Proposal]:
    """Several marks that come and go with what follows them: `, \\w*` for `(?:, \\w+)?`."""
    expression = context.case.expression
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for at in range(2, len(items)):
            last, beside = items[at], items[at - 2 : at]
            loose = isinstance(beside[1], Repeat) and (beside[1].least, beside[1].most) == (0, 1)
            marks = [literal_of(each.item if loose and isinstance(each, Repeat) else each) or "a" for each in beside]
            if not isinstance(last, Repeat) or last.least > 0 or any(each.isalnum() for each in marks):
                continue
            if isinstance(last.item, Shorthand | CharClass | Dot | Group):
                piece = expression[items[at - 2].span[0] : last.item.span[1]]
                amount = "" if last.most == 1 else "+"
                new = f"(?:{piece}{amount})?"
                words = f"{text_words(''.join(marks))} comes and goes with what follows it: {new}"
                cost = 0.95 + context.near(last) / 2
                yield context.splice((items[at - 2].span[0], last.span[1]), new, words, cost)


def _parting(node: Node) -> str | None:
    """Return what a piece that parts others is: a character, or blanks of which there is one at least."""
    if isinstance(node, Repeat):
        return " " if node.least > 0 and node.most is None and spelled(node.item) in (" ", r"\s") else None
    return literal_of(node)


def separators(context: RepairContext) -> Iterator[Proposal]:
    """A mark that comes and goes with what follows it: `-(?:\\d)?` for `(?:-\\d)?`."""
    expression = context.case.expression
    for one, other in context.pairs():
        if not isinstance(other, Repeat) or other.least > 0 or isinstance(one, Anchor):
            continue
        mark = _parting(one)
        if mark is None:
            continue
        item, once = other.item, (other.least, other.most) == (0, 1)
        plain = isinstance(item, Group) and item.kind == "plain"
        inner = spelled(item.body) if plain and isinstance(item, Group) and once else spelled(item)
        if plain and isinstance(item, Group) and isinstance(item.body, Alternation):
            inner = spelled(item)
        amounts = [""] if once else ["+", other.quantifier]
        if once and isinstance(item, Shorthand | CharClass | Dot):
            amounts = ["", "+", "?"]
        for rank, amount in enumerate(amounts):
            piece = f"{expression[slice(*one.span)]}{inner}{amount}"
            words = f"{mark} comes and goes with what follows it: (?:{piece})?"
            cost = (0.9 if not mark.isalnum() else 1.1) + 0.1 * rank + context.near(one) / 2
            yield context.splice((one.span[0], other.span[1]), f"(?:{piece})?", words, cost)


def separators_behind(context: RepairContext) -> Iterator[Proposal]:
    """A mark that comes and goes with what stands before it: `(?:\\w)?-` for `(?:\\w-)?`."""
    expression = context.case.expression
    for one, other in context.pairs():
        mark = literal_of(other)
        if isinstance(one, Repeat) and (one.least, one.most) == (0, 1) and mark and not mark.isalnum():
            plain = isinstance(one.item, Group) and one.item.kind == "plain"
            inner = spelled(one.item.body) if plain and isinstance(one.item, Group) else spelled(one.item)
            if not (plain and "|" in inner):
                new = f"(?:{inner}{expression[slice(*other.span)]})?"
                words = f"{mark} comes and goes with what stands before it: {new}"
                yield context.splice((one.span[0], other.span[1]), new, words, 0.95 + context.near(one) / 2)


def words_before(context: RepairContext) -> Iterator[Proposal]:
    """Words that come and go with what follows them: ` gust (\\d+)?` for `(?: gust (\\d+))?`."""
    expression = context.case.expression
    for items, at, last in _options(context):
        if not isinstance(last.item, Group):
            continue
        start = at
        while start and isinstance(items[start - 1], Character) and at - start < LONGEST_WORDS:
            start -= 1
        starts = [each for each in range(start, at) if _begins(items, each)]
        for rank, first in enumerate(starts[::-1]):
            if not any(_is_alphanumeric(each) for each in items[first:at]):
                continue
            piece = expression[items[first].span[0] : items[at - 1].span[1]]
            new = f"(?:{piece}{_bare(last)})?"
            spelled_out = "".join(literal_of(each) or "" for each in items[first:at])
            words = f"{text_words(spelled_out)} comes and goes with what follows it: {new}"
            cost = 0.95 + 0.03 * rank + context.near(items[first]) / 2
            yield context.splice((items[first].span[0], last.span[1]), new, words, cost)


def _begins(items: tuple[Node, ...], at: int) -> bool:
    """Tell whether a blank or a mark stands there, or a word begins, and nothing that belongs to it before it."""
    return not _is_alphanumeric(items[at]) or not (at and _is_alphanumeric(items[at - 1]))


def _is_alphanumeric(node: Node) -> bool:
    return (literal_of(node) or "-").isalnum()


def _bare(option: Repeat) -> str:
    """Return what an option holds, without a group that is there for the quantifier alone."""
    group = option.item
    if isinstance(group, Group) and group.kind == "plain" and not isinstance(group.body, Alternation):
        return spelled(group.body)
    return spelled(group)


def _options(context: RepairContext) -> Iterator[tuple[tuple[Node, ...], int, Repeat]]:
    """Yield what may be there once, with the pieces of the row that it stands in, and where among them."""
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for at, option in enumerate(items):
            if isinstance(option, Repeat) and (option.least, option.most) == (0, 1):
                yield items, at, option


def units_behind(context: RepairContext) -> Iterator[Proposal]:
    """A unit that comes and goes with what stands before it, a blank too: ` ?(\\d+)?m` for `(?: ?(\\d+)m)?`."""
    expression = context.case.expression
    for items, at, option in _options(context):
        end = at + 1
        while end < len(items) and end - at <= LONGEST_UNIT and _is_letter(once_at_most(items[end])):
            end += 1
        if end == at + 1 or (end < len(items) and _is_letter(items[end])):
            continue
        first = items[at - (at > 0 and spelled(items[at - 1]) in _BLANKS)]
        unit = "".join(spelled(once_at_most(each)) for each in items[at + 1 : end])
        new = f"(?:{expression[first.span[0] : option.span[0]]}{_bare(option)}{unit})?"
        words = f"{unit} comes and goes with what stands before it: {new}"
        # It may as well be that of an option behind it.
        other = end < len(items) and isinstance(behind := items[end], Repeat) and behind.least == 0
        cost = 0.88 + 0.1 * other + min(context.near(first), context.near(option)) / 2
        yield context.splice((first.span[0], items[end - 1].span[1]), new, words, cost)


def words_around(context: RepairContext) -> Iterator[Proposal]:
    """Words before and behind an option that come and go with it: `, (\\d+)? young` for `(?:, (\\d+) young)?`."""
    expression = context.case.expression
    for items, at, option in _options(context):
        start, end = _literals_around(items, at)
        if start == at or end == at + 1 or not any(map(_is_alphanumeric, items[at + 1 : end])):
            continue
        starts = [each for each in range(start, at) if _begins(items, each)]
        for rank, first in enumerate(starts):
            span = (items[first].span[0], items[end - 1].span[1])
            before, behind = expression[span[0] : option.span[0]], expression[option.span[1] : span[1]]
            new = f"(?:{before}{_bare(option)}{behind})?"
            marks = (
                "".join(literal_of(each) or "" for each in some) for some in (items[first:at], items[at + 1 : end])
            )
            words = f"{' and '.join(map(text_words, marks))} come and go with what stands between: {new}"
            yield context.splice(span, new, words, 0.95 + 0.03 * rank + context.near(items[first]) / 2)


def _literals_around(items: tuple[Node, ...], at: int) -> tuple[int, int]:
    """Return from which item on, and up to which, characters stand on both sides of one."""
    start, end = at, at + 1
    while start and isinstance(items[start - 1], Character) and at - start < LONGEST_WORDS:
        start -= 1
    while end < len(items) and isinstance(items[end], Character) and end - at <= LONGEST_WORDS:
        end += 1
    return start, end


def _is_letter(node: Node) -> bool:
    return (literal_of(node) or "-").isalpha()


RULES = (separators, separators_behind, marks_before, words_before, words_around, units_behind)
