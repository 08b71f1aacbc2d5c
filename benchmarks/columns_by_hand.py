"""Columns and lines as the station has them, drawn by rules written by hand, with texts near to them that are none."""

from __future__ import annotations

import datetime as dt
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from collections.abc import Callable
    from random import Random


def _words(text: str) -> list[str]:
    return text.split()


HERBS = _words("sundew bogbean cottongrass heather bilberry crowberry cloudberry sedge moor-grass tormentil butterwort")
CODES = ["UF", "LT", "ME", "BH", "SG", "HU", "LM", "NS", "PR"]
PEOPLE = ["Orla Venn", "Tam Brindle", "Ines Corrie", "Jory Haug", "Mattis Elm", "Wren Adair"]
NAMES = _words(
    "Orla Tam Ines Jory Mattis Wren Elin Bram Sita Kirsten Alva Pim Rowan Ulla Geir Hedda Joss Maren Tove Ilse"
)
FAMILIES = _words("Venn Brindle Corrie Haug Elm Adair Stonard Fell Marrick Osk Tarn Holm Ridley Askew Bragg Lund")
PLACES = _words(
    "ridge fen tarn mire moss peat hag stile beck scar knoll gully sike cairn wall fence track culvert "
    "sluice bank ford rake rigg thwaite holm"
)
GENERA = _words(
    "Erica Carex Drosera Juncus Molinia Calluna Sphagnum Vaccinium Empetrum Narthecium Eriophorum "
    "Trichophorum Polytrichum Cladonia Racomitrium"
)


class Column(NamedTuple):
    """What draws a text of a column, and texts near to these that are none."""

    draw: Callable[[Random], str]
    near: tuple[str, ...]


COLUMNS: dict[str, Column] = {}
"""The columns by name."""


def column(*near: str) -> Callable[[Callable[[Random], str]], Callable[[Random], str]]:
    """Take in what draws the texts of a column, with texts near to them that are none."""

    def taken_in(draw: Callable[[Random], str]) -> Callable[[Random], str]:
        COLUMNS[draw.__name__.strip("_")] = Column(draw, near)
        return draw

    return taken_in


def _moment(r: Random) -> dt.datetime:
    return dt.datetime(2026, 1, 1, tzinfo=dt.UTC) + dt.timedelta(seconds=r.randrange(330 * 86400))


@column(
    "2026-13-04T10:22:31Z",
    "2026-05-04 10:22:31Z",
    "2026-05-04T10:22Z",
    "2026-05-04T10:22:31",
    "26-05-04T10:22:31Z",
    "2026-05-04T10:22:31z",
)
def _stamp_z(r: Random) -> str:
    return _moment(r).strftime("%Y-%m-%dT%H:%M:%SZ")


@column(
    "2026-05-04T10:22:31.12+01:00",
    "2026-05-04T10:22:31+01:00",
    "2026-05-04T10:22:31.123",
    "2026-05-04 10:22:31.123+01:00",
    "2026-05-04T10:22:31.123+0100",
)
def _stamp_ms_offset(r: Random) -> str:
    return _moment(r).strftime("%Y-%m-%dT%H:%M:%S.") + f"{r.randrange(1000):03}" + r.choice(["+00:00", "+01:00"])


@column("Thur 04 May 2026", "Thu 4 May 2026", "04 May 2026", "Thu 04 May 26", "Thu 04 may 2026", "Thu, 04 May 2026")
def _weekday_date(r: Random) -> str:
    return _moment(r).strftime("%a %d %b %Y")


@column("4.5.2026,", "4/5/2026", "4.5.26", "4.5", "2026.5.4", "4..5.2026", "4.5.2026 ")
def _dotted_date(r: Random) -> str:
    x = _moment(r)
    return f"{x.day}.{x.month}.{x.year}"


@column("25:10", "9:7", "09:71", "9.07", "09:07:11", "9h07")
def _clock(r: Random) -> str:
    return f"{r.randrange(24):02}:{r.randrange(60):02}"


@column("1h 5m 3", "65m", "1h5m3s", "h 5m 3s", "1h 5m 3s 2", "1 h 5 m 3 s")
def _duration(r: Random) -> str:
    h, m, s = (r.randrange(0, 4), r.randrange(60), r.randrange(60))
    return (f"{h}h " if h else "") + (f"{m}m " if m or h else "") + f"{s}s"


@column("-0.51 m", "−0.5 m", "0.5", "0.5m", "+0.5 m", "0.50 km", "-.5 m")
def _metres(r: Random) -> str:
    return f"{r.uniform(-3, 9):.1f} m"


@column("31.4", "31,4 %", "314%", "31.45%", "-3.1%", "%31.4", "31.%")
def _percent(r: Random) -> str:
    return f"{r.uniform(0, 100):.1f}%"


@column("1,23,456", "123456789", "1.234", "1,2345", ",123", "12,34")
def _thousands(r: Random) -> str:
    return f"{int(10 ** r.uniform(1, 6.5)):,}"


@column("LM-2026-7", "LM-2026-00071", "LM/2026/0007", "lm-2026-0007", "LM-26-0007", "LN-2026-0007", "LM20260007")
def _permit(r: Random) -> str:
    return f"LM-{r.choice([2024, 2025, 2026])}-{r.randrange(1, 1200):04}"


@column("B7/3", "B07/", "B07-3", "b07/3", "B07/13", "BB07/3", "07/3")
def _plot(r: Random) -> str:
    return f"{r.choice('ABCDEF')}{r.randrange(1, 25):02}/{r.randrange(1, 6)}"


@column("KT-40215", "KT40215A", "K 40215", "KT 4021", "KTT 40215", "40215")
def _ring(r: Random) -> str:
    return f"{r.choice(['KT', 'HV', 'DA', 'NR'])} {r.randrange(10000, 99999)}"


@column("54.12N 2.31W", "54°12N 2°31W", "54°12′N", "54°12′N 2°31′", "54°12′ N 2°31′ W", "54°72′N 2°31′W")
def _position(r: Random) -> str:
    return f"{r.randrange(53, 56)}°{r.randrange(60):02}′N {r.randrange(1, 4)}°{r.randrange(60):02}′W"


@column("54.1234", "54.12,-2.31", "54.1234, -2.3123,", "54.1234 -2.3123", "N54.1234, W2.3123", "54.1234, --2.3123")
def _latlon(r: Random) -> str:
    return f"{r.uniform(53, 56):.4f}, {r.uniform(-3, -1):.4f}"


@column(
    "a1:b2:c3:d4:e5",
    "a1-b2-c3-d4-e5-f6",
    "a1:b2:c3:d4:e5:g6",
    "A1:B2:C3:D4:E5:F6",
    "a1:b2:c3:d4:e5:f6:07",
    "a1:b2:c3:d4:e5:f",
)
def _hw_address(r: Random) -> str:
    return ":".join(f"{r.randrange(256):02x}" for _ in range(6))


@column("v1.2", "1.2.3", "v1.2.3.", "v1.2.x", "V1.2.3", "v1.2.3-", "v1..3")
def _version(r: Random) -> str:
    v = f"v{r.randrange(4)}.{r.randrange(20)}.{r.randrange(12)}"
    return v + (f"-rc{r.randrange(1, 4)}" if r.random() < 0.25 else "")


@column("9f3a", "9f3ac01g", "9F3AC01D", "9f3ac01d2", "9f3ac-01d")
def _short_hash(r: Random) -> str:
    return f"{r.randrange(16**8):08x}"


@column(
    "/data/cam3/2026/05/img_0042.jpg",
    "data/cam03/2026/05/img_0042.jpg",
    "/data/cam03/2026/5/img_0042.jpg",
    "/data/cam03/2026/05/img_0042.png",
    "/data/cam03/2026/05/img_42.jpg",
    "/data/cam03/2026/05/",
)
def _path(r: Random) -> str:
    return f"/data/cam{r.randrange(1, 13):02}/2026/{r.randrange(1, 13):02}/img_{r.randrange(3000):04}.jpg"


@column(
    "probe_07-2026-05.csv",
    "probe-7_2026-05.csv",
    "probe-07_2026-13.csv",
    "probe-07_2026-05.tsv",
    "probe-07_2026-05.csv.gz",
    "probe-07_2026-5.csv",
)
def _filename(r: Random) -> str:
    return f"probe-{r.randrange(1, 41):02}_2026-{r.randrange(1, 13):02}.csv"


@column(
    "10:04:05 ERROR probe B07 no reply 3s",
    "10:04:05 WARN B07 no reply 3s",
    "10:04 WARN probe B07 no reply 3s",
    "10:04:05 WARN probe B07 no reply",
    "10:04:05 WARN probe B7 no reply 3s",
)
def _log_warn(r: Random) -> str:
    return (
        _moment(r).strftime("%H:%M:%S")
        + f" WARN probe {r.choice('ABC')}{r.randrange(1, 30):02} no reply {r.randrange(1, 60)}s"
    )


