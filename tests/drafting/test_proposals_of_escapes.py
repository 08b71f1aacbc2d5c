"""What a backslash escapes is told as that: one character, or what goes on behind it in quotes."""

from __future__ import annotations

import random
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.proposals.escapes import escaped_in
from fieldstick.drafting.proposals.pieces import Piece
from fieldstick.drafting.proposals.proposing import propose

WORDS = [f"{head}{tail}" for head in ("fen", "carr", "hide", "ridge", "moss") for tail in ("", "s", "gate", "bank")]
SEPARATORS = [*",;|/:+&~", r"\t", r"\n", r"\v", *(rf"\x{each:02X}" for each in (3, 28, 31, 172, 188, 250, 30, 175))]
NOTES = [r"north \"gate\" open", *(rf"{each} \\ {each}" for each in WORDS[:6]), *WORDS]


@pytest.mark.parametrize(
    ("line", "values", "expected", "others"),
    [
        (
            "separator '{}' of {} rows",
            SEPARATORS,
            r"separator '(?P<separator>[^'\\]|\\(?:x[0-9A-F]{2}|.))' of (?P<rows>\d{2}) rows",
            ["separator ',,' of 17 rows", r"separator '\xg1' of 17 rows", r"separator '\' of 17 rows"],
        ),
        ("{}", SEPARATORS, r"(?P<text>[^\\]|\\(?:x[0-9A-F]{2}|.))", ["ab", r"\xA", "\\"]),
        (
            r"byte \{} at {}",
            [*(f"x{each:02x}" for each in range(140, 240, 5)), "t", "n"],
            r"byte \\(?P<text>x[0-9a-f]{2}|.) at (?P<at>\d{2})",
            [r"byte \x9 at 31", r"byte \ at 31"],
        ),
        (
            "{}",
            [*(rf"\{each:o}" for each in range(60, 72)), *(rf"\u{each:04x}" for each in range(176, 182))],
            r"\\(?P<text>u[0-9a-f]{4}|[0-7]{1,3})",
            [r"\8", r"\u0b"],
        ),
        (
            '{},"{}",{}',
            NOTES,
            r'(?P<word>[a-z]+),"(?P<text>(?:[^"\\]|\\.)+)",(?P<number>\d{2})',
            [r'fen,"north \",12', 'fen,"north "gate",12'],
        ),
    ],
)
def test_what_is_escaped_is_told_so(line: str, values: list[str], expected: str, others: list[str]) -> None:
    chance = random.Random(4)
    rows = [
        line.format(chance.choice(WORDS), chance.choice(values), chance.randrange(10, 99))
        if line.count("{}") == 3
        else line.format(chance.choice(values), chance.randrange(10, 99))
        for _ in range(30)
    ]
    first = propose(rows)[0]
    assert first.expression == expected and first.fit == len(set(rows))
    assert not any(map(first.fits, others))


def test_a_backslash_that_only_parts_or_leads_is_no_escape() -> None:
    chance = random.Random(4)
    paths = [rf'open "C:\{chance.choice(WORDS)}\{chance.choice(WORDS)}.log"' for _ in range(20)]
    assert propose(paths)[0].expression == r'open "(?P<open>C:\\[a-z]+\\[a-z]+\.log)"'
    assert not escaped_in(Piece("quoted", [r"C:\fen\a", r"C:\carr\b", "C:\\moss\\"]), None)
    assert not escaped_in(Piece("word", ["\\", *SEPARATORS]), None)


ONE = st.one_of(
    st.characters(exclude_characters="\\'\n\r"),
    st.from_regex(r"\\(?:x[0-9a-fA-F]{2}|u[0-9a-f]{4}|[0-7]{1,3}|N\{[A-Z ]*\}|[^\n])", fullmatch=True),
)


@given(st.lists(ONE, min_size=8, max_size=20), st.sampled_from(["'", '"', "/", "]", ""]))
def test_it_takes_all_that_it_was_made_of_and_no_two_in_one(values: list[str], until: str) -> None:
    piece = Piece("gap", values, until)
    spelled = escaped_in(piece, None)
    if spelled:
        assert all(re.fullmatch(spelled, each, re.DOTALL) for each in values)
        if spelled.endswith((")", "}", ".")):
            assert not any(re.fullmatch(spelled, f"{each}\\ab", re.DOTALL) for each in values)
