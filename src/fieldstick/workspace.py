"""The suites of a folder, read once: what every face of Fieldstick asks for patterns, operations and checks.

An address or an expression, with what overrides it, becomes a pattern here and nowhere else. Nothing here prints or
exits; what goes wrong is raised as a `FieldstickError`.
"""

from __future__ import annotations

import os
import re
from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.errors import UsageError, hint
from fieldstick.lean import compiled_later
from fieldstick.operations import SECTIONS
from fieldstick.suites.finding import baseline_path, baselines_without_suite, find_suites, split_address
from fieldstick.suites.overrides import Overrides
from fieldstick.suites.parts import PartError, PartScope, fill
from fieldstick.suites.suite import Operation, Pattern

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence
    from contextlib import AbstractContextManager, ExitStack

    from fieldstick.comparing.trials import Progress
    from fieldstick.engines.protocol import Reach
    from fieldstick.matching.matcher import Matcher
    from fieldstick.runs.check import Choice
    from fieldstick.runs.executor import Executor
    from fieldstick.runs.gaps import PatternGaps
    from fieldstick.runs.results import CheckResult, Tolerable
    from fieldstick.runs.suite_hazards import SuiteHazards
    from fieldstick.suites.suite import Suite
    from fieldstick.suites.versions import Version

T = TypeVar("T", bound=Operation)

_ADDRESS = compiled_later(r"[^\s*+?()\[\]{}|^$]+:[^\W\d_][\w-]*")
_SUITE_KEY = r"^\s*suite\s*=\s*(?:\"([^\"]*)\"|'([^']*)')"

NO_PARTS = PartScope("", {}, {})


def looks_like_address(text: str) -> bool:
    """Tell whether a text looks like SUITE:NAME; one that does is never read as an expression."""
    return _ADDRESS.fullmatch(text) is not None and split_address(text)[1] is not None


class Chosen(Struct, frozen=True, dict=True):
    """The pattern that is meant, the suite it was found in, None for a bare expression, and its parameters' values."""

    pattern: Pattern
    suite: Suite | None = None
    values: Mapping[str, str] = {}
    column: str = ""
    """The column of a form that it judges; empty for any other."""

    @property
    def is_kept(self) -> bool:
        """Whether it is a pattern of a suite."""
        return self.suite is not None

    @cached_property
    def expression(self) -> str:
        """The expression for the engine, parts and values filled in; empty for a combination."""
        filling = self.pattern.filling
        return filling.text(self.values) if filling is not None else ""

    @property
    def written(self) -> str | None:
        """The expression before anything was filled in, None where that makes no difference."""
        filling = self.pattern.filling
        return filling.expression if filling is not None and filling.expression != self.expression else None

    @property
    def parts(self) -> dict[tuple[int, int], str]:
        """Where in the expression each part stands."""
        filling = self.pattern.filling
        return filling.part_spans(self.values) if filling is not None else {}

    @cached_property
    def matcher(self) -> Matcher:
        """The pattern ready to read texts. Raises ExpressionError and EngineUnusable."""
        from fieldstick.matching.prepare import prepare

        return prepare(self.pattern, self.values)

    @cached_property
    def here(self) -> Chosen:
        """The same as Python's engine reads it, which is the one that is explained and traced.

        Raises UsageError where its meaning to its own engine is not known here.
        """
        from fieldstick.drafting.read_here import is_foreign, read_here

        if not is_foreign(self.pattern):
            return self
        values = {} if self.pattern.combination is None else self.values
        return replace(self, pattern=read_here(self.pattern, self.values), values=values)


def bare_pattern(
    expression: str,
    scope: PartScope = NO_PARTS,
    *,
    name: str = "expression",
    verbose: bool = False,
    reach: Reach = "whole",
) -> Pattern:
    """Return an expression as a pattern that no suite keeps, the parts of a scope filled in.

    Raises UsageError for parts that are not there.
    """
    try:
        filling = fill(expression, scope, verbose=verbose)
    except PartError as error:
        where = "" if scope is not NO_PARTS else "; --suite FILE names the suite whose parts are meant"
        raise UsageError(f"{error}{where}") from None
    return Pattern(name, filling, parameters=tuple(sorted(filling.parameters)), reach=reach)


