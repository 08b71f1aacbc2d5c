"""Rows that hold objects laid flat: each key within them is a column, called by its JSON Pointer (RFC 6901)."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

DEEPEST = 8
"""Objects in one another that are entered."""

MOST_KEYS = 40
"""Keys of an object up to which they are columns; one with more holds something else by each, as readings by plot."""


class FlatRows:
    """Lays rows flat, some at a time: an object of which very many keys were seen by then stays one value."""

    def __init__(self) -> None:
        self._keys: dict[str, set[str]] = {}
        """The keys of each object, by its pointer."""

    def of(self, rows: Sequence[Mapping[str, Any]]) -> Iterator[dict[str, Any]]:
        """Yield rows, what objects within hold by their pointers; arrays and empty objects stay what they are."""
        for row in rows:
            self._learn(row, "", DEEPEST)
        for row in rows:
            yield dict(self._flat(row, "", DEEPEST))

    def _learn(self, row: Mapping[str, Any], above: str, most: int) -> None:
        for key, value in row.items():
            if most and isinstance(value, dict) and value:
                within = f"{above}/{_escaped(key)}"
                known = self._keys.setdefault(within, set())
                if len(known) <= MOST_KEYS:
                    known.update(value)
                    self._learn(value, within, most - 1)

    def _flat(self, row: Mapping[str, Any], above: str, most: int) -> Iterator[tuple[str, Any]]:
        for key, value in row.items():
            within = f"{above}/{_escaped(key)}"
            if most and isinstance(value, dict) and value and len(self._keys[within]) <= MOST_KEYS:
                yield from self._flat(value, within, most - 1)
            else:
                yield within if above else key, value


def _escaped(key: str) -> str:
    return key.replace("~", "~0").replace("/", "~1")
