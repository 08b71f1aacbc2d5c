"""Characters that the expression has no place for, or has others for."""

from __future__ import annotations

import re
import unicodedata
from difflib import get_close_matches
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, class_spelling, escaped
from fieldstick.drafting.phrases import character_words, text_words
from fieldstick.drafting.slips.texts import ascii_double, look_alike
from fieldstick.engines.probing import character_test
from fieldstick.syntax.tree import Anchor, Character, Repeat, Sequence, Shorthand, literal_of, spelled, without_asides

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import RepairContext


def missing_character(context: RepairContext) -> Iterator[Proposal]:
    """A character of the text that the expression has no place for."""
    if not context.found:
        return
    found = context.found
    spelling = escaped(found)
    places = {span[0] for span in context.spots} | {span[1] for span in context.spots if span[1] > span[0]}
    places |= {len(context.case.expression)} if context.trace.wanted and _asks_for_end(context) else set()
    run = _run_of(found, context.case.text, context.at)
    digit = 0.3 * found.isdigit()
    for place in sorted(places):
        name = character_words(found)
        yield context.splice((place, place), f"{spelling}?", f"there is {name} in the text: {spelling}?", 1.4 + digit)
        # What all have, and none lacks that fits, is not optional.
        alone = not context.beside.fitting
        sure = 1.5 if context.held or (alone and found.isalnum()) else 1.3
        yield context.splice((place, place), spelling, f"there is {name} in the text: {spelling}", sure + digit)
        if found.isspace():
            edge = context.at == 0 or not context.case.text[context.at :].strip()
            likely = 1.27 if edge and context.held else 1.45
            yield context.splice((place, place), "\\s*", "there may be white space: \\s*", likely)
        for shorthand in ("\\d", "\\w"):
            if character_test(shorthand, frozenset())(found) and len(run) >= 1:
                yield context.splice(
                    (place, place), f"{shorthand}*", f"there is {text_words(run)} in the text: {shorthand}*", 1.6
                )


def _run_of(found: str, text: str, at: int) -> str:
    end = at + 1
    while end < len(text) and text[end].isalpha() == found.isalpha() and text[end].isdigit() == found.isdigit():
        end += 1
    return text[at:end]


def _asks_for_end(context: RepairContext) -> bool:
    return any(isinstance(wanted.node, Anchor) for wanted in context.trace.wanted)


def other_character(context: RepairContext) -> Iterator[Proposal]:
    """A literal character where the text has another."""
    if not context.found:
        return
    repeated = {node.item.span for node in context.nodes if isinstance(node, Repeat)}
    for node in context.nodes:
        if isinstance(node, Character) and not context.facts.is_in_class(node) and context.near(node) == 0.0:
            one, other = sorted((node.character, context.found), key=lambda each: each == "-")
            both = f"[{class_spelling(one)}{class_spelling(other)}]"
            words = f"{character_words(context.found)} stands in the place of {character_words(node.character)}"
            # Between brackets a blank says that there is nothing.
            between = context.case.text[context.at - 1 : context.at] + context.case.text[context.at + 1 :][:1]
            part = one.isspace() != other.isspace() and between not in ("[]", "()", "{}", "<>")
            unlikely = 0.3 * (node.span in repeated) + 0.3 * part
            # Where no other text is known, nothing says that it may be the one that is written.
            marks = not (one + other).isalnum() and {one, other} != {".", ","} and not look_alike(one, other)
            alone = 0.15 * (marks and not context.beside.fitting)
            yield context.splice(node.span, both, f"{words}: {both}", 1.3 + unlikely + alone)
            typed = (
                context.found.isascii() and not node.character.isascii() and look_alike(node.character, context.found)
            )
            cost = 0.9 if typed else 1.38 if alone and not part else 1.45
            yield context.splice(node.span, escaped(context.found), f"{words}: {escaped(context.found)}", cost)


