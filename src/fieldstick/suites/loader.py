"""Reads suite files into suites: parts filled in, patterns joined to their members, every mistake named."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Literal

from fieldstick.engines.protocol import DEFAULT_BUDGET_MS, DEFAULT_ENGINE
from fieldstick.errors import SuiteFileError, UsageError, hint
from fieldstick.suites.document import Document, read_document
from fieldstick.suites.fieldtypes import FieldTableError, field_spec
from fieldstick.suites.model import TAKE_WORDS
from fieldstick.suites.parts import OWN, Filling, PartError, PartFault, PartScope, fill
from fieldstick.suites.samples import OutsideTreeError, SampleReader, within_tree
from fieldstick.suites.suite import Allowance, Combination, Pattern, Suite
from fieldstick.syntax.scan import group_names, scan

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Mapping, Sequence

    from fieldstick.engines.protocol import Take
    from fieldstick.suites.model import DefaultsTable, PatternTable
    from fieldstick.suites.places import Path
    from fieldstick.suites.sections import Sections
    from fieldstick.suites.suite import Operation, Trial

DEEPEST = 50
MOST_MEMBERS = 1_000
"""Suites that borrow from one another and patterns made of one another, from the first to the last; and the patterns
that one may be made of, those of its members counted in."""

Form = Combination | Literal["expression"]

_COMBINATIONS: tuple[Combination, ...] = ("any_of", "all_of", "none_of")
_FORMS: tuple[Form, ...] = ("expression", *_COMBINATIONS)
_OF_AN_EXPRESSION = ("reach", "take", "flags", "engines", "budget_ms", "fields")
"""Keys that speak of an expression; in a combination they stand with the members."""


def read_suite(path: str | os.PathLike[str], sections: Sections) -> Suite:
    """Read one suite file and what it borrows; `sections` are those that may hold operations.

    Raises SuiteFileError with everything that is wrong, UsageError when there is no such file.
    """
    return read_suites([path], sections)[0]


def read_suites(
    paths: Iterable[str | os.PathLike[str]],
    sections: Sections,
    *,
    edited: Mapping[str, str] = {},
    named: Callable[[str], str] = lambda path: path,
) -> list[Suite]:
    """Read suite files; the mistakes of all of them are raised together as one SuiteFileError.

    `edited` has texts that stand for what files hold, by their real paths; `named` gives the name of a path.
    """
    library = _Library(sections, edited)
    drafts = [library.draft(named(os.fspath(path)), os.fspath(path)) for path in paths]
    made = {id(draft): draft.suite() for draft in library.drafts()}
    problems = [problem for draft in library.drafts() for problem in draft.document.problems]
    if problems:
        raise SuiteFileError(problems)
    return [made[id(draft)] for draft in drafts]


class _Library:
    """The files of one run, each read once however often it is borrowed."""

    def __init__(self, sections: Sections, edited: Mapping[str, str]) -> None:
        self._sections = sections
        self._edited = edited
        self._drafts: dict[str, _Draft] = {}
        self._depth = 0
        self._extents: dict[int, tuple[int, int]] = {}
        """By the identity of a pattern that is made of others: how deep it is made of them, and of how many."""

    def draft(self, file: str, location: str) -> _Draft:
        key = os.path.realpath(location)
        if key not in self._drafts:
            if self._depth > DEEPEST:
                raise UsageError(f"suites borrow from one another more than {DEEPEST} deep")
            self._drafts[key] = draft = _Draft(
                read_document(file, location, self._sections, self._edited.get(key)), self._sections, self._extents
            )
            self._depth += 1
            draft.borrow_from(self)
            self._depth -= 1
        return self._drafts[key]

    def drafts(self) -> Iterable[_Draft]:
        return self._drafts.values()


class _Draft:
    """A suite file on its way to a suite."""

    def __init__(self, document: Document, sections: Sections, extents: dict[int, tuple[int, int]]) -> None:
        self.document = document
        self._sections = sections
        self.borrowed: dict[str, _Draft] = {}
        self.broken_borrows: set[str] = set()
        self._patterns: dict[str, Pattern | None] = {}
        self._circles: set[frozenset[str]] = set()
        self._is_beyond_limit = False
        self._extents = extents
        parts = document.table.parts if document.table else {}
        self._borrowed_scopes: dict[str, PartScope] = {}
        self.scope = PartScope(document.file, parts, self._borrowed_scopes)

    def borrow_from(self, library: _Library) -> None:
        """Read the suites that this one borrows from."""
        table = self.document.table
        for alias, value in (table.borrow if table else {}).items():
            path: Path = ("borrow", alias)
            try:
                location = within_tree(self.document, value)
                file = os.path.normpath(os.path.join(os.path.dirname(self.document.file), value))
                draft = library.draft(file, location)
            except (OutsideTreeError, UsageError) as error:
                self.document.problem(path, str(error))
                self.broken_borrows.add(alias)
                continue
            self.borrowed[alias] = draft
            self._borrowed_scopes[alias] = draft.scope

    def suite(self) -> Suite:
        """Make the suite; what is wrong is in the document's problems."""
        table = self.document.table
        self._check_parts()
        names = list(table.patterns) if table else []
        patterns = {name: pattern for name in names if (pattern := self.pattern(name, ())) is not None}
        operations = self._operations()
        return Suite(
            name=table.suite if table else "",
            about=table.about if table else "",
            owner=table.owner if table else None,
            file=self.document.file,
            location=self.document.location,
            patterns=patterns,
            parts=table.parts if table else {},
            document=self.document.text,
            operations=operations,
            trials=self._trials(operations),
            scope=self.scope,
            decided_share=table.defaults.decided_share if table else None,
        )

    def _operations(self) -> dict[str, Operation]:
        found: list[Operation] = []
        for name, tables in self.document.sections.items():
            from fieldstick.suites.operation_reader import OperationReader

            found += self._sections.section(name).read(OperationReader(self.document, self, name, tables))
        return {operation.name: operation for operation in found}

    def member(self, address: str, where: Path) -> Pattern | None:
        """See `PatternHome.member`."""
        return self._member(address, where, ())

    def bare(self, expression: str, flags: tuple[str, ...] | None, where: Path) -> Pattern | None:
        """See `PatternHome.bare`."""
        defaults = self._defaults
        chosen = frozenset(defaults.flags or () if flags is None else flags)
        try:
            filling = fill(expression, self.scope, verbose="verbose" in chosen)
        except PartError as error:
            for fault in error.faults:
                if fault.source == OWN:
                    self._note_fault(fault, where)
            return None
        for name in sorted(filling.parameters):
            self.document.problem(where, f"{{{{={name}}}}}: only patterns have parameters; name one with 'pattern'")
        return Pattern(
            str(where[1]),
            filling,
            reach="anywhere",
            take="all",
            flags=chosen,
            engines=(defaults.engine or DEFAULT_ENGINE,),
            budget_ms=defaults.budget_ms or DEFAULT_BUDGET_MS,
            path=where,
        )

    def fields_of(self, pattern: Pattern) -> tuple[str, ...]:
        """See `PatternHome.fields_of`."""
        if pattern.filling is None:
            return tuple(dict.fromkeys(name for member in pattern.members for name in self.fields_of(member)))
        text = pattern.filling.text(dict.fromkeys(pattern.filling.parameters, ""))
        groups = group_names(scan(text, verbose="verbose" in pattern.flags).groups)
        tables = ((name, pattern.fields.get(name)) for name in groups)
        return tuple((table.name if table is not None else None) or name for name, table in tables)

    def _trials(self, operations: dict[str, Operation]) -> tuple[Trial, ...]:
        if self.document.table is None or not self.document.table.trials:
            return ()
        from fieldstick.suites.trials import read_trials

        return tuple(read_trials(self.document, self, operations))

    def _check_parts(self) -> None:
        for name in self.scope.parts:
            if self._is_beyond_limit:
                # What uses a part that is too large is so too, and finding that out takes a while each time.
                return
            try:
                fill(f"{{{{{name}}}}}", self.scope)
            except PartError as error:
                for fault in error.faults:
                    if fault.source == name or fault.circle is not None or fault.limit:
                        self._note_fault(fault, ("parts", name))

    def _note_fault(self, fault: PartFault, path: Path) -> None:
        if fault.circle is not None:
            if fault.circle in self._circles:
                return
            self._circles.add(fault.circle)
        if fault.limit and self._is_beyond_limit:
            return
        self._is_beyond_limit = self._is_beyond_limit or fault.limit
        if fault.alias not in self.broken_borrows:
            self.document.problem(path, fault.words)

    def pattern(self, name: str, trail: tuple[tuple[str, str], ...]) -> Pattern | None:
        """Return the pattern of that name; None when it is too wrong to be one."""
        if name not in self._patterns:
            assert self.document.table is not None
            self._patterns[name] = None
            self._patterns[name] = self._pattern(name, self.document.table.patterns[name], trail)
        return self._patterns[name]

    def _pattern(self, name: str, table: PatternTable, trail: tuple[tuple[str, str], ...]) -> Pattern | None:
        path: Path = ("patterns", name)
        form = self._form(table, path)
        combination = form if form != "expression" else None
        members = self._members(table, path, combination, (*trail, (self.document.file, name)))
        filling = self._filling(table, path) if form == "expression" else None
        if filling:
            self._check_parameters(table, filling, path)
            self._check_fields(table, filling, path)
        complete = form is not None and members is not None and (filling is not None or combination is not None)
        parameters = self._parameters(table, filling, members or ())
        known = complete and not self.document.is_damaged((*path, "parameters"))
        take = self._take(table)
        if take == 0:
            self.document.problem((*path, "take"), f"take is 0; {TAKE_WORDS}")
        if table.allow:
            self._check_allowances(table, path)
        reader = SampleReader(self.document, path, parameters, known, take, combination is not None)
        samples = (*reader.read("positive", table.positive), *reader.read("negative", table.negative))
        if not complete or members is None:
            return None
        defaults = self._defaults
        made = Pattern(
            name=name,
            about=table.about,
            filling=filling,
            combination=combination,
            members=members,
            parameters=parameters,
            reach=table.reach or defaults.reach or "whole",
            take=take,
            flags=self._flags(table),
            message=table.message,
            engines=tuple(table.engines or (defaults.engine or DEFAULT_ENGINE,)),
            tags=tuple(table.tags),
            budget_ms=table.budget_ms or defaults.budget_ms or DEFAULT_BUDGET_MS,
            fields=table.fields,
            samples=samples,
            path=path,
            allow=tuple(Allowance(each.hazard, each.note) for each in table.allow),
            own_budget=table.budget_ms is not None,
            own_flags=frozenset(table.flags or ()),
        )
        if members:
            self._extents[id(made)] = self._extent(members)
        return made

    @property
    def _defaults(self) -> DefaultsTable:
        assert self.document.table is not None
        return self.document.table.defaults

    def _take(self, table: PatternTable) -> Take:
        if table.take is not None:
            return table.take
        return self._defaults.take if self._defaults.take is not None else "first"

    @staticmethod
    def _parameters(table: PatternTable, filling: Filling | None, members: tuple[Pattern, ...]) -> tuple[str, ...]:
        used = set(filling.parameters) if filling else {each for member in members for each in member.parameters}
        return tuple(dict.fromkeys([*table.parameters, *sorted(used)]))

    def _flags(self, table: PatternTable) -> frozenset[str]:
        own, default = table.flags, self._defaults.flags
        return frozenset(own if own is not None else default or ())

    def _form(self, table: PatternTable, path: Path) -> Form | None:
        forms = [key for key in _FORMS if getattr(table, key) is not None]
        if len(forms) == 1:
            if forms[0] != "expression":
                self._check_combination_keys(table, path)
            return forms[0]
        if forms:
            self.document.problem(path, f"the pattern has {' and '.join(forms)}; give exactly one of them")
        elif not any(self.document.is_damaged((*path, key)) for key in _FORMS):
            self.document.problem(path, "the pattern has no expression, any_of, all_of or none_of")
        return None

    def _check_combination_keys(self, table: PatternTable, path: Path) -> None:
        for key in _OF_AN_EXPRESSION:
            if key in table.given():
                self.document.problem((*path, key), f"'{key}' on a combination of patterns: set it on its members")

    def _members(
        self,
        table: PatternTable,
        path: Path,
        combination: Combination | None,
        trail: tuple[tuple[str, str], ...],
    ) -> tuple[Pattern, ...] | None:
        if combination is None:
            return ()
        members: list[Pattern] = []
        complete = True
        for index, address in enumerate(getattr(table, combination)):
            where: Path = (*path, combination, index)
            member = None
            if not self.document.is_damaged(where):
                member = self._member(address, where, trail)
            if member is None:
                complete = False
            else:
                members.append(member)
        if not complete or not self._is_within_limits(members, (*path, combination)):
            return None
        return tuple(members)

    def _is_within_limits(self, members: Sequence[Pattern], where: Path) -> bool:
        depth, count = self._extent(members)
        if depth > DEEPEST:
            self.document.problem(where, f"patterns are made of one another more than {DEEPEST} deep")
        elif count > MOST_MEMBERS:
            self.document.problem(where, f"the pattern is made of {count:,} patterns, more than {MOST_MEMBERS:,}")
        return depth <= DEEPEST and count <= MOST_MEMBERS

    def _extent(self, members: Sequence[Pattern]) -> tuple[int, int]:
        known = [self._extents.get(id(member), (0, 1)) for member in members]
        return 1 + max((depth for depth, _ in known), default=0), sum(count for _, count in known)

    def _member(self, address: str, where: Path, trail: tuple[tuple[str, str], ...]) -> Pattern | None:
        owner, name = self._owner_of(address, where)
        if owner is None or owner.document.table is None:
            return None
        if name not in owner.document.table.patterns:
            known = owner.document.table.patterns
            self.document.problem(where, f"there is no pattern '{address}'{hint(name, known)}")
            return None
        step = (owner.document.file, name)
        if len(trail) > DEEPEST:
            self.document.problem(where, f"patterns are made of one another more than {DEEPEST} deep")
            return None
        if step in trail:
            circle = " → ".join([each[1] for each in trail[trail.index(step) :]] + [name])
            self.document.problem(where, f"patterns go round in a circle: {circle}")
            return None
        return owner.pattern(name, trail)

    def _owner_of(self, address: str, where: Path) -> tuple[_Draft | None, str]:
        alias, colon, name = address.rpartition(":")
        if not colon:
            return self, name
        if alias not in self.borrowed and alias not in self.broken_borrows:
            self.document.problem(where, f"nothing is borrowed as '{alias}'{hint(alias, self.borrowed)}")
        return self.borrowed.get(alias), name

    def _filling(self, table: PatternTable, path: Path) -> Filling | None:
        assert table.expression is not None
        if self._is_beyond_limit:
            return None
        try:
            return fill(table.expression, self.scope, verbose="verbose" in self._flags(table))
        except PartError as error:
            for fault in error.faults:
                if fault.source == OWN:
                    self._note_fault(fault, (*path, "expression"))
            return None

    def _check_parameters(self, table: PatternTable, filling: Filling, path: Path) -> None:
        if self.document.is_damaged((*path, "parameters")):
            return
        for name in sorted(filling.parameters - set(table.parameters)):
            self.document.problem(
                (*path, "expression"),
                f"{{{{={name}}}}} is no parameter of the pattern{hint(name, table.parameters)}",
            )

    def _check_allowances(self, table: PatternTable, path: Path) -> None:
        from fieldstick.analysis.hazard_kinds import KINDS, is_named

        for index, each in enumerate(table.allow):
            if not is_named(each.hazard):
                words = f"there is no hazard '{each.hazard}'{hint(each.hazard, KINDS)}"
                self.document.problem((*path, "allow", index, "hazard"), words)

    def _check_fields(self, table: PatternTable, filling: Filling, path: Path) -> None:
        values = dict.fromkeys(filling.parameters, "")
        text = filling.text(values)
        names = group_names(scan(text, verbose="verbose" in self._flags(table)).groups) if table.fields else ()
        shown = list(names)
        for name, field in table.fields.items():
            where: Path = (*path, "fields", name)
            if name not in names:
                self.document.problem(where, f"no group of the expression is named '{name}'{hint(name, names)}")
            elif field.name is not None:
                self._check_new_name(name, field.name, shown, where)
            try:
                field_spec(field)
            except FieldTableError as error:
                self.document.problem((*where, error.key), str(error))

    def _check_new_name(self, name: str, new_name: str, shown: list[str], where: Path) -> None:
        if not name.isdecimal():
            self.document.problem(
                (*where, "name"),
                f"the group is named '{name}' already; only a numbered one takes a name here",
            )
        elif new_name in shown:
            self.document.problem((*where, "name"), f"another group is named '{new_name}' already")
        else:
            shown[shown.index(name)] = new_name
