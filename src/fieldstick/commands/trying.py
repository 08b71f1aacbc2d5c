"""`try`: a draft expression run over a source, and drawn where it lands."""

from __future__ import annotations

import sys
from functools import cached_property
from typing import TYPE_CHECKING, Any

import click

from fieldstick.analysis.effort import Effort
from fieldstick.analysis.hazard_kinds import FOREVER
from fieldstick.analysis.hazards import hazards
from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, json_option, option, patient_option, show_option
from fieldstick.commands.pattern_options import pattern_options
from fieldstick.commands.printing import print_json
from fieldstick.commands.progress import byte_progress
from fieldstick.commands.saying import say
from fieldstick.commands.single_keys import single_keys
from fieldstick.commands.source_notes import say_source_notes
from fieldstick.commands.source_options import source_options
from fieldstick.commands.sources import sources_of
from fieldstick.comparing.drafts import compare
from fieldstick.drafting.causes import STEPS, TRACED, Causes
from fieldstick.drafting.diagnosis import Stop, stop_of
from fieldstick.drafting.read_here import parsed_here
from fieldstick.engines.protocol import DEFAULT_ENGINE
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, PatienceLost, UsageError
from fieldstick.matching.result import DID_NOT_MATCH
from fieldstick.reporting.causes_report import causes_as_data, causes_report
from fieldstick.reporting.document import BLANK, sentence
from fieldstick.reporting.explain_report import hazards_as_data, hazards_report
from fieldstick.reporting.tally_words import NO_WHOLE_TEXT
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.try_report import (
    field_table,
    shift_report,
    shifts_line,
    tally_as_data,
    tally_line,
    tried_as_data,
    tried_report,
)
from fieldstick.runs.trying import Tried, Trying
from fieldstick.syntax.parser import Parsed, parse
from fieldstick.syntax.widths import width
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.analysis.hazards import Hazard
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.data.source import Source
    from fieldstick.runs.trying import Kind, TryTally
    from fieldstick.suites.overrides import Overrides
    from fieldstick.workspace import Chosen

Text = tuple[str, int, str]
"""A source's name, a line, and its text."""


@headed_command(short_help="Run a draft expression over a source and draw where it lands.")
@click.argument("arguments", nargs=-1, metavar="EXPRESSION|SUITE:PATTERN SOURCE...")
@pattern_options
@source_options
@heading("What is written")
@option("--missed", is_flag=True, help="Show what keeps texts from fitting, each cause with a text.")
@option("--fields", "as_fields", is_flag=True, help="Show the captured fields as a table.")
@option("--against", metavar="EXPRESSION|SUITE:PATTERN", help="Show what changed since this one.")
@option("--step", is_flag=True, help="Go text by text with single keys.")
@show_option("Kinds of texts, or causes,", 8)
@json_option
@heading("How")
@patient_option
def command(
    arguments: tuple[str, ...],
    expression: str | None,
    overrides: Overrides,
    read_options: ReadOptions,
    missed: bool,
    as_fields: bool,
    against: str | None,
    step: bool,
    show: int,
    form: str,
) -> int:
    """Run an expression over the texts of each SOURCE (files, or - for standard input) and draw where it lands.

    Of the first texts one of each kind is drawn with its fields; then all are counted. With --missed it is what keeps
    texts from fitting, each cause with how many they are. Exit status 1 when no text fits.
    """
    workspace = Workspace()
    chosen, names = workspace.patterns(arguments, overrides, expression=expression)
    if len(chosen) > 1:
        raise UsageError("give one pattern; --against holds it against another")
    draft = _Draft(chosen[0])
    opened = sources_of(names, read_options)
    if step:
        return _step(_texts(opened), draft)
    if against is not None:
        return _compare(opened, workspace.pattern(against, overrides), draft, show, form)
    run = _Run(draft, opened, show, missed, as_fields)
    return run.as_json() if form == "json" else run.as_text()


