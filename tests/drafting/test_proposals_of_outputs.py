"""What is proposed for what programs print at the station: listings, tables with headings, texts with odd ones."""

from __future__ import annotations

import datetime as dt
import random
import re
from typing import TYPE_CHECKING

import pytest

from fieldstick.drafting.proposals.beginnings import LONGEST, with_anything_after
from fieldstick.drafting.proposals.odd_ones import odd_ones
from fieldstick.drafting.proposals.proposing import propose

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.drafting.proposals.proposing import Proposed

LINES = 60
WORDS = [
    "ridge",
    "fen",
    "tarn",
    "mire",
    "moss",
    "peat",
    "hag",
    "stile",
    "beck",
    "scar",
    "knoll",
    "gully",
    "sike",
    "cairn",
    "wall",
    "fence",
]


def _drawn(draw: Callable[[random.Random, dt.datetime], str], seed: int = 1) -> list[str]:
    chance = random.Random(seed)
    moments = [dt.datetime(2026, 5, 1) + dt.timedelta(minutes=chance.randrange(40_000)) for _ in range(LINES)]
    return [draw(chance, each) for each in moments]


def _first(texts: Sequence[str]) -> Proposed:
    return propose(texts)[0]


def _nanoseconds(r: random.Random, at: dt.datetime) -> str:
    return f"{at:%Y-%m-%dT%H:%M:%S}.{r.randrange(10**9):09d}Z probe {r.choice(WORDS)} read"


def _bare_fraction(r: random.Random, at: dt.datetime) -> str:
    """Zeros at the end are left out, and so is the point where nothing is left."""
    fraction = r.choice(["", ".5", ".25", ".125", ".0625"])
    return f"{at:%Y-%m-%dT%H:%M:%S}{fraction}Z probe {r.choice(WORDS)} read"


def _offset_apart(r: random.Random, at: dt.datetime) -> str:
    return f"{at:%Y-%m-%d %H:%M:%S} +0{r.randrange(2)}00 gate {r.choice(WORDS)}"


@pytest.mark.parametrize(
    ("draw", "field", "table"),
    [
        (_nanoseconds, r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}\.\d{9}Z", {"type": "timestamp"}),
        (_bare_fraction, r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}(?:\.\d{1,9})?Z", {"type": "timestamp"}),
        (
            _offset_apart,
            r"\d{4}-\d{2}-\d{2} \d{2}:\d{2}:\d{2} [+-]\d{4}",
            {"type": "timestamp", "layout": "%Y-%m-%d %H:%M:%S %z"},
        ),
    ],
)
def test_a_moment_is_one_field_whatever_its_fraction(
    draw: Callable[[random.Random, dt.datetime], str], field: str, table: dict[str, str]
) -> None:
    first = _first(_drawn(draw))
    assert first.expression.startswith(f"(?P<at>{field}) ") and first.fields["at"] == table
    assert all(map(first.fits, _drawn(draw, seed=2)))


def _listing(r: random.Random, at: dt.datetime) -> str:
    when = f"{at:%b} {at.day:2d} " + (f"{at:%H:%M}" if r.random() < 0.7 else " 2025")
    mode = r.choice(["-rw-r--r--", "drwxr-xr-x", "-rwxr-xr-x"])
    size, name = r.randrange(10, 99_000), f"{r.choice(WORDS)}-{r.randrange(99)}.raw"
    return f"{mode} {r.randrange(1, 4)} warden field {size:>6} {when} {name}"


def test_a_listing_of_files_is_told_by_its_columns() -> None:
    first = _first(_drawn(_listing))
    found = re.compile(first.expression).fullmatch("-rw-rwSr-- 1 warden field   5120 Jun  7  2025 sundew-4.raw")
    assert found is not None
    assert (found["mode"], found["at"]) == ("-rw-rwSr--", "Jun  7  2025")
    assert not first.fits("-rw-rwqr-- 1 warden field   5120 Jun  7  2025 fen-4.raw")


def _process(r: random.Random, at: dt.datetime) -> str:
    user = r.choice(["warden", "logger"])
    return f"{user:8} {r.randrange(1, 9999):>5} {r.random() * 9:4.1f} {at:%H:%M} {r.choice(WORDS)}d"


def _instrument(r: random.Random, _: dt.datetime) -> str:
    return f"{r.choice(WORDS)}-{r.choice(WORDS)}=={r.randrange(30)}.{r.randrange(20)}" + r.choice(
        ["", ".1", ".0", ".12"]
    )


