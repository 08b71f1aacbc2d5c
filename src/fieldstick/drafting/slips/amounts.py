"""Quantifiers that are too tight, missing, or meant for another piece; pieces that need not be there."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections import Counter
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, escaped, last_piece, quantifier
from fieldstick.drafting.phrases import character_words, phrase, text_words
from fieldstick.drafting.slips.framing import PAIRS
from fieldstick.drafting.slips.numbers import is_digit
from fieldstick.drafting.slips.taking import MOST_TEXTS, took_of
from fieldstick.engines.probing import fits
from fieldstick.lean import compiled_later
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
    children,
    literal_of,
    once,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from fieldstick.drafting.context import RepairContext


LONGEST_QUANTIFIED = 10
"""Items before a quantifier that it is tried to have been meant for."""

MOST_TIMES = 4
"""Times that a group is tried to have been meant for."""

LONGEST_EDGE = 12
"""Pieces that a text begins with, words as one, up to which they are tried as lacking."""

LONGEST_OPTIONAL = 5
"""Items in a row that are tried as one optional piece."""


def bounds(context: RepairContext) -> Iterator[Proposal]:
    """A quantifier too tight by a little."""
    for node in context.nodes:
        if not isinstance(node, Repeat):
            continue
        near = context.near(node) / 2
        start = node.span[1] - len(node.quantifier)
        mark = {"greedy": "", "lazy": "?", "possessive": "+"}[node.mode]
        item = phrase(node.item, context.parsed.flags, short=True)
        if node.most is not None and node.most < 3 and _leads_thousands(context, node):
            words = f"{node.quantifier} is too tight for {item} before groups of three: {{1,3}}"
            yield context.splice((start, node.span[1]), "{1,3}", words, 0.85 + near)
        if node.least == node.most and node.most in (2, 4) and _follows_mark_each_time(context, node):
            words = f"{node.quantifier} is meant for groups of three digits: {{3}}"
            yield context.splice((start, node.span[1]), "{3}", words, 0.85 + near)
        is_free = node.least == node.most and _is_nowhere_held(context, node)
        for least, most, cost in looser(node):
            new = quantifier(least, most) + mark
            words = f"{node.quantifier} is too tight for {item}: {new}"
            # Where no text that fits has it, it is of another count rather than of several.
            cost += shortening(context) * (least < node.least) - 0.2 * (is_free and least == most)
            yield context.splice((start, node.span[1]), new, words, cost + near)
        yield from _one_count_or_another(context, node, near)
        if node.mode == "possessive":
            new = node.quantifier[:-1]
            words = f"{node.quantifier} gives nothing back: {new}"
            yield context.splice((start, node.span[1]), new, words, 0.7 + near)


def _one_count_or_another(context: RepairContext, node: Repeat, near: float) -> Iterator[Proposal]:
    """Digits of a year, say, two or four: never three, where others have two and the text has twice as many."""
    if not 0 < node.least == node.most or spelled(node.item) != r"\d" or not context.held:
        return
    count = 2 * node.least
    if re.search(rf"(?<!\d)\d{{{count}}}(?!\d)", context.case.text):
        either = f"{spelled(node)}|\\d{{{count}}}"
        around = context.facts.parents.get(node)
        new = either if isinstance(around, Group) and around.body is node else f"(?:{either})"
        words = f"there are {node.least} digits or {count}: {new}"
        yield context.splice(node.span, new, words, (1.02 if count == 4 else 1.2) + near)


def _is_nowhere_held(context: RepairContext, node: Repeat) -> bool:
    """Tell whether several texts are known, and of those that fit none has what a piece asks for."""
    if not context.held:
        return bool(context.missed)
    took = took_of(context, node.span, context.held[:MOST_TEXTS])
    return bool(took) and all(each is None for each in took)


def _leads_thousands(context: RepairContext, node: Repeat) -> bool:
    """Tell whether digits stand before any number of groups of three, a mark before each."""
    following = context.case.expression[node.span[1] :]
    return is_digit(node.item, context.parsed.flags) and _THOUSANDS.match(following) is not None


def _follows_mark_each_time(context: RepairContext, node: Repeat) -> bool:
    """Tell whether digits stand behind a mark of numbers' groups, any number of times."""
    before, after = context.case.expression[: node.span[0]], context.case.expression[node.span[1] :]
    digits = is_digit(node.item, context.parsed.flags)
    return digits and after[:2] in (")*", ")+") and _GROUP_MARK.search(before) is not None


