"""Trials judge a suite by real data, and tell line by line what a change to patterns or data made of it."""

from __future__ import annotations

import json
import re
from functools import partial
from typing import TYPE_CHECKING, Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Desk, read_suite
from fieldstick.comparing.baseline import read_baseline
from fieldstick.comparing.trials import run_and_hold
from fieldstick.data.lines import line_blocks
from fieldstick.data.source import Source
from fieldstick.runs.trials import GROUP, DigestedSource, reading_of

if TYPE_CHECKING:
    from collections.abc import Sequence
    from pathlib import Path

SUITE = """
[parts]
plot = '[A-F]\\d{2}'
[patterns.probe]
expression = 'probe=(?P<plot>{{plot}}) moisture=(?P<moisture>\\d+\\.\\d)'
fields.moisture = { type = "decimal", most = 60 }
positive = ['probe=B07 moisture=31.4']
negative = ['probe=B07']
[patterns.gate]
expression = 'gate=(?P<gate>\\w+)'
positive = ['gate=north']
negative = ['gate=']
"""
BY_ROUTE = """
[routes.kind]
order = ["probe", "gate"]
otherwise = "rest"
[[routes.kind.samples]]
text = 'gate=north'
kind = "gate"
[[trials]]
data = "may.log"
route = "kind"
"""
BY_PATTERNS = '[[trials]]\ndata = "may.log"\npatterns = ["probe", "gate"]\n'


def may(lines: int = 2000) -> list[str]:
    """Return the lines of a log: of ten, six readings of a probe, three of the gate and one of neither."""
    kinds = [lambda n: f"probe=B{n % 90 + 10} moisture={n % 50}.{n % 10}"] * 6
    kinds += [lambda n: f"gate={('north', 'quarry')[n % 2]}"] * 3 + [lambda n: f"-- {n} --"]
    return [kinds[number % 10](number) for number in range(lines)]


class Station:
    """A suite with a trial over a log, both to be changed."""

    def __init__(self, desk: Desk, trial: str = BY_ROUTE, lines: Sequence[str] | None = None) -> None:
        self.desk, self.path = desk, desk.suite(SUITE + trial)
        self.log(may() if lines is None else lines)
        assert desk.run("baseline", "--yes").status == 0

    def log(self, lines: Sequence[str]) -> None:
        self.desk.write("may.log", "".join(f"{line}\n" for line in lines))

    def edit(self, before: str, after: str) -> None:
        text = self.path.read_text()
        assert before in text
        self.path.write_text(text.replace(before, after))

    def found(self, *options: str) -> tuple[int, dict[str, Any]]:
        run = self.desk.run("check", "--format", "json", *options)
        assert run.err == "", run.err
        (trial,) = json.loads(run.out)["suites"][0]["trials"]
        return run.status, trial

    def standing(self, *options: str) -> tuple[int, dict[str, Any]]:
        status, trial = self.found(*options)
        return status, {key: value for key, value in trial["baseline"].items() if value}


@pytest.fixture
def station(desk: Desk) -> Station:
    return Station(desk)


def test_a_trial_that_holds_is_one_line_and_no_failure(station: Station) -> None:
    assert station.found()[0] == 0
    run = station.desk.run("check")
    assert run.status == 0 and "1 trial holds" in run.out
    assert re.search(r"loggers:may.log +2,000 +1,800 +90.0 % +holds", run.out)
    assert "trial" not in station.desk.run("check", "--no-trials").out


@pytest.mark.parametrize(
    ("trial", "keys", "words"),
    [
        (BY_ROUTE, "fits_share = { least = 0.9 }", None),
        (BY_ROUTE, "fits_share = { least = 0.91 }", "share of texts that fit at least 91.0 %; it is 90.0 %"),
        (BY_ROUTE, "fits_share = { gate = { most = 0.2 } }", "share of 'gate' at most 20.0 %; it is 30.0 %"),
        (BY_ROUTE, "counts = { rest = 200, probe = { least = 1200, most = 1200 } }", None),
        (BY_ROUTE, "counts = { rest = 3 }", "count of 'rest' exactly 3; it is 200"),
        (BY_PATTERNS, "fits_share = 0.9\ncounts = { gate = 600 }", None),
        (BY_PATTERNS, "counts = { probe = { most = 9 } }", "count of 'probe' at most 9; it is 1200"),
    ],
)
def test_shares_and_counts_are_judged(desk: Desk, trial: str, keys: str, words: str | None) -> None:
    found = Station(desk, trial)
    found.path.write_text(found.path.read_text() + keys + "\n")
    run = desk.run("check")
    assert run.status == (0 if words is None else 1)
    if words is None:
        return
    assert f"wanted     {words}" in run.out
    # What does not fit is drawn where it stops, the pattern that came furthest named.
    assert ("misses" in run.out) == ("fit" in words or "count" in words or "share" in words)
    assert "but a trial falls short" in run.out.splitlines()[-1] and "of 1 trial, 1 fails" in run.out
    tap = desk.run("check", "--format", "tap").out
    assert words in tap and re.search(r"^not ok \d+ - loggers trial may.log", tap, re.MULTILINE)
    assert words in desk.run("check", "--format", "junit").out.replace("&apos;", "'")


