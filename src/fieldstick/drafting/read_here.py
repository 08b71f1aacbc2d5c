"""Patterns of other engines as Python's engine reads them: what means the same there, in its own notation."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.engines.protocol import DEFAULT_ENGINE
from fieldstick.errors import SyntaxFault, UsageError
from fieldstick.suites.parts import fill_plain
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.suites.suite import Pattern
    from fieldstick.syntax.parser import Parsed


def is_foreign(pattern: Pattern) -> bool:
    """Tell whether a pattern, or a member of it, is written for another engine than Python's."""
    return pattern.engine != DEFAULT_ENGINE or any(map(is_foreign, pattern.members))


def read_here(pattern: Pattern, values: Mapping[str, str]) -> Pattern:
    """Return a pattern that means to Python's engine what this one means to its own, its parameters filled in.

    One that is written for Python's stays as it is. Raises UsageError for a piece whose meaning is not known, or has
    no words here.
    """
    if pattern.combination is not None:
        members = tuple(read_here(each, each.own_values(values)) for each in pattern.members)
        return replace(pattern, members=members, engines=(DEFAULT_ENGINE,))
    if pattern.engine == DEFAULT_ENGINE or pattern.filling is None:
        return pattern
    # Most patterns are Python's own, and need nothing of this.
    from fieldstick.analysis.rendering.terms import NotCarried
    from fieldstick.analysis.rendering.writing import rendered

    expression = pattern.filling.text(values)
    told = f"{pattern.name} is written for {pattern.engine}, and"
    try:
        made = rendered(expression, pattern.flags, DEFAULT_ENGINE, source=pattern.engine, reach=pattern.reach)
    except NotCarried as error:
        piece = expression[slice(*error.span)]
        raise UsageError(f"{told} cannot be read here so that it means the same: {error.reason} ({piece})") from None
    except SyntaxFault as error:
        raise UsageError(f"{told} cannot be read: {error}") from None
    if made.numbers != tuple(range(1, len(made.numbers) + 1)):
        raise UsageError(f"{told} its groups would have other numbers here")
    return replace(
        pattern, filling=fill_plain(made.expression), flags=made.flags, engines=(DEFAULT_ENGINE,), parameters=()
    )


def parsed_here(pattern: Pattern, values: Mapping[str, str]) -> Parsed | None:
    """Return what a pattern asks for as Python's engine reads it; None where that cannot be read or is not known."""
    assert pattern.filling is not None
    try:
        here = read_here(pattern, values)
        assert here.filling is not None
        return _parsed(here.filling.text(values), here.flags)
    except (SyntaxFault, UsageError):
        return None


@lru_cache(maxsize=64)
def _parsed(expression: str, flags: frozenset[str]) -> Parsed:
    """Return what an expression asks for: crowds of texts are held against the same few."""
    return parse(expression, flags)
