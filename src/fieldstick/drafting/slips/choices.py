"""Options that reach further than was meant, and words spelled in a class."""

from __future__ import annotations

import re
from itertools import groupby, pairwise
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    Alternation,
    Character,
    CharClass,
    Group,
    Node,
    Repeat,
    Sequence,
    literal_of,
    spelled,
    without_asides,
)

MOST_BRACKETED = 8
"""Places on each side of a bar at which options are tried to begin or end."""

MOST_LETTERS = 8
"""Characters of an option up to which it is cut between letters too."""

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext


def alternation(context: RepairContext) -> Iterator[Proposal]:
    """Options that reach further than was meant, and words spelled in a class."""
    for node in context.nodes:
        if isinstance(node, Alternation):
            yield from narrower_options(context, node)
        elif isinstance(node, CharClass) and not node.negated:
            inner = spelled(node)[1:-1]
            near = context.near(node) / 2
            if "|" in inner.strip("|"):
                # A dot means itself in a class, and was meant so.
                for options, cost in ((re.sub(r"(?<!\\)\.", r"\\.", inner), 0.6), (inner, 0.62)):
                    words = f"{spelled(node)} is meant as alternatives: (?:{options})"
                    yield context.splice(node.span, f"(?:{options})", words, cost + near)
            elif re.fullmatch(r"(?:\(\w+\))+", inner):
                options = "|".join(re.findall(r"\w+", inner))
                words = f"{spelled(node)} is meant as alternatives: (?:{options})"
                yield context.splice(node.span, f"(?:{options})", words, 0.6 + near)
            elif inner.isalpha() and len(inner) > 2:
                likely = 0.7 if inner in context.case.text else 1.2
                yield context.splice(node.span, inner, f"{spelled(node)} is meant as the word {inner}", likely + near)
            elif len(inner) > 1 and inner in context.case.text and re.fullmatch(r"[\w.]*[a-zA-Z]", inner):
                word = inner.replace(".", "\\.")
                yield context.splice(node.span, word, f"{spelled(node)} is meant as it is spelled: {word}", 0.85 + near)


def options_in_case(context: RepairContext) -> Iterator[Proposal]:
    """Words that are options, of which the text has one in another case: all of them are meant in that."""
    for node in context.nodes:
        options = [literal_of(each) or "" for each in node.options] if isinstance(node, Alternation) else []
        if not options or not all(map(str.isalpha, options)):
            continue
        for recased in (str.upper, str.lower, str.capitalize):
            changed = [recased(each) for each in options]
            there = any(one != two and two in context.around for one, two in zip(options, changed, strict=True))
            if there and not any(each in context.around for each in options):
                new = "|".join(changed)
                words = f"the options are written so: {new}"
                yield context.splice(node.span, new, words, 0.95 + context.near(node) / 4)


def escaped_character(context: RepairContext) -> Iterator[Proposal]:
    """`\\\\[0-7]{3}|[^\\\\]` without `\\\\.`: an option for any character behind a backslash."""
    if re.search(r"\\.", context.case.text) is None:
        return
    for node in context.nodes:
        spellings = [spelled(each) for each in node.options] if isinstance(node, Alternation) else []
        if any(each.startswith(r"\\") for each in spellings) and r"\\." not in spellings:
            new = r"|\\."
            words = f"what stands behind a backslash may be anything: {new}"
            yield context.splice((node.span[1], node.span[1]), new, words, 0.95 + context.near(node) / 4)


def one_of_optional(context: RepairContext) -> Iterator[Proposal]:
    """`(probe)?(gate)?` for `(?:(probe)|(gate))`: each may be lacking, and so may all."""
    for node in context.nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for is_one, run in groupby(items, key=_is_optional_group):
            several = [each for each in run if isinstance(each, Repeat)] if is_one else []
            if len(several) > 1:
                new = f"(?:{'|'.join(spelled(each.item) for each in several)})"
                words = f"one of them is there: {new}"
                yield context.splice((several[0].span[0], several[-1].span[1]), new, words, 0.95)


def _is_optional_group(node: Node) -> bool:
    return isinstance(node, Repeat) and (node.least, node.most) == (0, 1) and isinstance(node.item, Group)


def narrower_options(context: RepairContext, node: Alternation, *, within_words: bool = True) -> Iterator[Proposal]:
    """Options that should end, or begin, nearer to the bar: each way of bracketing what stands beside it."""
    # Who puts options into a group means them to end there: it is rather something else that lets a text in.
    grouped = 0.12 * (isinstance(context.facts.parents.get(node), Group) and context.trace.spans is not None)
    for each in _bracketed(context, node, node.options[0], node.options[-1], within_words=within_words):
        yield replace(each, cost=each.cost + grouped)
    if 2 < len(node.options) <= MOST_BRACKETED:
        for first, last in pairwise(node.options):
            for each in _bracketed(context, node, first, last, within_words=within_words):
                yield replace(each, cost=each.cost + 0.25)


