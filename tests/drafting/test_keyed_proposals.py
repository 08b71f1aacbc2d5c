"""Texts of keys with their values: what is proposed takes them all, and captures of each key what stands behind it."""

from __future__ import annotations

import random
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.analysis.hazards import hazards
from fieldstick.drafting.proposals.beginnings import LONGEST
from fieldstick.drafting.proposals.forms import forms_by
from fieldstick.drafting.proposals.proposing import propose, too_long
from fieldstick.drafting.proposals.spelling import LEVELS
from fieldstick.drafting.proposals.writing import Writer, field_name
from fieldstick.matching.keys import common_order
from fieldstick.syntax.parser import parse

VALUES = {
    "plot": st.from_regex(r"[A-F]\d\d", fullmatch=True),
    "soil.temp": st.from_regex(r"-?\d{1,2}\.\d", fullmatch=True),
    "by": st.sampled_from(["holm", "carr", "beck"]),
    "msg": st.from_regex(r'"[a-c =,]{0,6}"', fullmatch=True),
    "err": st.sampled_from(['"card full"', "none", '"say \\" so"']),
    "n": st.from_regex(r"\d{1,3}(mm)?", fullmatch=True),
    "note": st.from_regex(r"([a-z.:/-]{0,3}[a-z/-])?", fullmatch=True),
    "ok": st.just("yes"),
}
ROW = st.lists(st.sampled_from([*VALUES]), unique=True, min_size=1, max_size=6).flatmap(
    lambda keys: st.tuples(*(VALUES[key].map(lambda value, key=key: (key, value)) for key in keys))
)
FRAMES = st.tuples(
    st.sampled_from(["", "06:10 probe ", "GET /readings?", "note: ", "bird ringed ("]),
    st.sampled_from(["=", ": "]),
    st.sampled_from([" ", ", ", ";", "&", "\t", " | "]),
    st.sampled_from(["", ".", " 200 4ms", ")"]),
)


def spelled(row: tuple[tuple[str, str], ...], frame: tuple[str, str, str, str]) -> str:
    head, mark, between, tail = frame
    return head + between.join(f"{key}{mark}{value}" for key, value in row) + tail


@given(st.lists(ROW, min_size=2, max_size=10), FRAMES, st.booleans())
def test_each_key_captures_what_stands_behind_it_in_all_texts(
    rows: list[tuple[tuple[str, str], ...]], frame: tuple[str, str, str, str], in_order: bool
) -> None:
    if in_order:
        rows = [tuple(sorted(row)) for row in rows]
    texts = [spelled(row, frame) for row in rows]
    forms = forms_by("pairs", texts, set(texts))
    for level in LEVELS if forms else ():
        expression = Writer(level).written(forms or [])
        for text, row in zip(texts, rows, strict=True):
            found = re.compile(expression).fullmatch(text)
            assert found is not None, (level, expression, text)
            values = {field_name(key): value for key, value in row}
            for name, captured in found.groupdict().items():
                if captured is not None and name in values:
                    bare = values[name].removesuffix("mm").strip('"')
                    assert bare in (captured.removesuffix("mm").strip('"'), captured), (expression, text, name)


KEYS = st.lists(st.lists(st.sampled_from("abcdef"), unique=True, max_size=5), max_size=6)


@given(KEYS)
def test_an_order_is_one_that_all_keep_and_none_is_told_where_there_is_none(sequences: list[list[str]]) -> None:
    order = common_order(sequences)
    if order is None:
        # Each key in turn that stands behind no other can be taken away: in the end some are left that go in a circle.
        left = {key for keys in sequences for key in keys}
        while True:
            behind = {key for keys in sequences for at, key in enumerate(each for each in keys if each in left) if at}
            if behind == left:
                break
            left = behind
        assert left
    else:
        assert sorted(order) == sorted({key for keys in sequences for key in keys})
        assert all(sorted(keys, key=order.index) == keys for keys in sequences)


def reading(chance: random.Random, *, shuffled: bool) -> str:
    pairs = [f"plot={chance.choice('ABCDEF')}{chance.randrange(10, 20)}", f"moisture={chance.randrange(600) / 10}"]
    pairs += [f"temp={chance.randrange(-40, 200) / 10}"] * (chance.random() < 0.5)
    pairs += ["retry=true"] * (chance.random() < 0.3)
    if shuffled:
        chance.shuffle(pairs)
    return f'level=info msg="reading taken" {" ".join(pairs)}'


