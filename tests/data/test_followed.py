"""A followed file is read whole, at whatever moment it is cut short and written anew."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING, Any

import pytest

from fieldstick.data import followed
from fieldstick.data.followed import FollowedSource
from fieldstick.data.read_options import ReadOptions

if TYPE_CHECKING:
    from pathlib import Path


@pytest.mark.parametrize("moment", range(1, 7))
def test_a_file_written_anew_between_any_two_reads_gives_whole_lines(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, moment: int
) -> None:
    path = tmp_path / "probes.log"
    path.write_bytes(b"B07 moist=1\nB08 moist=2\n")
    reads = 0

    class Unsteady(io.FileIO):
        def read(self, size: int | None = -1, /) -> Any:
            nonlocal reads
            reads += 1
            if reads == moment:
                # Longer than what was there: the place that was read to lies within a line.
                path.write_bytes(b"C01\nC02 moist=11.1 temp=9.5\nC03 moist=3\n")
            return super().read(size)

    monkeypatch.setattr(followed, "PAUSE", 0)
    monkeypatch.setattr(followed, "open", lambda name, *_, **__: Unsteady(name), raising=False)
    source = FollowedSource(str(path), ReadOptions(), lambda: reads >= 9, from_now=False)
    texts = [text for block in source.blocks() for part in block.parts() for text in part.texts]
    written = ["C01", "C02 moist=11.1 temp=9.5", "C03 moist=3"]
    assert texts in (written, ["B07 moist=1", "B08 moist=2", *written]), texts
