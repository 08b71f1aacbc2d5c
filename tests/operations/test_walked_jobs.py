"""What walkers do to a block of texts is what is done to the same texts one by one: the same bytes, the same counts."""

from __future__ import annotations

import pickle
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pyarrow.parquet as parquet
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fieldstick.commands.validate import REJECT_COLUMNS
from fieldstick.data.batch import Batch
from fieldstick.data.coding import Coding, encoded
from fieldstick.data.delimited import Delimited
from fieldstick.data.delimited_blocks import TableBatch
from fieldstick.data.json_rows import JsonLines
from fieldstick.data.later import Later
from fieldstick.data.lines import LineBlock
from fieldstick.data.parquet import ParquetSink
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.source import Source
from fieldstick.data.text_file import TextFile
from fieldstick.data.text_rows import TextSink
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching import row_walks
from fieldstick.matching.prepare import prepare
from fieldstick.matching.walks import kind_walk
from fieldstick.operations.form import Form, FormReader, ValidateJob
from fieldstick.operations.rewrite import RewriteJob, Rewriter, Step
from fieldstick.operations.route import RouteJob, Router
from fieldstick.operations.split import SplitJob, Splitter
from fieldstick.runs.extract import ExtractJob, ExtractOptions
from fieldstick.runs.select import SelectJob, SelectOptions
from fieldstick.suites.model import FieldTable
from fieldstick.suites.templates import read_template
from fieldstick.workspace import bare_pattern

if TYPE_CHECKING:
    from collections.abc import Callable

    from fieldstick.suites.suite import Pattern

pytestmark = pytest.mark.skipif(NATIVE is None, reason="the walkers are not built here")

PIECES = [
    "probe=B07",
    " m=31.4%",
    "m=88.8%",
    "7",
    "07",
    "é",
    "\x1c",
    "\t",
    " ",
    "a",
    '"',
    ",",
    ";",
    "\0",
    "\udc84",
    "zz",
    "2026-05-04",
    "2026-13-04",
]
ENDS = st.sampled_from(["\n", "\n", "\r\n", "\r\r\n"])
LINES = st.lists(st.tuples(st.lists(st.sampled_from(PIECES), max_size=7).map("".join), ENDS), min_size=1, max_size=20)
READING = r"probe=(?P<plot>[A-F]\d+)(?: (?P<unit>é))?"
MOISTURE = r"m=(?P<m>\d+(?:\.\d)?)%"
EXPRESSIONS = st.sampled_from(
    [
        READING,
        MOISTURE,
        r"\w+",
        r"[;,]\s*",
        r"a+|a\b",
        r"(?P<x>\d)(?P<y>\d)?",
        r"(?=7)\d",
        r"\b\w",
        r"^7|7(?=m)",
        r"é|\Bz",
        "é*?",
        r"(?P<day>\d{4}-\d\d-\d\d)(?P<z>z)?",
    ]
)
REACHES = st.sampled_from(["whole", "start", "anywhere", "anywhere"])
TAKES = st.sampled_from(["first", "all", "last", 2, -2])


