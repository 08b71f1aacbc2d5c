"""Counts how often `why` finds the change that was meant in the midst of a long expression.

Slips that were written by hand (`slips.py`) stand between labelled numbers, as in a log line of very many fields:
expression and text grow to the length that is asked for. Right is what puts the right expression in the place of the
wrong one and leaves all else as it is. Run with `python benchmarks/long_slips.py`; slips of which the whole expression
is wrong, as where an escape lacks everywhere, are others when they stand beside what is right, and count as not found.
"""

from __future__ import annotations

import argparse
import random
import time
import warnings

from fieldstick.drafting.context import Beside, MatchCase
from fieldstick.drafting.diagnosis import diagnose
from fieldstick.errors import FieldstickError
from fieldstick.syntax.parser import parse
from slips import Asked, asked_by_hand, fits, is_right

LENGTHS = (0, 200, 400, 1_000, 2_000)
NAMES = ("plot", "soil", "gate", "probe", "air", "snow", "wind", "rain", "leaf", "moss")
SLIPS, SEED = 250, 5

Around = tuple[str, str, str, str]
"""What stands before and behind: of the expression, and of the text."""


def alone(asked: Asked) -> bool:
    """Tell whether a slip means the same when it stands beside something else."""
    wrong, right = asked.wrong, asked.right.setting
    plain = not (wrong.flags or right.flags) and wrong.reach == right.reach == "whole"
    both = wrong.expression + right.expression
    marks = "^" in both or "$" in both or "|" in both or "\\1" in both
    looks = "(?" in both.replace("(?P<", "").replace("(?:", "")
    texts = asked.should_fit and asked.meant_text is None and not fits(wrong, asked.text) and fits(right, asked.text)
    return plain and texts and not marks and not looks and reads(wrong.expression)


def reads(expression: str) -> bool:
    """Tell whether an expression can be read."""
    try:
        parse(expression)
    except FieldstickError:
        return False
    return True


def numbers(length: int, first: int) -> tuple[str, str]:
    """Return an expression of labelled numbers of so many code points, or a few more, and a text that fits it."""
    expression = text = ""
    while len(expression) < length:
        name = f"{NAMES[first % len(NAMES)]}{first}"
        expression, text, first = rf"{expression}{name}=\d+; ", f"{text}{name}={first * 7 % 100}; ", first + 1
    return expression, text


def around(length: int) -> Around:
    """Return what stands around a slip in an expression of so many code points."""
    before, text_before = numbers(length * 6 // 10, 10)
    behind, text_behind = numbers(length * 4 // 10, 100)
    joint = " ; " if length else ""
    return before, joint + behind, text_before, joint + text_behind


def found(asked: Asked, placed: Around) -> list[bool]:
    """Return of each of the first three changes whether it is right."""
    before, behind, text_before, text_behind = placed
    texts = [[f"{text_before}{each}{text_behind}" for each in some] for some in (asked.fitting, asked.others)]
    case = MatchCase(
        f"{before}{asked.wrong.expression}{behind}", frozenset(), "whole", f"{text_before}{asked.text}{text_behind}"
    )
    right = []
    for repair in diagnose(case, beside=Beside(*map(tuple, texts))).repairs[:3]:
        made = repair.case
        stays = made.text == case.text and made.expression.startswith(before) and made.expression.endswith(behind)
        inner = made.expression[len(before) : len(made.expression) - len(behind)]
        right.append(stays and reads(inner) and is_right(asked, MatchCase(inner, made.flags, made.reach, asked.text)))
    return right


def main() -> None:
    """Ask about the same slips in expressions of several lengths, and print how many are found."""
    warnings.simplefilter("ignore")
    wanted = argparse.ArgumentParser(description=__doc__)
    wanted.add_argument("--slips", type=int, default=SLIPS)
    every = [each for each in asked_by_hand() if alone(each)]
    chosen = random.Random(SEED).sample(every, min(wanted.parse_args().slips, len(every)))
    print("| code points around it | slips | first | among three | median | most |\n|---|---|---|---|---|---|")
    for length in LENGTHS:
        placed, seconds, first, three = around(length), [], 0, 0
        for asked in chosen:
            started = time.perf_counter()
            right = found(asked, placed)
            seconds.append(time.perf_counter() - started)
            first += right[:1] == [True]
            three += True in right
        shares = " | ".join(f"{each / len(chosen):.0%}" for each in (first, three))
        middle = sorted(seconds)[len(seconds) // 2]
        print(f"| {length:,} | {len(chosen)} | {shares} | {middle:.2f} s | {max(seconds):.2f} s |", flush=True)


if __name__ == "__main__":
    main()
