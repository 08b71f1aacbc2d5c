"""CSV read in blocks gives the rows that it gives read row by row, and the same notes and errors."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from fieldstick.data import delimited, delimited_blocks
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


def read(path: Path, options: ReadOptions, *, in_blocks: bool) -> Any:
    source = Source(str(path), options)
    found: list[Any] = []
    try:
        if in_blocks:
            for block in source.blocks():
                for batch in block.parts():
                    for index, number in enumerate(batch.numbers):
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
    named = [(list(each), each.total) for each in (notes.ragged, notes.undecodable, notes.overlong)]
    return found, named, source.columns, source.header


@given(HEADS, TABLES, OPTIONS, st.booleans(), st.integers(1, 40))
@example(b"a,b,c\n", b'"x""', {}, True, 5)
@example(b"a\n", b"\n\n", {}, True, 3)
def test_rows_are_the_same_in_blocks(
    head: bytes, body: bytes, options: dict[str, Any], with_column: bool, size: int
) -> None:
    asked = ReadOptions(kind="csv", column="a" if with_column else None, rows_wanted=not with_column, **options)
    with tempfile.TemporaryDirectory() as folder, pytest.MonkeyPatch.context() as patch:
        path = Path(folder) / "rows.csv"
        path.write_bytes(head + body)
        plain = read(path, asked, in_blocks=False)
        patch.setattr(delimited, "BLOCK", len(head) + size)
        patch.setattr(delimited_blocks, "BLOCK", size)
        assert read(path, asked, in_blocks=True) == plain