_GROUP_MARK = compiled_later(r"\\d(?:\{1,[23]\}|\+)?\((?:\?:)?(?:\\?[.,' ]|\[[.,' ]+\])\??$")
_THOUSAND = compiled_later(r"\((?:\?:)?\\?[.,' ](?:\\d|\[0-9\])\{3\}\)")
_MARK_LAST = compiled_later(r"(?:[+*}]|\\[dw])(?:\\.|[^\w)\]}*+?\\])\)$")
_MARK_FIRST = compiled_later(r"\((?:\?:)?(?:\\[^\w]|[^\w(\\])")
_LISTED = compiled_later(r"\((?:\?:)?(?:\\[^\w\s]|[ ,;:/_|-])[*?]?[^)]")
_THOUSANDS = compiled_later(r"\((?:\?:)?(?:\\?[.,' ]|\[[^\]]+\])\??(?:\\d|\[0-9\])\{3\}\)[*+]")


def looser(node: Repeat) -> Iterator[tuple[int, int | None, float]]:
    """Yield looser bounds than a quantifier has, and what each costs."""
    for step in (1, 2, 3):
        if node.most is not None and (node.most > 1 or node.least == node.most):
            yield node.least, node.most + step, 0.9 + 0.15 * step
            if node.least == node.most:
                yield node.least + step, node.most + step, 0.98 + 0.15 * step
        if node.least - step >= 1:
            yield node.least - step, node.most, 0.9 + 0.15 * step
            if node.least == node.most:
                yield node.least - step, node.least - step, 0.98 + 0.15 * step
    if node.least == 1 and node.most is None:
        yield 0, None, 1.0
    # A mark with what follows it makes a list.
    listed = _MARK_FIRST.match(spelled(node.item)) is not None
    led = _MARK_LAST.search(spelled(node.item)) is not None and isinstance(node.item, Group)
    if (node.least, node.most) == (0, 1):
        options = isinstance(node.item, Group) and isinstance(node.item.body, Alternation)
        yield 0, None, 0.9 if listed else 1.15 if options else 1.4
    if node.most is not None and node.most > 1:
        # Words are of any length; codes are not.
        yield node.least, None, 1.15 if spelled(node.item) == "[a-z]" else 1.5
        if node.least > 1 and node.least == node.most:
            yield 1, None, 1.3 if listed else 1.05 if led else 1.4
            if listed:
                yield 0, None, 1.3
    if node.least > 1:
        yield 1, node.most, 1.45
        yield 0, node.most, 1.6


def repeats(context: RepairContext, mark: str) -> Iterator[Repeat]:
    """Yield what is repeated by a quantifier of one mark."""
    return (each for each in context.nodes if isinstance(each, Repeat) and each.quantifier == mark)


