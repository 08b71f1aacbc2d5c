"""Small changes that might make a text fit: to the expression, its flags, its reach, or to the text.

Each rule knows one slip that people make and proposes what would undo it. Nothing here decides: a proposal counts
only once the engine has matched it. Costs order proposals: the slip that explains most with the least comes first.
"""

from __future__ import annotations

import heapq
import re
from itertools import pairwise
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import MatchCase, Proposal, RepairContext, escaped
from fieldstick.drafting.phrases import character_words, phrase, text_words
from fieldstick.drafting.text_repairs import look_alike, text_case, text_characters, text_edges, text_spelling
from fieldstick.engines.probing import character_test
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Aside,
    Character,
    CharClass,
    Dot,
    Group,
    Look,
    Node,
    Range,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.tree import Span

_BOUNDS_MISWRITTEN = re.compile(r"\{\s*(\d+)\s*(?:[-;:]|\.\.|, | ,)\s*(\d*)\s*\}")
MOST_MARKS = 4
"""Different marks of a text that classes are tried with."""

LONGEST_OPTIONAL = 5
"""Items in a row that are tried as one optional piece."""


def proposals(context: RepairContext, most: int) -> list[Proposal]:
    """Return what every rule proposes, likeliest first, each setting once, at most `most` of them.

    Each holds an expression of its own: those of a long expression are not all held together.
    """
    best: dict[MatchCase, Proposal] = {}
    for rule in _RULES:
        for proposal in rule(context):
            known = best.get(proposal.case)
            if proposal.case != context.case and (known is None or proposal.cost < known.cost):
                best[proposal.case] = proposal
            if len(best) > 2 * most:
                best = {each.case: each for each in _likeliest(best.values(), most)}
    return _likeliest(best.values(), most)


def _likeliest(offered: Iterable[Proposal], most: int) -> list[Proposal]:
    return heapq.nsmallest(most, offered, key=lambda each: each.cost)


def _flags(context: RepairContext) -> Iterator[Proposal]:
    flags = context.parsed.flags
    if "ignore-case" not in flags:
        case = replace(context.case, flags=context.case.flags | {"ignore-case"})
        yield Proposal(case, "ignore case (flag ignore-case)", 0.9)
    if "dotall" not in flags and "\n" in context.case.text:
        case = replace(context.case, flags=context.case.flags | {"dotall"})
        yield Proposal(case, "let the dot take line feeds too (flag dotall)", 1.3)
    if "multiline" not in flags and "\n" in context.case.text:
        case = replace(context.case, flags=context.case.flags | {"multiline"})
        yield Proposal(case, "let ^ and $ stand at every line (flag multiline)", 1.2)
    if "ascii" in flags and not context.case.text.isascii():
        case = replace(context.case, flags=context.case.flags - {"ascii"})
        yield Proposal(case, "let \\d and \\w know other alphabets (without the flag ascii)", 1.2)
    if "verbose" in context.case.flags:
        case = replace(context.case, flags=context.case.flags - {"verbose"})
        yield Proposal(case, "take blanks in the expression as themselves (without the flag verbose)", 1.2)


def _reach(context: RepairContext) -> Iterator[Proposal]:
    wider: dict[str, tuple[tuple[Reach, float], ...]] = {
        "whole": (("start", 1.9), ("anywhere", 2.0)),
        "start": (("anywhere", 1.7),),
        "anywhere": (),
    }
    for reach, cost in wider[context.case.reach]:
        words = "let it match at the start of the text" if reach == "start" else "let it match anywhere in the text"
        yield Proposal(replace(context.case, reach=reach), f"{words} (reach {reach})", cost)


