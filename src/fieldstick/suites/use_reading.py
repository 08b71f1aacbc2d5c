"""Turns the tables of a suite's uses into uses: patterns found, templates read, every mistake named."""

from __future__ import annotations

import csv
import json
from typing import TYPE_CHECKING, Any, Protocol

from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.errors import hint
from fieldstick.suites.samples import content_beside
from fieldstick.suites.suite import Sample
from fieldstick.suites.templates import TemplateError, read_template
from fieldstick.suites.uses import SECTIONS, Answer, Expected, Form, Lookup, Rewrite, Route, Split, Use

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from fieldstick.suites.document import Document
    from fieldstick.suites.places import Path
    from fieldstick.suites.suite import Pattern
    from fieldstick.suites.use_model import (
        FormTable,
        LookupSampleTable,
        LookupTable,
        RewriteTable,
        RouteTable,
        SplitTable,
        UseSampleTable,
    )


class PatternHome(Protocol):
    """Where the patterns that uses name are found; what is wrong is noted in the document."""

    def member(self, address: str, where: Path) -> Pattern | None:
        """Return the pattern of that address; None when there is none."""

    def bare(self, expression: str, flags: tuple[str, ...] | None, where: Path) -> Pattern | None:
        """Return an expression as a pattern that may match anywhere; None when its parts are not there."""

    def fields_of(self, pattern: Pattern) -> tuple[str, ...]:
        """Return the names of the fields that a pattern can capture."""


