"""What a schema or form asks of a text: the same for each of them, from a pattern and its members."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.rendering.dialects import DIALECTS, literal
from fieldstick.errors import UsageError
from fieldstick.handover.carrying import Carried, Uncarried, carried, left_behind, member_of, tried
from fieldstick.suites.fieldtypes import field_spec
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Group
from fieldstick.workspace import Chosen

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping
    from decimal import Decimal

    from fieldstick.analysis.rendering.dialects import Dialect
    from fieldstick.suites.fieldtypes import FieldSpec
    from fieldstick.suites.suite import Combination, Pattern, Suite

ANY_BLANKS = r"\s*"
"""What has nothing entered in it, in every notation."""


class Rule(Struct, frozen=True):
    """What is asked of a text: an expression as the engine reads it, or a combination of rules.

    `shortest` and `longest` are the code points of a text, None for no most. `among` are all the texts that fit, where
    a field spans the text and they are listed. `number` is the spec of a field that spans the text and is a plain
    number. `plain` is the expression as the suite has it.
    """

    pattern: Pattern
    combination: Combination | None
    members: tuple[Rule, ...] = ()
    expression: str = ""
    plain: str = ""
    shortest: int = 0
    longest: int | None = None
    among: tuple[str, ...] = ()
    number: FieldSpec | None = None
    takes_nothing: bool = False
    """Whether a text of blanks alone fits, or none at all."""

    is_open: bool = False
    """Whether nothing is asked for, since what is cannot be carried."""


class Column(Struct, frozen=True):
    """A column of a record, or the one value of a pattern; `blank` are the texts that mean nothing was entered."""

    name: str
    rule: Rule
    required: bool
    blank: tuple[str, ...] = ()


class Record(Struct, frozen=True):
    """What is handed over: a form of a suite, or a pattern alone (`is_form`), with what is left behind."""

    name: str
    about: str
    columns: tuple[Column, ...]
    is_form: bool
    left: tuple[str, ...]
    tried: str
    address: str


def words_of(pattern: Pattern) -> str:
    """Return what a pattern is for, and what whoever types a value is told."""
    return " ".join(each.rstrip(".") + "." for each in (pattern.about, pattern.message or "") if each)


class Maker:
    """Makes rules for one engine, and collects what is left behind and how samples came out."""

    def __init__(
        self, engine: str, *, whole_values: bool, numbers: bool = False, combinations: Collection[str] = ()
    ) -> None:
        self._engine, self._whole_values, self._numbers = engine, whole_values, numbers
        self._combinations = combinations
        self.left: list[str] = []
        self.notes: list[str] = []
        self.tried: list[str] = []

    def column(self, chosen: Chosen) -> Rule:
        """Make the rule of a column, or of a member: one that asks for nothing where what it asks cannot be carried."""
        try:
            return self.rule(chosen)
        except Uncarried as error:
            self.left.append(f"{error}; anything fits")
            return Rule(chosen.pattern, None, is_open=True, takes_nothing=True)

    def rule(self, chosen: Chosen) -> Rule:
        """Make the rule of a pattern. Raises UsageError for one of which nothing can be carried."""
        pattern = chosen.pattern
        nothing = any(chosen.matcher.read(text).fits for text in ("", " "))
        if pattern.combination is not None:
            return self._combined(chosen, nothing)
        spec = _of_the_whole(chosen)
        among = _among(chosen, spec)
        if among:
            # What a list says, an expression and bounds can add nothing to.
            self.tried.append(f"{pattern.name}: the {len(among)} texts that fit are listed")
            return Rule(pattern, None, among=among)
        try:
            made = self._carried(chosen)
            trial = tried(chosen, made, whole_values=self._whole_values)
        except UsageError as error:
            raise type(error)(f"{pattern.name}: {error}") from None
        self.tried.append(f"{pattern.name}: {trial.words}")
        self.left += [f"{pattern.name}: {each}" for each in (*left_behind(pattern), *trial.let_through)]
        self.notes += [f"{pattern.name}: {each}" for each in made.notes if "group" not in each]
        shortest, longest = _lengths(chosen)
        number = spec if self._numbers and spec is not None and _is_plain_number(spec) else None
        return Rule(pattern, None, (), made.expression, chosen.expression, shortest, longest, (), number, nothing)

    def _combined(self, chosen: Chosen, nothing: bool) -> Rule:
        """Make the rule of several; of those that must all fit, one that cannot be carried is left out."""
        pattern, how = chosen.pattern, chosen.pattern.combination
        if how not in self._combinations:
            raise Uncarried(f"{pattern.name}: its {how} cannot be asked for there")
        members = tuple(self.column(member_of(chosen, each)) for each in pattern.members)
        if how == "all_of":
            members = tuple(each for each in members if not each.is_open)
        if not members or any(each.is_open for each in members):
            raise Uncarried(f"{pattern.name}: its {how} needs what cannot be carried")
        return Rule(pattern, how, members, takes_nothing=nothing)

    def _carried(self, chosen: Chosen) -> Carried:
        pattern = chosen.pattern
        return carried(
            chosen.expression,
            pattern.flags,
            pattern.reach,
            self._engine,
            source=pattern.engine,
            foldable=False,
            whole_values=self._whole_values,
            named=False,
        )

    def blank(self, among: tuple[str, ...] = ()) -> str:
        """Return the expression of what means that nothing was entered, as the engine reads it for a whole value."""
        dialect = DIALECTS[self._engine]
        return "|".join([ANY_BLANKS, *(spelled(each, dialect) for each in among if each.strip())])


def spelled(text: str, dialect: Dialect) -> str:
    """Write a text so that it stands for itself."""
    return "".join([literal(each, dialect, in_class=False) for each in text])


def _lengths(chosen: Chosen) -> tuple[int, int | None]:
    """Return the fewest and the most code points of a text that fits; None for no most."""
    pattern = chosen.pattern
    if pattern.engine != "python":
        return 0, None
    shortest, longest = facts_of(parse(chosen.expression, pattern.flags)).width
    return shortest, longest if pattern.reach == "whole" else None


def _of_the_whole(chosen: Chosen) -> FieldSpec | None:
    """Return what is asked of the field that spans the whole text; None where there is none."""
    pattern = chosen.pattern
    if pattern.engine != "python" or pattern.reach != "whole":
        return None
    tree = parse(chosen.expression, pattern.flags).tree
    if not isinstance(tree, Group) or tree.number is None:
        return None
    table = pattern.fields.get(tree.name or str(tree.number))
    return field_spec(table) if table is not None else None


def _among(chosen: Chosen, spec: FieldSpec | None) -> tuple[str, ...]:
    """Return all the texts that fit, where a list says which."""
    if spec is None or (spec.type != "boolean" and (spec.type != "text" or not spec.one_of)):
        return ()
    listed = (*spec.true, *spec.false) if spec.type == "boolean" else spec.one_of
    return tuple(each for each in listed if chosen.matcher.read(each).fits)


def _is_plain_number(spec: FieldSpec) -> bool:
    return spec.type in ("integer", "decimal") and spec.decimal_mark == "." and not spec.group_mark


def bounds_of(spec: FieldSpec) -> dict[str, Any]:
    """Return the bounds of a number by the names that schemas give them."""
    found = {"minimum": spec.least, "maximum": spec.most}
    return {name: plain_number(bound) for name, bound in found.items() if bound is not None}


def plain_number(value: int | Decimal) -> int | float:
    """Return a number as a schema has it."""
    return int(value) if value == int(value) else float(value)


def record_of_pattern(chosen: Chosen, maker: Maker) -> Record:
    """Return what is asked of a value: one column, required where a blank does not fit."""
    pattern = chosen.pattern
    rule = maker.rule(chosen)
    column = Column(pattern.name, rule, required=not rule.takes_nothing)
    address = f"{chosen.suite.name}:{pattern.name}" if chosen.suite is not None else "an expression"
    return Record(pattern.name, pattern.about, (column,), False, tuple(maker.left), "; ".join(maker.tried), address)


def record_of_form(
    name: str,
    about: str,
    suite: Suite,
    columns: Mapping[str, Pattern],
    required: tuple[str, ...],
    blank: tuple[str, ...],
    maker: Maker,
) -> Record:
    """Return what a form of a suite asks of its columns."""
    made = tuple(
        Column(column, maker.column(Chosen(pattern, suite)), column in required, blank)
        for column, pattern in columns.items()
    )
    return Record(
        name, about, made, True, tuple(dict.fromkeys(maker.left)), "; ".join(maker.tried), f"{suite.name}:{name}"
    )
