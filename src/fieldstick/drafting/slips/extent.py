"""A class that takes other characters than the texts have, or another number of them."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from fieldstick.drafting.context import class_spelling, class_with, escaped_text, quantifier, takes
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.slips.numbers import is_digit
from fieldstick.drafting.slips.taking import character_after, mark_before_another
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    Alternation,
    Character,
    CharClass,
    Dot,
    Group,
    Range,
    Repeat,
    Sequence,
    Shorthand,
    spelled,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.drafting.slips.taking import Taken
    from fieldstick.syntax.tree import Node, Span

KINDS: tuple[tuple[str, str], ...] = (
    (r"\d", "digits"),
    ("[a-z]", "small letters"),
    ("[A-Z]", "capitals"),
    ("[A-Za-z]", "letters"),
    (r"\w", "letters, digits and _"),
    (r"\s", "white space"),
)
"""Kinds of characters that what a hole takes is told by, the narrowest first."""


NONE = {"?", "??", "-", "--", "---", "*", "\u2013", "\u2014", "n/a", "N/A", "n.a.", "NA", "na"}
"""What is written where there is nothing to write."""

MOST_COUNTED = 4
"""Characters that are asked for by a count, where counts are written elsewhere."""

MOST_LONGER = 4
"""Characters by which a range is made longer for several that it lacks."""


def other_amount(context: RepairContext, span: Span, node: Node, item: Node, taken: Taken) -> Iterator[Proposal]:
    """More or fewer characters than are asked for, or others."""
    test = takes(spelled(item), context.parsed.flags - {"verbose"})
    put = partial(context.splice, span)
    least, most = (node.least, node.most) if isinstance(node, Repeat) else (1, 1)
    mark = {"greedy": "", "lazy": "?", "possessive": "+"}[node.mode] if isinstance(node, Repeat) else ""
    lengths = [len(each) for each in taken.wanted]
    known = [*lengths, *map(len, taken.held)]
    low, high = min(known), max(known)
    fits_amount = all(least <= each and (most is None or each <= most) for each in lengths)
    lacking = list(dict.fromkeys(each for text in taken.wanted for each in text if not test(each)))
    near = context.near_span(span) / 4
    old = context.case.expression[slice(*span)]
    amounts: list[tuple[int, int | None, float]] = [(least, most, 0.0)]
    if not fits_amount:
        wider = (min(least, low), None if most is None else max(most, high))
        exact = (low, high)
        both = 0.25 if lacking else 0.0
        if isinstance(node, Repeat):
            # Who asks for a count asks for another one, where no text has the first.
            counted = least == most and least not in known
            sure = -0.1 if context.all_alike else 0.03 if counted else 0.25
            amounts = [(*wider, 0.1 + both), (*exact, sure + both)]
            if isinstance(item, Character) and least == most and max(lengths) > least and not item.character.isalnum():
                # Dashes and the like are so many at least.
                amounts.append((least, None, 0.05 + both))
            if most is not None and len(set(lengths)) > 1:
                amounts.append((min(least, low, 1), None, 0.2 + both))
        else:
            # Where there was no quantifier, one that is usual is likelier than a count.
            usual = (min(1, low), None) if high > 1 else (0, 1)
            any_number = 0.07 if isinstance(item, Dot) else 0.3
            counted = "{" in context.case.expression and high <= MOST_COUNTED and low > 0
            counted = counted and not (context.held and is_digit(item, context.parsed.flags))
            beside = context.facts.parents.get(node)
            options = beside.options if isinstance(beside, Alternation) else ()
            counted = counted or any(spelled(each).startswith(spelled(item) + "{") for each in options)
            sure = 0.05 if context.all_alike and low == high else 0.08 if counted else 0.45
            if context.all_alike and 1 < low <= high <= MOST_COUNTED:
                # As many as all of several texts have.
                sure = min(sure, 0.15)
            if low > 2 and not (isinstance(item, Dot) or (isinstance(item, CharClass) and item.negated)):
                # Many of a kind, and as many in each text.
                sure = min(sure, 0.25)
            # A dot for several characters lacks its quantifier.
            often = both - 0.15 * (isinstance(item, Dot) and high > 1)
            amounts = [(*usual, 0.1 + often), (*exact, sure + both), (0, None, any_number + often)]
    if not taken.own and least > 1 and least == most and context.case.reach == "whole":
        optional = f"(?:{old})?"
        yield put(optional, f"{old} need not be there: {optional}", 1.0 + near)
    digits = is_digit(item, context.parsed.flags)
    none, around = {*taken.wanted} <= NONE, context.facts.parents.get(node)
    may_be = any(taken.held) or not context.beside.fitting
    if (digits or none) and all(map(_is_word, taken.wanted)) and may_be and taken.own.strip():
        # Where no other text is known, it may be another piece that is meant.
        likely = (0.95 if context.beside.fitting else 1.15) + near
        others = "|".join(map(escaped_text, dict.fromkeys(taken.wanted)))
        group = context.facts.parents.get(around) if isinstance(around, Sequence) else None
        alone = isinstance(around, Sequence) and all(each is node or _may_lack(each) for each in around.items)
        if isinstance(group, Group) and around is not None and (around.span[0] < span[0] or alone):
            # It stands in the place of a number with its sign, or with what may come after it.
            made = f"{spelled(around)}|{others}"
            words = f"{text_words(taken.own)} may stand in the place of {spelled(around)}: {made}"
            yield context.splice(around.span, made, words, likely - 0.05 * alone)
        made = _options(around, old, others)
        yield put(made, f"{text_words(taken.own)} may stand in the place of {old}: {made}", likely)
    if least == most and {*map(len, taken.held)} == {most} and {*lengths} == {low} and 1 < low < high - 1:
        made = _options(around, spelled(item) + quantifier(low, low), old)
        year = digits and (low, high) == (2, 4)
        words = f"{old} stands where the text has {low}, and others {high}: {made}"
        yield put(made, words, (0.95 if year else 1.15) + near)
    quote = taken.own[:1]
    if quote in ("'", '"') and all(len(each) > 1 and each[0] == each[-1] == quote for each in taken.wanted):
        made = _options(around, f"{quote}[^{quote}]*{quote}", old)
        # What is the like in quotes need not be anything.
        alike = all(least <= len(each) - 2 and all(map(test, each[1:-1])) for each in taken.wanted)
        likely = 0.95 + 0.2 * alike + 0.15 * (alike and not taken.held)
        yield put(made, f"it may stand in quotes, with anything in them: {made}", likely + near)
    if spelled(node) == "[1-9]" and all(map(str.isdecimal, taken.wanted)):
        yield put(r"[1-9]\d*", f"{old} stands where the text has {text_words(taken.own)}: [1-9]\\d*", 0.8 + near)
    yield from _several_of_it(context, span, item, (least, most), taken)
    if not character_after(context, node) and any(map(str.isspace, taken.own)) and not isinstance(item, Dot):
        made = "." + ("*" if least == 0 else "+")
        yield put(
            made,
            f"{old} stands where the text has words, up to its end: {made}",
            # Where others have a number, words say nothing of it.
            1.2 - 0.15 * (len(lacking) > 1) + 0.5 * (digits and bool(taken.held)) + near,
        )
    spellings: list[tuple[str, float, str]] = [(spelled(item), 0.0, "")]
    if lacking:
        spellings = list(_wider(context, node, item, lacking, taken))
    for new, cost, why in spellings:
        for fewest, greatest, more in amounts:
            changed = new + (quantifier(fewest, greatest) + mark if (fewest, greatest) != (1, 1) else "")
            if changed == old or (fewest, greatest) == (0, 0):
                continue
            shown = why or f"{old} stands where the text has {text_words(taken.own)}"
            yield put(changed, f"{shown}: {changed}", 1.0 + cost + more + near)


def _options(around: Node | None, *options: str) -> str:
    """Spell options, in a group where there is none around them."""
    both = "|".join(options)
    return both if isinstance(around, Group) else f"(?:{both})"


def _is_word(text: str) -> bool:
    """Tell whether a text is a word, an abbreviation such as n/a, or a single mark."""
    marks = [each for each in text if not each.isalnum()]
    if len(text) == 1:
        return bool(marks)
    return not any(map(str.isdigit, text)) and len(marks) < 2 and text[:1].isalpha() and " " not in text


def _several_of_it(
    context: RepairContext, span: Span, item: Node, amount: tuple[int, int | None], taken: Taken
) -> Iterator[Proposal]:
    """A word or a number of which the text has several, with a mark between them."""
    if amount[1] is not None or not isinstance(item, Shorthand | CharClass):
        return
    test = takes(spelled(item), context.parsed.flags - {"verbose"})
    lacking = {each for text in taken.wanted for each in text if not test(each)}
    if len(lacking) != 1:
        return
    mark = lacking.pop()
    digits = not test("a")
    inside = all(text[:1] != mark and text[-1:] != mark and 2 * mark not in text for text in taken.wanted)
    if not inside or (mark.isalnum() and not digits):
        return
    one, near = spelled(item) + quantifier(*amount), context.near_span(span) / 4
    # From one number to another: there are two of them.
    once = mark.isalnum() or (digits and mark in "-\u2013:" and all(each.count(mark) == 1 for each in taken.wanted))
    amounts = [("?", 1.05 if mark.isalnum() else 1.12), ("*", 1.25)] if once else [("*", 1.12), ("?", 1.2)]
    for more, cost in amounts:
        made = f"{one}(?:{escaped_text(mark)}{one}){more}"
        words = f"{one} stands several times, with {text_words(mark)} between: {made}"
        yield context.splice(span, made, words, cost + near)


def _may_lack(node: Node) -> bool:
    return isinstance(node, Repeat) and node.least == 0


def _lists_letters(item: Node) -> bool:
    """Tell whether a class has several letters, and no more than those."""
    items = item.items if isinstance(item, CharClass) else ()
    return len(items) > 1 and all(isinstance(each, Character) and each.character.isalpha() for each in items)


def _all_of_kind(character: str) -> str:
    """Return all letters of a case, or all digits, as members of a class; a mark itself."""
    if character.isdecimal():
        return "0-9"
    return "A-Z" if character.isupper() else "a-z" if character.islower() else class_spelling(character)


_FROM_TO = compiled_later(r"\d+-\d+")
_BASE_16 = compiled_later(r"(?:0\(?(?:x|X|\[xX]|\[Xx])|#|\\\\[xuU]|U\\\+)$")
"""What stands before a number of base 16: `0x`, `#`, `\\x`, `U+`."""


def _mark_after(context: RepairContext, item: Node) -> str:
    around = context.facts.parents.get(item)
    mark = character_after(context, around if isinstance(around, Repeat) else item)
    return mark if not mark.isalnum() else ""


def _wider(
    context: RepairContext, node: Node, item: Node, lacking: list[str], taken: Taken
) -> Iterator[tuple[str, float, str]]:
    """Yield classes that take what a class lacks, with what each costs, and why."""
    flags = context.parsed.flags - {"verbose"}
    named = text_words("".join(lacking[:6]))
    why = f"{spelled(item)} lacks {named}"
    used = "".join(taken.every)
    if isinstance(item, CharClass):
        inverted = spelled(item)[1:-1].removeprefix("^")
        inverted = f"[{inverted}]" if item.negated else f"[^{inverted}]"
        if used and all(map(takes(inverted, flags), used)):
            yield inverted, 0.05 if item.negated else 0.15, f"{spelled(item)} is meant the other way round"
    if isinstance(item, CharClass) and item.negated:
        return
    ranges = [each for each in item.items if isinstance(each, Range)] if isinstance(item, CharClass) else []
    if len(ranges) == 1 and len(set(lacking)) > 1 and isinstance(item, CharClass) and len(item.items) == 1:
        low, high = ranges[0].first.character, ranges[0].last.character
        last = max(lacking)
        if high < min(lacking) and ord(last) - ord(high) <= MOST_LONGER and last.isalnum():
            yield f"[{low}-{last}]", 0.0, f"{spelled(item)} ends before {text_words(last)}"
    if isinstance(item, Dot | Character):
        return
    if spelled(item) == r"\S" and all(map(str.isspace, lacking)) and "\n" not in lacking:
        yield ".", 0.1, why
    if isinstance(item, Shorthand) and item.negated:
        if spelled(item) == r"\D" and used and all(map(takes(r"\w", flags), used)):
            yield r"\w", 0.15, why
        return
    inner = spelled(item)[1:-1] if isinstance(item, CharClass) else spelled(item)
    # Pieces are parted by blanks more often than one of them holds a blank.
    single = not isinstance(context.facts.parents.get(item), Repeat) or inner in (r"\d", "0-9")
    blank = single and any(each.isspace() for each in lacking)
    # A letter at one end of a number stands outside of it rather.
    ends = all(each.strip("".join(lacking)) in (each[1:], each[:-1]) for each in taken.wanted)
    # Blanks at an end alone part it from what is beside.
    parted = not "".join(lacking).strip() and not any(set(lacking) & set(each.strip()) for each in taken.wanted)
    beside = 0.3 if ends and inner in (r"\d", "0-9") and all(map(str.isalpha, lacking)) else 0.0
    if len(lacking) <= 3:
        added = "".join(class_spelling(each) for each in sorted(lacking, key=lambda each: each == "-"))
        edge = beside + 0.25 * ((ends or parted) and not any(map(str.isalnum, lacking)))
        alnum = any(each.isalnum() for each in lacking)
        listed = len(set(lacking)) > 1 and _lists_letters(item)
        # A letter says of its kind what it says of itself.
        edge += 0.3 * (inner in (r"\d", "0-9") and (alnum or ":" in lacking) and bool(context.held))
        # Letters behind a mark are rather a piece of their own, behind the number.
        edge += 0.15 * (inner in (r"\d", "0-9") and alnum and not all(map(str.isalnum, lacking)))
        # A mark that stands last is rather one that may follow.
        at_end = all(each.rstrip("".join(lacking)) == each[:-1] for each in taken.wanted) and not alnum
        at_end = at_end and not any(mark in each[:-1] for each in taken.wanted for mark in lacking)
        edge += 0.25 * (at_end and not character_after(context, node) and bool(context.held))
        # What parts it from another that is like it is none of it, rather.
        edge += 0.2 * (not alnum and set(lacking) == {mark_before_another(context, node)} and bool(context.held))
        # Two numbers with a dash between are from one to another.
        edge += 0.1 * (inner in (r"\d", "0-9") and set(lacking) == {"-"} and all(map(_FROM_TO.fullmatch, taken.wanted)))
        # Words with a comma and a blank between are a list of them.
        edge += 0.2 * (set(lacking) == {",", " "} and all(", " in each for each in taken.wanted))
        cost = 0.05 * len(lacking) + 0.25 * (alnum and not listed) + 0.4 * blank + edge
        if ranges and alnum and not listed:
            # One letter beside all of a case says that it may be any.
            every = dict.fromkeys(
                map(_all_of_kind, sorted(lacking, key=lambda each: (not each.isalnum(), each == "-")))
            )
            yield class_with(inner, "".join(every)), cost - 0.05, why
        yield class_with(inner, added), cost, why
    following = _mark_after(context, item)
    enclosed = following in ("'", '"', "`", ")", "]", "}", ">") and not any(map(str.isalnum, lacking))
    if (len(lacking) > 1 or enclosed) and following and not any(following in each for each in taken.every):
        shut = class_spelling(following)
        # Several marks in quotes: whatever may stand there.
        prose = enclosed and len(lacking) > 1
        why_shut = f"{spelled(item)} lacks {named}, and {text_words(following)} ends it"
        yield r"\S" if shut == " " else f"[^{shut}]", 0.05 if prose else 0.2, why_shut
    if inner in (r"\d", "0-9") and all(each in "abcdefABCDEF" for each in lacking):
        letters = "".join(
            kind for kind, test in (("A-F", str.isupper), ("a-f", str.islower)) if any(map(test, lacking))
        )
        # After 0x it is a number of base 16.
        written = _BASE_16.search(context.case.expression[: item.span[0]]) is not None
        few = len(set(lacking)) < 2 < len(used) and not written
        if written:
            yield "[0-9a-fA-F]", -0.1, why
        yield f"[0-9{letters}]", (0.0 if written else 0.1) + (0.4 if few and len(lacking) < 2 else 0.25 * few), why
    for spelling, _ in KINDS:
        if all(map(takes(spelling, flags), lacking)):
            bare = spelling.strip("[]")
            yield class_with(inner, bare), 0.15 + 0.4 * blank + beside, why
            if inner in (r"\d", "0-9") and bare != r"\w":
                yield r"\w", (0.2 if context.held else 0.25) + 0.4 * blank + beside, why
            break
    for spelling, _ in KINDS:
        if used and all(map(takes(spelling, flags), used)):
            yield spelling, 0.3 if context.all_alike else 0.5, f"{spelled(item)} is meant as {spelling}"
            break
