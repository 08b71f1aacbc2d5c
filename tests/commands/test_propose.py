"""propose: expressions from a source, a kind of line or examples, kept with samples that pass."""

from __future__ import annotations

import json
import re
from typing import TYPE_CHECKING, Any

import pytest

from drawn_logs import drawn_log

if TYPE_CHECKING:
    from conftest import Desk

LOG = "".join(
    f"2026-05-{day:02}T06:{minute:02}:00Z gate={gate} pass=LM-{1000 + 37 * minute}\n"
    f"2026-05-{day:02}T07:{minute:02}:30Z probe={'ABCDEF'[minute % 6]}{day:02} moisture={minute}.{day % 10}%\n"
    for day in range(1, 11)
    for minute, gate in zip(range(11, 47, 9), ("north", "quarry", "north", "quarry"), strict=True)
)
TABLE = "Gate;Load\n" + "".join(f"{gate};{load},5\n" for load in range(20, 60) for gate in ("north", "quarry"))


def proposed(desk: Desk, *arguments: str) -> list[dict[str, Any]]:
    """Return what is proposed, and hold each to what it says of the examples."""
    run = desk.run("propose", *arguments, "--format", "json")
    data = json.loads(run.out)
    for each in data["proposals"]:
        assert set(each["fields"]) <= set(re.compile(each["expression"]).groupindex)
        assert each["fit"] <= data["examples"] and (run.status == 0 or each["takes_wrongly"])
    found: list[dict[str, Any]] = data["proposals"]
    return found


def test_a_kind_of_line_is_proposed_and_kept_with_samples_that_pass(desk: Desk) -> None:
    desk.write("gate.log", LOG)
    survey = desk.run("survey", "gate.log").out
    number = next(line.split()[0] for line in survey.splitlines() if "probe=" in line and "⟨" in line)
    first = proposed(desk, "gate.log", "--kind", number)[0]
    assert first["fields"] == {"at": {"type": "timestamp"}, "moisture": {"type": "decimal"}} and first["fit"] == 40
    kept = desk.run("propose", "gate.log", "--kind", number, "--keep", "reading", "--suite", "gate.suite.toml")
    assert kept.status == 0 and "Kept reading in gate.suite.toml" in kept.out
    check = desk.run("check")
    assert check.status == 0 and "samples pass" in check.out and "hazard" not in check.out
    assert f"{40} fit" in desk.run("try", "gate:reading", "gate.log").out
    again = desk.run("propose", "gate.log", "--kind", number, "--keep", "reading", "--suite", "gate")
    assert again.status == 2 and "reading" in again.err


def test_each_kind_of_line_is_proposed_for_and_kept_with_a_route_that_sorts_them(desk: Desk) -> None:
    names = ["raven", "red grouse", "short eared owl", "red deer"]
    seen = [
        f"{names[at % 4]} seen by {['holm', 'carr'][at // 4 % 2]} at {'ABC'[at % 3]}{at % 9 + 1}" for at in range(72)
    ]
    odd = ["gate stuck", "no one there"]
    desk.write("mixed.log", LOG + "\n".join([*seen, *odd]) + "\n")
    data = json.loads(desk.run("propose", "mixed.log", "--kinds", "3", "--format", "json").out)["kinds"]
    assert [(each["name"], each["lines"]) for each in data] == [
        ("seen-by-at", 72),
        ("gate-pass", 40),
        ("probe-moisture", 40),
    ]
    kept = desk.run("propose", "mixed.log", "--kinds", "3", "--keep", "line-kind", "--suite", "mixed.suite.toml")
    assert kept.status == 0 and "which are 98.7 % of 154 lines" in kept.err
    assert "(?P<text>raven|red deer|red grouse|short eared owl) seen by" in kept.out
    alone = desk.run("propose", "mixed.log", "--kinds", "3", "--jobs", "1").out
    assert kept.out.startswith(alone) and desk.run("propose", "mixed.log", "--kinds", "3", "--jobs", "3").out == alone
    assert desk.run("check", "mixed.suite.toml").status == 0
    counts = desk.run("route", "mixed:line-kind", "mixed.log").out
    assert {tuple(line.split()[:2]) for line in counts.splitlines()[1:] if line} == {
        ("seen-by-at", "72"), ("gate-pass", "40"), ("probe-moisture", "40"), ("unknown", "2"),
    }  # fmt: skip
    # A suite that is there keeps what it has, and a name that is taken gets a number.
    before = (desk.folder / "mixed.suite.toml").read_text()
    again = desk.run("propose", "mixed.log", "--kinds", "1", "--keep", "line-kind", "--suite", "mixed")
    assert (again.status, again.out) == (2, "") and "the suite has a route 'line-kind' already" in again.err
    words = ("--kinds", "1", "--keep", "other", "--suite", "mixed", "--level", "loose", "--format", "json")
    other = desk.run("propose", "mixed.log", *words)
    # Data alone is on standard output.
    assert [each["name"] for each in json.loads(other.out)["kinds"]] == ["seen-by-at"] and "seen-by-at-2" in other.err
    assert (desk.folder / "mixed.suite.toml").read_text().startswith(before)
    assert desk.run("check", "mixed.suite.toml").status == 0
    for words, told in (
        (("--kinds", "2", "--kind", "1"), "--kinds proposes for each kind of line"),
        (("--kinds", "2", "--fits", "x"), "--kinds proposes for each kind of line"),
        (("--kinds", "0"), "0 is not in the range"),
        (("--jobs", "2"), "--jobs is of --kinds"),
        (("--kinds", "2", "--keep", "x", "--suite", "gone"), "no suite here is named 'gone'"),
    ):
        run = desk.run("propose", "mixed.log", *words)
        assert run.status == 2 and told in run.err and not run.out
    desk.write("empty.log", "\n\n")
    assert desk.run("propose", "empty.log", "--kinds", "3").status == 1


