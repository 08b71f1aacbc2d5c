"""Changes that would keep a text out which fits and should not: anchors, reach, bounds, escapes, narrower classes.

What a piece took of the text in question is held against what it takes of the texts that should fit.
"""

from __future__ import annotations

import re
from itertools import chain
from typing import TYPE_CHECKING, NamedTuple

from msgspec.structs import replace

from fieldstick.drafting.context import PRINTED, Proposal, class_spelling, escaped, quantifier, takes
from fieldstick.drafting.phrases import character_words, phrase, text_words
from fieldstick.drafting.slips import alike, bounded, dropping, edges, shaped
from fieldstick.drafting.slips.choices import narrower_options, one_of_optional
from fieldstick.drafting.slips.edges import beside_match, goes_on, shared_edges, unclosed
from fieldstick.drafting.slips.looks import got_around
from fieldstick.drafting.slips.members import fewer_members
from fieldstick.drafting.slips.notation import backslash_in_class
from fieldstick.drafting.slips.numbers import (
    is_digit,
    loose_number,
    no_zero_first,
    number_of_nothing,
    thousands_meant,
)
from fieldstick.drafting.slips.order import other_group, swapped
from fieldstick.drafting.slips.shaped import kind_of
from fieldstick.drafting.slips.taking import KINDS, SHUT, USUAL, character_after, took_at
from fieldstick.drafting.slips.wrapping import undoubled
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Anchor,
    Character,
    CharClass,
    Dot,
    Group,
    Range,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    once,
    spelled,
)

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator

    from fieldstick.drafting.context import RepairContext
    from fieldstick.syntax.tree import Node


_ROOMS = (alike, bounded, shaped, dropping, edges)


def restraints(context: RepairContext) -> list[Proposal]:
    """Return changes that may keep the text out, likeliest first; whether they do is for the engine to say."""
    if context.trace.spans is None:
        return []
    found = [
        *beside_match(context, context.trace.spans[0]),
        *_loose_pieces(context),
        *_every_dot(context),
        *_flags(context),
        *_grouped(context),
        *_buried_words(context),
        *got_around(context),
        *one_of_optional(context),
        *number_of_nothing(context),
        *thousands_meant(context),
        *no_zero_first(context),
        *backslash_in_class(context),
        *chain.from_iterable(rule(context) for each in _ROOMS for rule in each.RESTRAINTS),
        *shared_edges(context),
        *unclosed(context),
        *goes_on(context),
        *undoubled(context.case, 0.8),
        *other_group(context),
        *(replace(each, cost=each.cost + 0.6) for each in swapped(context)),
    ]
    return sorted(found, key=lambda proposal: proposal.cost)


FEW = 4
"""Texts up to which two lengths among them may be by chance."""


class _Written(NamedTuple):
    """What an expression asks for: kinds of characters, classes of many, and whether it has a repeated dot."""

    kinds: frozenset[str]
    classes: frozenset[str]
    has_anything: bool


def _written_in(context: RepairContext) -> _Written:
    found = [each for each in context.nodes if isinstance(each, Shorthand | CharClass)]
    positive = [each for each in found if isinstance(each, CharClass) and not each.negated]
    classes = [each for each in positive if any(isinstance(item, Range | Shorthand) for item in each.items)]
    anything = any(isinstance(each, Dot) and context.facts.is_repeated(each) for each in context.nodes)
    return _Written(frozenset(map(spelled, found)), frozenset(map(spelled, classes)), anything)


def _loose_pieces(context: RepairContext) -> Iterator[Proposal]:
    written = _written_in(context)
    lacking = [each for each in context.nodes if isinstance(each, Repeat) and _is_lacking(context, each)]
    for node in context.nodes:
        if context.facts.is_in_class(node):
            continue
        if isinstance(node, Repeat):
            yield from _tighter(context, node, alone=lacking == [node])
            yield from _mark_repeated(context, node)
        elif isinstance(node, Dot | Shorthand | CharClass):
            yield from _narrower(context, node, written)
        elif isinstance(node, Character | Anchor | Group):
            yield from _literal(context, node)


