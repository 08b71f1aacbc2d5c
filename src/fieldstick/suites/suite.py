"""Suites as the rest of the package sees them: patterns and operations with their samples, ready to be judged."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.engines.protocol import DEFAULT_BUDGET_MS, DEFAULT_ENGINE

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping
    from decimal import Decimal

    from fieldstick.engines.protocol import Reach, Take
    from fieldstick.suites.model import FieldTable
    from fieldstick.suites.parts import Filling, PartScope
    from fieldstick.suites.places import Path

Kind = Literal["positive", "negative", "sample"]
"""Samples of patterns are positive or negative; those of operations are neither."""
Combination = Literal["any_of", "all_of", "none_of"]


class ExpectedMatch(Struct, frozen=True):
    """What a sample says of one of the matches; None where it says nothing."""

    text: str | None
    place: tuple[int, int] | None
    fields: Mapping[str, Any]


class Expected(Struct, frozen=True):
    """What a sample of an operation names beside its text.

    `rows` are those that the operation reads, where it reads rows; `outcome` is what must come of it.
    """

    outcome: Any
    rows: tuple[Mapping[str, str], ...] = ()


class Difference(Struct, frozen=True):
    """One thing that a sample names and that came out otherwise.

    `what` is field, absent, place, count, match or message, or what an operation makes: becomes, piece, kind, answer,
    column. `name` is the field or column, or the number of the match or piece.
    `expected` and `captured` are as a reader writes them; None for nothing at all.
    """

    what: str
    name: str | None
    expected: str | None
    captured: str | None


class Sample(Struct, frozen=True):
    """A text and what must come of it.

    `number` counts from 1 within the kind. `path` leads to the sample in its file. `row` is the row of the
    CSV table that the sample was read from, counted from 1 below its header; None for any other.
    `table_fields` tells that the expected values were read from a table, where an empty cell means that
    nothing was captured.
    """

    kind: Kind
    number: int
    text: str
    path: Path
    note: str | None = None
    fields: Mapping[str, Any] = field(default_factory=dict)
    absent: tuple[str, ...] = ()
    place: tuple[int, int] | None = None
    count: int | None = None
    matches: tuple[ExpectedMatch, ...] | None = None
    values: Mapping[str, str] = field(default_factory=dict)
    message: str | None = None
    row: int | None = None
    table_fields: bool = False
    expected: Expected | None = None
    """What a sample of an operation names; None for one of a pattern."""

    @property
    def expects(self) -> bool:
        """Whether it names anything that must agree beyond fitting."""
        return bool(self.fields or self.absent or self.place or self.matches is not None or self.count is not None)


class Allowance(Struct, frozen=True):
    """A hazard that a pattern accepts knowingly: its kind, or what several kinds begin with, and why."""

    hazard: str
    note: str = ""


class Pattern(Struct, frozen=True):
    """A named expression, or a combination of patterns (`combination`, `members`).

    `filling` is the expression with its parts filled in, still open for parameters; None for a combination.
    `members` are addressed by their own suite, so that a borrowed pattern keeps its parts and defaults.
    `own_budget` tells that it has a budget of its own, not that of the suite, and `own_flags` those of its flags that
    stand with it.
    """

    name: str
    filling: Filling | None = None
    about: str = ""
    combination: Combination | None = None
    members: tuple[Pattern, ...] = ()
    parameters: tuple[str, ...] = ()
    reach: Reach = "whole"
    take: Take = "first"
    flags: frozenset[str] = frozenset()
    message: str | None = None
    engines: tuple[str, ...] = (DEFAULT_ENGINE,)
    tags: tuple[str, ...] = ()
    budget_ms: int = DEFAULT_BUDGET_MS
    fields: Mapping[str, FieldTable] = {}
    samples: tuple[Sample, ...] = ()
    path: Path = ()
    allow: tuple[Allowance, ...] = ()
    own_budget: bool = False
    own_flags: frozenset[str] = frozenset()

    @property
    def engine(self) -> str:
        """The engine that `check` uses unless told otherwise."""
        return self.engines[0]

    def own_values(self, values: Mapping[str, str]) -> dict[str, str]:
        """Return those of some values that its parameters stand for."""
        return {name: values[name] for name in self.parameters if name in values}

    def with_reach(self, reach: Reach) -> Pattern:
        """Return the pattern with another reach."""
        return replace(self, reach=reach)

    def taking(self, take: Literal["first", "all"]) -> Pattern:
        """Return the pattern, and its members, taking its first match or all of them.

        One that takes its last match, or one by number, is left as it is.
        """
        if self.combination is not None:
            return replace(self, members=tuple(each.taking(take) for each in self.members))
        return self if self.take not in ("first", "all") else replace(self, take=take)


class Operation(Struct, frozen=True):
    """What a suite can do with text that fits, beside capturing; each kind of it is a module of `operations`.

    `name` is what it is known by in reports and baselines: its section of the suite file and its own name, as in
    `rewrites.blur-position`.
    """

    own_name: str
    about: str
    tags: tuple[str, ...]
    samples: tuple[Sample, ...]
    path: Path

    @property
    def section(self) -> str:
        """The section of the suite file that it stands in."""
        return str(self.path[0])

    @property
    def name(self) -> str:
        """Its section and its own name."""
        return f"{self.section}.{self.own_name}"

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """The patterns that it works with."""
        return ()

    @property
    def kinds(self) -> tuple[str, ...]:
        """The names of what it tells apart: the kinds of a route, the columns of a form; none for another."""
        return ()

    @property
    def engine(self) -> str:
        """The engine of its patterns; several may have several."""
        return next((pattern.engine for pattern in self.patterns), "python")

    @property
    def parameters(self) -> tuple[str, ...]:
        """The parameters of its patterns."""
        return tuple(dict.fromkeys(name for pattern in self.patterns for name in pattern.parameters))

    def made(self, sample: Sample) -> Any:
        """Return what it makes of a sample, as plain data.

        Raises BudgetSpent, EngineFailure, EngineUnusable and ExpressionError.
        """
        raise NotImplementedError

    def differences(self, expected: Any, made: Any) -> Iterator[Difference]:
        """Yield how what it made of a sample differs from what the sample expects."""
        raise NotImplementedError

    @property
    def reason(self) -> tuple[str, str]:
        """Why a sample fails that comes out otherwise: the reason, and words for it."""
        raise NotImplementedError


By = Literal["route", "patterns", "form"]

OVERALL = ""
"""The name under which bounds for all texts together are kept."""


class Bounds(Struct, frozen=True):
    """What a share or a count must be at least and at most; None for no bound. `path` leads to it in the file."""

    what: Literal["share", "count"]
    name: str
    least: Decimal | None
    most: Decimal | None
    path: Path

    def holds(self, found: Decimal) -> bool:
        """Whether a share (from 0 to 1) or a count lies within them."""
        return (self.least is None or found >= self.least) and (self.most is None or found <= self.most)


class Trial(Struct, frozen=True):
    """A run of a suite over a data file.

    `data` is the file as the suite names it, `location` where it lies. The texts are sorted by the route or judged by
    the form in `operation`, or tried with each of `patterns`. `reading` are the words of reading, `begins_record` the
    pattern of a line that begins a record. `values` are those of the patterns' parameters.
    """

    number: int
    data: str
    file: str
    location: str
    by: By
    operation: Operation | None
    patterns: tuple[Pattern, ...]
    bounds: tuple[Bounds, ...]
    path: Path
    reading: Mapping[str, Any] = {}
    begins_record: Pattern | None = None
    values: Mapping[str, str] = {}
    note: str | None = None

    @property
    def target(self) -> str:
        """What its texts are sorted by, in words."""
        if self.operation is not None:
            return f"{self.by} {self.operation.own_name}"
        return ", ".join(pattern.name for pattern in self.patterns)

    @property
    def key(self) -> str:
        """What a baseline knows it by: the data, how it is read, and what its texts are sorted by."""
        words = [f"{name} {value}" for name, value in sorted(self.reading.items())]
        if self.begins_record is not None:
            words.append(f"record_start {self.begins_record.name}")
        words += [f"{name}={value}" for name, value in sorted(self.values.items())]
        return "; ".join([self.data, self.target, *words])

    @property
    def used(self) -> tuple[Pattern, ...]:
        """The patterns that decide about its texts."""
        return self.operation.patterns if self.operation is not None else self.patterns

    @property
    def called(self) -> dict[str, Pattern]:
        """The patterns that decide about its texts, by kind, name, or column of the form."""
        if self.by == "form" and self.operation is not None:
            return dict(zip(self.operation.kinds, self.operation.patterns, strict=True))
        return {pattern.name: pattern for pattern in self.used}

    @property
    def names(self) -> tuple[str, ...]:
        """What shares and counts can be asked of: its kinds, its patterns, or the columns of its form."""
        if self.operation is not None:
            return self.operation.kinds
        return tuple(pattern.name for pattern in self.patterns)


class Suite(Struct, frozen=True, dict=True):
    """A suite file that was read and found right.

    `file` is how the user named it.
    """

    name: str
    about: str
    owner: str | None
    file: str
    location: str
    patterns: Mapping[str, Pattern]
    parts: Mapping[str, str]
    document: str
    scope: PartScope
    """Its parts, and those of the suites it borrows from."""
    trials: tuple[Trial, ...] = ()
    operations: Mapping[str, Operation] = field(default_factory=dict)
    """By section and name, as in `rewrites.blur-position`."""
    decided_share: float | None = None
    """Of what samples could decide of a pattern, the share that they must; None where nothing is asked."""

    @property
    def judged(self) -> tuple[Pattern | Operation, ...]:
        """All that has samples: the patterns, then the operations."""
        return (*self.patterns.values(), *self.operations.values())

    @cached_property
    def _lines(self) -> dict[Path, int]:
        from fieldstick.suites.places import locate

        return locate(self.document)

    def home_of_part(self, name: str) -> tuple[str, str]:
        """Return the file in which a part stands that is used here by `name`, and its own name there."""
        alias, dot, own = name.rpartition(".")
        borrowed = self.scope.borrowed.get(alias) if dot else None
        return (borrowed.name, own) if borrowed is not None else (self.file, own)

    def line_of(self, path: Path) -> int:
        """Return the line (from 1) where the value at `path`, or the nearest table around it, begins."""
        return line_of(self._lines, path)


def line_of(lines: Mapping[Path, int], path: Path) -> int:
    """Return the line of `path`, or of the nearest table around it; 0 for the whole document."""
    while path and path not in lines:
        path = path[:-1]
    return lines.get(path, 0)
