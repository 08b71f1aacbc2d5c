"""Finds what in an expression will bite later: each hazard with its place, the reason, the remedy and a text.

A finder looks through the tree and names what may be a hazard; what it names is shown only when the engine, on a text
that is shown with it, does with the remedy what is said. What is merely unusual is left in peace.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.effort import Effort
from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.hazards import classes, flags, options, places, proofs, repeats
from fieldstick.analysis.hazards.suspect import Hazard, confirmed, edited
from fieldstick.analysis.hazards.suspect import Suspect as _Suspect
from fieldstick.engines.probing import fits
from fieldstick.syntax.tree import Dot, Group

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator
    from collections.abc import Sequence as Sequence_

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed

__all__ = ["Hazard", "Hazards", "find_hazards", "hazards", "pattern_hazards"]

MOST_NODES = 20_000
"""Nodes of an expression that is looked through; of a larger one, nothing is said."""

MOST_STEPS = 400_000
"""Steps that showing the hazards of one expression may take."""

_FINDERS: tuple[Callable[[Parsed, Reach], Iterator[_Suspect]], ...] = (
    classes.wide_range,
    classes.bar_in_class,
    classes.other_notation,
    classes.word_in_class,
    classes.number_in_class,
    classes.backspace,
    classes.twice_in_class,
    classes.folded_letters,
    places.anchored_alternation,
    places.boundary_by_mark,
    places.anchor_never_holds,
    places.quantified_anchor,
    places.look_slip,
    places.look_moves_match,
    places.last_line_feed,
    repeats.dot_for_point,
    repeats.takes_anything,
    repeats.matches_nothing,
    repeats.empty_option,
    repeats.bounds_never_met,
    repeats.no_quantifier,
    repeats.last_turn,
    repeats.nested_repeats,
    options.hidden_option,
    options.absent_reference,
    options.number_shifts,
    options.word_edges,
    flags.idle_flag,
    flags.blank_ignored,
    flags.digits_beyond_ascii,
    proofs.never_come_to,
    proofs.covered_in_class,
    proofs.empty_turn,
    proofs.takes_forever,
)


class Hazards(list[Hazard]):
    """Hazards in the order of their places; `complete` tells that nothing was left out for want of effort."""

    complete = True


def hazards(parsed: Parsed, reach: Reach = "whole") -> Hazards:
    """Return the hazards of an expression."""
    return find_hazards(parsed, reach, _suspects(parsed, reach))


def find_hazards(parsed: Parsed, reach: Reach, suspects: Iterable[_Suspect]) -> Hazards:
    """Return which of the suspicions the engine confirms."""
    effort = Effort(MOST_STEPS)
    found: dict[tuple[object, ...], Hazard] = {}
    for suspect in suspects:
        if (suspect.span, suspect.kind) in found:
            continue
        hazard = confirmed(suspect, parsed, reach, effort)
        if hazard is not None:
            found[suspect.span, suspect.kind] = hazard
    made = Hazards(sorted(_telling(found.values()), key=lambda hazard: (hazard.span, hazard.kind)))
    made.complete = not effort.stopped and len(facts_of(parsed).nodes) <= MOST_NODES
    return made


_SAID_BY_OTHERS = {
    "twice-in-class": "",
    "dot-for-point": "",
    "matches-nothing": "takes-anything",
    "takes-forever": "nested-repeats",
    "empty-turn": "nested-repeats",
}
"""Kinds that another hazard of the same piece says better: of any kind, or of the one that is named."""


def _telling(found: Iterable[Hazard]) -> list[Hazard]:
    """Leave out what another hazard of the same piece says better."""
    known = list(found)
    return [
        each
        for each in known
        if each.kind not in _SAID_BY_OTHERS
        or not any(
            other.kind != each.kind
            and _SAID_BY_OTHERS[each.kind] in ("", other.kind)
            and other.span[0] <= each.span[1]
            and each.span[0] <= other.span[1]
            for other in known
        )
    ]


def _suspects(parsed: Parsed, reach: Reach) -> Iterator[_Suspect]:
    if len(facts_of(parsed).nodes) <= MOST_NODES:
        for finder in _FINDERS:
            yield from finder(parsed, reach)


def pattern_hazards(parsed: Parsed, reach: Reach, positive: Sequence_[str], *, has_fields: bool) -> Hazards:
    """Return the hazards of a pattern's expression: what its samples and its field tables show too."""
    return find_hazards(parsed, reach, [*_suspects(parsed, reach), *_of_pattern(parsed, reach, positive, has_fields)])


def _of_pattern(parsed: Parsed, reach: Reach, positive: Sequence_[str], has_fields: bool) -> Iterator[_Suspect]:
    facts = facts_of(parsed)
    for node in facts.nodes[:MOST_NODES]:
        if isinstance(node, Dot) and positive and not facts.is_repeated(node):
            pointed = edited(parsed, (node.span, r"\."))
            if all(fits(pointed, parsed.flags, reach, text) for text in positive):
                reason = "in every positive sample a point stands here, and it takes any character"
                remedy, forced = "write \\. for a point", ((node, ("x", "-")),)
                yield _Suspect("dot-for-point", node.span, reason, remedy, pointed, forced=forced)
        elif isinstance(node, Group) and node.number and not node.name and has_fields:
            reason = f"group {node.number} has no name in a pattern with fields; its number shifts with the next group"
            yield options.named_group(parsed, node, reason)
