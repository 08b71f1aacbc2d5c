"""The explanation of an expression, for a person and as JSON."""

from __future__ import annotations

import textwrap
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.reporting.cells import Charset, clipped, visible, width_of
from fieldstick.reporting.layout import paragraph
from fieldstick.reporting.ruler import Line, Mark, Segment, draw
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.analysis.hazards import Hazard
    from fieldstick.drafting.outline import Outline, OutlineLine

WIDEST_SOURCE = 36
"""Cells that the column of sources takes at the most."""


class Explanation(Struct, frozen=True):
    """All that is said of an expression; `written` is its text before parts were filled in."""

    expression: str
    written: str
    flags: tuple[str, ...]
    reach: str
    outline: Outline
    groups: tuple[str | None, ...]
    examples: tuple[str, ...]
    hazards: tuple[Hazard, ...]


def explanation_as_text(found: Explanation, width: int, charset: Charset = Charset()) -> Iterator[Line]:
    """Yield the outline, the lengths, the examples and the hazards."""
    for drawn in draw(found.written, (), width - 2, charset):
        yield (Segment("  "), *drawn)
    told = f"reach {found.reach}" + (f"; flags {', '.join(found.flags)}" if found.flags else "")
    yield (Segment(f"  {told}", "quiet"),)
    yield ()
    yield from _outline(found.outline.lines, width, charset)
    yield ()
    yield from paragraph("takes", _lengths(found.outline), width, indent=2)
    if found.groups:
        names = ", ".join(f"{number} {name or '(no name)'}" for number, name in enumerate(found.groups, 1))
        yield from paragraph("groups", names, width, indent=2)
    for number, text in enumerate(found.examples):
        label = "fits" if number == 0 else ""
        yield (
            Segment("  "),
            Segment(f"{label:<9}  ", "quiet"),
            Segment(clipped(text, max(width - 13, 16), charset) or "(nothing)", "good"),
        )
    yield from hazard_lines(found.expression, found.hazards, width, charset)


def _outline(lines: Sequence[OutlineLine], width: int, charset: Charset) -> Iterator[Line]:
    shown = [visible(line.source, charset) for line in lines]
    longest = max((2 * line.depth + width_of(source) for line, source in zip(lines, shown, strict=True)), default=0)
    column = min(longest, WIDEST_SOURCE, width // 2)
    for line in lines:
        indent = "  " * line.depth
        room = max(column - len(indent), 8)
        source = clipped(line.source, room, charset)
        if not source.strip():
            source = ("␣" if charset.can_show("␣") else "_") * len(source)
        wrapped = textwrap.wrap(visible(line.words, charset), max(width - column - 6 - len(indent), 20)) or [""]
        for number, text in enumerate(wrapped):
            head = indent + source if number == 0 else ""
            gap = " " * (max(column - width_of(head), 0) + 2)
            yield (Segment("  "), Segment(head, "field0"), Segment(f"{gap}{indent}{text}"))


def _lengths(found: Outline) -> str:
    if found.longest is None:
        return f"{counted(found.shortest, 'character')} at the least, without an upper bound"
    if found.longest == found.shortest:
        return f"exactly {counted(found.shortest, 'character')}"
    return f"{found.shortest:,} to {counted(found.longest, 'character')}"


def hazard_lines(
    expression: str, hazards: Sequence[Hazard], width: int, charset: Charset, *, brief: bool = False
) -> Iterator[Line]:
    """Yield each hazard with its place; briefly, one line each."""
    if hazards and not brief:
        yield ()
    for hazard in hazards:
        source = clipped(expression[slice(*hazard.span)], 24, charset)
        yield (
            Segment("  hazard  ", "warn"),
            Segment(hazard.kind, "strong"),
            Segment(f"  {source}  at {hazard.span[0]}"),
        )
        if not brief:
            mark = Mark(*hazard.span, kind="match", tone="warn")
            for drawn in draw(expression, [mark], width - 4, charset):
                yield (Segment("    "), *drawn)
        yield from paragraph("because", visible(hazard.reason, charset), width)
        if not brief:
            yield from paragraph("instead", visible(hazard.remedy, charset), width)


def explanation_as_data(found: Explanation) -> dict[str, Any]:
    """Return an explanation as plain data; spans are code-point offsets into the expression."""
    return {
        "expression": found.expression,
        "flags": list(found.flags),
        "reach": found.reach,
        "outline": [
            {
                "depth": line.depth,
                "span": list(line.span),
                "source": line.source,
                "words": line.words,
                "part": line.part,
            }
            for line in found.outline.lines
        ],
        "shortest": found.outline.shortest,
        "longest": found.outline.longest,
        "groups": list(found.groups),
        "examples": list(found.examples),
        "hazards": hazards_as_data(found.hazards),
    }


def hazards_as_data(hazards: Sequence[Hazard]) -> list[dict[str, Any]]:
    """Return hazards as plain data."""
    return [
        {"kind": each.kind, "span": list(each.span), "reason": each.reason, "remedy": each.remedy} for each in hazards
    ]