@column(
    "[2026-05-04 10:22:31] gate open by Orla Venn",
    "[2026-05-04 10:22:31] gate 3 ajar by Orla Venn",
    "2026-05-04 10:22:31 gate 3 open by Orla Venn",
    "[2026-05-04 10:22:31] gate 3 open by",
    "[2026-05-04] gate 3 open by Orla Venn",
)
def _gate(r: Random) -> str:
    return (
        _moment(r).strftime("[%Y-%m-%d %H:%M:%S]")
        + f" gate {r.randrange(1, 7)} {r.choice(['open', 'shut'])} by {r.choice(PEOPLE)}"
    )


@column(
    "id=44 temp=3.1C state=ok",
    "id=044 temp=3.1 state=ok",
    "id=044 temp=3.1C",
    "id=044 temp=3.1C state=",
    "id=044;temp=3.1C;state=ok",
    "temp=3.1C id=044 state=ok",
)
def _pairs(r: Random) -> str:
    return f"id={r.randrange(1, 400):03} temp={r.uniform(-12, 24):.1f}C state={r.choice(['ok', 'low', 'wet', 'cold'])}"


@column(
    '{"probe": 7, "raw": 812}',
    '{"probe":7,"raw":"812"}',
    '{"probe":7}',
    '{"raw":812,"probe":7}',
    '{"probe":7,"raw":812',
)
def _jsonish(r: Random) -> str:
    return f'{{"probe":{r.randrange(1, 60)},"raw":{r.randrange(200, 1024)}}}'


@column("sundew; ", "sundew,heather", "sundew; heather;", "; sundew", "sundew; heather; 3")
def _herb_list(r: Random) -> str:
    return "; ".join(r.sample(HERBS, r.randrange(1, 5)))


@column("Orla", "orla venn", "Orla V.", "Venn, Orla", "Orla  Venn", "Orla Venn 2")
def _person(r: Random) -> str:
    return (
        r.choice(_words("Orla Tam Ines Jory Mattis Wren Elin Bram Sita Kirsten Alva"))
        + " "
        + r.choice(_words("Venn Brindle Corrie Haug Elm Adair Stonard Fell Marrick Osk"))
    )


@column("O Venn", "O. venn", "Orla Venn", "O.Venn", "O. Venn,", "OV")
def _initial_name(r: Random) -> str:
    return (
        r.choice("OTIJMWEBSKA") + ". " + r.choice(_words("Venn Brindle Corrie Haug Elm Adair Stonard Fell Marrick Osk"))
    )


@column("approx 12", "12 –", "12-", "-15", "12 - 15 - 18", "twelve")
def _count_range(r: Random) -> str:
    a = r.randrange(1, 60)
    return f"{a}–{a + r.randrange(1, 20)}" if r.random() < 0.4 else str(a)


@column("N-NE", "north", "NNNE", "n", "NX", "SSEE")
def _wind(r: Random) -> str:
    return r.choice(_words("N NNE NE ENE E ESE SE SSE S SSW SW WSW W WNW NW NNW"))


@column("maybe", "Y", "YES", "yes ", "n", "true")
def _yesno(r: Random) -> str:
    return r.choice(["yes", "no"])


@column("gale", "Light", "light ", "lights", "mod")
def _windword(r: Random) -> str:
    return r.choice(["calm", "light", "moderate", "fresh", "strong"])


@column("UF-", "UF0034", "UF-34", "XX-0034", "uf-0034", "UF-00345")
def _specimen(r: Random) -> str:
    return f"{r.choice(CODES)}-{r.randrange(2000):04}"


@column("2026/178", "2026-78", "2026-400", "26-178", "2026-178a", "2026178")
def _ordinal(r: Random) -> str:
    return f"2026-{r.randrange(1, 366):03}"


@column("W54", "2026-W54", "2026W05", "2026-W5", "2026-w05", "2026-W05-8")
def _week(r: Random) -> str:
    return f"2026-W{r.randrange(1, 54):02}-{r.randrange(1, 8)}"


@column("", "0", "12.", "1.2e", "1,2", "e5")
def _sci(r: Random) -> str:
    return f"{r.uniform(1, 10):.2f}e{r.choice(['-', '+'])}{r.randrange(0, 9):02}"


@column("0x1g", "1f3a", "0X1F3A", "0x", "0x1f3a0")
def _hexnum(r: Random) -> str:
    return f"0x{r.randrange(65536):04x}"


@column("pH", "6.1", "pH 6,1", "ph 6.1", "pH 6.1.2", "pH -6.1")
def _ph(r: Random) -> str:
    return f"pH {r.uniform(3.4, 7.9):.1f}"


@column("3.1/7.2", "3.1 / 7.2 / 9.9", "3.1 /", "/ 7.2", "a / b")
def _minmax(r: Random) -> str:
    a = r.uniform(-5, 8)
    return f"{a:.1f} / {a + r.uniform(0, 9):.1f}"


@column("Carex sp", "carex nigra", "Carex Nigra", "Carex nigra 3", "Carex nigra,", "C nigra")
def _species(r: Random) -> str:
    return (
        r.choice(_words("Carex Drosera Calluna Erica Sphagnum Juncus Molinia Narthecium Vaccinium"))
        + " "
        + r.choice(_words("nigra alba minor palustris montana vulgaris rubra media acuta"))
        + r.choice(["", " ?"])
    )


@column("Photo 3/", "Photo 3 of 12", "photo 3/12", "Photo 3/12.", "Photo /12", "Foto 3/12")
def _photo(r: Random) -> str:
    b = r.randrange(2, 30)
    return f"Photo {r.randrange(1, b + 1)}/{b}"


@column("<frame 12>", "<frame n=12/>", "<frame n='12' t=\"40\"/>", '<frame n="12"/>', '<frame t="40" n="12"/>')
def _xmlish(r: Random) -> str:
    return f'<frame n="{r.randrange(1, 900)}" t="{r.randrange(0, 400)}"/>'


@column("cam3", "CAM-03", "cam-3", "cam-03.", "cam_03", "cam-03-")
def _cam(r: Random) -> str:
    return f"cam-{r.randrange(1, 19):02}"


@column("12 °C", "12.5 C", "12.5°", "12.5  °C", "twelve °C", "12.5 °F")
def _celsius(r: Random) -> str:
    return f"{r.uniform(-15, 28):.1f} °C"


@column("(none", "none", "()", "(wet, )", "(wet", "wet")
def _bracketed(r: Random) -> str:
    return "(" + ", ".join(r.sample(["wet", "shaded", "grazed", "burnt", "cut", "fenced"], r.randrange(1, 4))) + ")"


@column(
    "B07,2026-05-04,31.4",
    "B07;2026-05-04;31.4;",
    "B07;2026-05-04",
    "B07;04.05.2026;31.4;ok",
    "B07;2026-05-04;31,4;ok",
    "B07;2026-05-04;31.4;OK",
)
def _record(r: Random) -> str:
    return (
        f"{r.choice('ABCD')}{r.randrange(1, 30):02};{_moment(r):%Y-%m-%d};{r.uniform(0, 60):.1f};"
        f"{r.choice(['ok', 'wet', 'dry', 'n/a'])}"
    )


@column(
    "rec 12: 4 voles, shrews",
    "rec 12: 4 voles",
    "rec 12 4 voles, 2 shrews",
    "rec 12: 4 voles, 2 shrews.",
    "Rec 12: 4 voles, 2 shrews",
    "rec 12: 4 voles 2 shrews",
)
def _catch(r: Random) -> str:
    return f"rec {r.randrange(1, 300)}: {r.randrange(0, 12)} voles, {r.randrange(0, 9)} shrews"


@column(
    "probe B07 at 2.5 m: 31.4 %",
    "probe B07 at 25 cm: 31.4",
    "probe B7 at 25 cm: 31.4 %",
    "probe at 25 cm: 31.4 %",
    "probe B07 at 25cm: 31.4 %",
)
def _sentence(r: Random) -> str:
    return (
        f"probe {r.choice('ABCD')}{r.randrange(1, 30):02} at {r.choice([5, 10, 25, 40, 100])} cm: "
        f"{r.uniform(0, 70):.1f} %"
    )


@column(
    "2026-05-04 10:22:31 INFO main boot",
    "2026-05-04 10:22:31,123 INFO boot",
    "2026-05-04 10:22:31,123 TRACE main boot",
    "2026-05-04 10:22:31,123 INFO main",
    "2026-05-04 10:22:31,12 INFO main boot",
)
def _applog(r: Random) -> str:
    return (
        _moment(r).strftime("%Y-%m-%d %H:%M:%S,")
        + f"{r.randrange(1000):03} {r.choice(['INFO', 'DEBUG', 'WARN', 'ERROR'])} "
        f"{r.choice(['main', 'loop', 'radio', 'store'])} "
        f"{r.choice(['boot', 'sync done', 'flush 12 rows', 'lost link', 'link up', 'queue 3 of 9'])}"
    )


