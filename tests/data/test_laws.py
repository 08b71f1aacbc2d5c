"""Laws of reading and writing that hold for any text."""

from __future__ import annotations

import csv
import io
import json
import tempfile
from decimal import Decimal
from pathlib import Path
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from fieldstick.data.coding import encoded
from fieldstick.data.delimited import cell_spans, with_cell
from fieldstick.data.flat_rows import MOST_KEYS, FlatRows
from fieldstick.data.json_rows import cell_at, json_cell, parsed, pointer, value_at, with_value
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.rows import told_apart
from fieldstick.data.source import open_sources
from fieldstick.matching.prepare import prepare
from fieldstick.operations.rewrite import Rewriter, Step, put_back
from fieldstick.suites.fieldtypes import FieldSpec
from fieldstick.suites.templates import read_template
from fieldstick.workspace import bare_pattern

KEYS = st.text(st.sampled_from("ab/~01é "), max_size=4)
VALUES = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(10**30), 10**30)
    | st.decimals(allow_nan=False, allow_infinity=False, places=3)
    | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(KEYS, inner, max_size=3),
    max_leaves=8,
)
PIECES = st.lists(
    st.sampled_from([b"a", b"\n", b"\r\n", b"\r", b"\xff", "é".encode(), b"\xe2\x80\xa8", b"\x0b"]), max_size=30
)


def paths(value: Any, keys: tuple[str, ...] = ()) -> list[tuple[tuple[str, ...], Any]]:
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    return [(keys, value), *(found for key, each in inner for found in paths(each, (*keys, str(key))))]


@given(VALUES)
def test_a_pointer_made_of_a_path_leads_to_its_value(document: Any) -> None:
    for keys, value in paths(document):
        text = "".join("/" + key.replace("~", "~0").replace("/", "~1") for key in keys)
        assert value_at(document, pointer(text)) is value


@given(VALUES)
def test_json_reads_back_as_it_was_written(value: Any) -> None:
    assert parsed(json_cell(value)) == value
    assert json.loads(json_cell(value), parse_float=Decimal) == value


@given(st.lists(st.tuples(st.sampled_from("ab"), VALUES), min_size=1, max_size=4), st.text(max_size=5), st.data())
def test_a_line_of_json_keeps_everything_but_the_one_text(
    members: list[tuple[str, Any]], text: str, data: st.DataObject
) -> None:
    """Blanks, the spelling of numbers, keys that are there twice: all but the value, the last of its key, stays."""
    blanks = st.text(st.sampled_from(" \t"), max_size=2)
    blank = [data.draw(blanks) for _ in range(5)]
    pieces = [f'{blank[0]}"{key}"{blank[1]}:{blank[2]}{json_cell([each, "old"])}' for key, each in members]
    raw = blank[3] + "{" + ",".join(pieces) + blank[4] + "}\r\n"
    key = data.draw(st.sampled_from([key for key, _ in members]))
    last = max(at for at, (each, _) in enumerate(members) if each == key)
    wanted = [*pieces]
    wanted[last] = pieces[last].removesuffix('"old"]') + json.dumps(text, ensure_ascii=False) + "]"
    assert with_value(raw, (key, "1"), text) == blank[3] + "{" + ",".join(wanted) + blank[4] + "}\r\n"


CELLS = st.lists(st.text(st.sampled_from("ab;'\n\r é"), max_size=5), min_size=1, max_size=5)


def parsed_row(raw: str) -> list[list[str]]:
    return list(csv.reader(io.StringIO(raw, newline=""), delimiter=";", quotechar="'", strict=True))


@given(CELLS, st.integers(0, 6), st.text(st.sampled_from("ab;'\n\r é"), max_size=5), st.booleans())
def test_one_cell_of_a_row_is_put_in_place_and_all_else_stays(cells: list[str], at: int, new: str, every: bool) -> None:
    out = io.StringIO(newline="")
    quoting: Any = csv.QUOTE_ALL if every else csv.QUOTE_MINIMAL
    csv.writer(out, delimiter=";", quotechar="'", quoting=quoting, lineterminator="\r\n").writerow(cells)
    raw = out.getvalue()
    row = raw.removesuffix("\r\n")
    spans = cell_spans(row, ";", "'")
    assert len(spans) == len(cells) and spans[-1][1] == len(row)
    made = with_cell(raw, at, new, ";", "'")
    wanted = [*cells, *[""] * (at - len(cells) + 1)]
    wanted[at] = new
    assert parsed_row(made) == [wanted] and made.endswith("\r\n")
    start, end = spans[at] if at < len(spans) else (len(row), len(row))
    assert made.startswith(row[:start]) and made.endswith(row[end:] + "\r\n")


