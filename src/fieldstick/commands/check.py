"""`check`: every pattern against its samples."""

from __future__ import annotations

import gc
import os
import re
import time
from typing import TYPE_CHECKING

import click
from msgspec import Struct

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.progress import byte_progress, sample_progress
from fieldstick.commands.rendering import (
    FORMATS,
    notes_for,
    parse_reports,
    print_check,
    write_problems,
    write_reports,
)
from fieldstick.commands.work_options import cluster_at, cluster_option
from fieldstick.errors import EXIT_ENGINE, EXIT_FAILED, EXIT_PASSED, SuiteFileError, UsageError
from fieldstick.runs.check import Choice
from fieldstick.runs.results import TOLERABLE
from fieldstick.syntax.scan import NAME
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence
    from contextlib import AbstractContextManager

    from fieldstick.comparing.history import History
    from fieldstick.runs.executor import Executor
    from fieldstick.runs.results import CheckResult, Tolerable
    from fieldstick.suites.suite import Suite


@headed_command(short_help="Run every pattern against its samples.")
@click.argument("paths", nargs=-1, metavar="[PATH]...")
@heading("What is read")
@option("--only", multiple=True, metavar="SUITE:PATTERN", help="Check this pattern (or SUITE) alone. Repeatable.")
@option("--tag", "tags", multiple=True, metavar="TAG", help="Check patterns with this tag alone. Repeatable.")
@heading("What is written")
@option("--format", "form", type=click.Choice(FORMATS), default="text", show_default=True, help="What to print.")
@option(
    "--report",
    "reports",
    multiple=True,
    metavar="KIND=FILE",
    help="Also write a report of this kind to FILE, - for standard output. Repeatable.",
)
@option("--record", "database", metavar="DATABASE", help="Add the run to a SQLite file, or a PostgreSQL URL.")
@heading("How")
@option(
    "--engine",
    "engines",
    multiple=True,
    metavar="E",
    help="Judge on this engine, not on those that each pattern names; all for every one that is usable. Repeatable.",
)
@option(
    "--rendered", is_flag=True, help="Write each expression for the other engines first, so that it means the same."
)
@option("--no-baseline", is_flag=True, help="Do not hold the suites against their baselines.")
@option(
    "--tolerate",
    multiple=True,
    type=click.Choice(TOLERABLE),
    help="Let pass what has changed, or is gone, since the baseline. Repeatable.",
)
@option("--no-trials", is_flag=True, help="Leave out the trials, which read whole data files.")
@option("--gaps", is_flag=True, help="Say how much of each pattern its samples decide.")
@option("--watch", "watching", is_flag=True, help="Check again what a saved file touches, until interrupted.")
@option(
    "--jobs",
    type=click.IntRange(min=1),
    default=1,
    show_default=True,
    metavar="N",
    help="Judge in N processes.",
)
@cluster_option
def command(
    paths: tuple[str, ...],
    only: tuple[str, ...],
    tags: tuple[str, ...],
    form: str,
    reports: tuple[str, ...],
    database: str | None,
    engines: tuple[str, ...],
    rendered: bool,
    no_baseline: bool,
    tolerate: tuple[Tolerable, ...],
    no_trials: bool,
    gaps: bool,
    watching: bool,
    jobs: int,
    cluster: str | None,
) -> int:
    """Run every pattern against its positive and negative samples, and every trial over its data.

    Finds *.suite.toml below each PATH (the current folder when none is given), judges every sample, and holds
    the suites against their baselines.

    A field, place, type or member that changed since then fails the check, and so does a sample that is gone.
    Record what is meant with 'fieldstick baseline', or let it pass with --tolerate.

    A pattern that names several engines is judged on each: the first gives outcomes and baseline, and where another
    reads a sample otherwise, both readings are drawn. A sample has to pass on all of them. An engine that is not usable
    here is named; --engine asks for one, and then it has to be. It leaves baselines and trials alone.

    With --gaps it also fails where samples decide less of a pattern than its suite asks for (decided_share).

    Exit status: 0 all pass, as recorded, 1 a sample failed, timed out, could not be judged, changed or is gone,
    2 the command or a file is wrong, 3 an engine that was asked for is not usable here.
    """
    for path in paths:
        if re.fullmatch(f"{NAME}(:{NAME})?", path) and not os.path.exists(path):
            raise UsageError(f"{path}: there is no such file or folder; --only {path} checks what has that name")
    wanted = parse_reports(reports)
    choice = Choice(only, tags, engines_named(engines), rendered)
    settings = Settings(
        choice,
        not no_baseline and not engines,
        jobs,
        frozenset(tolerate),
        not no_trials and not engines,
        gaps,
        cluster_at(cluster) if cluster is not None else None,
    )
    if watching:
        if form != "text" or wanted or database is not None:
            raise UsageError("--watch prints text alone; leave --format, --report and --record")
        from fieldstick.commands.watching import watch

        watch(paths, settings.check)
    # Reading makes many small objects that all stay: looking for garbage among them is time lost.
    gc.disable()
    history = _history(database)
    started = time.perf_counter()
    workspace = Workspace()
    try:
        suites = workspace.suites(paths)
    except SuiteFileError as error:
        write_problems(error, form, wanted)
        raise
    samples = sum(len(pattern.samples) for suite in suites for pattern in suite.judged)
    result = settings.check(workspace, suites, paths, sample_progress(samples))
    notes_for(result)
    if not result.checked:
        raise UsageError("nothing was checked: no pattern here has a sample")
    print_check(result, form)
    write_reports(result, wanted)
    if history is not None:
        from fieldstick.comparing.history import figures_of

        history.record(figures_of(result, time.perf_counter() - started))
    return _status(result)


def engines_named(names: Sequence[str]) -> tuple[str, ...]:
    """Return the engines that names stand for, each once, the first named first.

    Raises EngineUnusable for one that there is not, or that was asked for and is not usable here.
    """
    if not names:
        return ()
    from fieldstick.engines.registry import ENGINES, engine_named, why_unusable

    found: list[str] = []
    for name in names:
        if name == "all":
            found += [each.name for each in ENGINES if why_unusable(each.name) is None]
        else:
            engine_named(name).version()
            found.append(name)
    return tuple(dict.fromkeys(found))


class Settings(Struct, frozen=True):
    """How suites are checked, as the options ask for."""

    choice: Choice
    baseline: bool
    jobs: int
    tolerated: frozenset[Tolerable]
    trials: bool
    gaps: bool = False
    executor: Executor | None = None

    def check(
        self,
        workspace: Workspace,
        suites: Sequence[Suite],
        folders: Sequence[str] | None = None,
        progress: AbstractContextManager[Callable[[int], None] | None] | None = None,
    ) -> CheckResult:
        """Check suites; baselines in `folders` whose suites are gone are told of."""
        return workspace.check(
            suites,
            self.choice,
            baseline=self.baseline,
            jobs=self.jobs,
            progress=progress,
            folders=folders,
            tolerated=self.tolerated,
            trials=self.trials,
            reading=byte_progress,
            hazards=True,
            gaps=self.gaps,
            executor=self.executor,
        )


def _history(database: str | None) -> History | None:
    """Return the database that the run is added to; that it cannot be used is known before anything is checked."""
    if database is None:
        return None
    from fieldstick.comparing.history import History

    return History(database)


def _status(result: CheckResult) -> int:
    if result.engine_unusable:
        return EXIT_ENGINE
    return EXIT_PASSED if result.all_well else EXIT_FAILED
