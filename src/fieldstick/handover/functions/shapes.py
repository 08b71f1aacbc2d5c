"""What a text must look like to be a number or a moment, as an expression that every language can be given.

A language's own functions read numbers and days each in their way; the shape is held against the text first, so that
a text is one there where it is one here, and its captures are the pieces that the value is made of.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from msgspec import Struct

if TYPE_CHECKING:
    from fieldstick.suites.fieldtypes import FieldSpec

_SIGN = "[+\\-\N{MINUS SIGN}]?"
_OFFSET = "([Zz]|[+-][0-9]{2}(?::?[0-9]{2})?)?"
_DAY = "(?:([0-9]{4})-([0-9]{2})-([0-9]{2})|([0-9]{4})([0-9]{2})([0-9]{2}))"
_CLOCK = "([0-9]{2})(?::([0-9]{2})(?::([0-9]{2})(?:[.,]([0-9]+))?)?|([0-9]{2})(?:([0-9]{2})(?:[.,]([0-9]+))?)?)?"
_DAY_ROLES, _CLOCK_ROLES = "YmdYmd", "HMSfMSf"

_DIRECTIVES = {
    "d": "([0-9]{1,2})",
    "m": "([0-9]{1,2})",
    "Y": "([0-9]{4})",
    "y": "([0-9]{2})",
    "H": "([0-9]{1,2})",
    "I": "([0-9]{1,2})",
    "p": "([AaPp][Mm])",
    "M": "([0-9]{1,2})",
    "S": "([0-9]{1,2})",
    "f": "([0-9]{1,6})",
    "z": "([Zz]|[+-][0-9]{2}:?[0-9]{2})",
    "b": "((?i:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec))",
    "B": "((?i:January|February|March|April|May|June|July|August|September|October|November|December))",
}
"""What strptime reads of each directive, as far as languages agree on it."""


class Shape(Struct, frozen=True):
    """An expression of Python's for a whole text, and what each of its captures is.

    Of a moment: Y, y year; m, b month by number or English name; d day; H, I hour of 24 or 12, p which half of the
    day; M minute; S second; f fraction of a second; z offset from UTC. A role may stand more than once: of its
    captures one takes part.
    """

    expression: str
    roles: str = ""


def number_shape(spec: FieldSpec, digit: str = "[0-9]") -> Shape:
    """Return the shape of a number with the marks of a field."""
    groups = ""
    if spec.group_mark:
        groups = rf"{digit}{{1,3}}(?:{re.escape(spec.group_mark)}{digit}{{3}})+"
    if spec.type == "integer":
        return Shape(rf"{_SIGN}(?:{digit}+{'|' + groups if groups else ''})")
    mark = re.escape(spec.decimal_mark)
    fractions = [rf"{digit}+(?:{mark}{digit}+)?", rf"{mark}{digit}+"]
    if groups:
        fractions.append(rf"{groups}{mark}{digit}+")
    exact = rf"(?:{'|'.join(fractions)})(?:[eE][+\-]?{digit}+)?"
    return Shape(rf"{_SIGN}(?:{exact}{'|' + groups if groups else ''})")


def moment_shape(spec: FieldSpec) -> Shape | None:
    """Return the shape of a day, time or timestamp; None for a layout that languages do not agree on."""
    if spec.layout is not None:
        return _laid_out(spec.layout)
    if spec.type == "date":
        return Shape(_DAY, _DAY_ROLES)
    if spec.type == "time":
        return Shape(_CLOCK, _CLOCK_ROLES)
    return Shape(f"{_DAY}(?:[Tt ]{_CLOCK}{_OFFSET})?", f"{_DAY_ROLES}{_CLOCK_ROLES}z")


def _laid_out(layout: str) -> Shape | None:
    made, roles = [], ""
    for literal, directive, blanks in re.findall(r"([^%\s]+)|%(.)|(\s+)", layout):
        if directive == "%":
            made.append("%")
        elif directive:
            if directive not in _DIRECTIVES:
                return None
            made.append(_DIRECTIVES[directive])
            roles += directive.replace("B", "b")
        else:
            # Letters of a layout are read in either case.
            made.append(r"\s+" if blanks else f"(?i:{re.escape(literal)})")
    return Shape("".join(made), roles)
