"""Expressions are proposed no wider than the examples support, and what they must keep out stays out."""

from __future__ import annotations

import datetime as dt
import random
import re
from typing import TYPE_CHECKING

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.danger import is_doubling
from fieldstick.analysis.hazards import hazards
from fieldstick.analysis.relation import relation_of
from fieldstick.drafting.proposals import taking_texts
from fieldstick.drafting.proposals.choosing import likeliest
from fieldstick.drafting.proposals.cutting import CUTS, tokens_of
from fieldstick.drafting.proposals.naming import pattern_name
from fieldstick.drafting.proposals.polishing import polished, without_idle
from fieldstick.drafting.proposals.proposing import propose, samples_for, with_beyond
from fieldstick.drafting.proposals.taking_texts import taken_by, takes
from fieldstick.drafting.proposals.weighing import Written
from fieldstick.suites.fieldtypes import FieldSpec
from fieldstick.syntax.parser import parse

if TYPE_CHECKING:
    from collections.abc import Callable

PROBES = ["probe=B07 moisture=31.4%", "probe=C12 moisture=8.0%", "probe=F33 moisture=12.5%", "probe=A10 moisture=0.4%"]
PERMITS = ["LMF-S-004417", "LMF-B-120031/3", "LMF-P-000001/12", "LMF-S-000417", "LMF-P-777001"]
GATES = [f"{stamp} gate={gate} {way}" for stamp in ("2026-05-04T06:10:00Z", "2026-05-05T18:45:09Z")
         for gate in ("north", "quarry") for way in ("in", "out")]  # fmt: skip


@pytest.mark.parametrize(
    ("texts", "expression", "fields"),
    [
        (PROBES, r"probe=(?P<probe>[A-Z]\d{2}) moisture=(?P<moisture>\d{1,2}\.\d)%", {"moisture": {"type": "decimal"}}),
        (
            PERMITS,
            r"LMF-(?P<lmf>[A-Z])-(?P<number>\d{6})(?:/(?P<number2>\d+))?",
            {"number2": {"type": "integer"}},
        ),
        (
            GATES,
            r"(?P<at>\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}Z) gate=(?P<gate>north|quarry) (?P<word>in|out)",
            {"at": {"type": "timestamp"}},
        ),
        (
            ["4.5.2026", "31.12.2025"],
            r"(?P<day>\d{1,2}\.\d{1,2}\.\d{4})",
            {"day": {"type": "date", "layout": "%d.%m.%Y"}},
        ),
        (["12,5", "7,25", "-3,0"], r"(?P<number>-?\d+,\d+)", {"number": {"type": "decimal", "decimal_mark": ","}}),
        (["Fen", "Hag End", "Upper Whin Carr"], r"(?P<word>[A-Z][a-z]+)(?: [A-Z][a-z]+)*", {}),
    ],
)
def test_what_is_shared_stays_and_what_varies_is_a_typed_field(
    texts: list[str], expression: str, fields: dict[str, dict[str, str]]
) -> None:
    first = propose(texts)[0]
    assert first.fields == fields and first.fit == len(texts)
    wanted = Reading(expression)
    assert relation_of(Reading(first.expression), wanted).relation in ("same", "narrower"), first.expression
    assert set(re.compile(first.expression).groupindex) == set(re.compile(expression).groupindex)


@pytest.mark.parametrize(
    ("written", "found"),
    [
        (lambda c: f"10.4.{c.randrange(8)}.{c.randrange(255)}", r"\d{1,3}(?:\.\d{1,3}){3}"),
        (lambda c: f"10.4.{c.randrange(8)}.9:{c.randrange(80, 9000)}", r"\d{1,3}(?:\.\d{1,3}){3}:\d{1,5}"),
        (lambda c: ":".join(f"{c.randrange(256):02x}" for _ in range(6)), "[0-9a-f]{2}(?::[0-9a-f]{2}){5}"),
        (lambda c: ":".join(f"{c.randrange(1, 65536):x}" for _ in range(8)), "[0-9a-f]{1,4}(?::[0-9a-f]{1,4}){7}"),
        (
            lambda c: f"fd00:{c.randrange(9, 65536):x}::{c.choice(('b7', '7:1c', '9'))}",
            "[0-9a-f]{1,4}(?:::?[0-9a-f]{1,4}){1,7}",
        ),
    ],
)
def test_an_address_is_one_field(written: Callable[[random.Random], str], found: str) -> None:
    chance = random.Random(3)
    lines = [f"lease {written(chance)} for {chance.randrange(100, 999)} s" for _ in range(30)]
    assert propose(lines)[0].expression.startswith(rf"lease (?P<lease>{found}) for ")
    alone = propose([written(chance) for _ in range(30)])[0].expression
    assert alone == f"(?P<address>{found})"


@pytest.mark.parametrize(
    ("written", "expression"),
    [
        (lambda n, e: f"{n}°{n:02d}′N {e}°{e:02d}′W", r"(?P<lat>\d{2}°[0-5]\d′N) (?P<lon>\d°[0-5]\d′W)"),
        (
            lambda n, e: f"trap B{e} at {n}°{n:02d}′{e:02d}.5″N, {e}°7′{'EW'[n % 2]} (410 m)",
            r"trap (?P<trap>B\d) at (?P<lat>\d{2}°[0-5]\d′[0-5]\d\.\d″N), (?P<lon>\d°[0-5]?\d′[EW]) \(410 m\)",
        ),
        (
            lambda n, e: f"{n}° {n}' " + f'{n}.{e}" ' * (n % 3 > 0) + "N",
            r"""(?P<lat>\d{2}° [0-5]\d'(?: [0-5]\d\.\d")? N)""",
        ),
        (lambda n, e: f"{n + e / 7:.4f}° N, 1{e}.{n}° W", r"(?P<lat>\d{2}\.\d{4}° N), (?P<lon>\d{2}\.\d{2}° W)"),
        (lambda n, e: f"soil {n}.{e}°C", r"soil (?P<soil>\d{1,2}\.\d)°C"),
        (lambda n, e: f"ringed 2026-W{n - 10}-{e % 7 + 1}", r"ringed (?P<ringed>\d{4}-W\d{2}-[1-7])"),
    ],
)
def test_how_far_north_or_east_something_lies_is_one_field_and_so_is_a_day_of_a_week(
    written: Callable[[int, int], str], expression: str
) -> None:
    chance = random.Random(5)
    texts = list(dict.fromkeys(written(chance.randrange(20, 60), chance.randrange(1, 10)) for _ in range(30)))
    first = propose(texts)[0]
    assert (first.expression, first.fit) == (expression, len(texts))
    assert not takes(first.expression, texts[0].replace("′", "°").replace("'", "°").replace("W", "X").replace("C", "F"))
    few = propose(["54°38′N 2°21′W", "54°09′N 12°02′W", "53°59′N 1°58′W"])[0].expression
    assert few == r"(?P<lat>\d{1,2}°[0-5]\d′N) (?P<lon>\d{1,3}°[0-5]\d′W)"
    assert not takes(few, "54°72′N 2°21′W")


@pytest.mark.parametrize(
    ("head", "signs", "expression"),
    [
        ("T", "+-", r"T(?P<sign>[+-])(?P<t>\d{1,2}[dh])"),
        ("pH ", "<>", r"pH (?P<sign>[<>])(?P<ph>\d{1,2}[dh])"),
        ("lux=", "<~", r"lux=(?P<sign>[<~])(?P<lux>\d{1,2}[dh])"),
    ],
)
def test_a_sign_is_a_field_of_its_own_and_what_it_says_something_of_has_the_name(
    head: str, signs: str, expression: str
) -> None:
    chance = random.Random(6)
    texts = [f"{head}{chance.choice(signs)}{chance.randrange(1, 60)}{chance.choice('dh')}" for _ in range(24)]
    assert propose(texts)[0].expression == expression


def test_words_with_hyphens_are_listed_like_words_and_one_letter_behind_a_number_is_one() -> None:
    chance = random.Random(4)
    days = ["Mo-Fr"] * 15 + ["Sa"] * 7 + ["Mo-Su"] * 2
    texts = [
        f"{day} {chance.randrange(6, 10):02d}:00, fig. {chance.randrange(1, 10)}{chance.choice(('', 'a', 'b'))}"
        for day in days
    ]
    first = propose(texts)[0].expression
    assert first.startswith(r"(?P<word>Mo-Fr|Mo-Su|Sa) (?P<time>\d{2}:\d{2}), fig\. ")
    assert takes(first, "Sa 07:00, fig. 9b") and not takes(first, "Sa 07:00, fig. 9ab")


def test_a_form_that_is_always_the_same_stays_by_itself() -> None:
    chance = random.Random(2)
    names = ["Orla Venn", "Tam Brindle", "Ines Corrie"]
    texts = [f"opened by {chance.choice(names)} with card …{chance.randrange(1000, 9999)}" for _ in range(40)]
    texts += [f"set point {chance.randrange(4, 19)}.{number % 10} °C (was 18.5)" for number in range(40)]
    texts += [f"gust {chance.uniform(2, 40):.1f} m/s from {chance.randrange(100, 360)}°" for _ in range(40)]
    first = propose([*texts, *["self-test ok"] * 40])[0].expression
    assert all(takes(first, each) for each in (*texts, "self-test ok"))
    assert not any(takes(first, each) for each in ("self-test by", "opened by ok", "opened-by Orla", "self test ok"))


