"""A key with its value that the text has and the expression lacks is put in, as a field where there are some."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.context import Beside, MatchCase
from fieldstick.drafting.diagnosis import diagnose

KNOWN = r"level=(?P<level>\w+) plot=(?P<plot>\w+) moisture=(?P<moisture>[\d.]+)"


def first(expression: str, text: str, *fitting: str) -> str:
    found = diagnose(MatchCase(expression, frozenset(), "whole", text), beside=Beside(fitting)).repairs[0]
    assert found.case.text == text and re.fullmatch(found.case.expression, text)
    return found.case.expression


@pytest.mark.parametrize(
    ("wrong", "text", "right"),
    [
        (KNOWN, "level=info plot=B07 moisture=3.1 temp=-1.5", KNOWN + r"(?: temp=(?P<temp>-?\d+\.\d+))?"),
        (
            KNOWN,
            'level=info plot=B07 note="gate, ajar" moisture=3.1',
            KNOWN.replace(" moist", ' (?:note="(?P<note>[^"]*)" )?moist').replace(' (?:note="', '(?: note="')
            .replace('" )?', '")? '),
        ),
        (KNOWN, "host=fen level=info plot=B07 moisture=3.1", r"(?:host=(?P<host>\w+) )?" + KNOWN),
        (
            r"seen \(ring=(\w+), wing=(\d+)mm\)",
            "seen (ring=LK017, wing=88mm, mass=14.2)",
            r"seen \(ring=(\w+), wing=(\d+)mm(?:, mass=(\d+\.\d+))?\)",
        ),
        (
            r"Plot: [A-F]\d\d, Moisture: \d+",
            "Plot: B07, Soil: wet, Moisture: 31",
            r"Plot: [A-F]\d\d(?:, Soil: \w+)?, Moisture: \d+",
        ),
    ],
)  # fmt: skip
def test_it_may_be_there_first_of_all(wrong: str, text: str, right: str) -> None:
    assert first(wrong, text) == right


VALUES = {
    "plot": ("B07", r"\w+"), "moisture": ("31.4", r"[\d.]+"), "by": ("holm", "[a-z]+"), "n": ("12", r"\d+"),
    "note": ('"a, b=c"', '"[^"]*"'), "seen-at": ("06:10", r"\d\d:\d\d"),
}  # fmt: skip


@given(
    st.permutations([*VALUES]),
    st.sets(st.sampled_from([*VALUES]), min_size=1, max_size=3),
    st.sampled_from([" ", ", ", ";", "&"]),
    st.sampled_from(["", "06:10 "]),
)
def test_keys_anywhere_are_put_in_and_the_texts_without_them_go_on_fitting(
    keys: list[str], lacking: set[str], between: str, head: str
) -> None:
    left = [key for key in keys if key not in lacking]
    expression = head + between.join(f"{key}=(?P<{key.replace('-', '_')}>{VALUES[key][1]})" for key in left)
    text, known = (head + between.join(f"{key}={VALUES[key][0]}" for key in some) for some in (keys, left))
    made = first(expression, text, known)
    found = re.fullmatch(made, text)
    assert found is not None and re.fullmatch(made, known)
    assert {name: found[name].strip('"') for name in found.groupdict()} == {
        key.replace("-", "_"): VALUES[key][0].strip('"') for key in keys
    }
