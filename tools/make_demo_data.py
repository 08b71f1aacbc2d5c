"""Makes the demo's data files, the same ones every time, and records the demo suites' baselines.

Everything in them is invented. Run with `make demo-data`; the results are checked in.
"""

from __future__ import annotations

import csv
import io
import json
import random
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from fieldstick.comparing.baseline import records_of, write_baseline
from fieldstick.runs.check import check_suites
from fieldstick.suites.finding import find_suites
from fieldstick.suites.loader import read_suites

if TYPE_CHECKING:
    from collections.abc import Iterator

HOME = Path(__file__).resolve().parent.parent / "src" / "fieldstick" / "demo" / "larkmoor"
SEED = 20260504
LOG_LINES = 5000
TABLE_ROWS = 500

PLOTS = [f"{row}{number:02}" for row in "ABCDEF" for number in range(1, 25)]
TRAPS = [f"{row}{number}" for row in "ABCDE" for number in range(1, 10)]
BEASTS = ["stoat", "mountain hare", "red deer", "raven", "red grouse", "unknown", "vole", "sheep", "short eared owl"]
PLACES = ["card reader", "ground wire", "lens hood", "cell door", "clock"]
REMARKS = [
    "wedged with birch bark, needs a part",
    "sheep; the wire is chewed, not broken",
    "dry again by noon",
    "reseated, watch it",
    "ice on the inside",
]
SITES = {
    "Fen + Carr": ["Fen + Carr", "Fen+Carr", "fen + carr", "Fen and Carr", "Fen + Carr "],
    "Whin Sike": ["Whin Sike", "Whin  Sike", "Whinsike", "WHIN SIKE", "Whin\u00a0Sike"],
    "Sallow Beck (upper)": ["Sallow Beck (upper)", "Sallow Beck, upper", "Sallow Bk (upper)", "Sallow Beck upper"],
    "Hag's End": ["Hag's End", "Hag’s End", "Hags End", "Hag's end"],
    "Møsekar": ["Møsekar", "Mosekar", "MØSEKAR", "Møse-kar"],
    "Rigg of Stell": ["Rigg of Stell", "Rigg o' Stell", "Stell Rigg", "Rigg of Stell\t"],
}
ODD_SITES = ["Белый мох", "Λόφος 3", "?", "see map", "苔原 2"]
SPECIES = [
    "Lagopus lagopus",
    "Turdus torquatus",
    "Numenius arquata",
    "Anthus pratensis",
    "Calidris alpina",
    "Asio flammeus",
    "Carduelis sp.",
    "cf. Calidris alpina",
]
PARTIES = ["Fenlight Survey", "Moss Circle", "Peat & Pollen", "Curlew Count", "Upland Hydrology", "Night Moths"]
LEADERS = ["Hazel Quarrie", "Ossian Trell", "Ines Vallmoor", "Tam Birkhope", "Ιώ Λοφίσιου", "Runa Østfell", "n/a"]
PURPOSES = [
    "counting curlews",
    "moss survey; second visit",
    "soil cores along the beck",
    "ringing at the upper nets",
    "CHECK TRAPS",
    "visit",
    "filming <the> hares",
    "light traps, two nights",
]


def log_lines(count: int, chance: random.Random) -> Iterator[bytes]:
    """Yield at least `count` lines of the station's log, broken ones and fault reports among them."""
    at = datetime(2026, 5, 1, tzinfo=UTC)
    written = 0
    while written < count:
        at += timedelta(seconds=chance.randint(1, 600))
        for line in _entry(at, chance):
            written += 1
            yield line


def _entry(at: datetime, chance: random.Random) -> list[bytes]:
    stamp = at.strftime("%Y-%m-%dT%H:%M:%SZ")
    kind = chance.random()
    if kind < 0.004:
        return [_broken(stamp, chance)]
    if kind < 0.01:
        return [line.encode() for line in _fault(stamp, chance)]
    if kind < 0.72:
        line = _reading(stamp, chance)
    elif kind < 0.87:
        line = _frame(stamp, chance)
    elif kind < 0.95:
        line = _gate(stamp, chance)
    else:
        line = _battery(stamp, chance)
    return [line.encode()]


def _reading(stamp: str, chance: random.Random) -> str:
    plot = chance.choice(PLOTS)
    soil = f" soil={chance.gauss(8, 5):.1f}C" if plot[0] < "E" else ""
    return f"{stamp} probe={plot} moisture={min(99.9, abs(chance.gauss(34, 11))):.1f}%{soil}"


def _frame(stamp: str, chance: random.Random) -> str:
    beast = chance.choice(BEASTS)
    lux = int(chance.paretovariate(0.6) - 1) % 90000
    return f'{stamp} trap={chance.choice(TRAPS)} frame={chance.randint(1, 140000):06} "{beast}" lux={lux}'