@column("10.4.0", "10.4.0.256", "10.4.0.7:80", "10,4,0,7", "10.4.0.", "node 10.4.0.7")
def _address(r: Random) -> str:
    return f"10.{r.randrange(8)}.{r.randrange(256)}.{r.randrange(256)}"


@column(
    "GET /v1/probe/B07",
    "GET /v1/probes/B07?from=2026-05-04",
    "POST /v1/probes/B07",
    "GET v1/probes/B07",
    "GET /v1/probes/B7",
)
def _request(r: Random) -> str:
    return f"GET /v1/probes/{r.choice('ABC')}{r.randrange(1, 30):02}"


@column("(54.12, 3.1)", "54.12 3.10", "(54.12,3.10)", "(54.12; 3.10)", "(54.12, 3.10", "(54.1.2, 3.10)")
def _pt(r: Random) -> str:
    return f"({r.uniform(50, 59):.2f}, {r.uniform(-4, 4):.2f})"


@column("2 d 03:14", "03:14:15 up", "2 days 03:14:15", "2d03:14:15", "2d 3:14:15", "d 03:14:15")
def _uptime(r: Random) -> str:
    n = r.randrange(0, 90)
    t = _moment(r).strftime("%H:%M:%S")
    return (f"{n}d " if n else "") + t


@column("sec 3", "section 3.", "§3..1", "§ 3.1.", "3.1", "§3.1.a")
def _section(r: Random) -> str:
    return "§" + ".".join(str(r.randrange(1, 13)) for _ in range(r.randrange(1, 4)))


@column("A", "A-", "A-1-2-3-4", "A1-2-", "a-1", "-1-2")
def _dashed(r: Random) -> str:
    return r.choice("ABCDEFGH") + "".join(f"-{r.randrange(1, 100)}" for _ in range(r.randrange(1, 4)))


@column(
    "Site: ridge",
    "site: ridge; depth: 12 cm",
    "Site: ridge; depth: 12",
    "Site: ridge; depth: cm",
    "Site: ; depth: 12 cm",
    "Site: ridge depth: 12 cm",
)
def _labelled(r: Random) -> str:
    return f"Site: {r.choice(PLACES)}; depth: {r.randrange(2, 90)} cm"


@column(
    "gate: opened",
    "gate 3: opened by hand at 10:22",
    "gate 3 opened at 10:22",
    "gate 3: opened at 10.22",
    "gate 3: at 10:22",
    "Gate 3: opened at 10:22",
)
def _gate2(r: Random) -> str:
    return f"gate {r.randrange(1, 9)}: {r.choice(['opened', 'closed', 'jammed'])} at {_moment(r):%H:%M}"


@column(
    "camera 4 saw",
    "camera 4 saw 3 deer at 12 m,",
    "camera saw 3 deer",
    "camera 4 saw deer",
    "camera 4 saw 3 deer near",
    "camera 4 saw 3 deer at 12",
)
def _sighting(r: Random) -> str:
    s = f"camera {r.randrange(1, 20)} saw {r.randrange(1, 9)} {r.choice(['deer', 'hares', 'foxes', 'grouse', 'voles'])}"
    return s + (f" at {r.randrange(3, 60)} m" if r.random() < 0.4 else "")


@column("07-Mai-26", "7-MAY-26", "07-May-2026", "07 May 26", "07-May", "32-May-26")
def _dmy(r: Random) -> str:
    return _moment(r).strftime("%d-%b-%y")


@column("May 2026", "2026", "05/26", "5/2026", "2026/05", "05-2026", "13/2026")
def _my(r: Random) -> str:
    return _moment(r).strftime("%m/%Y")


@column("0.1.2.3", "#12", "# 0012", "0012", "#0012a", "#00123")
def _hashnum(r: Random) -> str:
    return f"#{r.randrange(10000):04}"


@column("Venn O.", "Venn, Orla", "venn, O.", "Venn, O", "Venn; O.", "Venn, O. 2")
def _lastinit(r: Random) -> str:
    return r.choice(FAMILIES) + ", " + r.choice("OTIJMWEBSKAPRUG") + "."


@column(
    "Orla Venn &", "Orla Venn and Tam", "Orla Venn & Tam Elm & 3", "& Tam Elm", "Orla & Tam Elm", "orla venn & tam elm"
)
def _pair(r: Random) -> str:
    return " & ".join(f"{a} {r.choice(FAMILIES)}" for a in r.sample(NAMES, 2))


@column("12.4 kg 3", "12,4 kg", "12.4", "12.4 lb", "kg 12.4", "-12.4 kg", "12.4kg")
def _mass(r: Random) -> str:
    return f"{r.uniform(0.2, 80):.1f} kg" if r.random() < 0.5 else f"{r.randrange(5, 900)} g"


@column("wind 3", "wind NE", "wind NE 12", "wind N 4 gusts", "wind ne 4", "wind NE four", "wind 4 NE")
def _windline(r: Random) -> str:
    return f"wind {r.choice(_words('N NE E SE S SW W NW'))} {r.randrange(0, 9)}"


@column("B7-", "b7-12", "B07-12", "B7/12", "B7-1234", "7-12", "BB7-12")
def _bay(r: Random) -> str:
    return f"{r.choice('ABCDEFGHJK')}{r.randrange(1, 10)}-{r.randrange(1, 200)}"


@column('"wet"', '"wet" "low"', "wet, low", '"wet", low', '"wet",', '"wet";"low"')
def _quotedpair(r: Random) -> str:
    return f'"{r.choice(PLACES)}", "{r.choice(PLACES)}"'


@column("key=", "key=3;", "=3", "a=1,b=2", "a=1; b", "A=1; b=2;;", "a=1;b=2")
def _assigns(r: Random) -> str:
    return "; ".join(
        f"{k}={r.randrange(0, 500)}" for k in r.sample(["ph", "ec", "no3", "temp", "lux", "rssi"], r.randrange(1, 4))
    )


@column("INFO: started", "[info ] started", "[INFO]started", "[INFO]  ", "[FATAL started")
def _bracketlevel(r: Random) -> str:
    return f"[{r.choice(['INFO', 'WARN', 'ERROR'])}] " + " ".join(r.choice(PLACES) for _ in range(r.randrange(1, 6)))


@column("probe-7: -", "probe-7: 12.4 C", "probe-7 12.4C", "probe-7: 12.4F", "probe7: 12.4C", "probe-7: C")
def _probeline(r: Random) -> str:
    return (
        f"probe-{r.randrange(1, 60)}: {r.uniform(-9, 30):.1f}C"
        if r.random() < 0.8
        else f"probe-{r.randrange(1, 60)}: n/a"
    )


@column("1/2", "1 of", "1 of 3 of 4", "one of 3", "of 3", "1  of 3")
def _ofline(r: Random) -> str:
    n = r.randrange(2, 40)
    return f"{r.randrange(1, n)} of {n}"


@column(
    "node03.larkmoor",
    "node-03.larkmoor.test",
    "node03.larkmoor.",
    "Node03.larkmoor.test",
    "node03",
    "node3.larkmoor.test",
)
def _host(r: Random) -> str:
    return f"node{r.randrange(1, 30):02}.{r.choice(['larkmoor', 'upperfen', 'hut'])}.test"


@column(
    "2026-05-04T10:22:31Z node-3 sync[12] ok",
    "2026-05-04T10:22:31Z node-3 sync: ok",
    "2026-05-04T10:22:31Z sync[12]: ok",
    "2026-05-04 node-3 sync[12]: ok",
    "2026-05-04T10:22:31Z node-3 sync[ab]: ok",
)
def _daemon(r: Random) -> str:
    return (
        _moment(r).strftime("%Y-%m-%dT%H:%M:%SZ ")
        + f"node-{r.randrange(1, 9)} {r.choice(['sync', 'radio', 'store', 'power'])}[{r.randrange(10, 9000)}]: "
        + r.choice(
            [
                f"link up after {r.randrange(1, 90)} s",
                "link down",
                f"stored {r.randrange(1, 400)} rows to {r.choice(PLACES)}.dat",
                f"battery {r.uniform(10, 14):.1f} V",
                "clock set",
                f"retry {r.randrange(1, 6)} of 6 for {r.choice(PLACES)}",
            ]
        )
    )


@column(
    "May  4 10:22:31 hut radio: up",
    "May 4 10:22:31 hut radio[33]: up",
    "May  4 10:22 hut radio[33]: up",
    "05  4 10:22:31 hut radio[33]: up",
    "May  4 10:22:31 radio[33]: up",
)
def _syslogish(r: Random) -> str:
    x = _moment(r)
    return (
        f"{x:%b} {x.day:2} {x:%H:%M:%S} {r.choice(['hut', 'fen', 'gate'])} "
        f"{r.choice(['radio', 'cron', 'kern', 'probe'])}["
        f"{r.randrange(2, 4000)}]: " + " ".join(r.choice(PLACES) for _ in range(r.randrange(2, 7)))
    )


