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


def test_survey_of_rows_tells_which_have_a_key_and_the_values_of_a_column_where_they_are_few(desk: Desk) -> None:
    rows = [{"gate": "north", "n": 1}, {"gate": "quarry"}, {"gate": "north"}, {"plot": "B07"}, {"gate": ""}]
    desk.write("rows.jsonl", "\n".join(map(json.dumps, rows)))
    told = desk.run("survey", "rows.jsonl").out
    assert "gate  in 4 of 5 rows, 75.0 % filled" in told and "5 rows in 3 columns." in told
    assert "%  quarry" not in told, "too few come again"
    assert "each row has a value of its own" not in told
    desk.write("more.jsonl", "\n".join(map(json.dumps, 2 * rows)))
    lines = [line.split() for line in desk.run("survey", "more.jsonl").out.splitlines()]
    assert lines[1:4] == [["50.0", "%", "north"], ["25.0", "%", "(nothing)"], ["25.0", "%", "quarry"]]
    assert "  50.0 %  north\n" in desk.run("survey", "more.jsonl", "--column", "gate").out
    data = json.loads(desk.run("survey", "more.jsonl", "--format", "json").out)
    assert data["rows"] == 10 and data["columns"]["gate"]["values"] == {"north": 4, "quarry": 2, "": 2}
    desk.write("edge.csv", "site,n\n" + " fen,1\nfen,2\n" * 3)
    assert "50.0 %  ' fen'\n" in desk.run("survey", "edge.csv").out
    desk.write("apart.jsonl", '{"a": 1}\n{"b": 2}\n{"b": 3}\n')
    assert "3 rows in 2 columns." in desk.run("survey", "apart.jsonl").out


def test_survey_tells_kinds_of_the_texts_of_a_column_where_they_are_asked_for(desk: Desk) -> None:
    said = ["held open {} s", "forced after {} pulls at {}°", "opened by card {:04X}", "card {:x} is no card of hut {}"]
    rows = [{"n": at, "msg": said[at % 4].format(37 * at * at, at % 9)} for at in range(200)]
    desk.write("gates.jsonl", "\n".join(map(json.dumps, rows)))
    shapes = " ".join(desk.run("survey", "gates.jsonl", "--column", "msg").out.split())
    assert "of line" not in shapes and "--kinds N tells which are of one kind" in shapes
    run = desk.run("survey", "gates.jsonl", "--column", "msg", "--kinds", "3", "--format", "json")
    told = json.loads(run.out)["kinds"]
    assert told["kinds"] == 4 and {(each["template"], each["count"]) for each in told["shown"]} < {
        ("held open ⟨number⟩ s", 50),
        ("forced after ⟨number⟩ pulls at ⟨number⟩°", 50),
        ("opened by card ⟨identifier⟩", 50),
        ("card ⟨identifier⟩ is no card of hut ⟨number⟩", 50),
    }


def test_survey_groups_the_digits_of_lengths(desk: Desk) -> None:
    desk.write("long.txt", "a" * 1234 + "\n")
    run = desk.run("survey", "long.txt")
    assert " 1,234  a…" in run.out and "1,234 to 1,234 characters long" in run.out


def test_survey_names_byte_order_marks_and_mixed_line_ends(desk: Desk) -> None:
    (desk.folder / "mixed.txt").write_bytes(b"\xef\xbb\xbfa\r\nb\nc\xff\n")
    told = " ".join(desk.run("survey", "mixed.txt").out.split())
    assert "begins with a byte-order mark" in told
    assert "mixes its line ends: LF on 2 lines and CR LF on 1 line " in told
    assert "byte that is not UTF-8: in 1 text, first on line 3" in told


def test_try_draws_fits_and_misses_and_counts_them(station: Desk) -> None:
    run = station.run("try", r"probe=(?P<plot>[A-F]\d\d) m=(?P<m>\d+\.\d)%", "log.txt")
    assert run.status == 0
    assert "fits    log.txt:1, and 1 like it\n  probe=B07 m=31.4%\n        ├─┤   ├──┤\n        plot  m\n" in run.out
    assert "misses  log.txt:5\n  probe=G01 m=7%\n  ━━━━━━╳\n" in run.out
    assert run.out.splitlines()[-1] == "5 texts: 2 fit (40.0 %), 3 do not"
    missed = station.run("try", "loggers:reading", "log.txt", "--missed", "--show", "1")
    assert "gate=north in" in missed.out and "probe=B07" not in missed.out


