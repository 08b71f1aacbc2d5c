"""Pieces that take anything where the texts that should fit have something of one shape."""

from __future__ import annotations

import re
from itertools import chain, groupby
from typing import TYPE_CHECKING

from fieldstick.drafting.context import class_spelling, common_start, escaped, escaped_text, quantifier, takes
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.slips.numbers import is_digit, known_numbers, percentages
from fieldstick.drafting.slips.taking import took_at
from fieldstick.engines.probing import compiled_by_engine
from fieldstick.syntax.tree import (
    SINGLE,
    Character,
    CharClass,
    Dot,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    once,
    spelled,
    walk,
    without_asides,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext, Took
    from fieldstick.syntax.tree import Node, Span

YEAR = 4
"""Digits of a year."""

FEW_DIGITS = 3
"""Texts from which on it is hardly by chance that all have the same digits."""

MOST_VALUES = 4
"""Different values up to which a piece is one of a few."""

MOST_MARKS = 2
"""Different marks up to which characters are of kinds."""

MOST_TOGETHER = 4
"""Pieces that may be lacking which are tried as one."""

FEWEST_OF_CODE = 5
"""Characters from which on it is no chance that two codes have as many of each kind."""

FEWEST_OF_WORD = 4
"""Capitals from which on they are a word rather than a code."""

MOST_RUNS = 5
"""Runs of letters, digits and marks up to which texts have a shape."""


def as_shaped(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """A piece that takes anything, where all texts that should fit have something of one shape there."""
    if len(set(took.others)) < 2:
        return
    shapes = [_runs(each) for each in took.others]
    kinds = [kind for kind, _ in shapes[0]]
    if not 0 < len(kinds) <= MOST_RUNS or any([kind for kind, _ in each] != kinds for each in shapes):
        return
    lengths = [{each[at][1] for each in shapes} for at in range(len(kinds))]
    counted = "".join(
        kind + (quantifier(min(several), max(several)) if len(several) == 1 else "+")
        for kind, several in zip(kinds, lengths, strict=True)
    )
    if len(kinds) == 1 and node.quantifier.startswith("{"):
        # How many there may be is known.
        counted = kinds[0] + node.quantifier
    loose = [kind + ("+" if len(kind) > 1 and kind[0] in "[\\" else "") for kind in kinds]
    free = "".join(loose)
    shared = "".join(map(_word_or, zip(*map(_split, took.others), strict=True), loose))
    # What takes anything is rather stopped at a mark.
    more = 0.05 * (len(kinds) == 1) + 0.15 * isinstance(node.item, Dot)
    # Letters with digits, as many each time, are a code.
    same = all(len(each) == 1 for each in lengths) and sum(map(max, lengths)) >= FEWEST_OF_CODE
    coded = 0.08 * (same and r"\d" in kinds and len(kinds) > 1)
    # Two words of as many letters are that by chance, if they are no codes.
    word = kinds == ["[a-z]"] or (kinds == ["[A-Z]"] and max(lengths[0]) >= FEWEST_OF_WORD)
    coded -= 0.17 * (word and len({*took.others}) < FEW_DIGITS and not node.quantifier.startswith("{"))
    for shape, cost in ((shared, 0.9 if shared != free else 1.05), (counted, 0.95 - coded), (free, 1.05)):
        words = f"{spelled(node)} took {text_words(took.own)}; what should fit has another shape: {shape}"
        yield context.splice(node.span, shape, words, cost + more)


def _word_or(runs: tuple[str, ...], piece: str) -> str:
    """Return the word that several runs are, or else what takes them."""
    return runs[0] if len({*runs}) == 1 and runs[0].isalpha() and len(runs[0]) > 2 else piece


def _split(text: str) -> list[str]:
    """Return the runs themselves."""
    return ["".join(run) for _, run in groupby(text, key=kind_of)]


def _runs(text: str) -> list[tuple[str, int]]:
    """Return the runs of small letters, capitals, digits and marks of a text, and how long each is."""
    return [(kind, len(list(run))) for kind, run in groupby(text, key=kind_of)]


def of_kinds(context: RepairContext, node: Node, took: Took) -> Iterator[Proposal]:
    """A class of the kinds of characters that all texts which should fit have there, of which the one has others."""
    used = dict.fromkeys("".join(took.others))
    kinds = {kind_of(each) for each in used}
    if len(kinds) > 1 and not {*map(kind_of, took.own)} <= kinds:
        letters = [each[1:-1] for each in ("[a-z]", "[A-Z]") if each in kinds]
        digits = ["0-9" if letters else r"\d"] if r"\d" in kinds else []
        marks = sorted({each for each in used if kind_of(each) == escaped(each)}, key=lambda each: (each == "-", each))
        new = f"[{''.join([*letters, *digits, *map(class_spelling, marks)])}]"
        if len(marks) <= MOST_MARKS:
            words = f"{spelled(node)} took {text_words(took.own)}; what should fit has less there: {new}"
            # Where all have runs of the same lengths, it is those that were meant.
            same = len({tuple(_runs(each)) for each in took.others}) == 1
            yield context.splice(node.span, new, words, 1.2 if isinstance(node, Dot) else 1.05 if same else 0.93)


def kind_of(character: str) -> str:
    """Return what takes a character and its like."""
    if character.isdigit():
        return r"\d"
    if character.isascii() and character.isalpha():
        return "[a-z]" if character.islower() else "[A-Z]"
    return escaped(character)


def unlikely_numbers(context: RepairContext) -> Iterator[Proposal]:
    """A number of two digits that is none of an hour, a month or the like."""
    for span, ways in chain(percentages(context), known_numbers(context)):
        took = took_at(context, span)
        if took is not None and any(took.others) and all(map(_is_short_number, (took.own, *filter(None, took.others)))):
            number, known = int(took.own), [int(each) for each in took.others if each]
            for low, high, proposal in ways:
                if not low <= number <= high and all(low <= each <= high for each in known):
                    yield proposal


def _is_short_number(text: str) -> bool:
    return text.isdecimal() and len(text) < 10


MONTHS, DAYS = (1, 12), (1, 31)


def whole_clock(context: RepairContext) -> Iterator[Proposal]:
    """An hour with its minute, a month with its day, each no more than it may be, where one of them is."""
    places: list[tuple[Span, str]] = []
    beyond, is_day = 0, False
    for span, ways in known_numbers(context):
        took = took_at(context, span)
        if took is None or not all(map(str.isdecimal, (took.own, *took.others))):
            continue
        values = [*map(int, took.others)]
        likely = [each for each in ways if values and each[0] <= min(values) <= max(values) <= each[1]]
        # The first of a time is an hour, the first of a date a month, as ISO 8601 has it; what follows a day is one.
        months = [each for each in likely if each[:2] == MONTHS] if is_day else []
        for low, high, proposal in months or (likely[-1:] if places else likely[:1]):
            is_day = (low, high) == DAYS and not places
            end = len(proposal.case.expression) - (len(context.case.expression) - span[1])
            places.append((span, proposal.case.expression[span[0] : end]))
            beyond += not low <= int(took.own) <= high
    if len(places) > 1 and beyond:
        made = " and ".join(new for _, new in places)
        # Where several are beyond what they may be, it is all of them that were left unbounded.
        yield context.splice_all(places, f"numbers of a date or time: {made}", 0.97 if beyond == 1 else 0.75)


def first_capital(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """Words of which all that should fit begin with a capital, and the one in question does not."""
    if not took.others or not all(each[:1].isupper() for each in took.others) or took.own[:1].isupper():
        return
    item = spelled(node.item)
    more = "*" if node.least < 2 and node.most is None else ""
    # Where all are capitals, they are not the first ones alone.
    capitals = 0.15 * all(len(each) > 1 and each.isalpha() and each.isupper() for each in took.others)
    if more and takes(item, frozenset())("A"):
        for amount, cost in (("+", 1.0), ("*", 1.05)):
            new = f"[A-Z]{item}{amount}"
            words = f"what should fit begins with a capital: {new}"
            yield context.splice(node.span, new, words, cost + capitals + 0.1 * (len(set(took.others)) < 2))


def first_letter(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """Words of which none that should fit begins with a digit, as the one in question does."""
    item = spelled(node.item)
    if not took.own[:1].isdigit() or any(each[:1].isdigit() for each in took.others):
        return
    # Words without any digit are of letters.
    letters = 0.25 * (not any(map(str.isdigit, "".join(took.others))))
    words = isinstance(node.item, Shorthand | CharClass) and takes(item, frozenset())("A")
    if words and node.least < 2 and node.most is None:
        own = _letters_of(node.item)
        firsts = ((own, 0.95),) if own else (("[A-Za-z_]", 0.95), ("[A-Za-z]", 1.0))
        for first, cost in (*firsts, (r"(?!\d)", 1.05)):
            new = first + item + (node.quantifier if first.startswith("(") else "*")
            if not all(took.others) and not first.startswith("("):
                new = f"(?:{new})?"
            yield context.splice(node.span, new, f"what should fit begins with no digit: {new}", cost + letters)


def _letters_of(item: Node) -> str:
    """Return the class of what another takes that is no digit, where all of that is listed."""
    if not isinstance(item, CharClass) or item.negated or any(isinstance(each, Shorthand) for each in item.items):
        return ""
    kept = [spelled(each) for each in item.items if not _is_of_digits(each)]
    return f"[{''.join(kept)}]" if 0 < len(kept) < len(item.items) else ""


def _is_of_digits(member: Node) -> bool:
    """Tell whether a member of a class is a digit, or a range of them."""
    return all(each.isdecimal() for each in spelled(member) if each != "-") and any(map(str.isdecimal, spelled(member)))


def letters_before_digits(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """`[A-F][0-9]+` for `[A-F0-9]+`: all that should fit has letters of the class, and its digits behind them."""
    letters = _letters_of(node.item)
    if not letters or not isinstance(node.item, CharClass) or len(took.others) < 2:
        return
    digits = f"[{''.join(spelled(each) for each in node.item.items if _is_of_digits(each))}]"
    compiled = compiled_by_engine(f"({letters}+)({digits}+)", context.parsed.flags)
    found = [*filter(None, map(compiled.fullmatch, took.others))] if compiled is not None else []
    if len(found) < len(took.others):
        return
    counts = [{len(each[at]) for each in found} for at in (1, 2)]
    known = node.quantifier.startswith("{")
    amounts = [
        quantifier(min(several), max(several)) if len(several) == 1 and (known or max(several) == 1) else "+"
        for several in counts
    ]
    new = f"{letters}{amounts[0]}{digits}{amounts[1]}"
    yield context.splice(node.span, new, f"what should fit has letters first, and digits behind them: {new}", 0.9)


def without_zeros(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """A number that begins with 0, which none does that should fit."""
    plain = spelled(node.item) in (r"\d", "[0-9]") and node.most is None
    others = [each for each in took.others if each != "0"]
    if plain and took.own[:1] == "0" and took.others and not any(each[:1] == "0" for each in others):
        new = f"[1-9]{spelled(node.item)}*"
        if len(others) < len(took.others):
            new = f"(?:0|{new})"
        yield context.splice(node.span, new, f"no number that should fit begins with 0: {new}", 0.9)


def shared_start(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """What all texts that should fit begin with in the place of a piece of a fixed length."""
    head = common_start(took.others) if len(took.others) > 1 else ""
    if len(head) > 1 and not took.own.startswith(head) and node.least == node.most:
        left = node.least - len(head)
        likely = 1.0 if left or len(took.others) >= FEW_DIGITS or not head.isdigit() else 1.2
        new = escaped_text(head) + (spelled(node.item) + quantifier(left, left) if left > 0 else "")
        yield context.splice(node.span, new, f"what should fit begins with {text_words(head)}: {new}", likely)


def shared_mark(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """A mark that all texts that should fit begin with in the place of a piece, as far as they have something there."""
    heads = {each[0] for each in took.others if each}
    mark = heads.pop() if len(heads) == 1 else ""
    if not mark or mark.isalnum() or took.own[:1] == mark or len(took.others) < 2:
        return
    new, lacking = escaped(mark) + spelled(node), "" in took.others
    if not lacking:
        cost = 1.2 if isinstance(node.item, Dot) else 0.9
        yield context.splice(node.span, new, f"what should fit begins with {text_words(mark)}: {new}", cost)
    elif node.least == 0:
        words = f"what should fit begins with {text_words(mark)}, or lacks it all: (?:{new})?"
        yield context.splice(node.span, f"(?:{new})?", words, 0.9)


def few_values(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """Letters of which the texts that should fit have the same few, again and again."""
    values = list(dict.fromkeys(took.others))
    if len(values) == 1 < FEW_DIGITS <= len(took.others) and values[0].isalpha() and took.own != values[0]:
        new = escaped_text(values[0])
        yield context.splice(node.span, new, f"what should fit has {text_words(new)} there, each time", 1.0)
    some = 1 < len(values) <= MOST_VALUES and len(took.others) > len(values)
    if some and took.own not in values and all(each.isalpha() for each in values):
        new = f"(?:{'|'.join(values)})"
        yield context.splice(node.span, new, f"what should fit has one of a few there: {new}", 0.95)
    elif 1 < len(values) <= MOST_VALUES and took.own not in values and all(map(str.isalpha, values)):
        # Nothing but the words themselves tells them from another of the same letters.
        alike = {*map(kind_of, took.own)} <= {*map(kind_of, "".join(values))} and min(map(len, values)) > 1
        longer = not min(map(len, values)) <= len(took.own) <= max(map(len, values))
        if alike:
            new = f"(?:{'|'.join(values)})"
            words = f"what should fit has one of a few there: {new}"
            yield context.splice(node.span, new, words, 1.15 + 0.15 * longer)


def years(context: RepairContext) -> Iterator[Proposal]:
    """Four digits that begin with one of a few pairs, as years do: `(?:19|20)\\d{2}`."""
    flags = context.parsed.flags
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else (node,)
        for is_number, run in groupby(items, key=lambda each: _takes_digits(each, flags)):
            pieces = list(run) if is_number else []
            if sum(each.least if isinstance(each, Repeat) else 1 for each in pieces) != YEAR:
                continue
            span = (pieces[0].span[0], pieces[-1].span[1])
            took = took_at(context, span)
            if took is None or len(took.others) < 2 or len(took.own) != YEAR:
                continue
            heads = sorted({each[:2] for each in took.others})
            if len(heads) <= 2 and took.own[:2] not in heads:
                new = (heads[0] if len(heads) == 1 else f"(?:{'|'.join(heads)})") + r"\d{2}"
                words = f"years that should fit begin with {' or '.join(heads)}: {new}"
                yield context.splice(span, new, words, 0.95)


def _takes_digits(node: Node, flags: frozenset[str]) -> bool:
    return is_digit(once(node), flags)


def one_character(context: RepairContext, node: Node, took: Took) -> Iterator[Proposal]:
    """A class or dot that took the same character in all texts that should fit, or one of two or three marks."""
    used = sorted({each for each in took.others if each}, key=lambda each: (each == "-", each))
    if took.own == "0" and used and "".join(used).isdigit() and "0" not in used and spelled(node) in (r"\d", "[0-9]"):
        # Of a few texts that is chance.
        few = 0.15 * (len(took.others) < 3)
        yield context.splice(node.span, "[1-9]", "no number that should fit begins with 0: [1-9]", 0.9 + few)
    least = 1 if isinstance(node, Dot) else 2
    # Of digits that may be lacking those say something that are there.
    told = [each for each in took.others if each or not "".join(used).isdigit()]
    if len(told) < least or not used or len(used) > 3 or took.own in used or any(len(each) > 1 for each in used):
        return
    if len(used) == 1 and len(took.own) == 1:
        words = f"the texts that should fit have {text_words(used[0])} there alone: {escaped(used[0])}"
        # Two texts have the same digit by chance.
        chance = 0.2 * (used[0].isdigit() and len(took.others) < FEW_DIGITS)
        yield context.splice(node.span, escaped(used[0]), words, 0.8 + 0.2 * used[0].isalnum() + chance)
    elif len(used) == 3 and all(map(str.isalpha, used)) and _are_apart(used) and not _is_led_on(context, node):
        made = f"[{''.join(used)}]"
        words = f"the texts that should fit have one of these letters there: {made}"
        yield context.splice(node.span, made, words, 0.95)
    elif len(used) > 1 and not any(map(str.isalnum, used)):
        made = f"[{''.join(map(class_spelling, used))}]"
        words = f"the texts that should fit have one of these marks there: {made}"
        yield context.splice(node.span, made, words, 0.85)


def _are_apart(letters: list[str]) -> bool:
    """Tell whether letters are far from one another in the alphabet: they are a few rather than a stretch of it."""
    return ord(letters[-1]) - ord(letters[0]) > 4 * len(letters)


def _is_led_on(context: RepairContext, node: Node) -> bool:
    """Tell whether more letters may follow."""
    following = context.after.get(node)
    item = once(following) if following is not None else None
    return isinstance(item, SINGLE) and takes(spelled(item), context.parsed.flags)("a")


def loose_words(context: RepairContext, node: CharClass, took: Took) -> Iterator[Proposal]:
    """`[\\w ]+` for words, which takes blanks anywhere and any number of them."""
    around = context.facts.parents.get(node)
    if not isinstance(around, Repeat) or node.negated or around.most is not None:
        return
    test = takes(spelled(node), context.parsed.flags - {"verbose"})
    marks = [each for each in " -'_,;./:" if test(each) and not (each == "_" and r"\w" in spelled(node))]
    kept = [spelled(each) for each in node.items if spelled(each) not in (*marks, r"\s", *map(escaped, marks))]
    if len(marks) != 1 or not kept or not re.search(r"^[\W_]|[\W_]$|[\W_]{2}", took.own):
        return
    if not test("a") and (not test("0") or marks[0] in ".,:/"):
        # Marks of numbers are told elsewhere.
        return
    alone = len(kept) == 1 and kept[0].startswith("\\")
    item = kept[0] if alone else f"[{''.join(kept)}]"
    new = f"{item}+(?:{escaped(marks[0])}{item}+)*"
    words = f"{spelled(around)} takes marks anywhere and in any number: {new}"
    # Where none has any, it is needless.
    needless = len(took.others) > 1 and not any(marks[0] in each for each in took.others)
    yield context.splice(around.span, new, words, 0.9 + 0.2 * needless)


def marks_inside(context: RepairContext, node: CharClass, took: Took) -> Iterator[Proposal]:
    """`[\\w.-]+` for what neither begins nor ends with a mark: `\\w[\\w.-]*`."""
    around = context.facts.parents.get(node)
    others = [each for each in took.others if each]
    if not isinstance(around, Repeat) or node.negated or around.most is not None or not took.own or not others:
        return
    marks = {each.character for each in node.items if isinstance(each, Character) and not each.character.isalnum()}
    kept = [spelled(each) for each in node.items if not (isinstance(each, Character) and each.character in marks)]
    if len(marks) < 2 or not kept:
        return
    one = kept[0] if len(kept) == 1 and kept[0].startswith("\\") else f"[{''.join(kept)}]"
    first = took.own[0] in marks and not any(each[0] in marks for each in others)
    last = took.own[-1] in marks and not any(each[-1] in marks for each in others)
    if first or last:
        many = spelled(node)
        new = f"{one}(?:{many}*{one})?" if first and last else f"{one}{many}*" if first else f"{many}*{one}"
        where = "begins or ends" if first and last else "begins" if first else "ends"
        words = f"nothing that should fit {where} with a mark there: {new}"
        yield context.splice(around.span, new, words, 0.9)


def come_together(context: RepairContext) -> Iterator[Proposal]:
    """Marks that may be there without what goes with them: `\\d+\\.?\\d*` for a number, which may end with its mark."""
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for is_loose, run in groupby(range(len(items)), key=lambda at: _may_lack(items[at])):
            places = list(run) if is_loose else []
            loose = [items[at] for at in places]
            marks = [literal_of(each.item) or "a" for each in loose if isinstance(each, Repeat)]
            if not 1 < len(places) <= MOST_TOGETHER or all(map(str.isalnum, marks)):
                continue
            inner = "".join(_once(each) for each in loose if isinstance(each, Repeat))
            ways = [(places[0], inner, 0.9)]
            took = took_at(context, (loose[0].span[0], loose[-1].span[1]))
            if took is not None and took.is_lacking and len(took.others) > 1:
                words = f"{text_words(marks[0])} and what follows it are there: {inner}"
                yield context.splice((loose[0].span[0], loose[-1].span[1]), inner, words, 0.85)
                sizes = {len(each) for each in took.others}
                mark, rest = (each if isinstance(each, Repeat) else None for each in (loose[0], loose[-1]))
                if len(sizes) == 1 and len(loose) == 2 and mark and rest and rest.most is None:
                    size = sizes.pop() - 1
                    counted = _once(mark) + spelled(rest.item) + quantifier(size, size)
                    words = f"{text_words(marks[0])} and as much as what should fit has are there: {counted}"
                    yield context.splice((loose[0].span[0], loose[-1].span[1]), counted, words, 0.95)
            before = literal_of(items[places[0] - 1]) if places[0] else None
            if before and not before.isalnum():
                ways.append((places[0] - 1, spelled(items[places[0] - 1]) + inner, 0.85 if before == " " else 0.95))
            for start, piece, cost in ways:
                words = f"{text_words(marks[0])} comes and goes with what follows it: (?:{piece})?"
                yield context.splice((items[start].span[0], loose[-1].span[1]), f"(?:{piece})?", words, cost)


def _may_lack(node: Node) -> bool:
    return isinstance(node, Repeat) and node.least == 0 and (node.most == 1 or isinstance(node.item, SINGLE))


def _once(node: Repeat) -> str:
    """Spell what a piece asks for where it does not lack."""
    return spelled(node.item) + ("" if node.most == 1 else quantifier(1, node.most))


def so_many_turns(context: RepairContext, node: Repeat, took: Took) -> Iterator[Proposal]:
    """A group with a mark in it that comes as often in all that should fit, and another number of times here."""
    nodes = list(walk(node.item))
    marks = {each.character for each in nodes if isinstance(each, Character) and not each.character.isalnum()}
    wide = [each for each in nodes if isinstance(each, SINGLE) and not isinstance(each, Character)]
    tests = [takes(spelled(each), context.parsed.flags - {"verbose"}) for each in wide]
    for mark in [each for each in sorted(marks) if not any(test(each) for test in tests)][:1]:
        counts = {each.count(mark) for each in took.others}
        if took.own.count(mark) in counts or 0 in counts:
            continue
        amount = quantifier(min(counts), max(counts))
        times = "once" if counts == {1} else f"{' to '.join(map(str, sorted({min(counts), max(counts)})))} times"
        words = f"{spelled(node.item)} comes {times} in what should fit: {amount}"
        span = (node.span[1] - len(node.quantifier), node.span[1])
        yield context.splice(span, amount, words, 0.95 if len(counts) == 1 else 1.2)


RESTRAINTS = (unlikely_numbers, whole_clock, years, come_together)
