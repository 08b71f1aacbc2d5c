"""`validate`, `select`, `rewrite`, `split`, `route` and `lookup`, run as their users run them."""

from __future__ import annotations

import csv
import json
import os
import re
from typing import TYPE_CHECKING

import openpyxl
import pyarrow.parquet as pq
import pytest

from fieldstick.demo.story import lay_out

if TYPE_CHECKING:
    from pathlib import Path

    from conftest import Desk

LOG = "data/loggers-2026-05.log"
PERMITS = "data/permits-2026.csv"


@pytest.fixture
def station(desk: Desk) -> Desk:
    lay_out(desk.folder)
    return desk


def lines_of(path: Path) -> list[bytes]:
    return path.read_bytes().splitlines(keepends=True)


def rows_of(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(text.splitlines(keepends=True), strict=True))


# validate


def test_a_form_accepts_and_rejects_rows_with_reasons_and_messages(station: Desk) -> None:
    run = station.run("validate", PERMITS, "--form", "permits:permit", "--rejects", "r.csv", "--accepted", "a.csv")
    rejects = rows_of((station.folder / "r.csv").read_text(encoding="utf-8"))
    rows = rows_of((station.folder / PERMITS).read_text(encoding="utf-8"))
    accepted = rows_of((station.folder / "a.csv").read_text(encoding="utf-8"))
    rejected = {int(each["line"]) for each in rejects}
    assert run.status == 1 and len(accepted) + len(rejected) == len(rows) == 500
    assert accepted == [row for number, row in enumerate(rows, 2) if number not in rejected]
    assert f"Of 500 rows, {len(accepted)} accepted, {len(rejected)} rejected for {len(rejects)} cells." in run.out
    code = re.compile(r"LM-20(19|2\d|30)-(?!0000)\d{4}-[RTV]")
    wrong = {number for number, row in enumerate(rows, 2) if not code.fullmatch(row["Permit code"])}
    assert {int(each["line"]) for each in rejects if each["column"] == "Permit code"} == wrong
    blank = [each for each in rejects if each["reason"] == "blank"]
    assert blank and all(each["column"] in ("Heads", "Leader", "First day", "Permit code") for each in blank)
    assert all(each["words"] and each["message"] for each in rejects)
    assert station.run("validate", "permits:permit", PERMITS).out.splitlines()[-1] == run.out.splitlines()[-1]
    shown = next(each for each in rejects if each["column"] == "Dogs")
    assert shown["words"] == "the field 'dogs' is 'perhaps', not one of 'yes', 'Yes', 'y', 'no', 'No', 'n'"


def test_columns_are_named_on_the_command_line_and_blank_is_its_own_case(desk: Desk) -> None:
    desk.suite("[patterns.plot]\nexpression = '[A-F]\\d\\d'\nmessage = 'Like B07'\npositive = ['B07']\n", "forms")
    desk.write("x.csv", "Plot,Note\nB07,\n,x\nn/a,x\nH1,x\n  ,x")
    asked = ("validate", "x.csv", "--judge", "Plot=forms:plot")
    assert "Of 5 rows, 3 accepted, 2 rejected." in desk.run(*asked, "--accepted", "a.csv").out
    assert (desk.folder / "a.csv").read_text() == "Plot,Note\nB07,\n,x\n  ,x\n"
    run = desk.run(*asked, "--required", "Plot", "--blank", "n/a", "--rejects", "-")
    assert [(row["line"], row["value"], row["reason"]) for row in rows_of(run.out)] == [
        ("3", "", "blank"),
        ("4", "n/a", "blank"),
        ("5", "H1", "did-not-match"),
        ("6", "  ", "blank"),
    ]
    assert run.status == 1 and "of 5 rows, 1 accepted, 4 rejected" in run.err
    wrong = desk.run("validate", "x.csv", "--judge", "Plt=forms:plot")
    assert wrong.status == 2 and "has no column 'Plt'; the nearest is 'Plot'" in wrong.err
    assert "no such column is validated" in desk.run(*asked, "--required", "Note").err


