"""`rewrite`: something in place of each match; previewed unless told where to write."""

from __future__ import annotations

import os
import shutil
from contextlib import ExitStack
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

import click
from msgspec.structs import replace

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option, show_option
from fieldstick.commands.output_options import APPEND, WRITTEN_HEADING, OutputOptions
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say, tell
from fieldstick.commands.source_options import columns_options
from fieldstick.commands.sources import kept_whole, sources_of
from fieldstick.commands.work_options import work_options
from fieldstick.data.delimited import delimiter_of
from fieldstick.data.passed_on import PassedOn
from fieldstick.data.sinks import FORMS
from fieldstick.data.text_file import TextFile
from fieldstick.errors import EXIT_FAILED, UsageError
from fieldstick.files import put_in_place
from fieldstick.operations.rewrite import Rewrite, RewriteJob, Rewriter, RewriteTally, TableForm, prepare_rewrite
from fieldstick.reporting.tally_words import whole_words
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.work_report import rewrite_words, rewritten_report
from fieldstick.suites.templates import read_template
from fieldstick.workspace import Workspace, looks_like_address

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.commands.work_options import WorkOptions
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.sinks import Form
    from fieldstick.data.source import Source
    from fieldstick.runs.executor import Executor
    from fieldstick.suites.overrides import Overrides

BACKUP = ".before"


@headed_command(short_help="Put something in place of each match; preview it first.")
@click.argument("arguments", nargs=-1, metavar="SUITE:REWRITE...|SUITE:PATTERN|EXPRESSION SOURCE...")
@pattern_options
@option("--with", "template", metavar="TEMPLATE", help="With a pattern: what stands in place of each match.")
@option("--times", type=click.Choice(["all", "first"]), help="Which matches of a text.  [default: all]")
@columns_options
@WRITTEN_HEADING
@option("--to", metavar="FILE", help="Write what the sources become to FILE; - for standard output.")
@option(
    "--format", "form", type=click.Choice(FORMS), help="Write rows in this form.  [default: as FILE's ending tells]"
)
@APPEND
@option("--in-place", is_flag=True, help="Replace each source, all of them or none.")
@option("--no-backup", is_flag=True, help=f"With --in-place, keep no copy as NAME{BACKUP}.")
@heading("How")
@show_option("Texts", 8)
@work_options
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    template: str | None,
    times: str | None,
    to: str | None,
    form: Form | None,
    append: bool,
    in_place: bool,
    no_backup: bool,
    show: int,
    read_options: ReadOptions,
    work: WorkOptions,
) -> int:
    """Rewrite the texts of each SOURCE: with rewrites of a suite in order, or a pattern and --with TEMPLATE.

    Without --to or --in-place nothing is written: the first texts that would change are shown, before and after.
    A template names fields, as in '{plot}'; {field:last 4} keeps the end, {field:mask but last 4} masks the rest.

    Exit status: 0 all was read, 1 something was not read as asked (it is named), 2 the command or a file is wrong.
    """
    if to is not None and in_place:
        raise UsageError("give --to FILE or --in-place, not both")
    rewriter, names = _rewriter(arguments, expression, overrides, template, times)
    # A text that is left out here would be lost.
    sources = sources_of(
        names, replace(read_options, passes_on=True, everything_wanted=True, raws_wanted=bool(read_options.columns))
    )
    output = OutputOptions(None if to == "-" else to, form, append=append)
    if to is None and (append or form is not None):
        raise UsageError("--append and --format go with --to FILE")
    as_rows = to is not None and output.passes_rows(sources)
    table = _table(sources, read_options, as_rows=as_rows or (to is None and not in_place))
    executor = work.executor()
    if in_place:
        return _in_place(rewriter, sources, table, work, backup=not no_backup)
    if to is not None:
        tally = _written(rewriter, sources, table, output, executor, as_rows=as_rows)
    else:
        tally = _previewed(rewriter, sources, table, show, executor)
    _say(rewriter, tally, written=to is not None)
    return work.close("rewrite", sources, [("rewrite", tally)], written=[to])


def _say(rewriter: Rewriter, tally: RewriteTally, *, written: bool) -> None:
    say(rewrite_words(tally, written))
    reaches = {step.matcher.pattern.reach for step in rewriter.steps}
    if (hint := whole_words("whole" if reaches == {"whole"} else "", tally)) is not None:
        say(hint)


def _rewriter(
    arguments: tuple[str, ...], expression: str | None, overrides: Overrides, template: str | None, times: str | None
) -> tuple[Rewriter, tuple[str, ...]]:
    """Return the rewrite that is meant, several as the steps of one, and the names of the sources."""
    workspace = Workspace()
    if template is not None:
        chosen, names = workspace.patterns(arguments, overrides, expression=expression)
        if len(chosen) > 1:
            raise UsageError("--with goes with one pattern; keep several steps as rewrites in a suite")
        made = Rewrite("rewrite", "", (), (), ("rewrites",), chosen[0].pattern, read_template(template))
        return prepare_rewrite(replace(made, times=times), chosen[0].values), names
    if expression is not None:
        raise UsageError("add --with TEMPLATE: what stands in place of each match")
    if not arguments:
        raise UsageError("give a rewrite as SUITE:REWRITE, or a pattern and --with TEMPLATE")
    if not looks_like_address(arguments[0]):
        raise UsageError(f"'{arguments[0]}' is no SUITE:REWRITE; an expression goes with --with TEMPLATE")
    found: list[Rewrite] = []
    for argument in arguments:
        if not looks_like_address(argument):
            break
        rewrite = workspace.operation(argument, Rewrite, "rewrites", or_pattern=True)
        if rewrite is None:
            raise UsageError(f"'{argument}' is a pattern: add --with TEMPLATE")
        found.append(rewrite)
    if times is not None:
        raise UsageError("--times goes with a pattern; a rewrite of a suite has its own")
    overrides.check_parameters([pattern for each in found for pattern in each.patterns])
    steps = tuple(step for each in found for step in prepare_rewrite(each, overrides.parameters).steps)
    return Rewriter(steps), arguments[len(found) :]