def test_a_hazard_of_what_is_kept_is_told(desk: Desk) -> None:
    prose = ["the fen is wet", "old moss; dry?", "a beck (cold)", "hag & carr: shut", "7 voles, 2 owls", "no! not yet."]
    desk.write("notes.txt", "\n".join(prose) + "\n")
    run = desk.run("propose", "notes.txt", "--keep", "note", "--suite", "n.suite.toml")
    assert run.out.startswith("tight  (?P<text>.+)\n"), "of six lines with nothing in common nothing more is told"
    assert "hazard  takes-anything" in run.out and "1 hazard" in desk.run("check").out


def test_samples_are_kept_whatever_characters_they_have_that_a_file_can_hold(desk: Desk) -> None:
    (desk.folder / "tab.log").write_bytes(b"A01\twet\t3.1\nA02\tdry\t12.9\nB11\twet\x00\t7.0\nB\xff1\twet\t7.0\n")
    run = desk.run("propose", "tab.log", "--keep", "reading", "--suite", "r.suite.toml")
    assert run.status == 0 and "3 positive and 2 negative samples" in run.out
    assert "All 5 samples pass" in desk.run("check").out


@pytest.mark.parametrize(("column", "different"), [("Gate", 2), ("Load", 40)])
def test_a_column_names_its_field_and_what_comes_again_and_again_is_listed(
    desk: Desk, column: str, different: int
) -> None:
    desk.write("permits.csv", TABLE)
    found = proposed(desk, "permits.csv", "--delimiter", "semicolon", "--column", column)
    assert all(set(re.compile(each["expression"]).groupindex) == {column.lower()} for each in found)
    assert all(each["fit"] == different for each in found)
    assert "--column NAME" in desk.run("propose", "permits.csv").err
    assert "--column NAME" not in desk.run("propose", "permits.csv", "--as", "lines").err
    listed = found[0]["expression"] == "(?P<gate>quarry|north)"
    assert listed is (column == "Gate") and (listed or re.fullmatch(found[0]["expression"], "77,5"))


def test_what_must_not_fit_is_kept_out_or_named(desk: Desk) -> None:
    found = proposed(desk, "--fits", "LMF-S-004417", "--fits", "LMF-B-120031/3", "--misses", "LMF-X-1")
    assert found[0]["takes_wrongly"] == [] and not re.fullmatch(found[0]["expression"], "LMF-X-1")
    both = desk.run("propose", "--fits", "wet", "--misses", "wet")
    assert both.status == 1 and "it takes 'wet' too, which it must not" in both.out
    assert proposed(desk, "--fits", "é {{x}} \t[7]")[0]["fit"] == 1


def test_a_heading_that_is_left_out_is_named(desk: Desk) -> None:
    rows = "".join(f"{'ABC'[at % 3]}{at:02}   {at % 7}.{at % 10}   fen\n" for at in range(40))
    desk.write("table.txt", "PLOT  WET   PLACE\n" + rows)
    shown = desk.run("propose", "table.txt").out
    assert "takes   40 of 41 examples\n  not     'PLOT  WET   PLACE'" in shown
    assert all(each["left_out"] == ["PLOT  WET   PLACE"] for each in proposed(desk, "table.txt"))


def test_that_more_than_the_beginning_of_a_long_text_was_not_looked_at_is_told(desk: Desk) -> None:
    desk.write("notes.log", LOG + "2026-05-04T06:11:00Z gate=north pass=LM-1000" + " and on" * 300 + "\n")
    run = desk.run("propose", "notes.log")
    assert run.status == 0 and "1 example of more than 1,000 characters" in run.err and ".*\n" in run.out
    assert desk.run("propose", "notes.log", "--keep", "notes", "--suite", "notes.suite.toml").status == 0
    kept = (desk.folder / "notes.suite.toml").read_text("utf-8")
    assert max(map(len, kept.splitlines())) < 1_000 and "samples pass" in desk.run("check").out