def _braces(context: RepairContext) -> Iterator[Proposal]:
    """`(3)` written for `{3}`, and `[3]` too."""
    for before, node in _pairs(context):
        inner = spelled(node)[1:-1]
        counted = inner.replace(",", "", 1).isdigit() and not isinstance(before, Repeat)
        if counted and isinstance(node, Group | CharClass) and (not isinstance(node, Group) or node.opening == "("):
            bounds = f"{{{inner}}}"
            yield context.splice(
                node.span, bounds, f"{spelled(node)} is meant as a quantifier: {bounds}", 0.5 + context.near(node) / 5
            )


def _written_bounds(context: RepairContext) -> Iterator[Proposal]:
    """`{3-5}` or `{3, 5}` written for `{3,5}`."""
    for found in _BOUNDS_MISWRITTEN.finditer(context.case.expression):
        bounds = f"{{{found[1]},{found[2]}}}"
        yield context.splice(found.span(), bounds, f"{found[0]} is meant as a quantifier: {bounds}", 0.5)


def _pairs(context: RepairContext) -> Iterator[tuple[Node, Node]]:
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        yield from pairwise(items)


def _shorthand_case(context: RepairContext) -> Iterator[Proposal]:
    for node in context.nodes:
        if isinstance(node, Shorthand) and len(node.spelling) == 2:
            other = node.spelling.swapcase()
            meant = phrase(replace(node, negated=not node.negated), context.parsed.flags, short=True)
            words = f"{node.spelling} is meant as {other}: {meant}"
            likely = 0.8 if node.negated else 1.05 if context.facts.is_repeated(node) else 1.3
            yield context.splice(node.span, other, words, likely + context.near(node) / 2)
        elif isinstance(node, Anchor) and node.spelling in ("\\b", "\\B"):
            yield context.splice(
                node.span, node.spelling.swapcase(), f"{node.spelling} is meant as {node.spelling.swapcase()}", 1.4
            )


def _escapes(context: RepairContext) -> Iterator[Proposal]:
    """Characters that mean something, written for themselves."""
    expression = context.case.expression
    for node in context.nodes:
        near = context.near(node) / 2
        if isinstance(node, Repeat) and node.quantifier[0] in "*+?{":
            start = node.span[1] - len(node.quantifier)
            shown = expression[start : node.span[1]]
            literal = "".join(escaped(each) for each in shown)
            if shown in context.case.text or shown[0] in context.case.text:
                yield context.splice(
                    (start, node.span[1]), literal, f"{shown} is meant as itself: {literal}", 0.7 + near
                )
                if len(shown) == 2:
                    first = escaped(shown[0]) + shown[1]
                    yield context.splice(
                        (start, node.span[1]), first, f"{shown[0]} is meant as itself: {first}", 0.75 + near
                    )
        elif isinstance(node, Anchor) and node.spelling in "^$" and node.spelling in context.case.text:
            yield context.splice(
                node.span, "\\" + node.spelling, f"{node.spelling} is meant as itself: \\{node.spelling}", 0.7 + near
            )
        elif isinstance(node, Group) and node.opening == "(" and "(" in context.case.text:
            yield context.splice(
                node.span, f"\\({spelled(node.body)}\\)", "the parentheses are meant as themselves: \\( \\)", 0.7 + near
            )
            yield context.splice(
                node.span, f"\\(({spelled(node.body)})\\)", "the parentheses stand in the text too: \\( \\)", 1.3 + near
            )
        elif isinstance(node, CharClass) and "[" in context.case.text:
            inner = expression[node.span[0] + 1 : node.span[1] - 1]
            yield context.splice(
                node.span, f"\\[{inner}\\]", "the brackets are meant as themselves: \\[ \\]", 0.7 + near
            )
        elif isinstance(node, Alternation) and "|" in context.case.text:
            options = [spelled(option) for option in node.options]
            yield context.splice(node.span, "\\|".join(options), "| is meant as itself: \\|", 0.7 + near)


