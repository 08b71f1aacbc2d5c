"""Routes made ready: the first pattern that fits a text names its kind."""

from __future__ import annotations

from itertools import compress
from operator import not_
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.matching.bulk import BulkReader
from fieldstick.matching.matcher import Matcher, prepare

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.suites.uses import Route


class ReadyRoute(Struct, frozen=True):
    """A route made ready. A kind is the index of its pattern in the order; the one for all others comes last."""

    kinds: tuple[str, ...]
    patterns: tuple[Matcher, ...]
    readers: tuple[BulkReader, ...]

    def kind(self, text: str) -> str:
        """Return the kind of a text. Raises BudgetSpent."""
        for name, pattern in zip(self.kinds, self.patterns, strict=False):
            if pattern.read(text).fits:
                return name
        return self.kinds[-1]

    def sort(self, texts: Sequence[str]) -> list[int | None]:
        """Return the kind of each text by its index in `kinds`; None where that was given up."""
        found: list[int | None] = [len(self.patterns)] * len(texts)
        left: Sequence[int] = range(len(texts))
        for kind, reader in enumerate(self.readers):
            fits = reader.fits(texts)
            if None in fits:
                for index, each in zip(left, fits, strict=True):
                    if each is None:
                        found[index] = None
                fits = [each is not False for each in fits]
            for index in compress(left, fits):
                if found[index] is not None:
                    found[index] = kind
            others = list(map(not_, fits))
            left, texts = list(compress(left, others)), list(compress(texts, others))
            if not left:
                break
        return found

    def overlaps(self, texts: Sequence[str]) -> list[tuple[int, ...]]:
        """Return every kind whose pattern fits, for each text."""
        found: list[list[int]] = [[] for _ in texts]
        for kind, reader in enumerate(self.readers):
            for index, each in enumerate(reader.fits(texts)):
                if each:
                    found[index].append(kind)
        return [tuple(each) for each in found]


def prepare_route(route: Route) -> ReadyRoute:
    """Make a route ready. Raises ExpressionError, EngineUnusable and UsageError as `prepare` does."""
    patterns = tuple(prepare(pattern) for pattern in route.order)
    return ReadyRoute(route.kinds, patterns, tuple(BulkReader(pattern) for pattern in patterns))
