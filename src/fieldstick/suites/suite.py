"""Suites as the rest of the package sees them: patterns and operations with their samples, ready to be judged."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.engines.protocol import DEFAULT_BUDGET_MS, DEFAULT_ENGINE

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

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


class Pattern(Struct, frozen=True):
    """A named expression, or a combination of patterns (`combination`, `members`).

    `filling` is the expression with its parts filled in, still open for parameters; None for a combination.
    `members` are addressed by their own suite, so that a borrowed pattern keeps its parts and defaults.
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

    @property
    def engine(self) -> str:
        """The engine that `check` uses unless told otherwise."""
        return self.engines[0]

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


class Suite(Struct, frozen=True, dict=True):
    """A suite file that was read and found right.

    `file` is how the user named it; `left_unread` says which tables this version does not run.
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
    left_unread: tuple[str, ...] = ()
    operations: Mapping[str, Operation] = field(default_factory=dict)
    """By section and name, as in `rewrites.blur-position`."""

    @property
    def judged(self) -> tuple[Pattern | Operation, ...]:
        """All that has samples: the patterns, then the operations."""
        return (*self.patterns.values(), *self.operations.values())

    @cached_property
    def _lines(self) -> dict[Path, int]:
        from fieldstick.suites.places import locate

        return locate(self.document)

    def line_of(self, path: Path) -> int:
        """Return the line (from 1) where the value at `path`, or the nearest table around it, begins."""
        return line_of(self._lines, path)


def line_of(lines: Mapping[Path, int], path: Path) -> int:
    """Return the line of `path`, or of the nearest table around it; 0 for the whole document."""
    while path and path not in lines:
        path = path[:-1]
    return lines.get(path, 0)