def _backslashes(context: RepairContext) -> Iterator[Proposal]:
    """A backslash forgotten, doubled, or the wrong way round."""
    for node in context.nodes:
        near = context.near(node) / 2
        letter = node.item if isinstance(node, Repeat) else node
        if isinstance(letter, Character) and letter.spelling in ("d", "w", "s", "D", "W", "S"):
            cost = 0.8 if isinstance(node, Repeat) else 1.1
            words = f"{letter.spelling} is meant as \\{letter.spelling}"
            yield context.splice(letter.span, "\\" + letter.spelling, words, cost + near)
        if isinstance(node, Character) and node.spelling in (r"\.", r"\*", r"\+", r"\?", r"\|", r"\^", r"\$"):
            bare = node.spelling[1]
            cost = 1.0 if bare in "*+?|" else 1.5
            yield context.splice(node.span, bare, f"{node.spelling} is meant without its backslash", cost + near)
        if isinstance(node, Character) and node.spelling == r"\(":
            yield from _unescaped_pair(context, node, near)
    for one, other in _pairs(context):
        letter = other.item if isinstance(other, Repeat) else other
        slash = isinstance(one, Character) and one.spelling in ("\\\\", "/")
        if slash and isinstance(letter, Character) and letter.spelling in ("d", "w", "s", "b", "."):
            span = (one.span[0], letter.span[1])
            meant = "\\" + letter.spelling
            words = f"{spelled(one)}{letter.spelling} is meant as {meant}"
            yield context.splice(span, meant, words, 0.8 + context.near(one) / 2)


def _unescaped_pair(context: RepairContext, opening: Character, near: float) -> Iterator[Proposal]:
    expression = context.case.expression
    closing = expression.find(r"\)", opening.span[1])
    if closing > 0:
        inner = expression[opening.span[1] : closing]
        span = (opening.span[0], closing + 2)
        yield context.splice(span, f"({inner})", "the parentheses are meant as a group", 1.2 + near)


def _bounds(context: RepairContext) -> Iterator[Proposal]:
    """A quantifier too tight by a little."""
    for node in context.nodes:
        if not isinstance(node, Repeat):
            continue
        near = context.near(node) / 2
        start = node.span[1] - len(node.quantifier)
        mark = {"greedy": "", "lazy": "?", "possessive": "+"}[node.mode]
        for least, most, cost in _looser(node):
            quantifier = _quantifier(least, most) + mark
            item = phrase(node.item, context.parsed.flags, short=True)
            words = f"{node.quantifier} is too tight for {item}: {quantifier}"
            yield context.splice((start, node.span[1]), quantifier, words, cost + near)
        if node.mode == "possessive":
            quantifier = node.quantifier[:-1]
            yield context.splice(
                (start, node.span[1]), quantifier, f"{node.quantifier} gives nothing back: {quantifier}", 0.7 + near
            )


def _looser(node: Repeat) -> Iterator[tuple[int, int | None, float]]:
    for step in (1, 2, 3):
        if node.most is not None and node.most > 1:
            yield node.least, node.most + step, 0.9 + 0.15 * step
            if node.least == node.most:
                yield node.least + step, node.most + step, 1.3 + 0.15 * step
        if node.least - step >= 1:
            yield node.least - step, node.most, 0.9 + 0.15 * step
            if node.least == node.most:
                yield node.least - step, node.least - step, 1.3 + 0.15 * step
    if node.least == 1 and node.most is None:
        yield 0, None, 1.0
    if (node.least, node.most) == (0, 1):
        yield 0, None, 1.4
    if node.most is not None and node.most > 1:
        yield node.least, None, 1.5
    if node.least > 1:
        yield 1, node.most, 1.45
        yield 0, node.most, 1.6


def _quantifier(least: int, most: int | None) -> str:
    simple = {(0, None): "*", (1, None): "+", (0, 1): "?"}
    if (least, most) in simple:
        return simple[least, most]
    if least == most:
        return f"{{{least}}}"
    return f"{{{least},{'' if most is None else most}}}"