def test_a_form_is_tried_by_its_columns(desk: Desk) -> None:
    desk.write("permits.csv", "Plot,Gate\nB07,north\nB7,quarry\nC01,\nB02,north\n")
    desk.suite(
        SUITE
        + """
[patterns.plot]
expression = '{{plot}}'
positive = ['B07']
negative = ['B7']
[forms.permit]
columns = { Plot = "plot", Gate = "plot" }
[[forms.permit.samples]]
row = { Plot = "B07", Gate = "" }
[[trials]]
data = "permits.csv"
form = "permit"
counts = { Plot = 3 }
fits_share = { Gate = { most = 0.1 }, least = 0.1 }
""",
    )
    run = desk.run("check")
    assert run.status == 1, run.err
    assert "share of 'Gate' at most 10.0 %; it is 25.0 %" in run.out and "count of 'Plot'" not in run.out


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (None, "may.log: cannot be read: No such file"),
        ("", "there is no text in the data: nothing was tried"),
        ("gate=north\n" + "x" * 10_000_001 + "\n", "1 text could not be read and is left out"),
    ],
)
def test_data_that_cannot_be_read_fails(station: Station, content: str | None, words: str) -> None:
    path = station.desk.folder / "may.log"
    path.unlink()
    if content is not None:
        path.write_text(content)
    run = station.desk.run("check")
    assert run.status == 1 and words in run.out
    assert station.desk.run("baseline", "--yes").status == (2 if content is None else 0)


def test_a_bound_tightened_is_told_by_line_with_the_field(station: Station) -> None:
    station.edit("most = 60", "most = 45")
    status, standing = station.standing()
    lost = [number for number, line in enumerate(may(), 1) if re.search(r"=(4[5-9]|5\d)\.[1-9]|=4[6-9]\.", line)]
    assert (status, standing["lost"]) == (1, len(lost)) and "gained" not in standing and standing["data"] == "same"
    assert standing["patterns"] == {
        "probe": [{"name": "moisture", "before": "decimal, most 60", "now": "decimal, most 45"}]
    }
    (cause,) = standing["causes"]
    assert [line["line"] for line in cause["lines"]] == lost[:3]
    text = station.desk.run("check").out
    assert f"line {lost[0]}" in text and "above the most of 45" in text


def test_what_is_lost_is_grouped_by_where_it_stops(station: Station) -> None:
    station.edit("plot = '[A-F]\\d{2}'", "plot = '[A-F][1-4]\\d'")
    station.edit("\\d+\\.\\d)", "\\d+\\.[0-8])")
    _, standing = station.standing()
    stops = sorted((cause["lines"][0]["stops_at"], cause["count"]) for cause in standing["causes"])
    plots = [bool(re.match(r"probe=B[5-9]", line)) for line in may()]
    nines = [line.startswith("probe=") and line.endswith("9") for line in may()]
    assert standing["lost"] == sum(a or b for a, b in zip(plots, nines, strict=True)) == sum(n for _, n in stops)
    assert {place for place, _ in stops} >= {7}


def test_gained_moved_and_otherwise_are_changes_that_can_be_tolerated(station: Station) -> None:
    station.edit("gate=(?P<gate>\\w+)", "(?:gate=|-- )(?P<gate>\\w+)(?: --)?")
    status, standing = station.standing()
    assert status == 1 and standing["gained"] == 200 and "lost" not in standing
    run = station.desk.run("check", "--tolerate", "changed")
    assert run.status == 0 and "tolerated" in run.out
    station.edit('order = ["probe", "gate"]', 'order = ["gate", "probe"]')
    station.edit("(?:gate=|-- )(?P<gate>\\w+)(?: --)?", "(?:gate=|probe=)(?P<gate>\\w+).*")
    assert station.standing()[1]["moved"] == 1200


