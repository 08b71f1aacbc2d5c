"""A difference between what is and what was recorded."""

from __future__ import annotations

from msgspec import Struct


class Change(Struct, frozen=True):
    """A field, or the place of the match, that differs from the baseline."""

    name: str
    before: str
    now: str
