"""Numbers: signs, decimals, marks of groups, padding; and what the numbers of a date or time may be."""

from __future__ import annotations

import re
from itertools import chain
from typing import TYPE_CHECKING

from fieldstick.drafting.context import before_groups, escaped, takes, written_alike
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    Character,
    CharClass,
    Group,
    Repeat,
    Shorthand,
    literal_of,
    once,
    once_at_most,
    spelled,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.syntax.tree import Node, Span

_SIGNED = compiled_later(r"(?:(?<![\w.])|(?<=\d[eE]))([+\-\u2212])(?=\d)")
_POSITION = compiled_later(r"\.\\d[+{][^,]*,|lon", re.IGNORECASE)
"""What stands between the degrees of a latitude, with decimals, and those of a longitude."""

_DECIMAL = compiled_later(r"\d([.,])\d")
_GROUPED = compiled_later(r"(?<!\d)\d{1,3}([.,' _])\d{3}(?!\d)")

DECIMALS = compiled_later(r"\((?:\?:)?(?:\\\.|,|\[\.,\]|\[,\.\])(?:\\d|\[0-9\])[+*]?\)?\?")
"""Decimals of a number, which may be lacking."""


def is_digit(node: Node, flags: frozenset[str]) -> bool:
    """Tell whether a piece takes a digit, and nothing else."""
    if not isinstance(node, Shorthand | CharClass):
        return False
    test = takes(spelled(node), flags - {"verbose"})
    return any(map(test, "0123456789")) and not any(map(test, "aZ_-., +"))


def number_forms(context: RepairContext) -> Iterator[Proposal]:
    """A number that the text has with a sign, a decimal part or marks of groups."""
    texts = (context.around, *context.missed)
    held = context.held
    signs = sorted({found[1] for text in (*texts, *held) for found in _SIGNED.finditer(text)}, key="+-\u2212".index)
    marks = {found[1] for text in texts for found in _DECIMAL.finditer(text)}
    each_one = all(len({found[1] for found in _DECIMAL.finditer(text)}) <= 1 for text in texts)
    groups = {found[1] for text in texts for found in _GROUPED.finditer(text)}
    following, before = context.after, context.before
    for node in context.nodes:
        if not isinstance(node, Repeat) or not is_digit(node.item, context.parsed.flags):
            continue
        digit, whole, near = spelled(node.item), spelled(node), context.near(node) / 4
        signed = before.get(node)
        inner = once(signed) if signed is not None else None
        if (
            signs
            and _mark(inner) not in ("-", "+", ".")
            and not (inner and re.fullmatch(r"\[\^?[+\\-]+\]", spelled(inner)))
        ):
            sign = f"{signs[0]}?" if len(signs) == 1 and signs != ["+"] else f"[{''.join(signs)}]?"
            if signs == ["+"]:
                sign = r"\+?"
            words = f"a number may have a sign: {sign}{whole}"
            yield context.splice(node.span, sign + whole, words, 0.8 + near)
            if node.most is not None and node.most > 1 and held:
                loose = f"{sign}{digit}{{1,{node.most}}}"
                yield context.splice(node.span, loose, f"a number may have a sign: {loose}", 1.1 + near)
            if signs == ["-"] and not held:
                yield context.splice(node.span, f"-{whole}", f"the number is below zero: -{whole}", 1.02 + near)
            if len(signs) == 1:
                words = f"a number may have a sign: [+-]?{whole}"
                yield context.splice(node.span, "[+-]?" + whole, words, 1.0 + near)
        if _is_decimal_part(before.get(node)):
            continue
        several = node.most is None or node.most > node.least
        for mark in sorted(groups - {_mark(following.get(node)) or ""}) if several else ():
            point = escaped(mark)
            grouped = f"{digit}{{1,3}}(?:{point}{digit}{{3}})*"
            words = f"a number may have marks between its thousands: {grouped}"
            # Three digits after a mark are a group of them rather than decimals.
            yield context.splice(node.span, grouped, words, 0.84 + near)
        if _is_decimal_part(following.get(node)):
            continue
        behind = following.get(node)
        if _mark(behind) in (".", ",") or (behind is not None and _MARK_IN_GROUP.match(spelled(behind))):
            continue
        # What comes again has no decimals each time.
        again = any(isinstance(each, Repeat) and each.most != 1 for each in context.facts.around(node))
        if len(marks) > 1 and marks <= {".", ","} and not again and each_one:
            decimal = f"{whole}(?:[.,]{digit}+)?"
            yield context.splice(node.span, decimal, f"a number may have decimals: {decimal}", 0.8 + near)
        for mark in sorted(marks - {_mark(before.get(node)) or ""}) if not again else ():
            point = escaped(mark)
            decimal = f"{whole}(?:{point}{digit}+)?"
            words = f"a number may have decimals: {decimal}"
            yield context.splice(node.span, decimal, words, 0.85 + near)
            if not held:
                decimal = f"{whole}{point}{digit}+"
                words = f"the number has decimals: {decimal}"
                yield context.splice(node.span, decimal, words, 0.95 + near)
        if re.search(r"(?<!\d)\.\d", context.case.text) and node.most is None and not again:
            bare = f"{digit}*\\.?{digit}+"
            yield context.splice(node.span, bare, f"a number may begin with its point: {bare}", 0.9 + near)


