"""What is carried elsewhere and back means what it meant; an engine that reads it otherwise is noticed."""

from __future__ import annotations

import random
import re
from typing import TYPE_CHECKING, Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import EXHAUSTIVE, TODAY
from drawn import FLAG_SETS, drawn_expression
from fieldstick.engines.python import ENGINE as PYTHON
from fieldstick.errors import ExpressionError, SyntaxFault, UsageError
from fieldstick.handover import carrying
from fieldstick.handover.carrying import carried
from fieldstick.handover.functions.shapes import moment_shape, number_shape
from fieldstick.handover.taking.reading import for_engine
from fieldstick.handover.taking.taken import Taken
from fieldstick.suites.fieldtypes import FieldSpec, Unconverted
from fieldstick.syntax.parser import parse
from trees import near_miss, text_of

if TYPE_CHECKING:
    from conftest import Desk
    from fieldstick.engines.protocol import Reach

SENTENCE_ENDS = ".,;:!?…"


def converts(spec: FieldSpec, text: str) -> bool:
    try:
        spec.convert(text)
    except Unconverted:
        return False
    return True


@given(
    st.sampled_from(["integer", "decimal"]),
    st.sampled_from([".", ","]),
    st.sampled_from([None, ".", ",", " ", "'"]),
    st.text(st.sampled_from("0123.,' +-\N{MINUS SIGN}eE;"), max_size=9),
)
@example("decimal", ",", ".", "1.240e1")
@example("decimal", ",", ".", "1.240,5e1")
@example("decimal", ".", ",", "12,345.6.")
@example("integer", ".", ",", "1,2345")
def test_the_shape_of_a_number_is_what_converts_to_one(kind: str, mark: str, group: str | None, text: str) -> None:
    if mark == group:
        return
    spec = FieldSpec(type=kind, decimal_mark=mark, group_mark=group)  # type: ignore[arg-type]
    shape = re.compile(number_shape(spec).expression)
    fits = any(shape.fullmatch(each) for each in {text, text[:-1] if text.endswith(tuple(SENTENCE_ENDS)) else text})
    assert fits == converts(spec, text)


@pytest.mark.parametrize(
    ("kind", "layout", "text", "pieces"),
    [
        ("date", None, "2026-05-04", {"Y": "2026", "m": "05", "d": "04"}),
        ("date", None, "20260504", {"Y": "2026", "m": "05", "d": "04"}),
        ("date", None, "2026-0504", None),
        ("time", None, "06:10:30,25", {"H": "06", "M": "10", "S": "30", "f": "25"}),
        ("time", None, "061030", {"H": "06", "M": "10", "S": "30"}),
        ("time", None, "06.5", None),
        ("timestamp", None, "2026-05-04t06+0130", {"Y": "2026", "m": "05", "d": "04", "H": "06", "z": "+0130"}),
        ("timestamp", None, "2026-05-04", {"Y": "2026", "m": "05", "d": "04"}),
        ("date", "%d.%m.%y", "4.5.26", {"d": "4", "m": "5", "y": "26"}),
        ("date", "on %d %B, %Y", "ON 4  may, 2026", {"d": "4", "b": "may", "Y": "2026"}),
        ("time", "%I%p %%", "06pm %", {"I": "06", "p": "pm"}),
    ],
)
def test_the_shape_of_a_moment_gives_its_pieces(
    kind: str, layout: str | None, text: str, pieces: dict[str, str] | None
) -> None:
    shape = moment_shape(FieldSpec(type=kind, layout=layout))  # type: ignore[arg-type]
    assert shape is not None
    found = re.fullmatch(shape.expression, text)
    told = found and {role: piece for role, piece in zip(shape.roles, found.groups(), strict=True) if piece is not None}
    assert told == pieces
    assert converts(FieldSpec(type=kind, layout=layout), text) == (pieces is not None)  # type: ignore[arg-type]


def test_a_layout_that_languages_read_otherwise_has_no_shape() -> None:
    assert moment_shape(FieldSpec(type="date", layout="%A %d %m %Y")) is None


def test_what_goes_to_a_schema_comes_back_meaning_the_same() -> None:
    chance = random.Random(TODAY)
    carried_back = 0
    for _ in range(3_000 if EXHAUSTIVE else 250):
        expression, flags = drawn_expression(chance), frozenset(chance.choice(FLAG_SETS))
        reach: Reach = chance.choice(("whole", "start", "anywhere"))
        engine = chance.choice(("ecmascript", "ecmascript-v"))
        whole = engine == "ecmascript-v"
        try:
            parsed = parse(expression, flags)
            here = PYTHON.compile(expression, flags)
            there = carried(expression, flags, reach, engine, foldable=False, whole_values=whole, named=False)
            taken = Taken("x", "/pattern", there.expression, engine, "whole" if whole else "anywhere")
            back = for_engine(taken, "python")
            again = PYTHON.compile(back.expression.replace(r"\{\{", "{{"), frozenset())
        except (SyntaxFault, ExpressionError, UsageError):
            continue
        carried_back += 1
        texts = [text_of(parsed, chance) for _ in range(3)]
        for text in [*texts, *(near_miss(each, chance) for each in texts), "", "\n"]:
            before = bool(here.matches(text, reach, 2_000, 1))
            assert before == bool(again.matches(text, back.reach, 2_000, 1)), (
                expression,
                flags,
                reach,
                there,
                back,
                text,
            )
    assert carried_back > 40


def test_an_engine_that_reads_it_otherwise_is_noticed_by_texts_that_no_sample_has(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk.suite("[patterns.code]\nexpression = '[A-F]\\d{2}'\npositive = ['B07']\nnegative = ['x']\n")
    assert desk.run("handover", "loggers:code", "--as", "perl").status == 0
    plain = carrying.rendered

    def narrower(*arguments: Any, **given: Any) -> Any:
        made = plain(*arguments, **given)
        return replace(made, expression=made.expression.replace("[A-F]", "[B-F]"))

    monkeypatch.setattr(carrying, "rendered", narrower)
    run = desk.run("handover", "loggers:code", "--as", "python")
    assert run.status == 2 and "does not fit on python, other than here" in run.err and run.out == ""
    desk.suite("[patterns.code]\nexpression = '[A-F]\\d{2}'\npositive = ['B07', 'x']\n")
    broken = desk.run("handover", "loggers:code", "--as", "python")
    assert broken.status == 2 and "1 of 2 samples do not pass here; mend that first" in broken.err