def test_a_renamed_or_renumbered_group_is_seen_in_the_lines(station: Station) -> None:
    station.edit("(?P<gate>\\w+)", "(?P<barrier>\\w+)")
    status, standing = station.standing()
    assert status == 1 and standing["otherwise"] == 600
    changes = standing["patterns"]["gate"]
    assert [(each["name"], each["before"], each["now"]) for each in changes] == [
        ("gate", "text", "no such field"),
        ("barrier", "no such field", "text"),
    ]
    station.edit("gate=(?P<barrier>\\w+)", "(g)ate=(?P<gate>\\w+)")
    assert ("gate", "group 1", "group 2") in [
        (each["name"], each["before"], each["now"]) for each in station.standing()[1]["patterns"]["gate"]
    ]


def test_lines_appended_change_nothing_but_the_counts(station: Station) -> None:
    for more in (1, GROUP, 3000):
        station.log(may(2000 + more))
        status, standing = station.standing()
        assert (status, standing) == (
            0,
            {
                "data": "appended",
                "appended": more,
            },
        )
    # A pattern that changes as well is told of the lines that were there.
    station.edit("gate=(?P", "gates=(?P")
    assert station.standing()[1]["lost"] == 600


def test_data_that_changed_is_told_from_a_pattern_that_did(station: Station) -> None:
    lines = may()
    lines[1234] = "gate=???"
    lines[1236] = lines[1236].replace("gate=", "gate=x")
    station.log(lines)
    status, standing = station.standing()
    first = 1234 // GROUP * GROUP
    assert (standing["data"], standing["data_lines"]) == ("changed", [first + 1, first + GROUP])
    assert standing["by_data"] == 1 and not standing.keys() & {"lost", "gained", "moved", "otherwise"}
    assert status == 0
    assert "1 text fits no more: probe, where the data changed" in station.desk.run("check").out
    station.edit("most = 60", "most = 20")
    after = station.standing()[1]
    assert after["lost"] == sum(fits(line, 60) and not fits(line, 20) for line in lines)
    station.log(["-- new head --", *may()])
    assert station.standing()[1]["lost"] == sum(fits(line, 60) and not fits(line, 20) for line in may())


def fits(line: str, most: int) -> bool:
    found = re.fullmatch(r"probe=[A-F]\d\d moisture=(\d+\.\d)", line)
    return found is not None and float(found[1]) <= most


def test_a_trial_that_is_gone_fails_unless_it_is_tolerated(station: Station) -> None:
    station.edit(BY_ROUTE[BY_ROUTE.index("[[trials]]") :], "")
    run = station.desk.run("check")
    assert run.status == 1 and "the trial may.log" in run.out
    assert station.desk.run("check", "--tolerate", "gone").status == 0


def test_a_record_that_is_none_is_a_sentence(station: Station) -> None:
    path = station.desk.folder / "loggers.baseline.json"
    whole = json.loads(path.read_text())
    (key,) = whole["trials"]
    kept = whole["trials"][key]
    for odd in (
        {},
        {**kept, "texts": "many"},
        {**kept, "data": 3},
        {**kept, "outcomes": [["!!"]]},
        {**kept, "texts": 9},
    ):
        path.write_text(json.dumps({**whole, "trials": {key: odd}}))
        run = station.desk.run("check")
        assert run.status == 2 and "loggers.baseline.json: the record of the trial" in run.err


def test_the_record_is_small(station: Station) -> None:
    kinds = may(60_000)
    station.log([kinds[number * number % 60_000] for number in range(60_000)])
    station.desk.run("baseline", "--yes")
    data, record = (station.desk.folder / name for name in ("may.log", "loggers.baseline.json"))
    assert record.stat().st_size < 200_000 < data.stat().st_size


def test_the_record_of_data_that_is_no_lines_is_stable(desk: Desk) -> None:
    desk.write("may.csv", "note,at\n" + "".join(f"gate=north,{n}\n" for n in range(1500)))
    found = Station(desk, '[[trials]]\ndata = "may.csv"\ncolumn = "note"\npatterns = ["gate"]\n', ["x"])
    assert found.standing() == (0, {"data": "same"})
    found.edit("gate=(?P", "gates=(?P")
    assert found.standing()[1]["lost"] == 1500 and "row 2" in desk.run("check").out