@pytest.mark.parametrize(
    "asked",
    [
        ("select", "-e", "B..", "x.csv", "--column", "Plot"),
        ("extract", "-e", "(?P<p>B..)", "x.csv", "--column", "Plot"),
        ("validate", "x.csv", "--judge", "Plot=forms:plot"),
    ],
)
def test_that_a_column_has_a_namesake_is_told_and_is_no_fault(desk: Desk, asked: tuple[str, ...]) -> None:
    desk.write("x.csv", "Plot,Depth,Plot\nB07,12,B12\n")
    desk.suite("[patterns.plot]\nexpression = 'B..'\npositive = ['B07']\n", "forms")
    run = desk.run(*asked)
    assert run.status == 0 and "x.csv: beside 'Plot' there is 'Plot (2)'; later columns of one name" in run.err
    desk.write("x.csv", "Plot,Depth\nB07,12\n")
    assert "beside" not in desk.run(*asked).err


def test_lines_are_validated_by_one_pattern(desk: Desk) -> None:
    run = desk.run("validate", "-e", r"[A-F]\d\d", typed="B07\nH1\n\nC12\n")
    assert run.status == 1 and "Of 4 rows, 2 accepted, 2 rejected." in run.out and "value = 'H1'" in run.out
    assert desk.run("validate", "-e", r"[A-F]\d\d", typed="B07\nC12\n").status == 0


def test_rows_of_other_kinds_are_validated_and_a_key_that_is_missing_is_blank(desk: Desk) -> None:
    desk.suite("[patterns.plot]\nexpression = '[A-F]\\d\\d'\npositive = ['B07']\n", "forms")
    desk.write("x.jsonl", '{"plot": "B07", "n": 1.50}\n{"n": 2}\n{"plot": "H1"}\n{"plot": null}\n')
    asked = ("validate", "x.jsonl", "--judge", "plot=forms:plot")
    run = desk.run(*asked, "--accepted", "a.jsonl")
    assert "Of 4 rows, 3 accepted, 1 rejected." in run.out
    assert (desk.folder / "a.jsonl").read_text() == '{"plot": "B07", "n": 1.50}\n{"n": 2}\n{"plot": null}\n'
    assert "Of 4 rows, 1 accepted, 3 rejected." in desk.run(*asked, "--required", "plot").out
    book = openpyxl.Workbook()
    for row in (["plot", "n"], ["B07", 1], ["H1", 2], [None, 3]):
        book.active.append(row)
    book.save(desk.folder / "x.xlsx")
    run = desk.run("validate", "x.xlsx", "--judge", "plot=forms:plot", "--accepted", "a.parquet", "--rejects", "r.csv")
    assert pq.read_table(desk.folder / "a.parquet").to_pylist() == [{"plot": "B07", "n": 1}, {"plot": None, "n": 3}]
    assert [row["line"] for row in rows_of((desk.folder / "r.csv").read_text())] == ["3"]


# select


def test_select_keeps_lines_as_they_stand_and_not_keeps_the_others(station: Desk) -> None:
    station.run("select", "loggers:any-line", LOG, "--to", "fit.log")
    station.run("select", "loggers:any-line", LOG, "--not", "--to", "rest.log", "--jobs", "2")
    fit, rest = lines_of(station.folder / "fit.log"), lines_of(station.folder / "rest.log")
    assert sorted(fit + rest) == sorted(lines_of(station.folder / LOG)) and len(rest) == 109
    assert any(b"\xb0" in line and not line.isascii() for line in fit + rest)
    run = station.run("select", "loggers:gate-pass", LOG, LOG, "--counts")
    assert run.out.splitlines()[1:] == [f"{LOG}\t5000\t411\t4589"] * 2


