"""Fields as they are spelled in an expression, read again to be written otherwise."""

from __future__ import annotations

from typing import NamedTuple

from fieldstick.lean import compiled_later


class SpelledField(NamedTuple):
    """A field as it is spelled, with the mark behind it where it may be absent."""

    name: str
    inner: str
    may_lack: str = ""

    @property
    def grouped(self) -> str:
        """What is in it, in a group where it is a choice or may be absent."""
        alone = not self.may_lack and "|" not in _NO_CHOICE.sub("", self.inner)
        return self.inner if alone else f"(?:{self.inner}){self.may_lack}"


_NO_CHOICE = compiled_later(r"\\.|\[[^\]]*\]|\((?:[^()]|\([^()]*\))*\)")
"""Where a bar parts no options of all that is spelled."""


def field_in(spelled: str) -> SpelledField | None:
    """Return the field that a piece is, None for another one."""
    if not spelled.startswith("(?P<"):
        return None
    may_lack = "?" * spelled.endswith(")?")
    name, inner = spelled[4 : -1 - len(may_lack)].split(">", 1)
    return SpelledField(name, inner, may_lack)


def ungrouped(spelled: str) -> str:
    """Return a choice without the group around it, which a field is already."""
    if not spelled.startswith("(?:") or not spelled.endswith(")"):
        return spelled
    bare = _NO_MARK.sub(lambda found: "_" * len(found[0]), spelled)
    depth = 0
    for at, each in enumerate(bare):
        depth += (each == "(") - (each == ")")
        if not depth:
            return spelled[3:-1] if at == len(bare) - 1 else spelled
    return spelled


_NO_MARK = compiled_later(r"\\.|\[[^\]]*\]")
"""Where a parenthesis begins no group."""