class _Draft:
    """The pattern that is tried, with what its expression tells; a pattern made of others tells less."""

    def __init__(self, chosen: Chosen) -> None:
        self.chosen = chosen
        self.parsed: Parsed | None = None
        if chosen.pattern.combination is None:
            own = chosen.pattern.engine == DEFAULT_ENGINE
            self.parsed = (
                parse(chosen.expression, chosen.pattern.flags) if own else parsed_here(chosen.pattern, chosen.values)
            )
        self.matcher = chosen.matcher
        # An expression that takes forever is what a draft is tried for.
        self.matcher.keep_to_engine()

    @cached_property
    def hazards(self) -> list[Hazard]:
        return hazards(self.parsed, self.chosen.pattern.reach) if self.parsed is not None else []

    @property
    def takes_forever(self) -> bool:
        """Whether some text would make it take forever, as far as that is known."""
        return any(each.kind in FOREVER for each in self.hazards)

    @property
    def may_take_nothing(self) -> bool:
        return self.parsed is None or width(self.parsed.tree, self.parsed.widths)[0] == 0

    def tried(self, text: Text) -> Tried:
        return Tried(text[0], text[1], self.matcher.read_or_give_up(text[2]))

    def stop(self, tried: Tried) -> Stop | None:
        unfit = tried.result.unfit
        if self.parsed is None or unfit is None or unfit.reason != DID_NOT_MATCH:
            return None
        return stop_of(self.parsed, tried.text, self.chosen.pattern.reach)


def _texts(sources: list[Source]) -> Iterator[Text]:
    for source in sources:
        for number, text in source.texts():
            yield source.name, number, text


class _Run:
    """One run over sources: some texts of each kind drawn, all of them counted; with `missed` the causes of misses."""

    def __init__(self, draft: _Draft, sources: list[Source], show: int, missed: bool, as_fields: bool) -> None:
        self.draft, self.sources = draft, sources
        self._effort = Effort(STEPS)
        self.show, self.as_fields = show, as_fields
        self.causes = Causes(draft.matcher, values=draft.chosen.values) if missed else None
        self.trying = Trying(
            draft.matcher,
            self._kind_of_miss,
            self.causes,
            walked=not draft.takes_forever,
            may_take_nothing=draft.may_take_nothing,
            each_one=as_fields,
        )
        self.lost: PatienceLost | None = None

    def _kind_of_miss(self, tried: Tried) -> str:
        # Where that has cost much, texts that are missed for the same reason are of one kind.
        stop = self.draft.stop(tried) if self._effort.spend(TRACED * len(tried.text)) else None
        if stop is not None:
            return f"misses {stop.expression} {stop.wanted}"
        unfit = tried.result.unfit
        assert unfit is not None
        return f"misses {unfit.reason} {unfit.field} {unfit.member}"

    def _go_through(self, drawn: Callable[[], None] | None = None) -> None:
        most = self.show if self.causes is None else 0
        with byte_progress(self.sources) as progress:
            try:
                self.trying.run(self.sources, max(most, 1), progress, drawn)
            except PatienceLost as error:
                # What was found out by then is shown all the same: it tells what to mend.
                self.lost = error
                if drawn is not None and self.causes is None:
                    drawn()
        tally = self.trying.tally
        if self.lost is None:
            _say_source_notes(self.sources, tally.texts)
            if self.draft.matcher.pattern.reach == "whole" and tally.texts and tally.missed == tally.texts:
                say(NO_WHOLE_TEXT)

    @property
    def _kinds(self) -> list[Kind]:
        return list(self.trying.kinds.values())[: self.show]

    def as_text(self) -> int:
        terminal = Terminal.of()
        shown = False

        def drawn() -> None:
            nonlocal shown
            if shown or self.causes is not None:
                return
            shown = True
            if self.as_fields:
                terminal.show(field_table([each.tried for each in self._kinds], self.draft.matcher.field_names))
            else:
                for each in self._kinds:
                    terminal.show([*tried_report(each.tried, self.draft.stop(each.tried), each.more), BLANK])
            terminal.stream.flush()

        self._go_through(drawn)
        if self.causes is not None:
            terminal.show(causes_report(self.causes, self.show))
        if self.draft.hazards:
            terminal.show([*hazards_report(self.draft.chosen.expression, self.draft.hazards, brief=True), BLANK])
        if self.lost is not None:
            raise self.lost
        terminal.show([tally_line(self.trying.tally, "text")])
        return _status(self.trying.tally)

    def as_json(self) -> int:
        self._go_through()
        if self.lost is not None:
            raise self.lost
        data: dict[str, Any] = {
            "counts": tally_as_data(self.trying.tally),
            "texts": [tried_as_data(each.tried, self.draft.stop(each.tried), each.more) for each in self._kinds],
            "hazards": hazards_as_data(self.draft.hazards),
        }
        if self.causes is not None:
            data |= {"texts": [], "causes": causes_as_data(self.causes, self.show)}
        print_json(data)
        return _status(self.trying.tally)


