"""The tables of a suite file that use patterns, key by key: rewrites, splits, routes, lookups, forms."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from fieldstick.suites.model import Flag, MemberName, Name, SuiteTable, Table


class UseSampleTable(Table):
    """What the samples of all uses have; `text` or `file` says which text."""

    text: str | None = None
    file: str | None = None
    note: str | None = None
    values: dict[Name, str] | None = Field(default=None, alias="with")


class RewriteSampleTable(UseSampleTable):
    """A text and what it becomes; a text that stays as it is becomes itself."""

    becomes: str


class RewriteTable(Table):
    """What is put in place of each match of a pattern, or several rewrites one after the other."""

    about: str = ""
    tags: list[str] = []
    pattern: MemberName | None = None
    template: str | None = Field(default=None, alias="with")
    times: Literal["all", "first"] | None = None
    steps: Annotated[list[Name], Field(min_length=1)] | None = None
    samples: list[RewriteSampleTable] = []


class SplitSampleTable(UseSampleTable):
    """A text and the pieces it is cut into."""

    pieces: list[str]


class SplitTable(Table):
    """Where a text is cut: at each match of an expression or of a pattern."""

    about: str = ""
    tags: list[str] = []
    at: str | None = None
    pattern: MemberName | None = None
    flags: list[Flag] | None = None
    keep_separators: bool = False
    drop_empty: bool = False
    samples: list[SplitSampleTable] = []


class RouteSampleTable(UseSampleTable):
    """A text and the kind it is of."""

    kind: str


class RouteTable(Table):
    """Patterns in order; the first one that fits a text names its kind."""

    about: str = ""
    tags: list[str] = []
    order: Annotated[list[MemberName], Field(min_length=1)]
    otherwise: str = "unknown"
    samples: list[RouteSampleTable] = []


class LookupSampleTable(Table):
    """Rows, or a CSV table of them, and what the lookup gives of them.

    `gives` is the answer: a text for one column, a table for several, an array of those with `pick = "all"`.
    """

    rows: list[dict[str, str]] | None = None
    table: str | None = None
    note: str | None = None
    values: dict[Name, str] | None = Field(default=None, alias="with")
    gives: str | dict[str, str] | list[str | dict[str, str]]


class LookupTable(Table):
    """Finds the rows whose column fits a pattern, and gives other columns of them."""

    about: str = ""
    tags: list[str] = []
    column: str
    pattern: MemberName
    give: Annotated[list[str], Field(min_length=1)]
    pick: Literal["first", "last", "all"] = "first"
    missing: str = ""
    samples: list[LookupSampleTable] = []


class FormSampleTable(Table):
    """A row and the columns for which it is rejected; none for a row that is accepted."""

    row: dict[str, str]
    rejects: list[str] = []
    note: str | None = None


class FormTable(Table):
    """The pattern of each column of a form or record; `blank` lists the texts that mean nothing was entered."""

    about: str = ""
    tags: list[str] = []
    columns: Annotated[dict[str, MemberName], Field(min_length=1)]
    required: list[str] = []
    blank: list[str] = [""]
    samples: list[FormSampleTable] = []


class SuiteTableWithUses(SuiteTable):
    """A whole suite file that has uses."""

    rewrites: dict[Name, RewriteTable] = {}
    splits: dict[Name, SplitTable] = {}
    routes: dict[Name, RouteTable] = {}
    lookups: dict[Name, LookupTable] = {}
    forms: dict[Name, FormTable] = {}
