"""`sample`: a sample added to a pattern the moment it is met."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from fieldstick.commands.option_groups import command as headed_command
from fieldstick.commands.option_groups import heading, option
from fieldstick.commands.pattern_options import PARAMETERS
from fieldstick.commands.saying import tell
from fieldstick.commands.source_options import source_options
from fieldstick.commands.sources import text_at, typed_text
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError
from fieldstick.reporting.document import Ruled, said
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.terminal import Terminal
from fieldstick.suites.editing import edit, toml_value, with_sample
from fieldstick.suites.overrides import Overrides, pairs
from fieldstick.workspace import Workspace, looks_like_address

if TYPE_CHECKING:
    from fieldstick.data.read_options import ReadOptions
    from fieldstick.matching.result import FieldValue, Result


@headed_command(short_help="Add a sample to a pattern.")
@click.argument("pattern", metavar="SUITE:PATTERN")
@click.argument("text", required=False)
@heading("The sample")
@option("--positive", "kind", flag_value="positive", help="The pattern must fit the text.")
@option("--negative", "kind", flag_value="negative", help="The pattern must not fit the text.")
@option("--from", "place", metavar="FILE:LINE", help="Take the text from this line or row of a file.")
@option("--stdin", "from_input", is_flag=True, help="Take the text from standard input.")
@option("--note", help="Why it is here.")
@PARAMETERS
@option("--dry-run", is_flag=True, help="Show what would be added, and write nothing.")
@option("--even-so", is_flag=True, help="Add it though the pattern does not treat it so yet.")
@source_options
def command(
    pattern: str,
    text: str | None,
    kind: str | None,
    place: str | None,
    from_input: bool,
    note: str | None,
    parameters: tuple[str, ...],
    dry_run: bool,
    even_so: bool,
    read_options: ReadOptions,
) -> int:
    """Add a text to a pattern as a positive or negative sample, with the fields captured now filled in for review."""
    if kind is None:
        raise UsageError("say which it is: --positive or --negative")
    sample_text = _text(text, place, from_input, read_options)
    if not looks_like_address(pattern):
        raise UsageError(f"'{pattern}' is no SUITE:PATTERN; a sample is added to a pattern of a suite")
    given = pairs(parameters, "--parameter")
    chosen = Workspace().pattern(pattern, Overrides(parameters=given))
    suite, made = chosen.suite, chosen.pattern
    assert suite is not None
    for each in made.samples:
        if each.text == sample_text and dict(each.values) == given:
            line = suite.line_of(each.path)
            raise UsageError(f"the text is a {each.kind} sample already, {suite.file}:{line}; nothing was added")
    reading = chosen.matcher.read(sample_text)
    terminal = Terminal.of()
    marks = tuple(marks_of(reading))
    if sample_text or marks:
        terminal.show([Ruled(sample_text, marks, indent=2)])
    if reading.fits != (kind == "positive") and not even_so:
        raise UsageError(_refusal(kind, reading, pattern))
    table: dict[str, Any] = {"text": sample_text}
    if given:
        table["with"] = given
    if kind == "positive":
        table |= captured_table(reading)
    if note:
        table["note"] = note
    with_sample(suite.document, made.name, kind, table)  # refuses before anything is shown as done
    for key, value in table.items():
        terminal.show([said(f"  {key} = {toml_value(value)}")])
    if dry_run:
        tell(f"This would be added to {suite.file}; nothing was written.")
        return EXIT_FAILED if reading.fits != (kind == "positive") else EXIT_PASSED
    edit(Path(suite.file), lambda document: with_sample(document, made.name, kind, table))
    tell(f"Added a {kind} sample to {suite.name}:{made.name} in {suite.file}.")
    return EXIT_PASSED


def _refusal(kind: str, reading: Result, pattern: str) -> str:
    if kind == "negative":
        return f"{pattern} fits this text now; mend the pattern first, or add the sample with --even-so"
    words = reading.unfit.words if reading.unfit else ""
    return f"{pattern} does not fit this text ({words}); mend the pattern first, or add the sample with --even-so"


def _text(text: str | None, place: str | None, from_input: bool, read_options: ReadOptions) -> str:
    if sum((text is not None, place is not None, from_input)) != 1:
        raise UsageError("give the text once: as an argument, with --from FILE:LINE, or with --stdin")
    if text is not None:
        return text
    if from_input:
        return typed_text()
    assert place is not None
    return text_at(place, read_options)


def captured_table(reading: Result) -> dict[str, Any]:
    """Return what was captured, as a sample names it."""
    fields = {name: _value(field) for name, field in reading.fields.items() if field is not None}
    absent = [name for name, field in reading.fields.items() if field is None]
    table: dict[str, Any] = {}
    if fields:
        table["fields"] = fields
    if absent:
        table["absent"] = absent
    return table


def _value(field: FieldValue) -> Any:
    return field.text if field.type == "text" or field.value is None else field.value