_MARK_IN_GROUP = compiled_later(r"\((?:\?:)?\\?[.,]")


def _is_decimal_part(node: Node | None) -> bool:
    """Tell whether a piece is a mark of a number with digits, which may be lacking or come again."""
    return isinstance(node, Repeat) and node.least == 0 and re.match(r"\((?:\?:)?\\?[.,]", spelled(node)) is not None


def _mark(node: Node | None) -> str | None:
    return literal_of(node) if node is not None else None


def all_decimals(context: RepairContext) -> Iterator[Proposal]:
    """Several numbers, of which the text has the decimals of more than one."""
    flags, text = context.parsed.flags, context.case.text
    whole = [
        node
        for node in context.nodes
        if isinstance(node, Repeat)
        and node.most is None
        and is_digit(node.item, flags)
        and _mark(context.before.get(node)) not in (".", ",")
        and _mark(context.after.get(node)) not in (".", ",")
    ]
    for mark in sorted({found[1] for found in _DECIMAL.finditer(text)}):
        if len(whole) > 1 and len(re.findall(rf"\d{re.escape(mark)}\d", text)) > 1:
            decimals = [f"(?:{escaped(mark)}{spelled(node.item)}+)?" for node in whole]
            words = f"numbers may have decimals, each of them: {decimals[0]}"
            places = [((node.span[1], node.span[1]), each) for node, each in zip(whole, decimals, strict=True)]
            yield context.splice_all(places, words, 0.9)


def all_signed(context: RepairContext) -> Iterator[Proposal]:
    """Several numbers that are written alike, of which one has a sign in the text: each may have it."""
    signs = {found[1] for found in _SIGNED.finditer(context.around)}
    before = context.before
    numbers = [
        node
        for node in context.nodes
        if isinstance(node, Repeat)
        and is_digit(node.item, context.parsed.flags)
        and _mark(before.get(node)) not in ("-", "+", ".", ":", "e", "E")
    ]
    parents, alike = context.facts.parents, written_alike(numbers)
    for _, nodes in alike if signs & {"-", "\u2212"} else ():
        # A sign stands before a group as before what it begins with, but in one that captures.
        groups = [parents[each] if before.get(each) is None else each for each in nodes]
        wholes = [
            group if isinstance(group, Group) and group.number is None else each
            for each, group in zip(nodes, groups, strict=True)
        ]
        for sign in sorted(signs & {"-", "\u2212"}):
            words = f"numbers may have a sign, each of them: {sign}?"
            # Degrees of latitude and longitude are alike in that.
            first, second = nodes[:2]
            between = context.case.expression[first.span[1] : second.span[0]]
            cost = 0.78 if _POSITION.search(between) else 0.97
            yield context.splice_all([((each.span[0], each.span[0]), f"{sign}?") for each in wholes], words, cost)


