"""What is asked of an automaton: how an expression is read, and several of them joined."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from msgspec import Struct

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach

How = Literal["any", "all", "none"]


class Reading(Struct, frozen=True):
    """An expression as it is read: within which reach, with which flags."""

    expression: str
    reach: Reach = "whole"
    flags: frozenset[str] = frozenset()


class Joined(Struct, frozen=True):
    """What any, all or none of several take."""

    how: How
    parts: tuple[Asked, ...]


Asked = Reading | Joined


def readings_of(asked: Asked) -> list[Reading]:
    """Return the readings that something is made of, in order."""
    if isinstance(asked, Reading):
        return [asked]
    return [reading for part in asked.parts for reading in readings_of(part)]