@column(
    '10.4.0.7 - - [04/May/2026:10:22:31 +0000] "GET /" 200 12',
    '10.4.0.7 - - [04/May/2026:10:22:31 +0000] "GET / HTTP/1.1" 20 12',
    '10.4.0.7 - [04/May/2026:10:22:31 +0000] "GET / HTTP/1.1" 200 12',
    '10.4.0.7 - - [04/May/2026 10:22:31 +0000] "GET / HTTP/1.1" 200 12',
)
def _access(r: Random) -> str:
    return (
        f'''10.4.{r.randrange(9)}.{r.randrange(256)} - - [{_moment(r):%d/%b/%Y:%H:%M:%S} +0000] "'''
        f"""{r.choice(["GET", "POST"])} /{r.choice(PLACES)}/{r.randrange(99)} HTTP/1.1" """
        f"""{r.choice([200, 200, 304, 404])} {r.randrange(20, 90000)}"""
    )


@column(
    'level=info msg="ok"',
    'ts=12 level=info msg="ok"',
    "ts=1714000000.123 level=info msg=ok",
    'ts=1714000000.123 msg="ok" level=info',
    "ts=1714000000.123 level=info",
)
def _logfmtish(r: Random) -> str:
    return (
        f"""ts={r.randrange(1714000000, 1715000000)}.{r.randrange(1000):03} level="""
        f'''{r.choice(["info", "warn", "error"])} msg="'''
        f'''{" ".join(r.choice(PLACES) for _ in range(r.randrange(1, 5)))}"'''
    )


@column("a@", "moor", "UPPER", "a..b", "9a")
def _dottedname(r: Random) -> str:
    return ".".join(r.choice(PLACES) for _ in range(r.randrange(2, 5)))


@column("B07|31.4|wet|x", "B07|31,4|wet", "|31.4|wet", "B07||wet|", "B7|31.4|wet")
def _piped(r: Random) -> str:
    return f"{r.choice('ABCD')}{r.randrange(1, 40):02}|{r.uniform(0, 60):.1f}|" + r.choice(["wet", "dry", "", "frozen"])


@column("frame_00012", "frame_12.jpg", "frame_00012_a.png", "frame-00012.jpg", "frame_00012.jpgx", "frame_00012")
def _frame(r: Random) -> str:
    return f"frame_{r.randrange(20000):05}{r.choice(['', '_a', '_b'])}.jpg"


@column("C4D-Moss", "C4-D-moss", "c4-Moss", "C4-Moss-", "4-Moss", "C4-")
def _codeword(r: Random) -> str:
    return f"{r.choice('ABCDEF')}{r.randrange(1, 9)}-{r.choice(PLACES).capitalize()}"


@column("ca. ", "12 ca.", "ca 12", "ca. 12,", "c. 12", "about 12")
def _circa(r: Random) -> str:
    return ("ca. " if r.random() < 0.4 else "") + str(r.randrange(1, 500))


@column("12 - 15 cm", "12-15", "12-cm", "12–15 cm", "12-15cm", "12-15-18 cm", "-15 cm")
def _rangecm(r: Random) -> str:
    a = r.randrange(1, 60)
    return f"{a}-{a + r.randrange(1, 30)} cm"


@column("low / hi", "LOW/high", "low", "low/high/mid", "/high", "low/")
def _slashpair(r: Random) -> str:
    return "/".join(r.sample(["low", "mid", "high", "none"], 2))


@column("2.1e", "1.0E+3", "2,1e3", "e3", "2.1e3.4", "2.1 e3")
def _sci2(r: Random) -> str:
    return f"{r.uniform(1, 10):.{r.randrange(1, 3)}f}e{r.randrange(-6, 9)}"


@column("$12", "12:", "12:7", "1:22:7", "1:22:67:00", "1:2", "01:")
def _mmss(r: Random) -> str:
    h = r.randrange(0, 3)
    return (f"{h}:{r.randrange(60):02}" if h else f"{r.randrange(60)}") + f":{r.randrange(60):02}"


@column("ABC 12", "AB12 C3", "AB1-2", "ab12 c34", "AB12C34 5", "A112 C34")
def _grid(r: Random) -> str:
    return f"{r.choice('ABCDEF')}{r.choice('ABCDEF')}{r.randrange(10, 99)} {r.choice('ABC')}{r.randrange(10, 99)}"


@column(
    "deadbeef-",
    "deadbeef-1234-5678-9abc-def012345678-1",
    "deadbeef-1234-5678-9abc-def01234567",
    "deadbeef123456789abcdef012345678",
    "DEADBEEF-1234-5678-9ABC-DEF012345678",
    "deadbeeg-1234-5678-9abc-def012345678",
)
def _uid(r: Random) -> str:
    return "-".join("".join(r.choice("0123456789abcdef") for _ in range(n)) for n in (8, 4, 4, 4, 12))


@column("<12>", "<x=1>", "<id 12>", "<id:>", "id:12", "<id:12", "<ID:12>")
def _angle(r: Random) -> str:
    return f"<id:{r.randrange(1, 2000)}>"


@column("10 % of", "10–20", "10 to 20 %", "-10%", "10–20–30%")
def _pctrange(r: Random) -> str:
    a = r.randrange(0, 80)
    return f"{a}%" if r.random() < 0.6 else f"{a}–{a + r.randrange(1, 20)}%"


@column("T+", "T+12", "T+00:12", "T-0:12:01", "00:12:01", "T+00:12:01.5s")
def _tplus(r: Random) -> str:
    return f"T+{r.randrange(0, 30):02}:{r.randrange(60):02}:{r.randrange(60):02}"


@column("yes, wet", "Yes (wet", "yes ()", "(wet)", "yes wet", "maybe (wet)")
def _yeswhy(r: Random) -> str:
    return r.choice(["yes", "no"]) + (f" ({r.choice(PLACES)})" if r.random() < 0.5 else "")


@column("No. 12/", "No 12/26", "No. 12/2026", "no. 12/26", "No. /26", "No. 12-26")
def _number26(r: Random) -> str:
    return f"No. {r.randrange(1, 400)}/{r.choice([24, 25, 26])}"


@column("ridge-", "Ridge-top", "ridge_top", "ridge--top", "-top", "ridge-top 2")
def _slug(r: Random) -> str:
    return "-".join(r.choice(PLACES) for _ in range(r.randrange(1, 4)))


@column("rain 1.2", "rain 1.2 mm/", "rain 1.2mm/h", "snow mm/h", "rain -1.2 mm/h", "hail  1.2 mm/h")
def _rate(r: Random) -> str:
    return f"{r.choice(['rain', 'snow', 'sleet'])} {r.uniform(0, 9):.1f} mm/h"


@column("B07: 3, 4,", "B07: 3; 4", "B07 3, 4", "B07:", "b07: 3", "B07: 3 4")
def _listline(r: Random) -> str:
    return f"{r.choice('ABC')}{r.randrange(1, 30):02}: " + ", ".join(
        str(r.randrange(1, 60)) for _ in range(r.randrange(1, 6))
    )


@column("Orla", "Orla (", "Orla (fen", "orla (Fen)", "(Fen)", "Orla Fen")
def _namesite(r: Random) -> str:
    return f"{r.choice(NAMES)} ({r.choice(PLACES).capitalize()})"


@column("5 voles caught", "caught 5", "5 vole,", "voles", "5 Voles", "5  voles")
def _amounts(r: Random) -> str:
    n = r.randrange(1, 9)
    w = r.choice(["vole", "shrew", "newt", "moth"])
    return f"{n} {w}" + ("s" if n > 1 else "")


@column(
    "4 May 2026, 10:2",
    "4 May 2026 10:22",
    "4 may 2026, 10:22",
    "May 4 2026, 10:22",
    "4 May 26, 10:22",
    "4 May 2026, 10.22",
)
def _longdate(r: Random) -> str:
    x = _moment(r)
    return f"{x.day} {x:%B} {x.year}, {x:%H:%M}"


@column(
    "2026-05-04_10-22-3",
    "2026-05-04_102231",
    "2026-05-04-10-22-31",
    "26-05-04_10-22-31",
    "2026-05-04_10-22-31.",
    "2026_05_04_10-22-31",
)
def _filestamp(r: Random) -> str:
    return _moment(r).strftime("%Y-%m-%d_%H-%M-%S")


@column("20260504T1022", "20260504", "2026-05-04T102231Z", "20260504T102231", "20260504 102231Z", "20260504T102231Zx")
def _basic(r: Random) -> str:
    return _moment(r).strftime("%Y%m%dT%H%M%SZ")


@column("10:22:31 am", "10:22", "22:22 pm", "10:22AM", "10.22 am", "0:22 noon")
def _ampm(r: Random) -> str:
    x = _moment(r)
    return f"{x.hour % 12 or 12}:{x.minute:02} {('am' if x.hour < 12 else 'pm')}"


