"""Whatever is written in one form reads back as it was: every value, or, where a form has none such, its text."""

from __future__ import annotations

import datetime as dt
import tempfile
from decimal import Decimal
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.commands.sources import kept_whole
from fieldstick.data.coding import without_escapes, without_lone_surrogates
from fieldstick.data.named_rows import NamedRows
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.rows import Column, text_of
from fieldstick.data.sinks import open_sink
from fieldstick.data.source import open_sources

TEXTS = st.text(st.sampled_from("ab ,;\"'\t\r\n=_x0D\x00\x0b\x85\u2028é漢\ud800\udcff1"), max_size=10).filter(
    # Two escapes of JSON that stand beside each other so are one character, whatever was meant (RFC 8259, 8.2).
    lambda text: "\ud800\udcff" not in text
)
KINDS: dict[str, st.SearchStrategy[Any]] = {
    "text": TEXTS,
    "integer": st.integers(-(2**70), 2**70) | st.sampled_from([2**63 - 1, 2**63, -(2**63), -(2**63) - 1, 10**15]),
    "decimal": st.decimals(allow_nan=False, allow_infinity=False, places=5)
    | st.sampled_from([Decimal("1E+400"), Decimal("-1E-400"), Decimal("31.40"), Decimal("0.1234567890123456789")]),
    "date": st.dates(),
    "time": st.times(),
    "timestamp": st.datetimes(),
    "boolean": st.booleans(),
}
FORMS = ("csv", "tsv", "jsonl", "parquet", "sqlite", "xlsx")


def read_back(path: Path, column: str) -> list[str | None]:
    (source,) = open_sources((str(path),), ReadOptions(column=column, everything_wanted=True))
    return [item.text for item in source.items()]


def same(written: Any, read: str | None, form: str) -> bool:
    """Tell whether a value was read back: as its text, or as a number or time that is equal to it."""
    if written is None or written == "":
        return read in (None, "")
    text = text_of(written) or ""
    if form in ("parquet", "sqlite", "xlsx"):
        text = without_escapes(text)
    elif form != "jsonl":
        text = without_lone_surrogates(text)
    if read == text or read is None:
        return read == text
    if isinstance(written, bool):
        return read == str(int(written))
    if isinstance(written, int | Decimal):
        return Decimal(read) == written
    if isinstance(written, dt.datetime):
        return dt.datetime.fromisoformat(read) == written
    return isinstance(written, dt.time) and dt.time.fromisoformat(read) == written


@given(st.sampled_from(FORMS), st.sampled_from(sorted(KINDS)), st.data(), st.booleans())
def test_every_value_is_read_back_from_every_form(form: Any, kind: str, data: st.DataObject, mixed: bool) -> None:
    values = data.draw(st.lists(KINDS[kind] | st.none(), min_size=1, max_size=4))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"x.{form}"
        sink = open_sink(str(path), form)
        with kept_whole(sink):
            table = sink.table("rows", [Column("n", "integer"), Column("v", "mixed" if mixed else kind)])
            for number, value in enumerate(values):
                table.write(table.encode([[number, value]]))
        found = read_back(path, "v")
    if form == "parquet" and kind == "timestamp" and not mixed:
        found = [each and each.removesuffix("+00:00") for each in found]
    assert len(found) == len(values)
    assert all(same(value, each, form) for value, each in zip(values, found, strict=True)), (values, found)


@given(st.lists(st.dictionaries(st.sampled_from("abc"), st.integers(0, 9) | TEXTS | st.none(), max_size=3), max_size=6))
def test_rows_by_name_have_all_the_columns_that_any_has(rows: list[dict[str, Any]]) -> None:
    names = list(dict.fromkeys(name for row in rows for name in row))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "x.jsonl"
        sink = open_sink(str(path), "jsonl")
        with kept_whole(sink):
            made = NamedRows(sink, "rows", beside=["a", "z"])
            for row in rows:
                made.add(row, {"a": 1, "z": "é"})
            made.finish()
        found = [dict(item.row or {}) for item in open_sources((str(path),), ReadOptions(rows_wanted=True))[0].items()]

    def plain(row: dict[str, Any]) -> dict[str, Any]:
        return {key: without_escapes(each) if isinstance(each, str) else each for key, each in row.items()}

    extra = {"a found" if "a" in names else "a": 1, "z": "é"}
    wanted = [{name: row.get(name) for name in names} | extra for row in rows]
    assert list(map(plain, found)) == list(map(plain, wanted))


def test_values_of_parquet_that_python_has_not_are_texts_and_harm_no_other_column(tmp_path: Path) -> None:
    path = tmp_path / "ns.parquet"
    table = pa.table(
        {
            "t": pa.array([1767322800123456789, None], pa.timestamp("ns")),
            "far": pa.array([2**62, 0], pa.timestamp("us")),
            "day": pa.array([2**30, 0], pa.date32()),
            "k": ["a", "b"],
            "raw": pa.array([b"\xff\xfe", b"ok"], pa.binary()),
        }
    )
    pq.write_table(table, path)
    assert read_back(path, "k") == ["a", "b"]
    assert [each and each[:29] for each in read_back(path, "t")] == ["2026-01-02T03:00:00.123456789", None] or [
        each and each[:29] for each in read_back(path, "t")
    ] == ["2026-01-02 03:00:00.123456789", None]
    assert read_back(path, "day")[1] == "1970-01-01" and read_back(path, "far")[1] in (
        "1970-01-01T00:00:00", "1970-01-01 00:00:00",
    )  # fmt: skip
    assert read_back(path, "raw") == ["\udcff\udcfe", "ok"]


@pytest.mark.parametrize("name", ["a" * 40, "a" * 31, "History", "'x'", "a/b:c", ""])
def test_sheets_have_names_that_a_workbook_may_have_and_none_twice(tmp_path: Path, name: str) -> None:
    import openpyxl

    sink = open_sink(str(tmp_path / "x.xlsx"), "xlsx")
    with kept_whole(sink):
        for _ in range(3):
            sink.table(name, [Column("v")])
    names = openpyxl.load_workbook(tmp_path / "x.xlsx").sheetnames
    assert len({each.casefold() for each in names}) == 3 and all(0 < len(each) <= 31 for each in names)
    assert not any(set(each) & set("[]:*?/\\") for each in names) and "history" not in map(str.casefold, names)
