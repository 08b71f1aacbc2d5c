"""Texts of keys with their values: what is proposed takes them all, and captures of each key what stands behind it."""

from __future__ import annotations

import random
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.proposals.forms import forms_by
from fieldstick.drafting.proposals.proposing import propose
from fieldstick.drafting.proposals.spelling import LEVELS
from fieldstick.drafting.proposals.writing import Writer, field_name
from fieldstick.matching.keys import common_order

VALUES = {
    "plot": st.from_regex(r"[A-F]\d\d", fullmatch=True),
    "soil.temp": st.from_regex(r"-?\d{1,2}\.\d", fullmatch=True),
    "by": st.sampled_from(["holm", "carr", "beck"]),
    "msg": st.from_regex(r'"[a-c =,]{0,6}"', fullmatch=True),
    "err": st.sampled_from(['"card full"', "none", '"say \\" so"']),
    "n": st.from_regex(r"\d{1,3}(mm)?", fullmatch=True),
    "note": st.from_regex(r"([a-z.:/-]{0,3}[a-z/-])?", fullmatch=True),
    "ok": st.just("yes"),
}
ROW = st.lists(st.sampled_from([*VALUES]), unique=True, min_size=1, max_size=6).flatmap(
    lambda keys: st.tuples(*(VALUES[key].map(lambda value, key=key: (key, value)) for key in keys))
)
FRAMES = st.tuples(
    st.sampled_from(["", "06:10 probe ", "GET /readings?", "note: ", "bird ringed ("]),
    st.sampled_from(["=", ": "]),
    st.sampled_from([" ", ", ", ";", "&", "\t", " | "]),
    st.sampled_from(["", ".", " 200 4ms", ")"]),
)


def spelled(row: tuple[tuple[str, str], ...], frame: tuple[str, str, str, str]) -> str:
    head, mark, between, tail = frame
    return head + between.join(f"{key}{mark}{value}" for key, value in row) + tail


@given(st.lists(ROW, min_size=2, max_size=10), FRAMES, st.booleans())
def test_each_key_captures_what_stands_behind_it_in_all_texts(
    rows: list[tuple[tuple[str, str], ...]], frame: tuple[str, str, str, str], in_order: bool
) -> None:
    if in_order:
        rows = [tuple(sorted(row)) for row in rows]
    texts = [spelled(row, frame) for row in rows]
    forms = forms_by("pairs", texts, set(texts))
    for level in LEVELS if forms else ():
        expression = Writer(level).written(forms or [])
        for text, row in zip(texts, rows, strict=True):
            found = re.compile(expression).fullmatch(text)
            assert found is not None, (level, expression, text)
            values = {field_name(key): value for key, value in row}
            for name, captured in found.groupdict().items():
                if captured is not None and name in values:
                    bare = values[name].removesuffix("mm").strip('"')
                    assert bare in (captured.removesuffix("mm").strip('"'), captured), (expression, text, name)


KEYS = st.lists(st.lists(st.sampled_from("abcdef"), unique=True, max_size=5), max_size=6)


@given(KEYS)
def test_an_order_is_one_that_all_keep_and_none_is_told_where_there_is_none(sequences: list[list[str]]) -> None:
    order = common_order(sequences)
    if order is None:
        # Each key in turn that stands behind no other can be taken away: in the end some are left that go in a circle.
        left = {key for keys in sequences for key in keys}
        while True:
            behind = {key for keys in sequences for at, key in enumerate(each for each in keys if each in left) if at}
            if behind == left:
                break
            left = behind
        assert left
    else:
        assert sorted(order) == sorted({key for keys in sequences for key in keys})
        assert all(sorted(keys, key=order.index) == keys for keys in sequences)


def reading(chance: random.Random, *, shuffled: bool) -> str:
    pairs = [f"plot={chance.choice('ABCDEF')}{chance.randrange(10, 20)}", f"moisture={chance.randrange(600) / 10}"]
    pairs += [f"temp={chance.randrange(-40, 200) / 10}"] * (chance.random() < 0.5)
    pairs += ["retry=true"] * (chance.random() < 0.3)
    if shuffled:
        chance.shuffle(pairs)
    return f'level=info msg="reading taken" {" ".join(pairs)}'


@pytest.mark.parametrize(
    ("shuffled", "expected"),
    [
        (
            False,
            r'level=info msg="reading taken" plot=(?P<plot>[A-F]1\d) moisture=(?P<moisture>\d{1,2}\.\d)'
            r"(?: temp=(?P<temp>-?\d{1,2}\.\d))?(?: retry=(?P<retry>true))?",
        ),
        (
            True,
            r'level=info msg="reading taken"(?: (?:moisture=(?P<moisture>\d{1,2}\.\d)|plot=(?P<plot>[A-F]1\d)'
            r"|temp=(?P<temp>-?\d{1,2}\.\d)|retry=(?P<retry>true))){2,4}",
        ),
    ],
)
def test_keys_that_may_be_absent_are_fields_in_whatever_order_they_come(shuffled: bool, expected: str) -> None:
    chance = random.Random(3)
    texts = [reading(chance, shuffled=shuffled) for _ in range(200)]
    first = propose(texts)[0]
    assert first.expression == expected
    assert first.fields == {"moisture": {"type": "decimal"}, "temp": {"type": "decimal"}}
    others = [reading(chance, shuffled=shuffled) for _ in range(200)]
    assert all(map(first.fits, others)) and not first.fits(others[0].replace("plot=", "plto="))
