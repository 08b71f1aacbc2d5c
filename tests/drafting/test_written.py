"""What is shown as the writer wrote it is what they wrote, and filled in again it is what was shown."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.written import Written
from fieldstick.suites.parts import PartScope, fill

SCOPE = PartScope("", {"a": "x", "plot": "[A-F]{{a}}", "run": "{{plot}}+y"}, {})
PIECES = st.lists(st.sampled_from(["{{a}}", "{{plot}}", "{{run}}", "z", "(w)", "."]), max_size=6)


def written(expression: str) -> Written:
    filling = fill(expression, SCOPE)
    return Written(filling.text({}), filling.part_spans({}))


@given(PIECES)
def test_the_whole_is_as_it_was_written(pieces: list[str]) -> None:
    assert written("".join(pieces)).text == "".join(pieces)


@given(PIECES, st.data())
def test_a_change_is_shown_so_that_filled_in_it_is_that_change(pieces: list[str], data: st.DataObject) -> None:
    made = written("".join(pieces))
    start = data.draw(st.integers(0, len(made.expression)))
    end = data.draw(st.integers(start, len(made.expression)))
    put = data.draw(st.sampled_from(["", "q", "zz", "x", "[", "\\", "(?#"]))
    changed = made.expression[:start] + put + made.expression[end:]
    assert fill(made.changed(changed), SCOPE).text({}) == changed
    outside = all(end <= first or last <= start for first, last in made.parts)
    if outside and not put.startswith(("[", "\\", "(")) and changed != made.expression:
        assert made.changed(changed).count("{{") == made.text.count("{{")


@given(PIECES, st.data())
def test_a_change_at_several_places_keeps_the_parts_that_it_leaves_alone(
    pieces: list[str], data: st.DataObject
) -> None:
    made = written("".join(pieces))
    places = data.draw(st.lists(st.integers(0, len(made.expression)), min_size=2, max_size=4))
    changed = made.expression
    for place in sorted(places, reverse=True):
        changed = changed[:place] + data.draw(st.sampled_from(["q", "+", "\\s*"])) + changed[place:]
    assert fill(made.changed(changed), SCOPE).text({}) == changed
    if not any(first < place < last for first, last in made.parts for place in places):
        assert made.changed(changed).count("{{") == made.text.count("{{")


@given(PIECES, st.data())
def test_a_place_is_where_its_piece_stands(pieces: list[str], data: st.DataObject) -> None:
    made = written("".join(pieces))
    if not made.expression:
        return
    start = data.draw(st.integers(0, len(made.expression) - 1))
    (first, last), part = made.place((start, start + 1))
    if part is None:
        assert made.text[first:last] == made.expression[start : start + 1]
    else:
        assert made.text[first:last] == f"{{{{{part}}}}}"
