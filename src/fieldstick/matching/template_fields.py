"""Gives templates the fields of a match."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.suites.fieldtypes import FieldSpec
from fieldstick.suites.templates import MATCH, Captured

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from fieldstick.matching.result import FieldValue, Match


def template_fields(
    match: Match, also: tuple[Match, ...] = (), more: Mapping[str, str] = {}
) -> Callable[[str], Captured | None]:
    """Return what gives a template the fields of `match`, then of `also`, then the further texts of `more`."""
    fields: dict[str, FieldValue | None] = dict(match.fields)
    for other in also:
        for name, value in other.fields.items():
            fields.setdefault(name, value)

    def captured(name: str) -> Captured | None:
        if name in fields:
            found = fields[name]
            return None if found is None else Captured(found.text, FieldSpec.plain(found.value))
        if name == MATCH:
            return Captured(match.text, match.text)
        if name in more:
            return Captured(more[name], more[name])
        return None

    return captured
