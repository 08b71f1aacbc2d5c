"""The quick way to read a table and the way that names every mistake agree on what is a mistake."""

from __future__ import annotations

import copy
import datetime as dt
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.operations import SECTIONS
from fieldstick.suites.model import FieldTable, PatternTable, SampleTable, converted
from fieldstick.suites.sections import suite_model
from fieldstick.suites.tables import mistakes

MODEL = suite_model(SECTIONS, SECTIONS.names())
WHOLE: dict[str, Any] = {
    "format": 1,
    "suite": "loggers",
    "owner": "data desk",
    "borrow": {"common": "common.suite.toml"},
    "defaults": {"reach": "start", "take": -1, "flags": ["ascii"], "budget_ms": 250},
    "parts": {"plot": "[A-F]"},
    "patterns": {
        "reading": {
            "expression": "(?P<n>.)",
            "parameters": ["site"],
            "take": "all",
            "fields": {"n": {"type": "decimal", "least": Decimal(1), "one_of": ["1", 2, dt.date(2026, 5, 4)]}},
            "positive": ["a", {"text": "b", "fields": {"n": True}, "place": [0, 1], "with": {"site": "Fen"}}],
            "negative": [{"text": "c", "note": "n", "message": "m"}],
        },
        "either": {"any_of": ["reading"], "tags": ["soil"]},
    },
    "rewrites": {"blur": {"pattern": "reading", "with": "x", "samples": [{"text": "a", "becomes": "x"}]}},
    "routes": {"kind": {"order": ["reading"], "samples": [{"text": "a", "kind": "reading"}]}},
    "lookups": {"of": {"column": "A", "pattern": "reading", "give": ["B"], "samples": [{"rows": [], "gives": ["x"]}]}},
    "forms": {"f": {"columns": {"A": "reading"}, "samples": [{"row": {"A": "a"}}]}},
    "splits": {"s": {"at": ";", "keep_separators": True}},
}
ODD = st.sampled_from(
    [0, 1, -1, True, 2.5, Decimal(3), "", "x", "9x", "all", "hole", [], {}, [1], ["a"], {"a": 1}, dt.date(2026, 5, 4)]
)


def places(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    return [*([path] if path else []), *(found for key, each in inner for found in places(each, (*path, key)))]


PLACES = st.sampled_from(places(WHOLE))


def holder_of(data: Any, path: tuple[Any, ...]) -> Any:
    for key in path[:-1]:
        data = data[key]
    return data


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