@pytest.mark.parametrize(
    ("shuffled", "expected"),
    [
        (
            False,
            r'level=info msg="reading taken" plot=(?P<plot>[A-F]1\d) moisture=(?P<moisture>\d{1,2}\.\d)'
            r"(?: temp=(?P<temp>-?\d{1,2}\.\d))?(?: retry=(?P<retry>true))?",
        ),
        (
            True,
            r'level=info msg="reading taken"(?: (?:moisture=(?P<moisture>\d{1,2}\.\d)|plot=(?P<plot>[A-F]1\d)'
            r"|temp=(?P<temp>-?\d{1,2}\.\d)|retry=(?P<retry>true))){2,4}",
        ),
    ],
)
def test_keys_that_may_be_absent_are_fields_in_whatever_order_they_come(shuffled: bool, expected: str) -> None:
    chance = random.Random(3)
    texts = [reading(chance, shuffled=shuffled) for _ in range(200)]
    first = propose(texts)[0]
    assert first.expression == expected
    assert first.fields == {"moisture": {"type": "decimal"}, "temp": {"type": "decimal"}}
    others = [reading(chance, shuffled=shuffled) for _ in range(200)]
    assert all(map(first.fits, others)) and not first.fits(others[0].replace("plot=", "plto="))


def record_of(chance: random.Random) -> str:
    dogs = f"Dogs: {chance.choice(['no', 'yes, on lead', 'none'])}\n" * (chance.random() < 0.5)
    fee = chance.choice(["waived", f"£{chance.randrange(360) / 4:.2f}"])
    remarks = chance.choice(["", " wet", " two dogs,\n  one on a lead\n  and calm"])
    valid = " to ".join(f"{chance.randrange(1, 30)} {chance.choice(['May', 'June'])} 2026" for _ in range(2))
    holder = chance.choice(["Tove Haug", "Marek & Co.", "Brona"])
    return (
        f"Permit no. {chance.randrange(400)}/26\nHolder:   {holder}\n{dogs}Valid:    {valid}\n"
        f"Remarks:{remarks}\nFee paid: {fee}\n"
    )


def test_lines_of_a_record_that_begin_with_a_label_are_its_fields() -> None:
    chance = random.Random(3)
    first, *others = propose([record_of(chance) for _ in range(160)])
    assert first.expression == (
        r"Permit no\. (?P<permit>\d{1,3})/26\nHolder: +(?P<holder>Marek & Co\.|Tove Haug|Brona)"
        r"(?:\nDogs: (?P<dogs>yes, on lead|none|no))?"
        r"\nValid: +(?P<valid>\d{1,2} [A-Z][a-z]+ \d{4}) to (?P<to>\d{1,2} [A-Z][a-z]+ \d{4})"
        r"\nRemarks:(?: (?P<remarks>two dogs,\n  one on a lead\n  and calm|wet))?"
        r"\nFee paid: (?P<fee_paid>£\d{1,2}\.\d{2}|waived)\n"
    )
    assert {name: table["type"] for name, table in first.fields.items()} == {
        "permit": "integer", "valid": "date", "to": "date",
    }  # fmt: skip
    unseen = [record_of(chance) for _ in range(60)]
    assert all(all(map(each.fits, unseen)) for each in (first, *others))
    assert not first.fits(unseen[0].replace("\nValid", "\nDogs: no\nDogs: no\nValid"))
    # What its labels say must be there, in their order.
    assert not first.fits(unseen[0].replace("Holder:", "Held by:"))


def test_lines_of_a_section_with_keys_and_blanks_around_their_mark_are_its_fields() -> None:
    chance = random.Random(8)
    sections = [
        f'[trap.{at}]\nsite = "{chance.choice(["Cairn foot", "Tarn"])}"\n{"keep = yes" * (at % 2)}\nevery = {at % 60}\n'
        for at in range(90)
    ]
    first = propose([each.replace("\n\n", "\n") for each in sections])[0]
    assert first.expression == (
        r'\[trap\.(?P<number>\d{1,2})\]\nsite = "(?P<site>Cairn foot|Tarn)"(?:\nkeep = (?P<keep>yes))?'
        r"\nevery = (?P<every>\d{1,2})\n"
    )


