"""How each engine writes what an expression can ask for."""

from __future__ import annotations

import re
from collections.abc import Callable  # noqa: TC003 - what a field is is read when the program runs
from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from fieldstick.syntax.characters import EVERYTHING, CharacterSet, without_marks

if TYPE_CHECKING:
    from collections.abc import Mapping

JAVASCRIPT = ("ecmascript", "ecmascript-v", "node")
JAVA = ("java", "java-unicode")
SHORT_FOLDING = (*JAVASCRIPT, "re2")
"""Engines whose shorthands let case go: the long s is a word's character there, as an s is."""

_SPECIAL = frozenset(r"\.^$*+?{}[]|()")
_IN_CLASS = frozenset(r"\]^[-&~|")
_CONTROLS = {"\n": r"\n", "\r": r"\r", "\t": r"\t"}


def _braced_x(code: int) -> str:
    return f"\\x{{{code:X}}}"


def _braced_u(code: int) -> str:
    return f"\\u{{{code:X}}}"


def _long_u(code: int) -> str:
    return f"\\u{code:04X}" if code < 0x10000 else f"\\U{code:08X}"


class Dialect(Struct, frozen=True):
    """How an engine writes things. A spelling of None is something that it has no words for.

    `code` writes a character by its code; `special` are those that need a backslash outside a class, `in_class` inside.
    `before_the_last` is the place before a line feed that ends the text, where one anchor says it.
    """

    name: str
    code: Callable[[int], str]
    capture: str | None = "(?<{}>"
    group_name: str = r"[A-Za-z_]\w*"
    plain: str = "(?:"
    start: str | None = r"\A"
    end: str | None = r"\z"
    before_the_last: str | None = None
    line_start: str | None = None
    line_end: str | None = None
    boundary: bool = True
    ahead: bool = True
    behind: bool = True
    atomic: Literal["has", "imitated", "lacks"] = "has"
    possessive: bool = False
    lazy: bool = True
    reference: str | None = r"\{}"
    named_reference: str | None = None
    conditional: str | None = None
    most: int = 65_535
    longest_first: bool = False
    captures: bool = True
    flat_behind: bool = False
    """Whether nothing that looks about may stand in a look-behind, or be repeated."""

    only_named_capture: bool = False
    named_last: bool = False
    """Whether groups with a name are numbered after all others."""

    takes_away: bool = False
    """Whether a class can have another taken away from it, as in `[a-z-[aeiou]]`."""

    in_chars: bool = False
    """Whether a character beyond U+FFFF is two there."""

    folds: bool = True
    special: frozenset[str] = _SPECIAL
    in_class: frozenset[str] = _IN_CLASS
    everything: str = r"[\s\S]"
    holds: CharacterSet = EVERYTHING
    """Characters that an expression can have in it at all."""


_XML = CharacterSet.of_text("\t\n\r") | CharacterSet(((0x20, 0xD7FF), (0xE000, 0xFFFD), (0x10000, 0x10FFFF)))
"""Characters that an XML document can hold (XML 1.0, production 2)."""

_JAVASCRIPT = {
    "code": _braced_u,
    "start": "^",
    "end": "$",
    "atomic": "imitated",
    "special": _SPECIAL | {"/"},
}

