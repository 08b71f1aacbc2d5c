"""Of few texts what they happen to have alike is not taken for all there is; what is no chance is."""

from __future__ import annotations

import random

import pytest

from fieldstick.drafting.proposals.few_lines import parted_by_head
from fieldstick.drafting.proposals.proposing import propose

AT = r"(?P<at>\d{4}-\d{2}-\d{2} \d{2}:\d{2}:\d{2})"


@pytest.mark.parametrize(
    ("texts", "expression", "also", "not_these"),
    [
        pytest.param(
            "2026-05-04 06:10:00 INFO [weir] back after 14 s|2026-05-04 06:12:31 WARN [trap-2] lost signal"
            "|2026-05-05 17:00:09 ERROR [probe] lost signal",
            AT + r" (?P<level>[A-Z]+) \[(?P<word>[0-9a-z-]+)\] (?P<text>\S.*)",
            "2026-05-04 06:10:00 DEBUG [gate] level=3.1 (low); retry",
            "2026-05-04 06:10:00 INFO weir back after 14 s|2026-05-04 INFO [weir] back",
            id="behind brackets",
        ),
        pytest.param(
            "May 04 06:10:00 tarn gated[12]: open|May 04 06:10:02 tarn gated[12]: battery low"
            "|May  4 06:11:02 weir reader[77]: retry 3 of 5",
            r"(?P<at>[A-Z][a-z]{2} [ \d]\d \d{2}:\d{2}:\d{2}) (?P<host>[a-z]+) (?P<word>[a-z]+)\[(?P<pid>\d+)\]: "
            r"(?P<text>\S.*)",
            "May 04 06:10:00 fen reader[4711]: 3.1 V (low)",
            "May 04 06:10:00 fen reader: 3.1 V|May 04 06:10:00 fen reader[12]:",
            id="behind a colon",
        ),
        pytest.param(
            "06:10 INFO gate opened by carr|06:12 WARN probe B07 lost|06:13 INFO trap A3 frame 12 saved",
            r"(?P<time>\d{2}:\d{2}) (?P<level>[A-Z]+) (?P<text>\S.*)",
            "23:59 ERROR 3 of 12 probes: none",
            "6:10 INFO gate opened|06:10 INFO |06:10 gate opened by carr",
            id="behind how grave it is",
        ),
        pytest.param(
            "06:10 ERROR main boot|06:12 DEBUG main sync done|06:13 ERROR store flush 12 rows",
            r"(?P<time>\d{2}:\d{2}) (?P<level>[A-Z]+) (?P<word>[a-z]+) (?P<text>\S.*)",
            "06:14 INFO relay 3.1 V",
            "06:14 INFO relay",
            id="who says it, who has said several things",
        ),
        pytest.param(
            "06:10:00 rain 3 mm|06:20:00 rain 12 mm|06:30:00 rain 0 mm heavy",
            r"(?P<time>\d{2}:\d{2}:\d{2}) rain (?P<rain>\d+) mm(?: (?P<word>[a-z]+))?",
            "06:10:00 rain 4 mm light",
            "06:10:00 hail 4 mm",
            id="the same thing said, with more or less",
        ),
        pytest.param(
            "(burnt, cut, grazed)|(shaded)|(fenced)|(fenced, burnt, cut)",
            r"\((?P<list>[a-z]+(?:, [a-z]+)*)\)",
            "(wet, cut)",
            "(wet,cut)|wet, cut|(wet, )",
            id="a list in brackets",
        ),
        pytest.param(
            "seen: wren (13), curlew (4), robin (11)|seen: raven (6)|seen: dipper (1), wren (2), raven (9)",
            r"seen: (?P<seen>[a-z]+ \(\d{1,2}\)(?:, [a-z]+ \(\d{1,2}\))*)",
            "seen: robin (2), wren (14)",
            "seen: robin (2, wren (14)|seen: robin (2),",
            id="items with brackets of their own",
        ),
        pytest.param(
            "C21: 18, 47, 52|C10: 37, 23, 4, 25|A05: 35, 7",
            r"(?P<word>[A-Z][0-9]{2}): (?P<list>\d{1,2}(?:, \d{1,2})*)",
            "B22: 4",
            "B22: |B22: 4,",
            id="a list behind a name",
        ),
        pytest.param(
            "sedge; bogbean|heather|moor-grass; sundew; sedge",
            "(?P<list>[a-z-]+(?:; [a-z-]+)*)",
            "bilberry; bog-myrtle; heather; sedge",
            "bilberry;sedge",
            id="items of words with hyphens",
        ),
        pytest.param(
            "07.05.2026 - B07|11.06.2026 - C12|30.04.2026 - A03",
            r"(?P<day>\d{2}\.\d{2}\.\d{4}) - (?P<word>[A-Z][0-9]{2})",
            "04.12.2026 - F40",
            "4.12.2026 - F40|04.2.2026 - F40",
            id="a zero before a day",
        ),
        pytest.param(
            "11.10.2026 6:10|12.11.2026 17:45",
            r"(?P<at>\d{1,2}\.\d{1,2}\.\d{4} \d{1,2}:\d{2})",
            "4.5.2026 7:00",
            "4.5.26 7:00",
            id="no zero before anything",
        ),
        pytest.param(
            "12:40Z-13:05Z|17:10Z-07:20Z",
            r"(?P<time>\d{2}:\d{2}Z)-(?P<time2>\d{2}:\d{2}Z)",
            "06:10Z-07:20Z",
            "06:10-07:20",
            id="times of no zone but UTC",
        ),
        pytest.param("2025-Q4|2026-Q1", r"(?P<quarter>\d{4}-Q[1-4])", "2026-Q3", "2026-Q5|2026-Q0", id="quarters"),
        pytest.param(
            "PRM/C/1|PRM/B/2|PRM/B/7|PRM/C/4|PRM/B/3",
            r"PRM/(?P<prm>[A-Z])/(?P<number>\d)",
            "PRM/A/9",
            "PRM/AB/9",
            id="two letters of all",
        ),
        pytest.param(
            "day|night|dawn/day|day|dawn/night",
            "(?P<word>[a-z]+)(?:/(?P<word2>[a-z]+))?",
            "dusk/night",
            "dusk/",
            id="a word that two of five have",
        ),
        pytest.param(
            "4 x 3 cm|5 x 7 x 2 cm|8 x 6 cm|3 x 9 x 1 cm",
            r"(?P<number>\d) x (?P<number2>\d) (?:x (?P<number3>\d) )?cm",
            "3 x 3 x 3 cm",
            "3 x 3 y 3 cm",
            id="one that all have elsewhere",
        ),
        pytest.param(
            "camera 3 saw 2 hares|camera 12 saw 1 fox at 40 m|camera 7 saw 4 deer",
            r"camera (?P<camera>\d+) saw (?P<saw>\d) (?P<word>[a-z]+)(?: at (?P<at>\d{1,2}) (?P<word2>[a-z]))?",
            "camera 3 saw 2 stoats at 9 m",
            "camera 3 saw 2 stoats by 9 m",
            id="a word that joins others",
        ),
    ],
)
def test_few_texts_tell_what_others_are_like(texts: str, expression: str, also: str, not_these: str) -> None:
    tight = propose(texts.split("|"))[0]
    assert tight.expression == expression
    assert tight.fits(also) and not any(map(tight.fits, not_these.split("|")))


