"""Tells what stands in the head of a log line for what it is: who wrote it, and the number of the process that did.

A line of a system's log begins with when and on which host it was written, the name of the program and in brackets
behind that the number of its process (RFC 3164, sections 4.1 and 5.3). As long as a program runs that number is the
same in every line, however many there are; the next time it is another one.
"""

from __future__ import annotations

import re
from itertools import count
from typing import TYPE_CHECKING

from fieldstick.drafting.proposals.naming import PLAIN_NAMES
from fieldstick.drafting.proposals.special_pieces import SPECIAL
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.drafting.proposals.numerals import Table

HOST, PROCESS = "host", "pid"
"""What the fields are called."""

_MOMENTS = ("(?P<at>", "(?P<day>", "(?P<time>")
"""What an expression begins with whose texts begin with a date or time."""

_NUMBER = compiled_later(r"(?<=[\w)])\\\[(?:\d{2,}|\(\?P<(?P<name>\w+)>(?:\d|\\d|[{}|,+]|\[[\d-]+\])+\))\\\]:")
"""Digits between brackets, right behind a word and before a colon: one number of two digits or more, or a field."""

_FIELD = r"\(\?P<\w+>(?:[^()\\]|\\.)*\)"
_HEAD = compiled_later(
    rf"\(\?P<\w+>(?P<moment>(?:[^()\\]|\\.)*)\) \+?\(\?P<(?P<host>word)>(?:[^()\\]|\\.)*\)"
    rf" \+?(?:[\w./-]|\\[.-]|{_FIELD})+(?P<process>\\\[(?:\d+|{_FIELD})\\\])?:"
)
"""A date or time, a word of a few, and a name with the number of a process or without it."""

_OF_SYSTEM = next(each.spelled for each in SPECIAL.values() if each.found.endswith(r" [ \d]\d \d\d:\d\d:\d\d"))
"""How the date and time are spelled that no other lines begin with."""


def with_head(expression: str, fields: Mapping[str, Table]) -> tuple[str, dict[str, Table]]:
    """Return an expression and the tables of its fields, a host called so, and the number of a process any number."""
    if not expression.startswith(_MOMENTS):
        return expression, dict(fields)
    tables, renamed = dict(fields), set[str]()
    head = _HEAD.match(expression)
    if head is not None and (head["process"] or head["moment"] == _OF_SYSTEM) and f"(?P<{HOST}>" not in expression:
        expression = f"{expression[: head.start('host')]}{HOST}{expression[head.end('host') :]}"
        renamed.add(head["host"])
    number = _NUMBER.search(expression)
    if number is not None and f"(?P<{PROCESS}>" not in expression:
        expression = rf"{expression[: number.start()]}\[(?P<{PROCESS}>\d+)\]:{expression[number.end() :]}"
        tables[PROCESS] = {"type": "integer"}
        if number["name"] is not None:
            tables.pop(number["name"], None)
            renamed.add(number["name"])
    for name in renamed & {*PLAIN_NAMES}:
        expression, tables = _closed_up(name, expression, tables)
    order = re.compile(expression).groupindex
    return expression, {name: tables[name] for name in sorted(tables, key=order.__getitem__)}


def _closed_up(name: str, expression: str, tables: Mapping[str, Table]) -> tuple[str, dict[str, Table]]:
    """Return an expression and the tables of its fields, those of a name, that the first lost, numbered from 1 on."""
    numbers = count(1)
    new: dict[str, str] = {}

    def next_name(found: re.Match[str]) -> str:
        number = next(numbers)
        new[found[1]] = f"{name}{number}" if number > 1 else name
        return f"(?P<{new[found[1]]}>"

    made = re.sub(rf"\(\?P<({name}\d*)>", next_name, expression)
    return made, {new.get(each, each): table for each, table in tables.items()}
