"""`survey`, `try`, `explain`, `why` and `notation`, run as their users run them."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from conftest import Desk

LOG = "probe=B07 m=31.4%\nprobe=C12 m=8.0%\ngate=north in\n\nprobe=G01 m=7%\n"
SUITE = r"""
[parts]
plot = '[A-F]\d{2}'
[patterns.reading]
about = "One reading"
expression = 'probe=(?P<plot>{{plot}}) m=(?P<m>\d+\.\d)%'
fields.m = { type = "decimal", most = 100 }
positive = ['probe=B07 m=31.4%', 'probe=A01 m=8.0%']
negative = ['probe=B07 m=31%']
[patterns.of]
expression = 'trap={{=trap}}'
parameters = ["trap"]
[patterns.either]
any_of = ["reading"]
"""


@pytest.fixture
def station(desk: Desk) -> Desk:
    desk.write("log.txt", LOG)
    desk.suite(SUITE)
    return desk


def test_survey_shows_shapes_with_counts_shares_and_what_is_odd(desk: Desk) -> None:
    desk.write("codes.txt", "B07/3\nB12/4\nC1/12\nplot B07\n\nΛόφος 3\nB07/3 \nx\u00a0y\n")
    run = desk.run("survey", "codes.txt")
    assert run.status == 0
    rows = [line.split(None, 4) for line in run.out.splitlines()]
    assert ["4", "50.0", "%", "5", "A9…/9…  B07/3"] not in rows  # C1/12 is shorter, so the lengths vary
    assert any(row[:3] == ["3", "37.5", "%"] and "A9…/9…" in row[4] for row in rows if len(row) == 5)
    for odd in ("greek letters", "no-break space", "white space at an edge", "empty"):
        assert f"{odd}: in 1 text" in " ".join(run.out.split())
    assert "8 texts, 8 different, in 6 shapes; 0 to 8 characters long." in run.out
    data = json.loads(desk.run("survey", "codes.txt", "--format", "json", "--rare").out)
    assert data["texts"] == 8 and data["shapes"][0]["count"] == 1
    assert sum(shape["count"] for shape in data["shapes"]) == 8


def test_survey_of_a_table_profiles_each_column(desk: Desk) -> None:
    desk.write("rows.csv", 'Ring,Wing\nRX 1,"133,5"\nRX 2,\nRX 2,96\n')
    run = desk.run("survey", "rows.csv")
    assert "Ring  100.0 % filled, 2 different, 4 long" in run.out
    assert "Wing  66.7 % filled, 3 different, 0-5 long" in run.out
    assert desk.run("survey", "rows.csv", "--column", "Wng").err.strip().endswith("the nearest is 'Wing'")


def test_survey_names_byte_order_marks_and_mixed_line_ends(desk: Desk) -> None:
    (desk.folder / "mixed.txt").write_bytes(b"\xef\xbb\xbfa\r\nb\nc\xff\n")
    told = " ".join(desk.run("survey", "mixed.txt").out.split())
    assert "begins with a byte-order mark" in told
    assert "mixes its line ends: LF on 2 lines and CR LF on 1 lines" in told
    assert "byte that is not UTF-8: in 1 text, first on line 3" in told


def test_try_draws_fits_and_misses_and_counts_them(station: Desk) -> None:
    run = station.run("try", r"probe=(?P<plot>[A-F]\d\d) m=(?P<m>\d+\.\d)%", "log.txt")
    assert run.status == 0
    assert "fits    log.txt:1\n  probe=B07 m=31.4%\n        ├─┤   ├──┤\n        plot  m\n" in run.out
    assert "misses  log.txt:5\n  probe=G01 m=7%\n  ━━━━━━╳\n" in run.out
    assert run.out.splitlines()[-1] == "5 texts: 2 fit (40.0 %), 3 do not"
    missed = station.run("try", "loggers:reading", "log.txt", "--missed", "--show", "1")
    assert "gate=north in" in missed.out and "probe=B07" not in missed.out


def test_try_says_when_a_match_takes_nothing(station: Desk) -> None:
    run = station.run("try", r"\d*", "log.txt", "--reach", "anywhere", "--show", "1")
    assert "it matches nothing, at 0" in run.out and "4 of the matches take nothing" in run.out
    assert "hazard  matches-nothing" in run.out


def test_try_tells_what_a_change_cost(station: Desk) -> None:
    run = station.run(
        "try", r"probe=(?P<plot>[A-C]\d)", "log.txt", "--reach", "anywhere", "--against", r"probe=(?P<plot>\w\d\d)"
    )
    assert "against the other: 0 gained, 1 lost, 2 captured otherwise" in run.out
    same = station.run("try", r"probe=(?P<plot>\w\d)", "log.txt", "--reach", "start", "--against", r"probe=(?P<p>\w\d)")
    assert "0 gained, 0 lost, 3 captured otherwise" in same.out, "a renamed group is captured otherwise"


def test_try_gives_the_fields_as_a_table_and_as_json(station: Desk) -> None:
    table = station.run("try", "loggers:reading", "log.txt", "--fields").out.splitlines()
    assert [line.split() for line in table[:3]] == [["line", "plot", "m"], ["1", "B07", "31.4"], ["2", "C12", "8.0"]]
    data = json.loads(station.run("try", "{{plot}}", "log.txt", "--suite", "loggers.suite.toml", "--reach", "anywhere",
                                  "--take", "all", "--format", "json").out)  # fmt: skip
    assert data["counts"] == {"texts": 5, "fit": 2, "missed": 3, "nothing": 0, "gave_up": 0}
    assert data["texts"][0]["matches"] == [{"place": [6, 9], "fields": {}}]
    assert data["texts"][4]["stopped"] is not None


def test_try_counts_the_same_in_bulk_as_one_by_one(desk: Desk) -> None:
    lines = [f"probe={'ABG'[number % 3]}{number % 100:02} m={number}" for number in range(1200)] + ["a" * 30 + "!"]
    desk.write("big.txt", "\n".join(lines) + "\n")
    for expression in (r"probe=[A-F]\d\d m=\d+", r"(a+)+$|probe.*"):
        counts = [
            json.loads(desk.run("try", expression, "big.txt", "--show", show, "--format", "json").out)["counts"]
            for show in ("0", "100000")
        ]
        assert counts[0] == counts[1] and counts[0]["texts"] == 1201
    assert counts[0]["gave_up"] == 1 and counts[0]["fit"] == 1200


def test_try_reads_standard_input_and_says_when_nothing_is_there(desk: Desk) -> None:
    assert "1 texts" not in desk.run("try", "a", "-", typed="a\n").out
    empty = desk.run("try", "a", "-", typed="")
    assert empty.status == 1 and "the source holds no text" in empty.err


def test_try_steps_with_single_keys_in_a_terminal(station: Desk) -> None:
    shown = station.in_terminal("try", "probe=.*", "log.txt", "--step", keys="nmbq", NO_COLOR="1")
    order = [line.split(":")[-1] for line in shown.splitlines() if "log.txt:" in line]
    assert order == ["1", "2", "3", "2"]
    assert "needs a terminal" in station.run("try", "a", "log.txt", "--step").err


def test_explain_speaks_of_parts_by_their_names(station: Desk) -> None:
    run = station.run("explain", "loggers:reading")
    assert "{{plot}}" in run.out and "one of A to F" in run.out and "groups     1 plot, 2 m" in run.out
    assert "fits when any of these does" in station.run("explain", "loggers:either").out
    data = json.loads(station.run("explain", "[A-z]", "--flag", "ascii", "--format", "json").out)
    assert data["outline"] == [{"depth": 0, "span": [0, 5], "source": "[A-z]", "words": "one of A to z", "part": None}]
    assert (data["shortest"], data["longest"], data["hazards"][0]["kind"]) == (1, 1, "wide-range")


def test_explain_marks_what_cannot_be_read(desk: Desk) -> None:
    run = desk.run("explain", r"ab(?<x>\d)")
    assert run.status == 2
    assert run.err.splitlines()[:2] == [r"  ab(?<x>\d)", "    ━━━━━"]
    assert "here it is (?P<x>" in run.err


def test_why_gives_the_stop_and_full_settings(station: Desk) -> None:
    data = json.loads(station.run("why", "loggers:reading", "probe=B07 m=31%", "--format", "json").out)
    assert data["fits"] is False
    assert data["stopped"]["text"] == 14 and data["stopped"]["found"] == "'%'"
    first = data["repairs"][0]
    assert set(first) == {"words", "expression", "flags", "reach", "text", "breaks"}
    bare = json.loads(station.run("why", "-e", r"\d(3)", "417", "--format", "json").out)
    assert bare["repairs"][0]["expression"] == r"\d{3}" and "breaks" not in bare["repairs"][0]


def test_why_counts_the_other_samples_that_a_change_would_break(station: Desk) -> None:
    run = station.run("why", "loggers:reading", "probe=B07 m=9%")
    assert "breaks 1 other sample" in run.out, "the decimal is what the negative sample is about"


def test_why_knows_fields_members_and_texts_that_fit(station: Desk) -> None:
    invalid = station.run("why", "loggers:reading", "probe=B07 m=131.4%")
    assert "the field 'm' is 131.4, above the most of 100" in invalid.out
    assert "the expression matches the whole text" in station.run("why", "loggers:either", "probe=B07 m=1.4%").out
    assert "--parameter trap=VALUE" in station.run("why", "loggers:of", "trap=C3").err
    assert station.run("why", "loggers:of", "trap=C.", "--parameter", "trap=C.").status == 0
    assert "no suite here is named 'logers'; the nearest is 'loggers'" in station.run("why", "logers:reading", "x").err


def test_notation_is_listed_drawn_and_told_apart_by_engine(desk: Desk) -> None:
    assert "possessive" not in desk.run("notation", "--engine", "re2").out
    shown = desk.run("notation", "look-ahead").out
    assert "(?=a) (?!a)" in shown and "8.2C 31%\n" in shown and "━━" in shown
    assert r"python does not have \h; there it is [^\S\n" in desk.run("notation", r"\h").err
    for token, key in [
        ("*", "star"), ("(?=", "look-ahead"), ("{2}", "bounds"), ("|", "alternation"), ("greedy", "plus"),
        ("[]a]", "bracket-first"), ("{,n}", "upper-bound"), ("octal", "octal"), (r"[\b]", "backspace"),
        ("lookbehind", "look-behind"), ("range", "class"),
    ]:  # fmt: skip
        assert f"  {key}\n" in desk.run("notation", token).out
    assert "  java       0 to 9 alone" in desk.run("notation", r"\d").out
    assert "there it means: the class ends at its first ]" in desk.run("notation", "&&").err
    assert "the nearest is 'quantifiers'" in desk.run("notation", "quantifier").err
    listed = json.loads(desk.run("notation", "--engine", "all", "--format", "json").out)
    assert {"recursion", "named", "dot"} <= {each["key"] for each in listed}


def test_check_says_where_a_sample_stopped_and_what_may_be_meant(desk: Desk) -> None:
    desk.suite("[patterns.p]\nexpression = 'm=\\d(2)'\npositive = ['m=31']\n")
    run = desk.run("check")
    assert "    m=31\n    ━━━╳\n" in run.out
    assert "because    it stops at 3: wanted '2'; found '1'" in run.out
    assert "perhaps    (2) is meant as a quantifier: {2}" in run.out


COMBINED = """
[patterns.code]
expression = '[A-Z]{2}\\d{2}'
positive = ['DE12']
negative = ['de12']
[patterns.short]
expression = '.{1,4}'
[patterns.load]
expression = '(?P<kg>\\d+) kg'
fields.kg = { type = "integer", most = 500 }
[patterns.both]
all_of = ["code", "short"]
[patterns.either]
any_of = ["code", "load"]
[patterns.neither]
none_of = ["code", "load"]
[patterns.outer]
any_of = ["both", "load"]
"""


@pytest.mark.parametrize(
    ("pattern", "text", "path", "stop", "words"),
    [
        ("either", "DE1", ["code"], 3, None),
        ("either", "31 k", ["load"], 4, None),
        ("either", "700 kg", ["load"], None, "the field 'kg' is 700, above the most of 500"),
        ("both", "DE123", ["code"], 4, None),
        ("neither", "DE12", ["code"], None, None),
        ("neither", "x", ["code"], 0, None),
        ("outer", "DE1", ["both", "code"], 3, None),
        ("outer", "12 k", ["load"], 4, None),
    ],
)
def test_the_member_that_decides_is_the_one_that_is_explained(
    desk: Desk, pattern: str, text: str, path: list[str], stop: int | None, words: str | None
) -> None:
    desk.suite(COMBINED)
    data = json.loads(desk.run("why", f"loggers:{pattern}", text, "--format", "json").out)
    assert [each["member"] for each in data["members"]] == path
    assert (data["stopped"]["text"] if data["stopped"] else None, data.get("words")) == (stop, words)
    old = "[A-Z]{2}\\d{2}" if path[-1] == "code" else "(?P<kg>\\d+) kg"
    for repair in data["repairs"]:
        # With the change in its place, what comes of the whole pattern is the other way round.
        head = f"[patterns.{path[-1]}]\n"
        own = f"{head}reach = '{repair['reach']}'\nflags = {json.dumps(repair['flags'])}\n"
        desk.suite(COMBINED.replace(head, own).replace(f"'{old}'", f"'{repair['expression']}'"))
        now = json.loads(desk.run("why", f"loggers:{pattern}", repair["text"], "--format", "json").out)
        assert now["fits"] is not data["fits"]


def test_what_is_known_of_a_text_is_said(desk: Desk) -> None:
    desk.suite(COMBINED)
    out = desk.run("why", "loggers:code", "de12", COLUMNS="120").out
    assert "this text is a negative sample, loggers.suite.toml:7: it is meant not to fit" in out
    assert "changes that make it fit all the same" in out
    assert "the expression matches; change the value" in desk.run("why", "loggers:load", "700 kg").out


@pytest.mark.parametrize(
    ("expression", "text", "words"),
    [
        (r"\d", "55", "wanted the end of the text; found '5'"),
        (r"\d+\.", "7a", "wanted '.' or more of a digit; found 'a'"),
        (r"\d+\d", "7a", "wanted a digit; found 'a'"),
        ("café", "cafe\u0301", "wanted 'é'; found 'e'"),
        ("B0[a-f]", "B0\u0430", "found 'а' (U+0430, cyrillic small letter a), which looks like 'a'"),
        ("B 7", "B\u00a07", "found a no-break space (U+00A0, no-break space), which looks like a blank"),
    ],
)
def test_where_it_stops_is_said_so_that_it_can_be_seen(desk: Desk, expression: str, text: str, words: str) -> None:
    shown = desk.run("why", "-e", expression, text, COLUMNS="200").out
    assert words in shown


@pytest.mark.parametrize(
    ("expression", "text", "repaired"),
    [("café", "cafe\u0301", "café"), ("B0a", "B0\u0430", "B0a"), ("B 7", "B\u00a07", "B 7")],
)
def test_look_alikes_are_put_right_at_once(desk: Desk, expression: str, text: str, repaired: str) -> None:
    data = json.loads(desk.run("why", "-e", expression, text, "--format", "json").out)
    assert data["repairs"][0]["text"] == repaired


def test_a_text_that_spends_its_budget_is_explained_by_what_lets_it(desk: Desk) -> None:
    run = desk.run("why", "-e", "(a+)+b", "a" * 40)
    assert run.status == 1 and "nested-repeats" in run.out and "make one of the two possessive" in run.out


def test_tables_of_any_kind_are_surveyed_by_column_and_what_was_not_read_is_said(desk: Desk) -> None:
    desk.write("a.tsv", "Plot\tn\nB07\t1\nC12\t2\textra\n")
    desk.write("b.jsonl", '{"Plot": "B07", "n": 5}\n{"Plot": \n{"Plot": "x"}\n')
    both = desk.run("survey", "a.tsv", "b.jsonl")
    assert "Plot  100.0 % filled, 3 different" in both.out and both.status == 1
    assert "a.tsv: 1 row has another number of cells" in both.err and "b.jsonl: 1 line is not JSON" in both.err
    rows = "".join(f"{'x-' * (number % 9)},{number}\n" for number in range(1, 5001))
    desk.write("r.csv", "Plot\n" + rows)
    ragged = desk.run("survey", "r.csv", "--top", "2", "--rare")
    assert "5,000 rows have another number of cells" in ragged.out and ragged.status == 1
    assert "and 7 further shapes; --top shows more" in ragged.out
    assert "and 8 further shapes" in desk.run("survey", "r.csv", "--top", "1").out
    assert "Plot  " not in desk.run("survey", "a.tsv", "b.jsonl", "--as", "lines").out
