"""The suite file as written, key by key; the source of the JSON Schema and of most error messages.

Each class is one table of the file. Values keep the shape they have in TOML; what they mean together
(parts, members, samples) is worked out in `reading`.
"""

from __future__ import annotations

import datetime as dt
import re
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    GetJsonSchemaHandler,
    StringConstraints,
    WithJsonSchema,
)
from pydantic_core import CoreSchema, PydanticCustomError

from fieldstick.engines.protocol import Reach, Take
from fieldstick.syntax.scan import NAME

FORMAT = 1

_NAME = re.compile(NAME)
_SCHEMA_NAME = r"^[^\W\d_][\w-]*$"


def _checked_name(value: Any) -> Any:
    if isinstance(value, str) and not _NAME.fullmatch(value):
        raise PydanticCustomError(
            "name", "'{value}' is not a name: use letters, digits, - and _, a letter first", {"value": value}
        )
    return value


def _checked_take(value: Any) -> Any:
    named = isinstance(value, str) and value in ("first", "last", "all")
    numbered = isinstance(value, int) and not isinstance(value, bool) and value != 0
    if not (named or numbered):
        shown = f"'{value}'" if isinstance(value, str) else str(value)
        raise PydanticCustomError(
            "take",
            "take is {shown}; choose first, last, all, or a number but 0 (1 is the first, -1 the last)",
            {"shown": shown},
        )
    return value


def _checked_place(value: Any) -> Any:
    whole = isinstance(value, list) and len(value) == 2 and all(type(item) is int for item in value)
    if not whole or not 0 <= value[0] <= value[1]:
        raise PydanticCustomError(
            "place", "a place is [start, end] in characters counted from 0, start not after end", {}
        )
    return tuple(value)


def _as_sample(value: Any) -> Any:
    return {"text": value} if isinstance(value, str) else value


def _checked_value(value: Any) -> Any:
    if not isinstance(value, str | bool | int | float | Decimal | dt.date | dt.time):
        raise PydanticCustomError("value", "must be a text, number, date, time or boolean", {})
    return value


Name = Annotated[str, BeforeValidator(_checked_name), WithJsonSchema({"type": "string", "pattern": _SCHEMA_NAME})]
MemberName = Annotated[str, WithJsonSchema({"type": "string"})]
TakeValue = Annotated[
    Take,
    BeforeValidator(_checked_take),
    WithJsonSchema({"anyOf": [{"enum": ["first", "last", "all"]}, {"type": "integer", "not": {"const": 0}}]}),
]
Place = Annotated[
    tuple[int, int],
    BeforeValidator(_checked_place),
    WithJsonSchema({"type": "array", "items": {"type": "integer", "minimum": 0}, "minItems": 2, "maxItems": 2}),
]
Value = Annotated[
    Any,
    BeforeValidator(_checked_value),
    WithJsonSchema({"type": ["string", "number", "boolean"]}),
]
Flag = Literal["ignore-case", "multiline", "dotall", "verbose", "ascii"]
FieldType = Literal["text", "integer", "decimal", "date", "time", "timestamp", "boolean"]
Mark = Annotated[str, StringConstraints(min_length=1, max_length=1)]
Budget = Annotated[int, Field(ge=1, le=3_600_000)]


class Table(BaseModel):
    """One table of a suite file; a key it does not have is an error."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, arbitrary_types_allowed=True)


class MatchTable(Table):
    """One of the matches that a sample expects with `take = "all"`."""

    text: str | None = None
    place: Place | None = None
    fields: dict[str, Value] | None = None


class SampleTable(Table):
    """A text and what must come of it; exactly one of `text`, `file` and `table` says which text."""

    text: str | None = None
    file: str | None = None
    table: str | None = None
    note: str | None = None
    fields: dict[str, Value] | None = None
    absent: list[str] | None = None
    place: Place | None = None
    count: Annotated[int, Field(ge=1)] | None = None
    matches: Annotated[list[MatchTable], Field(min_length=1)] | None = None
    values: dict[Name, str] | None = Field(default=None, alias="with")
    message: str | None = None


class _TextOrTable:
    """Says in the JSON Schema that a sample may also be a text alone."""

    @classmethod
    def __get_pydantic_json_schema__(cls, core_schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {"anyOf": [{"type": "string"}, handler(core_schema)]}


Sample = Annotated[SampleTable, BeforeValidator(_as_sample), _TextOrTable]


class FieldTable(Table):
    """How a captured text converts to a value, and the values it may have."""

    type: FieldType = "text"
    name: Name | None = None
    unit: str | None = None
    layout: str | None = None
    decimal_mark: Mark | None = None
    group_mark: Mark | None = None
    least: Value | None = None
    most: Value | None = None
    one_of: Annotated[list[Value], Field(min_length=1)] | None = None
    true: Annotated[list[str], Field(min_length=1)] | None = None
    false: Annotated[list[str], Field(min_length=1)] | None = None


class PatternTable(Table):
    """A named expression, or a combination of patterns, with its purpose, reach, fields and samples."""

    about: str = ""
    expression: str | None = None
    any_of: Annotated[list[MemberName], Field(min_length=1)] | None = None
    all_of: Annotated[list[MemberName], Field(min_length=1)] | None = None
    none_of: Annotated[list[MemberName], Field(min_length=1)] | None = None
    parameters: list[Name] = []
    reach: Reach | None = None
    take: TakeValue | None = None
    flags: list[Flag] | None = None
    message: str | None = None
    engines: Annotated[list[str], Field(min_length=1)] | None = None
    tags: list[str] = []
    budget_ms: Budget | None = None
    fields: dict[str, FieldTable] = {}
    positive: list[Sample] = []
    negative: list[Sample] = []


class DefaultsTable(Table):
    """What the patterns of a file have that do not say otherwise."""

    reach: Reach | None = None
    take: TakeValue | None = None
    flags: list[Flag] | None = None
    engine: str | None = None
    budget_ms: Budget | None = None


LATER_TABLES = ("trials",)
"""Tables of format 1 that this version reads past."""


class SuiteTable(Table):
    """A whole suite file; its uses are modelled in `use_model`, which is loaded for a file that has some."""

    format: Literal[1]
    suite: Name
    about: str = ""
    owner: str | None = None
    borrow: dict[Name, str] = {}
    defaults: DefaultsTable = DefaultsTable()
    parts: dict[Name, str] = {}
    patterns: dict[Name, PatternTable] = {}
    rewrites: dict[Name, Any] = {}
    splits: dict[Name, Any] = {}
    routes: dict[Name, Any] = {}
    lookups: dict[Name, Any] = {}
    forms: dict[Name, Any] = {}
    trials: list[Any] = []


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema (draft 2020-12) of the suite file, for editors."""
    from fieldstick.suites.use_model import SuiteTableWithUses

    schema = SuiteTableWithUses.model_json_schema(by_alias=True)
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Fieldstick suite, format 1"}
    return head | {key: value for key, value in schema.items() if key != "title"}
