"""Slips as they happen in the station's suites: what was meant is among the first changes offered."""

from __future__ import annotations

import pytest

from fieldstick.drafting.context import Beside, MatchCase
from fieldstick.drafting.diagnosis import diagnose

SLIPS = [
    (r"m{permit-(\d+)}x", "permit-204", r"permit-(\d+)"),
    (r"note: (.+)", "note: wet\nand cold", "dotall"),
    (r"gate {g:\w+} open", "gate north open", r"gate (?P<g>\w+) open"),
    ("rain ${n} mm", "rain 12 mm", r"rain (?P<n>\d+) mm"),
    (r"gate (?P(g)\w+) open", "gate north open", r"gate (?P<g>\w+) open"),
    ("[A-Z][a-z]+ [A-Z][a-z]+", "Orla O'Venn", "[A-Z][a-z]+ [A-Z][a-zA-Z']+"),
    ("B07: 31.4%", "C12: 8.0%", r"[A-Z]\d{2}: \d+\.\d%"),
    (r"(?:B\d\d, )+", "B07, B08", r"B\d\d(?:, B\d\d)*"),
    (r"\d{2}:{2}", "06:30", r"\d{2}:\d{2}"),
    (r"trap \(?P<id>\w+\) ok", "trap (C3) ok", r"trap \((?P<id>\w+)\) ok"),
    (r"(\w+),(\w+),(\w+)", "fen ridge,set-1,7", "([^,]+),([^,]+),([^,]+)"),
    (r"(?P<at>\w+)\t(?P<of>\w+)", "06:30\tred kite", r"(?P<at>[^\t]+)\t(?P<of>[^\t]+)"),
    (r"(?P'y'\d+)", "12", r"(?P<y>\d+)"),
    (r"(?P<y:\d+)", "12", r"(?P<y>\d+)"),
    (r"\P{L}+", "12", r"[\W\d_]+"),
    (r"s/\d+/N/", "12", r"\d+"),
    ("?:a|b", "a", "(?:a|b)"),
    (r"trap C3: (\d+)", "trap C14: 12", r"trap C\d{1,2}: (\d+)"),
    (r"of them (\d+) empty", "of them none empty", r"of them (\d+|none) empty"),
    (
        r"(?P<day>\d{4}-\d{2}-\d{2})T(?P<at>\d{2}:\d{2})",
        "2026-05-04 06:10",
        r"(?P<day>\d{4}-\d{2}-\d{2})[T ](?P<at>\d{2}:\d{2})",
    ),
    (r"LM-\d{4}-\d{3}-[RTV]", "LM-2026-0417-R", r"LM-\d{4}-\d{3,4}-[RTV]"),
    (r"LM-\d{4}-\d{4}-[RT]", "LM-2026-0417-V", r"LM-\d{4}-\d{4}-[RTV]"),
    (r"lm-\d{4}", "LM-2026", "ignore-case"),
    (r"probe=[a-f]\d{2}", "probe=B07", "ignore-case"),
    (r"trap=[A-F]\d{2}", "trap=C3", r"trap=[A-F]\d{1,2}"),
    (r"temp=\d+\.\dC", "temp=-3.5C", r"temp=-?\d+\.\dC"),
    (r"[A-Z][a-z]+ [a-z]+", "Carex nigra-juncea", "[A-Z][a-z]+ [a-z-]+"),
    (r"\d{2}\.\d{2}\.\d{4}", "4.5.2026", r"\d{1,2}\.\d{1,2}\.\d{4}"),
    (r"\d{2}:\d{2}", "6:40", r"\d{1,2}:\d{2}"),
    (r"[A-Z]{2} \d{5}", "RX41207", r"[A-Z]{2} ?\d{5}"),
    (r"[A-Z]{2}\d{5}", "RX 41207", r"[A-Z]{2} ?\d{5}"),
    (r"[A-Z]{2} \d{5}", "K 00318", r"[A-Z]{1,2} \d{5}"),
    (r"species: \w+", "species: Lagopus lagopus", r"species: [\w ]+"),
    (r"\S+=\s+", "plot=B07", r"\S+=\S+"),
    (r"\D{4}", "2026", r"\d{4}"),
    (r"\W+", "word", r"\w+"),
    (r'frame=\d{6} "\w+"', 'frame=004417 "mountain hare"', r'frame=\d{6} "[\w ]+"'),
    (r"[0-9]+ kg", "1.240 kg", "[0-9.]+ kg"),
    (r"\d+ (kg|g)", "5 KG", "ignore-case"),
    (r"gate=(north|quarry) pass=\d+ (in|out)", "gate=north pass=22 in held", "start"),
    (r"B07", "plot B07", "anywhere"),
    (r"[north]", "north", "north"),
    (r"[A-Z](2)\d(3)", "AB123", r"[A-Z]{2}\d{3}"),
    (r"\d[3]", "123", r"\d{3}"),
    (r"\d{3-5}", "1234", r"\d{3,5}"),
    (r"\d{3, 5}", "1234", r"\d{3,5}"),
    (r"file[1].txt", "file[1].txt", r"file\[1\].txt"),
    (r"Dr\. [A-Z]\w+", "Dr Quarrie", r"Dr\.? [A-Z]\w+"),
    (r"colou?r", "colour ", "colour"),
    (r"colour", "color", r"colou?r"),
    (r"[^,]+,[^,]+", "a,", "[^,]+,[^,]*"),
    (r"\d+,\d{2}", "12.50", r"\d+[,.]\d{2}"),
    (r"LM–\d{4}", "LM-2026", r"LM-\d{4}"),
    (r"Hag's End", "Hag’s End", "Hag's End"),
    (r"[a-z]{3,5}", "meadow", "[a-z]{3,6}"),
    (r"(ab)+c", "c", "(ab)*c"),
    (r"na{2}", "nana", "(?:na){2}"),
    (r"(\d+)(-\d+)", "12", r"(\d+)(-\d+)?"),
    (r"\d+m", "12 m", r"\d+ ?m"),
    (r"start.*end", "start\nend", "dotall"),
    (r"path/to/\w+.log", "path/to/probe-1.log", r"path/to/[\w-]+.log"),
    ("plot=[a-Z]+", "plot=fen", "plot=[a-z]+"),
    (r"plot \b?B07", "plot B07", "plot ?B07"),
    (r"(=|\||:|(|;)", "=", r"(=|\||:|\(|;)"),
    ("^(<|>|||?)$", ">", r"^(<|>|\|\|?)$"),
    (r"\d+\s*+\s*\d+", "1+1", r"\d+\s*\+\s*\d+"),
    ("[0-9]+[0-9]+", "31.4", r"[0-9]+\.[0-9]+"),
    ("(north|quarry|-)", "north-quarry", "(north|quarry|-)+"),
    ("(fen|carr)-", "fenfen-", "(fen|carr)+-"),
    ("plot-B07", "plot---B07", "plot-+B07"),
    (r"(['\"])[^'\"]\1", "'fen'", r"(['\"])[^'\"]*\1"),
    (r"[!:?]\d", "x7", r"[!:?\w]\d"),
    (r"[\W\d_]+", "fen", r"[^\W\d_]+"),
    ("probe( )on", "probeon", r"probe(\s*)on"),
    (r"\d{1}°\d{2}′", "54°12′", r"\d{2}°\d{2}′"),
    (r"\\(\.|[a-z]+)", "\\7", r"\\(.|[a-z]+)"),
    ("probe <plot> at <n>%", "probe B07 at 31%", r"probe (?P<plot>\S+) at (?P<n>\S+)%"),
]

