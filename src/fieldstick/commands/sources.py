"""What the commands that work on data share: sources opened, results kept whole, the closing words."""

from __future__ import annotations

import sys
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace

from fieldstick.commands.saying import say
from fieldstick.commands.source_notes import say_source_notes
from fieldstick.data.source import Source, open_sources
from fieldstick.ending import undisturbed
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError
from fieldstick.files import put_in_place
from fieldstick.reporting.cells import Charset, visible
from fieldstick.reporting.tally_words import given_up_words

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.data.read_options import ReadOptions
    from fieldstick.matching.tally import Tally

TABLE_ENDINGS = (".csv", ".tsv", ".jsonl", ".ndjson", ".json")
"""Endings of text files that hold tables, which are read as lines where no column is asked for."""


def shown(text: str) -> str:
    """Make text safe for a terminal; line feeds and tabs stay."""
    charset = Charset(sys.stdout.encoding or "utf-8")
    return (
        "".join(each if each in "\n\t" else visible(each, charset) for each in text) if not text.isprintable() else text
    )


def sources_of(names: Sequence[str], read_options: ReadOptions) -> list[Source]:
    """Open the sources; without any, standard input unless that is a terminal. Raises UsageError."""
    if not names and sys.stdin.isatty():
        raise UsageError("name the sources: files, or - for standard input")
    return open_sources(tuple(names), read_options)


def _file_and_line(place: str) -> tuple[str, str]:
    file, _, line = place.rpartition(":")
    if not file or not line.isdecimal():
        raise UsageError(f"--from {place}: write FILE:LINE")
    return file, line


def row_at(place: str, read_options: ReadOptions) -> dict[str, str]:
    """Return the row that a table has at a line, given as FILE:LINE: texts by column, without what is null.

    Raises UsageError for another form, and when there is no such row.
    """
    from fieldstick.data.rows import text_of

    file, line = _file_and_line(place)
    for each in open_sources((file,), replace(read_options, column=None, rows_wanted=True))[0].items():
        if each.number == int(line) and each.row is not None:
            texts = {name: text_of(value) for name, value in each.row.items()}
            return {name: text for name, text in texts.items() if text is not None}
    raise UsageError(f"{file} has no row at line {line}")


def typed_row(text: str) -> dict[str, str]:
    """Return a row that is given as a JSON object of texts. Raises UsageError for anything else."""
    import json

    try:
        found = json.loads(text)
    except ValueError:
        found = None
    if not isinstance(found, dict) or not all(isinstance(each, str) for each in found.values()):
        raise UsageError('a form judges a row: write it as {"COLUMN": "TEXT"}, or name one with --from FILE:LINE')
    return found


def text_at(place: str, read_options: ReadOptions) -> str:
    """Return the text that a source has at a line or row, given as FILE:LINE.

    Raises UsageError for another form, and when there is no such text.
    """
    file, line = _file_and_line(place)
    for number, found in open_sources((file,), read_options)[0].texts():
        if number == int(line):
            return found
    raise UsageError(f"{file} has no line {line}")


def typed_text() -> str:
    """Return standard input as one text, without a line feed at its end."""
    return sys.stdin.buffer.read().decode("utf-8", "surrogateescape").removesuffix("\n")


@contextmanager
def kept_whole(*sinks: Any) -> Iterator[None]:
    """Put what sinks or targets took in place when all went well, all of it or nothing, and drop it when not."""
    try:
        yield
        put_in_place([part for sink in sinks for part in sink.complete()])
    except BaseException:
        # A second signal must not leave behind what the first one had taken away.
        with undisturbed():
            for sink in sinks:
                sink.abandon()
        raise


def closing(sources: Sequence[Source], tallies: Iterable[Tally]) -> int:
    """Say what could not be read as asked, and return the exit status."""
    trouble = say_source_notes(sources)
    for tally in tallies:
        words = given_up_words(tally)
        if words is not None:
            say(words)
            trouble = True
    return EXIT_FAILED if trouble else EXIT_PASSED
