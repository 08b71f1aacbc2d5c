"""The sections of a suite file that hold operations, what each brings along, and the model of a whole suite file."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, NamedTuple, Protocol

import msgspec
from msgspec import Meta

from fieldstick.suites.model import Flag, MemberName, Name, SuiteTable, Table, Value

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Sequence

    from fieldstick.suites.suite import Operation

Names = Annotated[list[Name], Meta(min_length=1)]
Members = Annotated[list[MemberName], Meta(min_length=1)]
Flags = list[Flag]


class OperationTable(Table, frozen=True):
    """What the tables of all operations have."""

    about: str = ""
    tags: list[str] = msgspec.field(default_factory=list)


class SampleTable(Table, frozen=True):
    """What the samples of all operations have; `text` or `file` says which text."""

    text: str | None = None
    file: str | None = None
    note: str | None = None
    values: dict[Name, str] | None = msgspec.field(default=None, name="with")


class Section(NamedTuple):
    """A section of the suite file: its name there, its table, that of its samples, and what reads its operations."""

    name: str
    table: type[Table]
    sample_table: type[Table]
    read: Callable[[Any], Iterator[Operation]]
    """Given an `OperationReader`."""


class Sections(Protocol):
    """All sections that there are."""

    def names(self) -> Sequence[str]:
        """Return the names of the sections, as in a suite file."""

    def section(self, name: str) -> Section:
        """Return the section of that name."""


class NoSections:
    """Suites without operations."""

    def names(self) -> Sequence[str]:
        """See `Sections.names`."""
        return ()

    def section(self, name: str) -> Section:
        """See `Sections.section`."""
        raise KeyError(name)


def suite_model(sections: Sections, names: Iterable[str]) -> type[SuiteTable]:
    """Return the model of a suite file that has the sections of those names."""
    fields: list[Any] = [
        (name, dict[Name, sections.section(name).table], msgspec.field(default_factory=dict))  # type: ignore[misc]
        for name in names
    ]
    if not fields:
        return SuiteTable
    made: Any = msgspec.defstruct("SuiteTable", fields, bases=(SuiteTable,), frozen=True, forbid_unknown_fields=True)
    made.__doc__ = "A whole suite file."
    found: type[SuiteTable] = made
    return found


def json_schema(sections: Sections) -> dict[str, Any]:
    """Return the JSON Schema (draft 2020-12) of the suite file, for editors."""
    model = suite_model(sections, sections.names())
    ((schema,), definitions) = msgspec.json.schema_components(
        [model], ref_template="#/$defs/{name}", schema_hook=_schema_of
    )
    name = schema["$ref"].rpartition("/")[2]
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Fieldstick suite, format 1"}
    whole = {key: value for key, value in definitions.pop(name).items() if key != "title"}
    return head | whole | {"$defs": definitions}


def _schema_of(kind: type) -> dict[str, Any]:
    if kind is Value:
        return {"type": ["string", "number", "boolean"]}
    raise NotImplementedError
