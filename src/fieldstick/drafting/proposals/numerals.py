"""Spells numbers, with what their field is: signs, groups of three digits, decimal points and commas, exponents."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from fieldstick.drafting.context import escaped, quantifier
from fieldstick.drafting.proposals.spelling import FEW, amount_of, class_of, digit_of, ranges_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.spelling import Level

Table = dict[str, Any]

_POWER, _POINT = re.compile("[eE]"), re.compile("[.,]")

FEWEST_OF_SHAPE = 4
"""Numbers with groups, and without, from which on it is no chance that all of them have one shape."""


SMALL = 3
"""Digits up to which numbers may have fewer, where few are known."""


def of_any_size(spelled: str, values: Sequence[str]) -> str:
    """Return how numbers alone are spelled: where few are known, and none begins with 0, others may be smaller."""
    sizes = {len(each) for each in values}
    if len(sizes) > 1 or len(values) >= FEW or any(each.startswith("0") for each in values):
        return spelled
    size = sizes.pop()
    return rf"\d{{1,{size}}}" if 1 < size <= SMALL and spelled == rf"\d{{{size}}}" else spelled


def number_of(values: Sequence[str], level: Level) -> tuple[str, Table]:
    """Return how numbers are spelled, and the table of their field."""
    spelled, table = _number_of(tuple(values), level)
    return spelled, dict(table)


@lru_cache(maxsize=512)
def _number_of(values: tuple[str, ...], level: Level) -> tuple[str, Table]:
    if all(map(str.isdecimal, values)):
        return _plain_number(values, level)
    sign = _sign(values)
    cut = [_POWER.split(each.lstrip("+-"), maxsplit=1) for each in values]
    bare, exponents = [each[0] for each in cut], [each[1] for each in cut if len(each) == 2]
    spelled, table = _grouped(bare, level) or _plain_number(bare, level)
    if exponents:
        letters = sorted({each[0] for value in values for each in re.findall("[eE]", value)})
        letter = letters[0] if len(letters) == 1 else f"[{''.join(letters)}]"
        digits = [each.lstrip("+-") for each in exponents]
        exponent = rf"{letter}{_sign(exponents)}\d{amount_of({*map(len, digits)}, len(digits), level)}"
        spelled += f"(?:{exponent})?" if len(exponents) < len(values) else exponent
        table = {"type": "decimal"} if table.get("decimal_mark", ".") == "." else {}
    found = sign + spelled
    if not all(map(re.compile(found).fullmatch, values)):
        # Some have points where others have commas.
        return class_of(values, level) + amount_of({*map(len, values)}, len(values), level), {}
    return found, table


def _grouped(bare: list[str], level: Level) -> tuple[str, Table] | None:
    """Return how numbers with groups of three digits are spelled, and their table; None where they are no such."""
    for group, point in ((",", "."), (".", ",")):
        grouped = re.compile(rf"\d{{1,3}}(?:{re.escape(group)}\d{{3}})+(?:{re.escape(point)}\d+)?")
        plain = re.compile(rf"\d+(?:{re.escape(point)}\d+)?")
        of_groups = [each for each in bare if grouped.fullmatch(each)]
        # A point before three digits may be the decimal one: two groups, or a comma after them, tell.
        sure = [each for each in of_groups if group == "," or point in each or each.count(group) > 1]
        others = [each for each in bare if not grouped.fullmatch(each)]
        if not sure or not all(map(plain.fullmatch, others)):
            continue
        short = all(len(re.split(re.escape(point), each)[0]) <= 3 for each in others)
        inner = rf"\d{{1,3}}(?:{escaped(group)}\d{{3}})"
        shapes = [{re.sub(r"\d", "9", each) for each in some} for some in (of_groups, others)]
        if min(len(of_groups), len(others)) >= FEWEST_OF_SHAPE and set(map(len, shapes)) == {1}:
            spelled = "|".join(re.sub("9+", _so_many_digits, escaped(*shape)) for shape in shapes)
            return f"(?:{spelled})", {"type": "integer", "group_mark": group} if point not in spelled else {}
        spelled = f"{inner}*" if short else rf"(?:{inner}+|\d+)"
        parts = [each.rpartition(point)[2] for each in bare if point in each]
        if not parts:
            return spelled, {"type": "integer", "group_mark": group}
        fraction = rf"{escaped(point)}\d{amount_of({*map(len, parts)}, len(parts), level)}"
        table = {"type": "decimal", "group_mark": group, **({"decimal_mark": ","} if point == "," else {})}
        return spelled + (f"(?:{fraction})?" if len(parts) < len(bare) else fraction), table
    return None


def _so_many_digits(run: re.Match[str]) -> str:
    size = len(run[0])
    return rf"\d{quantifier(size, size)}"


def loosely_grouped(values: Sequence[str]) -> tuple[str, Table] | None:
    """Return how numbers are spelled whose groups one of several marks parts, or none, and their table, or None.

    A blank after some of them goes with them.
    """
    different = set(values)
    if not all(value[:1].isdecimal() for value in different):
        return None
    marks = {each for value in different for each in re.findall(r"(?<=\d)[ .,'](?=\d{3}(?!\d))", value)}
    points = {value[-1 - len(found[1])] for value in different if (found := re.search(r"[.,](\d+) *\Z", value))}
    grouping = sorted(marks - {","} if "," in points else marks - {"."} if "," in marks else marks)
    blank = " " in grouping or "'" in grouping
    if not grouping or (len(grouping) == 1 and not blank):
        return None
    point = "," if "," not in grouping and ("." in grouping or "," in points) else r"\."
    often = "?" if any(re.search(r"\d{4}", re.sub(f"{point}.*", "", each)) for each in different) else ""
    fraction = rf"(?:{point}\d+)?" if points or len(grouping) > 1 else ""
    spelled = rf"\d{{1,3}}(?:[{''.join(grouping)}]{often}\d{{3}})*{fraction}"
    spelled = spelled.replace("[ ]", " ").replace("[']", "'")
    table: Table = {"type": "decimal", "group_mark": grouping[0]} if len(grouping) == 1 else {}
    if point == "," and table:
        table["decimal_mark"] = ","
    after = " " in {value[-1:] for value in different}
    spelled += " " * after + "?" * (after and not all(value.endswith(" ") for value in different))
    return (spelled, {} if after else table) if all(map(re.compile(spelled).fullmatch, different)) else None


def _plain_number(bare: Sequence[str], level: Level) -> tuple[str, Table]:
    """Return how numbers without groups are spelled, and their table."""
    marks = set("".join(bare)) & {".", ","}
    if not marks:
        zeros = any(len(each) > 1 and each.startswith("0") for each in bare)
        return digits_of(bare, level), {} if zeros else {"type": "integer"}
    cut = [_POINT.split(each) for each in bare]
    lengths = {len(each[0]) for each in cut}
    if not any(each[0].startswith("0") and len(each[0]) > 1 for each in cut):
        lengths |= {*range(1, max(lengths))}
    whole = r"\d*" if 0 in lengths else rf"\d{amount_of(lengths, len(bare), level)}"
    parts = [each[-1] for each in cut if len(each) > 1]
    fraction = rf"\d{amount_of({len(each) for each in parts}, len(parts), level)}"
    mark = escaped(marks.pop()) if len(marks) == 1 else "[.,]"
    tables: dict[str, Table] = {r"\.": {"type": "decimal"}, ",": {"type": "decimal", "decimal_mark": ","}}
    spelled = f"{mark}{fraction}"
    return f"{whole}{f'(?:{spelled})?' if len(parts) < len(bare) else spelled}", tables.get(mark, {})


def digits_of(values: Sequence[str], level: Level) -> str:
    """Spell a run of digits."""
    lengths = {len(each) for each in values}
    if level == "tight" and len(lengths) == 1:
        # A first digit that is but few of ten, as the tens of hours, says so; a 0 but that numbers are small so far.
        heads, size = sorted({each[0] for each in values}), lengths.pop()
        if size > 1 and len(heads) <= 3 and len(values) >= max(5 * len(heads), FEW) and heads != ["0"]:
            head = heads[0] if len(heads) == 1 else f"[{ranges_of(heads)}]"
            return rf"{head}\d{quantifier(size - 1, size - 1)}"
        return digit_of(values) + quantifier(size, size)
    if len(lengths) > 1 and not any(len(each) > 1 and each.startswith("0") for each in values):
        # Numbers of any size: one of a single digit is rarer than others.
        lengths = {*range(1, max(lengths) + 1)}
    return (digit_of(values) if level == "tight" else r"\d") + amount_of(lengths, len(values), level)


def _sign(values: Sequence[str]) -> str:
    signs = {each[0] for each in values if each[0] in "+-"}
    if not signs:
        return ""
    spelled = "[+-]" if len(signs) == 2 else escaped(signs.pop())
    return spelled if all(each[0] in "+-" for each in values) else f"{spelled}?"