CAUSES = ["at 06:10 by fen", "at 07:1 by fen", "at 17:2 by carr", "on 06:10", "at 06:10 by FEN", "at 06:10 by a b"]


@pytest.mark.parametrize("walked", ["on", "off"])
def test_misses_are_told_by_their_cause(desk: Desk, walked: str) -> None:
    many = [*CAUSES, *(f"at 0{number % 10}:{number % 7} by fen" for number in range(4000))]
    desk.write("log.txt", "\n".join(many) + "\n")
    what = ("try", r"at \d\d:\d\d by [a-z]+", "log.txt", "--missed")
    data = json.loads(desk.run(*what, "--format", "json", FIELDSTICK_WALKERS=walked).out)
    told = {each["words"]: each for each in data["causes"]["shown"]}
    assert [(words, each["count"]) for words, each in told.items()] == [
        (r"a digit wanted after \d", 4002),
        ("'at ' wanted at the start", 1),
        ("one of a to z wanted after ' by '", 1),
        ("the end of the text wanted after [a-z]+", 1),
    ]
    assert told[r"a digit wanted after \d"]["first"] == {"source": "log.txt", "line": 2, "text": "at 07:1 by fen"}
    assert data["counts"]["missed"] == data["causes"]["texts"] == 4005
    shown = desk.run(*what, "--show", "3").out
    assert "  4,002 a digit wanted after" in shown and "… 1 other cause of 1 text; --show 4 shows all" in shown
    assert "4 causes: the commonest of 4,002 texts, the rarest of 1" in shown


def test_fields_that_refuse_values_are_causes_of_their_own(desk: Desk) -> None:
    desk.write("m.txt", "".join(f"m={number}\n" for number in (5, 120, 130, 400)) + "x=1\n")
    desk.suite("[patterns.m]\nexpression = 'm=(?P<m>\\d+)'\nfields.m = { type = 'integer', most = 100 }\n")
    found = json.loads(desk.run("try", "loggers:m", "m.txt", "--missed", "--format", "json").out)["causes"]["shown"]
    assert [(each["words"], each["count"]) for each in found] == [
        ("the field 'm' is …, above the most of 100", 3),
        ("'m=' wanted at the start", 1),
    ]


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
    assert data["texts"][-1]["stopped"] is not None and data["texts"][0]["more"] == 1


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
    assert r"java: \d does not fit '٧'" in desk.run("notation", r"\d", "--engine", "java").out
    assert "there it means something else" in desk.run("notation", "&&").err
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
        assert "field" in repair or now["fits"] is not data["fits"]


def test_what_is_known_of_a_text_is_said(desk: Desk) -> None:
    desk.suite(COMBINED)
    out = desk.run("why", "loggers:code", "de12", COLUMNS="120").out
    assert "this text is a negative sample, loggers.suite.toml:7: it is meant not to fit" in out
    assert "changes that make it fit all the same" in out
    assert "allow 700: most = 700" in desk.run("why", "loggers:load", "700 kg").out


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


FIELDS = r"""
[parts]
row = '[A-F]'
plot = '{{row}}\d{2}'
[patterns.reading]
expression = 'plot=(?P<plot>{{plot}}) m=(?P<m>\S+) on (?P<day>\S+) (?P<wet>\w+)'
[patterns.reading.fields]
m = { type = "decimal", least = 0, most = 50 }
day = { type = "date" }
wet = { type = "boolean", true = ["wet"], false = ["dry"] }
[[patterns.reading.positive]]
text = 'plot=B07 m=31.4 on 2026-05-04 wet'
fields = { m = 31.4 }
[[patterns.reading.negative]]
text = 'plot=Z07 m=31.4 on 2026-05-04 wet'
[routes.kinds]
order = ["reading"]
[forms.sheet]
columns = { Reading = "reading" }
"""
RIGHT = "plot=B07 m=31.4 on 2026-05-04 wet"


