"""The expressions of a PostgreSQL server, 15 or later, at the URL in FIELDSTICK_POSTGRES."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

import psycopg

from fieldstick.engines.adapters.adapter import Refused
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.engines.adapters.adapter import Spans
    from fieldstick.engines.places import Unit

_OPTIONS = compiled_later(r"\(\?[a-z]+\)|\*\*\*[:=]")
"""Options that may stand at the very start of an expression, and nowhere else (PostgreSQL, 9.7.3.4)."""

_FLAGS = {"i": "i", "m": "w", "x": "x"}
"""Its own option for each flag; its dot takes line feeds always."""

_PLACES = """
SELECT n, g, regexp_instr(t, p, 1, n, 0, f, g), regexp_instr(t, p, 1, n, 1, f, g)
FROM (SELECT %(text)s::text AS t, %(pattern)s::text AS p, %(flags)s::text AS f) AS given,
     LATERAL generate_series(1, least(regexp_count(t, p, 1, f), %(wanted)s::int)) AS n,
     LATERAL generate_series(0, %(groups)s::int) AS g
ORDER BY n, g
"""


class Expression:
    """See `adapter.Expression`."""

    def __init__(self, connection: Any, expression: str, flags: str) -> None:
        self._connection, self._flags = connection, flags
        leading = _OPTIONS.match(expression)
        options = leading[0] if leading else ""
        # A comment that ends it is ended first.
        rest = expression[len(options) :] + ("\n" if "x" in flags + options else "")
        self._patterns = {
            "anywhere": expression,
            "start": rf"{options}\A(?:{rest})",
            "whole": rf"{options}\A(?:{rest})\Z",
        }
        found = self._ask("SELECT regexp_match('', %s, %s)", (f"{options}(?:{rest})|()", flags))
        self.names = [""] * (len(found[0][0]) - 1)

    def _ask(self, query: str, values: Any) -> list[tuple[Any, ...]]:
        with self._connection.cursor() as cursor:
            return cursor.execute(query, values).fetchall()  # type: ignore[no-any-return]

    def matches(self, text: str, reach: str, wanted: int | None) -> Iterable[Spans]:
        """See `adapter.Expression`."""
        if "\0" in text:
            raise ValueError("PostgreSQL cannot hold a text with the character of code 0")
        values = {
            "text": text,
            "pattern": self._patterns[reach],
            "flags": self._flags,
            "wanted": 1 if reach != "anywhere" else wanted or (1 << 30),
            "groups": len(self.names),
        }
        matches: dict[int, list[tuple[int, int]]] = {}
        for number, _, start, end in self._ask(_PLACES, values):
            matches.setdefault(number, []).append((start - 1, end - 1) if start else (-1, -1))
        return list(matches.values())


class Adapter:
    """See `adapter.Adapter`."""

    unit: Unit = "points"

    def __init__(self) -> None:
        url = os.environ.get("FIELDSTICK_POSTGRES")
        if not url:
            raise OSError("no server is named; FIELDSTICK_POSTGRES takes the URL of one, postgresql://…")
        try:
            self._connection = psycopg.connect(url, autocommit=True)
        except psycopg.Error as error:
            raise OSError(str(error).strip().splitlines()[-1]) from None
        number = self._connection.info.server_version
        if number < 150000:
            raise OSError(f"the server is PostgreSQL {number // 10000}; places of groups are told from 15 on")
        # A companion that is ended leaves the server at work, but not for long.
        self._connection.execute("SET statement_timeout = '20s'")
        self.version = f"PostgreSQL {number // 10000}.{number % 10000}"

    def compile(self, expression: str, flags: frozenset[str]) -> Expression:
        """See `adapter.Adapter`."""
        if "\0" in expression:
            raise Refused("it holds the character of code 0")
        try:
            return Expression(self._connection, expression, "".join(_FLAGS[each] for each in flags if each in _FLAGS))
        except psycopg.Error as error:
            said = str(error).strip().splitlines()[0]
            raise Refused(said.removeprefix("invalid regular expression: ")) from None
