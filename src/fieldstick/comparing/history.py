"""The history of checks: what each run came to, kept in a database that several people may share.

A run is written in one transaction, so that one which is interrupted leaves nothing, and runs that record at once wait
for each other.
"""

from __future__ import annotations

import datetime as dt
import os
import subprocess
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field

from fieldstick.data.extras import needed
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.runs.results import CheckResult

PATIENCE_SECONDS = 60
"""Seconds to wait for others that are recording."""

_LOCK = 0x66737469636B
"""What runs that record into one PostgreSQL database lock, so that one at a time makes the tables."""

_COUNTS = ("samples", "passed", "fail", "error", "timeout", "regressed", "changed", "mended", "new", "gone")


class PatternFigures(Struct, frozen=True):
    """What the samples of a pattern or an operation came to in a run."""

    suite: str
    pattern: str
    samples: int
    passed: int
    seconds: float


class TrialFigures(Struct, frozen=True):
    """What a trial came to in a run."""

    suite: str
    data: str
    target: str
    texts: int
    fit: int
    lost: int
    gained: int
    moved: int
    otherwise: int
    holds: bool

    @property
    def share(self) -> float:
        """The share of texts that fit, from 0 to 1."""
        return self.fit / self.texts if self.texts else 0.0


class RunFigures(Struct, frozen=True):
    """What a run came to: when it ended (UTC), the git revision, whether all was well, the seconds it took, counts.

    `is_clean` tells whether the revision was all there was: nothing changed since, None where that is not known.
    """

    when: dt.datetime
    revision: str | None
    is_clean: bool | None
    well: bool
    seconds: float
    counts: dict[str, int]
    patterns: tuple[PatternFigures, ...] = ()
    trials: tuple[TrialFigures, ...] = field(default_factory=tuple)

    def of(self, suite: str, pattern: str | None = None) -> RunFigures | None:
        """Return the figures of one suite, or one pattern of it, alone; None for a run in which it was not checked."""
        patterns = tuple(each for each in self.patterns if each.suite == suite and pattern in (None, each.pattern))
        trials = tuple(each for each in self.trials if each.suite == suite and pattern is None)
        if not patterns and not trials:
            return None
        counts = {"samples": sum(each.samples for each in patterns), "passed": sum(each.passed for each in patterns)}
        well = counts["samples"] == counts["passed"] and all(each.holds for each in trials)
        seconds = sum(each.seconds for each in patterns)
        return RunFigures(self.when, self.revision, self.is_clean, well, seconds, counts, patterns, trials)


def figures_of(result: CheckResult, seconds: float, folder: str = ".") -> RunFigures:
    """Return what a check came to, with the revision of the git repository that a folder lies in."""
    patterns = tuple(
        PatternFigures(
            suite.suite.name,
            each.pattern.name,
            len(each.samples),
            sum(sample.outcome == "pass" for sample in each.samples),
            each.seconds,
        )
        for suite in result.suites
        for each in suite.patterns
    )
    trials = tuple(
        TrialFigures(
            suite=suite.suite.name,
            data=each.trial.data,
            target=each.trial.target,
            texts=each.texts,
            fit=each.fit,
            holds=not result.trial_fails(each),
            **{key: getattr(each.standing, key) if each.standing is not None else 0 for key in _STANDINGS},
        )
        for suite in result.suites
        for each in suite.trials
    )
    counts = {name: getattr(result.totals, name) for name in _COUNTS}
    now = dt.datetime.now(dt.UTC).replace(microsecond=0)
    return RunFigures(now, *_revision(folder), result.all_well, seconds, counts, patterns, trials)


_STANDINGS = ("lost", "gained", "moved", "otherwise")


def _revision(folder: str) -> tuple[str | None, bool | None]:
    """Return the commit that a folder is at, and whether nothing changed since; None where there is none."""
    try:
        said = [
            subprocess.run(["git", "-C", folder, *words], capture_output=True, check=True, text=True).stdout
            for words in (("rev-parse", "--verify", "HEAD"), ("status", "--porcelain", "--untracked-files=no"))
        ]
    except (OSError, subprocess.CalledProcessError):
        return None, None
    return said[0].strip(), not said[1].strip()


