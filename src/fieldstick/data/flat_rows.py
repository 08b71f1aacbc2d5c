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
        self._whole = _Object("")

    def of(self, rows: Sequence[Mapping[str, Any]]) -> Iterator[Mapping[str, Any]]:
        """Yield rows, what objects within hold by their pointers; arrays and empty objects stay what they are."""
        for row in rows:
            self._whole.learn(row, DEEPEST)
        for row in rows:
            if dict in map(type, row.values()):
                flat: dict[str, Any] = {}
                self._whole.lay(row, DEEPEST, flat)
                yield flat
            else:
                yield row


class _Object:
    """An object within rows: the keys that it was seen to have, up to one too many, and the objects within it."""

    def __init__(self, pointer: str) -> None:
        self._pointer = pointer
        self._keys = set[str]()
        self._within: dict[str, _Object] = {}
        self._pointers: dict[str, str] = {}

    @property
    def is_entered(self) -> bool:
        return len(self._keys) <= MOST_KEYS

    def learn(self, row: Mapping[str, Any], most: int) -> None:
        """Note the keys of the objects in a row."""
        for key, value in row.items():
            if type(value) is dict and value and most:
                within = self._within.get(key)
                if within is None:
                    within = self._within[key] = _Object(self._pointer_of(key))
                if within.is_entered:
                    if not value.keys() <= within._keys:
                        within._keys.update(value)
                    within.learn(value, most - 1)

    def lay(self, row: Mapping[str, Any], most: int, flat: dict[str, Any]) -> None:
        """Put what a row holds into `flat`."""
        for key, value in row.items():
            if type(value) is dict and value and most and self._within[key].is_entered:
                self._within[key].lay(value, most - 1, flat)
            else:
                flat[self._name_of(key)] = value

    def _pointer_of(self, key: str) -> str:
        return f"{self._pointer}/{key.replace('~', '~0').replace('/', '~1')}"

    def _name_of(self, key: str) -> str:
        if not self._pointer:
            return key
        name = self._pointers.get(key)
        if name is None:
            name = self._pointers[key] = self._pointer_of(key)
        return name
