"""Rows on their way in and out: columns, what takes rows, and values as texts."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import TYPE_CHECKING, Any, Protocol

from msgspec import Struct

from fieldstick.files import put_in_place

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.data.placed import PlacedRows
    from fieldstick.files import PartFile

Row = list[Any]

MISSING = object()
"""Stands for no value at all, which is not null."""


class Column(Struct, frozen=True):
    """A column of what is written: its name and the type of its values, a field type or `mixed`."""

    name: str
    type: str = "text"


class RowTable:
    """A table as columns and an iterator of numbered rows, each row's cells in the columns' order.

    A column whose name was there before gets a number.
    """

    def __init__(self, columns: list[str], rows: Iterator[tuple[int, tuple[Any, ...]]]) -> None:
        self.columns, self.rows = told_apart(columns), rows


class TableSink(ABC):
    """Takes the rows of one table.

    `encode` may be called in another process, and what it returns is handed to `write` in the right order.
    """

    room: int | None = None
    """Rows for which there is room still; None for any number."""

    @abstractmethod
    def encode(self, rows: list[Row]) -> Any:
        """Bring rows into the form that `write` takes."""

    @property
    def takes_placed(self) -> bool:
        """Whether rows can be given as places in a text, to `encode_placed`."""
        return False

    def encode_placed(self, placed: PlacedRows) -> Any:
        """Bring rows that are places in a text into the form that `write` takes; None where values are needed."""
        raise NotImplementedError

    @abstractmethod
    def write(self, payload: Any) -> None:
        """Write what `encode` made. Raises UsageError when it cannot be written."""


class Sink(ABC):
    """A file, or standard output, that takes one table or several and appears whole or not at all."""

    several_tables = False

    @abstractmethod
    def table(self, name: str, columns: Sequence[Column]) -> TableSink:
        """Begin a table."""

    @abstractmethod
    def complete(self) -> list[PartFile]:
        """Write what is left to write, and return the files that are then to be put in place, together with others.

        Raises UsageError when it cannot be written.
        """

    def finish(self) -> None:
        """Put everything in place. Raises UsageError when it cannot be written."""
        put_in_place(self.complete())

    @abstractmethod
    def abandon(self) -> None:
        """Drop what was written."""


class RowFormat(Protocol):
    """Writes rows as text."""

    def head(self) -> str:
        """Return what stands before the rows."""

    def body(self, rows: list[Row]) -> str:
        """Return rows as text."""

    @property
    def takes_placed(self) -> bool:
        """Whether it writes rows that are places in a text."""

    def placed_body(self, placed: PlacedRows) -> bytes:
        """Return rows that are places in a text as UTF-8."""


def text_of(value: Any) -> str | None:
    """Write a cell's value as a text: exact numbers, dates and times of ISO 8601, JSON for what holds others.

    None for null, no value at all.
    """
    if isinstance(value, str):
        return value
    if value is None or value is MISSING:
        return None
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, dict | list):
        import json

        return json.dumps(value, ensure_ascii=False, default=str)
    if isinstance(value, bytes):
        return value.decode("utf-8", "surrogateescape")
    return value.isoformat() if hasattr(value, "isoformat") else str(value)


def told_apart(names: list[str], *, fold: bool = False) -> list[str]:
    """Return names of which none is there twice: a later one gets a number. `fold` takes case for the same."""
    found: list[str] = []
    taken: set[str] = set()
    for name in names:
        number, each = 2, name
        while (each.casefold() if fold else each) in taken:
            each, number = f"{name} ({number})", number + 1
        found.append(each)
        taken.add(each.casefold() if fold else each)
    return found


def second_of(name: str) -> str:
    """Return what a second column of a name is called."""
    return told_apart([name, name])[1]


def first_line(error: BaseException) -> str:
    """Return the first line of what a library says went wrong."""
    return str(error).split("\n")[0]
