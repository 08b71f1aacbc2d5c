"""Pieces written in another engine's notation, which mean nothing here or something else."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, escaped_text

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import MatchCase, RepairContext

_PROPERTIES = {
    "L": ("a-zA-Z", r"[^\W\d_]"), "Alpha": ("a-zA-Z", r"[^\W\d_]"), "Letter": ("a-zA-Z", r"[^\W\d_]"),
    "Lu": ("A-Z", "[A-Z]"), "Upper": ("A-Z", "[A-Z]"), "Ll": ("a-z", "[a-z]"), "Lower": ("a-z", "[a-z]"),
    "N": (r"\d", r"\d"), "Nd": (r"\d", r"\d"), "Digit": (r"\d", r"\d"), "Alnum": (r"a-zA-Z\d", r"[^\W_]"),
    "P": (r"!-/:-@\[-`{-~", r"[^\w\s]"), "Punct": (r"!-/:-@\[-`{-~", r"[^\w\s]"),
    "Z": (r"\s", r"\s"), "Zs": (" ", " "), "Space": (r"\s", r"\s"), "Blank": (r" \t", r"[ \t]"),
    "XDigit": ("0-9A-Fa-f", "[0-9A-Fa-f]"), "Word": (r"\w", r"\w"),
}  # fmt: skip
"""What stands for a property of characters (Unicode Technical Standard 18) or a class of POSIX: in a class, alone."""

_POSIX = {each.lower(): inside for each, (inside, _) in _PROPERTIES.items() if len(each) > 2}

_ESCAPES = {
    r"\h": r"[ \t]", r"\R": r"(?:\r\n|[\n\r])", r"\z": r"\Z", r"\<": r"\b", r"\>": r"\b", r"\y": r"\b", r"\m": r"\b",
    r"\M": r"\b", r"\i": r"[^\W\d]", r"\c": r"[\w.:-]", r"\l": "[a-z]", r"\u": "[A-Z]", r"\K": "",
    r"\G": "", r"\N": ".", r"\X": ".", r"\e": r"\x1b",
}  # fmt: skip
"""Escapes of other engines, and what means the same here, or nearly."""

_FOREIGN = (
    r"(?P<posix>\[:(?P<class>\w+):\])|(?P<property>\\(?P<not>[pP])(?:\{(?P<long>\w+)\}|(?P<short>[A-Z])))"
    r"|(?P<code>\\[xu]\{(?P<hex>[0-9A-Fa-f]{1,6})\})|(?P<quoted>\\Q(?P<inner>.*?)(?:\\E|$))"
    r"|(?P<group>\(\?(?:<(?P<angled>[A-Za-z_]\w*)>|P?'(?P<ticked>[A-Za-z_]\w*)'))|(?P<reset>\(\?\|)"
    r"|(?P<back>\\[kg](?:<(?P<name>\w+)>|\{(?P<braced>\w+)\}|'(?P<quotes>\w+)'))|(?P<escape>\\.)|(?P<other>.)"
)
_SIGNS = ("[:", r"\p", r"\P", "(?|", "(?P'", r"\x{", r"\u{", r"\Q", "(?<", "(?'", r"\k", r"\g", *_ESCAPES)
"""What is in every expression that has a piece of another notation."""


def other_notation(context: RepairContext) -> Iterator[Proposal]:
    """See `as_here`."""
    yield from as_here(context.case)


def as_here(case: MatchCase) -> Iterator[Proposal]:
    """An expression as another engine reads it, written for this one; the basic one of POSIX too."""
    foreign = any(each in case.expression for each in _SIGNS)
    made, named = _written(case.expression) if foreign else (case.expression, "")
    if made != case.expression:
        made = re.sub(r"(?<!\\)\[(\\[dws])\]", r"\1", made)
        words = f"{named} is written as another engine has it: {made}"
        yield Proposal(replace(case, expression=made), words, 0.55)
    if re.search(r"\\[(){}|+?]", case.expression):
        basic = re.sub(r"(\\?)([(){}|+?])", lambda found: found[2] if found[1] else "\\" + found[2], case.expression)
        words = f"marks mean themselves without a backslash where it comes from, and something with one: {basic}"
        yield Proposal(replace(case, expression=basic), words, 0.9)


def _written(expression: str) -> tuple[str, str]:
    """Return an expression with what it has of other engines' notations exchanged, and the first such piece."""
    made, named, depth = "", "", 0
    for found in re.finditer(_FOREIGN, expression, re.DOTALL):
        piece = found[0]
        new = _one(found, in_class=depth > 0)
        if new is None:
            new = piece
            if found["other"]:
                opens, closes = piece == "[" and depth == 0, piece == "]" and depth > 0
                depth += opens - closes
        elif new != piece:
            named = named or piece
        made += new
    return made, named


def _one(found: re.Match[str], *, in_class: bool) -> str | None:
    """Return what means the same here; None where a piece is no other engine's."""
    if found["posix"] and in_class:
        return _POSIX.get(found["class"].lower())
    if found["property"]:
        known = _PROPERTIES.get(found["long"] or found["short"])
        if known is None or (in_class and found["not"] == "P"):
            return None
        return known[0] if in_class else known[1] if found["not"] == "p" else _negated(known[1])
    if found["code"]:
        return escaped_text(chr(min(int(found["hex"], 16), 0x10FFFF)))
    if found["quoted"]:
        return escaped_text(found["inner"])
    if found["reset"]:
        return "(?:"
    if found["group"]:
        return f"(?P<{found['angled'] or found['ticked']}>"
    if found["back"]:
        name = found["name"] or found["braced"] or found["quotes"]
        return f"\\{name}" if name.isdecimal() else f"(?P={name})"
    return _ESCAPES.get(piece) if (piece := found["escape"]) and not in_class else None


def _negated(spelling: str) -> str:
    """Return the class of all characters that a class or a shorthand does not take."""
    if not spelling.startswith("["):
        return spelling.swapcase() if spelling.startswith("\\") else f"[^{spelling}]"
    return f"[{spelling[2:]}" if spelling.startswith("[^") else f"[^{spelling[1:]}"


RULES = (other_notation,)
