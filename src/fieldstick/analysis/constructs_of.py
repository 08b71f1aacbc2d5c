"""Which construct of the notation's table a piece of an expression is."""

from __future__ import annotations

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
    Quoted,
    Repeat,
    Shorthand,
    spelled,
)

_ANCHORS = {"text-start": "absolute-start", "text-end": "absolute-end", "very-end": "very-end"}


def construct_of(node: Node, flags: frozenset[str]) -> str | None:
    """Return the key of the construct that a node is; None for what every engine has."""
    match node:
        case Character():
            return _of_character(node.spelling)
        case Dot():
            return None if "dotall" in flags else "dot"
        case Shorthand():
            kind = node.name.partition(" ")[0]
            return "posix-class" if kind == "posix" else kind
        case Quoted():
            return "quoted-run"
        case CharClass():
            opening = "[^]" if node.negated else "[]"
            return "bracket-first" if node.items and spelled(node).startswith(opening) else None
        case Anchor():
            if node.name in ("line-start", "line-end") and "multiline" in flags:
                return "multiline"
            plain = {"line-start": "text-start", "line-end": "dollar"}
            return plain.get(node.name) or _ANCHORS.get(node.name, "boundary")
        case Group():
            named = "named" if node.opening.startswith("(?P<") else "named-angle" if node.name else None
            return {"capture": named, "branch-reset": "branch-reset", "atomic": "atomic", "flags": "scoped-flags"}.get(
                node.kind
            )
        case Backreference():
            starts = {"(?P=": "python-reference", "\\k": "named-reference", "\\g": "group-by-letter"}
            return next((starts[each] for each in starts if node.spelling.startswith(each)), "backreference")
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
    if spelling[2:3] == "{" and spelling[1] in "ux":
        return "braced-unicode" if spelling[1] == "u" else "braced-code"
    if spelling[:2] in kinds:
        return kinds[spelling[:2]]
    return "octal" if spelling[:1] == "\\" and spelling[1:2].isdecimal() else None
