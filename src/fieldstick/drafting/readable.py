"""Tells whether an expression can be read, and why not."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.engines.probing import compiled_by_engine
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from fieldstick.drafting.context import MatchCase


def is_readable(case: MatchCase) -> bool:
    """Tell whether an expression can be read, by the engine too."""
    try:
        parse(case.expression, case.flags)
    except (SyntaxFault, RecursionError):
        return False
    return compiled_by_engine(case.expression, case.flags) is not None


def fault_of(case: MatchCase) -> SyntaxFault | None:
    """Return why an expression cannot be read; None where it can."""
    try:
        parse(case.expression, case.flags)
    except SyntaxFault as fault:
        return fault
    return None
