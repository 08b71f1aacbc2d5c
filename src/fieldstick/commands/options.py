"""What the commands that work on data share: options for patterns, sources and sinks, and the closing words."""

from __future__ import annotations

import functools
import signal
import sys
from collections.abc import Callable
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct
from msgspec.structs import replace

from fieldstick.commands.drafts import bare_pattern, pattern_at, suite_names
from fieldstick.commands.rendering import say
from fieldstick.commands.source_notes import say_source_notes
from fieldstick.commands.take_type import TakeType
from fieldstick.data.read_options import KINDS, LONGEST_TEXT, TABLES, ReadOptions
from fieldstick.data.sink import FORMS, Form, Sink, form_of, open_sink
from fieldstick.data.source import Source, open_sources
from fieldstick.data.text_file import refuse_own_source
from fieldstick.engines.protocol import FLAGS, REACHES
from fieldstick.errors import EXIT_FAILED, EXIT_PASSED, UsageError, hint
from fieldstick.matching.matcher import Matcher, prepare
from fieldstick.reporting.as_tally import given_up_words
from fieldstick.reporting.cells import Charset, visible

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.engines.protocol import Take
    from fieldstick.matching.tally import Tally
    from fieldstick.suites.model import FieldTable, FieldType
    from fieldstick.suites.suite import Pattern

_TYPES: tuple[FieldType, ...] = ("text", "integer", "decimal", "date", "time", "timestamp", "boolean")


class Overrides(Struct, frozen=True):
    """How the patterns of a command are to read, beyond what their suites say."""

    reach: str | None = None
    flags: tuple[str, ...] = ()
    suite_file: str | None = None
    values: tuple[str, ...] = ()
    take: Take | None = None
    fields: tuple[str, ...] = ()
    decimal_mark: str | None = None
    group_mark: str | None = None

    def ready(self, pattern: Pattern) -> Matcher:
        """Make a pattern ready. Raises UsageError for a parameter or field that it does not have."""
        pattern = self.adapted(pattern)
        known = {name: value for name, value in self.parameters().items() if name in pattern.parameters}
        for name in pattern.parameters:
            if name not in known:
                raise UsageError(
                    f"the pattern '{pattern.name}' needs a value for its parameter '{name}': "
                    f"add --parameter {name}=VALUE"
                )
        ready = prepare(pattern, known)
        for each in self.fields:
            name = each.partition("=")[0]
            if name not in ready.field_names:
                raise UsageError(f"--field {each}: there is no field '{name}'{hint(name, ready.field_names)}")
        return ready

    def parameters(self) -> dict[str, str]:
        """Return the values that were given."""
        return dict(_pair(each, "--parameter", "VALUE") for each in self.values)

    def check_parameters(self, patterns: Iterable[Pattern]) -> None:
        """Raise UsageError for a value whose parameter no pattern has."""
        known = [name for pattern in patterns for name in pattern.parameters]
        for name in self.parameters():
            if name not in known:
                raise UsageError(f"--parameter {name}: no pattern here has such a parameter{hint(name, known)}")

    def filled(self, pattern: Pattern) -> Pattern:
        """Return the pattern as asked, the values of its parameters put in."""
        pattern = self.adapted(pattern)
        if not pattern.parameters or pattern.filling is None:
            return pattern
        for name in pattern.parameters:
            if name not in self.parameters():
                raise UsageError(f"the pattern needs a value for '{name}': add --parameter {name}=VALUE")
        known = {name: value for name, value in self.parameters().items() if name in pattern.parameters}
        return replace(pattern, filling=bare_pattern(pattern.filling.text(known)).filling, parameters=())

    def adapted(self, pattern: Pattern, *, bare_reach: str | None = None) -> Pattern:
        """Return the pattern with reach, take, flags and field types as asked; `bare_reach` where none is asked."""
        if bare_reach is not None and self.reach is None:
            return replace(self, reach=bare_reach).adapted(pattern)
        if pattern.combination is not None:
            if self.reach or self.flags:
                raise UsageError(f"'{pattern.name}' is made of others, which each have their own reach and flags")
            return replace(pattern, members=tuple(self.adapted(each) for each in pattern.members))
        changes: dict[str, Any] = {}
        if self.reach:
            changes["reach"] = self.reach
        if self.flags:
            changes["flags"] = frozenset(self.flags)
        if self.take is not None:
            changes["take"] = self.take
        if self.fields or self.decimal_mark or self.group_mark:
            changes["fields"] = self._field_tables(pattern)
        return replace(pattern, **changes) if changes else pattern

    def _field_tables(self, pattern: Pattern) -> dict[str, FieldTable]:
        from fieldstick.suites.model import FieldTable

        tables = dict(pattern.fields)
        for each in self.fields:
            name, kind = _pair(each, "--field", "TYPE")
            word, _, layout = kind.partition(":")
            if word not in _TYPES:
                raise UsageError(f"--field {each}: there is no type '{word}'{hint(word, _TYPES)}")
            settings: dict[str, Any] = {"layout": layout} if layout else {}
            tables[name] = FieldTable(type=next(each for each in _TYPES if each == word), **settings)
        return {name: self._marked(table) for name, table in tables.items()}

    def _marked(self, table: FieldTable) -> FieldTable:
        changes = {}
        if self.decimal_mark and table.type == "decimal" and table.decimal_mark is None:
            changes["decimal_mark"] = self.decimal_mark
        if self.group_mark and table.type in ("integer", "decimal") and table.group_mark is None:
            changes["group_mark"] = self.group_mark
        return table.model_copy(update=changes) if changes else table


