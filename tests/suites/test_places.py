"""Every key, table and array item of a TOML document is found on its line."""

from __future__ import annotations

from importlib import resources
from typing import TYPE_CHECKING, Any

import pytest
import tomli
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.suites.places import locate

if TYPE_CHECKING:
    from collections.abc import Iterator

KEYS = st.sampled_from(["a", "b", "plot", "c-d", '"e f"', "'g.h'", '"i\\u00e9"'])
SCALARS = st.sampled_from(
    [
        "1",
        "-2.5",
        "true",
        "2026-05-04T06:10:00Z",
        "'#]}, x = 1'",
        '"a \\" # ] b"',
        "''",
        "'''\n'x'\n# y\n'''",
        '"""a\\\n  \\"b"""',
    ]
)
SPACE = st.sampled_from(["", " ", "\t"])
BREAK = st.sampled_from(["", " ", "\n", " # ] ' \n  "])


def array(items: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    parts = st.lists(st.tuples(BREAK, items, BREAK), max_size=3)
    return st.builds(lambda found, end: "[" + ",".join("".join(each) for each in found) + end + "]", parts, BREAK)


def inline_table(values: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    pairs = st.lists(st.tuples(KEYS, SPACE, values), max_size=3, unique_by=lambda pair: pair[0])
    return st.builds(lambda found: "{ " + ", ".join(f"{k}{s}= {v}" for k, s, v in found) + " }", pairs)


VALUES = st.recursive(SCALARS, lambda inner: array(inner) | inline_table(SCALARS), max_leaves=6)
ASSIGNMENTS = st.lists(st.tuples(KEYS, SPACE, VALUES, BREAK), max_size=4, unique_by=lambda each: each[0])


@st.composite
def documents(draw: st.DrawFn) -> str:
    lines = []
    for number in range(draw(st.integers(0, 3))):
        header = draw(
            st.sampled_from([f"[t{number}]", f"[t{number}.x]", "[[rows]]", "[[ rows ]] # more", f"[rows.s{number}]"])
        )
        if header.startswith("[rows") and "[[" not in "".join(lines):
            continue
        lines += [header, *(f"{k}{s}={s}{v}{b}" for k, s, v, b in draw(ASSIGNMENTS)), ""]
    return "\n".join(lines)


def paths(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, inner in items:
        yield (*path, key)
        yield from paths(inner, (*path, key))


@given(documents())
def test_the_paths_found_are_those_of_the_document(document: str) -> None:
    try:
        data = tomli.loads(document)
    except tomli.TOMLDecodeError:
        return
    assert set(locate(document)) == set(paths(data))


@pytest.mark.parametrize("name", ["common", "loggers", "permits", "records", "notes"])
def test_in_the_demo_suites_every_key_stands_on_its_line(name: str) -> None:
    document = (resources.files("fieldstick.demo") / "larkmoor" / f"{name}.suite.toml").read_text(encoding="utf-8")
    lines = document.split("\n")
    found = locate(document)
    assert set(found) == set(paths(tomli.loads(document)))
    for path, line in found.items():
        if isinstance(path[-1], str):
            assert path[-1] in lines[line - 1], (path, line)


def test_a_sample_begins_at_its_header_or_at_its_item() -> None:
    document = "[patterns.x]\npositive = [\n  'a', 'b',\n # c\n {text='d'},\n]\n\n[[patterns.x.negative]]\n\ntext = ''"
    found = locate(document)
    kind = ("patterns", "x", "positive")
    assert [found[*kind, number] for number in range(3)] == [3, 3, 5]
    assert found["patterns", "x", "negative", 0] == 8
    assert found["patterns", "x", "negative", 0, "text"] == 10
