"""A value that its field refuses gets changes of that field, or of the value, that are true and in a likely order."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

import pytest

from fieldstick.drafting.context import MatchCase
from fieldstick.drafting.judge import KnownTexts, with_field
from fieldstick.drafting.slips.fields import field_repairs
from fieldstick.matching.prepare import prepare

if TYPE_CHECKING:
    from conftest import Desk
    from fieldstick.drafting.context import Repair
    from fieldstick.suites.suite import Pattern

HEAD = 'format = 1\nsuite = "yard"\n[patterns.row]\n'


def row(desk: Desk, expression: str, fields: str, more: str = "") -> Pattern:
    """Return a pattern with fields."""
    from conftest import read_suite

    desk.write("yard.suite.toml", f"{HEAD}expression = '{expression}'\n{fields}\n{more}")
    return read_suite(desk.folder / "yard.suite.toml").patterns["row"]


def changes(pattern: Pattern, text: str) -> list[Repair]:
    """Return what is offered for a text that a field refuses; each is tried here once more."""
    reading = prepare(pattern).read(text)
    assert not reading.fits and reading.unfit is not None and reading.unfit.field is not None
    assert pattern.filling is not None
    case = MatchCase(pattern.filling.text({}), pattern.flags, pattern.reach, text)
    known = KnownTexts(pattern, text, samples=pattern.samples)
    found = list(field_repairs(pattern, case, reading, known))
    for each in found:
        changed = with_field(pattern, each.field)
        assert prepare(changed).read(each.case.text).fits, each
        assert each.field is not None or each.case.text != text
        if each.field is not None and known.texts:
            wrong = [one for one in pattern.samples if one.text != text]
            wrong = [one for one in wrong if prepare(changed).read(one.text).fits is not (one.kind == "positive")]
            assert each.breaks == len(wrong)
    return found


@pytest.mark.parametrize(
    ("fields", "text", "first"),
    [
        ('fields.v = { type = "integer", most = 40 }', "v=41", {"most": 41}),
        ('fields.v = { type = "integer", least = 5 }', "v=4", {"least": 4}),
        ('fields.v = { type = "integer", group_mark = "," }', "v=12.500", {"group_mark": "."}),
        ('fields.v = { type = "integer" }', "v=1,200", {"group_mark": ","}),
        ('fields.v = { type = "decimal" }', "v=31,4", {"decimal_mark": ","}),
        ('fields.v = { type = "decimal", decimal_mark = "," }', "v=31.4", {"decimal_mark": "."}),
        ('fields.v = { type = "decimal" }', "v=1.240,5", {"decimal_mark": ",", "group_mark": "."}),
        ('fields.v = { type = "date" }', "v=4.5.2026", {"layout": "%d.%m.%Y"}),
        ("fields.v = { type = \"date\", layout = '%d.%m.%Y' }", "v=2026-05-04", {"layout": None}),
        ('fields.v = { type = "time" }', "v=06.10", {"layout": "%H.%M"}),
        ('fields.v = { type = "timestamp" }', "v=04.05.2026 06:10", {"layout": "%d.%m.%Y %H:%M"}),
        ('fields.v = { type = "boolean", true = ["wet"], false = ["dry"] }', "v=damp", {"true": ["wet", "damp"]}),
        ('fields.v = { one_of = ["north", "quarry"] }', "v=hag", {"one_of": ["north", "quarry", "hag"]}),
        ('fields.v = { type = "integer", one_of = [1, 2] }', "v=3", {"one_of": [1, 2, 3]}),
    ],
)
def test_the_key_that_refuses_is_the_first_to_be_changed(
    desk: Desk, fields: str, text: str, first: dict[str, object]
) -> None:
    found = changes(row(desk, "v=(?P<v>.+)", fields), text)
    ranked = [each.field.keys for each in found if each.field is not None]
    assert ranked and first.items() <= ranked[0].items(), [each.words for each in found]


@pytest.mark.parametrize(
    ("fields", "text", "value"),
    [
        ('fields.v = { one_of = ["north", "quarry"] }', "v=quary", "v=quarry"),
        ('fields.v = { one_of = ["North"] }', "v=north", "v=North"),
        ('fields.v = { type = "decimal", decimal_mark = "," }', "v=31.4", "v=31,4"),
        ('fields.v = { type = "date" }', "v=2026-25-05", "v=2026-05-25"),
    ],
)
def test_a_value_that_was_mistyped_is_put_right_in_the_text(desk: Desk, fields: str, text: str, value: str) -> None:
    assert value in [each.case.text for each in changes(row(desk, "v=(?P<v>.+)", fields), text)]


def test_what_breaks_samples_comes_behind_what_does_not_and_a_group_is_known_by_its_number_too(desk: Desk) -> None:
    samples = "positive = ['40']\nnegative = ['45']"
    pattern = row(desk, r"(\d+)", 'fields.1 = { name = "heads", type = "integer", most = 40 }', samples)
    found = changes(pattern, "41")
    assert [each.field.name for each in found if each.field is not None] == ["1"] * len(found)
    assert [each.breaks for each in found] == sorted(each.breaks or 0 for each in found)
    assert found[0].field is not None and found[0].field.keys == {"most": 41} and found[-1].breaks


def test_nothing_is_offered_where_the_expression_does_not_match(desk: Desk) -> None:
    pattern = row(desk, r"v=(?P<v>\d+)", 'fields.v = { type = "integer", most = 40 }')
    reading = prepare(pattern).read("w=3")
    assert field_repairs(pattern, MatchCase("", frozenset(), "whole", "w=3"), reading, KnownTexts(pattern, "w=3")) == ()


def test_a_moment_with_an_offset_is_held_against_no_bound_without_one(desk: Desk) -> None:
    pattern = row(desk, "v=(?P<v>.+)", 'fields.v = { type = "timestamp", least = 2026-01-01T00:00:00 }')
    found = changes(pattern, "v=2026-05-04T06:12:41Z")
    assert found[0].field is not None and found[0].field.keys == {"least": None, "most": None}


TYPED = r"(?P<d>\d{4}-\d{2}-\d{2}) (?P<n>\d+) (?P<m>\d+\.\d+) (?P<f>yes|no)"
TYPES = """fields.d = { type = "date" }
fields.n = { type = "integer", least = 1, most = 9000 }
fields.m = { type = "decimal" }
fields.f = { type = "boolean", true = ["yes"], false = ["no"] }"""
TYPED_SAMPLES = """[[patterns.row.positive]]
text = "2026-05-04 12 4.5 yes"
[[patterns.row.positive]]
text = "2026-05-05 120 14.25 no"
"""


@pytest.mark.parametrize(
    ("text", "piece", "field"),
    [
        ("2026-05-04 1,200 4.5 yes", r"(?P<n>\d{1,3}(?:,\d{3})*)", {"n": {"group_mark": ","}}),
        ("2026-05-04 -3 4.5 yes", r"(?P<n>-?\d+)", {"n": {"least": -3}}),
        ("2026-05-04 12 4.5 y", "(?P<f>yes|no|y)", {"f": {"true": ["yes", "y"]}}),
        ("2026-05-04 12 4.5 NO", "(?P<f>yes|no)", {"f": {"false": ["no", "NO"]}}),
        ("2026-05-04 12.5 4.5 yes", r"(?P<n>\d+(?:\.\d+)?)", {"n": {"type": "decimal", "decimal_mark": "."}}),
        ("2026-05-04 12 n/a yes", r"(?:(?P<m>\d+\.\d+)|n/a)", None),
    ],
)
def test_what_the_expression_and_its_field_refuse_is_mended_in_both(
    desk: Desk, text: str, piece: str, field: dict[str, dict[str, object]] | None
) -> None:
    row(desk, TYPED, TYPES, TYPED_SAMPLES)
    told = json.loads(desk.run("why", "yard.suite.toml:row", text, "--format", "json").out)["repairs"][0]
    assert piece in told["expression"] and told["breaks"] == 0
    name, keys = next(iter(field.items())) if field is not None else ("", {})
    if field is not None:
        assert told["field"]["name"] == name and told["field"]["keys"].items() >= keys.items()
    assert desk.run("why", "yard.suite.toml:row", text, "--apply", "1").status == 0
    assert desk.run("check", "yard.suite.toml").status == 0
    assert json.loads(desk.run("why", "yard.suite.toml:row", text, "--format", "json").out)["fits"]


@pytest.mark.parametrize("day", ["04.05.2026", "4 May 2026", "2026/05/04"])
def test_a_date_that_is_written_otherwise_is_written_in_the_text_as_its_field_has_it(desk: Desk, day: str) -> None:
    row(desk, TYPED, TYPES, TYPED_SAMPLES)
    told = json.loads(desk.run("why", "yard.suite.toml:row", f"{day} 12 4.5 yes", "--format", "json").out)
    assert told["repairs"][0]["text"] == "2026-05-04 12 4.5 yes"
