"""Finds suite files below folders, and patterns by their address."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

ENDING = ".suite.toml"
BASELINE_ENDING = ".baseline.json"


def find_suites(paths: Iterable[str] = ()) -> list[str]:
    """Return the suite files that `paths` name or that lie below them, the current folder when none is given.

    Folders and files whose name begins with a dot are passed by. Raises UsageError for a path that is not there, and
    when no suite is found.
    """
    asked = list(paths) or ["."]
    found = [file for path in asked for file in _below(path, ENDING)]
    if not found:
        raise UsageError(
            f"no suite found: no file ending in {ENDING} below {', '.join(asked)}; 'fieldstick new NAME' starts one"
        )
    return list({os.path.realpath(file): file for file in reversed(found)}.values())[::-1]


def baselines_without_suite(paths: Iterable[str] = ()) -> list[str]:
    """Return the baselines below folders, the current one when none is given, that have no suite beside them."""
    folders = [path for path in list(paths) or ["."] if os.path.isdir(path)]
    found = dict.fromkeys(file for path in folders for file in _below(path, BASELINE_ENDING))
    return [file for file in found if not os.path.lexists(file.removesuffix(BASELINE_ENDING) + ENDING)]


def _below(path: str, ending: str) -> Iterator[str]:
    if os.path.isfile(path):
        yield path
    elif os.path.isdir(path):
        for folder, folders, files in os.walk(path):
            folders[:] = sorted(name for name in folders if not name.startswith("."))
            for name in sorted(files):
                if name.endswith(ending) and not name.startswith("."):
                    yield os.path.normpath(os.path.join(folder, name))
    else:
        raise UsageError(f"{path}: there is no such file or folder")


def split_address(address: str) -> tuple[str, str | None]:
    """Split SUITE:PATTERN into its two names; the second is None when there is no colon.

    A colon that belongs to a path (as in C:/suites/loggers.suite.toml) is left in it.
    """
    suite, colon, pattern = address.rpartition(":")
    if not colon or "/" in pattern or "\\" in pattern or pattern.endswith(ENDING):
        return address, None
    return suite, pattern


def baseline_path(file: str) -> str:
    """Return where the baseline of the suite in a file lies: NAME.baseline.json beside it."""
    stem = file.removesuffix(ENDING) if file.endswith(ENDING) else os.path.splitext(file)[0]
    return stem + BASELINE_ENDING
