"""`propose`: expressions from examples, or from a kind of line."""

from __future__ import annotations

from collections import Counter
from itertools import chain
from typing import TYPE_CHECKING

import click

from fieldstick.commands.keeping import check_keeping, keep_with_samples
from fieldstick.commands.kept_proposals import kept_as, tell_kept
from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option
from fieldstick.commands.printing import print_json
from fieldstick.commands.propose_kinds import propose_kinds
from fieldstick.commands.saying import say
from fieldstick.commands.source_notes import say_source_notes
from fieldstick.commands.source_options import source_options
from fieldstick.commands.sources import TABLE_ENDINGS, sources_of
from fieldstick.drafting.proposals.beginnings import BEGINNING, LONGEST
from fieldstick.drafting.proposals.proposing import propose, too_long, with_beyond
from fieldstick.drafting.proposals.spelling import LEVELS
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError
from fieldstick.reporting.propose_report import proposals_as_data, proposals_report
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.words import counted
from fieldstick.runs.line_kinds import LineKinds
from fieldstick.runs.line_sample import FEWEST, MOST_TEXT, evenly

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.source import Source
    from fieldstick.drafting.proposals.proposing import Proposed

MOST_EXAMPLES = 1_000
"""Different texts that a proposal is made from: the first, then one of every so many."""


@headed_command(short_help="Propose expressions from examples.")
@click.argument("sources", nargs=-1, metavar="[SOURCE...]")
@source_options
@option("--kind", type=click.IntRange(min=1), metavar="N", help="Lines of kind N alone, as survey numbers them.")
@option("--kinds", type=click.IntRange(min=1), metavar="N", help="Propose for each of the N commonest kinds of line.")
@heading("What is known beside")
@option("--fits", "fitting", multiple=True, metavar="TEXT", help="A text that must fit. Repeatable.")
@option("--misses", "missing", multiple=True, metavar="TEXT", help="A text that must not fit. Repeatable.")
@heading("What is written")
@option(
    "--keep", "name", metavar="NAME", help="Keep it as this pattern of --suite, with samples; with --kinds a route."
)
@option("--suite", "kept_in", metavar="SUITE", help="The suite to keep it in; begun where there is none.")
@option("--level", type=click.Choice(LEVELS), help="The one to keep.  [default: the first that is shown]")
@json_option
@heading("How")
@option(
    "--jobs",
    type=click.IntRange(min=1),
    metavar="N",
    help="With --kinds, work in N processes.  [default: one for each processor]",
)
def command(
    sources: tuple[str, ...],
    read_options: ReadOptions,
    kind: int | None,
    kinds: int | None,
    fitting: tuple[str, ...],
    missing: tuple[str, ...],
    name: str | None,
    kept_in: str | None,
    level: str | None,
    form: str,
    jobs: int | None,
) -> int:
    """Propose expressions with named, typed fields for the texts of each SOURCE, or for the texts of --fits alone.

    There are up to three, from tight to loose. Each takes all texts of --fits; one that takes a text of --misses says
    so, and comes last. Each is shown with a text that it takes beyond the examples, or beyond the one before it.

    With --kinds there is one for each kind of line; --keep then keeps all of them, called by their words, and a route
    that sorts lines by them.

    Exit status: 0 one refuses all that it must, 1 none does, or there is no example.
    """
    if not sources and not fitting:
        raise UsageError("give a source, or texts that must fit with --fits")
    if (name is None) is not (kept_in is None):
        raise UsageError("--keep NAME and --suite SUITE go together")
    if name is not None and kept_in is not None:
        check_keeping(kept_in, "routes" if kinds is not None else "patterns", name)
    opened = sources_of(sources, read_options) if sources else []
    if jobs is not None and kinds is None:
        raise UsageError("--jobs is of --kinds, each of which is a work of its own")
    if kinds is not None:
        if kind is not None or fitting or missing:
            raise UsageError("--kinds proposes for each kind of line; leave --kind, --fits and --misses out")
        kept = (name, kept_in) if name is not None and kept_in is not None else None
        status = propose_kinds(_line_kinds(opened), kinds, 2 * MOST_EXAMPLES, level, kept, form, jobs)
        say_source_notes(opened)
        return status
    texts = _examples(opened, kind)
    column = read_options.column if isinstance(read_options.column, str) else None
    found = with_beyond(propose(texts, fitting, missing, name=column), [*fitting, *texts])
    examples = len({*fitting, *texts})
    if form == "json":
        print_json(proposals_as_data(found, examples))
    else:
        Terminal.of().show(proposals_report(found, examples))
    say_source_notes(opened)
    for each in opened:
        if each.kind == "lines" and each.ending in TABLE_ENDINGS and read_options.kind is None:
            say(f"{each.name} was read as lines; --column NAME proposes for a column of it")
    long = too_long([*{*fitting, *texts}])
    if found and long:
        are_long = f"{counted(len(long), 'example')} of more than {LONGEST:,} characters"
        say(f"{are_long}: what follows the first {BEGINNING} or so may be anything")
    if opened and kind is None and found and found[0].has_several_forms:
        say("they are of several forms; --kinds N proposes for each of the commonest kinds of line, --kind N for one")
    if not found:
        say("there is no example" if not examples else "nothing was found that takes all texts of --fits")
        return EXIT_FAILED
    if name is not None and kept_in is not None:
        chosen = next((each for each in found if level in (None, each.level)), None)
        if chosen is None:
            raise UsageError(f"nothing {level} was proposed; there is {', '.join(each.level for each in found)}")
        _keep(chosen, name, kept_in, [*fitting, *texts], missing, as_text=form == "text")
    return EXIT_FAILED if all(each.takes for each in found) else EXIT_PASSED


