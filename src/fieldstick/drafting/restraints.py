"""Changes that would keep a text out which fits and should not: anchors, reach, bounds, escapes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.analysis.facts import facts_of
from fieldstick.drafting.context import MatchCase, Proposal
from fieldstick.drafting.phrases import character_words, phrase, text_words
from fieldstick.drafting.tracer import trace
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    Alternation,
    CharClass,
    Dot,
    Range,
    Repeat,
    Shorthand,
    spelled,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.tracer import Trace
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span


def restraints(case: MatchCase, parsed: Parsed, traced: Trace) -> list[Proposal]:
    """Return changes that may keep the text out, likeliest first; whether they do is for the engine to say."""
    if traced.spans is None:
        return []
    found = [
        *_edges(case, parsed, traced.spans[0]),
        *_loose_pieces(case, parsed),
        *_flags(case),
    ]
    return sorted(found, key=lambda proposal: proposal.cost)


def _spliced(case: MatchCase, span: Span, new: str) -> MatchCase:
    expression = case.expression
    return replace(case, expression=expression[: span[0]] + new + expression[span[1] :])


def _edges(case: MatchCase, parsed: Parsed, place: Span) -> Iterator[Proposal]:
    start, end = place
    text, expression = case.text, case.expression
    before, after = text[:start], text[end:]
    bare = f"(?:{expression})" if isinstance(parsed.tree, Alternation) else expression
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
            1.2,
        )
    buried_left = bool(before) and _word(before[-1]) and start < len(text) and _word(text[start])
    buried_right = bool(after) and _word(after[0]) and end > 0 and _word(text[end - 1])
    if case.reach != "whole" and (buried_left or buried_right) and end > start:
        bounded = ("\\b" if buried_left else "") + bare + ("\\b" if buried_right else "")
        beside = character_words(before[-1] if buried_left else after[0])
        yield Proposal(
            replace(case, expression=bounded), f"ask for a word boundary, since {beside} stands beside it: \\b", 0.9
        )


def _word(character: str) -> bool:
    return character.isalnum() or character == "_"


def _loose_pieces(case: MatchCase, parsed: Parsed) -> Iterator[Proposal]:
    taken = _taken(case, parsed)
    for node in facts_of(parsed).nodes:
        pieces = taken.get(node.span, [])
        if isinstance(node, Dot) and pieces and "." not in pieces:
            words = f"the dot took {character_words(pieces[0])}; for a point alone write \\."
            yield Proposal(_spliced(case, node.span, "\\."), words, 0.7)
        elif isinstance(node, Shorthand) and any(not each.isascii() for each in pieces):
            other = next(each for each in pieces if not each.isascii())
            changed = replace(case, flags=case.flags | {"ascii"})
            yield Proposal(
                changed, f"{node.spelling} took {character_words(other)}, of another alphabet (flag ascii)", 0.8
            )
        if isinstance(node, Shorthand) and node.spelling == "\\w" and not facts_of(parsed).is_in_class(node):
            for narrower, what in (("[a-z]", "small letters"), ("[A-Z]", "capitals"), ("[A-Za-z]", "letters")):
                yield Proposal(_spliced(case, node.span, narrower), f"allow {what} alone: {narrower}", 1.3)
        elif isinstance(node, Repeat):
            yield from _tighter(case, parsed, node)
        elif isinstance(node, CharClass):
            yield from _narrower(case, node)


def _tighter(case: MatchCase, parsed: Parsed, node: Repeat) -> Iterator[Proposal]:
    start = node.span[1] - len(node.quantifier)
    span = (start, node.span[1])
    what = phrase(node.item, parsed.flags, short=True)
    if node.quantifier == "*":
        yield Proposal(_spliced(case, span, "+"), f"ask for at least one of {what}: +", 1.1)
    if (node.least, node.most) == (0, 1):
        yield Proposal(_spliced(case, span, ""), f"ask for {what}, which is optional now", 1.5)
    longest = _longest_run(case, parsed, node)
    if longest > max(node.least, 1):
        bound = f"{{{node.least},{longest - 1}}}" if node.least != longest - 1 else f"{{{node.least}}}"
        yield Proposal(_spliced(case, span, bound), f"{what} came {longest} times; allow fewer: {bound}", 1.4)
    if isinstance(node.item, Dot) and longest:
        yield from _without(case, node, start)


def _without(case: MatchCase, node: Repeat, start: int) -> Iterator[Proposal]:
    following = case.expression[node.span[1] : node.span[1] + 1].strip("()[]\\^$.|?*+{}")
    if following:
        new = f"[^{following}]"
        yield Proposal(
            _spliced(case, (node.item.span[0], start), new),
            f"the dots took too much; stop at the next {following}: {new}",
            1.2,
        )
    yield Proposal(
        _spliced(case, (node.item.span[0], start), "\\w"), "the dots took more than letters and digits: \\w", 1.6
    )


def _longest_run(case: MatchCase, parsed: Parsed, node: Repeat) -> int:
    """Return how many characters a repeat of single ones took: bounds below that no longer match alike."""
    if node.most is not None and node.most <= 1:
        return 0
    named = f"(?P<longest_run_>{spelled(node)})"
    probe = _spliced(case, node.span, named)
    try:
        read = parse(probe.expression, probe.flags)
    except SyntaxFault:
        return 0
    spans = trace(read, probe.text, probe.reach).spans
    if spans is None:
        return 0
    start, end = spans[read.groups.index("longest_run_") + 1]
    return end - start


def _narrower(case: MatchCase, node: CharClass) -> Iterator[Proposal]:
    for item in node.items:
        if isinstance(item, Range) and item.first.character.isupper() and item.last.character.islower():
            new = f"{item.first.character}-Z" + ("a-" + item.last.character)
            yield Proposal(_spliced(case, item.span, new), f"{spelled(item)} takes in [\\]^_` as well: {new}", 0.8)


def _taken(case: MatchCase, parsed: Parsed) -> dict[Span, list[str]]:
    """Return the characters that each single dot and shorthand took, found by capturing it."""
    found: dict[Span, list[str]] = {}
    for node in facts_of(parsed).nodes:
        if isinstance(node, Dot | Shorthand) and not facts_of(parsed).is_in_class(node):
            probe = _spliced(case, node.span, f"(?P<taken_>{spelled(node)})")
            try:
                read = parse(probe.expression, probe.flags)
            except SyntaxFault:
                continue
            spans = trace(read, probe.text, probe.reach).spans
            number = read.groups.index("taken_") + 1
            if spans is not None and spans[number][0] >= 0:
                found[node.span] = [case.text[slice(*spans[number])]]
    return found


def _flags(case: MatchCase) -> Iterator[Proposal]:
    words = {
        "ignore-case": "tell capitals from small letters",
        "multiline": "let ^ and $ stand at the ends of the text alone",
        "dotall": "let the dot stop at a line feed",
    }
    for flag, what in words.items():
        if flag in case.flags:
            yield Proposal(replace(case, flags=case.flags - {flag}), f"{what} (without the flag {flag})", 1.0)
