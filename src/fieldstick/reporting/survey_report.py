"""What a source holds, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.document import BLANK, Labelled, Piece, ShapeRow, Shapes, cut, said
from fieldstick.reporting.small_chart import small_chart
from fieldstick.reporting.words import counted
from fieldstick.suites.fieldtypes import FieldSpec

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.reporting.document import Block
    from fieldstick.runs.survey import Oddity, Shape, Survey


SHAPES_OF_COLUMN = 3
"""Shapes of a column that are shown unless more are asked for."""

WIDEST_SHAPE = 44
"""Cells that a column's shape takes at the most."""


def survey_report(found: Survey, top: int, rare: bool, remarks: Sequence[str]) -> Iterator[Block]:
    """Yield the shapes as a table, then what is odd, then the counts."""
    shapes = found.ranked(rare=rare)
    yield Shapes(("count", "share", "length"), tuple(_row(shape, found.texts) for shape in shapes[:top]))
    left = len(shapes) - top
    if left > 0:
        rest = sum(shape.count for shape in shapes[top:])
        order = "commoner" if rare else "rarer"
        yield said((f"and {counted(left, order + ' shape')} of {counted(rest, 'text')}; --top shows more", "quiet"))
    if found.other_shapes:
        words = f"{counted(found.other_shapes, 'text')} of rarer shapes that were let go: there are too many to keep"
        yield said((words, "warn"))
    yield BLANK
    yield from _oddities(found, remarks)
    yield said((_summary(found), "strong"))


def _row(shape: Shape, texts: int) -> ShapeRow:
    share = f"{100 * shape.count / texts:.1f} %"
    return ShapeRow((f"{shape.count:,}", share, _lengths(shape.shortest, shape.longest)), shape.text, shape.examples[0])


def _lengths(low: int, high: int) -> str:
    return f"{low:,}" if low == high else f"{low:,}-{high:,}"


def _oddities(found: Survey, remarks: Sequence[str]) -> Iterator[Block]:
    lines = [
        f"{name}: in {counted(odd.count, 'text')}, first on line {odd.first}"
        for name, odd in sorted(found.oddities.items(), key=_oddest)
    ]
    lines = [*remarks, *lines]
    for number, words in enumerate(lines):
        yield Labelled("look at" if number == 0 else "", words, indent=0, tone="warn")
    if lines:
        yield BLANK


def _oddest(named: tuple[str, Oddity]) -> tuple[int, int, str]:
    """Order what is odd by how often it is met, then by where it is met first: the same in every run."""
    name, odd = named
    return -odd.count, odd.first, name


def _summary(found: Survey) -> str:
    if not found.texts:
        return "No text was read."
    shapes = ("at least " if found.other_shapes else "") + counted(len(found.shapes), "shape")
    lengths = f"{found.shortest or 0:,} to {counted(found.longest, 'character')} long"
    return f"{counted(found.texts, 'text')}, {_different(found)}, in {shapes}; {lengths}."


def _different(found: Survey) -> str:
    return f"{'' if found.values.is_exact else 'about '}{len(found.values):,} different"