def test_select_shows_lines_around_and_their_places(desk: Desk) -> None:
    desk.write("x.log", "a\nb\nhit\nc\nd\ne\nhit\nf")
    arguments = ("select", "-e", "hit", "x.log", "--around", "1")
    assert desk.run(*arguments).out == "b\nhit\nc\n\ne\nhit\nf\n"
    assert desk.run(*arguments, "--with-place").out.splitlines()[:3] == [
        "x.log\t2\tnear\tb",
        "x.log\t3\tfits\thit",
        "x.log\t4\tnear\tc",
    ]
    assert desk.run("select", "-e", "hit|c|d", "x.log", "--around", "1").out == "b\nhit\nc\nd\ne\nhit\nf\n"


def test_rows_of_a_table_are_selected_whole_with_their_header(station: Desk) -> None:
    run = station.run("select", "permits:gate", PERMITS, "--column", "Gate", "--not")
    header, *rows = (station.folder / PERMITS).read_text(encoding="utf-8").splitlines(keepends=True)
    found = run.out.splitlines(keepends=True)
    assert found[0] == header and all(row in rows for row in found[1:]) and 10 < len(found) < 60
    run = station.run("select", "-e", r"[A-F]0\d", "data/service-reply.json", "--rows", "/items", "--column", "/plot")
    assert all(json.loads(line)["plot"][1] == "0" for line in run.out.splitlines()) and run.out


# rewrite


def test_a_rewrite_is_previewed_and_nothing_is_written(station: Desk) -> None:
    before = {path: path.read_bytes() for path in station.folder.rglob("*") if path.is_file()}
    run = station.run("rewrite", "notes:blur-position", "data/field-notes.txt")
    assert "  was  Ring ouzel at 54°12.3′N 2°41.8′W" in run.out
    assert "  now  Ring ouzel at 54°…N 2°…W" in run.out and run.out.count("━" * 10) >= 4
    assert "nothing is written: --to FILE or --in-place does that" in run.out
    assert "read 24 texts: 2 would change, 3 replacements in all" in run.err
    assert {path: path.read_bytes() for path in station.folder.rglob("*") if path.is_file()} == before


def test_in_place_replaces_and_keeps_a_backup_and_every_other_byte(station: Desk) -> None:
    log = station.folder / LOG
    before = log.read_bytes()
    run = station.run("rewrite", "loggers:mask-pass", LOG, "--in-place", "--jobs", "2")
    expected = re.sub(rb"\bLM-\d\d(\d\d)\b(?!-)", rb"*****\1", before)
    assert log.read_bytes() == expected != before
    assert log.with_name(log.name + ".before").read_bytes() == before
    assert f"{LOG}: rewritten; as it was in {LOG}.before" in run.err
    again = station.run("rewrite", "-e", "probe=", "--reach", "anywhere", "--with", "sonde=", LOG, "--in-place")
    assert log.with_name(log.name + ".before-2").read_bytes() == expected and "rewritten" in again.err
    station.run("rewrite", "loggers:mask-pass", LOG, "--in-place", "--no-backup")
    assert len(list(log.parent.glob("*.before*"))) == 2


def test_line_ends_and_marks_stay(desk: Desk) -> None:
    content = "\ufeffa1\r\nb\r\nc2\nlast 3".encode()
    (desk.folder / "x.txt").write_bytes(content)
    desk.run("rewrite", "-e", r"\d", "--reach", "anywhere", "--with", "<{match}>", "x.txt", "--in-place", "--no-backup")
    assert (desk.folder / "x.txt").read_bytes() == "\ufeffa<1>\r\nb\r\nc<2>\nlast <3>".encode()
    (desk.folder / "y.txt").write_bytes("Grüße 7\n".encode("cp1252"))
    desk.run(
        "rewrite", "-e", r"\d", "--reach", "anywhere", "--with", "é", "y.txt", "--in-place", "--encoding", "cp1252"
    )
    assert (desk.folder / "y.txt").read_bytes() == "Grüße é\n".encode("cp1252")
    wrong = desk.run(
        "rewrite", "-e", "é", "--reach", "anywhere", "--with", "′", "y.txt", "--in-place", "--encoding", "cp1252"
    )
    assert wrong.status == 2 and "cp1252 has no character U+2032" in wrong.err
    assert (desk.folder / "y.txt").read_bytes() == "Grüße é\n".encode("cp1252")


