"""Lines of one origin come together as one kind, however their variable parts are made."""

from __future__ import annotations

import pickle
import random
from array import array
from collections import Counter, defaultdict
from itertools import accumulate
from typing import TYPE_CHECKING

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import plain
from drawn_logs import drawn_log
from fieldstick.data.batch import Batch, StoredTexts
from fieldstick.data.lines import LineBlock
from fieldstick.reporting.line_kinds_report import kinds_report
from fieldstick.runs import line_kinds, line_merging, line_sample
from fieldstick.runs.line_kinds import LineKinds
from fieldstick.runs.line_marks import parting_mark
from fieldstick.runs.line_records import record_start
from fieldstick.runs.line_sample import LookedAt, evenly

if TYPE_CHECKING:
    from collections.abc import Iterable

NAMES = ("fen", "hag-end", "whin2", "lib-probe4:a64", "carr", "moss_9", "tarn.b", "holm", "rigg", "brae-7")
VERSIONS = ("1.0", "2.4.1-3", "252.38-1~lm12u1", "1:9.2+b1", "20260311", "2026b-0", "3.1.0-2+b1")
ORIGINS = {
    "⟨date⟩ ⟨time⟩ status ⟨word⟩ ⟨word⟩ ⟨version⟩": lambda c: (
        f"{day(c)} {clock(c)} status {c.choice(['installed', 'unpacked', 'half-done', 'not-there'])} "
        f"{c.choice(NAMES)} {c.choice(VERSIONS)}"
    ),
    "⟨date⟩ ⟨time⟩ install ⟨word⟩ <none> ⟨version⟩": lambda c: (
        f"{day(c)} {clock(c)} install {c.choice(NAMES)} <none> {c.choice(VERSIONS)}"
    ),
    "⟨date⟩ ⟨time⟩ startup archives unpack": lambda c: f"{day(c)} {clock(c)} startup archives unpack",
    "⟨timestamp⟩ probe=⟨identifier⟩ moisture=⟨number⟩%": lambda c: (
        f"{day(c)}T{clock(c)}Z probe={c.choice('ABCDEF')}{c.randrange(10, 99)} moisture={c.randrange(999) / 10}%"
    ),
    "⟨timestamp⟩ gate=⟨word⟩ held by ⟨quoted text⟩": lambda c: (
        f'{day(c)}T{clock(c)}Z gate={c.choice(["north", "quarry"])} held by "{c.choice(NAMES)} and {c.choice(NAMES)}"'
    ),
    "⟨timestamp⟩ trap ⟨number⟩ wrote ⟨path⟩": lambda c: (
        f"{c.choice(['Jan', 'May'])} {c.randrange(10, 28)} {clock(c)} trap {c.randrange(40)} wrote "
        f"/var/{c.choice(NAMES)}/{c.randrange(9)}.jpg"
    ),
    "reading from ⟨address⟩ refused": lambda c: f"reading from 10.0.{c.randrange(9)}.{c.randrange(99)} refused",
    "route ⟨address⟩/⟨number⟩ lost": lambda c: f"route fd00:{c.randrange(9999)}::{c.choice(('b7', '1:c'))}/64 lost",
}


def day(chance: random.Random) -> str:
    return f"2026-0{chance.randrange(1, 9)}-{chance.randrange(10, 28)}"


def clock(chance: random.Random) -> str:
    return f"{chance.randrange(10, 23)}:{chance.randrange(10, 59)}:{chance.randrange(10, 59)}"


def batches_of(texts: list[str], *, stored: bool, end: str) -> Iterable[Batch]:
    if stored:
        return LineBlock(1, "".join(each + end for each in texts).encode(), None).parts()
    return [Batch(range(1, len(texts) + 1), texts)]


def found_in(texts: list[str], *, stored: bool = True, end: str = "\n", mark: str | None = None) -> LineKinds:
    found = LineKinds(mark, keeps_lines=True)
    for batch in batches_of(texts, stored=stored, end=end):
        found.add_batch(batch)
    return found


@pytest.mark.parametrize("stored", [True, False])
def test_every_origin_is_one_kind(stored: bool) -> None:
    chance = random.Random(4)
    names = list(ORIGINS)
    made = [(name, ORIGINS[name](chance)) for name in chance.choices(names, [40, 20, 2, 30, 10, 8, 5, 6], k=4000)]
    kinds = found_in([text for _, text in made], stored=stored).kinds()
    assert {kind.text: kind.count for kind in kinds} == {name: [each for each, _ in made].count(name) for name in names}
    for kind in kinds:
        first = next(number for number, (name, _) in enumerate(made, 1) if name == kind.text)
        assert (kind.first, kind.example) == (first, made[first - 1][1])
        assert sum(form.count for form in kind.shapes()) == kind.count


def test_prose_is_one_kind_for_each_thing_it_begins_with() -> None:
    chance = random.Random(8)
    words = ["".join(chance.choices("abcdefghij", k=chance.randrange(2, 8))) for _ in range(60)]
    texts = []
    for _ in range(600):
        seen = " ".join(chance.choices(words, k=chance.randrange(1, 12)))
        texts.append(f"{day(chance)} {chance.choice(['ranger', 'warden'])}: {seen}")
    texts += [f"{day(chance)} backup of readings done" for _ in range(300)]
    # A line that is like no other is told for itself.
    texts.append("quarry gate stands open")
    found = {kind.text: kind.count for kind in found_in(chance.sample(texts, len(texts))).kinds()}
    assert found.pop("⟨date⟩ backup of readings done") == 300 and found.pop("quarry gate stands open") == 1
    assert set(found) == {"⟨date⟩ ranger: ⟨words⟩", "⟨date⟩ warden: ⟨words⟩"} and sum(found.values()) == 600


