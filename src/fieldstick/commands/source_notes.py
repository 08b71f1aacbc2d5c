"""Says what was met while sources were read: what could not be read as asked, by line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.commands.rendering import say

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.data.batch import LineNumbers
    from fieldstick.data.source import Source

FIRST = 5
"""Lines of a kind that are named."""


def say_source_notes(sources: Iterable[Source]) -> bool:
    """Say on standard error what was met, and return whether something was not read as it should be."""
    trouble = False
    for source in sources:
        for words in _words(source):
            say(f"{source.name}: {words}")
            trouble = True
    return trouble


def _words(source: Source) -> Iterable[str]:
    notes, read_options = source.notes, source.read_options
    row = "line" if source.kind in ("lines", "whole", "records", "jsonl") else "row"
    unread = "left as it stands" if read_options.passes_on else "not read"
    told: tuple[tuple[LineNumbers, str, str, str], ...] = (
        (
            notes.undecodable,
            "line has",
            "lines have",
            f"bytes that are not {read_options.encoding.upper()}, kept as they are",
        ),
        (notes.ragged, "row has", "rows have", "another number of cells than the header"),
        (notes.overlong, "text is", "texts are", f"longer than {read_options.longest or 0:,} characters and {unread}"),
        (notes.missing, f"{row} has", f"{row}s have", f"no value at {read_options.column}"),
        (notes.not_json, "line is", "lines are", "not JSON and left out"),
        (notes.too_deep, "line of JSON is", "lines of JSON are", "nested too deep and left out"),
    )
    for lines, one, several, what in told:
        if lines:
            first = ", ".join(str(number) for number in lines[:FIRST]) + (" …" if lines.total > FIRST else "")
            yield f"{lines.total:,} {one if lines.total == 1 else several} {what}: {first}"
    if source.lacks_record_start:
        yield "no line begins a record by --record-start; all of it was read as one"
    if source.ended_early is not None:
        yield f"read up to where {source.ended_early}; a line begun there is left out"
    if source.changed:
        yield "it was written to while it was read; run again to be sure of the whole"