KEPT_OUT = [
    (r"ring [A-Z]{1,3}\d{1,3}", "ring A1", ["ring KR402", "ring HV118"], r"ring [A-Z]{2}\d{3}"),
    (
        r"\S+ \S+ ok",
        "gate north ok",
        ["2026-05-04 06:10 ok", "2026-05-05 18:22 ok"],
        r"\d{4}-\d{2}-\d{2} \d{2}:\d{2} ok",
    ),
    (r'"?(\w+)"?,"?(\w+)"?', "fen,wet", ['"fen","wet"', '"carr","dry"'], r'"(\w+)","(\w+)"'),
    (r"(?:\d+[;,]?)+", "12,", ["12,14", "3;4", "7"], r"\d+(?:[;,]\d+)*"),
    (r"(\w+) ([\w/]+):", "WARN gate/:", ["WARN gate/north:", "INFO relay:"], r"(\w+) (\w+(?:/\w+)*):"),
    (r"\d+ \w+", "12 ft", ["12 cm", "4 cm", "7 cm"], r"\d+ cm"),
    (r"(?P<t>.+)\s*", "wet ", ["wet", "very dry"], r"(?P<t>.*\S)"),
    (r"note: (.*)", "note:  wet", ["note: wet", "note: dry hut"], r"note: (\S.*)"),
    (r"([^;]+)", " fen ", ["fen", "low carr"], r"(\S(?:[^;]*\S)?)"),
    (r"(\d\d):(\d\d)", "27:80", ["06:12", "23:59"], r"((?:[01]\d|2[0-3])):([0-5]\d)"),
    (r"\d+°[NSEW]", "54°E", ["54°N", "3°S"], r"\d+°[NS]"),
    (r"seen (\d+|many|few)", "seen many", ["seen 3", "seen 12"], r"seen (\d+)"),
    (r"(\d+) of (\d+|\?)", "3 of ?", ["3 of 12"], r"(\d+) of (\d+)"),
    (r"(\d\d)\D(\d\d)\D(\d{4})", "04x05x2026", ["04.05.2026", "04/05/2026"], r"(\d\d)[./](\d\d)[./](\d{4})"),
    (r"(\d+\.?\d*)%", "31%", ["31.4%", "8.0%"], r"(\d+\.\d)%"),
    (r"([^;]*);(\d+);([^;]*)", ";3;", ["vole;3;fen", "shrew;12;carr"], r"([^;]+);(\d+);([^;]+)"),
    (r"plot [A-F0-9]{3}", "plot 07B", ["plot B07", "plot C12"], "plot [A-F][0-9]{2}"),
    (r"\(?(\d+)\)?", "(12", ["(12)", "(3)"], r"\((\d+)\)"),
    (r"([^,]*),([^,]*),(.*)", "a,b,c,d", ["a,b,c", "fen,wet,12"], "([^,]*),([^,]*),([^,]*)"),
    (r"/*.*?\*/", " *fen*/", ["/**/"], r"/\*.*?\*/"),
    (r"\d{1,3}(?:.\d{1,3}){3}", "4:12.0.7", ["4.12.0.7", "11.3.2.117"], r"\d{1,3}(?:\.\d{1,3}){3}"),
    (r"(-?\d*\.\w+)(%|[a-z]+)?", "-7._777%", [".7", "-7.77mm"], r"(-?\d*\.\d+)(%|[a-z]+)?"),
    (r"(\S+) (\S+)", "hare, 4", ["hare four", "fox one"], r"(\w+) (\w+)"),
    (r"(.+) \((.+)\)", "a (b) (c)", ["Turdus merula (f)", "hare (4)"], r"([^(]+) \(([^)]+)\)"),
    (r"\w+?", "fens", ["fen", "moo"], r"\w{3}"),
    (r"(\S+):(\d+)", "a:1:2", ["fen:80", "probe-7:443"], r"([^\s:]+):(\d+)"),
    ("[a-z]", "x", ["m", "f", "u"], "[fmu]"),
    (r"LK\d+|RX\d+", "LK4", ["LK04821", "RX12345"], r"LK\d{5}|RX\d{5}"),
    (r"(\d{1,2})/(?P<m>\d{1,2})", "4/13", ["4/5", "31/12", "1/09"], r"(\d{1,2})/(?P<m>(?:0?[1-9]|1[0-2]))"),
    (r"(?P<h>\d{2}):(?P<m>\d{2})", "25:71", ["06:10", "23:59"], r"(?P<h>(?:[01]\d|2[0-3])):(?P<m>[0-5]\d)"),
    ('"fen|quarry"', '"fen', ['"quarry"'], '"(?:fen|quarry)"'),
    (r"[012]?\d:[0-5]\d", "27:10", ["6:10", "23:59"], r"(?:[01]?\d|2[0-3]):[0-5]\d"),
    (r"[0-3]?\d\.[01]?\d\.", "4.13.", ["4.5.", "31.12."], r"[0-3]?\d\.(?:0?[1-9]|1[0-2])\."),
    ("[0-9]{1,3}%", "140%", ["31%", "100%", "4%"], "(?:100|[0-9]{1,2})%"),
    (r"#\w{6}", "#north1", ["#a1b2c3", "#A1B2C3"], "#[0-9A-Fa-f]{6}"),
]