def _examples(sources: Sequence[Source], kind: int | None) -> list[str]:
    """Return texts of sources, each as often as it is there: all different ones of few, an even sample of many."""
    if kind is not None:
        return _of_kind(sources, kind)
    batches = chain.from_iterable(source.batches() for source in sources)
    wanted = chain.from_iterable(batch.texts for batch in batches)
    times: Counter[str] = Counter()
    stride, length = 1, 0
    for number, text in enumerate(each for each in wanted if each.strip()):
        if number % stride == 0 or text in times:
            length += len(text) * (text not in times)
            times[text] += 1
        if len(times) > 2 * MOST_EXAMPLES or (length > MOST_TEXT and len(times) > FEWEST):
            times = Counter({each: times[each] for each in list(times)[::2]})
            length = sum(map(len, times))
            stride *= 2
    # How often each is there says whether all that there are have been seen.
    share = min(1.0, 2 * MOST_EXAMPLES / max(1, times.total()))
    return [text for text, count in times.items() for _ in range(max(1, round(count * share)))]


def _of_kind(sources: Sequence[Source], kind: int) -> list[str]:
    """Return lines of a kind, of those by which kinds are told: all of few, an even sample of many."""
    kinds = _line_kinds(sources)
    known = kinds.kinds()
    if kind > len(known):
        raise UsageError(f"--kind {kind}: there are {len(known)} kinds of line")
    lines = [each for each in kinds.lines_of(known[kind - 1]) if each.text.strip()]
    return evenly(lines, 2 * MOST_EXAMPLES)


def _line_kinds(sources: Sequence[Source]) -> LineKinds:
    kinds = LineKinds(size=sum(source.size or 0 for source in sources), keeps_lines=True)
    for source in sources:
        for batch in source.batches():
            kinds.add_batch(batch)
    return kinds


def _keep(
    chosen: Proposed, name: str, kept_in: str, texts: Sequence[str], missing: Sequence[str], *, as_text: bool
) -> None:
    """Keep a proposal as a pattern with samples that differ."""
    kept = kept_as(name, chosen, texts, missing)
    file = keep_with_samples(kept_in, kept)
    counts = f"{len(kept.positive)} positive and {len(kept.negative)} negative samples"
    tell_kept(f"Kept {name} in {file} with {counts}: {chosen.expression}", file, [chosen], as_text=as_text)
