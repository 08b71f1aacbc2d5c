"""Values of several parts are one field each: durations, versions, codes, what stands in quotes; units name nothing."""

from __future__ import annotations

import random
import re
from typing import TYPE_CHECKING

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.drafting.proposals import versions
from fieldstick.drafting.proposals.durations import UNITS, amounts_of, durations_in, has_several, spelled_of
from fieldstick.drafting.proposals.proposing import propose
from fieldstick.drafting.proposals.wording import Words

if TYPE_CHECKING:
    from collections.abc import Callable

PLAIN = [each for each in UNITS if each not in ("min", "sec", "us")]
ROWS = st.lists(
    st.dictionaries(st.sampled_from(PLAIN), st.integers(0, 120), min_size=1, max_size=4).map(
        lambda row: [(unit, row[unit]) for unit in PLAIN if unit in row]
    ),
    min_size=1,
    max_size=8,
)


@given(ROWS, st.sampled_from(["", " "]), st.booleans())
def test_durations_are_taken_by_what_they_are_spelled_by_and_none_in_disorder(
    rows: list[list[tuple[str, int]]], between: str, fraction: bool
) -> None:
    tail = ".5" * fraction
    values = [
        between.join(f"{n}{tail * (at == len(row) - 1)}{unit}" for at, (unit, n) in enumerate(row)) for row in rows
    ]
    spelled = re.compile(spelled_of(values))
    assert all(map(spelled.fullmatch, values)) and spelled.fullmatch("") is None
    several = [(row, value) for row, value in zip(rows, values, strict=True) if len(row) > 1]
    assert [bool(has_several(f"ran {value} there")) for _, value in several] == [True] * len(several)
    assert all([*durations_in(f"ran {value}, then")] == [(4, 4 + len(value))] for value in values)
    if len({unit for row in rows for unit, _ in row}) <= 4:
        for row, value in several:
            turned = between.join(f"{n}{unit}" for unit, n in reversed(row))
            assert amounts_of(turned) is None and spelled.fullmatch(turned) is None
            assert spelled.fullmatch(value + between + value) is None


IN_WORDS = [("week", "day", "hour", "minute"), ("day", "hr", "min"), ("hour", "min", "sec")]


@given(st.data(), st.sampled_from(IN_WORDS), st.sampled_from([" ", ", ", " and "]), st.booleans())
def test_durations_in_words_are_one_value_with_or_without_an_s_and_none_in_disorder(
    data: st.DataObject, units: tuple[str, ...], between: str, plural: bool
) -> None:
    drawn = st.dictionaries(st.sampled_from(units), st.integers(1, 40), min_size=1)
    rows = [[(unit, row[unit]) for unit in units if unit in row] for row in data.draw(st.lists(drawn, min_size=1))]
    values = [between.join(f"{n} {unit}{'s' * (plural and n > 1)}" for unit, n in row) for row in rows]
    spelled = re.compile(spelled_of(values))
    assert all(map(spelled.fullmatch, values)) and spelled.fullmatch("") is None
    for row, value in zip(rows, values, strict=True):
        assert has_several(f"shut for {value} in May") is (len(row) > 1)
        assert [*durations_in(f"shut for {value} in May")] == [(9, 9 + len(value))]
        turned = between.join(f"{n} {unit}" for unit, n in reversed(row))
        assert (spelled.fullmatch(turned) is None and amounts_of(turned) is None) or len(row) == 1
        assert spelled.fullmatch(value + between + value) is None


def test_a_duration_in_words_is_one_field_alone_and_in_a_line() -> None:
    chance = random.Random(5)

    def duration(*units: str) -> str:
        row = [(chance.randint(1, 30), unit) for unit in units if chance.random() < 0.6] or [(4, units[-1])]
        return ", ".join(f"{n} {unit}{'s' * (n > 1)}" for n, unit in row)

    alone = propose([duration("hr", "min") for _ in range(20)])[0]
    assert alone.expression == r"(?P<duration>\d{1,2} hrs?(?:, \d{1,2} mins?)?|\d{1,2} mins?)"
    line = propose([f"gate {chance.choice('abc')} shut for {duration('day', 'hour')} then" for _ in range(20)])[0]
    days = r"\d{1,2} days?(?:, \d{1,2} hours?)?|\d{1,2} hours?"
    assert line.expression == rf"gate (?P<gate>[a-c]) shut for (?P<duration>{days}) then"


@pytest.mark.parametrize("text", ["2 days or 9 weeks", "5 days before, 64 minutes", "3 hours 2 days", "7 days, 1:44"])
def test_what_is_said_of_days_otherwise_is_no_duration_of_several_units(text: str) -> None:
    assert not has_several(text)


@pytest.mark.parametrize("text", ["B07", "12 m", "3m 4h", "v1.2m", "2h14", "10:05h", "1d-2h", "PIT7H", "P5", "7m/9s"])
def test_what_is_written_otherwise_is_no_duration_of_several_units(text: str) -> None:
    assert not has_several(text) and has_several(f"{text}, 5m30s")