def test_what_comes_again_in_short_notes_is_no_prose() -> None:
    chance = random.Random(5)
    words = ["".join(chance.choices("abcdefghij", k=chance.randrange(2, 8))) for _ in range(60)]
    notes = [" ".join(chance.choices(words, k=chance.randrange(6, 12))) for _ in range(16)]
    found = found_in([*notes, "4 May", "", "5 May", "", "6 May"])
    assert {kind.text: kind.count for kind in found.kinds()} == {"⟨words⟩": 16, "⟨date⟩": 3, "": 2}
    assert "9.5 %  (nothing)" in "\n".join(plain(kinds_report(found, 5)))


def test_lines_laid_out_in_columns_are_of_one_kind_however_many_blanks_part_them() -> None:
    chance = random.Random(3)
    fates = ["fledged", "deserted", "predated", "flooded"]
    rows = [
        f"{number:>4}  {chance.choice('ABC')}{number % 40:02}  {chance.choice(['Apr', 'May'])} "
        f"{chance.randrange(1, 30):>2}{chance.randrange(3, 12):>6}   {chance.choice(fates)}"
        for number in range(600)
    ]
    kinds = found_in([*rows, "", "  ", "end of nests"]).kinds()
    told = "⟨number⟩ ⟨identifier⟩ ⟨date⟩ ⟨number⟩ ⟨word⟩"
    assert {kind.text: kind.count for kind in kinds} == {told: 600, "": 2, "end of nests": 1}
    # What is written with two blanks each time stays so.
    once = found_in([f"INFO  gate {number}" for number in range(50)] + ["WARN   probe lost"]).kinds()
    assert [kind.text for kind in once] == ["INFO  gate ⟨number⟩", "WARN   probe lost"]


BEASTS = ("short eared owl", "mountain hare", "red grouse", "red deer", "raven", "stoat", "vole")
VALUES = {
    "⟨time⟩ ⟨words⟩ lux=⟨number⟩": lambda c: f"{clock(c)} {c.choice(BEASTS)} lux={c.randrange(900)}",
    "⟨words⟩ seen by ⟨word⟩ at ⟨identifier⟩": lambda c: (
        f"{c.choice(BEASTS)} seen by {c.choice(NAMES[:6])} at {c.choice('ABC')}{c.randrange(10, 99)}"
    ),
    "permit ⟨number⟩ is now (⟨words⟩), until ⟨date⟩": lambda c: (
        f"permit {c.randrange(999)} is now ({c.choice(['granted', 'refused', 'put back'])}), until {day(c)}"
    ),
    # Two values at once, and one behind a key.
    "gate ⟨number⟩ state=⟨words⟩ plan=⟨words⟩ for ⟨number⟩ s": lambda c: (
        f"gate {c.randrange(9)} state={c.choice(['open', 'left open', 'shut', 'shut for good'])} "
        f"plan={c.choice(['none', 'to be seen', 'call holm'])} for {c.randrange(99)} s"
    ),
    "relay mast on the north hill answers to ⟨words⟩": lambda c: (
        f"relay mast on the north hill answers to {c.choice(['holm', 'hill top', 'nobody at all', 'carr'])}"
    ),
    # What lines say is no value, though it is of as many words here as there.
    "⟨timestamp⟩ relay: lost link after ⟨number⟩ ms": lambda c: (
        f"{day(c)}T{clock(c)}Z relay: lost link after {c.randrange(900)} ms"
    ),
    "⟨timestamp⟩ relay: ok in ⟨number⟩ ms": lambda c: f"{day(c)}T{clock(c)}Z relay: ok in {c.randrange(900)} ms",
    "⟨timestamp⟩ relay: battery low": lambda c: f"{day(c)}T{clock(c)}Z relay: battery low",
    "⟨timestamp⟩ relay: started": lambda c: f"{day(c)}T{clock(c)}Z relay: started",
    "⟨timestamp⟩ relay: mast up again": lambda c: f"{day(c)}T{clock(c)}Z relay: mast up again",
}


def test_values_of_one_word_and_of_several_are_told_alike_and_what_lines_say_is_not() -> None:
    chance = random.Random(5)
    origins = [*VALUES] * 60
    chance.shuffle(origins)
    found = found_in([VALUES[each](chance) for each in origins])
    assert Counter({kind.text: kind.count for kind in found.kinds()}) == Counter(origins)


