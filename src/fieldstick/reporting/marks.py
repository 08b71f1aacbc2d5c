"""Turns readings into the marks of a ruler."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.reporting.document import Mark

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.engines.protocol import Spans
    from fieldstick.matching.result import Match, Result


TONES = 6
"""Tones that fields take in turn."""


def tone_of(index: int) -> str:
    """Return the tone of the field with this index; a field keeps it in text, ruler and table."""
    return f"field{index % TONES}"


def marks_of(reading: Result) -> list[Mark]:
    """Return marks for the fields of every taken match, and for the matches that are not the whole text."""
    marks: list[Mark] = []
    for match in (*reading.matches, *reading.also):
        marks += _field_marks(match)
        if match.place != (0, len(reading.text)) or match.place == (0, 0):
            marks.append(Mark(*match.place, kind="match", tone="match"))
    return marks


def _field_marks(match: Match) -> list[Mark]:
    return [
        Mark(*field.place, label=name, tone=tone_of(index))
        for index, (name, field) in enumerate(match.fields.items())
        if field is not None
    ]


def group_marks(text: str, spans: Spans, groups: Sequence[str | None]) -> list[Mark]:
    """Return marks for the groups of a match that was read without a pattern."""
    marks = [
        Mark(*span, label=name or str(index + 1), tone=tone_of(index))
        for index, (name, span) in enumerate(zip(groups, spans[1:], strict=True))
        if span[0] >= 0
    ]
    if spans[0] != (0, len(text)) or not text:
        marks.append(Mark(*spans[0], kind="match", tone="match"))
    return marks