def more_of_it(context: RepairContext) -> Iterator[Proposal]:
    """One character asked for where several stand."""
    for node in context.nodes:
        if context.facts.is_in_class(node) or context.facts.is_repeated(node):
            continue
        if isinstance(node, Character) and 2 * node.character in context.case.text:
            words = f"{character_words(node.character)} stands several times in the text: {spelled(node)}+"
            # Blanks, dashes and letters come in any number; other marks are written twice.
            twice = not (node.character.isspace() or node.character.isalnum() or node.character in "-_=*#")
            yield context.splice(node.span, spelled(node) + "+", words, 1.1 + 0.25 * twice + context.near(node) / 2)
            if twice:
                words = f"{character_words(node.character)} stands twice in the text: {2 * spelled(node)}"
                yield context.splice(node.span, 2 * spelled(node), words, 1.0 + context.near(node) / 2)
        if not isinstance(node, Shorthand | CharClass | Dot):
            continue
        near = context.near(node) / 2
        words = f"{spelled(node)} takes one character alone: {spelled(node)}+"
        yield context.splice(node.span, spelled(node) + "+", words, 1.2 + near)
        if isinstance(node, Shorthand) and node.name == "digit":
            words = f"{spelled(node)} takes one digit alone: {spelled(node)}{{1,2}}"
            yield context.splice(node.span, spelled(node) + "{1,2}", words, 1.22 + near)
        if isinstance(node, CharClass) and node.negated and len(node.items) == 1 and _is_framed(context, node):
            for amount, cost in (("*", 0.9), ("+", 0.95)):
                words = f"what stands between the marks may be any number of characters: {spelled(node)}{amount}"
                yield context.splice(node.span, spelled(node) + amount, words, cost + near)
        if isinstance(node, Dot) or (isinstance(node, CharClass) and node.negated):
            words = f"{spelled(node)} takes one character alone: {spelled(node)}*"
            yield context.splice(node.span, spelled(node) + "*", words, 1.35 + near)


def _is_framed(context: RepairContext, node: CharClass) -> bool:
    """Tell whether a class stands between two marks of which it shuts out the second."""
    one, other = context.before.get(node), context.after.get(node)
    opening, closing = literal_of(one) if one else None, literal_of(other) if other else None
    shut = node.items[0]
    return PAIRS.get(opening or "") == closing and isinstance(shut, Character) and shut.character == closing


def counted_elsewhere(context: RepairContext) -> Iterator[Proposal]:
    """One character asked for where the same class is counted elsewhere: `\\d(?:\\.\\d{1,3}){3}`."""
    counts: dict[str, dict[str, None]] = {}
    for node in context.nodes:
        if isinstance(node, Repeat) and isinstance(node.item, Shorthand | CharClass) and node.quantifier[0] == "{":
            counts.setdefault(spelled(node.item), {})[node.quantifier] = None
    for node in context.nodes if counts else ():
        if isinstance(node, Shorthand | CharClass) and not context.facts.is_repeated(node):
            for amount in list(counts.get(spelled(node), ()))[:2]:
                new = spelled(node) + amount
                words = f"{spelled(node)} takes one character alone, and elsewhere {amount} of them: {new}"
                yield context.splice(node.span, new, words, 0.98 + context.near(node) / 2)


def group_repeated(context: RepairContext) -> Iterator[Proposal]:
    """A group that stands in the text several times."""
    written = Counter(each.character for each in context.nodes if isinstance(each, Character))
    counts = [("+", 1.15), ("*", 1.25), *((f"{{{count}}}", 1.2) for count in range(2, MOST_TIMES + 1))]
    for node in context.nodes:
        if not isinstance(node, Group) or node.kind not in ("plain", "capture") or context.facts.is_repeated(node):
            continue
        # Of what is captured again and again the last is kept.
        one = node.kind == "capture" and isinstance(node.body, Repeat)
        unlikely = 0.2 * (node.name is not None or one) + 0.1 * (not isinstance(node.body, Alternation))
        # A mark with what follows or leads to it, of which the text has more than are written, makes a list.
        ends = without_asides(node.body.items) if isinstance(node.body, Sequence) else ()
        marks = [mark for mark in map(literal_of, (*ends[:1], *ends[-1:])) if mark and not mark.isalnum()]
        more = any(context.case.text.count(mark) > written[mark] for mark in marks)
        unlikely -= 0.25 * more
        unlikely -= 0.12 * (_THOUSAND.fullmatch(spelled(node)) is not None)
        for amount, cost in counts:
            words = f"{spelled(node)} stands several times in the text: {spelled(node)}{amount}"
            likely = cost + unlikely + context.near(node) / 2 - 0.07 * (more and amount == "*")
            yield context.splice(node.span, spelled(node) + amount, words, likely)


