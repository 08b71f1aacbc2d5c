"""An expression is outlined as its writer wrote it: a part is one piece, told by its name."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.outline import outline, outline_as_written
from fieldstick.errors import SyntaxFault
from fieldstick.syntax.parser import parse


@pytest.mark.parametrize(
    ("expression", "source", "words"),
    [
        ("probe={{plot}}", "{{plot}}", "the part 'plot'"),
        ("{{common.stamp}} x", "{{common.stamp}}", "the part 'common.stamp'"),
        ("(?P<at>{{stamp}})", "(?P<at>{{stamp}})", "group 1 'at': the part 'stamp'"),
        ("{{row}}{2,3}", "{{row}}{2,3}", "the part 'row', 2 to 3 times"),
        ("{{=site}}", "{{=site}}", "the part '=site'"),
        ("{{a}}{{b}}", "{{b}}", "the part 'b'"),
    ],
)
def test_a_part_is_one_piece(expression: str, source: str, words: str) -> None:
    lines = outline_as_written(expression)
    found = next(each for each in lines if each.source == source)
    assert found.words == words and expression[slice(*found.span)] == source


@given(st.lists(st.sampled_from(["a", r"\d+", "(x)", "[a-c]?", " ", r"\.", "(?:north|quarry)"]), max_size=6))
def test_without_parts_it_is_the_outline(pieces: list[str]) -> None:
    expression = "".join(pieces)
    assert tuple(outline_as_written(expression)) == outline(parse(expression)).lines


@given(st.lists(st.sampled_from(["{{a}}", "{{b.row}}", "x", "(", ")", "|", "+", "{{", "}}"]), max_size=8))
def test_spans_lie_in_what_is_written(pieces: list[str]) -> None:
    expression = "".join(pieces)
    try:
        lines = outline_as_written(expression)
    except SyntaxFault:
        return
    for each in lines:
        assert each.source == expression[slice(*each.span)] and "\ue001" not in each.words


def test_what_cannot_be_read_is_refused_with_its_place() -> None:
    with pytest.raises(SyntaxFault) as refused:
        outline_as_written("{{plot}}(")
    assert refused.value.span[0] == 8
