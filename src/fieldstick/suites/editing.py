"""Adds patterns and samples to a suite file: what is there stays as it is, to the last blank.

The new text is put in where it belongs; the file's other characters are not touched. The result is read again and
must hold exactly what was there and what was added, or nothing is written.
"""

from __future__ import annotations

import copy
import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any

import tomli

from fieldstick.errors import UsageError
from fieldstick.files import locked, write_whole
from fieldstick.lean import compiled_later
from fieldstick.suites.model import NAME_WORDS
from fieldstick.suites.places import locate, locate_ends
from fieldstick.syntax.scan import NAME

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping
    from pathlib import Path

BYTE_ORDER_MARK = "\ufeff"

_BARE = compiled_later(r"[A-Za-z0-9_-]+")
_EXPRESSION = compiled_later(
    r"""expression["']?[ \t]*=[ \t]*"""
    r"""('{3}(?:.|\n)*?'{3,5}|"{3}(?:\\(?:.|\n)|[^\\])*?"{3,5}|'[^'\n]*'|"(?:\\.|[^"\\\n])*")"""
)
"""The key of an expression and its value, a text of any of the four forms that TOML has (TOML 1.0, String)."""
_VALUE = (
    r"""'{3}(?:.|\n)*?'{3,5}|"{3}(?:\\(?:.|\n)|[^\\])*?"{3,5}|'[^'\n]*'|"(?:\\.|[^"\\\n])*"|"""
    r"""\[(?:[^\]'"\n]|'[^'\n]*'|"(?:\\.|[^"\\\n])*")*\]|[^\s,}#]+"""
)
"""A value: a text of any of the four forms, an array on one line, or something else that has no blank."""
_ESCAPES = {"\\": "\\\\", '"': '\\"', "\t": "\\t", "\n": "\\n", "\r": "\\r", "\b": "\\b", "\f": "\\f"}


def toml_text(text: str) -> str:
    """Write a text as TOML: between single quotes, where nothing is an escape, if it can be.

    Raises UsageError for a lone surrogate, which TOML cannot hold.
    """
    if "'" not in text and all(each.isprintable() or each == " " for each in text):
        return f"'{text}'"
    pieces = []
    for each in text:
        if "\ud800" <= each <= "\udfff":
            raise UsageError("the text holds bytes that are not UTF-8, which a suite cannot hold; put them in a file")
        code = f"\\u{ord(each):04x}" if ord(each) < 0x10000 else f"\\U{ord(each):08x}"
        pieces.append(_ESCAPES.get(each) or (each if each.isprintable() or each == " " else code))
    return '"' + "".join(pieces) + '"'


def _key(name: str) -> str:
    return name if _BARE.fullmatch(name) else toml_text(name).replace("'", '"')


def toml_value(value: Any) -> str:
    """Write a value as TOML on one line."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, str):
        return toml_text(value)
    if isinstance(value, dict):
        return "{ " + ", ".join(f"{_key(key)} = {toml_value(each)}" for key, each in value.items()) + " }"
    if isinstance(value, list | tuple):
        return "[" + ", ".join(map(toml_value, value)) + "]"
    return value.isoformat() if hasattr(value, "isoformat") else str(value)


def checked_name(name: str) -> str:
    """Return a name that a suite can give. Raises UsageError for another."""
    if not re.fullmatch(NAME, name):
        raise UsageError(f"'{name}' {NAME_WORDS}")
    return name


def with_pattern(document: str, name: str, table: Mapping[str, Any]) -> str:
    """Return a suite's text with a pattern added at its end.

    Raises UsageError when it has one of that name or cannot have one, or the file's form does not allow it.
    """
    return with_table(document, "patterns", name, table)


def with_table(document: str, section: str, name: str, table: Mapping[str, Any]) -> str:
    """Return a suite's text with a table added at its end: a pattern, or one of `routes` and the like.

    Its `samples` stand one below the other. Raises UsageError as `with_pattern` does.
    """
    check_free(document, section, name)
    data = _read(document)
    expected = copy.deepcopy(data)
    expected.setdefault(section, {})[name] = dict(table)
    samples = table.get("samples", ())
    blocks = [{key: value for key, value in table.items() if key != "samples"}, *samples]
    heads = [f"[{section}.{_key(name)}]", *(f"[[{section}.{_key(name)}.samples]]" for _ in samples)]
    added = [
        f"\n{head}\n" + "".join(f"{_key(key)} = {toml_value(value)}\n" for key, value in block.items())
        for head, block in zip(heads, blocks, strict=True)
    ]
    return _checked(document.rstrip("\n") + "\n" + "".join(added), expected)


def check_free(document: str, section: str, name: str) -> None:
    """Raise UsageError when a suite's text can have no table of a name in a section, or has one."""
    checked_name(name)
    if name in names_in(document, section):
        replaced = "; --replace puts the expression in its place" if section == "patterns" else ""
        raise UsageError(f"the suite has a {section.removesuffix('s')} '{name}' already{replaced}")