@pytest.mark.parametrize(
    ("draw", "odd", "expression"),
    [
        (
            _process,
            ["USER       PID  CPU START COMMAND"],
            r"(?P<word>[a-z]+) +(?P<number>\d{1,4}) +(?P<number2>\d\.\d) (?P<time>\d{2}:\d{2}) (?P<word2>[a-z]+)",
        ),
        (
            _instrument,
            ["# instruments of the hut", "-e ./fen"],
            r"(?P<word>[a-z]+)-(?P<word2>[a-z]+)==(?P<version>\d+\.\d+(?:\.\d+)?)",
        ),
    ],
)
def test_a_heading_or_a_comment_changes_nothing_for_the_others(
    draw: Callable[[random.Random, dt.datetime], str], odd: list[str], expression: str
) -> None:
    texts = _drawn(draw)
    first = _first([*odd[:1], *texts, *odd[1:]])
    names = re.compile(first.expression).groupindex
    assert list(names) == list(re.compile(expression).groupindex)
    assert first.fit == len(set(texts)) and {*first.left_out} == {*odd}
    assert all(map(re.compile(expression).fullmatch, texts))


def test_odd_is_only_what_lacks_what_all_others_have() -> None:
    rows = [f"B{number:02d} {number}.5" for number in range(60)]
    assert odd_ones(["plot value", *rows]) == {"plot value"}
    assert odd_ones(["plot value", *rows[:8]]) == {"plot value"}
    # Not first, it may be any row of few.
    assert not odd_ones([*rows[:8], "plot value"])
    assert not odd_ones(rows)
    # What some have and others lack is how they are.
    assert not odd_ones([*rows, *(f"B{number:02d} none" for number in range(9))])


def _cipher(r: random.Random, _: dt.datetime) -> str:
    plot, kind, by = r.choice(WORDS), r.choice(["soil", "air", "none"]), r.choice(["Orla", "Tam", "Ines"])
    return f"{plot.upper():8} Kind={kind:5} By={by:5} Box={r.choice(['A', 'B', 'CD'])}({r.randrange(100, 300)})"


def _moved(r: random.Random, _: dt.datetime) -> str:
    file = f"{r.choice(WORDS)}/{r.choice(WORDS)}.{r.choice(['csv', 'log'])}"
    return f"{r.choice(['-', r.randrange(90)])}\t{r.randrange(90)}\t{r.choice(['raw/', ''])}{file}"


def _noted(r: random.Random, _: dt.datetime) -> str:
    said = " ".join(r.choices(WORDS, k=r.randrange(3, 9)))
    return f"{r.choice(WORDS)}:{r.randrange(1, 400)}: N{r.randrange(100, 999)} {said}"


def _store(r: random.Random, _: dt.datetime) -> str:
    return f"{r.randrange(1 << 20, 1 << 28):016x} {r.choice('TBW')} {r.choice(WORDS)}_{r.choice(WORDS)}"


def _blamed(r: random.Random, at: dt.datetime) -> str:
    by = f"field hand {at:%Y-%m-%d %H:%M:%S} {r.randrange(300):>3}"
    return f"{r.randrange(16**7):07x} ({by}) {r.choice(WORDS)} = {r.choice(WORDS)}"


def _since_start(r: random.Random, _: dt.datetime) -> str:
    rest = r.choice(["gate(3) = 0", "open {plot, B07} soon", "wet", "trap [4]: empty, door <open>"])
    return f"     0.00{r.randrange(10_000):04d} {rest} {r.choice(WORDS)}"


def _lettered(r: random.Random, at: dt.datetime) -> str:
    return f"{r.choice('EIW')}{at:%m%d %H:%M:%S.%f} {r.choice(WORDS)}.c:{r.randrange(900)}] {_prose(r)}"


def _hops(r: random.Random, _: dt.datetime) -> str:
    address = f"10.0.{r.randrange(9)}.{r.randrange(200)}"
    return f"{r.randrange(1, 30):2d}  {r.choice(WORDS)} ({address})  {r.random() * 30:.3f} ms"