def padded(context: RepairContext) -> Iterator[Proposal]:
    """A number of two digits that the text has with a blank in the place of the first one."""
    for one, other in context.pairs():
        blank = isinstance(one, Character) and one.character == " "
        if not blank or re.search(r" {2}\d\b", context.case.text) is None:
            continue
        item = once(other)
        two = isinstance(other, Repeat) and (other.least, other.most) == (2, 2)
        if two and is_digit(item, context.parsed.flags):
            digit = spelled(item)
            for new, cost in ((f" +{digit}{{1,2}}", 0.8), (f"\\s+{digit}{{1,2}}", 0.85), (f" [ \\d]{digit}", 0.9)):
                words = f"a blank stands in the place of the first digit: {new}"
                yield context.splice((one.span[0], other.span[1]), new, words, cost + context.near(other) / 4)


_KNOWN = {
    "an hour": (0, 23, "(?:[01]\\d|2[0-3])"),
    "a minute or a second": (0, 59, "[0-5]\\d"),
    "a month": (1, 12, "(?:0[1-9]|1[0-2])"),
    "a day of a month": (1, 31, "(?:0[1-9]|[12]\\d|3[01])"),
}
"""What a number of two digits may be, from what to what (ISO 8601-1, 4.3), and how that is asked for."""


_FIRST_DIGIT = compiled_later(r"(?:(?<=:)|^)(0|\[01\]|\[0-5\])")

_GOES_ON = compiled_later(r"\)*:\(*")
"""What stands between an hour and a minute, or a minute and a second."""

KnownNumber = tuple["Span", list[tuple[int, int, "Proposal"]]]
"""Where a number stands, and what it may be: from what to what, and the change."""


def zero_lacking(context: RepairContext) -> Iterator[Proposal]:
    """`0[1-9]` for a number that may come without the zero before it."""
    for one, other in context.pairs():
        if literal_of(one) == "0" and isinstance(one, Character) and is_digit(once(other), context.parsed.flags):
            yield context.splice(one.span, "0?", "the zero before a number need not be there: 0?", 0.9)


_ONE_OF_GROUP = compiled_later(r"\((?:\?:)?(?:\\?[.,' ]|\[[^\]]+\])\??(\\d|\[0-9\])\)[*+]")


def groups_of_three(context: RepairContext) -> Iterator[Proposal]:
    """`(?:,\\d)*` for the thousands of a number, three digits after each mark."""
    for found in _ONE_OF_GROUP.finditer(context.case.expression):
        new = f"{found[1]}{{3}}"
        yield context.splice(found.span(1), new, f"three digits stand behind each mark of thousands: {new}", 0.85)


_NOT_ZERO_FIRST = compiled_later(r"(?<=0\|)(\\d|\[0-9\])(?=(?:\\d|\[0-9\])(?:\*|\+))")


def no_zero_first(context: RepairContext) -> Iterator[Proposal]:
    """`0|\\d\\d*` for `0|[1-9]\\d*`."""
    for found in _NOT_ZERO_FIRST.finditer(context.case.expression):
        yield context.splice(found.span(), "[1-9]", "a number of several digits begins with no 0: [1-9]", 0.8)


def zero_too(context: RepairContext) -> Iterator[Proposal]:
    """`[1-9]\\d*` for a number that may be 0 as well."""
    for found in _NO_ZERO.finditer(context.case.expression):
        around = context.case.expression[found.start() - 1 : found.start()] + context.case.expression[found.end() :][:1]
        new = (
            f"0|{found[0]}" if around in ("()", "") or re.fullmatch(r"\(?:\||\|\)|>\)", around) else f"(?:0|{found[0]})"
        )
        yield context.splice(found.span(), new, f"a number may be 0, without more digits: {new}", 0.9)
        digits = f"{found[1]}+"
        yield context.splice(found.span(), digits, f"a number may begin with 0: {digits}", 0.94)


_NO_ZERO = compiled_later(r"\[1-9\](\\d|\[0-9\])(?:\*|\{0,\d\})")


def offset_of_time(context: RepairContext) -> Iterator[Proposal]:
    """`Z?` where the text has the offset of a time zone, or nothing (RFC 3339, 5.6)."""
    found = _OFFSET.search(context.case.text)
    if found is None:
        return
    offset = r"[+-]\d{2}" + (found[1] and re.escape(found[1])) + r"\d{2}"
    for zone in _ZONE.finditer(context.case.expression):
        new = f"(?:Z|{offset})" + "?" * zone[0].endswith("?")
        yield context.splice(zone.span(), new, f"a time may have its offset in the place of Z: {new}", 0.7)