def optional(context: RepairContext) -> Iterator[Proposal]:
    """A piece that the text does not have, made optional."""
    for node in context.nodes:
        if isinstance(node, Sequence):
            yield from _optional_runs(context, without_asides(node.items), _again(context, node))
            continue
        near = context.near(node)
        fit_for_it = isinstance(node, Group | CharClass | Shorthand | Character | Dot) and near < 0.5
        if fit_for_it and not context.facts.is_in_class(node) and not context.facts.is_repeated(node):
            piece = spelled(node)
            words = f"{phrase(node, context.parsed.flags, short=True)} need not be there: {piece}?"
            likely = (1.05 if isinstance(node, Group) else 1.25) + shortening(context)
            if isinstance(node, Character) and not node.character.isalnum() and context.found:
                # The text goes on with what stands behind it.
                following = context.after.get(node)
                behind = following is not None and literal_of(following) == context.found
                likely -= 0.25 * (behind and node.character not in context.case.text[context.at :])
            yield context.splice(node.span, f"{piece}?", words, likely + near)
            if isinstance(node, Group) and _LISTED.match(piece):
                words = f"{piece} may be there any number of times: {piece}*"
                yield context.splice(node.span, f"{piece}*", words, likely + near + 0.1)


def _again(context: RepairContext, node: Node) -> bool:
    """Tell whether a piece is all of a group that is repeated."""
    around = context.facts.parents.get(node)
    return isinstance(around, Group) and context.facts.is_repeated(around)


def _optional_runs(context: RepairContext, items: tuple[Node, ...], again: bool) -> Iterator[Proposal]:
    """Yield pieces in a row made optional; all there is of what is repeated less readily: that has an amount."""
    expression = context.case.expression
    # Words that are spelled out come and go whole, and letters of a short one.
    stops = [at for at in range(len(items) + 1) if not _cuts_word(items, at)]
    for start in range(len(items)):
        blank = literal_of(items[start]) == " "
        near = context.near(items[start])
        optional_mark = _is_optional_mark(items[start])
        if optional_mark and start + 1 < len(items):
            near = min(near, context.near(items[start + 1]))
        if near > (1.0 if blank else 0.5):
            continue
        first = bisect_right(stops, start)
        whole = stops[first : first + LONGEST_OPTIONAL]
        # What comes first or last may be long.
        edge = stops[first : first + LONGEST_EDGE] if start == 0 else [len(items)]
        for end in sorted({*range(start + 2, min(start + LONGEST_OPTIONAL, len(items)) + 1), *whole, *edge}):
            if end < start + 2:
                continue
            span = (items[start].span[0], items[end - 1].span[1])
            piece = expression[slice(*span)]
            # A mark with what follows it (.5, /3, -R) comes and goes as one.
            mark = literal_of(items[start])
            marked = mark is not None and not mark.isalnum()
            cut = _cuts_word(items, start) + _cuts_word(items, end)
            units = bisect_right(stops, end) - first
            cost = (1.1 if marked else 1.3) + 0.05 * (min(units, LONGEST_OPTIONAL) + cut) + 0.3 * cut
            last = items[end - 1]
            # A quantifier after the last letter of a word was rather meant for the word.
            cost += 0.2 * (isinstance(last, Repeat) and (literal_of(last.item) or "").isalpha())
            cost += near / (2 if blank else 1) + shortening(context)
            cost += 0.4 * (again and end - start == len(items))
            # A mark that may be lacking is so with what it parts.
            cost -= 0.3 * (end == start + 2 and optional_mark)
            # What comes last is lacking rather than what stands between.
            cost -= 0.06 * (end == len(items) and units == 2)
            yield context.splice(span, f"(?:{piece})?", f"{piece} need not be there: (?:{piece})?", cost)
            if marked and units < 4 and not re.search(r"(?<!\\)[a-zA-Z]{2}", piece):
                words = f"{piece} may be there any number of times: (?:{piece})*"
                # A number has decimals once.
                yield context.splice(span, f"(?:{piece})*", words, cost + (0.3 if mark == "." else 0.12))


def _is_optional_mark(node: Node) -> bool:
    """Tell whether a piece is a mark, no blank, that may be lacking."""
    mark = literal_of(node.item) if isinstance(node, Repeat) and (node.least, node.most) == (0, 1) else None
    return mark is not None and not mark.isalnum() and not mark.isspace()


