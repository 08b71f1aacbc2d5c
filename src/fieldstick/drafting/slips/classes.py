"""Classes that lack a character, or shut one out."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import TYPE_CHECKING

from fieldstick.analysis.digits import numbers_meant, padded_between
from fieldstick.drafting.context import (
    PRINTED,
    Proposal,
    before_groups,
    class_spelling,
    class_with,
    takes,
    written_alike,
)
from fieldstick.drafting.phrases import character_words
from fieldstick.drafting.slips.framing import free_marks
from fieldstick.drafting.slips.named_ranges import names_meant
from fieldstick.drafting.slips.taking import mark_before_another
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import SINGLE, Character, CharClass, Range, Repeat, Shorthand, spelled

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import RepairContext
    from fieldstick.syntax.tree import Span


MOST_MARKS = 4
"""Different marks of a text that classes are tried with."""

FIRST = 0.1
"""What it costs that a mark which no class takes is taken where one begins: it rather stands before what that takes."""

MOST_WRITTEN = 12
"""Different classes of an expression that others are held against."""


def classes(context: RepairContext) -> Iterator[Proposal]:
    """A class that lacks a character, or a negated one that shuts it out."""
    if not context.found:
        return
    goes_on = context.at < len(context.case.text) - 1
    for node in context.nodes:
        near = context.near(node)
        if near > 0.5 or context.facts.is_in_class(node):
            continue
        if isinstance(node, CharClass) and not node.negated:
            yield from _longer_range(context, node, near)
            yield from _wider_class(context, node, near)
        elif isinstance(node, CharClass):
            items = [
                item for item in node.items if not (isinstance(item, Character) and item.character == context.found)
            ]
            if not items and len(node.items) == 1 and context.facts.is_repeated(node):
                words = f"{spelled(node)} shuts out {character_words(context.found)}: ."
                likely = 0.9 if goes_on and _is_last(context, node) else 1.1
                # Quotes stand around it, rather.
                likely += 0.35 * (context.found in "\"'`" and context.case.text.count(context.found) == 2)
                yield context.splice(node.span, ".", words, likely + near)
            if items and len(items) < len(node.items):
                inner = "".join(map(spelled, items))
                words = f"{spelled(node)} shuts out {character_words(context.found)}: [^{inner}]"
                yield context.splice(node.span, f"[^{inner}]", words, 1.0 + near)
        elif isinstance(node, Shorthand) and len(node.spelling) == 2 and not node.negated:
            # Digits and what follows them are parted by a blank more often than digits hold one.
            odd = not context.found.isalnum() and context.found not in ".,"
            last = odd and context.at == len(context.case.text) - 1
            parted = context.found.isspace() and _is_parted(context)
            letter = node.name == "digit" and context.found.isalpha() and bool(context.held)
            doubt = 0.35 if (node.name == "digit" and odd) or last or parted or letter else 0.0
            doubt += FIRST * (odd and bool(context.held) and _begins(context, node))
            yield _with_character(context, node, context.found, 1.15 + near + doubt)
        elif (
            isinstance(node, Shorthand) and node.spelling == r"\S" and context.found == " " and _is_last(context, node)
        ):
            yield context.splice(node.span, ".", r"\S shuts out a blank, and nothing follows: .", 0.9 + near)


def _begins(context: RepairContext, node: Shorthand) -> bool:
    """Tell whether what was found stands where a piece begins, right behind the character before it."""
    before = before_groups(context.case.expression, node.span[0])[-1:]
    return bool(before) and not before.isalnum() and context.case.text[: context.at].endswith(before)


def _is_last(context: RepairContext, node: Shorthand | CharClass) -> bool:
    """Tell whether nothing that takes characters stands behind a piece that is repeated."""
    stop = node.span[1]
    behind = (each for each in context.nodes if each.span[0] >= stop and isinstance(each, SINGLE))
    return context.facts.is_repeated(node) and next(behind, None) is None


def classes_elsewhere(context: RepairContext) -> Iterator[Proposal]:
    """A class that lacks a mark of the text, where something else took it and the match stopped further on."""
    marks = [each for each in context.characters if not each.isalnum() and not each.isspace()]
    for node in context.nodes:
        if isinstance(node, Shorthand | CharClass) and not node.negated and context.facts.is_repeated(node):
            for mark in marks[:MOST_MARKS]:
                yield _with_character(context, node, mark, 1.35 + context.near(node) / 4)


def written_elsewhere(context: RepairContext) -> Iterator[Proposal]:
    """A class that takes less than another one of the expression, which takes more of the text."""
    singles = [
        each
        for each in context.nodes
        if isinstance(each, Shorthand | CharClass) and not each.negated and not context.facts.is_in_class(each)
    ]
    written = dict.fromkeys(spelled(each) for each in singles if isinstance(each, CharClass) and len(each.items) > 1)
    wide = {each: takes(each, context.parsed.flags) for each in list(written)[:MOST_WRITTEN]}
    text = context.characters
    # Where a text is ASCII, nobody thought of other digits.
    printed = [each for each in PRINTED if each.isascii()] if context.case.text.isascii() else PRINTED
    taken = {each: frozenset(filter(test, (*printed, *text))) for each, test in wide.items()}
    for node in singles if written else ():
        now = frozenset(filter(takes(spelled(node), context.parsed.flags), (*printed, *text)))
        for each, characters in taken.items():
            # Digits that hold letters are no number any more, but one of base 16.
            digits = 0.3 * (all(map(str.isdigit, now)) and ("g" in characters or not {*"0123456789"} <= now))
            lacked = next((one for one in (context.found, *text) if one in characters and one not in now), None)
            if lacked is not None and now <= characters:
                words = f"{spelled(node)} lacks {character_words(lacked)}, which {each} takes elsewhere: {each}"
                after = context.after.get(node)
                # What comes first takes less than what follows it, and is meant to.
                first = 0.4 * (isinstance(after, Repeat) and spelled(after.item) == each)
                cost = 0.75 + digits + first + context.near(node) / 2 + 0.1 * (context.found not in characters)
                yield context.splice(node.span, each, words, cost)


def _with_character(context: RepairContext, node: Shorthand | CharClass, character: str, cost: float) -> Proposal:
    inner = node.spelling if isinstance(node, Shorthand) else spelled(node)[1:-1]
    new = class_with(inner, class_spelling(character))
    return context.splice(node.span, new, f"{spelled(node)} lacks {character_words(character)}: {new}", cost)


def _is_parted(context: RepairContext) -> bool:
    """Tell whether what was found stands right behind a mark: it parts rather than belongs to a word."""
    before = context.case.text[: context.at][-1:]
    return bool(before) and not before.isalnum() and before not in "\"'(["


_PARTED = compiled_later(r"(?:[+*}]|\\w)\)? ")
"""A blank after a piece that takes several characters."""


def _longer_range(context: RepairContext, node: CharClass, near: float) -> Iterator[Proposal]:
    """A range that ends too early, or begins too late: `A-F` for `A-G`; all letters, or digits, where it is of some."""
    found = context.found
    written = {spelled(each): each for each in node.items if isinstance(each, Range)}
    for item in node.items:
        if not isinstance(item, Range):
            continue
        low, high = item.first.character, item.last.character
        same = [kind for kind in ("az", "AZ", "09") if all(kind[0] <= each <= kind[1] for each in (low, high, found))]
        if not same:
            if not (low + high).isascii() and low.isalpha() and found.isascii() and found.isalpha():
                plain = "A-Z" if found.isupper() else "a-z"
                words = f"{spelled(item)} are letters of another alphabet: {plain}"
                yield context.splice(item.span, plain, words, 0.95 + near)
            continue
        whole, span = "-".join(same[0]), item.span
        if same == ["09"] and len(node.items) == 1 and any(spelled(each) == r"\d" for each in context.nodes):
            # As digits are asked for elsewhere.
            whole, span = r"\d", node.span
        longer = f"{min(low, found)}-{max(high, found)}"
        beside = 1 in (ord(low) - ord(found), ord(found) - ord(high))
        words = f"{spelled(item)} ends before {character_words(found)}: {longer}"
        # Digits that begin with another than 0 are those of a list that has an end.
        some = low == "1" and len(node.items) == 1
        if (longer, whole) != ("0-9", r"\d"):
            yield context.splice(item.span, longer, words, (0.85 if beside else 0.9 if some else 1.1) + near)
        twin = written.get(spelled(item).swapcase())
        if twin is not None and twin is not item:
            words = f"{spelled(item)} ends before {character_words(found)}, and {spelled(twin)} with it: {longer}"
            places = [(item.span, longer), (twin.span, longer.swapcase())]
            yield context.splice_all(places, words, (0.8 if beside else 1.0) + near)
        if low == "1" and high < "9" != found:
            # Numbers from one on.
            words = f"{spelled(item)} lacks {character_words(found)}: 1-9"
            yield context.splice(item.span, "1-9", words, 0.92 + near)
        if longer != whole:
            words = f"{spelled(item)} lacks {character_words(found)}: {whole}"
            yield context.splice(span, whole, words, 0.95 + near)


def _wider_class(context: RepairContext, node: CharClass, near: float) -> Iterator[Proposal]:
    found, inner = context.found, spelled(node)[1:-1]
    near += 0.35 * (found.isspace() and (not context.facts.is_repeated(node) or _is_parted(context)))
    # Where a blank parts words already, others come with one rather than hold it.
    near += 0.3 * (found == " " and _PARTED.search(context.case.expression, 0, node.span[0]) is not None)
    # What parts it from another that is like it does so, too.
    around = context.facts.parents.get(node)
    piece = around if isinstance(around, Repeat) else node
    near += 0.3 * (not found.isalnum() and found == mark_before_another(context, piece) and bool(context.held))
    # Quotes stand around a word rather than in it.
    near += 0.3 * (found in "\"'`" and context.case.text.count(found) == 2)
    # A mark that comes last is rather one that may follow.
    last = not found.isalnum() and not found.isspace() and context.at == len(context.case.text) - 1
    near += 0.3 * (last and context.facts.is_repeated(node) and context.case.text.count(found) == 1)
    if len(node.items) == 1 and isinstance(node.items[0], Character) and not context.held and not found.isalnum():
        new = f"[{class_spelling(found)}]"
        words = f"{spelled(node)} is asked for, and the text has {character_words(found)}: {new}"
        yield context.splice(node.span, new, words, 1.0 + near)
    if inner in ("'", '"') and found in ("'", '"'):
        # Who has a class for one quote means the other, too.
        near -= 0.2
    single = 1.3 if found.isalnum() and any(isinstance(item, Range) for item in node.items) else 0.85
    marks = all(isinstance(item, Character) and not item.character.isalnum() for item in node.items)
    near += 0.4 * (marks and found.isalnum() and bool(context.held))
    single += 0.2 * (marks and found.isalpha())
    hexadecimal = found.isdigit() and {*inner} <= {*"a-fA-F"} and "f" in inner.lower()
    # Who lists letters means some of them.
    listed = len(node.items) > 1 and all(
        isinstance(item, Character) and _case_of(item.character) == _case_of(found) != "" for item in node.items
    )
    kinds = [(each, 0.7 if hexadecimal else 1.2 if listed and each == "\\w" else 1.0) for each in _kinds(found, node)]
    for added, cost in ((class_spelling(found), single), *kinds):
        new = class_with(inner, added)
        yield context.splice(node.span, new, f"{spelled(node)} lacks {character_words(found)}: {new}", cost + near)


def _case_of(character: str) -> str:
    return "A" if character.isupper() else "a" if character.islower() else ""


def _kinds(found: str, node: CharClass) -> Iterator[str]:
    ranges = [item for item in node.items if isinstance(item, Range)]
    if found.isascii() and found.islower() and any(item.first.character.islower() for item in ranges):
        return
    if found.isascii() and found.isupper() and any(item.first.character.isupper() for item in ranges):
        return
    letters = "".join(each.character for each in node.items if isinstance(each, Character) and each.character.isalpha())
    if not ranges and len(letters) > 1 and found.swapcase() in letters:
        # As many letters, of the other case.
        yield letters.swapcase()
        return
    mirrored = [spelled(each).swapcase() for each in ranges if each.first.character.isalpha()]
    mirrored = [each for each in mirrored if each[0] <= found <= each[-1]]
    if mirrored:
        yield from mirrored
    elif found.isascii() and ranges:
        if found.isupper():
            yield "A-Z"
        elif found.islower():
            yield "a-z"
        elif found.isdigit() and not any(item.first.character.isdigit() for item in ranges):
            yield "0-9"
    elif found.isalnum():
        if found.isascii() and spelled(node) == "[_]":
            # A class for one mark was to hold more than that.
            yield "a-z" if found.islower() else "A-Z" if found.isupper() else "0-9"
        yield "\\w"
        yield from _alphabet(found, ranges)


_CASES = ("A-Z", "a-z")
_ALPHABETS = {
    ("À", "ÿ"): ("À-ÖØ-Þ", "ß-öø-ÿ", "À-ÖØ-öø-ÿ"),
    ("Ā", "ɏ"): ("À-ÖØ-ɏ", "ß-öø-ɏ", "À-ÖØ-öø-ɏ"),
    ("Ά", "ώ"): ("Α-ΩΆ-Ώ", "α-ωά-ώ", "Ά-ώ"),
    ("Ё", "ё"): ("А-ЯЁ", "а-яё", "А-Яа-яЁё"),
}
"""Letters beyond ASCII, from one to another: the capitals of them, the small ones, all (by Unicode's blocks)."""


def _alphabet(found: str, ranges: list[Range]) -> Iterator[str]:
    """Yield the letters of the alphabet that one is of, of the cases that a class has of ASCII's."""
    written = {spelled(each) for each in ranges}
    cased = [each in written for each in _CASES]
    for (low, high), (capitals, small, both) in _ALPHABETS.items():
        if low <= found <= high and any(cased):
            yield both if all(cased) else capitals if cased[0] else small
            return


def digits_anywhere(context: RepairContext) -> Iterator[Proposal]:
    """`[0-9]`, where the text has digits of another alphabet."""
    if not context.found.isdecimal() or context.found.isascii():
        return
    for node in context.nodes:
        if isinstance(node, CharClass) and spelled(node) == "[0-9]":
            words = f"[0-9] lacks {character_words(context.found)}, a digit of another alphabet: \\d"
            yield context.splice(node.span, "\\d", words, 0.8)


_QUOTES = frozenset("\"'`/")


def inverted(context: RepairContext) -> Iterator[Proposal]:
    """A class that was meant the other way round."""
    classes_written = {spelled(each) for each in context.nodes if isinstance(each, CharClass)}
    quotes = {each.character for each in free_marks(context)} & _QUOTES
    for node in context.nodes:
        if isinstance(node, CharClass) and not context.facts.is_in_class(node):
            inner = spelled(node)[1:-1].removeprefix("^")
            new = f"[{inner}]" if node.negated else f"[^{inner}]"
            words = f"{spelled(node)} is meant the other way round: {new}"
            marks = not any(each.isalnum() for each in re.sub(r"\\[nts]", "", inner))
            written = new in classes_written
            # A class of marks that has the quote which the text stands in was to shut that out.
            framing = not node.negated and marks and any(each in inner for each in quotes)
            # [\W\d] takes nearly anything, [^\W\d] the letters: a usual way to ask for them.
            shut = any(isinstance(item, Shorthand) and item.negated for item in node.items) and len(node.items) > 1
            if node.negated or (marks and context.facts.is_repeated(node)):
                likely = 0.8 if written and node.negated else 1.0
            else:
                likely = 0.8 if shut else 0.9 if spelled(node) in (r"[\\]", '["]', "[']") or framing else 1.25
            # A mark after which the text goes on as it is asked for is one that stands there too.
            following = context.case.text[context.at + 1 : context.at + 2]
            if context.found and not context.found.isalnum() and following.isalnum():
                likely += 0.15 * (not node.negated and takes(spelled(node), context.parsed.flags)(following))
            yield context.splice(node.span, new, words, likely + context.near(node) / 4)


def other_case(context: RepairContext) -> Iterator[Proposal]:
    """A range of letters of the other case."""
    for node in context.nodes:
        around = context.facts.parents.get(node)
        if isinstance(around, CharClass) and around.negated:
            continue
        if isinstance(node, Range) and node.first.character.isalpha() and node.first.character.isascii():
            new = spelled(node).swapcase()
            words = f"{spelled(node)} is meant as {new}"
            alone = isinstance(around, CharClass) and len(around.items) == 1 and not context.all_alike
            # Where no text shows the case that is written, there is nothing to keep of it.
            likely = 0.85 if context.all_alike else 0.93 if alone and not context.held else 1.0 if alone else 1.15
            if isinstance(around, CharClass) and sum(spelled(each) == spelled(node) for each in around.items) > 1:
                # Who writes a range twice means both cases.
                likely = 0.55
            likely -= 0.1 * (not alone and not context.held)
            if isinstance(around, CharClass) and spelled(around).replace(spelled(node), new) in context.case.expression:
                # The class is written so elsewhere.
                likely = min(likely, 0.7)
            yield context.splice(node.span, new, words, likely + context.near(node) / 4)


def capitals_first(context: RepairContext) -> Iterator[Proposal]:
    """`[a-z]+` for words that begin with a capital."""
    small = [
        node
        for node in context.nodes
        if isinstance(node, Repeat) and spelled(node.item) == "[a-z]" and node.least <= 1 and node.most is None
    ]
    if not small or not re.search(r"(?<![a-zA-Z])[A-Z][a-z]+", context.case.text):
        return
    for nodes in [[each] for each in small] + ([small] if len(small) > 1 else []):
        words = "a word begins with a capital: [A-Z][a-z]+" + ", each time" * (len(nodes) > 1)
        cost = (0.8 if len(nodes) > 1 else 1.05) + 0.2 * bool(context.held)
        yield context.splice_all([(each.span, "[A-Z][a-z]+") for each in nodes], words, cost)


def hyphen_in_range(context: RepairContext) -> Iterator[Proposal]:
    """A hyphen between two marks that makes a range of them."""
    for node in context.nodes:
        if isinstance(node, Range) and not (node.first.character.isalnum() and node.last.character.isalnum()):
            new = f"{spelled(node.first)}\\-{spelled(node.last)}"
            words = f"{spelled(node)} is a range; the hyphen itself is \\-: {new}"
            yield context.splice(node.span, new, words, 0.8)


def number_in_class(context: RepairContext) -> Iterator[Proposal]:
    """A class that was meant for numbers: `[1-12]` is one digit."""
    changes: list[tuple[Span, str, str]] = []
    for node in context.nodes:
        numbers = numbers_meant(spelled(node)) if isinstance(node, CharClass) and not node.negated else None
        if numbers is None:
            continue
        low, high, new = numbers
        around = context.facts.parents.get(node)
        span = around.span if isinstance(around, Repeat) else node.span
        words = f"{spelled(node)} is one character, not a number from {low} to {high}: "
        changes.append((span, new, padded_between(int(low), int(high), len(high))))
        yield context.splice(node.span, new, words + new, 0.75)
        yield context.splice(span, changes[-1][2], words + changes[-1][2], 0.78)
        if span != node.span:
            # The quantifier was to let in the other digits.
            yield context.splice(span, new, words + new, 0.7)
    if len(changes) > 1:
        words = "a class is one character, not a number, each time: "
        yield context.splice_all([(span, new) for span, new, _ in changes], words + changes[0][1], 0.7)
        yield context.splice_all([(span, padded) for span, _, padded in changes], words + changes[0][2], 0.72)


def name_in_class(context: RepairContext) -> Iterator[Proposal]:
    """A class that was meant for names in their order: `[jun-sep]`."""
    for node in context.nodes:
        names = names_meant(spelled(node)) if isinstance(node, CharClass) else None
        if names is not None:
            around = context.facts.parents.get(node)
            words = f"{spelled(node)} is one character, not a name from {names[0]} to {names[1]}: {names[2]}"
            span = around.span if isinstance(around, Repeat) else node.span
            yield context.splice(span, names[2], words, 0.6)


def half_of_anything(context: RepairContext) -> Iterator[Proposal]:
    """`[\\s]` for `[\\s\\S]`, which takes anything, line feeds too."""
    for node in context.nodes:
        shorthand = node.items[0] if isinstance(node, CharClass) and len(node.items) == 1 else None
        if isinstance(shorthand, Shorthand) and len(shorthand.spelling) == 2 and context.facts.is_repeated(node):
            new = f"[{shorthand.spelling}{shorthand.spelling.swapcase()}]"
            words = f"{spelled(node)} is half of what takes anything: {new}"
            yield context.splice(node.span, new, words, 1.05 + context.near(node) / 4)


_BARE_RANGE = compiled_later(r"[({]?((?:\\?[a-zA-Z0-9]-[a-zA-Z0-9])+)([)}]?)")


def brackets_forgotten(context: RepairContext) -> Iterator[Proposal]:
    """`a-z+`, `(0-9)` and `{A-Z}` written for a class."""
    expression = context.case.expression
    for found in _BARE_RANGE.finditer(expression):
        usual = all(range_ in ("a-z", "A-Z", "0-9", "a-f", "A-F") for range_ in re.findall(".-.", found[1]))
        inside = expression[: found.start()].count("[") > expression[: found.start()].count("]")
        if usual and not inside and found[0] not in context.case.text:
            new = f"[{found[1]}]"
            yield context.splice(found.span(), new, f"{found[0]} is meant as a class: {new}", 0.7)


def quantifier_in_class(context: RepairContext) -> Iterator[Proposal]:
    """`[\\d+]` written for `\\d+`: a quantifier is a character there."""
    for node in context.nodes:
        if not isinstance(node, CharClass) or context.facts.is_repeated(node) or len(node.items) < 2:
            continue
        last = node.items[-1]
        if isinstance(last, Character) and last.spelling in ("+", "*", "?"):
            kept = spelled(node)[:-2]
            alone = len(node.items) == 2 and isinstance(node.items[0], Shorthand) and not node.negated
            new = f"{spelled(node.items[0]) if alone else kept + ']'}{last.spelling}"
            words = f"{last.spelling} is a character in a class, and meant as a quantifier: {new}"
            yield context.splice(node.span, new, words, 0.8)


_PARTING = compiled_later(r"\)?(,|;|\t|\\t|\\\||[|])(?:\((?:\?P<\w+>)?)?")
"""A mark that parts cells, between two pieces of which each may be a group."""

_MEANT = {r"\t": "\t", r"\|": "|"}
"""Marks by how they are spelled, where that is otherwise."""


def cells_opened(context: RepairContext) -> Iterator[Proposal]:
    """Pieces of one class that takes letters, cells with the same mark between them: all that is not the mark."""
    expression = context.case.expression
    repeated = (
        each for each in context.nodes if isinstance(each, Repeat) and isinstance(each.item, CharClass | Shorthand)
    )
    for spelling, nodes in written_alike(repeated):
        between = [_PARTING.fullmatch(expression[one.span[1] : other.span[0]]) for one, other in pairwise(nodes)]
        marks = {_MEANT.get(found[1], found[1]) if found is not None else "" for found in between}
        mark = marks.pop()
        if marks or not mark or not takes(spelled(nodes[0].item), context.parsed.flags - {"verbose"})("a"):
            continue
        new = f"[^{class_spelling(mark)}]"
        words = f"each {spelling} takes all up to {character_words(mark)}: {new}"
        yield context.splice_all([(each.item.span, new) for each in nodes], words, 0.95)


_SHUT_UP = compiled_later(r"\[\^(?:\\)?([\"'`/])\][*+](?=\)*\\?\1)")


def escaped_within(context: RepairContext) -> Iterator[Proposal]:
    """`"[^"]*"` for `"(?:[^"\\\\]|\\\\.)*"`: a quote within has a backslash before it in the text."""
    for found in _SHUT_UP.finditer(context.case.expression):
        if f"\\{found[1]}" in context.case.text:
            new = rf"(?:[^{found[1]}\\]|\\.)" + found[0][-1]
            words = f"{found[1]} within has a backslash before it: {new}"
            yield context.splice(found.span(), new, words, 0.7)


RULES = (
    escaped_within,
    cells_opened,
    digits_anywhere,
    brackets_forgotten,
    quantifier_in_class,
    half_of_anything,
    number_in_class,
    name_in_class,
    inverted,
    other_case,
    capitals_first,
    hyphen_in_range,
    classes,
    classes_elsewhere,
    written_elsewhere,
)