def _tighter(context: RepairContext, node: Repeat, *, alone: bool) -> Iterator[Proposal]:
    """A quantifier that allows for too much; `alone` tells that it is the only piece that the text lacks."""
    start = node.span[1] - len(node.quantifier)
    span = (start, node.span[1])
    what = phrase(node.item, context.parsed.flags, short=True)
    took = took_at(context, node.span)
    if node.quantifier == "*":
        likely = 0.85 if alone and isinstance(node.item, SINGLE) else 1.1
        yield context.splice(span, "+", f"ask for at least one of {what}: +", likely)
    if (node.least, node.most) == (0, 1):
        lacks = took is not None and took.is_lacking and len(took.others) > 1
        likely = 1.5 if not lacks else 0.85 if literal_of(node.item) != " " else 1.2
        yield context.splice(span, "", f"ask for {what}, which is optional now", likely)
        inner = node.item.body if isinstance(node.item, Group) else None
        if isinstance(inner, Sequence) is False and isinstance(node.item, SINGLE):
            yield from _with_mark_before(context, node)
    if isinstance(node.item, Group) and node.least == 1 and node.most is None:
        yield context.splice(span, "", f"{spelled(node.item)} comes once", 0.9)
    if isinstance(node.item, Group) and took is not None and len(took.others) > 1 and node.most is None:
        yield from shaped.so_many_turns(context, node, took)
    if isinstance(node.item, Group) and node.quantifier == "*":
        yield context.splice(span, "?", f"{spelled(node.item)} comes once at the most: ?", 1.2)
    if took is None or not isinstance(node.item, SINGLE):
        return
    lengths = {len(each) for each in took.others} - {0}
    vague = 0.2 * (node.most is None and not is_digit(node.item, context.parsed.flags))
    mark = {"greedy": "", "lazy": "?", "possessive": "+"}[node.mode]
    alike = {*map(kind_of, took.own)} <= {*map(kind_of, "".join(took.others))}
    if len(lengths) == 2 and min(lengths) < len(took.own) < max(lengths) and node.mode != "lazy" and alike:
        item = spelled(node.item)
        either = f"(?:{item}{quantifier(min(lengths), min(lengths))}|{item}{quantifier(max(lengths), max(lengths))})"
        words = f"{what} comes {min(lengths)} or {max(lengths)} times: {either}"
        anything = 0.4 * isinstance(node.item, Dot)
        yield context.splice(node.span, either, words, 1.0 + 0.15 * (len(took.others) < FEW) + anything)
    if lengths and len(took.own) not in lengths:
        low, high = min(lengths), max(lengths)
        if len(took.own) > high:
            if context.case.reach == "anywhere" and not node.span[0] and is_digit(node.item, context.parsed.flags):
                new = f"(?<!\\d){spelled(node.item)}{quantifier(low, high)}"
                yield context.splice(node.span, new, f"{what} came {_times(len(took.own))}, at most {high}: {new}", 1.0)
            least = (
                node.least
                if node.least <= low and node.quantifier.startswith("{")
                else low
                if node.least > 1
                else node.least
            )
            for fewest, cost in dict.fromkeys([(low, 1.1), (least, 1.15)]):
                bound = quantifier(fewest, high) + mark * (fewest < high)
                words = f"{what} came {_times(len(took.own))}; allow {high}: {bound}"
                yield context.splice(span, bound, words, cost + 0.2 * (len(took.others) < 2) + vague)
        else:
            most = node.most
            bound = quantifier(low, most) + mark
            few = 0.2 * (len(took.others) < 2 and node.most is None)
            # Several of one length are of that length.
            exact = 1.0 if low == high and len(took.others) > 1 else 1.15
            if not took.own and low > 1 and node.most is not None and node.most > 1:
                once = quantifier(1, node.most) + mark
                yield context.splice(span, once, f"{what} came 0 times; ask for one at least: {once}", 1.05)
            yield context.splice(
                span, bound, f"{what} came {_times(len(took.own))}; ask for {low}: {bound}", 1.1 + few + vague
            )
            bound = quantifier(low, high) + mark * (low < high)
            yield context.splice(
                span, bound, f"{what} came {_times(len(took.own))}; ask for {low}: {bound}", exact + few + vague
            )
    longest = len(took.own)
    if longest > max(node.least, 1) and not took.others:
        bound = f"{{{node.least},{longest - 1}}}" if node.least != longest - 1 else f"{{{node.least}}}"
        yield context.splice(span, bound, f"{what} came {_times(longest)}; allow fewer: {bound}", 1.4)


def _times(count: int) -> str:
    return "once" if count == 1 else f"{count} times"


