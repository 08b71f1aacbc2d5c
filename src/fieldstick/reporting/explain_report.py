"""The explanation of an expression, for a person and as JSON."""

from __future__ import annotations

from collections import Counter
from itertools import pairwise
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.analysis.examples import LONGEST
from fieldstick.drafting.written import Written
from fieldstick.reporting.document import BLANK, Labelled, Mark, OutlineBlock, OutlineRow, Ruled, cut, said
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.analysis.hazards import Hazard
    from fieldstick.drafting.outline import Outline, OutlineLine
    from fieldstick.reporting.document import Block


LONGEST_SOURCE = 24
"""Characters of a hazard's piece of source that are named."""


MOST_LINES = 24
"""Lines of an outline that are shown unless more are asked for: what a small terminal holds."""

LONGEST_TEXT = 60
"""Characters of a text that shows a hazard."""


class Explanation(Struct, frozen=True):
    """All that is said of an expression; `written` is its text before parts were filled in."""

    expression: str
    written: str
    flags: tuple[str, ...]
    reach: str
    outline: Outline
    groups: tuple[str | None, ...]
    examples: tuple[str, ...]
    hazards: Sequence[Hazard]
    parts: Mapping[tuple[int, int], str] = {}


def foreign_words(engine: str, written: str) -> Iterator[Block]:
    """Yield how a pattern of another engine is written, whose meaning is told in Python's notation below."""
    yield Ruled(written, indent=2)
    yield said((f"  written for {engine}; below stands what it means there, in Python's notation", "quiet"))
    yield BLANK


def written_for(engine: str, expression: str) -> dict[str, Any]:
    """Return as data how a pattern of another engine is written."""
    return {"written_for": {"engine": engine, "expression": expression}}


def explanation_report(found: Explanation, depth: int | None = None) -> Iterator[Block]:
    """Yield the outline, the lengths, the examples and the hazards.

    The outline is shown `depth` levels deep; where that is not given, as deep as few lines allow.
    """
    yield Ruled(found.written, indent=2)
    told = f"reach {found.reach}" + (f"; flags {', '.join(found.flags)}" if found.flags else "")
    yield said((f"  {told}", "quiet"))
    yield BLANK
    yield from _outline(found.outline.lines, depth)
    if found.outline.gives_back:
        yield BLANK
        words = (
            "a quantifier takes as many as it can, and gives back what the rest needs, unless something else is said"
        )
        yield Labelled("repeats", words, indent=2)
    yield BLANK
    yield Labelled("takes", _lengths(found.outline), indent=2)
    if found.groups:
        names = ", ".join(f"{number} {name or '(no name)'}" for number, name in enumerate(found.groups, 1))
        yield Labelled("groups", names, indent=2)
    for number, text in enumerate(found.examples):
        label = "fits" if number == 0 else ""
        yield said("  ", (f"{label:<9}  ", "quiet"), cut(_bounded(text), "good"))
    if not found.examples:
        yield Labelled("fits", _no_example(found), indent=2)
    yield from hazards_report(found.expression, found.hazards, parts=found.parts)


def _bounded(text: str) -> str:
    """Return a text whose ends can be seen."""
    return text if text and text == text.strip() else f"'{text}'" if text else "(nothing)"


def _outline(lines: Sequence[OutlineLine], depth: int | None) -> Iterator[Block]:
    deepest = 1 + max((line.depth for line in lines), default=0)
    counts = Counter(line.depth for line in lines)
    shown = depth or next((each for each in range(deepest, 1, -1) if _up_to(counts, each) <= MOST_LINES), 1)
    kept = [line for line in lines if line.depth < shown]
    cut_short = len(kept) - MOST_LINES if depth is None else 0
    if cut_short > 0:
        kept = kept[:MOST_LINES]
    following = dict(pairwise([*lines, None]))
    rows = []
    for line in kept:
        below = following[line]
        folded = below is not None and below.depth > line.depth and (below.depth >= shown or line is kept[-1])
        rows.append(OutlineRow(line.depth, line.source, line.words.removesuffix(":") + " …" if folded else line.words))
    yield OutlineBlock(tuple(rows))
    left = len(lines) - len(kept)
    if left:
        needed = max(deepest, 1)
        yield said((f"  {counted(left, 'further line')} folded; --depth {needed} shows all", "quiet"))


def _up_to(counts: Counter[int], depth: int) -> int:
    return sum(count for each, count in counts.items() if each < depth)


def _no_example(found: Explanation) -> str:
    if found.outline.shortest > LONGEST:
        return f"no example: the shortest text that may fit has {found.outline.shortest:,} characters"
    return f"no text was found that fits, with reach {found.reach}; perhaps there is none"


def _lengths(found: Outline) -> str:
    if found.longest is None:
        return f"{counted(found.shortest, 'character')} at the least, without an upper bound"
    if found.longest == found.shortest:
        return f"exactly {counted(found.shortest, 'character')}"
    return f"{found.shortest:,} to {counted(found.longest, 'character')}"


def hazards_report(
    expression: str,
    hazards: Sequence[Hazard],
    *,
    brief: bool = False,
    parts: Mapping[tuple[int, int], str] | None = None,
) -> Iterator[Block]:
    """Yield each hazard with its place; briefly, one line each. `parts` says where parts were filled in."""
    written = Written(expression, parts or {})
    if hazards and not brief:
        yield BLANK
    for hazard in hazards:
        source = expression[slice(*hazard.span)]
        shown = source if len(source) <= LONGEST_SOURCE else source[: LONGEST_SOURCE - 1] + "…"
        place, part = written.place(hazard.span)
        where = f"at {place[0]}" if part is None else f"in the part '{part}'"
        yield said(("  hazard  ", "warn"), (hazard.kind, "strong"), f"  {shown}  {where}")
        if not brief:
            yield Ruled(written.text, (Mark(*place, kind="match", tone="warn"),))
        yield Labelled("because", hazard.reason)
        if not brief:
            yield Labelled("shown by", f"{_quoted(hazard.text)} {hazard.now}; with the remedy {hazard.then}")
            yield Labelled("instead", hazard.remedy)
    if not getattr(hazards, "complete", True):
        yield said(("  it is too large to be looked through for hazards as a whole", "quiet"))


def _quoted(text: str) -> str:
    """Return a text as it is named: in full where it is short."""
    shown = text if len(text) <= LONGEST_TEXT else text[: LONGEST_TEXT - 1] + "…"
    return f"'{shown}'" if text else "an empty text"


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
        {
            "kind": each.kind,
            "span": list(each.span),
            "reason": each.reason,
            "remedy": each.remedy,
            "changed": each.changed,
            "text": each.text,
            "now": each.now,
            "then": each.then,
        }
        for each in hazards
    ]
