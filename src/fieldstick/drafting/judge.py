"""Tells whether a changed setting of a pattern fits, as the pattern's matcher would, and which member decides."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.engines.probing import tried
from fieldstick.errors import ExpressionError, SyntaxFault
from fieldstick.matching.prepare import prepare
from fieldstick.matching.result import GAVE_UP
from fieldstick.suites.parts import fill_plain
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from fieldstick.drafting.context import MatchCase
    from fieldstick.drafting.diagnosis import Judge
    from fieldstick.suites.suite import Pattern, Sample


Path = tuple[tuple[str, str], ...]
"""The combination (any_of, all_of, none_of) and the name of the member at each step to a member."""


def changed_pattern(pattern: Pattern, case: MatchCase) -> Pattern:
    """Return a pattern with the expression, flags and reach of a setting."""
    filling = fill_plain(case.expression)
    return replace(pattern, filling=filling, flags=case.flags, reach=case.reach, parameters=())


def whole_fits(pattern: Pattern, path: Path, case: MatchCase, values: Mapping[str, str]) -> bool:
    """Tell whether a pattern made of others fits when the member that a path leads to is as in a setting."""

    def with_member(outer: Pattern, left: Path) -> Pattern:
        if not left:
            return changed_pattern(outer, case)
        members = [with_member(each, left[1:]) if each.name == left[0][1] else each for each in outer.members]
        return replace(outer, members=tuple(members))

    try:
        return prepare(with_member(pattern, path), values).read_or_give_up(case.text).fits
    except ExpressionError:
        return False


def judge_of(pattern: Pattern) -> Judge:
    """Return what tells whether a setting of a pattern fits: fields, bounds and which match is taken count."""
    if not pattern.fields and pattern.take in ("first", "all"):
        return lambda case: tried(case.expression, case.flags, case.reach, case.text)

    def judge(case: MatchCase) -> bool | None:
        try:
            reading = prepare(changed_pattern(pattern, case)).read_or_give_up(case.text)
        except ExpressionError:
            return False
        return None if reading.unfit is not None and reading.unfit.reason == GAVE_UP else reading.fits

    return judge


def breaks_of(pattern: Pattern, text: str) -> Callable[[MatchCase], int] | None:
    """Return what counts the pattern's other samples that a setting would turn from right to wrong.

    None for a pattern made of others, or with parameters, whose samples each have an expression of their own.
    """
    if pattern.filling is None or pattern.parameters:
        return None
    judge = judge_of(pattern)
    expression = pattern.filling.text({})

    def is_right(sample: Sample, case: MatchCase) -> bool:
        return bool(judge(replace(case, text=sample.text))) == (sample.kind == "positive")

    right: list[Sample] | None = None

    def count(case: MatchCase) -> int:
        nonlocal right
        if right is None:
            now = replace(case, expression=expression, flags=pattern.flags, reach=pattern.reach)
            right = [sample for sample in pattern.samples if sample.text != text and is_right(sample, now)]
        return sum(not is_right(sample, case) for sample in right)

    return count


class Deciding(Struct, frozen=True):
    """The member of a pattern made of others that decides about a text, and the path that leads to it."""

    pattern: Pattern
    path: Path = ()


def deciding(pattern: Pattern, text: str, values: Mapping[str, str]) -> Deciding:
    """Return the member that decides whether a text fits; of several that do not, the one that came furthest."""
    path: list[tuple[str, str]] = []
    while pattern.combination is not None:
        fitting = [member for member in pattern.members if _reads(member, text, values)]
        missing = [member for member in pattern.members if member not in fitting]
        wanted = missing if pattern.combination == "all_of" else fitting
        candidates = wanted[:1] or (missing or fitting)
        chosen = max(candidates, key=lambda member: _progress(member, text, values))
        path.append((pattern.combination, chosen.name))
        pattern = chosen
    return Deciding(pattern, tuple(path))


def _values_of(pattern: Pattern, values: Mapping[str, str]) -> dict[str, str]:
    return {name: values[name] for name in pattern.parameters if name in values}


def _reads(pattern: Pattern, text: str, values: Mapping[str, str]) -> bool:
    return prepare(pattern, _values_of(pattern, values)).read_or_give_up(text).fits


def _progress(pattern: Pattern, text: str, values: Mapping[str, str]) -> int:
    """Tell how far a pattern that does not fit came; of one made of others, the best of them."""
    if pattern.combination is not None:
        return max((_progress(member, text, values) for member in pattern.members), default=0)
    from fieldstick.drafting.tracer import trace

    assert pattern.filling is not None
    try:
        parsed = parse(pattern.filling.text(_values_of(pattern, values)), pattern.flags)
    except SyntaxFault:
        return 0
    return trace(parsed, text, pattern.reach).furthest
