"""Small changes to a text that might make it fit."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.analysis.examples import sample_character
from fieldstick.drafting.context import Proposal
from fieldstick.drafting.phrases import character_words, phrase, text_words
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import SINGLE, Character, literal_of, once

SHORTEST, LONGEST = 4, 40
"""Letters of a word from which on, and up to which, one is told that is misspelled."""

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import RepairContext


CUT = 0.3
"""What several words cost more that begin or end within a word of the text."""


def cuts_decimals(text: str, own: str) -> bool:
    """Tell whether part of a text ends at the mark of decimals, with these behind it."""
    return re.search(r"\d[.,]\Z", own) is not None and text.partition(own)[2][:1].isdigit()


def cuts_run(text: str, piece: str) -> bool:
    """Tell whether a piece of a text begins, or ends, within a word or a number of it."""
    at = text.find(piece)
    edges = (text[:at][-1:] + piece[:1], piece[-1:] + text[at + len(piece) :][:1])
    return at >= 0 and any(len(each) == 2 and (each.isalpha() or each.isdigit()) for each in edges)


def cuts_word(text: str, several: str) -> bool:
    """Tell whether several words begin, or end, within a word of a text."""
    at = text.find(several)
    edges = (text[:at][-1:] + several[:1], several[-1:] + text[at + len(several) :][:1])
    return " " in several.strip() and at >= 0 and any(len(each) == 2 and each.isalpha() for each in edges)


def text_case(context: RepairContext) -> Iterator[Proposal]:
    text = context.case.text
    for words, changed in (("capitals", text.upper()), ("small letters", text.lower())):
        yield Proposal(replace(context.case, text=changed), f"write the text in {words}", 1.6)
    if context.found and context.found.swapcase() != context.found and len(context.found.swapcase()) == 1:
        other = context.found.swapcase()
        yield context.retext(context.at, context.at + 1, other, f"write {character_words(other)} in the text", 1.75)


def text_edges(context: RepairContext) -> Iterator[Proposal]:
    text = context.case.text
    for stripped, where in ((text.rstrip(), "end"), (text.lstrip(), "start"), (text.strip(), "start and end")):
        if stripped != text:
            words = f"leave out the white space at the {where} of the text"
            # A line's end is no part of it.
            ended = where == "end" and {*text[len(stripped) :]} <= {"\r", "\n"}
            # Who asks for the beginning of a line has lines that are indented.
            likely = 0.75 if ended else 1.15 if where == "start and end" else 1.1
            likely += 0.2 * (where == "start" and "^" in context.case.expression)
            yield Proposal(replace(context.case, text=stripped), words, likely)
    if text[-1:] in tuple(",;.") and context.held:
        words = f"leave out {character_words(text[-1])} at the end of the text"
        yield Proposal(replace(context.case, text=text[:-1]), words, 1.1 if _is_odd_one_out(context) else 1.2)


def _is_odd_one_out(context: RepairContext) -> bool:
    """Tell whether several other texts fit as they should, and this one alone does not."""
    return len(context.held) > 1 and not context.missed


def text_unseen(context: RepairContext) -> Iterator[Proposal]:
    """Characters that are not seen: byte order marks, zero-width ones."""
    text = context.case.text
    unseen = [each for each in context.characters if unicodedata.category(each) == "Cf"]
    if unseen:
        seen = text.translate(dict.fromkeys(map(ord, unseen)))
        yield Proposal(replace(context.case, text=seen), "leave out the characters of the text that are not seen", 0.75)


_LETTERS = compiled_later(r"[^\W\d_]+")


def text_misspelled(context: RepairContext) -> Iterator[Proposal]:
    """A word that the expression spells out, with a letter too few, too many, or two exchanged in the text."""
    text = context.case.text
    there = [found for found in _LETTERS.finditer(text, *context.seen) if len(found[0]) > SHORTEST - 2]
    for _, word in context.words():
        if not SHORTEST <= len(word) <= LONGEST or word in text:
            continue
        near = _misspelled(word)
        for found in there:
            if found[0] in near or _is_slip_of_hand(found[0], word):
                words = f"write {word} in the place of {found[0]} in the text"
                known = _is_odd_one_out(context) and all(word in each for each in context.held)
                # Another letter makes another word more readily than one too few.
                likely = (0.8 if known else 1.3) + 0.2 * (found[0] not in near)
                yield context.retext(*found.span(), word, words, likely)


def _is_slip_of_hand(one: str, other: str) -> bool:
    """Tell whether two words of some length differ in one letter."""
    return len(one) == len(other) >= SHORTEST and sum(map(str.__ne__, one, other)) == 1


def _misspelled(word: str) -> set[str]:
    """Return a word with a letter left out or doubled, and with two neighbours exchanged."""
    places = range(len(word))
    found = {word[:at] + word[at + 1 :] for at in places} | {word[:at] + word[at] + word[at:] for at in places}
    return found | {word[:at] + word[at + 1] + word[at] + word[at + 2 :] for at in places[:-1]}


def text_repeated(context: RepairContext) -> Iterator[Proposal]:
    """Blanks and marks that stand twice in the text alone."""
    text = context.case.text
    doubled = re.compile(r"([^\w\n])\1+")
    if _is_odd_one_out(context) and not any(map(doubled.search, context.held)):
        once = doubled.sub(r"\1", text)
        if once != text:
            yield Proposal(replace(context.case, text=once), "write each blank or mark of the text once", 1.1)


def text_marks(context: RepairContext) -> Iterator[Proposal]:
    """A mark of the text that stands several times, where the expression has another as often; look-alikes of one."""
    text = context.case.text
    written = {each.character for each in context.nodes if isinstance(each, Character) and not each.character.isalnum()}
    others = [each for each in context.characters if each not in written and not each.isalnum()]
    for new in sorted(written):
        odd = {each for each in others if look_alike(each, new)}
        if len(odd) > 1:
            words = f"write {character_words(new)} in the place of what looks like it in the text, each time"
            plain = "".join(new if each in odd else each for each in text)
            yield Proposal(replace(context.case, text=plain), words, 0.9)
    for old in [each for each, count in Counter(text).items() if count > 1 and not each.isalnum()]:
        for new in sorted(written - {old}):
            if old not in written and new not in text:
                words = f"write {character_words(new)} in the place of {character_words(old)} in the text, each time"
                yield Proposal(replace(context.case, text=text.replace(old, new)), words, 1.3)


def text_characters(context: RepairContext) -> Iterator[Proposal]:
    """Characters of the text left out, put in or exchanged."""
    at, found = context.at, context.found
    if found:
        odd = 0.5 * (_is_odd_one_out(context) and not found.isalnum())
        yield context.retext(at, at + 1, "", f"leave out {character_words(found)} in the text", 1.85 - odd)
        rest = context.case.text[at:]
        yield context.retext(
            at, len(context.case.text), "", f"leave out {text_words(rest)} at the end of the text", 1.9
        )
    for wanted in context.trace.wanted:
        node = once(wanted.node)
        if not isinstance(node, SINGLE):
            literal = literal_of(node)
            if literal:
                yield context.retext(at, at, literal, f"put {text_words(literal)} into the text", 1.9)
            continue
        sample = sample_character(node, context.parsed.flags)
        if sample is None:
            continue
        what = phrase(node, context.parsed.flags, short=True)
        exact = isinstance(node, Character)
        # A mark that the others have is one that this lacks, unless it would part a word.
        around = context.case.text[max(at - 1, 0) : at + 1]
        in_word = len(around) == 2 and (around.isupper() or around.islower()) and around.isalpha()
        odd = 0.5 * (exact and not sample.isalnum() and not in_word and _is_odd_one_out(context))
        yield context.retext(at, at, sample, f"put {what} into the text", (1.8 if exact else 2.0) - odd)
        digit = _DIGITS.get(found, "") if not exact else ""
        if digit and sample.isdigit():
            words = f"write the digit {digit} in the place of {character_words(found)} in the text"
            yield context.retext(at, at + 1, digit, words, 0.9)
        if found:
            alike = exact and (sample.isascii() or sample == DEGREE) and look_alike(found, sample)
            alike = alike or (exact and any(found in each and sample in each for each in _ASCII_DOUBLES))
            words = f"write {what} in the place of {character_words(found)} in the text"
            likely = 1.2 + 0.25 * (_SIGN.match(context.case.text, at) is not None)
            yield context.retext(at, at + 1, sample, words, likely if alike else 1.8 - odd if exact else 2.1)


_ASCII_DOUBLES = ("lI1|", "O0o")
"""ASCII characters that look like each other in many fonts."""

_DOUBLES = {
    one: other
    for look_alikes, letters in (
        ("аеорсухіјѕһԁԛԝ", "aeopcyxijshdqw"),
        ("АВЕКМНОРСТУХІЈЅԌ", "ABEKMHOPCTYXIJSG"),
        ("αονιρκ", "aovipk"),
        ("ΑΒΕΖΗΙΚΜΝΟΡΤΥΧ", "ABEZHIKMNOPTYX"),
    )
    for one, other in zip(look_alikes, letters, strict=True)
}
"""Letters of Cyrillic and Greek that look like one of ASCII in most fonts."""


DEGREE = "°"


def ascii_double(character: str) -> str:
    """Return the ASCII character that one beyond ASCII is easily taken for; empty when there is none."""
    if character.isascii():
        return ""
    if character in _DOUBLES:
        return _DOUBLES[character]
    plain = unicodedata.normalize("NFKC", character)
    if len(plain) == 1 and plain.isascii():
        return plain
    return {"Zs": " ", "Pd": "-"}.get(_kind(character), "")


def _kind(character: str) -> str:
    """Return the category of a character; the sign of numbers below zero looks like a dash and is none by that."""
    return "Pd" if character == "\N{MINUS SIGN}" else unicodedata.category(character)


_DIGITS = {"O": "0", "o": "0", "l": "1", "I": "1"}
"""Letters that are written for a digit."""


_SIGN = compiled_later(r"(?<!\w)\N{MINUS SIGN}(?=\d)|(?<=\d)[\N{EN DASH}\N{MINUS SIGN}](?=\d)")


def text_spelling(context: RepairContext) -> Iterator[Proposal]:
    """Look-alikes, letters in two pieces and odd blanks, all of them put right at once."""
    text = context.case.text
    if text.isascii():
        return
    composed = unicodedata.normalize("NFC", text)
    yield Proposal(replace(context.case, text=composed), "write letters and their accents as one character (NFC)", 0.8)
    blanks = "".join(" " if unicodedata.category(each) == "Zs" else each for each in text)
    yield Proposal(
        replace(context.case, text=blanks), "write plain blanks in the place of no-break and other ones", 0.85
    )
    doubles = [each for each in context.characters if ascii_double(each) not in ("", " ")]
    named = " and ".join(character_words(each) for each in doubles[:3])
    plain = "".join(ascii_double(each) or each for each in text)
    # The sign of a number below zero is rather meant, and the dash from one number to another.
    signed = 0.6 if len(_SIGN.findall(text)) == 1 else 0.0
    words = f"write the ASCII characters that {named} look like"
    yield Proposal(replace(context.case, text=plain), words, 0.9 + signed)


def look_alike(one: str, other: str) -> bool:
    """Tell whether two characters are easily taken for each other: dashes, quotes, spaces, wide forms, letters."""
    if _DOUBLES.get(one, one) == _DOUBLES.get(other, other):
        return True
    kinds = {_kind(one), _kind(other)}
    if unicodedata.normalize("NFKC", one) == unicodedata.normalize("NFKC", other):
        return True
    quotes, rings = "'\"’‘“”′″`´", f"{DEGREE}º˚"
    alike = any(one in several and other in several for several in (quotes, rings))
    return alike or kinds in ({"Pd"}, {"Zs"})


RULES = (
    text_case,
    text_spelling,
    text_unseen,
    text_misspelled,
    text_repeated,
    text_edges,
    text_marks,
    text_characters,
)
