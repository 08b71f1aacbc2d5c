"""A pattern handed over as a function: in its language it reads every sample as it is read here, types and all."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from languages_here import LANGUAGES, run_tests, skip_without

if TYPE_CHECKING:
    from pathlib import Path

    from conftest import Desk

SUITE = r"""
[patterns.load]
about = "What a party carries \"up\" \\u0041 ?> */ --> in kg"
expression = '(?P<load_kg>\S+?) ?kg(?: of (?P<what>\w+))?'
fields.load_kg = { type = "decimal", decimal_mark = ",", group_mark = ".", unit = "kg", least = 0, most = 2500.5 }
positive = [
  '80 kg', '1.240,5 kg', '12,50kg of moss', ',5 kg', '-0 kg', '+7 kg', '2e3 kg', '1,5E+2 kg', '2500,5 kg', '80. kg',
]
negative = [
  '2500,51 kg', '12.40,5 kg', '1.24 kg', '1.240e1 kg', '-1 kg', '−1 kg', 'x kg', '5e9999 kg', ', kg', '1,2,3 kg',
]

[patterns.class]
expression = '(?P<match>[^,]*),(?P<fields>[^,]*),(?P<found>[^,]*)(?P<other>,)?'
fields.match = { type = "integer", group_mark = "'", least = -3, most = 99999999999999999999999 }
fields.fields = { type = "boolean", true = ["yes", "ja'"], false = ["no", "\"no\""] }
fields.found = { one_of = ["a\\b", "$x#{1}", "'"] }
positive = [
  "7,yes,'", "-3,no,$x#{1}", "12'345'678,ja',a\\b", "+0012,\"no\",',", "9007199254740993,yes,'", "−2,no,'", "7!,yes,'",
]
negative = ["-4,yes,'", "12'34,yes,'", "7,YES,'", "7,yes,b", "7!!,yes,'", ",yes,'", "1.0,yes,'"]

[patterns.seen-at]
expression = '(?P<at>[^|]*)\|(?P<day>[^|]*)\|(?P<clock>[^|]*)\|(?P<typed>[^|]*)\|(?P<noted>[^|]*)'
fields.at = { type = "timestamp", least = 2026-01-01T00:00:00Z }
fields.day = { type = "date", least = 2019-03-01, most = 2030-12-31 }
fields.clock = { type = "time", layout = "%I:%M %p", least = 06:00:00 }
fields.typed = { type = "timestamp", layout = "%d. %B %Y %H:%M" }
fields.noted = { type = "date", layout = "%d%b%y" }
positive = [
  "2026-05-04T06:10:00Z|2026-05-04|6:10 am|4. May 2026 06:10|04May26",
  "20260504T061000.25+0200|20280229|12:00 PM|29. february 2028 23:59|1DEC30",
  "2026-05-04 06:10-01:30|2019-03-01.|11:59 pm|01. MARCH 2026 0:00|31mar19",
]
negative = [
  "2025-12-31T23:59:59.999999Z|2026-05-04|6:10 am|4. May 2026 06:10|04May26",
  "2026-01-01T00:30:00+01:00|2026-05-04|6:10 am|4. May 2026 06:10|04May26",
  "2026-05-04T06:10:00|2026-05-04|6:10 am|4. May 2026 06:10|04May26",
  "2026-05-04T24:00:00Z|2026-05-04|6:10 am|4. May 2026 06:10|04May26",
  "2026-05-04T06:10:00Z|2026-02-29|6:10 am|4. May 2026 06:10|04May26",
  "2026-05-04T06:10:00Z|2026-05-4|6:10 am|4. May 2026 06:10|04May26",
  "2026-05-04T06:10:00Z|2019-02-28|6:10 am|4. May 2026 06:10|04May26",
  "2026-05-04T06:10:00Z|2026-05-04|12:10 am|4. May 2026 06:10|04May26",
  "2026-05-04T06:10:00Z|2026-05-04|13:10 pm|4. May 2026 06:10|04May26",
  "2026-05-04T06:10:00Z|2026-05-04|6:10 am|4. Mai 2026 06:10|04May26",
  "2026-05-04T06:10:00Z|2026-05-04|6:10 am|4. May 2026 06:60|04May26",
  "2026-05-04T06:10:00Z|2026-05-04|6:10 am|4. May 2026 06:10|32May26",
]

