"""How the texts that two patterns take relate, as far as their expressions say: proven, not sampled.

What their fields refuse beyond that is left out of it: types and bounds are told apart by `compare` in words.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.relation import Relation, relation_of
from fieldstick.errors import SyntaxFault
from fieldstick.matching.asking import asked_of

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.suites.suite import Pattern


def pattern_relation(first: Pattern, second: Pattern, values: Mapping[str, str] | None = None) -> Relation:
    """Return how the texts of two patterns relate: `narrower` when the first takes only texts the second takes.

    `values` are those of their parameters; without them a pattern that has some is undecided.
    """
    known = values or {}
    missing = [name for name in (*first.parameters, *second.parameters) if name not in known]
    if missing:
        return Relation("undecided", why=f"the value of the parameter '{missing[0]}' is not known")
    try:
        return relation_of(asked_of(first, known), asked_of(second, known))
    except SyntaxFault as error:
        return Relation("undecided", why=f"an expression cannot be read: {error.rule}")
