"""What a source holds, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.cells import Charset, clipped, visible, width_of
from fieldstick.reporting.layout import paragraph
from fieldstick.reporting.ruler import Line, Segment
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.runs.survey import Shape, Survey

WIDEST_SHAPE = 44
"""Cells that the column of shapes takes at the most."""


def survey_as_text(
    found: Survey, top: int, rare: bool, remarks: Sequence[str], width: int, charset: Charset = Charset()
) -> Iterator[Line]:
    """Yield the shapes as a table, then what is odd, then the counts."""
    shapes = found.ranked(rare=rare)
    yield from _shape_table(shapes[:top], found.texts, width, charset)
    left = len(shapes) - top
    if left > 0:
        rest = sum(shape.count for shape in shapes[top:])
        order = "commoner" if rare else "rarer"
        yield (Segment(f"and {counted(left, order + ' shape')} of {counted(rest, 'text')}; --top shows more", "quiet"),)
    if found.other_shapes:
        words = f"{counted(found.other_shapes, 'text')} of further shapes are counted together: there are too many"
        yield (Segment(words, "warn"),)
    yield ()
    yield from _oddities(found, remarks, width, charset)
    yield (Segment(_summary(found), "strong"),)


def _shape_table(shapes: Sequence[Shape], texts: int, width: int, charset: Charset) -> Iterator[Line]:
    """Yield a row a shape, its example beside it; where shapes are wide, each example on a line of its own."""
    figures = [
        (f"{shape.count:,}", f"{100 * shape.count / texts:.1f} %", _lengths(shape.shortest, shape.longest))
        for shape in shapes
    ]
    header = ("count", "share", "length")
    sizes = [max(len(row[index]) for row in [header, *figures]) for index in range(3)]
    room = width - sum(sizes) - 6
    widest = max((width_of(visible(shape.text, charset)) for shape in shapes), default=0)
    beside = widest <= min(WIDEST_SHAPE, room // 2)
    column = max(widest, len("shape")) if beside else room
    yield (Segment(_figures(header, sizes) + f"{'shape':<{column}}  {'example' if beside else ''}", "quiet"),)
    for shape, row in zip(shapes, figures, strict=True):
        text = clipped(shape.text, column, charset) or "(nothing)"
        yield (
            Segment(_figures(row, sizes)),
            Segment(text + " " * (column - width_of(text)), "field0"),
            Segment("  " + clipped(shape.examples[0], max(room - column - 2, 8), charset) if beside else ""),
        )
        if not beside:
            yield (Segment(" " * (sum(sizes) + 6)), Segment(clipped(shape.examples[0], room, charset), "quiet"))


def _figures(cells: Sequence[str], sizes: Sequence[int]) -> str:
    return "".join(f"{cell:>{size}}  " for cell, size in zip(cells, sizes, strict=True))


def _lengths(low: int, high: int) -> str:
    return f"{low}" if low == high else f"{low}-{high}"


def _oddities(found: Survey, remarks: Sequence[str], width: int, charset: Charset) -> Iterator[Line]:
    lines = [
        f"{visible(name, charset)}: in {counted(odd.count, 'text')}, first on line {odd.first}"
        for name, odd in sorted(found.oddities.items(), key=lambda each: -each[1].count)
    ]
    lines = [*remarks, *lines]
    for number, words in enumerate(lines):
        yield from paragraph("look at" if number == 0 else "", words, width, indent=0, tone="warn")
    if lines:
        yield ()


def _summary(found: Survey) -> str:
    if not found.texts:
        return "No text was read."
    about = "" if found.distinct_exact else "at least "
    shapes = counted(len(found.shapes), "shape")
    lengths = f"{found.shortest} to {counted(found.longest, 'character')} long"
    return f"{counted(found.texts, 'text')}, {about}{found.distinct:,} different, in {shapes}; {lengths}."


def columns_as_text(
    columns: Mapping[str, Survey], remarks: Sequence[str], width: int, charset: Charset = Charset()
) -> Iterator[Line]:
    """Yield a profile of each column: share filled, distinct values, lengths, its commonest shapes, what is odd."""
    for name, found in columns.items():
        about = "" if found.distinct_exact else "at least "
        filled = f"{100 * found.filled / found.texts:.1f} % filled" if found.texts else "empty"
        told = f"{filled}, {about}{found.distinct:,} different, {_lengths(found.shortest or 0, found.longest)} long"
        yield (Segment(visible(name, charset) or "(no name)", "strong"), Segment(f"  {told}"))
        for shape in found.ranked()[:3]:
            share = f"{100 * shape.count / found.texts:5.1f} %"
            text = clipped(shape.text, min(WIDEST_SHAPE, width // 2), charset) or "(nothing)"
            example = clipped(shape.examples[0], max(width - width_of(text) - 16, 10), charset)
            yield (Segment(f"  {share}  ", "quiet"), Segment(text, "field0"), Segment(f"  {example}"))
        for kind, odd in sorted(found.oddities.items(), key=lambda each: -each[1].count)[:4]:
            words = f"{visible(kind, charset)}: {odd.count:,}, first on line {odd.first}"
            yield (Segment(f"  {'':7}  "), Segment(words, "warn"))
        yield ()
    rows = max((found.texts for found in columns.values()), default=0)
    for remark in remarks:
        yield from paragraph("look at", remark, width, indent=0, tone="warn")
    yield (Segment(f"{counted(rows, 'row')} in {counted(len(columns), 'column')}.", "strong"),)


def survey_as_data(found: Survey, top: int, rare: bool) -> dict[str, Any]:
    """Return a survey as plain data."""
    return {
        "texts": found.texts,
        "filled": found.filled,
        "distinct": found.distinct,
        "distinct_exact": found.distinct_exact,
        "shortest": found.shortest,
        "longest": found.longest,
        "shape_count": len(found.shapes),
        "other_shapes": found.other_shapes,
        "shapes": [
            {
                "shape": shape.text,
                "count": shape.count,
                "share": shape.count / found.texts,
                "shortest": shape.shortest,
                "longest": shape.longest,
                "first": shape.first,
                "examples": shape.examples,
            }
            for shape in found.ranked(rare=rare)[:top]
        ],
        "oddities": {name: {"count": odd.count, "first": odd.first} for name, odd in found.oddities.items()},
    }