def rest_after_anything(context: RepairContext) -> Iterator[Proposal]:
    """What comes last may be lacking, and what takes anything before it leaves it: `(.+?)(?: - (.+))?`."""
    tree = context.parsed.tree
    items = without_asides(tree.items) if isinstance(tree, Sequence) else ()
    ends = [at for at, each in enumerate(items) if not isinstance(each, Anchor)]
    edge = items[ends[-1] + 1 :] if ends else ()
    if context.case.reach != "whole" and not any(spelled(each) in ("$", r"\Z") for each in edge):
        return
    for at in ends[1:-1]:
        greedy, mark = _greedy_end(items[at - 1]), literal_of(items[at])
        if greedy is None or not mark or mark.isalnum():
            continue
        span = (items[at].span[0], items[ends[-1]].span[1])
        piece = context.case.expression[slice(*span)]
        words = f"{piece} need not be there, and what stands before it stops there: (?:{piece})?"
        both = [((greedy.span[1], greedy.span[1]), "?"), (span, f"(?:{piece})?")]
        yield context.splice_all(both, words, 1.15 + 0.02 * (ends[-1] - at))


def _greedy_end(node: Node) -> Repeat | None:
    """Return what a piece ends with, if that takes anything, as much as it can."""
    node = last_piece(node)
    return node if isinstance(node, Repeat) and node.mode == "greedy" and isinstance(node.item, Dot) else None


def shortening(context: RepairContext) -> float:
    """Return what an option costs more where a match may end early: there it fits by taking less of the text."""
    return 0.25 if context.case.reach != "whole" else 0.0


def _cuts_word(items: tuple[Node, ...], at: int) -> bool:
    """Tell whether a place between items lies in a word that is spelled out."""
    around = [once(each) for each in items[at - 1 : at + 1]]
    beside = [literal_of(each) for each in around] if 0 < at < len(items) else []
    return len(beside) == 2 and all(each is not None and each.isalnum() for each in beside)


def quantifier_for_several(context: RepairContext) -> Iterator[Proposal]:
    """A quantifier that was meant for more than the one item before it."""
    expression = context.case.expression
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for index, item in enumerate(items):
            if not isinstance(item, Repeat):
                continue
            mark = item.quantifier
            if item.mode != "greedy":
                # Of two quantifiers the second was meant for more than the first.
                mark = item.quantifier[-1]
            bare_end = item.span[1] - len(mark)
            near = context.near(item) / 2
            for count in range(1, min(index, LONGEST_QUANTIFIED) + 1):
                start = items[index - count].span[0]
                if count > 4 and _cuts_word(items, index - count):
                    continue
                piece = expression[start:bare_end]
                words = f"{mark} is meant for {piece}: (?:{piece}){mark}"
                new = f"(?:{piece}){mark}"
                unlikely = 0.2 * _cuts_word(items, index - count) + 0.3 * ("(?P<" in piece)
                unlikely += 0.15 * isinstance(item.item, Group)
                # What closes something comes and goes with all that is in it.
                opening = piece.lstrip(" ").removeprefix("\\")[:1]
                unlikely -= 0.4 * (PAIRS.get(opening, "") == literal_of(item.item))
                yield context.splice((start, item.span[1]), new, words, 0.95 + 0.1 * min(count, 3) + unlikely + near)


def lists(context: RepairContext) -> Iterator[Proposal]:
    """Pieces with a mark between them, asked for with one after each, or in a fixed number."""
    for node in context.nodes:
        if isinstance(node, Repeat) and isinstance(node.item, Group) and isinstance(node.item.body, Sequence):
            inner = without_asides(node.item.body.items)
            for edge, piece in ((inner[-1:], inner[:-1]), (inner[:1], inner[1:])) if inner else ():
                mark = edge[0].item if isinstance(edge[0], Repeat) and edge[0].least == 0 else edge[0]
                if piece and isinstance(mark, Character | CharClass) and _is_of_marks(mark):
                    yield from _parted_by(context, node, piece, (mark,), last=edge == inner[-1:])
            marks = [each for each in inner[-2:] if isinstance(each, Character) and not each.character.isalnum()]
            if len(inner) > 2 and len(marks) == 2:
                # A comma with its blank.
                yield from _parted_by(context, node, inner[:-2], marks, last=True)
        elif isinstance(node, Sequence):
            yield from _fixed_list(context, without_asides(node.items))


