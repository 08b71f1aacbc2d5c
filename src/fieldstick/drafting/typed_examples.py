"""Texts that a pattern fits: its fields hold values of their types, within their bounds."""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from typing import TYPE_CHECKING

from fieldstick.analysis.examples import examples, texts_of
from fieldstick.analysis.facts import facts_of
from fieldstick.engines.probing import fits
from fieldstick.suites.fieldtypes import FieldSpec, field_spec
from fieldstick.syntax.tree import Group, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.engines.protocol import Reach
    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.suite import Pattern
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Node

DAY = dt.datetime(2026, 5, 4, 6, 10)
"""The moment that dates and times are examples of, where their bounds allow."""

TRIED = 200
"""Texts that are held against the pattern before it is said that none was found."""


def typed_examples(matcher: Matcher, parsed: Parsed, *, most: int = 3) -> list[str]:
    """Return up to `most` different texts that a pattern fits, fields, bounds and which match is taken counted."""
    pattern = matcher.pattern
    found: list[str] = []
    if not pattern.fields and pattern.take in ("first", "all"):
        return examples(parsed, pattern.reach, most=most)
    tried = 0
    for place in range(most):
        for text in texts_of(parsed, pattern.reach, dict(_forced(pattern, parsed, place))):
            tried += 1
            if text not in found and matcher.read_or_give_up(text).fits:
                found.append(text)
                break
            if tried >= TRIED:
                return found
    return found


def _forced(pattern: Pattern, parsed: Parsed, place: int) -> Iterator[tuple[Node, str]]:
    """Yield each group of a typed field with a text that is a value of it: the first that the group takes, or later."""
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Group) or node.number is None:
            continue
        table = pattern.fields.get(node.name or str(node.number))
        if table is None:
            continue
        reach: Reach = "whole"
        body = spelled(node.body)
        fitting = [text for text in dict.fromkeys(_values(field_spec(table))) if fits(body, parsed.flags, reach, text)]
        if fitting:
            yield node, fitting[place % len(fitting)]


def _values(spec: FieldSpec) -> Iterator[str]:
    """Yield texts that are values of a field, the likeliest first."""
    if spec.one_of:
        yield from map(spec.plain, spec.one_of)
    elif spec.type in ("integer", "decimal"):
        yield from _numbers(spec)
    elif spec.type in ("date", "time", "timestamp"):
        yield from _moments(spec)
    elif spec.type == "boolean":
        yield from spec.true or ("true", "yes", "1")
        yield from spec.false or ("false", "no", "0")


def _numbers(spec: FieldSpec) -> Iterator[str]:
    least, most = spec.least, spec.most
    inside = [each for each in (least, most) if each is not None]
    middle = (Decimal(least) + Decimal(most)) / 2 if len(inside) == 2 else None
    for number in (Decimal(7), Decimal(31), Decimal(417), middle, *map(Decimal, inside)):
        if number is None or (least is not None and number < least) or (most is not None and number > most):
            continue
        for places in (0, 1, 2, 3):
            text = f"{number:.{places}f}" if spec.type == "decimal" else f"{int(number)}"
            yield text.replace(".", spec.decimal_mark)
        yield f"{int(number):02}"
        yield f"{int(number):03}"


def _moments(spec: FieldSpec) -> Iterator[str]:
    for moment in (DAY, spec.least, spec.most):
        value = moment
        if isinstance(moment, dt.datetime) and moment is DAY:
            value = {"date": DAY.date(), "time": DAY.time()}.get(spec.type, DAY)
        if value is None:
            continue
        if spec.layout is not None:
            yield value.strftime(spec.layout)
        else:
            yield value.isoformat()
            yield value.isoformat() + "Z"
            if hasattr(value, "isoformat") and spec.type != "date":
                yield value.isoformat(timespec="minutes")