@pytest.fixture(autouse=True)
def walked_from_the_start(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(row_walks, "WORTH_KEPT", 0)
    monkeypatch.setattr(row_walks, "WORTH_NEW", 0)
    monkeypatch.setattr(row_walks.atexit, "register", lambda save: None)


class Taken:
    """Takes what is written."""

    held = None
    name = "taken"

    def __init__(self) -> None:
        self.written = b""

    def follow(self, coding: Coding) -> None:
        pass

    def write_head(self, text: str) -> None:
        self.write(text)

    def write(self, text: str) -> None:
        self.written += encoded(text)

    def write_utf8(self, data: bytes | Later, *, may_wait: bool = True) -> None:
        self.written += data.made() if isinstance(data, Later) else data

    def complete(self) -> list[Any]:
        return []


class Named:
    """As much of a source as jobs ask for."""

    name, header, coding, shares_work = "a,log", "", Coding(), False


def pattern_of(expression: str, reach: Any, take: Any) -> Pattern:
    pattern = replace(bare_pattern(expression), reach=reach, take=take)
    if "<m>" in expression:
        return replace(pattern, fields={"m": FieldTable(type="decimal", most=40)})
    if "<day>" in expression:
        return replace(pattern, fields={"day": FieldTable(type="date")})
    return pattern


def both_ways(make: Callable[[Taken], Any], lines: list[tuple[str, str]], tally: Callable[[Any], Any]) -> None:
    """Do a job on lines as a block, and one by one."""
    data = "".join(map("".join, lines)).encode("utf-8", "surrogateescape")
    [block] = LineBlock(3, data, None).parts()
    assert block.stored is not None
    texts = [text + end.removesuffix("\n").removesuffix("\r") for text, end in lines]
    raws = list(map("".join, lines))
    found = []
    for batch in (block, Batch(range(3, 3 + len(texts)), texts, raws)):
        target = Taken()
        job = make(target)
        job.take(Named(), job.work("a,log", batch))
        job.close([Named()])
        found.append((target.written, tally(job)))
    assert found[0] == found[1]
    # Once more with the job that has seen how few of them fit.
    target = Taken()
    job = make(target)
    job.work("a,log", block)
    job.take(Named(), job.work("a,log", block))
    job.close([Named()])
    assert (target.written, tally(job)) == found[1]


CELLS = st.one_of(
    st.sampled_from(["", " ", "\u00a0", "n/a", "m=31.4%", "m=88.8%", "é", '"a""b"', '"7\n7"', '" "', "\udc84"]),
    st.lists(st.sampled_from(PIECES[:3]), max_size=3).map("".join),
)
ROWS = st.lists(st.lists(CELLS, min_size=1, max_size=3).map(",".join), max_size=12)


def both_ways_in_a_table(
    make: Callable[[Taken], Any], rows: list[str], tally: Callable[[Any], Any], **asked: Any
) -> None:
    """Do a job on the rows of a table in a block, and on the same rows read one by one."""
    found = []
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.csv"
        path.write_bytes("".join(f"{row}\r\n" for row in ["a,b", *rows]).encode("utf-8", "surrogateescape"))
        for in_blocks in (True, False):
            source = Source(str(path), ReadOptions(kind="csv", **asked))
            source.needed_columns = ("a", "b")
            target = Taken()
            job = make(target)
            for batch in [part for block in source.blocks() for part in block.parts()]:
                assert isinstance(batch, TableBatch)
                count = range(len(batch.numbers))
                singly = Batch(list(batch.numbers), batch.texts, [batch.raw(index) for index in count], batch.rows)
                job.take(source, job.work("a.csv", batch if in_blocks else singly))
            found.append((target.written, tally(job)))
    assert found[0] == found[1]


@given(EXPRESSIONS, REACHES, TAKES, ROWS)
def test_a_column_of_a_table(expression: str, reach: Any, take: Any, rows: list[str]) -> None:
    matcher = prepare(pattern_of(expression, reach, take))

    def extracting(target: Any) -> ExtractJob:
        return ExtractJob(
            [matcher], TextSink(target, lambda each: JsonLines(tuple(each))), ExtractOptions(with_place=True)
        )

    def selecting(target: Any) -> SelectJob:
        return SelectJob(matcher, target, SelectOptions(unfit=take == "first"))

    both_ways_in_a_table(extracting, rows, lambda job: counts(job.tallies[0]), column="b")
    both_ways_in_a_table(selecting, rows, lambda job: [counts(each) for each in job._tallies.values()], column="b")


@given(st.tuples(EXPRESSIONS, EXPRESSIONS), TAKES, ROWS, st.sets(st.sampled_from("ab")))
def test_validate(expressions: Any, take: Any, rows: list[str], required: Any) -> None:
    columns = tuple(zip("ab", (pattern_of(each, "anywhere", take) for each in expressions), strict=True))
    reader = FormReader(Form("f", "", (), (), ("forms",), columns, tuple(required), ("", "n/a")))

    def validating(target: Any) -> ValidateJob:
        def accept(source: Any, raw: str | bytes, kept: Any) -> None:
            target.written += raw if isinstance(raw, bytes) else encoded(raw)
            target.written += repr(list(kept)).encode("utf-8", "surrogatepass")

        rejects = TextSink(target, lambda each: JsonLines(tuple(each))).table("rejects", REJECT_COLUMNS)
        return ValidateJob(reader, accepted=accept, rejects=rejects)

    def told(job: Any) -> Any:
        return counts(job.tally), job.tally.rejects, job.tally.shown

    both_ways_in_a_table(validating, rows, told, rows_wanted=True, raws_wanted=True)


def counts(tally: Any) -> Any:
    misses = {key: count for key, count in tally.misses.items() if count}
    return tally.read, tally.fit, tally.rows, misses, tally.gave_up, getattr(tally, "kinds", None)


@given(EXPRESSIONS, REACHES, TAKES, LINES, st.booleans(), st.sampled_from(["csv", "jsonl"]))
def test_extract(expression: str, reach: Any, take: Any, lines: Any, with_place: bool, form: str) -> None:
    matcher = prepare(pattern_of(expression, reach, take))

    def made(target: Any) -> ExtractJob:
        kind: Any = Delimited if form == "csv" else JsonLines
        return ExtractJob([matcher], TextSink(target, lambda each: kind(tuple(each))), ExtractOptions(with_place))

    both_ways(made, lines, lambda job: counts(job.tallies[0]))


RECORD = r"(?P<n>[^,]*),(?P<d>[^,]*),(?P<day>[^,]*),(?P<at>[^,]*),(?P<clock>[^,]*),(?P<yes>yes|no)?(?P<rest>.*)"
RECORDS = st.lists(
    st.tuples(
        st.sampled_from(["7", "-12", "+0", "9" * 18, "9" * 25]),
        st.sampled_from(["31.4", "0.05", "-7", "1e3", "12345678901234.5", "0.0000001", "7."]),
        st.sampled_from(["2026-05-04", "1969-12-31", "2026-W07-3"]),
        st.sampled_from(["2026-05-04T06:10:00Z", "2026-05-04T06:10:00.250+02:00", "1969-12-31T23:59:59", "2026-05-04"]),
        st.sampled_from(["06:10", "23:59:59.5", "06:10:00.000001"]),
        st.sampled_from(["yes", "no", "", "é", "\udc84"]),
    ).map(",".join),
    min_size=1,
    max_size=8,
)
TYPES = {"n": "integer", "d": "decimal", "day": "date", "at": "timestamp", "clock": "time"}


@given(RECORDS)
def test_extract_to_parquet(records: list[str]) -> None:
    fields = {name: FieldTable(type=kind) for name, kind in TYPES.items()}  # type: ignore[arg-type]
    fields["yes"] = FieldTable(type="boolean", true=["yes"], false=["no"])
    matcher = prepare(replace(bare_pattern(RECORD), reach="whole", fields=fields))
    found = []
    with tempfile.TemporaryDirectory() as folder:
        for part in ([records], [[each] for each in records]):
            sink = ParquetSink(f"{folder}/out.parquet")
            job = ExtractJob([matcher], sink, ExtractOptions())
            for lines in part:
                for in_block in (True, False):
                    data = "".join(f"{line}\n" for line in lines).encode("utf-8", "surrogateescape")
                    [batch] = LineBlock(1, data, None).parts()
                    singly = Batch(range(1, 1 + len(lines)), lines, None)
                    job.take(Named(), job.work("a", batch if in_block else singly))  # type: ignore[arg-type]
            sink.finish()
            table = parquet.read_table(f"{folder}/out.parquet")
            found.append((table.schema, [tuple(row.values()) for row in table.to_pylist()]))
    schema, rows = found[0]
    assert schema == found[1][0]
    half = rows[: len(rows) // 2]
    assert rows == half * 2
    assert found[1][1] == [row for each in half for row in (each, each)]


@given(EXPRESSIONS, REACHES, TAKES, LINES, st.booleans())
def test_select(expression: str, reach: Any, take: Any, lines: Any, unfit: bool) -> None:
    matcher = prepare(pattern_of(expression, reach, take))

    def tallied(job: Any) -> Any:
        [tally] = job._tallies.values()
        return counts(tally)

    both_ways(lambda target: SelectJob(matcher, target, SelectOptions(unfit)), lines, tallied)  # type: ignore[arg-type]


def test_a_copy_elsewhere_makes_at_once_what_the_job_here_makes_later(tmp_path: Path) -> None:
    """Elsewhere results of many blocks wait to be handed on: none of them holds its block."""
    matcher = prepare(pattern_of(r"plot=(?P<plot>\w+)", "whole", "first"))
    [batch] = LineBlock(1, b"plot=B07\ngate\nplot=C12\n" * 9, None).parts()
    target = TextFile(str(tmp_path / "x.csv"))
    extract = ExtractJob([matcher], TextSink(target, lambda each: Delimited(tuple(each))))
    for job, made_of in (SelectJob(matcher, target), lambda made: made[0]), (extract, lambda made: made[0][0]):
        copy = pickle.loads(pickle.dumps(job))
        here, there = made_of(job.work("a", batch)), made_of(copy.work("a", batch))
        assert isinstance(here, Later) and isinstance(there, bytes) and here.made() == there != b""
    target.abandon()


@given(st.lists(st.tuples(EXPRESSIONS, REACHES), min_size=1, max_size=4), LINES)
def test_route(order: Any, lines: Any) -> None:
    matchers = tuple(prepare(pattern_of(expression, reach, "first")) for expression, reach in order)
    kinds = (*map(str, range(len(order))), "unknown")
    router = Router(kinds, matchers, kind_walk(matchers))

    class Files:
        def __init__(self, target: Taken) -> None:
            self.target, self.texts = target, [b""] * len(kinds)

        def write(self, kind: int, source: Any, text: str | bytes) -> None:
            self.texts[kind] += text if isinstance(text, bytes) else encoded(text)
            self.target.written = b"|".join(self.texts)

    made: Any = Files
    both_ways(lambda target: RouteJob(router, made(target), with_overlaps=False), lines, lambda job: counts(job.tally))


@given(
    EXPRESSIONS, REACHES, TAKES, LINES, st.sampled_from(["", "x", "{match}{match}", "<{m}>", "{plot}-{unit}", "7\n"])
)
def test_rewrite(expression: str, reach: Any, take: Any, lines: Any, template: str) -> None:
    matcher = prepare(pattern_of(expression, reach, take))
    read = read_template(template)
    if any(name not in (*matcher.field_names, "match") for name in read.names):
        return
    rewriter = Rewriter((Step(matcher, read),))
    both_ways(lambda target: RewriteJob(rewriter, target), lines, lambda job: counts(job.tally))  # type: ignore[arg-type]


@given(EXPRESSIONS, TAKES, LINES, st.booleans(), st.booleans())
def test_split(expression: str, take: Any, lines: Any, keep: bool, drop: bool) -> None:
    splitter = Splitter(prepare(pattern_of(expression, "anywhere", take)), keep, drop)

    def made(target: Any) -> SplitJob:
        return SplitJob(splitter, TextSink(target, lambda each: Delimited(tuple(each))), wide=False, names=())

    both_ways(made, lines, lambda job: counts(job.tally))
