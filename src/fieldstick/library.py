"""Fieldstick from Python: a suite that was read, its patterns and operations ready to be used, and checked."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, TypeVar

from fieldstick.engines.protocol import FLAGS, REACHES
from fieldstick.errors import DataWarning, UsageError, hint
from fieldstick.operations import SECTIONS
from fieldstick.suites.loader import read_suites
from fieldstick.suites.suite import Operation
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    import os
    from collections.abc import Iterable, Iterator, Mapping, Sequence

    from fieldstick.analysis.danger import Danger
    from fieldstick.analysis.relation import Relation
    from fieldstick.data.source import ReadFrom
    from fieldstick.engines.protocol import Reach
    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import Result
    from fieldstick.matching.tally import Tally
    from fieldstick.operations.form import FormReader
    from fieldstick.operations.lookup import LookupReader
    from fieldstick.operations.rewrite import Rewriter
    from fieldstick.operations.route import Router
    from fieldstick.operations.split import Splitter
    from fieldstick.runs.results import CheckResult
    from fieldstick.runs.tables import Tabling
    from fieldstick.suites.suite import Pattern, Suite

T = TypeVar("T", bound=Operation)


class ReadyPattern:
    """A pattern ready to read: one text, many, or what a source or another program's table holds.

    What many texts are read from is a source, by its path or URL (a `str` or a path; with `*` or `?` for several), and
    the words of reading as a suite's trials have them (`column`, `as_`, `rows`, `table`, `query`, `delimiter`, `quote`,
    `encoding`, `undecodable`, `whole`, `record_start`, `longest`); or texts: a list, anything that goes through texts
    one by one, and whatever hands itself over by the Arrow PyCapsule interface, such as PyArrow's arrays and the series
    of pandas and Polars, or their tables and frames with the `column` named. None and null are no text. What was not
    read as asked is warned of (`DataWarning`).
    """

    def __init__(self, matcher: Matcher) -> None:
        self.matcher = matcher

    @property
    def pattern(self) -> Pattern:
        """The pattern as the suite has it."""
        return self.matcher.pattern

    @property
    def field_names(self) -> tuple[str, ...]:
        """The fields that it can capture."""
        return self.matcher.field_names

    def read(self, text: str) -> Result:
        """Read one text: whether the pattern fits, and what it captures.

        Raises BudgetSpent when the text costs more than the pattern's budget, EngineFailure when the engine breaks
        down on it.
        """
        return self.matcher.read(text)

    def read_many(self, texts: Sequence[str]) -> list[Result]:
        """Read each of the texts; one that spends its budget does not fit, for the reason `gave-up`."""
        return self.matcher.read_many(texts)

    def fits(self, source_or_texts: Any, **reading: Any) -> Any:
        """Tell of each text whether the pattern fits, as a `pyarrow.BooleanArray`.

        Null for a text that is null, or that spent its budget. Raises UsageError as `table` does.
        """
        from fieldstick.runs.tables import fitting

        sources = _read_from(source_or_texts, reading)
        found, tally = fitting(self.matcher, sources)
        _warn(sources, tally)
        return found

    def table(
        self,
        source_or_texts: Any,
        *,
        with_place: bool = False,
        every_text: bool = False,
        types: Mapping[str, Any] | None = None,
        **reading: Any,
    ) -> Any:
        """Return a row for each match that is taken, as a `pyarrow.Table` with a column a field.

        Each column has the narrowest type that holds all its values exactly, or the Arrow type that `types` names for
        it; what is absent is null. With `with_place` the columns `source`, `line` (from 1) and `start` and `end` (code
        points into the text) stand before the others. With `every_text` a text that does not fit has a row of nulls, so
        that rows stand beside the texts they come from where each has one match.

        Raises UsageError for what cannot be read, for a column that is not there, and for values that a type in
        `types` does not hold.
        """
        sources = _read_from(source_or_texts, reading)
        tabling = self._tabling(sources, with_place, every_text, types)
        found = tabling.whole()
        _warn(sources, tabling.tally)
        return found

    def batches(
        self,
        source_or_texts: Any,
        *,
        with_place: bool = False,
        every_text: bool = False,
        types: Mapping[str, Any] | None = None,
        **reading: Any,
    ) -> Any:
        """Return the rows of `table` as a `pyarrow.RecordBatchReader`, read as it is read from, in flat memory.

        The types are settled before all values are seen: 64 bits for integers, `decimal128(38, 18)`, and timestamps
        with an offset from UTC or without one as the first texts have them; `types` says others. A value that its type
        does not hold raises UsageError while it is read.
        """
        sources = _read_from(source_or_texts, reading)
        tabling = self._tabling(sources, with_place, every_text, types)
        made = tabling.stream()

        def going() -> Iterator[Any]:
            yield from made
            _warn(sources, tabling.tally)

        return type(made).from_batches(made.schema, going())

    def _tabling(
        self, sources: Sequence[ReadFrom], with_place: bool, every_text: bool, types: Mapping[str, Any] | None
    ) -> Tabling:
        from fieldstick.runs.tables import TableOptions, Tabling

        return Tabling(self.matcher, sources, TableOptions(with_place, every_text, types or {}))


def _read_from(given: Any, reading: Mapping[str, Any]) -> Sequence[ReadFrom]:
    """Return what texts are read from. Raises UsageError for what is neither a source nor texts."""
    import os

    from fieldstick.data.given_texts import GivenTexts, is_arrow
    from fieldstick.data.read_options import READING, asked_options, check_text_is_named
    from fieldstick.data.source import open_sources

    words = {name.removesuffix("_"): value for name, value in reading.items()}
    known = (*READING, "record_start")
    for word in words:
        if word not in known:
            raise UsageError(f"there is no word of reading '{word}'{hint(word, known)}")
    if isinstance(given, str | os.PathLike):
        start = words.get("record_start")
        options = asked_options(words, Workspace().begins_record(start) if start is not None else None, str)
        check_text_is_named(options, str)
        if options.columns:
            raise UsageError("column: one column is read here; read several one after the other")
        return open_sources((os.fspath(given),), options)
    if not (is_arrow(given) or hasattr(given, "__iter__")):
        raise UsageError(f"a source or texts are wanted, and this is {type(given).__name__}")
    if beside := sorted(words.keys() - {"column"}):
        raise UsageError(f"{', '.join(beside)}: that says how a source is read, and these are texts")
    return [GivenTexts(given, words.get("column"))]


def _warn(sources: Sequence[ReadFrom], tally: Tally) -> None:
    """Warn of what was not read as asked."""
    import warnings

    from fieldstick.reporting.source_words import source_words
    from fieldstick.reporting.tally_words import given_up_words

    found = [f"{source.name}: {each}" for source in sources for each in source_words(source)]
    given_up = given_up_words(tally)
    for words in (*found, *([given_up] if given_up else ())):
        warnings.warn(words, DataWarning, stacklevel=3)


class LoadedSuite:
    """A suite that was read, its patterns made ready when they are first asked for."""

    def __init__(self, suite: Suite) -> None:
        self.suite = suite
        self._ready: dict[tuple[str, tuple[tuple[str, str], ...]], ReadyPattern] = {}

    @property
    def name(self) -> str:
        """The name the suite gives itself."""
        return self.suite.name

    def __iter__(self) -> Iterator[str]:
        """Iterate over the names of the patterns, in the file's order."""
        return iter(self.suite.patterns)

    def pattern(self, name: str, /, **values: str) -> ReadyPattern:
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
            self._ready[key] = ReadyPattern(prepare(found, values))
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