class UseReader(Struct):
    """Reads the uses of one suite file; what is wrong goes to the document's problems."""

    document: Document
    home: PatternHome
    _rewrites: dict[str, Rewrite | None] = field(default_factory=dict)

    def read(self) -> dict[str, Use]:
        """Return the uses by name, in the order of the sections and of the file."""
        table = self.document.table
        found: list[Use] = []
        if table is not None and any(getattr(table, section) for section in SECTIONS):
            found += [each for name in table.rewrites if (each := self._rewrite(name, ())) is not None]
            found += self._kept(table.splits, self._split)
            found += self._kept(table.routes, self._route)
            found += self._kept(table.lookups, self._lookup)
            found += self._kept(table.forms, self._form)
        return {use.name: use for use in found}

    @staticmethod
    def _kept(tables: Mapping[str, Any], read: Any) -> Iterator[Use]:
        for name, table in tables.items():
            use = read(name, table)
            if use is not None:
                yield use

    def _problem(self, path: Path, words: str) -> None:
        self.document.problem(path, words)

    def _rewrite(self, name: str, trail: tuple[str, ...]) -> Rewrite | None:
        assert self.document.table is not None
        if name not in self._rewrites:
            table = self.document.table.rewrites[name]
            path: Path = ("rewrites", name)
            made = self._steps(name, table, path, trail) if table.steps else self._single(name, table, path)
            self._rewrites[name] = made
            if made is not None:
                samples = self._text_samples(made, table.samples, lambda sample: sample.becomes)
                self._rewrites[name] = replace(made, samples=samples)
        return self._rewrites[name]

    def _single(self, name: str, table: RewriteTable, path: Path) -> Rewrite | None:
        if table.pattern is None or table.template is None:
            self._problem(path, "a rewrite has a pattern and with, its template; or steps, the names of other rewrites")
            return None
        pattern = self.home.member(table.pattern, (*path, "pattern"))
        if pattern is None:
            return None
        if pattern.combination in ("all_of", "none_of"):
            self._problem((*path, "pattern"), f"'{table.pattern}' is {pattern.combination}: it has no match to replace")
            return None
        if table.times is not None and pattern.take not in ("first", "all"):
            self._problem((*path, "times"), f"the pattern takes {pattern.take}, so times says nothing; leave it out")
        try:
            template = read_template(table.template)
            template.check(self.home.fields_of(pattern))
        except TemplateError as error:
            self._problem((*path, "with"), str(error))
            return None
        return Rewrite(name, table.about, tuple(table.tags), (), path, pattern, template, table.times)

    def _steps(self, name: str, table: RewriteTable, path: Path, trail: tuple[str, ...]) -> Rewrite | None:
        assert self.document.table is not None and table.steps is not None
        for key in ("pattern", "template", "times"):
            if key in table.model_fields_set:
                shown = "with" if key == "template" else key
                self._problem((*path, shown), f"'{shown}' beside 'steps': the steps have their own")
        steps: list[Rewrite] = []
        known = self.document.table.rewrites
        for index, each in enumerate(table.steps):
            where: Path = (*path, "steps", index)
            if each not in known:
                self._problem(where, f"there is no rewrite '{each}'{hint(each, known)}")
            elif each in (*trail, name):
                round_trip = [*trail, name, each]
                circle = " → ".join(round_trip[round_trip.index(each) :])
                self._problem(where, f"rewrites go round in a circle: {circle}")
            else:
                step = self._rewrite(each, (*trail, name))
                if step is not None:
                    steps.append(step)
        if len(steps) < len(table.steps):
            return None
        return Rewrite(name, table.about, tuple(table.tags), (), path, steps=tuple(steps))

    def _split(self, name: str, table: SplitTable) -> Split | None:
        path: Path = ("splits", name)
        if (table.at is None) == (table.pattern is None):
            self._problem(path, "a split has either at, an expression, or pattern, the name of one")
            return None
        if table.at is not None:
            flags = tuple(table.flags) if table.flags is not None else None
            pattern = self.home.bare(table.at, flags, (*path, "at"))
        else:
            assert table.pattern is not None
            pattern = self.home.member(table.pattern, (*path, "pattern"))
            if table.flags is not None:
                self._problem((*path, "flags"), "'flags' beside 'pattern': the pattern has its own")
        if pattern is None:
            return None
        if pattern.combination in ("all_of", "none_of"):
            self._problem((*path, "pattern"), f"'{table.pattern}' is {pattern.combination}: it has no match to cut at")
            return None
        made = Split(name, table.about, tuple(table.tags), (), path, pattern, table.keep_separators, table.drop_empty)
        samples = self._text_samples(made, table.samples, lambda sample: tuple(sample.pieces))
        return replace(made, samples=samples)

    def _route(self, name: str, table: RouteTable) -> Route | None:
        path: Path = ("routes", name)
        order: list[Pattern] = []
        for index, address in enumerate(table.order):
            where: Path = (*path, "order", index)
            pattern = self.home.member(address, where)
            if pattern is None:
                continue
            if pattern.name in [each.name for each in order]:
                self._problem(where, f"the kind '{pattern.name}' is there twice")
            if pattern.parameters:
                self._problem(where, f"'{address}' has parameters, for which a route has no values")
            order.append(pattern)
        if table.otherwise in [each.name for each in order]:
            self._problem((*path, "otherwise"), f"'{table.otherwise}' is a kind of the route already")
        if len(order) < len(table.order):
            return None
        made = Route(name, table.about, tuple(table.tags), (), path, tuple(order), table.otherwise)
        samples = self._text_samples(made, table.samples, lambda sample: sample.kind)
        for sample in samples:
            kind = sample.expected.outcome if sample.expected is not None else None
            if kind not in made.kinds:
                self._problem((*sample.path, "kind"), f"the route has no kind '{kind}'{hint(str(kind), made.kinds)}")
        return replace(made, samples=samples)

    def _lookup(self, name: str, table: LookupTable) -> Lookup | None:
        path: Path = ("lookups", name)
        pattern = self.home.member(table.pattern, (*path, "pattern"))
        if pattern is None:
            return None
        made = Lookup(
            name,
            table.about,
            tuple(table.tags),
            (),
            path,
            pattern,
            table.column,
            tuple(table.give),
            table.pick,
            table.missing,
        )
        samples = []
        for index, sample in enumerate(table.samples):
            where: Path = (*path, "samples", index)
            rows = self._lookup_rows(sample, where)
            answers = self._answers(made, sample.gives, where)
            self._check_values(made, sample.values or {}, where)
            if rows is not None and answers is not None:
                text = json.dumps([dict(row) for row in rows], ensure_ascii=False)
                samples.append(self._sample(index, text, sample, where, Expected(answers, tuple(rows))))
        return replace(made, samples=tuple(samples))

    def _lookup_rows(self, sample: LookupSampleTable, where: Path) -> list[dict[str, str]] | None:
        if (sample.rows is None) == (sample.table is None):
            self._problem(where, "a sample of a lookup has either rows, or table, a CSV beside the suite")
            return None
        if sample.rows is not None:
            return sample.rows
        assert sample.table is not None
        content = content_beside(self.document, (*where, "table"), sample.table)
        if content is None:
            return None
        try:
            reader = csv.DictReader(content.removeprefix("\ufeff").splitlines(keepends=True), strict=True, restval="")
            return [{key: value for key, value in row.items() if key is not None} for row in reader]
        except csv.Error as error:
            self._problem((*where, "table"), f"'{sample.table}': not CSV: {error}")
            return None

    def _answers(self, lookup: Lookup, given: Any, where: Path) -> tuple[Answer, ...] | None:
        listed = given if isinstance(given, list) else [given]
        if lookup.pick != "all" and len(listed) != 1:
            self._problem((*where, "gives"), f"the lookup picks the {lookup.pick} row; give one answer")
            return None
        answers: list[Answer] = []
        for each in listed:
            if isinstance(each, str):
                answers.append(dict.fromkeys(lookup.give, each))
                if len(lookup.give) > 1 and each != lookup.missing:
                    self._problem((*where, "gives"), "the lookup gives several columns; write { COLUMN = 'text', … }")
            else:
                for column in each:
                    if column not in lookup.give:
                        words = f"the lookup does not give the column '{column}'{hint(column, lookup.give)}"
                        self._problem((*where, "gives"), words)
                answers.append(each)
        return tuple(answers)

    def _form(self, name: str, table: FormTable) -> Form | None:
        path: Path = ("forms", name)
        columns: list[tuple[str, Pattern]] = []
        for column, address in table.columns.items():
            pattern = self.home.member(address, (*path, "columns", column))
            if pattern is not None:
                if pattern.parameters:
                    words = f"'{address}' has parameters, for which a form has no values"
                    self._problem((*path, "columns", column), words)
                columns.append((column, pattern))
        for column in table.required:
            if column not in table.columns:
                self._problem((*path, "required"), f"the form has no column '{column}'{hint(column, table.columns)}")
        if len(columns) < len(table.columns):
            return None
        blank = tuple(table.blank)
        made = Form(name, table.about, tuple(table.tags), (), path, tuple(columns), tuple(table.required), blank)
        samples = []
        for index, sample in enumerate(table.samples):
            where: Path = (*path, "samples", index)
            for key, names in (("row", list(sample.row)), ("rejects", sample.rejects)):
                for column in names:
                    if column not in table.columns:
                        words = f"the form has no column '{column}'{hint(column, table.columns)}"
                        self._problem((*where, key), words)
            text = json.dumps(sample.row, ensure_ascii=False)
            samples.append(self._sample(index, text, sample, where, Expected(tuple(sample.rejects), (sample.row,))))
        return replace(made, samples=self._all_new(samples))

    def _text_samples(self, use: Use, tables: Any, outcome: Any) -> tuple[Sample, ...]:
        samples = []
        for index, table in enumerate(tables):
            where: Path = (*use.path, "samples", index)
            text = self._text(table, where)
            self._check_values(use, table.values or {}, where)
            if text is not None:
                samples.append(self._sample(index, text, table, where, Expected(outcome(table))))
        return self._all_new(samples)

    def _sample(self, index: int, text: str, table: Any, where: Path, expected: Expected) -> Sample:
        values = getattr(table, "values", None) or {}
        return Sample("sample", index + 1, text, where, table.note, values=values, expected=expected)

    def _text(self, table: UseSampleTable, where: Path) -> str | None:
        if (table.text is None) == (table.file is None):
            self._problem(where, "a sample has either text, or file, a file beside the suite")
            return None
        if table.text is not None:
            return table.text
        assert table.file is not None
        return content_beside(self.document, (*where, "file"), table.file)

    def _check_values(self, use: Use, values: Mapping[str, str], where: Path) -> None:
        parameters = use.parameters
        for name in values:
            if name not in parameters:
                self._problem((*where, "with", name), f"there is no parameter '{name}'{hint(name, parameters)}")
        for name in parameters:
            if name not in values:
                self._problem(where, f"the sample gives no value for '{name}'; add with = {{ {name} = '…' }}")

    def _all_new(self, samples: list[Sample]) -> tuple[Sample, ...]:
        first: dict[tuple[str, tuple[tuple[str, str], ...]], Path] = {}
        for sample in samples:
            key = (sample.text, tuple(sorted(sample.values.items())))
            before = first.setdefault(key, sample.path)
            if before is not sample.path:
                self._problem(sample.path, f"the same sample is on line {self.document.line_of(before)} already")
        return tuple(samples)
