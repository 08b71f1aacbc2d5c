"""Something put where the texts have it and the expression does not."""

from __future__ import annotations

import re
from functools import partial
from itertools import groupby
from typing import TYPE_CHECKING

from fieldstick.drafting.context import before_groups, class_spelling, escaped_text, optional_text, quantifier, takes
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.slips.exchanged import with_any_digits
from fieldstick.drafting.slips.extent import KINDS
from fieldstick.drafting.slips.framing import PAIRS
from fieldstick.drafting.slips.numbers import DECIMALS
from fieldstick.drafting.slips.texts import CUT, cuts_decimals, cuts_run, cuts_word
from fieldstick.engines.probing import fits
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    Alternation,
    Character,
    CharClass,
    Group,
    Repeat,
    Sequence,
    Shorthand,
    once,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.drafting.slips.taking import Taken
    from fieldstick.syntax.tree import Node, Span


LONGEST = 20
"""Code points of what is put in as it is, or as its like."""


SHORT_WORD = 3
"""Letters of a word that may be put between others as it is."""


def _beside(context: RepairContext, span: Span) -> Iterator[str]:
    """Yield the characters that are spelled out right before and after a place."""
    for node in context.nodes:
        if isinstance(node, Character) and (node.span[1] == span[0] or node.span[0] == span[1]):
            yield node.character


def _begins_idle_group(context: RepairContext, place: int) -> bool:
    """Tell whether a place is the beginning of a repeated group that does not capture and holds one piece alone."""
    groups = (each.item for each in context.nodes if isinstance(each, Repeat) and isinstance(each.item, Group))
    return any(
        each.kind == "plain"
        and each.body.span[0] == place
        and (
            isinstance(each.body, Repeat | CharClass | Shorthand | Group)
            or context.case.expression[: each.span[0]].endswith(spelled(each.body))
        )
        for each in groups
    )


def _parts_twins(context: RepairContext, span: Span) -> bool:
    """Tell whether a place lies between two repeats of the same piece."""
    return any(
        isinstance(one, Repeat)
        and isinstance(other, Repeat)
        and one.span[1] <= span[0] <= other.span[0]
        and spelled(one.item) == spelled(other.item)
        for one, other in context.pairs()
    )


ORDINAL = ("st", "nd", "rd", "th")
"""Endings of numbers that put things in order."""


