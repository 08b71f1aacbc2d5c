"""Durations of several units are one field each, which takes what has these units in their order, and nothing else."""

from __future__ import annotations

import random
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.proposals.durations import UNITS, amounts_of, durations_in, has_several, spelled_of
from fieldstick.drafting.proposals.proposing import propose

PLAIN = [each for each in UNITS if each not in ("min", "sec", "us")]
ROWS = st.lists(
    st.dictionaries(st.sampled_from(PLAIN), st.integers(0, 120), min_size=1, max_size=4).map(
        lambda row: [(unit, row[unit]) for unit in PLAIN if unit in row]
    ),
    min_size=1,
    max_size=8,
)


@given(ROWS, st.sampled_from(["", " "]), st.booleans())
def test_durations_are_taken_by_what_they_are_spelled_by_and_none_in_disorder(
    rows: list[list[tuple[str, int]]], between: str, fraction: bool
) -> None:
    tail = ".5" * fraction
    values = [
        between.join(f"{n}{tail * (at == len(row) - 1)}{unit}" for at, (unit, n) in enumerate(row)) for row in rows
    ]
    spelled = re.compile(spelled_of(values))
    assert all(map(spelled.fullmatch, values)) and spelled.fullmatch("") is None
    several = [(row, value) for row, value in zip(rows, values, strict=True) if len(row) > 1]
    assert [bool(has_several(f"ran {value} there")) for _, value in several] == [True] * len(several)
    assert all([*durations_in(f"ran {value}, then")] == [(4, 4 + len(value))] for value in values)
    if len({unit for row in rows for unit, _ in row}) <= 4:
        for row, value in several:
            turned = between.join(f"{n}{unit}" for unit, n in reversed(row))
            assert amounts_of(turned) is None and spelled.fullmatch(turned) is None
            assert spelled.fullmatch(value + between + value) is None


@pytest.mark.parametrize("text", ["B07", "12 m", "3m 4h", "v1.2m", "2h14", "10:05h", "1d-2h", "PIT7H", "P5", "7m/9s"])
def test_what_is_written_otherwise_is_no_duration_of_several_units(text: str) -> None:
    assert not has_several(text) and has_several(f"{text}, 5m30s")


LINES = [
    ("trap {code} ran {0}", r"trap (?P<trap>B\d{2}) ran (?P<ran>UNITS)"),
    ("scan of {code} done in {0} (ok)", r"scan of (?P<scan>B\d{2}) done in (?P<duration>UNITS) \(ok\)"),
    ("{code},{0},{n}", r"(?P<code>B\d{2}),(?P<duration>UNITS),(?P<number>\d{2})"),
    ("sync={0} wait={1}", r"sync=(?P<sync>UNITS) wait=(?P<wait>UNITS)"),
]


@pytest.mark.parametrize(("written", "expected"), LINES)
@pytest.mark.parametrize("iso", [False, True])
def test_a_duration_in_a_line_is_one_field(written: str, expected: str, iso: bool) -> None:
    chance = random.Random(7)

    def duration() -> str:
        row = [(unit, chance.randrange(60)) for unit in "hms" if chance.random() < 0.6] or [("s", 5)]
        made = "".join(f"{n}{unit}" for unit, n in row)
        return f"PT{made.upper()}" if iso else made

    lines = [
        written.format(duration(), duration(), code=f"B{chance.randrange(99):02}", n=chance.randrange(10, 99))
        for _ in range(60)
    ]
    units = r"\d{1,2}h(?:\d{1,2}m)?(?:\d{1,2}s)?|\d{1,2}m(?:\d{1,2}s)?|\d{1,2}s"
    units = f"PT(?:{re.sub('[hms]', lambda each: each[0].upper(), units)})" if iso else units
    proposed = [each.expression for each in propose(lines)]
    assert expected.replace("UNITS", units) in proposed
