"""A number of any size, where the texts tell from what to what it goes: a month, an hour, degrees, a percentage."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.digits import numbers_between, padded_between
from fieldstick.drafting.context import before_groups
from fieldstick.drafting.slips.numbers import is_digit, two_digits
from fieldstick.drafting.slips.taking import took_at, took_of
from fieldstick.syntax.tree import Group, Repeat, literal_of, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.syntax.tree import Span

WIDEST = 3
"""Digits of a number up to which it is held against bounds."""

MINUTES = (0, 59)

MOST_OFFERED = 2
"""Pairs of bounds that are offered, the nearest ones."""

BOUNDS = (
    (1, 4), (1, 7), (1, 9), (1, 12), (0, 23), (1, 24), (1, 31), (1, 53), (0, 59), (0, 99), (1, 99), (0, 100), (1, 100),
    (0, 180), (0, 255), (0, 359), (0, 360), (1, 366), (0, 999), (1, 999),
)  # fmt: skip
"""From what to what numbers usually go: quarters, months, hours, days, weeks, minutes, shares, bytes, degrees."""


def bounded(context: RepairContext) -> Iterator[Proposal]:
    """A number beyond the bounds that those of the texts which should fit keep."""
    dated = {span for span, _ in two_digits(context)}
    for node in context.nodes:
        if not isinstance(node, Repeat) or not is_digit(node.item, context.parsed.flags) or node.span in dated:
            continue
        took = took_at(context, node.span)
        if took is None or not took.others or not all(map(_is_number, (took.own, *took.others))):
            continue
        unfitting = took_of(context, node.span, context.beside.unfitting)
        out = [int(each) for each in (took.own, *unfitting) if each and _is_number(each)]
        known = [int(each) for each in took.others]
        same = {len(each) for each in took.others}
        padded = len(same) == 1 and (any(each[0] == "0" for each in took.others) or node.least == node.most)
        within = [
            (low, high)
            for low, high in BOUNDS
            if low <= min(known) and max(known) <= high and not any(low <= each <= high for each in out)
        ]
        if _is_part_of_degree(context, node.span):
            within = [each for each in within if each == MINUTES]
        within.sort(key=lambda each: (each[1] - max(known), min(known) - each[0]))
        # That the next number is none of them any more says where they end.
        told = min(abs(each - other) for each in out for other in (min(known), max(known))) == 1
        if len(took.own) > max(map(len, took.others)) and not told:
            # It is how many digits there are that is amiss.
            continue
        if padded and not int(took.own) and all(known) and len(took.own) > 1:
            new = f"(?!{took.own}){spelled(node)}"
            yield context.splice(node.span, new, f"no number that should fit is {took.own}: {new}", 1.0)
        for rank, (low, high) in enumerate(within[:MOST_OFFERED]):
            width = len(took.others[0])
            if padded and len(str(high)) > width:
                continue
            new = padded_between(low, high, width) if padded else numbers_between(low, high)
            if not padded and any(len(each) > 1 and each[0] == "0" for each in took.others):
                few = f"0?{numbers_between(low, min(high, 9))}"
                new = few if high < 10 else f"(?:{few}|{numbers_between(max(low, 10), high)})"
            if spelled(node.item) == r"\d":
                new = new.replace("[0-9]", r"\d")
            words = f"{spelled(node)} is a number from {low} to {high}: {new}"
            # One number says little of where those that should fit end.
            likely = 0.85 if told else 1.05 if len({*known}) > 1 else 1.25
            yield context.splice(node.span, new, words, likely + 0.05 * rank)


def _is_part_of_degree(context: RepairContext, span: Span) -> bool:
    """Tell whether a number is one of minutes or seconds of a degree, by the sign before or behind it."""
    expression = context.case.expression
    return before_groups(expression, span[0])[-1:] == "°" or expression[span[1] :].lstrip(")\\")[:1] in tuple("'′″")


def leading_zeros(context: RepairContext) -> Iterator[Proposal]:
    """`(\\d{6})` for `0*(\\d{1,6})`: all that should fit has as many digits there, zeros before the number with it."""
    expression = context.case.expression
    for zeros, rest in context.pairs():
        digits = rest.body if isinstance(rest, Group) else rest
        if not isinstance(zeros, Repeat) or literal_of(zeros.item) != "0" or not isinstance(digits, Repeat):
            continue
        took = took_at(context, (zeros.span[0], rest.span[1])) if is_digit(digits.item, context.parsed.flags) else None
        sizes = {len(each) for each in took.others} if took is not None else set()
        if took is not None and len(took.others) > 1 and len(sizes) == 1 and len(took.own) not in sizes:
            size = sizes.pop()
            new = f"{spelled(digits.item)}{{{size}}}"
            changed = expression[rest.span[0] : digits.span[0]] + new + expression[digits.span[1] : rest.span[1]]
            words = f"what should fit has {size} digits there, zeros before the number with it: {new}"
            yield context.splice((zeros.span[0], rest.span[1]), changed, words, 0.75)


def _is_number(text: str) -> bool:
    return text.isascii() and text.isdecimal() and len(text) <= WIDEST


RESTRAINTS = (bounded, leading_zeros)
