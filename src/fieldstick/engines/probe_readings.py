"""Asks an engine what it makes of a probe of notation."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.engines.registry import BY_NAME, engine_named
from fieldstick.errors import BudgetSpent, EngineFailure, ExpressionError

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Spans
    from fieldstick.syntax.probes import Probe

FLAG_OF = {"i": "ignore-case", "m": "multiline", "s": "dotall", "x": "verbose", "a": "ascii"}
BUDGET_MS = 5_000


def reading(probe: Probe, engine: str) -> str | None:
    """Return how an engine reads a probe, as `probes` writes readings; None where it cannot be asked that.

    Raises EngineUnusable.
    """
    if probe.reach != "whole" and not BY_NAME[engine].captures:
        return None
    try:
        made = engine_named(engine).compile(probe.expression, frozenset(FLAG_OF[letter] for letter in probe.flags))
    except ExpressionError:
        return "refused"
    try:
        return written(made.matches(probe.text, probe.reach, BUDGET_MS, None))
    except (BudgetSpent, EngineFailure):
        return "failed"


def written(matches: list[Spans]) -> str:
    """Write matches as `probes` does."""
    return " ".join(",".join("-" if start < 0 else f"{start}-{end}" for start, end in spans) for spans in matches)
