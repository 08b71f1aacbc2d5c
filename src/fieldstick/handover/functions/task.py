"""What a function has to do: the same for every language, from a pattern, its fields and its samples."""

from __future__ import annotations

import datetime as dt
import re
from math import ceil, floor
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.analysis.rendering.meaning import meaning
from fieldstick.analysis.rendering.terms import may_be_empty
from fieldstick.errors import UsageError
from fieldstick.handover.carrying import carried, tried
from fieldstick.handover.functions.shapes import Shape, moment_shape, number_shape
from fieldstick.matching.expression import ExpressionMatcher
from fieldstick.suites.fieldtypes import TEXT, FieldSpec

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from fieldstick.matching.result import Match, Result
    from fieldstick.suites.suite import Sample
    from fieldstick.workspace import Chosen

NUMBERS = ("integer", "decimal")
MOMENTS = ("date", "time", "timestamp")

ORIGIN = "Written from the pattern {}; change it there and write this anew."
"""What the head of a file says of where it comes from."""


class Field(Struct, frozen=True):
    """A field that the function gives: its name here and there, its group there, what is asked of it.

    `shape` is the literal of the expression that a number or moment must fit, `roles` what its captures are.
    """

    name: str
    key: str
    group: int
    spec: FieldSpec
    shape: str = ""
    roles: str = ""

    @property
    def wants_offset(self) -> bool | None:
        """Whether a timestamp must have an offset from UTC, as its bounds have, or must not; None without bounds."""
        bound = next((each for each in (self.spec.least, self.spec.most) if isinstance(each, dt.datetime)), None)
        return None if bound is None else bound.tzinfo is not None


class Case(Struct, frozen=True):
    """A sample as a test: its text, and the fields of each match that is taken; None where it must not fit."""

    text: str
    found: tuple[Mapping[str, Any], ...] | None
    title: str
    note: str | None


class Task(Struct, frozen=True):
    """A function to write: `literal` is the expression as the language has it, `left` what it does not carry."""

    words: tuple[str, ...]
    about: str
    address: str
    literal: str
    take: str | int
    fields: tuple[Field, ...]
    cases: tuple[Case, ...]
    left: tuple[str, ...]
    tried: str

    @property
    def head(self) -> tuple[str, ...]:
        """What the file begins with, line by line: what it is for, where it comes from, what is otherwise there."""
        about = (f"{self.about.rstrip('.')}.",) if self.about else ()
        return (*about, ORIGIN.format(self.address), *self.left)

    @property
    def nth(self) -> int:
        """The number of the match that is taken, where that is neither the first nor all: -1 is the last."""
        return -1 if self.take == "last" else int(self.take)

    def has(self, *types: str) -> bool:
        """Tell whether a field is of one of the types."""
        return any(field.spec.type in types for field in self.fields)


def task(
    chosen: Chosen,
    quoted: Callable[[str, frozenset[str]], str],
    key: Callable[[str], str],
    engine: str,
    limits: Mapping[str, str],
) -> Task:
    """Return the function that a pattern is to become. Raises UsageError for what cannot be one.

    `key` makes a field's name one of the language; `limits` say of types what the language has less of.
    """
    pattern = chosen.pattern
    made = carried(chosen.expression, pattern.flags, pattern.reach, engine, source=pattern.engine)
    trial = tried(chosen, made)
    if pattern.take != "first" and may_be_empty(meaning(chosen.expression, pattern.flags, pattern.engine)):
        raise UsageError(f"take = {pattern.take!r}: it may match nothing, and languages count such matches otherwise")
    left = list(made.notes)
    fields = []
    matcher = chosen.matcher
    assert isinstance(matcher, ExpressionMatcher)
    layout = matcher.layout
    keys: set[str] = set()
    for index, (name, spec) in enumerate(zip(layout.names, layout.specs, strict=True)):
        group = made.numbers[index]
        if group is None:
            left.append(f"the field {name}: it is not captured there")
            continue
        own, number = key(name), 1
        while own in keys:
            number += 1
            own = f"{key(name)}{number}"
        keys.add(own)
        fields.append(_field(name, own, group, spec or TEXT, engine, quoted, left))
    for each in dict.fromkeys(field.spec.type for field in fields):
        if each in limits:
            left.append(limits[each])
    cases = tuple(_case(chosen, sample) for sample in pattern.samples if is_told(sample, chosen, left))
    return Task(
        words=words_of(pattern.name, "pattern"),
        about=line_of(pattern.about),
        address=place_of(chosen),
        literal=quoted(made.expression, made.flags),
        take=pattern.take,
        fields=tuple(fields),
        cases=cases,
        left=tuple(left),
        tried=trial.words,
    )