LINES = [
    ("trap {code} ran {0}", r"trap (?P<trap>B\d{2}) ran (?P<ran>UNITS)"),
    ("scan of {code} done in {0} (ok)", r"scan of (?P<scan>B\d{2}) done in (?P<duration>UNITS) \(ok\)"),
    ("{code},{0},{n}", r"(?P<code>B\d{2}),(?P<duration>UNITS),(?P<number>\d{2})"),
    ("sync={0} wait={1}", r"sync=(?P<sync>UNITS) wait=(?P<wait>UNITS)"),
]


@pytest.mark.parametrize(("written", "expected"), LINES)
@pytest.mark.parametrize("iso", [False, True])
def test_a_duration_in_a_line_is_one_field(written: str, expected: str, iso: bool) -> None:
    chance = random.Random(7)

    def duration() -> str:
        row = [(unit, chance.randrange(60)) for unit in "hms" if chance.random() < 0.6] or [("s", 5)]
        made = "".join(f"{n}{unit}" for unit, n in row)
        return f"PT{made.upper()}" if iso else made

    lines = [
        written.format(duration(), duration(), code=f"B{chance.randrange(99):02}", n=chance.randrange(10, 99))
        for _ in range(60)
    ]
    units = r"\d{1,2}h(?:\d{1,2}m)?(?:\d{1,2}s)?|\d{1,2}m(?:\d{1,2}s)?|\d{1,2}s"
    units = f"PT(?:{re.sub('[hms]', lambda each: each[0].upper(), units)})" if iso else units
    proposed = [each.expression for each in propose(lines)]
    assert expected.replace("UNITS", units) in proposed


MORE = ["", "-rc{n}", "+{hex}", ".dev{n}", "-{n}", "-{n}-g{hex}", "+b{n}", "a{n}", "-beta.{n}"]


@given(st.lists(st.tuples(st.integers(0, 30), st.integers(0, 30), st.sampled_from(MORE)), min_size=1, max_size=9))
def test_a_version_is_one_piece_with_what_follows_its_numbers(rows: list[tuple[int, int, str]]) -> None:
    values = [f"1.{one}.{other}{more.format(n=other, hex=f'3f2a9{one:02}')}" for one, other, more in rows]
    spelled = re.compile(versions.spelled_of(values))
    assert all(map(spelled.fullmatch, values))
    assert not any(map(spelled.fullmatch, ["1.2", "1.2.", "", "1.2.3-", "1.2.3+", "x1.2.3"]))
    for value, (_, _, more) in zip(values, rows, strict=True):
        assert [*versions.versions_in(f"soild-{value}: up")] == [(6, 6 + len(value))]
        assert versions.has_more(f"soild-{value}") == bool(more)


DRAWN: dict[str, Callable[[random.Random], str]] = {
    "code": lambda chance: f"B{chance.randrange(10, 20)}",
    "d": lambda chance: f"{chance.randrange(10)}.{chance.randrange(10)}",
    "n": lambda chance: f"{chance.randrange(10, 60)}",
    "b": lambda chance: f"{chance.randrange(2)}",
    "word": lambda chance: chance.choice(["gate", "hag", "ridge"]),
    "more": lambda chance: chance.choice(["", "-rc1", "-rc2"]),
    "base": lambda chance: f"{chance.randrange(1 << 28):07x}",
    "aside": lambda chance: chance.choice(["", "(ridge) ", f"(tag: v{chance.randrange(9)}) "]),
    "said": lambda chance: chance.choice(["Add soil bounds", "Tidy forms"]),
    "star": lambda chance: chance.choice(["*", "*/5", "15,45"]),
    "mark": lambda chance: chance.choice(["*", "*/5", "15,45"]),
    "command": lambda chance: chance.choice(["sync", "scan --all", "sum > out"]),
}