def test_a_number_that_is_padded_may_have_blanks_before_it() -> None:
    lines = [f"kernel: [{number * 1725.253:10.3f}] probe {number % 9} found" for number in range(1, 60)]
    first = propose(lines)[0].expression
    assert r"\[ *(?P<kernel>\d" in first and all(takes(first, each) for each in lines)


def test_what_is_there_so_often_that_there_is_no_more_is_listed_and_called_after_its_column() -> None:
    gates = ["north", "quarry", "quarry gate"] * 6
    first, second = propose(gates, name="Which gate")[:2]
    assert first.expression == "(?P<which_gate>quarry gate|quarry|north)" and re.fullmatch(second.expression, "north")
    once = propose([*gates, "hag"], name="Which gate")[0]
    assert "|hag" not in once.expression and re.fullmatch(once.expression, "hag")


@pytest.mark.parametrize(
    ("values", "spelled"),
    [
        (["access only", "ringing", "sampling"], "(?P<text>access only|ringing|sampling)"),
        (["ad", "juv", "2y+"], r"(?P<word>2y\+|juv|ad)"),
        (["{n}.5C", "{n}.3mV", "{n}.1%"], r"(?P<number2>\d{1,2}\.\d)(?P<word>mV|%|C)"),
        (["a{n}.csv", "b{n}.csv.gz", "c{n}.tif"], r"(?P<word>[a-c][0-9]{1,2})\.(?P<word2>csv\.gz|csv|tif)"),
        (["peat late", "peat", "clay late", "clay", "sand"], "(?P<word>clay|peat|sand)(?: late)?"),
        (["{n}.5", "{n}.2", "<0.5", "NA", ">60"], r"(?P<value><?\d{1,2}\.\d|>60|NA)"),
        (
            ["{n}.25s", "{n}ms", "{m}m{n:02}s"],
            r"(?P<duration>\d{1,2}m(?:\d{1,2}(?:\.\d+)?s)?(?:\d{1,2}ms)?|\d{1,2}(?:\.\d+)?s(?:\d{1,2}ms)?|\d{1,2}ms)",
        ),
    ],
)
def test_one_of_a_few_values_is_one_field_though_it_has_several_forms(values: list[str], spelled: str) -> None:
    some = [values[number % len(values)].format(n=number * 7 % 40, m=number % 9) for number in range(60)]
    found = propose([f"{number + 20};{each};dry" for number, each in enumerate(some)])[0]
    assert found.expression == rf"(?P<number>\d{{2}});{spelled};dry"


def test_bytes_of_which_there_may_be_any_number_are_one_field() -> None:
    chance = random.Random(3)
    some = [[f"{chance.randrange(256):02x}" for _ in range(4 + number % 5)] for number in range(60)]
    assert propose([f"sent {' '.join(each)} at {number}" for number, each in enumerate(some)])[0].expression == (
        r"sent (?P<sent>[0-9a-f]{2}(?: [0-9a-f]{2}){3,}) at (?P<at>\d{1,2})"
    )
    rows = [[f"{chance.randrange(256):02x}" for _ in range(16)] for _ in range(30)]
    assert propose([f"{' '.join(each[:8])}  {' '.join(each[8:])}" for each in rows])[0].expression == (
        r"(?P<word>[0-9a-f]{2}(?: [0-9a-f]{2}){7}) +(?P<word2>[0-9a-f]{2}(?: [0-9a-f]{2}){7})"
    )


def test_blanks_before_a_value_are_no_part_of_it_and_a_cell_between_tabs_may_be_empty() -> None:
    padded = [f"Radio({number * 37 % 900 + 100:5d}): link up" for number in range(40)]
    assert propose(padded)[0].expression == r"Radio\( +(?P<radio>\d{3})\): link up"
    rows = [
        f"{('Hare', 'Fox', 'Owl')[number % 3]}\t{'fm'[number % 2] * (number % 5 > 0)}\t{number}" for number in range(60)
    ]
    assert propose(rows)[0].expression == r"(?P<word>Fox|Hare|Owl)\t(?P<word2>[fm])?\t(?P<number>\d{1,2})"


def test_values_of_several_words_and_those_behind_names_in_quotes_are_each_a_field() -> None:
    chance = random.Random(5)

    def line() -> str:
        kind = chance.choice(["hare", "fox", "red grouse", "short-eared owl"])
        return f"{chance.choice(['fen', 'tarn'])}: {kind} x{chance.randrange(1, 9)}{chance.choice(['', ' (juvenile)'])}"

    lines = [line() for _ in range(80)]
    found = propose(lines)[0]
    assert found.expression.endswith(r"x(?P<x>[1-8])(?: \(juvenile\))?") and found.fit == len(set(lines))
    assert "(?P<text>fox|hare|red grouse|short-eared owl)" in found.expression
    # Words that all of them share are no part of the value.
    gates = propose([f"{chance.choice(['red gate', 'old gate'])} {number}" for number in range(60)])[0]
    assert gates.expression.startswith("(?P<word>old|red) gate (?P<")
    records = [
        f'{{"at": "{chance.choice(["fen", "tarn"])}", "open": {chance.choice(["true", "false"])}, "by": '
        f'{chance.choice(["null", chr(34) + "ana" + chr(34)])}, "n": {number}}}'
        for number in range(60)
    ]
    first = propose(records)[0]
    read = re.fullmatch(first.expression, records[0])
    assert read is not None and set(read.groupdict()) == {"at", "open", "by", "n"}
    assert {read["at"], read["open"]} < {"fen", "tarn", "true", "false"} and read["by"] in ("null", '"ana"')


def test_a_cell_that_may_be_empty_is_a_typed_field_that_may_be_absent() -> None:
    chance = random.Random(7)

    def row() -> str:
        soil = chance.choice(["", f"{chance.uniform(0, 60):.1f}"])
        plot = f"{chance.choice('ABC')}{chance.randrange(10, 20)}"
        return f"{plot}|{soil}|{chance.choice(['wet', 'dry', ''])}|{chance.choice(['1y', 'ad.'])}"

    rows = [row() for _ in range(120)]
    found = propose(rows)[0]
    assert found.fields == {"number": {"type": "decimal"}} and found.fit == len(set(rows))
    read = re.fullmatch(found.expression, "B12||dry|ad.")
    assert read is not None and read["number"] is None and read["word2"] == "dry"


def test_what_a_path_a_version_or_a_record_is_made_of_is_captured_whole() -> None:
    chance = random.Random(12)
    names = ["fen", "carr", "tarn", "holm", "whin", "rigg", "beck", "moss"]

    def path() -> str:
        return "/srv/" + "/".join(chance.choices(names, k=chance.randrange(2, 5))) + ".csv"

    def version() -> str:
        return ".".join(str(chance.randrange(30)) for _ in range(chance.randrange(2, 5)))

    made = [
        (chance.choice(names), version(), path(), f"{chance.randrange(90)},{chance.random() * 40:.1f}")
        for _ in "x" * 40
    ]
    texts = [f"{name}:{number} wrote {file} {pair},ok" for name, number, file, pair in made]
    found = propose(texts)[0]
    read = [re.fullmatch(found.expression, each) for each in texts]
    assert all(read) and [each["path"] for each in read if each] == [file for _, _, file, _ in made]
    assert [each["version"] for each in read if each] == [number for _, number, _, _ in made]
    types = {name: table.get("type") for name, table in found.fields.items()}
    assert sorted(types.values()) == ["decimal", "integer"]