def _more_of_it(context: RepairContext) -> Iterator[Proposal]:
    """One character asked for where several stand."""
    repeated = {node.item.span for node in context.nodes if isinstance(node, Repeat)}
    for node in context.nodes:
        if (
            not isinstance(node, Shorthand | CharClass | Dot)
            or node.span in repeated
            or context.facts.is_in_class(node)
        ):
            continue
        near = context.near(node) / 2
        words = f"{spelled(node)} takes one character alone: {spelled(node)}+"
        yield context.splice(node.span, spelled(node) + "+", words, 1.2 + near)


def _classes(context: RepairContext) -> Iterator[Proposal]:
    """A class that lacks a character, or a negated one that shuts it out."""
    if not context.found:
        return
    for node in context.nodes:
        near = context.near(node)
        if near > 0.5 or context.facts.is_in_class(node):
            continue
        if isinstance(node, CharClass) and not node.negated:
            yield from _wider_class(context, node, near)
        elif isinstance(node, CharClass):
            items = [
                item for item in node.items if not (isinstance(item, Character) and item.character == context.found)
            ]
            if items and len(items) < len(node.items):
                inner = "".join(map(spelled, items))
                words = f"{spelled(node)} shuts out {character_words(context.found)}: [^{inner}]"
                yield context.splice(node.span, f"[^{inner}]", words, 1.0 + near)
        elif isinstance(node, Shorthand) and len(node.spelling) == 2 and not node.negated:
            # Digits and what follows them are parted by a blank more often than digits hold one.
            doubt = 0.35 if node.name == "digit" and context.found.isspace() else 0.0
            yield _with_character(context, node, context.found, 1.15 + near + doubt)


def _classes_elsewhere(context: RepairContext) -> Iterator[Proposal]:
    """A class that lacks a mark of the text, where something else took it and the match stopped further on."""
    marks = [each for each in dict.fromkeys(context.case.text) if not each.isalnum() and not each.isspace()]
    for node in context.nodes:
        if isinstance(node, Shorthand | CharClass) and not node.negated and context.facts.is_repeated(node):
            for mark in marks[:MOST_MARKS]:
                yield _with_character(context, node, mark, 1.35 + context.near(node) / 4)


def _with_character(context: RepairContext, node: Shorthand | CharClass, character: str, cost: float) -> Proposal:
    inner = node.spelling if isinstance(node, Shorthand) else spelled(node)[1:-1]
    if inner.endswith("-") and not inner.endswith("\\-"):
        new = f"[{inner[:-1]}{_class_spelling(character)}-]"
    else:
        new = f"[{inner}{_class_spelling(character)}]"
    return context.splice(node.span, new, f"{spelled(node)} lacks {character_words(character)}: {new}", cost)


def _wider_class(context: RepairContext, node: CharClass, near: float) -> Iterator[Proposal]:
    found, inner = context.found, spelled(node)[1:-1]
    hyphen_last = inner.endswith("-") and not inner.endswith("\\-")
    single = 1.3 if found.isalnum() and any(isinstance(item, Range) for item in node.items) else 0.85
    for added, cost in ((_class_spelling(found), single), *((each, 1.0) for each in _kinds(found, node))):
        new = f"[{inner[:-1]}{added}-]" if hyphen_last else f"[{inner}{added}]"
        yield context.splice(node.span, new, f"{spelled(node)} lacks {character_words(found)}: {new}", cost + near)


def _kinds(found: str, node: CharClass) -> Iterator[str]:
    has_range = any(isinstance(item, Range) for item in node.items)
    if found.isascii() and has_range:
        if found.isupper():
            yield "A-Z"
        elif found.islower():
            yield "a-z"
        elif found.isdigit():
            yield "0-9"
    elif found.isalpha():
        yield "\\w"


def _class_spelling(character: str) -> str:
    if character == "-":
        return "-"  # it stands last
    return "\\" + character if character in "]\\^[" else escaped(character) if character in "\t\n\r" else character