_OFFSET = compiled_later(r"(?<=\d)[+-]\d{2}(:?)\d{2}(?!\d)")
_ZONE = compiled_later(r"(?<![\w\\])Z\??(?![\w*+{])|(?<=\\d)Z\??(?![\w*+{])")


def percentages(context: RepairContext) -> Iterator[KnownNumber]:
    """Yield where numbers stand before a percent sign, and what these may be."""
    for node in context.nodes:
        if not isinstance(node, Repeat) or not is_digit(node.item, context.parsed.flags):
            continue
        if context.case.expression[node.span[1] :].lstrip(")")[:1] == "%":
            digit = "[0-9]" if "[0-9]" in spelled(node) else r"\d"
            new = f"(?:100|{digit}{{1,2}})"
            words = f"{spelled(node)} is a percentage: {new}"
            yield node.span, [(0, 100, context.splice(node.span, new, words, 0.95))]


def known_numbers(context: RepairContext) -> Iterator[KnownNumber]:
    """Yield where two digits of a date or a time stand, and what they may be."""
    before = 0
    for span, beside in two_digits(context):
        timed = ":" in beside
        # What stands after two digits and a colon is no hour.
        goes_on = before > 0 and _GOES_ON.fullmatch(context.case.expression, before, span[0]) is not None
        before = span[1]
        ways = []
        for what, (low, high, known) in _KNOWN.items():
            written = context.case.expression[slice(*span)]
            new = known.replace(r"\d", "[0-9]") if "[0-9]" in written else known
            if written.endswith("{1,2}") or "?" in written:
                # The first digit may be lacking.
                new = _FIRST_DIGIT.sub(r"\1?", new)
            if timed is (what in ("an hour", "a minute or a second")) and not (goes_on and what == "an hour"):
                words = f"{context.case.expression[slice(*span)]} is {what}: {new}"
                ways.append((low, high, context.splice(span, new, words, 0.95)))
        yield span, ways


def first_digits(context: RepairContext) -> Iterator[Proposal]:
    """`[0-1]\\d` for an hour, and the like: the first digit has others after it."""
    for span, ways in chain(percentages(context), known_numbers(context)):
        if context.case.expression[span[0]] == "[":
            yield from (proposal for *_, proposal in ways)


def two_digits(context: RepairContext) -> Iterator[tuple[Span, str]]:
    """Yield where two digits are asked for between marks of a date or a time, and those marks."""
    expression, flags = context.case.expression, context.parsed.flags
    spans = [
        node.span
        for node in context.nodes
        if isinstance(node, Repeat) and (node.least, node.most) in ((2, 2), (1, 2)) and is_digit(node.item, flags)
    ]
    spans += [
        (one.span[0], other.span[1])
        for one, other in context.pairs()
        if is_digit(once_at_most(one), flags) and is_digit(once_at_most(other), flags)
    ]
    for span in sorted(spans):
        beside = "".join(
            each
            for each in (
                before_groups(expression, span[0]).rstrip("\\")[-1:],
                expression[span[1] :].lstrip(")\\")[:1],
            )
            if each in ":-/."
        )
        if beside:
            yield span, beside


def loose_number(context: RepairContext, node: CharClass, own: str) -> Iterator[Proposal]:
    """`[\\d.]+` for a number, which takes marks anywhere and any number of them."""
    around = context.facts.parents.get(node)
    if not isinstance(around, Repeat) or node.negated:
        return
    if not own or re.fullmatch(r"\d+[.,]\d+", own):
        return
    test = takes(spelled(node), context.parsed.flags - {"verbose"})
    marks = [each for each in ".," if test(each)]
    if not test("5") or not marks or any(map(test, "aZ_ :/")):
        return
    sign = "-?" if test("-") and not test("+") else "[+-]?" if test("+") else ""
    point = {".": "\\.", ",": ","}.get("".join(marks), "[.,]")
    digit = "[0-9]" if "0-9" in spelled(node) else r"\d"
    ways = [(f"{sign}{digit}+(?:{point}{digit}+)?", 0.85), (f"{sign}{digit}+{point}{digit}+", 0.95)]
    if "," in marks:
        ways.append((f"{sign}{digit}{{1,3}}(?:,{digit}{{3}})*", 0.9))
    for new, cost in ways:
        words = f"{spelled(around)} takes marks in any number: {new}"
        yield context.splice(around.span, new, words, cost)


