"""Lines that belong together: what the first of a record begins with, what kinds of record there are."""

from __future__ import annotations

import random
from typing import TYPE_CHECKING

import pytest

from fieldstick.runs.line_kinds import LineKinds
from fieldstick.runs.line_records import record_start

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence


def form(chance: random.Random) -> str:
    dogs = f"Dogs: {chance.choice(['no', 'yes, on lead', 'none'])}\n" * (chance.random() < 0.5)
    holder = chance.choice(["Tove Haug", "Marek & Co.", "Brona"])
    fee = chance.choice(["waived", f"£{chance.randrange(90)}.50"])
    remarks = chance.choice(["", " wet", " two dogs,\n  one on a lead\n  and calm"])
    number = chance.randrange(400)
    return f"Permit no. {number}/26\nHolder:   {holder}\n{dogs}Remarks:{remarks}\nFee paid: {fee}\n"


def traced(chance: random.Random) -> str:
    said = chance.choice([f"frame {chance.randrange(99)} stored", "link lost"])
    frames = "".join(
        f"\n\tat relay.Link.send(Link.java:{chance.randrange(400)})" for _ in range(chance.randrange(2, 7))
    )
    trace = f"\nrelay.TimeOut: no answer after {chance.randrange(999)} ms{frames}" * (chance.random() < 0.3)
    return f"2026-06-02 04:{chance.randrange(10, 60)}:10 {chance.choice(['INFO', 'WARN'])} {said}{trace}"


def of_system(chance: random.Random) -> str:
    return f"Jun  2 04:{chance.randrange(10, 60)}:10 hut probed: P-{chance.randrange(40)} late" + "\n  tried twice" * (
        chance.random() < 0.2
    )


def of_program(chance: random.Random) -> str:
    return (
        f"{chance.choice(['gated:', 'probed:', 'probed:', 'relayd:', 'trapd:'])} {chance.choice(['up', 'late by 3 s'])}"
    )


def section(chance: random.Random) -> str:
    keep = f"keep = {chance.choice(['yes', 'no'])}\n" * (chance.random() < 0.5)
    return f'[trap.{chance.randrange(40)}]\nsite = "{chance.choice(["Tarn", "Hag burn"])}"\n{keep}n = 3\nat = 7\n'


def levelled(chance: random.Random) -> str:
    said = chance.choice([f"retry {chance.randrange(1, 9)} of 9", f"late by {chance.randrange(99)} s"])
    trace = "\n  at Link:31" * (chance.random() < 0.2)
    return f"{chance.choice(['INFO', 'WARNING', 'ERROR'])}:{chance.choice(['trapd.link', 'probed'])}:{said}{trace}"


def dated(chance: random.Random) -> str:
    return f"2026-06-{chance.randrange(10, 30)}\n" + "moss wet, hare seen\n" * chance.randrange(1, 4)


def records(made: object, count: int = 120) -> Iterator[str]:
    chance = random.Random(4)
    return (made(chance) for _ in range(count))  # type: ignore[operator]


def told(texts: Sequence[str]) -> LineKinds:
    kinds = LineKinds()
    kinds.add_many(range(1, len(texts) + 1), texts)
    return kinds


@pytest.mark.parametrize(
    ("made", "start"),
    [
        (form, r"^Permit no\."),
        (lambda chance: "Day: 4\nPlot:\nOwner's: no\n", "^Day:"),
        (lambda chance: "Owner's: no\nDay: 4\nPlot: A1\n", None),
        (traced, r"^\d{4}-\d{2}-\d{2}"),
        (of_system, r"^[A-Z][a-z]{2} [ \d]\d \d\d:\d\d:\d\d"),
        (section, r"^\["),
        (levelled, "^[A-Z]{4,}:"),
        (dated, r"^\d{4}-\d{2}-\d{2}"),
        (lambda chance: f"{chance.randrange(1, 31)} May\nmoss wet,\n\nhare seen\n", r"^\d{1,2} [A-Z][a-z]+$"),
        (of_program, None),
        (lambda chance: traced(chance).split("\n")[0], None),
        (lambda chance: "wet\n" * chance.randrange(1, 4), None),
    ],
)
def test_what_the_first_line_of_a_record_begins_with_is_told(made: object, start: str | None) -> None:
    lines = "\n".join(records(made)).split("\n")
    kinds = told(lines)
    assert record_start(kinds) == start


def test_records_are_told_by_their_lines_and_those_that_may_be_absent() -> None:
    assert [each.text for each in told([*records(form)]).kinds()] == [
        "Permit no. ⟨number⟩/⟨number⟩␊Holder: ⟨words⟩␊⟨maybe Dogs: words⟩␊Remarks: ⟨words⟩␊Fee paid: ⟨word⟩"
    ]
    assert [each.text for each in told([*records(section)]).kinds()] == [
        "[⟨identifier⟩]␊site = ⟨quoted text⟩␊⟨maybe keep = word⟩␊n = ⟨number⟩␊at = ⟨number⟩"
    ]
    kinds = {each.text: each.count for each in told([*records(traced, 400)]).kinds()}
    head = "⟨date⟩ ⟨time⟩ ⟨word⟩"
    behind = " relay.TimeOut: no answer after ⟨number⟩ ms ⟨lines⟩"
    assert set(kinds) == {
        f"{head} {said}{more}" for said in ("frame ⟨number⟩ stored", "link lost") for more in ("", behind)
    }
    assert sum(kinds.values()) == 400


def test_how_grave_a_line_is_tells_no_kinds_apart_though_no_blank_stands_behind_it() -> None:
    lines = [each.split("\n")[0] for each in records(levelled, 400)]
    assert {each.text for each in told(lines).kinds()} == {
        "⟨word⟩:⟨word⟩:retry ⟨number⟩ of ⟨number⟩",
        "⟨word⟩:⟨word⟩:late by ⟨number⟩ s",
    }
    assert told(["INFO:probed:up", "INFO:probed:up"]).kinds()[0].text == "INFO:probed:up"