def test_words_that_say_nothing_of_what_follows_are_values_wherever_they_stand() -> None:
    chance = random.Random(9)
    # A level before messages that come with each of them, one of them longer than the others.
    told = ["started", "stopped", "retry 3/5", "read 40 rows in 2.5s"]
    levels = [
        f"[{day(chance)}T{clock(chance)}Z] [{chance.choice(['INFO', 'WARN', 'BAD'])}] {chance.choice(told)}"
        for _ in "x" * 400
    ]
    assert {kind.text for kind in found_in(levels).kinds()} == {
        "[⟨timestamp⟩] [⟨word⟩] started", "[⟨timestamp⟩] [⟨word⟩] stopped",
        "[⟨timestamp⟩] [⟨word⟩] retry ⟨number⟩/⟨number⟩", "[⟨timestamp⟩] [⟨word⟩] read ⟨number⟩ rows in ⟨number⟩s",
    }  # fmt: skip
    # A name that is all that varies but values, padded to a column; a value that is true, or false.
    rows = [
        f"{day(chance)} {clock(chance)}  {chance.choice(['fen', 'ridge', 'hag-end']):<8}"
        f" {chance.randrange(90)} {chance.random():.2f} {chance.randrange(9)} {chance.choice(['true', 'false'])}"
        for _ in range(300)
    ]
    assert [kind.text for kind in found_in(rows).kinds()] == ["⟨date⟩ ⟨time⟩ ⟨word⟩ ⟨number⟩ ⟨number⟩ ⟨number⟩ ⟨word⟩"]
    # Days parted by hyphens, the year last.
    rows = [f"{each % 28 + 1:02}-0{each % 9 + 1}-2026 06:{each % 60:02} card {each * 37}" for each in range(300)]
    assert [kind.text for kind in found_in(rows).kinds()] == ["⟨date⟩ ⟨time⟩ card ⟨number⟩"]
    # Names of two words; what one line alone has.
    names = ["Orla Venn", "Tam Brindle", "Ines Corrie", "Ola Moe"]
    opened = [f"{day(chance)} gate opened by {chance.choice(names)} at {chance.randrange(9)}.5C" for _ in range(400)]
    [kind] = found_in(opened).kinds()
    assert kind.text == "⟨date⟩ gate opened by ⟨word⟩ ⟨word⟩ at ⟨number⟩C"
    soil = [f"probe {number} soil {number}.5C" for number in range(400)]
    [kind] = found_in([*soil, "probe 7 soil 4.\u00b0C"]).kinds()
    assert kind.text == "probe ⟨number⟩ soil ⟨number⟩C" and kind.count == 401
    # Programs say different things, and so do verbs that have other objects for the most part.
    others = [
        f"{clock(chance)} {chance.choice(['probe: lost', 'probe: found', 'gate: open', 'gate: shut'])}"
        for _ in range(200)
    ]
    others += [f"{day(chance)} put {chance.choice(NAMES)} 1.{number} 2.{number} <none>" for number in range(100)]
    others += [f"{day(chance)} move {chance.choice(NAMES)} 3.{number} 4.{number}" for number in range(100)]
    assert {kind.text for kind in found_in(others).kinds()} >= {
        "⟨time⟩ probe: lost", "⟨time⟩ gate: shut", "⟨date⟩ put ⟨word⟩ ⟨number⟩ ⟨number⟩ <none>",
    }  # fmt: skip


def test_days_are_dates_by_the_name_of_their_month_too() -> None:
    lines = [f"{each} May 2026 hares {each}" for each in range(10, 20)] + [
        f"August {each}, 2026: moss" for each in (4, 5)
    ]
    lines += [f"-rw-r--r-- 1 {each}00 May {each} 06:1{each} notes" for each in range(1, 9)]
    assert {kind.text for kind in found_in(lines).kinds()} == {
        "⟨date⟩ hares ⟨number⟩", "⟨date⟩: moss", "-rw-r--r-- ⟨number⟩ ⟨number⟩ ⟨timestamp⟩ notes",
    }  # fmt: skip


def test_a_unit_is_no_path() -> None:
    lines = [f"flow={each}l/s retry {each % 3}/5 to /var/fen/{each}.bin over a/b{each}/c" for each in range(40)]
    assert [kind.text for kind in found_in(lines).kinds()] == [
        "flow=⟨number⟩l/s retry ⟨number⟩/⟨number⟩ to ⟨path⟩ over a⟨path⟩"
    ]


@pytest.mark.parametrize(
    ("template", "line"),
    [
        ('fox at ⟨number⟩°⟨number⟩\'⟨number⟩"N, ⟨number⟩" of snow', 'fox at 54°1{n}\'0{n}.5"N, 1{n}" of snow'),
        (
            '{"at":"⟨timestamp⟩","by":⟨quoted text⟩,"ok":⟨word⟩}',
            '{{"at":"2026-05-1{n}T06:10Z","by":"{w}","ok":{b}}}',
        ),
        ("sent ⟨bytes⟩ at ⟨time⟩", "sent {x:02x} 0{n} 1{n} {x:02X} 77 at 06:1{n}"),
        ("joined as ⟨identifier⟩", "joined as {x:02x}:{n}{n}:1{n}"),
        ("probe at ⟨number⟩⟨word⟩", "probe at 1{n}.5{u}"),
        ("probe done in ⟨identifier⟩", "probe done in 1{n}{d}"),
        ("crc ⟨identifier⟩ at ⟨number⟩:⟨number⟩", "crc 0x{x:04x} at 1:25,00{n}"),
        ("image ⟨version⟩ laid out", "image 2.{n}.14{r} laid out"),
    ],
)
def test_what_devices_write_is_told_for_what_it_is(template: str, line: str) -> None:
    told = {"w": ("fen", "carr and moss"), "b": ("true", "false"), "u": ("C", "mV", "%"), "d": ("ms", "s", "m07s")}
    told |= {"r": ("", "-rc2", "+a1b2c3d")}
    lines = [
        line.format(n=n % 10, x=160 + n, **{name: some[n % len(some)] for name, some in told.items()})
        for n in range(60)
    ]
    for stored in (True, False):
        assert [kind.text for kind in found_in(lines, stored=stored).kinds()] == [template]


def test_bytes_of_digits_alone_are_bytes_where_others_were_seen() -> None:
    found = found_in([f"sent {number:02x} a{number % 10} 77 0c" for number in range(40)])
    found.add_many([41], ["sent 12 34 56 78"])
    assert [kind.text for kind in found.kinds()] == ["sent ⟨bytes⟩"]


@pytest.mark.parametrize("mark", ["\t", "|", ";", ",", "#", "^", "~", ":"])
def test_a_mark_parts_lines_as_blanks_do_and_what_stands_in_a_cell_is_one(mark: str) -> None:
    chance = random.Random(6)
    words = ["fen", "wet", "hares", "moss", "seen", "ridge", "two", "no"]

    def record() -> list[str]:
        at, code = f"{day(chance)}T0{chance.randrange(9)}", f"{chance.choice('ABC')}{chance.randrange(10, 99)}"
        if chance.random() < 0.2:
            return [at, "note", code, " ".join(chance.sample(words, chance.randrange(1, 6)))]
        name = chance.choice(["north", "quarry", "ford"])
        return [at, "gate", f"{chance.randrange(99) / 10}", name] if chance.random() < 0.3 else [at, "probe", code, ""]

    lines = ["# what was seen", *(mark.join(record()) for _ in range(300))]
    rest = [("note", "⟨identifier⟩", "⟨words⟩"), ("gate", "⟨number⟩", "⟨word⟩"), ("probe", "⟨identifier⟩", "")]
    expected = {"# what was seen", *(mark.join(("⟨date⟩⟨identifier⟩", *cells)) for cells in rest)}
    for stored in (True, False):
        found = found_in(lines, stored=stored)
        assert {kind.text for kind in found.kinds()} == expected