@pytest.mark.parametrize(
    ("written", "found", "table"),
    [
        ("2026-05-{day}T{time}", r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}", {}),
        ("2026-05-{day}T{time}.{part}Z", r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}\.\d{3}Z", {}),
        ("2026-05-{day}T{time}.{part}417+02:00", r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}\.\d{6}[+-]\d{2}:\d{2}", {}),
        ("2026-05-{day} {time},{part} -", r"\d{4}-\d{2}-\d{2} \d{2}:\d{2}:\d{2},\d{3}", {}),
        ("2026-05-{day} {time:.5}", r"\d{4}-\d{2}-\d{2} \d{2}:\d{2}", {}),
        ("2026-05-{day} {time}:", r"\d{4}-\d{2}-\d{2} \d{2}:\d{2}:\d{2}", {}),
        (
            "[{day}/{month}/2026:{time} +0200]",
            r"\d{2}/[A-Z][a-z]{2}/\d{4}:\d{2}:\d{2}:\d{2} [+-]\d{4}",
            {"layout": "%d/%b/%Y:%H:%M:%S %z"},
        ),
        (
            "Tue {month} {day} {time} 2026 -",
            r"[A-Z][a-z]{2} [A-Z][a-z]{2} [ \d]\d \d{2}:\d{2}:\d{2} \d{4}",
            {"layout": "%a %b %d %H:%M:%S %Y"},
        ),
        (
            "Tue, {day} {month} 2026 {time} +0100",
            r"[A-Z][a-z]{2}, \d{2} [A-Z][a-z]{2} \d{4} \d{2}:\d{2}:\d{2} [+-]\d{4}",
            {"layout": "%a, %d %b %Y %H:%M:%S %z"},
        ),
        ("2026/05/{day} {time}", r"\d{4}/\d{2}/\d{2} \d{2}:\d{2}:\d{2}", {"layout": "%Y/%m/%d %H:%M:%S"}),
        ("202605{day}T0610{day}", r"\d{8}T\d{6}", {"layout": "%Y%m%dT%H%M%S"}),
        ("202605{day}-1810{day}:", r"\d{8}-\d{6}", {"layout": "%Y%m%d-%H%M%S"}),
    ],
)
def test_moments_are_one_field_however_they_are_written(written: str, found: str, table: dict[str, str]) -> None:
    chance = random.Random(4)
    texts = []
    for _ in range(40):
        time = f"{chance.randrange(10, 24)}:{chance.randrange(10, 60)}:{chance.randrange(10, 60)}"
        day, month, part = chance.randrange(10, 29), chance.choice(["May", "Jun", "Jul"]), chance.randrange(100, 1000)
        at = written.format(day=day, month=month, time=time, part=part)
        texts.append(f"{at} gate={chance.choice(['north', 'quarry'])} pass=LM-{chance.randrange(1000, 9999)}")
    first = propose(texts)[0]
    assert f"(?P<at>{found})" in first.expression and first.fit == 40
    assert first.fields["at"] == {"type": "timestamp", **table}


CHOICES = {
    "level": ["DEBUG", "INFO", "WARN"],
    "bird": ["wren", "dunlin", "ouzel", "merlin"],
    "state": ["ok", "low", "n/a"],
    "wet": ["wet", "dry"],
    "more": ["", ", merlin x1"],
    "truth": ["TRUE", "FALSE"],
    "so": ["true", "false"],
    "note": ["", "<note>wet probe</note>", "<note>low</note>"],
    "key": ["interval", "label"],
    "sign": ["+", "-"],
    "mark": [",", "x", "a b", ";"],
    "name": ["Tove Haug", "Asel Venn", "Marek & Co.", "J. St. Bride"],
    "method": ["HEAD", "PUT"],
    "path": ["traps", "12", "fen%20edge", "2026-05-04", "probes?n=7"],
    "what": ["card worn", "no such key", "held for 31 s", "held for 70 s"],
    "on": ["pts/0", "pts/12", "tty1", "?"],
    "wing": ["NULL", "98", "61", "77"],
    "bytes": ["-", "512", "10240"],
    "request": ["PUT /traps/7 HTTP/1.1", "-", "HEAD /fen HTTP/1.1", "x", "PUT /beck?n=4 HTTP/1.0"],
}


EVENTS = ("+ «bird» joined («1» there)", "- «bird» left: after «2»s", "<«bird»> «word* » «word* » «word* »")


def filled(template: str, chance: random.Random) -> str:
    """Fill in words, `digits` as many as a number has, and `*` of what comes once to four times, with what parts it."""

    def one(found: re.Match[str]) -> str:
        name, _, between = found[1].partition("*")
        made = [
            chance.choice(CHOICES[name]) if name in CHOICES
            else "".join(chance.choices("abcde", k=4)) if name == "word"
            else f"{chance.getrandbits(32):08X}" if name == "crc"
            else f"{chance.choice('ABC')}{chance.randrange(10)}" if name == "plot"
            else filled(chance.choice(EVENTS), chance) if name == "event"
            else f"{chance.choice(CHOICES['bird'])} {chance.randrange(10, 99)}" if name == "birds"
            else f'"{chance.choice(CHOICES["bird"])}"' if name == "quoted"
            else str(chance.randrange(10 ** (int(name) - 1), 10 ** int(name)))
            for _ in range(chance.randrange(1, 5) if between else 1)
        ]  # fmt: skip
        return between.join(made)

    return re.sub(r"«([^»]+)»", one, template)


ONE_BIRD = "(?:dunlin|merlin|ouzel|wren)"


@pytest.mark.parametrize(
    ("template", "spelled", "fields"),
    [
        # What says how grave something is has that name, and is no name for what follows.
        (
            "«level» [«bird»-«2»] kept",
            [r"(?P<level>DEBUG|INFO|WARN) ", r"-(?P<number>\d{2})\] kept"],
            {"number": "integer"},
        ),
        ("ERROR [«bird»] 1«1»-«2» cm «wet»", [r"ERROR \[(?P<word>", r"cm (?P<word2>dry|wet)"], {"number2": "integer"}),
        ("larkmoor gated «3» crc=«crc»", [r"gated (?P<gated>\d{3})", r"(?P<crc>[0-9A-F]{8})"], {"gated": "integer"}),
        # A mark that ends both stands behind what may be left out.
        ("seen («bird» x«1»«more»)", [r"(?:, merlin x1)?\)"], {"x": "integer"}),
        ("| «2» | «state»  |", [r"(?P<text>low|n/a|ok) +\|"], {"number": "integer"}),
        ("«bird»,«3»,«truth»", [r",(?P<flag>FALSE|TRUE)"], {"flag": "boolean"}),
        ("<at>«3»</at>«note»</reading>", [r"<at>(?P<at>\d{3})</at>", r")?</reading>"], {"at": "integer"}),
        # Nothing is cut within a number or a word.
        (
            '{"ts": 17777«5», "v": [«2*, »], "ok": «so»}',
            [r'"ts": (?P<ts>1\d{9})', r'"v": \[(?P<v>', r'"ok": (?P<ok>false|true)'],
            {"ts": "integer", "ok": "boolean"},
        ),
        ("probe.«2».«key» = «2»", [r"probe\.(?P<number>\d{2})\."], {"number": "integer"}),
        (
            "1«1»:10:1«1» «event»",
            [r"(?P<time>\d{2}:\d{2}:\d{2}) (?P<text>\S.*)"],
            {"time": "time"},
        ),
        (
            'gate «1», key "«mark»", «wet»',
            [r'gate (?P<gate>[1-9]), key "(?P<key>', r'", (?P<word>dry|wet)'],
            {"gate": "integer"},
        ),
        # Words that say how grave something is are keys where a value stands behind.
        (
            'level=«level» file=«crc».jpg err="«bird» «1» «bird*, »" took=«2»ms',
            [
                r"level=(?P<level>DEBUG|INFO|WARN) file=(?P<file>[0-9A-F]{8})\.jpg",
                r'err="(?P<err>',
                r"(?P<took>\d{2})ms",
            ],
            {"took": "integer"},
        ),
        (
            "No. «2»\nHolder: «name»\nDog: «wet»",
            [r"(?P<number>\d{2})\nHolder: (?P<holder>J\. St\. Bride|Marek & Co\.|Asel Venn|Tove Haug)\nDog: (?P<dog>"],
            {"number": "integer"},
        ),
        (
            '10.4.«1».«2» "«method» /«path*/» HTTP/1.1" «3» «bytes» "«bird»"',
            [
                r'"(?P<method>HEAD|PUT) (?P<path>/\S*) HTTP/1\.1" (?P<status>\d{3}) (?:-|(?P<number>\d+)) "(?P<word>',
                r"(?P<address>\d{1,3}(?:\.\d{1,3}){3}) ",
            ],
            {"status": "integer", "number": "integer"},
        ),
        # Values of several words behind keys end where the next key begins, or the text.
        (
            "LKM|«name»|«2»|src=«plot» dst=«wet» msg=«what»",
            [
                r"LKM\|(?P<text>J\. St\. Bride|",
                r"\|src=(?P<src>[A-C][0-9]) dst=(?P<dst>dry|wet) msg=(?P<msg>held for 31 s|held for 70 s|no such key|",
            ],
            {"number": "integer"},
        ),
        # What is a day by chance is none.
        ("«2» «on» «2».04.26", [r"(?P<text>\?|pts/0|pts/12|tty1) (?P<number2>\d{2})\.04"], {"number": "integer"}),
        # What stands for none is no number, and a quote that ends all values is part of none of them.
        (
            "('«name»', «wing», '«bird»')",
            [r"', (?:NULL|(?P<number>[679]\d)), '", "Marek & Co\\.|"],
            {"number": "integer"},
        ),
        ("1«1»:10:1«1».«3»][«level»] «wet»", [r"(?P<time>\d{2}:\d{2}:\d{2}\.\d{3})\]\[(?P<level>"], {"time": "time"}),
        # What is no request is not told as one, nor are others then.
        ('«1» "«request»" «3»', [r'(?P<number>[1-9]) "(?P<text>PUT /beck', r'|-|x)" (?P<number2>\d{3})'], {}),
        ("«sign»«2».«1» °C", [r"(?P<number>[+-]\d{1,2}\.\d) °C"], {"number": "decimal"}),
        ("«bird*;»", [rf"(?P<list>{ONE_BIRD}(?:;{ONE_BIRD})*)"], {}),
        # Lists are as long as they are, in a line that goes on behind them.
        ("«bird»: «birds*, »", [rf"(?P<list>{ONE_BIRD} \d{{2}}(?:, {ONE_BIRD} \d{{2}})*)"], {}),
        (
            "plots «plot*,» until «2»",
            [r"plots (?P<plots>[A-C][0-9](?:,[A-C][0-9])*) until (?P<until>\d{2})"],
            {"until": "integer"},
        ),
        ('{"seen": [«quoted*, »], "at": «2»}', [rf'\[(?P<seen>"{ONE_BIRD}"(?:, "{ONE_BIRD}")*)\]'], {}),
        ("seen «birds*, » by holm", [rf"seen (?P<seen>{ONE_BIRD} \d{{2}}(?:, {ONE_BIRD} \d{{2}})*) by holm"], {}),
    ],
)
def test_lines_of_many_sources_are_told_as_somebody_would(
    template: str, spelled: list[str], fields: dict[str, str]
) -> None:
    chance = random.Random(6)
    texts = [filled(template, chance) for _ in range(160)]
    found = propose(texts)
    first = found[0]
    for each in spelled:
        assert each in first.expression, first.expression
    assert fields.items() <= {name: table["type"] for name, table in first.fields.items()}.items()
    assert first.fit == len(set(texts))
    for each in with_beyond(found, texts):
        assert set(each.fields) <= set(re.compile(each.expression).groupindex)
    assert not [[*map(str, hazards(parse(each.expression)))] for each in found if hazards(parse(each.expression))]


