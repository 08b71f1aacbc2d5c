"""What is looked for first is what few lines hold, as long as few fit."""

from __future__ import annotations

import os
import random
import re
from array import array
from typing import TYPE_CHECKING

import pytest

from fieldstick.analysis.automaton.asked import Asked, Joined, Reading
from fieldstick.analysis.automaton.kept_tables import sorting_table
from fieldstick.data.batch import StoredTexts
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching.sought import AGAIN, Sought
from fieldstick.matching.walks import SortWalk

if TYPE_CHECKING:
    from pathlib import Path

pytestmark = pytest.mark.skipif(NATIVE is None, reason="needs the compiled walkers")

READING = Reading(r"probe=\w+ moisture=[\d.]+% soil=-?\d+C by=\w+")
USUAL = ["probe=B07 moisture=31.4% air=7C by=holm", "gate=north pass=7 by=carr"]
SOIL = ["probe=B07 moisture=31.4% soil=7C by=holm"]
GATE = ["gate=north pass=7 by=carr"]


def block_of(lines: list[str]) -> StoredTexts:
    assert NATIVE is not None
    data = "".join(line + "\n" for line in lines).encode()
    return StoredTexts(data, len(lines), ends=NATIVE.survey(data, 0)[6])


def sought_in(asked: Asked) -> Sought:
    kept = sorting_table([asked])
    kept.table()
    return Sought(kept)


def test_it_is_the_rarest_of_those_that_all_hold_which_fit_and_only_where_few_fit() -> None:
    sought = sought_in(READING)
    for lines, fit, wanted in [
        (SOIL, 1, None),
        (USUAL * 50 + SOIL, 1, b"% soil="),
        (SOIL * 3 + USUAL, 3, None),
        (USUAL * 50 + GATE * 5000 + SOIL * 2, 2, b"% soil="),
    ]:
        sought.note(block_of(lines), fit)
        assert sought.text == wanted


def test_another_one_is_taken_once_that_has_become_the_rarer_one() -> None:
    sought = sought_in(READING)
    sought.note(block_of(USUAL * 50), 0)
    assert sought.text == b"% soil="
    soiled = block_of([each.replace("by=", "of=") for each in SOIL * 50] + GATE * 800)
    for _ in range(AGAIN):
        sought.note(soiled, 0)
    assert sought.text == b"C by="


@pytest.mark.parametrize(
    ("asked", "wanted"),
    [
        (Reading("probe=|gate="), None),
        (Reading(r"(?i)probe="), None),
        (Reading(r"\w=\d"), None),
        (Joined("any", (READING, Reading("soil=.*"))), None),
        (Joined("none", (READING,)), None),
        (Joined("all", (Reading("soil=.*"), READING)), b"% soil="),
        (Reading("(?P<a>soil)=(?:é){2}"), b"soil="),
    ],
)
def test_it_is_in_every_text_that_fits_or_there_is_none(asked: Asked, wanted: bytes | None) -> None:
    sought = sought_in(asked)
    sought.note(block_of(USUAL * 50), 0)
    assert sought.text == wanted


def test_where_all_are_frequent_or_there_are_no_lines_there_is_none() -> None:
    sought = sought_in(READING)
    sought.note(block_of([line + " soil= % soil= moisture= probe=" for line in SOIL] * 50), 0)
    assert sought.text is None
    usual = block_of(USUAL * 50)
    sought = sought_in(READING)
    sought.note(StoredTexts(usual.data, 1, cells=array("i", (0, 9))), 0)
    assert sought.text is None


KNOWN = f"{SOIL[0]}\n{GATE[0]}\n".encode()
AROUND = ["", "\r", "\r\r", "\0", "x" * 90, " soil=\n probe=B07", "\n", "\n\n", *GATE, *SOIL]


def walk_of(known: bytes) -> SortWalk:
    """Return a walk that has seen lines, and looks for what few hold."""
    assert NATIVE is not None
    walk = SortWalk([READING])
    count, _, _, _, _, _, ends = NATIVE.survey(known, 0)
    for _ in range(2):
        assert walk.fits(StoredTexts(known, count, ends=ends)) is not None
    walk.note(block_of(SOIL * 50), 50)
    walk.note(block_of(USUAL * 50), 0)
    return walk


@pytest.mark.parametrize("seed", range(30))
@pytest.mark.parametrize("unfit", [False, True])
def test_lines_of_a_file_are_picked_as_the_engine_reads_them(
    tmp_path: Path, seed: int, unfit: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("fieldstick.matching.row_walks.WORTH_NEW", 0)
    monkeypatch.setattr("fieldstick.analysis.automaton.walk_tables.BYTES_OF_LEAPS", 0)
    drawn = random.Random(seed)
    lines = "\n".join(
        "".join(drawn.choices([*AROUND, drawn.choice(SOIL)], k=drawn.randrange(4))) + drawn.choice(["", "\r"])
        for _ in range(drawn.choice([1, 40, 9000]))
    ).split("\n")
    lines = [""] * 30_000 if seed == 0 else lines
    before, data = b"not asked for\n", "".join(f"{line}\n" for line in lines).encode()
    path = tmp_path / "x.log"
    path.write_bytes(before + data + b"nor this\xff")
    fit = [re.fullmatch(READING.expression, line.removesuffix("\r")) is not None for line in lines]
    wanted = "".join(f"{line}\n" for line, each in zip(lines, fit, strict=True) if each is not unfit)
    file = os.open(path, os.O_RDONLY)
    walk = walk_of(KNOWN + KNOWN.replace(b"\n", b"\r\n") + data)
    found = walk.pick(file, len(before), len(data), unfit=unfit, giving=True)
    counted = walk.pick(file, len(before), len(data), unfit=unfit, giving=False)
    os.close(file)
    returns = sum(line.endswith("\r") for line in lines)
    assert found is not None and counted is not None
    assert found == (len(lines), sum(fit), returns, wanted.encode())
    assert counted == (len(lines), sum(fit), returns, b"")


@pytest.mark.parametrize(
    "data",
    [
        pytest.param(f"{SOIL[0]} é\n".encode(), id="beyond ASCII"),
        pytest.param(SOIL[0].encode(), id="no line end"),
        pytest.param(b"x" * 70_000 + b"\n", id="a line that is too long to be held"),
        pytest.param(f"{SOIL[0]} moisture\n".replace("holm", "{~}").encode(), id="what no line had so far"),
    ],
)
def test_what_cannot_be_picked_is_left_and_not_tried_again_at_once(
    tmp_path: Path, data: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("fieldstick.matching.row_walks.WORTH_NEW", 0)
    monkeypatch.setattr("fieldstick.analysis.automaton.walk_tables.BYTES_OF_LEAPS", 0)
    path = tmp_path / "x.log"
    path.write_bytes(KNOWN * 3 + data)
    walk, file = walk_of(KNOWN), os.open(path, os.O_RDONLY)
    size = len(KNOWN)
    assert walk.pick(file, 0, size, unfit=False, giving=True) is not None
    assert walk.pick(file, 0, 3 * size + len(data), unfit=False, giving=True) is None
    answers = [walk.pick(file, 0, size, unfit=False, giving=True) is not None for _ in range(4)]
    assert answers == [False, False, True, True]
    # Fewer bytes than are asked for, as of a file that was cut short meanwhile.
    assert walk.pick(file, size, 2 * size + len(data) + 1, unfit=False, giving=True) is None
    os.close(file)
    walk = walk_of(KNOWN)
    with pytest.raises(OSError, match="Bad file descriptor"):
        walk.pick(file, 0, size, unfit=False, giving=True)
