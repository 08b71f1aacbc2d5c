"""`gaps`: what no sample decides, and which sample would."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option, show_option
from fieldstick.commands.progress import pattern_progress
from fieldstick.commands.sample import captured_table
from fieldstick.commands.saying import print_text, tell
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError, hint
from fieldstick.matching.prepare import prepare
from fieldstick.reporting.document import BLANK, Ruled
from fieldstick.reporting.gaps_report import gaps_as_json, gaps_report, proposal_blocks
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.terminal import Terminal
from fieldstick.suites.editing import edit, with_sample
from fieldstick.suites.finding import split_address
from fieldstick.workspace import Workspace, looks_like_address

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.runs.gaps import PatternGaps, Proposal
    from fieldstick.suites.suite import Pattern, Suite

KEYS = {"p": "positive", "n": "negative", "s": "skip", "q": "quit"}


@headed_command(short_help="Say what no sample decides, and which would.")
@click.argument("names", nargs=-1, metavar="[SUITE:PATTERN|SUITE|PATH]...")
@heading("What is written")
@option("--add", is_flag=True, help="Go through the texts one by one, and add them as samples.")
@show_option("Texts of each pattern", 6)
@option(
    "--format", "form", type=click.Choice(("text", "json")), default="text", show_default=True, help="What to print."
)
def command(names: tuple[str, ...], add: bool, show: int, form: str) -> int:
    """Say which pieces of a pattern no sample decides: with the piece otherwise, every sample would come out as now.

    Asked are alternatives, optional parts, the bounds of repeats, classes and the characters just outside them, flags,
    anchors, groups, and the bounds of fields. For each there is a text to add, as like to the samples as can be, with
    the outcome that it has now; whether that is right is yours to say.

    Exit status: 0 all is decided, or samples were added; 1 something is open; 2 the command or a file is wrong.
    """
    if add and form != "text":
        raise UsageError("--add asks of each text what it is; leave --format")
    workspace = Workspace()
    suites, wanted = _wanted(workspace, names)
    with pattern_progress(len(wanted)) as note:
        found = workspace.gaps(suites, wanted, note)
    if add:
        return _add(found, wanted)
    if form == "json":
        print_text(gaps_as_json(found))
    else:
        Terminal.of().show(gaps_report(found, show))
    return EXIT_FAILED if any(each.gaps for each in found) else EXIT_PASSED


def _wanted(workspace: Workspace, names: Sequence[str]) -> tuple[list[Suite], list[tuple[Suite, Pattern]]]:
    """Return the suites that count, and the patterns that are asked about."""
    addresses = [name for name in names if looks_like_address(name)]
    paths = [name for name in names if name not in addresses]
    named = [path for path in paths if not os.path.exists(path)]
    there = [path for path in paths if path not in named]
    suites: list[Suite] = list(workspace.suites(there)) if there or not names else []
    suites += [workspace.suite(name) for name in named]
    wanted = [(suite, pattern) for suite in suites for pattern in suite.patterns.values()]
    for address in addresses:
        name, own = split_address(address)
        suite = workspace.suite(name)
        if own not in suite.patterns:
            raise UsageError(f"the suite '{name}' has no pattern '{own}'{hint(own or '', suite.patterns)}")
        wanted.append((suite, suite.patterns[own or ""]))
        for each in (suite, *(workspace.suite(scope.name) for scope in suite.scope.borrowed.values())):
            if each not in suites:
                suites.append(each)
    return suites, wanted


def _add(found: Sequence[PatternGaps], wanted: Sequence[tuple[Suite, Pattern]]) -> int:
    """Go through the texts; what is said of each is written at once."""
    terminal = Terminal.of()
    added = 0
    for each, (suite, pattern) in zip(found, wanted, strict=True):
        for number, proposal in enumerate(each.proposals, 1):
            tell(f"{each.address}  text {number} of {len(each.proposals)}")
            reading = prepare(pattern, each.values).read_or_give_up(proposal.text)
            terminal.show([*proposal_blocks(proposal), Ruled(proposal.text, tuple(marks_of(reading)), indent=11)])
            answer = _answer()
            if answer == "quit":
                tell(_added_words(added))
                return EXIT_PASSED
            if answer != "skip":
                _write(suite, pattern, each, proposal, answer)
                added += 1
            terminal.show([BLANK])
    tell(_added_words(added) if any(each.proposals for each in found) else "Nothing is open that a text would decide.")
    return EXIT_PASSED


def _added_words(added: int) -> str:
    return (
        f"{added:,} sample{'s' if added != 1 else ''} added; 'fieldstick check' runs them." if added else "None added."
    )


def _write(suite: Suite, pattern: Pattern, found: PatternGaps, proposal: Proposal, kind: str) -> None:
    table: dict[str, Any] = {"text": proposal.text}
    if found.values:
        table["with"] = dict(found.values)
    if kind == "positive" and proposal.fits:
        table |= captured_table(prepare(pattern, found.values).read(proposal.text))
    edit(Path(suite.file), lambda document: with_sample(document, pattern.name, kind, table))
    right = proposal.fits == (kind == "positive")
    tell(f"  Added as a {kind} sample" + ("." if right else "; it fails until the pattern is mended."))


def _answer() -> str:
    click.echo("  p positive · n negative · s skip · q quit ", nl=False, err=True)
    while True:
        key = click.getchar() if sys.stdin.isatty() else sys.stdin.readline().strip()[:1] or "q"
        if key in ("\x03", "\x04"):
            raise KeyboardInterrupt
        if key in KEYS:
            click.echo(key, err=True)
            return KEYS[key]