@pytest.mark.parametrize(("expression", "text", "others", "repair"), KEPT_OUT)
def test_what_was_meant_to_stay_out(expression: str, text: str, others: list[str], repair: str) -> None:
    found = diagnose(MatchCase(expression, frozenset(), "whole", text), beside=Beside(tuple(others)))
    assert repair in [each.case.expression for each in found.repairs[:3]]


def test_zeros_before_a_number_may_belong_to_it() -> None:
    case = MatchCase(r"frame=0*(?P<frame>\d{1,6}) lux=\d+", frozenset(), "whole", "frame=4417 lux=212")
    found = diagnose(case, beside=Beside(("frame=004417 lux=12", "frame=120044 lux=180"))).repairs
    assert found[0].case.expression == r"frame=(?P<frame>\d{6}) lux=\d+"


def test_seconds_are_no_hours_though_they_might_be() -> None:
    case = MatchCase(r"\d{2}:\d{2}:\d{2}", frozenset(), "whole", "06:12:71")
    found = diagnose(case, beside=Beside(("22:50:09", "04:31:00"))).repairs
    offered = [each.case.expression for each in found]
    assert offered[0] == r"\d{2}:\d{2}:[0-5]\d"
    assert r"\d{2}:\d{2}:(?:[01]\d|2[0-3])" not in offered


