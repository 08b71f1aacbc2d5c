"""A suite with every key in it, and odd values to be put at any of them."""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from typing import Any

from hypothesis import strategies as st

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


def holder_of(data: Any, path: tuple[Any, ...]) -> Any:
    for key in path[:-1]:
        data = data[key]
    return data
