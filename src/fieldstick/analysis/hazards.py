"""Finds what in an expression will bite later: each hazard with its place, the reason and the remedy.

A hazard is named only where the expression alone shows it; what is merely unusual is left in peace.
"""

from __future__ import annotations

import re
from itertools import pairwise
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.analysis.facts import characters_of, facts_of
from fieldstick.engines.probing import character_test, fits
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Anchor,
    Backreference,
    Character,
    CharClass,
    Conditional,
    Dot,
    FlagSetting,
    Group,
    Look,
    Node,
    Range,
    Repeat,
    Sequence,
    Shorthand,
    children,
    literal_of,
    spelled,
    walk,
    without_asides,
)
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator
    from collections.abc import Sequence as Sequence_

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Span

MANY = 10
"""Turns from which on a repeat counts as endless when repeats nest."""


class Hazard(Struct, frozen=True):
    """Something that will bite later. `kind` is its name on the page docs/hazards.md."""

    kind: str
    span: Span
    reason: str
    remedy: str


def hazards(parsed: Parsed, reach: Reach = "whole") -> list[Hazard]:
    """Return the hazards of an expression, in the order of their places."""
    found = [hazard for finder in _FINDERS for hazard in finder(parsed, reach)]
    return sorted(set(found), key=lambda hazard: (hazard.span, hazard.kind))


def pattern_hazards(parsed: Parsed, reach: Reach, positive: Sequence_[str], *, has_fields: bool) -> list[Hazard]:
    """Return the hazards of a pattern's expression: what its samples and its field tables show too."""
    found = hazards(parsed, reach)
    known = {hazard.span for hazard in found}
    for node in facts_of(parsed).nodes:
        if isinstance(node, Dot) and positive and node.span not in known and not facts_of(parsed).is_repeated(node):
            pointed = parsed.expression[: node.span[0]] + r"\." + parsed.expression[node.span[1] :]
            if all(fits(pointed, parsed.flags, reach, text) for text in positive):
                reason = "in every positive sample a point stands here, and it takes any character"
                found.append(Hazard("dot-for-point", node.span, reason, "write \\. for a point"))
        elif isinstance(node, Group) and node.number and not node.name and has_fields and node.span not in known:
            reason = f"group {node.number} has no name in a pattern with fields; its number shifts with the next group"
            found.append(Hazard("number-shifts", node.span, reason, "name it, or write (?:...) to capture nothing"))
    return sorted(set(found), key=lambda hazard: (hazard.span, hazard.kind))


def _classes(parsed: Parsed) -> Iterator[CharClass]:
    return (node for node in facts_of(parsed).nodes if isinstance(node, CharClass))