def misspelled(context: RepairContext) -> Iterator[Proposal]:
    """A word that the text has in another case, or spelled a little otherwise."""
    text = context.case.text
    for span, word in context.words():
        near = context.near_span(span) / 4
        if context.all_alike:
            led = [re.search(rf"\b(\w+){re.escape(word)}", each) for each in (text, *context.missed)]
            heads = {found[1] for found in led if found is not None} if all(led) else set()
            if len(heads) == 1:
                longer = heads.pop() + word
                yield context.splice(span, longer, f"{word} is spelled {longer} in the texts", 0.9 + near)
        others = [found[0] for found in re.finditer(re.escape(word), context.around, re.IGNORECASE) if found[0] != word]
        for other in dict.fromkeys(others):
            changed = sum(one != two for one, two in zip(word, other, strict=False))
            cost = (0.8 if context.all_alike else 0.85) if changed == 1 else 0.95
            # One of several options is written as the others are.
            cost += 0.2 * (span in context.options)
            yield context.splice(span, other, f"{word} is spelled {other} in the text", cost + near)
        if len(word) > 2 and word not in text:
            parts = list(dict.fromkeys(re.findall(r"\w+", context.around)))
            begun = [each for each in _beginnings(word, parts) if is_one_slip(word, each)] if len(word) > 3 else []
            for other in begun:
                yield context.splice(span, other, f"{word} is spelled {other} in the text", 0.93 + near)
            for other in get_close_matches(word, parts, 2, 0.7):
                if other != word:
                    likely = 0.95 + 0.2 * any(other.startswith(each) for each in begun)
                    # One of several options that differs by more than a slip of the hand is rather a further one.
                    likely += 0.15 * bool(span in context.options and context.held and not is_one_slip(word, other))
                    yield context.splice(span, other, f"{word} is spelled {other} in the text", likely + near)


def _beginnings(word: str, parts: list[str]) -> list[str]:
    """Return what longer words begin with, as long as a word, a letter less, or one more."""
    lengths = range(len(word) - 1, len(word) + 2)
    return list(dict.fromkeys(part[:length] for part in parts for length in lengths if len(part) > length))


def is_one_slip(one: str, other: str) -> bool:
    """Tell whether a letter was left out, put in, or exchanged with the next one."""
    if len(one) == len(other):
        unlike = [at for at, (left, right) in enumerate(zip(one, other, strict=True)) if left != right]
        first = unlike[0] if len(unlike) == 2 else len(one)
        return unlike[1:] == [first + 1] and one[first : first + 2] == other[first : first + 2][::-1]
    short, long = sorted((one, other), key=len)
    return any(long[:at] + long[at + 1 :] == short for at in range(len(long)))


def other_case(context: RepairContext) -> Iterator[Proposal]:
    """A letter by itself that the text has in the other case alone."""
    text = context.case.text
    for node in context.nodes:
        if isinstance(node, Character) and node.character.isalpha() and not context.facts.is_in_class(node):
            other = node.character.swapcase()
            if len(other) == 1 and other in text and node.character not in text:
                words = f"{character_words(node.character)} is spelled {other} in the text"
                yield context.splice(node.span, other, words, 0.95 + context.near(node) / 4)


def other_form(context: RepairContext) -> Iterator[Proposal]:
    """Letters and their accents as one character or as two (Unicode Standard Annex 15)."""
    for form, what, cost in (("NFC", "one character", 0.6), ("NFD", "two characters", 1.0)):
        changed = unicodedata.normalize(form, context.case.expression)  # type: ignore[arg-type]
        words = f"write letters and their accents as {what} ({form}) in the expression"
        yield Proposal(replace(context.case, expression=changed), words, cost)


_PRINTED = {
    "\u2212": "-",
    "\u2018": "'",
    "\u2019": "'",
    "\u201c": '"',
    "\u201d": '"',
    "\u2044": "/",
    "\u2215": "/",
    "\u2236": ":",
}
"""Marks of printed text that look like one of ASCII."""


def looks_alike(context: RepairContext) -> Iterator[Proposal]:
    """Characters beyond ASCII that are easily taken for one of ASCII, which the text has."""
    odd = [
        (node, ascii_double(node.character) or _PRINTED.get(node.character, ""))
        for node in context.nodes
        if isinstance(node, Character) and not node.character.isascii()
    ]
    expression = context.case.expression
    for node, double in reversed([(node, double) for node, double in odd if double and double in context.case.text]):
        words = f"{character_words(node.character)} only looks like {character_words(double)}"
        yield context.splice(node.span, escaped(double), words, 0.75)
        expression = expression[: node.span[0]] + escaped(double) + expression[node.span[1] :]
    if expression != context.case.expression:
        words = "characters beyond ASCII only look like those of the text"
        yield Proposal(replace(context.case, expression=expression), words, 0.8)


def written_so(context: RepairContext) -> bool:
    """Tell whether the writer asks for white space by its shorthand elsewhere."""
    return any(isinstance(each, Shorthand) and each.spelling == r"\s" for each in context.nodes)


