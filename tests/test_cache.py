"""What was worked out before is kept, and nothing depends on it: not on another version's, nor on a broken file."""

from __future__ import annotations

import hashlib
from typing import TYPE_CHECKING

import pytest
from msgspec import Struct

from fieldstick import cache
from fieldstick.cache import Remembered

if TYPE_CHECKING:
    from pathlib import Path


class Told(Struct):
    """A result."""

    words: str
    number: int = 0


@pytest.fixture(autouse=True)
def _folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))


def asked(key: object, calls: list[object], place: str = ".") -> Told:
    kept = Remembered("told", place)

    def compute() -> Told:
        calls.append(key)
        return Told(f"of {key}", len(calls))

    found = kept.get(key, Told, compute)
    kept.save()
    return found


def test_what_is_asked_again_is_not_worked_out_again(tmp_path: Path) -> None:
    calls: list[object] = []
    first = asked(["a", 1], calls)
    assert asked(["a", 1], calls) == first and calls == [["a", 1]]
    asked(["a", 2], calls)
    asked(["a", 1], calls, str(tmp_path / "elsewhere"))
    assert len(calls) == 3


def test_what_another_version_kept_is_not_read(monkeypatch: pytest.MonkeyPatch) -> None:
    calls: list[object] = []
    asked("a", calls)
    monkeypatch.setattr(cache, "__version__", "9.9")
    asked("a", calls)
    assert len(calls) == 2


@pytest.mark.parametrize(
    "content", [b"", b"{", b"[]", b"{}", b'{"version": 1}', b"\xff\xfe", b'{"version": "x", "known": 3}']
)
def test_a_broken_file_is_done_without(tmp_path: Path, content: bytes) -> None:
    calls: list[object] = []
    asked("a", calls)
    (file,) = (tmp_path / "fieldstick").iterdir()
    good = file.read_bytes()
    file.write_bytes(content)
    assert asked("a", calls).words == "of a" and len(calls) == 2
    file.write_bytes(good.replace(b'"number":1', b'"number":"x"'))
    assert asked("a", calls).number == 3


def test_a_folder_that_cannot_be_written_is_done_without(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "file"))
    calls: list[object] = []
    asked("a", calls)
    asked("a", calls)
    assert len(calls) == 2


def test_when_there_is_too_much_what_was_asked_for_stays(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cache, "MOST_KEPT", 3)
    calls: list[object] = []
    for key in range(6):
        asked(key, calls)
    asked(5, calls)
    assert len(calls) == 6
    asked(0, calls)
    assert len(calls) == 7


def test_two_that_save_at_once_leave_a_whole_file(tmp_path: Path) -> None:
    one, other = (Remembered("told", ".") for _ in range(2))
    one.get("a", Told, lambda: Told("one"))
    other.get("b", Told, lambda: Told("other"))
    one.save()
    other.save()
    assert [file.suffix for file in (tmp_path / "fieldstick").iterdir()] == [".json"]
    calls: list[object] = []
    assert asked("b", calls).words == "other" and not calls


def test_any_character_can_stand_in_a_key() -> None:
    calls: list[object] = []
    for key in ("\ud800", "é", "\0", "a" * 100_000):
        first = asked([key.encode("utf-8", "surrogatepass").hex()], calls)
        assert asked([key.encode("utf-8", "surrogatepass").hex()], calls) == first
    assert cache.digest_of("\ud800é") == hashlib.sha256(b"\xed\xa0\x80\xc3\xa9").hexdigest()