def _is_lacking(context: RepairContext, node: Repeat) -> bool:
    """Tell whether what may be there any number of times is not in the text, and in all that should fit."""
    took = took_at(context, node.span) if node.quantifier == "*" else None
    return took is not None and took.is_lacking


def _with_mark_before(context: RepairContext, node: Repeat) -> Iterator[Proposal]:
    """A separator that is there whether or not what follows it is: `-(?:\\d)?` for `(?:-\\d)?`."""
    one = context.before.get(node)
    mark = literal_of(one) if one is not None else None
    if one is not None and mark is not None and not mark.isalnum():
        piece = context.case.expression[one.span[0] : node.span[1] - len(node.quantifier)]
        words = f"{spelled(one)} comes and goes with what follows it: (?:{piece})?"
        yield context.splice((one.span[0], node.span[1]), f"(?:{piece})?", words, 1.1)


def _every_dot(context: RepairContext) -> Iterator[Proposal]:
    """All the dots that stand on points alone, where that is so of several: they were all written so."""
    dots = [each for each in context.nodes if isinstance(each, Dot) and not context.facts.is_repeated(each)]
    found = [(each, took_at(context, each.span)) for each in dots]
    marks = {mark for _, taken in found if taken is not None for mark in taken.others if not mark.isalnum()}
    for mark in sorted(marks):
        known = [each for each, taken in found if taken is not None and taken.others and {*taken.others} == {mark}]
        # One that took no part, as that of another option, says nothing against it.
        points = [each for each, taken in found if taken is None or not taken.others or each in known]
        if len(points) > 1 and known:
            words = f"the texts that should fit have {character_words(mark)} there alone, each time: {escaped(mark)}"
            cost = 0.68 if mark == "." else 0.72
            yield context.splice_all([(each.span, escaped(mark)) for each in points], words, cost)


