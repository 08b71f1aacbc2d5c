"""How the texts that two patterns take relate, as far as their expressions say: proven, not sampled.

What their fields refuse beyond that is left out of it: types and bounds are told apart by `compare` in words.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from fieldstick.analysis.relation import Joined, Reading, Relation, relation_of
from fieldstick.errors import SyntaxFault

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.analysis.relation import Asked
    from fieldstick.suites.suite import Combination, Pattern

_HOW: dict[Combination, Literal["any", "all", "none"]] = {"any_of": "any", "all_of": "all", "none_of": "none"}


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


def asked_of(pattern: Pattern, values: Mapping[str, str]) -> Asked:
    """Return what a pattern takes, as it is asked of the automaton."""
    if pattern.filling is not None:
        return Reading(pattern.filling.text(dict(values)), pattern.reach, pattern.flags)
    assert pattern.combination is not None
    return Joined(_HOW[pattern.combination], tuple(asked_of(member, values) for member in pattern.members))