def test_a_column_is_rewritten_and_the_other_cells_stay(desk: Desk) -> None:
    (desk.folder / "x.csv").write_bytes(b'a;"b ""q"" b";c\r\n1;"x;7";"plain"\r\n2;y;"plain"\r\n')
    arguments = ("rewrite", "-e", r"\d", "--reach", "anywhere", "--with", "{match};0", "--to", "-", "--delimiter", ";")
    column = ("x.csv", "--column", 'b "q" b')
    assert desk.run(*arguments, *column).out == 'a;"b ""q"" b";c\r\n1;"x;7;0";"plain"\r\n2;y;"plain"\r\n'
    desk.write("ragged.csv", 'a,b\n"1",x7,extra,"more"\n"3","y7"\n2\n')
    ragged = ("rewrite", "-e", "7?", "--reach", "anywhere", "--with", "!", "--to", "-", "ragged.csv", "--column", "b")
    assert desk.run(*ragged).out == 'a,b\n"1",!x!!,extra,"more"\n"3","!y!!"\n2,!\n'
    bare = ("--quote", "", "--times", "first")
    assert desk.run(*ragged[:6], ",", *ragged[7:], *bare).err.startswith("fieldstick: a cell would hold ','")
    desk.write("bare.csv", 'a,b\n"1,x7"\n')
    assert desk.run(*ragged[:9], "bare.csv", "--column", "b", *bare).out == 'a,b\n"1,!x7"\n'
    wrong = desk.run(*ragged, "--quote", "ab")
    assert wrong.status == 2 and "the quote 'ab' is no single character" in wrong.err
    desk.write("x.jsonl", '{"a": {"b": "x7"}, "n": 31.40}\n{"a": {}}\n{"a": {"b": "y"},  "z": 1}\n')
    run = desk.run(
        "rewrite", "-e", r"\d", "--reach", "anywhere", "--with", "!", "--to", "-", "x.jsonl", "--column", "/a/b"
    )
    assert run.out.splitlines()[0] == '{"a": {"b": "x!"}, "n": 31.40}' and '{"a": {"b": "y"},  "z": 1}\n' in run.out


def test_several_sources_become_one_with_every_line_and_cell_where_it_belongs(desk: Desk) -> None:
    for name, content in {"1": "a\nb", "2": "c\n", "3": "", "4": "d"}.items():
        desk.write(f"{name}.log", content)
    arguments = ("rewrite", "-e", "b", "--with", "B", "--to", "-")
    assert desk.run(*arguments, "1.log", "2.log", "3.log", "4.log").out == "a\nB\nc\nd"
    desk.write("1.csv", "x,y\n1,b")
    desk.write("2.csv", "x,y\r\n2,b\r\n")
    desk.write("3.csv", "y,x\nb,3\n")
    assert desk.run(*arguments, "1.csv", "2.csv", "--column", "y").out == "x,y\n1,B\n2,B\r\n"
    mixed = desk.run(*arguments[:-1], "made.csv", "1.csv", "3.csv", "--column", "y")
    assert mixed.status == 2 and "3.csv has another header than the sources before it" in mixed.err
    assert not (desk.folder / "made.csv").exists()


def test_a_row_without_the_key_is_not_lost_when_a_column_is_rewritten(desk: Desk) -> None:
    desk.write("x.jsonl", '{"a": "x7"}\n{"n": 1}\n\n{"a": "y"}\n')
    run = desk.run(
        "rewrite", "-e", r"\d", "--reach", "anywhere", "--with", "!", "--to", "-", "x.jsonl", "--column", "a"
    )
    assert run.out == '{"a": "x!"}\n{"n": 1}\n\n{"a": "y"}\n'


