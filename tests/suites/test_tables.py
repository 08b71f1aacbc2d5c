"""The quick way to read a table and the way that names every mistake agree on what is a mistake."""

from __future__ import annotations

import copy
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec import Struct

from fieldstick.operations import SECTIONS
from fieldstick.suites import model
from fieldstick.suites.model import FieldTable, PatternTable, SampleTable, converted
from fieldstick.suites.sections import suite_model
from fieldstick.suites.tables import mistakes
from odd_suites import ODD, WHOLE, holder_of, places

MODEL = suite_model(SECTIONS, SECTIONS.names())
PLACES = st.sampled_from(places(WHOLE))


def test_a_whole_suite_has_no_mistake() -> None:
    assert mistakes(WHOLE, MODEL) == [] and converted(WHOLE, MODEL) is not None


@given(PLACES, ODD, st.sampled_from(["put", "drop", "add"]))
def test_whatever_is_changed_both_ways_agree_on_whether_it_is_wrong(path: tuple[Any, ...], odd: Any, how: str) -> None:
    data = copy.deepcopy(WHOLE)
    holder = holder_of(data, path)
    if how == "put":
        holder[path[-1]] = odd
    elif how == "drop":
        del holder[path[-1]]
    elif isinstance(holder, dict):
        holder["kye"] = odd
    else:
        holder.append(odd)
    found = mistakes(data, MODEL)
    assert (converted(data, MODEL) is None) == bool(found)
    assert all(each.words and "\n" not in each.words for each in found)


@pytest.mark.parametrize(
    ("table", "data", "words"),
    [
        (PatternTable, {"expression": 3}, "'expression' must be a text, not 3"),
        (
            PatternTable,
            {"take": 2.5},
            "take is 2.5; choose first, last, all, or a number but 0 (1 is the first, -1 the last)",
        ),
        (PatternTable, {"tags": ["a", 1]}, "item 2 of 'tags' must be a text, not 1"),
        (PatternTable, {"positive": [[1]]}, "item 1 of 'positive' must be a text or a table, not an array"),
        (PatternTable, {"reach": "hole"}, "'reach' is 'hole'; choose whole, start or anywhere; the nearest is 'whole'"),
        (PatternTable, {"fields": []}, "'fields' must be a table, not an array"),
        (PatternTable, {"budget_ms": 3_600_001}, "'budget_ms' is 3600001; it must be at most 3600000"),
        (PatternTable, {"parameters": ["a b"]}, "'a b' is not a name: use letters, digits, - and _, a letter first"),
        (FieldTable, {"decimal_mark": ",,"}, "'decimal_mark' must be one character, not ',,'"),
        (FieldTable, {"least": [1]}, "'least': must be a text, number, date, time or boolean"),
        (FieldTable, {"one_of": []}, "'one_of' is an empty array; name at least one"),
        (SampleTable, {"place": [0]}, "a place is [start, end] in characters counted from 0, start not after end"),
        (SampleTable, {"count": True}, "'count' must be a whole number, not true"),
        (SampleTable, {"txt": "a"}, "unknown key 'txt'; the nearest is 'text'"),
        (SampleTable, {"note": "x" * 60, "text": {}}, "'text' must be a text, not a table"),
    ],
)
def test_a_mistake_is_said_in_words(table: Any, data: dict[str, Any], words: str) -> None:
    (found,) = mistakes(data, table)
    assert found.words == words


def test_no_annotation_of_the_model_is_a_text_that_every_command_would_have_to_compile() -> None:
    tables = [each for each in vars(model).values() if isinstance(each, type) and issubclass(each, Struct)]
    told = {name: each for table in tables for name, each in vars(table).get("__annotations__", {}).items()}
    assert len(tables) > 5 and "expression" in told
    assert [name for name, each in told.items() if isinstance(each, str)] == []