def _bracketed(
    context: RepairContext, node: Alternation, first: Node, last: Node, *, within_words: bool
) -> Iterator[Proposal]:
    """Options from one to another, each way that they may be bracketed."""
    expression = context.case.expression
    whole = (first.span[0], last.span[1])
    starts, ends = ([each for each in _pieces(option) if within_words or not each[2]] for option in (first, last))
    tail = without_asides(last.items) if isinstance(last, Sequence) else (last,)
    repeated = {(*each.span, False): each.quantifier for each in tail if isinstance(each, Repeat)}
    for left in starts[-MOST_BRACKETED:] if len(starts) > MOST_BRACKETED else starts:
        for right in ends[:MOST_BRACKETED][::-1]:
            span = (left[0], right[1])
            whole_of_it = span == node.span == (0, len(expression))
            if whole_of_it and right not in repeated:
                continue
            piece = expression[slice(*span)]
            anchored = expression[left[0] - 1 : left[0]] == "^" and expression[right[1] : right[1] + 1] == "$"
            both = left != starts[0] and right != ends[-1] and not anchored
            # Words and nothing else are options of their own, however much is beside them.
            bare_words = both and _BARE_WORDS.fullmatch(piece) is not None
            cost = 0.8 if bare_words else 0.8 + 0.2 * both + 0.005 * (span[0] - whole[0] + whole[1] - span[1])
            cost += 0.15 * (left[2] + right[2])
            # Of many options, unless they are words, it is rarely all but a piece of the first or the last.
            every = (first, last) == (node.options[0], node.options[-1]) and len(node.options) > 2 and not whole_of_it
            cost += 0.15 * (every and span != node.span and _WORDS.fullmatch(piece) is None)
            # A blank parts the options from what is beside them; an anchor holds for all of them.
            cost += 0.1 * (piece[:1] == " " or piece[-1:] == " ") + 0.25 * (
                re.match(r"\^[^|]|.*[^|]\$$", piece) is not None
            )
            # What encloses the options on both sides is none of theirs.
            framed = _framed(expression[: span[0]], expression[span[1] :])
            cost -= 0.1 * framed + 0.2 * (both and framed > 0) + 0.15 * whole_of_it
            if not whole_of_it:
                words = f"the options are meant to be {piece} alone: (?:{piece})"
                yield context.splice(span, f"(?:{piece})", words, cost)
            # What is anchored is there once.
            if right in repeated and not _ANCHORED.search(piece):
                for mark in {repeated[right], repeated[right][-1]} - {"}"}:
                    # Of two quantifiers the second was meant for more than the first.
                    bare = piece[: -len(mark)]
                    words = f"{mark} is meant for the options {bare}: (?:{bare}){mark}"
                    yield context.splice(span, f"(?:{bare}){mark}", words, cost)


_ANCHORED = compiled_later(r"(?:^|\|)\^|(?<!\\)\$(?:\||$)")
_BARE_WORDS = compiled_later(r"[a-z]+(?:\|[a-z]+)+|[A-Z]+(?:\|[A-Z]+)+|[A-Z][a-z]+(?:\|[A-Z][a-z]+)+")
_WORDS = compiled_later(r"\^?[\w :?]+(?:\|[\w :?]+)+\$?")


def _framed(before: str, after: str) -> int:
    """Return how many characters right before and after the options are the same, three at the most."""
    return max((count for count in (1, 2, 3) if before[-count:] == after[:count] and len(before) >= count), default=0)


def _pieces(option: Node) -> list[tuple[int, int, bool]]:
    """Return where an option may be cut: its items, words and runs of digits whole; and its letters, told as such."""
    items = without_asides(option.items) if isinstance(option, Sequence) else (option,)
    found: list[tuple[int, int, bool]] = []
    for is_word, run in groupby(items, key=lambda each: isinstance(each, Character) and each.character.isalnum()):
        several = list(run)
        if not is_word:
            found += [(*each.span, False) for each in several]
            continue
        found.append((several[0].span[0], several[-1].span[1], False))
    letters = [(*each.span, True) for each in items if isinstance(each, Character) and each.character.isalnum()]
    return sorted(
        {*found, *(each for each in letters if len(items) <= MOST_LETTERS and (*each[:2], False) not in found)}
    )


_DIVIDED = compiled_later(r" *(?:\|\|+|[/,;]|\bor\b) *")