def _optional(context: RepairContext) -> Iterator[Proposal]:
    """A piece that the text does not have, made optional."""
    for node in context.nodes:
        if isinstance(node, Sequence):
            yield from _optional_runs(context, without_asides(node.items))
            continue
        near = context.near(node)
        fit_for_it = isinstance(node, Group | CharClass | Shorthand | Character | Dot) and near < 0.5
        if fit_for_it and not context.facts.is_in_class(node) and not context.facts.is_repeated(node):
            piece = spelled(node)
            words = f"{phrase(node, context.parsed.flags, short=True)} need not be there: {piece}?"
            yield context.splice(node.span, f"{piece}?", words, (1.05 if isinstance(node, Group) else 1.25) + near)


def _optional_runs(context: RepairContext, items: tuple[Node, ...]) -> Iterator[Proposal]:
    expression = context.case.expression
    for start in range(len(items)):
        if context.near(items[start]) > 0.5:
            continue
        for end in range(start + 2, min(start + LONGEST_OPTIONAL, len(items)) + 1):
            span = (items[start].span[0], items[end - 1].span[1])
            piece = expression[slice(*span)]
            # A mark with what follows it (.5, /3, -R) comes and goes as one.
            mark = literal_of(items[start])
            marked = mark is not None and not mark.isalnum()
            cost = (1.1 if marked else 1.3) + 0.05 * (end - start) + context.near(items[start])
            yield context.splice(span, f"(?:{piece})?", f"{piece} need not be there: (?:{piece})?", cost)


def _quantifier_for_several(context: RepairContext) -> Iterator[Proposal]:
    """A quantifier that was meant for more than the one item before it."""
    expression = context.case.expression
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for index, item in enumerate(items):
            if not isinstance(item, Repeat) or isinstance(item.item, Group):
                continue
            bare_end = item.span[1] - len(item.quantifier)
            for count in (1, 2, 3, 4):
                if count > index:
                    break
                start = items[index - count].span[0]
                piece = expression[start:bare_end]
                words = f"{item.quantifier} is meant for {piece}: (?:{piece}){item.quantifier}"
                new = f"(?:{piece}){item.quantifier}"
                yield context.splice((start, item.span[1]), new, words, 0.95 + 0.1 * count + context.near(item) / 2)


def _anchors(context: RepairContext) -> Iterator[Proposal]:
    for node in context.nodes:
        if isinstance(node, Anchor):
            words = f"without {node.spelling}, which asks for {phrase(node, context.parsed.flags)}"
            yield context.splice(node.span, "", words, 1.3 + context.near(node) / 2)
        elif isinstance(node, Look):
            yield context.splice(node.span, "", f"without {spelled(node)}", 1.9 + context.near(node) / 2)


def _alternation(context: RepairContext) -> Iterator[Proposal]:
    """Options that reach further than was meant, and words spelled in a class."""
    for node in context.nodes:
        if isinstance(node, Alternation):
            yield from _narrower_options(context, node)
        elif isinstance(node, CharClass) and not node.negated:
            inner = spelled(node)[1:-1]
            near = context.near(node) / 2
            if "|" in inner:
                yield context.splice(
                    node.span, f"(?:{inner})", f"{spelled(node)} is meant as alternatives: (?:{inner})", 0.6 + near
                )
            elif inner.isalpha() and len(inner) > 2:
                yield context.splice(node.span, inner, f"{spelled(node)} is meant as the word {inner}", 1.2 + near)


