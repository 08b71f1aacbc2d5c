"""Fieldstick from Python: a suite that was read, its patterns and operations ready to be used, and checked."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeVar

from fieldstick.engines.protocol import FLAGS, REACHES
from fieldstick.errors import UsageError, hint
from fieldstick.operations import SECTIONS
from fieldstick.suites.loader import read_suites
from fieldstick.suites.suite import Operation
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    import os
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.analysis.danger import Danger
    from fieldstick.analysis.relation import Relation
    from fieldstick.engines.protocol import Reach
    from fieldstick.matching.matcher import Matcher
    from fieldstick.operations.form import FormReader
    from fieldstick.operations.lookup import LookupReader
    from fieldstick.operations.rewrite import Rewriter
    from fieldstick.operations.route import Router
    from fieldstick.operations.split import Splitter
    from fieldstick.runs.results import CheckResult
    from fieldstick.suites.suite import Suite

T = TypeVar("T", bound=Operation)


class LoadedSuite:
    """A suite that was read, its patterns made ready when they are first asked for."""

    def __init__(self, suite: Suite) -> None:
        self.suite = suite
        self._ready: dict[tuple[str, tuple[tuple[str, str], ...]], Matcher] = {}

    @property
    def name(self) -> str:
        """The name the suite gives itself."""
        return self.suite.name

    def __iter__(self) -> Iterator[str]:
        """Iterate over the names of the patterns, in the file's order."""
        return iter(self.suite.patterns)

    def pattern(self, name: str, /, **values: str) -> Matcher:
        """Return a pattern ready to read texts, its parameters standing for `values`.

        Raises UsageError when there is no such pattern or parameter, ExpressionError when its expression
        does not compile, EngineUnusable when its engine is not usable here.
        """
        from fieldstick.matching.prepare import prepare

        key = (name, tuple(sorted(values.items())))
        if key not in self._ready:
            found = self.suite.patterns.get(name)
            if found is None:
                known = self.suite.patterns
                raise UsageError(f"the suite '{self.name}' has no pattern '{name}'{hint(name, known)}")
            self._ready[key] = prepare(found, values)
        return self._ready[key]

    def rewrite(self, name: str, /, **values: str) -> Rewriter:
        """Return a rewrite ready to rewrite texts. Raises as `pattern` does."""
        from fieldstick.operations.rewrite import Rewrite, prepare_rewrite

        return prepare_rewrite(self._operation("rewrites", name, Rewrite), values)

    def split(self, name: str, /, **values: str) -> Splitter:
        """Return a split ready to cut texts up. Raises as `pattern` does."""
        from fieldstick.operations.split import Split, prepare_split

        return prepare_split(self._operation("splits", name, Split), values)

    def route(self, name: str) -> Router:
        """Return a route ready to name the kinds of texts. Raises as `pattern` does."""
        from fieldstick.operations.route import Route, prepare_route

        return prepare_route(self._operation("routes", name, Route))

    def lookup(self, name: str, rows: Sequence[dict[str, str]]) -> LookupReader:
        """Return a lookup ready to find rows among `rows`. Raises UsageError when they lack a column."""
        from fieldstick.operations.lookup import Lookup, LookupReader

        return LookupReader(self._operation("lookups", name, Lookup), rows)

    def form(self, name: str) -> FormReader:
        """Return a form ready to judge records. Raises as `pattern` does."""
        from fieldstick.operations.form import Form, FormReader

        return FormReader(self._operation("forms", name, Form))

    def _operation(self, section: str, name: str, kind: type[T]) -> T:
        found = self.suite.operations.get(f"{section}.{name}")
        if not isinstance(found, kind):
            known = [each.own_name for each in self.suite.operations.values() if each.section == section]
            raise UsageError(f"the suite '{self.name}' has no {section[:-1]} '{name}'{hint(name, known)}")
        return found


def load_suite(path: str | os.PathLike[str]) -> LoadedSuite:
    """Read a suite file and what it borrows.

    Raises SuiteFileError, whose `problems` list everything that is wrong with its line, or UsageError when
    there is no such file.
    """
    (suite,) = read_suites([path], SECTIONS)
    return LoadedSuite(suite)


def check(suite: LoadedSuite | str | os.PathLike[str], *, baseline: bool = True, jobs: int = 1) -> CheckResult:
    """Judge every sample of a suite and, with `baseline`, hold it against the baseline beside it.

    `jobs` is the number of processes to judge in.
    """
    loaded = suite if isinstance(suite, LoadedSuite) else load_suite(suite)
    return Workspace().check([loaded.suite], baseline=baseline, jobs=jobs)


def relation(first: str, second: str, *, reach: Reach = "whole", flags: Iterable[str] = ()) -> Relation:
    """Return how the texts that two expressions take within `reach` relate, proven, with shortest texts that show it.

    `flags` are those of both (`ignore-case`, `multiline`, `dotall`, `verbose`, `ascii`). The answer is `undecided`,
    with the reason, where no proof is to be had; every text in it was confirmed by the engine. Raises UsageError for a
    reach or a flag that there is not, SyntaxFault for what is no expression.
    """
    from fieldstick.analysis.automaton.asked import Reading
    from fieldstick.analysis.relation import relation_of

    asked = _reading_words(reach, flags)
    return relation_of(Reading(first, reach, asked), Reading(second, reach, asked))


def danger(expression: str, *, reach: Reach = "whole", flags: Iterable[str] = ()) -> Danger:
    """Return how the cost of an expression grows with the text, at worst: `linear`, `polynomial` with its `degree`,
    `exponential`, or `unknown` with the `reason`.

    `text(n)` of it gives a text, of n turns of what it repeats, that shows it: the engine was run on such texts, and
    took so long. Raises UsageError for a reach or a flag that there is not, SyntaxFault for what is no expression.
    Method: Weideman et al., "Analyzing matching time behavior of backtracking regular expression matchers", 2016.
    """
    from fieldstick.analysis.automaton.asked import Reading
    from fieldstick.analysis.danger import danger_of

    return danger_of(Reading(expression, reach, _reading_words(reach, flags)))


def _reading_words(reach: str, flags: Iterable[str]) -> frozenset[str]:
    """Return the flags as a set. Raises UsageError for a reach or a flag that there is not."""
    if reach not in REACHES:
        raise UsageError(f"there is no reach '{reach}'{hint(reach, REACHES)}")
    asked = frozenset(flags)
    for flag in sorted(asked):
        if flag not in FLAGS:
            raise UsageError(f"there is no flag '{flag}'{hint(flag, FLAGS)}")
    return asked