def _pair(given: str, option: str, what: str) -> tuple[str, str]:
    name, equals, value = given.partition("=")
    if not equals or not name:
        raise UsageError(f"{option} {given}: write NAME={what}")
    return name, value


Decorator = Callable[[Callable[..., Any]], Callable[..., Any]]


def _collecting(
    options: Sequence[Callable[[Any], Any]], collect: Callable[[dict[str, Any]], dict[str, Any]]
) -> Decorator:
    """Return a decorator that adds options and hands what they give to the command as one thing."""

    def decorate(function: Callable[..., Any]) -> Callable[..., Any]:
        @functools.wraps(function)
        def wrapped(*arguments: Any, **given: Any) -> Any:
            return function(*arguments, **collect(given))

        added: Callable[..., Any] = wrapped
        for option in reversed(options):
            added = option(added)
        return added

    return decorate


def _overrides(given: dict[str, Any]) -> dict[str, Any]:
    names = ("reach", "flags", "suite_file", "values", "take", "fields", "decimal_mark", "group_mark")
    overrides = Overrides(**{name: given.pop(name) for name in names})
    return given | {"overrides": overrides}


pattern_options = _collecting(
    (
        click.option("-e", "expression", metavar="EXPRESSION", help="Use this expression instead of a pattern."),
        click.option(
            "--reach", type=click.Choice(REACHES), help="Where a match may lie.  [default: whole, or as kept]"
        ),
        click.option("--take", type=TakeType(), metavar="TAKE", help="first, last, all, or a number."),
        click.option("--flag", "flags", multiple=True, type=click.Choice(FLAGS), help="A flag. Repeatable."),
        click.option("--suite", "suite_file", metavar="FILE", help="The suite whose parts {{name}} -e uses."),
        click.option(
            "--parameter", "values", multiple=True, metavar="NAME=VALUE", help="A parameter's value. Repeatable."
        ),
        click.option(
            "--field",
            "fields",
            multiple=True,
            metavar="NAME=TYPE",
            help=f"A field's type: {', '.join(_TYPES)}; date:LAYOUT as in date:%d.%m.%Y. Repeatable.",
        ),
        click.option("--decimal-mark", metavar="C", help="The decimal mark of fields that name none."),
        click.option("--group-mark", metavar="C", help="The mark between groups of three digits."),
    ),
    _overrides,
)
"""Adds the options that say how patterns read; the command takes `how` and `expression`."""