@pytest.mark.parametrize("seed", range(6))
def test_what_stands_in_brackets_is_told_from_what_is_said_behind(seed: int) -> None:
    drawn = random.Random(seed)
    said = ["opened", "closed by carr", "lost signal", "battery 3.1 V", "back after 14 s", "reading late"]

    def line(number: int) -> str:
        who, level = drawn.choice(["gate", "trap-2", "probe", "weir"]), drawn.choice(["INFO", "WARN"])
        return f"2026-05-04 06:{number:02d}:00 {level} [{who}] {drawn.choice(said)}"

    tight = propose([line(number) for number in range(20)])[0].expression
    assert "(?P<level>INFO|WARN)" in tight
    assert tight.count(r"\]") == 1 and not any(f"{before}\\]" in tight for before in ("(?:", ">", "|"))


@pytest.mark.parametrize(
    "texts",
    [
        "gate opened: by carr|probe lost: B07",
        "06:10 INFO gate opened",
        "06:10 INFO gate opened|06:11 INFO gate closed",
        "06:10 INFO gate=north pass=12|06:11 WARN probe=B07",
        '10.4.8.60 - - [08/Jul/2026:21:30:10 +0000] "GET /a" 304|10.4.4.2 - - [19/Jun/2026:23:10:07 +0000] "HEAD /b" 4',
        "06:10 gate opened by carr|06:12 probe B07 lost",
    ],
)
def test_what_is_told_by_its_parts_is_not_what_is_said(texts: str) -> None:
    assert parted_by_head(texts.split("|")) is None