def names_in(document: str, section: str) -> set[str]:
    """Return the names that a suite's text has in a section."""
    return set(_read(document).get(section, {}))


def with_expression(document: str, pattern: str, expression: str) -> str:
    """Return a suite's text with another expression for one of its patterns.

    Raises UsageError when the file's form does not allow it.
    """
    expected = copy.deepcopy(_read(document))
    expected["patterns"][pattern]["expression"] = expression
    number = locate(document).get(("patterns", pattern, "expression"))
    if number is None:
        raise UsageError(f"the pattern '{pattern}' has no expression of its own")
    start = len(document) - len(document.split("\n", number - 1)[-1])
    found = _EXPRESSION.search(document, start)
    if found is None:
        raise UsageError(f"the pattern '{pattern}' has an expression in a form that cannot be changed")
    return _checked(document[: found.start(1)] + toml_text(expression) + document[found.end(1) :], expected)


def with_part(document: str, part: str, text: str) -> str:
    """Return a suite's text with another text for one of its parts.

    Raises UsageError when the suite has no such part, or the file's form does not allow it.
    """
    expected = copy.deepcopy(_read(document))
    if part not in expected.get("parts", {}):
        raise UsageError(f"the suite has no part '{part}' of its own")
    expected["parts"][part] = text
    return _checked(_with_value(document, ("parts", part), toml_text(text)), expected)


def with_key(document: str, table: tuple[str, ...], key: str, value: Any) -> str:
    """Return a suite's text with a key of a table set, put in below the table's head where it is not there yet, and
    left out for None. The table is made where there is none, at the end of the pattern that it belongs to.

    Raises UsageError when the file's form does not allow it.
    """
    expected = copy.deepcopy(_read(document))
    inner = expected
    for name in table:
        inner = inner.setdefault(name, {})
    if value is None:
        inner.pop(key, None)
    else:
        inner[key] = value
    found = locate(document)
    path = (*table, key)
    if path in found:
        if value is not None:
            return _checked(_with_value(document, path, toml_value(value)), expected)
        return _checked(_without_line(document, found[path]), expected)
    if value is None:
        return document
    line = f"{_key(key)} = {toml_value(value)}\n"
    if table in found:
        return _checked(_below(document, found[table], line), expected)
    head = ".".join(map(_key, table))
    lines = re.findall(r"[^\n]*\n|[^\n]+$", document)
    after = _last_line_of(document, lines, table[1])
    if after and not lines[after - 1].endswith("\n"):
        lines[after - 1] += "\n"
    return _checked("".join([*lines[:after], f"\n[{head}]\n{line}", *lines[after:]]), expected)


def _with_value(document: str, path: tuple[str, ...], value: str) -> str:
    """Put another value after a key, which ends where its line, or its place in a table on one line, does."""
    number = locate(document).get(path)
    if number is None:
        raise UsageError(f"{'.'.join(path)} stands in a form that cannot be changed")
    start = len(document) - len(document.split("\n", number - 1)[-1])
    name = re.escape(path[-1])
    found = re.compile(rf"""(?<![\w-])["']?{name}["']?[ \t]*=[ \t]*({_VALUE})""").search(document, start)
    if found is None:
        raise UsageError(f"{'.'.join(path)} stands in a form that cannot be changed")
    return document[: found.start(1)] + value + document[found.end(1) :]


def _without_line(document: str, number: int) -> str:
    lines = document.split("\n")
    return "\n".join([*lines[: number - 1], *lines[number:]])


def _below(document: str, number: int, line: str) -> str:
    """Put a line below the head of a table, or into a table that stands on one line."""
    lines = document.split("\n")
    head = lines[number - 1]
    if head.lstrip().startswith("["):
        return "\n".join([*lines[:number], line.rstrip("\n"), *lines[number:]])
    close = head.rfind("}")
    if close < 0:
        raise UsageError("the table stands in a form that cannot be changed")
    inner = head[:close].rstrip()
    comma = "" if inner.endswith("{") else ","
    lines[number - 1] = f"{inner}{comma} {line.rstrip()} {head[close:]}"
    return "\n".join(lines)