def _read_options(given: dict[str, Any]) -> dict[str, Any]:
    start, whole, column = given.pop("record_start"), given.pop("whole"), given.pop("column")
    given = _table_read_options(given)
    read_options: ReadOptions = given["read_options"]
    kind = "whole" if whole else read_options.kind
    _check_read_options(read_options, whole, start, column)
    begins = _record_start(start) if start is not None else None
    return given | {"read_options": replace(read_options, kind=kind, column=column, begins_record=begins)}


def _check_read_options(read_options: ReadOptions, whole: bool, start: str | None, column: str | None) -> None:
    """Raise UsageError for options that ask for two ways of reading at once, or leave one half said."""
    asked = {"--whole": whole, "--record-start": start is not None, "--column": column is not None}
    if sum(asked.values()) > 1:
        several = " and ".join(name for name, given in asked.items() if given)
        raise UsageError(f"{several} are different ways to read a source; give one")
    if read_options.kind == "records" and start is None:
        raise UsageError("--as records needs --record-start: what a line that begins a record looks like")
    json = read_options.kind in ("json", "jsonl") or read_options.rows_at is not None
    if column is None and not json and (read_options.asks_for_table or read_options.kind in TABLES):
        raise UsageError("this reads a table: name the column whose cells are the texts with --column")


def _table_read_options(given: dict[str, Any]) -> dict[str, Any]:
    longest = given.pop("longest")
    read_options = ReadOptions(
        kind=given.pop("kind"),
        delimiter=given.pop("delimiter"),
        quote=given.pop("quote"),
        encoding=given.pop("encoding"),
        refuse_undecodable=given.pop("undecodable") == "refuse",
        rows_at=given.pop("rows_at"),
        table=given.pop("table"),
        query=given.pop("query"),
        longest=longest or None,
    )
    return given | {"read_options": read_options}


def _record_start(given: str) -> Callable[[str], bool]:
    """Return what tells a line that begins a record: a pattern, or an expression that matches at the line's start."""
    found = pattern_at(given)
    pattern = found[1] if found is not None else replace(bare_pattern(given), reach="start")
    ready = prepare(pattern)
    return lambda line: ready.read(line).fits


_OF_TEXTS = (
    click.option("--column", metavar="NAME", help="Read this column of a table; for JSON a key, or /a/pointer."),
    click.option("--whole", is_flag=True, help="Read each source as one text."),
    click.option(
        "--record-start",
        metavar="EXPRESSION|SUITE:PATTERN",
        help="Read records of several lines; a line that fits begins one.",
    ),
)
_OF_TABLES = (
    click.option("--as", "kind", type=click.Choice(KINDS), help="What the sources are.  [default: told from each]"),
    click.option("--delimiter", metavar="C", help="What parts the cells of a CSV row.  [default: comma]"),
    click.option("--quote", default='"', metavar="C", help='What encloses a CSV cell.  [default: "]'),
    click.option("--rows", "rows_at", metavar="POINTER", help="The array of rows in a JSON document."),
    click.option("--table", metavar="NAME", help="The table of a SQLite file, or the sheet of a workbook."),
    click.option("--query", metavar="SQL", help="A query whose rows are read from a SQLite file."),
    click.option("--encoding", default="utf-8", show_default=True, metavar="NAME", help="How text is encoded."),
    click.option(
        "--undecodable",
        type=click.Choice(["keep", "refuse"]),
        default="keep",
        show_default=True,
        help="What to do with bytes that are no text.",
    ),
    click.option(
        "--longest",
        type=click.IntRange(min=0),
        default=LONGEST_TEXT,
        show_default=True,
        metavar="N",
        help="Characters up to which a text is read; 0 for no limit.",
    ),
)

source_options = _collecting((*_OF_TEXTS, *_OF_TABLES), _read_options)
"""Adds the options that say how sources are read; the command takes `manner`."""

table_options = _collecting(_OF_TABLES, _table_read_options)
"""Adds the options that say how tables are read, for commands that read whole rows."""