def divided(context: RepairContext) -> Iterator[Proposal]:
    """Options divided by another mark than the bar, by two of them, or with blanks around them."""
    expression = context.case.expression
    parts = re.split(r" +(?:or|OR) +", expression)
    if len(parts) > 1 and all(re.fullmatch(r"[\w-]+", each) for each in parts):
        new = "|".join(parts)
        yield context.splice((0, len(expression)), new, f"options are parted by a bar: {new}", 0.75)
    for node in context.nodes:
        if isinstance(node, Alternation):
            options = [spelled(each).strip(" ") for each in node.options]
            if any(not each for each in options[1:-1]) or options != [spelled(each) for each in node.options]:
                kept = [each for at, each in enumerate(options) if each or at in (0, len(options) - 1)]
                new = "|".join(kept)
                yield context.splice(node.span, new, f"options are parted by one bar alone: {new}", 0.75)
        elif isinstance(node, Group | CharClass):
            inner = spelled(node.body) if isinstance(node, Group) else spelled(node)[1:-1]
            parts = _DIVIDED.split(inner)
            words = len(parts) > 1 and all(re.fullmatch(r"[\w .-]+", each) for each in parts)
            if words and (isinstance(node, Group) or all(len(each) > 1 for each in parts)):
                new = "|".join(parts)
                span = node.body.span if isinstance(node, Group) else node.span
                made = new if isinstance(node, Group) else f"(?:{new})"
                yield context.splice(span, made, f"options are parted by a bar: {made}", 0.75)


def blank_with_option(context: RepairContext) -> Iterator[Proposal]:
    """A blank that comes and goes with the options before it: `(north|) gate` for `(north |)gate`."""
    for one, other in context.pairs():
        blank = isinstance(other, Character) and other.character == " "
        item = one.item if isinstance(one, Repeat) and (one.least, one.most) == (0, 1) else None
        if blank and isinstance(item, Group) and item.kind in ("plain", "capture"):
            inner = spelled(item.body)
            inner = f"(?:{inner})" if isinstance(item.body, Alternation) else inner
            made = f"{context.case.expression[one.span[0] : item.body.span[0]]}{inner} )?"
            words = f"the blank comes and goes with what stands before it: {made}"
            yield context.splice((one.span[0], other.span[1]), made, words, 0.9)
        body = one.body if isinstance(one, Group) and one.kind in ("plain", "capture") else None
        options = [spelled(each) for each in body.options] if isinstance(body, Alternation) else []
        if body is None or "" not in options or len(options) < 2:
            continue
        new = "|".join(each and each + " " for each in options)
        end = other.span[1] if blank else one.span[1]
        made = context.case.expression[one.span[0] : body.span[0]] + new + ")"
        words = f"the blank comes and goes with what stands before it: {made}"
        yield context.splice((one.span[0], end), made, words, 0.9)


def letters_combined(context: RepairContext) -> Iterator[Proposal]:
    """`N|E|S|W` for `[NESW]{1,2}`: options of one character each, of which the text has several in a row."""
    for node in context.nodes:
        options = node.options if isinstance(node, Alternation) else ()
        single = [each.spelling for each in options if isinstance(each, Character)]
        marks = "".join(dict.fromkeys(single))
        if len(marks) < 3 or len(single) < len(options) or not marks.isalnum():
            continue
        longest = max(map(len, re.findall(f"[{marks}]+", context.case.text)), default=0)
        for amount, cost in ((f"{{1,{longest}}}", 0.95), ("+", 1.3)) if longest > 1 else ():
            new = f"[{marks}]{amount}"
            words = f"several of {spelled(node)} stand in a row: {new}"
            yield context.splice(node.span, new, words, cost + context.near(node) / 2)


_WORD = compiled_later(r"[^\W\d_]{3,}")


def with_endings(context: RepairContext) -> Iterator[Proposal]:
    """`voles|shrews` for `voles?|shrews?`: words of which the text has one without its ending; all of one ending."""
    for node in context.nodes:
        options = [spelled(each) for each in node.options] if isinstance(node, Alternation) else []
        if not options or not all(map(_WORD.fullmatch, options)):
            continue
        for found in _WORD.finditer(context.case.text, *context.seen):
            endings = (each.removeprefix(found[0]) for each in options if each.startswith(found[0]))
            ending = next((each for each in endings if each in ENDINGS), None)
            if ending is None or found[0] in options:
                continue
            may_lack = f"{ending}?" if len(ending) == 1 else f"(?:{ending})?"
            alike = [each for each in options if each.endswith(ending)]
            for changed, cost in ((alike, 0.95), ([found[0] + ending], 1.0)):
                kept = (f"{each.removesuffix(ending)}{may_lack}" if each in changed else each for each in options)
                new = "|".join(kept)
                words = f"{ending} may be lacking at the end: {new}"
                yield context.splice(node.span, new, words, cost + context.near(node) / 4)


ENDINGS = ("s", "es", "ed", "ing", "n", "e")
"""What words come with and without."""

RULES = (with_endings, letters_combined, alternation, options_in_case, escaped_character, divided, blank_with_option)