[patterns.rings]
expression = '(?P<ring>[A-Z]{2})(?P<number>\d{3})'
reach = "anywhere"
take = "all"
fields.number = { type = "integer", most = 900 }
positive = ['LK017 and NV318, 🐦XX900', 'AB001']
negative = ['none', 'LK017 and NV999']

[patterns.last-ring]
expression = '([A-Z]{2})(\d{3})'
reach = "anywhere"
take = -2
positive = ['LK017 and NV318', 'LK017 NV318 XX900']
negative = ['LK017', 'none']
"""


@pytest.mark.parametrize("language", LANGUAGES)
def test_a_function_reads_the_samples_in_its_language_and_a_wrong_one_is_noticed(desk: Desk, language: str) -> None:
    skip_without(*{"javascript": ["node"]}.get(language, [language]))
    desk.suite(SUITE)
    folder = desk.folder / f"{language}-functions"
    folder.mkdir()
    for name in ("load", "class", "seen-at", "rings", "last-ring"):
        run = desk.run("handover", f"loggers:{name}", "--as", f"{language}-function", "--to", str(folder))
        assert run.status == 0, run.err
    written = sorted(folder.iterdir())
    assert len(written) == 10
    ran = run_tests(language, folder)
    assert ran.returncode == 0, (ran.stdout[-3000:], ran.stderr[-3000:])
    (test,) = [each for each in written if "test" in each.name.lower() and "AB001" in each.read_text(encoding="utf-8")]
    test.write_text(test.read_text(encoding="utf-8").replace("AB001", "AB01"), encoding="utf-8")
    assert run_tests(language, folder).returncode != 0


COMBINED = (
    SUITE
    + r"""
[patterns.any-entry]
about = "Rings, or a load"
any_of = ["rings", "load"]
positive = ['LK017 and NV318', '80 kg of moss']
negative = ['moss', 'NV999', '9999 kg']

[patterns.no-moss]
expression = 'moss|fen'
reach = "anywhere"
positive = ['in the moss']
negative = ['heath']

[patterns.dry-load]
none_of = ["no-moss"]
positive = ['80 kg of heather', '']
negative = ['80 kg of moss']

[patterns.entry]
all_of = ["any-entry", "dry-load"]
positive = ['80 kg of heather', 'AB001']
negative = ['80 kg of moss', 'heather']
"""
)


@pytest.mark.parametrize("language", LANGUAGES)
def test_a_pattern_made_of_patterns_asks_its_members_functions(desk: Desk, language: str) -> None:
    skip_without(*{"javascript": ["node"]}.get(language, [language]))
    desk.suite(COMBINED)
    folder = desk.folder / (f"combined-{language}" if language != "python" else "functions")
    folder.mkdir()
    given = ("handover", "loggers:entry", "--as", f"{language}-function", "--to", str(folder))
    run = desk.run(*given)
    assert run.status == 0 and "any-entry: rings: its 4 samples" in run.err, run.err
    tests = [each for each in folder.iterdir() if "test" in each.name.lower()]
    assert len(tests) == 6 == len(list(folder.iterdir())) / 2
    ran = run_tests(language, folder)
    assert ran.returncode == 0, (ran.stdout[-3000:], ran.stderr[-3000:])
    assert desk.run(*given).status == 0
    (own,) = [each for each in tests if "'80 kg of heather'" in _plain(each) and "AB001" in _plain(each)]
    own.write_text(own.read_text(encoding="utf-8").replace("80 kg of heather", "80 kg of fen"), encoding="utf-8")
    assert run_tests(language, folder).returncode != 0
    own.write_text("mine\n", encoding="utf-8")
    refused = desk.run(*given)
    assert refused.status == 2 and "was written by somebody else" in refused.err
    assert own.read_text(encoding="utf-8") == "mine\n"


def _plain(file: Path) -> str:
    return file.read_text(encoding="utf-8").replace('"', "'")


def test_members_that_would_be_called_the_same_are_refused(desk: Desk) -> None:
    desk.suite(SUITE + "[patterns.Load]\nexpression = 'x'\n[patterns.both]\nany_of = ['load', 'Load']\n")
    run = desk.run("handover", "loggers:both", "--as", "go-function")
    assert run.status == 2 and "two members would be called" in run.err