@pytest.mark.parametrize(
    ("mark", "line", "sizes", "expression"),
    [
        (" ", "reads {} end", (3, 6), r"reads (?P<reads>\d{1,3}(?: \d{1,3}){2,}) end"),
        (";", "{}", (4, 12), r"(?P<list>\d{1,3}(?:;\d{1,3}){3,})"),
        (";", "{}", (20, 60), r"(?P<list>\d{1,3}(?:;\d{1,3}){9,})"),
        (",", "{}", (2, 9), r"(?P<list>\d{1,3}(?:,\d{1,3})+)"),
        (",", "{}", (40, 40), r"(?P<list>\d{1,3}(?:,\d{1,3}){39})"),
        (", ", "n {} by holm", (17, 17), r"n (?P<list>\d{1,3}(?:, \d{1,3}){16}) by holm"),
        (",", "{}", (3, 3), r"(?P<number>\d{1,3}),(?P<number2>\d{1,3}),(?P<number3>\d{1,3})"),
    ],
)
def test_numbers_of_which_there_are_many_or_any_number_are_a_list(
    mark: str, line: str, sizes: tuple[int, int], expression: str
) -> None:
    chance = random.Random(4)
    rows = [[str(chance.randint(0, 999)) for _ in range(chance.randint(*sizes))] for _ in range(200)]
    texts = [line.format(mark.join(row)) for row in rows]
    found = with_beyond(propose(texts), texts)
    assert found[0].expression == expression
    assert [each["type"] for each in found[0].fields.values()] == ["integer"] * 3 * (sizes == (3, 3))


BEASTS = ("short eared owl", "mountain hare", "red grouse", "red deer", "raven", "stoat")


@pytest.mark.parametrize(
    ("parts", "expression"),
    [
        (
            (("06:10", "21:45"), BEASTS, ("day", "dusk", "night"), ("lux=7", "lux=120", "lux=31")),
            r"(?P<time>\d{2}:\d{2}) (?P<text>mountain hare|raven|red deer|red grouse|short eared owl|stoat)"
            r" (?P<word>day|dusk|night) lux=(?P<lux>\d{1,3})",
        ),
        # What of several words stands before others, with what may be left out, and words that part.
        (
            (
                ("permit 12", "permit 7"),
                ("granted", "refused", "put back"),
                ("by holm", "by carr", ""),
                ("until",),
            ),
            r"permit (?P<permit>\d{1,2}) (?P<text>granted|put back|refused)(?: by (?P<by>carr|holm))? until",
        ),
        (
            (("holm", "carr", "beck"), ("late", "early", ""), ("walked", "drove"), ("to",), ("fen", "moss", "hag end")),
            "(?P<word>beck|carr|holm)(?: (?P<word2>early|late))? (?P<word3>drove|walked) to (?P<to>fen|hag end|moss)",
        ),
        # Which of them is of two words does not matter to those after it; one that has a digit is one of them.
        (
            (("Dunlin", "Golden plover", "Ring ouzel"), ("ad", "juv", "1y"), ("wing",), ("112", "98", "140")),
            r"(?P<text>Dunlin|Golden plover|Ring ouzel) (?P<word>1y|ad|juv) wing (?P<wing>\d{1,3})",
        ),
        # What is shortened, or has marks within, is part of names as others are.
        (
            (
                ("J. Haug", "Orla Venn", "Tam O'Brae", "Ines"),
                ("walked to",),
                ("St. Bride", "Fen & Mire", "hag", "Long Moss"),
            ),
            r"(?P<text>Ines|J\. Haug|Orla Venn|Tam O'Brae) walked to (?P<to>Fen & Mire|Long Moss|St\. Bride|hag)",
        ),
        # They are so beside what is of base 16, in which letters and digits come in any order.
        (
            (
                tuple(f"{at * 2654435761 % 2**32:08x}.pic" for at in range(1, 99)),
                ("refused", "no route to base", "timed out"),
                ("again in 7 s", "again in 30 s"),
            ),
            r"(?P<word>[0-9a-f]{8})\.pic (?P<text>no route to base|refused|timed out) again in (?P<in>\d{1,2}) s",
        ),
        # Two that are always there, however they go together, are two.
        (
            (("gate", "trap"), ("opened by", "closed by", "held for"), ("A11", "B7", "C20")),
            r"(?P<word>gate|trap) (?P<word2>closed|held|opened) (?P<word3>by|for) (?P<word4>A11|B7|C20)",
        ),
    ],
)
def test_words_that_come_with_one_another_are_one_value(parts: tuple[tuple[str, ...], ...], expression: str) -> None:
    chance = random.Random(3)
    rows = [[chance.choice(each) for each in parts] for _ in range(240)]
    texts = [" ".join(filter(None, row)) for row in rows]
    found = propose(texts)
    assert found[0].expression == expression
    assert found[0].fit == len({*texts})
    mixed = {" ".join(chance.sample(text.split(" "), text.count(" ") + 1)) for text in texts}
    assert not any(re.fullmatch(found[0].expression, each) for each in mixed - {*texts})
    # The looser ones tell the same pieces apart, by no hazard, but what never captures anything.
    names = [{*re.compile(each.expression).groupindex} for each in found]
    assert all(each <= names[0] for each in names)
    for each, held in zip(found, names, strict=True):
        captured = [match.groupdict() for match in map(re.compile(each.expression).fullmatch, texts) if match]
        assert all(any(row[name] is not None for row in captured) for name in held)
    assert len(found) > 1 and not any(hazards(parse(each.expression)) for each in found)


@pytest.mark.parametrize(
    ("moment", "program", "found"),
    [
        ("Mar  7 06:10:{:02}", "probed[3565]:", r"(?P<host>gate-a|hut|ridge) probed\[(?P<pid>\d+)\]: "),
        ("Mar  7 06:10:{:02}", "kernel:", "(?P<host>gate-a|hut|ridge) kernel: "),
        ("2026-03-07T06:10:{:02}Z", "relay-d[12]:", r"(?P<host>gate-a|hut|ridge) relay-d\[(?P<pid>\d+)\]: "),
        # One digit is no number of a process, and where no date or time stands before it nothing is.
        ("Mar  7 06:10:{:02}", "init[1]:", r"(?P<host>gate-a|hut|ridge) init\[1\]: "),
        ("line {}", "probe[44]:", r"(?P<word>gate-a|hut|ridge) probe\[44\]: "),
        ("2026-03-07T06:10:{:02}Z", "moss:", "(?P<word>gate-a|hut|ridge) moss: "),
    ],
)
def test_in_the_head_of_a_systems_log_line_are_a_host_and_the_number_of_a_process(
    moment: str, program: str, found: str
) -> None:
    hosts = ["hut", "gate-a", "ridge"]
    states = ["wet", "dry", "no answer"]
    texts = [
        f"{moment.format(at % 60)} {hosts[at % 3]} {program} at {at * 7 % 90 + 10} volts, {states[at // 3 % 3]}"
        for at in range(120)
    ]
    first, *others = propose(texts)
    assert f"{found}at (?P<volts>" in first.expression.replace(r"(?P<word2>", "(?P<word>")
    names = [*re.compile(first.expression).groupindex]
    assert others and all([*re.compile(each.expression).groupindex] == names for each in others)
    # The next time that it runs it has another number.
    again = [text.replace("[3565]", "[71]").replace("[12]", "[30211]") for text in texts]
    assert all(map(first.fits, again)) and (first.fields.get("pid") == {"type": "integer"}) is ("pid" in found)