@pytest.mark.parametrize(
    ("text", "words", "line"),
    [
        (RIGHT.replace("31.4", "51"), "allow 51: most = 51", 'm = { type = "decimal", least = 0, most = 51 }'),
        (RIGHT.replace("31.4", "-1"), "allow -1: least = -1", 'm = { type = "decimal", least = -1, most = 50 }'),
        (
            RIGHT.replace("2026-05-04", "4.5.2026"),
            "it is written as %d.%m.%Y (2026-05-04 00:00)",
            "day = { type = \"date\", layout = '%d.%m.%Y' }",
        ),
        (RIGHT.replace("wet", "damp"), "'damp' means true", "true = ['wet', 'damp']"),
        (
            RIGHT.replace("B07", "G07"),
            "A-F ends before 'G': A-G; breaks no other sample",
            "row = '[A-G]'",
        ),
    ],
)
def test_a_change_is_written_where_it_belongs_after_the_check_was_shown(
    desk: Desk, text: str, words: str, line: str
) -> None:
    desk.suite(FIELDS, "gate")
    before = (desk.folder / "gate.suite.toml").read_text(encoding="utf-8")
    told = desk.run("why", "gate:reading", text, COLUMNS="150").out
    number = next(each.split()[0] for each in told.splitlines() if words in each)
    assert (desk.folder / "gate.suite.toml").read_text(encoding="utf-8") == before
    done = desk.run("why", "gate:reading", text, "--apply", number, COLUMNS="150")
    verdict, wrote, following = done.out.splitlines()[-3:]
    assert done.status == 0 and "2 samples" in verdict and words.split(";")[0] in wrote
    assert following == "Next: fieldstick check gate.suite.toml"
    after = (desk.folder / "gate.suite.toml").read_text(encoding="utf-8")
    assert line in after and sum(a != b for a, b in zip(before.split("\n"), after.split("\n"), strict=True)) == 1
    assert json.loads(desk.run("why", "gate:reading", text, "--format", "json").out)["fits"] is True


def test_a_change_at_several_places_keeps_the_parts_and_is_written_with_them(desk: Desk) -> None:
    suite = """format = 1
suite = "probes"

[parts]
plot = '[A-F]\\d{2}'

[patterns.reading]
expression = 'probe={{plot}} depth=(?P<depth>\\d+) row={{plot}}'
[[patterns.reading.positive]]
text = 'probe=B07 depth=10 row=C12'
"""
    desk.write("probes.suite.toml", suite)
    text = "probe=B07  depth=10  row=C12"
    told = desk.run("why", "probes:reading", text, COLUMNS="150").out
    assert "probe={{plot}} +depth=(?P<depth>\\d+) +row={{plot}}" in told and "[A-F]" not in told
    assert desk.run("why", "probes:reading", text, "--apply", "1").status == 0
    after = (desk.folder / "probes.suite.toml").read_text(encoding="utf-8")
    assert "'probe={{plot}} +depth=(?P<depth>\\d+) +row={{plot}}'" in after
    assert json.loads(desk.run("why", "probes:reading", text, "--format", "json").out)["fits"] is True


def test_a_mark_of_the_text_is_exchanged_where_the_field_wants_another(desk: Desk) -> None:
    suite = """format = 1
suite = "days"

[patterns.day]
expression = '(?P<at>\\d{4}-\\d{2}-\\d{2})'
[patterns.day.fields.at]
type = "date"
[[patterns.day.positive]]
text = '2026-05-04'
"""
    desk.write("days.suite.toml", suite)
    told = desk.run("why", "days:day", "2026/05/05", COLUMNS="150").out
    assert "write '-' in the place of '/' in the text, each time" in told and "2026-05-05" in told


@pytest.mark.parametrize(
    ("expression", "text", "change"),
    [
        ("moor*.csv", "moor-a.csv", r"moor.*\.csv"),
        (r"(\d+)( cm)?", "12 cm wet", r"(\d+)( cm)?(?: \w+)?"),
        (r"(?P<plot[A-Z]\d\d)", "B07", r"(?P<plot>[A-Z]\d\d)"),
        ("\\p{Lu}\\d\\d", "B07", r"[A-Z]\d\d"),
        ("", "B07", ""),
    ],
)
def test_a_draft_is_answered_in_a_narrow_terminal_and_as_data(
    desk: Desk, expression: str, text: str, change: str
) -> None:
    run = desk.run("why", "-e", expression, text, COLUMNS="40")
    assert run.status == 0 and not run.err and change in run.out.replace("\n        ", "")
    data = json.loads(desk.run("why", "-e", expression, text, "--format", "json").out)
    assert change in [each["expression"] for each in data["repairs"]] or not change


def test_what_cannot_be_written_changes_nothing(desk: Desk) -> None:
    desk.suite(FIELDS, "gate")
    before = (desk.folder / "gate.suite.toml").read_bytes()
    far = desk.run("why", "gate:reading", RIGHT.replace("B07", "G07"), "--apply", "99")
    blank = desk.run("why", "gate:reading", RIGHT + " ", "--apply", "1")
    bare = desk.run("why", "-e", "a", "b", "--apply", "1")
    assert (far.status, blank.status, bare.status) == (2, 2, 2)
    assert "--apply 99: there are" in far.err and "changes the text" in blank.err and "SUITE:PATTERN" in bare.err
    assert (desk.folder / "gate.suite.toml").read_bytes() == before


