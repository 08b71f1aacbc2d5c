"""What the language server answers, in our own words: the suites of a folder, with the texts that are being edited."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.context import Beside
from fieldstick.drafting.outline import outline_as_written
from fieldstick.errors import FieldstickError, SuiteFileError, SyntaxFault, UsageError
from fieldstick.lean import compiled_later
from fieldstick.lsp.keys import choices_of, keys_of
from fieldstick.lsp.names import MEMBER_KEYS, Named, SuiteText
from fieldstick.reporting.findings import Finding, findings_of, findings_of_problems
from fieldstick.reporting.why_answers import answer_of, writing_of
from fieldstick.runs.judging import unreadable
from fieldstick.suites.finding import ENDING, find_suites
from fieldstick.suites.parts import fill
from fieldstick.suites.places import place_in_text
from fieldstick.suites.suite import Pattern
from fieldstick.syntax.parser import parse
from fieldstick.workspace import Chosen, Workspace

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.drafting.outline import OutlineLine
    from fieldstick.runs.results import CheckResult
    from fieldstick.suites.suite import Suite

MOST_SHOWN = 12
"""Lines of an outline that a hover shows."""


MOST_MENDED = 3
"""Failing samples of a line for which changes are offered."""


class Use(Struct, frozen=True):
    """A name in a file."""

    file: str
    named: Named


class Change(Struct, frozen=True):
    """A change that is offered: what it says, and the whole text of each file after it."""

    title: str
    texts: Mapping[str, str]


class Desk:
    """The suites below a folder, those that are open as they are in the editor."""

    def __init__(self, folder: str = ".") -> None:
        self.folder = folder
        self._open: dict[str, str] = {}
        self._texts: dict[str, SuiteText] = {}
        self._checked: dict[str, CheckResult] = {}
        self._sound: dict[str, Suite] = {}
        """The suites as they were when nothing was wrong with them."""

    def put(self, file: str, text: str) -> None:
        """Take in what an open file holds now."""
        # Another suite may borrow from it.
        self._checked.clear()
        self._open[os.path.realpath(file)] = text

    def drop(self, file: str) -> None:
        """Forget what an open file held; it is read from the disk again."""
        self._checked.clear()
        self._open.pop(os.path.realpath(file), None)

    def text(self, file: str) -> SuiteText:
        """Return the text of a file as it is now. Raises OSError for one that cannot be read."""
        real = os.path.realpath(file)
        written = self._open.get(real)
        if written is None:
            written = Path(real).read_text(encoding="utf-8-sig", errors="replace")
        known = self._texts.get(real)
        if known is None or known.text != written:
            known = self._texts[real] = SuiteText(written)
        return known

    def is_suite(self, file: str) -> bool:
        """Tell whether a file is a suite, by its name or by what it says of itself: editors send all their TOML."""
        return file.endswith(ENDING) or not os.path.isabs(file) or self.text(file).says_suite

    def borrowers(self, file: str) -> list[str]:
        """Return the other open files that borrow from one, or from one that does."""
        found = [os.path.realpath(file)]
        for home in found:
            for other in self._open:
                borrowed = [os.path.join(os.path.dirname(other), each) for each in self.text(other).borrowed.values()]
                if other not in found and home in map(os.path.realpath, borrowed):
                    found.append(other)
        return found[1:]

    def files(self) -> list[str]:
        """Return the suites below the folder, and those that are open."""
        try:
            found = [os.path.realpath(each) for each in find_suites([self.folder])]
        except FieldstickError:
            found = []
        return list(dict.fromkeys([*found, *self._open]))

    def suite(self, file: str) -> Suite:
        """Return the suite that a file holds as it is now. Raises SuiteFileError with all that is wrong."""
        found = Workspace().edited_suites([file], self._open)[0]
        self._sound[os.path.realpath(file)] = found
        return found

    def findings(self, file: str) -> list[Finding]:
        """Return what is to be said of a file: mistakes; without any, failing samples and hazards."""
        real = os.path.realpath(file)
        self._checked.pop(real, None)
        if not self.is_suite(file):
            return []
        try:
            suite = self.suite(file)
        except SuiteFileError as error:
            return [each for each in findings_of_problems(error.problems) if _same(each.file, file)]
        except FieldstickError as error:
            return [Finding("error", "mistake", file, 1, str(error))]
        checked = self._checked[real] = Workspace().check([suite], trials=False, hazards=True)
        found = [each for each in findings_of(checked) if _same(each.file, file)]
        return [*found, *_idle_parts(suite)]

    def samples(self, file: str) -> dict[str, tuple[int, int]]:
        """Return, by pattern, how many of its samples pass and how many there are; nothing for a file with mistakes.

        They are those of the last check, if nothing was typed since.
        """
        real = os.path.realpath(file)
        if real not in self._checked:
            self.findings(file)
        checked = self._checked.get(real)
        judged = checked.suites[0].patterns if checked is not None else ()
        return {
            each.pattern.name: (sum(one.outcome == "pass" for one in each.samples), len(each.samples))
            for each in judged
            if each.samples
        }

    def definition(self, file: str, position: int) -> Use | None:
        """Return where the part or pattern is defined that is used at a position."""
        named = self.text(file).name_at(position)
        home = self._home(file, named) if named is not None else None
        if named is None or home is None:
            return None
        defined = self.text(home).defined
        return next((Use(home, each) for each in defined if (each.kind, each.name) == (named.kind, named.name)), None)

    def uses(self, file: str, position: int) -> list[Use]:
        """Return every place, of all suites, where the part or pattern at a position is defined or used."""
        named = self.text(file).name_at(position)
        home = self._home(file, named) if named is not None else None
        if named is None or home is None:
            return []
        found = []
        for other in self.files():
            text = self.text(other)
            for each in (*text.defined, *text.used):
                if (each.kind, each.name) == (named.kind, named.name) and self._home(other, each) == home:
                    found.append(Use(other, each))
        return found

    def renamed(self, file: str, position: int, name: str) -> list[Use]:
        """Return the places that are to read otherwise when the part or pattern at a position is called `name`.

        Raises UsageError for a name that is none, or that is taken.
        """
        from fieldstick.suites.editing import checked_name

        checked_name(name)
        uses = self.uses(file, position)
        kind = uses[0].named.kind if uses else "part"
        home = self._home(uses[0].file, uses[0].named) if uses else None
        if home is not None and any((each.kind, each.name) == (kind, name) for each in self.text(home).defined):
            raise UsageError(f"there is a {kind} '{name}' already")
        return uses

    def _home(self, file: str, named: Named) -> str | None:
        """Return the file that a name is of: the one it stands in, or one that this borrows from."""
        if named.alias is None:
            return os.path.realpath(file)
        borrowed = self.text(file).borrowed.get(named.alias)
        return None if borrowed is None else os.path.realpath(os.path.join(os.path.dirname(file), borrowed))

    def hover(self, file: str, position: int) -> str | None:
        """Return, as Markdown, what the piece at a position asks for, or what a name stands for."""
        text = self.text(file)
        if not self.is_suite(file):
            return None
        named = text.name_at(position)
        if named is not None and named in text.used:
            return self._of_name(file, named)
        inside = text.expression_at(position)
        if inside is not None:
            return _of_piece(*inside)
        pattern = text.pattern_at(position)
        if named is not None and named.kind == "pattern":
            pattern = named.name
        return self._of_pattern(file, pattern) if pattern is not None else None

    def _of_name(self, file: str, named: Named) -> str | None:
        home = self._home(file, named)
        if home is None:
            return None
        if named.kind == "pattern":
            return self._of_pattern(home, named.name)
        text = self.text(home)
        at = next((each.end for each in text.defined if (each.kind, each.name) == ("part", named.name)), None)
        if at is None:
            return None
        quote = next((place for place in range(at, len(text.text)) if text.text[place] in "'\""), None)
        inside = text.expression_at(quote + 1) if quote is not None else None
        return f"part `{named.name}`\n\n{_outline(inside[0])}" if inside is not None else None

    def _of_pattern(self, file: str, name: str) -> str | None:
        """Return what a pattern is for, and what its first positive sample captured."""
        try:
            suite = self.suite(file)
        except FieldstickError:
            return None
        pattern = suite.patterns.get(name)
        if pattern is None:
            return None
        words = [f"pattern `{name}`" + (f": {pattern.about}" if pattern.about else "")]
        sample = next((each for each in pattern.samples if each.kind == "positive"), None)
        if sample is not None:
            from fieldstick.reporting.document import Ruled
            from fieldstick.reporting.lines import Page, lines_of
            from fieldstick.reporting.marks import marks_of

            reading = Chosen(pattern, suite, dict(sample.values)).matcher.read_or_give_up(sample.text)
            lines = lines_of([Ruled(sample.text, tuple(marks_of(reading)), indent=0)], Page(100))
            drawn = "\n".join("".join(segment.text for segment in line).rstrip() for line in lines)
            words.append(f"```text\n{drawn}\n```")
        return "\n\n".join(words)

    def completions(self, file: str, position: int) -> list[tuple[str, str]]:
        """Return what may stand at a position, each with a word that says what it is."""
        text = self.text(file)
        if not self.is_suite(file):
            return []
        before = text.text[text.text.rfind("\n", 0, position) + 1 : position]
        if (opened := before.rfind("{{")) >= 0 and "}}" not in before[opened:]:
            return list(self._part_names(file, before[opened + 2 :]))
        if _FIELD.match(before):
            return [(each, "field") for each in self._fields(file, position)]
        key, equals, _ = before.partition("=")
        if not equals:
            return [(each, "key") for each in keys_of(text.table_at(position))]
        if key.strip().rpartition(".")[2] in MEMBER_KEYS:
            return [(each.name, "pattern") for each in text.defined if each.kind == "pattern"]
        return [(each, "value") for each in choices_of(text.table_at(position), key.strip())]

    def _part_names(self, file: str, begun: str) -> Iterator[tuple[str, str]]:
        text = self.text(file)
        alias, point, _ = begun.partition(".")
        if point and alias in text.borrowed:
            home = os.path.join(os.path.dirname(file), text.borrowed[alias])
            if os.path.isfile(home):
                yield from ((each.name, "part") for each in self.text(home).defined if each.kind == "part")
            return
        yield from ((each.name, "part") for each in text.defined if each.kind == "part")
        yield from ((f"{each}.", "borrowed suite") for each in text.borrowed)

    def _fields(self, file: str, position: int) -> list[str]:
        """Return the fields of the pattern at a position, as they were when nothing was wrong with the suite."""
        name = self.text(file).pattern_at(position) or ""
        try:
            suite: Suite | None = self.suite(file)
        except FieldstickError:
            suite = self._sound.get(os.path.realpath(file))
        pattern = suite.patterns.get(name) if suite is not None else None
        try:
            return list(Chosen(pattern).matcher.field_names) if pattern is not None else []
        except FieldstickError:
            return []

    def changes(self, file: str, line: int) -> list[Change]:
        """Return changes that would mend what is said of a line (from 1), and samples that could be added there.

        A sample that is a table of its own is meant by each of its lines.
        """
        try:
            suite = self.suite(file)
        except FieldstickError:
            return []
        found: list[Change] = []
        head = self.text(file).head_line(line)
        for pattern in suite.patterns.values():
            mended = 0
            for sample in pattern.samples:
                if suite.line_of(sample.path) in (line, head) and mended < MOST_MENDED:
                    changes = [*self._mending(Chosen(pattern, suite, dict(sample.values)), sample.text)]
                    found += [each for each in changes if each not in found]
                    mended += bool(changes)
            if suite.line_of(("patterns", pattern.name)) == line:
                found += self._sampled(file, pattern)
        return found

    def _mending(self, chosen: Chosen, sample: str) -> Iterator[Change]:
        """Yield the changes after which a sample comes out as it must."""
        answer = answer_of(chosen, sample, Beside())
        if (answer.is_as_meant and answer.differs is None) or answer.gave_up is not None:
            return
        for repair in answer.found.repairs:
            try:
                writing = writing_of(chosen, answer, repair)
                text = writing.changed(self.text(writing.file).text)
            except (UsageError, OSError):
                continue
            name = answer.path[-1][1] if answer.path else chosen.pattern.name
            yield Change(f"{name}: {repair.words}", {os.path.realpath(writing.file): text})

    def _sampled(self, file: str, pattern: Pattern) -> Iterator[Change]:
        """Yield texts that the pattern fits and that are no sample of it yet, as positive ones."""
        from fieldstick.drafting.typed_examples import typed_examples
        from fieldstick.suites.editing import with_sample

        if pattern.filling is None or pattern.parameters:
            return
        known = {each.text for each in pattern.samples}
        try:
            matcher = Chosen(pattern).matcher
            parsed = parse(pattern.filling.text({}), pattern.flags)
            new = [each for each in typed_examples(matcher, parsed, most=5) if each not in known][:2]
        except (FieldstickError, SyntaxFault):
            return
        for text in new:
            made = with_sample(self.text(file).text, pattern.name, "positive", {"text": text})
            yield Change(f"{pattern.name}: add the positive sample '{text}'", {os.path.realpath(file): made})


def _idle_parts(suite: Suite) -> Iterator[Finding]:
    """Yield the parts that no pattern of a suite uses and that cannot be read: others may borrow them."""
    used = {name for each in suite.patterns.values() if each.filling is not None for name in each.filling.part_texts}
    for name in [each for each in suite.parts if each not in used]:
        filling = fill(f"{{{{{name}}}}}", suite.scope)
        pattern = Pattern(name, filling, parameters=tuple(sorted(filling.parameters)))
        broken = unreadable(pattern, pattern.engine)
        if broken is not None and broken.fault.part == name:
            place = place_in_text(suite.document, ("parts", name), broken.fault.position or 0)
            yield Finding("error", "mistake", suite.file, place[0], f"{suite.name}:{name}: {broken.words}", place[1])


_FIELD = compiled_later(r"\s*(?:fields|absent)(?:\.|\s*=\s*[\[{])[^\]}]*\Z")


def _of_piece(expression: str, at: int) -> str | None:
    """Return what the innermost piece at a place of an expression asks for, and what stands below it."""
    try:
        lines = outline_as_written(expression)
    except SyntaxFault as fault:
        return f"cannot be read: {fault}"
    around = [index for index, each in enumerate(lines) if each.span[0] <= at < each.span[1]]
    if not around:
        return None
    first = min(around, key=lambda index: (lines[index].span[1] - lines[index].span[0], -index))
    below = first + 1
    while below < len(lines) and lines[below].depth > lines[first].depth:
        below += 1
    return _table(lines[first:below])


def _outline(expression: str) -> str:
    try:
        return _table(outline_as_written(expression))
    except SyntaxFault as fault:
        return f"cannot be read: {fault}"


def _table(lines: Sequence[OutlineLine]) -> str:
    """Return an outline as Markdown."""
    shown = lines[:MOST_SHOWN]
    least = min((each.depth for each in shown), default=0)
    width = max((2 * (each.depth - least) + len(each.source) for each in shown), default=0)
    rows = [f"{'  ' * (each.depth - least)}{each.source}".ljust(min(width, 40)) + f"  {each.words}" for each in shown]
    more = [f"… {len(lines) - MOST_SHOWN} more"] if len(lines) > MOST_SHOWN else []
    return "```text\n" + "\n".join([*rows, *more]) + "\n```"


def _same(one: str, other: str) -> bool:
    return os.path.realpath(one) == os.path.realpath(other)
