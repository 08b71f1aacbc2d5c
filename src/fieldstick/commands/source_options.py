"""The words of reading, the same for every command that takes a source."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import click

from fieldstick.commands.option_groups import collecting, heading, option
from fieldstick.data.read_options import (
    KINDS,
    LONGEST_TEXT,
    READING,
    TABLES,
    ReadOptions,
    asked_options,
    check_text_is_named,
)

if TYPE_CHECKING:
    from fieldstick.commands.option_groups import Decorator

_OPTIONS: tuple[Decorator, ...] = (
    heading("What is read"),
    option("--as", "read_as", type=click.Choice(KINDS), help="What the sources are.  [default: told from each]"),
    option("--column", metavar="NAME", help="Read this column of a table; for JSON a key, or /a/pointer."),
    option("--rows", "rows_at", metavar="POINTER", help="The array of rows in a JSON document."),
    option("--table", metavar="NAME", help="The table of a SQLite file, or the sheet of a workbook."),
    option("--query", metavar="SQL", help="A query whose rows are read from a SQLite file."),
    option("--delimiter", metavar="C", help="What parts the cells of a CSV row.  [default: comma]"),
    option("--quote", default='"', metavar="C", help='What encloses a CSV cell.  [default: "]'),
    option("--encoding", default="utf-8", show_default=True, metavar="NAME", help="How text is encoded."),
    option(
        "--undecodable",
        type=click.Choice(["keep", "refuse"]),
        default="keep",
        show_default=True,
        help="What to do with bytes that are no text.",
    ),
    option("--whole", is_flag=True, help="Read each source as one text."),
    option(
        "--record-start",
        metavar="EXPRESSION|SUITE:PATTERN",
        help="Read records of several lines; a line that fits begins one.",
    ),
    option(
        "--longest",
        type=click.IntRange(min=0),
        default=LONGEST_TEXT,
        show_default=True,
        metavar="N",
        help="Characters up to which a text is read; 0 for no limit.",
    ),
)


_TABLE_WORDS: tuple[tuple[str, dict[str, Any]], ...] = (
    ("as", {"type": click.Choice(sorted(TABLES)), "help": "What VALUES is.  [default: told from it]"}),
    ("rows", {"metavar": "POINTER", "help": "The array of rows in VALUES, a JSON document."}),
    ("table", {"metavar": "NAME", "help": "The table of VALUES, a SQLite file, or its sheet."}),
    ("query", {"metavar": "SQL", "help": "A query whose rows are read from VALUES."}),
    ("delimiter", {"metavar": "C", "help": "What parts the cells of VALUES.  [default: comma]"}),
    ("quote", {"default": '"', "metavar": "C", "help": 'What encloses its cells.  [default: "]'}),
    ("encoding", {"default": "utf-8", "metavar": "NAME", "help": "How it is encoded.  [default: utf-8]"}),
)


def _values_read_options(given: dict[str, Any]) -> dict[str, Any]:
    word = {name: given.pop(f"values_{name}") for name, _ in _TABLE_WORDS}
    made = ReadOptions(
        kind=word["as"],
        delimiter=word["delimiter"],
        quote=word["quote"],
        encoding=word["encoding"],
        rows_at=word["rows"],
        table=word["table"],
        query=word["query"],
        rows_wanted=True,
    )
    return given | {"values_read_options": made}


values_options: Decorator = collecting(
    tuple(option(f"--for-{name}", f"values_{name}", **settings) for name, settings in _TABLE_WORDS),
    _values_read_options,
)
"""Adds words of reading for a table that stands beside the sources; the command takes `values_read_options`."""


def _said(word: str) -> str:
    return f"--{word.replace('_', '-')}"


_WORDS = {"as": "read_as", "rows": "rows_at"}
"""Words of reading whose options have another name inside the program."""


def _read_options(given: dict[str, Any]) -> dict[str, Any]:
    words = {word: given.pop(_WORDS.get(word, word)) for word in READING}
    start, begins = given.pop("record_start"), None
    if start is not None:
        from fieldstick.workspace import Workspace

        begins = Workspace().begins_record(start)
    return given | {"read_options": asked_options(words, begins, _said)}


def _texts(given: dict[str, Any]) -> dict[str, Any]:
    given = _read_options(given)
    check_text_is_named(given["read_options"], _said)
    return given


source_options: Decorator = collecting(_OPTIONS, _texts)
"""Adds the words of reading, for commands that read texts; the command takes `read_options`."""

_SEVERAL = option(
    "--column",
    multiple=True,
    metavar="NAME",
    help="Read this column of a table; for JSON a key, or /a/pointer.  Repeatable.",
)

columns_options: Decorator = collecting((_OPTIONS[0], _OPTIONS[1], _SEVERAL, *_OPTIONS[3:]), _texts)
"""The same, for commands that read several columns as well."""

row_options: Decorator = collecting(_OPTIONS, _read_options)
"""Adds the words of reading, for commands that may read whole rows; the command takes `read_options`."""