@column("Q5 2026", "Q1", "2026 Q1", "q1 2026", "Q1-2026", "Q1 26")
def _quarter(r: Random) -> str:
    return f"Q{r.randrange(1, 5)} {r.choice([2024, 2025, 2026])}"


@column("12.5,", "12;5", "12.5.1", "1.2,5", "12,5 5", ",5")
def _comma(r: Random) -> str:
    return f"{r.uniform(0, 99):.1f}".replace(".", ",")


@column("(12", "12)", "-12.00", "(12.5)", "((12.50))", "12,50")
def _account(r: Random) -> str:
    x = r.uniform(1, 300)
    return f"({x:.2f})" if r.random() < 0.3 else f"{x:.2f}"


@column("1 000,", "1.000", "1 00", "10 00", "1000 000", "1  000")
def _spaced(r: Random) -> str:
    return f"{int(10 ** r.uniform(1.5, 6)):,}".replace(",", " ")


@column("<0.1.2", "< ", "0.1<", "<<0.1", ">0.1.", "ND1")
def _detect(r: Random) -> str:
    return r.choice([f"{r.uniform(0.1, 9):.2f}"] * 6 + ["<0.10"] * 2 + ["ND"])


@column("12 ± ", "12.1±0.2", "± 0.2", "12.1 ± 0.2 ± 1", "12.1 +- 0.2", "12.1 ± -0.2")
def _plusminus(r: Random) -> str:
    return f"{r.uniform(2, 40):.1f} ± {r.uniform(0, 2):.1f}"


@column("3x", "x4", "3 x 4 x", "3x4", "3 × 4", "3 x 4 m x")
def _dims(r: Random) -> str:
    return " x ".join(str(r.randrange(1, 60)) for _ in range(r.choice([2, 3]))) + " cm"


@column("LF-12-ABC", "LF-1234-AB", "LF-1234-abc", "LF1234-ABC", "LG-1234-ABC", "LF-1234-ABCD")
def _asset(r: Random) -> str:
    return f"LF-{r.randrange(1000, 9999)}-" + "".join(r.choice("ABCDEFGHJKLMNPQRSTUVWXYZ") for _ in range(3))


@column("7K2-9", "7K2-9QX-", "7k2-9qx", "7K29QX", "7K2-9Q", "7K2--9QX")
def _token(r: Random) -> str:
    return (
        "".join(r.choice("0123456789ABCDEFGHJKMNPQRSTVWXYZ") for _ in range(3))
        + "-"
        + "".join(r.choice("0123456789ABCDEFGHJKMNPQRSTVWXYZ") for _ in range(3))
    )


@column("LARK-", "LARK-12", "lark-A1", "LARK-1A", "LARKA1", "LARK-AA1")
def _zone(r: Random) -> str:
    return f"LARK-{r.choice('ABCD')}{r.randrange(1, 10)}"


@column("~/x", "./", "ridge\\fen", "/ridge//fen.csv", "ridge/fen", "/ridge/fen.cs v")
def _anypath(r: Random) -> str:
    return "/" + "/".join(r.choice(PLACES) for _ in range(r.randrange(1, 5))) + r.choice([".csv", ".log", ".dat"])


@column("D:\\", "D:/data/x.csv", "D:\\data", "\\data\\x.csv", "D:\\data\\", "data\\x.csv")
def _winpath(r: Random) -> str:
    return "D:\\data\\" + "\\".join(r.choice(PLACES) for _ in range(r.randrange(1, 3))) + f"\\{r.choice(PLACES)}.csv"


@column(
    "https://larkmoor.test/p/",
    "http://larkmoor.test/p/12",
    "https://larkmoor.test/12",
    "https://larkmoor.test/p/12/x",
    "https://larkmoor.test/p/ab",
    "larkmoor.test/p/12",
)
def _url(r: Random) -> str:
    return f"https://larkmoor.test/p/{r.randrange(1, 4000)}"


@column(
    "https://larkmoor.test/q?",
    "https://larkmoor.test/q?site=fen",
    "https://larkmoor.test/q?year=2026&site=fen",
    "https://larkmoor.test/q?site=fen&year=26",
    "https://larkmoor.test/q?site=&year=2026",
)
def _query(r: Random) -> str:
    return f"https://larkmoor.test/q?site={r.choice(PLACES)}&year={r.choice([2023, 2024, 2025, 2026])}"


@column(
    "probe.B07", "probe[B07].t", "probe[B07].temp", "probe.B07.temp.mean", "probe[B07]temp.mean", "probe[].temp.mean"
)
def _accessor(r: Random) -> str:
    return (
        f"probe[{r.choice('ABCD')}{r.randrange(1, 40):02}].{r.choice(['temp', 'moist', 'volt'])}."
        f"{r.choice(['mean', 'min', 'max'])}"
    )


@column("ERR12", "E-12", "ERR-", "ERR-12a", "err-12", "ERR-00012")
def _errcode(r: Random) -> str:
    return f"{r.choice(['ERR', 'WRN', 'INF'])}-{r.randrange(100, 1000)}"


@column("E104 no link", "E104: ", "104: no link", "E104; no link", "E1O4: no link", "E104 : no link")
def _errmsg(r: Random) -> str:
    return (
        f"E{r.randrange(100, 200)}: "
        + r.choice(["no link to", "low battery in", "bad frame from", "lost clock of"])
        + f" node "
        f"{r.randrange(1, 30)}"
    )


@column("10:22 > B07", "10:22 B07 > ", "10:22 B07 -> 31.4", "10:22 > B07 31.4", "B07 > 31.4", "10:22 B07 > x")
def _arrow(r: Random) -> str:
    return f"{_moment(r):%H:%M} {r.choice('ABC')}{r.randrange(1, 30):02} > {r.uniform(0, 60):.1f}"


@column("0;ridge", "0;ridge;1;x", "a;ridge;1", "0,ridge,1", "0;;1", "0;ridge;1;")
def _csvish(r: Random) -> str:
    return f"{r.randrange(0, 9000)};{r.choice(PLACES)};{r.choice([0, 1])}"


@column("ridge\t3", "ridge 3 4.1", "ridge\t3\t", "ridge\tx\t4.1", "\t3\t4.1", "ridge\t3\t4.1\t")
def _tabbed(r: Random) -> str:
    return f"{r.choice(PLACES)}\t{r.randrange(1, 40)}\t{r.uniform(0, 9):.1f}"


@column("B07   3", "B07  wet   31.4", "B07 wet 31.4 x", "wet   31.4", "b07   wet      31.4")
def _fixed(r: Random) -> str:
    return f"{r.choice('ABC')}{r.randrange(1, 30):02}   {r.choice(['wet', 'dry', 'frozen']):<8} {r.uniform(0, 60):5.1f}"


@column("# Site", "#Site: fen", "# site: fen", "# Site fen", "Site: fen", "# Site:")
def _comment(r: Random) -> str:
    return f"# {r.choice(['Site', 'Plot', 'Date by', 'Logger'])}: {r.choice(PLACES)}"


@column("O. Venn 2026", "(Venn 2026", "Venn, 2026", "(Venn, 26)", "(venn, 2026)", "(Venn; 2026)")
def _cite(r: Random) -> str:
    return (
        f"({r.choice(['Venn', 'Corrie', 'Haug', 'Elm', 'Adair', 'Osk', 'Fell', 'Tarn'])}"
        f"{r.choice([' & Holm', '', ' et al.', ''])}, {r.randrange(1998, 2027)})"
    )


@column("Carex nigra", "Carex nigra (V)", "carex nigra (V.) Cor.", "Carex nigra V", "Carex (V.) Cor.", "Carex nigra ()")
def _author(r: Random) -> str:
    return (
        f"{r.choice(['Carex', 'Drosera', 'Erica', 'Juncus', 'Molinia'])} "
        f"{r.choice(['nigra', 'alba', 'minor', 'rubra', 'acuta', 'media'])} ("
        f"{r.choice(['V.', 'Haug.', 'Elm.'])}) {r.choice(['Cor.', 'Osk.', 'Fell.', 'Tarn.'])}"
    )


@column("[x] fen", "[ ]fen", "[] fen", "[X] fen", "[x]", "[-] fen")
def _todo(r: Random) -> str:
    return f"[{r.choice(['x', ' '])}] {r.choice(PLACES)} {r.choice(PLACES)}"


@column("* fen", "- ", "-fen", "-- fen", "- Fen", "fen -")
def _bullet(r: Random) -> str:
    return "- " + " ".join(r.choice(PLACES) for _ in range(r.randrange(1, 5)))


@column("1 fen", "1.fen", "1. ", "a. fen", "1) fen", "1. Fen")
def _numbered(r: Random) -> str:
    return f"{r.randrange(1, 60)}. " + " ".join(r.choice(PLACES) for _ in range(r.randrange(1, 4)))


