"""Counts what proposals come to: made from twenty texts of a known expression, held against texts they have not seen.

Texts are drawn at random from right expressions: the station's usual kinds, the demo's, and harvested ones. Of unseen
right texts a proposal should take 98 %, of texts near to right ones, which the right expression refuses, it should
refuse 98 %. Beside them stand columns and lines drawn as the station has them (`columns_by_hand.py`), with texts near
to these written by hand. Run with `make bench`; `--show` prints where it does not, `--hindsight`
what the best of all expressions that were tried would come to.
"""

from __future__ import annotations

import argparse
import random
import statistics
import sys
import warnings
from itertools import chain
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from columns_by_hand import COLUMNS
from fieldstick.drafting.proposals import choosing, weighing
from fieldstick.drafting.proposals.proposing import propose
from fieldstick.drafting.proposals.spelling import LEVELS
from fieldstick.drafting.proposals.taking_texts import taken_by
from fieldstick.engines.budget import watching
from fieldstick.engines.probing import character_test
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Anchor,
    Aside,
    Character,
    Group,
    Node,
    Repeat,
    Sequence,
    spelled,
)
from slips import fits, rights

if TYPE_CHECKING:
    from collections.abc import Iterator

    from slip_kinds import Setting

SEED, EXAMPLES, FEW_EXAMPLES, UNSEEN, NEAR, WANTED = 20261126, 20, 5, 60, 60, 300
HAND, HAND_FEW = "by hand", "by hand, few"
LIKELY = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789 _-.,:/"


class Outcome(NamedTuple):
    """The shares of unseen right texts that a proposal takes, and of near misses that it refuses."""

    takes: float
    refuses: float

    @property
    def is_good(self) -> bool:
        """Whether both are 98 % at the least."""
        return self.takes >= 0.98 and self.refuses >= 0.98


def drawn(node: Node, flags: frozenset[str], chance: random.Random) -> str:
    """Return a text that a node takes; raises ValueError for what no text is drawn for."""
    if isinstance(node, Character):
        return node.character
    if isinstance(node, SINGLE):
        test = character_test(spelled(node), flags - {"verbose"})
        return chance.choice(
            [each for each in LIKELY if test(each)] or [each for each in map(chr, range(33, 600)) if test(each)]
        )
    if isinstance(node, Sequence):
        return "".join(drawn(each, flags, chance) for each in node.items)
    if isinstance(node, Alternation):
        return drawn(chance.choice(node.options), flags, chance)
    if isinstance(node, Group):
        return drawn(node.body, flags, chance)
    if isinstance(node, Repeat):
        most = node.least + 4 if node.most is None else min(node.most, node.least + 6)
        return "".join(drawn(node.item, flags, chance) for _ in range(chance.randint(node.least, most)))
    if isinstance(node, Anchor | Aside):
        return ""
    raise ValueError(node)


def texts_of(setting: Setting, chance: random.Random, most: int) -> list[str]:
    """Return different texts that a right expression takes as a whole."""
    tree = parse(setting.expression, setting.flags).tree
    found: dict[str, None] = {}
    for _ in range(most * 6):
        text = drawn(tree, setting.flags, chance)
        if text.isprintable() and text == text.strip() and 0 < len(text) <= 120 and fits(setting, text):
            found[text] = None
        if len(found) >= most:
            break
    return list(found)


def near_misses(setting: Setting, texts: list[str], chance: random.Random) -> list[str]:
    """Return texts near to right ones that the right expression refuses."""
    found: dict[str, None] = {}
    for _ in range(NEAR * 10):
        text = chance.choice(texts)
        at = chance.randrange(len(text) + 1)
        new = chance.choice(["", text[at : at + 1] * 2, chance.choice("a7Z-_ .,/:%")])
        made = text[:at] + new + text[at + 1 :]
        if not fits(setting, made):
            found[made] = None
        if len(found) >= NEAR:
            break
    return list(found)


class Question(NamedTuple):
    """Examples, and the texts that a proposal made from them is held against; `name` tells what they were drawn by."""

    origin: str
    name: str
    examples: list[str]
    unseen: list[str]
    near: tuple[str, ...]


def of_expressions() -> Iterator[Question]:
    """Yield what is drawn from right expressions."""
    count = 0
    for right in rights():
        if count >= WANTED:
            break
        chance = random.Random(f"{SEED}{right.setting.expression}")
        setting = right.setting._replace(reach="whole")
        try:
            texts = texts_of(setting, chance, EXAMPLES + UNSEEN)
        except (ValueError, IndexError):
            continue
        if len(texts) >= EXAMPLES + 20:
            count += 1
            near = tuple(near_misses(setting, texts, chance))
            yield Question(right.origin, right.setting.expression, texts[:EXAMPLES], texts[EXAMPLES:], near)