def _table(sources: Sequence[Source], read_options: ReadOptions, *, as_rows: bool) -> TableForm | None:
    """Return how rows are written again; None for lines."""
    several: dict[str, Any] = (
        {"columns": read_options.columns, "longest": read_options.longest} if read_options.columns else {}
    )
    column = read_options.column or (read_options.columns[0] if read_options.columns else None)
    if column is None:
        return None
    if as_rows:
        return TableForm(column, "rows", **several)
    kinds = {source.table_kind() for source in sources}
    if len(kinds) > 1 or not kinds <= {"csv", "jsonl"}:
        raise UsageError(
            "a column is rewritten as it stands in CSV, TSV or JSON Lines, in sources of one kind; "
            "others are written as rows, with --to FILE.parquet or another form"
        )
    delimiters = {delimiter_of(source) for source in sources}
    if len(delimiters) > 1:
        raise UsageError("the sources part their cells differently; rewrite them one by one")
    return TableForm(column, kinds.pop(), delimiters.pop(), read_options.quote, **several)


def _previewed(
    rewriter: Rewriter, sources: Sequence[Source], table: TableForm | None, show: int, executor: Executor
) -> RewriteTally:
    job = RewriteJob(rewriter, None, table=table, show=show)
    executor.run(job, sources, byte_progress(sources))
    tally = job.tally
    terminal = Terminal.of()
    for source, number, found in tally.shown:
        terminal.show(rewritten_report(source, number, found))
    if tally.fit:
        more = tally.fit - len(tally.shown)
        rest = f"and {more:,} more; " if more and tally.shown else ""
        tell(f"{rest}nothing is written: --to FILE or --in-place does that")
    return tally


def _written(
    rewriter: Rewriter,
    sources: Sequence[Source],
    table: TableForm | None,
    output: OutputOptions,
    executor: Executor,
    *,
    as_rows: bool,
) -> RewriteTally:
    if as_rows:
        rows = PassedOn(output.open(sources), "rewritten")
        job, kept = RewriteJob(rewriter, None, table=table, rows=rows), cast("Any", rows)
    else:
        kept = output.open_text(sources)
        job = RewriteJob(rewriter, kept, table=table)
    with kept_whole(kept):
        executor.run(job, sources, byte_progress(sources, writes_to=output.path))
    return job.tally


def _in_place(
    rewriter: Rewriter, sources: Sequence[Source], table: TableForm | None, work: WorkOptions, *, backup: bool
) -> int:
    """Rewrite every source beside itself, then put all of them in place; none if anything went wrong."""
    paths = [_replaceable(source) for source in sources]
    executor = work.executor()
    total = RewriteTally()
    made: list[tuple[Path, TextFile]] = []
    with ExitStack() as dropping:
        for source, path in zip(sources, paths, strict=True):
            target = TextFile(str(path), may_pack=False, synced=True)
            dropping.callback(target.abandon)
            job = RewriteJob(rewriter, target, table=table)
            executor.run(job, [source], byte_progress([source]))
            target.settle()
            total.merge(job.tally)
            if job.tally.fit:
                made.append((path, target))
        spoilt = any(
            source.ended_early or source.changed or source.notes.not_json or source.notes.too_deep for source in sources
        )
        written = [] if total.given_up or spoilt else [str(path) for path, _ in made]
        trouble = work.close("rewrite", sources, [("rewrite", total)], written=written)
        if total.given_up or spoilt:
            say("no file was replaced: not everything could be read")
            return EXIT_FAILED
        parts = [part for _, target in made for part in target.complete()]
        backups = _backed_up([path for path, _ in made]) if backup else {}
        try:
            put_in_place(parts)
        except BaseException:
            for each in backups.values():
                each.unlink(missing_ok=True)
            raise
        for path, _ in made:
            say(f"{path}: rewritten" + (f"; as it was in {backups[path]}" if backup else ""))
    _say(rewriter, total, written=True)
    return trouble


def _replaceable(source: Source) -> Path:
    if source.path is None:
        raise UsageError("standard input cannot be replaced; write with --to FILE")
    if not os.path.isfile(source.path):
        raise UsageError(f"{source.name} is no plain file; write with --to FILE")
    if source.is_packed():
        raise UsageError(f"{source.name} is compressed; write what it becomes with --to FILE")
    return Path(source.path)


def _backed_up(paths: Sequence[Path]) -> dict[Path, Path]:
    """Copy files, each to a name beside it that nothing has yet; none stays when one cannot be copied."""
    made: dict[Path, Path] = {}
    for path in paths:
        kept = path.with_name(path.name + BACKUP)
        number = 2
        while kept.exists():
            kept = path.with_name(f"{path.name}{BACKUP}-{number}")
            number += 1
        made[path] = kept
        try:
            shutil.copy2(path, kept)
        except OSError as error:
            for each in made.values():
                each.unlink(missing_ok=True)
            words = f"{kept}: the backup cannot be written: {error.strerror or error}; nothing is replaced"
            raise UsageError(words) from None
    return made