def test_several_texts_say_which_letters_a_piece_had() -> None:
    """`[NS]`, of two texts that lack it; the place is no wider than they show."""
    found = diagnose(
        MatchCase(r"\d{2}°\d{2}′", frozenset(), "whole", "54°12′N"), beside=Beside(fitting=("03°07′S",))
    ).repairs[:3]
    assert r"\d{2}°\d{2}′[NS]" in [each.case.expression for each in found]


TOLDBY_OTHERS = [
    (r"(\d+) eggs, (?P<young>\d+)? young", "4 eggs", ["4 eggs, 2 young"], r"(\d+) eggs(?:, (?P<young>\d+) young)?"),
    (r"\+?(\d{2}):?(?P<m>\d{2})", "+02", ["+02:00"], r"\+?(\d{2})(?::?(?P<m>\d{2}))?"),
    (r"(\d\d?)h (?P<m>\d\d?)?m?", "2h", ["2h 14m"], r"(\d\d?)h(?: (?P<m>\d\d?)m)?"),
    (r"seen (\d+) \w+", "seen 12-14 voles", ["seen 3 voles"], r"seen (\d+)(?:-\d+)? \w+"),
    (r"(\d+) moths, (\d+) bats", "12 moths and 3 bats", ["41 moths, 2 bats"], r"(\d+) moths(?:,| and) (\d+) bats"),
    (r"(?P<lat>\d{2}°\d{2}′)N", "54° 12′ N", ["54°12′N"], r"(?P<lat>\d{2}°\s*\d{2}′)\s*N"),
    (
        r"(?P<a>\d{2}\.\d{2}\.) to (?P<b>\d{2}\.\d{2}\.)",
        "4.5. to 12.6.",
        ["04.05. to 12.06."],
        r"(?P<a>\d{1,2}\.\d{1,2}\.) to (?P<b>\d{1,2}\.\d{1,2}\.)",
    ),
    (r'"(\w+)";\d', '"Low Fen";1', ['"Carr";3'], r'"([^"]+)";\d'),
    (r"[1-9] \w+", "12 voles", ["3 voles"], r"[1-9]\d* \w+"),
    (r"probe \w+", "probe B07 #4", ["probe C1 #12"], r"probe \w+ #\d+"),
    (r"(\w+)(,\w+){2}", "a", ["a,b,c", "a,b"], r"(\w+)(,\w+)*"),
    (r"\w+:\d+", "soil:  4", ["soil:12", "soil: 3"], r"\w+: *\d+"),
    (r"[1-9]\d*", "0", ["4", "10"], r"0|[1-9]\d*"),
    (r"\d+\.\d+,\d+\.\d+", "54.2,-2.1", ["-1.0,-0.5"], r"-?\d+\.\d+,-?\d+\.\d+"),
    (r"(AB|C)?\d", "ABC4", ["4", "AB4"], r"(AB|C)*\d"),
    (r"\w+ \(\w+\)?", "fen", ["fen (wet)"], r"\w+(?: \(\w+\))?"),
    (r"\d+\.?\d+", "4", ["4.5", "12"], r"\d+(?:\.\d+)?"),
    (r"\\[^{\n]|[^\"\\]+", r"\B\B\B", [r"\a"], r"(?:\\[^{\n]|[^\"\\])+"),
    (r"(?:0[1-9]|1[0-2])", "1", ["07", "10"], r"(?:0?[1-9]|1[0-2])"),
    (r"\d{1,3}(?:,\d)*", "1,240", ["7", "12,004,117"], r"\d{1,3}(?:,\d{3})*"),
    (r"[0-9a-f]{8}-\d{4}", "0a1b2c3d-99ff", ["deadbeef-0001"], r"[0-9a-f]{8}-[0-9a-f]{4}"),
    (r"\d{2}:\d{2}(?::\d{3})?", "23:59:08", ["06:10"], r"\d{2}:\d{2}(?::\d{2})?"),
    (r"'(\\[0-7]{1,3}|[^\\'])'", r"'\a'", [r"'\77'"], r"'(\\[0-7]{1,3}|[^\\']|\\.)'"),
    (r"\d(?:\.\d{1,3}){3}", "10.0.0.7", ["192.0.2.117"], r"\d{1,3}(?:\.\d{1,3}){3}"),
    (r"[\s(){}]+", "a", ["77"], r"[^\s(){}]+"),
    (r"([a-z]+(?: [a-z]+))", "hare", ["pine marten"], r"([a-z]+(?: [a-z]+)*)"),
    (r"(?P<p>\d+)%", "31 %", ["4%", "100%"], r"(?P<p>\d+) ?%"),
    (r"temp (?P<t>-?\d+\.\d)°C", "temp n/a", ["temp 4.5°C"], r"temp (?:(?P<t>-?\d+\.\d)°C|n/a)"),
    (r"t=(?P<t>-?\d+\.\d);h=(\d+)", "t=nan;h=31", ["t=4.5;h=30"], r"t=(?:(?P<t>-?\d+\.\d)|nan);h=(\d+)"),
    (r"Fee: £(?P<f>\d+\.\d) due", "Fee: waived due", ["Fee: £4.5 due"], r"Fee: (?:£(?P<f>\d+\.\d)|waived) due"),
    (r"(\d+\.\d) mm,(\d+)", "-,12", ["3.5 mm,4"], r"(?:(\d+\.\d) mm|-),(\d+)"),
    (
        r"trap (\d+), (\d+) of them empty",
        "trap 12",
        ["trap 9, 3 of them empty"],
        r"trap (\d+)(?:, (\d+) of them empty)?",
    ),
    (r"£(\d+\.\d{2})", "£1,204.50", ["£4.50"], r"£(\d{1,3}(?:,\d{3})*\.\d{2})"),
    (r"\d+\.\d+", "1.5e-3", ["1.5"], r"\d+\.\d+(?:[eE][+-]?\d+)?"),
    ("gate 'north'", "gate ‘north’", ["gate 'north'"], "gate [‘']north[’']"),
    (r"\d\d:\d\d(am|pm)", "07:30 am", ["07:30am"], r"\d\d:\d\d ?(am|pm)"),
    (r"\[(\w+)\]", "(gate)", ["[gate]"], r"[\[(](\w+)[\])]"),
    ("B07|C12", "D01", ["B07", "C12"], r"[A-Z]\d{2}"),
    (r"(\d\d) May", "04th May", ["05 May"], r"(\d\d(?:st|nd|rd|th)?) May"),
    (r"node\d rssi -\d\d", "node12 rssi -104", ["node3 rssi -88"], r"node\d+ rssi -\d{2,3}"),
    (r"no\. (\d+)", "No 14", ["no. 14"], r"[nN]o\.? (\d+)"),
    (r"<(\w+)>", "</td>", ["<td>"], r"</?(\w+)>"),
    (r"(\d+(?:\.\d+)?) ?(kg|g)", "1,2 kg", ["1.2 kg", "3g"], r"(\d+(?:[,.]\d+)?) ?(kg|g)"),
    (r"^([^:]+):([^:]+)$", "at: 06:10", ["gate: north"], r"^([^:]+):(.+)$"),
    (r"(\w+)=(\w+)(,(\w+)=(\w+))*", "a=1,b=", ["a=1,b=2"], r"(\w+)=(\w*)(,(\w+)=(\w*))*"),
    (r"(?P<x>-?\d+)/(?P<y>-?\d+)", "+3/-2", ["-3/4"], r"(?P<x>[+-]?\d+)/(?P<y>[+-]?\d+)"),
    (r"hut\s-\scarr", "hut  -  carr", ["hut - carr"], r"hut\s+-\s+carr"),
    (r"^(\S+) (\S+) (\S+)$", "gate north by hand", ["gate north auto"], r"^(\S+) (\S+) (.+)$"),
    ('"(\\w+)","(\\w+)"', '"north fen",""', ['"fen","wet"', '"a b","c"'], '"([^"]*)","([^"]*)"'),
]