@column("**fen*", "*fen*", "** fen", "fen**", "**fen** 2", "__fen__")
def _bold(r: Random) -> str:
    return f"**{r.choice(PLACES)}**: {r.randrange(1, 90)}"


@column("Dear Orla", "Orla,", "Dear orla,", "Dear Orla, ", "Dear ,", "Hi Orla")
def _dear(r: Random) -> str:
    return f"Dear {r.choice(NAMES)},"


@column("Room", "Room 2", "Room A-", "room 2.14", "Room 2-14", "Room 2.14.1")
def _room(r: Random) -> str:
    return f"Room {r.randrange(1, 4)}.{r.randrange(1, 30):02}"


@column("v=1", "v=1;w=", "v=1.5;w=2", "v=1,w=2", "w=2;v=1", "v=1;w=2;")
def _vw(r: Random) -> str:
    return f"v={r.randrange(0, 300)};w={r.randrange(0, 300)}"


@column(
    '{"id":7}',
    '{"id":7,"site":"fen","ok":yes}',
    '{"id":"7","site":"fen","ok":true}',
    '{"id":7,"site":fen,"ok":true}',
    '{"id":7,"site":"fen","ok":true',
    '{"site":"fen","id":7,"ok":true}',
)
def _json3(r: Random) -> str:
    return f'''{{"id":{r.randrange(1, 900)},"site":"{r.choice(PLACES)}","ok":{r.choice(["true", "false"])}}}'''


@column("<p>fen", "<p>fen</b>", "p fen", "<p></p>", "<P>fen</P>", "<p>fen</p><p>")
def _tag(r: Random) -> str:
    return f"<p>{' '.join(r.choice(PLACES) for _ in range(r.randrange(1, 6)))}</p>"


@column(
    "node-3 cpu",
    "node-3 cpu 93",
    "node-3 cpu 93% mem",
    "cpu 93% mem 41%",
    "node-3 cpu 93% mem 41",
    "node-3 cpu x% mem 41%",
)
def _gauge(r: Random) -> str:
    return f"node-{r.randrange(1, 30)} cpu {r.randrange(1, 100)}% mem {r.randrange(1, 100)}%"


@column("took 3", "took ms", "took 3.1 ms of", "took 3 s.", "3.1 ms", "took -3.1 ms")
def _took(r: Random) -> str:
    return f"took {r.uniform(0.5, 400):.1f} ms" if r.random() < 0.7 else f"took {r.uniform(1, 20):.2f} s"


@column("1.2 GB/", "1.2", "GB", "1,2 GB", "1.2 gb", "1.2 TB x")
def _size(r: Random) -> str:
    return f"{r.uniform(1, 900):.1f} {r.choice(['KB', 'MB', 'GB'])}"


@column("up 3", "3 days up", "up 3 days", "up days, 3:04", "up 3 days 3:04", "up 3 days, 3.04")
def _updays(r: Random) -> str:
    n = r.randrange(1, 90)
    return f"up {n} day{('s' if n > 1 else '')}, {r.randrange(24)}:{r.randrange(60):02}"


@column("from fen", "to tarn", "from fen to", "from fen to tarn via", "From fen to tarn", "from to tarn")
def _fromto(r: Random) -> str:
    return f"from {r.choice(PLACES)} to {r.choice(PLACES)}"


@column("A1:", "A1:B", "A1-B2", "a1:b2", "1A:2B", "A1:B2:C3", "A1")
def _cells(r: Random) -> str:
    return f"{r.choice('ABCDEFGH')}{r.randrange(1, 60)}:{r.choice('ABCDEFGH')}{r.randrange(1, 60)}"


@column("É", "fen", "Åsa 3", "Élin-", "åsa fell", "Elin")
def _accents(r: Random) -> str:
    return (
        r.choice(["Åsa", "Élin", "Jörg", "Søren", "Núria", "Zoë", "Märta", "Œdon", "Łuka", "Ðaví", "Ivo", "Nils"])
        + " "
        + r.choice(["Fjäll", "Holm", "Brü", "Tårn", "Venn", "Møss", "Häg"])
    )


@column(
    "07:02:11 probe 7 0.31",
    "07:02:11.12 probe 7 0.31",
    "07:02:11.123 probe 7",
    "07:02:11.123 7 0.31",
    "07:02:11,123 probe 7 0.31",
)
def _ms(r: Random) -> str:
    return _moment(r).strftime("%H:%M:%S.") + f"{r.randrange(1000):03} probe {r.randrange(1, 64)} {r.uniform(0, 1):.2f}"


@column("1714000000", "1714000000.", "1714000000,12", "171400000.12", "x1714000000.12")
def _epoch(r: Random) -> str:
    return f"{r.randrange(1714000000, 1764000000)}.{r.randrange(100):02}"


@column(
    "I0504 10:22:31 radio.c:12] x",
    "I0504 10:22:31.1 12 radio.c:12] x",
    "0504 10:22:31.123456 12 radio.c:12] x",
    "X0504 10:22:31.123456 12 radio.c] x",
    "I0504 10:22:31.123456 12 radio.c:12 x",
)
def _letterlog(r: Random) -> str:
    return (
        r.choice("IWE")
        + _moment(r).strftime("%m%d %H:%M:%S.")
        + f"{r.randrange(10**6):06} {r.randrange(2, 4000)} {r.choice(PLACES)}.c:{r.randrange(10, 900)}] "
        + " ".join(r.choice(PLACES) for _ in range(r.randrange(2, 6)))
    )


@column("(7) fen", "7 - fen - 3.1", "(7) - fen 3.1", "(x) - fen - 3.1", "(7) - - 3.1", "(7) - fen - ")
def _paren(r: Random) -> str:
    return f"({r.randrange(1, 50)}) - {r.choice(PLACES)} - {r.uniform(0, 9):.1f}"


@column("gate=3 who=Orla at=10:2", "who=Orla at=10:22 gate=3", "gate=3, who=Orla, at=10:22", "gate= who=Orla at=10:22")
def _kv(r: Random) -> str:
    return f"gate={r.randrange(1, 9)} who={r.choice(NAMES)} at={_moment(r):%H:%M}"


@column("a.ridge=1", "cfg.ridge.fen", "cfg.ridge.fen=", "cfg.ridge.fen=x", "Cfg.ridge.fen=1", "cfg..fen=1")
def _config(r: Random) -> str:
    return f"cfg.{r.choice(PLACES)}.{r.choice(PLACES)}={r.randrange(0, 2000)}"


@column("ridge: true", "ridge = yes", "ridge = True", "= true", "ridge true", "ridge = true;")
def _toggles(r: Random) -> str:
    return f"{r.choice(PLACES)}_{r.choice(PLACES)} = {r.choice(['true', 'false'])}"


@column("12.1 C /", "12.1 C / 53.8", "12.1 / 53.8 F", "C / F", "12.1 C 53.8 F", "12.1C / 53.8F")
def _cf(r: Random) -> str:
    x = r.uniform(-9, 28)
    return f"{x:.1f} C / {x * 1.8 + 32:.1f} F"


@column("3 of 5 (60)", "3 of 5", "3/5 (60%)", "3 of 5 (60 %)", "of 5 (60%)", "3 of 5 (60%) x")
def _share(r: Random) -> str:
    n = r.randrange(2, 40)
    k = r.randrange(0, n + 1)
    return f"{k} of {n} ({100 * k // n}%)"


@column("Erica sp", "Erica", "erica sp.", "Erica spp", "Erica s.p.", "Erica sp. x")
def _taxon(r: Random) -> str:
    return r.choice(GENERA) + " " + r.choice(["sp.", "spp.", "sp.", "agg."])


@column(
    "Orla Venn, 2026-05",
    "Orla, 2026-05-04",
    "Orla Venn 2026-05-04",
    "orla venn, 2026-05-04",
    "Orla Venn, 04.05.2026",
    "Venn, Orla, 2026-05-04",
)
def _signed(r: Random) -> str:
    return f"{r.choice(NAMES)} {r.choice(FAMILIES)}, {_moment(r):%Y-%m-%d}"


@column("leg. Venn", "leg. O. Venn det.", "det. O. Venn", "leg. O. Venn, det. Elm", "leg O. Venn", "leg. o. venn")
def _leg(r: Random) -> str:
    return f"leg. {r.choice(NAMES)[0]}. {r.choice(FAMILIES)}" + (
        f", det. {r.choice(NAMES)[0]}. {r.choice(FAMILIES)}" if r.random() < 0.4 else ""
    )


@column(
    "box 3",
    "Box 3, row A, 12",
    "Box 3, row 1, slot 12",
    "Box 3 row A slot 12",
    "Box 3, row AA, slot 12",
    "Box, row A, slot 12",
)
def _boxrow(r: Random) -> str:
    return f"Box {r.randrange(1, 30)}, row {r.choice('ABCDEFGH')}, slot {r.randrange(1, 25)}"