@pytest.mark.parametrize(
    ("draw", "text", "values"),
    [
        (_lettered, "W0613 06:10:00.125000 fen.c:7] no hare", {"W0613", "06:10:00.125000", "7", "no hare"}),
        (_hops, " 3  fen (10.0.2.7)  0.125 ms", {"3", "fen", "10.0.2.7", "0.125"}),
        (_cipher, "FEN      Kind=soil  By=Orla  Box=CD(120)", {"soil", "Orla", "CD"}),
        (_moved, "12\t7\traw/fen/tarn.csv", {"12", "7"}),
        (_noted, "fen:12: N404 no hare in any fen trap", {"N404", "no hare in any fen trap"}),
        (_store, "00000000001c3b50 T fen_tarn", {"00000000001c3b50"}),
        (_blamed, "3b50fe1 (field hand 2026-05-04 06:10:00  12) fen = tarn", {"2026-05-04 06:10:00", "12"}),
        (_since_start, "     0.000583 gate(3) = 0 fen", {"0.000583"}),
    ],
)
def test_each_value_is_a_field_of_its_own(
    draw: Callable[[random.Random, dt.datetime], str], text: str, values: set[str]
) -> None:
    first = _first(_drawn(draw))
    found = re.compile(first.expression).fullmatch(text)
    assert found is not None, first.expression
    assert values <= {*found.groupdict().values()}, first.expression


PROSE = r"(?P<text>[a-z]+(?: [a-z]+)*)"


def _prose(r: random.Random) -> str:
    return " ".join(r.choices(WORDS, k=r.randrange(1, 8)))


def _port(r: random.Random) -> str:
    tabs = "\t" * r.randrange(1, 3)
    return f"{r.choice(WORDS)}-{r.randrange(9)}{tabs}{r.randrange(99)}/{r.choice(['wet', 'dry'])}"


@pytest.mark.parametrize(
    ("draw", "expression"),
    [
        (lambda r: f"{r.randrange(1, 9000):7d} {_prose(r)}", r" +(?P<number>\d+) " + PROSE),
        (lambda r: f"{r.random() * 100:5.1f}% {_prose(r)}", r" +(?P<number>\d{1,2}\.\d)% " + PROSE),
        (lambda r: f"{r.randrange(1, 99)}: {_prose(r)}", r"(?P<number>\d{1,2}): " + PROSE),
        (lambda r: f"{_prose(r)} ({r.randrange(1, 99)})", PROSE + r" \((?P<number>\d{1,2})\)"),
        (lambda r: f"{_prose(r)}\t{r.randrange(1, 99)}", PROSE + r"\t(?P<number>\d{1,2})"),
        (lambda r: f"{r.choice('ABC')}{r.randrange(10, 99)} {_prose(r)}", r"(?P<word>[A-C][0-9]{2}) " + PROSE),
        (
            lambda r: f"[{r.choice(['wet', 'dry'])}] {_prose(r)} [{r.randrange(1, 9)}]",
            rf"\[(?P<word>dry|wet)\] {PROSE} \[(?P<number>[1-8])\]",
        ),
        (
            lambda r: f"{r.randrange(16**7):07x} {_prose(r)}{r.choice(',;:')} {_prose(r)}",
            r"(?P<word>[0-9a-f]{7}) (?P<text>\S.*)",
        ),
        (
            lambda r: _port(r) + r.choice(["", f"\t# {_prose(r)}; {_prose(r)}"]),
            r"(?P<word>[a-z]+-\d)\s+(?P<number>\d{1,2})/(?P<word2>dry|wet)(?:\s+(?P<text>\S.*))?",
        ),
    ],
)
def test_what_is_said_beside_other_pieces_is_one_field(draw: Callable[[random.Random], str], expression: str) -> None:
    texts = _drawn(lambda r, _: draw(r))
    first = _first(texts)
    assert all(map(re.compile(expression).fullmatch, texts))
    assert list(re.compile(first.expression).groupindex) == list(re.compile(expression).groupindex), first.expression
    others = _drawn(lambda r, _: draw(r), seed=2)
    assert sum(map(first.fits, others)) >= len(others) - 3
    read = [re.compile(each).fullmatch(others[0]) for each in (first.expression, expression)]
    assert read[0] is not None and read[1] is not None and read[0].groupdict() == read[1].groupdict()


