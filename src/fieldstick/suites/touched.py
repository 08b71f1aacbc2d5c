"""The files that a suite is made of: its own, those it borrows, its samples' and trials', its baseline."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

import tomli

from fieldstick.suites.finding import baseline_path

if TYPE_CHECKING:
    from collections.abc import Iterator

FILE_KEYS = frozenset({"file", "table", "data"})
"""Keys of a suite file that name a file beside it."""


def files_of(suite: str) -> set[str]:
    """Return the real paths of all files that decide what a suite file comes to, whether they are there or not."""
    found: set[str] = {os.path.realpath(baseline_path(suite))}
    waiting = [os.path.realpath(suite)]
    while waiting:
        file = waiting.pop()
        if file in found:
            continue
        found.add(file)
        folder = os.path.dirname(file)
        data = _tables_of(file)
        found |= {os.path.realpath(os.path.join(folder, each)) for each in named_in(data)}
        borrowed = data.get("borrow")
        if isinstance(borrowed, dict):
            waiting += [
                os.path.realpath(os.path.join(folder, each)) for each in borrowed.values() if isinstance(each, str)
            ]
    return found


def named_in(data: Any) -> Iterator[str]:
    """Yield the files that the tables of a suite name, as they are named."""
    waiting: list[Any] = [data]
    while waiting:
        value = waiting.pop()
        if isinstance(value, dict):
            for key, each in value.items():
                if key in FILE_KEYS and isinstance(each, str):
                    yield each
                waiting.append(each)
        elif isinstance(value, list):
            waiting += value


def _tables_of(file: str) -> dict[str, Any]:
    """Return what a suite file holds; nothing for one that cannot be read."""
    try:
        with open(file, "rb") as stream:
            return tomli.load(stream)
    except (tomli.TOMLDecodeError, UnicodeDecodeError, OSError, RecursionError):
        return {}


def files_named_in(folder: str, path: str) -> Iterator[str]:
    """Yield the files that a suite below a folder names, by their path below it."""
    for each in named_in(_tables_of(os.path.join(folder, path))):
        yield os.path.normpath(os.path.join(os.path.dirname(path), each))