@pytest.mark.parametrize(
    ("written", "expected"),
    [
        (
            "{code}: -{d}..{d} °C (σ={d})",
            r"(?P<code>B\d{2}): (?P<number>-\d\.\d)\.\.(?P<number2>\d\.\d) °C \(σ=(?P<sigma>\d\.\d)\)",
        ),
        ("2026-05-{n}T06:10:{n}+0{b}00 x", r"(?P<at>\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}[+-]\d{4}) x"),
        ("2026-05-{n} 06:10:{n} -0{b}30 x", r"(?P<at>\d{4}-\d{2}-\d{2} \d{2}:\d{2}:\d{2} [+-]\d{4}) x"),
        # What can be no day is a version, in the name of a file too; what may be one is none.
        ("{word} 2.{d} up", r"(?P<word>gate|hag|ridge) (?P<version>\d\.\d\.\d) up"),
        ("soil-2.{d}{more}_{word}.tar.gz", r"soil-(?P<soil>\d\.\d\.\d(?:-rc\d)?)_(?P<word>gate|hag|ridge)\.tar\.gz"),
        ("soil 1{b}.1{b}.2026", r"soil (?P<soil>\d{2}\.\d{2}\.\d{4})"),
        ("T {d} °C fw {d}", r"T (?P<t>\d\.\d) °C fw (?P<fw>\d\.\d)"),
        (
            "* {base} {aside}{said} [{word}]",
            r"\* (?P<word>[0-9a-f]{7}) (?:\((?P<text>(?:ridge|tag)(?:: v\d)?)\) )?"
            r"(?P<text2>Add soil bounds|Tidy forms) \[(?P<word2>gate|hag|ridge)\]",
        ),
        ("late {n} ms: {word}", r"late (?P<late>\d{2}) ms: (?P<word>gate|hag|ridge)"),
        ("gate '{word} gate' at {n}", r"gate '(?P<gate>ridge gate|gate gate|hag gate)' at (?P<at>\d{2})"),
        ("ran soild-2.{b}.7{more} on {n}", r"ran soild-(?P<soild>\d\.\d\.\d(?:-rc\d)?) on (?P<on>\d{2})"),
        ("probe {code} sent {n}", r"probe (?P<probe>B\d{2}) sent (?P<sent>\d{2})"),
        ("port{b} up {n}", r"port(?P<port>[01]) up (?P<up>\d{2})"),
        (
            "{star} {mark} {command}",
            r"(?P<text>\*|\*/5|15,45) (?P<text2>\*|\*/5|15,45) (?P<text3>scan --all|sum > out|sync)",
        ),
    ],
)
def test_what_belongs_together_is_one_field(written: str, expected: str) -> None:
    def drawn(key: str) -> list[str]:
        return list(map(DRAWN[key], [random.Random(f"{key}{number}") for number in range(60)]))

    columns = {key: drawn(key) for key in DRAWN}
    found = propose([written.format_map({key: each[at] for key, each in columns.items()}) for at in range(60)])
    assert expected in {re.sub(r"\[\d-\d\](?=\\d)", r"\\d", each.expression) for each in found}


def test_words_that_a_mark_parts_alike_have_it_there() -> None:
    chance = random.Random(3)
    serials = [f"{chance.randrange(1 << 16):04X}-{chance.randrange(1 << 16):04X}" for _ in range(30)]
    assert Words("tight", "tight", None).spelled(serials) == "[0-9A-F]{4}-[0-9A-F]{4}"
    assert Words("tight", "tight", None).spelled([*serials, "0A1B"]).endswith("[0-9A-F-]+")


NAMES = {
    "ring KX48213 red kite|ring KX48214 wren|ring HV10020 song thrush|ring HV10021 dunnock": (
        r"ring (?P<ring>[A-Z]{2}[0-9]{5}) (?P<word>[a-z]+(?: [a-z]+)?)"
    ),
    "upper fen wet|holm dry|lower holm dry|weir wet|old quarry wet": r"(?P<word>[a-z]+(?: [a-z]+)?) (?P<word2>[a-z]+)",
    "gate: lost|gate: no answer|gate: low|gate: wet|gate: late|gate: back again|gate: lost|gate: wet": (
        r"gate: (?P<gate>[a-z]+(?: [a-z]+)?)"
    ),
    # What stands alone as well as behind another word is a value of its own.
    "7 fen wet|8 dry|9 wet|1 holm dry|2 quarry wet|3 weir dry|4 carr dry|5 dry|6 wet": (
        r"(?P<number>\d)(?: (?P<word>[a-z]+))? (?P<word2>dry|wet)"
    ),
    "box 3 2026-125|box 4 2026-301|box 12 2025-011|box 7 2026-300|box 9 2026-001": (
        r"box (?P<box>\d{1,2}) (?P<day>\d{4}-\d{3})"
    ),
    "at 06h10|at 14h05|at 22h59|at 00h00|at 09h30|at 23h59|at 07h00|at 12h12": r"at (?P<at>\d{2}h\d{2})",
}


@pytest.mark.parametrize("written", NAMES)
def test_names_of_one_word_or_two_are_one_value_and_so_are_days_of_a_year_and_hours(written: str) -> None:
    found = propose(written.split("|"))
    assert found[0].expression == NAMES[written]
    fields = [re.findall(r"\?P<(\w+)>", each.expression) for each in found]
    assert all(each == fields[0] for each in fields)


@pytest.mark.parametrize("text", ["box 8 2026-367", "box 8 2026-000", "box 8 1026-012"])
def test_what_is_no_day_of_a_year_keeps_others_from_being_such(text: str) -> None:
    days = [f"box {number} 2026-{number:03d}" for number in range(1, 12)]
    assert "(?P<day>" in propose(days)[0].expression
    assert "(?P<day>" not in propose([*days, text])[0].expression
    assert "(?P<day>" not in propose(days[:2])[0].expression
