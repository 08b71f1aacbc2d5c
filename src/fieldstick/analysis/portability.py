"""What an expression of Python's meets on another engine: which of its pieces that lacks or reads otherwise.

What is known of an engine are probes and recorded classes; where they reach, it is proven for every text there is
whether the expression, as it is written, means the same there, with a shortest text where it does not.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.character_sets import kind_of_character
from fieldstick.analysis.constructs_of import construct_of
from fieldstick.analysis.meanings import class_of, known_to
from fieldstick.analysis.relation import relation_of
from fieldstick.analysis.rendering.dialects import DIALECTS, group_name
from fieldstick.analysis.rendering.meaning import LIKE_PYTHON
from fieldstick.analysis.rendering.writing import NotCarried, rendered, written_out
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.characters import CharacterSet
from fieldstick.syntax.parser import parse, scoped
from fieldstick.syntax.probes import difference_words, differing, readings, standing
from fieldstick.syntax.tree import Anchor, Conditional, Dot, Group, Look, Node, Repeat, Shorthand, children, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.analysis.relation import Relation
    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.probes import Probe


class Stranger(Struct, frozen=True):
    """A piece of an expression that an engine lacks or reads otherwise.

    `span` is its place in the expression; `probe` with `reading` shows what the engine makes of the like, None where no
    probe does. `instead` is the spelling that means the same there, empty where there is none: `why` says the reason.
    """

    span: tuple[int, int]
    spelling: str
    construct: str
    lacks: bool
    probe: Probe | None
    reading: str
    instead: str
    why: str
    example: str = ""
    """Where no probe shows it: a character that it takes here alone, or there alone, in words."""


def strangers(expression: str, flags: frozenset[str], engine: str) -> list[Stranger]:
    """Return the pieces of an expression that an engine lacks or reads otherwise, in order.

    Raises SyntaxFault for what is no expression of Python's.
    """
    parsed = parse(expression, flags)
    found: list[Stranger] = []
    seen: set[tuple[str, str]] = set()
    for node, at_node in _with_flags(parsed.tree, parsed.flags):
        construct = construct_of(node, at_node)
        if construct is None or (construct, spelled(node)) in seen:
            continue
        stranger = _stranger(node, at_node, construct, engine)
        if stranger is not None:
            seen.add((construct, spelled(node)))
            found.append(stranger)
    return sorted(found, key=lambda each: each.span)


def _with_flags(node: Node, flags: frozenset[str]) -> Iterator[tuple[Node, frozenset[str]]]:
    yield node, flags
    within = scoped(flags, node) if isinstance(node, Group) else flags
    for each in children(node):
        yield from _with_flags(each, within)


def _stranger(node: Node, flags: frozenset[str], construct: str, engine: str) -> Stranger | None:
    stands = standing(construct, engine)
    taken = _taken(node, flags, engine)
    if taken is not None and stands != "lacks":
        # What was recorded of every character knows more than some probes.
        if taken[0] == taken[1]:
            return None
        stands = "differs"
    elif stands in ("has", "unknown") or _is_the_same_end(node, flags, engine):
        return None
    whole = spelled(node)
    opening = node.opening if isinstance(node, Group | Look | Conditional) else whole
    if isinstance(node, Repeat):
        opening = node.quantifier
    instead = why = ""
    dialect = DIALECTS[engine]
    try:
        if isinstance(node, Group) and node.number is not None:
            name = group_name(node.name, node.number, dialect)
            instead = "(" if name is None or dialect.capture is None else dialect.capture.format(name)
        else:
            instead = rendered(
                whole, flags - {"verbose"}, engine, reach="anywhere" if dialect.captures else "whole"
            ).expression
    except NotCarried as error:
        why = error.reason
    except SyntaxFault:
        # It stands on something around it: a reference alone is no expression.
        pass
    if stands == "differs" and instead == whole:
        return None
    probe = next(iter(differing(construct, engine)), None)
    example = "" if taken is None or probe is not None else _example(whole, *taken)
    reading = readings().by_probe[probe.key][engine] if probe is not None else ""
    start = node.span[1] - len(opening) if isinstance(node, Repeat) else node.span[0]
    return Stranger(
        (start, start + len(opening)), opening, construct, stands == "lacks", probe, reading, instead, why, example
    )


def _example(spelling: str, here: CharacterSet, there: CharacterSet) -> str:
    """Say of the first character that one of two sets has alone which."""
    more, fewer = there - here, here - there
    characters = more or fewer
    if not characters:
        return ""
    character = chr(characters.intervals[0][0])
    shown = repr(character) if character.isprintable() else ascii(character)
    return f"{spelling} knows {shown}, and not here" if more else f"{spelling} does not know {shown}"


def _is_the_same_end(node: Node, flags: frozenset[str], engine: str) -> bool:
    """Tell whether an anchor is the end of a line, which engines like Python's have alike."""
    return isinstance(node, Anchor) and node.name == "line-end" and "multiline" in flags and engine in LIKE_PYTHON


def _taken(node: Node, flags: frozenset[str], engine: str) -> tuple[CharacterSet, CharacterSet] | None:
    """Return the characters that a shorthand, a dot or a boundary is about, here and there; None where not known."""
    ascii_alone = "ascii" in flags
    match node:
        case Anchor() if node.name in ("boundary", "not-boundary"):
            kind, here = "boundary", kind_of_character("word", ascii_alone=ascii_alone)
        case Dot():
            kind, here = "dot", ~CharacterSet.of_text("\n")
        case Shorthand() if node.name in ("digit", "word", "space"):
            kind, here = node.name, kind_of_character(node.name, ascii_alone=ascii_alone)
        case _:
            return None
    there = class_of(engine, kind)
    return None if there is None else (here & known_to(engine), there & known_to(engine))


def relation_on(
    expression: str, flags: frozenset[str], reach: Reach, engine: str, *, own: str = "python"
) -> Relation | None:
    """Return how what its own engine takes relates to what another takes of an expression as it is written.

    None where an engine's meaning of a piece of it is not known. Raises SyntaxFault for what cannot be read.
    """
    try:
        here, there = (
            Reading(expression, reach, flags)
            if name == "python"
            else Reading(written_out(expression, flags, name), reach, frozenset())
            for name in (own, engine)
        )
    except NotCarried:
        return None
    return relation_of(here, there)


def stranger_reason(each: Stranger, engine: str) -> str:
    """Say what an engine makes of a piece of an expression."""
    if each.lacks:
        return f"no notation of {engine}: {each.spelling} at {each.span[0]}"
    if each.probe is not None:
        return f"on {engine}, {difference_words(each.probe, each.reading)}: {each.spelling} at {each.span[0]}"
    return f"on {engine}, {each.example or 'it means something else'}: {each.spelling} at {each.span[0]}"


def stranger_words(each: Stranger, engine: str) -> str:
    """Say what an engine makes of a piece of an expression, and how it is written there."""
    told = f"{each.spelling} at {each.span[0]}"
    if not each.lacks:
        reads = (
            difference_words(each.probe, each.reading)
            if each.probe is not None
            else each.example or "it means something else"
        )
        told = f"{told}: there {reads}"
    if each.instead:
        return f"{told}; write {each.instead}"
    return f"{told}; {each.why}" if each.why else told
