"""What an expression of Python's meets on another engine: which of its pieces that lacks or reads otherwise.

What is known of an engine are probes and recorded classes; where they reach, it is proven for every text there is
whether the expression, as it is written, means the same there, with a shortest text where it does not.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.character_sets import kind_of_character
from fieldstick.analysis.meanings import class_of, known_to
from fieldstick.analysis.relation import relation_of
from fieldstick.analysis.rendering.dialects import DIALECTS, group_name
from fieldstick.analysis.rendering.writing import NotCarried, rendered, written_out
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.characters import CharacterSet
from fieldstick.syntax.parser import parse, scoped
from fieldstick.syntax.probes import difference_words, differing, readings, standing
from fieldstick.syntax.tree import (
    Anchor,
    Backreference,
    Character,
    CharClass,
    Conditional,
    Dot,
    FlagSetting,
    Group,
    Look,
    Node,
    Repeat,
    Shorthand,
    children,
    spelled,
)

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


def strangers(expression: str, flags: frozenset[str], engine: str) -> list[Stranger]:
    """Return the pieces of an expression that an engine lacks or reads otherwise, in order.

    Raises SyntaxFault for what is no expression of Python's.
    """
    parsed = parse(expression, flags)
    found: list[Stranger] = []
    seen: set[tuple[str, str]] = set()
    for node, at_node in _with_flags(parsed.tree, parsed.flags):
        construct = _construct(node, at_node)
        if construct is None or (construct, spelled(node)) in seen:
            continue
        stranger = _stranger(node, at_node, construct, engine)
        if stranger is not None:
            seen.add((construct, spelled(node)))
            found.append(stranger)
    return found


def _with_flags(node: Node, flags: frozenset[str]) -> Iterator[tuple[Node, frozenset[str]]]:
    yield node, flags
    within = scoped(flags, node) if isinstance(node, Group) else flags
    for each in children(node):
        yield from _with_flags(each, within)


def _stranger(node: Node, flags: frozenset[str], construct: str, engine: str) -> Stranger | None:
    stands = standing(construct, engine)
    if stands in ("has", "unknown"):
        return None
    if stands == "differs" and isinstance(node, Shorthand | Dot | Anchor) and _means_the_same(node, flags, engine):
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
            instead = rendered(whole, flags - {"verbose"}, engine).expression
    except NotCarried as error:
        why = error.reason
    except SyntaxFault:
        # It stands on something around it: a reference alone is no expression.
        pass
    if stands == "differs" and instead == whole:
        return None
    probes = differing(construct, engine)
    probe = probes[0] if probes else None
    reading = readings().by_probe[probe.key][engine] if probe is not None else ""
    start = node.span[1] - len(opening) if isinstance(node, Repeat) else node.span[0]
    return Stranger((start, start + len(opening)), opening, construct, stands == "lacks", probe, reading, instead, why)


def _means_the_same(node: Node, flags: frozenset[str], engine: str) -> bool:
    """Tell whether what is recorded of an engine's classes is what Python's takes here."""
    if isinstance(node, Anchor):
        if node.name not in ("boundary", "not-boundary"):
            return False
        return _alike(engine, "boundary", kind_of_character("word", ascii_alone="ascii" in flags))
    if isinstance(node, Dot):
        return _alike(engine, "dot", ~CharacterSet.of_text("\n"))
    assert isinstance(node, Shorthand)
    return _alike(engine, node.name, kind_of_character(node.name, ascii_alone="ascii" in flags))


def _alike(engine: str, kind: str, here: CharacterSet) -> bool:
    there = class_of(engine, kind)
    return there is not None and there & known_to(engine) == here & known_to(engine)


_ANCHORS = {"text-start": "absolute-start", "text-end": "absolute-end", "very-end": "very-end"}


def _construct(node: Node, flags: frozenset[str]) -> str | None:
    """Return the key of the construct that a node is; None for what every engine has."""
    match node:
        case Character():
            return _of_character(node.spelling)
        case Dot():
            return None if "dotall" in flags else "dot"
        case Shorthand():
            return node.name if node.name in ("digit", "word", "space") else None
        case CharClass():
            opening = "[^]" if node.negated else "[]"
            return "bracket-first" if spelled(node).startswith(opening) else None
        case Anchor():
            if node.name in ("line-start", "line-end") and "multiline" in flags:
                return "multiline"
            plain = {"line-start": "text-start", "line-end": "dollar"}
            return plain.get(node.name) or _ANCHORS.get(node.name, "boundary")
        case Group():
            named = "named" if node.name else None
            return {"capture": named, "atomic": "atomic", "flags": "scoped-flags"}.get(node.kind)
        case Backreference():
            return "python-reference" if node.spelling.startswith("(?P=") else "backreference"
        case Look():
            return "look-ahead" if node.ahead else "look-behind"
        case Conditional():
            return "conditional"
        case FlagSetting():
            return "flags"
        case Repeat():
            if node.mode == "possessive":
                return "possessive"
            return "upper-bound" if node.quantifier.startswith("{,") else "lazy" if node.mode == "lazy" else None
    return None


def _of_character(spelling: str) -> str | None:
    kinds = {"\\x": "hex", "\\u": "unicode", "\\U": "unicode", "\\N": "unicode-name"}
    if spelling[:2] in kinds:
        return kinds[spelling[:2]]
    return "octal" if spelling[:1] == "\\" and spelling[1:2].isdecimal() else None


def relation_on(expression: str, flags: frozenset[str], reach: Reach, engine: str) -> Relation | None:
    """Return how what Python's engine takes relates to what another takes of an expression as it is written.

    None where the engine's meaning of a piece of it is not known. Raises SyntaxFault for what cannot be read.
    """
    try:
        there = written_out(expression, flags, engine)
    except NotCarried:
        return None
    return relation_of(Reading(expression, reach, flags), Reading(there, reach, frozenset()))


def stranger_reason(each: Stranger, engine: str) -> str:
    """Say what an engine makes of a piece of an expression."""
    if each.lacks:
        return f"no notation of {engine}: {each.spelling} at {each.span[0]}"
    if each.probe is not None:
        return f"on {engine}, {difference_words(each.probe, each.reading)}: {each.spelling} at {each.span[0]}"
    return f"on {engine} something else: {each.spelling} at {each.span[0]}"


def stranger_words(each: Stranger, engine: str) -> str:
    """Say what an engine makes of a piece of an expression, and how it is written there."""
    told = f"{each.spelling} at {each.span[0]}"
    if not each.lacks:
        reads = difference_words(each.probe, each.reading) if each.probe is not None else "it means something else"
        told = f"{told}: there {reads}"
    if each.instead:
        return f"{told}; write {each.instead}"
    return f"{told}; {each.why}" if each.why else told
