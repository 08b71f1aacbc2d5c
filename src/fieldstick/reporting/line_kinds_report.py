"""The kinds of line of a source, each with its shapes, for a person and as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.reporting.document import BLANK, cut, said
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.reporting.document import Block
    from fieldstick.runs.line_kinds import LineKinds
    from fieldstick.runs.line_templates import LineKind

SHAPES_OF_KIND = 2
"""Shapes of a kind that are shown below it, where there are several."""


def kinds_report(found: LineKinds, most: int) -> Iterator[Block]:
    """Yield the kinds, the commonest first, each with a line of it, and how many there are."""
    kinds = found.kinds()
    about = "about " if found.is_sample else ""
    for number, kind in enumerate(kinds[:most], 1):
        count = f"{about}{found.about(kind.count):,}"
        share = f"{100 * kind.count / found.lines:.1f} %"
        yield said(
            (f"{number:>3}  ", "quiet"), (f"{count:>9}  {share:>7}  ", "strong"), (kind.text or "(nothing)", "field0")
        )
        yield said(("     first on line ", "quiet"), (f"{kind.first:,}  ", "quiet"), cut(kind.example, least=20))
        yield from _shapes(kind)
    left = kinds[most:]
    if left:
        rest = found.about(sum(kind.count for kind in left))
        yield said(
            (f"and {counted(len(left), 'rarer kind')} of {about}{counted(rest, 'line')}; --kinds shows more", "quiet")
        )
    yield BLANK
    covered = sum(kind.count for kind in kinds[:most])
    words = f"{counted(len(kinds), 'kind')} of line; those shown cover {100 * covered / found.lines:.1f} %"
    if found.is_sample:
        words += f"; told from {counted(found.lines, 'line')} of {found.all_lines:,}"
    if not found.is_exact:
        words += "; there are too many forms to keep them apart, and some lines may stand elsewhere"
    yield said((words, "strong"))
    yield BLANK


def _shapes(kind: LineKind) -> Iterator[Block]:
    """Yield the commonest shapes of a kind, where it has several."""
    ranked = sorted(kind.shapes.items(), key=lambda each: (-each[1].count, each[1].first))
    if len(ranked) < 2:
        return
    for shape, form in ranked[:SHAPES_OF_KIND]:
        yield said((f"     {100 * form.count / kind.count:5.1f} %  ", "quiet"), cut(shape or "(nothing)", least=20))
    if len(ranked) > SHAPES_OF_KIND:
        yield said((f"     and {counted(len(ranked) - SHAPES_OF_KIND, 'further shape')}", "quiet"))


def kinds_as_data(found: LineKinds, most: int) -> dict[str, Any]:
    """Return the kinds as plain data, the commonest first; counts are about right where a sample was looked at."""
    kinds = found.kinds()
    return {
        "kinds": len(kinds),
        "lines": found.all_lines,
        "looked_at": found.lines,
        "exact": found.is_exact and not found.is_sample,
        "shown": [
            {
                "template": kind.text,
                "count": found.about(kind.count),
                "share": kind.count / found.lines,
                "first": kind.first,
                "example": kind.example,
                "shapes": len(kind.shapes),
            }
            for kind in kinds[:most]
        ],
    }