def test_nothing_is_replaced_when_anything_fails(desk: Desk) -> None:
    desk.suite("[patterns.slow]\nexpression = '(?P<x>(?:a|aa)+)b(?<=(?!c)b)'\nbudget_ms = 50\npositive = ['ab']\n")
    files = {"one.txt": "aab\n", "two.txt": "ab\n" + "a" * 70 + "\n"}
    for name, content in files.items():
        desk.write(name, content)
    run = desk.run("rewrite", "loggers:slow", "--with", "{x}", "one.txt", "two.txt", "--in-place")
    assert run.status == 1 and "no file was replaced" in run.err and "two.txt:2" in run.err
    assert {name: (desk.folder / name).read_text() for name in files} == files
    assert sorted(path.name for path in desk.folder.iterdir()) == ["loggers.suite.toml", "one.txt", "two.txt"]
    full = desk.program(
        "rewrite", "-e", "a", "--reach", "anywhere", "--with", "bbbb" * 500, "two.txt", "--in-place", most_bytes=9000
    )
    assert full.status == 2 and "two.txt: cannot be written" in full.err
    assert (desk.folder / "two.txt").read_text() == files["two.txt"] and len(list(desk.folder.iterdir())) == 3


def test_several_rewrites_are_done_in_order(station: Desk) -> None:
    line = "2026-05-04T07:02:10Z gate=north pass=LM-2207 in\n"
    one = station.run("rewrite", "loggers:for-visitors", "-", "--to", "-", typed=line)
    two = station.run("rewrite", "loggers:day-only", "loggers:mask-pass", "-", "--to", "-", typed=line)
    assert one.out == two.out == "2026-05-04 gate=north pass=*****07 in\n"
    assert "2 replacements in all" in one.err


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("loggers:gate-pass", LOG), "'loggers:gate-pass' is a pattern: add --with"),
        (("loggers:mask-pas", LOG), "has no rewrite or pattern 'mask-pas'; the nearest is 'mask-pass'"),
        (("-e", "x", LOG), "add --with TEMPLATE"),
        (("loggers:gate-pass", LOG, "--with", "{gat}"), "names the field 'gat'"),
        (("loggers:mask-pass", LOG, "--to", LOG), "is also read; write to another file"),
        (("loggers:mask-pass", "-", "--in-place"), "standard input cannot be replaced"),
        (("loggers:mask-pass", LOG, "--to", "x", "--in-place"), "not both"),
        (("permits:no-markup", "--with", "x", PERMITS, "--column", "Purpos"), "the nearest is 'Purpose'"),
    ],
)
def test_what_is_asked_wrongly_of_rewrite_is_a_sentence(station: Desk, arguments: tuple[str, ...], words: str) -> None:
    run = station.run("rewrite", *arguments)
    assert run.status == 2 and words in run.err


# split


def test_pieces_come_as_rows_or_as_columns(station: Desk) -> None:
    station.write("x.txt", "vole; shrew,mole\nnothing\n;end\n")
    rows = rows_of(station.run("split", "permits:purposes", "x.txt").out)
    assert [(row["line"], row["number"], row["piece"]) for row in rows] == [
        ("1", "1", "vole"),
        ("1", "2", "shrew"),
        ("1", "3", "mole"),
        ("2", "1", "nothing"),
        ("3", "1", "end"),
    ]
    run = station.run("split", "-e", "[;,] ?", "x.txt", "--wide", "--name", "first", "--name", "second")
    assert run.out == ("source,line,first,second,piece 3\nx.txt,1,vole,shrew,mole\nx.txt,2,nothing,,\nx.txt,3,,end,\n")
    assert "read 3 texts: 2 cut, 6 pieces in all" in run.err
    kept = station.run("split", "-e", "[;,] ?", "x.txt", "--keep-separators", "--drop-empty", "--format", "jsonl")
    assert [json.loads(line)["piece"] for line in kept.out.splitlines()][:5] == ["vole", "; ", "shrew", ",", "mole"]


# route