def place_of(chosen: Chosen) -> str:
    """Return the address of a pattern; a member out of another suite has it in its name."""
    name = chosen.pattern.name
    return name if ":" in name else f"{chosen.suite.name}:{name}" if chosen.suite is not None else "an expression"


def line_of(text: str) -> str:
    """Return a text as one line of what can be seen."""
    return " ".join("".join(each if each.isprintable() else " " for each in text).split())


def _field(
    name: str,
    key: str,
    group: int,
    spec: FieldSpec,
    engine: str,
    quoted: Callable[[str, frozenset[str]], str],
    left: list[str],
) -> Field:
    shape: Shape | None = None
    if spec.type == "integer":
        least = None if spec.least is None else ceil(spec.least)
        most = None if spec.most is None else floor(spec.most)
        among = tuple(int(each) for each in spec.one_of if each == int(each))
        spec = replace(spec, least=least, most=most, one_of=among)
    if spec.type in NUMBERS:
        shape = number_shape(spec, r"\d" if engine == "python" else "[0-9]")
    elif spec.type in MOMENTS and engine != "python":
        shape = moment_shape(spec)
        if shape is None:
            left.append(f"the field {name}: its layout {spec.layout} is not read there, so that it stays a text")
            return Field(name, key, group, TEXT)
    if shape is None:
        return Field(name, key, group, spec)
    made = carried(shape.expression, frozenset(), "whole", engine)
    return Field(name, key, group, spec, quoted(made.expression, made.flags), shape.roles)


def is_told(sample: Sample, chosen: Chosen, left: list[str]) -> bool:
    """Tell whether a sample can be one of the function's tests."""
    if dict(sample.values) != dict(chosen.values):
        left.append(f"{sample.kind} {sample.number} is no test there: it has other values of parameters")
        return False
    if any("\ud800" <= each <= "\udfff" for each in sample.text):
        left.append(f"{sample.kind} {sample.number} is no test there: its text is no Unicode text")
        return False
    return True


def passed(chosen: Chosen, sample: Sample) -> Result:
    """Return what comes of a sample. Raises UsageError for one that does not pass."""
    found = chosen.matcher.read(sample.text)
    if found.fits != (sample.kind == "positive"):
        raise UsageError(f"{sample.kind} {sample.number} does not pass; mend it first: fieldstick check")
    return found


def _case(chosen: Chosen, sample: Sample) -> Case:
    found = passed(chosen, sample)
    fields = tuple(map(_values, found.matches)) if found.fits else None
    return Case(sample.text, fields, f"{sample.kind} {sample.number}", sample.note and line_of(sample.note))


def _values(match: Match) -> dict[str, Any]:
    return {name: field and field.value for name, field in match.fields.items()}


def snake(words: tuple[str, ...]) -> str:
    """Join words as `two_words`."""
    return "_".join(each.lower() for each in words)


def camel(words: tuple[str, ...]) -> str:
    """Join words as `twoWords`."""
    first, *others = words
    return first.lower() + "".join(each[:1].upper() + each[1:].lower() for each in others)


def pascal(words: tuple[str, ...]) -> str:
    """Join words as `TwoWords`."""
    return "".join(each[:1].upper() + each[1:].lower() for each in words)


def words_of(name: str, otherwise: str = "field") -> tuple[str, ...]:
    """Part a name into words; what no language has in a name is left out. A number is `field1`."""
    words = re.findall(r"[A-Za-z0-9]+", name) or [""]
    return (otherwise + words[0], *words[1:]) if not words[0] or words[0][0].isdigit() else tuple(words)
