"""`gaps` names what no sample decides, and each text that it proposes decides what it says."""

from __future__ import annotations

import json
import re

import pytest

from conftest import Desk, read_suite
from fieldstick.runs.gaps import gaps_of

RECORDS = """
[patterns.ring]
expression = '(?P<series>[SPB])-(?P<number>\\d{2,3})(?:/(?P<piece>\\d))?(?: (?:old|worn))?'
flags = ["ignore-case"]
fields = { number = { type = "integer", least = 10, most = 500 } }
positive = ['S-017', 'B-42/3 old']
negative = ['S-1', 'SP-017']
"""


def found_in(desk: Desk, *arguments: str) -> dict[str, object]:
    ran = desk.run("gaps", *arguments, "--format", "json")
    data: dict[str, object] = json.loads(ran.out)
    return data


def test_what_is_open_is_named_with_its_piece_and_a_text_with_its_outcome(desk: Desk) -> None:
    desk.suite(RECORDS)
    (pattern,) = found_in(desk)["patterns"]  # type: ignore[misc]
    told = {
        (gap["source"], gap["words"]): (each["text"], each["fits"]) for each in pattern["add"] for gap in each["gaps"]
    }
    expected = {
        ("P", "no sample shows that P is there"): True,
        (r"\d{2,3}", r"no sample is refused for 4 where \d is allowed 3 times"): False,
        (r"(?:/(?P<piece>\d))?", r"no sample is refused for 2 where (?:/(?P<piece>\d)) is allowed once"): False,
        ("worn", "no sample needs the option worn"): True,
        (r"(?P<number>\d{2,3})", "no sample lies at the least value, 10, of number"): True,
        (r"(?P<number>\d{2,3})", "no sample lies just beyond the most value, 500, of number"): False,
    }
    for gap, fits in expected.items():
        assert told[gap][1] is fits, gap
    assert ("(?P<series>[SPB])-", "") not in told and not any("option old" in words for _, words in told)
    assert pattern["decided"] < pattern["asked"] and 0 < pattern["share"] < 1
    line = next(gap for each in pattern["add"] for gap in each["gaps"] if gap["words"].endswith("P is there"))
    assert (line["line"], line["column"]) == (4 + 1, "expression = '(?P<series>[S".__len__() + 1)


def test_every_text_decides_what_it_says_and_is_near_to_a_sample(desk: Desk) -> None:
    suite = read_suite(desk.suite(RECORDS))
    pattern = suite.patterns["ring"]
    (found,) = gaps_of([suite], [(suite, pattern)])
    texts = [sample.text for sample in pattern.samples]
    body = "".join(f"{'positive' if each.fits else 'negative'}\t{each.text}\n" for each in found.proposals)
    assert body
    for each in found.proposals:
        assert bool(each.why) is not each.fits
        nearest = min(abs(len(each.text) - len(text)) for text in texts)
        assert nearest <= 8 and not re.search(r"(.)\1{5}", each.text), each.text


def test_added_one_by_one_they_leave_nothing_open(desk: Desk) -> None:
    path = desk.suite("# kept\n" + RECORDS)
    for _ in range(40):
        ran = desk.run("gaps", "loggers:ring", "--format", "json")
        texts = json.loads(ran.out)["patterns"][0]["add"]
        if not texts:
            break
        answers = "".join("p\n" if each["fits"] else "n\n" for each in texts)
        ran = desk.run("gaps", "loggers:ring", "--add", typed=answers)
        assert f"{len(texts):,} sample" in ran.out and ran.status == 0, ran.err
    assert texts == [] and "# kept" in path.read_text(encoding="utf-8")
    assert desk.run("check").status == 0
    assert desk.run("gaps").status == 0


def test_skipped_and_quit_write_nothing_and_a_wrong_answer_is_asked_again(desk: Desk) -> None:
    path = desk.suite(RECORDS)
    before = path.read_text(encoding="utf-8")
    assert "None added" in desk.run("gaps", "--add", typed="s\nx\nq\n").out
    assert path.read_text(encoding="utf-8") == before
    ran = desk.run("gaps", "--add", typed="n\nq\n")
    assert "Added as a negative sample" in ran.out and path.read_text(encoding="utf-8") != before


def test_a_piece_of_a_part_is_decided_by_any_pattern_that_uses_it_and_told_once(desk: Desk) -> None:
    desk.suite("""
[parts]
plot = '[A-C]'
[patterns.one]
expression = '{{plot}}1'
positive = ['A1', 'B1']
negative = ['@1', 'D1']
[patterns.two]
expression = '{{plot}}2'
positive = ['B2']
[patterns.three]
expression = '{{plot}}3'
positive = ['B3']
""")
    data = found_in(desk)
    parts = [gap["words"] for each in data["patterns"] for add in each["add"] for gap in add["gaps"] if gap["part"]]  # type: ignore[attr-defined]
    assert parts == ["no sample shows that 'C', at the end of A-C, is taken"]


def test_a_share_that_is_asked_for_fails_a_check_that_looks_at_it(desk: Desk) -> None:
    desk.suite("[defaults]\ndecided_share = 0.9\n" + RECORDS)
    assert desk.run("check").status == 0
    ran = desk.run("check", "--gaps")
    assert ran.status == 1 and "decided less than asked for: loggers:ring" in ran.out.replace("\n", " ")
    data = json.loads(desk.run("check", "--gaps", "--format", "json").out)
    assert data["gaps"][0]["address"] == "loggers:ring" and data["gaps"][0]["least"] == 0.9 and not data["well"]
    desk.suite("[defaults]\ndecided_share = 0.1\n" + RECORDS)
    assert desk.run("check", "--gaps").status == 0


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ("[patterns.x]\nexpression = 'a'\n", "no sample tests it"),
        ("[patterns.x]\nexpression = 'a'\npositive = ['a']\n", "1 of 1"),
        ("[patterns.x]\nexpression = '('\npositive = ['a']\n", "it cannot be read"),
    ],
)
def test_where_nothing_can_be_asked_it_says_why(desk: Desk, body: str, words: str) -> None:
    desk.suite(body)
    ran = desk.run("gaps")
    assert words in ran.out or "0 of 0" in ran.out, ran.out


def test_a_suite_is_named_by_its_name_its_file_or_its_folder(desk: Desk) -> None:
    desk.suite(RECORDS)
    by_name = desk.run("gaps", "loggers").out
    assert by_name == desk.run("gaps", "loggers.suite.toml").out == desk.run("gaps", ".").out != ""


def test_what_is_asked_wrongly_is_a_sentence(desk: Desk) -> None:
    desk.suite(RECORDS)
    for arguments, words in (
        (("loggers:rung",), "has no pattern 'rung'; the nearest is 'ring'"),
        (("--add", "--format", "json"), "leave --format"),
        (("nowhere",), "no suite here is named 'nowhere'"),
    ):
        ran = desk.run("gaps", *arguments)
        assert ran.status == 2 and words in ran.err
