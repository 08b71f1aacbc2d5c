"""A new pattern with its samples into a suite, which is begun where there is none."""

from __future__ import annotations

import os
from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.commands.new import write_new
from fieldstick.suites.editing import (
    check_free,
    checked_name,
    edit,
    names_in,
    text_of_file,
    with_pattern,
    with_sample,
    with_table,
)
from fieldstick.suites.finding import ENDING
from fieldstick.suites.starter import empty_suite
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence


class KeptPattern(Struct, frozen=True):
    """A pattern to keep: its name, its table and the texts of its samples."""

    name: str
    table: Mapping[str, Any]
    positive: Sequence[str]
    negative: Sequence[str]

    def into(self, document: str) -> str:
        """Return a suite's text with it."""
        document = with_pattern(document, self.name, self.table)
        for kind, texts in (("positive", self.positive), ("negative", self.negative)):
            for each in texts:
                document = with_sample(document, self.name, kind, {"text": each})
        return document


def check_keeping(kept_in: str, section: str, name: str) -> None:
    """Raise UsageError, before work is done, when a suite is none or can have no table of a name in a section."""
    checked_name(name)
    if not kept_in.endswith(ENDING) or os.path.lexists(kept_in):
        file = kept_in if kept_in.endswith(ENDING) else Workspace().suite(kept_in).file
        check_free(text_of_file(Path(file)), section, name)


def keep_with_samples(kept_in: str, kept: KeptPattern) -> Path:
    """Add a pattern with samples to a suite, by its name or its file, and return the file.

    Raises UsageError when there is one of that name or can be none, or the file's form does not allow it.
    """
    checked_name(kept.name)  # before a suite is begun for it
    file = Path(begun_file(kept_in))
    edit(file, kept.into)
    return file


def keep_route(
    kept_in: str, name: str, kept: Sequence[KeptPattern], shown: Sequence[str | None]
) -> tuple[Path, list[str]]:
    """Add patterns with samples, and a route of them in order, to a suite, all or none; return the file and the names.

    `shown` is for each pattern a text that the route gives to it, where there is one. A name that the suite has already
    gets a number. Raises UsageError as `keep_with_samples` does.
    """
    checked_name(name)
    file = Path(begun_file(kept_in))
    names: list[str] = []

    def added(document: str) -> str:
        taken = names_in(document, "patterns")
        for each in kept:
            free = next(one for one in _numbered(each.name) if one not in taken)
            taken.add(free)
            names.append(free)
            document = replace(each, name=free).into(document)
        samples = [{"text": text, "kind": each} for text, each in zip(shown, names, strict=True) if text is not None]
        return with_table(document, "routes", name, {"order": list(names), "samples": samples})

    edit(file, added)
    return file, names


def _numbered(name: str) -> Iterator[str]:
    yield name
    yield from (f"{name}-{number}" for number in count(2))


def begun_file(kept_in: str) -> str:
    """Return the file of a suite, by its name or its file, which is begun where there is none."""
    if kept_in.endswith(ENDING) and not os.path.lexists(kept_in):
        write_new(Path(kept_in), empty_suite)
    return kept_in if kept_in.endswith(ENDING) else Workspace().suite(kept_in).file
