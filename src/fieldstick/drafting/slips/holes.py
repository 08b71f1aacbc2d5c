"""What a piece of an expression would have to take: found by leaving a hole in its place, or between two pieces.

A hole takes any text. Where an expression with one hole matches, the piece that was there, or lacking, is the only
thing amiss, and what the hole takes says what it should have been. Where several texts are known that should fit, what
it takes of all of them counts.
"""

from __future__ import annotations

import re
from difflib import SequenceMatcher
from functools import partial
from itertools import takewhile
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.drafting.context import class_spelling, class_with, escaped_text, quantifier, takes
from fieldstick.drafting.phrases import text_words
from fieldstick.drafting.slips.texts import look_alike
from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.probing import compiled_by_engine, method_of
from fieldstick.errors import BudgetSpent
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Aside,
    Backreference,
    Character,
    CharClass,
    Dot,
    FlagSetting,
    Group,
    Node,
    Repeat,
    Sequence,
    Shorthand,
    literal_of,
    spelled,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.drafting.context import Proposal, RepairContext
    from fieldstick.syntax.tree import Span

MOST_PLACES = 60
"""Places of an expression that a hole is tried at, those nearest to where the match stopped."""

MOST_COMPILED = 400_000
"""Code points of expressions with a hole that are compiled in all, for fewer places where the expression is long."""

MOST_TEXTS = 6
"""Texts beside the one in question that a hole is held against."""

LONGEST = 60
"""Code points of what a hole takes up to which it says something."""

MILLISECONDS, MOST_SPENT = 20, 4
"""How long the texts may take with one hole, and holes that may take longer."""

MOST_OPTIONS = 3
"""Options that are put in at once."""

_HOLE = r"(?P<hole_>(?s:.)*?)"

_KINDS: tuple[tuple[str, str], ...] = (
    (r"\d", "digits"),
    ("[a-z]", "small letters"),
    ("[A-Z]", "capitals"),
    ("[A-Za-z]", "letters"),
    (r"\w", "letters, digits and _"),
    (r"\s", "white space"),
)
"""Kinds of characters that what a hole takes is told by, the narrowest first."""


class Taken(Struct, frozen=True):
    """What a hole takes: of the text in question, of others that should fit and do not, and of others that do."""

    own: str
    missed: tuple[str, ...]
    held: tuple[str, ...]

    @property
    def every(self) -> tuple[str, ...]:
        """All of it."""
        return (self.own, *self.missed, *self.held)

    @property
    def wanted(self) -> tuple[str, ...]:
        """What is not taken yet."""
        return (self.own, *self.missed)


def taken_at(context: RepairContext, span: Span) -> Taken | None:
    """Return what a hole in the place of a span takes; None where there is no match with it.

    Raises BudgetSpent where that takes too long.
    """
    case = context.case
    made = case.expression[: span[0]] + _HOLE + case.expression[span[1] :]
    compiled = compiled_by_engine(made, case.flags)
    if compiled is None:
        return None
    method = method_of(compiled, case.reach)

    def read(text: str) -> str | None:
        found = method(text)
        return found["hole_"] if found is not None else None

    def read_all() -> tuple[str | None, list[str | None], list[str | None]]:
        own = read(case.text)
        if own is None:
            return None, [], []
        return own, list(map(read, context.missed[:MOST_TEXTS])), list(map(read, context.held[:MOST_TEXTS]))

    try:
        own, missed, held = run_within(MILLISECONDS, read_all) if timer_usable() else read_all()
    except (SystemError, MemoryError, RecursionError):
        return None
    if own is None or len(own) > LONGEST or None in missed:
        return None
    return Taken(own, tuple(each or "" for each in missed), tuple(each for each in held if each is not None))


def in_place(context: RepairContext) -> Iterator[Proposal]:
    """A piece exchanged for what the texts have in its place."""
    for span, node, taken in _holes(context, list(_pieces(context))):
        yield from _instead(context, span, node, taken)


def between(context: RepairContext) -> Iterator[Proposal]:
    """Something put where the texts have it and the expression does not."""
    places = {span[0] for span, _ in _pieces(context)} | {span[1] for span, _ in _pieces(context)}
    for span, _, taken in _holes(context, [((place, place), None) for place in sorted(places)]):
        if taken.own:
            yield from _put_in(context, span, taken)


