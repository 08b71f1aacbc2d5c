"""Templates over the fields of a match: what a rewrite puts in place of it, what an extraction prints.

Grammar (ABNF of RFC 5234, SP a blank):

    template  = *( literal / "{{" / "}}" / hole )
    hole      = "{" name [ ":" treatment ] "}"
    treatment = "value" / "upper" / "lower" / part / mask
    part      = ( "first" / "last" ) SP count
    mask      = "mask" [ SP "but" SP part ]
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, NamedTuple

from msgspec import Struct

from fieldstick.errors import UsageError, hint
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

MATCH = "match"
"""The name that stands for the text of the whole match."""

MASK = "*"
"""What stands for each masked code point."""

_PIECE = compiled_later(r"(?P<open>\{\{)|(?P<close>\}\})|\{(?P<hole>[^{}]*)\}|(?P<literal>[^{}]+)|(?P<stray>[{}])")
_PART = compiled_later(r"(?P<end>first|last) +(?P<count>[0-9]+)", re.ASCII)
_TREATMENTS = ("value", "upper", "lower", "first 4", "last 4", "mask", "mask but last 4")


class TemplateError(UsageError):
    """A template that cannot be read; `position` is a code-point offset into it."""

    def __init__(self, message: str, position: int) -> None:
        self.position = position
        super().__init__(message)


class Captured(NamedTuple):
    """What a hole is filled with: the captured text, and its typed value as a text of ISO 8601 or a plain number."""

    text: str
    value: str


class Hole(Struct, frozen=True):
    """A place that a field fills, and what is done to its text."""

    name: str
    treatment: str = ""
    end: str = ""
    count: int = 0
    position: int = 0
    """Where it begins in the template, in code points."""

    def filled(self, captured: Captured) -> str:
        """Return what stands in the place."""
        text = captured.text
        if self.treatment == "":
            return text
        if self.treatment == "value":
            return captured.value
        if self.treatment == "upper":
            return text.upper()
        if self.treatment == "lower":
            return text.lower()
        kept = min(self.count, len(text))
        if self.treatment == "part":
            return text[:kept] if self.end == "first" else text[len(text) - kept :]
        if self.end == "first":
            return text[:kept] + MASK * (len(text) - kept)
        return MASK * (len(text) - kept) + text[len(text) - kept :]


class Template(Struct, frozen=True):
    """A template as read: literal texts and holes in order."""

    text: str
    pieces: tuple[str | Hole, ...]

    @property
    def names(self) -> tuple[str, ...]:
        """The names of its holes, in order."""
        return tuple(piece.name for piece in self.pieces if isinstance(piece, Hole))

    def filled(self, captured: Callable[[str], Captured | None]) -> str:
        """Fill the holes; a field that took no part leaves nothing."""
        made = []
        for piece in self.pieces:
            if isinstance(piece, str):
                made.append(piece)
            else:
                found = captured(piece.name)
                made.append(piece.filled(found) if found is not None else "")
        return "".join(made)

    def check(self, known: Iterable[str]) -> None:
        """Raise TemplateError for a hole whose name is not one of `known`, nor `match`."""
        names = list(dict.fromkeys([*known, MATCH]))
        for piece in self.pieces:
            if isinstance(piece, Hole) and piece.name not in names:
                words = f"the template names the field '{piece.name}', which the pattern does not have"
                raise TemplateError(f"{words}{hint(piece.name, names)}", piece.position)


def read_template(text: str) -> Template:
    """Read a template. Raises TemplateError with the place of what is wrong."""
    pieces: list[str | Hole] = []
    for found in _PIECE.finditer(text):
        if found["literal"] is not None:
            pieces.append(found["literal"])
        elif found["open"] or found["close"]:
            pieces.append(found[0][0])
        elif found["stray"]:
            raise TemplateError(
                f"the template has a lone {found[0]} at {found.start()}; write {found[0] * 2} for one", found.start()
            )
        else:
            pieces.append(_hole(found["hole"], found.start()))
    return Template(text, tuple(pieces))


def _hole(text: str, position: int) -> Hole:
    name, colon, treatment = text.partition(":")
    name, treatment = name.strip(), treatment.strip()
    if not name:
        raise TemplateError(f"the template has a hole without a name at {position}; name a field, or match", position)
    if not colon:
        return Hole(name, position=position)
    if treatment in ("value", "upper", "lower", "mask"):
        return Hole(name, treatment, position=position)
    masked = treatment.startswith("mask but ")
    part = _PART.fullmatch(treatment.removeprefix("mask but ").strip())
    if part is None:
        listed = ", ".join(_TREATMENTS)
        raise TemplateError(
            f"'{treatment}' is nothing a template can do with the field '{name}'; there are {listed}", position
        )
    return Hole(name, "mask" if masked else "part", part["end"], int(part["count"]), position)
