"""An expression as it would be if one piece of it were otherwise: an option left out, a bound moved, a class changed.

What no sample tells from the expression itself is a gap in the samples. Each variant is a small edit, named by what a
sample that decides it would show.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.hazards.flags import without_each_flag
from fieldstick.analysis.hazards.suspect import edited
from fieldstick.syntax.parser import FLAG_NAMES
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Character,
    CharClass,
    Dot,
    FlagSetting,
    Group,
    Node,
    Range,
    Repeat,
    Shorthand,
    spelled,
    walk,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span

MOST_NODES = 600
"""Nodes of an expression that is varied."""

MOST_TURNS = 300
"""A bound above which no text is made that meets it."""

MOST_ITEMS = 24
"""Items of a class that are varied."""

NEVER = "(?!)"


class Variant(Struct, frozen=True):
    """An expression with one piece otherwise.

    `kind` says what was changed, `span` which piece of the expression it is about, and `words` what no sample shows
    when none tells the two apart. `flags` are those of the variant.
    """

    kind: str
    span: Span
    words: str
    expression: str
    flags: frozenset[str]


def variants(parsed: Parsed) -> Iterator[Variant]:
    """Yield the variants of an expression, in the order of their places; none for one too large."""
    nodes = facts_of(parsed).nodes
    if len(nodes) > MOST_NODES:
        return
    for node, flags in facts_of(parsed).with_flags:
        match node:
            case Alternation():
                yield from _options(parsed, node)
            case Repeat():
                yield from _repeat(parsed, node)
            case CharClass():
                yield from _class(parsed, node)
            case Shorthand() if not facts_of(parsed).is_in_class(node):
                yield from _shorthand(parsed, node, flags)
            case Dot():
                yield from _dot(parsed, node, flags)
            case Anchor():
                yield _made(parsed, "anchor", node, f"no sample needs {node.spelling} here", "")
            case FlagSetting() | Group():
                yield from _inline_flags(parsed, node)
        if isinstance(node, Group) and node.number is not None:
            yield from _group(parsed, node)
    for flag in sorted(parsed.flags - {"verbose"}):
        words = f"no sample needs the flag {flag}"
        yield Variant("flag", parsed.tree.span, words, parsed.expression, parsed.flags - {flag})


def _made(parsed: Parsed, kind: str, node: Node, words: str, text: str) -> Variant:
    return Variant(kind, node.span, words, edited(parsed, (node.span, text)), parsed.flags)


def _shown(node: Node) -> str:
    text = spelled(node)
    return text if len(text) <= 24 else text[:23] + "…"


def _options(parsed: Parsed, node: Alternation) -> Iterator[Variant]:
    for option in node.options:
        start = option.span[0]
        changed = edited(parsed, ((start, start), NEVER))
        shown = _shown(option) or "nothing"
        yield Variant("option", option.span, f"no sample needs the option {shown}", changed, parsed.flags)


def _repeat(parsed: Parsed, node: Repeat) -> Iterator[Variant]:
    item = spelled(node.item)
    shown = _shown(node.item)
    endless = node.most is None

    def bounded(kind: str, least: int, most: int | None, words: str, mode: str = node.mode) -> Variant:
        return _made(parsed, kind, node, words, item + quantifier(least, most, mode))

    if max(node.least, node.most or 0) > MOST_TURNS:
        return
    if node.least == 0 and node.most != 0:
        yield bounded("optional", 1, node.most, f"no sample does without {shown}")
        yield bounded("optional", 0, 0, f"no sample has {shown} there")
    elif node.least:
        one = "once" if node.least == 1 else f"just {node.least} times"
        if endless or (node.most is not None and node.most > node.least):
            yield bounded("bound", node.least + 1, node.most, f"no sample has {shown} {one}")
        fewer = "none" if node.least == 1 else f"only {node.least - 1}"
        yield bounded("bound", node.least - 1, node.most, f"no sample is refused for {fewer} of {shown}")
    if node.most is None:
        yield bounded(
            "bound", node.least, max(node.least, 1), f"no sample has {shown} more than {_times(max(node.least, 1))}"
        )
    else:
        if node.most > max(node.least, 1):
            yield bounded("bound", node.least, node.most - 1, f"no sample has {shown} {_times(node.most)}")
        more = f"no sample is refused for {node.most + 1} where {shown} is allowed {_times(node.most)}"
        yield bounded("bound", node.least, node.most + 1, more)
    if node.mode != "possessive" and node.least != node.most:
        other = "lazy" if node.mode == "greedy" else "greedy"
        words = f"no sample shows whether {_shown(node)} takes as much or as little as it can"
        yield bounded("mode", node.least, node.most, words, other)


def _times(count: int) -> str:
    return {0: "not at all", 1: "once", 2: "twice"}.get(count, f"{count} times")


def quantifier(least: int, most: int | None, mode: str) -> str:
    """Return a quantifier of these bounds and mode, spelled in full but for the usual short ones."""
    marks = {"greedy": "", "lazy": "?", "possessive": "+"}
    short = {(0, 1): "?", (0, None): "*", (1, None): "+"}.get((least, most))
    if (least, most) == (1, 1):
        return "{1}"
    text = short or (f"{{{least}}}" if least == most else f"{{{least},{'' if most is None else most}}}")
    return text + marks[mode]


def _class(parsed: Parsed, node: CharClass) -> Iterator[Variant]:
    items = [item for item in node.items if isinstance(item, Character | Range | Shorthand)]
    for item in items[:MOST_ITEMS]:
        gone = "is refused" if node.negated else "is there"
        if len(node.items) > 1:
            yield _made(parsed, "class", item, f"no sample shows that {_shown(item)} {gone}", "")
        elif node.negated:
            yield _made(parsed, "class", node, f"no sample shows that {_shown(item)} {gone}", r"[\s\S]")
        if isinstance(item, Range):
            yield from _range(parsed, node, item)
        elif isinstance(item, Character) and not node.negated:
            yield from _beside(parsed, node, item)


def _range(parsed: Parsed, node: CharClass, item: Range) -> Iterator[Variant]:
    first, last = item.first.character, item.last.character
    inside, outside = ("is refused", "is taken") if node.negated else ("is taken", "is refused")
    if first < last:
        without_first = f"{_item(chr(ord(first) + 1))}-{_item(last)}"
        without_last = f"{_item(first)}-{_item(chr(ord(last) - 1))}"
        for changed, end in ((without_first, first), (without_last, last)):
            words = f"no sample shows that '{end}', at the end of {spelled(item)}, {inside}"
            yield _made(parsed, "class", item, words, changed)
    for wider in (chr(max(ord(first) - 1, 0)), chr(ord(last) + 1)):
        if wider.isprintable():
            words = f"no sample shows that '{wider}', just outside {spelled(item)}, {outside}"
            yield _made(parsed, "class", item, words, f"{spelled(item)}{_item(wider)}")


def _beside(parsed: Parsed, node: CharClass, item: Character) -> Iterator[Variant]:
    """Yield the class with the letter or digit that follows a single one."""
    if item.character.isascii() and item.character.isalnum():
        wider = chr(ord(item.character) + 1)
        if wider.isalnum() and all(wider != getattr(each, "character", "") for each in node.items):
            words = f"no sample shows that '{wider}', beside '{item.character}', is refused"
            yield _made(parsed, "class", item, words, f"{spelled(item)}{_item(wider)}")


def _item(character: str) -> str:
    """Return a character as it is spelled in a class."""
    return "\\" + character if character in "\\]^-[&~|" else re.escape(character) if character == "#" else character


_OTHERWISE = {
    "digit": ((("[1-9]", "0"), ("[0-8]", "9")), ((r"[\dA-Za-z_]", "a letter"),)),
    "word": (
        ((r"[^\W\d]", "a digit"), (r"[^\W_]", "_"), (r"[^\WA-Z]", "a capital")),
        ((r"[\w-]", "'-'"), (r"[\w.]", "a point"), (r"[\w ]", "a blank")),
    ),
    "space": (((r"[^\S\t\n]", "a tab or line feed"),), ((r"[\s\w]", "a letter"), (r"[\s.]", "a point"))),
}
"""What stands for a shorthand in a variant that takes less, or more, and what the difference is."""


def _shorthand(parsed: Parsed, node: Shorthand, flags: frozenset[str]) -> Iterator[Variant]:
    if node.negated:
        other = {"space": r"\w", "digit": r"\w", "word": r"[^\w\s]"}.get(node.name)
        if other is not None:
            yield _made(parsed, "class", node, f"no sample has anything here but what {other} takes", other)
        return
    narrower, wider = _OTHERWISE.get(node.name, ((), ()))
    for spelling, what in narrower:
        yield _made(parsed, "class", node, f"no sample has {what} for {node.spelling}", spelling)
    for spelling, what in wider:
        yield _made(parsed, "class", node, f"no sample is refused for {what} where {node.spelling} stands", spelling)


def _dot(parsed: Parsed, node: Dot, flags: frozenset[str]) -> Iterator[Variant]:
    for spelling, what in ((r"\w", "but a letter, a digit or _"), (r"\S", "but what is no blank")):
        yield _made(parsed, "class", node, f"no sample has anything {what} for the dot", spelling)
    if "dotall" not in flags:
        yield _made(parsed, "class", node, "no sample is refused for a line feed where the dot stands", r"[\s\S]")


def _inline_flags(parsed: Parsed, node: FlagSetting | Group) -> Iterator[Variant]:
    for letter, span, changed in without_each_flag(parsed, node):
        # What was read of the flags holds the letter of a setting for the whole too.
        flags = parsed.flags - {FLAG_NAMES[letter]} if isinstance(node, FlagSetting) else parsed.flags
        yield Variant("flag", span, f"no sample needs the flag {letter}", changed, flags)


def _group(parsed: Parsed, node: Group) -> Iterator[Variant]:
    """Yield the expression with a group that captures nothing; not where something refers to it."""
    refers = any(getattr(each, "number", None) == node.number and each is not node for each in walk(parsed.tree))
    if not refers:
        start = node.span[0]
        name = node.name or str(node.number)
        changed = edited(parsed, ((start, start + len(node.opening)), "(?:"))
        yield Variant("group", node.span, f"no sample shows what the group {name} captures", changed, parsed.flags)
