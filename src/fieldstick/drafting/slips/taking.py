"""What a piece of an expression takes of the text in question, and of the texts that should fit."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.context import Took, compiling, escaped_text
from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.probing import compiled_by_engine, method_of
from fieldstick.errors import BudgetSpent
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    Alternation,
    Backreference,
    Group,
    Repeat,
    Sequence,
    literal_of,
    once,
    spelled,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Sequence as Sequence_

    from fieldstick.drafting.context import RepairContext
    from fieldstick.syntax.tree import Node, Span

MILLISECONDS = 20
MOST_TEXTS = 8
"""Texts that should fit and that a piece is held against."""

KINDS = {
    r"\d": 1.0, r"\w": 1.05, "[A-Z]": 1.08, "[a-z]": 1.1, "[A-Za-z]": 1.12, r"\S": 1.15, "[A-Za-z0-9]": 1.2,
    "[0-9a-f]": 1.3, "[0-9A-F]": 1.3, "[0-9A-Fa-f]": 1.36,
    "[a-z0-9]": 1.3, "[A-Z0-9]": 1.3, r"[\w-]": 1.3, r"[\w ]": 1.35,
}  # fmt: skip
"""Kinds of characters that a class may be narrowed to, and what each costs: the usual ones least."""

SHUT = {r"\S": r"\s", r"\D": r"\d", r"\W": r"\w"}
"""What a negated shorthand shuts out, as a class that is negated has it."""

USUAL = (r"\d", r"\w", r"\S")
"""Those of them that are tried though a text which should fit has others there."""


class Taken(Struct, frozen=True):
    """What a hole takes: of the text in question, of others that should fit and do not, and of others that do."""

    own: str
    missed: tuple[str, ...]
    held: tuple[str, ...]

    @property
    def every(self) -> tuple[str, ...]:
        """All of it."""
        return (self.own, *self.missed, *self.held)

    @property
    def wanted(self) -> tuple[str, ...]:
        """What is not taken yet."""
        return (self.own, *self.missed)


def took_at(context: RepairContext, span: Span) -> Took | None:
    """Return what a piece takes, the last time that it took part; None where it took no part, or cannot be told."""
    if span not in context.took:
        own, *others = took_of(context, span, (context.case.text, *context.beside.fitting[:MOST_TEXTS])) or [None]
        known = tuple(each for each in others if each is not None)
        context.took[span] = Took(own, known) if own is not None else None
    return context.took[span]


def took_of(context: RepairContext, span: Span, texts: Sequence_[str]) -> list[str | None]:
    """Return what a piece takes of each of some texts, as `took_at` does; nothing at all where that cannot be told."""
    case = context.case
    piece = case.expression[slice(*span)]
    made = f"{case.expression[: span[0]]}(?P<took_>{piece}){case.expression[span[1] :]}"
    compiled = compiled_by_engine(made, case.flags) if context.looking.spend(compiling(made, case.flags)) else None
    if compiled is None or "took_" not in compiled.groupindex or span[0] <= last_numbered(context):
        return []
    method = method_of(compiled, case.reach)

    def read() -> list[str | None]:
        return [found["took_"] if (found := method(text)) is not None else None for text in texts]

    try:
        return run_within(MILLISECONDS, read) if timer_usable() else read()
    except (BudgetSpent, SystemError, MemoryError, RecursionError):
        return []


def last_numbered(context: RepairContext) -> int:
    """Return where the last group opens that is referred to by its number: a group before it would shift that."""
    numbers = {node.number for node in context.nodes if isinstance(node, Backreference) and node.name is None}
    if not numbers:
        return -1
    groups = [node.span[0] for node in context.nodes if isinstance(node, Group) and node.number in numbers]
    return max(groups, default=len(context.case.expression))


def character_after(context: RepairContext, node: Node) -> str:
    """Return the character that must follow a piece, empty where that is none in particular."""
    other = context.after.get(node)
    if other is not None:
        literal = literal_of(once(other))
        return literal[:1] if literal else ""
    around = context.facts.parents.get(node)
    if isinstance(around, Group | Repeat | Alternation) or (
        isinstance(around, Sequence) and without_asides(around.items)[-1] is node
    ):
        return character_after(context, around)
    return ""


def mark_before_another(context: RepairContext, node: Node) -> str:
    """Return the mark that parts a piece from one that is spelled alike; empty where there is none."""
    mark = character_after(context, node)
    behind = context.case.expression[node.span[1] :].lstrip(")").removeprefix(escaped_text(mark)) if mark else ""
    return mark if _OPENED.sub("", behind).startswith(spelled(node)) else ""


_OPENED = compiled_later(r"^(?:\((?:\?P<\w+>|\?:)?)+")