def number_of_nothing(context: RepairContext) -> Iterator[Proposal]:
    """`\\d*\\.?\\d*` for a number, of which all may be lacking."""
    for found in re.finditer(r"(\\d|\[0-9\])\*((?:\\\.|,|\[.,\]))\??\1\*", context.case.expression):
        new = f"{found[1]}+(?:{found[2]}{found[1]}+)?"
        yield context.splice(found.span(), new, f"{found[0]} takes a number of no digits: {new}", 0.85)


_LIST_OF_NUMBERS = compiled_later(r"\(\?:\\d\+(\\?[,.' ])\)[*+]\\d\+|\\d\+\(\?:(\\?[,.' ])\\d\+\)[*+]")
_BARE_POINT = compiled_later(r"\\d\*(\\\.)\??\\d\+")


def thousands_meant(context: RepairContext) -> Iterator[Proposal]:
    """`\\d+(?:,\\d+)*` for a number with marks between thousands, `\\d*\\.?\\d+` for one that begins with a digit."""
    for found in _LIST_OF_NUMBERS.finditer(context.case.expression):
        new = f"\\d{{1,3}}(?:{found[1] or found[2]}\\d{{3}})*"
        yield context.splice(found.span(), new, f"a number has its marks between thousands: {new}", 0.9)
    for found in _BARE_POINT.finditer(context.case.expression):
        new = f"\\d+(?:{found[1]}\\d+)?"
        yield context.splice(found.span(), new, f"a number begins with a digit: {new}", 0.85)


_SIGNED_DIGITS = compiled_later(r"(?<![eE]\])(?<![eE])\[(?:\\?\+\\?-|-\\?\+)\]\??(?:\\d|\[0-9\])")


def exponent(context: RepairContext) -> Iterator[Proposal]:
    """The letter of an exponent, before digits that have a sign."""
    if re.search(r"\d[eE][+-]?\d", context.case.text) is None:
        return
    for found in _SIGNED_DIGITS.finditer(context.case.expression):
        place = found.start()
        words = "a number has its exponent behind a letter: [eE]"
        near = context.near_span((place, place)) / 2
        if place:
            yield context.splice((place, place), "[eE]", words, 0.75 + near)


_EXPONENT = "(?:[eE][+-]?\\d+)?"


def exponent_lacking(context: RepairContext) -> Iterator[Proposal]:
    """A number that the text has with an exponent, of which the expression knows nothing."""
    if _SCIENTIFIC.search(context.around) is None or re.search(r"e[\])E]", context.case.expression):
        return
    ends = set()
    for node in context.nodes:
        if not isinstance(node, Repeat) or not is_digit(node.item, context.parsed.flags):
            continue
        behind = context.after.get(node)
        if not _is_decimal_part(behind) and _mark(behind) not in (".", ","):
            decimals = next(filter(_is_decimal_part, context.facts.around(node)), node)
            ends.add(decimals.span[1])
    for place in sorted(ends):
        near = context.near_span((place, place)) / 4
        yield context.splice((place, place), _EXPONENT, f"a number may have an exponent: {_EXPONENT}", 0.8 + near)


_SCIENTIFIC = compiled_later(r"\d[eE][+-]?\d+(?!\w)")

_POINT_BETWEEN = compiled_later(r"(\\d|\[0-9\])\+\\\.\?\1\+")


def decimals_whole(context: RepairContext) -> Iterator[Proposal]:
    """`\\d+\\.?\\d+` for a number that may have decimals, which asks for two digits without them."""
    for found in _POINT_BETWEEN.finditer(context.case.expression):
        new = f"{found[1]}+(?:\\.{found[1]}+)?"
        yield context.splice(found.span(), new, f"decimals come with their point, or not at all: {new}", 0.75)


RULES = (
    decimals_whole,
    exponent,
    exponent_lacking,
    number_forms,
    all_decimals,
    all_signed,
    padded,
    first_digits,
    zero_lacking,
    groups_of_three,
    zero_too,
    offset_of_time,
)
