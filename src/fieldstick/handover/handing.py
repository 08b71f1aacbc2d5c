"""Hands a pattern over: its expression written for the engine of a language, tried there, and quoted."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.rendering.dialects import DIALECTS
from fieldstick.analysis.rendering.terms import NotCarried
from fieldstick.analysis.rendering.writing import rendered
from fieldstick.engines.registry import why_unusable
from fieldstick.errors import UsageError
from fieldstick.handover.literals import LITERALS
from fieldstick.runs.judging import judge

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach
    from fieldstick.suites.suite import Pattern


class Handed(Struct, frozen=True):
    """What is handed over: the literal, the engine that reads it, what is left behind, and how it was tried."""

    text: str
    engine: str
    left: tuple[str, ...]
    tried: str


def handed(pattern: Pattern, expression: str, kind: str, engine: str | None = None) -> Handed:
    """Write a pattern's expression as a literal of a language, for the language's engine or another.

    Raises UsageError where its meaning cannot be kept there, or a sample comes out otherwise on the engine.
    """
    literal = LITERALS[kind]
    target = engine or literal.engine
    try:
        rendering = rendered(expression, pattern.flags, target, reach=pattern.reach, foldable=literal.flags)
    except NotCarried as error:
        piece = expression[slice(*error.span)]
        words = f"it cannot be written for {target} so that it means the same: {error.reason} ({piece})"
        raise UsageError(words) from None
    left: list[str] = []
    for name, table in pattern.fields.items():
        kept = [key for key in ("type", "least", "most", "one_of") if getattr(table, key) not in (None, "text", ())]
        if kept:
            left.append(f"the field {name}: its {', '.join(kept)} is not carried by an expression")
    if pattern.take != "first":
        left.append(f"take = {pattern.take!r} is not carried by an expression")
    left += [*rendering.notes]
    text = _anchored(rendering.expression, pattern.reach, target)
    return Handed(literal.quoted(text, rendering.flags), target, tuple(left), _tried(pattern, target))


def _anchored(expression: str, reach: Reach, engine: str) -> str:
    """Return an expression that asks for its reach itself, however it is searched for; XML's always asks for all."""
    dialect = DIALECTS[engine]
    if reach == "anywhere" or dialect.start is None or dialect.end is None:
        return expression
    inner = f"{dialect.plain}{expression})" if "|" in expression else expression
    return f"{dialect.start}{inner}{dialect.end if reach == 'whole' else ''}"


def _tried(pattern: Pattern, engine: str) -> str:
    """Judge the samples on the engine, and say how that came out. Raises UsageError when one does not pass."""
    if why_unusable(engine) is not None:
        return f"not tried: {engine} is not usable here"
    if not pattern.samples:
        return f"not tried on {engine}: the pattern has no sample"
    samples = judge(pattern, (engine,), rendered=True).samples
    failing = [each for each in samples if each.outcome != "pass"]
    if failing:
        first = failing[0]
        raise UsageError(
            f"{len(failing)} of {len(samples)} samples do not pass on {engine}, the first is {first.sample.kind} "
            f"{first.sample.number}: {first.words}"
        )
    return f"its {len(samples)} sample{'s pass' if len(samples) != 1 else ' passes'} on {engine}"
