"""What is proposed for columns and lines as the station has them: from three examples, and from twenty."""

from __future__ import annotations

import datetime as dt
import random
import re
from itertools import pairwise
from typing import TYPE_CHECKING

import pytest

from conftest import EXHAUSTIVE, TODAY
from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.relation import relation_of
from fieldstick.drafting.proposals import moments
from fieldstick.drafting.proposals.proposing import propose, with_beyond

if TYPE_CHECKING:
    from collections.abc import Callable

DATE = {"type": "date", "layout": "%d %B %Y"}


@pytest.mark.parametrize(
    ("texts", "expression"),
    [
        ("probe-25: n/a|probe-33: 16.2C|probe-51: -4.0C", r"probe-(?P<probe>\d{2}): (?:(?P<number>-?\d+\.\d)C|n/a)"),
        (
            "[ ] peat ridge|[x] fen scar|[ ] stile bank",
            r"\[(?: |(?P<word>[a-z]))\] (?P<word2>[a-z]+) (?P<word3>[a-z]+)",
        ),
        ("Q7T-FSS|4KF-VR6|VBW-4H6", "(?P<word>[0-9A-Z]{3})-(?P<word2>[0-9A-Z]{3})"),
        ("5afeafbf|5d07758d|a20626e0", "(?P<word>[0-9a-f]{8})"),
        ("da:a9:2e|cd:41:8d|b1:df:b3", "(?P<word>[0-9a-f]{2}):(?P<word2>[0-9a-f]{2}):(?P<word3>[0-9a-f]{2})"),
        ("4268;moss;0|2693;sike;0|1880;sike;0", r"(?P<number>\d{4});(?P<word>[a-z]+);0"),
        ("88d 08:54:08|4d 12:24:48|53d 13:20:33", r"(?P<number>\d+)d (?P<time>\d{2}:\d{2}:\d{2})"),
        ("1:25,000|1:10,000|1:50,000", r"1:(?P<number>\d{1,3}(?:,\d{3})*)"),
        ("fen\t4\t2.9|track\t24\t0.7|rigg\t14\t6.7", r"(?P<word>[a-z]+)\t(?P<number>\d+)\t(?P<number2>\d\.\d)"),
        ("gate opened by card 3fa81c", "gate opened by card (?P<card>[0-9a-f]+)"),
        # So few say little of how many letters or digits others have, or of which words there are.
        ("level INFO 120|level FAIL 340|level INFO 915", r"level (?P<level>[A-Z]+) (?P<number>\d{1,3})"),
        ("3x vole|5x mole|1x hare|2x vole", r"(?P<number>\d)x (?P<word>[a-z]+)"),
        ("B07|C11,A42,X93|D64|A59,B22,T31", r"(?P<list>[A-Z][0-9]{2}(?:,[A-Z][0-9]{2})*)"),
        ("gate (ajar)|gate (broken)|gate (ajar)|gate (broken)|gate (ajar)", r"gate \((?P<gate>[a-z]+)\)"),
        ("Åsa Tårn|Núria Brü|Œdon Møss", r"(?P<word>[^\W\d_]+) (?P<word2>[A-Z][^\W\d_]+)"),
    ],
)
def test_three_examples_tell_what_others_are_like(texts: str, expression: str) -> None:
    assert propose(texts.split("|"))[0].expression == expression


@pytest.mark.parametrize(
    ("texts", "expression", "table"),
    [
        ("7 June 2026|16 July 2026|7 May 2026", r"(?P<day>\d{1,2} [A-Z][a-z]+ \d{4})", DATE),
        ("7 Jun 2026|16 Jul 2026", r"(?P<day>\d{1,2} [A-Z][a-z]{2} \d{4})", {**DATE, "layout": "%d %b %Y"}),
        ("23-Oct-26|15-Oct-26", r"(?P<day>\d{1,2}-[A-Z][a-z]{2}-\d{2})", {"type": "date", "layout": "%d-%b-%y"}),
        ("04.06.26|31.12.26", r"(?P<day>\d{2}\.\d{2}\.\d{2})", {"type": "date", "layout": "%d.%m.%y"}),
        ("06:10:22.125|23:59:01.007", r"(?P<time>\d{2}:\d{2}:\d{2}\.\d{3})", {"type": "time"}),
        ("7:02|16:40", r"(?P<time>\d{1,2}:\d{2})", {"type": "time", "layout": "%H:%M"}),
        (
            "2026-05-04_10-22-31|2026-11-30_23-05-00",
            r"(?P<at>\d{4}-\d{2}-\d{2}_\d{2}-\d{2}-\d{2})",
            {"type": "timestamp", "layout": "%Y-%m-%d_%H-%M-%S"},
        ),
    ],
)
def test_dates_and_times_of_more_layouts_are_typed(texts: str, expression: str, table: dict[str, str]) -> None:
    first = propose(texts.split("|"))[0]
    assert first.expression == expression and list(first.fields.values()) == [table]


