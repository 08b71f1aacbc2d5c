"""`try`: a draft expression run over a source, and drawn where it lands."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING

import click

from fieldstick.analysis.hazards import hazards
from fieldstick.commands.drafts import Draft, draft_options, format_option, resolve
from fieldstick.commands.printing import print_json
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.rendering import say
from fieldstick.commands.source_notes import say_source_notes
from fieldstick.commands.take_type import TakeType
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.source import Source, open_sources
from fieldstick.drafting.diagnosis import Stop, stop_of
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError
from fieldstick.reporting.as_landing import (
    field_table,
    landing_as_data,
    landing_lines,
    shift_lines,
    shifts_line,
    tally_as_data,
    tally_line,
)
from fieldstick.reporting.as_outline import hazard_lines, hazards_as_data
from fieldstick.reporting.terminal import Terminal
from fieldstick.runs.trying import CHUNK, Lander, Landing, Tally, Text, compare
from fieldstick.syntax.parser import Parsed, parse

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.engines.protocol import Take


@click.command(short_help="Run a draft expression over a source and draw where it lands.")
@click.argument("arguments", nargs=-1, metavar="EXPRESSION|SUITE:PATTERN SOURCE...")
@click.option("-e", "expression", metavar="EXPRESSION", help="An expression, even if it reads like an address.")
@click.option("--column", metavar="NAME", help="Read this column of a CSV table.")
@click.option("--take", type=TakeType(), metavar="TAKE", help="first, last, all, or a number.  [default: first]")
@click.option("--missed", is_flag=True, help="Show the texts that do not fit, each with where it stopped.")
@click.option("--fields", is_flag=True, help="Show the captured fields as a table.")
@click.option("--against", metavar="EXPRESSION|SUITE:PATTERN", help="Show what changed since this one.")
@click.option("--step", is_flag=True, help="Go text by text with single keys.")
@click.option("--show", type=click.IntRange(min=0), default=8, metavar="N", help="Texts to draw.  [default: 8]")
@draft_options
@format_option
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    column: str | None,
    take: Take | None,
    missed: bool,
    fields: bool,
    against: str | None,
    step: bool,
    show: int,
    reach: str | None,
    flags: tuple[str, ...],
    suite_file: str | None,
    values: tuple[str, ...],
    form: str,
) -> int:
    """Run an expression over the texts of each SOURCE (files, or - for standard input) and draw where it lands.

    The first texts are drawn with their fields; then all are counted. Exit status 1 when no text fits.
    """
    given, sources = (None, arguments) if expression is not None else (arguments[:1], arguments[1:])
    if given == ():
        raise UsageError("give an expression or SUITE:PATTERN, then the sources")
    draft = resolve(
        given[0] if given else None, expression, reach=reach, flags=flags, suite_file=suite_file, values=values
    )
    if draft.pattern is not None and draft.pattern.combination is not None:
        raise UsageError("this pattern is made of others; try its members")
    parsed = parse(draft.expression, draft.flags)
    lander = Lander.of(draft.expression, draft.flags, draft.reach, take or draft.take)
    opened = open_sources(sources, ReadOptions(column=column))
    if step:
        return _step(_texts(opened), lander, parsed)
    if against is not None:
        other = resolve(against, None, reach=reach, flags=flags, suite_file=suite_file, values=values)
        before = Lander.of(other.expression, other.flags, other.reach, take or other.take)
        return _compare(opened, before, lander, show, form)
    run = _Run(draft, parsed, lander, opened, show, missed, fields)
    return run.as_json() if form == "json" else run.as_text()


def _texts(sources: list[Source]) -> Iterator[Text]:
    for source in sources:
        for number, text in source.texts():
            yield Text(source.name, number, text)


class _Run:
    """One run over sources: the first texts drawn, all of them counted."""

    def __init__(
        self,
        draft: Draft,
        parsed: Parsed,
        lander: Lander,
        sources: list[Source],
        show: int,
        missed: bool,
        fields: bool,
    ) -> None:
        self.draft, self.parsed, self.lander, self.sources = draft, parsed, lander, sources
        self.show, self.missed, self.fields = show, missed, fields
        self.tally = Tally()

    def _shown(self) -> tuple[list[Landing], Iterator[Text]]:
        """Land on texts until enough are found to draw; return them and the texts that are left."""
        texts = _texts(self.sources)
        found: list[Landing] = []
        with byte_progress(self.sources) as progress:
            for text in texts:
                landing = self._land(text, progress)
                if not self.missed or not landing.fits:
                    found.append(landing)
                if len(found) >= max(self.show, 1):
                    break
        return found[: self.show], texts

    def _land(self, text: Text, progress: Callable[[int], None] | None) -> Landing:
        landing = self.lander.land(text)
        self.tally.texts += 1
        self.tally.fit += landing.fits
        self.tally.nothing += landing.of_nothing
        self.tally.gave_up += landing.gave_up
        if progress is not None and self.tally.texts % CHUNK == 0:
            progress(CHUNK)
        return landing

    def _stop(self, landing: Landing) -> Stop | None:
        return None if landing.fits else stop_of(self.parsed, landing.text.text, self.draft.reach)

    def _count(self, texts: Iterator[Text]) -> None:
        """Count the texts that are left; of files of lines all anew, in bulk, which is faster."""
        with byte_progress(self.sources) as progress:
            if all(source.size is not None and not source.read_options.asks_for_table for source in self.sources):
                if next(texts, None) is not None:
                    self.tally = Tally()
                    for source in self.sources:
                        self.lander.count(source.chunks(CHUNK), self.tally, progress)
            else:
                for text in texts:
                    self._land(text, progress)
        _say_what_was_met(self.sources, self.tally.texts)

    def as_text(self) -> int:
        terminal = Terminal.of()
        names = self.lander.compiled.group_names
        found, rest = self._shown()
        if self.fields:
            terminal.write(field_table(found, names, terminal.width, terminal.charset))
        else:
            for each in found:
                terminal.write(landing_lines(each, names, self._stop(each), terminal.width, terminal.charset))
                terminal.write([()])
        terminal.stream.flush()
        self._count(rest)
        warned = hazards(self.parsed, self.draft.reach)
        terminal.write(hazard_lines(self.draft.expression, warned, terminal.width, terminal.charset, brief=True))
        terminal.write([tally_line(self.tally, "text")])
        return _status(self.tally)

    def as_json(self) -> int:
        names = self.lander.compiled.group_names
        found, rest = self._shown()
        self._count(rest)
        print_json(
            {
                "counts": tally_as_data(self.tally),
                "texts": [landing_as_data(each, names, self._stop(each)) for each in found],
                "hazards": hazards_as_data(hazards(self.parsed, self.draft.reach)),
            }
        )
        return _status(self.tally)


def _status(tally: Tally) -> int:
    return EXIT_PASSED if tally.fit else EXIT_FAILED


def _say_what_was_met(sources: list[Source], texts: int) -> None:
    if texts == 0:
        say("the source holds no text")
    say_source_notes(sources)


def _compare(sources: list[Source], before: Lander, now: Lander, show: int, form: str) -> int:
    with byte_progress(sources) as progress:
        shifts, tally = compare(_texts(sources), before, now, most=show, progress=progress)
    _say_what_was_met(sources, tally.texts)
    names = (before.compiled.group_names, now.compiled.group_names)
    if form == "json":
        counts = {"gained": shifts.gained, "lost": shifts.lost, "otherwise": shifts.otherwise}
        texts = [
            {
                "kind": each.kind,
                "before": landing_as_data(each.before, names[0], None),
                "now": landing_as_data(each.now, names[1], None),
            }
            for each in shifts.first
        ]
        print_json({"counts": tally_as_data(tally), "against": counts, "texts": texts})
        return _status(tally)
    terminal = Terminal.of()
    for each in shifts.first:
        terminal.write(shift_lines(each, names, terminal.width, terminal.charset))
        terminal.write([()])
    terminal.write([tally_line(tally, "text"), shifts_line(shifts)])
    return _status(tally)


def _step(texts: Iterator[Text], lander: Lander, parsed: Parsed) -> int:
    """Go text by text: the next, the one before, the next that does not fit."""
    if not sys.stdin.isatty() or not sys.stdout.isatty():
        raise UsageError("--step needs a terminal to type in")
    terminal = Terminal.of()
    seen: list[Landing] = []
    at, key = -1, "n"
    while key != "q":
        going = max(at - 1, 0) if key == "b" else _further(seen, at, texts, lander, missed=key == "m")
        if going is None or going >= len(seen):
            click.echo("  no further text" if seen else "  the source holds no text")
            if not seen:
                return EXIT_FAILED
        else:
            at = going
            stop = None if seen[at].fits else stop_of(parsed, seen[at].text.text, lander.reach)
            names = lander.compiled.group_names
            terminal.write(landing_lines(seen[at], names, stop, terminal.width, terminal.charset))
        key = _key()
    return EXIT_PASSED


def _further(seen: list[Landing], at: int, texts: Iterator[Text], lander: Lander, *, missed: bool) -> int | None:
    """Return the number of the next text that is wanted, reading on as far as needed; None at the end."""
    number = at + 1
    while True:
        if number == len(seen):
            text = next(texts, None)
            if text is None:
                return None
            seen.append(lander.land(text))
        if not missed or not seen[number].fits:
            return number
        number += 1


def _key() -> str:
    click.echo("  n next · b back · m next missed · q quit ", nl=False, err=True)
    while True:
        key = click.getchar()
        if key in ("n", "b", "m", "q", " ", "\r", "\n"):
            click.echo("", err=True)
            return key
        if key in ("\x03", "\x04"):
            raise KeyboardInterrupt
