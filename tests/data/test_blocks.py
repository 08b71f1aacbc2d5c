"""CSV and JSON Lines read in blocks give the rows that they give read row by row, and the same notes and errors."""

from __future__ import annotations

import json
import tempfile
from array import array
from pathlib import Path
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from fieldstick.data import delimited, delimited_blocks
from fieldstick.data import source as sources
from fieldstick.data.placed import missed
from fieldstick.data.read_options import ReadOptions
from fieldstick.data.source import Source
from fieldstick.errors import UsageError
from fieldstick.kernels.walkers import NATIVE

pytestmark = pytest.mark.skipif(NATIVE is None, reason="the walkers are not built here")

PIECES = [
    b"plot",
    b"B07",
    b"7",
    b",",
    b",",
    b",",
    b"\n",
    b"\n",
    b"\n",
    b"\r\n",
    b"\r",
    b'"',
    b'"',
    b'""',
    b'"a,b"',
    b'"x\ny"',
]
PIECES += [b'"a""b"', b";", b"\t", b" ", b"\xc3\xa9", b"\x84", b"\0", b"\xef\xbb\xbf", b"'"]
TABLES = st.lists(st.sampled_from(PIECES), max_size=40).map(b"".join)
HEADS = st.sampled_from([b"a,b,c\n", b"a\n", b'"a","b ""c"""\r\n', b"\xef\xbb\xbfa,a,b\n", b"a;b\n", b"a,b", b""])
OPTIONS = st.sampled_from(
    [{}, {}, {"quote": ""}, {"delimiter": ";"}, {"longest": 5}, {"quote": "'"}, {"refuse_undecodable": True}]
)


def read(path: Path, options: ReadOptions, *, in_blocks: bool, in_thread: bool = False) -> Any:
    source = Source(str(path), options)
    source.reads_ahead = in_thread
    found: list[Any] = []
    try:
        if in_blocks:
            for block in source.blocks():
                for batch in block.parts():
                    for index, number in enumerate(batch.numbers):
                        if index in batch.without_text:
                            continue
                        assert batch.rows is not None
                        found.append((number, batch.texts[index], batch.rows[index], batch.raw(index)))
                    source.merge(batch.notes)
        else:
            for entry in source.items():
                if entry.text is not None:
                    found.append((entry.number, entry.text, entry.row, entry.raw))
    except UsageError as error:
        return str(error)
    notes = source.notes
    kinds = (notes.ragged, notes.undecodable, notes.overlong, notes.missing, notes.not_json, notes.too_deep)
    named = [(list(each), each.total) for each in kinds]
    return found, named, source.columns, source.header


@given(HEADS, TABLES, OPTIONS, st.booleans(), st.integers(1, 40), st.booleans())
@example(b"a,b,c\n", b'"x""', {}, True, 5, True)
@example(b"a\n", b"\n\n", {}, True, 3, True)
def test_rows_are_the_same_in_blocks(
    head: bytes, body: bytes, options: dict[str, Any], with_column: bool, size: int, in_thread: bool
) -> None:
    asked = ReadOptions(kind="csv", column="a" if with_column else None, rows_wanted=not with_column, **options)
    with tempfile.TemporaryDirectory() as folder, pytest.MonkeyPatch.context() as patch:
        path = Path(folder) / "rows.csv"
        path.write_bytes(head + body)
        plain = read(path, asked, in_blocks=False)
        patch.setattr(delimited, "BLOCK", len(head) + size)
        patch.setattr(delimited_blocks, "BLOCK", size)
        patch.setattr(sources, "LEAST_AHEAD", 0)
        assert read(path, asked, in_blocks=True, in_thread=in_thread) == plain


VALUES = st.recursive(
    st.one_of(
        st.none(),
        st.booleans(),
        st.integers(),
        st.floats(),
        st.text(max_size=4),
        st.sampled_from(["é", 'a\n"b\\', "m"]),
    ),
    lambda inner: st.one_of(
        st.lists(inner, max_size=2), st.dictionaries(st.sampled_from(["m", "é", 'q"']), inner, max_size=2)
    ),
    max_leaves=4,
)
OBJECTS = st.dictionaries(st.sampled_from(["m", "é", "n", 'q"', "mm"]), VALUES, max_size=4).map(
    lambda each: json.dumps(each, ensure_ascii=len(each) % 2 == 0).encode("utf-8", "surrogatepass")
)
ODD = [
    b"",
    b" ",
    b"{",
    b"{}",
    b"[1]",
    b'"m"',
    b'{"m":"x",}',
    b'{"m" : "x" } ',
    b'{"m":"a","m":"b"}',
    b'{"\\u006d":"x"}',
    b'{"m":01}',
]
ODD += [
    b'{"m":-0}',
    b'{"m":1.50}',
    b'{"m":1e3}',
    b'{"m":"\\ud83d\\ude00"}',
    b'{"m":"\\ud83d"}',
    b'{"m":"\\x"}',
    b'{"m":"\x01"}',
    b'{"m":"\x84"}',
]
ODD += [
    b'{"m":truex}',
    b'{"m":12345678901234567890}',
    b'{"m":"' + b"[" * 60 + b'"}',
    b'{"m":"x","n":' + b"[" * 60 + b"]" * 60 + b"}",
]
ODD += [b"\xef\xbb\xbf{}", b'{"m":"x"}x', b'{"m":"x"}\r', b'{"m":0.00000001}', b'{"m":"x","n":1.}', b'{"m":NaN}']


@given(st.lists(st.one_of(OBJECTS, st.sampled_from(ODD)), max_size=8), st.sampled_from(["m", "é"]), st.booleans())
def test_so_are_the_values_of_a_key(lines: list[bytes], key: str, everything: bool) -> None:
    asked = ReadOptions(kind="jsonl", column=key, everything_wanted=everything)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "rows.jsonl"
        path.write_bytes(b"".join(line + b"\n" for line in lines))
        assert read(path, asked, in_blocks=True) == read(path, asked, in_blocks=False)


@given(st.lists(st.integers(-1, 300), max_size=40))
def test_what_is_missed_is_told_a_byte_a_text(finishes: list[int]) -> None:
    found = missed(bytearray(array("h", finishes).tobytes()))
    assert list(found) == [each == -1 for each in finishes]


@given(st.lists(st.binary(max_size=12) | st.text(max_size=8).map(str.encode), max_size=8))
def test_texts_of_cells_are_what_each_of_them_decodes_to(cells: list[bytes]) -> None:
    assert NATIVE is not None
    places, at = array("i"), 0
    for cell in cells:
        places.extend((at, at + len(cell)))
        at += len(cell)
    data = b"".join(cells)
    assert NATIVE.strings(data, places) == [each.decode("utf-8", "surrogateescape") for each in cells]
    for wrong in ((0, at + 1), (1, 0), (-1, 0)):
        with pytest.raises(ValueError, match="stand nowhere"):
            NATIVE.strings(data, array("i", wrong))