def _gate(stamp: str, chance: random.Random) -> str:
    way = chance.choice(["in", "out"])
    held = f" held 00:{chance.randint(0, 9):02}:{chance.randint(0, 59):02}" if chance.random() < 0.1 else ""
    return f"{stamp} gate={chance.choice(['north', 'quarry'])} pass=LM-{chance.randint(1, 2400):04} {way}{held}"


def _battery(stamp: str, chance: random.Random) -> str:
    volts = chance.uniform(2.7, 4.1)
    return f"{stamp} probe={chance.choice(PLOTS)} battery={volts:.2f}V{' LOW' if volts < 3 else ''}"


def _fault(stamp: str, chance: random.Random) -> list[str]:
    device = f"trap={chance.choice(TRAPS)}" if chance.random() < 0.5 else f"probe={chance.choice(PLOTS)}"
    lines = [
        f"{stamp} FAULT {device} code={chance.choice('EW')}{chance.randint(1, 40):02}",
        f"    at: {chance.choice(PLACES)}",
        f"    seen: {chance.randint(1, 9)} times since {stamp[:8]}{chance.randint(1, int(stamp[8:10])):02}",
    ]
    if chance.random() < 0.7:
        lines.append(f"    note: {chance.choice(REMARKS)}")
    return [*lines, "    end of fault"]


def _broken(stamp: str, chance: random.Random) -> bytes:
    whole = _reading(stamp, chance)
    return chance.choice(
        [
            whole[: chance.randint(5, 30)].encode(),
            (whole + _frame(stamp, chance)).encode(),
            whole.replace("C", "\u00b0C").encode("latin-1"),
            b"",
            b"-- log rotated --",
            whole.replace(" ", "\t").encode(),
            whole.replace(".", ",").encode(),
        ]
    )


def permit_rows(count: int, chance: random.Random) -> Iterator[list[str]]:
    """Yield the permit form's table: its header, then rows as people typed them."""
    yield ["Permit code", "Party", "Leader", "Heads", "First day", "Load", "Dogs", "Gate", "Purpose"]
    for number in range(1, count + 1):
        yield [
            _permit_code(number, chance),
            chance.choice(PARTIES),
            chance.choice(LEADERS),
            mostly(str(chance.randint(1, 14)), ["0", "", "six", "7 + 2", "٧"], chance),
            _first_day(chance),
            _load(chance),
            mostly(chance.choice(["yes", "no"]), ["No", "n", "Yes", "perhaps", ""], chance),
            mostly(chance.choice(["north", "quarry"]), ["quarry gate", "South", ""], chance),
            chance.choice(PURPOSES),
        ]


def mostly(usual: str, others: list[str], chance: random.Random) -> str:
    """Return the usual value five times in six, else one of the others."""
    return usual if chance.random() < 5 / 6 else chance.choice(others)


def _permit_code(number: int, chance: random.Random) -> str:
    code = f"LM-2026-{number:04}-{chance.choice('RTV')}"
    kind = chance.random()
    if kind < 0.85:
        return code
    spoilt = [code.lower(), code.replace("-", "–"), f" {code}", code[:-2], f"{code} (renewed)", code.replace("-", "")]
    return chance.choice(spoilt)


def _first_day(chance: random.Random) -> str:
    day = date(2026, 4, 1) + timedelta(days=chance.randint(0, 180))
    kind = chance.random()
    if kind < 0.8:
        return f"{day.day}.{day.month}.{day.year}"
    other = [day.isoformat(), f"{day.day}/{day.month}/{day.year}", f"{day.day}.{day.month}.26", "31.4.2026", "soon"]
    return chance.choice(other)


def _load(chance: random.Random) -> str:
    kilograms = round(chance.paretovariate(0.7) * 9, 1) % 2600
    whole, tenth = int(kilograms), int(kilograms * 10) % 10
    grouped = f"{whole:,}".replace(",", ".")
    kind = chance.random()
    if kind < 0.8:
        return f"{grouped},{tenth} kg" if tenth else f"{grouped} kg"
    return chance.choice([f"{kilograms} kg", f"{grouped}", "", f"{grouped},{tenth}\u00a0kg", "a trailer"])


def ringing_rows(count: int, chance: random.Random) -> Iterator[list[str]]:
    """Yield the ringing table: its header, then rows as they stand in the books."""
    yield ["Ring", "Species", "Sex and age", "Wing", "Mass", "Weighed at", "Date", "Locality", "Remarks"]
    for number in range(count):
        day = date(2026, 5, 1) + timedelta(days=chance.randint(0, 120))
        yield [
            mostly(chance.choice(["RX {}", "K {}"]), ["RX{}", "RX-{}", "rx {}", "RX  {}"], chance).format(
                41000 + number
            ),
            chance.choice(SPECIES),
            chance.choice("MFU") + chance.choice("012345") + chance.choice(["", "", "", "?"]),
            _decimal(chance.uniform(60, 320), chance),
            _decimal(chance.uniform(9, 700), chance),
            mostly(f"{chance.randint(4, 21):02}:{chance.randint(0, 59):02}", ["", "06.40", "dusk"], chance),
            mostly(day.isoformat(), [f"{day.day}.{day.month}.{day.year}"], chance),
            _locality(chance),
            mostly("", ["retrap", "new nets", "in in moult", "fat 2;muscle 3", "wing\u200bworn"], chance),
        ]