@pytest.mark.parametrize("layout", random.Random(TODAY).sample(moments.LAYOUTS, 400 if EXHAUSTIVE else 12))
def test_a_moment_of_any_layout_is_one_field_that_another_fits(layout: str) -> None:
    chance = random.Random(layout)
    first, second = (
        [
            dt.datetime(2024, 1, 1, tzinfo=dt.UTC)
            + dt.timedelta(seconds=chance.randrange(900 * 86400), microseconds=chance.randrange(1, 10**6))
            for _ in range(12)
        ]
        for _ in "ab"
    )
    written = chance.choice([layout, layout.replace("%A", "%a").replace("%B", "%b")])
    found = propose([each.strftime(written) for each in first])[0]
    assert re.fullmatch(r"\(\?P<(at|day)>[^()]*\)", found.expression), found.expression
    assert all(found.fits(each.strftime(written)) for each in second)
    # Without a year it is no value of a type.
    assert len(found.fields) == ("%y" in layout.lower())
    if found.fields:
        assert not found.fits(dt.datetime(2026, 5, 30, 6, 10, 59, 7, dt.UTC).strftime(written).replace("30", "39"))


@pytest.mark.parametrize(
    ("texts", "expression"),
    [
        # What may be a day by chance is none where another cannot be one.
        ("04/05/26|12/44/07|11/03/25", r"(?P<number>\d{2})/(?P<number2>\d{2})/(?P<number3>\d{2})"),
        ("12.11.10|12.11.9|12.10.31", r"(?P<version>\d{1,2}\.\d{1,2}\.\d{1,2})"),
        ("20260504|20261131|20260230", r"(?P<number>\d{8})"),
        ("06:10-07:45|22:00-23:15|11:30-12:00", r"(?P<time>\d{2}:\d{2})-(?P<time2>\d{2}:\d{2})"),
        ("T+00:10:04|T-01:20:55|T+02:00:31|T-00:10:00", r"T(?P<value>\+|-)(?P<time>\d{2}:\d{2}:\d{2})"),
        (
            "node=fen-1 volt=11.5|node=hag-2 volt=9.8|node=fen-2 volt=12.1|node=carr-1 volt=10.0|node=hag-4 volt=11.9",
            r"node=(?P<node>[a-z]+-\d) volt=(?P<volt>\d{1,2}\.\d)",
        ),
        ("bill=12-14 g|bill=11-13 g|bill=12-15 g", r"bill=(?P<bill>\d{2})-(?P<number>\d{2}) g"),
        (
            "|".join(["[main] up", "[worker-1] up", "[main] down", "[worker-2] up", "[worker-2] down"] * 4),
            r"\[(?P<word>main|worker-1|worker-2)\] (?P<word2>down|up)",
        ),
        # The same few things said again and again are one of these; signs say something, and a unit does not.
        (
            "|".join(f"<{who}> {said}" for who in ("tam", "orla", "ines") for said in ("ok", "on my way", "no net")),
            r"<(?P<word>ines|orla|tam)> (?P<text>no net|ok|on my way)",
        ),
        (
            "|".join(f"{'<>='[number % 3]} {number}" for number in range(1, 40, 2)),
            r"(?P<sign>[<=>]) (?P<number>\d{1,2})",
        ),
        ("B07 4.5°C ok|C11 12.0°C low|A02 3.1°C ok", r"(?P<word>[A-Z]\d{2}) (?P<number>\d+\.\d)°C (?P<word2>[a-z]+)"),
        ("in read,|in open_gate,|in store,|in main,|in shut_gate,|in read,", r"in (?P<in>[a-z_]+),"),
        ("1st gate|12th gate|4th gate|5th gate", r"(?P<number>\d{1,2}(?:nd|rd|st|th)) gate"),
    ],
)
def test_what_only_looks_like_a_moment_is_told_as_what_it_is(texts: str, expression: str) -> None:
    assert propose(texts.split("|"))[0].expression == expression


