"""How a source is to be read: as lines, records or a table, in which encoding, within which limits."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct

from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

Kind = Literal["lines", "whole", "records", "csv", "json", "jsonl", "parquet", "xlsx", "sqlite"]

KINDS: tuple[Kind, ...] = ("lines", "whole", "records", "csv", "json", "jsonl", "parquet", "xlsx", "sqlite")
TABLES: frozenset[Kind] = frozenset({"csv", "json", "jsonl", "parquet", "xlsx", "sqlite"})

READING = (
    "as", "column", "rows", "table", "query", "delimiter", "quote", "encoding", "undecodable", "whole", "longest",
)  # fmt: skip
"""The words of reading, but for `record_start`, which names a pattern."""

LONGEST_TEXT = 10_000_000
"""Code points up to which a text is read: no log line or cell that somebody wrote on purpose is longer."""


class ReadOptions(Struct, frozen=True):
    """How a source is to be read; what is None is told from the file itself.

    `column` names the column whose cells are the texts, for JSON a key or a JSON Pointer (RFC 6901). `rows_at` is
    the JSON Pointer of the array of rows in a JSON document. `table` names a table of a SQLite file or a sheet of a
    workbook, `query` is a statement whose rows are read. `begins_record` tells a line that begins a record.
    `longest` is in code points, None for no limit.
    """

    kind: Kind | None = None
    column: str | None = None
    delimiter: str | None = None
    quote: str = '"'
    encoding: str = "utf-8"
    refuse_undecodable: bool = False
    begins_record: Callable[[str], bool] | None = None
    rows_at: str | None = None
    table: str | None = None
    query: str | None = None
    longest: int | None = LONGEST_TEXT
    columns: tuple[str, ...] = ()
    """Several columns whose cells are each a text of its own; there is then no one `column`."""

    rows_wanted: bool = False
    """Whether rows are read without one column being the text."""

    cells_wanted: bool = False
    """Whether the cells of all columns of CSV are wanted where walkers find them."""

    raws_wanted: bool = False
    """Whether rows are wanted as they stand; those of files that are no text are then given as CSV or JSON."""

    everything_wanted: bool = False
    """Whether what holds no text is given too, as it stands: rows without a value, lines that are no JSON."""

    passes_on: bool = False
    """Whether what is longer than is read is given too, as it stands, piece by piece, each without a text."""

    piece_by_piece: bool = False
    """Whether lines are read few at a time, so that what is counted is the same however they are read."""

    @property
    def longest_row(self) -> int | None:
        """The code points up to which a row of text is held: at least as many as any text of it may have."""
        return None if self.longest is None else max(self.longest, LONGEST_TEXT)

    @property
    def asks_for_table(self) -> bool:
        """Whether something in it only makes sense for a table."""
        named = (self.column, self.delimiter, self.rows_at, self.table, self.query)
        return self.rows_wanted or any(each is not None for each in named)


def asked_options(
    words: Mapping[str, Any], begins_record: Callable[[str], bool] | None, said: Callable[[str], str]
) -> ReadOptions:
    """Return how a source is to be read by the words of reading, by their names in a suite file; None for the default.

    `said` writes a word as whoever asked knows it. Raises UsageError for words that ask for two ways of reading at
    once, or leave one half said.
    """
    given = words.get("column")
    several = tuple(given) if isinstance(given, tuple | list) else ()
    if isinstance(given, tuple | list):
        words = {**words, "column": several[0] if len(several) == 1 else None}
    whole = bool(words.get("whole"))
    of_columns = words.get("column") is not None or len(several) > 1
    asked = {"whole": whole, "record_start": begins_record is not None, "column": of_columns}
    if sum(asked.values()) > 1:
        ways = " and ".join(said(name) for name, given in asked.items() if given)
        raise UsageError(f"{ways} are different ways to read a source; give one")
    if words.get("as") == "records" and begins_record is None:
        raise UsageError(
            f"{said('as')} records needs {said('record_start')}: what a line that begins a record looks like"
        )
    longest = words.get("longest")
    return ReadOptions(
        kind="whole" if whole else words.get("as"),
        column=words.get("column"),
        delimiter=words.get("delimiter"),
        quote=words["quote"] if words.get("quote") is not None else '"',
        encoding=words.get("encoding") or "utf-8",
        refuse_undecodable=words.get("undecodable") == "refuse",
        begins_record=begins_record,
        rows_at=words.get("rows"),
        table=words.get("table"),
        query=words.get("query"),
        longest=LONGEST_TEXT if longest is None else longest or None,
        columns=several if len(several) > 1 else (),
        rows_wanted=len(several) > 1,
    )


def check_text_is_named(read_options: ReadOptions, said: Callable[[str], str]) -> None:
    """Raise UsageError where a table is read and no column is named to be the text."""
    json = read_options.kind in ("json", "jsonl") or read_options.rows_at is not None
    table = read_options.asks_for_table or read_options.kind in TABLES
    if read_options.column is None and not read_options.columns and not json and table:
        raise UsageError(f"this reads a table: name the column whose cells are the texts with {said('column')}")
