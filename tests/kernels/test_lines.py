"""What walkers find out about the lines of a block is what the interpreter says of them, one after the other."""

from __future__ import annotations

import random
import re
from array import array
from itertools import groupby
from typing import Any
from zlib import crc32

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from fieldstick.analysis.automaton.asked import Reading
from fieldstick.analysis.automaton.kept_tables import matches_table, reading_table, sorting_table
from fieldstick.data.batch import StoredTexts
from fieldstick.data.placed import gathered
from fieldstick.kernels.walkers import NATIVE
from fieldstick.matching.character_kinds import BY_KIND, OTHER_DIGIT, KindTable

pytestmark = pytest.mark.skipif(NATIVE is None, reason="needs the compiled walkers")

PIECES = [
    "probe=B07",
    "Holm",
    "7",
    "31.4%",
    "é",
    "Ж",
    "\x00",
    "\t",
    " ",
    "zZ",
    "@[`{/:",
    "a" * 17,
    "9" * 70,
    "\udc84",
    "",
    "\r",
    "\rx",
]
LINES = st.lists(st.lists(st.sampled_from(PIECES), max_size=6).map("".join), max_size=40)
ENDS = st.sampled_from(["\n", "\r\n"])


def block_of(lines: list[str], end: str, *, whole: bool = True) -> bytes:
    data = "".join(line + end for line in lines).encode("utf-8", "surrogateescape")
    return data if whole else data.rstrip(b"\r\n")


def texts_of(data: bytes) -> list[bytes]:
    """Return lines without their line ends: CR LF is one where the line feed is there."""
    parts = data.split(b"\n")
    ended, last = parts[:-1], parts[-1]
    return [each.removesuffix(b"\r") for each in ended] + ([last] if last else [])


def ends_of(data: bytes) -> list[int]:
    """Return where lines end, their line feed included."""
    found = [place + 1 for place, byte in enumerate(data) if byte == 10]
    return found if not data or data.endswith(b"\n") else [*found, len(data)]


@given(LINES, ENDS, st.booleans())
def test_lines_are_counted_and_their_ends_found(lines: list[str], end: str, whole: bool) -> None:
    assert NATIVE is not None
    data = block_of(lines, end, whole=whole)
    count, returns, longest, ascii_alone, broken, numbers, ends = NATIVE.survey(data, 3)
    texts = texts_of(data)
    assert array("i", ends).tolist() == ends_of(data) and count == len(texts)
    assert returns == data.count(b"\r\n") and ascii_alone == data.isascii()
    assert longest == max((len(each) for each in data.split(b"\n")), default=0)
    odd = [number for number, each in enumerate(texts) if each.decode("utf-8", "ignore").encode() != each]
    assert (broken, numbers) == (len(odd), odd[:3])


@given(LINES, ENDS, st.booleans())
def test_lines_are_told_apart_with_digits_and_letters_put_by_kind(lines: list[str], end: str, letters: bool) -> None:
    assert NATIVE is not None
    data = block_of(lines, end)
    ends = NATIVE.survey(data, 0)[6]
    group_of = bytearray(len(ends))
    found, counts, firsts, _ = NATIVE.grouped(data, ends, group_of, letters, None)
    kinds = {code: ord("9") for code in b"0123456789"}
    for code in range(ord("a"), ord("z") + 1) if letters else ():
        kinds |= {code: ord("a"), code - 32: ord("A")}
    expected = [bytes(kinds.get(byte, byte) for byte in each) for each in texts_of(data)]
    different = list(dict.fromkeys(expected))
    assert found == different
    assert counts == [expected.count(each) for each in different]
    assert firsts == [expected.index(each) for each in different]
    assert [different[each] for each in memoryview(group_of).cast("i")] == expected