LOOKED_FOR = [
    (r"^\d+ hares", "saw 4 hares", True, ["12 hares"], r"\d+ hares"),
    (r"\d{4}", "12345", False, ["in 2026", "2026-05"], r"\b\d{4}\b"),
    ("#", "a # b", False, ["# note", "  # x"], r"^\s*#"),
    (r"^LM-\d{4}$", "permit LM-2026 is due", True, ["LM-2025"], r"LM-\d{4}"),
    (" owl ", "owl, tawny", True, ["an owl seen"], r"\bowl\b"),
    ("(?!lost).*card.*$", "a card lost", False, ["card in", "card full"], "(?!.*lost).*card.*$"),
]

GATE = r"\[(?P<gate>gate-\w+)\] (?P<what>OPEN|SHUT) by badge (?P<badge>\d{4}) \(dwell (?P<dwell>\d+\.\d)s\)"
BY = r" by badge (?P<badge>\d{4})"
OPENED = "[gate-north] OPEN by badge 0417 (dwell 3.2s)"
LINES = [
    (
        GATE,
        OPENED.replace(" by badge 0417", ""),
        [OPENED],
        GATE.replace(BY, f"(?:{BY})?"),
    ),
    (GATE.replace(BY, r" (?P<badge>\d{4}) by badge"), OPENED, [], GATE),
    (GATE.replace("(?P<what>OPEN|SHUT)", "OPEN|SHUT"), OPENED, [], GATE.replace("(?P<what>", "(?:")),
    (GATE.replace("by badge", "by  badge"), OPENED, [], GATE),
    (GATE.replace("gate-", "gate_"), OPENED, [], GATE),
    (GATE.replace(r"\d{4}", "[1-9]{4}"), OPENED, [], GATE),
    (r"wind (\d+) m/s gust (\d+)?", "wind 4 m/s", ["wind 4 m/s gust 9"], r"wind (\d+) m/s(?: gust (\d+))?"),
    (r"(\d+)h ?(\d+)?m", "2h", ["2h 14m", "2h14m"], r"(\d+)h(?: ?(\d+)m)?"),
    ("INFO|WARN|FAULT: (.+)", "WARN: low battery", ["FAULT: gate"], "(?:INFO|WARN|FAULT): (.+)"),
    ("[а-я]+ ok", "fen ok", [], "[a-z]+ ok"),
    (r"\w+\s\w+-\w+;\w+", "a b - c;d", [], r"\w+\s\w+ - \w+;\w+"),
    (r"week \d\d?", "Week 3", ["week 3"], r"[Ww]eek \d\d?"),
    (r'msg="(?P<msg>[^"]*)" ok', r'msg="so \"wet\"" ok', ['msg="" ok'], r'msg="(?P<msg>(?:[^"\\]|\\.)*)" ok'),
    (r"At: (\w+)\nBy: (\w+)", "At: hut\r\nBy: Holm", ["At: fen\nBy: Tam"], r"At: (\w+)\r?\nBy: (\w+)"),
    (
        r"\d+ [a-z]+(?: [a-z]+)* over [A-Z]\w+",
        "2 owls at Holm",
        ["12 grey geese over Carr"],
        r"\d+ [a-z]+(?: [a-z]+)* (?:over|at) [A-Z]\w+",
    ),
    (r"depth (\d+)-(\d+)", "depth 10–20", ["depth 4-9"], r"depth (\d+)[–-](\d+)"),
    (r'"n": "(\d+)", "ok"', '"n": 12, "ok"', [], r'"n": (\d+), "ok"'),
    (r"(\d+)m (\d+)h \(to", "11h 35m (to", [], r"(\d+)h (\d+)m \(to"),
    (r"\((?P<m>\d+)m (?P<h>\d+)h\)", "(11h 35m)", [], r"\((?P<h>\d+)h (?P<m>\d+)m\)"),
    (r"(\w+) = (\d+)", "n = 15  # was 10", ["m = 1"], r"(\w+) = (\d+)(?:\s+#.*)?"),
    (r"(\w+)\s+(\d+\.\d)\s+(ok|low)", "fen  --.-  ok", ["fen  1.4  ok"], r"(\w+)\s+(\d+\.\d|--\.-)\s+(ok|low)"),
    ("([^;]+);([^;]+);([^;]+)", "a;;c", ["a;b;c"], "([^;]*);([^;]*);([^;]*)"),
    (r"(\d\d)/(\d{2})", "05/2026", ["05/26"], r"(\d\d)/(\d{2}|\d{4})"),
]
"""Slips in lines, each with others that should fit, and what is to come first."""


