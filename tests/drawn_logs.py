"""Draws logs at random of which it is known what origin each line has: words that stay, and parts that vary."""

from __future__ import annotations

import random
import uuid
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from collections.abc import Callable

    Part = Callable[[random.Random], str]

WORDS = (
    "opened closed failed reading writing gate probe trap frame session queue buffer timeout retry accepted "
    "denied started stopped connection from for of by to in at with without lost found calibrated moved copied "
    "removed battery low high signal weak strong channel relay mast power cycle done reset door latch sensor "
    "value level warning limit exceeded unknown request reply sent received bytes files observer operator plot "
    "ring sheep walker vehicle log rotated setting reloaded update available disk space checksum mismatch node "
    "joined left cluster complete partial pending"
)
NAMES = "holm carr whin fen moss tarn rigg brae alder birch heath scar ridge crag beck ford"
AROUND = ("{}",) * 6 + ("({})", "[{}]", "{},", "'{}'")
PROSE = 0.15
"""The share of origins that go on as prose does."""


class DrawnLog(NamedTuple):
    """The lines of a log, each with the number of its origin."""

    lines: list[tuple[int, str]]

    @property
    def origins(self) -> int:
        """How many origins it has."""
        return len({origin for origin, _ in self.lines})


def _vary(chance: random.Random) -> Part:
    """Return a part that varies: a number, an address, one of a few names of one word or of several, and so on."""
    names = chance.sample(NAMES.split(), chance.choice([*range(8, 16), 3, 4, 5]))
    values = [
        " ".join(chance.sample(NAMES.split(), chance.choice([1, 1, 2, 3]))) for _ in range(chance.randrange(3, 9))
    ]
    most = chance.choice([9, 99, 9_999, 10**6])
    parts: list[Part] = [
        lambda c: str(c.randrange(most)),
        lambda c: str(c.randrange(-9, most)),
        lambda c: f"{c.random() * most:.2f}",
        lambda c: ".".join(str(c.randrange(1, 255)) for _ in range(4)),
        lambda c: (
            f"/{'/'.join(c.choice(NAMES.split()) for _ in range(c.randrange(1, 4)))}{c.choice(['', '.log', '.dat'])}"
        ),
        lambda c: f"0x{c.getrandbits(32):08x}",
        lambda c: str(uuid.UUID(int=c.getrandbits(128))),
        lambda c: f'"{" ".join(c.choice(NAMES.split()) for _ in range(c.randrange(1, 4)))}"',
        lambda c: f"{c.randrange(9)}.{c.randrange(20)}.{c.randrange(9)}",
        lambda c: f"{c.randrange(900)}ms",
        lambda c: f"{c.randrange(100)}%",
        lambda c: f"{c.choice('ABC')}{c.randrange(99):02d}",
        lambda c: f"{c.randrange(10, 24)}:{c.randrange(10, 60)}:{c.randrange(10, 60)}",
        *[lambda c: c.choice(names)] * 3,
        *[lambda c: c.choice(values)] * 2,
    ]
    return chance.choice(parts)


def _origin(chance: random.Random) -> Part:
    """Return what writes lines of one origin."""
    if chance.random() < PROSE:
        head = " ".join(chance.sample(WORDS.split(), 2))
        words = f"{WORDS} {NAMES}".split()
        return lambda c: f"{head}: {' '.join(c.choice(words) for _ in range(c.randrange(3, 10)))}"
    stay = chance.sample(WORDS.split(), chance.randrange(3, 9))
    vary = chance.randrange(1, 4)
    places = set(chance.sample(range(1, len(stay) + vary), vary))
    parts: list[Part] = []
    for place in range(len(stay) + vary):
        if place in places:
            around, part = chance.choice((*AROUND, f"{chance.choice(WORDS.split())}={{}}")), _vary(chance)
            parts.append(lambda c, around=around, part=part: around.format(part(c)))  # type: ignore[misc]
        else:
            word = stay.pop() + chance.choice([""] * 8 + [":", ","])
            parts.append(lambda _, word=word: word)  # type: ignore[misc]
    return lambda c: " ".join(part(c) for part in parts)


def drawn_log(seed: int, *, many: int | None = None) -> DrawnLog:
    """Return a log of three to thirteen origins, or so many, some far commoner than others; the same for the same seed.

    `Many` are all as common, and have a hundred lines each.
    """
    chance = random.Random(seed)
    origins = [_origin(chance) for _ in range(many or chance.randrange(3, 14))]
    programs = [chance.choice(["gated", "probed", "trapd", "ringd"]) for _ in origins]
    heads: list[Callable[[int, str], str]] = [
        lambda n, _: f"2026-05-{1 + n // 500:02d} {n // 60 % 24:02d}:{n % 60:02d}:{chance.randrange(60):02d} ",
        lambda n, name: f"May {1 + n // 500:2d} 0{n % 9}:{n % 60:02d}:10 larkmoor {name}[{chance.randrange(9999)}]: ",
        lambda n, name: (
            f"2026-05-04T0{n % 9}:{n % 60:02d}:07.{n % 1000:03d}Z {chance.choice(['INFO', 'WARN', 'ERROR'])} {name} - "
        ),
        lambda n, _: f"[{n}.{chance.randrange(10**6):06d}] ",
        lambda n, name: f"{chance.choice('IWE')} {n % 24:02d}:{n % 60:02d} {name}/{chance.randrange(9)} ",
        lambda *_: "",
    ]
    head = chance.choice(heads)
    weights = [1.0 if many else 1 / (number + 1) for number in range(len(origins))]
    lines: list[tuple[int, str]] = []
    for number in range(100 * many if many else chance.choice([300, 1_000, 3_000])):
        [origin] = chance.choices(range(len(origins)), weights)
        lines.append((origin, head(number, programs[origin]) + origins[origin](chance)))
    return DrawnLog(lines)