def _holes(context: RepairContext, places: list[tuple[Span, Node | None]]) -> Iterator[tuple[Span, Node | None, Taken]]:
    """Yield what a hole takes at each place where there is a match with one, until some took too long."""
    last, spent = _last_place(context), 0
    for span, node in _nearest(context, places):
        try:
            taken = taken_at(context, span) if span[0] > last else None
        except BudgetSpent:
            spent += 1
            if spent == MOST_SPENT:
                return
            continue
        if taken is not None:
            yield span, node, taken


def _last_place(context: RepairContext) -> int:
    """Return where the last group opens that is referred to by its number: a hole before it would shift that."""
    numbers = {node.number for node in context.nodes if isinstance(node, Backreference) and node.name is None}
    if not numbers:
        return -1
    groups = [node.span[0] for node in context.nodes if isinstance(node, Group) and node.number in numbers]
    return max(groups, default=len(context.case.expression))


def _pieces(context: RepairContext) -> Iterator[tuple[Span, Node | None]]:
    """Yield what may be exchanged: items of sequences, runs of characters as one with no node."""
    for node in context.nodes:
        if isinstance(node, Sequence):
            yield from _items(node)
        elif isinstance(node, Alternation | Group | Repeat):
            inner = (
                node.options
                if isinstance(node, Alternation)
                else (node.item if isinstance(node, Repeat) else node.body,)
            )
            for each in inner:
                if not isinstance(each, Sequence | Alternation) and not isinstance(node, Repeat):
                    yield each.span, None if isinstance(each, Character) else each
    tree = context.parsed.tree
    if not isinstance(tree, Sequence):
        yield tree.span, None if isinstance(tree, Character) else tree


def _items(node: Sequence) -> Iterator[tuple[Span, Node | None]]:
    start: int | None = None
    end = 0
    for item in node.items:
        if isinstance(item, Character):
            start = item.span[0] if start is None else start
            end = item.span[1]
            continue
        if start is not None:
            yield (start, end), None
            start = None
        if not isinstance(item, Aside | Anchor | FlagSetting):
            yield item.span, item
    if start is not None:
        yield (start, end), None


def _nearest(context: RepairContext, places: list[tuple[Span, Node | None]]) -> list[tuple[Span, Node | None]]:
    unique = list({span: (span, node) for span, node in places}.values())
    most = min(MOST_PLACES, MOST_COMPILED // (1 + len(context.case.expression)))
    if len(unique) <= most:
        return unique
    return sorted(unique, key=lambda each: context.near_span(each[0]))[:most]


def _instead(context: RepairContext, span: Span, node: Node | None, taken: Taken) -> Iterator[Proposal]:
    old = context.case.expression[slice(*span)]
    if node is None:
        yield from _other_word(context, span, old, taken)
        return
    inner = node.body if isinstance(node, Group) else node
    if isinstance(inner, Alternation):
        yield from _further_option(context, inner, taken)
    item = node.item if isinstance(node, Repeat) else node
    if isinstance(item, Dot | Shorthand | CharClass) or (isinstance(node, Repeat) and isinstance(item, Character)):
        yield from _other_amount(context, span, node, item, taken)


def _other_word(context: RepairContext, span: Span, old: str, taken: Taken) -> Iterator[Proposal]:
    """A run of characters where the texts have another."""
    new = taken.own
    put = partial(context.splice, span)
    if all(not each.strip() for each in (old, *taken.every)):
        yield from _other_blanks(context, span, old, taken)
    if not new or set(taken.missed) - {new} or len(new) > 3 * len(old) + 3:
        return
    literal = escaped_text(new)
    plain = re.sub(r"\\(.)", r"\1", old)
    words = f"{text_words(new)} stands in the place of {text_words(plain)}"
    near = context.near_span(span) / 4
    kept = any(plain in each for each in taken.held)
    if kept:
        yield from _either(context, span, (old, plain), new, words)
        return
    alike = SequenceMatcher(None, plain, new, autojunk=False).ratio()
    letters = plain.isalpha() and new.isalpha()
    shared = -0.35 if context.all_alike else 0.0
    if plain.casefold() == new.casefold():
        changed = sum(one != other for one, other in zip(plain, new, strict=False))
        yield put(literal, f"{words}: {literal}", (0.85 if changed == 1 else 1.1) + near + shared)
    elif letters and alike >= 0.6 and max(len(plain), len(new)) > 2:
        yield put(literal, f"{words}: {literal}", 0.9 + near + shared)
    elif len(plain) == len(new) == 1 and look_alike(plain, new):
        yield put(literal, f"{words}: {literal}", 0.9 + near)
    else:
        # One or two characters more than are written were forgotten.
        head = _alike(plain, new)
        grown = 0 < len(new) - len(plain) <= 2 and head + _alike(plain[head:][::-1], new[::-1]) == len(plain) > 1
        likely = 1.1 if grown else 1.4 if alike >= 0.5 else 1.55
        yield put(literal, f"{words}: {literal}", likely + near + shared)
        if letters:
            both = f"(?:{old}|{literal})"
            yield put(both, f"{text_words(new)} is another option: {both}", 1.5 + near)


def _alike(one: str, other: str) -> int:
    """Return how many characters two texts begin with that are the same."""
    return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], zip(one, other, strict=False)))


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