def test_a_pattern_is_called_by_what_happened_where_its_lines_say_so() -> None:
    told = 'at=⟨timestamp⟩ level=⟨word⟩ msg="cannot reach ⟨word⟩" err=⟨quoted text⟩'
    assert pattern_name(told) == "cannot-reach" and pattern_name(told, {"cannot-reach"}) == "cannot-reach-at"
    assert pattern_name('⟨timestamp⟩ gate msg="x" wet=⟨word⟩') == "gate-msg-wet"


@pytest.mark.parametrize(
    ("template", "name"),
    [
        ("no answer after {} tries", "tries"),
        ("took {} ms", "took"),
        ("probe {} reads low", "probe"),
        ("clock is {} s off", "clock"),
        ("queue has {} frames", "frames"),
        ("hut/17.jpg: {} left", "left"),
        ("soil.temp={} now", "temp"),
        ("level of {} %", "level"),
        ("Permit no. {} is void", "permit"),
    ],
)
def test_a_number_is_called_by_what_it_is_of(template: str, name: str) -> None:
    first = propose([template.format(at * at % 97 + 3) for at in range(60)])[0]
    assert [*re.compile(first.expression).groupindex] == [name]


def test_words_of_base_16_are_no_powers_of_ten_and_a_tab_stays_a_tab() -> None:
    chance = random.Random(4)
    texts = [f"{chance.getrandbits(32):08x}\t{chance.choice(['fen edge', 'hag', 'old beck'])}" for _ in range(300)]
    assert any(re.match(r"\d+e\d+\t", each) for each in texts)
    tight, *_, loose = propose(texts)
    assert tight.expression == r"(?P<word>[0-9a-f]{8})\t(?P<text>fen edge|hag|old beck)"
    assert r"\s" not in loose.expression and loose.fit == len(set(texts))


def test_a_comma_parts_numbers_only_where_some_texts_show_it() -> None:
    grouped = [f"{number * 7919 % 3_000_000:,}" for number in range(1, 60)]
    assert [*propose(grouped)[0].fields.values()] == [{"type": "integer", "group_mark": ","}]
    decimal = [f"{number * 17 % 90},{number % 10}" for number in range(1, 60)]
    assert [*propose(decimal)[0].fields.values()] == [{"type": "decimal", "decimal_mark": ","}]
    columns = [f"{number * 7919 % 9999},{number * 31 % 700},{'wet' if number % 3 else 'dry'}" for number in range(60)]
    assert [each["type"] for each in propose(columns)[0].fields.values()] == ["integer", "integer"]
    keyed = [f"temp={number % 40},{number % 10},hum={number * 7 % 90},{number % 7}" for number in range(60)]
    assert [each["type"] for each in propose(keyed)[0].fields.values()] == ["decimal", "decimal"]


def test_what_stands_below_one_another_is_a_column_whatever_it_holds() -> None:
    rows = [
        ("E18", "-", "15.7", "fen"),
        ("F19", "frozen -3", "7.9", "north gate"),
        ("C18", "frozen -1", "28.1", "moss track, by the stile"),
        ("E16", "low", "-", "hag end"),
        ("F05", "-", "104.2", "carr (2)"),
        ("E02", "low", "36.2", "north gate, locked"),
        ("D20", "-", "86.3", "moss track"),
        ("D13", "low", "-", "see note 12"),
        ("B29", "frozen -12", "43.9", "x"),
    ]
    lines = [f"{plot:<6}{state:<12}{value:>7}  {remark}" for plot, state, value, remark in rows]
    first = propose(lines)[0]
    assert re.fullmatch(r"\(\?P<word>[^()]*\) \+.* \+\(\?P<\w+>\\S\.\*\)", first.expression), first.expression
    assert first.expression.count("(?P<") == 4 and first.fit == len(rows)
    # Without a column that is filled up, they are no table.
    assert not propose([f"{plot} {remark}" for plot, _, _, remark in rows])[0].expression.endswith(r"\S.*)")


@pytest.mark.parametrize("seed", range(24))
def test_whatever_lines_are_made_of_what_is_proposed_stands_up(seed: int) -> None:
    texts = drawn_lines(random.Random(seed))
    for each in with_beyond(propose(texts), texts):
        assert set(each.fields) <= set(re.compile(each.expression).groupindex)
        assert each.fit == sum(taken_by(each.expression, dict.fromkeys(texts)))
        assert each.beyond is None or (each.fits(each.beyond) and each.beyond not in texts)
        assert not is_doubling(Reading(each.expression))
        positive, negative = samples_for(each, texts, [])
        assert all(map(each.fits, positive)) and not any(map(each.fits, negative))


def drawn_lines(chance: random.Random) -> list[str]:
    """Return lines of which each has values of the same kinds, and lists of such, parted alike."""

    def slot(deep: int) -> Callable[[], str]:
        kind = chance.randrange(9 if deep else 6)
        low, mark = chance.randint(0, 4), chance.choice([",", ";", " ", ", ", "/", "-", "_", "."])
        high, inner = low + chance.randint(0, 5), slot(deep - 1) if kind > 5 else str
        key, words = chance.choice(["n", "plot", "seen"]), chance.sample(["fen", "moss", "hag", "tarn", "beck"], 3)
        kinds: list[Callable[[], str]] = [
            lambda: str(chance.randint(0, 10**low)),
            lambda: f"{chance.random() * 50:.{low}f}",
            lambda: chance.choice(words),
            lambda: f"2026-05-{chance.randint(1, 28):02}",
            lambda: f"{chance.choice('ABC')}{chance.randint(0, 99):02}",
            lambda: f"{chance.getrandbits(32):08x}",
            lambda: mark.join(inner() for _ in range(chance.randint(low, high))),
            lambda: inner() if chance.random() < 0.7 else "",
            lambda: f"{key}={inner()}",
        ]
        return kinds[kind]

    parts, mark = [slot(2) for _ in range(chance.randint(1, 5))], chance.choice([" ", ";", ",", "|", "\t", " - "])
    return [text for _ in range(60) if (text := mark.join(part() for part in parts)).strip()] or ["fen"]


@pytest.mark.parametrize(
    ("written", "kept"),
    [
        (r"(?P<plot>[A-F]\d{2}-\d) at \d+", r"(?P<plot>[A-F][0-9]{2}-[0-9]) at \d+"),
        (r"[A-F]\d(?:,[a-f]\d)*", "[A-F][0-9](?:,[a-f][0-9])*"),
        (r"(?P<word>\w+\d+):\w+\d+", r"(?P<word>\w+\d):\w+\d"),
        (r"\w+(?:_\w+)*", r"\w+"),
        (r"(?P<v>\w+|\d+e\d+);x", r"(?P<v>\w+);x"),
        (r"a(?:, '(?P<word>[a-z]+)'|, 'hag')?", r"a(?:, '(?P<word>[a-z]+)')?"),
        (r"\w+(?:[._]+\w+)*,\w+(?:[_-]\w+)*", r"\w+(?:\.+\w+)*,\w+(?:\-\w+)*"),
        *(
            (same, same)
            for same in (
                r"(?P<n>\d+)|\w+",
                "fen|hag",
                r"\w+(?:_\w+)+",
                r"[a-z]+(?:_[a-z]+)*",
                r"\w+(?:[^_]\w+)*",
                r"\d[A-F]|\w+\d{2}",
            )
        ),
    ],
)
def test_what_would_be_named_as_a_hazard_is_written_otherwise_and_takes_the_same(written: str, kept: str) -> None:
    assert polished(written) == kept
    assert kept == written or (hazards(parse(written)) and not hazards(parse(kept)))
    beyond = relation_of(Reading(written), Reading(kept)).only_first
    assert relation_of(Reading(kept), Reading(written)).only_first is None
    assert beyond is None or not beyond.isascii()


def test_what_may_follow_is_left_out_where_what_stands_before_takes_it() -> None:
    assert polished(r"(?P<v>[\w-]+)(?:-a)? is") == r"(?P<v>[\w-]+) is"
    for same in (r"(?P<v>\w+)(?:-a)? is", r"(?P<v>[\w-]{3})(?:-a)? is", r"(?P<v>[\w-]+)(?:-(?P<w>a))? is"):
        assert polished(same) == same


def test_what_may_be_absent_and_captures_nothing_is_left_out_where_as_much_is_taken_without_it() -> None:
    idle = r"(?P<word>\w+)(?:_(?P<number>\d))?"
    assert without_idle(idle, ["fen_2", "hag"]) == r"(?P<word>\w+)"
    for same, text in ((r"(?P<word>\w+?)(?:_(?P<number>\d))?", "fen_2"), (r"(?P<word>\w+)(?:-(?P<number>\d))?", "fen")):
        assert without_idle(same, [text]) == same