@given(LINES, ENDS, st.integers(0, 4), st.booleans())
@example(["a  b   c", "aa b c", "٧ a7", "٧٧ a7", "-- ab", "Ab" * 40], "\n", 60, False)
def test_lines_are_told_apart_by_shape_with_the_lengths_of_their_runs(
    lines: list[str], end: str, most: int, letters: bool
) -> None:
    assert NATIVE is not None
    data = block_of(lines, end)
    ends, table, unknown = NATIVE.survey(data, 0)[6], KindTable(), [0]
    group_of = bytearray(len(ends))
    while unknown:
        found = NATIVE.shaped(data, ends, group_of, table.stored, ord(OTHER_DIGIT), most, letters)
        unknown = found[3]
        table.learn(unknown)
    texts, counts, firsts, _, lengths, places, runs, spans = found
    every = [each.decode("utf-8", "surrogateescape") for each in texts_of(data)]
    shapes = [_shape(each.translate(BY_KIND), letters) for each in every]
    different = list(dict.fromkeys(shapes))
    assert [each.decode("utf-8", "surrogateescape") for each in texts] == different
    assert [different[each] for each in memoryview(group_of).cast("i")] == shapes
    told = iter(memoryview(spans).cast("i"))
    for number, shape in enumerate(different):
        own = [index for index, each in enumerate(shapes) if each == shape]
        assert (counts[number], firsts[number]) == (len(own), own[0])
        sizes = [len(every[index]) for index in own]
        assert memoryview(lengths).cast("i")[2 * number : 2 * number + 2].tolist() == [min(sizes), max(sizes)]
        unlike = [index for at, index in enumerate(own) if every[index] not in [every[each] for each in own[:at]]]
        padded = [*unlike[:3], -1, -1, -1][:3]
        assert memoryview(places).cast("i")[3 * number : 3 * number + 3].tolist() == padded
        of_each = [[] if OTHER_DIGIT in shape else _sizes(every[index].translate(BY_KIND), most) for index in own]
        assert memoryview(runs).cast("i")[number] == len(of_each[0])
        for column in zip(*of_each, strict=True):
            assert (next(told), next(told)) == (min(column), max(column))
    assert next(told, None) is None


def _shape(text: str, letters: bool) -> str:
    if OTHER_DIGIT in text:
        return text
    pairs = [(kind, len(list(run))) for kind, run in groupby(text)]
    return "".join(
        kind * size if letters and kind not in ("a", "A", "9") else kind * min(size, 2) if kind == " " else kind
        for kind, size in pairs
    )


def _sizes(text: str, most: int) -> list[int]:
    sizes = [len(list(run)) for _, run in groupby(text)]
    return sizes[:most] + [1] * (len(sizes) > most)


SIZES = st.integers(0, 2**31 - 1)
TALLIED = st.tuples(st.integers(1, 2**40), SIZES, SIZES, st.lists(st.tuples(SIZES, SIZES), max_size=4))


@given(st.lists(TALLIED, min_size=1, max_size=8), st.sets(st.integers(0, 7)))
def test_texts_are_taken_into_the_tallies_that_are_known(
    told: list[tuple[int, int, int, list[tuple[int, int]]]], unknown: set[int]
) -> None:
    assert NATIVE is not None
    texts = [b"%d" % number for number in range(len(told))]
    first = {
        text: array("q", [5, 40, 40, *[40] * (2 * len(spans))]) for text, (*_, spans) in zip(texts, told, strict=True)
    }
    known = {text: array("q", tally) for number, (text, tally) in enumerate(first.items()) if number not in unknown}
    lengths = array("i", [each for _, short, long, _ in told for each in (short, long)]).tobytes()
    runs = array("i", [len(spans) for *_, spans in told]).tobytes()
    spans = array("i", [each for *_, spans in told for pair in spans for each in pair]).tobytes()
    left, count, shortest, longest = NATIVE.measures(known, texts, [each[0] for each in told], lengths, runs, spans)
    assert left == sorted(unknown & set(range(len(told))))
    taken = [each for number, each in enumerate(told) if number not in unknown]
    assert count == sum(each[0] for each in taken)
    assert (shortest, longest) == (
        min([each[1] for each in taken], default=2**31 - 1),
        max([each[2] for each in taken], default=0),
    )
    for text, (count, short, long, sizes) in zip(texts, told, strict=True):
        wanted = [5 + count, min(40, short), max(40, long)]
        wanted += [each for low, high in sizes for each in (min(40, low), max(40, high))]
        NATIVE.measured(first[text], count, short, long, array("i", [each for pair in sizes for each in pair]))
        assert first[text].tolist() == wanted and (text not in known or known[text].tolist() == wanted)
        with pytest.raises(ValueError, match="another number"):
            NATIVE.measured(first[text], 1, 1, 1, array("i", [0] * (2 * len(sizes) + 2)))
    with pytest.raises(ValueError, match="another number"):
        NATIVE.measures(known, texts[1:], [each[0] for each in told], lengths, runs, spans)
    if spans:
        with pytest.raises(ValueError, match="not there"):
            NATIVE.measures(known, texts, [each[0] for each in told], lengths, runs, spans[:-4])