def _decimal(value: float, chance: random.Random) -> str:
    text = f"{value:.1f}"
    return text.replace(".", ",") if chance.random() < 0.8 else chance.choice([text, "", f"{text} ", f"c. {value:.0f}"])


def _locality(chance: random.Random) -> str:
    if chance.random() < 0.03:
        return chance.choice(ODD_SITES)
    return chance.choice(SITES[chance.choice(list(SITES))])


def site_rows() -> Iterator[list[str]]:
    """Yield the station's list of sites."""
    yield ["Locality", "Site code", "Plots"]
    for number, name in enumerate(SITES, 1):
        yield [name, f"S{number:02}", f"{'ABCDEF'[number - 1]}01-{'ABCDEF'[number - 1]}24"]


def notes() -> str:
    """Return a page of field notes."""
    return """\
Field notes, upper moor, kept by the party on permit LM-2026-0417-R

4 May
**~ snow showers until nine, then clear. B07 and B08 in the morning, then C12.
Ring ouzel at 54°12.3′N 2°41.8′W, a second at 54°12.9′N, 2°40.0′W. Neither was
ringed. Meadow pipit weighed with bag 24.6 g, bag 5 g, bird 19.6 g. Found in in
the heather by the wall: one primary of a curlew, kept as LMF-S-004417.

5 May
~ wind from the west, 31.4 km by noon on the cup. D01, D02, back over B07.
Two cores at Fen + Carr, 30.5 cm and 31.40 cm; the peat begins at 0.45 m. The
sample went into LMF-P-000019, its lower half into LMF-P-000019/2. Trap C3 sees
sheep, and nothing but sheep: frames 004417 to 004460.

6 May
Clear and still. Quarry gate held open for the trailer (1.240,5 kg of stakes).
Short eared owl over A09 at dusk, again at 54°13′N 2°40′W. RX 41207 retrapped at
Whin Sike: wing 133,5; mass 31.4 g. That is 0.6 g more than in April.
Trap C3 wrote E21 again; the card seat is worn.

7 May
= fog. No plots. Books copied: K 00318, LMA 77120, RX-41208. The number on the
label of drawer 4 reads LMF-B-00012 and must be LMF-B-000012. Phenology sheet:
Λόφος 3 (visitors' name for plot E11), Белый мох (F03).
"""


def reply(chance: random.Random) -> str:
    """Return a reply of the station's service, pretty-printed, with ids that look alike."""

    def hex_id(head: str, length: int) -> str:
        return head + "".join(chance.choice("0123456789abcdef") for _ in range(length))

    trace = f"{hex_id('7c1e', 4)}-{hex_id('44', 2)}"
    items = [
        {
            "id": hex_id("it-00", 4),
            "record": f"LMF-{chance.choice('SPB')}-{chance.randint(1, 9999):06}",
            "batch": f"{trace[:-1]}{chance.choice('0123456789abcdef')}",
            "plot": chance.choice(PLOTS),
            "moved": [f"{chance.choice(PLOTS)}", f"{chance.choice(PLOTS)}"],
            "at": f"2026-05-{chance.randint(1, 28):02}T{chance.randint(0, 23):02}:00:00Z",
        }
        for _ in range(17)
    ]
    head = {"trace": trace, "parent": hex_id("7c1e", 4) + "-" + hex_id("44", 2), "page": 1, "pages": 3}
    return json.dumps({**head, "items": items, "next": {"id": hex_id("it-00", 4), "trace_of": trace}}, indent=1) + "\n"


def write_table(name: str, rows: Iterator[list[str]]) -> None:
    """Write rows as CSV."""
    sink = io.StringIO()
    csv.writer(sink, lineterminator="\n").writerows(rows)
    (HOME / "data" / name).write_text(sink.getvalue(), encoding="utf-8")


def main() -> None:
    """Write every data file, then the baselines of the suites."""
    data = HOME / "data"
    data.mkdir(parents=True, exist_ok=True)
    log = b"".join(line + b"\n" for line in log_lines(LOG_LINES, random.Random(SEED)))
    (data / "loggers-2026-05.log").write_bytes(log)
    write_table("permits-2026.csv", permit_rows(TABLE_ROWS, random.Random(SEED + 1)))
    write_table("ringing-2026.csv", ringing_rows(TABLE_ROWS, random.Random(SEED + 2)))
    write_table("sites.csv", site_rows())
    (data / "field-notes.txt").write_text(notes(), encoding="utf-8")
    (data / "service-reply.json").write_text(reply(random.Random(SEED + 3)), encoding="utf-8")
    for result in check_suites(read_suites(find_suites([str(HOME)])), with_baseline=False).suites:
        write_baseline(result.suite, records_of(result))


if __name__ == "__main__":
    main()
