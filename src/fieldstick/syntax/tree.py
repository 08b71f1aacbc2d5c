"""The tree of an expression: frozen nodes that know where they stand and how they were spelled.

Spans are code-point offsets into the expression, start included, end not. Printing a tree gives the text it was
read from, verbose blanks and comments included. A node is equal to itself alone: two that read the same stand in
different places.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct

if TYPE_CHECKING:
    from collections.abc import Iterator

Span = tuple[int, int]
Mode = Literal["greedy", "lazy", "possessive"]
GroupKind = Literal["capture", "plain", "atomic", "flags", "branch-reset"]


class Node(Struct, frozen=True, eq=False):
    """A piece of an expression; `span` is where it stands."""

    span: Span


class Character(Node, frozen=True):
    """One character meant as itself, however spelled (`a`, `\\.`, `\\x41`)."""

    spelling: str
    character: str


class Dot(Node, frozen=True):
    """`.`: any character, line ends left out unless dotall is on."""


class Shorthand(Node, frozen=True):
    """A class with a short name: `\\d`, `\\W`, and of other engines `\\h`, `\\R`, `\\p{…}`."""

    spelling: str
    name: str
    negated: bool = False


class Range(Node, frozen=True):
    """`a-z` in a character class."""

    first: Character
    last: Character


class SetOperation(Node, frozen=True):
    """`&&` or `--` between the items of a class, in engines that have it."""

    spelling: str


class CharClass(Node, frozen=True):
    """`[...]`: one character out of those listed, or, negated, any other."""

    negated: bool
    items: tuple[ClassItem, ...]


class Anchor(Node, frozen=True):
    """A place between characters: `^`, `$`, `\\b` and their like. `name` says which."""

    spelling: str
    name: str


class Backreference(Node, frozen=True):
    """What a capture group captured, once more."""

    spelling: str
    number: int
    name: str | None


class Call(Node, frozen=True):
    """A group's expression used again where the call stands (recursion, in engines that have it)."""

    spelling: str
    target: str


class Quoted(Node, frozen=True):
    """A run of characters meant as themselves, `\\Q...\\E` in engines that have it."""

    spelling: str
    text: str


class FlagSetting(Node, frozen=True):
    """`(?i)`: flags for the whole expression; in other engines also `a(?i)b`, from there on, and `(?-i)`, off."""

    spelling: str
    flags: str
    off: str = ""


class Aside(Node, frozen=True):
    """Text that asks for nothing: a comment, or in verbose notation a blank."""

    spelling: str
    kind: Literal["comment", "blank"]


class Group(Node, frozen=True):
    """A group that holds `body`; `opening` is all that stands before it.

    `number` and `name` are set for a capture group. `on` and `off` are the flags of `(?i-s:...)`.
    """

    opening: str
    kind: GroupKind
    body: Node
    number: int | None = None
    name: str | None = None
    on: str = ""
    off: str = ""


class Look(Node, frozen=True):
    """Look-ahead or look-behind: what follows or stands before, not taken into the match."""

    opening: str
    ahead: bool
    negated: bool
    body: Node


class Conditional(Node, frozen=True):
    """`(?(1)yes|no)`: which of two depends on whether a group took part. `otherwise` is None when not given."""

    opening: str
    number: int
    name: str | None
    then: Node
    otherwise: Node | None


class Repeat(Node, frozen=True):
    """An item with a quantifier; `most` is None without an upper bound.

    `between` holds asides that stand between the item and its quantifier. `quantifier` is its spelling, with
    the mark of its mode.
    """

    item: Node
    between: tuple[Aside, ...]
    quantifier: str
    least: int
    most: int | None
    mode: Mode


class Sequence(Node, frozen=True):
    """Items one after the other; empty when there is nothing."""

    items: tuple[Node, ...]


class Alternation(Node, frozen=True):
    """Options of which the first that leads to a match is taken."""

    options: tuple[Node, ...]


ClassItem = Character | Range | Shorthand | SetOperation | CharClass
SINGLE = Character | Dot | Shorthand | CharClass
"""Nodes that take exactly one character."""


def spelled(node: Node) -> str:
    """Print a tree: the text it was read from."""
    if isinstance(node, Sequence):
        return "".join(map(spelled, node.items))
    if isinstance(node, Alternation):
        return "|".join(map(spelled, node.options))
    if isinstance(node, Repeat):
        return spelled(node.item) + "".join(map(spelled, node.between)) + node.quantifier
    if isinstance(node, Group | Look):
        return f"{node.opening}{spelled(node.body)})"
    if isinstance(node, Conditional):
        otherwise = "" if node.otherwise is None else "|" + spelled(node.otherwise)
        return f"{node.opening}{spelled(node.then)}{otherwise})"
    if isinstance(node, CharClass):
        return f"[{'^' if node.negated else ''}{''.join(map(spelled, node.items))}]"
    if isinstance(node, Range):
        return f"{node.first.spelling}-{node.last.spelling}"
    if isinstance(node, Dot):
        return "."
    spelling: str = node.spelling  # type: ignore[attr-defined]
    return spelling


def children(node: Node) -> tuple[Node, ...]:
    """Return the nodes directly inside a node, in order."""
    if isinstance(node, Sequence):
        return node.items
    if isinstance(node, Alternation):
        return node.options
    if isinstance(node, Repeat):
        return (node.item, *node.between)
    if isinstance(node, Group | Look):
        return (node.body,)
    if isinstance(node, Conditional):
        return (node.then,) if node.otherwise is None else (node.then, node.otherwise)
    return node.items if isinstance(node, CharClass) else ()


def walk(node: Node) -> Iterator[Node]:
    """Yield a node and all nodes inside it, outer before inner, in order."""
    pending = [node]
    while pending:
        each = pending.pop()
        yield each
        pending.extend(reversed(children(each)))


def without_asides(items: tuple[Node, ...]) -> tuple[Node, ...]:
    """Return the items that ask for something or set something."""
    return tuple(item for item in items if not isinstance(item, Aside))


def once(node: Node) -> Node:
    """Return what a repetition repeats, and any other node as it is."""
    return node.item if isinstance(node, Repeat) else node


def once_at_most(node: Node) -> Node:
    """Return what may be there once or not, and any other node as it is."""
    return node.item if isinstance(node, Repeat) and (node.least, node.most) == (0, 1) else node


def literal_of(node: Node) -> str | None:
    """Return the text that a node asks for when that is one text alone, else None."""
    if isinstance(node, Character):
        return node.character
    if isinstance(node, Quoted):
        return node.text
    if isinstance(node, Sequence):
        texts = [literal_of(item) for item in without_asides(node.items)]
        return None if None in texts else "".join(text for text in texts if text is not None)
    if isinstance(node, Group) and node.kind == "plain":
        return literal_of(node.body)
    return None