ANY_LINES = st.lists(st.text(st.characters(exclude_characters="\n\r", codec="utf-8") | st.just("\udc84")), max_size=30)


@example([chr(code) for code in range(0x80, 0x3000) if chr(code).isalpha()])
@example(["\U00010501\U00010502", "\U00010400\U00010428"])
@example(["".join(chr(code) for code in range(0x4E00, 0x5500)), "٧𝔸字\U00020000\uffff\uf8ff"])
@given(ANY_LINES)
def test_every_character_is_put_by_its_kind(lines: list[str]) -> None:
    assert NATIVE is not None
    data = block_of(lines, "\n")
    ends = NATIVE.survey(data, 0)[6]
    group_of, table, unknown = bytearray(len(ends)), KindTable(), [0]
    while unknown:
        found, counts, _, unknown = NATIVE.grouped(data, ends, group_of, True, table.stored)
        assert not (unknown and found)
        table.learn(unknown)
    texts = [each.decode("utf-8", "surrogateescape") for each in found]
    assert [texts[each] for each in memoryview(group_of).cast("i")] == [line.translate(BY_KIND) for line in lines]
    assert sum(counts) == len(lines)


@given(LINES, ENDS, st.sets(st.integers(0, 2**32 - 1), max_size=5), st.integers(5, 12))
@example([("0123456789" * 9)[:size] for size in range(90)], "\n", set(), 100)
def test_the_smallest_checksums_of_the_standard_are_kept(
    lines: list[str], end: str, before: set[int], most: int
) -> None:
    assert NATIVE is not None
    data = block_of(lines, end)
    every = [crc32(each) * 2654435761 % 2**32 for each in texts_of(data)]
    found = NATIVE.sketch(data, NATIVE.survey(data, 0)[6], 2654435761, array("I", sorted(before)), most)
    assert array("I", found).tolist() == sorted(before.union(every))[:most]


@given(ANY_LINES, ENDS)
@example(["", "\x01"], "\n")
def test_different_lines_have_different_numbers(lines: list[str], end: str) -> None:
    assert NATIVE is not None
    data = block_of(lines, end)
    numbers = memoryview(NATIVE.scatters(data, NATIVE.survey(data, 0)[6])).cast("Q").tolist()
    assert sorted(numbers) == sorted(map(NATIVE.scatter, set(texts_of(data))))
    assert len(set(numbers)) == len(numbers) == len(set(texts_of(data)))


NUMBERS = st.integers(0, 40) | st.integers(0, 2**64 - 1) | st.integers(0, 9).map(lambda each: each << 40 | 3)


@given(st.lists(st.lists(NUMBERS, max_size=12), max_size=6), st.integers(0, 40))
def test_numbers_are_known_from_when_they_were_learnt(given_one_by_one: list[list[int]], most: int) -> None:
    assert NATIVE is not None
    table, known = bytearray(8 * 128), set[int]()
    for numbers in given_one_by_one:
        found = memoryview(NATIVE.learn(table, array("Q", numbers), most - len(known))).cast("Q").tolist()
        assert set(found) == set(numbers) - known - {0}
        known.update(found[: most - len(known)])
    assert sorted(filter(None, memoryview(table).cast("Q"))) == sorted(known)


@pytest.mark.parametrize("table", [b"", bytes(8 * 3), bytes(12), bytes(8 * 2), b"x" * 32])
def test_a_table_without_room_for_numbers_is_refused(table: bytes) -> None:
    assert NATIVE is not None
    with pytest.raises(ValueError, match="room"):
        NATIVE.learn(bytearray(table), array("Q", [5, 6, 7]), 3)