def _wide_range(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for each in _classes(parsed):
        for item in each.items:
            if isinstance(item, Range) and _crosses_punctuation(item):
                between = [chr(code) for code in range(ord(item.first.character), ord(item.last.character) + 1)]
                extra = "".join(character for character in between if not character.isalnum())
                remedy = "name each kind, as in [A-Za-z] or [0-9A-Za-z]"
                yield Hazard("wide-range", item.span, f"{spelled(item)} takes in {extra} as well", remedy)


def _crosses_punctuation(item: Range) -> bool:
    first, last = item.first, item.last
    plain = len(first.spelling) == 1 and len(last.spelling) == 1
    ends = first.character.isascii() and last.character.isascii()
    return plain and ends and first.character.isalnum() and last.character.isalnum() and _kind(first) != _kind(last)


def _kind(item: Character) -> str:
    return "digit" if item.character.isdigit() else "capital" if item.character.isupper() else "small"


def _bar_in_class(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for each in _classes(parsed):
        texts = [item.character if isinstance(item, Character) else "" for item in each.items]
        for index in range(1, len(texts) - 1):
            if texts[index] == "|" and _letter(texts[index - 1]) and _letter(texts[index + 1]):
                reason = "inside [...] a | is itself, not an alternative"
                remedy = f"leave it out, or write ({'|'.join(''.join(texts).split('|'))}) for alternatives"
                yield Hazard("bar-in-class", each.items[index].span, reason, remedy)
                break


def _letter(text: str) -> bool:
    return text.isalnum()


_FOREIGN_IN_CLASS = re.compile(r"\[:\^?[a-z]+:|&&\[|--\[")


def _other_notation(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for each in _classes(parsed):
        found = _FOREIGN_IN_CLASS.search(spelled(each))
        if found:
            reason = f"{found[0]} in a class is notation of other engines; here these are characters like any other"
            yield Hazard("other-notation", each.span, reason, "spell the characters out, as in [A-Za-z] or \\w")


_VOWELS = frozenset("aeiou")


def _word_in_class(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    repeated = {id(node.item) for node in facts_of(parsed).nodes if isinstance(node, Repeat)}
    for each in _classes(parsed):
        if (
            id(each) in repeated
            or each.negated
            or not all(isinstance(item, Character) and len(item.spelling) == 1 for item in each.items)
        ):
            continue
        word = "".join(item.character for item in each.items if isinstance(item, Character))
        mixed = _VOWELS & set(word) and set(word) - _VOWELS
        if len(word) >= 4 and word.isascii() and word.islower() and word.isalpha() and mixed and _reads_as_word(word):
            reason = f"[{word}] is one character out of these, not the word {word}"
            yield Hazard("word-in-class", each.span, reason, f"write (?:{word}) for the word")


def _reads_as_word(word: str) -> bool:
    """Letters in the order of the alphabet are a list; a word repeats a letter or alternates vowels."""
    if list(word) == sorted(word):
        return False
    turns = sum((one in _VOWELS) != (other in _VOWELS) for one, other in pairwise(word))
    return len(set(word)) < len(word) or (turns >= 2 and len(word) >= 5)


def _twice_in_class(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for each in _classes(parsed):
        seen: list[Node] = []
        for item in each.items:
            double = next((other for other in seen if _covers(other, item) or _covers(item, other)), None)
            if double is not None:
                reason = f"{spelled(item)} is in the class already, by {spelled(double)}"
                if not _covers(double, item):
                    reason = f"{spelled(item)} takes in {spelled(double)}, which is in the class already"
                elif spelled(item) == spelled(double):
                    reason = f"{spelled(item)} is in the class twice"
                yield Hazard("twice-in-class", item.span, reason, "leave one of them out")
                break
            seen.append(item)


def _covers(one: Node, other: Node) -> bool:
    if isinstance(one, Character | Range) and isinstance(other, Character | Range):
        return characters_of(other) <= characters_of(one)
    if isinstance(one, Shorthand) and not one.negated:
        if isinstance(other, Shorthand):
            return spelled(one) == spelled(other) or (one.name, other.name, other.negated) == ("word", "digit", False)
        return one.name in ("digit", "word", "space") and _takes_all(one, other)
    return False


def _takes_all(one: Node, other: Node) -> bool:
    test = character_test(spelled(one), frozenset({"ascii"}))
    if isinstance(other, Range):
        return test(other.first.character) and test(other.last.character) and _kind(other.first) == _kind(other.last)
    return isinstance(other, Character) and test(other.character)


def _anchored_alternation(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Alternation):
            continue
        edges = [_edges(option) for option in node.options]
        first, last = edges[0], edges[-1]
        bodies = {body for _, _, body in edges}
        lopsided = first[0] and not first[1] and last[1] and not last[0]
        if lopsided and len(bodies) > 1 and all(bodies) and "multiline" not in parsed.flags:
            reason = "the first anchor belongs to the first option alone, the last to the last alone"
            inner = spelled(node).strip("^$")
            yield Hazard("anchored-alternation", node.span, reason, f"write ^(?:{inner})$")


def _edges(option: Node) -> tuple[bool, bool, str]:
    """Tell whether an option begins with ^, whether it ends with $, and what stands between."""
    items = without_asides(option.items) if isinstance(option, Sequence) else (option,)
    starts = bool(items) and isinstance(items[0], Anchor) and items[0].name in ("line-start", "text-start")
    ends = bool(items) and isinstance(items[-1], Anchor) and items[-1].name in ("line-end", "text-end")
    inner = items[1 if starts else 0 : len(items) - (1 if ends else 0)]
    return starts, ends, "".join(map(spelled, inner))


def _dot_in_number(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for node in facts_of(parsed).nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for before, dot, after in zip(items, items[1:], items[2:], strict=False):
            if isinstance(dot, Dot) and _is_digits(before) and _is_digits(after):
                reason = "a bare . between digits takes any character"
                yield Hazard("dot-in-number", dot.span, reason, "write \\. for a point")


def _is_digits(node: Node) -> bool:
    if isinstance(node, Repeat):
        return _is_digits(node.item)
    if isinstance(node, Group):
        return _is_digits(node.body)
    if isinstance(node, Shorthand):
        return node.name == "digit" and not node.negated
    if isinstance(node, CharClass):
        return not node.negated and all(_is_digits(item) for item in node.items)
    if isinstance(node, Range):
        return node.first.character.isdigit() and node.last.character.isdigit()
    return isinstance(node, Character) and node.character.isdigit()


def _takes_anything(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    asking = [node for node in facts_of(parsed).nodes if isinstance(node, SINGLE | Backreference | Look)]
    repeats = [node for node in facts_of(parsed).nodes if isinstance(node, Repeat) and isinstance(node.item, Dot)]
    if repeats and len(asking) == len(repeats) and all(each.most is None for each in repeats):
        yield Hazard("takes-anything", repeats[0].span, "this fits almost any text", "say what must be there")
        return
    for node in facts_of(parsed).nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for before, middle, after in zip(items, items[1:], items[2:], strict=False):
            dots = _greedy_dots(middle)
            mark = literal_of(before)
            if dots and mark and mark[-1] == (literal_of(after) or " ")[0] and mark[-1] in "\"'`|/%*":
                reason = f"it takes as much as it can, over every {mark[-1]} up to the last one"
                remedy = f"write [^{mark[-1]}]* so that it ends at the next {mark[-1]}"
                yield Hazard("takes-anything", dots.span, reason, remedy)


def _greedy_dots(node: Node) -> Repeat | None:
    inner = node.body if isinstance(node, Group) else node
    endless = isinstance(inner, Repeat) and isinstance(inner.item, Dot) and inner.most is None
    return inner if endless and isinstance(inner, Repeat) and inner.mode == "greedy" else None


def _number_shifts(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    if not any(parsed.groups) or all(parsed.groups):
        return
    for node in facts_of(parsed).nodes:
        if isinstance(node, Group) and node.kind == "capture" and node.name is None:
            reason = (
                f"group {node.number} has no name among groups that have one; its number shifts with the next group"
            )
            yield Hazard("number-shifts", node.span, reason, "name it, or write (?:...) if nothing is to be captured")
            return


def _matches_nothing(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    asks = any(isinstance(node, Anchor | Look) for node in facts_of(parsed).nodes)
    if reach != "whole" and not asks and parsed.expression and width(parsed.tree, parsed.widths)[0] == 0:
        reason = "it can match nothing, and so fits every text"
        yield Hazard("matches-nothing", parsed.tree.span, reason, "ask for at least one character: + in place of *")


def _bounds_never_met(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Repeat):
            continue
        if node.most == 0:
            yield Hazard("bounds-never-met", node.span, f"{node.quantifier} asks for none of it", "leave it out")
        elif node.least >= 2 and _starts_at_text_start(node.item, parsed) and width(node.item, parsed.widths)[0]:
            reason = "what begins at the start of the text cannot come twice"
            yield Hazard("bounds-never-met", node.span, reason, "take the anchor out of what is repeated")


def _starts_at_text_start(node: Node, parsed: Parsed) -> bool:
    inner = node.body if isinstance(node, Group) else node
    items = without_asides(inner.items) if isinstance(inner, Sequence) else (inner,)
    first = items[0] if items else inner
    return isinstance(first, Anchor) and _is_text_start(first, parsed)


def _is_text_start(node: Anchor, parsed: Parsed) -> bool:
    return node.name == "text-start" or (node.name == "line-start" and not _multiline(parsed))


def _multiline(parsed: Parsed) -> bool:
    return "multiline" in parsed.flags or any(isinstance(n, Group) and "m" in n.on for n in facts_of(parsed).nodes)


def _hidden_option(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Alternation):
            continue
        last = reach != "whole" and node.span[1] == _end_of_asking(parsed)
        for index, later in enumerate(node.options):
            hider = next((each for each in node.options[:index] if _hides(each, later, prefix=last)), None)
            if hider is not None:
                reason = f"'{spelled(later)}' is never reached: '{spelled(hider)}' before it takes the same"
                remedy = "put the longer option first" if spelled(hider) != spelled(later) else "leave it out"
                yield Hazard("hidden-option", later.span, reason, remedy)
                break


def _end_of_asking(parsed: Parsed) -> int:
    """Return where an option would end after which nothing more is asked for."""
    return len(parsed.expression) if isinstance(parsed.tree, Alternation) else -1


def _hides(one: Node, other: Node, *, prefix: bool) -> bool:
    if spelled(one) == spelled(other):
        return not any(isinstance(node, Group) and node.number for node in walk(one))
    first, second = literal_of(one), literal_of(other)
    if prefix and first and second:
        return second.startswith(first)
    return isinstance(one, Shorthand) and isinstance(other, SINGLE) and _covers(one, other)


def _absent_reference(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    optional: set[int] = set()
    _collect_optional(parsed.tree, False, optional)
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Backreference) or node.number not in optional or _may_be_left_out(parsed.tree, node):
            continue
        if not _same_option(parsed.tree, node):
            reason = f"group {node.number} may take no part, and then this can never match"
            remedy = f"write (?({node.number})...) around it, or let the group match nothing"
            yield Hazard("absent-reference", node.span, reason, remedy)


def _collect_optional(node: Node, maybe: bool, found: set[int]) -> None:
    if isinstance(node, Group) and node.number is not None and maybe:
        found.add(node.number)
    maybe = maybe or isinstance(node, Alternation | Conditional) or (isinstance(node, Repeat) and node.least == 0)
    for child in children(node):
        _collect_optional(child, maybe, found)


def _may_be_left_out(tree: Node, reference: Backreference) -> bool:
    return any(
        (isinstance(node, Repeat) and node.least == 0 and reference in list(walk(node.item)))
        or (isinstance(node, Alternation | Conditional) and reference in list(walk(node)))
        for node in walk(tree)
    )


def _same_option(tree: Node, reference: Backreference) -> bool:
    """Tell whether a reference stands in every optional piece that its group stands in."""
    for node in walk(tree):
        pieces: tuple[Node, ...] = ()
        if isinstance(node, Alternation):
            pieces = node.options
        elif isinstance(node, Repeat) and node.least == 0:
            pieces = (node.item,)
        elif isinstance(node, Conditional):
            pieces = children(node)
        for piece in pieces:
            inside = list(walk(piece))
            holds = any(isinstance(each, Group) and each.number == reference.number for each in inside)
            if holds and reference not in inside:
                return False
    return True


def _nested_repeats(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for node in facts_of(parsed).nodes:
        if isinstance(node, Repeat) and _endless(node) and node.mode != "possessive" and isinstance(node.item, Group):
            inner = _ambiguous_repeat(node.item)
            if inner is not None:
                reason = f"{inner.quantifier} inside {node.quantifier}: the same text can be shared out in endless ways"
                yield Hazard(
                    "nested-repeats", node.span, reason, "keep one of the two quantifiers, or make one possessive"
                )


def _endless(node: Repeat) -> bool:
    return node.most is None or node.most >= MANY


def _ambiguous_repeat(group: Group) -> Repeat | None:
    """Return a repeat that is all a turn needs to take, so that one turn can do the work of several."""
    if group.kind == "atomic":
        return None
    options = group.body.options if isinstance(group.body, Alternation) else (group.body,)
    for option in options:
        items = without_asides(option.items) if isinstance(option, Sequence) else (option,)
        for item in items:
            found = item if isinstance(item, Repeat) else None
            if isinstance(item, Group) and len(items) == 1:
                found = _ambiguous_repeat(item)
            if found is None or not _endless(found) or found.mode == "possessive":
                continue
            others = [other for other in items if other is not item]
            if all(width(other)[0] == 0 and not isinstance(other, Look | Anchor) for other in others):
                return found
    return None


def _boundary_by_mark(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    for node in _edge_sequences(parsed.tree):
        items = without_asides(node.items)
        for boundary, beside, side in ((items[0], items[1], "before"), (items[-1], items[-2], "after")):
            mark = literal_of(beside)
            edge = (mark or "a")[0 if side == "before" else -1]
            if isinstance(boundary, Anchor) and boundary.name == "boundary" and not (edge.isalnum() or edge == "_"):
                reason = f"{edge!r} is no word character, so \\b asks for a letter or digit {side} it"
                yield Hazard("boundary-by-mark", boundary.span, reason, "leave \\b out there")


def _edge_sequences(tree: Node) -> Iterator[Sequence]:
    options = tree.options if isinstance(tree, Alternation) else (tree,)
    return (each for each in options if isinstance(each, Sequence) and len(without_asides(each.items)) > 1)


def _anchor_never_holds(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    if _multiline(parsed):
        return
    for node in facts_of(parsed).nodes:
        items = without_asides(node.items) if isinstance(node, Sequence) else ()
        for index, item in enumerate(items):
            if not isinstance(item, Anchor):
                continue
            if item.name in ("line-start", "text-start") and _takes_something(items[:index], parsed):
                yield Hazard(
                    "anchor-never-holds",
                    item.span,
                    "something stands before it, so it can never hold",
                    "leave it out, or write \\^",
                )
            elif item.name in ("line-end", "text-end") and _takes_something(items[index + 1 :], parsed, but="\n"):
                yield Hazard(
                    "anchor-never-holds",
                    item.span,
                    "something must follow it, so it can never hold",
                    "leave it out, or write \\$",
                )


def _takes_something(items: tuple[Node, ...], parsed: Parsed, *, but: str = "") -> bool:
    asking = [item for item in items if width(item, parsed.widths)[0] > 0]
    if not asking:
        return False
    return not but or not any(_may_take(each, but, parsed) for each in asking)


def _may_take(node: Node, character: str, parsed: Parsed) -> bool:
    singles = [each for each in walk(node) if isinstance(each, SINGLE)]
    flags = parsed.flags & {"dotall", "ascii"}
    return any(character_test(spelled(each), flags)(character) for each in singles)


def _class_wider(parsed: Parsed, reach: Reach) -> Iterator[Hazard]:
    inline = any(isinstance(node, FlagSetting) and "i" in node.flags for node in facts_of(parsed).nodes)
    if "ignore-case" not in parsed.flags or inline:
        return  # whoever wrote the flag into the expression sees it
    for each in _classes(parsed):
        kinds = {_kind(item.first) for item in each.items if isinstance(item, Range) and item.first.character.isalpha()}
        if len(kinds) == 1 and not each.negated:
            other = "capitals" if kinds == {"small"} else "small letters"
            item = next(item for item in each.items if isinstance(item, Range) and item.first.character.isalpha())
            reason = f"with ignore-case, {spelled(item)} takes {other} too"
            yield Hazard(
                "class-wider", item.span, reason, "write both cases, or take the flag away from here with (?-i:...)"
            )


_FINDERS: tuple[Callable[[Parsed, Reach], Iterator[Hazard]], ...] = (
    _wide_range,
    _bar_in_class,
    _other_notation,
    _word_in_class,
    _twice_in_class,
    _anchored_alternation,
    _dot_in_number,
    _takes_anything,
    _number_shifts,
    _matches_nothing,
    _bounds_never_met,
    _hidden_option,
    _absent_reference,
    _nested_repeats,
    _boundary_by_mark,
    _anchor_never_holds,
    _class_wider,
)
