"""A piece exchanged for what the texts have in its place: another word, other white space, a further option."""

from __future__ import annotations

import re
from difflib import SequenceMatcher
from functools import partial
from itertools import groupby
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.drafting.calendar_words import MONTHS, WEEKDAYS
from fieldstick.drafting.context import (
    class_spelling,
    common_start,
    escaped,
    escaped_text,
    optional_text,
    quantifier,
    takes,
)
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.slips.extent import other_amount
from fieldstick.drafting.slips.instances import form_of, numbered
from fieldstick.drafting.slips.lacking_words import word_for_group
from fieldstick.drafting.slips.texts import CUT, cuts_decimals, cuts_run, cuts_word, look_alike
from fieldstick.drafting.slips.words import is_one_slip, written_so
from fieldstick.engines.probing import fits
from fieldstick.syntax.tree import (
    Alternation,
    Character,
    CharClass,
    Dot,
    Group,
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
    from collections.abc import Callable, Iterable, Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.drafting.slips.taking import Taken
    from fieldstick.syntax.tree import Node, Span

MOST_OPTIONS = 3
"""Options that are put in at once."""


MOST_LISTED = 6
"""Letters of a word that may have been meant as a class."""


MORE_PLACES = 1.2
"""What a change costs more for each further place of what is spelled out at which it puts something else."""

ELSEWHERE_TOO, ALIKE = 1.4, 0.5
"""What an option beside another that is like it costs more for each further place at which they differ, and how alike
they are.
"""

OWN_DIGITS = 0.3
"""What a change costs more that puts the very digits of a text where none are spelled out."""

FURTHER_PART = 1.3
"""What a change costs that puts in a mark with a word behind it, which may be lacking."""

BESIDE_OPTIONS = 0.6
"""What a change costs more that puts a blank at the edge of one option, where it may as well stand beside all."""

LONG_WORD = 4
"""Letters from which on a text is a word rather than a sign."""

FEW_OPTIONS = 4
"""Options up to which one may be another, misspelled, where no text has it."""

SHORT = 3
"""Letters of a word up to which another is like it by chance."""


def instead(context: RepairContext, span: Span, node: Node | None, taken: Taken) -> Iterator[Proposal]:
    """Exchange a piece, or a run of characters where there is no node, for what the texts have there."""
    old = context.case.expression[slice(*span)]
    if node is None:
        yield from _other_word(context, span, old, taken)
        return
    if isinstance(node, Repeat):
        yield from _further_option_before(context, node, taken)
    inner = node.body if isinstance(node, Group) else node
    if isinstance(node, Group):
        yield from word_for_group(context, node, taken)
        yield from _framed_group(context, node, taken)
        yield from _listed_group(context, node, taken)
    if isinstance(inner, Alternation):
        yield from _further_option(context, inner, taken)
    item = once(node)
    if isinstance(item, Dot | Shorthand | CharClass) or (isinstance(node, Repeat) and isinstance(item, Character)):
        yield from other_amount(context, span, node, item, taken)


def _further_option_before(context: RepairContext, node: Repeat, taken: Taken) -> Iterator[Proposal]:
    """A word in the place of one that may be lacking: `(?:very )?` for `quite `."""
    group, own = node.item, taken.own
    if not isinstance(group, Group) or group.kind not in ("plain", "capture") or (node.least, node.most) != (0, 1):
        return
    word = literal_of(group.body) if isinstance(group.body, Sequence | Character) else None
    if (
        word
        and own
        and {*taken.wanted} == {own}
        and own[-1] == word[-1]
        and own.strip().isalpha()
        and word.strip().isalpha()
    ):
        end = group.span[1] - 1
        added = f"|{escaped_text(own)}"
        words = f"{text_words(own)} may stand in the place of {text_words(word)}: {added}"
        yield context.splice((end, end), added, words, 0.95 + context.near(node) / 4)


def _framed_group(context: RepairContext, node: Group, taken: Taken) -> Iterator[Proposal]:
    """A group that stands between marks in the text."""
    own = taken.own
    frames = {(each[:1], each[-1:]) for each in taken.wanted}
    left, right = frames.pop() if len(frames) == 1 else ("", "")
    if not left or len(own) < 3 or left.isalnum() or right.isalnum():
        return
    if (left + right).isspace():
        beside = context.case.expression[: node.span[0]][-1:] + context.case.expression[node.span[1] :][:1]
        if beside.strip() == beside and fits(spelled(node.body), context.parsed.flags, "whole", own.strip(" \t")):
            made = f"\\s*{spelled(node)}\\s*"
            yield context.splice(node.span, made, f"white space may stand around it: {made}", 0.9)
        return
    if fits(spelled(node.body), context.parsed.flags, "whole", own[1:-1]):
        left, right = (escaped_text(each) + "?" * bool(taken.held) for each in (left, right))
        made = f"{left}{spelled(node)}{right}"
        words = f"{text_words(own[0])} and {text_words(own[-1])} stand around it: {made}"
        yield context.splice(node.span, made, words, 0.95 + context.near(node) / 4)


def _listed_group(context: RepairContext, node: Group, taken: Taken) -> Iterator[Proposal]:
    """A group of which the text has several, with a mark between them."""
    marks = {each for text in taken.wanted for each in text if not each.isalnum()}
    marks |= {each for each in (", ", "; ", " / ", " and ") if any(each in text for text in taken.wanted)}
    written = {each.character for each in walk(node.body) if isinstance(each, Character)}
    body, flags = spelled(node.body), context.parsed.flags
    # A name is one group's.
    for mark in sorted(marks - written) if "(?P<" not in body else ():
        parts = [part for text in taken.wanted for part in text.split(mark)]
        if len(parts) > len(taken.wanted) and all(fits(body, flags, "whole", each) for each in parts):
            one = f"(?:{body})" if isinstance(node.body, Alternation) else body
            # From one number to another: there are two of them.
            once = mark in "-\u2013:" and len(parts) == 2 * len(taken.wanted) and parts[0].isdigit()
            made = f"{one}(?:{escaped_text(mark)}{one}){'?' if once else '*'}"
            words = f"{one} stands several times, with {text_words(mark)} between: {made}"
            # A word or a number with a mark in it is rather one with the mark among its characters.
            cost = 1.15 if isinstance(node.body, Repeat) else 0.95
            # A number has one decimal mark, whichever that is.
            cost += 0.25 * (mark == "," and r"\." in body and len(parts) == 2 * len(taken.wanted))
            yield context.splice(node.body.span, made, words, cost + context.near(node) / 4)


def another_word(context: RepairContext, span: Span, taken: Taken) -> Iterator[Proposal]:
    """A word with letters that may be lacking, or another word."""
    new = taken.own
    if new.isalpha() and set(taken.missed) <= {new}:
        both = f"(?:{context.case.expression[slice(*span)]}|{new})"
        yield context.splice(span, both, f"{text_words(new)} is another option: {both}", 1.1)


def _other_word(context: RepairContext, span: Span, old: str, taken: Taken) -> Iterator[Proposal]:
    """A run of characters where the texts have another."""
    new = taken.own
    put = partial(context.splice, span)
    if all(not each.strip() for each in (old, *taken.every)):
        yield from _other_blanks(context, span, old, taken)
    if old.isalpha() and len(old) <= MOST_LISTED and all(len(each) == 1 and each in old for each in taken.every):
        made = f"[{old}]"
        words = f"{text_words(new)} stands where {old} is asked for, one of its letters: {made}"
        yield put(made, words, (0.85 if len(old) < 4 else 1.1) + context.near_span(span) / 4)
    yield from _several_words(context, span, old, taken)
    if not new or set(taken.missed) - {new} or len(new) > 3 * len(old) + 3:
        return
    literal = escaped_text(new)
    plain = re.sub(r"\\(.)", r"\1", old)
    words = f"{text_words(new)} stands in the place of {text_words(plain)}"
    near = context.near_span(span) / 4 + CUT * cuts_word(context.case.text, new)
    # White space is more than a letter, not another.
    near += 0.4 * (not new.strip() and old.isalnum())
    near += 2 * CUT * (not any(map(str.isalnum, plain)) and cuts_run(context.case.text, new))
    kept = any(plain in each for each in taken.held)
    if kept:
        yield from _either(context, span, (old, plain), new, words)
        return
    one, other = (plain.casefold(), new.casefold()) if "ignore-case" in context.parsed.flags else (plain, new)
    alike = SequenceMatcher(None, one, other, autojunk=False).ratio()
    letters = plain.isalpha() and new.isalpha()
    shared = -0.35 if context.all_alike else 0.0
    if plain.casefold() == new.casefold():
        changed = sum(one != other for one, other in zip(plain, new, strict=False))
        yield put(literal, f"{words}: {literal}", (0.85 if changed == 1 else 1.1) + near + shared)
    elif letters and alike >= 0.6 and max(len(plain), len(new)) > 2:
        # Short words are alike by chance, and so are those that differ by more than a slip of the hand: one that is an
        # option beside others need not be misspelled.
        by_chance = max(len(plain), len(new)) <= SHORT or (span in context.options and not is_one_slip(plain, new))
        near += 0.15 * (by_chance and bool(context.held))
        listed = span in context.options and len(context.options) > FEW_OPTIONS and len(plain) == len(new)
        near += 0.3 * (by_chance and listed and not context.held)
        yield put(literal, f"{words}: {literal}", 0.9 + near + shared)
    elif len(plain) == len(new) == 1 and look_alike(plain, new):
        yield put(literal, f"{words}: {literal}", 0.9 + near)
    else:
        added = _added(plain, new)
        if added is not None:
            at, more = added
            optional = escaped_text(plain[:at]) + optional_text(more) + escaped_text(plain[at:])
            # A letter too few is a slip of the hand; a mark comes and goes.
            letters_more = 0.2 * more.isalpha()
            # A mark beside one option may as well stand beside all.
            letters_more += BESIDE_OPTIONS / 2 * (span in context.options and not any(map(str.isalnum, more)))
            yield put(optional, f"{text_words(more)} may stand there: {optional}", 1.15 + letters_more + near + shared)
        elif (grown := differing(plain, new)) and not grown.lacks and _is_further_part(grown):
            optional, further = grown.around(optional_text(grown.has)), FURTHER_PART + 0.15 * grown.has[0].isspace()
            yield put(optional, f"{text_words(grown.has)} may stand there: {optional}", further + near + shared)
        # A word in the place of an option is rather one more of them.
        near += 0.3 * (letters and span in context.options)
        # Where no other text is known, nothing says that it may be lacking.
        alone = not context.beside.fitting
        likely = (1.05 if alone else 1.2) if added is not None else 1.4 if alike >= 0.5 else 1.55
        part = new.startswith(plain) or new.endswith(plain)
        marks = not any(each.isalnum() or each.isspace() for each in plain + new) and {plain, new} != {".", ","}
        if alone and marks and not part and span not in context.options:
            # One mark for another, as the one text has it.
            likely = 1.05
        elif alone and span in context.options and new.startswith(plain) and new.isalpha():
            likely = 1.0
        likely += MORE_PLACES * (max(_places_apart(plain, new), 1) - 1) + OWN_DIGITS * _has_digits_more(plain, new)
        yield put(literal, f"{words}: {literal}", likely + near + shared)
        yield from numbered(context, span, plain, new)
        apart = differing(plain, new)
        if (apart.lacks, apart.has) == ("s", "") and _is_end_of_word(apart):
            either = apart.around("s?")
            yield put(either, f"one or several: {either}", 0.95 + near)
        if letters:
            both = f"(?:{old}|{literal})"
            yield put(both, f"{text_words(new)} is another option: {both}", 1.5 + near)
        elif apart.lacks.isalpha() and apart.has.isalpha() and _is_parted(apart):
            both = apart.around(f"(?:{apart.lacks}|{apart.has})")
            yield put(both, f"{text_words(apart.has)} is another option: {both}", 1.5 + near)


def _several_words(context: RepairContext, span: Span, old: str, taken: Taken) -> Iterator[Proposal]:
    """A run of characters where each of several texts has another: all of them as options."""
    new = list(dict.fromkeys(taken.wanted))
    bare = [each.strip() for each in new]
    words = all(each.isalpha() and old.strip() not in each for each in bare)
    whole = words and not any(cuts_run(text, each) for text in (context.case.text, *context.missed) for each in bare)
    if 1 < len(new) <= MOST_OPTIONS and len({*bare}) == len(new) and whole:
        blank = " " * all(each[0] == " " and len(each) > 1 for each in new)
        options = "|".join([old, *(escaped_text(each.removeprefix(blank)) for each in new)])
        made = f"{blank and ' ?'}(?:{options})"
        told = f"{text_words(taken.own)} and others stand in the place of {old}: {made}"
        yield context.splice(span, made, told, 1.2)


def _has_digits_more(plain: str, new: str) -> bool:
    return any(map(str.isdigit, new)) and not any(map(str.isdigit, plain))


def _places_apart(plain: str, new: str) -> int:
    """Return at how many places, with what both share between them, two runs differ by more than blanks."""
    found = SequenceMatcher(None, plain, new, autojunk=False).get_opcodes()
    others = [plain[at:end] + new[start:stop] for kind, at, end, start, stop in found if kind != "equal"]
    return sum(bool(each.strip()) for each in others)


def _is_further_part(found: Differing) -> bool:
    """Tell whether a run has a mark more, and a word or number behind it with another mark behind it that both have."""
    has = found.has
    return len(has) > 2 and not has[0].isalnum() and has[1:].isalnum() and not (found.after or "a")[0].isalnum()


def _added(plain: str, new: str) -> tuple[int, str] | None:
    """Return where one or two marks or letters were put into a text, and which; None where it differs otherwise."""
    head = len(common_start((plain, new)))
    more = new[head : head + len(new) - len(plain)]
    grown = 0 < len(more) <= 2 and len(plain) > 1 and plain[head:] == new[head + len(more) :]
    return (head, more) if grown and not any(each.isdigit() or each.isspace() for each in more) else None


def _with_blanks(one: str, other: str) -> str:
    """Return an expression for two texts that are the same but for white space."""
    made, places = "", [{len("".join(text[:at].split())) for at in _blanks(text)} for text in (one, other)]
    for at, character in enumerate("".join(one.split()) + " "):
        if any(at in each for each in places):
            made += r"\s*" if not all(at in each for each in places) else r"\s+"
        made += escaped_text(character.strip())
    return made


def _blanks(text: str) -> Iterator[int]:
    return (at for at, character in enumerate(text) if character.isspace())


def with_any_digits(text: str) -> str:
    """Return an expression for texts like one, of which the digits may be any and a sign the other."""
    made = ""
    for is_digit, run in groupby(text, key=str.isdigit):
        piece = "".join(run)
        sign = piece in ("+", "-")
        made += rf"\d{quantifier(len(piece), len(piece))}" if is_digit else "[+-]" if sign else escaped_text(piece)
    return made


class Differing(NamedTuple):
    """Two runs of characters: what they begin and end with alike, and what one and the other has between."""

    before: str
    lacks: str
    has: str
    after: str

    def around(self, piece: str) -> str:
        """Spell what both have around a piece that is spelled."""
        return f"{escaped_text(self.before)}{piece}{escaped_text(self.after)}"


def differing(plain: str, new: str) -> Differing:
    """Return what two runs of characters have alike, and what each has between."""
    head = len(common_start((plain, new)))
    tail = len(common_start((plain[head:][::-1], new[head:][::-1])))
    lacks, has = (each[head : len(each) - tail] for each in (plain, new))
    return Differing(plain[:head], lacks, has, plain[len(plain) - tail :])


def _either(context: RepairContext, span: Span, old: tuple[str, str], new: str, words: str) -> Iterator[Proposal]:
    """A run of characters, or another."""
    (written, plain), near = old, context.near_span(span) / 4 + 0.4 * (not new.strip() and old[0].isalnum())
    near += 2 * CUT * (not any(map(str.isalnum, plain)) and cuts_run(context.case.text, new))
    found = differing(plain, new)
    near += CUT * cuts_decimals(context.case.text, new)
    if not (plain.isalpha() and new.isalpha()) and SequenceMatcher(None, plain, new, autojunk=False).ratio() >= ALIKE:
        # It is rather several changes of one than another, but for a mark in whose place a word stands.
        single = bool(found.lacks.strip() and found.has) and not any(map(str.isalnum, found.lacks))
        near += ELSEWHERE_TOO * (max(_places_apart(plain, new), 1) - 1) * (not single)
    near += BESIDE_OPTIONS * (not (found.lacks + found.has).strip() and _is_at_edge_of_option(context, span, found))
    blanks_alone = bool(plain.strip()) and "".join(plain.split()) == "".join(new.split())
    if blanks_alone and len(found.before) < min(len(plain), len(new)):
        made = _with_blanks(plain, new)
        # Of one blank it is rather one.
        single = all(each == " " for each in re.findall(r"\s+", f"{plain}|{new}"))
        yield context.splice(span, made, f"white space varies there: {made}", (1.02 if single else 0.9) + near)
        if single:
            made = made.replace(r"\s*", " ?").replace(r"\s+", " ")
            yield context.splice(span, made, f"a blank may be there: {made}", 0.95 + near)
    if not (found.lacks and found.has) and plain.strip():
        yield from _one_has_more(context, span, found, new)
    yield from _marks_differ(context, span, found)
    beside_digits = context.case.expression[span[1] :].startswith((r"\d", "[0-9]"))
    if found.lacks and any(map(str.isdigit, found.has)) and not (plain.isdigit() and beside_digits):
        any_digits, likely = with_any_digits(new), 1.5 if plain.isdigit() else 1.3
        made = any_digits if re.fullmatch(any_digits, plain) else f"(?:{written}|{any_digits})"
        yield context.splice(span, made, f"{words}, with any digits: {made}", likely + near)
    yield from numbered(context, span, plain, new)
    if found.lacks and found.has and (found.before or found.after):
        # What both have around it need not be written twice.
        made = found.around(f"(?:{escaped_text(found.lacks)}|{escaped_text(found.has)})")
        if _is_parted(found):
            yield context.splice(span, made, f"{words}: {made}", 1.15 + near)
    both = f"(?:{written}|{escaped_text(new)})"
    # What has a mark more stands behind any of the options, rather.
    near += 0.2 * (span in context.options and new.startswith(plain) and not new[len(plain) :][:1].isalnum())
    yield context.splice(span, both, f"{words}: {both}", 1.2 + _instance(context, span, found) + near)


def _is_at_edge_of_option(context: RepairContext, span: Span, found: Differing) -> bool:
    """Tell whether two runs differ at the first or the last place of an option."""
    return any(
        (start == span[0] and not found.before) or (end == span[1] and not found.after)
        for start, end in context.options
    )


def _is_end_of_word(found: Differing) -> bool:
    """Tell whether two runs differ behind the last letter of a word."""
    return found.before[-1:].isalpha() and not found.after[:1].isalnum()


def _is_parted(found: Differing) -> bool:
    """Tell whether two runs differ by whole words, or by marks and such."""
    heads, tails = (found.lacks[:1], found.has[:1]), (found.lacks[-1:], found.has[-1:])
    cuts_word = found.before[-1:].isalnum() and any(map(str.isalnum, heads))
    return not (cuts_word or (found.after[:1].isalnum() and any(map(str.isalnum, tails))))


def _instance(context: RepairContext, span: Span, found: Differing) -> float:
    """Return what it costs more that the very characters of one text are put in: digits, many, or half a word."""
    goes_on = (found.lacks or found.has)[-1:].isalnum() and not found.after
    cut = goes_on and context.case.expression[span[1] : span[1] + 1].isalnum()
    return 0.3 * any(map(str.isdigit, found.has)) + 0.03 * len(found.has) + 0.3 * cut


def _one_has_more(context: RepairContext, span: Span, found: Differing, new: str) -> Iterator[Proposal]:
    """What one of two runs has more than the other, optional."""
    piece, near = found.lacks or found.has, context.near_span(span) / 4
    if not piece.strip():
        # At the edge of a text it is rather the text that has too much.
        edge = 0.4 if context.case.text.endswith(new) or context.case.text.startswith(new) else 0.0
        edge += BESIDE_OPTIONS * _is_at_edge_of_option(context, span, found)
        for amount, cost in ((" ?" if len(piece) == 1 else " *", 0.95), (r"\s*", 1.0)):
            made = found.around(amount)
            yield context.splice(span, made, f"white space varies there: {made}", cost + near + edge)
        return
    made = found.around(optional_text(piece))
    cost = 1.1 + _instance(context, span, found) + near + CUT * cuts_decimals(context.case.text, new)
    cost += BESIDE_OPTIONS / 2 * (" " in piece and _is_at_edge_of_option(context, span, found))
    yield context.splice(span, made, f"{text_words(piece)} need not be there: {made}", cost)


def _marks_differ(context: RepairContext, span: Span, found: Differing) -> Iterator[Proposal]:
    """One character or another, and marks with white space around them in one of the two."""
    lacks, has, near = found.lacks, found.has, context.near_span(span) / 4
    one, other = sorted((lacks.strip(), has.strip()), key=lambda each: (each == "-", each))
    if len(one) != 1 or len(other) != 1:
        return
    either = escaped(one) if one == other else f"[{class_spelling(one)}{class_spelling(other)}]"
    if len(lacks) == len(has) == 1:
        made = found.around(either)
        # One letter in another case needs no flag.
        cost = 0.88 if lacks == has.swapcase() and context.held else 1.0
        yield context.splice(span, made, f"{text_words(has)} may stand for {text_words(lacks)}: {made}", cost + near)
        if lacks.isupper() and has.isupper() and (lacks + has).isascii():
            made = found.around("[A-Z]")
            yield context.splice(span, made, f"another letter may stand for {text_words(lacks)}: {made}", 1.08 + near)
    elif "\u00d7" in (one, other) or not (one.isalnum() or other.isalnum()):
        left, right = (r"\s*" * any(each[at].isspace() for each in (lacks, has)) for at in (0, -1))
        made = found.around(f"{left}{either}{right}")
        yield context.splice(span, made, f"another mark may stand there, with white space: {made}", 0.95 + near)


def _other_blanks(context: RepairContext, span: Span, old: str, taken: Taken) -> Iterator[Proposal]:
    """White space of another amount or kind."""
    every, near = (old, *taken.every), context.near_span(span) / 4
    may_lack = not all(taken.every)
    alike = set("".join(every)) == {" "} and not written_so(context)
    for spelling, cost in ((" ", 0.95 if alike else 2.0), (r"\s", 1.0)):
        single = max(map(len, every)) == 1
        amounts: list[tuple[int | None, float]] = [(1 if single else None, 0.0)]
        if single and may_lack and spelling != " ":
            # Who lets white space be lacking lets it be of any amount, too.
            amounts = [(None, 0.0), (1, 0.1)]
        for most, more in amounts:
            amount = quantifier(0 if may_lack else 1, most)
            words = f"white space varies there: {spelling}{amount}"
            yield context.splice(span, spelling + amount, words, cost + more + near)


def _further_option(context: RepairContext, node: Alternation, taken: Taken) -> Iterator[Proposal]:
    """An option that is not there."""
    if not all(taken.wanted):
        return
    yield from _option_like_another(context, node, taken)
    yield from _of_one_form(context, node, taken)
    yield from _rest_of_list(context, node, taken)
    new = list(dict.fromkeys(taken.wanted))
    longest = max(len(spelled(each)) for each in node.options)
    if len(new) > MOST_OPTIONS or any(len(each) > 2 * longest + 4 for each in new):
        return
    shapes = {_shape(spelled(each)) for each in node.options}
    cost = 1.0 if {_shape(each) for each in new} <= shapes else 1.25
    # A number among classes says little: it is one of many that may come.
    cost += 0.3 * (any(map(str.isdigit, new[0])) and not any(map(literal_of, node.options)))
    # An option with a mark after it is the option, and the mark comes and goes.
    written = [literal_of(each) for each in node.options]
    cost += 0.4 * any(each and new[0].startswith(each) and not new[0][len(each) :].isalnum() for each in written)
    # A word beside an option comes and goes with any of them.
    cost += 0.4 * any(each and (new[0].endswith(f" {each}") or new[0].startswith(f"{each} ")) for each in written)
    # One with a letter or two after it is a form of the word, which others may have as well; of a letter, less so.
    longer = [each for each in written if each and new[0].startswith(each) and len(new[0]) - len(each) <= 2]
    cost += 0.45 if any(len(each) > 1 for each in longer) else 0.05 * bool(longer)
    words_alone = all(each.replace(" ", "").isalpha() for each in new)
    cost += 0.2 * (len(new) - 1) + min(0.05 * max(0, max(map(len, new)) - longest), 0.2 if words_alone else 1.0)
    literal = sum(each is not None for each in map(literal_of, node.options))
    if taken.own == context.case.text and literal < len(node.options):
        # The whole text as an option says little of what was meant, where the others are no texts.
        word = len(new[0]) >= LONG_WORD and new[0].replace(" ", "").isalpha()
        cost += 1.0 if 2 * literal < len(node.options) else 0.1 if word else 0.35
    added = "".join(f"|{escaped_text(each)}" for each in new)
    words = f"{text_words(new[0])} is no option of {spelled(node)}: {added}"
    yield context.splice((node.span[1], node.span[1]), added, words, cost + context.near(node) / 4)


def _rest_of_list(context: RepairContext, node: Alternation, taken: Taken) -> Iterator[Proposal]:
    """Days of the week or months, of which some are options already: all that are lacking."""
    written = [literal_of(each) or "" for each in node.options]
    for names in (WEEKDAYS, MONTHS):
        for form in (str, str.lower, str.upper):
            for length in (20, 3, 2):
                known = list(dict.fromkeys(form(each)[:length] for each in names))
                if len(written) > 1 and {*written, *taken.wanted} <= {*known}:
                    added = "".join(f"|{each}" for each in known if each not in written)
                    words = f"{text_words(taken.own)} and its like are no options of {spelled(node)}: {added}"
                    yield context.splice((node.span[1], node.span[1]), added, words, 1.1 + context.near(node) / 4)
                    return


def _option_like_another(context: RepairContext, node: Alternation, taken: Taken) -> Iterator[Proposal]:
    """An option that is not there, of the form that another has: `CAM-\\d{3}` for what begins otherwise."""
    flags = context.parsed.flags - {"verbose"}
    rows = [without_asides(each.items) if isinstance(each, Sequence) else (each,) for each in node.options]
    heads = ["".join(each.character for each in _led(row)) for row in rows]
    if any(any(map(str.isalnum, each)) and taken.own.startswith(each) for each in heads):
        # What begins as an option does is rather one of those.
        return
    for option, items, head in zip(node.options, rows, heads, strict=True):
        last = items[-1] if head and len(items) == len(head) + 1 else None
        item = once(last) if isinstance(last, Repeat) else last
        if last is None or not isinstance(item, Shorthand | CharClass) or spelled(item).startswith("[^"):
            continue
        forms = {_alike(text, head, takes(spelled(item), flags)) for text in taken.wanted}
        new, sizes = {head for head, _ in forms}, {size for _, size in forms}
        if len(new) > 1 or "" in new or 0 in sizes:
            continue
        amount = quantifier(min(sizes), max(sizes))
        if isinstance(last, Repeat) and last.least != last.most:
            amount = last.quantifier
        form = f"|{escaped_text(new.pop())}{spelled(item)}{amount}"
        words = f"{text_words(taken.own)} is no option of {spelled(node)}, and like {spelled(option)}: {form}"
        yield context.splice((node.span[1], node.span[1]), form, words, 0.95 + context.near(node) / 4)


def _of_one_form(context: RepairContext, node: Alternation, taken: Taken) -> Iterator[Proposal]:
    """`B07|C12` for `[A-Z]\\d{2}`: options that are instances of one form, as what the text has is."""
    written = [literal_of(each) or "" for each in node.options]
    forms = {form_of(each) for each in (*written, *taken.wanted)}
    if len(forms) == 1 and r"\d" in (form := forms.pop()):
        words = f"{text_words(taken.own)} and the options of {spelled(node)} are of one form: {form}"
        yield context.splice(node.span, form, words, 1.1 + context.near(node) / 4)


def _led(items: Iterable[Node]) -> Iterator[Character]:
    """Yield the characters that a row of pieces begins with."""
    for each in items:
        if not isinstance(each, Character):
            return
        yield each


def _alike(text: str, head: str, test: Callable[[str], bool]) -> tuple[str, int]:
    """Return what a text begins with, like the head of another, and how many characters of a class follow."""
    size = len(text) - len(text.rstrip("".join(filter(test, {*text}))))
    begun = (text[:at] for at in range(len(text) - size, len(text)))
    own = next((each for each in begun if _kinds_of(each) == _kinds_of(head)), "")
    return own, len(text) - len(own)


def _kinds_of(text: str) -> str:
    """Return the kinds of the runs of a text: letters, digits, and each mark as itself."""
    return "".join(
        kind for kind, _ in groupby(text, key=lambda each: "a" if each.isalpha() else "9" if each.isdigit() else each)
    )


def _shape(text: str) -> str:
    return "".join(
        "A" if each.isupper() else "a" if each.isalpha() else "9" if each.isdigit() else each for each in text[:1]
    )