def _narrower(context: RepairContext, node: Dot | Shorthand | CharClass, written: _Written) -> Iterator[Proposal]:
    """A class, shorthand or dot that takes too much."""
    repeated = context.facts.is_repeated(node)
    around = context.facts.parents.get(node)
    took = took_at(context, around.span if repeated and around is not None else node.span)
    flags = context.parsed.flags - {"verbose"}
    if isinstance(node, CharClass):
        yield from fewer_members(context, node, took)
        if took is not None:
            yield from loose_number(context, node, took.own)
            yield from shaped.loose_words(context, node, took)
            yield from shaped.marks_inside(context, node, took)
    if took is None:
        return
    used, own = dict.fromkeys("".join(took.others)), dict.fromkeys(took.own)
    if not repeated or (isinstance(around, Repeat) and around.most == 1):
        yield from shaped.one_character(context, node, took)
    odd = [each for each in own if each not in used]
    if isinstance(node, Dot) and took.own and not took.own.strip() and all(map(str.strip, took.others)) and used:
        new = "\\S" + ".*" * repeated
        span = around.span if around and repeated else node.span
        yield context.splice(span, new, f"the text has nothing but white space there: {new}", 0.85)
    following = character_after(context, around if repeated and around is not None else node)
    yield from alike.up_to_the_same(context, node, around if repeated and around is not None else node)
    quoted = bool(following) and following in "\"'`" and isinstance(around, Alternation)
    counted = isinstance(around, Repeat) and repeated and around.most is not None
    if isinstance(node, Dot) and counted and own and not used:
        yield context.splice(node.span, "\\.", "so many dots are rather as many points: \\.", 1.1)
    elif isinstance(node, Dot) and own and "." not in own and (not used or set(used) == {"."}):
        words = f"the dot took {character_words(next(iter(own)))}; for a point alone write \\."
        yield context.splice(node.span, "\\.", words, 0.7 + 0.6 * quoted if used or not repeated else 1.3)
    elif isinstance(node, Dot) and not repeated and set(used) <= {"."}:
        # What it took last was a point; in a turn before it need not have been.
        yield context.splice(node.span, "\\.", "the dot takes anything; for a point alone write \\.", 0.85)
    if isinstance(node, Shorthand) and any(not each.isascii() for each in odd):
        other = next(each for each in odd if not each.isascii())
        changed = replace(context.case, flags=context.case.flags | {"ascii"})
        likely = 0.8 if other.isdecimal() or node.name == "digit" else 1.12
        yield Proposal(
            changed, f"{node.spelling} took {character_words(other)}, of another alphabet (flag ascii)", likely
        )
    if isinstance(node, CharClass) and node.negated and node.items:
        other = f"[{spelled(node)[2:-1]}]"
        likely = 0.8 if other in written.kinds else 1.2
        yield context.splice(node.span, other, f"{spelled(node)} is meant the other way round: {other}", likely)
    if isinstance(node, Shorthand) and len(node.spelling) == 2 and node.negated:
        other = node.spelling.swapcase()
        yield context.splice(node.span, other, f"{node.spelling} is meant as {other}", 0.9)
    if isinstance(node, Shorthand) and node.spelling == r"\s" and took.others[1:] and {*took.others} == {" "}:
        span = around.span if repeated and around is not None else node.span
        yield context.splice(span, " ", "the texts that should fit have one blank there", 0.9)
    if repeated and isinstance(around, Repeat) and not (isinstance(node, Shorthand) and node.name == "digit"):
        yield from shaped.as_shaped(context, around, took)
        yield from shaped.first_capital(context, around, took)
        yield from shaped.first_letter(context, around, took)
        yield from shaped.letters_before_digits(context, around, took)
        yield from shaped.of_kinds(context, node, took)
    if repeated and isinstance(around, Repeat):
        yield from shaped.without_zeros(context, around, took)
        yield from shaped.shared_start(context, around, took)
        yield from shaped.shared_mark(context, around, took)
        yield from shaped.few_values(context, around, took)
    wide = isinstance(node, Dot) or (isinstance(node, Shorthand) and node.spelling in (r"\S", r"\w", r"\D", r"\W"))
    if wide:
        yield from _stopping(context, node, following, odd, written, repeated or quoted)
    now = takes(spelled(node), flags)
    for kind in sorted(written.classes - KINDS.keys()) if repeated and own else ():
        if takes(kind, flags)("a") and {*filter(takes(kind, flags), PRINTED)} < {*filter(now, PRINTED)}:
            words = f"{spelled(node)} took {text_words(took.own)}; allow what stands elsewhere: {kind}"
            yield context.splice(node.span, kind, words, 1.0)
    for kind in KINDS:
        test = takes(kind, flags)
        repeats = any(isinstance(each, Repeat) for each in context.facts.around(around or node))
        # What follows may take what this piece need not.
        shared = 0.0 if all(map(test, used)) else 0.2
        if (
            kind == spelled(node)
            or (kind, spelled(node)) == (r"\d", "[0-9]")
            or (all(map(test, own)) and not repeats)
            or (shared and kind not in USUAL)
        ):
            continue
        if not {*filter(test, PRINTED)} < {*filter(now, PRINTED)}:
            continue
        words = f"{spelled(node)} took {text_words(took.own)}; allow less: {kind}"
        cost = (
            (0.0 if used else 0.3)
            + KINDS[kind]
            - 0.15 * (kind in written.kinds)
            - 0.25 * _begins_like(context, node, kind)
            - 0.05 * (len(used) > 1 and kind in ("[A-Z]", "[a-z]"))
            + shared
            + 0.1 * (isinstance(node, CharClass))
            - 0.12 * (isinstance(node, Dot) and not repeated)
            + 0.15 * (not isinstance(node, Dot) and written.has_anything)
            # Of several marks that it need not take, to shut one out is not what was forgotten.
            - 0.1 * (repeated and not isinstance(node, Dot) and len(_marks_outside(own, test)) > 1)
        )
        yield context.splice(node.span, kind, words, cost)
        if isinstance(around, Repeat) and around.quantifier == "*" and all(took.others) and took.others and took.own:
            yield context.splice(around.span, kind + "+", f"{words}+", cost - 0.05)
    if used and len(used) > 1:
        yield from _as_range(context, node, sorted(used))


def _begins_like(context: RepairContext, node: Node, kind: str) -> bool:
    """Tell whether one character stands before many of a class that takes marks beside those of a kind."""
    after = context.after.get(node)
    item = once(after) if isinstance(after, Repeat) else None
    if not isinstance(item, CharClass) or kind == spelled(item):
        return False
    marks = {each for each in item.items if isinstance(each, Character) and not each.character.isalnum()}
    return bool(marks) and kind == f"[{''.join(spelled(each) for each in item.items if each not in marks)}]"


def _marks_outside(text: Iterable[str], test: Callable[[str], bool]) -> set[str]:
    """Return the marks of a text that a kind of characters does not take."""
    return {each for each in text if not each.isalnum() and not test(each)}


