"""What stands between parentheses: groups, look-around, flags, comments, conditionals."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    Aside,
    Backreference,
    Call,
    Conditional,
    FlagSetting,
    Group,
    Look,
    Node,
)

if TYPE_CHECKING:
    from fieldstick.syntax.reader import Reader
    from fieldstick.syntax.tree import GroupKind

_LOOKS = {"(?=": (True, False), "(?!": (True, True), "(?<=": (False, False), "(?<!": (False, True)}
_COMMENT = compiled_later(r"\(\?#(?:\\.|[^\\)])*\)", re.DOTALL)
_FLAGS = compiled_later(r"\(\?([A-Za-z]*)(-[A-Za-z]*)?")
_FOREIGN_NAME = compiled_later(r"\(\?(?:<([^\W\d]\w*)>|'([^\W\d]\w*)')")
_CALL = compiled_later(r"\(\?(?:R|[+-]?\d+|&\w+|P>\w+)\)")
_KNOWN_FLAGS = "aimsxu"


def read_parenthesis(reader: Reader, start: int, verbose: bool) -> tuple[int, Node]:
    """`parenthesis = "(", [ "?", kind ], alternation, ")"`, or one of the forms that hold no expression."""
    text = reader.text
    if not text.startswith("(?", start):
        return _capture(reader, start, start + 1, None, verbose)
    if len(text) == start + 2:
        raise reader.fault(start, start + 2, "the expression ends after (?", "what kind of group it is")
    for opening, (ahead, negated) in _LOOKS.items():
        if text.startswith(opening, start):
            return _look(reader, start, opening, ahead, negated, verbose)
    kind = text[start + 2]
    if kind == "P":
        return _python_extension(reader, start, verbose)
    if kind == ":":
        return _group(reader, start, start + 3, "plain", verbose)
    if kind == ">":
        return _group(reader, start, start + 3, "atomic", verbose)
    if kind == "#":
        return _comment(reader, start)
    if kind == "(":
        return _conditional(reader, start, verbose)
    foreign = _foreign_group(reader, start, verbose)
    return foreign if foreign is not None else _flags(reader, start, verbose)


def _closed(reader: Reader, start: int, position: int) -> int:
    if not reader.text.startswith(")", position):
        meant = "a literal parenthesis is \\("
        raise reader.fault(start, start + 1, "this parenthesis is not closed", ") somewhere after it", meant)
    return position + 1


def _group(
    reader: Reader, start: int, inner: int, kind: GroupKind, verbose: bool, on: str = "", off: str = ""
) -> tuple[int, Node]:
    position, body = reader.read_alternation(reader, inner, verbose)
    end = _closed(reader, start, position)
    return end, Group((start, end), reader.text[start:inner], kind, body, on=on, off=off)


def _capture(reader: Reader, start: int, inner: int, name: str | None, verbose: bool) -> tuple[int, Node]:
    number = reader.open_group(name, start, inner)
    position, body = reader.read_alternation(reader, inner, verbose)
    end = _closed(reader, start, position)
    reader.widths[number] = reader.width_of(body)
    return end, Group((start, end), reader.text[start:inner], "capture", body, number, name)


def _name(reader: Reader, start: int, closing: str) -> tuple[int, str]:
    """`name = identifier, closing`; return the position after `closing`."""
    end = reader.text.find(closing, start)
    if end < 0:
        raise reader.fault(start, len(reader.text), "the name of a group is not closed", f"{closing} after it")
    name = reader.text[start:end]
    if not name.isidentifier():
        rule = f"'{name}' is no name for a group" if name else "the name of the group is missing"
        raise reader.fault(start, end, rule, "letters, digits and _, no digit first")
    return end + 1, name


def _python_extension(reader: Reader, start: int, verbose: bool) -> tuple[int, Node]:
    """`"(?P<", name, ">", alternation, ")" | "(?P=", name, ")"`."""
    text = reader.text
    if text.startswith("(?P<", start):
        inner, name = _name(reader, start + 4, ">")
        return _capture(reader, start, inner, name, verbose)
    if text.startswith("(?P=", start):
        end, name = _name(reader, start + 4, ")")
        number = reader.number_of(name, start, end)
        return end, Backreference((start, end), text[start:end], number, name)
    if text.startswith("(?P>", start):
        return _call(reader, start)
    shown = text[start : start + 4]
    raise reader.fault(start, start + len(shown), f"{shown} opens nothing", "(?P<name>...) or (?P=name)")


def _comment(reader: Reader, start: int) -> tuple[int, Node]:
    """`"(?#", { any but ")" }, ")"`."""
    found = _COMMENT.match(reader.text, start)
    if found is None:
        raise reader.fault(start, len(reader.text), "this comment is not closed", ") after it")
    return found.end(), Aside(found.span(), found[0], "comment")


def _look(reader: Reader, start: int, opening: str, ahead: bool, negated: bool, verbose: bool) -> tuple[int, Node]:
    """`( "(?=" | "(?!" | "(?<=" | "(?<!" ), alternation, ")"`; what a look-behind takes has one width."""
    outer = reader.behind
    if not ahead and outer is None:
        reader.behind = len(reader.groups)
    position, body = reader.read_alternation(reader, start + len(opening), verbose)
    reader.behind = outer
    end = _closed(reader, start, position)
    least, most = reader.width_of(body)
    if reader.python and not ahead and least != most:
        takes = f"{least} or more characters" if most is None else f"{least} to {most} characters"
        meant = "one look-behind for each width, with | between them"
        raise reader.fault(
            start, end, f"a look-behind takes a fixed number of characters, and this takes {takes}", "", meant
        )
    return end, Look((start, end), opening, ahead, negated, body)


def _conditional(reader: Reader, start: int, verbose: bool) -> tuple[int, Node]:
    """`"(?(", ( number | name ), ")", sequence, [ "|", sequence ], ")"`."""
    close = reader.text.find(")", start)
    if close < 0:
        raise reader.fault(start, len(reader.text), "the condition is not closed", ") after it")
    condition = reader.text[start + 3 : close]
    number, name = _condition(reader, condition, start + 3, close)
    reader.check_behind(number, start + 3, close)
    reader.depth += 1
    position, then = reader.read_sequence(reader, close + 1, verbose)
    otherwise = None
    if reader.text.startswith("|", position):
        position, otherwise = reader.read_sequence(reader, position + 1, verbose)
        if reader.text.startswith("|", position):
            meant = "put several options for one of them in a group (?:...)"
            raise reader.fault(position, position + 1, "a conditional has two options at the most", "", meant)
    reader.depth -= 1
    end = _closed(reader, start, position)
    return end, Conditional((start, end), reader.text[start : close + 1], number, name, then, otherwise)


def _condition(reader: Reader, condition: str, start: int, end: int) -> tuple[int, str | None]:
    if condition.isidentifier():
        number = reader.names.get(condition)
        if number is None:
            raise reader.fault(start, end, f"there is no group named '{condition}' before this")
        return number, condition
    try:
        number = int(condition)
    except ValueError:
        number = -1
    if number < 1:
        raise reader.fault(
            start, end, f"'{condition}' is neither the name nor the number of a group", "(?(1)... or (?(name)..."
        )
    reader.conditions.setdefault(number, (start, end))
    return number, None


def _foreign_group(reader: Reader, start: int, verbose: bool) -> tuple[int, Node] | None:
    text = reader.text
    named = _FOREIGN_NAME.match(text, start)
    if named:
        name = named[1] or named[2]
        reader.foreign("named-angle" if named[1] else "named-quote", start, named.end(), f"(?P<{name}>")
        return _capture(reader, start, named.end(), name, verbose)
    if _CALL.match(text, start):
        return _call(reader, start)
    if text.startswith("(?|", start):
        reader.foreign("branch-reset", start, start + 3)
        return _group(reader, start, start + 3, "branch-reset", verbose)
    if text.startswith("(?<", start):
        shown = text[start : start + 4]
        raise reader.fault(
            start, start + len(shown), f"{shown} opens nothing", "(?<= or (?<! for look-behind, (?P<name> for a group"
        )
    return None


def _call(reader: Reader, start: int) -> tuple[int, Node]:
    found = _CALL.match(reader.text, start)
    end = found.end() if found else start + 4
    reader.foreign("recursion", start, end)
    if found is None:
        raise reader.fault(start, end, "this call names no group", "(?P>name)")
    return end, Call((start, end), found[0], found[0][2:-1].lstrip("&P>"))


def _flags(reader: Reader, start: int, verbose: bool) -> tuple[int, Node]:
    """`"(?", flags, [ "-", flags ], ( ")" | ":", alternation, ")" )`."""
    text = reader.text
    found = _FLAGS.match(text, start)
    assert found is not None
    on, off = found[1], (found[2] or "")[1:]
    end = found.end()
    if not found[1] and found[2] is None:
        shown = text[start : start + 3]
        raise reader.fault(
            start, start + len(shown), f"{shown} opens nothing", "(?:, (?=, (?!, (?<=, (?<!, (?P<name>, (?> or flags"
        )
    _check_flags(reader, on, off, start, end)
    closing = text[end : end + 1]
    if closing == ")" and (found[2] is None or not reader.python):
        return end + 1, FlagSetting((start, end + 1), text[start : end + 1], on, off)
    if closing != ":":
        raise reader.fault(
            start, end + len(closing), "these flags are not closed", ": before what they are for" if off else ") or :"
        )
    inner_verbose = (verbose or "x" in on) and "x" not in off
    return _group(reader, start, end + 1, "flags", inner_verbose, on, off)


def _check_flags(reader: Reader, on: str, off: str, start: int, end: int) -> None:
    if (reader.text.startswith("(?-", start) and not off) or reader.text[end - 1] == "-":
        raise reader.fault(start, end, "the flag after - is missing", "one of i, m, s, x")
    for letter in on + off:
        if letter not in _KNOWN_FLAGS and reader.python:
            words = "L is for bytes" if letter == "L" else f"there is no flag {letter}"
            raise reader.fault(start, end, words, f"one of {', '.join(_KNOWN_FLAGS)}")
    if not reader.python:
        return
    if "a" in on and "u" in on:
        raise reader.fault(start, end, "the flags a and u exclude each other")
    if set(off) & set("au"):
        raise reader.fault(start, end, "the flags a and u cannot be switched off", "the other of the two, switched on")
    both = set(on) & set(off)
    if both:
        raise reader.fault(start, end, f"the flag {min(both)} is switched on and off at once")
