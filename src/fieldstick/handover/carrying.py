"""Carries a pattern to another engine: its expression written for it, asking for its reach, and tried there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.examples import trial_texts
from fieldstick.analysis.rendering.dialects import DIALECTS
from fieldstick.analysis.rendering.iregexp import ENGINE as RFC_9485
from fieldstick.analysis.rendering.terms import NotCarried
from fieldstick.analysis.rendering.writing import rendered
from fieldstick.engines.registry import engine_named, why_unusable
from fieldstick.errors import BudgetSpent, EngineFailure, SyntaxFault, UsageError
from fieldstick.matching.expression import ExpressionMatcher
from fieldstick.runs.judging import judge
from fieldstick.syntax.parser import parse
from fieldstick.workspace import Chosen

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.engines.protocol import Reach
    from fieldstick.runs.results import SampleResult
    from fieldstick.suites.suite import Pattern

MOST_SHOWN = 40
"""Characters of a sample's text up to which it is shown whole."""

BY_MAPPING = "ecmascript"
"""The engine on which an expression of RFC 9485 is tried."""

BY_TYPE = ("type", "least", "most", "one_of")


def member_of(chosen: Chosen, pattern: Pattern) -> Chosen:
    """Return a member of a pattern made of patterns as one that is meant itself, with its parameters' values."""
    return Chosen(pattern, chosen.suite, pattern.own_values(chosen.values))


class Uncarried(UsageError):
    """What is asked for cannot be asked for where it is to go."""


class Carried(Struct, frozen=True):
    """An expression as an engine reads it, `flags` that it needs there, and the numbers that its groups have there.

    `left` names what the expression does not carry, `notes` what else is otherwise there.
    """

    engine: str
    expression: str
    flags: frozenset[str]
    numbers: tuple[int | None, ...]
    notes: tuple[str, ...] = ()


def carried(
    expression: str,
    flags: frozenset[str],
    reach: Reach,
    engine: str,
    *,
    source: str = "python",
    foldable: bool = True,
    whole_values: bool = False,
    named: bool = True,
) -> Carried:
    """Write an expression for an engine, so that a plain search asks for its reach.

    With `whole_values` it is held against whole values there, whatever it says. One that is not `foldable` has to do
    without a flag that lets case go; one that is not `named` has groups without names. Raises Uncarried where its
    meaning cannot be kept.
    """
    try:
        rendering = rendered(
            expression,
            flags,
            engine,
            source=source,
            reach=reach,
            foldable=foldable,
            whole_values=whole_values,
            named=named,
        )
    except NotCarried as error:
        piece = expression[slice(*error.span)]
        words = f"it cannot be written for {engine} so that it means the same: {error.reason} ({piece})"
        raise Uncarried(words) from None
    except SyntaxFault as error:
        raise UsageError(f"{expression}: {error}") from None
    text = rendering.expression if whole_values else _anchored(rendering.expression, reach, engine)
    return Carried(engine, text, rendering.flags, rendering.numbers, rendering.notes)


def _anchored(expression: str, reach: Reach, engine: str) -> str:
    """Return an expression that asks for its reach itself, however it is searched for; XML's always asks for all."""
    dialect = DIALECTS[engine]
    if reach == "anywhere" or dialect.start is None or dialect.end is None:
        return expression
    inner = f"{dialect.plain}{expression})" if "|" in expression else expression
    return f"{dialect.start}{inner}{dialect.end if reach == 'whole' else ''}"


def left_behind(pattern: Pattern, kept: Sequence[str] = ()) -> list[str]:
    """Name what a pattern says and its expression does not: fields' types and bounds, but `kept`, and its take."""
    left = []
    for name, table in pattern.fields.items():
        named = f"{name} ({table.name})" if table.name else name
        keys = [key for key in BY_TYPE if getattr(table, key) not in (None, "text", ()) and key not in kept]
        if keys:
            verb = "is" if len(keys) == 1 else "are"
            left.append(f"the field {named}: its {', '.join(keys)} {verb} not carried by an expression")
    if pattern.take != "first":
        left.append(f"take = {pattern.take!r} is not carried by an expression")
    return left


