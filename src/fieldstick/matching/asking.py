"""What patterns ask of the automaton."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.asked import Joined, Reading

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.analysis.automaton.asked import Asked, How
    from fieldstick.suites.suite import Combination, Pattern

_HOW: dict[Combination, How] = {"any_of": "any", "all_of": "all", "none_of": "none"}


def asked_of(pattern: Pattern, values: Mapping[str, str]) -> Asked:
    """Return what a pattern takes, as it is asked of the automaton."""
    if pattern.filling is not None:
        return Reading(pattern.filling.text(dict(values)), pattern.reach, pattern.flags)
    assert pattern.combination is not None
    return Joined(_HOW[pattern.combination], tuple(asked_of(member, values) for member in pattern.members))
