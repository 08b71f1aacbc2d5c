"""What is looked for first is what few lines hold, as long as few fit."""

from __future__ import annotations

import pytest

from fieldstick.analysis.automaton.asked import Asked, Joined, Reading
from fieldstick.analysis.automaton.kept_tables import sorting_table
from fieldstick.data.batch import StoredTexts
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching.sought import AGAIN, Sought

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


def test_where_all_are_frequent_or_nobody_knows_where_lines_end_there_is_none() -> None:
    sought = sought_in(READING)
    sought.note(block_of([line + " soil= % soil= moisture= probe=" for line in SOIL] * 50), 0)
    assert sought.text is None
    usual = block_of(USUAL * 50)
    sought = sought_in(READING)
    sought.note(StoredTexts(usual.data, usual.count), 0)
    assert sought.text is None