LINES = st.lists(
    st.sampled_from(["gate=a", "gate=bb", "gate=", "probe=B07 moisture=1.5", "probe=B7 moisture=70.0", "", "--"]),
    min_size=1,
    max_size=40,
)
EXPRESSIONS = st.sampled_from(
    ["gate=(?P<g>\\w+)", "gate=(?P<g>\\w*)", "gate=(?P<g>\\w)", "(?P<g>.*)", "(?P<g>\\w+=?)\\w*", "-+|(?P<g>x)?"]
)
MORE = st.sampled_from(["same", "appended", "edited", "inserted", "removed"])


@given(LINES, EXPRESSIONS, EXPRESSIONS, MORE, st.integers(0, 39), st.integers(1, 4), st.booleans())
def test_what_is_told_is_what_two_readings_differ_in(
    tmp_path_factory: pytest.TempPathFactory,
    lines: list[str],
    old: str,
    new: str,
    more: str,
    at: int,
    times: int,
    kept: bool,
) -> None:
    """Also where what the lines came to took too much room to be kept."""
    station = Station(
        Desk(tmp_path_factory.mktemp("trial")),
        '[patterns.p]\nexpression = \'OLD\'\npositive = []\n[[trials]]\ndata = "may.log"\npatterns = ["p"]\n'.replace(
            "OLD", old
        ),
        lines * 30 * times,
    )
    before = lines * 30 * times
    at %= len(before)
    now = {
        "same": before,
        "appended": [*before, "gate=c"],
        "edited": [*before[:at], "gate=edited", *before[at + 1 :]],
        "inserted": [*before[:at], "gate=inserted", *before[at:]],
        "removed": before[: max(1, len(before) // 2)],
    }[more]
    station.log(now)
    station.edit(f"expression = '{old}'", f"expression = '{new}'")
    suite = read_suite(station.path)
    baseline = read_baseline(suite)
    assert baseline is not None
    if not kept:
        (record,) = baseline.trials.values()
        del record["outcomes"]
    (result,) = run_and_hold(suite, baseline)
    standing = result.standing
    assert standing is not None
    assert standing.data == ("same" if now == before else more if more == "appended" else "changed")
    looked = before if more == "appended" else now
    pairs = [(re.fullmatch(old, line), re.fullmatch(new, line)) for line in looked]
    assert standing.lost == sum(a is not None and b is None for a, b in pairs)
    assert standing.gained == sum(a is None and b is not None for a, b in pairs)
    assert standing.otherwise == sum(a is not None and b is not None and a.span("g") != b.span("g") for a, b in pairs)
    if old == new:
        assert not standing.regressed and not standing.changed
    assert sum(cause.count for cause in standing.causes if not cause.by_data) == (
        standing.lost + standing.gained + standing.otherwise
    )


@given(st.lists(st.text("ab\u00e9", max_size=9), min_size=1, max_size=3 * GROUP), st.integers(1, 60), st.booleans())
def test_groups_of_lines_do_not_depend_on_how_they_are_read(
    tmp_path_factory: pytest.TempPathFactory, lines: list[str], until: int, ended: bool
) -> None:
    folder: Path = tmp_path_factory.mktemp("digest")
    suite = Desk(folder).suite(SUITE + BY_PATTERNS)
    options = reading_of(read_suite(suite).trials[0])
    lines = lines * 5

    def digested(texts: Sequence[str], block: int, mark: int | None) -> Any:
        (folder / "may.log").write_bytes("\n".join(texts).encode() + (b"\n" if ended or not texts[-1] else b""))
        source = DigestedSource(str(folder / "may.log"), options, mark)
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr("fieldstick.data.source.line_blocks", partial(line_blocks, size=block))
            for _ in source.blocks():
                pass
        return source.digest

    until = min(until, len(lines))
    first, second = digested(lines, 1 << 20, until), digested(lines, 17, until)
    assert first == second and first.lines == len(lines)
    assert len(first.groups) == -(-len(lines) // GROUP)
    short = digested(lines[:until], 64, None)
    assert first.until == short.groups[-1] and first.groups[: until // GROUP] == short.groups[: until // GROUP]
    assert [*Source(str(folder / "may.log"), options).batches()]