def test_what_stands_beside_numbers_in_some_texts_is_a_sign_and_each_number_a_field() -> None:
    found = propose(ABOUT)[0]
    assert found.expression == r"(?P<sign><|c\. |~)?(?P<number>\d{1,2})\+?" and found.fields == {
        "number": {"type": "integer"}
    }
    depths = [f"{mark}{number} km" for mark in "<>" for number in (1, 4, 7, 12, 30)]
    assert propose(depths)[0].expression == r"(?P<sign>[<>])(?P<number>\d{1,2}) km"
    deep = [f"depth {mark}{number} cm" for mark in ("", "<", ">") for number in (3, 8, 15, 22)]
    assert propose(deep)[0].expression == r"depth (?P<sign>[<>])?(?P<depth>\d{1,2}) cm"
    # What opens is closed.
    owed = [f"({each}.50)" if each % 3 else f"{each}.50" for each in range(2, 40)]
    assert not any(re.fullmatch(each.expression, "(7.50") for each in propose(owed))


def test_words_parted_by_marks_and_underscores_are_no_versions_and_take_no_time() -> None:
    chance = random.Random(3)
    words = ["fen", "gate", "moss", "hag", "tarn"]
    for mark in ("_", "._"):
        texts = [chance.choice(mark).join(chance.choices(words, k=chance.randint(1, 5))) for _ in range(60)]
        for each in propose(texts):
            assert "(?P<word>" in each.expression and not hazards(parse(each.expression)), each.expression


@pytest.mark.parametrize(
    ("written", "found", "table"),
    [
        ("%-d/%-m/%Y", r"(?P<day>\d{1,2}/\d{1,2}/\d{4})", {"type": "date", "layout": "%d/%m/%Y"}),
        ("%m/%d/%Y", r"(?P<day>\d{2}/\d{2}/\d{4})", {"type": "date", "layout": "%m/%d/%Y"}),
        ("06/05/%Y", r"(?P<day>\d{2}/\d{2}/\d{4})", {}),
        ("%-I:%M:%S %p", r"(?P<time>\d{1,2}:\d{2}:\d{2} [AP]M)", {"type": "time", "layout": "%I:%M:%S %p"}),
        ("%I:%M%p", r"(?P<time>\d{2}:\d{2}[AP]M)", {"type": "time", "layout": "%I:%M%p"}),
        ("%-H:%M:%S", r"(?P<time>\d{1,2}:\d{2}:\d{2})", {"type": "time", "layout": "%H:%M:%S"}),
        ("%H:%M:%S", r"(?P<time>\d{2}:\d{2}:\d{2})", {"type": "time"}),
    ],
)
def test_days_and_times_have_the_layout_that_all_of_them_have(written: str, found: str, table: dict[str, str]) -> None:
    start = dt.datetime(2026, 1, 3, 5, 10, 7)
    moments = [start + number * dt.timedelta(days=11, hours=7, minutes=13, seconds=11) for number in range(20)]
    first = propose([f"{each.strftime(written)} north" for each in moments])[0]
    assert first.expression == f"{found} north"
    assert list(first.fields.values()) == [table] * bool(table)


@pytest.mark.parametrize(
    ("head", "group"),
    [("gate-{0}: ", r"(?P<text>[a-z]+(?: [a-z]+)+)"), ("probe={1}{0} ", r" (?P<text>[a-z]+(?: [a-z]+)+)")],
)
def test_words_of_which_there_may_be_any_number_are_one_field(head: str, group: str) -> None:
    chance = random.Random(8)
    words = [
        "the",
        "gate",
        "was",
        "found",
        "open",
        "at",
        "dusk",
        "by",
        "ranger",
        "near",
        "old",
        "wall",
        "after",
        "rain",
    ]
    seen = [" ".join(chance.choices(words, k=chance.randrange(2, 14))) for _ in range(300)]
    level = chance.choices(["dry", "wet"], k=300)
    heads = [head.format(chance.randrange(10, 40), chance.choice("ABC")) for _ in range(300)]
    texts = [f"{one} {two}{note}" for one, two, note in zip(level, heads, seen, strict=True)]
    first = propose(texts)[0]
    assert first.expression.endswith(group) and first.fit == 300
    found = re.fullmatch(first.expression, texts[0])
    assert found is not None and seen[0].endswith(found[re.findall(r"P<(\w+)>", group)[0]])


def test_what_comes_again_and_again_in_quotes_is_listed() -> None:
    seen = ("red deer", "raven", "short eared owl", "stoat")
    texts = [f'frame={number * 7919 % 1000:03} "{seen[number % 4]}" lux={number % 90}' for number in range(40)]
    tight, *_, loose = propose(texts)
    assert '"(?P<text>short eared owl|red deer|raven|stoat)"' in tight.expression and tight.fit == 40
    assert re.fullmatch(loose.expression, 'frame=7 "roe deer" lux=1')
    assert not re.fullmatch(propose(texts[:12])[0].expression, 'frame=123 "raven" in" lux=1')


def test_a_line_of_a_log_is_told_piece_by_piece() -> None:
    chance = random.Random(4)
    ways = ("opened by", "closed by", "held for")
    lines = [
        f"{chance.choice(('INFO', 'WARN'))} [{chance.choice(('gate', 'trap-2', 'probe'))}] {chance.choice(ways)} "
        f'{chance.choice("ABC")}{chance.randrange(10, 99)} in {chance.randrange(1, 400)} ms "{chance.choice(NOTES)}"'
        for _ in range(60)
    ]
    tight = propose(lines)[0]
    found = re.fullmatch(tight.expression, r'WARN [probe] held for B17 in 90 ms "any \"thing\" at all"')
    assert found is not None, tight.expression
    assert found.groups() == ("WARN", "probe", "held", "for", "B17", "90", r"any \"thing\" at all"), tight.expression
    assert [*tight.fields.values()] == [{"type": "integer"}] and tight.fit == len(set(lines))
    wrong = (
        'WARN [gate] held for B17 in 90 ms "a"b"',
        'WARN [hag] held for B17 in 90 ms ""',
        'WARN [gate] eld for B17 in 90 ms ""',
    )
    assert not any(re.fullmatch(tight.expression, each) for each in wrong), tight.expression


NOTES = [f"{word} {number}{mark}" for word in ("fen", "hag", "") for number in range(9)
         for mark in ("", ", dry", r' \"wet\"', ": x")]  # fmt: skip


def test_however_long_one_piece_is_the_others_are_told() -> None:
    chance = random.Random(6)
    notes = [" ".join(chance.choice(("fen", "hag", "so", r"\"wet\"")) for _ in range(count)) for count in range(40, 80)]
    lines = [f'{{"id": {chance.randrange(300)}, "note": "{note}", "on": "2026-05-{chance.randrange(10, 30)}"}}'
             for note in notes]  # fmt: skip
    tight = propose(lines)[0]
    found = re.fullmatch(tight.expression, r'{"id": 12, "note": "a \" b, c", "on": "2026-05-04"}')
    assert found is not None and found.groupdict() == {"id": "12", "note": r"a \" b, c", "on": "2026-05-04"}
    assert {name: table["type"] for name, table in tight.fields.items()} == {"id": "integer", "on": "date"}
    assert not re.fullmatch(tight.expression, '{"id": x, "note": "", "on": "2026-05-04"}')


def test_what_is_too_long_to_be_read_piece_by_piece_is_proposed_as_a_whole() -> None:
    lines = [f"{number} " + "fen, " * 600 + "end" for number in range(9)]
    first = propose(lines)[0]
    assert first.fit == 9 and len(first.expression) < 6000 and re.fullmatch(first.expression, lines[4])


@pytest.mark.parametrize(("rest", "after"), [("sheep on track ", ".*"), ("gate ajar\n", r"[\s\S]*")])
def test_of_very_long_texts_the_beginning_is_proposed_for(rest: str, after: str) -> None:
    chance = random.Random(3)
    texts = [f"2026-05-{chance.randrange(10, 29)} probe=B{chance.randrange(10, 40)} {rest * 120}" for _ in range(30)]
    refused = f"trap=A3 {rest * 120}"
    first = propose([*texts, "2026-05-11 probe=B12"], missing=[refused])[0]
    assert first.expression.endswith(after) and first.fit == 31
    assert not first.takes and not takes(first.expression, refused) and all(taken_by(first.expression, texts))


