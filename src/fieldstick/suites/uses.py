"""What a suite can do with fitting text beside capturing: rewrites, splits, routes, lookups, forms.

Each has samples of its own, which are judged like those of patterns. `name` is what it is known by in reports and
baselines: its section and its own name, as in `rewrites.blur-position`.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fieldstick.suites.places import Path
    from fieldstick.suites.suite import Pattern, Sample
    from fieldstick.suites.templates import Template

SECTIONS = ("rewrites", "splits", "routes", "lookups", "forms")
"""The sections of a suite file that hold uses, in the order in which they are reported."""

Pick = Literal["first", "last", "all"]
Answer = dict[str, str]
"""What a lookup gives of one row, by column."""


class Use(Struct, frozen=True):
    """What every use has. `parameters` are those of its patterns."""

    own_name: str
    about: str
    tags: tuple[str, ...]
    samples: tuple[Sample, ...]
    path: Path

    @property
    def name(self) -> str:
        """Its section and its own name."""
        return f"{self.path[0]}.{self.own_name}"

    @property
    def engine(self) -> str:
        """The engine of its patterns; several may have several."""
        return next((pattern.engine for pattern in self.patterns), "python")

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """The patterns that it uses."""
        return ()

    @property
    def parameters(self) -> tuple[str, ...]:
        """The parameters of its patterns."""
        return tuple(dict.fromkeys(name for pattern in self.patterns for name in pattern.parameters))


class Rewrite(Use, frozen=True):
    """Puts a template's text in place of each match, or of the first one; or does several rewrites in order.

    `steps` is empty for a rewrite of its own, which has `pattern` and `template`.
    """

    pattern: Pattern | None = None
    template: Template | None = None
    times: Literal["all", "first"] | None = None
    steps: tuple[Rewrite, ...] = ()

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Use.patterns`."""
        own = (self.pattern,) if self.pattern is not None else ()
        return own + tuple(pattern for step in self.steps for pattern in step.patterns)


class Split(Use, frozen=True):
    """Cuts a text up at each match of its pattern."""

    pattern: Pattern | None = None
    keep_separators: bool = False
    drop_empty: bool = False

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Use.patterns`."""
        return (self.pattern,) if self.pattern is not None else ()


class Route(Use, frozen=True):
    """Names the kind of a text: the first pattern that fits."""

    order: tuple[Pattern, ...] = ()
    otherwise: str = "unknown"

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Use.patterns`."""
        return self.order

    @property
    def kinds(self) -> tuple[str, ...]:
        """The kinds in order, the one for all other texts last."""
        return (*(pattern.name for pattern in self.order), self.otherwise)


class Lookup(Use, frozen=True):
    """Finds the rows whose `column` fits the pattern, and gives other columns of them."""

    pattern: Pattern | None = None
    column: str = ""
    give: tuple[str, ...] = ()
    pick: Pick = "first"
    missing: str = ""

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Use.patterns`."""
        return (self.pattern,) if self.pattern is not None else ()


class Form(Use, frozen=True):
    """The pattern of each column of a record. A text of `blank`, or of blanks alone, means nothing was entered."""

    columns: tuple[tuple[str, Pattern], ...] = ()
    required: tuple[str, ...] = ()
    blank: tuple[str, ...] = ("",)

    @property
    def patterns(self) -> tuple[Pattern, ...]:
        """See `Use.patterns`."""
        return tuple(pattern for _, pattern in self.columns)


class Expected(Struct, frozen=True):
    """What a sample of a use names beside its text.

    `rows` are those that a lookup or form reads; `outcome` is what must come of it: a text, pieces, a kind, answers
    or the rejected columns.
    """

    outcome: Any
    rows: tuple[Mapping[str, str], ...] = ()