def _is_of_marks(node: Character | CharClass) -> bool:
    """Tell whether a piece is a mark, or one of a few that are listed."""
    if isinstance(node, Character):
        return not node.character.isalnum()
    listed = [each.character for each in node.items if isinstance(each, Character)]
    return not node.negated and len(listed) == len(node.items) and not any(map(str.isalnum, listed))


def _parted_by(
    context: RepairContext, node: Repeat, piece: tuple[Node, ...], marks: Iterable[Character | CharClass], *, last: bool
) -> Iterator[Proposal]:
    one = context.case.expression[piece[0].span[0] : piece[-1].span[1]]
    mark = "".join(map(spelled, marks))
    named = text_words("".join(each.character if isinstance(each, Character) else spelled(each) for each in marks))
    if last and node.least == node.most:
        new = spelled(node) + one
        yield context.splice(node.span, new, f"one more of them comes last, without {named}: {new}", 0.9)
    # So many are so many, but for those of which the text has more.
    exact = [quantifier(node.least - 1, node.least - 1)] if node.least == node.most and node.least > 1 else []
    for more in (*exact, "*" if node.least < 2 else quantifier(node.least - 1, None)):
        new = f"{one}(?:{mark}{one}){more}"
        cost = 0.95 + 0.1 * bool(exact and more != exact[0])
        yield context.splice(node.span, new, f"{named} stands between the pieces, not at their ends: {new}", cost)


def pairs_again(context: RepairContext) -> Iterator[Proposal]:
    """A mark with what follows it, asked for once where the text has several: `-\\w{4}` for `(?:-\\w{4})+`."""
    written = Counter(each.character for each in context.nodes if isinstance(each, Character))
    for one, other in context.pairs():
        mark = literal_of(one)
        if not mark or mark.isalnum() or not isinstance(other, Repeat) or other.least == 0 or other.most == 1:
            continue
        if isinstance(other.item, Shorthand | CharClass) and context.case.text.count(mark) > 1:
            row = context.facts.parents.get(one)
            if isinstance(context.facts.parents.get(row or one), Group) and children(row or one) == (one, other):
                # A group of nothing else is rather what is repeated.
                continue
            piece = context.case.expression[one.span[0] : other.span[1]]
            new = f"(?:{piece})+"
            words = f"{piece} stands several times in the text: {new}"
            # A time has its parts, and no more of them.
            cost = 0.95 if context.case.text.count(mark) > written[mark] and mark != ":" else 1.15
            yield context.splice((one.span[0], other.span[1]), new, words, cost + context.near(other) / 4)


def whole_listed(context: RepairContext) -> Iterator[Proposal]:
    """What the whole expression asks for, of which the text has several with a mark between them."""
    case = context.case
    if case.reach != "whole" or "(?P<" in case.expression or len(case.text) > len(context.around):
        return
    if any(isinstance(each, Anchor) for each in context.nodes):
        return
    for mark in [each for each in context.characters if not each.isalnum()]:
        parts = case.text.split(mark)
        spelled_out = escaped(mark)
        if mark == " " or all(each.startswith(" ") for each in parts[1:]):
            spelled_out += " " * (mark != " ")
            parts = [each.removeprefix(" ") for each in parts]
        if len(parts) > 1 and all(fits(case.expression, case.flags, "whole", each) for each in parts):
            made = f"{context.bare}(?:{spelled_out}{context.bare})*"
            words = f"several stand in the text, with {text_words(spelled_out)} between: {made}"
            # What stands in a word is one of its characters rather than what parts it from others.
            yield Proposal(replace(case, expression=made), words, 1.25 if mark in "-'._" else 0.95)