class Workspace:
    """The suites below a folder, the current one, each read once however often it is asked for."""

    def __init__(self) -> None:
        self._suites: dict[str, Suite] = {}

    @staticmethod
    def _read(files: Sequence[str]) -> list[Suite]:
        # An expression alone needs no suite, nor what reads one.
        from fieldstick.suites.loader import read_suites

        return read_suites(files, SECTIONS)

    def suites(self, paths: Sequence[str] = ()) -> list[Suite]:
        """Return the suites that `paths` name, or that lie below them, the current folder when none is given.

        Raises SuiteFileError with the mistakes of all of them, UsageError when there is none.
        """
        files = find_suites(paths)
        fresh = [file for file in files if file not in self._suites]
        self._suites |= zip(fresh, self._read(fresh), strict=True)
        return [self._suites[file] for file in files]

    def edited_suites(self, files: Sequence[str], edited: Mapping[str, str]) -> list[Suite]:
        """Return suites as they would be with other texts for some files, by their real paths.

        Raises SuiteFileError with everything that would be wrong with them.
        """
        from fieldstick.suites.loader import read_suites

        return read_suites(files, SECTIONS, edited=edited)

    def suite(self, name: str | os.PathLike[str]) -> Suite:
        """Return the suite of a path, or that has a name below the folder.

        Raises UsageError when there is none or several, SuiteFileError with everything that is wrong with it.
        """
        file = self._file_of(os.fspath(name))
        if file not in self._suites:
            (self._suites[file],) = self._read([file])
        return self._suites[file]

    def _file_of(self, name: str) -> str:
        if os.path.isfile(name) or name.endswith((".toml", os.sep)) or os.sep in name:
            return name
        found = [file for file, each in self._names.items() if each == name]
        if len(found) > 1:
            raise UsageError(f"several suites are named '{name}': {', '.join(found)}; give the path of one")
        if not found:
            known = sorted({each for each in self._names.values() if each is not None})
            raise UsageError(f"no suite here is named '{name}'{hint(name, known)}")
        return found[0]

    @cached_property
    def _names(self) -> dict[str, str | None]:
        """The name that each suite below the folder gives itself."""
        try:
            files = find_suites()
        except UsageError:
            return {}
        return {file: _name_in(file) for file in files}

    def pattern(
        self,
        what: str | None,
        overrides: Overrides = Overrides(),
        *,
        expression: str | None = None,
        one_of_several: bool = False,
    ) -> Chosen:
        """Return the pattern that is meant: `what` is SUITE:PATTERN, or else an expression, as `expression` always is.

        Of one of several patterns that take the same overrides, parameters and fields that it does not have are not
        asked after. Raises UsageError when neither or both are given, when an address names nothing, a parameter has
        no value, or there is no such parameter.
        """
        if (what is None) == (expression is None):
            raise UsageError("give a pattern as SUITE:PATTERN, or an expression with -e")
        if what is not None and looks_like_address(what):
            suite, pattern = self.pattern_as_kept(what)
            chosen = Chosen(overrides.on(pattern), suite, overrides.values_for(pattern))
        else:
            chosen = self._bare(what if what is not None else expression or "", overrides)
        return chosen if one_of_several else self._checked([chosen], overrides)[0]

    @staticmethod
    def _checked(chosen: list[Chosen], overrides: Overrides) -> list[Chosen]:
        overrides.check_parameters([each.pattern for each in chosen])
        if overrides.fields:
            for each in chosen:
                overrides.check_fields(each.matcher.field_names)
        return chosen

    def patterns(
        self,
        arguments: Sequence[str],
        overrides: Overrides = Overrides(),
        *,
        expression: str | None = None,
        bare_reach: Reach | None = None,
    ) -> tuple[list[Chosen], tuple[str, ...]]:
        """Tell the patterns that arguments begin with from the sources after them.

        The first argument is an address or an expression; further patterns are addresses. `bare_reach` is the reach
        of an expression for which none is asked. Raises UsageError as `pattern` does.
        """
        reach = overrides.reach or bare_reach
        bare = replace(overrides, reach=reach) if reach is not None else overrides
        if expression is not None:
            return [self.pattern(None, bare, expression=expression)], tuple(arguments)
        if not arguments:
            raise UsageError("give a pattern as SUITE:PATTERN, or an expression with -e")
        if not looks_like_address(arguments[0]):
            if os.path.exists(arguments[0]):
                raise UsageError(
                    f"'{arguments[0]}' is a file; a pattern as SUITE:PATTERN comes first, or an expression with -e"
                )
            return [self.pattern(arguments[0], bare)], tuple(arguments[1:])
        found: list[Chosen] = []
        for argument in arguments:
            if not looks_like_address(argument) or (found and os.path.exists(argument)):
                break
            suite, pattern = self.pattern_as_kept(argument)
            found.append(Chosen(overrides.on(pattern), suite, overrides.values_for(pattern)))
        return self._checked(found, overrides), tuple(arguments[len(found) :])

    def _bare(self, expression: str, overrides: Overrides) -> Chosen:
        scope = self.suite(overrides.suite_file).scope if overrides.suite_file is not None else NO_PARTS
        pattern = overrides.on(bare_pattern(expression, scope, verbose="verbose" in overrides.flags))
        return Chosen(pattern, None, overrides.values_for(pattern))

    def pattern_as_kept(self, address: str) -> tuple[Suite, Pattern]:
        """Return the pattern at an address with its suite, no parameter asked after. Raises UsageError if none is."""
        name, pattern = split_address(address)
        assert pattern is not None
        suite = self.suite(name)
        if pattern not in suite.patterns:
            kinds = [each.section for each in suite.operations.values() if each.own_name == pattern]
            also = f"; it is a {kinds[0].removesuffix('s')}" if kinds else hint(pattern, suite.patterns)
            raise UsageError(f"the suite '{name}' has no pattern '{pattern}'{also}")
        return suite, suite.patterns[pattern]

    def operation(self, address: str, kind: type[T], section: str, *, or_pattern: bool = False) -> T | None:
        """Return the operation at an address SUITE:NAME.

        With `or_pattern`, None where the address is that of a pattern, or the text is no address. Raises UsageError
        when it names nothing.
        """
        one = section.removesuffix("s")
        if not looks_like_address(address):
            if or_pattern:
                return None
            raise UsageError(f"'{address}' is no SUITE:{one.upper()}; give one")
        suite_name, name = split_address(address)
        suite = self.suite(suite_name)
        found = suite.operations.get(f"{section}.{name}")
        if isinstance(found, kind):
            return found
        if or_pattern and name in suite.patterns:
            return None
        known = [each.own_name for each in suite.operations.values() if each.section == section]
        if or_pattern:
            one, known = f"{one} or pattern", [*known, *suite.patterns]
        also = "; it is a pattern" if name in suite.patterns else hint(name or "", known)
        raise UsageError(f"the suite '{suite_name}' has no {one} '{name}'{also}")

    def versions(
        self,
        names: Sequence[str],
        expressions: Sequence[str],
        overrides: Overrides,
        stack: ExitStack,
    ) -> tuple[Version, Version]:
        """Return the two versions that are meant, older first; what a revision lays out goes when `stack` closes.

        Suite files, folders, revisions of git (of one alone the newer version is the current folder), two expressions,
        two patterns, or a pattern and an expression tried in its place. Raises UsageError for anything else.
        """
        if len(expressions) > 2 or len(names) + len(expressions) > 2 or not (names or expressions):
            raise UsageError("give two versions: suite files, folders, revisions, patterns, or expressions with -e")
        if expressions or all(looks_like_address(name) and not os.path.exists(name) for name in names):
            return self._pattern_versions(names, expressions, overrides)
        if overrides != Overrides(parameters=overrides.parameters):
            raise UsageError("patterns of suites are read as they are kept; --reach, --field and the like go with -e")
        from fieldstick.suites.versions import at_revision, is_revision, on_disk

        if len(names) == 1:
            if not is_revision(names[0]) and os.path.exists(names[0]):
                raise UsageError(f"'{names[0]}' is one version alone; give the other one too, or a revision")
            was = stack.enter_context(at_revision(names[0], SECTIONS))
            return was, on_disk(".", SECTIONS, name="the working tree")
        there = [os.path.exists(name) for name in names]
        beside = next((name for name, found in zip(names, there, strict=True) if found), ".")
        was, now = (
            on_disk(name, SECTIONS) if found else stack.enter_context(at_revision(name, SECTIONS, beside))
            for name, found in zip(names, there, strict=True)
        )
        return was, now

    def _pattern_versions(
        self, names: Sequence[str], expressions: Sequence[str], overrides: Overrides
    ) -> tuple[Version, Version]:
        from fieldstick.comparing.versions import suite_of
        from fieldstick.suites.versions import Version, on_disk

        if len(names) == 1 and len(expressions) == 1:
            if not looks_like_address(names[0]):
                raise UsageError(f"'{names[0]}' is no SUITE:PATTERN in whose place the expression could be tried")
            if overrides != Overrides(parameters=overrides.parameters):
                raise UsageError("the expression is tried as the pattern is kept; leave --reach, --field and the like")
            from fieldstick.suites.editing import with_expression

            suite, pattern = self.pattern_as_kept(names[0])
            if pattern.name not in suite.patterns or pattern.filling is None:
                raise UsageError(f"{names[0]} is made of patterns; try the expression in the place of one of those")
            edited = {os.path.realpath(suite.location): with_expression(suite.document, pattern.name, expressions[0])}
            # Others of this folder may borrow from the suite.
            here = {os.path.realpath(file) for file in self._names}
            place = "." if edited.keys() <= here else suite.file
            was, now = (
                on_disk(place, SECTIONS, name=names[0]),
                on_disk(place, SECTIONS, edited=edited, name="the expression"),
            )
            tried = next(each for each in now.suites.values() if os.path.realpath(each.location) in edited)
            _check_compiles(tried.patterns[pattern.name])
            return was, now
        if len(expressions) == 2:
            both = [self.pattern(None, overrides, expression=each, one_of_several=True).pattern for each in expressions]
            for each in both:
                _check_compiles(each)
            first, second = (suite_of(replace(each, name="expression")) for each in both)
            return Version("the first expression", {"": first}), Version("the second", {"": second})
        if len(names) != 2:
            raise UsageError("give the other version too: a second pattern, or an expression with -e")
        older, newer = (self.pattern_as_kept(name)[1] for name in names)
        first, second = suite_of(replace(older, name=newer.name)), suite_of(newer)
        return Version(names[0], {"": first}), Version(names[1], {"": second})

    def begins_record(self, what: str) -> Callable[[str], bool]:
        """Return what tells a line that begins a record: a pattern's address, or an expression that matches its start.

        Raises UsageError as `pattern` does.
        """
        kept = looks_like_address(what)
        matcher = self.pattern(what, Overrides() if kept else Overrides(reach="start")).matcher
        return lambda line: matcher.read(line).fits

    def hazards(self, suites: Sequence[Suite], engines: tuple[str, ...] = ()) -> SuiteHazards:
        """Return what is likely to bite later in suites, on the engines that patterns name and on further ones."""
        from fieldstick.runs.suite_hazards import suite_hazards

        return suite_hazards(suites, engines=engines)

    def gaps(
        self,
        suites: Sequence[Suite],
        wanted: Sequence[tuple[Suite, Pattern]],
        note: Callable[[int], None] | None = None,
    ) -> list[PatternGaps]:
        """Return what the samples of patterns leave open; those of others of the suites count for parts they share.

        `note` is told of each pattern that is done.
        """
        from fieldstick.runs.gaps import gaps_of

        return gaps_of(suites, wanted, note)

    def check(
        self,
        suites: Sequence[Suite],
        choice: Choice | None = None,
        *,
        baseline: bool = True,
        jobs: int = 1,
        progress: AbstractContextManager[Callable[[int], None] | None] | None = None,
        folders: Sequence[str] | None = None,
        tolerated: frozenset[Tolerable] = frozenset(),
        trials: bool = True,
        reading: Progress | None = None,
        hazards: bool = False,
        gaps: bool = False,
        executor: Executor | None = None,
    ) -> CheckResult:
        """Judge the chosen samples of suites and, with `baseline`, hold each suite against the one beside it.

        `jobs` is the number of processes; `progress` gives what is to be told of samples judged. Baselines in
        `folders` whose suites are gone are told of, and of what is otherwise than recorded some may be `tolerated`.
        The `trials` of suites that are chosen whole are run; `reading` makes what is told how far their data is read.
        With `hazards` those of all suites are looked for, when everything is chosen; with `gaps` it is found out how
        much of each pattern its samples decide. `executor` reads the data of trials, processes of this machine if none.
        Raises UsageError when the choice names nothing, or a baseline cannot be read.
        """
        from fieldstick.runs.check import Choice, check_suites, has_chosen_trials

        choice = choice or Choice()
        on_trial = {suite.file for suite in suites if trials and has_chosen_trials(suite, choice)}
        alone = baselines_without_suite(folders) if baseline and folders is not None and choice.is_everything else []
        recording = baseline and (alone or any(os.path.lexists(baseline_path(suite.location)) for suite in suites))
        notes = None
        if hazards and choice.is_everything:
            from fieldstick.runs.hazard_notes import hazard_notes

            notes = hazard_notes(suites)
        figures = None
        if gaps:
            from fieldstick.runs.gap_figures import gap_figures

            figures = gap_figures(suites)
        if not recording and not on_trial:
            checked = check_suites(suites, choice, jobs=jobs, progress=progress)
            return replace(checked, hazards=notes, gaps=figures)
        from fieldstick.comparing.baseline import held_against, left_baselines, read_baseline

        left = left_baselines(alone)
        recorded = {suite.file: read_baseline(suite) if baseline else None for suite in suites}
        result = check_suites(suites, choice, jobs=jobs, progress=progress)
        held = []
        for each in result.suites:
            found = recorded[each.suite.file]
            run = each.suite.file in on_trial
            if found is not None:
                # A suite that has no trial any more lost all of those that are recorded.
                seen = run or (trials and choice.is_everything and not each.suite.trials)
                each = held_against(each, found, partly=not choice.is_everything, with_trials=seen)
            if run:
                from fieldstick.comparing.trials import run_and_hold
                from fieldstick.runs.processes import Processes

                reader = executor or Processes(jobs if jobs > 1 else None)
                tried = run_and_hold(each.suite, found, executor=reader, progress=reading)
                each = replace(each, trials=tried)
            held.append(each)
        return replace(result, suites=tuple(held), left=left, tolerated=tolerated, hazards=notes, gaps=figures)


def _check_compiles(pattern: Pattern) -> None:
    """Raise ExpressionError for a pattern whose expression an engine refuses; parameters stand for their own names."""
    from fieldstick.matching.prepare import prepare

    prepare(pattern, {name: name for name in pattern.parameters})


def _name_in(file: str) -> str | None:
    with open(file, encoding="utf-8", errors="replace") as stream:
        found = re.search(_SUITE_KEY, stream.read(), re.MULTILINE)
    return (found[1] or found[2]) if found else None
