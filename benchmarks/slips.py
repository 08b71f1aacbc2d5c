"""Counts how often `why` finds the change that was meant: slips done to right expressions, at random places.

Some are written by hand (`tests/slips_by_hand.py`, and more of them here; `--origin hand`). Others are made: right
expressions are those of the demo, some of the station's usual kinds, and several hundred harvested from what is
installed, with texts drawn for them. Each slip is asked about with one to three texts. A change is right when it takes
the same texts as the right expression: proven, or where that is out of reach, told by some forty texts near to it.
A third of the slips, told by a checksum, is held out: `--held-out` asks those, which nobody looks at while working.
Run with `make bench`; `--only KIND` asks about one kind, `--show` prints what came first where it was wrong.
"""

from __future__ import annotations

import argparse
import json
import random
import re
import statistics
import sys
import time
import warnings
import zlib
from collections import defaultdict
from pathlib import Path
from typing import NamedTuple

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import fieldstick.demo
from fieldstick.analysis.examples import texts_of
from fieldstick.analysis.relation import Reading, relation_of
from fieldstick.drafting.context import Beside, MatchCase
from fieldstick.drafting.diagnosis import diagnose
from fieldstick.engines.budget import watching
from fieldstick.engines.probing import compiled_by_engine, tried
from fieldstick.errors import FieldstickError
from fieldstick.syntax.parser import parse
from harvest import expressions
from slip_kinds import SLIPS, TEXT_SLIPS, Scene, Setting
from slips_by_hand import SLIPS as BY_HAND
from slips_by_hand import Slip
from station_expressions import STATION

SEED = 20261126
A_KIND = {"station": 3, "demo": 2, "harvest": 6}
"""How many expressions of each origin a kind of slip is done to at the most, tens of them."""

SLOW = 1.0
"""Seconds from which on a slip is named."""

LONGEST = 160
HARVESTED = 400


class Right(NamedTuple):
    """A right setting, and texts that fit it."""

    origin: str
    setting: Setting
    texts: tuple[str, ...]


class Asked(NamedTuple):
    """A slip: the wrong setting, a text of which the outcome is wrong, and others that are known."""

    kind: str
    right: Right
    wrong: Setting
    text: str
    should_fit: bool
    fitting: tuple[str, ...]
    others: tuple[str, ...]
    meant_text: str | None = None

    @property
    def is_held_out(self) -> bool:
        """Whether nobody looks at it while working."""
        return self.right.origin != "hand" and zlib.crc32(repr((self.kind, self.wrong, self.text)).encode()) % 3 == 0


def fits(setting: Setting, text: str) -> bool:
    """Tell whether a text fits."""
    return bool(tried(setting.expression, setting.flags, setting.reach, text))


def rights(seed: int = SEED) -> list[Right]:
    """Return the right expressions with their texts."""
    found = [
        Right("station", Setting(expression, frozenset(flags), reach), texts)
        for expression, flags, reach, texts in STATION
    ]
    found += demo_rights()
    chance = random.Random(seed)
    harvested = [each for each in expressions() if 6 <= len(each) <= LONGEST and "\n" not in each]
    chance.shuffle(harvested)
    for expression in harvested:
        if len(found) >= HARVESTED + len(STATION):
            break
        setting = Setting(expression)
        try:
            drawn = dict.fromkeys(
                text for text in texts_of(parse(expression), "whole") if fits(setting, text) and text.isprintable()
            )
        except FieldstickError:
            continue
        texts = tuple(each for each in drawn if 0 < len(each) <= 80)[:8]
        if len(texts) >= 3:
            found.append(Right("harvest", setting, texts))
    return found


def demo_rights() -> list[Right]:
    """Return the demo's patterns with their positive samples."""
    from fieldstick.workspace import Workspace

    found = []
    for suite in Workspace().suites([str(Path(fieldstick.demo.__file__).parent / "larkmoor")]):
        for pattern in suite.patterns.values():
            if pattern.filling is None or pattern.parameters:
                continue
            texts = tuple(
                dict.fromkeys(each.text for each in pattern.samples if each.kind == "positive" and len(each.text) < 200)
            )
            setting = Setting(pattern.filling.text({}), pattern.flags, pattern.reach)
            texts = tuple(each for each in texts if fits(setting, each))
            if len(texts) >= 2:
                found.append(Right("demo", setting, texts[:8]))
    return found


