"""Parts and parameters are filled in as units, and places can be traced back."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.suites.parts import OWN, PartError, PartScope, fill

COMMON = PartScope("common", {"day": r"\d\d|x", "two": "{{day}}-{{day}}"}, {})
SCOPE = PartScope("own", {"plot": r"[A-F]\d{2}", "row": "A|B", "set": "A-F", "note": "c # why"}, {"common": COMMON})


def filled(expression: str, *, verbose: bool = False, **values: str) -> str:
    return fill(expression, SCOPE, verbose=verbose).text(values)


@pytest.mark.parametrize(
    ("expression", "text", "fits"),
    [
        ("{{row}}1", "B1", True),
        ("{{row}}1", "A", False),
        ("{{row}}{2}", "AB", True),
        ("[{{set}}]+", "FAD", True),
        ("{{common.two}}", "x-12", True),
        (r"\{\{row}}", "{{row}}", True),
        (r"\{{2}", "{{", True),
        ("a{2}{{row}}", "aaB", True),
        ("(?x){{note}} d", "cd", True),
    ],
)
def test_a_part_stands_as_one_unit(expression: str, text: str, fits: bool) -> None:
    assert bool(re.fullmatch(filled(expression), text)) == fits


@given(st.text(), st.booleans())
def test_a_parameter_stands_for_itself(value: str, verbose: bool) -> None:
    expression = filled("<{{=v}}>|[{{=v}}.]", verbose=verbose, v=value)
    flags = re.VERBOSE if verbose else 0
    assert re.fullmatch(expression, f"<{value}>", flags)
    assert re.fullmatch(filled("({{=v}})+", v=value), value * 2)


@pytest.mark.parametrize(
    ("expression", "words"),
    [
        ("{{plott}}", "there is no part 'plott'; the nearest is 'plot'"),
        ("{{commn.day}}", "nothing is borrowed as 'commn'; the nearest is 'common'"),
        ("{{common.dy}}", "there is no part 'dy' in the suite borrowed as 'common'; the nearest is 'day'"),
        ("a{{ b", "opens neither a part"),
    ],
)
def test_what_cannot_be_filled_in_is_named(expression: str, words: str) -> None:
    with pytest.raises(PartError, match=re.escape(words)):
        fill(expression, SCOPE)


def test_a_circle_of_parts_is_named_whole() -> None:
    scope = PartScope("own", {"a": "{{b}}", "b": "{{c}}", "c": "x{{a}}"}, {})
    with pytest.raises(PartError, match="a → b → c → a"):
        fill("{{a}}", scope)


def test_every_character_is_traced_to_the_text_it_was_written_in() -> None:
    expression = "^{{plot}}={{=v}}!{{common.two}}$"
    filling = fill(expression, SCOPE)
    values = {"v": "1+1"}
    text = filling.text(values)
    sources = {
        OWN: expression,
        "plot": SCOPE.parts["plot"],
        "common.two": COMMON.parts["two"],
        "common.day": COMMON.parts["day"],
    }
    for position, character in enumerate(text):
        origin = filling.origin(position, values)
        if character in "^=!$[ADF]{-d|x" and sources[origin.source][origin.offset] != "{":
            assert sources[origin.source][origin.offset] == character
    assert filling.origin(text.index("!"), values).offset == expression.index("!")
    assert filling.origin(text.index("x"), values).source == "common.day"
