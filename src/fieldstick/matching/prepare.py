"""Makes a pattern ready: parameters filled in, compiled on its engine, its fields laid out."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.engines.protocol import reaches_of
from fieldstick.engines.registry import engine_named
from fieldstick.errors import ExpressionError, UsageError, hint
from fieldstick.matching.expression import ExpressionMatcher
from fieldstick.matching.result import Layout
from fieldstick.suites.fieldtypes import TEXT, field_spec
from fieldstick.suites.parts import OWN

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.engines.protocol import Compiled
    from fieldstick.matching.matcher import Matcher
    from fieldstick.suites.suite import Pattern


def prepare(
    pattern: Pattern, values: Mapping[str, str] | None = None, *, engine: str | None = None, rendered: bool = False
) -> Matcher:
    """Make `pattern` ready, its parameters standing for `values`, on `engine` or its own first one.

    With `rendered` an expression is written for the engine first, so that it means there what it does on its own.

    Raises ExpressionError when the expression does not compile, EngineUnusable when the engine is not
    usable here, UsageError when a parameter has no value or there is no such parameter.
    """
    given = dict(values or {})
    for name in pattern.parameters:
        if name not in given:
            raise UsageError(f"the pattern '{pattern.name}' needs a value for its parameter '{name}'")
    for name in given:
        if name not in pattern.parameters:
            raise UsageError(f"the pattern '{pattern.name}' has no parameter '{name}'{hint(name, pattern.parameters)}")
    return _prepare(pattern, given, engine, rendered)


def _prepare(pattern: Pattern, values: Mapping[str, str], engine: str | None, rendered: bool) -> Matcher:
    if pattern.combination is not None:
        from fieldstick.matching.combination import CombinationMatcher

        return CombinationMatcher(pattern, tuple(_prepare(each, values, engine, rendered) for each in pattern.members))
    assert pattern.filling is not None
    expression = pattern.filling.text(values)
    name = engine or pattern.engine
    compiled: Compiled
    try:
        if rendered and name != pattern.engine:
            from fieldstick.matching.carried import CarriedExpression

            compiled = CarriedExpression(expression, pattern.flags, name, pattern.reach, own=pattern.engine)
        else:
            compiled = engine_named(name).compile(expression, pattern.flags)
            if pattern.reach not in reaches_of(compiled):
                rule = f"{name} judges whole values alone, not a match {pattern.reach}: set reach to whole"
                raise ExpressionError(rule, None)
    except ExpressionError as error:
        raise _placed(error, pattern, values) from None
    return ExpressionMatcher(pattern, compiled, _layout(pattern, compiled))


def _placed(error: ExpressionError, pattern: Pattern, values: Mapping[str, str]) -> ExpressionError:
    """Say where the fault stands in the text the user wrote."""
    assert pattern.filling is not None
    if error.position is None:
        return error
    origin = pattern.filling.origin(error.position, values)
    return ExpressionError(error.rule, origin.offset, None if origin.source == OWN else origin.source, error.given)


def _layout(pattern: Pattern, compiled: Compiled) -> Layout:
    tables = [pattern.fields.get(name) for name in compiled.group_names]
    names = tuple(
        (table.name if table else None) or name for name, table in zip(compiled.group_names, tables, strict=True)
    )
    specs = tuple(_spec(table) for table in tables)
    return Layout(names, specs, tuple(index for index, spec in enumerate(specs) if spec is not None))


def _spec(table: Any) -> Any:
    spec = field_spec(table) if table is not None else TEXT
    return None if spec == TEXT else spec