@column("N 54", "54 N", "N 54° 12.3'", "54° 12.3' N", "N 54° 12' W", "N54 12.3'")
def _dm(r: Random) -> str:
    return f"N {r.randrange(53, 56)}° {r.uniform(0, 59.9):04.1f}' W {r.randrange(1, 4)}° {r.uniform(0, 59.9):04.1f}'"


@column("alt. 312", "312 m a.s.", "312", "ca 312 m a.s.l.", "312m a.s.l.", "-312 m a.s.l")
def _alt(r: Random) -> str:
    return f"{r.randrange(180, 790)} m a.s.l."


@column("1:5", "1:50.000", "2:50,000", "1:50,00", "1/50,000", "1:50000")
def _scale(r: Random) -> str:
    return f"1:{r.choice([10, 25, 50, 100, 250])},000"


@column("pp. 12", "p. 12-14", "pp. 12–", "pp 12–14", "12–14", "pp. a–b")
def _pages(r: Random) -> str:
    a = r.randrange(1, 300)
    return f"pp. {a}–{a + r.randrange(1, 40)}"


@column("Vol. 3", "vol. 3, no. 2", "Vol. 3 No. 2", "Vol. 3, no.", "Vol. III, no. 2", "Vol. 3, no. 2,")
def _vol(r: Random) -> str:
    return f"Vol. {r.randrange(1, 60)}, no. {r.randrange(1, 13)}"


@column("Fig. A", "fig. 3a", "Fig 3a", "Fig. 3ab", "Fig. a", "Fig. 3A")
def _fig(r: Random) -> str:
    return f"Fig. {r.randrange(1, 30)}" + r.choice(["", "a", "b", "c", ""])


@column("IV-", "iv", "XIIII.", "IV", "VV.", "4.")
def _roman(r: Random) -> str:
    return r.choice(_words("I II III IV V VI VII VIII IX X XI XII")) + "."


@column("1st", "May 1th", "1 May", "the 1st", "1st  May", "1ST May")
def _ordinalday(r: Random) -> str:
    n = r.randrange(1, 32)
    return f"{n}{('th' if 10 < n < 20 else {1: 'st', 2: 'nd', 3: 'rd'}.get(n % 10, 'th'))} {_moment(r):%B}"


@column("wk", "wk 60x", "week 12", "wk12", "wk 12/", "Wk 12/26")
def _wk(r: Random) -> str:
    return f"wk {r.randrange(1, 53)}/{r.choice([25, 26])}"


@column("B07, B08,", "B07 B08", "b07, b08", "B07, 08", "B7, B8", ", B08")
def _plots(r: Random) -> str:
    return ", ".join(f"{r.choice('ABCD')}{r.randrange(1, 30):02}" for _ in range(r.randrange(1, 5)))


@column("fen->", "fen -> tarn", "->tarn", "fen->tarn-", "fen=>tarn", "fen->Tarn")
def _route(r: Random) -> str:
    return "->".join(r.choice(PLACES) for _ in range(r.randrange(2, 5)))


@column("ridge(3", "ridge()", "ridge(3))", "(3)", "ridge[3]", "Ridge(3)")
def _call(r: Random) -> str:
    return f"{r.choice(PLACES)}({', '.join(str(r.randrange(1, 90)) for _ in range(r.randrange(1, 4)))})"


@column("set fen", "SET fen = 3", "set = 3", "set fen = ", "set fen := 3", "set Fen = 3")
def _setline(r: Random) -> str:
    return f"set {r.choice(PLACES)} = {r.uniform(0, 90):.2f}"


@column("[12:34] <Orla>", "<Orla> fen", "[12:34] Orla: fen", "[1234] <Orla> fen", "[12:34] <> fen", "[12:34] <Orla>fen")
def _chat(r: Random) -> str:
    return f"[{_moment(r):%H:%M}] <{r.choice(NAMES)}> " + " ".join(r.choice(PLACES) for _ in range(r.randrange(1, 7)))


@column("WARN(3): fen", "WARN (3) fen", "WARN (x): fen", "warn (3): fen", " (3): fen", "WARN (3):fen")
def _warnnum(r: Random) -> str:
    return f"{r.choice(['INFO', 'WARN', 'ERROR'])} ({r.randrange(1, 90)}): " + " ".join(
        r.choice(PLACES) for _ in range(r.randrange(1, 6))
    )


@column("node-3/fen", "node-3/fen/", "3/fen/t", "node-3/fen/T", "node/fen/temp", "node-3/fen/temp/x")
def _topic(r: Random) -> str:
    return f"node-{r.randrange(1, 40)}/{r.choice(PLACES)}/{r.choice(['temp', 'moist', 'volt', 'rssi', 'lux', 'ec'])}"


@column("0.3.", "0.3-0", "+0.3", "0,3", "-0.3-", "--0.3")
def _small(r: Random) -> str:
    return f"{r.uniform(-1, 1):.3f}"


@column("NaN.", "nan", "-", "12,1", "inf", "12.1 NaN")
def _nan(r: Random) -> str:
    return "NaN" if r.random() < 0.2 else f"{r.uniform(0, 40):.2f}"


@column("null", "1;null", "1;2;3;4", "1;;2", "a;2;3", "1;2;3;")
def _three(r: Random) -> str:
    return ";".join(str(r.randrange(0, 100)) for _ in range(3))


@column("missing", "12.1 ", "?12.1", "12.1??", "12.1 ?", "?")
def _doubt(r: Random) -> str:
    return f"{r.uniform(0, 40):.1f}" + r.choice(["", "", "?"])


@column("e104", "E104-", "E104 ", "EE104", "104", "F104")
def _ecode(r: Random) -> str:
    return f"E{r.choice([1, 2, 3])}{r.randrange(100):02}"


@column("v2.1.0+b", "2.1.0+b12", "v2.1+b12", "v2.1.0-b12", "v2.1.0+12", "v2.1.0+b12+b13")
def _build(r: Random) -> str:
    return f"v{r.randrange(1, 4)}.{r.randrange(0, 12)}.{r.randrange(0, 20)}+b{r.randrange(1, 900)}"


@column("ttyS", "tty0x", "ttyUSB", "USB0", "ttyusb0", "ttyS00x")
def _tty(r: Random) -> str:
    return r.choice(["ttyS", "ttyUSB", "ttyACM"]) + str(r.randrange(0, 8))


@column("Orla; Tam;", "orla; tam", "Orla, Tam", "Orla; 3", "; Tam", "Orla;Tam")
def _people(r: Random) -> str:
    return "; ".join(r.choice(NAMES) for _ in range(r.randrange(1, 5)))


@column("dawn 3", "Dawn", "dawn/", "dawn/dusk/", "/dusk", "dawn dusk")
def _daypart(r: Random) -> str:
    return r.choice(["dawn", "day", "dusk", "night"]) + (
        "/" + r.choice(["dawn", "day", "dusk", "night"]) if r.random() < 0.3 else ""
    )


BEASTS = ["short eared owl", "mountain hare", "red grouse", "red deer", "raven", "stoat", "vole"]


@column("06:10 red lux=31", "06:10 raven day lux=", "6:10 raven day lux=31", "raven day lux=31", "06:10 day lux=31")
def _beast(r: Random) -> str:
    return f"{_moment(r):%H:%M} {r.choice(BEASTS)} {r.choice(['day', 'night', 'dusk'])} lux={r.randrange(900)}"


@column(
    "raven seen by carr",
    "raven seen carr at B3",
    "seen by carr at B3",
    "raven seen by carr at 3",
    "Raven seen by carr at B3",
)
def _seen_by(r: Random) -> str:
    return f"{r.choice(BEASTS)} seen by {r.choice(['holm', 'carr', 'beck'])} at {r.choice('ABC')}{r.randrange(1, 10)}"


@column(
    "permit 2879 put until 06.07.2026",
    "permit 2879 granted by until 06.07.2026",
    "permit 2879 granted until 6.7.2026",
    "permit granted until 06.07.2026",
    "permit 2879 granted by holm",
)
def _permit_line(r: Random) -> str:
    by = r.choice([" by holm", " by carr", "", ""])
    what = r.choice(["granted", "refused", "put back"])
    return f"permit {r.randrange(1000, 9999)} {what}{by} until {_moment(r):%d.%m.%Y}"


@column("holm walked fen", "holm late to fen", "walked to fen", "holm walked to", "holm walked to fen end moss 3")
def _way(r: Random) -> str:
    when, how = r.choice(["late ", "early ", ""]), r.choice(["walked", "drove"])
    return f"{r.choice(['holm', 'carr', 'beck', 'tarn'])} {when}{how} to {r.choice(['fen', 'moss', 'hag end'])}"


