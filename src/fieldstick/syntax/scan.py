"""A light scan of an expression: its capture groups and the parts it uses.

It knows just enough of the notation (escapes, classes, comments, groups) to tell a `{{part}}` that stands
for a unit from one inside a character class, and a capture group from any other parenthesis.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator

NAME = r"[^\W\d_][\w-]*"

_OUTSIDE = compiled_later(
    r"\\."
    r"|(?P<use>\{\{)"
    r"|(?P<comment>\(\?\#[^)]*\)?)"
    r"|\(\?P?<(?P<name>[^\W\d]\w*)>"
    r"|\(\?"
    r"|(?P<group>\()"
    r"|(?P<class>\[\^?\]?)"
    r"|(?P<hash>\#)",
    re.DOTALL,
)
_INSIDE = compiled_later(r"\\.|(?P<use>\{\{)|(?P<close>\])", re.DOTALL)
_USE = compiled_later(rf"\{{\{{(?P<parameter>=?)(?P<name>{NAME}(?:\.{NAME})?)\}}\}}")
_LINE_END = compiled_later(r"\n|\Z")
_VERBOSE_START = compiled_later(r"(?:\(\?[aimsu]+\))*\(\?[aimsu]*x[aimsux]*\)")


class Use(Struct, frozen=True):
    """A place where `{{name}}` or `{{=name}}` stands.

    `start` and `end` are code-point offsets. `name` is empty when two braces open something that is
    neither; `in_class` tells whether it stands inside a character class.
    """

    start: int
    end: int
    name: str
    parameter: bool
    in_class: bool


class Scan(Struct, frozen=True):
    """What a scan found: the uses in order, and the name of each capture group, None for one without."""

    uses: tuple[Use, ...]
    groups: tuple[str | None, ...]


def scan(expression: str, *, verbose: bool = False) -> Scan:
    """Scan `expression`; a wrong expression is scanned as far as it makes sense."""
    groups: list[str | None] = []
    uses = tuple(_uses(expression, verbose or starts_verbose(expression), groups))
    return Scan(uses, tuple(groups))


def starts_verbose(expression: str) -> bool:
    """Tell whether an inline flag at the head of `expression` switches verbose notation on."""
    return _VERBOSE_START.match(expression) is not None


def group_names(groups: tuple[str | None, ...]) -> tuple[str, ...]:
    """Name each group in order: its own name, or its number."""
    return tuple(name or str(number) for number, name in enumerate(groups, 1))


def _uses(expression: str, verbose: bool, groups: list[str | None]) -> Iterator[Use]:
    position, in_class = 0, False
    while found := (_INSIDE if in_class else _OUTSIDE).search(expression, position):
        position, kind = found.end(), found.lastgroup
        if kind == "use":
            use = _use_at(expression, found.start(), in_class)
            position = use.end
            yield use
        elif kind == "close":
            in_class = False
        elif kind == "class":
            in_class = True
        elif kind == "hash" and verbose:
            position = _end_of_line(expression, position)
        elif kind == "name":
            groups.append(found["name"])
        elif kind == "group":
            groups.append(None)


def _end_of_line(expression: str, position: int) -> int:
    found = _LINE_END.search(expression, position)
    return found.end() if found else len(expression)


def _use_at(expression: str, start: int, in_class: bool) -> Use:
    found = _USE.match(expression, start)
    if found is None:
        return Use(start, start + 2, "", False, in_class)
    return Use(start, found.end(), found["name"], bool(found["parameter"]), in_class)