def _optional_of_a_kind(context: RepairContext, span: Span, taken: Taken, near: float) -> Iterator[Proposal]:
    """A mark with a word or a number, which may be lacking or come again: of a kind, as the writer asks for."""
    own = taken.own
    runs = re.findall(r"[^\W_]+|[\W_]", own)
    words = [each for each in runs if each.isalnum()]
    marks = len(runs) - len(words)
    if not words or len(runs) > (4 if len(words) > 1 else 6):
        if len(words) > 1 and re.fullmatch(r" [\w ,]+", own) and context.held:
            optional = f"(?:{with_any_digits(own)})?"
            yield context.splice(span, optional, f"there is {text_words(own)} in the text: {optional}", 1.15 + near)
        return
    what = f"there is {text_words(own)} in the text"
    # That it may be lacking is known where another text lacks it.
    cost = (1.05 if context.held else 1.35) + 0.05 * (len(runs) - 2) + near
    unit = re.fullmatch(r"\d+([a-z]{1,3})", own)
    if unit and re.search(r"(?:\\d|\])[+{*][^A-Za-z]*[a-z]", context.case.expression):
        # A number with its unit, as those before it are.
        optional = f"(?:\\d+{unit[1]})?"
        yield context.splice(span, optional, f"{what}: {optional}", cost - 0.05)
        if len(re.findall(r"\((?!\?)", context.case.expression)) > 1:
            captured = f"(?:(\\d+){unit[1]})?"
            yield context.splice(span, captured, f"{what}: {captured}", cost)
    if not marks:
        kind = r"\d" if own.isdigit() else "[a-z]" if own.islower() else "[A-Z]" if own.isupper() else ""
        before, _, behind = context.case.text.partition(own)
        beside = before[-1:]
        if len(own) == 1 and own.isupper() and not beside.isalnum() and behind[:1].isdigit() and context.held:
            yield context.splice(span, "[A-Z]?", f"{what}: [A-Z]?", cost + 0.15)
        if kind and beside.isalnum() and beside.isdigit() is not own.isdigit():
            if own == "Z" and beside.isdigit():
                # The sign of universal time (RFC 3339, 5.6).
                yield context.splice(span, "Z?", f"{what}: Z?", cost)
            if own in ORDINAL and beside.isdigit():
                every = f"(?:{'|'.join(ORDINAL)})?"
                yield context.splice(span, every, f"{what}, as behind numbers that put in order: {every}", cost)
            optional = f"{kind}?" if len(own) == 1 else f"(?:{kind}{quantifier(len(own), len(own))})?"
            yield context.splice(span, optional, f"{what}: {optional}", cost + 0.2)
        return
    if own.strip() != own and not context.case.text.strip().find(own) >= 0:
        return
    made = "".join(_of_a_kind(context, each) if each.isalnum() else escaped_text(each) for each in runs)
    # What comes behind is rather what may be lacking; marks on both sides that are no pair are those of prose.
    cost += 0.08 * runs[0].isalnum()
    opening = next((each for each in runs if each != " "), "")
    cost += 0.2 * (not runs[0].isalnum() and not runs[-1].isalnum() and PAIRS.get(opening) != runs[-1])
    alone = not any(each in "/,;.|-" for each in runs)
    if alone and len(words) > 1 and all(map(str.isalpha, words[:-1])) and all(map(str.islower, words[:-1])):
        # What leads to the last word is always the same.
        led = escaped_text(own[: own.rfind(words[-1])]) + _of_a_kind(context, words[-1])
        if runs[-1] == words[-1]:
            yield context.splice(span, f"(?:{led})?", f"{what}: (?:{led})?", cost - 0.05)
    if len(words) == 1 and words[0].isalpha() and words[0].isupper() and "[A-Z]" not in made:
        yield context.splice(span, optional_text(own), f"{what}: {optional_text(own)}", cost + 0.04)
    # A short word between others, or an ending, is likely that one.
    short = own[0] == " " and len(words[0]) <= SHORT_WORD
    ending = own[0] != " " and context.case.text.endswith(own)
    if context.held and len(words) == 1 and words[0].isalpha() and words[0].islower() and (short or ending):
        yield context.splice(span, optional_text(own), f"{what}: {optional_text(own)}", cost + 0.04)
    numbered = re.fullmatch(r"([^\W\d_]{1,3})\d+", words[0]) if len(words) == 1 else None
    if numbered:
        optional = f"(?:{escaped_text(own[: own.rfind(numbered[1])])}{numbered[1]}\\d+)?"
        yield context.splice(span, optional, f"{what}: {optional}", cost + 0.06)
    units = {made[at : at + len(made) // len(words)] for at in range(0, len(made), len(made) // len(words))}
    if len(words) > 1 and len(units) == 1 and runs[0] in ",;|/" and context.held:
        # The same again and again behind a mark makes a list.
        again = f"(?:{units.pop()})*"
        yield context.splice(span, again, f"{what}: {again}", cost - 0.2)
        return
    # How many digits one text has says little of others.
    freer = _COUNTED.sub("+", made)
    for form, more in (
        (f"(?:{made})?", 0.0),
        (f"(?:{freer})?", 0.02 if freer != made else 0.0),
        # What a comma parts is a list.
        (f"(?:{made})*", -0.02 if runs[0] in ",;" else 0.05),
    ):
        yield context.splice(span, form, f"{what}: {form}", cost + more)
    if not context.held:
        # All of several texts have it, or the one that is known.
        yield context.splice(span, made, f"{what}: {made}", cost + (-0.3 if taken.missed else 0.01))


_COUNTED = compiled_later(r"(?<=\\d)\{\d+\}")


def _of_a_kind(context: RepairContext, run: str) -> str:
    """Return what takes a run of letters and digits: what the writer asks for elsewhere, or a shorthand."""
    written = [each.item for each in context.nodes if isinstance(each, Repeat)]
    if len(run) == 1 and run.isupper() and any(spelled(each) == "[A-Z]" for each in context.nodes):
        return "[A-Z]"
    known = [spelled(each) for each in written if isinstance(each, Shorthand | CharClass) and not each.negated]
    if run.isdigit() and len(run) > 1 and f"\\d{{{len(run)}}}" in context.case.expression:
        return f"\\d{{{len(run)}}}"
    kinds = (r"\d",) if run.isdigit() else ()
    flags = context.parsed.flags - {"verbose"}
    for each in context.nodes:
        counted = isinstance(each, Repeat) and each.least == each.most == len(run) > 1 and _is_class(each)
        if counted and all(map(takes(spelled(once(each)), flags), run)):
            return spelled(each)
    written_so = (each for each in _written_forms(context) if fits(each, context.parsed.flags, "whole", run))
    form = next(written_so, None)
    if form is not None:
        return form
    taking = [each for each in dict.fromkeys((*kinds, *known, r"\w")) if all(map(takes(each, flags), run))]
    narrowest: str = min(taking, key=lambda each: sum(map(takes(each, flags), _SAMPLE)), default=r"\S")
    return narrowest + "+"


def _written_forms(context: RepairContext) -> Iterator[str]:
    """Yield pieces of several classes in a row, as `[A-Z][a-z]+`, that the writer asks for."""
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for is_class, run in groupby(items, key=_is_class):
            pieces = list(run) if is_class else []
            if len(pieces) > 1:
                yield context.case.expression[pieces[0].span[0] : pieces[-1].span[1]]


def _is_class(node: Node) -> bool:
    item = once(node)
    return isinstance(item, CharClass | Shorthand)


_SAMPLE = "059afzAFZ_-. :"
"""Characters by which the wider of two classes is told."""


FRAMED = 0.1
"""How much likelier something more stands within a group than behind it, where that captures all between two marks."""


def _framed_field(context: RepairContext, place: int) -> Group | None:
    """Return the group that a place is the end of, or right behind, if it captures all between quotes or brackets."""
    expression = context.case.expression
    for each in context.nodes:
        if isinstance(each, Group) and each.kind == "capture" and place in (each.body.span[1], each.span[1]):
            behind = expression[each.span[1] :].lstrip("\\")[:1]
            if PAIRS.get(before_groups(expression, each.span[0])[-1:]) == behind:
                return each
    return None


def put_in(context: RepairContext, span: Span, taken: Taken) -> Iterator[Proposal]:
    """What the texts have between two pieces."""
    near = context.near_span(span) / 4
    if context.case.expression[span[0] : span[0] + 1] == ")":
        # What stands at the edge of a group stands outside it rather, but letters of a word.
        before = context.case.expression[span[0] - 1 : span[0]]
        options = any(isinstance(each, Alternation) and each.span[1] == span[0] for each in context.nodes)
        near += -0.25 if taken.own.isalpha() and before.isalpha() and not options else 0.1
    framed = _framed_field(context, span[0]) if taken.own.strip() else None
    near += 0.0 if framed is None else FRAMED if framed.span[1] == span[0] else -FRAMED
    if context.case.expression[: span[0]].endswith((">", "(", "(?:")):
        near += 0.1
    # What comes with one option alone is likelier with none.
    near += 0.2 * (
        "|" in (context.case.expression[span[0] - 1 : span[0]], context.case.expression[span[0] : span[0] + 1])
    )
    own = taken.own
    near += CUT * (cuts_word(context.case.text, own) + cuts_decimals(context.case.text, own))
    # Digits that go on before it, or behind it, are those of one number.
    near += CUT * (own[0].isdigit() and own[-1].isdigit() and cuts_run(context.case.text, own))
    edge = any(span[0] in (each.span[0], each.span[1]) for each in context.nodes if isinstance(each, Alternation))
    near += 0.2 * (edge and (" " in own or not (own[:1].isalnum() or own[-1:].isalnum())))
    # A group of one piece, right behind others, is a group for what else was to be in it.
    near -= 0.35 * _begins_idle_group(context, span[0])
    if len(own) <= LONGEST:
        yield from _decimals_with_unit(context, span, own, near)
        yield from _same_again(context, span, own, near)
        yield from _optional_of_a_kind(context, span, taken, near)
        if len(set(taken.wanted)) == 1:
            yield from _itself(context, span, taken, near)
    yield from _remark(context, span, own)
    yield from _marks_that_vary(context, span, taken, near)
    yield from _up_to_the_next(context, span, own, near)
    yield from _of_a_class(context, span, taken, near)


_REMARK = compiled_later(r"(\s*)(#|//|;|--|%)\s.*", re.DOTALL)


def _remark(context: RepairContext, span: Span, own: str) -> Iterator[Proposal]:
    """A remark at the end of a line, whatever it says: `(?:\\s*#.*)?`."""
    found = _REMARK.fullmatch(own)
    if found and context.case.text.endswith(own) and not context.case.expression[span[1] :].strip("$"):
        optional = rf"(?:\s{'+' if found[1] else '*'}{found[2]}.*)?"
        yield context.splice(span, optional, f"a remark may follow: {optional}", 0.75)


def _decimals_with_unit(context: RepairContext, span: Span, own: str, near: float) -> Iterator[Proposal]:
    """Decimals of a number, and what all texts have behind them: they are two things."""
    found = re.fullmatch(r"([.,])\d+(\D+)", own)
    decimals = DECIMALS.match(context.case.expression, span[0])
    if found and context.case.text.partition(own)[0][-1:].isdigit() and not context.held and not decimals:
        made = f"(?:{escaped_text(found[1])}\\d+)?{escaped_text(found[2])}"
        words = f"a number may have decimals, and {text_words(found[2])} stands behind it: {made}"
        yield context.splice(span, made, words, 0.95 + near)
    elif found and found[2] == " " and context.held and not decimals:
        place = span[0] - context.case.expression[: span[0]].endswith(")")
        words = f"a number may have decimals, and a blank behind it: (?:{escaped_text(found[1])}\\d+)? ?"
        places = [((place, place), f"(?:{escaped_text(found[1])}\\d+)?"), (span, " ?")]
        if place == span[0]:
            places = [(span, f"(?:{escaped_text(found[1])}\\d+)? ?")]
        yield context.splice_all(places, words, 0.95 + near)


def _same_again(context: RepairContext, span: Span, own: str, near: float) -> Iterator[Proposal]:
    """Pieces that the writer asks for right before, once more behind a mark: `[A-Z]\\.` for the second initial."""
    found = re.match(r"[\W_]{1,2}", own)
    if found is None or found[0] == own or not context.held:
        return
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        end = next((at for at, each in enumerate(items, 1) if each.span[1] == span[0]), 0)
        for start in range(max(0, end - MOST_AGAIN), end - 1):
            form = context.case.expression[items[start].span[0] : span[0]]
            marked = isinstance(items[end - 1], Character) and any(map(_is_class, items[start:end]))
            again = marked and "(?P<" not in form and fits(form, context.parsed.flags, "whole", own[found.end() :])
            if again:
                for amount, cost in (("?", 0.95), ("*", 1.0)):
                    new = f"(?:{escaped_text(found[0])}{form}){amount}"
                    yield context.splice(span, new, f"{form} may come once more: {new}", cost + near)


MOST_AGAIN = 4
"""Pieces in a row that are tried to come once more."""


def _itself(context: RepairContext, span: Span, taken: Taken, near: float) -> Iterator[Proposal]:
    """The very text that is there."""
    own, alike = taken.own, context.all_alike and not taken.held
    name, literal = f"there is {text_words(own)} in the text", escaped_text(own)
    optional = optional_text(own)
    alone = not context.beside.fitting
    mark = not any(map(str.isalnum, own))
    in_word = own.isalpha() and any(each.isalpha() for each in _beside(context, span))
    usual = 1.2 if mark else 1.4
    sure = (0.95 if mark else 1.15) if alike else 1.1 if mark and alone else 1.3 if mark or in_word else 1.45
    if mark and (_parts_twins(context, span) or _begins_idle_group(context, span[0])):
        # Two pieces alike one after the other were parted by something.
        sure, usual = 0.85, 1.1
    if not mark and own.isalpha() and re.search(r"\|[^()]*\)$", context.case.expression[: span[0]]):
        # A form of a word that is one of several.
        usual = 1.15
    ends_option = any(end == span[0] for _, end in context.options)
    if own == "s" and context.held and not ends_option and _WORD_BEFORE.search(context.case.expression, 0, span[0]):
        # One or several.
        usual = 0.95
    if own == "0" and _BASE.match(context.case.expression, span[0]):
        # The zero that begins a number of another base.
        sure = 0.65
    more = 0.3 * any(map(str.isdigit, own)) + 0.03 * len(own) + 0.3 * (not own.strip() and len(own) > 1) + near
    yield context.splice(span, optional, f"{name}: {optional}", usual + more)
    yield context.splice(span, literal, f"{name}: {literal}", sure + more)


_WORD_BEFORE = compiled_later(r"(?<![\\a-z])[a-z]{3,}$")

_BASE = compiled_later(r"\(*(?:\?:)?(?:\[[xX]{1,2}\]|[xXoObB]|\[[oO]{1,2}\]|\[[bB]{1,2}\])[\[(\\]")


def _marks_that_vary(context: RepairContext, span: Span, taken: Taken, near: float) -> Iterator[Proposal]:
    """A mark of which the texts have one or another."""
    marks = sorted({each for each in taken.every if each}, key=lambda each: (each == "-", each))
    if len(marks) > 1 and all(len(each) == 1 and not each.isalnum() for each in marks):
        made = f"[{''.join(map(class_spelling, marks))}]" + "?" * (not all(taken.every))
        yield context.splice(span, made, f"{text_words(marks[0])} or another mark stands there: {made}", 0.95 + near)


def _up_to_the_next(context: RepairContext, span: Span, own: str, near: float) -> Iterator[Proposal]:
    """Anything up to the mark that follows: between two marks, or after a blank."""
    characters = (each for each in context.nodes if isinstance(each, Character) and each.span[0] == span[0])
    following = next((each.character for each in characters), "")
    if not following or following.isalnum() or following in own:
        return
    name, shut = f"there is {text_words(own)} in the text", class_spelling(following)
    if own[0] == " " and len(own) > 1:
        yield context.splice(span, f"(?: [^{shut}]*)?", f"{name}: (?: [^{shut}]*)?", 1.3 + near)
    elif following in ")]}>\"'" and any(_beside(context, span)):
        yield context.splice(span, f"[^{shut}]*", f"{name}: [^{shut}]*", 1.3 + near)


def _of_a_class(context: RepairContext, span: Span, taken: Taken, near: float) -> Iterator[Proposal]:
    """Characters of a kind."""
    put, wanted, own = partial(context.splice, span), taken.wanted, taken.own
    kind = next((each for each in KINDS if all(map(takes(each[0], frozenset()), "".join(wanted)))), None)
    if kind is None:
        return
    (spelling, what), lengths, same = kind, {len(each) for each in wanted}, len(set(wanted)) == 1
    name, alike = f"there is {text_words(own)} in the text", context.all_alike and not taken.held
    single, longer = max(lengths) == 1, 0.1 * (spelling == r"\w")
    if spelling == r"\s":
        # At the edge of a text it is rather the text that has too much.
        edge = context.case.text.startswith(own) or context.case.text.endswith(own)
        indented = len(own) > 1 and context.case.text.startswith(own)
        likely = (1.2 if indented else 1.4 if len(own) > 1 or not same else 1.5) - 0.2 * (
            bool(context.held) and not edge
        )
        # Around a text there may be any of it.
        yield put(r"\s*", f"there may be {what}: \\s*", likely - 0.1 * (edge and bool(context.held)) + near)
        if set("".join(wanted)) == {" "} and not single:
            yield put(" *", "there may be blanks: ' *'", likely + 0.1 + near)
        always = likely - 0.05 if alike and len(taken.wanted) > 1 else 1.45 if alike else 1.6
        yield put(r"\s+", f"there is {what}: \\s+", always + near)
        if set("".join(wanted)) == {" "} and len(lengths) > 1:
            yield put(" +", "there are blanks: ' +'", 1.35 + near)
        return
    exact = spelling if single else f"{spelling}{{{max(lengths)}}}" if len(lengths) == 1 else spelling + "+"
    if single and 1 < len(set(wanted)) <= 3 and not spelling.startswith("\\"):
        own_class = f"[{''.join(map(class_spelling, sorted(set(wanted))))}]"
        yield put(own_class, f"{name}: {own_class}", (1.3 if alike else 1.7) + near)
    yield put(exact, f"{name}: {exact}", (1.25 if alike and not same else 1.65) + longer + near)
    yield put(f"{spelling}*", f"{name}: {spelling}*", 1.6 + longer + near)
    if single:
        yield put(f"{spelling}?", f"{name}: {spelling}?", 1.55 + longer + near)
