"""What options override of a pattern: its reach, take, flags and field types, and the values of its parameters."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.errors import UsageError, hint

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Mapping

    from fieldstick.engines.protocol import Reach, Take
    from fieldstick.suites.model import FieldTable
    from fieldstick.suites.suite import Pattern


def pairs(given: Iterable[str], option: str, value: str = "VALUE") -> dict[str, str]:
    """Read texts of the form NAME=VALUE.

    Raises UsageError, which names the option, for a text of another form.
    """
    found = {}
    for each in given:
        name, equals, text = each.partition("=")
        if not equals or not name:
            raise UsageError(f"{option} {each}: write NAME={value}")
        found[name] = text
    return found


class Overrides(Struct, frozen=True):
    """How patterns are to read, beyond what their suites say.

    `parameters` holds values by name, `fields` types by field (`date:LAYOUT` too); `suite_file` names the suite whose
    parts a bare expression uses.
    """

    reach: Reach | None = None
    take: Take | None = None
    flags: tuple[str, ...] = ()
    suite_file: str | None = None
    parameters: Mapping[str, str] = {}
    fields: Mapping[str, str] = {}
    decimal_mark: str | None = None
    group_mark: str | None = None

    def on(self, pattern: Pattern) -> Pattern:
        """Return the pattern with reach, take, flags and field types as asked.

        Raises UsageError for what cannot be asked of the pattern.
        """
        if pattern.combination is not None:
            if self.reach or self.flags:
                raise UsageError(f"'{pattern.name}' is made of others, which each have their own reach and flags")
            return replace(pattern, members=tuple(self.on(each) for each in pattern.members))
        changes: dict[str, Any] = {}
        if self.reach:
            changes["reach"] = self.reach
        if self.flags:
            changes["flags"] = frozenset(self.flags)
        if self.take is not None:
            changes["take"] = self.take
        if self.fields or self.decimal_mark is not None or self.group_mark is not None:
            changes["fields"] = self._field_tables(pattern)
        return replace(pattern, **changes) if changes else pattern

    def values_for(self, pattern: Pattern) -> dict[str, str]:
        """Return the values of the pattern's parameters. Raises UsageError for one that has none."""
        for name in pattern.parameters:
            if name not in self.parameters:
                raise UsageError(
                    f"the pattern '{pattern.name}' needs a value for its parameter '{name}': "
                    f"add --parameter {name}=VALUE"
                )
        return pattern.own_values(self.parameters)

    def check_parameters(self, patterns: Iterable[Pattern]) -> None:
        """Raise UsageError for a value whose parameter no pattern has."""
        known = [name for pattern in patterns for name in pattern.parameters]
        for name in self.parameters:
            if name not in known:
                raise UsageError(f"--parameter {name}: no pattern here has such a parameter{hint(name, known)}")

    def check_fields(self, known: Collection[str]) -> None:
        """Raise UsageError for the type of a field that is not among those known."""
        for name, kind in self.fields.items():
            if name not in known:
                raise UsageError(f"--field {name}={kind}: there is no field '{name}'{hint(name, known)}")

    def _field_tables(self, pattern: Pattern) -> dict[str, FieldTable]:
        from fieldstick.suites.fieldtypes import FieldTableError, field_spec

        for option, mark in (("--decimal-mark", self.decimal_mark), ("--group-mark", self.group_mark)):
            if mark is not None and len(mark) != 1:
                raise UsageError(f"{option} '{mark}': a mark is one character")
        tables = dict(pattern.fields)
        for name, kind in self.fields.items():
            tables[name] = _field_table(name, kind)
        made = {name: self._marked(table) for name, table in tables.items()}
        for name, table in made.items():
            try:
                field_spec(table)
            except FieldTableError as error:
                given = f"--field {name}={self.fields[name]}" if name in self.fields else f"the field '{name}'"
                raise UsageError(f"{given}: {error}") from None
        return made

    def _marked(self, table: FieldTable) -> FieldTable:
        changes: dict[str, str] = {}
        if self.decimal_mark and table.type == "decimal" and table.decimal_mark is None:
            changes["decimal_mark"] = self.decimal_mark
        if self.group_mark and table.type in ("integer", "decimal") and table.group_mark is None:
            changes["group_mark"] = self.group_mark
        return replace(table, **changes) if changes else table


WITH_LAYOUT = ("date", "time", "timestamp")
"""Types that a layout may stand behind."""


def _field_table(name: str, kind: str) -> FieldTable:
    from fieldstick.suites.fieldtypes import TYPES
    from fieldstick.suites.model import FieldTable

    word, _, layout = kind.partition(":")
    known = next((each for each in TYPES if each == word), None)
    if known is None:
        raise UsageError(f"--field {name}={kind}: there is no type '{word}'{hint(word, TYPES)}")
    if layout and known not in WITH_LAYOUT:
        raise UsageError(
            f"--field {name}={kind}: a layout stands behind {', '.join(WITH_LAYOUT)} alone; "
            "bounds and lists are kept with a pattern of a suite"
        )
    return FieldTable(type=known, layout=layout or None)