def columns_report(
    columns: Mapping[str, Survey], rows: int, top: int | None, rare: bool, remarks: Sequence[str], *, can_draw: bool
) -> Iterator[Block]:
    """Yield a profile of each column: share filled, distinct values, lengths, `top` of its shapes, what is odd."""
    for name, found in columns.items():
        filled = f"{100 * found.filled / found.texts:.1f} % filled" if found.texts else "empty"
        if found.texts < rows:
            filled = f"in {found.texts:,} of {counted(rows, 'row')}, {filled}"
        told = f"{filled}, {_different(found)}, {_lengths(found.shortest or 0, found.longest)} long"
        yield said((name or "(no name)", "strong"), f"  {told}")
        yield from types_report(found, rows, can_draw=can_draw)
        values = list(values_lines(found, top, rare=rare))
        yield from values
        shapes = found.ranked(rare=rare) if not values else []
        shown = shapes[: top or SHAPES_OF_COLUMN]
        for shape in shown:
            share = f"{100 * shape.count / found.texts:5.1f} %"
            text = Piece(shape.text or "(nothing)", "field0", most=WIDEST_SHAPE)
            yield said((f"  {share}  ", "quiet"), text, "  ", cut(shape.examples[0], least=10))
        if len(shapes) > len(shown):
            least = "at least " if found.other_shapes else ""
            more = counted(len(shapes) - len(shown), "further shape")
            yield said((f"  {'':7}  and {least}{more}; --top shows more", "quiet"))
        for kind, odd in sorted(found.oddities.items(), key=_oddest)[:4]:
            yield said(f"  {'':7}  ", (f"{kind}: {odd.count:,}, first on line {odd.first}", "warn"))
        yield BLANK
    for remark in remarks:
        yield Labelled("look at", remark, indent=0, tone="warn")
    yield said((f"{counted(rows, 'row')} in {counted(len(columns), 'column')}.", "strong"))


def values_lines(found: Survey, top: int | None, *, rare: bool) -> Iterator[Block]:
    """Yield the values of a column, `top` of them, where they are few and come again."""
    counts = found.few
    if not counts or 2 * len(counts) > found.texts:
        return
    for value, count in sorted(counts.items(), key=lambda each: (each[1] if rare else -each[1], each[0]))[:top]:
        # White space at an edge would not be seen.
        shown = value if value.strip() == value else f"'{value}'"
        yield said((f"  {100 * count / found.texts:5.1f} %  ", "quiet"), cut(shown, least=10) if value else "(nothing)")


def types_report(found: Survey, rows: int, *, can_draw: bool) -> Iterator[Block]:
    """Yield what the texts of a column of so many rows would convert to, how many would not, and how the values lie."""
    best = found.types.best if found.types is not None else None
    if found.may_be_key and found.texts == rows:
        yield said((f"  {'key':>7}  ", "quiet"), ("each row has a value of its own", "good"))
    if best is None:
        return
    missed = f", {best.missed:,} would not, as '{best.example}'" if best.missed else ", all of them"
    yield said((f"  {'type':>7}  ", "quiet"), (best.name, "field1"), f": {best.fit:,} would convert{missed}")
    if best.least is not None:
        buckets = best.buckets()
        lie = small_chart([0, *buckets], can_draw=can_draw)[1:] if buckets else ""
        ends = f"{FieldSpec.plain(best.least)} to {FieldSpec.plain(best.most)}"
        yield said((f"  {'values':>7}  ", "quiet"), ends, "  ", (lie, "quiet"))


def survey_as_data(found: Survey, rows: int, top: int, rare: bool) -> dict[str, Any]:
    """Return a survey of texts that so many rows have as plain data."""
    return {
        "texts": found.texts,
        "filled": found.filled,
        "distinct": len(found.values),
        "distinct_exact": found.values.is_exact,
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
        "values": dict(found.few.most_common()) if found.few is not None and found.types is not None else None,
        "oddities": {name: {"count": odd.count, "first": odd.first} for name, odd in found.oddities.items()},
        **_types_as_data(found, rows),
    }


def _types_as_data(found: Survey, rows: int) -> dict[str, Any]:
    if found.types is None:
        return {}
    told = [each for each in found.types.counts if each.fit]
    return {
        "may_be_key": found.may_be_key and found.texts == rows,
        "types": [
            {
                "type": each.name,
                "converts": each.fit,
                "does_not": each.missed,
                "example_that_does_not": each.example,
                "least": None if each.least is None else FieldSpec.plain(each.least),
                "most": None if each.most is None else FieldSpec.plain(each.most),
                "buckets": each.buckets(),
            }
            for each in sorted(told, key=lambda each: -each.fit)
            if 2 * each.fit >= found.types.filled
        ],
    }