def test_that_there_are_kinds_of_line_to_propose_for_is_told(desk: Desk) -> None:
    ways = ("probe B{n} reads {n}.5", "gate {n} is shut by the wardens: {n}", "{n}: owl, hare, 2 foxes; no rain")
    desk.write("all.log", "".join(f"{ways[number % 3].format(n=number)}\n" for number in range(10, 70)))
    assert "--kinds N proposes for each of the commonest kinds of line" in desk.run("propose", "all.log").err
    assert "--kind" not in desk.run("propose", "all.log", "--kind", "1").err


def test_forms_that_nobody_knew_are_read_as_records_and_come_out_as_rows(desk: Desk) -> None:
    holders = ["Tove Haug", "Marek & Co.", "Brona"]
    days = ["4 May 2026", "12 June 2026", "30 June 2026", "1 July 2026"]
    rows = [
        (str(at + 1), holders[at % 3], days[at % 4], "no" if at % 2 else "", f"{at * 7 % 60}.50" if at % 5 else "none")
        for at in range(60)
    ]
    text = "".join(
        f"Permit no. {number}\nHolder:   {holder}\nDay:      {day}\n{f'Dogs:     {dogs}' * bool(dogs)}\nFee: {fee}\n\n"
        for number, holder, day, dogs, fee in rows
    ).replace("\n\nFee", "\nFee")
    desk.write("forms.txt", text)
    told = " ".join(desk.run("survey", "forms.txt").out.split())
    found = re.search(r"lines that belong together: --record-start '([^']*)' reads them as one text", told)
    assert found is not None and found[1] == r"^Permit no\."
    as_records = ("forms.txt", "--record-start", found[1])
    assert "100.0 %  Permit no. ⟨number⟩␊Holder: ⟨words⟩␊Day: ⟨date⟩" in desk.run("survey", *as_records).out
    assert "belong together" not in desk.run("survey", *as_records).out
    kept = desk.run("propose", *as_records, "--keep", "form", "--suite", "forms.suite.toml")
    assert kept.status == 0 and desk.run("check").status == 0
    out = desk.run("extract", "forms:form", *as_records, "--to", "rows.jsonl")
    assert out.status == 0 and "60 fit" in out.err
    read = [json.loads(line) for line in (desk.folder / "rows.jsonl").read_text("utf-8").splitlines()]
    assert [(str(each["permit"]), each["holder"], each["dogs"] or "", each["fee"]) for each in read] == [
        (number, holder, dogs, fee) for number, holder, _, dogs, fee in rows
    ]
    assert {each["day"] for each in read} == {"2026-05-04", "2026-06-12", "2026-06-30", "2026-07-01"}


def test_wrong_input_is_told(desk: Desk) -> None:
    desk.write("gate.log", LOG)
    desk.write("empty.log", "")
    desk.write("blank.log", "\n \n\t\n")
    assert "give a source" in desk.run("propose").err
    assert "go together" in desk.run("propose", "gate.log", "--keep", "reading").err
    assert "there are 2 kinds of line" in desk.run("propose", "gate.log", "--kind", "9").err
    for name in ("empty.log", "blank.log"):
        nothing = desk.run("propose", name)
        assert nothing.status == 1 and "there is no example" in nothing.err
    level = desk.run("propose", "--fits", "7", "--level", "middle", "--keep", "x", "--suite", "y.suite.toml")
    assert level.status == 2 and "nothing middle was proposed" in level.err
    assert desk.run("propose", "nothing.log").status == 2
    named = desk.run("propose", "gate.log", "--keep", "9x", "--suite", "y.suite.toml")
    assert named.status == 2 and "'9x' is not a name" in named.err and not (desk.folder / "y.suite.toml").exists()


def test_it_can_be_read_in_a_narrow_terminal_and_from_a_pipe(desk: Desk) -> None:
    narrow = desk.run("propose", "-", typed=LOG.split("\n", 1)[0] + "\n", COLUMNS="30")
    assert narrow.status == 0
    told = [line for line in narrow.out.splitlines() if not line.startswith(("tight", "middle", "loose"))]
    assert all(len(line) <= 30 for line in told), narrow.out


def test_a_log_that_nobody_knew_becomes_a_suite_that_checks_and_sorts_every_line(desk: Desk) -> None:
    desk.write("all.log", "".join(f"{text}\n" for _, text in drawn_log(7).lines))
    kept = desk.run("propose", "all.log", "--kinds", "12", "--keep", "kind", "--suite", "all.suite.toml")
    assert kept.status == 0 and "which are 100.0 % of 300 lines" in kept.err
    checked = desk.run("check", "all.suite.toml")
    assert checked.status == 0 and "hazard" not in checked.out
    assert "300 of a kind, 0 unknown" in desk.run("route", "all:kind", "all.log").err