def whole_again(context: RepairContext) -> Iterator[Proposal]:
    """What the whole expression asks for, of which the text has several one after the other."""
    case = context.case
    if case.reach != "whole" or "(?P<" in case.expression or any(isinstance(each, Anchor) for each in context.nodes):
        return
    made = f"(?:{case.expression})+"
    words = f"several stand in the text, one after the other: {made}"
    ends = _row_ends(context.parsed.tree)
    if len(case.expression) > LONGEST_QUANTIFIED and any(each and not each.isalnum() for each in ends):
        yield Proposal(replace(case, expression=made), words, 0.95)


def _row_ends(tree: Node) -> list[str | None]:
    """Return what is spelled out at the ends of a row of pieces."""
    items = without_asides(tree.items) if isinstance(tree, Sequence) else ()
    return [literal_of(each) for each in (*items[:1], *items[-1:])]


def _fixed_list(context: RepairContext, items: tuple[Node, ...]) -> Iterator[Proposal]:
    """Pieces that are the same, with the same mark between them, as often as they are written."""
    expression = context.case.expression
    marks = [at for at, each in enumerate(items) if isinstance(each, Character) and not each.character.isalnum()]
    for width in range(1, LONGEST_OPTIONAL + 1):
        end, told = 0, ("", "")
        for at in marks:
            first, second = items[max(at - width, 0) : at], items[at + 1 : at + 1 + width]
            gap = 1
            if second[:1] and isinstance(second[0], Character) and second[0].character == " ":
                second, gap = items[at + 2 : at + 2 + width], 2
            if len(first) < width or len(second) < width:
                continue
            one, other = (expression[each[0].span[0] : each[-1].span[1]] for each in (first, second))
            if one != other or one.isalnum() or re.search(r"(?<!\\)\((?!\?[^P])", one):
                continue
            mark = expression[items[at].span[0] : items[at + gap - 1].span[1]]
            if at < end and (one, mark) == told:
                # All of them were told from the first on.
                continue
            end, told = at + gap + width, (one, mark)
            while end + gap + width <= len(items) and expression.startswith(mark + one, items[end - 1].span[1]):
                end += gap + width
            span = (first[0].span[0], items[end - 1].span[1])
            more = f"{expression[slice(*span)]}(?:{mark}{one})?"
            # Where the text has fewer of them, they need not be any number.
            fewer = 0.4 * (context.case.text.count(literal_of(items[at]) or mark) < (end - at) // (gap + width))
            once = 0.95 if mark == ":" else 1.05
            yield context.splice(span, more, f"one more of them may be there: {more}", once)
            if mark == ":" and not context.held:
                # Seconds, where no time without them is known.
                new = f"{expression[slice(*span)]}{mark}{one}"
                yield context.splice(span, new, f"there is one more of them: {new}", once + 0.03)
            for amount, cost in (("+", 1.0), ("*", 1.2)):
                new = f"{one}(?:{mark}{one}){amount}"
                yield context.splice(span, new, f"there may be any number of them: {new}", cost + fewer)
            count, written = context.case.text.count(literal_of(items[at]) or mark), (end - at) // (gap + width)
            if count > written > 1 and not context.held:
                # Who writes so many of them means a number.
                new = f"{one}(?:{mark}{one}){{{count}}}"
                yield context.splice(span, new, f"there are {count + 1} of them: {new}", 0.9)


def class_lacking(context: RepairContext) -> Iterator[Proposal]:
    """A count behind a mark, where the class that it counts is lacking: `\\d{2}:{2}` for `\\d{2}:\\d{2}`."""
    for one, other in context.pairs():
        mark = literal_of(other.item) if isinstance(other, Repeat) else None
        if isinstance(one, Repeat) and isinstance(other, Repeat) and mark and not mark.isalnum():
            kind = spelled(one.item)
            if other.quantifier.startswith("{") and isinstance(one.item, Shorthand | CharClass):
                place = other.item.span[1]
                yield context.splice((place, place), kind, f"{other.quantifier} counts {kind}, not {mark}", 0.8)


RULES = (
    class_lacking,
    pairs_again,
    whole_listed,
    whole_again,
    bounds,
    more_of_it,
    counted_elsewhere,
    group_repeated,
    optional,
    rest_after_anything,
    quantifier_for_several,
    lists,
)