@pytest.mark.parametrize("mark", ["_", "-", "."])
@pytest.mark.parametrize(
    ("layout", "name"),
    [
        ("%Y%m%d", "day"),
        ("%Y-%m-%d", "day"),
        ("%Y_%m_%d", "day"),
        ("%Y%m%d%H%M", "at"),
        ("%Y%m%d_%H%M%S", "at"),
        ("%Y%m%d-%H%M%S", "at"),
        ("%Y-%m-%dT%H%M%S", "at"),
        ("%Y-%m-%d_%H-%M-%S", "at"),
    ],
)
def test_the_moment_in_the_name_of_a_file_is_a_field(layout: str, name: str, mark: str) -> None:
    chance = random.Random(f"{layout}{mark}")
    moments = [dt.datetime(2026, 1, 1) + dt.timedelta(seconds=chance.randrange(28_000_000)) for _ in range(20)]
    before = _first([f"{chance.choice(WORDS)}{mark}{each.strftime(layout)}.raw" for each in moments])
    behind = _first([f"{each.strftime(layout)}{mark}{chance.choice(WORDS)}.raw" for each in moments])
    for first, text in ((before, f"fen{mark}%s.raw"), (behind, f"%s{mark}fen.raw")):
        stamp = "2026-11-03T04:05:06" if name == "at" else "2026-11-03"
        written = dt.datetime.fromisoformat(stamp).strftime(layout)
        found = re.compile(first.expression).fullmatch(text % written)
        assert found is not None and found[name] == written, first.expression
        kind = "timestamp" if name == "at" else "date"
        assert first.fields[name]["type"] == kind


def test_numbers_in_names_that_are_no_moments_are_numbers() -> None:
    chance = random.Random(4)
    names = [f"cam{chance.randrange(9)}_{chance.randrange(10_000_000, 99_999_999)}.raw" for _ in range(20)]
    assert not {"day", "at"} & {*_first(names).fields}
    assert not {"day", "at"} & {*_first([f"LM-2026-{number:02d}-{number:02d}" for number in range(40, 60)]).fields}


def test_a_word_that_begins_with_a_digit_names_nothing_and_one_that_stands_twice_no_number_before_it() -> None:
    lines = [f"0000000006e96a8c {number} root root {number * 37 + 400}" for number in range(11, 40)]
    [number, root] = re.compile(propose(lines)[0].expression).groupindex
    assert (number, root) == ("number", "root")


@pytest.mark.parametrize(
    ("ends", "more"), [("(?P<set>.+)", ""), ("(?P<set>.*)", ""), (r"(?P<set>\.+)", ".*"), ("b+", ".*")]
)
def test_what_ends_in_anything_takes_the_rest_of_long_texts(ends: str, more: str) -> None:
    assert with_anything_after(f"gate {ends}", ["gate " + "b" * LONGEST]) == f"gate {ends}{more}"


def remarks(count: int) -> list[str]:
    chance = random.Random(11)
    whos = ["the north gate", "a kite", "probe B07", "two foxes", "the fence (upper part)", "somebody", "water"]
    whats = ["open again", "broken; needs wire", "near the hide", "at 6.10, as before", "wet, muddy", "low: 12 cm"]
    more = ["", "", " and gone by noon", ", 50 m off the path", " but was north-east of plot 4"]
    return [
        f"{chance.choice(whos)} {chance.choice(['was', 'seems', 'lay'])} {chance.choice(whats)}{chance.choice(more)}"
        for _ in range(count)
    ]


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("{n} {text}", r"(?P<number>\d{2}) (?P<text>\S.*)"),
        ("{by}: {text}", r"(?P<word>elm|haug|venn): (?P<text>\S.*)"),
        ("{text} in {n} ms", r"(?P<text>.+) in (?P<in>\d{2}) ms"),
        ("{text} ({by})", r"(?P<text>.+) \((?P<word>haug|venn|elm)\)"),
        (
            "0{h}:{n} relay: {text} (took {n}s)",
            r"(?P<time>\d{2}:\d{2}) relay: (?P<relay>\S.*) \(took (?P<took>\d{2})s\)",
        ),
        ("{h} May: {text} ({by})", r"(?P<day>\d{1,2} [A-Z][a-z]{2}): (?P<text>\S.*) \((?P<word>elm|haug|venn)\)"),
        ("plot {n} {text} -- {by}", r"plot (?P<plot>\d{2}) (?P<text>\S.*) -- (?P<word>elm|haug|venn)"),
    ],
)
def test_prose_is_one_text_and_what_stands_before_and_behind_it_is_told(line: str, expected: str) -> None:
    chance = random.Random(2)
    by = ["elm", "haug", "venn"]
    lines = [
        line.format(text=text, by=chance.choice(by), n=chance.randrange(10, 60), h=chance.randrange(1, 9))
        for text in remarks(30)
    ]
    first = propose(lines)[0]
    assert first.fit == len(set(lines))
    assert first.expression == expected
