"""Changes of several pieces at once, which keep a text out: pieces written alike are mended alike."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.drafting.context import PRINTED, class_spelling, quantifier, takes, written_alike
from fieldstick.drafting.phrases import character_words
from fieldstick.drafting.slips.amounts import repeats
from fieldstick.drafting.slips.framing import PAIRS
from fieldstick.drafting.slips.numbers import is_digit
from fieldstick.drafting.slips.taking import KINDS, MILLISECONDS, MOST_TEXTS, SHUT, character_after, took_at, took_of
from fieldstick.engines.probing import batch_of
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import SINGLE, Backreference, CharClass, Dot, Group, Repeat, Shorthand, literal_of, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.syntax.tree import Node, Span

MOST_ALIKE = 8
"""Pieces written alike that are narrowed together, and marks of which two are taken for a pair."""


def all_stopped(context: RepairContext) -> Iterator[Proposal]:
    """Every piece that takes anything, stopped at its delimiter: one delimiter for all, or for each its own."""
    wide = [
        node
        for node in context.nodes
        if isinstance(node, Repeat)
        and (isinstance(node.item, Dot) or (isinstance(node.item, Shorthand) and node.item.spelling in (r"\S", r"\D")))
    ]
    if len(wide) < 2:
        return
    before: dict[Node, str] = {}
    for one, other in context.pairs():
        inner = other
        while isinstance(inner, Group):
            inner = inner.body
        before[inner] = (literal_of(one) or "")[-1:]
    after = {node: character_after(context, node) for node in wide}
    marks = [each for each in dict.fromkeys([*after.values(), *before.values()]) if each and not each.isalnum()]
    own = [after[node] or before.get(node, "") for node in wide]
    flags = context.parsed.flags - {"verbose"}
    beyond = [_mark_beyond(context, node) or mark for node, mark in zip(wide, own, strict=True)]
    ways = [own, *([beyond] if beyond != own else []), *([mark] * len(wide) for mark in marks)]
    for way in ways:
        if not all(each and not each.isalnum() for each in way):
            continue
        places = [
            (node.item.span, f"[^{SHUT.get(spelled(node.item), '')}{class_spelling(mark)}]")
            for node, mark in zip(wide, way, strict=True)
            if takes(spelled(node.item), flags)(mark)
        ]
        named = " and ".join(map(character_words, dict.fromkeys(way)))
        yield context.splice_all(places, f"each {spelled(wide[0])} took too much; stop at {named}", 0.95)


def _mark_beyond(context: RepairContext, node: Node) -> str:
    """Return the mark that follows a piece behind a blank, empty where none does."""
    behind = context.case.expression[node.span[1] :].lstrip(")")
    found = _BEYOND.match(behind)
    return (found[1] or found[2]) if found is not None else ""


_BEYOND = compiled_later(r"(?: |\\s[*+?]?)(?:\\([^\w\s])|([^\w\s\\()\[\]{}.*+?|^$]))")


def all_narrowed(context: RepairContext) -> Iterator[Proposal]:
    """Pieces written alike that all take too much, narrowed alike."""
    flags = context.parsed.flags - {"verbose"}
    free = [
        each
        for each in context.nodes
        if isinstance(each, Shorthand | Dot | CharClass) and not context.facts.is_in_class(each)
    ]
    for spelling, nodes in written_alike(free):
        if len(nodes) > MOST_ALIKE:
            continue
        around = [context.facts.parents.get(each) if context.facts.is_repeated(each) else each for each in nodes]
        took = [took_at(context, each.span) for each in around if each is not None]
        used = "".join(other for each in took if each is not None for other in each.others)
        for kind, cost in KINDS.items():
            test = takes(kind, flags)
            odd = sum(each is not None and not all(map(test, each.own)) for each in took)
            if not used or kind == spelling or not odd or not all(map(test, used)):
                continue
            if not set(filter(test, PRINTED)) < set(filter(takes(spelling, flags), PRINTED)):
                continue
            words = f"each {spelling} took too much; allow less: {kind}"
            places = [(node.span, kind) for node in nodes]
            yield context.splice_all(places, words, cost - (0.05 if odd == 1 else 0.1))


def all_counted(context: RepairContext) -> Iterator[Proposal]:
    """Pieces written alike that come as often each time in all that should fit: so many are asked for."""
    repeated = [each for each in context.nodes if isinstance(each, Repeat) and isinstance(each.item, SINGLE)]
    fitting = context.beside.fitting[:MOST_TEXTS]
    for spelling, nodes in written_alike(repeated) if len(fitting) > 1 else ():
        took = [took_of(context, each.span, (context.case.text, *fitting)) for each in nodes[:MOST_ALIKE]]
        counts = {len(other) for _, *others in filter(None, took) for other in others if other is not None}
        own = {len(each[0]) for each in took if each and each[0] is not None}
        if len(counts) != 1 or counts <= {0, 1} or own <= counts:
            continue
        count = counts.pop()
        new = spelled(nodes[0].item) + quantifier(count, count)
        words = f"what should fit has {count} of {spelled(nodes[0].item)} each time, not {spelling}: {new}"
        yield context.splice_all([(each.span, new) for each in nodes], words, 0.95)


def each_counted(context: RepairContext) -> Iterator[Proposal]:
    """Numbers that have as many digits each time in all that should fit, each its own count: `\\d{4}-\\d{2}`."""
    digits = [
        each
        for each in context.nodes
        if isinstance(each, Repeat) and each.most is None and is_digit(each.item, context.parsed.flags)
    ]
    places: list[tuple[Span, str]] = []
    amiss = 0
    for each in digits[:MOST_ALIKE] if len(context.beside.fitting) > 1 else ():
        took = took_at(context, each.span)
        sizes = {len(other) for other in took.others} if took is not None else set()
        if took is not None and len(sizes) == 1:
            size = sizes.pop()
            places.append((each.span, f"{spelled(each.item)}{quantifier(size, size)}"))
            amiss += len(took.own) != size
    if amiss and 1 < len(places) == len(digits):
        made = " and ".join(new for _, new in places)
        cost = 0.93 if amiss > 1 else 1.1
        yield context.splice_all(places, f"what should fit has so many digits each time: {made}", cost)


def all_required(context: RepairContext) -> Iterator[Proposal]:
    """Marks that may be lacking, one at a time: all of them asked for, as quotes are."""
    optional = [each for each in context.nodes if isinstance(each, Repeat) and (each.least, each.most) == (0, 1)]
    for _, nodes in written_alike(each for each in optional if not (literal_of(each.item) or "a").isalnum()):
        words = f"{spelled(nodes[0].item)} is asked for each time"
        cost = 0.8 if _lack_what_others_have(context, nodes) else 0.95
        yield context.splice_all([(each.span, spelled(each.item)) for each in nodes], words, cost)


def _lack_what_others_have(context: RepairContext, nodes: Sequence[Node]) -> bool:
    """Tell whether each piece is empty in the text, and in none that should fit: the text breaks all of them."""
    took = [took_at(context, each.span) for each in nodes]
    return all(each is not None and each.is_lacking for each in took)


def up_to_the_same(context: RepairContext, node: Node, piece: Node) -> Iterator[Proposal]:
    """What takes anything, stopped at what a group took that is asked for again behind it: quotes of several kinds."""
    again = context.after.get(piece)
    if not isinstance(again, Backreference) or not isinstance(node, Dot):
        return
    groups = (each for each in context.nodes if isinstance(each, Group))
    marks = next((each.body for each in groups if each.number == again.number), None)
    if isinstance(marks, CharClass) and not marks.negated:
        new = f"[^{spelled(marks)[1:-1]}]"
        words = f". took too much; stop at what closes it, one of {spelled(marks)}: {new}"
        yield context.splice(node.span, new, words, 0.8)


def same_mark_again(context: RepairContext) -> Iterator[Proposal]:
    """Two classes of the same marks, of which the second was meant to be the mark that the first took."""
    expression = context.case.expression
    classes = [
        node
        for node in context.nodes
        if isinstance(node, CharClass) and not node.negated and not any(map(str.isalnum, spelled(node)))
    ]
    for at, one in enumerate(classes):
        for other in classes[at + 1 : at + MOST_ALIKE]:
            first, second = took_at(context, one.span), took_at(context, other.span)
            if spelled(one) != spelled(other) or first is None or second is None or first.own == second.own:
                continue
            made = f"(?P<mark>{spelled(one)}){expression[one.span[1] : other.span[0]]}(?P=mark)"
            words = f"what {spelled(one)} took first is meant to come again: {made}"
            yield context.splice((one.span[0], other.span[1]), made, words, 0.9)


def same_text_again(context: RepairContext) -> Iterator[Proposal]:
    """`<(\\w+)>.*</(\\w+)>`: two groups alike that hold the same wherever the text should fit, and here do not."""
    case = context.case
    yield from _same_text_without_group(context)
    groups = [each for each in context.nodes if isinstance(each, Group) and each.number is not None]
    alike = [(one, other) for one, other in pairwise(groups) if spelled(one.body) == spelled(other.body)]
    texts = (case.text, *context.beside.fitting)
    found = batch_of(case.expression, case.flags, case.reach, texts, MILLISECONDS) if alike and texts[1:] else None
    if found is None:
        return
    for one, other in alike[:MOST_ALIKE]:
        took = [
            [text[slice(*places[each.number or 0])] for each in (one, other)]
            for text, places in zip(texts, found, strict=True)
            if places is not None
        ]
        if took[0][0] != took[0][1] and all(first == second for first, second in took[1:]):
            back = f"(?P={one.name})" if one.name else f"\\{one.number}"
            new = f"{other.opening}{back})" if other.name else back
            words = f"what {spelled(one)} took is meant to come again: {new}"
            yield context.splice(other.span, new, words, 0.85)


def _same_text_without_group(context: RepairContext) -> Iterator[Proposal]:
    """`<(\\w+)>.*</\\w+>`: a piece that holds what a group took wherever the text should fit, and here does not."""
    groups = {spelled(each.body): each for each in context.nodes if isinstance(each, Group) and each.number is not None}
    pieces = [each for each in context.nodes if isinstance(each, Repeat) and spelled(each) in groups]
    for piece in pieces[:MOST_ALIKE]:
        group = groups[spelled(piece)]
        first, second = took_at(context, group.span), took_at(context, piece.span)
        if piece.span[0] < group.span[1] or first is None or second is None or not first.others:
            continue
        if first.own != second.own and first.others == second.others:
            back = f"(?P={group.name})" if group.name else f"\\{group.number}"
            words = f"what {spelled(group)} took is meant to come again: {back}"
            yield context.splice(piece.span, back, words, 0.85)


def all_tighter(context: RepairContext) -> Iterator[Proposal]:
    """The same piece several times, each of which is there."""
    for spelling, nodes in written_alike(repeats(context, "*")):
        words = f"{spelling} is asked for at least once, each time: +"
        cost = 0.85 if _lack_what_others_have(context, nodes) else 1.05
        yield context.splice_all([(each.span, spelling[:-1] + "+") for each in nodes], words, cost)


def both_or_none(context: RepairContext) -> Iterator[Proposal]:
    """Marks that open and close, each of which may be lacking: both of them, or none."""
    expression = context.case.expression
    marks = [(each, literal_of(each.item)) for each in context.nodes if isinstance(each, Repeat) and each.least == 0]
    for at, (one, opening) in enumerate(marks):
        for other, closing in marks[at + 1 : at + MOST_ALIKE]:
            if opening is not None and PAIRS.get(opening, "") == closing:
                inner = expression[one.span[1] : other.span[0]]
                new = f"(?:{spelled(one.item)}{inner}{spelled(other.item)}|{inner})"
                words = f"{opening} and {closing} stand both or not at all: {new}"
                if "(?P<" not in inner:
                    yield context.splice((one.span[0], other.span[1]), new, words, 0.9)


_ESCAPED_OR_ANY = compiled_later(r"\((?:\?:)?(?:\\\\\.\|(\.)|(\.)\|\\\\\.)\)[*+]\??([\"'`/])")


def escaped_or_other(context: RepairContext) -> Iterator[Proposal]:
    """`"(?:\\\\.|.)*"` for `"(?:\\\\.|[^"\\\\])*"`: the mark at the end is escaped, and so is a backslash."""
    for found in _ESCAPED_OR_ANY.finditer(context.case.expression):
        new = f"[^{found[3]}\\\\]"
        span = found.span(1) if found[1] else found.span(2)
        yield context.splice(span, new, f"what is not escaped ends at {found[3]}: {new}", 0.75)


RESTRAINTS = (
    escaped_or_other,
    all_tighter,
    both_or_none,
    all_stopped,
    all_narrowed,
    all_counted,
    each_counted,
    all_required,
    same_mark_again,
    same_text_again,
)
