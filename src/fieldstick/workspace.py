"""Fieldstick from Python: load a suite, read texts with its patterns, check it.

Nothing here prints or exits; what goes wrong is raised as a `FieldstickError`.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeVar

from fieldstick.errors import UsageError, hint
from fieldstick.matching.matcher import Matcher, prepare
from fieldstick.runs.check import Choice, check_suites
from fieldstick.suites.loader import read_suite
from fieldstick.suites.uses import Form, Lookup, Rewrite, Route, Split, Use

if TYPE_CHECKING:
    import os
    from collections.abc import Iterator, Sequence

    from fieldstick.matching.forms import ReadyForm
    from fieldstick.matching.lookups import ReadyLookup
    from fieldstick.matching.rewriting import ReadyRewrite
    from fieldstick.matching.routing import ReadyRoute
    from fieldstick.matching.splitting import ReadySplit
    from fieldstick.runs.results import CheckResult
    from fieldstick.suites.suite import Suite

T = TypeVar("T", bound=Use)


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

    def pattern(self, name: str, **values: str) -> Matcher:
        """Return a pattern ready to read texts, its parameters standing for `values`.

        Raises UsageError when there is no such pattern or parameter, ExpressionError when its expression
        does not compile, EngineUnusable when its engine is not usable here.
        """
        key = (name, tuple(sorted(values.items())))
        if key not in self._ready:
            found = self.suite.patterns.get(name)
            if found is None:
                known = self.suite.patterns
                raise UsageError(f"the suite '{self.name}' has no pattern '{name}'{hint(name, known)}")
            self._ready[key] = prepare(found, values)
        return self._ready[key]

    def rewrite(self, name: str, **values: str) -> ReadyRewrite:
        """Return a rewrite ready to rewrite texts. Raises as `pattern` does."""
        from fieldstick.matching.rewriting import prepare_rewrite

        return prepare_rewrite(self._use("rewrites", name, Rewrite), values)

    def split(self, name: str, **values: str) -> ReadySplit:
        """Return a split ready to cut texts up. Raises as `pattern` does."""
        from fieldstick.matching.splitting import prepare_split

        return prepare_split(self._use("splits", name, Split), values)

    def route(self, name: str) -> ReadyRoute:
        """Return a route ready to name the kinds of texts. Raises as `pattern` does."""
        from fieldstick.matching.routing import prepare_route

        return prepare_route(self._use("routes", name, Route))

    def lookup(self, name: str, rows: Sequence[dict[str, str]]) -> ReadyLookup:
        """Return a lookup ready to find rows among `rows`. Raises UsageError when they lack a column."""
        from fieldstick.matching.lookups import ReadyLookup

        return ReadyLookup(self._use("lookups", name, Lookup), rows)

    def form(self, name: str) -> ReadyForm:
        """Return a form ready to judge records. Raises as `pattern` does."""
        from fieldstick.matching.forms import ReadyForm

        return ReadyForm(self._use("forms", name, Form))

    def _use(self, section: str, name: str, kind: type[T]) -> T:
        found = self.suite.uses.get(f"{section}.{name}")
        if not isinstance(found, kind):
            known = [use.own_name for use in self.suite.uses.values() if use.path[0] == section]
            raise UsageError(f"the suite '{self.name}' has no {section[:-1]} '{name}'{hint(name, known)}")
        return found


def load_suite(path: str | os.PathLike[str]) -> LoadedSuite:
    """Read a suite file and what it borrows.

    Raises SuiteFileError, whose `problems` list everything that is wrong with its line, or UsageError when
    there is no such file.
    """
    return LoadedSuite(read_suite(path))


def check(suite: LoadedSuite | str | os.PathLike[str], *, baseline: bool = True, jobs: int = 1) -> CheckResult:
    """Judge every sample of a suite and, with `baseline`, hold it against the baseline beside it.

    `jobs` is the number of processes to judge in.
    """
    loaded = suite if isinstance(suite, LoadedSuite) else load_suite(suite)
    return check_suites([loaded.suite], Choice(), with_baseline=baseline, jobs=jobs)