@given(st.integers(0, 10_000))
def test_whatever_is_written_behind_labels_what_is_proposed_takes_it_and_no_text_takes_forever(seed: int) -> None:
    chance = random.Random(seed)
    labels = chance.sample(["Day", "By", "Fee paid", "Plot no.", "Dogs", "err"], k=chance.randrange(2, 6))
    mark, pad, end = chance.choice([":", " =", "="]), chance.choice([" ", "   ", ""]), chance.choice(["", "\n"])
    kinds = {label: chance.choice(["word", "few", "number", "day", "list"]) for label in labels}
    lacking = {label: chance.choice([0, 0, 0.3]) for label in labels[1:]}
    empty = {label: chance.choice([0, 0, 0, 0.3]) for label in labels}
    odd = chance.choice(["", "", " ", "\n  and on"])

    def value(label: str) -> str:
        made = {
            "word": "".join(chance.choices("abcdef", k=chance.randrange(2, 6))),
            "few": chance.choice(["no", "two, on leads", "J. St. Bride"]),
            "number": f"{chance.randrange(900)}.{chance.randrange(9)}",
            "day": f"{chance.randrange(1, 30)} May 2026",
            "list": ", ".join(chance.choices(["hare", "ouzel x2"], k=chance.randrange(1, 5))),
        }[kinds[label]]
        return ("" if chance.random() < empty[label] else made) + odd * (chance.random() < 0.3)

    def record() -> str:
        having = [each for each in labels if chance.random() >= lacking.get(each, 0)]
        return f"No. {chance.randrange(900)}\n" + "\n".join(f"{each}{mark}{pad}{value(each)}" for each in having) + end

    texts = [record() for _ in range(40)]
    found = propose(texts)
    assert found[0].fit == len({*texts})
    for each in found:
        named = {hazard.kind for hazard in hazards(parse(each.expression), "whole")}
        assert not named - {"takes-anything"}, each.expression


@pytest.mark.parametrize("every", [True, False])
def test_any_number_of_lines_behind_a_record_are_one_field(every: bool) -> None:
    chance = random.Random(5)

    def trace() -> str:
        frames = "".join(
            f"\n\tat relay.Link{chance.randrange(9)}.send(L:{chance.randrange(400)})"
            for _ in range(chance.randrange(2, 9))
        )
        return frames if every or chance.random() < 0.4 else ""

    made = [
        (f"06:{chance.randrange(10, 60)} trap {chance.randrange(1, 40)} {chance.choice(['lost', 'late'])}", trace())
        for _ in range(90)
    ]
    known, unseen = made[:60], made[60:]
    for each in propose([head + rest for head, rest in known]):
        for head, rest in unseen:
            read = re.fullmatch(each.expression, head + rest)
            assert read is not None and read["lines"] == rest and read["trap"] in head.split()
        assert not each.fits(f"{unseen[0][0]}\nat relay")
        assert each.fits(unseen[0][0]) is not every


def test_prose_behind_a_first_line_is_one_field_however_long() -> None:
    chance = random.Random(7)
    words = [
        "heather",
        "wall",
        "plot",
        "bird",
        "fog",
        "gate",
        "core",
        "sample",
        "wind",
        "peat",
        "moor",
        "ring",
        "weigh",
        "note",
        "by",
        "the",
        "in",
        "of",
    ]

    def prose() -> str:
        lines = (" ".join(chance.choices(words, k=chance.randrange(6, 12))) for _ in range(chance.randrange(2, 30)))
        return "".join("\n" + line + chance.choice(["", ".", ",", ".\n"]) for line in lines).rstrip("\n")

    heads = [f"{number}. visit of {chance.choice(['Fen', 'Carr', 'Holm'])}" for number in range(1, 60)]
    made = [(head, prose(), "\n" * chance.randrange(3)) for head in heads]
    texts = ["".join(each) for each in made]
    found = propose(texts[:40])
    assert any(len(each) > LONGEST for each in texts) and not too_long(texts)
    for each in found:
        assert not hazards(parse(each.expression), "whole"), each.expression
        for (head, rest, _), text in zip(made[40:], texts[40:], strict=True):
            read = re.fullmatch(each.expression, text)
            assert read is not None and read["lines"] == rest and read["visit"] in head


def test_points_that_lead_from_a_label_to_its_value_name_it() -> None:
    records = [
        f"Plot ........ {plot}\nSeen by ..... {name}\nSnow depth .. {depth} cm\n"
        for plot, name, depth in (("B07", "Orla Venn", 12), ("A11", "Tam Haug", 3), ("F02", "Ines Elm", 40))
    ]
    first = propose(records)[0]
    assert first.expression.startswith(r"Plot \.+ (?P<plot>") and first.fields["snow_depth"] == {"type": "integer"}
    assert set(re.compile(first.expression).groupindex) == {"plot", "seen_by", "snow_depth"}
    assert first.fits("Plot ..... C09\nSeen by ..... Wren Adair\nSnow depth ... 7 cm\n")
    # One line is told so, too; three points at the end of what is said lead nowhere.
    assert propose(["area .... 12 ha", "area ... 7 ha", "area ...... 40 ha"])[0].expression.startswith(
        r"area \.+ (?P<area>"
    )
    assert propose(["wet... 1", "dry... 3", "wet... 4"])[0].expression.count(r"\.\.\.") == 1