class Trial(Struct, frozen=True):
    """How samples and texts came out on the engine, in words, and what is let through there for want of bounds."""

    words: str
    let_through: tuple[str, ...] = ()


def tried(chosen: Chosen, made: Carried, *, whole_values: bool = False) -> Trial:
    """Give an engine the samples, and texts made of the expression, with the very expression that is handed over.

    Raises UsageError when one is read otherwise than here.
    """
    pattern, engine = chosen.pattern, made.engine
    samples = [each for each in pattern.samples if dict(each.values) == dict(chosen.values)]
    through = tuple(each for each in samples if each.kind == "negative" and _matches(chosen, each.text))
    let_through = tuple(f"{each.kind} {each.number} ({_brief(each.text)}) is let through there" for each in through)
    _check(pattern, judge(pattern).samples, "here; mend that first")
    texts = _made_texts(chosen)
    if engine == RFC_9485:
        # What has no engine is read by one that it can be written for (RFC 9485, section 5.3).
        made = carried(made.expression, frozenset(), "whole", BY_MAPPING, source=engine, whole_values=True)
        engine = BY_MAPPING
    if why_unusable(engine) is not None:
        return Trial(f"not tried: {engine} is not usable here", let_through)
    if not samples and not texts:
        return Trial(f"not tried on {engine}: there is no sample, and no text was made of the expression")
    there = engine_named(engine).compile(made.expression, made.flags)
    reach: Reach = "whole" if whole_values else "anywhere"
    for name, text in [*((f"{each.kind} {each.number}", each.text) for each in samples), *texts]:
        try:
            found = bool(there.matches(text, reach, pattern.budget_ms, 1))
        except (BudgetSpent, EngineFailure) as error:
            if (name, text) in texts:
                continue
            raise UsageError(f"{name} cannot be judged on {engine}: {error}") from None
        if found != _matches(chosen, text):
            raise UsageError(f"{name} {'fits' if found else 'does not fit'} on {engine}, other than here")
    if not whole_values:
        _check(pattern, judge(pattern, (engine,), rendered=True).samples, f"on {engine}")
    counted = [f"its {len(samples)} sample{'' if len(samples) == 1 else 's'}"] if samples else []
    counted += [f"{len(texts)} text{'' if len(texts) == 1 else 's'} made of it"] if texts else []
    return Trial(f"{' and '.join(counted)}: read on {engine} as here", let_through)


def _made_texts(chosen: Chosen) -> list[tuple[str, str]]:
    """Return texts made of a pattern's expression, and others near them, with what each is called."""
    pattern = chosen.pattern
    if pattern.engine != "python":
        return []
    texts = trial_texts(parse(chosen.expression, pattern.flags), pattern.reach)
    known = {each.text for each in pattern.samples}
    return [(f"the text {_brief(each)}", each) for each in texts if each not in known]


def _check(pattern: Pattern, samples: Sequence[SampleResult], where: str) -> None:
    """Raise UsageError where samples do not pass."""
    failing = [each for each in samples if each.outcome != "pass"]
    if failing:
        first = failing[0]
        raise UsageError(
            f"{len(failing)} of {len(samples)} samples do not pass {where}; the first is {first.sample.kind} "
            f"{first.sample.number}: {first.words}"
        )


def _matches(chosen: Chosen, text: str) -> bool:
    """Tell whether the expression matches a text, whatever its fields' types and bounds say."""
    matcher = chosen.matcher
    assert isinstance(matcher, ExpressionMatcher)
    return matcher.match_within(text, chosen.pattern.reach) is not None


def _brief(text: str) -> str:
    shown = repr(text)
    return shown if len(shown) <= MOST_SHOWN else f"{shown[:MOST_SHOWN]}…"