@pytest.mark.parametrize(("expression", "text", "others", "repair"), LINES)
def test_in_a_line_what_was_meant_comes_first(expression: str, text: str, others: list[str], repair: str) -> None:
    found = diagnose(MatchCase(expression, frozenset(), "whole", text), beside=Beside(tuple(others))).repairs
    assert found[0].case.expression == repair


@pytest.mark.parametrize(
    ("expression", "text", "others", "repair"),
    [
        ("wet", "the wetter plots", ["all wet here", "wet"], r"\bwet\b"),
        (r"KX\d{5}", "KX482134", ["at KX48213"], r"\bKX\d{5}\b"),
        ("yes|no|.*", "maybe", ["yes", "no"], "yes|no"),
    ],
)
def test_a_word_that_is_looked_for_is_all_of_one(expression: str, text: str, others: list[str], repair: str) -> None:
    found = diagnose(MatchCase(expression, frozenset(), "anywhere", text), beside=Beside(tuple(others))).repairs
    assert found[0].case.expression == repair


def test_what_only_looks_like_a_hyphen_is_the_texts_slip_but_for_the_sign_of_a_number() -> None:
    ring = diagnose(MatchCase(r"KX-\d+", frozenset(), "whole", "KX\N{MINUS SIGN}481")).repairs[0]
    below = diagnose(MatchCase(r"-?\d+", frozenset(), "whole", "\N{MINUS SIGN}3"), beside=Beside(("-3", "3"))).repairs[
        0
    ]
    assert (ring.case.text, below.case.text) == ("KX-481", "\N{MINUS SIGN}3")