def test_a_route_sorts_every_line_into_one_file(station: Desk) -> None:
    run = station.run("route", "loggers:line-kind", LOG, "--into", "kinds", "--jobs", "2")
    files = {path.name: lines_of(path) for path in (station.folder / "kinds").iterdir()}
    assert sorted(line for lines in files.values() for line in lines) == sorted(lines_of(station.folder / LOG))
    assert {name: len(lines) for name, lines in files.items()} == {
        "probe-reading.log": 3406,
        "battery.log": 249,
        "trap-frame.log": 798,
        "gate-pass.log": 411,
        "fault-head.log": 27,
        "unknown.log": 109,
    }
    assert "6 files written: kinds/probe-reading.log to kinds/unknown.log" in run.err
    counts = json.loads(station.run("route", "loggers:line-kind", LOG, "--format", "json").out)
    assert counts["kinds"]["gate-pass"] == 411 and counts["read"] == 5000


def test_lines_that_two_kinds_want_are_named(desk: Desk) -> None:
    desk.suite(
        "[patterns.word]\nexpression = '\\w+'\npositive = ['a']\n"
        "[patterns.number]\nexpression = '\\d+'\npositive = ['1']\n"
        "[routes.kind]\norder = ['word', 'number']\n[[routes.kind.samples]]\ntext = '1'\nkind = 'word'\n"
    )
    desk.write("x.txt", "one\n7\n--\n12")
    run = desk.run("route", "loggers:kind", "x.txt", "--overlaps", "--into", "kinds")
    assert "word and number  both want 2 texts" in run.out and "x.txt:4  12" in run.out
    assert (desk.folder / "kinds/word.txt").read_text() == "one\n7\n12\n"
    assert (desk.folder / "kinds/number.txt").read_text() == "" and (
        desk.folder / "kinds/unknown.txt"
    ).read_text() == "--\n"
    wrong = desk.run("route", "loggers:kin", "x.txt")
    assert wrong.status == 2 and "has no route 'kin'; the nearest is 'kind'" in wrong.err


def test_rows_are_routed_by_a_column_each_file_with_its_header(station: Desk) -> None:
    station.suite(
        'borrow = { permits = "permits.suite.toml" }\n[routes.gates]\norder = ["permits:gate"]\n'
        "[[routes.gates.samples]]\ntext = 'north'\nkind = 'gate'\n",
        "desk",
    )
    station.run("route", "desk:gates", PERMITS, PERMITS, "--column", "Gate", "--into", "by-gate")
    header = (station.folder / PERMITS).read_text(encoding="utf-8").splitlines()[0]
    for name in ("gate.csv", "unknown.csv"):
        lines = (station.folder / "by-gate" / name).read_text(encoding="utf-8").splitlines()
        assert lines[0] == header and lines.count(header) == 1


def test_what_has_no_text_or_spends_its_budget_is_of_no_kind_and_stands_in_its_file(desk: Desk) -> None:
    desk.suite(
        "[patterns.slow]\nexpression = '(?:a|aa)+b(?<=(?!c)b)'\nbudget_ms = 30\n[patterns.digit]\nexpression = '\\d'\n"
        "[routes.kind]\norder = ['slow', 'digit']\notherwise = 'rest'\n"
    )
    rows = ['{"k": "ab"}\n', '{"n": 1}\n', '{"k": "%s"}\n' % ("a" * 60), '{"k": "7"}\n', '{"k": "x"}\n']
    desk.write("x.jsonl", "".join(rows))
    run = desk.run("route", "loggers:kind", "x.jsonl", "--column", "k", "--into", "out/kinds")
    kinds = {kind: (desk.folder / f"out/kinds/{kind}.jsonl").read_text() for kind in ("slow", "digit", "rest")}
    assert kinds == {"slow": rows[0], "digit": rows[3], "rest": rows[1] + rows[2] + rows[4]}
    assert run.status == 1 and "x.jsonl:3" in run.err and "2 of a kind, 2 rest" in run.err, run.err
    again = desk.run("route", "loggers:kind", "x.jsonl", "--column", "k", "--into", "out/kinds", "--otherwise", "other")
    assert (desk.folder / "out/kinds/other.jsonl").read_text() == kinds["rest"] and "2 other" in again.err
    for outside in ("../rest", "/tmp/rest", ""):
        refused = desk.run("route", "loggers:kind", "x.jsonl", "--into", "out/kinds", "--otherwise", outside)
        assert refused.status == 2 and "a kind names a file too" in refused.err
    clash = desk.run("route", "loggers:kind", "x.jsonl", "--column", "k", "--otherwise", "slow")
    assert clash.status == 2 and "--otherwise slow: that is a kind of the route already" in clash.err