def _either(context: RepairContext, span: Span, old: tuple[str, str], new: str, words: str) -> Iterator[Proposal]:
    """A run of characters, or another: what one has more than the other is optional."""
    written, plain = old
    near = context.near_span(span) / 4
    literal = escaped_text(new)
    head = _alike(plain, new)
    tail = _alike(plain[head:][::-1], new[head:][::-1])
    if plain.split() != new.split() and "".join(plain.split()) == "".join(new.split()):
        made = _with_blanks(plain, new)
        yield context.splice(span, made, f"white space varies there: {made}", 0.9 + near)
    lacks, has = (each[head : len(each) - tail] for each in (plain, new))
    before, after = escaped_text(plain[:head]), escaped_text(plain[len(plain) - tail :])
    instance = 0.3 * any(map(str.isdigit, has)) + 0.03 * len(has)
    if not (lacks and has) and plain.strip():
        piece = lacks or has
        if not piece.strip():
            # At the edge of a text it is rather the text that has too much.
            edge = 0.4 if context.case.text.endswith(new) or context.case.text.startswith(new) else 0.0
            for amount, cost in ((" ?" if len(piece) == 1 else " *", 0.95), (r"\s*", 1.0)):
                made = before + amount + after
                yield context.splice(span, made, f"white space varies there: {made}", cost + near + edge)
        optional = f"{escaped_text(piece)}?" if len(piece) == 1 else f"(?:{escaped_text(piece)})?"
        made = before + optional + after
        yield context.splice(span, made, f"{text_words(piece)} need not be there: {made}", 1.1 + instance + near)
    if len(lacks) == len(has) == 1:
        one, other = sorted((lacks, has), key=lambda each: (each == "-", each))
        made = f"{before}[{class_spelling(one)}{class_spelling(other)}]{after}"
        yield context.splice(span, made, f"{text_words(has)} may stand for {text_words(lacks)}: {made}", 1.0 + near)
    both = f"(?:{written}|{literal})"
    yield context.splice(span, both, f"{words}: {both}", 1.2 + instance + near)


def written_so(context: RepairContext) -> bool:
    """Tell whether the writer asks for white space by its shorthand elsewhere."""
    return any(isinstance(each, Shorthand) and each.spelling == r"\s" for each in context.nodes)


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
    new = list(dict.fromkeys(taken.wanted))
    longest = max(len(spelled(each)) for each in node.options)
    if len(new) > MOST_OPTIONS or any(len(each) > 2 * longest + 4 for each in new):
        return
    shapes = {_shape(spelled(each)) for each in node.options}
    cost = 1.0 if {_shape(each) for each in new} <= shapes else 1.25
    # A number among classes says little: it is one of many that may come.
    cost += 0.3 * (new[0].isdigit() and not any(map(literal_of, node.options)))
    cost += 0.2 * (len(new) - 1) + 0.05 * max(0, max(map(len, new)) - longest)
    if taken.own == context.case.text and not all(map(literal_of, node.options)):
        # The whole text as an option says nothing of what was meant.
        cost += 1.0
    added = "".join(f"|{escaped_text(each)}" for each in new)
    words = f"{text_words(new[0])} is no option of {spelled(node)}: {added}"
    yield context.splice((node.span[1], node.span[1]), added, words, cost + context.near(node) / 4)


def _shape(text: str) -> str:
    return "".join(
        "A" if each.isupper() else "a" if each.isalpha() else "9" if each.isdigit() else each for each in text[:1]
    )


