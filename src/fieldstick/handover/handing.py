"""Hands a pattern over as a literal: its expression written for the engine of a language, tried there, and quoted."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.rendering.dialects import DIALECTS
from fieldstick.errors import UsageError
from fieldstick.handover.carrying import carried, left_behind, tried
from fieldstick.handover.literals import LITERALS, sqlite_literal

if TYPE_CHECKING:
    from fieldstick.workspace import Chosen


class Handed(Struct, frozen=True):
    """What is handed over, what is left behind, and how it was tried; `beside` holds files that go with it, by name."""

    text: str
    left: tuple[str, ...]
    tried: str
    beside: tuple[tuple[str, str], ...] = ()


def handed(chosen: Chosen, kind: str, engine: str | None = None) -> Handed:
    """Write a pattern's expression as a literal of a language, for the language's engine or another.

    Raises UsageError where its meaning cannot be kept there, or a sample comes out otherwise on the engine.
    """
    pattern, literal = chosen.pattern, LITERALS[kind]
    if pattern.combination is not None:
        raise UsageError("a pattern made of patterns is no one expression; hand its members over")
    target = engine or literal.engine
    made = carried(
        chosen.expression,
        pattern.flags,
        pattern.reach,
        target,
        source=pattern.engine,
        foldable=literal.flags,
        whole_values=not DIALECTS[target].captures,
    )
    trial = tried(chosen, made, whole_values=not DIALECTS[target].captures)
    left = (*left_behind(pattern), *made.notes, *trial.let_through)
    quoted = sqlite_literal if kind == "sql" and target == "sqlite" else literal.quoted
    text = quoted(made.expression, made.flags)
    if left and literal.comment is not None:
        text = "\n".join([*(commented(each, literal.comment) for each in left), text])
    return Handed(text, left, trial.words)


def commented(words: str, marks: tuple[str, str]) -> str:
    """Write a line of words as a comment of a language; nothing in it ends the comment, or is read as code.

    PHP ends at a closing tag in a comment too, and Java reads escapes of characters before it knows of comments.
    """
    line = "".join(each if each.isprintable() else "\N{REPLACEMENT CHARACTER}" for each in words)
    line = line.replace("?>", "? >").replace("\\u", "\\ u")
    start, end = marks
    if end:
        line = line.replace("--", "- -").replace(end.strip(), " ")
    return f"{start}{line}{end}"
