"""Sources give their texts whole, and name what they met on the way."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.data.read_options import ReadOptions
from fieldstick.data.source import Source, open_sources
from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from pathlib import Path


def source(folder: Path, content: bytes, column: str | None = None, name: str = "data.csv") -> Source:
    (folder / name).write_bytes(content)
    return open_sources((str(folder / name),), ReadOptions(column=column))[0]


def test_line_ends_are_taken_off_and_counted(tmp_path: Path) -> None:
    found = source(tmp_path, b"a\r\nb\nc\rd\n\nlast")
    assert list(found.texts()) == [(1, "a"), (2, "b"), (3, "c\rd"), (4, ""), (5, "last")]
    assert found.line_ends == {"CR LF": 1, "LF": 3}


def test_a_byte_order_mark_is_no_part_of_the_first_text(tmp_path: Path) -> None:
    found = source(tmp_path, b"\xef\xbb\xbfa\nb\n")
    assert [text for _, text in found.texts()] == ["a", "b"] and found.coding.marked


def test_bytes_that_are_not_utf_8_are_kept_and_named_by_line(tmp_path: Path) -> None:
    found = source(tmp_path, b"good\n8.2\xb0C\n\xff\n")
    texts = [text for _, text in found.texts()]
    assert texts[1] == "8.2\udcb0C" and found.undecodable == [2, 3]
    assert texts[1].encode("utf-8", "surrogateescape") == b"8.2\xb0C"


@given(
    st.lists(st.sampled_from([b"a", b"\n", b"\r\n", b"\r", b"\xff", "é".encode(), b"\xef\xbb\xbf", b"bc"]), max_size=30)
)
def test_reading_in_bulk_gives_the_same_texts(pieces: list[bytes]) -> None:
    import tempfile
    from pathlib import Path

    with tempfile.TemporaryDirectory() as name:
        one = source(Path(name), b"".join(pieces))
        other = source(Path(name), b"".join(pieces))
        assert [text for chunk in one.chunks(3) for text in chunk] == [text for _, text in other.texts()]
        assert one.undecodable == other.undecodable


def test_a_column_is_read_with_quotes_and_line_feeds_in_cells(tmp_path: Path) -> None:
    found = source(tmp_path, b'Ring,Note\nRX 1,"two\nlines, ""quoted"""\nRX 2,\n', "Note")
    assert [text for _, text in found.texts()] == ['two\nlines, "quoted"', ""]


def test_rows_that_are_too_long_or_short_are_named(tmp_path: Path) -> None:
    found = source(tmp_path, b"a,b\n1,2\n3\n4,5,6\n", "b")
    assert [text for _, text in found.texts()] == ["2", "", "5"]
    assert found.ragged == [3, 4]


@pytest.mark.parametrize(
    ("content", "column", "words"),
    [
        (b"a,b\n1,2\n", "c", "no column 'c'; the nearest|there are a, b"),
        (b"", "a", "is empty; its first line names the columns"),
        (b'a\n"open\n', "a", "not CSV"),
    ],
)
def test_a_table_that_cannot_be_read_is_a_sentence(tmp_path: Path, content: bytes, column: str, words: str) -> None:
    with pytest.raises(UsageError, match=words):
        list(source(tmp_path, content, column).texts())


def test_a_file_that_is_not_there_or_a_folder_is_a_sentence(tmp_path: Path) -> None:
    with pytest.raises(UsageError, match="No such file"):
        open_sources((str(tmp_path / "gone"),))
    with pytest.raises(UsageError, match="is a folder"):
        open_sources((str(tmp_path),))
