"""What was met while a source was read, in words: what could not be read as asked, by line."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.data.batch import LineNumbers
    from fieldstick.data.source import ReadFrom

FIRST = 5
"""Lines of a kind that are named."""


def source_words(source: ReadFrom) -> Iterator[str]:
    """Yield a sentence for each kind of thing that was not read as it should be."""
    notes, read_options = source.notes, source.read_options
    row = "line" if source.kind in ("lines", "whole", "records", "jsonl") else "row"
    places = read_options.column or " or ".join(read_options.columns)
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
        (notes.missing, f"{row} has", f"{row}s have", f"no value at {places}"),
        (notes.not_json, "line is", "lines are", "not JSON and left out"),
        (notes.too_deep, "line of JSON is", "lines of JSON are", "nested too deep and left out"),
    )
    for lines, one, several, what in told:
        if lines:
            first = ", ".join(str(number) for number in lines[:FIRST]) + (" …" if lines.total > FIRST else "")
            yield f"{lines.total:,} {one if lines.total == 1 else several} {what}: {first}"
    if notes.overlong and not read_options.passes_on:
        yield "--longest N reads texts up to another length, 0 of any"
    if notes.led_by:
        yield f"it begins as {notes.led_by.upper()} does; --encoding {notes.led_by} reads it"
    elif notes.undecodable.total > FIRST:
        yield "--encoding NAME reads another encoding, such as cp1252"
    if source.lacks_record_start:
        yield "no line begins a record by --record-start; all of it was read as one"
    if source.ended_early is not None:
        yield f"read up to where {source.ended_early}; a line begun there is left out"
    if source.changed:
        yield "it was written to while it was read; run again to be sure of the whole"