def _as_range(context: RepairContext, node: Node, used: list[str]) -> Iterator[Proposal]:
    low, high = used[0], used[-1]
    same = (
        all(each.isupper() for each in used)
        or all(each.islower() for each in used)
        or all(each.isdigit() for each in used)
    )
    listed = isinstance(node, CharClass) and all(isinstance(each, Character) for each in node.items)
    if same and low.isascii() and high.isascii() and not listed:
        new = f"[{low}-{high}]"
        around = context.facts.parents.get(node)
        is_several = isinstance(around, Repeat) and around.most != 1
        yield context.splice(
            node.span,
            new,
            f"the texts that should fit have {low} to {high} there: {new}",
            1.6 if low.isdigit() or is_several else 1.35,
        )
        if low.isdigit() and low != "0":
            words = f"the texts that should fit have digits up to {high} there: [0-{high}]"
            yield context.splice(node.span, f"[0-{high}]", words, 1.65 if low == "1" else 1.55)


def _stopping(
    context: RepairContext, node: Node, following: str, odd: list[str], written: _Written, repeated: bool
) -> Iterator[Proposal]:
    """What takes anything, stopped at the delimiter that follows, or before what stands in the text alone."""
    shut = SHUT.get(spelled(node), "")
    if following:
        new = f"[^{shut}{class_spelling(following)}]" if following != " " else r"\S"
        words = f"{spelled(node)} took too much; stop at {character_words(following)}: {new}"
        yield context.splice(node.span, new, words, 0.85 if repeated else 1.05)
    around = context.facts.parents.get(node)
    before = context.before.get(around if repeated and around is not None else node)
    preceding = literal_of(before) if before is not None else None
    if preceding and preceding[-1] != following and not preceding[-1].isalnum():
        new = f"[^{shut}{class_spelling(preceding[-1])}]"
        yield context.splice(
            node.span, new, f"{spelled(node)} took too much; stop at {character_words(preceding[-1])}: {new}", 1.15
        )
        if following and not following.isalnum():
            new = f"[^{shut}{class_spelling(preceding[-1])}{class_spelling(following)}]"
            both = f"{character_words(preceding[-1])} and {character_words(following)}"
            words = f"{spelled(node)} took too much; stop at {both}: {new}"
            yield context.splice(node.span, new, words, 1.25)
    pair = next((each for each in ("[]", "()", "{}", "<>") if set(each) <= set(odd)), "")
    if pair:
        new = f"[^{class_spelling(pair[0])}{class_spelling(pair[1])}]"
        yield context.splice(node.span, new, f"{spelled(node)} took {pair} too: {new}", 1.05)
    for mark in [each for each in odd if not each.isalnum()][:3]:
        if shut:
            new = f"[^{shut}{class_spelling(mark)}]"
            yield context.splice(node.span, new, f"{spelled(node)} took {character_words(mark)} too: {new}", 1.0)
        elif mark != following:
            new = f"[^{class_spelling(mark)}]"
            cost = 0.85 if new in written.kinds else 1.2
            yield context.splice(node.span, new, f"{spelled(node)} took {character_words(mark)} too: {new}", cost)


def _literal(context: RepairContext, node: Node) -> Iterator[Proposal]:
    """A piece that no longer asks for what it should."""
    if isinstance(node, Character) and node.spelling in ("d", "w", "s"):
        start, end = node.span
        beside = context.case.expression[start - 1 : start] + context.case.expression[end : end + 1]
        if beside.isalpha() and len(beside) == 2:
            return
        likely = 1.3 if not any(each.isalpha() for each in beside) else 1.7
        yield context.splice(node.span, "\\" + node.spelling, f"{node.spelling} is meant as \\{node.spelling}", likely)
    elif isinstance(node, Anchor) and node.spelling == "\\B":
        yield context.splice(node.span, "\\b", "\\B is meant as \\b", 1.0)


def _buried_words(context: RepairContext) -> Iterator[Proposal]:
    """A word that is spelled out, and stands in a longer one in the text."""
    for span, word in context.words():
        buried = re.search(rf"\w{re.escape(word)}|{re.escape(word)}\w", context.case.text)
        if len(word) > 1 and buried is not None:
            words = f"{word} stands in a longer word: \\b{word}\\b"
            yield context.splice(span, f"\\b{word}\\b", words, 0.95)


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
