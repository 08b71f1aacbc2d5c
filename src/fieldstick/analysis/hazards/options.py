"""Hazards of alternatives, groups and references: what is never reached, never there, or counted otherwise."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.hazards.suspect import Suspect, edited
from fieldstick.engines.probing import character_test
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Aside,
    Backreference,
    Conditional,
    Group,
    Node,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    spelled,
    walk,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed

MOST_REFERENCES = 20
"""References that are looked into, each of which takes a walk through the tree."""


def hidden_option(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`in|into` where nothing follows: the first option takes what the second would; and one that is there twice."""
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Alternation):
            continue
        by_prefix = reach != "whole" and _ends_the_match(parsed, node)
        found = _hidden(node, by_prefix=by_prefix)
        if found is None:
            continue
        hider, later = found
        spelling = [spelled(option) for option in node.options]
        at, behind = node.options.index(hider), node.options.index(later)
        reason = f"'{spelling[behind]}' is never reached: '{spelling[at]}' before it takes the same"
        one, other = literal_of(hider), literal_of(later)
        if one is not None and other is not None and one != other:
            moved = [*spelling[:at], spelling[behind], *spelling[at:behind], *spelling[behind + 1 :]]
            changed, forced = edited(parsed, (node.span, "|".join(moved))), ((later, (other,)),)
            yield Suspect("hidden-option", later.span, reason, "put the longer option first", changed, (), forced)
        else:
            kept = [*spelling[:behind], *spelling[behind + 1 :]]
            changed = edited(parsed, (node.span, "|".join(kept)))
            taken = ((later, (other,)),) if other else ()
            yield Suspect("hidden-option", later.span, reason, "leave it out", changed, (), taken, "same")


def _ends_the_match(parsed: Parsed, node: Node) -> bool:
    """Tell whether nothing is asked for after a node."""
    parents = facts_of(parsed).parents
    while (around := parents.get(node)) is not None:
        if isinstance(around, Sequence):
            after = around.items[around.items.index(node) + 1 :]
            if any(not isinstance(each, Aside) for each in after):
                return False
        elif not isinstance(around, Group | Alternation):
            return False
        node = around
    return True


def _hidden(node: Alternation, *, by_prefix: bool) -> tuple[Node, Node] | None:
    """Return an option that takes the same as a later one, and that later one."""
    literals: dict[str, Node] = {}
    seen: dict[str, Node] = {}
    shorthands: list[Shorthand] = []
    for option in node.options:
        spelling = spelled(option)
        if spelling in seen and spelling and not _captures(option):
            return seen[spelling], option
        seen[spelling] = option
        literal = literal_of(option)
        if by_prefix and literal:
            prefix = next((literal[:length] for length in range(1, len(literal)) if literal[:length] in literals), None)
            if prefix is not None:
                return literals[prefix], option
            literals.setdefault(literal, option)
        if isinstance(option, SINGLE) and literal is not None:
            for each in shorthands[:3]:
                plain = not each.negated and each.name in ("digit", "word", "space")
                if plain and character_test(spelled(each), frozenset({"ascii"}))(literal):
                    return each, option
        if isinstance(option, Shorthand):
            shorthands.append(option)
    return None


def _captures(option: Node) -> bool:
    return any(isinstance(node, Group) and node.number for node in walk(option))


def absent_reference(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`(?:(a)|b)\\1`, `(a)|\\1`: where the group took no part, the reference can never match."""
    references = [node for node in facts_of(parsed).nodes if isinstance(node, Backreference)]
    for reference in references[:MOST_REFERENCES]:
        group = next((n for n in facts_of(parsed).nodes if isinstance(n, Group) and n.number == reference.number), None)
        if group is None or not _may_be_absent(parsed, group, reference):
            continue
        number = reference.name or reference.number
        reason = f"group {reference.number} may take no part, and then this can never match"
        new = f"(?({number}){reference.spelling})"
        changed = edited(parsed, (reference.span, new))
        yield Suspect("absent-reference", reference.span, reason, f"write {new}", changed, ("b", "a", ""))


def _may_be_absent(parsed: Parsed, group: Node, reference: Node) -> bool:
    """Tell whether a group stands in an optional piece, and the reference, which is then asked for, does not."""
    parents = facts_of(parsed).parents
    around_reference = {reference}
    node: Node | None = reference
    while node is not None and (node := parents.get(node)) is not None:
        around_reference.add(node)
        if isinstance(node, Repeat) and node.least == 0 and group not in set(walk(node)):
            return False  # the reference may be left out as well
        if isinstance(node, Conditional):
            return False
    piece: Node = group
    while (above := parents.get(piece)) is not None:
        optional = isinstance(above, Alternation | Conditional) or (isinstance(above, Repeat) and above.least == 0)
        if optional and piece not in around_reference:
            return isinstance(above, Alternation) or not _in_an_option(parents, reference, above)
        piece = above
    return False


def _in_an_option(parents: dict[Node, Node], reference: Node, beyond: Node) -> bool:
    """Tell whether the reference is one way among others."""
    node = reference
    while (above := parents.get(node)) is not None:
        if isinstance(above, Alternation) and beyond not in set(walk(above)):
            return True
        node = above
    return False


def number_shifts(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """A group without a name among named ones: its number shifts when a group is added before it."""
    if not any(parsed.groups) or all(parsed.groups):
        return
    for node in facts_of(parsed).nodes:
        if isinstance(node, Group) and node.kind == "capture" and node.name is None:
            reason = (
                f"group {node.number} has no name among groups that have one; its number shifts with the next group"
            )
            yield named_group(parsed, node, reason)
            return


def named_group(parsed: Parsed, node: Group, reason: str) -> Suspect:
    """Return the suspicion of a group by number, whose remedy is a name."""
    name = f"field{node.number}"
    start = node.span[0]
    changed = edited(parsed, ((start, start + len(node.opening)), f"(?P<{name}>"))
    remedy = "name it, or write (?:...) if nothing is to be captured"
    return Suspect("number-shifts", node.span, reason, remedy, changed)


def word_edges(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`\\<`, `\\>`: in other engines the edges of a word, here the characters themselves."""
    for node in facts_of(parsed).nodes:
        spelling = getattr(node, "spelling", "")
        if spelling in (r"\<", r"\>") and not facts_of(parsed).is_in_class(node):
            beside = (
                parsed.expression[node.span[1] :][:1] if spelling == r"\<" else parsed.expression[: node.span[0]][-1:]
            )
            if not (beside.isalnum() or beside in "_\\+*?}])(["):
                continue
            reason = f"{spelling} is the edge of a word in other engines; here it is the character {spelling[1]}"
            changed = edited(parsed, (node.span, r"\b"))
            yield Suspect("other-notation", node.span, reason, r"write \b", changed, forced=((node, ("",)),))
