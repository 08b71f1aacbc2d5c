"""The stretch of a long expression that stands around a place: enough to tell what a hole there takes.

The engine takes long over a long expression, and as many are asked for as there are places. What is proposed by one is
tried with the whole expression afterwards.
"""

from __future__ import annotations

from bisect import bisect_right
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.engines.probing import compiled_by_engine
from fieldstick.syntax.tree import Sequence

if TYPE_CHECKING:
    import re

    from fieldstick.drafting.context import MatchCase, RepairContext
    from fieldstick.syntax.tree import Span

LONG = 1_000
"""Code points of an expression from which on only a stretch of it is looked at."""

AROUND, STEP = 24, 16
"""Pieces on each side that belong to a stretch at the least, and those from one beginning of such to the next."""

ANYTHING = "(?s:.*)"
"""What takes the rest of a text."""


class Window(Struct, frozen=True):
    """A stretch of an expression: where it begins and ends, and what is before it, which matches what is before."""

    case: MatchCase
    start: int
    end: int

    @property
    def text(self) -> str:
        """The stretch itself."""
        return self.case.expression[self.start : self.end]

    def around(self, span: Span, new: str) -> str:
        """Return the stretch with something in the place of a span, and what takes anything for what is behind it."""
        expression = self.case.expression
        rest = ANYTHING if self.end < len(expression) else ""
        return f"{expression[self.start : span[0]]}{new}{expression[span[1] : self.end]}{rest}"

    def before(self) -> re.Pattern[str] | None:
        """Compile what is before it, which the engine matches where the stretch begins; None where it refuses."""
        return compiled_by_engine(self.case.expression[: self.start], self.case.flags)


def window_around(context: RepairContext, span: Span) -> Window:
    """Return the stretch around a span: the whole of what is not long, or is read otherwise when it is cut."""
    case, tree = context.case, context.parsed.tree
    whole = Window(case, 0, len(case.expression))
    if len(case.expression) <= LONG or case.reach == "anywhere" or context.has_no_stretches:
        return whole
    if not isinstance(tree, Sequence):
        return whole
    starts = [each.span[0] for each in tree.items]
    first = max(0, bisect_right(starts, span[0]) - 1 - AROUND) // STEP * STEP
    last = bisect_right(starts, max(span[1] - 1, span[0])) + AROUND
    return Window(case, starts[first] if first else 0, starts[last] if last < len(starts) else len(case.expression))