@column(
    "[INFO] relay ok in 31 ms",
    "[INFO] relay: ok in ms",
    "INFO relay: ok in 31 ms",
    "[INFO] relay: ok in 31",
    "[INFO] : ok in 31 ms",
)
def _link(r: Random) -> str:
    who, what = (
        r.choice(["relay mast", "relay", "store", "sync"]),
        r.choice(["timeout after", "lost link after", "ok in"]),
    )
    return f"[{r.choice(['WARN', 'INFO', 'ERROR'])}] {who}: {what} {r.randrange(1, 500)} ms"


@column(
    "gate north opened 363", "gate opened in 363", "gate north in 363", "gate north opened in", "north opened in 363"
)
def _gate_line(r: Random) -> str:
    where, what = r.choice(["north", "south", "north east"]), r.choice(["opened", "closed", "left open"])
    return f"gate {where} {what} {r.choice(['in', 'out'])} {r.randrange(100, 999)}"


@column(
    "24.06.2026 C17 Dunlin ad wing 163",
    "24.06.2026 C17 Dunlin wing 163 mm",
    "24.06.2026 C17 ad wing 163 mm",
    "24.06.2026 C17 Dunlin ad 163 mm",
    "24.06.2026 C17 Dunlin ad wing mm",
)
def _caught(r: Random) -> str:
    kind = r.choice(["Ring ouzel", "Dunlin", "Twite", "Golden plover", "Merlin"])
    where, wing = f"{r.choice('ABC')}{r.randrange(1, 41):02}", f"{r.randrange(80, 190)}{r.choice(['', '.5'])}"
    return f"{_moment(r):%d.%m.%Y} {where} {kind} {r.choice(['ad', 'juv', '1y'])} wing {wing} mm"


@column(
    "Jun  4 10:22:31 hut relayd[812]: link to tarn lost after",
    "Jun 4 10:22:31 hut relayd[812]: link to tarn lost after 31 s",
    "2026-06-04 10:22:31 hut relayd[812]: link to tarn lost after 31 s",
    "Jun  4 10:22:31 hut relayd: link to tarn lost after 31 s",
    "Jun  4 10:22:31 relayd[812]: link to tarn lost after 31 s",
)
def _relay_line(r: Random) -> str:
    # The program is started anew now and then.
    number = r.choice([812, 812, 812, 30211])
    return (
        f"{_moment(r):%b %e %H:%M:%S} {r.choice(['hut', 'gate-a', 'ridge'])} relayd[{number}]: "
        f"link to {r.choice(['tarn', 'hag end', 'cairn'])} lost after {r.randrange(1, 90)} s"
    )


@column(
    '10.4.3.17 - - [04/Jun/2026:10:22:31 +0000] "GET /traps/7 HTTP/1.1" 200',
    '10.4.3.17 - - [04/Jun/2026:10:22:31 +0000] "GET HTTP/1.1" 200 512',
    "10.4.3.17 - - [04/Jun/2026:10:22:31 +0000] GET /traps/7 HTTP/1.1 200 512",
    '10.4.3.17 - - [2026-06-04 10:22:31] "GET /traps/7 HTTP/1.1" 200 512',
    '10.4.3 - - [04/Jun/2026:10:22:31 +0000] "GET /traps/7 HTTP/1.1" 200 512',
    '10.4.3.17 - - [04/Jun/2026:10:22:31 +0000] "GET /traps/7 HTTP/1.1" ok 512',
)
def _asked_line(r: Random) -> str:
    path = r.choice([f"traps/{r.randrange(40)}/frames", f"probes?n={r.randrange(99)}", f"notes/{r.choice(PLACES)}.txt"])
    size = r.choice([str(r.randrange(10, 99999)), "-"])
    return (
        f"10.4.{r.randrange(9)}.{r.randrange(2, 250)} - {r.choice(['-', 'orla'])} "
        f'[{_moment(r):%d/%b/%Y:%H:%M:%S} +0000] "{r.choice(["GET", "PUT", "HEAD"])} /{path} HTTP/1.1" '
        f"{r.choice([200, 200, 304, 404])} {size}"
    )


@column(
    'at=2026-06-04T10:22:31Z level=info msg="frame stored" trap=7 file=aabbccdd.jpg took=31',
    'at=2026-06-04T10:22:31Z level=info msg="frame lost" trap=7 file=aabbccdd.jpg took=31ms',
    'at=2026-06-04T10:22:31Z msg="frame stored" trap=7 file=aabbccdd.jpg took=31ms',
    'at=2026-06-04T10:22:31Z level=info msg="frame stored" trap=x file=aabbccdd.jpg took=31ms',
    'at=2026-06-04T10:22:31Z level=info msg="frame stored" trap=7 file=aabbccdd.png took=31ms',
)
def _stored_line(r: Random) -> str:
    return (
        f'at={_moment(r):%Y-%m-%dT%H:%M:%S}Z level={r.choice(["info", "warn"])} msg="frame stored" '
        f"trap={r.randrange(1, 40)} file={r.getrandbits(32):08x}.jpg took={r.randrange(3, 400)}ms"
    )


@column(
    "Permit no. 7\nHolder:   Orla Venn\nFee paid: £3.00\n",
    "Permit no. 7\nHolder:   Orla Venn\nDay:      4 June 2026\nFee paid:\n",
    "Permit no.\nHolder:   Orla Venn\nDay:      4 June 2026\nFee paid: waived\n",
    "Permit no. 7\nDay:      4 June 2026\nHolder:   Orla Venn\nFee paid: waived\n",
    "Permit no. 7\nHolder:   Orla Venn\nDay:      June 2026\nFee paid: waived\n",
    "Permit no. 7\nHolder:   Orla Venn\nDay:      4 June 2026\nFee paid: 3 or 4\n",
)
def _permit_form(r: Random) -> str:
    dogs = r.choice(["", "Dogs:     none\n", "Dogs:     two, on leads\n"])
    fee = r.choice(["waived", f"£{r.randrange(400) / 4:.2f}"])
    return (
        f"Permit no. {r.randrange(1, 400)}\nHolder:   {r.choice(PEOPLE)}\n{dogs}"
        f"Day:      {_moment(r):%-d %B %Y}\nFee paid: {fee}\n"
    )


@column(
    "10:22:31 WARN link to tarn lost\nrelay.Link.send(Link:31)",
    "10:22 WARN link to tarn lost\n  at relay.Link.send(Link:31)",
    "10:22:31 WARN link to lost\n  at relay.Link.send(Link:31)",
    "10:22:31 WARN\n  at relay.Link.send(Link:31)",
    "10:22:31 WARN link to tarn lost\n10:22:32 WARN link to fen lost",
)
def _traced_line(r: Random) -> str:
    frames = "".join(
        f"\n  at relay.{r.choice(['Link', 'Mast'])}.send(Link:{r.randrange(400)})" for _ in "x" * r.randrange(6)
    )
    return (
        f"{_moment(r):%H:%M:%S} {r.choice(['WARN', 'ERROR'])} link to {r.choice(['tarn', 'fen', 'moss'])} lost{frames}"
    )


@column("Mon", "Mon 4.5.", "Mon 04/05", "Xxx 04/05/26", "Mon 44/05/26")
def _weekday_short(r: Random) -> str:
    return f"{_moment(r):%a %d/%m/%y}"


@column("1.2", "v1.2.3.4", "1.2.3", "v1.2.3-")
def _stages(r: Random) -> str:
    return f"v{r.randrange(3)}.{r.randrange(12)}.{r.randrange(30)}{r.choice(['', '', '-rc1', '-rc2', '-beta'])}"


@column("T+5", "T-05:10", "+00:05:10", "T+0:5:1")
def _before_or_after(r: Random) -> str:
    return f"T{r.choice('+-')}{r.randrange(3):02d}:{r.randrange(60):02d}:{r.randrange(60):02d}"


@column("06:10 - 5", "6.10-7.20", "06:10-", "25:10-26:00")
def _hours_open(r: Random) -> str:
    begin = r.randrange(20)
    return f"{begin:02d}:{r.randrange(60):02d}-{begin + r.randrange(1, 4):02d}:{r.randrange(60):02d}"


@column('File "x", line 3', 'File "probe.py", line x, in read', '  File "/opt/relay/gate.py", line 3')
def _traced_call(r: Random) -> str:
    called = r.choice(["read", "open_gate", "store", "main"])
    return f'  File "/opt/relay/{r.choice(["probe", "gate", "camera"])}.py", line {r.randrange(1, 900)}, in {called}'


@column("3rd", "3 row", "3rd raw", "row 3")
def _ordinal_row(r: Random) -> str:
    number = r.randrange(1, 24)
    return f"{number}{'th' if 10 < number < 14 else {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10, 'th')} row"


@column("id=", "id=12 state=", "state=ok id=12 t=4", "id=x state=ok t=4.5")
def _states(r: Random) -> str:
    return f"id={r.randrange(1, 999)} state={r.choice(['ok', 'wet', 'low', 'lost'])} t={r.uniform(-9, 25):.1f}"