def _narrower_options(context: RepairContext, node: Alternation) -> Iterator[Proposal]:
    first, *_, last = node.options
    expression = context.case.expression
    starts = _item_spans(first)
    ends = _item_spans(last)
    for left in starts[:6]:
        for right in ends[::-1][:6]:
            if (left, right) == (starts[0], ends[-1]) and node.span == (0, len(expression)):
                continue
            span = (left[0], right[1])
            piece = expression[slice(*span)]
            cost = 1.0 + 0.02 * (span[0] - node.span[0] + node.span[1] - span[1])
            yield context.splice(span, f"(?:{piece})", f"the options are meant to be {piece} alone: (?:{piece})", cost)


def _item_spans(option: Node) -> list[Span]:
    items = without_asides(option.items) if isinstance(option, Sequence) else (option,)
    return [item.span for item in items if not isinstance(item, Aside)]


def _missing_character(context: RepairContext) -> Iterator[Proposal]:
    """A character of the text that the expression has no place for."""
    if not context.found:
        return
    found = context.found
    spelling = escaped(found)
    places = {span[0] for span in context.spots} | {span[1] for span in context.spots if span[1] > span[0]}
    places |= {len(context.case.expression)} if context.trace.wanted and _asks_for_end(context) else set()
    run = _run_of(found, context.case.text, context.at)
    for place in sorted(places):
        name = character_words(found)
        yield context.splice((place, place), f"{spelling}?", f"there is {name} in the text: {spelling}?", 1.4)
        yield context.splice((place, place), spelling, f"there is {name} in the text: {spelling}", 1.5)
        if found.isspace():
            yield context.splice((place, place), "\\s*", "there may be white space: \\s*", 1.45)
        for shorthand in ("\\d", "\\w"):
            if character_test(shorthand, frozenset())(found) and len(run) >= 1:
                yield context.splice(
                    (place, place), f"{shorthand}*", f"there is {text_words(run)} in the text: {shorthand}*", 1.6
                )


def _run_of(found: str, text: str, at: int) -> str:
    end = at + 1
    while end < len(text) and text[end].isalpha() == found.isalpha() and text[end].isdigit() == found.isdigit():
        end += 1
    return text[at:end]


def _asks_for_end(context: RepairContext) -> bool:
    return any(isinstance(wanted.node, Anchor) for wanted in context.trace.wanted)


def _other_character(context: RepairContext) -> Iterator[Proposal]:
    """A literal character where the text has another."""
    if not context.found:
        return
    repeated = {node.item.span for node in context.nodes if isinstance(node, Repeat)}
    for node in context.nodes:
        if isinstance(node, Character) and not context.facts.is_in_class(node) and context.near(node) == 0.0:
            one, other = sorted((node.character, context.found), key=lambda each: each == "-")
            both = f"[{_class_spelling(one)}{_class_spelling(other)}]"
            words = f"{character_words(context.found)} stands in the place of {character_words(node.character)}"
            yield context.splice(node.span, both, f"{words}: {both}", 1.3 + (0.3 if node.span in repeated else 0))
            typed = (
                context.found.isascii() and not node.character.isascii() and look_alike(node.character, context.found)
            )
            cost = 0.9 if typed else 1.45
            yield context.splice(node.span, escaped(context.found), f"{words}: {escaped(context.found)}", cost)


def _blanks_in_verbose(context: RepairContext) -> Iterator[Proposal]:
    if "verbose" not in context.parsed.flags:
        return
    for node in context.nodes:
        if isinstance(node, Aside) and node.kind == "blank":
            yield context.splice(node.span, "\\ ", "a blank is left out in verbose notation: write '\\ '", 1.0)


_RULES: tuple[Callable[[RepairContext], Iterator[Proposal]], ...] = (
    _flags,
    _reach,
    _braces,
    _written_bounds,
    _shorthand_case,
    _escapes,
    _backslashes,
    _bounds,
    _more_of_it,
    _classes,
    _classes_elsewhere,
    _optional,
    _quantifier_for_several,
    _anchors,
    _alternation,
    _missing_character,
    _other_character,
    _blanks_in_verbose,
    text_case,
    text_spelling,
    text_edges,
    text_characters,
)