@given(LINES, ENDS, st.integers(0, 10**6))
def test_lines_are_put_on_heaps_alike_whether_their_ends_are_known(lines: list[str], end: str, seed: int) -> None:
    assert NATIVE is not None
    data = block_of(lines, end)
    ends = NATIVE.survey(data, 0)[6]
    chance = random.Random(seed)
    finishes = array("h", [chance.randrange(-1, 3) for _ in range(len(ends) // 4)])
    heap_of = [-1, 1, 0, 1]
    known = gathered(StoredTexts(data, len(finishes), ends=ends), bytearray(finishes.tobytes()), heap_of)
    assert known == gathered(StoredTexts(data, len(finishes)), bytearray(finishes.tobytes()), heap_of)
    kept = [each + b"\n" for each in data.split(b"\n")[: len(finishes)]]
    assert known == [
        b"".join(each for each, finish in zip(kept, finishes, strict=True) if heap_of[finish + 1] == heap)
        for heap in (0, 1)
    ]


def test_cells_that_stand_nowhere_are_not_put_in_lines() -> None:
    assert NATIVE is not None
    assert NATIVE.lined(b"a,bc,", array("i", [2, 4, 5, 5, 0, 1])) == b"bc\n\na\n"
    for wrong in ([-1, 1], [3, 2], [0, 6]):
        with pytest.raises(ValueError, match="nowhere"):
            NATIVE.lined(b"a,bc,", array("i", wrong))


WRONG_ENDS = {
    "too few": array("i", [4]),
    "too many": array("i", [4, 8, 12]),
    "backwards": array("i", [8, 4]),
    "beyond": array("i", [4, 80]),
    "before": array("i", [-4, 8]),
    "none": array("i"),
}


@pytest.mark.parametrize("wrong", WRONG_ENDS)
def test_ends_that_are_not_those_of_the_lines_are_refused(wrong: str) -> None:
    assert NATIVE is not None
    data, ends = b"abc\nabd\n", WRONG_ENDS[wrong].tobytes()
    table, sorting = reading_table(Reading("abc")).table(), sorting_table([Reading("abc")]).table()
    calls: list[Any] = [
        lambda: NATIVE.read(data, None, table.walked, 0, 0, 0, bytearray(400), 0, None, ends),
        lambda: NATIVE.sort(data, None, sorting.walked, 0, 0, 0, bytearray(4), None, ends),
        lambda: NATIVE.gather(data, None, bytearray(4), array("i", [0, 0]), 1, ends),
        lambda: NATIVE.grouped(data, ends, bytearray(8), True, None),
        lambda: NATIVE.grouped(data, NATIVE.survey(data, 0)[6], bytearray(8), True, bytes(9)),
        lambda: NATIVE.shaped(data, ends, bytearray(8), None, 0, 9, False),
        lambda: NATIVE.shaped(data, NATIVE.survey(data, 0)[6], bytearray(8), bytes(9), 0, 9, False),
        lambda: NATIVE.sketch(data, ends, 1, b"", 9),
        lambda: NATIVE.scatters(data, ends),
    ]
    for call in calls:
        with pytest.raises(ValueError, match=r"nowhere|lines|characters"):
            call()


def test_leaps_of_another_table_are_refused() -> None:
    assert NATIVE is not None
    data = b"probe=B07 moisture=31.4%\n" * 50
    table = sorting_table([Reading(r"probe=[A-F]\d\d moisture=[\d.]+%")]).table()
    out = bytearray(2 * 50)
    while (progress := NATIVE.sort(data, None, table.walked, 0, 0, 0, out, None, None))[0]:
        table.fill(progress[4], progress[5])
    direct, starts, letters, onward, into, acts, finals, _, _, stride, slots, least = table.walked
    leap_of, leaps = NATIVE.leaps(table.walked, data, None, 0, False)
    assert leaps and len(leap_of) == 4 * len(onward)
    short = (direct, starts, letters, onward, into, acts, finals, leap_of[:-4], leaps, stride, slots, least)
    for call in (NATIVE.is_sound, lambda wrong: NATIVE.sort(data, None, wrong, 0, 0, 0, out, None, None)):
        with pytest.raises(ValueError, match="no table"):
            call(short)
    with pytest.raises(ValueError, match="nowhere"):
        NATIVE.leaps(table.walked, data, None, 10**6, False)


@pytest.mark.parametrize("expression", ["[ =]+", r"\d+", r"by=(?P<who>\w+)", r"(?:ab)+c|LM-\d{4}"])
def test_all_matches_are_found_alike_in_leaps(expression: str) -> None:
    assert NATIVE is not None
    chance = random.Random(expression)
    words = ["probe=B07", "by=holm", "by=é", "LM-1234", "LM-12", "ababc", "abab", "2026-05-04", "==", " ", "Ж7"]
    data = "".join(" ".join(chance.choices(words, k=chance.randrange(9))) + "\n" for _ in range(300)).encode()
    table = matches_table(Reading(expression, "anywhere")).table()

    def rows() -> tuple[bytes, int]:
        assert NATIVE is not None
        out, progress = bytearray(4 * 20 * len(data)), (0, 0, 0, 0, 0, 0)
        while True:
            restarts, (_, at, number, count, _, _) = table.arrays.restarts, progress
            progress = NATIVE.read_all(data, None, table.walked, 0, restarts, at, number, out, count, None, None)
            if not progress[0]:
                return bytes(out[: 4 * progress[3] * (3 + table.arrays.slots)]), progress[3]
            table.fill(progress[4], progress[5])

    plainly = rows()
    for _ in range(3):
        table.prepare(data * 4, None)
        assert rows() == plainly


SOUGHT = {"probe=B07": r".*probe=B07.*", "Holm": r"(?P<a>\W*)Holm(?P<b>.)?", "aaa": "a{3}a*(?P<n>7)?", "m=\r": "m=\r?."}


@given(LINES, ENDS, st.booleans(), st.sampled_from(sorted(SOUGHT)), st.integers(0, 90))
def test_lines_without_what_is_sought_are_passed_by_and_numbered_all_the_same(
    lines: list[str], end: str, whole: bool, sought: str, before: int
) -> None:
    assert NATIVE is not None
    data = block_of(["-" * before, *lines, "m=\rx", "m=\r"], end, whole=whole)
    count, _, _, _, _, _, ends = NATIVE.survey(data, 0)
    reading = Reading(SOUGHT[sought], "anywhere")
    sorting, placing, several = (
        sorting_table([reading]).table(),
        reading_table(reading).table(),
        matches_table(reading).table(),
    )
    found: list[list[Any]] = []
    # The tables lack most when what is sought is looked for.
    for needle in (sought.encode(), None):
        sorted_out, width = bytearray(2 * count), 3 + placing.arrays.slots
        rows = [bytearray(4 * width * (len(data) + 1)) for _ in range(2)]
        told: list[Any] = [sorted_out, *rows]
        progress = (0, 0, 0, 0, 0, 0)
        while (progress := NATIVE.sort(data, None, sorting.walked, 0, *progress[1:3], sorted_out, needle, ends))[0]:
            sorting.fill(*progress[4:])
        told.append(progress[:3])
        progress = (0, 0, 0, 0, 0, 0)
        while True:
            _, at, number, rows_so_far, _, _ = progress
            progress = NATIVE.read(data, None, placing.walked, 0, at, number, rows[0], rows_so_far, needle, ends)
            if not progress[0]:
                break
            placing.fill(*progress[4:])
        told.append(progress[:4])
        progress = (0, 0, 0, 0, 0, 0)
        while True:
            _, at, number, rows_so_far, _, _ = progress
            restarts = several.arrays.restarts
            progress = NATIVE.read_all(
                data, None, several.walked, 0, restarts, at, number, rows[1], rows_so_far, needle, ends
            )
            if not progress[0]:
                break
            several.fill(*progress[4:])
        told.append(progress[:4])
        found.append(told)
    assert found[0] == found[1]
    fits = [re.search(SOUGHT[sought].encode(), text) is not None for text in texts_of(data)]
    assert [each >= 0 for each in memoryview(found[0][0]).cast("h")] == fits


@pytest.mark.parametrize("sought", ["é7", "m=31.4%", "m" * 90])
def test_what_is_sought_is_found_wherever_it_stands(sought: str) -> None:
    assert NATIVE is not None
    table = sorting_table([Reading(f"-*{sought}x*")]).table()
    for before in range(200):
        data = f"{'-' * before}{sought}{'x' * (before % 9)}\n".encode()
        out, ends = bytearray(2), NATIVE.survey(data, 0)[6]
        while (progress := NATIVE.sort(data, None, table.walked, 0, 0, 0, out, sought.encode(), ends))[0]:
            table.fill(*progress[4:])
        assert out == b"\0\0"