def test_options_are_written_as_the_text_has_one_of_them() -> None:
    found = diagnose(MatchCase(r"no \d+: (open|shut)", frozenset(), "whole", "no 12: OPEN")).repairs
    assert {(each.case.expression, *each.case.flags) for each in found[:2]} == {
        (r"no \d+: (open|shut)", "ignore-case"),
        (r"no \d+: (OPEN|SHUT)",),
    }


@pytest.mark.parametrize(("expression", "text", "others", "repair"), TOLDBY_OTHERS)
def test_other_texts_tell_what_was_meant(expression: str, text: str, others: list[str], repair: str) -> None:
    found = diagnose(MatchCase(expression, frozenset(), "whole", text), beside=Beside(tuple(others)))
    assert repair in [each.case.expression for each in found.repairs[:3]]


@pytest.mark.parametrize(("expression", "text", "fit", "others", "repair"), LOOKED_FOR)
def test_what_is_looked_for_has_edges(expression: str, text: str, fit: bool, others: list[str], repair: str) -> None:
    found = diagnose(MatchCase(expression, frozenset(), "anywhere", text), beside=Beside(tuple(others)))
    assert found.fits is not fit
    assert repair in [each.case.expression for each in found.repairs[:3]]


@pytest.mark.parametrize(("expression", "text", "repair"), SLIPS)
def test_what_was_meant_is_among_the_first_three(expression: str, text: str, repair: str) -> None:
    found = diagnose(MatchCase(expression, frozenset(), "whole", text)).repairs[:3]
    offered = [
        each.case.expression
        if each.case.expression != expression
        else each.case.text
        if each.case.text != text
        else next(iter(each.case.flags), each.case.reach)
        for each in found
    ]
    assert repair in offered