def by_hand(seed: int, count: int = EXAMPLES) -> Iterator[Question]:
    """Yield what is drawn by hand-written rules, as often as it comes; not where nothing is left unseen."""
    for name, column in COLUMNS.items():
        chance = random.Random(f"{seed}{name}")
        examples = [column.draw(chance) for _ in range(count)]
        drawn_more = dict.fromkeys(column.draw(chance) for _ in range(20 * UNSEEN))
        unseen = [each for each in drawn_more if each not in examples][:UNSEEN]
        if unseen:
            origin = HAND if count == EXAMPLES else HAND_FEW
            yield Question(origin, name, examples, unseen, column.near)


def noted_tries() -> list[str]:
    """Return a list to which all expressions are added, from now on, that a proposal is chosen from."""
    noted: list[str] = []
    choose = choosing.likeliest

    def choose_and_note(found: Any, weight: float) -> weighing.Written:
        noted.extend(each.expression for each in found)
        return choose(found, weight)

    choosing.likeliest = choose_and_note
    return noted


def outcome_of(expression: str, asked: Question) -> Outcome:
    """Return what an expression comes to."""
    taken = taken_by(expression, [*asked.unseen, *asked.near])
    right, near = taken[: len(asked.unseen)], taken[len(asked.unseen) :]
    return Outcome(sum(right) / len(right), 1 - sum(near) / max(len(near), 1))


def main() -> None:
    """Propose for all that is asked and print the table."""
    warnings.simplefilter("ignore")
    wanted = argparse.ArgumentParser(description=__doc__)
    wanted.add_argument("--show", action="store_true", help="print where the first proposal is not good")
    wanted.add_argument("--hand", action="store_true", help="ask for the columns by hand alone")
    wanted.add_argument("--seed", type=int, default=SEED, help="draw other texts of the columns by hand")
    wanted.add_argument("--hindsight", action="store_true", help="print what the best of all that is tried comes to")
    chosen = wanted.parse_args()
    tried, best = noted_tries() if chosen.hindsight else [], []
    outcomes: dict[str, list[Outcome]] = {level: [] for level in LEVELS}
    first: dict[str, list[Outcome]] = {}
    with watching():
        for asked in chain(
            () if chosen.hand else of_expressions(), by_hand(chosen.seed), by_hand(chosen.seed, FEW_EXAMPLES)
        ):
            tried.clear()
            proposed = list(propose(asked.examples))
            if not asked.origin.startswith(HAND) and chosen.hindsight:
                of_all = [outcome_of(each, asked) for each in dict.fromkeys([proposed[0].expression, *tried])]
                best.append(max(of_all, key=sum))
            for number, each in enumerate(proposed):
                lost = [text for text in asked.unseen if not each.fits(text)]
                taken = [text for text in asked.near if each.fits(text)]
                outcome = Outcome(1 - len(lost) / len(asked.unseen), 1 - len(taken) / max(len(asked.near), 1))
                if not asked.origin.startswith(HAND):
                    outcomes[each.level].append(outcome)
                if number:
                    continue
                first.setdefault(asked.origin, []).append(outcome)
                if chosen.show and not outcome.is_good and asked.origin != HAND_FEW:
                    print(f"{outcome.takes:.0%} {outcome.refuses:.0%} {asked.name!r}\n        {each.expression!r}")
                    print("        lost", lost[:2], "taken", taken[:2])
    print(
        "| proposal | of | unseen right texts taken | near misses refused | both at least 98 % |\n|---|---|---|---|---|"
    )
    hand, few = first.pop(HAND), first.pop(HAND_FEW)
    everything = [each for several in first.values() for each in several]
    for name, several in [
        *outcomes.items(),
        *((f"first ({origin})", each) for origin, each in first.items()),
        ("first", everything),
        ("the best of all that were tried, in hindsight", best),
        ("first, of columns and lines by hand", hand),
        (f"first, of these from {FEW_EXAMPLES} examples", few),
    ]:
        if several:
            takes, refuses = (statistics.mean(each[place] for each in several) for place in (0, 1))
            good = sum(each.is_good for each in several) / len(several)
            print(f"| {name} | {len(several)} | {takes:.1%} | {refuses:.1%} | {good:.0%} |")


if __name__ == "__main__":
    main()
