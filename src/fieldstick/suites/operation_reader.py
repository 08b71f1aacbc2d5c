"""What helps to read the operations of a section: patterns by name, samples, and mistakes named by line."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Protocol

from msgspec import Struct

from fieldstick.errors import hint
from fieldstick.suites.samples import content_beside
from fieldstick.suites.suite import Expected, Sample

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Mapping

    from fieldstick.suites.document import Document
    from fieldstick.suites.places import Path
    from fieldstick.suites.sections import SampleTable
    from fieldstick.suites.suite import Operation, Pattern


class PatternHome(Protocol):
    """Where the patterns that operations name are found; what is wrong is noted in the document."""

    def member(self, address: str, where: Path) -> Pattern | None:
        """Return the pattern of that address; None when there is none."""

    def bare(self, expression: str, flags: tuple[str, ...] | None, where: Path) -> Pattern | None:
        """Return an expression as a pattern that may match anywhere; None when its parts are not there."""

    def fields_of(self, pattern: Pattern) -> tuple[str, ...]:
        """Return the names of the fields that a pattern can capture."""


class OperationReader(Struct):
    """Reads the operations of one section of a suite file; what is wrong goes to the document's problems."""

    document: Document
    home: PatternHome
    section: str
    tables: Mapping[str, Any]

    def problem(self, path: Path, words: str) -> None:
        """Note something wrong with the value at `path`."""
        self.document.problem(path, words)

    def text_samples(
        self, operation: Operation, tables: Iterable[Any], outcome: Callable[[Any], Any]
    ) -> tuple[Sample, ...]:
        """Read samples that name a text; `outcome` gives what a sample's table expects."""
        samples = []
        for index, table in enumerate(tables):
            where: Path = (*operation.path, "samples", index)
            text = self._text(table, where)
            self.check_values(operation, table.values or {}, where)
            if text is not None:
                samples.append(self.sample(index, text, table, where, Expected(outcome(table))))
        return self.all_new(samples)

    def sample(self, index: int, text: str, table: Any, where: Path, expected: Expected) -> Sample:
        """Return the sample of a table, counted from 0."""
        values = getattr(table, "values", None) or {}
        return Sample("sample", index + 1, text, where, table.note, values=values, expected=expected)

    def _text(self, table: SampleTable, where: Path) -> str | None:
        if (table.text is None) == (table.file is None):
            self.problem(where, "a sample has either text, or file, a file beside the suite")
            return None
        if table.text is not None:
            return table.text
        assert table.file is not None
        return content_beside(self.document, (*where, "file"), table.file)

    def check_values(self, operation: Operation, values: Mapping[str, str], where: Path) -> None:
        """Note values of parameters that there are not, and parameters without a value."""
        parameters = operation.parameters
        for name in values:
            if name not in parameters:
                self.problem((*where, "with", name), f"there is no parameter '{name}'{hint(name, parameters)}")
        for name in parameters:
            if name not in values:
                self.problem(where, f"the sample gives no value for '{name}'; add with = {{ {name} = '…' }}")

    def all_new(self, samples: list[Sample]) -> tuple[Sample, ...]:
        """Return the samples; note those that are there twice."""
        first: dict[tuple[str, tuple[tuple[str, str], ...]], Path] = {}
        for sample in samples:
            key = (sample.text, tuple(sorted(sample.values.items())))
            before = first.setdefault(key, sample.path)
            if before is not sample.path:
                self.problem(sample.path, f"the same sample is on line {self.document.line_of(before)} already")
        return tuple(samples)