UNITS = [b"a", b"\n", b"\r", b"x", b"\x00", b"\xd8", b"\xdc", b"\xff", b"\xfe", b"\xef\xbb\xbf", b"\x81"]
ENCODINGS = ["utf-8", "utf-8-sig", "utf-16", "utf-16-be", "utf-32", "cp1252"]


def stored_again(data: bytes, rewritten: bool = False, **options: Any) -> bytes:
    """Return what a source becomes when every text of it is written back, or written with a y for each x."""
    matcher = Rewriter((Step(prepare(bare_pattern("x", reach="anywhere").taking("all")), read_template("y")),))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "x.log"
        path.write_bytes(data)
        (source,) = open_sources((str(path),), ReadOptions(**options))
        raws = [
            put_back(item.raw or "", matcher.rewritten(item.text or "")) if rewritten else item.raw or ""
            for item in source.items()
        ]
        return source.coding.mark + encoded("".join(raws), source.coding.name)


@given(PIECES | st.lists(st.sampled_from(UNITS), max_size=40), st.sampled_from(ENCODINGS), st.booleans())
def test_what_is_read_is_written_back_byte_by_byte(pieces: list[bytes], encoding: str, records: bool) -> None:
    data = b"".join(pieces)
    begins = (lambda line: line.startswith("a")) if records else None
    assert stored_again(data, encoding=encoding, begins_record=begins) == data


@given(st.lists(st.sampled_from(["a", "\n", "\r\n", "\r", "x", "é", "\u2028"]), max_size=30), st.booleans())
def test_what_lies_in_no_match_stays_line_ends_too(pieces: list[str], records: bool) -> None:
    text = "".join(pieces)
    begins = (lambda line: line.startswith("a")) if records else None
    for encoding in ("utf-8", "utf-16", "utf-8-sig"):
        made = stored_again(text.encode(encoding), True, encoding=encoding, begins_record=begins)
        assert made == text.replace("x", "y").encode(encoding)


@given(
    st.text(st.characters(exclude_categories=["Cs"]), max_size=40),
    st.sampled_from(["utf-16", "utf-16-be", "utf-32", "utf-8-sig"]),
)
def test_another_encoding_reads_as_the_same_text(text: str, encoding: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "x.log"
        path.write_bytes(text.encode(encoding))
        (source,) = open_sources((str(path),), ReadOptions(kind="whole", encoding=encoding))
        # What a text that is encoded without a mark begins with is one.
        unmarked = text.removeprefix("\ufeff") if encoding.endswith("be") else text
        assert "".join(item.text or "" for item in source.items()) == unmarked


@given(st.lists(st.sampled_from(["a", "A", "a (2)", "b", ""]), max_size=8), st.booleans())
def test_names_told_apart_are_all_different_and_the_first_stays(names: list[str], fold: bool) -> None:
    found = told_apart(names, fold=fold)
    known = [name.casefold() if fold else name for name in found]
    assert len(set(known)) == len(names) and all(one.startswith(other) for one, other in zip(found, names, strict=True))
    assert found[:1] == names[:1]


@given(
    st.decimals(allow_nan=False, allow_infinity=False, min_value=-9999, max_value=9999, places=2),
    st.sampled_from(".,;:!?…"),
)
def test_the_mark_that_ends_a_sentence_stays_out_of_a_number(value: Decimal, mark: str) -> None:
    assert FieldSpec(type="decimal").value(f"{value}{mark}") == value
    comma = FieldSpec(type="decimal", decimal_mark=",")
    assert comma.value(f"{value}".replace(".", ",") + mark) == value
    whole = int(value)
    assert FieldSpec(type="integer").value(f"{whole}{mark}") == whole


ROWS = st.dictionaries(KEYS.filter(lambda key: not key.startswith("/")), VALUES, max_size=4)


@given(st.lists(ROWS, max_size=6), st.integers(0, 6))
def test_rows_laid_flat_hold_what_stands_at_each_pointer(rows: list[dict[str, Any]], at: int) -> None:
    flat = FlatRows()
    made = [*flat.of(rows[:at]), *flat.of(rows[at:])]
    assert len(made) == len(rows)
    for row, found in zip(rows, made, strict=True):
        for name, value in found.items():
            assert cell_at(row, name) == value
            assert not (isinstance(value, dict) and value), "objects are entered"
        assert row.keys() == {name if name in row else pointer(name)[0] for name in found}


def test_an_object_that_holds_something_by_each_of_many_keys_stays_one_value() -> None:
    rows = [{"by_plot": {f"B{at}": at}, "at": {"day": at, "n": {"x": 1}}} for at in range(2 * MOST_KEYS)]
    assert {*map(tuple, FlatRows().of(rows))} == {("by_plot", "/at/day", "/at/n/x")}