@pytest.mark.parametrize(
    ("lines", "mark"),
    [
        (["2026-05-04 06:10:22 gate open", "2026-05-04 06:12:01 gate shut", "2026-05-04 06:14:30 probe lost"], ""),
        (["06:10:22", "06:12:01", "06:14:30"], ""),
        (["00:1a:2b:3c:4d:5e", "00:1a:2b:3c:4d:5f", "00:1a:2b:3c:4d:60"], ""),
        (["wet, cold, dim", "dry, warm, fair", "two hares, one owl, no fox"], ""),
        (
            ["held by (rw,relatime,size=4) of the fen", "held by (ro,relatime,size=9) of the fen", "held by (rw,a,b)"],
            "",
        ),
        (["moss\t\t14", "fern\t9", "sphagnum\t\t\t2"], "\t\t"),
        (["moss\t\t14", "fern\t\t9", "sphagnum\t\t2"], "\t"),
        (["a|b", "c|d"], ""),
    ],
)
def test_marks_that_are_part_of_what_is_written_part_no_lines(lines: list[str], mark: str) -> None:
    assert parting_mark(lines) == mark


LINES = st.lists(st.text("ab7 .=-\"'é\x01\t", max_size=12), min_size=1, max_size=30)


@given(LINES, LINES)
def test_every_line_is_of_one_kind_and_parts_are_put_together(one: list[str], other: list[str]) -> None:
    whole = LineKinds()
    whole.add_many(range(1, len(one) + len(other) + 1), [*one, *other])
    # What parts lines is known once they are asked for.
    assert whole.kinds()
    merged = found_in(one, stored=False, mark=whole.mark)
    later = LineKinds(whole.mark)
    later.add_many(range(len(one) + 1, len(one) + len(other) + 1), other)
    merged.merge(pickle.loads(pickle.dumps(later)))
    for found in (whole, merged):
        assert sum(kind.count for kind in found.kinds()) == found.lines == len(one) + len(other)
    assert [(kind.text, kind.count) for kind in whole.kinds()] == [(kind.text, kind.count) for kind in merged.kinds()]


def test_too_many_forms_are_put_together_and_that_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(line_kinds, "MOST_FORMS", 50)
    chance = random.Random(2)
    words = ["".join(chance.choices("abcdefghij", k=6)) for _ in range(400)]
    found = found_in([f"seen {word} at noon" for word in words] + ["end of watch"] * 30)
    kinds = {kind.text: kind.count for kind in found.kinds()}
    assert not found.is_exact and kinds == {"seen ⟨word⟩ at noon": 400, "end of watch": 30}