def _other_amount(context: RepairContext, span: Span, node: Node, item: Node, taken: Taken) -> Iterator[Proposal]:
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
            sure = -0.1 if context.all_alike else 0.12 if counted else 0.25
            amounts = [(*wider, 0.1 + both), (*exact, sure + both)]
            if most is not None and len(set(lengths)) > 1:
                amounts.append((min(least, low, 1), None, 0.2 + both))
        else:
            # Where there was no quantifier, one that is usual is likelier than a count.
            usual = (min(1, low), None) if high > 1 else (0, 1)
            any_number = 0.07 if isinstance(item, Dot) else 0.3
            sure = 0.2 if context.all_alike and low == high else 0.45
            amounts = [(*usual, 0.1 + both), (*exact, sure + both), (0, None, any_number + both)]
    spellings: list[tuple[str, float, str]] = [(spelled(item), 0.0, "")]
    if lacking:
        spellings = list(_wider(context, item, lacking, taken))
    for new, cost, why in spellings:
        for fewest, greatest, more in amounts:
            changed = new + (quantifier(fewest, greatest) + mark if (fewest, greatest) != (1, 1) else "")
            if changed == old or (fewest, greatest) == (0, 0):
                continue
            shown = why or f"{old} stands where the text has {text_words(taken.own)}"
            yield put(changed, f"{shown}: {changed}", 1.0 + cost + more + near)


def _wider(context: RepairContext, item: Node, lacking: list[str], taken: Taken) -> Iterator[tuple[str, float, str]]:
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
    if isinstance(item, Dot | Character):
        return
    if isinstance(item, Shorthand) and item.negated:
        return
    inner = spelled(item)[1:-1] if isinstance(item, CharClass) else spelled(item)
    # Pieces are parted by blanks more often than one of them holds a blank.
    single = not isinstance(context.facts.parents.get(item), Repeat) or inner in (r"\d", "0-9")
    blank = single and any(each.isspace() for each in lacking)
    if len(lacking) <= 3:
        added = "".join(class_spelling(each) for each in sorted(lacking, key=lambda each: each == "-"))
        alnum = any(each.isalnum() for each in lacking)
        yield class_with(inner, added), 0.05 * len(lacking) + 0.25 * alnum + 0.4 * blank, why
    if inner in (r"\d", "0-9") and all(each in "abcdefABCDEF" for each in lacking):
        letters = "".join(
            kind for kind, test in (("A-F", str.isupper), ("a-f", str.islower)) if any(map(test, lacking))
        )
        yield f"[0-9{letters}]", 0.1 + 0.25 * (len(set(lacking)) < 2 < len(used)), why
    for spelling, _ in _KINDS:
        if all(map(takes(spelling, flags), lacking)):
            bare = spelling.strip("[]")
            yield class_with(inner, bare), 0.15 + 0.4 * blank, why
            break
    for spelling, _ in _KINDS:
        if used and all(map(takes(spelling, flags), used)):
            yield spelling, 0.3 if context.all_alike else 0.5, f"{spelled(item)} is meant as {spelling}"
            break


def _beside(context: RepairContext, span: Span) -> Iterator[str]:
    """Yield the characters that are spelled out right before and after a place."""
    for node in context.nodes:
        if isinstance(node, Character) and (node.span[1] == span[0] or node.span[0] == span[1]):
            yield node.character


def _parts_twins(context: RepairContext, span: Span) -> bool:
    """Tell whether a place lies between two repeats of the same piece."""
    return any(
        isinstance(one, Repeat)
        and isinstance(other, Repeat)
        and one.span[1] <= span[0] <= other.span[0]
        and spelled(one.item) == spelled(other.item)
        for one, other in context.pairs()
    )


def _optional_of_a_kind(context: RepairContext, span: Span, own: str, near: float) -> Iterator[Proposal]:
    """A mark with a word or a number, which may be lacking or come again: of a kind, as others in the expression are."""
    runs = re.findall(r"[^\W_]+|[\W_]", own)
    words = [each for each in runs if each.isalnum()]
    marks = len(runs) - len(words)
    if not words or len(runs) > 4:
        return
    what = f"there is {text_words(own)} in the text"
    # That it may be lacking is known where another text lacks it.
    cost = (1.05 if context.held else 1.35) + 0.05 * (len(runs) - 2) + near
    if not marks:
        kind = r"\d" if own.isdigit() else "[a-z]" if own.islower() else "[A-Z]" if own.isupper() else ""
        beside = context.case.text.partition(own)[0][-1:]
        if kind and beside.isalnum() and beside.isdigit() is not own.isdigit():
            optional = f"{kind}?" if len(own) == 1 else f"(?:{kind}{quantifier(len(own), len(own))})?"
            yield context.splice(span, optional, f"{what}: {optional}", cost + 0.2)
        return
    if own.strip() != own and not context.case.text.strip().find(own) >= 0:
        return
    made = "".join(_of_a_kind(context, each) if each.isalnum() else escaped_text(each) for each in runs)
    for amount, more in (("?", 0.0), ("*", 0.05)):
        optional = f"(?:{made}){amount}"
        yield context.splice(span, optional, f"{what}: {optional}", cost + more)