def _status(tally: TryTally) -> int:
    return EXIT_PASSED if tally.fit else EXIT_FAILED


def _say_source_notes(sources: list[Source], texts: int) -> None:
    if texts == 0:
        say("the source holds no text")
    say_source_notes(sources)


def _compare(sources: list[Source], before: Chosen, now: _Draft, show: int, form: str) -> int:
    from fieldstick.matching.relations import pattern_relation
    from fieldstick.reporting.relation_words import relation_as_data, relation_words

    with byte_progress(sources) as progress:
        shifts, tally = compare(_texts(sources), before.matcher, now.matcher, most=show, progress=progress)
    _say_source_notes(sources, tally.texts)
    relation = pattern_relation(now.chosen.pattern, before.pattern, {**before.values, **now.chosen.values})
    if form == "json":
        counts = {"gained": shifts.gained, "lost": shifts.lost, "otherwise": shifts.otherwise}
        texts = [
            {"kind": each.kind, "before": tried_as_data(each.before, None), "now": tried_as_data(each.now, None)}
            for each in shifts.first
        ]
        print_json(
            {"counts": tally_as_data(tally), "against": counts, "relation": relation_as_data(relation), "texts": texts}
        )
        return _status(tally)
    terminal = Terminal.of()
    for each in shifts.first:
        terminal.show([*shift_report(each), BLANK])
    words = f"of all texts there are: {relation_words(relation)}"
    terminal.show([tally_line(tally, "text"), shifts_line(shifts), sentence(words)])
    return _status(tally)


def _step(texts: Iterator[Text], draft: _Draft) -> int:
    """Go text by text: the next, the one before, the next that does not fit."""
    if not sys.stdin.isatty() or not sys.stdout.isatty():
        raise UsageError("--step needs a terminal to type in")
    terminal = Terminal.of()
    seen: list[Tried] = []
    at, key = -1, "n"
    with single_keys() as typed:
        while key != "q":
            going = max(at - 1, 0) if key == "b" else _further(seen, at, texts, draft, missed=key == "m")
            if going is None or going >= len(seen):
                click.echo("  no further text" if seen else "  the source holds no text")
                if not seen:
                    return EXIT_FAILED
            else:
                at = going
                terminal.show(tried_report(seen[at], draft.stop(seen[at])))
            key = _key(typed)
    return EXIT_PASSED


def _further(seen: list[Tried], at: int, texts: Iterator[Text], draft: _Draft, *, missed: bool) -> int | None:
    """Return the number of the next text that is wanted, reading on as far as needed; None at the end."""
    number = at + 1
    while True:
        if number == len(seen):
            text = next(texts, None)
            if text is None:
                return None
            seen.append(draft.tried(text))
        if not missed or not seen[number].fits:
            return number
        number += 1


def _key(typed: Callable[[], str]) -> str:
    click.echo("  n next · b back · m next missed · q quit ", nl=False, err=True)
    while True:
        key = typed()
        if key in ("n", "b", "m", "q", " ", "\r", "\n"):
            click.echo("", err=True)
            return key