def test_lines_of_which_hardly_any_are_of_one_kind_are_put_together_now_and_then(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(line_kinds, "MOST_FORMS", 60)
    looked: list[int] = []
    kinds = LineKinds.kinds
    monkeypatch.setattr(LineKinds, "kinds", lambda self: looked.append(self.lines) or kinds(self))
    chance = random.Random(6)
    words = ["".join(chance.choices("abcdefghij", k=4)) for _ in range(2000)]
    notes = [" ".join(chance.choices(words, k=chance.randrange(2, 7))) for _ in range(3000)]
    found = LineKinds()
    for start in range(0, 3000, 100):
        some = [*notes[start : start + 100], *(f"2026-05-12 {note}" for note in notes[start : start + 5])]
        found.add_many(range(start + 1, start + 106), some)
    told = found.kinds()
    # Not for each line: when there are half as many forms again as are kept apart.
    assert len(looked) * 30 <= 3150 and not found.is_exact and len(found.forms) < 70
    assert sum(kind.count for kind in told) == found.lines == 3150
    assert {"⟨words⟩", "⟨date⟩ ⟨words⟩"} <= {kind.text for kind in told}


def block_of(texts: list[str], first: int) -> Batch:
    lines = [f"{each}\n".encode() for each in texts]
    ends = array("i", accumulate(map(len, lines))).tobytes()
    return Batch(None, None, first=first, stored_texts=StoredTexts(b"".join(lines), len(lines), ends=ends))


@pytest.mark.parametrize("is_size_known", [True, False])
@pytest.mark.parametrize(("blocks", "forms"), [(2, 1), (3, 2_000), (12, 1), (400, 1), (400, 2_000)])
def test_of_very_many_lines_some_are_looked_at_which_stand_for_the_others(
    monkeypatch: pytest.MonkeyPatch, blocks: int, forms: int, is_size_known: bool
) -> None:
    monkeypatch.setattr(line_sample, "MOST_BYTES", 10_000)
    monkeypatch.setattr(line_sample, "ENOUGH_FORMS", 500)
    monkeypatch.setattr(line_sample, "LEAST_BYTES", 300)
    chance = random.Random(8)
    words = ["".join(chance.choices("abcdefghij", k=6)) for _ in range(forms)]
    # What the source begins with, and what it ends with, are of kinds of their own.
    texts = [
        f"probe {chance.choice(words)} calibrated" if number < 300 else f"gate {chance.choice(words)} {number} opened"
        for number in range(300 * blocks - 10)
    ] + [f"watch ended at {number}" for number in range(10)]
    size = sum(map(len, texts)) + len(texts)
    found = LineKinds(size=size if is_size_known else None)
    for first in range(0, len(texts), 300):
        found.add_batch(block_of(texts[first : first + 300], first + 1))
    kinds = {kind.text: kind for kind in found.kinds()}
    told = {text: found.about([kind]) for text, kind in kinds.items()}
    assert found.all_lines == len(texts)
    if blocks == 2:
        assert not found.is_sample and sum(told.values()) == len(texts)
        return
    assert found.is_sample and 300 < found.lines < len(texts) / 2 + 300
    of_probes = next(count for text, count in told.items() if text.startswith("probe"))
    of_gates = sum(count for text, count in told.items() if text.startswith("gate"))
    assert of_probes == 300 and abs(of_gates - (len(texts) - 310)) <= 0.02 * len(texts) + 40
    assert abs(found.about(kinds.values()) - len(texts)) <= 1
    for kind in kinds.values():
        assert texts[kind.first - 1] == kind.example


@pytest.mark.parametrize(("most", "whole"), [(10_000_000, True), (12_000, False)])
def test_lines_are_kept_in_bounded_memory_and_stand_for_all(
    monkeypatch: pytest.MonkeyPatch, most: int, whole: bool
) -> None:
    monkeypatch.setattr(line_kinds, "MOST_KEPT", most)
    found = LineKinds("", keeps_lines=True)
    rare = {number: f"watch {number} ended" for number in (4_250, 9_001)}
    texts = [rare.get(number, f"gate {'in' if number % 3 else 'out'} {number} by holm") for number in range(20_000)]
    for first in range(0, len(texts), 100):
        found.add_many(range(first + 1, first + 101), texts[first : first + 100])
    kinds = {kind.text: kind for kind in found.kinds()}
    kept = {text: list(found.lines_of(kind)) for text, kind in kinds.items()}
    assert {each.text for lines in kept.values() for each in lines} <= set(texts)
    assert sum(len(each.text) for lines in kept.values() for each in lines) < most + 100 * 25
    assert any(each.text in rare.values() for each in kept["watch ⟨number⟩ ended"])
    for text, kind in kinds.items():
        stand_for = sum(each.weight for each in kept[text])
        assert stand_for == kind.count if whole else abs(stand_for - kind.count) < 0.1 * len(texts)
    assert whole == (sum(map(len, kept.values())) == len(texts))


LINE = st.one_of(
    st.from_regex(r"2026-05-1\d (probe|trap) [A-F]\d\d (wet|dry|[a-z]{4})", fullmatch=True),
    st.from_regex(r"gate=(north|quarry) pass=LM-\d{4} (in|out)", fullmatch=True),
    st.text("ab1 =:-é", max_size=9),
)


@given(st.lists(st.one_of(LINE, LINE.map(str.swapcase)), max_size=60), st.sampled_from(["\n", "\r\n"]))
def test_lines_as_they_are_stored_are_of_the_kinds_that_texts_are(texts: list[str], end: str) -> None:
    assert found_in(texts, end=end).kinds() == found_in(texts, stored=False).kinds()


@given(st.lists(LINE, max_size=60), st.booleans(), st.sampled_from(["\n", "\r\n"]))
def test_every_line_is_of_one_kind_and_each_kind_takes_its_example(texts: list[str], stored: bool, end: str) -> None:
    found = LineKinds(keeps_lines=True)
    for batch in batches_of(texts, stored=stored, end=end):
        found.add_batch(batch)
    kinds = found.kinds()
    assert sum(each.count for each in kinds) == len(texts) and not found.is_sample
    for kind in kinds:
        assert kind.example in texts and texts[kind.first - 1] == kind.example
        of_kind = [each.text for each in found.lines_of(kind)]
        assert len(of_kind) == kind.count and kind.example == of_kind[0]


@given(st.lists(LINE, max_size=40), st.integers(0, 40))
def test_two_parts_taken_together_tell_as_many_lines(texts: list[str], at: int) -> None:
    whole, first, rest = found_in(texts), found_in(texts[:at]), found_in(texts[at:])
    first.merge(rest)
    assert sum(each.count for each in first.kinds()) == sum(each.count for each in whole.kinds()) == len(texts)


KEYED = {
    "reading": (("plot=B07", "moisture=31.4"), ("temp=-1.5", "retry=true")),
    "gate": (("gate=north", "state=open"), ("by=holm",)),
    "trap": (("camera=cam-3", 'err="card full"'), ("attempt=2",)),
}
"""Keys with values by what a line tells of: those that all such have, and those that may be absent."""


@pytest.mark.parametrize("shuffled", [False, True])
@pytest.mark.parametrize(
    ("head", "between", "tail"), [("level=info ", " ", ""), ("INFO seen (", ", ", ")"), ("", ";", "")]
)
def test_lines_of_mostly_the_same_keys_are_of_one_kind(head: str, between: str, tail: str, shuffled: bool) -> None:
    chance = random.Random(4)
    lines, counts = [], dict.fromkeys(KEYED, 0)
    for _ in range(400):
        told = chance.choice([*KEYED])
        needed, others = KEYED[told]
        pairs = [*needed, *(each for each in others if chance.random() < 0.4)]
        if shuffled:
            chance.shuffle(pairs)
        counts[told] += 1
        lines.append(head + between.join(pairs) + tail)
    found = found_in(lines)
    kinds = found.kinds()
    assert sorted(kind.count for kind in kinds) == sorted(counts.values())
    for kind in kinds:
        needed, others = next(each for each in KEYED.values() if each[0][0].split("=")[0] in kind.text)
        assert kind.text.startswith(head.strip()) and kind.text.removesuffix(" ⟨keys in any order⟩").endswith(tail)
        assert all(f"⟨maybe {each.split('=')[0]}=" in kind.text for each in others)
        assert all(f"⟨maybe {each.split('=')[0]}=" not in kind.text for each in needed)
        assert ("in any order" in kind.text) is shuffled
        assert len([*found.lines_of(kind)]) == kind.count


@pytest.mark.parametrize("often", [1, 40])
def test_lines_of_the_keys_that_all_have_are_of_no_kind_with_others(often: int) -> None:
    lines = [
        "t=06:10 pid=7 plot=B07 moisture=3",
        "t=06:10 pid=8 gate=north state=open",
        "t=06:10 pid=9 gate=fen state=shut by=holm",
    ]
    found = found_in(lines * 10 + ["t=06:10 pid=4"] * often)
    assert {kind.text: kind.count for kind in found.kinds()} == {
        "t=⟨time⟩ pid=⟨number⟩ plot=⟨identifier⟩ moisture=⟨number⟩": 10,
        "t=⟨time⟩ pid=⟨number⟩ gate=⟨word⟩ state=⟨word⟩ ⟨maybe by=holm⟩": 20,
        "t=⟨time⟩ pid=⟨number⟩": often,
    }
    # Where there is one other kind, they may be those of it that have nothing else.
    [one] = found_in([lines[2], "t=06:10 pid=9 gate=fen state=open"] * 10).kinds()
    assert one.text == "t=⟨time⟩ pid=⟨number⟩ gate=fen state=⟨word⟩ ⟨maybe by=holm⟩"


KEYS = st.lists(st.sampled_from(["a=1", "b=x", 'c="y z"', "d=0.5,", "(e=2)", "f"]), max_size=5)


@given(st.lists(KEYS.map(" ".join), min_size=1, max_size=30))
def test_lines_of_keys_are_all_told_and_their_kinds_can_be_told_again(lines: list[str]) -> None:
    found = found_in(lines)
    kinds = found.kinds()
    assert sum(kind.count for kind in kinds) == len(lines)
    assert sorted(each.text for kind in kinds for each in found.lines_of(kind)) == sorted(lines)
    # Kinds taken for forms, as where there are too many of these, hold the same lines.
    found._condense()
    kinds = found.kinds()
    assert sum(kind.count for kind in kinds) == len(lines)
    assert sorted(each.text for kind in kinds for each in found.lines_of(kind)) == sorted(lines)
    assert all(kind.example in lines for kind in found.kinds())


@pytest.mark.parametrize("long", ["x", "x-", "12x-", "1:", "é9", "0xg"])
def test_a_piece_of_any_length_is_told_in_the_time_of_its_length(long: str) -> None:
    """Looked through for slots at each of its places, it would take hours."""
    pieces = (long * 1_000_000, (long * 1_000)[:1_990], "probe=B07")
    for stored in (True, False):
        [kind] = found_in([" ".join(pieces)], stored=stored).kinds()
        assert kind.template[0] == "⟨word⟩" and kind.template[2] == "probe=⟨identifier⟩"


def test_a_first_word_that_goes_on_alike_for_all_varies_and_prose_beside_a_few_kinds_is_one() -> None:
    chance = random.Random(3)
    names = ["".join(chance.choices("abcdefghij", k=5)).title() for _ in range(20)]
    ringings = [
        f"{day(chance)} {chance.choice(names)} rang a {chance.choice(NAMES)} at {clock(chance)}" for _ in range(900)
    ]
    assert [(each.text, each.count) for each in found_in(ringings).kinds()] == [
        ("⟨date⟩ ⟨word⟩ rang a ⟨word⟩ at ⟨time⟩", 900)
    ]
    words = ["".join(chance.choices("abcdefghij", k=4)) for _ in range(2_000)]
    notes = [f"{day(chance)} note {' '.join(chance.choices(words, k=chance.randrange(4, 9)))}" for _ in range(300)]
    kinds = [(each.text, each.count) for each in found_in([*ringings * 4, *notes]).kinds()]
    assert kinds == [("⟨date⟩ ⟨word⟩ rang a ⟨word⟩ at ⟨time⟩", 3_600), ("⟨date⟩ note ⟨words⟩", 300)]


MORE_ORIGINS = {
    "who begins a line varies where all go on alike": (
        ["| {name} | {number} | 0.5 | ok |"],
        ["| ⟨word⟩ | ⟨number⟩ | ⟨number⟩ | ok |"],
    ),
    "what a rare line has in brackets, or in letters alone, is what others have": (
        ["{clock} [{worker}] crc={crc} read in {number}ms"],
        ["⟨time⟩ [⟨word⟩] crc=⟨identifier⟩ read in ⟨number⟩ms"],
    ),
    "two words that go with all others": (
        [
            "{clock} {name} -> {name}: {moved} {number} frames [OK]",
            "{clock} {name} -> {name}: {moved} {number} frames [disk full]",
        ],
        [
            "⟨time⟩ ⟨word⟩ -> ⟨word⟩: ⟨word⟩ ⟨number⟩ frames [OK]",
            "⟨time⟩ ⟨word⟩ -> ⟨word⟩: ⟨word⟩ ⟨number⟩ frames [disk full]",
        ],
    ),
    "names that hold a slot": (
        ["  at station.{name}.{moved}(Gate:{number})"],
        ["  at station.⟨word⟩.⟨word⟩(⟨identifier⟩)"],
    ),
    "lists": (
        ["{name}: {bird} {number}, {bird} {number}, {bird} {number}, {bird} {number}"],
        ["⟨word⟩: ⟨word⟩ ⟨number⟩, ⟨word⟩ ⟨number⟩, ⟨word⟩ ⟨number⟩, ⟨word⟩ ⟨number⟩"],
    ),
    "what begins with digits": (
        ["probe {number}-{number}.{number}: found, {truth}"],
        ["probe ⟨identifier⟩: found, ⟨word⟩"],
    ),
}


@pytest.mark.parametrize("named", MORE_ORIGINS)
def test_words_that_vary_are_told_from_those_that_stay(named: str) -> None:
    forms, templates = MORE_ORIGINS[named]
    chance = random.Random(12)

    def filled(form: str) -> str:
        while "{" in form:
            form = form.replace("{name}", chance.choice([each for each in NAMES if each.isalpha()]), 1)
            form = form.replace("{clock}", clock(chance), 1).replace("{number}", str(chance.randrange(90)), 1)
            form = form.replace("{worker}", chance.choice(["reader", "writer", "reader", "writer", "main"]), 1)
            form = form.replace("{crc}", f"{chance.getrandbits(32):08X}", 1)
            form = form.replace("{moved}", chance.choice(["moved", "copied"]), 1)
            form = form.replace("{bird}", chance.choice(["wren", "dunlin", "ouzel", "merlin"]), 1)
            form = form.replace("{half}", chance.choice(["AM", "PM"]), 1)
            form = form.replace("{words}", chance.choice(["-", "near gate", "wet, windy and cold"]), 1)
            form = form.replace("{day}", str(chance.randrange(10, 29)), 1)
            form = form.replace("{truth}", chance.choice(["TRUE", "FALSE"]), 1)
        return form

    lines = [filled(form) for _ in range(400) for form in forms]
    assert {kind.text: kind.count for kind in found_in(lines).kinds()} == dict.fromkeys(templates, 400)


@given(st.lists(st.tuples(st.floats(1, 90), st.integers(0, 9)), max_size=200), st.integers(1, 60))
def test_lines_that_lie_evenly_stand_for_all_and_hold_each_form(lines: list[tuple[float, int]], most: int) -> None:
    given_lines = [LookedAt(str(number), weight, form) for number, (weight, form) in enumerate(lines)]
    chosen = list(map(int, evenly(given_lines, most)))
    assert chosen == sorted(set(chosen)) and set(chosen) <= set(range(len(lines)))
    if len(lines) <= most:
        assert len(chosen) == len(lines)
        return
    forms = {form for _, form in lines}
    few = len(forms) * 4 <= most
    assert len(chosen) <= most + few * len(forms)
    assert not few or {lines[number][1] for number in chosen} == forms
    # Between two that are chosen, no more is passed by than one stands for, but for what the last one does itself.
    apart, heaviest = sum(weight for weight, _ in lines) / most, max(weight for weight, _ in lines)
    for one, other in zip([-1, *chosen], [*chosen, len(lines)], strict=True):
        assert sum(weight for weight, _ in lines[one + 1 : other]) < apart + heaviest


@given(st.lists(st.integers(1, 40), min_size=1, max_size=60), st.integers(50, 3000), st.integers(1, 400))
def test_every_line_is_looked_at_once_at_the_most_and_all_are_stood_for(
    sizes: list[int], most: int, least: int
) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(line_sample, "MOST_BYTES", most)
        patch.setattr(line_sample, "LEAST_BYTES", least)
        sample = line_sample.LineSample()
        looked: list[tuple[int, float]] = []
        stood_for = first = 0
        for size in sizes:
            batch = block_of([f"line {number}" for number in range(first, first + size)], first + 1)
            assert batch.stored is not None
            first += size
            for some, weight in sample.of(batch, batch.stored, 1):
                assert [f"line {number - 1}" for number in some.numbers] == some.texts
                looked += [(number, weight) for number in some.numbers]
                stood_for = first
        for some, weight in sample.rest():
            looked += [(number, weight) for number in some.numbers]
            stood_for = first
    numbers = [number for number, _ in looked]
    assert len(set(numbers)) == len(numbers) and set(numbers) <= set(range(1, first + 1))
    # Those after the last that were looked at are stood for by nobody yet.
    assert sum(weight for _, weight in looked) == pytest.approx(stood_for)


def test_nearly_every_origin_of_logs_drawn_at_random_is_one_kind() -> None:
    exact = origins = kinds = 0
    for seed in range(100, 125):
        log = drawn_log(seed)
        found = found_in([text for _, text in log.lines], stored=False)
        told = found.kinds()
        kind_of = {line.text: number for number, kind in enumerate(told) for line in found.lines_of(kind)}
        pairs = {(origin, kind_of[text]) for origin, text in log.lines}
        exact += len(pairs) == log.origins == len(told)
        origins, kinds = origins + log.origins, kinds + len(told)
    # `benchmarks/line_kinds.py` counts more of them.
    assert exact >= 20 and origins <= kinds * 1.02 and kinds <= origins * 1.1


@pytest.mark.parametrize("seed", [1, 2])
def test_hundreds_of_origins_that_are_all_as_common_are_told_apart(seed: int) -> None:
    log = drawn_log(seed, many=300)
    found = found_in([text for _, text in log.lines], stored=False)
    told = found.kinds()
    kind_of = {line.text: number for number, kind in enumerate(told) for line in found.lines_of(kind)}
    origins = defaultdict(set)
    for origin, text in log.lines:
        origins[kind_of[text]].add(origin)
    alone = sum(len(origins[kind_of[text]]) == 1 for _, text in log.lines)
    assert alone > 0.75 * len(log.lines) and 230 <= len(told) <= 370


def test_what_stands_in_quotes_is_told_where_it_is_the_same_and_tells_kinds_apart_behind_what_happened() -> None:
    chance = random.Random(9)
    said = ["sync begun", "sync ended"]
    notes = ["".join(chance.choices("abcde ", k=12)) for _ in range(90)]
    made = [
        lambda: (
            f'msg="frame {chance.randrange(99)} stored" file={chance.getrandbits(32):08x}.jpg ms={chance.randrange(90)}'
        ),
        lambda: f'msg="{chance.choice(said)}" peer={chance.choice(NAMES)}',
        lambda: f'msg="{chance.choice(notes)}" wet={chance.choice(["yes", "no"])}',
        lambda: f'unit="soil probe" state="{chance.choice(["wet", "dry"])}" at={chance.randrange(90)}',
    ]
    lines = [
        f"{day(chance)}T{clock(chance)}Z lvl={chance.choice(['info', 'warn'])} {made[at % 4]()}" for at in range(800)
    ]
    expected = {
        '⟨timestamp⟩ lvl=⟨word⟩ msg="frame ⟨number⟩ stored" file=⟨identifier⟩ ms=⟨number⟩',
        '⟨timestamp⟩ lvl=⟨word⟩ msg="sync ⟨word⟩" peer=⟨word⟩',
        "⟨timestamp⟩ lvl=⟨word⟩ msg=⟨quoted text⟩ wet=⟨word⟩",
        '⟨timestamp⟩ lvl=⟨word⟩ unit="soil probe" state=⟨quoted text⟩ at=⟨number⟩',
    }
    kinds = LineKinds()
    kinds.add_many(range(1, 401), lines[:400])
    other = LineKinds()
    other.add_many(range(401, 801), lines[400:])
    kinds.merge(pickle.loads(pickle.dumps(other)))
    assert {each.text for each in kinds.kinds()} == expected


def test_kinds_are_the_same_whatever_numbers_stand_for_their_pieces(monkeypatch: pytest.MonkeyPatch) -> None:
    lines = [text for _, text in drawn_log(3).lines]

    def kinds() -> list[tuple[str, int]]:
        found = LineKinds()
        found.add_many(range(1, len(lines) + 1), lines)
        return [(each.text, each.count) for each in found.kinds()]

    known = kinds()
    # As if the sums of all of them were the same.
    monkeypatch.setattr(line_merging, "hash", lambda each: 0, raising=False)
    assert kinds() == known


@pytest.mark.parametrize(
    "odd", ["\x01\ue000", "\x01\uf8ff", "\x1e", "\x1f", "\u2060", "\ufdd0", "\ufdd1", "\ufdd2", "\x07", "\x0e:"]
)
def test_odd_characters_in_lines_do_no_harm(odd: str) -> None:
    lines = [f'{odd}a="wet {odd} moss" {odd} b={at} {odd}c="dry" {odd}' for at in range(30)]
    kinds = LineKinds()
    kinds.add_many(range(1, 31), lines)
    assert sum(each.count for each in kinds.kinds()) == 30 and all(each.text for each in kinds.kinds())
    assert record_start(kinds) is None


def test_lists_of_any_length_are_one_kind_and_two_things_side_by_side_are_none() -> None:
    chance = random.Random(4)

    def items(of: str, mark: str) -> str:
        return f"{mark} ".join(of.format(chance.randrange(10, 99)) for _ in range(chance.randrange(1, 7)))

    made = {
        "⟨time⟩ read [⟨identifiers⟩] by hut": lambda: f"read [{items('B{}', ',')}] by hut",
        "⟨time⟩ weighed ⟨numbers⟩ g": lambda: f"weighed {items('{}.5 g', ',')}",
        "⟨time⟩ plots ⟨identifiers⟩ done": lambda: f"plots {items('C{}', ';')} done",
        "⟨time⟩ lies at ⟨number⟩, ⟨number⟩": lambda: f"lies at 5{chance.random():.3f}, 2{chance.random():.3f}",
    }
    lines = [f"{clock(chance)} {chance.choice([*made.values()])()}" for _ in range(900)]
    kinds = LineKinds()
    kinds.add_many(range(1, 901), lines)
    assert {each.text for each in kinds.kinds()} == {*made}


def test_moments_without_a_year_are_told_and_colours_are_not() -> None:
    chance = random.Random(5)
    kinds = LineKinds()
    lines = [
        f"\x1b[3{chance.randrange(1, 8)}m05-{chance.randrange(10, 29)} {clock(chance)}.{chance.randrange(100, 999)}"
        f"\x1b[0m trap C{chance.randrange(9)} full"
        for _ in range(60)
    ]
    kinds.add_many(range(1, 61), lines)
    assert [each.text for each in kinds.kinds()] == ["⟨timestamp⟩ trap ⟨identifier⟩ full"]


def test_what_stands_in_brackets_in_some_lines_alone_is_told_as_such_and_other_asides_part_kinds() -> None:
    chance = random.Random(8)

    def size() -> str:
        return f" ({chance.randrange(9)}.{chance.randrange(9)} KB)" if chance.random() < 0.5 else ""

    made = {
        "⟨time⟩ sent ⟨number⟩ bytes ⟨maybe (number KB)⟩ to hut, ⟨number⟩ bytes ⟨maybe (number KB)⟩ back": lambda: (
            f"sent {chance.randrange(9000)} bytes{size()} to hut, {chance.randrange(9000)} bytes{size()} back"
        ),
        "⟨time⟩ gate held open by card ⟨identifier⟩ (wind)": lambda: (
            f"gate held open by card B{chance.randrange(10, 99)} (wind)"
        ),
        "⟨time⟩ gate held open by card ⟨identifier⟩ (twice, ⟨number⟩ s)": lambda: (
            f"gate held open by card B{chance.randrange(10, 99)} (twice, {chance.randrange(90)} s)"
        ),
    }
    lines = [f"{clock(chance)} {chance.choice([*made.values()])()}" for _ in range(600)]
    kinds = LineKinds()
    kinds.add_many(range(1, 601), lines)
    assert {each.text for each in kinds.kinds()} == {*made}


def test_what_comes_again_and_again_in_a_template_is_told_once() -> None:
    lines = [f"stored {' '.join(f'({number}, fen, {one}.5)' for one in range(12))} in all" for number in range(40, 90)]
    assert "stored (⟨number⟩, fen, ⟨number⟩) … 12 times … in all" in "\n".join(plain(kinds_report(found_in(lines), 5)))
    few = [f"{one} wet {one} wet {one}" for one in range(10, 20)]
    assert "⟨number⟩ wet ⟨number⟩ wet ⟨number⟩" in "\n".join(plain(kinds_report(found_in(few), 5)))
