"""Two drafts held against each other over the texts of a source: gained, lost, captured otherwise."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct, field

from fieldstick.runs.trying import CHUNK, Tried, TryTally

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from fieldstick.matching.matcher import Matcher
    from fieldstick.matching.result import Result


class Shift(Struct, frozen=True):
    """A text on which two drafts differ: gained, lost, or captured otherwise."""

    kind: str
    before: Tried
    now: Tried


class Shifts(Struct):
    """How two drafts differ over a source: counts, and the first texts of each kind."""

    gained: int = 0
    lost: int = 0
    otherwise: int = 0
    first: list[Shift] = field(default_factory=list)


def shift(before: Tried, now: Tried) -> Shift | None:
    """Tell how a text came out otherwise; None when it did not. Fields are compared by name and place."""
    if before.fits != now.fits:
        return Shift("gained" if now.fits else "lost", before, now)
    if before.fits and _captured(before.result) != _captured(now.result):
        return Shift("otherwise", before, now)
    return None


def _captured(result: Result) -> list[dict[str, tuple[int, int]]]:
    return [dict(zip(("", *match.layout.names), match.spans, strict=True)) for match in (*result.matches, *result.also)]


def compare(
    texts: Iterable[tuple[str, int, str]],
    before: Matcher,
    now: Matcher,
    *,
    most: int,
    progress: Callable[[int], None] | None = None,
) -> tuple[Shifts, TryTally]:
    """Read texts, given with source and line, with two drafts and say on which they differ.

    `most` shifts of each kind are kept; the tally is that of `now`.
    """
    found, tally = Shifts(), TryTally()
    kept = {"gained": 0, "lost": 0, "otherwise": 0}
    for count, (source, number, text) in enumerate(texts, 1):
        one, other = (Tried(source, number, each.read_or_give_up(text)) for each in (before, now))
        tally.add(other)
        each = shift(one, other)
        if each is not None:
            setattr(found, each.kind, getattr(found, each.kind) + 1)
            if kept[each.kind] < most:
                kept[each.kind] += 1
                found.first.append(each)
        if progress is not None and count % CHUNK == 0:
            progress(CHUNK)
    return found, tally