class History:
    """A database of runs: a SQLite file, or the URL of a PostgreSQL database.

    Raises UsageError where SQLAlchemy is not installed or the database cannot be used; every method does.
    """

    def __init__(self, place: str) -> None:
        self.place = place
        self._sql = needed("sqlalchemy", f"recording runs in {place}", "history")
        self._tables = _tables(self._sql)
        try:
            self._engine = self._engine_at(place)
        except (self._sql.exc.SQLAlchemyError, ImportError) as error:
            raise self._unusable(error) from None

    def _engine_at(self, place: str) -> Any:
        if "://" not in place:
            engine = self._sql.create_engine(
                self._sql.URL.create("sqlite", database=place), connect_args={"timeout": PATIENCE_SECONDS}
            )
            self._sql.event.listen(engine, "connect", _leave_transactions_alone)
            self._sql.event.listen(engine, "begin", _begin_at_once)
            return engine
        url = self._sql.make_url(place)
        if url.drivername in ("postgresql", "postgres"):
            url = url.set(drivername="postgresql+psycopg")
        return self._sql.create_engine(url)

    @property
    def shown(self) -> str:
        """The place, a password in it left out."""
        return self._engine.url.render_as_string(hide_password=True) if "://" in self.place else self.place

    def _unusable(self, error: BaseException) -> UsageError:
        words = str(getattr(error, "orig", None) or error).strip().split("\n")[0]
        place = self.shown if hasattr(self, "_engine") else self.place.partition("@")[2] or self.place
        return UsageError(f"the database {place} cannot be used: {words}")

    def record(self, figures: RunFigures) -> None:
        """Add a run."""
        runs, patterns, trials = self._tables
        try:
            with self._engine.execution_options(writes=True).begin() as connection:
                if self._engine.dialect.name == "postgresql":
                    connection.execute(self._sql.text(f"select pg_advisory_xact_lock({_LOCK})"))
                runs.metadata.create_all(connection)
                values = {name: figures.counts.get(name, 0) for name in _COUNTS}
                added = connection.execute(
                    runs.insert().values(
                        ended=figures.when.strftime(_WHEN),
                        revision=figures.revision,
                        is_clean=figures.is_clean,
                        well=figures.well,
                        seconds=figures.seconds,
                        **values,
                    )
                )
                (number,) = added.inserted_primary_key
                for table, rows in ((patterns, figures.patterns), (trials, figures.trials)):
                    if rows:
                        told = [{"run": number, **{key: getattr(row, key) for key in _keys(row)}} for row in rows]
                        connection.execute(table.insert(), told)
        except self._sql.exc.SQLAlchemyError as error:
            raise self._unusable(error) from None

    def runs(self, most: int | None = None) -> list[RunFigures]:
        """Return the runs recorded, the latest `most` of them, oldest first."""
        runs, patterns, trials = self._tables
        if "://" not in self.place and not os.path.isfile(self.place):
            raise UsageError(f"there is no database {self.place}; 'fieldstick check --record {self.place}' makes it")
        try:
            with self._engine.connect() as connection:
                if not self._sql.inspect(connection).has_table(runs.name):
                    return []
                asked = self._sql.select(runs).order_by(runs.c.number.desc()).limit(most)
                found = list(connection.execute(asked).mappings())[::-1]
                numbers = (found[0]["number"], found[-1]["number"]) if found else (0, -1)
                details = {
                    table.name: _by_run(connection, self._sql, table, kind, numbers)
                    for table, kind in ((patterns, PatternFigures), (trials, TrialFigures))
                }
        except self._sql.exc.SQLAlchemyError as error:
            raise self._unusable(error) from None
        return [
            RunFigures(
                dt.datetime.strptime(row["ended"], _WHEN).replace(tzinfo=dt.UTC),
                row["revision"],
                row["is_clean"],
                row["well"],
                row["seconds"],
                {name: row[name] for name in _COUNTS},
                tuple(details[patterns.name].get(row["number"], ())),
                tuple(details[trials.name].get(row["number"], ())),
            )
            for row in found
        ]


_WHEN = "%Y-%m-%dT%H:%M:%SZ"


def _keys(row: Struct) -> tuple[str, ...]:
    return row.__struct_fields__


def _by_run(connection: Any, sql: Any, table: Any, kind: Any, numbers: tuple[int, int]) -> dict[int, list[Any]]:
    found: dict[int, list[Any]] = {}
    asked = sql.select(table).where(table.c.run.between(*numbers)).order_by(table.c.number)
    for row in connection.execute(asked).mappings():
        found.setdefault(row["run"], []).append(kind(**{key: row[key] for key in kind.__struct_fields__}))
    return found


def _tables(sql: Any) -> tuple[Any, Any, Any]:
    metadata = sql.MetaData()

    def columns(*names: str, kind: Any = sql.Integer) -> Iterator[Any]:
        return (sql.Column(name, kind, nullable=False) for name in names)

    runs = sql.Table(
        "fieldstick_runs",
        metadata,
        sql.Column("number", sql.Integer, primary_key=True),
        *columns("ended", kind=sql.String(20)),
        sql.Column("revision", sql.String(64)),
        sql.Column("is_clean", sql.Boolean),
        *columns("well", kind=sql.Boolean),
        *columns("seconds", kind=sql.Float),
        *columns(*_COUNTS),
    )
    patterns = sql.Table(
        "fieldstick_patterns",
        metadata,
        sql.Column("number", sql.Integer, primary_key=True),
        sql.Column("run", sql.ForeignKey(runs.c.number), nullable=False, index=True),
        *columns("suite", "pattern", kind=sql.Text),
        *columns("samples", "passed"),
        *columns("seconds", kind=sql.Float),
    )
    trials = sql.Table(
        "fieldstick_trials",
        metadata,
        sql.Column("number", sql.Integer, primary_key=True),
        sql.Column("run", sql.ForeignKey(runs.c.number), nullable=False, index=True),
        *columns("suite", "data", "target", kind=sql.Text),
        *columns("texts", "fit", *_STANDINGS),
        *columns("holds", kind=sql.Boolean),
    )
    return runs, patterns, trials


def _leave_transactions_alone(connection: Any, _: Any) -> None:
    """Keep the driver from beginning transactions on its own, later than they are meant to."""
    connection.isolation_level = None


def _begin_at_once(connection: Any) -> None:
    """Take the lock for writing when the transaction begins, so that two that record never wait in a circle."""
    writes = connection.get_execution_options().get("writes", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")