_ALL = (
    Dialect(
        "python", _long_u, "(?P<{}>", end=r"\Z", before_the_last="$", line_start="(?m:^)", line_end="(?m:$)",
        possessive=True, conditional="(?({})", in_class=_IN_CLASS | {"#"},
    ),
    Dialect(
        "regex", _long_u, "(?P<{}>", end=r"\Z", before_the_last="$", line_start="(?m:^)", line_end="(?m:$)",
        possessive=True, conditional="(?({})",
    ),
    Dialect(
        "re2", _braced_x, "(?P<{}>", line_start="(?m:^)", line_end="(?m:$)", ahead=False, behind=False,
        atomic="lacks", reference=None, most=1_000,
    ),
    Dialect(
        "rust", _braced_x, "(?P<{}>", line_start="(?m:^)", line_end="(?m:$)", ahead=False, behind=False,
        atomic="lacks", reference=None, most=1_000,
    ),
    Dialect("pcre2", _braced_x, before_the_last="$", possessive=True, conditional="(?({})"),
    Dialect("pcre2-ucp", _braced_x, before_the_last="$", possessive=True, conditional="(?({})"),
    Dialect("ecmascript", in_class=frozenset(r"\]^[-"), **_JAVASCRIPT),  # type: ignore[arg-type]
    Dialect(
        "ecmascript-v", in_class=frozenset("\\]^[-&!#%,:;<=>@`~(){}/|"), **_JAVASCRIPT  # type: ignore[arg-type]
    ),
    Dialect("node", in_class=frozenset(r"\]^[-"), **_JAVASCRIPT),  # type: ignore[arg-type]
    Dialect(
        "oniguruma", _braced_x, before_the_last=r"\Z", flat_behind=True, named_reference=r"\k<{}>",
        only_named_capture=True,
    ),
    Dialect(
        "xsd", chr, None, plain="(", start=None, end=None, boundary=False, ahead=False, behind=False, atomic="lacks",
        lazy=False, reference=None, captures=False, folds=False, holds=_XML, special=frozenset(r"\.*+?{}[]|()^-"),
        in_class=frozenset(r"\]^[-"), takes_away=True,
    ),
    Dialect("perl", _braced_x, before_the_last="$", possessive=True, conditional="(?({})"),
    Dialect("java", _braced_x, group_name="[A-Za-z][A-Za-z0-9]*", possessive=True),
    Dialect("java-unicode", _braced_x, group_name="[A-Za-z][A-Za-z0-9]*", possessive=True),
    Dialect(
        "dotnet", _long_u, before_the_last="$", line_start="(?m:^)", line_end="(?m:$)", conditional="(?({})",
        most=2**31 - 1, in_chars=True, named_last=True, takes_away=True,
        holds=CharacterSet(((0, 0xFFFF),)),
    ),
    Dialect(
        "ruby", _braced_u, before_the_last=r"\Z", flat_behind=True, named_reference=r"\k<{}>", only_named_capture=True
    ),
    Dialect("php", _braced_x, before_the_last="$", possessive=True, conditional="(?({})"),
    Dialect(
        "postgres", _long_u, None, end=r"\Z", boundary=False, atomic="lacks", most=255, longest_first=True,
        everything=".",
    ),
    Dialect(
        "sqlite", chr, None, plain="(", start=None, end=None, boundary=False, ahead=False, behind=False,
        atomic="lacks", lazy=False, reference=None, most=999, captures=False, folds=False, everything=".",
        holds=CharacterSet(((1, 0x10FFFF),)), in_class=frozenset("\\]^["),
    ),
    Dialect(
        # RFC 9485, section 4: no anchors, no captures, no classes but by general category.
        "rfc9485", chr, None, plain="(", start=None, end=None, boundary=False, ahead=False, behind=False,
        atomic="lacks", lazy=False, reference=None, captures=False, folds=False, everything=r"[\p{L}\P{L}]",
        special=frozenset("()*+.?[\\]{|}"), in_class=frozenset("\\]^[-"), most=999_999_999,
        holds=CharacterSet(((0, 0xD7FF), (0xE000, 0x10FFFF))),
    ),
)  # fmt: skip

DIALECTS: Mapping[str, Dialect] = {each.name: each for each in _ALL}


def literal(character: str, dialect: Dialect, *, in_class: bool) -> str:
    """Write one character as itself: with a backslash where it would mean something else, by its code if unseen."""
    if character in _CONTROLS:
        return _CONTROLS[character]
    if character in (dialect.in_class if in_class else dialect.special):
        return f"\\{character}"
    if character.isprintable():
        return character
    if dialect.code is chr:
        return character
    return f"\\x{ord(character):02X}" if ord(character) < 0x80 else dialect.code(ord(character))


def group_name(name: str | None, number: int, dialect: Dialect) -> str | None:
    """Return what a group is called in a dialect, which may not have its name as it is; None for a number alone."""
    if name is None or dialect.capture is None:
        return None
    if re.fullmatch(dialect.group_name, name, re.ASCII):
        return name
    plain = re.sub(r"[^A-Za-z0-9]", "", without_marks(name))
    return plain if re.fullmatch(dialect.group_name, plain, re.ASCII) else f"group{number}"
