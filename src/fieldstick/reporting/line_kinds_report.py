"""The kinds of line of a source, each with its shapes, for a person and as JSON."""

from __future__ import annotations

import re
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
    about, seen = ("about ", " seen") if found.is_sample else ("", "")
    for number, kind in enumerate(kinds[:most], 1):
        lines = found.about([kind])
        count = f"{about}{_told(lines, found):,}"
        share = f"{100 * lines / found.all_lines:.1f} %"
        told = _with_repeats_told(kind.text) or "(nothing)"
        yield said((f"{number:>3}  ", "quiet"), (f"{count:>9}  {share:>7}  ", "strong"), (told, "field0"))
        yield said((f"     first{seen} on line ", "quiet"), (f"{kind.first:,}  ", "quiet"), cut(kind.example, least=20))
        yield from _shapes(kind)
    left = kinds[most:]
    if left:
        rest = counted(_told(found.about(left), found), "line")
        yield said((f"and {counted(len(left), 'rarer kind')} of {about}{rest}; --kinds shows more", "quiet"))
    yield BLANK
    covered = 100 * found.about(kinds[:most]) / found.all_lines
    words = f"{counted(len(kinds), 'kind')} of line; those shown cover {covered:.1f} %"
    if found.is_sample:
        words += f"; told from {counted(found.lines, 'line')} of {found.all_lines:,}"
    if not found.is_exact:
        words += "; there are too many forms to keep them apart, and some lines may stand elsewhere"
    yield said((words, "strong"))
    yield BLANK


_AGAIN = re.compile(r"(.{6,100}?)\1{5,}")
"""What comes six times or more in turn."""


def _with_repeats_told(template: str) -> str:
    """Return a template whose parts that come again and again stand there once, with how often they do."""

    def once(found: re.Match[str]) -> str:
        times = len(found[0]) // len(found[1])
        blank = " " * found[1].endswith(" ")
        return f"{found[1].rstrip()} … {times} times …{blank}"

    return _AGAIN.sub(once, template)


def _told(lines: int, found: LineKinds) -> int:
    """Return how many lines are told: of a sample no more digits than it says."""
    return int(float(f"{lines:.3g}")) if found.is_sample else lines


def _shapes(kind: LineKind) -> Iterator[Block]:
    """Yield the commonest shapes of a kind, where it has several."""
    ranked = kind.shapes()
    if len(ranked) < 2:
        return
    for form in ranked[:SHAPES_OF_KIND]:
        share = f"     {100 * form.stands_for / kind.stands_for:5.1f} %  "
        yield said((share, "quiet"), cut(form.pieces[0] or "(nothing)", least=20))
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
                "count": found.about([kind]),
                "share": found.about([kind]) / found.all_lines,
                "first": kind.first,
                "example": kind.example,
                "shapes": len(kind.shapes()),
            }
            for kind in kinds[:most]
        ],
    }
