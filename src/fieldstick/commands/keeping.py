"""A new pattern with its samples into a suite, which is begun where there is none."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fieldstick.commands.new import write_new
from fieldstick.suites.editing import checked_name, edit, with_pattern, with_sample
from fieldstick.suites.finding import ENDING
from fieldstick.suites.starter import empty_suite
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence


def keep_with_samples(
    kept_in: str, name: str, table: Mapping[str, Any], positive: Sequence[str], negative: Sequence[str]
) -> Path:
    """Add a pattern with samples to a suite, by its name or its file, and return the file.

    Raises UsageError when there is one of that name or can be none, or the file's form does not allow it.
    """
    checked_name(name)  # before a suite is begun for it
    file = Path(begun_file(kept_in))

    def added(document: str) -> str:
        document = with_pattern(document, name, table)
        for kind, texts in (("positive", positive), ("negative", negative)):
            for each in texts:
                document = with_sample(document, name, kind, {"text": each})
        return document

    edit(file, added)
    return file


def begun_file(kept_in: str) -> str:
    """Return the file of a suite, by its name or its file, which is begun where there is none."""
    if kept_in.endswith(ENDING) and not os.path.lexists(kept_in):
        write_new(Path(kept_in), empty_suite)
    return kept_in if kept_in.endswith(ENDING) else Workspace().suite(kept_in).file
