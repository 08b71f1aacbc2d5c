"""Reads the patterns of a file, whichever standard it keeps to, and writes them for another engine."""

from __future__ import annotations

import json
import os
import re
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.errors import UsageError
from fieldstick.handover.carrying import carried
from fieldstick.handover.taking.html_form import patterns_of_form
from fieldstick.handover.taking.schemas import patterns_of_schema
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Sequence

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.handover.taking.taken import Taken


def taken_from(path: str) -> list[Taken]:
    """Return the patterns of a JSON Schema, an OpenAPI description, a Table Schema, or a form of HTML.

    Raises UsageError for a file that cannot be read, is none of these, or holds no pattern.
    """
    try:
        with open(path, encoding="utf-8-sig") as file:
            text = file.read()
    except OSError as error:
        raise UsageError(f"{path}: cannot be read: {error.strerror}") from None
    except UnicodeDecodeError as error:
        raise UsageError(f"{path}: no UTF-8 at byte {error.start}") from None
    stem = os.path.basename(path).partition(".")[0]
    if text.lstrip().startswith("<"):
        found = patterns_of_form(text)
    else:
        found = patterns_of_schema(_json(path, text), stem)
    if not found:
        raise UsageError(f"{path}: no pattern in it; a JSON Schema, a Table Schema or a form of HTML holds some")
    return _named(found, stem)


def _json(path: str, text: str) -> object:
    try:
        return json.loads(text)
    except ValueError as error:
        raise UsageError(f"{path}: neither JSON nor HTML: {error}") from None
    except RecursionError:
        raise UsageError(f"{path}: its objects lie too deep in one another") from None


def _named(found: Iterable[Taken], stem: str) -> list[Taken]:
    """Give each a name that a pattern can have, and none the name of another."""
    names: set[str] = set()
    named = []
    for each in found:
        plain = name = _plain(each.name) or _plain(stem) or "pattern"
        number = 1
        while name in names:
            number += 1
            name = f"{plain}-{number}"
        names.add(name)
        named.append(replace(each, name=name, expression=each.expression.replace("{{", r"\{\{")))
    return named


def _plain(name: str) -> str:
    """Return a name in letters, digits, hyphens and lines below, a letter first."""
    return re.sub(r"^[^a-z]+|-+$", "", re.sub(r"[^\w-]+", "-", name.lower(), flags=re.ASCII))


def for_engine(taken: Taken, engine: str) -> Taken:
    """Return a pattern written for another engine. Raises UsageError where its meaning cannot be kept."""
    try:
        made = carried(taken.expression, frozenset(), "anywhere", engine, source=taken.engine)
    except UsageError as error:
        raise UsageError(f"{taken.name} ({taken.place}): {error}; without --engine it is kept as it is") from None
    expression, reach = made.expression, taken.reach
    whole = re.fullmatch(r"\\A(.*)\\Z", expression, re.DOTALL)
    if reach == "anywhere" and engine == "python" and whole is not None and _is_row(expression):
        expression, reach = whole[1], "whole"
    return replace(taken, expression=expression.replace("{{", r"\{\{"), engine=engine, reach=reach)


def _is_row(expression: str) -> bool:
    """Tell whether an expression is no choice between several, of which the anchors would be parts."""
    return isinstance(parse(expression, frozenset()).tree, Sequence)
