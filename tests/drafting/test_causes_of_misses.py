"""Misses are told by where they stop and on what, every one of them counted, and what is taken alike is said."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from msgspec.structs import replace

from fieldstick.data.batch import Batch, StoredTexts
from fieldstick.drafting.causes import Causes, found_words
from fieldstick.matching.prepare import prepare
from fieldstick.suites.overrides import Overrides
from fieldstick.workspace import Workspace, bare_pattern

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach
    from fieldstick.suites.suite import Combination

EXPRESSION = r"probe=(?P<plot>[A-F]\d\d) moisture=(?P<m>\d+\.\d)%"


def causes_of(expression: str, texts: list[str], **more: int) -> Causes:
    """Take in texts one by one."""
    found = Causes(prepare(bare_pattern(expression)), **more)
    for number, text in enumerate(texts, 1):
        found.add("a.log", number, text)
    return found


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("trap=B07", "'probe=' wanted at the start"),
        ("probe=G07 moisture=3.1%", "one of A to F wanted after probe="),
        ("probe=B0", r"a digit wanted after \d"),
        ("probe=B07 moisture=31%", r"'.' wanted after \d+"),
        ("probe=B07 moisture=31.4", r"'%' wanted after (?P<m>\d+\.\d)"),
        ("probe=B07 moisture=31.4%!", "the end of the text wanted after %"),
    ],
)
def test_a_cause_is_what_is_wanted_and_what_stands_before_it(text: str, words: str) -> None:
    (cause,) = causes_of(EXPRESSION, [text]).ranked
    assert cause.words == words and cause.count == 1 and cause.first.text == text and cause.first.number == 1


def test_the_commonest_comes_first_and_what_stood_there_is_counted() -> None:
    texts = ["probe=G07", "probe=H07", "probe=G12", "trap=B07", "probe=b07"]
    first, second = causes_of(EXPRESSION, texts).ranked
    assert (first.count, second.count) == (4, 1)
    assert list(found_words(first)) == ["'G' (2)", "'H' (1)", "'b' (1)"]


def test_a_refused_value_is_a_cause_whatever_the_value() -> None:
    overrides = Overrides(fields={"m": "integer"})
    matcher = Workspace().pattern(None, overrides, expression="m=(?P<m>.+)").matcher
    found = Causes(matcher)
    for number, text in enumerate(("m=wet", "m=dry", "m=3.1"), 1):
        found.add("a.log", number, text)
    (cause,) = found.ranked
    assert cause.count == 3 and cause.reason == "field-invalid" and "'m'" in cause.words and "wet" not in cause.words


def test_what_there_were_no_steps_for_is_counted_apart() -> None:
    texts = [f"{chr(0x4E00 + number)} {number}" for number in range(50)]
    found = causes_of(EXPRESSION, texts, steps=1_000)
    assert found.unseen > 0 and found.total == 50
    assert causes_of(EXPRESSION, texts).unseen == 0


PIECES = [
    "a",
    "b",
    "-",
    ".",
    "[ab]",
    "(?=b-)",
    "(?!a-)",
    "(?:a|ab)",
    "a*",
    "b?",
    "(?:ab)+",
    "a++",
    "$",
    r"\b",
    "(?<=a)",
]


@example(["a", "(?=bb)", "b", ".", "-"], "whole", ["abab", "abba"], None)
@example(["a", "b", "-"], "anywhere", ["a-", "a-aba"], None)
@example(["a", "b", "$"], "whole", ["ab\na", "ab\n"], None)
@example(["a", "b", ".", "a"], "whole", ["abb-", "abbb", "aba-", "b---"], "any_of")
@example(["a", ".", "b"], "whole", ["a-b", "a-a"], "all_of")
@given(
    st.lists(st.sampled_from(PIECES), min_size=2, max_size=5),
    st.sampled_from(["whole", "start", "anywhere"]),
    st.lists(st.text("ab-\n", min_size=2, max_size=5), min_size=8, max_size=25),
    st.sampled_from([None, "any_of", "all_of"]),
)
def test_texts_that_are_the_same_up_to_where_one_stops_stop_there_for_the_same_reason(
    pieces: list[str], reach: Reach, texts: list[str], combination: Combination | None
) -> None:
    pattern = replace(bare_pattern("".join(pieces)), reach=reach)
    if combination is not None:
        other = replace(bare_pattern("".join(reversed(pieces))), reach=reach, name="other")
        pattern = replace(pattern, combination=combination, members=(replace(pattern, name="one"), other), filling=None)
    matcher = prepare(pattern)
    missed = [text for text in texts if not matcher.read(text).fits]
    together = Causes(matcher)
    told = [together.add("a.log", 1, text) for text in missed]
    alone = [Causes(matcher).add("a.log", 1, text) for text in missed]
    assert [each and each.words for each in told] == [each and each.words for each in alone]
    found = Counter(dict[str, int]())
    for each in alone:
        found.update(each.found if each is not None else ())
    assert sum((each.found for each in together.ranked), Counter[str]()) == found


LINES = st.lists(
    st.one_of(
        st.from_regex(r"probe=[A-G]\d\d moisture=\d{1,2}(\.\d)?%?", fullmatch=True),
        st.text("prob=eAé7 0\x00😀", max_size=9),
    ),
    max_size=30,
)


@given(LINES, st.sampled_from(["\n", "\r\n"]), st.data())
def test_texts_taken_in_together_are_as_those_taken_in_one_by_one(
    texts: list[str], end: str, data: st.DataObject
) -> None:
    matcher = prepare(bare_pattern(EXPRESSION))
    missed = bytes(data.draw(st.booleans()) and not matcher.read(text).fits for text in texts)
    stored = "".join(f"{text}{end}" for text in texts).encode()
    batch = Batch(None, None, stored_texts=StoredTexts(stored, len(texts), len(texts) if end == "\r\n" else 0))
    together, one_by_one = Causes(matcher), Causes(matcher)
    together.add_missed("a.log", batch, missed)
    for index, text in enumerate(texts):
        if missed[index]:
            one_by_one.add("a.log", index + 1, text)
    told = [(each.words, each.count, each.first.text, each.first.number, each.found) for each in together.ranked]
    wanted = [(each.words, each.count, each.first.text, each.first.number, each.found) for each in one_by_one.ranked]
    assert sorted(told, key=repr) == sorted(wanted, key=repr)
    assert together.taken_alike == one_by_one.taken_alike and together.total == sum(missed)
