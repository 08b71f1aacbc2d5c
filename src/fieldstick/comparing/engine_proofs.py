"""Whether an expression, as it is written, means the same to two engines on every text, and a text where it does not.

What the automaton finds is asked of both engines before it is said.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.analysis.examples import trial_texts
from fieldstick.analysis.portability import Stranger, relation_on, strangers
from fieldstick.analysis.rendering.dialects import DIALECTS
from fieldstick.analysis.rendering.terms import NotCarried
from fieldstick.analysis.rendering.writing import rendered
from fieldstick.engines.registry import engine_named, why_unusable
from fieldstick.errors import FieldstickError, SyntaxFault
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from fieldstick.analysis.rendering.writing import Rendering
    from fieldstick.suites.suite import Pattern

BUDGET_MS = 2_000


class Proof(Struct, frozen=True):
    """How what an engine takes stands to what an expression's `own` does: `same` on every text, or `differs` on one.

    `text` is a shortest such text, `here` tells whether its own engine takes it; the other one does not where it does,
    and the other way round.
    """

    own: str
    engine: str
    outcome: Literal["same", "differs"]
    text: str = ""
    here: bool = False


class Carried(Struct, frozen=True):
    """What stands in the way of an expression on an engine, and the expression written for it, if it can be."""

    strangers: tuple[Stranger, ...]
    rendering: Rendering | None
    why: str = ""


def filled_expression(pattern: Pattern) -> str | None:
    """Return the expression of a pattern, its parameters standing for their own names; None for a combination."""
    if pattern.filling is None:
        return None
    return pattern.filling.text({name: name for name in pattern.parameters})


def proof(pattern: Pattern, engine: str) -> Proof | None:
    """Return what is proven of a pattern on another engine than its own; None where nothing is."""
    expression = filled_expression(pattern)
    return proof_of(expression, pattern, engine) if expression is not None else None


def proof_of(expression: str, pattern: Pattern, engine: str) -> Proof | None:
    """Return what is proven of an expression under the flags and the reach of a pattern."""
    try:
        found = relation_on(expression, pattern.flags, pattern.reach, engine, own=pattern.engine)
    except SyntaxFault:
        return None
    if found is None or found.relation == "undecided":
        return None
    if found.relation == "same":
        return Proof(pattern.engine, engine, "same")
    text = found.only_first if found.only_first is not None else found.only_second
    if text is None:
        return None
    here = found.only_first is not None
    proven = Proof(pattern.engine, engine, "differs", text, here)
    return proven if _confirmed(pattern, expression, engine, text, here) else None


def _confirmed(pattern: Pattern, expression: str, engine: str, text: str, here: bool) -> bool:
    try:
        told = [
            bool(engine_named(name).compile(expression, pattern.flags).matches(text, pattern.reach, BUDGET_MS, 1))
            for name in (pattern.engine, engine)
        ]
    except FieldstickError:
        return False
    return told == [here, not here]


def carried(pattern: Pattern, engine: str) -> Carried | None:
    """Return what stands in the way of a pattern on another engine than its own; None where that cannot be told."""
    expression = filled_expression(pattern)
    return carried_of(expression, pattern, engine) if expression is not None else None


def carried_of(expression: str, pattern: Pattern, engine: str) -> Carried | None:
    """Return the same of an expression under the flags and the reach of a pattern.

    Which pieces are strangers is known of Python's expressions alone.
    """
    own = pattern.engine
    try:
        found = tuple(strangers(expression, pattern.flags, engine)) if own == "python" else ()
        try:
            rendering = rendered(expression, pattern.flags, engine, source=own, reach=pattern.reach)
        except NotCarried as error:
            return Carried(found, None, error.reason)
        text = misread(expression, pattern, rendering)
        if text is not None:
            return Carried(found, None, f"{rendering.expression} reads {text!r} otherwise there")
        return Carried(found, rendering)
    except SyntaxFault:
        return None


def misread(expression: str, pattern: Pattern, rendering: Rendering) -> str | None:
    """Return a text that the engine reads otherwise by what was written for it; None where none was found.

    Texts made of the expression, and those at the edges of its classes, are asked of both engines, where the other one
    is usable here.
    """
    dialect = DIALECTS[rendering.engine]
    skipped = not dialect.captures and pattern.reach != "whole"
    if pattern.engine != "python" or skipped or why_unusable(rendering.engine) is not None:
        return None
    texts = trial_texts(parse(expression, pattern.flags), pattern.reach)
    try:
        here = engine_named("python").compile(expression, pattern.flags)
        there = engine_named(rendering.engine).compile(rendering.expression, rendering.flags)
    except FieldstickError:
        return None
    for text in texts:
        if dialect.in_chars and max(text, default="") > "\uffff":
            continue
        try:
            told = [bool(each.matches(text, pattern.reach, BUDGET_MS, 1)) for each in (here, there)]
        except FieldstickError:
            continue
        if told[0] != told[1]:
            return text
    return None
