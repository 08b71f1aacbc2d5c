"""`select`: the texts that fit, or do not, as they stand."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

import click
from msgspec.structs import replace

from fieldstick.commands.following import Following, follow_options
from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option, show_option
from fieldstick.commands.output_options import OutputOptions, sink_options
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say
from fieldstick.commands.source_options import columns_options
from fieldstick.commands.sources import kept_whole, shown
from fieldstick.commands.work_options import limited_work_options
from fieldstick.data.passed_on import PassedOn
from fieldstick.errors import UsageError
from fieldstick.matching.result import GAVE_UP
from fieldstick.matching.tally import DOES_NOT_FIT, Tally
from fieldstick.reporting.tally_words import tally_words, whole_words
from fieldstick.runs.select import SelectJob, SelectOptions
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from fieldstick.commands.work_options import WorkOptions
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.source import Source
    from fieldstick.suites.overrides import Overrides
    from fieldstick.workspace import Chosen


@headed_command(short_help="Keep the texts that fit, or those that do not.")
@click.argument("arguments", nargs=-1, metavar="SUITE:PATTERN|EXPRESSION SOURCE...")
@pattern_options
@columns_options
@follow_options
@sink_options
@option("--counts", is_flag=True, help="Print counts for each source instead of texts.")
@option("--why", is_flag=True, help="With --not: print what keeps texts from fitting, instead of texts.")
@show_option("Causes", 8)
@heading("How")
@option("--not", "unfit", is_flag=True, help="Keep the texts that do not fit.")
@option("--around", type=click.IntRange(min=0), default=0, metavar="N", help="Also N texts before and after each.")
@option("--with-place", is_flag=True, help="Source and line before each text.")
@limited_work_options
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    read_options: ReadOptions,
    following: Following,
    output: OutputOptions,
    counts: bool,
    why: bool,
    show: int,
    unfit: bool,
    around: int,
    with_place: bool,
    work: WorkOptions,
) -> int:
    """Write the texts of each SOURCE (files, or - for standard input) that fit the pattern, as they stand there.

    Rows of a table are written whole, its header before them; to a file of another form, with their types. What was
    read and fitted is said at the end.

    Exit status: 0 all was read, 1 something was not read as asked (it is named), 2 the command or a file is wrong.
    """
    chosen, names = Workspace().patterns(arguments, overrides, expression=expression)
    if len(chosen) > 1:
        raise UsageError("give one pattern; a pattern of a suite with any_of or all_of joins several")
    matcher = chosen[0].matcher
    sources = following.sources(names, replace(read_options, raws_wanted=True), work)
    executor = work.executor()
    asked = SelectOptions(unfit, around, with_place, work.limit, read_options.columns, read_options.longest)
    progress = byte_progress(sources, writes_to="" if counts else output.path)
    if why:
        if not unfit or counts or output.path is not None or read_options.columns:
            raise UsageError("--why goes with --not, of lines or one column, and tells causes instead of texts")
        return _why(chosen[0], sources, show, work)
    if counts:
        job = SelectJob(matcher, None, asked)
        executor.run(job, sources, progress)
        click.echo("source\tread\tfit\tdo not")
        for source in sources:
            tally = job.tally(source)
            click.echo(shown(f"{source.name}\t{tally.read}\t{tally.fit}\t{tally.missed}"))
    elif output.passes_rows(sources):
        if around:
            raise UsageError("--around gives text; rows of a table have nothing around them")
        rows = PassedOn(output.open(sources), "selected")
        job = SelectJob(matcher, None, asked, rows)
        with kept_whole(rows):
            executor.run(job, sources, progress)
    else:
        target = output.open_text(sources)
        job = SelectJob(matcher, target, asked)
        with kept_whole(target):
            executor.run(job, sources, progress)
    total = Tally()
    for source in sources:
        total.merge(job.tally(source))
    _say(matcher.pattern.reach, total)
    by_source = [{"name": each.name, "read": job.tally(each).read, "fit": job.tally(each).fit} for each in sources]
    named = [(matcher.pattern.name, total)]
    return work.close("select", sources, named, written=[output.path], own={"by_source": by_source})


def _say(reach: str, tally: Tally) -> None:
    say(tally_words("", tally, made=None))
    if (hint := whole_words(reach, tally)) is not None:
        say(hint)


def _why(chosen: Chosen, sources: list[Source], show: int, work: WorkOptions) -> int:
    """Tell what keeps texts from fitting, each cause with how many they are and one of them."""
    from fieldstick.drafting.causes import Causes
    from fieldstick.reporting.causes_report import causes_as_data, causes_report
    from fieldstick.reporting.terminal import Terminal
    from fieldstick.runs.trying import Trying

    causes = Causes(chosen.matcher, values=chosen.values)
    trying = Trying(chosen.matcher, lambda tried: "", causes, walked=True, may_take_nothing=False)
    with byte_progress(sources) as progress:
        trying.run(sources, 0, progress)
    Terminal.of().show(causes_report(causes, show))
    found = trying.tally
    misses = {(DOES_NOT_FIT, None): found.missed, (GAVE_UP, None): found.gave_up}
    tally = Tally(read=found.texts, fit=found.fit, misses=Counter({key: each for key, each in misses.items() if each}))
    _say(chosen.pattern.reach, tally)
    own = {"why": causes_as_data(causes, show)}
    return work.close("select", sources, [(chosen.pattern.name, tally)], own=own)
