"""Markdown in which nothing that came out of a suite or a text is markup."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

MOST_LINES = 400
"""Lines that are folded; a review comment has no room for more."""

_MARKUP = str.maketrans({each: f"\\{each}" for each in "\\*_[]<>|#"})


def escaped(text: str) -> str:
    """Write a text so that none of it is markup, and that it stays on one line; code in it is left as it is."""
    pieces = text.split("`")
    if len(pieces) % 2:
        pieces[::2] = [piece.translate(_MARKUP) for piece in pieces[::2]]
        return "`".join(pieces)
    return text.translate(_MARKUP)


def code(text: str) -> str:
    """Write a text as code in a cell of a table."""
    shown = "".join(each if each.isprintable() else "\N{REPLACEMENT CHARACTER}" for each in text).replace("|", "\\|")
    fence = "`" * (1 + _longest_fence(shown))
    pad = " " if "`" in shown else ""
    return f"{fence}{pad}{shown}{pad}{fence}"


def row(cells: Sequence[str]) -> str:
    """Write a row of a table; the cells are Markdown already."""
    return f"| {' | '.join(cells)} |"


def folded(summary: str, lines: Sequence[str]) -> list[str]:
    """Return lines of plain text as they stand, folded under a summary."""
    if not lines:
        return []
    shown = list(lines[:MOST_LINES])
    if len(lines) > MOST_LINES:
        shown.append(f"and {len(lines) - MOST_LINES} more lines")
    fence = "`" * max(3, 1 + max(map(_longest_fence, shown)))
    return ["<details>", f"<summary>{summary}</summary>", "", fence, *shown, fence, "", "</details>"]


def _longest_fence(text: str) -> int:
    return max((len(run) for run in "".join(each if each == "`" else " " for each in text).split()), default=0)
