"""What stands beside a match or at its edges, where nothing that should fit has it: more of a word or number, marks,
white space.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, class_spelling, escaped, quantifier, takes
from fieldstick.drafting.phrases import character_words, text_words
from fieldstick.drafting.slips.framing import PAIRS
from fieldstick.drafting.slips.numbers import is_digit
from fieldstick.drafting.slips.shaped import kind_of
from fieldstick.drafting.slips.taking import MILLISECONDS, took_at
from fieldstick.engines.probing import batch_of
from fieldstick.syntax.tree import Character, CharClass, Dot, Group, Repeat, Sequence, spelled, without_asides

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import RepairContext
    from fieldstick.syntax.tree import Node, Span

_BLANKS = frozenset((r"\s*", " *", r"\s?", " ?", r"[ \t]*"))
"""White space that may be lacking."""


def beside_match(context: RepairContext, place: Span) -> Iterator[Proposal]:
    """The whole text asked for, anchors, and what may not stand beside a match that lies between two places."""
    case, (start, end) = context.case, place
    text = case.text
    before, after = text[:start], text[end:]
    bare = context.bare
    if case.reach != "whole" and (after or (before and case.reach == "anywhere")):
        outside = " and ".join(text_words(each) for each in (before, after) if each)
        yield Proposal(
            replace(case, reach="whole"),
            f"ask for the whole text, not for less: {outside} stands outside (reach whole)",
            1.0,
        )
    if case.reach == "anywhere" and before:
        yield Proposal(
            replace(case, expression=f"^{bare}"),
            f"anchor it to the start, where {text_words(before)} stands: ^",
            1.2,
        )
    if case.reach != "whole" and after:
        yield Proposal(
            replace(case, expression=f"{bare}$"),
            f"anchor it to the end, where {text_words(after)} stands: $",
            # What is anchored at one end was rather meant to be at both.
            1.02 if case.reach == "start" or bare.startswith("^") else 1.2,
        )
    if case.reach == "anywhere" and before and after:
        words = f"anchor it to both ends, where {text_words(before)} and {text_words(after)} stand: ^ and $"
        yield Proposal(replace(case, expression=f"^{bare}$"), words, 1.1)
    buried_left = bool(before) and _is_of_word(before[-1]) and start < len(text) and _is_of_word(text[start])
    buried_right = bool(after) and _is_of_word(after[0]) and end > 0 and _is_of_word(text[end - 1])
    if case.reach != "whole" and (buried_left or buried_right) and end > start:
        bounded = ("\\b" if buried_left else "") + bare + ("\\b" if buried_right else "")
        beside = character_words(before[-1] if buried_left else after[0])
        yield Proposal(
            replace(case, expression=bounded), f"ask for a word boundary, since {beside} stands beside it: \\b", 0.9
        )
    digits = start < end and text[start].isdigit() and text[end - 1].isdigit()
    if case.reach == "anywhere" and digits and (before[-1:].isdigit() or after[:1].isdigit()):
        words = "ask that no digit stands beside it: (?<!\\d) and (?!\\d)"
        left = "" if bare.startswith("(?<!") else "(?<!\\d)"
        yield Proposal(replace(case, expression=f"{left}{bare}(?!\\d)"), words, 0.85 if not left else 0.95)
    if case.reach == "anywhere" and text[start : start + 1].isdigit() and before[-1:] in (".", ",", "-") and before:
        shut = f"(?<![\\d{class_spelling(before[-1])}])"
        words = f"ask that neither a digit nor {character_words(before[-1])} stands before it: {shut}"
        yield Proposal(replace(case, expression=shut + bare), words, 0.9)
    if case.reach != "whole" and end > start and after[:1].isalnum():
        shut = f"(?!{after[0]})"
        words = f"ask that {character_words(after[0])} does not follow: {shut}"
        yield Proposal(replace(case, expression=bare + shut), words, 1.4)
    known = _places(context) if case.reach == "anywhere" else []
    amid = any(place != (0, len(each)) for each, place in known)
    edges = bool(text[start:end]) and _is_of_word(text[start]) and _is_of_word(text[end - 1])
    if amid and edges and (buried_left or buried_right):
        # Who looks for a word means all of it.
        words = "ask for a word boundary on both sides: \\b"
        yield Proposal(replace(case, expression=f"\\b{bare}\\b"), words, 0.97 if digits else 0.87)
    led = [each[: place[0]] for each, place in known] if before.strip() else []
    if any(led) and not any(map(str.strip, led)):
        words = "the texts that should fit have white space before it at the most: ^\\s*"
        yield Proposal(replace(case, expression=f"^\\s*{bare}"), words, 1.0)
    if case.reach != "whole" and before and _is_of_word(before[-1]) and not _is_of_word(text[start : start + 1]):
        words = f"ask that no letter or digit stands before it, as {character_words(before[-1])} does: (?<!\\w)"
        yield Proposal(replace(case, expression=f"(?<!\\w){bare}"), words, 0.95)
    for left, right in (("\\b", ""), ("", "\\b"), ("\\b", "\\b")) if case.reach != "whole" else ():
        words = "ask for a word boundary: \\b"
        yield Proposal(replace(case, expression=left + bare + right), words, 1.25)


def _places(context: RepairContext) -> list[tuple[str, Span]]:
    """Return the texts that should fit and do, with where the match lies."""
    case, others = context.case, context.beside.fitting
    found = batch_of(case.expression, case.flags, case.reach, others, MILLISECONDS) or ()
    return [(each, place[0]) for each, place in zip(others, found, strict=False) if place is not None]


def _behind(context: RepairContext) -> list[str]:
    """Return what stands behind the match of a search, in each of the texts that should fit and do."""
    return [each[place[1] :] for each, place in _places(context)] if context.case.reach != "whole" else []


def shared_edges(context: RepairContext) -> Iterator[Proposal]:
    """What all texts that should fit begin or end with, or have behind the match, and this one does not."""
    case, others = context.case, context.beside.fitting
    bare = context.bare
    behind = {each[:1] for each in _behind(context)}
    mark = behind.pop() if len(behind) == 1 else ""
    if mark and not mark.isalnum() and not mark.isspace():
        words = f"in the texts that should fit {character_words(mark)} follows"
        yield Proposal(replace(case, expression=bare + escaped(mark)), words, 0.95)
    heads, tails = {each[:1] for each in others}, {each[-1:] for each in others}
    head, tail = (each.pop() if len(each) == 1 else "" for each in (heads, tails))
    kind = kind_of(head) if head and head.isalnum() else ""

    def likely(character: str) -> float:
        """Return what a character that others share costs: a letter or digit more, of one text that is chance."""
        return (0.2 + 0.4 * (len(others) < 2)) * character.isalnum()

    if kind and case.reach != "anywhere" and not re.match(kind, case.text):
        words = f"the texts that should fit begin with one of {kind}"
        yield Proposal(replace(case, expression=kind + bare), words, 1.25)
    if head and not case.text.startswith(head) and case.reach != "anywhere":
        words = f"the texts that should fit begin with {character_words(head)}"
        yield Proposal(replace(case, expression=escaped(head) + bare), words, 1.2 + likely(head))
    if tail and not case.text.endswith(tail) and case.reach == "whole":
        words = f"the texts that should fit end with {character_words(tail)}"
        yield Proposal(replace(case, expression=bare + escaped(tail)), words, 1.2 + likely(tail))


def unclosed(context: RepairContext) -> Iterator[Proposal]:
    """A quote or bracket that is opened, and not closed at the end."""
    case, bare = context.case, context.bare
    spelled_out = [each.character for each in context.nodes if isinstance(each, Character)]
    for opening, closing in PAIRS.items():
        opened, closed = spelled_out.count(opening), spelled_out.count(closing)
        if (opened % 2 if opening == closing else opened > closed) and case.reach == "whole":
            words = f"{character_words(opening)} is not closed: {escaped(closing)}"
            yield Proposal(replace(case, expression=bare + escaped(closing)), words, 0.9)


def goes_on(context: RepairContext) -> Iterator[Proposal]:
    """A digit at the end of a search, where all that should fit have as many more, and this text has not."""
    last, rests = context.parsed.tree, _behind(context)
    while isinstance(last, Sequence) and last.items:
        last = last.items[-1]
    if isinstance(last, Repeat) and last.least == last.most:
        written, last = last.least, last.item
    else:
        written = 1
    if not is_digit(last, context.parsed.flags) or not rests or len(rests) < len(context.beside.fitting):
        return
    counts = {written + len(each) - len(each.lstrip("0123456789")) for each in rests}
    count = counts.pop()
    if not counts and count > written:
        many = quantifier(count, count)
        words = f"the texts that should fit have {count} digits there: {many}"
        yield context.splice((last.span[1], len(context.case.expression)), many, words, 0.9)


def _is_of_word(character: str) -> bool:
    return character.isalnum() or character == "_"


def blanks_at_edges(context: RepairContext) -> Iterator[Proposal]:
    """`.*\\S` for `.+` where a text ends with a blank that should not, `\\S.*` where it begins with one."""
    beside = _loose_blanks(context)
    for node in context.nodes:
        if not isinstance(node, Repeat) or node.most is not None or not _takes_blanks(context, node.item):
            continue
        before, behind, around = beside.get(node, (None, None, node.span))
        took = took_at(context, (before[0] if before else around[0], behind[1] if behind else around[1]))
        if took is None or not took.own.strip() or not any(took.others):
            continue
        known = [each for each in took.others if each]
        first = took.own[0].isspace() and not any(each[0].isspace() for each in known)
        last = took.own[-1].isspace() and not any(each[-1].isspace() for each in known)
        if not (first or last):
            continue
        many = f"{spelled(node.item)}*{'?' * (node.mode == 'lazy')}"
        new = rf"\S(?:{many}\S)?" if first and last else rf"\S{many}" if first else rf"{many}\S"
        # What may be empty may still be so, where some text has it so, or something else is there before it.
        begun = last and context.case.expression[: node.span[0]].endswith(r"\S")
        new = f"(?:{new})?" if node.least == 0 and (begun or len(known) < len(took.others)) else new
        places = [(node.span, new)]
        places += [(span, "") for span, is_odd in ((before, first), (behind, last)) if span is not None and is_odd]
        where = "begins or ends" if first and last else "begins" if first else "ends"
        words = f"nothing that should fit {where} with white space there: {new}"
        # One text has none there by chance.
        yield context.splice_all(places, words, 0.9 + 0.25 * (len(known) < 2))


def _takes_blanks(context: RepairContext, item: Node) -> bool:
    """Tell whether a piece is a class of many characters that has white space among them."""
    if isinstance(item, Dot):
        return True
    return isinstance(item, CharClass) and item.negated and takes(spelled(item), context.parsed.flags)(" ")


def _loose_blanks(context: RepairContext) -> dict[Node, tuple[Span | None, Span | None, Span]]:
    """Return for pieces that repeat where white space stands before and behind that may be lacking, and where the piece
    lies, with the group that it is all of.
    """
    found: dict[Node, tuple[Span | None, Span | None, Span]] = {}
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        spans = [each.span if spelled(each) in _BLANKS else None for each in items]
        for at, each in enumerate(items):
            inner = each.body if isinstance(each, Group) else each
            if isinstance(inner, Repeat) and spans[at] is None:
                found[inner] = (
                    spans[at - 1] if at else None,
                    spans[at + 1] if at + 1 < len(items) else None,
                    each.span,
                )
    return found


RESTRAINTS = (blanks_at_edges,)
