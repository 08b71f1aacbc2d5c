"""Suites as the rest of the package sees them: patterns ready to be compiled, samples ready to be judged."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct, field

from fieldstick.suites.places import Path, locate

if TYPE_CHECKING:
    from collections.abc import Mapping
    from pathlib import Path as FilePath

    from fieldstick.engines.protocol import Reach, Take
    from fieldstick.suites.model import FieldTable
    from fieldstick.suites.parts import Filling
    from fieldstick.suites.uses import Expected, Use

Kind = Literal["positive", "negative", "sample"]
"""Samples of patterns are positive or negative; those of uses are neither."""
Combination = Literal["any_of", "all_of", "none_of"]


class ExpectedMatch(Struct, frozen=True):
    """What a sample says of one of the matches; None where it says nothing."""

    text: str | None
    place: tuple[int, int] | None
    fields: Mapping[str, Any]


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
    """What a sample of a use names; None for one of a pattern."""

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
    about: str
    filling: Filling | None
    combination: Combination | None
    members: tuple[Pattern, ...]
    parameters: tuple[str, ...]
    reach: Reach
    take: Take
    flags: frozenset[str]
    message: str | None
    engines: tuple[str, ...]
    tags: tuple[str, ...]
    budget_ms: int
    fields: Mapping[str, FieldTable]
    samples: tuple[Sample, ...]
    path: Path

    @property
    def engine(self) -> str:
        """The engine that `check` uses unless told otherwise."""
        return self.engines[0]


class Suite(Struct, frozen=True, dict=True):
    """A suite file that was read and found right.

    `file` is how the user named it; `left_unread` says which tables this version does not run.
    """

    name: str
    about: str
    owner: str | None
    file: str
    location: FilePath
    patterns: Mapping[str, Pattern]
    parts: Mapping[str, str]
    document: str = field()
    left_unread: tuple[str, ...] = ()
    uses: Mapping[str, Use] = field(default_factory=dict)
    """Rewrites, splits, routes, lookups and forms, by section and name, as in `rewrites.blur-position`."""

    @property
    def judged(self) -> tuple[Pattern | Use, ...]:
        """All that has samples: the patterns, then the uses."""
        return (*self.patterns.values(), *self.uses.values())

    @cached_property
    def _lines(self) -> dict[Path, int]:
        return locate(self.document)

    def line_of(self, path: Path) -> int:
        """Return the line (from 1) where the value at `path`, or the nearest table around it, begins."""
        return line_of(self._lines, path)


def line_of(lines: Mapping[Path, int], path: Path) -> int:
    """Return the line of `path`, or of the nearest table around it; 0 for the whole document."""
    while path and path not in lines:
        path = path[:-1]
    return lines.get(path, 0)