def test_routes_and_forms_say_which_member_came_furthest(desk: Desk) -> None:
    desk.suite(FIELDS, "gate")
    assert "'reading' came furthest, and none fits" in desk.run("why", "gate:kinds", "plot=B07 m").out
    row = json.dumps({"Reading": RIGHT.replace("wet", "damp")})
    found = json.loads(desk.run("why", "gate:sheet", row, "--format", "json").out)["columns"]
    assert [(each["column"], each["field"]) for each in found] == [("Reading", "wet")]
    (desk.folder / "rows.csv").write_text("Other,Reading\n1,plot=B7\n", encoding="utf-8")
    assert "a digit" in desk.run("why", "gate:sheet", "--from", "rows.csv:2").out
    assert "none of the form's columns" in desk.run("why", "gate:sheet", '{"Other": "1"}').err
    assert "write it as" in desk.run("why", "gate:sheet", "plot").err


def test_texts_given_beside_decide_which_change_comes_first(desk: Desk) -> None:
    def first(*beside: str) -> str:
        data = json.loads(desk.run("why", "-e", r"\d{3}", "12", *beside, "--format", "json").out)
        return str(data["repairs"][0]["expression"])

    assert first() == r"\d{2,3}"
    assert first("--also-fits", "47", "--also-fits", "99") == r"\d{2}"
    assert first("--also-fits", "1", "--also-fits", "417") == r"\d{1,3}"
    assert first("--also-fits", "47", "--also-not", "123") == r"\d{2}"


def test_an_expression_that_cannot_be_read_is_mended(desk: Desk) -> None:
    run = desk.run("why", "-e", r"(\d+", "(12")
    assert run.status == 0 and "cannot be read" in run.out and r"\(\d+" in run.out
    data = json.loads(desk.run("why", "-e", "[9-0]+", "7", "--format", "json").out)
    assert data["fault"]["expression"] == 1 and data["repairs"][0]["expression"] == "[0-9]+"


WHICH = r"""
[patterns.code]
expression = 'LM-(?P<year>20\d{2})-(?P<number>\d{4})'
[patterns.anything]
expression = '.*'
[patterns.plot]
expression = '[A-F]\d{2}'
[patterns.of]
expression = '{{=site}}'
parameters = ["site"]
"""


def test_which_of_all_patterns_fit_a_text_and_which_came_furthest(desk: Desk) -> None:
    desk.suite(WHICH)
    desk.suite("[patterns.load]\nexpression = '(?P<kg>\\d+) kg'\nfields.kg = { type = 'integer', most = 500 }\n", "b")
    found = json.loads(desk.run("which", "LM-2026-0417", "--format", "json").out)
    assert [each["pattern"] for each in found["fits"]] == ["loggers:code", "loggers:anything"]
    assert found["fits"][0]["fields"]["number"] == {"text": "0417", "place": [8, 12]}
    assert found["not_asked"] == ["loggers:of"]
    near = desk.run("which", "LM-2026-041", "--show", "1")
    assert near.status == 0 and "came    loggers:code" in near.out and "1 of 4 patterns fits" in near.out
    none = desk.run("which", "700 kg", "--within", "b")
    assert none.status == 1 and "the field 'kg' is 700, above the most of 500" in none.out
    assert "needs a parameter's value" not in none.err and desk.run("which").status == 2


@pytest.mark.parametrize("walked", ["on", "off"])
def test_which_counts_the_texts_of_a_source_by_pattern(desk: Desk, walked: str) -> None:
    desk.suite(WHICH.replace("expression = '.*'", "expression = 'x.*'"))
    lines = ["B07", "LM-2026-0417", "xB07", "LM-2026-041", "C12"] * 800
    desk.write("log.txt", "\n".join(lines) + "\n")
    run = desk.run("which", "log.txt", "--format", "json", FIELDSTICK_WALKERS=walked)
    found = json.loads(run.out)
    assert [(each["pattern"], each["fit"], each["first"]) for each in found["patterns"]] == [
        ("loggers:plot", 1600, ["log.txt", 1]),
        ("loggers:code", 800, ["log.txt", 2]),
        ("loggers:anything", 800, ["log.txt", 3]),
    ]
    assert (found["texts"], found["none"], found["unknown"]["line"]) == (4000, 800, 4)
    assert found["unknown"]["furthest"][0]["pattern"] == "loggers:code"
    told = desk.run("which", "log.txt").out
    assert "4,000 texts: 800 that no pattern fits" in told
    assert "there is no file 'nowhere.txt'" in desk.run("which", "log.txt", "nowhere.txt").err