NO_AMOUNT = 0.25
"""What it counts that white space is asked for by its shorthand, which most often has an amount."""


def blanks_vary(context: RepairContext) -> Iterator[Proposal]:
    """A blank where the text has more of them, or other white space, or none; all of them at once too."""
    blanks = [
        node
        for node in context.nodes
        if isinstance(node, Character | Shorthand)
        and node.spelling in (" ", "\\ ", "\\s", "\\t")
        and not context.facts.is_in_class(node)
    ]
    so = 0.1 * written_so(context)
    others = {spelled(each) for each in context.nodes if isinstance(each, Repeat)}
    for node in blanks:
        near = context.near(node) / 2
        amounts = [(" +", 1.0 + so), (r"\s+", 1.02), (" ?", 1.15 + so), (r"\s*", 1.2), (r"\s?", 1.25)]
        one_for_another = context.found.isspace() and node.spelling != context.found
        if one_for_another and not context.case.text[context.at + 1 : context.at + 2].isspace():
            amounts.append((r"\s", 1.06))
            if not context.held:
                own = escaped(context.found)
                words = f"{character_words(context.found)} stands there in the text: {own}"
                yield context.splice(node.span, own, words, 1.0 + near)
        if not context.held:
            # Where one text alone is known, there is none; of two in a row one was a slip of the hand.
            following = context.after.get(node)
            twice = following is not None and spelled(following) == node.spelling and "  " not in context.case.text
            words = "there is no white space in the text"
            yield context.splice(node.span, "", words, (0.9 if twice else 1.17) + near)
        for new, cost in amounts:
            cost -= 0.28 * (new in others) + NO_AMOUNT * (new == r"\s+" and node.spelling == r"\s")
            if not context.facts.is_repeated(node):
                yield context.splice(node.span, new, f"white space varies there: {new}", cost + near)
    runs = re.findall(r"\s+", context.case.text)
    wider = [node for node, run in zip(blanks, runs, strict=False) if run != " "]
    if 1 < len(wider) < len(blanks) == len(runs):
        for new, cost in ((" +", 1.09 + so), (r"\s+", 1.11)):
            places = [(each.span, new) for each in wider]
            yield context.splice_all(places, f"white space varies in {len(wider)} places: {new}", cost)
    if len(blanks) > 1:
        bare = NO_AMOUNT * all(each.spelling == r"\s" for each in blanks)
        for new, cost in ((" +", 1.12 + so), (r"\s+", 1.14 - bare), (r"\s*", 1.3)):
            yield context.splice_all(
                [(each.span, new) for each in blanks], f"white space varies: {new} for each blank", cost
            )


def line_ends(context: RepairContext) -> Iterator[Proposal]:
    """Lines that end with a carriage return and a line feed, where the expression has line feeds alone."""
    if "\r\n" not in context.case.text or "\\r" in context.case.expression:
        return
    feeds = [each for each in context.nodes if isinstance(each, Character) and each.spelling == "\\n"]
    alone = [(each.span, r"\r?\n") for each in feeds if not context.facts.is_in_class(each)]
    shut = [(each.span, r"\r\n") for each in feeds if context.facts.is_in_class(each)]
    if alone:
        words = r"lines end with a carriage return and a line feed: \r?\n"
        yield context.splice_all([*alone, *shut], words, 0.85)
        yield context.splice_all(alone, words, 0.9)
    text = context.case.text.replace("\r\n", "\n")
    yield Proposal(replace(context.case, text=text), "write each line end of the text as a line feed alone", 1.1)


def blanks_at_edges(context: RepairContext) -> Iterator[Proposal]:
    """Blanks around a word that is looked for anywhere, which may stand at an edge of the text, or beside a mark."""
    tree = context.parsed.tree
    items = without_asides(tree.items) if isinstance(tree, Sequence) and context.case.reach == "anywhere" else ()
    edges = [each for each in (*items[:1], *items[-1:]) if literal_of(each) == " "]
    if edges and len(items) > len(edges):
        words = r"a word begins or ends there, without a blank beside it: \b"
        yield context.splice_all([(each.span, r"\b") for each in edges], words, 0.9)


RULES = (
    line_ends,
    blanks_at_edges,
    blanks_vary,
    looks_alike,
    other_form,
    other_case,
    misspelled,
    missing_character,
    other_character,
)