# lookup


def test_rows_are_found_for_each_value_all_or_the_first_or_last(station: Desk) -> None:
    arguments = ("lookup", "records:ringed-at", "data/ringing-2026.csv", "--for", "data/sites.csv")
    run = station.run(*arguments, "--parameter", "site=Locality")
    rows = rows_of(run.out)
    ringing = rows_of((station.folder / "data/ringing-2026.csv").read_text(encoding="utf-8"))
    spelled = re.compile(r"(?:^|[\s,;(])Fen \+ Carr(?:$|[\s,;.)])", re.IGNORECASE)
    expected = [row["Ring"] for row in ringing if spelled.search(row["Locality"])]
    assert [row["Ring"] for row in rows if row["Site code"] == "S01"] == (expected or ["none"])
    assert {row["Site code"] for row in rows} == {f"S0{number}" for number in range(1, 7)}
    for pick, index in (("first", 0), ("last", -1)):
        one = rows_of(station.run(*arguments, "--parameter", "site=Locality", "--take", pick).out)
        assert len(one) == 6 and one[0]["Ring"] == (expected or ["none"])[index]


def test_a_stated_answer_stands_where_no_row_fits(station: Desk) -> None:
    station.write("asked.csv", "Name,Site code\nSallow,x\nCold Fell,y\n.*,z\n")
    arguments = ("lookup", "records:site-of", "data/sites.csv", "--for", "asked.csv", "--parameter", "begins=Name")
    run = station.run(*arguments)
    assert run.out == "Name,Site code,Site code found\nSallow,x,S03\nCold Fell,y,unlisted\n.*,z,unlisted\n"
    assert run.status == 1 and "looked 3 values up among 6 rows: 1 found, 2 not: 'Cold Fell', '.*'" in run.err
    assert (
        station.run("lookup", "records:site-of", "data/sites.csv", "--parameter", "begins=hag").out
        == "Site code\nS04\n"
    )
    bare = ("lookup", "common:plot", "data/sites.csv", "--column", "Plots", "--give", "Locality", "--otherwise", "-")
    assert station.run(*bare).out == "Locality\n-\n"
    for wrong, words in (
        (("--parameter", "begin=Name"), "no pattern here has such a parameter; the nearest is 'begins'"),
        ((), "needs a value for its parameter 'begins'"),
        (("--parameter", "begins=Nam"), "asked.csv has no column 'Nam'; the nearest is 'Name'"),
    ):
        run = station.run(*arguments[:5], *wrong)
        assert run.status == 2 and words in run.err
    assert "the nearest is 'Locality'" in station.run(*bare[:4], "Localty", "--give", "Plots").err


def test_every_working_command_says_when_there_is_nothing_to_read(station: Desk) -> None:
    station.write("empty.txt", "")
    for arguments in (
        ("select", "loggers:battery"),
        ("rewrite", "loggers:mask-pass"),
        ("split", "permits:purposes"),
        ("route", "loggers:line-kind"),
        ("validate", "permits:gate"),
    ):
        run = station.run(*arguments, "empty.txt")
        assert run.status == 0 and "nothing to" in (run.err + run.out).lower(), arguments


def test_pieces_of_a_pipe_and_a_narrow_terminal_do_no_harm(station: Desk) -> None:
    narrow = station.run("rewrite", "notes:blur-position", "data/field-notes.txt", COLUMNS="30")
    assert all(len(line) <= 34 for line in narrow.out.splitlines()[:-1])
    ascii_only = station.run("rewrite", "notes:blur-position", "data/field-notes.txt", encoding="ascii")
    assert ascii_only.out.isascii() and "====" in ascii_only.out
    assert os.linesep in station.run("validate", PERMITS, "--form", "permits:permit", COLUMNS="40").out
