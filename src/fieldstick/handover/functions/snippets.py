"""The pieces of code that functions of a language are made of: files in that language, parted by lines of a name."""

from __future__ import annotations

import re
from functools import cache
from importlib.resources import files
from typing import TYPE_CHECKING

from fieldstick.handover.functions.task import MOMENTS, NUMBERS
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from fieldstick.handover.functions.task import Task

NEEDED_BY = {
    "converted": (*NUMBERS, *MOMENTS),
    "number": NUMBERS,
    "integer": ("integer",),
    "decimal": ("decimal",),
    "moment": MOMENTS,
}
"""The types of fields that need a piece; any other is needed where it is called."""

_NAME = compiled_later(r"^(?://|#) ---- (\w+)\n", re.MULTILINE)


@cache
def pieces(file: str) -> dict[str, str]:
    """Return the pieces of a file of the folder `code` by their names, in their order."""
    text = files("fieldstick.handover.functions").joinpath("code", file).read_text("utf-8")
    _, *parts = _NAME.split(text)
    return dict(zip(parts[::2], parts[1::2], strict=True))


def helpers(task: Task, file: str, body: str, called: dict[str, str]) -> str:
    """Return the pieces that a function needs, each after an empty line; `called` says how others are called in it."""
    found = [
        text
        for name, text in pieces(file).items()
        if (task.has(*NEEDED_BY[name]) if name in NEEDED_BY else called[name] in body)
    ]
    return "".join(f"\n{each}" for each in found)
