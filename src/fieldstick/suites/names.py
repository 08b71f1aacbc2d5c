"""The names that suites below a folder have for things, read quickly and without complaint, for completion."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import tomli
from msgspec import Struct, field

from fieldstick.errors import UsageError
from fieldstick.suites.finding import find_suites
from fieldstick.syntax.scan import group_names, scan

if TYPE_CHECKING:
    from collections.abc import Iterator

MOST_SUITES = 500
"""Suite files that are read: whoever waits for a completion does not wait long."""


class Names(Struct):
    """The names in a suite: by section those of its patterns and operations, by pattern its fields and parameters."""

    suite: str
    sections: dict[str, list[str]] = field(default_factory=dict)
    fields: dict[str, list[str]] = field(default_factory=dict)
    parameters: dict[str, list[str]] = field(default_factory=dict)


def names_below(folder: str = ".") -> Iterator[Names]:
    """Yield the names of each suite below a folder; a file that cannot be read is passed by."""
    try:
        files = find_suites([folder])[:MOST_SUITES]
    except UsageError:
        return
    for file in files:
        try:
            with open(file, "rb") as stream:
                data = tomli.load(stream)
        except (tomli.TOMLDecodeError, UnicodeDecodeError, OSError, RecursionError):
            continue
        if isinstance(data.get("suite"), str):
            yield _names(data)


def _names(data: dict[str, Any]) -> Names:
    found = Names(data["suite"])
    for section, tables in data.items():
        if section != "parts" and isinstance(tables, dict):
            found.sections[section] = list(tables)
    patterns = data.get("patterns")
    for name, table in patterns.items() if isinstance(patterns, dict) else ():
        if not isinstance(table, dict):
            continue
        expression, fields = table.get("expression"), table.get("fields")
        groups = list(group_names(scan(expression).groups)) if isinstance(expression, str) else []
        kept = list(fields) if isinstance(fields, dict) else []
        found.fields[name] = list(dict.fromkeys([*groups, *kept]))
        parameters = table.get("parameters")
        found.parameters[name] = (
            [each for each in parameters if isinstance(each, str)] if isinstance(parameters, list) else []
        )
    return found