def test_an_expression_that_takes_long_is_given_up_after_a_few_texts(monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []
    monkeypatch.setattr(taking_texts, "batch_of", lambda *_: None)
    monkeypatch.setattr(taking_texts, "tried", lambda _, __, ___, text: asked.append(text))
    assert taken_by("(a+)+$", [f"a{number}" for number in range(50)]) == [False] * 50
    assert len(asked) == taking_texts.MOST_SLOW


def test_of_ways_the_one_is_chosen_that_agrees_with_the_others() -> None:
    one = Written("one", {}, 1.0, 0.30, (True, False, False))
    alike = Written("alike", {}, 1.0, 0.31, (True, False, False))
    cheapest = Written("cheapest", {}, 1.0, 0.29, (True, True, True))
    assert likeliest([cheapest, one, alike], 1.5) is one and likeliest([cheapest, one, alike], 0) is cheapest
    assert likeliest([cheapest, one], 1.5) is cheapest
    unsure = Written("unsure", {}, 0.4, 0.31, (True, False, False))
    assert likeliest([cheapest, unsure, unsure], 1.5) is cheapest


def test_the_way_that_holds_of_examples_left_out_is_taken() -> None:
    series = ["VM-68421", "NAW28671", "W 94708", "RB-21311", "CWK-25492", "K 48520", "A31416", "BD 27182", "C-11235"]
    quoted = [f'note="{each}"' for each in ("wet, cold", "3 voles", "a:b", "no (2)", "", "hag", "x/y", "5")]
    marks, text = propose(series)[0].expression, propose(quoted)[0].expression
    assert re.fullmatch(marks, "QZ-12345") and not re.fullmatch(marks, "Q--12345")
    assert re.fullmatch(text, 'note="what nobody saw; yet"') and not re.fullmatch(text, 'note="a"b"')


def test_many_examples_may_have_more_forms_than_few() -> None:
    days = [f"{day}.{month}.2026" for day in (4, 5, 11, 28) for month in (5, 6, 12)]
    days += [f"{day}.{month}.26" for day in (4, 17, 30) for month in (5, 8)]
    days += [f"{day}/{month}/2026" for day in (4, 11, 30) for month in (5, 8)]
    days += [f"2026-0{month}-1{day}" for day in (4, 7) for month in (5, 8)] + ["soon"] * 9
    first = propose(days, name="First day")[0]
    assert (
        first.fit == len(set(days)) and first.expression.startswith(r"(?P<first_day>") and "(?:" not in first.expression
    )
    assert all(
        re.fullmatch(first.expression, each) for each in ("7.9.2026", "7.9.26", "7/9/2026", "2026-07-09", "soon")
    )
    assert not any(re.fullmatch(first.expression, each) for each in ("7-9-2026", "7.9/2026", "noon", "2026.07.09"))


@given(st.lists(st.text("a7\u00a0\u200b\x1b\t\udcb0 ", min_size=1, max_size=6), min_size=1, max_size=8))
def test_what_is_not_seen_is_spelled_by_its_number(texts: list[str]) -> None:
    for each in propose(texts, texts[:1]):
        assert each.expression.isprintable() and re.fullmatch(each.expression, texts[0])


@pytest.mark.parametrize(
    ("texts", "expression", "fields", "fit"),
    [
        # One text of another kind is no reason to give the type up.
        ([*(f"n={each}" for each in range(30)), "n=x"], r"n=(?P<n>\d{1,2})", {"n": {"type": "integer"}}, 30),
        # What looks like a date and is none is no date.
        (["2026-05-04", "2026-06-31", "2026-07-09"], r"(?P<day>\d{4}-\d{2}-\d{2})", {}, 3),
    ],
)
def test_a_field_has_a_type_where_all_that_is_captured_converts(
    texts: list[str], expression: str, fields: dict[str, dict[str, str]], fit: int
) -> None:
    first = propose(texts)[0]
    assert (first.expression, first.fields, first.fit) == (expression, fields, fit)


def test_a_field_has_a_name_that_can_be_read() -> None:
    fields = re.compile(propose([f"{'fen' * 50}={number}" for number in (1, 22, 333)])[0].expression).groupindex
    assert [*fields] == ["fen" * 10]


def test_what_must_be_kept_out_is_or_that_is_said() -> None:
    kept = propose([], ["B07", "F12", "A33", "C10"], ["G12", "B7"])[0]
    assert not kept.takes and not re.fullmatch(kept.expression, "G12") and re.fullmatch(kept.expression, "D99")
    same = propose([], ["B07", "F12"], ["B07"])
    assert all(each.takes == ("B07",) for each in same)


def test_each_takes_something_beyond_the_one_before_it() -> None:
    found = with_beyond(propose(PROBES), PROBES)
    assert [each.level for each in found] == ["tight", "loose"]
    for before, each in zip([None, *found], found, strict=False):
        assert each.beyond is not None and re.fullmatch(each.expression, each.beyond)
        assert each.beyond not in PROBES and (before is None or not re.fullmatch(before.expression, each.beyond))
        assert each.fits(each.beyond), "what its typed fields capture converts"


def test_the_samples_of_a_proposal_are_right_and_differ() -> None:
    first = propose(PERMITS, missing=["LMF-X"])[0]
    positive, negative = samples_for(first, PERMITS, ["LMF-X"])
    assert set(positive) <= set(PERMITS) and {bool(re.search("/", each)) for each in positive} == {True, False}
    assert "LMF-X" in negative and all(re.fullmatch(first.expression, each) for each in positive)
    assert len(negative) > 1 and not any(re.fullmatch(first.expression, each) for each in negative)
    likely = {*"".join(PERMITS), *"LMF-X"}
    assert all(set(each) <= likely for each in negative[:2]), "what might come by mistake"
    moved = propose(GATES)[0]
    wrong = [each for each in samples_for(moved, GATES, [])[1] if re.fullmatch(moved.expression, each)]
    assert len(wrong) == 1 and not moved.fits(wrong[0]), "a day that is none"


NAMES = ["cf. Dvra rdvbm var. lft-mm", "Jxc sp.", "cf. Fix sp.", "cf. Cha ltbzk subsp. tlt", "Dz fdsys subsp. epm",
         "Iyt sp.", "cf. Idk sp.", "Dql zetjm-o subsp. zvod", "cf. Fonm sp.", "Rm gpynat var. yxt", "Wk odmn",
         "Arf sp.", "Hzt pjfbb", "Wnd bcsl-q"]  # fmt: skip
"""Names of plants with words that some of them have alone: cf., sp., subsp. and var."""


SEEN = ("north", "quarry", "north", "upper", "quarry", "upper", "lower", "north", "lower")
GATES_SEEN = [f"gate {each}" for each in SEEN]
CODES = [f"#b{each}" for each in ("0", "101", "11", "1000", "110", "0101", "1", "10", "111", "100")]
PARTED = ["a:b;1;u", "7;c,d;", ";z;v-w", "x y;;9", "q;m n;(k)", "3.1;8;t"]
BASE_16 = ["0Xd9", "-0XAF", "-0xB4", "0xd", "-0xa2", "0X670", "0Xe87E", "-0XBa", "0x7A", "-0X0C1", "0x9", "0X7A"]
WORDS = ["x1", "hag7", "B2b", "Fen", "carr_4", "q9z", "moss3", "W22", "tarn", "gate7a", "beck", "rill1", "sike5"]
RARELY = ["Btn pur", "Iv ekg", "Carex ni", "Poa an", "Ulex mi", "Ilex aq", "Nardus s", "Juncus e", "Sorbus au-c"]


QUOTED = [f"level={level} msg={text} took=4" for level in ("info", "warn")
          for text in (r'"camera \"B7\" on"', '"battery low, 11 %"', '""', r'"lens \"A2\" wet"', '"dry"')]  # fmt: skip
DOUBLED = [f"'{each}'" for each in ("it''s wet", "dry", "fen''s edge", "hag; 7", "7 ''voles''", "a, b", "x-y", "",
           "''", "carr 12", "no''", "so: wet", "(12)", "tarn''s", "''old'' hag", "2 m")]  # fmt: skip
HEXADECIMAL = ["0x1F", "0XA0", "17", "0x00", "250", "0", "12", "34", "0xfe", "99", "71", "3"]
FLOATS = ["1e5", "2.5", "3.", "-.5e-3", "12", "7e+2", "0.25", "40.", ".75", "3.1e4", "6", "8.5"]
LOADS = ["12 300,5 kg", "1.204 kg", "950 kg", "7 kg", "3 400 kg", "1 200,25 kg", "12.000 kg", "80,5 kg", "44 kg"]
TAILS = ("K7", "", "b,c", "-", "x", "4", "hag", "d:e", ";", "9", "Q", "fen", "a b", "z", "12", "m")
HEADS = ("ab", "7", "x-1", "q", "hag", "fen_2", "k9", "Zt", "n", "w:3", "u7", "o", "b-b", "moss", "r4", "tarn")
NOTED = [f"{('#', '//')[number % 2]} {tail}" for number, tail in enumerate(TAILS)]
BEGUN = [f"{('RECORD', 'END')[number % 2]}:{tail}" for number, tail in enumerate(TAILS)]
INSIDE = [f"{{{before}%see{after}}}" for before, after in zip(HEADS, TAILS, strict=True)]
ENCLOSED = [f"/*{each}*/" for each in ("dry", " wet ", "a/b", "7:8", "x, y", "", "hag-1", "no. 4", "fen")]

LOGGERS = [
    "Fe_",
    "H9k",
    "Tr",
    "Bk",
    "CsN",
    "D",
    "V8m",
    "KOA9",
    "GHhbl",
    "Xa",
    "Hiy",
    "SE",
    "Z5",
    "C",
    "B_nML",
    "W",
    "RA",
]
ABOUT = ["<44", "~64", "<10", "12", "c. 5", "30+", "8", "c. 17", "41", "~9", "25+", "3", "70", "19"]
LEGS = ["3E", "12N4W", "7N", "40E8E11S", "5S", "20W2N", "9E14N3E", "31W", "2S17E", "6N6W"]


@pytest.mark.parametrize(
    ("texts", "right", "wrong"),
    [
        (QUOTED, [r'level=info msg="a \"" took=4'], ['level=info msg="a "" took=4', r'level=info msg="a\" took=4']),
        (DOUBLED, ["'who''s there; 9'"], ["'who's there'"]),
        (HEXADECIMAL, ["0xBeef", "1234"], ["0x", "beef", "0y1", "x1"]),
        (FLOATS, ["-1.25e-7", "9.", ".1"], [".", "e5", "1.2.3", "1e"]),
        (LOADS, ["1 234 567,5 kg", "12 kg"], ["12 34 kg", "1.2.3 kg", "12,5,5 kg"]),
        (NOTED, ["// any.thing", "# 8"], ["/ x", "x", "$ wet"]),
        (BEGUN, ["RECORD:=9", "END:/"], ["EN:K", "RECRD:K"]),
        (INSIDE, ["{w2%see!}"], ["{w2%se}", "{w2see}", "w2%see!}"]),
        (ENCLOSED, ["/*(what) nobody saw*/"], ["/*a*/*/", "/*a"]),
        (NAMES, ["Poa annua", "cf. Poa sp.", "Ulex mi subsp. gal", "Poa alp var. viv"], ["Poa. annua", "poa annua"]),
        (BASE_16, ["0xfE", "-0X12"], ["0y12", "xF", "0xG1"]),
        (WORDS, ["fen2", "A1"], ["7fen", "2"]),
        (LOGGERS, ["Hag_2", "Tarn12"], ["fen", "2fen", "2Fen"]),
        (LEGS, ["7S", "3E12N3E"], ["7", "7SE", "S7", "3E12"]),
        (ABOUT, ["c. 60", "<7", "33", "14+"], ["c. ", "> 6", "c.60", "~", "+5", "<7 "]),
        (GATES_SEEN, ["gate lower"], ["gate carr"]),
        (PARTED, ["what;is;here"], ["a;b", "a;b;c;d"]),
        (RARELY, ["Rubus id-x"], ["Rubus id_x"]),
        (CODES, ["#b1001"], ["#b12"]),
    ],
)  # fmt: skip
def test_a_proposal_takes_what_is_like_its_examples_and_no_more(
    texts: list[str], right: list[str], wrong: list[str]
) -> None:
    first = propose(texts)[0]
    assert first.fit == len(set(texts)), first.expression
    assert [each for each in right if not re.fullmatch(first.expression, each)] == [], first.expression
    assert [each for each in wrong if re.fullmatch(first.expression, each)] == [], first.expression


@pytest.mark.parametrize(
    ("texts", "expression", "table"),
    [
        (["1.240,5", "12,50", "80", "12.345,75", "999,9"], r"\d{1,3}(?:\.\d{3})*(?:,\d{1,2})?",
         {"type": "decimal", "group_mark": ".", "decimal_mark": ","}),
        (["1,240.50", "12.5", "80", "3,500", "1250"], r"(?:\d{1,3}(?:,\d{3})+|\d+)(?:\.\d+)?",
         {"type": "decimal", "group_mark": ","}),
        (["1,240", "80", "3,500,000"], r"\d{1,3}(?:,\d{3})*", {"type": "integer", "group_mark": ","}),
        (["-1.5e-05", "3.25e+02", "7.0e10", "6.02e23"], r"-?\d\.\d{1,2}e[+-]?\d{2}", {"type": "decimal"}),
        ([".5", "12.5", "0.75"], r"\d*\.\d+", {"type": "decimal"}),
        (["1.240", "3.500", "7.125"], r"\d\.\d{3}", {"type": "decimal"}),
    ],
)  # fmt: skip
def test_numbers_are_told_with_their_marks(texts: list[str], expression: str, table: dict[str, str]) -> None:
    first = propose(texts)[0]
    assert (first.expression, first.fields) == (f"(?P<number>{expression})", {"number": table})
    spec = FieldSpec(**table)  # type: ignore[arg-type]
    assert all(spec.convert(each) is not None for each in texts)


TEXTS = st.text('abAB019 .,-+:=/"é', max_size=14)


@given(st.lists(TEXTS, min_size=1, max_size=6), st.lists(TEXTS, max_size=2))
def test_a_proposal_can_be_read_and_takes_all_that_must_fit(texts: list[str], fitting: list[str]) -> None:
    for each in propose(texts, fitting):
        compiled = re.compile(each.expression)
        assert all(compiled.fullmatch(text) for text in fitting), each
        assert set(each.fields) <= set(compiled.groupindex)
        for found in filter(None, map(compiled.fullmatch, {*texts, *fitting})):
            for name, table in each.fields.items():
                assert found[name] is None or FieldSpec(**table).convert(found[name]) is not None
        assert sum(compiled.fullmatch(text) is not None for text in {*texts, *fitting}) == each.fit


@given(TEXTS, st.sampled_from(CUTS))
def test_the_pieces_of_a_text_are_the_text(text: str, cut: str) -> None:
    assert "".join(each.text for each in tokens_of(text, cut)) == text  # type: ignore[arg-type]


@given(
    st.lists(st.text("ab7 =\n", max_size=9), max_size=20),
    st.sampled_from([r"[ab]+=\d*", r"(?s:.)", "", "(a|b)*7", "("]),
)
def test_texts_are_judged_alike_all_at_once_and_one_by_one(texts: list[str], expression: str) -> None:
    assert taken_by(expression, texts) == [takes(expression, each) for each in texts]


def test_a_text_that_takes_long_is_refused_and_the_others_are_judged() -> None:
    runaway = "a" * 40 + "b"
    assert taken_by("(a+)+", ["aaa", runaway, "", "a"]) == [True, False, False, True]


@pytest.mark.parametrize(
    "value", ["[^,]+", "[^,]*", ".*", ".+", r"[^]\",]*", r"[\w .-]+", r"[\w ]*", "[^-]*", "[] a-]+"]
)
def test_blanks_before_a_value_are_no_part_of_it_and_no_text_takes_forever(value: str) -> None:
    chance = random.Random(2)
    wide = re.compile(rf"a, +(?P<value>{value}), *(?P<number>\d+)")
    calm = re.compile(polished(wide.pattern))
    assert calm.pattern != wide.pattern
    held = 0
    for _ in range(4000):
        text = "a, " + "".join(chance.choices(' a1-]"', k=chance.randrange(5))) + f",{' ' * chance.randrange(3)}7"
        before, after = wide.fullmatch(text), calm.fullmatch(text)
        assert after is None or (before is not None and before.groups() == after.groups())
        assert after is not None or before is None or not before["value"].strip()
        held += after is not None
    assert held > 200


DAY = [f"{day:02}" for day in range(1, 29)]


@pytest.mark.parametrize(
    ("written", "begun"),
    [
        ("05-{day} {time}.{milli}", r"(?P<at>\d{2}-\d{2} \d{2}:\d{2}:\d{2}\.\d{3})"),
        ("{day}/05 {time}", r"(?P<at>\d{2}/\d{2} \d{2}:\d{2}:\d{2})"),
        ("2605{day} {digits}", r"(?P<at>\d{6} \d{6})"),
        ("202605{day} {digits}", r"(?P<at>\d{8} \d{6})"),
        ("202605{day}-{time}:{milli}", r"(?P<at>\d{8}-\d{2}:\d{2}:\d{2}:\d{1,3})"),
        ("{day}.05.2026 {time}", r"(?P<at>\d{2}\.\d{2}\.\d{4} \d{2}:\d{2}:\d{2})"),
        ("hut.log.1.2026-05-{day}_{time}", r"hut\.log\.1\.(?P<at>\d{4}-\d{2}-\d{2}_\d{2}:\d{2}:\d{2})"),
    ],
)
def test_a_log_of_one_day_is_proposed_for_with_any_day(written: str, begun: str) -> None:
    chance = random.Random(3)

    def line(day: str) -> str:
        time = f"{chance.randrange(24):02}:{chance.randrange(60):02}:{chance.randrange(60):02}"
        begin = written.format(day=day, time=time, digits=time.replace(":", ""), milli=chance.randrange(100, 999))
        return f"{begin} trap C{chance.randrange(1, 30)} took {chance.randrange(90)} frames"

    found = propose([line("04") for _ in range(40)])
    assert found[0].expression == rf"{begun} trap (?P<trap>C\d{{1,2}}) took (?P<took>\d{{1,2}}) frames"
    assert all(each.fits(line(day)) for day in DAY for each in found)


def test_what_is_said_behind_a_colon_is_read_by_its_parts() -> None:
    chance = random.Random(6)
    texts = [
        f"store.Index: \x1b[3{chance.randrange(1, 8)}mmap updated: 10.4.7.{chance.randrange(99)} is "
        f"added to blk_{chance.choice(['-', ''])}{chance.randrange(10**6)} with 0x{chance.getrandbits(32):08x}"
        for _ in range(60)
    ]
    assert propose(texts)[0].expression == (
        r"store\.Index: \x1b\[[\d;]*mmap updated: (?P<updated>\d{1,3}(?:\.\d{1,3}){3}) is added to "
        r"blk_(?P<blk>-?\d+) with (?P<with>0x[0-9a-f]{8})"
    )
