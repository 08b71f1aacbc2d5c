"""What keeps texts from fitting: causes with their counts, and a text of each."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.drafting.causes import found_words
from fieldstick.reporting.document import BLANK, Labelled, Ruled, said
from fieldstick.reporting.why_report import stop_marks
from fieldstick.reporting.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.causes import Cause, Causes
    from fieldstick.reporting.document import Block

RARE = 3
"""Of the causes that are shown, one in so many is one of the rarest, where not all are shown."""


def shown_of(causes: list[Cause], most: int) -> tuple[list[Cause], list[Cause]]:
    """Return the commonest and the rarest causes to show, no more than `most` together."""
    if len(causes) <= most:
        return causes, []
    rare = most // RARE
    return causes[: most - rare], causes[len(causes) - rare :]


def causes_report(causes: Causes, most: int) -> Iterator[Block]:
    """Yield the causes, the commonest first, and the rarest after those that are left out."""
    ranked = causes.ranked
    common, rare = shown_of(ranked, most)
    for each in common:
        yield from _cause(each)
    left = len(ranked) - len(common) - len(rare)
    if left:
        texts = sum(each.count for each in ranked[len(common) : len(common) + left])
        yield said(
            (f"  … {counted(left, 'other cause')} of {counted(texts, 'text')}; --show {len(ranked)} shows all", "quiet")
        )
        yield BLANK
    for each in rare:
        yield from _cause(each)
    if not ranked and not causes.unseen:
        return
    least, greatest = (ranked[-1].count, ranked[0].count) if ranked else (0, 0)
    words = f"{counted(len(ranked), 'cause')}: the commonest of {counted(greatest, 'text')}, the rarest of {least:,}"
    yield said((words, "strong"))
    if causes.taken_alike:
        alike = f"{counted(causes.taken_alike, 'text')} taken to stop as one does that is the same up to there"
        yield said((f"{alike}, but for digits", "quiet"))
    if causes.unseen:
        yield said((f"{counted(causes.unseen, 'text')} not looked into: the search ended after its steps", "quiet"))


def _cause(cause: Cause) -> Iterator[Block]:
    miss = cause.first
    yield said((f"{cause.count:>7,} ", "bad"), (cause.words, "strong"))
    yield Ruled(miss.text, stop_marks(miss.stop) if miss.stop is not None else (), indent=8)
    found = ", ".join(found_words(cause))
    where = f"{miss.source}:{miss.number}"
    yield Labelled("found", f"{found}  ({where})" if found else f"{miss.words}  ({where})", indent=8, gap=7)
    yield BLANK


def causes_as_data(causes: Causes, most: int) -> dict[str, Any]:
    """Return the causes as plain data, the commonest first; the rarest at the end."""
    common, rare = shown_of(causes.ranked, most)
    return {
        "causes": len(causes.ranked),
        "texts": causes.total,
        "taken_alike": causes.taken_alike,
        "not_looked_into": causes.unseen,
        "shown": [_as_data(each) for each in (*common, *rare)],
    }


def _as_data(cause: Cause) -> dict[str, Any]:
    first = cause.first
    return {
        "words": cause.words,
        "count": cause.count,
        "found": dict(cause.found.most_common()),
        "first": {"source": first.source, "line": first.number, "text": first.text},
    }