class OutputOptions(Struct, frozen=True):
    """Where rows are to go, as asked on the command line."""

    path: str | None = None
    form: str | None = None
    for_spreadsheet: bool = False

    def told_form(self) -> Form:
        """Return the form of what is written. Raises UsageError when nothing tells it."""
        return form_of(self.path, self.form)

    def open(self, sources: Iterable[Source]) -> Sink:
        """Open the sink. Raises UsageError when it is one of the sources, or cannot be opened."""
        if self.path is not None:
            refuse_own_source(self.path, [source.path for source in sources])
        return open_sink(self.path, self.told_form(), for_spreadsheet=self.for_spreadsheet, shown=shown)


def _output(given: dict[str, Any]) -> dict[str, Any]:
    return given | {"output": OutputOptions(given.pop("to"), given.pop("form"), given.pop("for_spreadsheet"))}


sink_options = _collecting(
    (
        click.option("--to", metavar="FILE", help="Write to FILE; its ending tells the form."),
        click.option("--format", "form", type=click.Choice(FORMS), help="The form of what is written.  [default: csv]"),
        click.option(
            "--for-spreadsheet", is_flag=True, help="In CSV and TSV, guard cells that a spreadsheet would run."
        ),
    ),
    _output,
)
"""Adds the options that say where rows go; the command takes `outlet`."""

jobs_option = click.option(
    "--jobs",
    type=click.IntRange(min=1),
    metavar="N",
    help="Work in N processes.  [default: one for each core, where there is much to read]",
)


def shown(text: str) -> str:
    """Make text safe for a terminal; line feeds and tabs stay."""
    charset = Charset(sys.stdout.encoding or "utf-8")
    return (
        "".join(each if each in "\n\t" else visible(each, charset) for each in text) if not text.isprintable() else text
    )


def patterns_and_sources(
    arguments: tuple[str, ...], expression: str | None, overrides: Overrides
) -> tuple[list[Pattern], tuple[str, ...]]:
    """Tell the patterns that the arguments begin with from the sources after them.

    Raises UsageError when there is no pattern, or an address names none.
    """
    if expression is not None:
        return [bare_pattern(expression, overrides.suite_file, overrides.parameters())], arguments
    patterns: list[Pattern] = []
    for number, argument in enumerate(arguments):
        found = pattern_at(argument)
        if found is None:
            if not patterns:
                raise no_pattern(argument)
            return patterns, arguments[number:]
        patterns.append(found[1])
    if not patterns:
        raise UsageError("give a pattern as SUITE:PATTERN, or an expression with -e")
    return patterns, ()


def no_pattern(argument: str, *, what: str = "pattern") -> UsageError:
    """Return the error for an argument that should name a pattern, or `what`."""
    suite, colon, _ = argument.rpartition(":")
    if colon:
        return UsageError(f"no suite here is named '{suite}'{hint(suite, suite_names())}")
    also = ", or an expression with -e" if what == "pattern" else ""
    return UsageError(f"'{argument}' is no SUITE:{what.upper()}; give one{also}")


def sources_of(names: tuple[str, ...], read_options: ReadOptions) -> list[Source]:
    """Open the sources; without any, standard input unless that is a terminal. Raises UsageError."""
    if not names and sys.stdin.isatty():
        raise UsageError("name the sources: files, or - for standard input")
    return open_sources(names, read_options)


@contextmanager
def kept_whole(sink: Any) -> Iterator[None]:
    """Put what a sink or target took in place when all went well, and drop it when not."""
    try:
        yield
        sink.finish()
    except BaseException:
        # A second interrupt must not leave behind what the first one had taken away.
        before = signal.signal(signal.SIGINT, signal.SIG_IGN)
        sink.abandon()
        signal.signal(signal.SIGINT, before)
        raise


def closing(sources: Sequence[Source], tallies: Iterable[Tally]) -> int:
    """Say what could not be read as asked, and return the exit status."""
    trouble = say_source_notes(sources)
    for tally in tallies:
        words = given_up_words(tally)
        if words is not None:
            say(words)
            trouble = True
    return EXIT_FAILED if trouble else EXIT_PASSED
