"""What is recorded of a trial: small, stable when lines are appended, and enough to name the lines that change.

What each text came to is a byte, packed in groups; of the data a digest a group is kept. What a pattern captured is not
kept for a text at all: the pattern is, and reads the text again when it has changed since.
"""

from __future__ import annotations

import base64
import os
import zlib
from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct, convert, to_builtins

from fieldstick.engines.probing import compiled_by_engine
from fieldstick.suites.model import FieldTable
from fieldstick.suites.parts import fill_plain
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.runs.trial_results import TrialResult
    from fieldstick.suites.suite import Trial

PACK = 4096
"""Texts that are packed together."""

LEAST_ROOM, SHARE_OF_DATA = 200_000, 100
"""Bytes that the record of a trial may take: so many, or that part of the data, whichever is more."""


class Definition(Struct, omit_defaults=True):
    """A pattern as it was when a trial was recorded: enough to read a text as it did then."""

    expression: str | None = None
    flags: list[str] = []
    reach: Literal["whole", "start", "anywhere"] = "whole"
    take: Literal["first", "last", "all"] | int = "first"
    fields: dict[str, dict[str, Any]] = {}
    combination: Literal["any_of", "all_of", "none_of"] | None = None
    members: dict[str, Definition] = {}


class TrialRecord(Struct, omit_defaults=True):
    """What is recorded of a trial.

    `outcomes` hold, for each `PACK` of texts, a column or several, each a byte a text, deflated (RFC 1951) and in
    base 85; empty where they took too much room: what texts came to is then found out by reading them with
    `definitions` once more. `codes` are the names of a route's kinds by that byte.
    """

    texts: int
    fit: int
    counts: dict[str, int]
    lines: int
    data: list[str]
    definitions: dict[str, Definition]
    codes: list[str] = []
    outcomes: list[list[str]] = []
    given_up: int = 0

    def columns(self) -> list[bytes] | None:
        """Return what the texts came to, a byte each, by column; None where that was not kept.

        Raises ValueError where what was kept is damaged.
        """
        if not self.outcomes and self.texts:
            return None
        try:
            found = [
                b"".join(zlib.decompress(base64.b85decode(packed)) for packed in column)
                for column in zip(*self.outcomes, strict=True)
            ] or [b""]
        except zlib.error as error:
            raise ValueError(str(error)) from None
        if any(len(column) != self.texts for column in found):
            raise ValueError(f"it holds not {self.texts} outcomes")
        return found


def record_of(result: TrialResult, *, whole: bool = False) -> TrialRecord:
    """Return what a baseline records of a trial; the `whole` of it where room does not matter."""
    trial = result.trial
    outcomes = [
        [_packed(column[start : start + PACK]) for column in result.columns] for start in range(0, result.texts, PACK)
    ]
    room = max(LEAST_ROOM, os.path.getsize(trial.location) // SHARE_OF_DATA)
    taken = sum(len(column) + 4 for group in outcomes for column in group) + 20 * len(result.digest.groups)
    return TrialRecord(
        texts=result.texts,
        fit=result.fit,
        counts=dict(result.counts),
        lines=result.digest.lines,
        data=list(result.digest.groups),
        definitions=definitions_of(trial),
        codes=list(trial.names) if trial.by == "route" else [],
        outcomes=outcomes if whole or taken <= room else [],
        given_up=result.given_up,
    )


def _packed(column: bytes) -> str:
    made = []
    # Kinds in no order are packed best without looking for what came before.
    for strategy in (zlib.Z_DEFAULT_STRATEGY, zlib.Z_HUFFMAN_ONLY):
        packer = zlib.compressobj(9, strategy=strategy)
        made.append(packer.compress(column) + packer.flush())
    return base64.b85encode(min(made, key=len)).decode("ascii")


def definitions_of(trial: Trial) -> dict[str, Definition]:
    """Return the patterns of a trial as they are recorded, by kind, name or column."""
    called = trial.called
    return {name: definition_of(called[name], trial.values) for name in trial.names if name in called}


def definition_of(pattern: Pattern, values: Mapping[str, str]) -> Definition:
    """Return a pattern as it is recorded, its parameters standing for `values`."""
    if pattern.filling is None:
        members = {member.name: definition_of(member, values) for member in pattern.members}
        return Definition(combination=pattern.combination, members=members)
    own = {name: values.get(name, "") for name in pattern.parameters}
    fields = {name: _settings(table) for name, table in sorted(pattern.fields.items())}
    return Definition(pattern.filling.text(own), sorted(pattern.flags), pattern.reach, pattern.take, fields)


def _settings(table: FieldTable) -> dict[str, Any]:
    """Return what a field is given, as JSON has it."""
    found: dict[str, Any] = to_builtins(table)
    return {key: value for key, value in found.items() if value is not None}


def pattern_of(name: str, definition: Definition) -> Pattern:
    """Return the pattern as it was. Raises ValidationError for a record that is none."""
    if definition.expression is None:
        members = tuple(pattern_of(member, each) for member, each in definition.members.items())
        return Pattern(name, combination=definition.combination, members=members)
    return Pattern(
        name,
        fill_plain(definition.expression),
        reach=definition.reach,
        take=definition.take,
        flags=frozenset(definition.flags),
        fields={name: convert(settings, FieldTable, strict=False) for name, settings in definition.fields.items()},
    )


def fields_of(definition: Definition) -> dict[str, str]:
    """Return the fields of a pattern as it is or was, in order, each with its type and bounds in words."""
    if definition.expression is None:
        return {name: kind for member in definition.members.values() for name, kind in fields_of(member).items()}
    compiled = compiled_by_engine(definition.expression, frozenset(definition.flags))
    if compiled is None:
        return {}
    names = {number: name for name, number in compiled.groupindex.items()}
    groups = [names.get(number, str(number)) for number in range(1, compiled.groups + 1)]
    return {name: _words(definition.fields.get(name, {})) for name in groups}


def _words(settings: Mapping[str, Any]) -> str:
    others = {key: value for key, value in settings.items() if key != "type"}
    return ", ".join([settings.get("type", "text"), *(f"{key} {value}" for key, value in others.items())])
