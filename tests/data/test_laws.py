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

from fieldstick.data.batch import LineNumbers
from fieldstick.data.delimited import cell_spans, with_cell
from fieldstick.data.json_rows import json_cell, parsed, pointer, value_at
from fieldstick.data.lines import Transcoded, checked_encoding, line_blocks
from fieldstick.data.rows import told_apart
from fieldstick.data.source import open_sources
from fieldstick.data.text_file import encoded
from fieldstick.operations.rewrite import _json_row as json_row
from fieldstick.operations.rewrite import put_back
from fieldstick.suites.fieldtypes import FieldSpec

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


@given(VALUES, st.text(max_size=5))
def test_a_json_row_keeps_everything_but_the_one_text(value: Any, text: str) -> None:
    row = {"kept": value, "x": {"y/z": ["old", value]}}
    made = json_row(json_cell(row) + "\r\n", "/x/y~1z/0", text)
    assert made.endswith("}\r\n") and parsed(made) == {"kept": value, "x": {"y/z": [text, value]}}


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


@given(PIECES)
def test_what_is_read_is_written_back_byte_by_byte(pieces: list[bytes]) -> None:
    data = b"".join(pieces)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "x.log"
        path.write_bytes(data)
        (source,) = open_sources((str(path),))
        items = list(source.items())
    assert encoded("".join(item.raw or "" for item in items)) == data
    assert all(put_back(item.raw or "", item.text or "", item.text or "") == item.raw for item in items)
    assert [item.number for item in items] == list(range(1, len(items) + 1))


@given(PIECES, st.text(st.sampled_from("xy"), max_size=3))
def test_only_the_text_is_put_in_the_place_of_another(pieces: list[bytes], new: str) -> None:
    raw = b"".join(pieces).decode("utf-8", "surrogateescape").replace("\n", "").removesuffix("\r") + "\r\n"
    assert put_back(raw, raw[:-2], new) == new + "\r\n"
    assert put_back("\ufeff" + raw, raw[:-2], new) == "\ufeff" + new + "\r\n"


@given(
    st.text(st.characters(exclude_categories=["Cs"]), max_size=40),
    st.sampled_from(["utf-16", "utf-16-be", "utf-32", "utf-8"]),
)
def test_another_encoding_reads_as_the_same_text(text: str, encoding: str) -> None:
    read = Transcoded(io.BytesIO(text.encode(encoding)), checked_encoding(encoding)).read  # type: ignore[arg-type]
    blocks = line_blocks(lambda size: read(size) or b"", None, LineNumbers())
    assert b"".join(block.data for block in blocks).decode() == text


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
