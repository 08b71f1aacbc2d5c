"""Changes that would keep a text out which fits and should not: anchors, reach, bounds, escapes, narrower classes.

What a piece took of the text in question is held against what it takes of the texts that should fit.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, class_spelling, escaped, quantifier, takes
from fieldstick.drafting.phrases import character_words, phrase, text_words
from fieldstick.drafting.slips.choices import narrower_options
from fieldstick.drafting.slips.looks import got_around
from fieldstick.drafting.slips.numbers import known_numbers, loose_number
from fieldstick.drafting.slips.order import other_group, swapped
from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.probing import compiled_by_engine, method_of
from fieldstick.errors import BudgetSpent
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Backreference,
    Character,
    CharClass,
    Dot,
    Group,
    Range,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import RepairContext
    from fieldstick.syntax.tree import Node, Span

MILLISECONDS = 20
MOST_ALIKE = 8
"""Pieces written alike that are narrowed together."""

MOST_TEXTS = 8
"""Texts that should fit and that a piece is held against."""

_KINDS = {
    r"\d": 1.0, r"\w": 1.05, "[A-Z]": 1.08, "[a-z]": 1.1, "[A-Za-z]": 1.12, r"\S": 1.15, "[A-Za-z0-9]": 1.2,
    "[0-9a-f]": 1.3, "[a-z0-9]": 1.3, "[A-Z0-9]": 1.3, r"[\w-]": 1.3, r"[\w ]": 1.35,
}  # fmt: skip
"""Kinds of characters that a class may be narrowed to, and what each costs: the usual ones least."""

_USUAL = (r"\d", r"\w", r"\S")
"""Those of them that are tried though a text which should fit has others there."""


def restraints(context: RepairContext) -> list[Proposal]:
    """Return changes that may keep the text out, likeliest first; whether they do is for the engine to say."""
    if context.trace.spans is None:
        return []
    found = [
        *_edges(context, context.trace.spans[0]),
        *_loose_pieces(context),
        *_flags(context),
        *_grouped(context),
        *_all_stopped(context),
        *got_around(context),
        *_all_narrowed(context),
        *_known(context),
        *_shared(context),
        *other_group(context),
        *(replace(each, cost=each.cost + 0.6) for each in swapped(context)),
    ]
    return sorted(found, key=lambda proposal: proposal.cost)


def _edges(context: RepairContext, place: Span) -> Iterator[Proposal]:
    case, (start, end) = context.case, place
    text, expression = case.text, case.expression
    before, after = text[:start], text[end:]
    bare = f"(?:{expression})" if isinstance(context.parsed.tree, Alternation) else expression
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
    for left, right in (("\\b", ""), ("", "\\b"), ("\\b", "\\b")) if case.reach != "whole" else ():
        words = "ask for a word boundary: \\b"
        yield Proposal(replace(case, expression=left + bare + right), words, 1.25)


def _shared(context: RepairContext) -> Iterator[Proposal]:
    """What all texts that should fit begin or end with, and this one does not."""
    case, others = context.case, context.beside.fitting
    bare = f"(?:{case.expression})" if isinstance(context.parsed.tree, Alternation) else case.expression
    heads, tails = {each[:1] for each in others}, {each[-1:] for each in others}
    head, tail = (each.pop() if len(each) == 1 else "" for each in (heads, tails))
    if head and not case.text.startswith(head) and case.reach != "anywhere":
        words = f"the texts that should fit begin with {character_words(head)}"
        yield Proposal(replace(case, expression=escaped(head) + bare), words, 1.2 + 0.2 * head.isalnum())
    if tail and not case.text.endswith(tail) and case.reach == "whole":
        words = f"the texts that should fit end with {character_words(tail)}"
        yield Proposal(replace(case, expression=bare + escaped(tail)), words, 1.2 + 0.2 * tail.isalnum())


def _word(character: str) -> bool:
    return character.isalnum() or character == "_"


class Took(Struct, frozen=True):
    """What a piece took: of the text in question, and of those that should fit."""

    own: str
    others: tuple[str, ...]


def took_at(context: RepairContext, span: Span) -> Took | None:
    """Return what a piece takes, the last time that it took part; None where it took no part, or cannot be told."""
    case = context.case
    piece = case.expression[slice(*span)]
    made = f"{case.expression[: span[0]]}(?P<took_>{piece}){case.expression[span[1] :]}"
    compiled = compiled_by_engine(made, case.flags)
    if compiled is None or any(isinstance(each, Backreference) and each.name is None for each in context.nodes):
        return None
    method = method_of(compiled, case.reach)

    def read(text: str) -> str | None:
        found = method(text)
        return found["took_"] if found is not None else None

    def read_all() -> list[str | None]:
        return [read(case.text), *map(read, context.beside.fitting[:MOST_TEXTS])]

    try:
        own, *others = run_within(MILLISECONDS, read_all) if timer_usable() else read_all()
    except (BudgetSpent, SystemError, MemoryError, RecursionError):
        return None
    return Took(own, tuple(each for each in others if each is not None)) if own is not None else None


def _loose_pieces(context: RepairContext) -> Iterator[Proposal]:
    for node in context.nodes:
        if context.facts.is_in_class(node):
            continue
        if isinstance(node, Repeat):
            yield from _tighter(context, node)
            yield from _mark_repeated(context, node)
        elif isinstance(node, Dot | Shorthand | CharClass):
            yield from _narrower(context, node)
        elif isinstance(node, Character | Anchor | Group):
            yield from _literal(context, node)


def _tighter(context: RepairContext, node: Repeat) -> Iterator[Proposal]:
    """A quantifier that allows for too much."""
    start = node.span[1] - len(node.quantifier)
    span = (start, node.span[1])
    what = phrase(node.item, context.parsed.flags, short=True)
    if node.quantifier == "*":
        yield context.splice(span, "+", f"ask for at least one of {what}: +", 1.1)
    if (node.least, node.most) == (0, 1):
        yield context.splice(span, "", f"ask for {what}, which is optional now", 1.5)
        inner = node.item.body if isinstance(node.item, Group) else None
        if isinstance(inner, Sequence) is False and isinstance(node.item, Dot | Shorthand | CharClass | Character):
            yield from _with_mark_before(context, node)
    took = took_at(context, node.span)
    if took is None or not isinstance(node.item, Dot | Shorthand | CharClass | Character):
        return
    lengths = {len(each) for each in took.others} - {0}
    mark = {"greedy": "", "lazy": "?", "possessive": "+"}[node.mode]
    if lengths and len(took.own) not in lengths:
        low, high = min(lengths), max(lengths)
        if len(took.own) > high:
            least = (
                node.least
                if node.least <= low and node.quantifier.startswith("{")
                else low
                if node.least > 1
                else node.least
            )
            for fewest, cost in dict.fromkeys([(low, 1.1), (least, 1.15)]):
                bound = quantifier(fewest, high) + mark
                words = f"{what} came {len(took.own)} times; allow {high}: {bound}"
                yield context.splice(span, bound, words, cost + 0.2 * (len(took.others) < 2))
        else:
            most = node.most
            bound = quantifier(low, most) + mark
            few = 0.2 * (len(took.others) < 2 and node.most is None)
            yield context.splice(span, bound, f"{what} came {len(took.own)} times; ask for {low}: {bound}", 1.1 + few)
            bound = quantifier(low, high) + mark
            yield context.splice(span, bound, f"{what} came {len(took.own)} times; ask for {low}: {bound}", 1.15 + few)
    longest = len(took.own)
    if longest > max(node.least, 1) and not took.others:
        bound = f"{{{node.least},{longest - 1}}}" if node.least != longest - 1 else f"{{{node.least}}}"
        yield context.splice(span, bound, f"{what} came {longest} times; allow fewer: {bound}", 1.4)


def _with_mark_before(context: RepairContext, node: Repeat) -> Iterator[Proposal]:
    """A separator that is there whether or not what follows it is: `-(?:\\d)?` for `(?:-\\d)?`."""
    for one, other in context.pairs():
        mark = literal_of(one)
        if other is node and mark is not None and not mark.isalnum():
            piece = context.case.expression[one.span[0] : node.span[1] - len(node.quantifier)]
            words = f"{spelled(one)} comes and goes with what follows it: (?:{piece})?"
            yield context.splice((one.span[0], node.span[1]), f"(?:{piece})?", words, 1.1)


def _narrower(context: RepairContext, node: Dot | Shorthand | CharClass) -> Iterator[Proposal]:
    """A class, shorthand or dot that takes too much."""
    repeated = context.facts.is_repeated(node)
    around = context.facts.parents.get(node)
    took = took_at(context, around.span if repeated and around is not None else node.span)
    flags = context.parsed.flags - {"verbose"}
    if isinstance(node, CharClass):
        yield from _fewer_members(context, node, took)
        yield from loose_number(context, node)
    if took is None:
        return
    used, own = dict.fromkeys("".join(took.others)), dict.fromkeys(took.own)
    odd = [each for each in own if each not in used]
    if isinstance(node, Dot) and own and "." not in own and (not used or set(used) == {"."}):
        words = f"the dot took {character_words(next(iter(own)))}; for a point alone write \\."
        yield context.splice(node.span, "\\.", words, 0.7 if used or not repeated else 1.3)
    elif isinstance(node, Dot) and not repeated and used and set(used) == {"."}:
        # What it took last was a point; in a turn before it need not have been.
        yield context.splice(node.span, "\\.", "the texts that should fit have a point there alone: \\.", 0.85)
    if isinstance(node, Shorthand) and any(not each.isascii() for each in odd):
        other = next(each for each in odd if not each.isascii())
        changed = replace(context.case, flags=context.case.flags | {"ascii"})
        likely = 0.8 if other.isdecimal() or node.name == "digit" else 1.12
        yield Proposal(
            changed, f"{node.spelling} took {character_words(other)}, of another alphabet (flag ascii)", likely
        )
    if isinstance(node, Shorthand) and len(node.spelling) == 2 and node.negated:
        other = node.spelling.swapcase()
        yield context.splice(node.span, other, f"{node.spelling} is meant as {other}", 0.9)
    following = character_after(context, around if repeated and around is not None else node)
    if repeated and isinstance(around, Repeat) and isinstance(node, Dot | Shorthand):
        yield from _as_shaped(context, around, took)
    wide = isinstance(node, Dot) or (isinstance(node, Shorthand) and node.spelling in (r"\S", r"\w", r"\D", r"\W"))
    if wide:
        yield from _stopping(context, node, following, odd, bool(used), repeated)
    now = takes(spelled(node), flags)
    written = {spelled(each) for each in context.nodes if isinstance(each, Shorthand | CharClass)}
    for kind in _KINDS:
        test = takes(kind, flags)
        repeats = any(isinstance(each, Repeat) for each in _around(context, around or node))
        # What follows may take what this piece need not.
        shared = 0.0 if all(map(test, used)) else 0.2
        if kind == spelled(node) or (all(map(test, own)) and not repeats) or (shared and kind not in _USUAL):
            continue
        if all(map(test, "0Aaz_-é \u0663")) >= all(map(now, "0Aaz_-é \u0663")) and isinstance(node, CharClass):
            continue
        words = f"{spelled(node)} took {text_words(took.own)}; allow less: {kind}"
        cost = (
            (0.0 if used else 0.3)
            + _KINDS[kind]
            - 0.15 * (kind in written)
            + shared
            + 0.1 * (isinstance(node, CharClass))
        )
        yield context.splice(node.span, kind, words, cost)
    if used and len(used) > 1:
        yield from _as_range(context, node, sorted(used))


def _around(context: RepairContext, node: Node) -> Iterator[Node]:
    """Yield all that is around a node."""
    around = context.facts.parents.get(node)
    while around is not None:
        yield around
        around = context.facts.parents.get(around)


def _as_range(context: RepairContext, node: Node, used: list[str]) -> Iterator[Proposal]:
    low, high = used[0], used[-1]
    same = (
        all(each.isupper() for each in used)
        or all(each.islower() for each in used)
        or all(each.isdigit() for each in used)
    )
    if same and low.isascii() and high.isascii():
        new = f"[{low}-{high}]"
        yield context.splice(
            node.span,
            new,
            f"the texts that should fit have {low} to {high} there: {new}",
            1.6 if low.isdigit() else 1.35,
        )


def character_after(context: RepairContext, node: Node) -> str:
    """Return the character that must follow a piece, empty where that is none in particular."""
    for one, other in context.pairs():
        if one is node:
            literal = literal_of(other.item if isinstance(other, Repeat) else other)
            return literal[:1] if literal else ""
    around = context.facts.parents.get(node)
    if isinstance(around, Group | Repeat) or (
        isinstance(around, Sequence) and without_asides(around.items)[-1] is node
    ):
        return character_after(context, around)
    return ""


def _stopping(
    context: RepairContext, node: Node, following: str, odd: list[str], is_known: bool, repeated: bool
) -> Iterator[Proposal]:
    """What takes anything, stopped at the delimiter that follows, or before what stands in the text alone."""
    if following:
        new = f"[^{class_spelling(following)}]"
        words = f"{spelled(node)} took too much; stop at the next {following}: {new}"
        yield context.splice(node.span, new, words, 0.85 if repeated else 1.05)
    preceding = next(
        (literal_of(one) for one, other in context.pairs() if node in (other, getattr(other, "item", None))), None
    )
    if preceding and preceding[-1] != following and not preceding[-1].isalnum():
        new = f"[^{class_spelling(preceding[-1])}]"
        yield context.splice(node.span, new, f"{spelled(node)} took too much; stop at a {preceding[-1]}: {new}", 1.15)
        if following and not following.isalnum():
            new = f"[^{class_spelling(preceding[-1])}{class_spelling(following)}]"
            words = f"{spelled(node)} took too much; stop at {preceding[-1]} and {following}: {new}"
            yield context.splice(node.span, new, words, 1.25)
    for mark in [each for each in odd if not each.isalnum()][:3]:
        if mark != following:
            new = f"[^{class_spelling(mark)}]"
            yield context.splice(node.span, new, f"{spelled(node)} took {character_words(mark)} too: {new}", 1.2)


def _fewer_members(context: RepairContext, node: CharClass, took: Took | None) -> Iterator[Proposal]:
    """Members of a class that were not meant: a bar, a range that takes more than it seems, what no text needs."""
    flags = context.parsed.flags - {"verbose"}
    for item in node.items:
        if not isinstance(item, Range):
            continue
        low, high = item.first.character, item.last.character
        if low.isupper() and high.islower() and low.isascii() and high.isascii():
            new = f"{low}-Z" + ("a-" + high)
            yield context.splice(item.span, new, f"{spelled(item)} takes in [\\]^_` as well: {new}", 0.8)
        elif not (low.isalnum() and high.isalnum()):
            new = f"{spelled(item.first)}\\-{spelled(item.last)}"
            yield context.splice(item.span, new, f"{spelled(item)} is a range; the hyphen itself is \\-: {new}", 0.8)
            new = f"{spelled(item.first)}{spelled(item.last)}"
            words = f"{spelled(item)} is a range, and takes more than its ends: {new}"
            yield context.splice(item.span, new, words, 1.0)
        elif not low.isascii() or not high.isascii():
            new = f"{low}-ÖØ-öø-{high}" if low <= "×" <= high and low <= "÷" <= high else ""
            if new:
                yield context.splice(item.span, new, f"{spelled(item)} takes in × and ÷ as well: {new}", 0.8)
    if node.negated:
        bare = f"[{spelled(node)[2:-1]}]"
        if took is not None and took.others and all(map(takes(bare, flags), "".join(took.others))):
            yield context.splice(node.span, bare, f"{spelled(node)} is meant the other way round: {bare}", 0.9)
        extra = "".join(class_spelling(each) for each in dict.fromkeys(took.own if took else "") if not each.isalnum())
        for mark in dict.fromkeys(took.own if took is not None else ""):
            if not mark.isalnum():
                new = f"{spelled(node)[:-1]}{class_spelling(mark)}]"
                yield context.splice(node.span, new, f"{spelled(node)} takes {character_words(mark)} too: {new}", 1.05)
        if len(extra) > 1:
            new = f"{spelled(node)[:-1]}{extra}]"
            yield context.splice(node.span, new, f"{spelled(node)} takes {extra} too: {new}", 1.2)
        return
    bars = [item for item in node.items if isinstance(item, Character) and item.character == "|"]
    if bars and len(node.items) > len(bars):
        kept = "".join(spelled(item) for item in node.items if item not in bars)
        words = f"a class needs no | between its members: [{kept}]"
        yield context.splice(node.span, f"[{kept}]", words, 0.7)
        if len(spelled(node)) > 4:
            inner = spelled(node)[1:-1]
            around = context.facts.parents.get(node)
            if isinstance(around, Repeat) and all(len(each) > 1 and each.isalnum() for each in inner.split("|")):
                words = f"{spelled(around)} is meant as alternatives: (?:{inner})"
                yield context.splice(around.span, f"(?:{inner})", words, 0.65)
            yield context.splice(
                node.span, f"(?:{inner})", f"{spelled(node)} is meant as alternatives: (?:{inner})", 0.75
            )
    for item in node.items if took is not None and len(node.items) == 1 else ():
        if isinstance(item, Range):
            assert took is not None
            yield from _shorter_range(context, item, took)
    for item in node.items if took is not None and len(node.items) > 1 else ():
        if isinstance(item, Range):
            assert took is not None
            yield from _shorter_range(context, item, took)
        if isinstance(item, Character | Range | Shorthand):
            alone = takes(f"[{spelled(item)}]", flags)
            assert took is not None
            if any(map(alone, took.own)) and not any(map(alone, "".join(took.others))):
                kept = "".join(spelled(each) for each in node.items if each is not item)
                words = f"{spelled(node)} takes {spelled(item)} too: [{kept}]"
                yield context.splice(node.span, f"[{kept}]", words, 1.0 if took.others else 1.2)


def _shorter_range(context: RepairContext, item: Range, took: Took) -> Iterator[Proposal]:
    """A range that goes on for one character too many, or begins one too early."""
    low, high, used = item.first.character, item.last.character, "".join(took.others)
    if high in took.own and high not in used and ord(high) - ord(low) > 1:
        new = f"{low}-{chr(ord(high) - 1)}"
        yield context.splice(item.span, new, f"{spelled(item)} takes {character_words(high)} too: {new}", 1.0)
    if low in took.own and low not in used and ord(high) - ord(low) > 1:
        new = f"{chr(ord(low) + 1)}-{high}"
        yield context.splice(item.span, new, f"{spelled(item)} takes {character_words(low)} too: {new}", 1.0)


def _all_stopped(context: RepairContext) -> Iterator[Proposal]:
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
    ways = [own, *([mark] * len(wide) for mark in marks)]
    for way in ways:
        made = context.case.expression
        if not all(each and not each.isalnum() for each in way):
            continue
        for node, mark in reversed(list(zip(wide, way, strict=True))):
            if not takes(spelled(node.item), context.parsed.flags - {"verbose"})(mark):
                continue
            start, end = node.item.span
            made = f"{made[:start]}[^{class_spelling(mark)}]{made[end:]}"
        named = " and ".join(map(character_words, dict.fromkeys(way)))
        words = f"each {spelled(wide[0])} took too much; stop at {named}: {made}"
        yield Proposal(replace(context.case, expression=made), words, 0.95)


def _all_narrowed(context: RepairContext) -> Iterator[Proposal]:
    """Pieces written alike that all take too much, narrowed alike."""
    flags = context.parsed.flags - {"verbose"}
    several: dict[str, list[Node]] = {}
    for node in context.nodes:
        if isinstance(node, Shorthand | Dot | CharClass) and not context.facts.is_in_class(node):
            several.setdefault(spelled(node), []).append(node)
    for spelling, nodes in several.items():
        if not 2 <= len(nodes) <= MOST_ALIKE:
            continue
        around = [context.facts.parents.get(each) if context.facts.is_repeated(each) else each for each in nodes]
        took = [took_at(context, each.span) for each in around if each is not None]
        used = "".join(other for each in took if each is not None for other in each.others)
        for kind, cost in _KINDS.items():
            test = takes(kind, flags)
            odd = sum(each is not None and not all(map(test, each.own)) for each in took)
            if not used or kind == spelling or not odd or not all(map(test, used)):
                continue
            made = context.case.expression
            for node in reversed(nodes):
                made = made[: node.span[0]] + kind + made[node.span[1] :]
            words = f"each {spelling} took too much; allow less: {kind}"
            yield Proposal(replace(context.case, expression=made), words, cost + (0.05 if odd == 1 else -0.1))


_SHAPES = (
    "[A-Z][a-z]+", r"[A-Z][a-z]+(?: [a-z]+)+", r"\d+\.\d+", r"\d+(?:\.\d+)?", r"\d+(?:,\d+)?", "[A-Z]+", r"[A-Z]+\d+",
    "[a-z]+(?:-[a-z]+)*",
)  # fmt: skip
"""Shapes of what several texts have in the place of a piece that takes anything."""


def _as_shaped(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """A piece that takes anything, where all texts that should fit have something of one shape there."""
    if len(set(took.others)) < 2:
        return
    for shape in _SHAPES:
        test = re.compile(shape).fullmatch
        mark = re.search(r"\(\?:\\?(\W)", shape)
        needed = mark is None or any(mark[1] in each for each in took.others)
        if needed and all(map(test, took.others)) and not test(took.own):
            words = f"{spelled(node)} took {text_words(took.own)}; what should fit has another shape: {shape}"
            yield context.splice(node.span, shape, words, 1.05)


def _known(context: RepairContext) -> Iterator[Proposal]:
    """A number of two digits that is none of an hour, a month or the like."""
    for span, ways in known_numbers(context):
        took = took_at(context, span)
        for low, high, proposal in ways:
            if took is not None and took.own.isdecimal() and not low <= int(took.own) <= high:
                yield proposal


def _literal(context: RepairContext, node: Node) -> Iterator[Proposal]:
    """A piece that no longer asks for what it should."""
    if isinstance(node, Character) and node.spelling in ("d", "w", "s"):
        start, end = node.span
        beside = context.case.expression[start - 1 : start] + context.case.expression[end : end + 1]
        likely = 1.3 if not any(each.isalpha() for each in beside) else 1.7
        yield context.splice(node.span, "\\" + node.spelling, f"{node.spelling} is meant as \\{node.spelling}", likely)
    elif isinstance(node, Anchor) and node.spelling == "\\B":
        yield context.splice(node.span, "\\b", "\\B is meant as \\b", 1.0)


def _mark_repeated(context: RepairContext, node: Repeat) -> Iterator[Proposal]:
    """A quantifier that was meant as itself: all texts that should fit have the mark, after what it repeats now."""
    before, mark = literal_of(node.item), node.quantifier
    if before and mark in ("*", "+", "?") and all(before + mark in each for each in context.beside.fitting):
        span = (node.span[1] - 1, node.span[1])
        likely = 0.9 if context.beside.fitting else 1.3
        yield context.splice(span, escaped(mark), f"{mark} is meant as itself: {escaped(mark)}", likely)


def _grouped(context: RepairContext) -> Iterator[Proposal]:
    """Options that reach further than was meant."""
    for node in context.nodes:
        if isinstance(node, Alternation):
            yield from narrower_options(context, node, within_words=False)


def _flags(context: RepairContext) -> Iterator[Proposal]:
    words = {
        "ignore-case": "tell capitals from small letters",
        "multiline": "let ^ and $ stand at the ends of the text alone",
        "dotall": "let the dot stop at a line feed",
    }
    case = context.case
    for flag, what in words.items():
        if flag in case.flags:
            yield Proposal(replace(case, flags=case.flags - {flag}), f"{what} (without the flag {flag})", 1.0)
    if "ascii" not in case.flags and not case.text.isascii():
        yield Proposal(replace(case, flags=case.flags | {"ascii"}), "leave other alphabets out (flag ascii)", 1.0)