def _of_a_kind(context: RepairContext, run: str) -> str:
    """Return what takes a run of letters and digits: what the writer asks for elsewhere, or a shorthand."""
    written = [each.item for each in context.nodes if isinstance(each, Repeat)]
    known = [spelled(each) for each in written if isinstance(each, Shorthand | CharClass) and not each.negated]
    kinds = (r"\d",) if run.isdigit() else ()
    flags = context.parsed.flags - {"verbose"}
    taking = [each for each in dict.fromkeys((*kinds, *known, r"\w")) if all(map(takes(each, flags), run))]
    narrowest: str = min(taking, key=lambda each: sum(map(takes(each, flags), _SAMPLE)))
    return narrowest + "+"


_SAMPLE = "059afzAFZ_-. :"
"""Characters by which the wider of two classes is told."""


def _put_in(context: RepairContext, span: Span, taken: Taken) -> Iterator[Proposal]:
    """What the texts have between two pieces."""
    put = partial(context.splice, span)
    wanted, near = taken.wanted, context.near_span(span) / 4
    if context.case.expression[span[0] : span[0] + 1] == ")":
        # What stands at the edge of a group stands outside it rather.
        near += 0.1
    same = len(set(wanted)) == 1
    own = taken.own
    name = f"there is {text_words(own)} in the text"
    required = not any(not each for each in taken.held) and not taken.held
    alike = context.all_alike and required
    literal = escaped_text(own)
    if len(own) <= 20:
        yield from _optional_of_a_kind(context, span, own, near)
    if same and len(own) <= 20:
        optional = f"{literal}?" if len(own) == 1 else f"(?:{literal})?"
        mark = not any(map(str.isalnum, own))
        in_word = own.isalpha() and any(each.isalpha() for each in _beside(context, span))
        usual = 1.2 if mark else 1.4
        sure = (0.95 if mark else 1.15) if alike else 1.3 if mark or in_word else 1.45
        if mark and _parts_twins(context, span):
            # Two pieces alike one after the other were parted by something.
            sure, usual = 0.85, 1.1
        more = 0.3 * any(map(str.isdigit, own)) + 0.03 * len(own) + near
        yield put(optional, f"{name}: {optional}", usual + more)
        yield put(literal, f"{name}: {literal}", sure + more)
    lengths = {len(each) for each in wanted}
    for spelling, what in _KINDS:
        if all(map(takes(spelling, frozenset()), "".join(wanted))):
            if spelling == r"\s":
                yield put(r"\s*", f"there may be {what}: \\s*", (1.4 if len(own) > 1 or not same else 1.5) + near)
                yield put(r"\s+", f"there is {what}: \\s+", (1.45 if alike else 1.6) + near)
                if set("".join(wanted)) == {" "} and len(lengths) > 1:
                    yield put(" +", "there are blanks: ' +'", 1.35 + near)
                break
            several = quantifier(1, None) if max(lengths) > 1 else ""
            exact = f"{spelling}{{{max(lengths)}}}" if len(lengths) == 1 and max(lengths) > 1 else spelling + several
            longer = 0.0 if spelling != r"\w" else 0.1
            if max(lengths) == 1 and 1 < len(set(wanted)) <= 3 and not spelling.startswith("\\"):
                own_class = f"[{''.join(map(class_spelling, sorted(set(wanted))))}]"
                yield put(own_class, f"{name}: {own_class}", (1.3 if alike else 1.7) + near)
            yield put(exact, f"{name}: {exact}", (1.25 if alike and not same else 1.65) + longer + near)
            yield put(f"{spelling}*", f"{name}: {spelling}*", 1.6 + longer + near)
            if max(lengths) == 1:
                yield put(f"{spelling}?", f"{name}: {spelling}?", 1.55 + longer + near)
            break


RULES = (in_place, between)
