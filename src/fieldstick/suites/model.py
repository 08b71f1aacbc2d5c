"""The suite file as written, key by key: the one source of how it is read, of most messages, and of the JSON Schema.

Each class is one table of the file. Values keep the shape they have in TOML; what they mean together
(parts, members, samples) is worked out in `loader`. What operations keep in a suite they model themselves.

Annotations are no strings here: each would be compiled by every command that reads a suite.
"""

import datetime as dt
from abc import ABC
from decimal import Decimal
from typing import Annotated, Any, Literal, TypeVar

from msgspec import Meta, Struct, ValidationError, convert, field

from fieldstick.engines.protocol import REACHES, Reach

T = TypeVar("T")

FORMAT = 1

NAME_WORDS = "is not a name: use letters, digits, - and _, a letter first"
TAKE_WORDS = "choose first, last, all, or a number but 0 (1 is the first, -1 the last)"
PLACE_WORDS = "a place is [start, end] in characters counted from 0, start not after end"


class Value(ABC):  # noqa: B024 — it stands for kinds of values that are not ours
    """A text, number, date, time or boolean: what a field can be expected to have."""


for _kind in (str, int, float, Decimal, dt.date, dt.time):
    Value.register(_kind)

Name = Annotated[str, Meta(pattern=r"^[^\W\d_][\w-]*\Z", extra={"words": NAME_WORDS})]
MemberName = str
TakeValue = Annotated[
    Literal["first", "last", "all"] | int,
    Meta(extra={"rule": TAKE_WORDS}, extra_json_schema={"not": {"const": 0}}),
]
Place = Annotated[tuple[Annotated[int, Meta(ge=0)], Annotated[int, Meta(ge=0)]], Meta(extra={"whole": PLACE_WORDS})]
ReachValue = Annotated[Reach, Meta(extra={"choices": REACHES})]
Flag = Literal["ignore-case", "multiline", "dotall", "verbose", "ascii"]
FieldType = Literal["text", "integer", "decimal", "date", "time", "timestamp", "boolean"]
SourceKind = Literal["lines", "whole", "records", "csv", "json", "jsonl", "parquet", "xlsx", "sqlite"]
Mark = Annotated[str, Meta(min_length=1, max_length=1)]
Share = Annotated[float, Meta(ge=0, le=1)]
Budget = Annotated[int, Meta(ge=1, le=3_600_000)]
TextList = Annotated[list[str], Meta(min_length=1)]
Values = Annotated[list[Value], Meta(min_length=1)]


class Table(Struct, frozen=True, forbid_unknown_fields=True):
    """One table of a suite file; a key it does not have is an error."""

    def given(self) -> frozenset[str]:
        """Return the keys, as they are written, that hold something."""
        names = zip(self.__struct_fields__, self.__struct_encode_fields__, strict=True)
        return frozenset(key for name, key in names if getattr(self, name) not in (None, [], {}))


class MatchTable(Table, frozen=True):
    """One of the matches that a sample expects with `take = "all"`."""

    text: str | None = None
    place: Place | None = None
    fields: dict[str, Value] | None = None


class SampleTable(Table, frozen=True):
    """A text and what must come of it; exactly one of `text`, `file` and `table` says which text."""

    text: str | None = None
    file: str | None = None
    table: str | None = None
    note: str | None = None
    fields: dict[str, Value] | None = None
    absent: list[str] | None = None
    place: Place | None = None
    count: Annotated[int, Meta(ge=1)] | None = None
    matches: Annotated[list[MatchTable], Meta(min_length=1)] | None = None
    values: dict[Name, str] | None = field(default=None, name="with")
    message: str | None = None


class FieldTable(Table, frozen=True):
    """How a captured text converts to a value, and the values it may have."""

    type: FieldType = "text"
    name: Name | None = None
    unit: str | None = None
    layout: str | None = None
    decimal_mark: Mark | None = None
    group_mark: Mark | None = None
    least: Value | None = None
    most: Value | None = None
    one_of: Values | None = None
    true: TextList | None = None
    false: TextList | None = None


class AllowTable(Table, frozen=True):
    """A hazard that is accepted knowingly, by its kind or the beginning of it, and why."""

    hazard: str
    note: str = ""


class PatternTable(Table, frozen=True):
    """A named expression, or a combination of patterns, with its purpose, reach, fields and samples."""

    about: str = ""
    expression: str | None = None
    any_of: Annotated[list[MemberName], Meta(min_length=1)] | None = None
    all_of: Annotated[list[MemberName], Meta(min_length=1)] | None = None
    none_of: Annotated[list[MemberName], Meta(min_length=1)] | None = None
    parameters: list[Name] = field(default_factory=list)
    reach: ReachValue | None = None
    take: TakeValue | None = None
    flags: list[Flag] | None = None
    message: str | None = None
    engines: TextList | None = None
    tags: list[str] = field(default_factory=list)
    budget_ms: Budget | None = None
    allow: list[AllowTable] = field(default_factory=list)
    fields: dict[str, FieldTable] = field(default_factory=dict)
    positive: list[str | SampleTable] = field(default_factory=list)
    negative: list[str | SampleTable] = field(default_factory=list)


class DefaultsTable(Table, frozen=True):
    """What the patterns of a file have that do not say otherwise."""

    reach: ReachValue | None = None
    take: TakeValue | None = None
    flags: list[Flag] | None = None
    engine: str | None = None
    budget_ms: Budget | None = None
    decided_share: Share | None = None


_BOUNDS_SCHEMA = {
    "anyOf": [
        {"type": "number"},
        {"type": "object", "additionalProperties": {"anyOf": [{"type": "number"}, {"type": "object"}]}},
    ]
}


class TrialTable(Table, frozen=True):
    """A data file, what sorts its texts, how it is read, and the shares and counts that must come of it."""

    data: str
    route: str | None = None
    patterns: Annotated[list[MemberName], Meta(min_length=1)] | None = None
    form: str | None = None
    fits_share: Annotated[Any, Meta(extra_json_schema=_BOUNDS_SCHEMA)] = None
    counts: Annotated[Any, Meta(extra_json_schema=_BOUNDS_SCHEMA)] = None
    note: str | None = None
    values: dict[Name, str] | None = field(default=None, name="with")
    read_as: SourceKind | None = field(default=None, name="as")
    column: str | None = None
    rows: str | None = None
    table: str | None = None
    query: str | None = None
    delimiter: str | None = None
    quote: str | None = None
    encoding: str | None = None
    undecodable: Literal["keep", "refuse"] | None = None
    whole: bool | None = None
    record_start: str | None = None
    longest: Annotated[int, Meta(ge=0)] | None = None


class SuiteTable(Table, frozen=True):
    """A whole suite file, its operations left out: they join by `suites.sections`."""

    format: Annotated[Literal[1], Meta(extra={"rule": f"this version reads format {FORMAT}"})]
    suite: Name
    about: str = ""
    owner: str | None = None
    borrow: dict[Name, str] = field(default_factory=dict)
    defaults: DefaultsTable = DefaultsTable()
    parts: dict[Name, str] = field(default_factory=dict)
    patterns: dict[Name, PatternTable] = field(default_factory=dict)
    trials: list[TrialTable] = field(default_factory=list)


def converted(data: Any, table: type[T]) -> T | None:
    """Return the data as a table; None when something is wrong with it, which `tables.mistakes` then tells."""
    try:
        return convert(data, table)
    except ValidationError:
        return None