def test_one_of_a_few_words_is_one_field_however_often_each_comes() -> None:
    states = {"l": "lost", "o": "ok", "w": "low", "e": "wet"}
    texts = [
        f"id={at * 37 % 900} state={states[each]} t={at * 7 % 30 - 9}.{at % 10}"
        for at, each in enumerate("lwollooloollwooolleew")
    ]
    assert " state=(?P<state>lost|low|ok|wet) t=" in propose(texts)[0].expression


def test_letters_of_a_few_and_the_digits_behind_them_are_one_value() -> None:
    rings = [f"ring {'KR'[at % 2]}X{number} lost" for at, number in enumerate(range(10007, 99999, 4321))]
    assert propose(rings)[0].expression == r"ring (?P<ring>(?:KX|RX)\d{5}) lost"


def test_dates_of_two_layouts_are_one_field_and_what_is_beyond_is_a_date() -> None:
    first = propose(["2026-05-04", "4.5.2026", "2026-11-30", "30.11.2026"], name="Date")[0]
    assert first.expression == r"(?P<date>\d{4}-\d{2}-\d{2}|\d{1,2}\.\d{1,2}\.\d{4})" and not first.fields
    days = [f"2026-05-{day:02}" for day in (4, 7, 11, 12, 19, 20, 23, 30)]
    (beyond,) = (each.beyond for each in with_beyond(propose(days)[:1], days))
    assert beyond not in days and beyond is not None and dt.date.fromisoformat(beyond)


def _readings(chance: random.Random) -> str:
    return f"probe-{chance.randrange(1, 40):02}_2026-{chance.randrange(1, 13):02}.csv"


PLACES = ("ridge", "fen", "mire", "hag", "culvert", "sike", "beck", "tarn", "moss", "stile", "scar", "knoll", "gully")


def _calls(chance: random.Random) -> str:
    return f"{chance.choice(PLACES)}({', '.join(str(chance.randrange(1, 90)) for _ in range(chance.randrange(1, 6)))})"


def _names(chance: random.Random) -> str:
    return f"{chance.choice(PLACES).capitalize()} {chance.choice(PLACES).capitalize()}"


def _levels(chance: random.Random) -> str:
    return f"{chance.uniform(0.2, 99):.1f} mm"


@pytest.mark.parametrize(
    ("draw", "near"),
    [
        (_readings, "probe-7_2026-05.csv|probe-07-2026-05.csv|probe-07_2026-5.csv|probe-07_2026-05"),
        (_calls, "fen()|fen(3|fen(3,)|fen(3 4)|(3)|fen(3, x)"),
        (_names, "Fen|fen ridge|Fen, Ridge|Fen  Ridge|Fen Ridge 2"),
        (_levels, "3.10 mm|3 mm|3.1|3,1 mm|-3.1 mm|3.1mm"),
    ],
)
def test_twenty_examples_tell_of_others_and_keep_out_what_is_near(
    draw: Callable[[random.Random], str], near: str
) -> None:
    for seed in range(8):
        chance = random.Random(seed)
        expression = propose([draw(chance) for _ in range(20)])[0].expression
        unseen = [draw(chance) for _ in range(100)]
        assert sum(re.fullmatch(expression, text) is not None for text in unseen) >= 97, expression
        assert not [text for text in near.split("|") if re.fullmatch(expression, text)], expression


def test_no_level_is_shown_that_takes_what_the_one_before_it_does() -> None:
    for values in (["ja", "nein", "ja"], ["in", "out", "out"], ["B07", "A31"]):
        found = [Reading(each.expression) for each in propose(values * 30)]
        assert not [1 for one, other in pairwise(found) if relation_of(one, other).relation == "same"]