@pytest.mark.parametrize("walked", ["on", "off"])
def test_texts_that_do_not_fit_are_kept_with_their_reason(desk: Desk, walked: str) -> None:
    desk.suite("[patterns.m]\nexpression = 'm=(?P<m>\\d+) on'\nfields.m = { type = 'integer', most = 100 }\n")
    desk.write("log.txt", "".join(f"m={number} {'on' if number % 3 else 'off'}\n" for number in range(2000)))
    what = ("extract", "loggers:m", "log.txt", "--to", "m.csv", "--rejects", "bad.jsonl")
    run = desk.run(*what, FIELDSTICK_WALKERS=walked)
    assert run.status == 0, run
    kept = (desk.folder / "m.csv").read_text(encoding="utf-8").split()
    rows = [json.loads(line) for line in (desk.folder / "bad.jsonl").read_text(encoding="utf-8").splitlines()]
    fitting = [number for number in range(101) if number % 3]
    assert kept == ["m", *map(str, fitting)]
    assert [row["line"] for row in rows] == [number + 1 for number in range(2000) if number not in fitting]
    told = {(row["reason"], row["words"]) for row in rows}
    assert told == {
        ("did-not-match", "' on' wanted after (?P<m>\\d+)"),
        ("field-invalid", "the field 'm' is …, above the most of 100"),
    }
    assert rows[0] == {"source": "log.txt", "line": 1, "reason": "did-not-match", "words": rows[0]["words"],
                       "text": "m=0 off"}  # fmt: skip
    refused = desk.run("extract", "-e", "a", "log.txt", "--rejects", "log.txt")
    assert refused.status == 2 and (desk.folder / "log.txt").stat().st_size > 1000


def test_what_select_leaves_is_told_by_cause_and_validate_names_shapes(desk: Desk) -> None:
    desk.suite("[patterns.m]\nexpression = '\\d{1,2}'\n")
    desk.write("m.csv", "Heads\n" + "".join(f"{each}\n" for each in ["7", "12", "six", "ten", "7 + 2", "120"]))
    why = desk.run("select", "loggers:m", "m.csv", "--column", "Heads", "--not", "--why", "--report", "r.json")
    assert why.status == 0 and "      2 a digit wanted at the start" in why.out
    told = json.loads((desk.folder / "r.json").read_text(encoding="utf-8"))["why"]
    assert (told["causes"], told["texts"]) == (2, 4)
    assert desk.run("select", "loggers:m", "m.csv", "--column", "Heads", "--why").status == 2
    run = desk.run("validate", "--judge", "Heads=loggers:m", "m.csv", "--report", "v.json")
    assert "2 of a like 'six'; 1 of 9 + 9 like '7 + 2'; 1 of 9 like '120'" in " ".join(run.out.split())
    shapes = json.loads((desk.folder / "v.json").read_text(encoding="utf-8"))["shapes"]["Heads"]
    assert shapes[0] == {"shape": "a", "count": 2, "example": "six"}


def test_a_sample_captured_otherwise_than_it_asks_is_told_why_and_what_would_mend_it(desk: Desk) -> None:
    suite = """format = 1
suite = "notes"

[patterns.note]
expression = '(?P<head>.+): (?P<body>.+)'
[[patterns.note.positive]]
text = 'B07: wet: rain'
fields = { head = "B07" }
[[patterns.note.positive]]
text = 'hag: 3: dry'
fields = { body = "3: dry" }
"""
    desk.write("notes.suite.toml", suite)
    first = desk.run("why", "notes:note", "B07: wet: rain", COLUMNS="150")
    assert "'head' came out otherwise: the sample asks for B07, and it is B07: wet" in first.out
    done = desk.run("why", "notes:note", "B07: wet: rain", "--apply", "1")
    assert r"expression = '(?P<head>.+?): (?P<body>.+)'" in (desk.folder / "notes.suite.toml").read_text(
        encoding="utf-8"
    ), done.err
    after = desk.run("why", "notes:note", "B07: wet: rain")
    assert desk.run("check").status == 0 and "otherwise" not in after.out