def near_misses(right: Right, chance: random.Random, most: int = 40) -> list[str]:
    """Return texts near to those that fit: most of them do not."""
    found: dict[str, None] = {}
    for _ in range(most * 3):
        text = chance.choice(right.texts)
        at = chance.randrange(len(text) + 1)
        piece = chance.choice(["", text[at : at + 1] * 2, chance.choice("a7-_ .,B/:(|xé")])
        found[text[:at] + piece + text[at + chance.randrange(2) :]] = None
        if len(found) >= most:
            break
    return list(found)


def asked_about(kind: str, right: Right, wrong: Setting, chance: random.Random) -> Asked | None:
    """Return what to ask about a slip; None where it changes nothing that a text shows."""
    if compiled_by_engine(wrong.expression, wrong.flags) is None:
        missed = list(right.texts)
    else:
        missed = [text for text in right.texts if not fits(wrong, text)]
    if missed:
        text = missed[0]
        others = tuple(each for each in right.texts if each != text)[: chance.randrange(3)]
        return Asked(kind, right, wrong, text, True, others, ())
    taken = [text for text in near_misses(right, chance, 60) if fits(wrong, text) and not fits(right.setting, text)]
    if not taken:
        return None
    count = chance.randrange(3)
    return Asked(kind, right, wrong, taken[0], False, right.texts[: 1 + count // 2], tuple(taken[1:2]) if count else ())


def by_hand() -> dict[str, list[Slip]]:
    """Return the slips that were written by hand, by kind: those of the tests, and more of them."""
    found = {kind: list(slips) for kind, slips in BY_HAND.items()}
    for line in Path(__file__).with_name("more_slips_by_hand.jsonl").read_text(encoding="utf-8").splitlines():
        keys = {key: tuple(value) if isinstance(value, list) else value for key, value in json.loads(line).items()}
        found.setdefault(keys.pop("kind"), []).append(Slip(**keys))
    return found


def asked_by_hand() -> list[Asked]:
    """Return the slips that were written by hand."""
    found = []
    for kind, slips in by_hand().items():
        for each in slips:
            flags = each.flags if each.meant_flags is None else each.meant_flags
            right = Setting(each.right, frozenset(flags), each.meant_reach or each.reach)
            wrong = Setting(each.wrong, frozenset(each.flags), each.reach)
            texts = (each.text, *each.fitting) if each.fits else each.fitting
            known = Right("hand", right, texts)
            found.append(Asked(kind, known, wrong, each.text, each.fits, each.fitting, each.others, each.meant_text))
    return found


def all_asked(seed: int = SEED) -> list[Asked]:
    """Return every slip that is asked about."""
    found = asked_by_hand()
    known = rights(seed)
    scenes = [(right, Scene(right.setting)) for right in known]
    for kind, make in SLIPS.items():
        chance = random.Random(f"{seed}{kind}")
        left = {origin: 5 * count for origin, count in A_KIND.items()}
        for right, scene in chance.sample(scenes, len(scenes)):
            if left[right.origin] <= 0:
                continue
            wrongs = [each for each in make(scene) if each != right.setting]
            chance.shuffle(wrongs)
            for wrong in wrongs[:3]:
                asked = asked_about(kind, right, wrong, chance)
                if asked is not None:
                    found.append(asked)
                    left[right.origin] -= 1
                    break
    for kind, change in TEXT_SLIPS.items():
        chance = random.Random(f"{seed}{kind}")
        for right in chance.sample(known, 80):
            texts = [
                (each, other) for each in right.texts[:3] for other in change(each) if not fits(right.setting, other)
            ]
            if texts:
                meant, text = chance.choice(texts)
                others = tuple(each for each in right.texts if each != meant)[: chance.randrange(3)]
                found.append(Asked(kind, right, right.setting, text, True, others, (), meant))
    return found


def is_right(asked: Asked, case: MatchCase) -> bool:
    """Tell whether a change comes to what was meant."""
    if asked.meant_text is not None:
        return case.text == asked.meant_text
    if case.text != asked.text:
        return False
    right = asked.right.setting
    made = Setting(case.expression, case.flags, case.reach)
    if made == right:
        return True
    try:
        parse(made.expression, made.flags)
    except FieldstickError:
        print("not read", made)
        return False
    relation = relation_of(
        Reading(made.expression, made.reach, made.flags), Reading(right.expression, right.reach, right.flags)
    )
    if relation.relation != "undecided":
        return relation.relation == "same"
    near = near_misses(asked.right, random.Random(SEED))
    return all(fits(made, text) == fits(right, text) for text in (*asked.right.texts, *near))


def cases_of(asked: Asked) -> list[MatchCase]:
    """Return the changes that `why` offers, best first."""
    wrong = asked.wrong
    case = MatchCase(wrong.expression, wrong.flags, wrong.reach, asked.text)

    beside = Beside(asked.fitting, asked.others)

    try:
        return [each.case for each in diagnose(case, beside=beside).repairs]
    except FieldstickError:
        return []


def main() -> None:
    """Ask about all slips and print the table."""
    warnings.simplefilter("ignore")
    wanted = argparse.ArgumentParser(description=__doc__)
    wanted.add_argument("--held-out", action="store_true")
    wanted.add_argument("--only", default="")
    wanted.add_argument("--origin", default="")
    wanted.add_argument("--show", action="store_true")
    wanted.add_argument("--seed", type=int, default=SEED, help="other expressions, and slips at other places of them")
    chosen = wanted.parse_args()
    counts: dict[str, list[tuple[bool, bool]]] = defaultdict(list)
    seconds: list[float] = []
    with watching():
        for asked in all_asked(chosen.seed):
            if (
                asked.is_held_out is not chosen.held_out
                or chosen.only not in asked.kind
                or re.search(chosen.origin, asked.right.origin) is None
            ):
                continue
            started = time.perf_counter()
            made = cases_of(asked)
            seconds.append(time.perf_counter() - started)
            if seconds[-1] > SLOW:
                print(f"{seconds[-1]:.1f} s: {asked.kind} {asked.wrong.expression!r} {asked.text!r}")
            right = [is_right(asked, each) for each in made[:3]]
            if asked.right.origin != "hand" or chosen.origin == "hand":
                counts[asked.kind].append((right[:1] == [True], True in right))
            counts[f"({asked.right.origin})"].append((right[:1] == [True], True in right))
            if chosen.show and right[:1] != [True]:
                show(asked, made, right)
    table(counts, seconds)


def show(asked: Asked, made: list[MatchCase], right: list[bool]) -> None:
    """Print a slip that was not found first."""
    wrong, wanted = asked.wrong, "should fit" if asked.should_fit else "should not fit"
    print(f"{asked.kind}: {wrong.expression!r} {sorted(wrong.flags)} {wrong.reach}, {wanted}: {asked.text!r}")
    meant = asked.meant_text or asked.right.setting.expression
    print(f"    meant {meant!r}; beside {asked.fitting} not {asked.others}")
    for case, good in zip(made[:3], right, strict=False):
        flags, what = ",".join(sorted(case.flags)), case.expression
        if case.text != asked.text:
            what = f"text {case.text!r}"
        print(f"    {'yes' if good else 'no '} {what} {flags} {case.reach}")


def table(counts: dict[str, list[tuple[bool, bool]]], seconds: list[float]) -> None:
    """Print how often the change that was meant came first and among three."""
    print("| slip | asked | first | among three |\n|---|---|---|---|")
    everything = [each for kind, several in counts.items() if not kind.startswith("(") for each in several]
    for kind, several in [*sorted(counts.items()), ("all", everything)]:
        first, three = (sum(each[place] for each in several) / max(len(several), 1) for place in (0, 1))
        print(f"| {kind} | {len(several)} | {first:.0%} | {three:.0%} |")
    ordered = sorted(seconds)
    median, most, nine = statistics.median(ordered), ordered[-1], ordered[int(len(ordered) * 0.9)]
    print(f"\nmedian {median * 1000:.0f} ms, 90 % within {nine * 1000:.0f} ms, most {most * 1000:.0f} ms")


if __name__ == "__main__":
    main()