def with_sample(document: str, pattern: str, kind: str, table: Mapping[str, Any]) -> str:
    """Return a suite's text with a sample added after the pattern's others of its kind.

    Raises UsageError when the file's form does not allow it.
    """
    data = _read(document)
    expected = copy.deepcopy(data)
    if _has_sample(expected["patterns"][pattern], table):
        raise UsageError(f"the pattern '{pattern}' has this sample already; nothing was added")
    samples = expected["patterns"][pattern].setdefault(kind, [])
    short = set(table) == {"text"} and bool(samples) and isinstance(samples[-1], str)
    samples.append(table["text"] if short else dict(table))
    path = ("patterns", pattern, kind)
    if path in locate_ends(document):
        changed = _into_array(document, path, toml_value(table["text"] if short else dict(table)))
    else:
        changed = _as_block(document, pattern, kind, table)
    return _checked(changed, expected)


def _has_sample(pattern: Mapping[str, Any], table: Mapping[str, Any]) -> bool:
    known = [each for kind in ("positive", "negative") for each in pattern.get(kind, ())]
    return (table["text"], table.get("with")) in [
        (each, None) if isinstance(each, str) else (each.get("text"), each.get("with")) for each in known
    ]


def _into_array(document: str, path: tuple[str, ...], item: str) -> str:
    ends = locate_ends(document)
    close = ends[path] - 1
    items = [end for each, end in ends.items() if each[:-1] == path]
    if not items:
        return document[:close].rstrip() + item + document[close:]
    last = max(items)
    between = document[last:close]
    comma = "" if between.lstrip().startswith(",") else ","
    if "\n" not in between:
        return document[:last] + f", {item}" + between.lstrip(", ") + document[close:]
    line_start = document.rfind("\n", 0, last) + 1
    indent = re.match(r"[ \t]*", document[line_start:])
    space = indent[0] if indent and document[line_start:last].strip() else "  "
    end_of_items = document.rfind("\n", last, close) + 1
    return f"{document[:last]}{comma}{document[last:end_of_items]}{space}{item},\n{document[end_of_items:]}"


def _as_block(document: str, pattern: str, kind: str, table: Mapping[str, Any]) -> str:
    # Line feeds alone end a line of TOML; what else is taken for an end may stand in a text.
    lines = re.findall(r"[^\n]*\n|[^\n]+$", document)
    after = _last_line_of(document, lines, pattern)
    block = [f"[[patterns.{_key(pattern)}.{kind}]]\n"]
    block += [f"{_key(key)} = {toml_value(value)}\n" for key, value in table.items()]
    if after and not lines[after - 1].endswith("\n"):
        lines[after - 1] += "\n"
    return "".join([*lines[:after], "\n", *block, *lines[after:]])


def _last_line_of(document: str, lines: list[str], pattern: str) -> int:
    """Return the number of the last line that belongs to a pattern, comments and blanks after it left out."""
    found = locate(document)
    own = {line for path, line in found.items() if path[:2] == ("patterns", pattern)}
    others = [line for path, line in found.items() if path[:2] != ("patterns", pattern) and line > max(own)]
    end = min(others) - 1 if others else len(lines)
    while end > max(own) and (not lines[end - 1].strip() or lines[end - 1].lstrip().startswith("#")):
        end -= 1
    return end


def _read(document: str) -> dict[str, Any]:
    return tomli.loads(document, parse_float=Decimal)


def _checked(changed: str, expected: dict[str, Any]) -> str:
    try:
        fine = _read(changed) == expected
    except tomli.TOMLDecodeError:
        fine = False
    if not fine:
        raise UsageError("the file has a form that cannot be added to without changing more; add it by hand")
    return changed


def text_of_file(path: Path) -> str:
    """Return a suite file's text as an edit sees it: without a byte order mark, each line ended by a line feed."""
    return path.read_bytes().decode("utf-8").removeprefix(BYTE_ORDER_MARK).replace("\r\n", "\n")


def edit(path: Path, change: Callable[[str], str]) -> None:
    """Put a changed text in the place of a suite file's, whole or not at all; its line ends and mark stay.

    Another program that changes it waits until this is done.

    Raises UsageError for a file that mixes its line ends, since what is added could not keep to them.
    """
    with locked(path):
        text = path.read_bytes().decode("utf-8")
        mark = BYTE_ORDER_MARK if text.startswith(BYTE_ORDER_MARK) else ""
        returns = text.count("\r\n")
        if returns not in (0, text.count("\n")):
            raise UsageError(f"{path} mixes its line ends; make them alike first")
        changed = change(text.removeprefix(mark).replace("\r\n", "\n"))
        write_whole(path, mark + (changed.replace("\n", "\r\n") if returns else changed))
