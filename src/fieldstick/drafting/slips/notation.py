"""Slips of notation: braces, escapes and backslashes, shorthands."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, class_spelling, escaped, escaped_text, written_alike
from fieldstick.drafting.phrases import character_words, phrase
from fieldstick.drafting.slips.framing import free_marks
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Aside,
    Character,
    CharClass,
    Group,
    Repeat,
    Shorthand,
    once,
    spelled,
)

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from fieldstick.drafting.context import MatchCase, RepairContext
    from fieldstick.syntax.tree import Node, Span


MOST_IN_CLASS = 30
"""Characters after a class up to which another closing bracket may be its own."""

_BOUNDS_MISWRITTEN = compiled_later(
    r"\{\s*(\d+)\s*(?:[-;:.|~_/+]|\.\.|, | ,| )\s*(\d*)\s*\}|\{\s+(\d+)\s*\}|<(\d+)(?:,(\d*))?>"
)


_ONE = (Character, CharClass, Shorthand, Group, Repeat)
"""Pieces that a group may be of."""

_LINE_END = compiled_later(r"(?:(?:\\r\??)?\\n|\\r)[?*+]?$")


def line_end(context: RepairContext) -> Iterator[Proposal]:
    """`\\n` at the end, which the texts come without."""
    found = _LINE_END.search(context.case.expression)
    if found is not None and not {"\n", "\r"} & {*context.characters}:
        yield context.splice(found.span(), "", f"the texts come without their line ends: without {found[0]}", 0.7)


def left_over(context: RepairContext) -> Iterator[Proposal]:
    """A closing mark that nothing opens, and that the text has not."""
    for node in context.nodes:
        lone = isinstance(node, Character) and node.spelling in ("]", "}") and node.spelling not in context.case.text
        if lone and not context.facts.is_in_class(node) and not context.facts.is_repeated(node):
            yield context.splice(node.span, "", f"{spelled(node)} is too many", 0.9 + context.near(node) / 4)


def class_unclosed(context: RepairContext) -> Iterator[Proposal]:
    """`[0-9{4}-[0-9]{4}` written for `[0-9]{4}-[0-9]{4}`: the class goes on up to the bracket of the next one."""
    for node in context.nodes:
        inner = spelled(node)[1:] if isinstance(node, CharClass) else ""
        if re.search(r"(?<!\\)\[", inner):
            for found in re.finditer(r"(?<=[\w\\.-])(?:\{\d|[+*?])", inner):
                at = node.span[0] + 1 + found.start()
                yield context.splice((at, at), "]", "a class is not closed: ]", 0.6)


_BARS = compiled_later(r"(?<![\\|])\|(\|{1,2})\|(?!\|)|(?<![\\|])\|(\|\|)(?=\)|$)")


def bars_meant(context: RepairContext) -> Iterator[Proposal]:
    """`<<||||&&` for `<<|\\|\\||&&`: bars of the text as an option, rather than empty ones."""
    if not any("|" in each for each in (context.case.text, *context.missed)):
        return
    for found in _BARS.finditer(context.case.expression):
        place = 1 if found[1] else 2
        literal = escaped_text(found[place])
        yield context.splice(found.span(place), literal, f"{found[place]} is meant as itself: {literal}", 0.6)


def slashes_meant(context: RepairContext) -> Iterator[Proposal]:
    """`/d` for `\\d`, everywhere."""
    expression = context.case.expression
    made = re.sub(r"/(?=[dwsDWS](?:[+*?{)\]]|$))", r"\\", expression)
    if made != expression and "/" not in context.case.text:
        yield Proposal(replace(context.case, expression=made), "the slashes are meant as backslashes", 0.6)


def dollar_references(context: RepairContext) -> Iterator[Proposal]:
    """`$1` for `\\1`, as other programs refer to a group, the dollar maybe escaped."""
    expression = context.case.expression
    made = re.sub(r"\\?\$(\d)", r"\\\1", expression)
    if made != expression and not re.search(r"\$\d", context.case.text):
        words = f"a group is referred to by a backslash here: {made}"
        yield Proposal(replace(context.case, expression=made), words, 0.6)


def braces(context: RepairContext) -> Iterator[Proposal]:
    """`(3)` written for `{3}`, and `[3]` too."""
    for before, node in context.pairs():
        inner = spelled(node)[1:-1]
        counted = inner.replace(",", "", 1).isdigit() and not isinstance(before, Repeat)
        if counted and isinstance(node, Group | CharClass) and (not isinstance(node, Group) or node.opening == "("):
            bounds = f"{{{inner}}}"
            yield context.splice(
                node.span, bounds, f"{spelled(node)} is meant as a quantifier: {bounds}", 0.5 + context.near(node) / 5
            )


def written_bounds(context: RepairContext) -> Iterator[Proposal]:
    """`{3-5}` or `{3, 5}` written for `{3,5}`."""
    for found in _BOUNDS_MISWRITTEN.finditer(context.case.expression):
        low, high = (found[1], found[2]) if found[1] else (found[3] or found[4], found[5])
        bounds = f"{{{low}}}" if high is None else f"{{{low},{high}}}"
        yield context.splice(found.span(), bounds, f"{found[0]} is meant as a quantifier: {bounds}", 0.5)


_NOT_CLOSED = compiled_later(r"\{(\d+(?:,\d*)?|,\d+)(?![\d,}])[\])>]?")
_NOT_OPENED = compiled_later(r"(?<=[dwsDWS\]).])(\d+(?:,\d*)?)\}")
_COUNT_ALONE = compiled_later(r"(?<=\\[dwsDWS])(\d{1,2})(?![\d}])|(?<=\])(\d{1,2})(?![\d}])")


def braces_lost(case: MatchCase) -> Iterator[Proposal]:
    """`\\d{3`, `\\d{3)`, `\\d3}` and `\\d3` written for `\\d{3}`."""
    expression = case.expression
    for pattern, likely in ((_NOT_CLOSED, 0.6), (_NOT_OPENED, 0.6), (_COUNT_ALONE, 0.95)):
        for found in pattern.finditer(expression):
            bounds = f"{{{found[1] or found[2]}}}"
            ends = {found.end(), found.end(1)} if pattern is _NOT_CLOSED else {found.end()}
            for end in ends:
                shown = expression[found.start() : end]
                made = expression[: found.start()] + bounds + expression[end:]
                words = f"{shown} is meant as a quantifier: {bounds}"
                # A closing mark of another kind is likelier one of a group.
                more = 0.05 * (end == found.end(1) and found.end() > end)
                yield Proposal(replace(case, expression=made), words, likely + more)
    if len(_COUNT_ALONE.findall(expression)) > 1:
        made = _COUNT_ALONE.sub(lambda found: f"{{{found[1] or found[2]}}}", expression)
        yield Proposal(replace(case, expression=made), "each number after a class is meant as a quantifier", 0.85)


_NAME_ALONE = compiled_later(r"(?<!\\)\(P?(?=<[^\W\d]\w*>)")
_NAME_BARE = compiled_later(r"(?<![(\\?])\??P<[^\W\d]\w*>|(?<=\\\()\?P<[^\W\d]\w*>")


def name_without_mark(context: RepairContext) -> Iterator[Proposal]:
    r"""`(P<site>…)`, `(<site>…)`, `?P<site>…` and `\(?P<site>…\)` written for `(?P<site>…)`."""
    expression, words = context.case.expression, "a group is named by (?P<name>…) here: "
    # Where the text has the mark, it may well be asked for.
    marked = "<" in context.case.text
    for found in _NAME_ALONE.finditer(expression):
        if found[0] == "(P" or not marked:
            yield context.splice(found.span(), "(?P", f"{words}(?P", 0.6)
    for found in _NAME_BARE.finditer(expression) if not marked else ():
        ends = [node.span[1] for node in context.nodes if node.span[0] == found.end() and isinstance(node, _ONE)]
        if ends:
            name, end = found[0].lstrip("?"), max(ends)
            new = f"(?{name}{expression[found.end() : end]})"
            yield context.splice((found.start(), end), new, words + new, 0.55)


def lost_braces(context: RepairContext) -> Iterator[Proposal]:
    """See `braces_lost`."""
    yield from braces_lost(context.case)


def literal_backslashes(case: MatchCase) -> Iterator[Proposal]:
    """Backslashes that stand in the text, and mean something in the expression."""
    found_all = list(re.finditer(r"\\.", case.expression, re.DOTALL))
    escapes = [found for found in found_all if found[0] in case.text]
    if not escapes:
        return
    # A bracket that the text has not is one of the expression, and the backslash before it one of the text.
    opened = [found for found in found_all if found[0] in (r"\(", r"\[") and found[0][1] not in case.text]
    ways = [sorted([*escapes, *opened], key=lambda found: found.start())] if opened else []
    for several in ways + ([escapes] if len(escapes) > 1 else []) + [[each] for each in escapes]:
        made = case.expression
        for found in reversed(several):
            made = made[: found.start()] + "\\" + made[found.start() :]
        words = f"the backslash of {several[0][0]} stands in the text: \\{several[0][0]}"
        each_time = ", each time" if len(several) > 1 else ""
        yield Proposal(replace(case, expression=made), words + each_time, 0.55)


def backslashes_meant(context: RepairContext) -> Iterator[Proposal]:
    """See `literal_backslashes`."""
    yield from literal_backslashes(context.case)


_WITH_DIGITS = compiled_later(r"[^\W\d_]\d|\d[^\W\d_]")


def shorthand_case(context: RepairContext) -> Iterator[Proposal]:
    for node in context.nodes:
        if isinstance(node, Shorthand) and len(node.spelling) == 2:
            other = node.spelling.swapcase()
            meant = phrase(replace(node, negated=not node.negated), context.parsed.flags, short=True)
            words = f"{node.spelling} is meant as {other}: {meant}"
            likely = 0.8 if node.negated else 1.05
            # Of a word with digits it would take a part.
            part = context.case.reach != "whole" and _WITH_DIGITS.search(context.case.text) is not None
            likely += 0.4 * (part and node.name == "digit" and not node.negated)
            yield context.splice(node.span, other, words, likely + context.near(node) / 2)
        elif isinstance(node, Anchor) and node.spelling in ("\\b", "\\B"):
            other = node.spelling.swapcase()
            likely = 0.9 if other == "\\b" else 1.4
            yield context.splice(node.span, other, f"{node.spelling} is meant as {other}", likely)


def escapes(context: RepairContext) -> Iterator[Proposal]:
    """Characters that mean something, written for themselves."""
    expression, texts = context.case.expression, (context.case.text, *context.missed)
    for node in context.nodes:
        near = context.near(node) / 2
        if isinstance(node, Repeat) and node.quantifier[0] in "*+?{":
            start = node.span[1] - len(node.quantifier)
            shown = expression[start : node.span[1]]
            literal = escaped_text(shown)
            if node.mode == "possessive" and "+" in context.case.text:
                words = f"the + after {shown[:-1]} is meant as itself: \\+"
                yield context.splice((node.span[1] - 1, node.span[1]), "\\+", words, 0.7 + near)
            if shown in context.case.text or shown[0] in context.case.text:
                yield context.splice(
                    (start, node.span[1]), literal, f"{shown} is meant as itself: {literal}", 0.7 + near
                )
                if len(shown) == 2:
                    first = escaped(shown[0]) + shown[1]
                    yield context.splice(
                        (start, node.span[1]), first, f"{shown[0]} is meant as itself: {first}", 0.75 + near
                    )
        elif isinstance(node, Anchor) and node.spelling in "^$" and any(node.spelling in each for each in texts):
            yield context.splice(
                node.span, "\\" + node.spelling, f"{node.spelling} is meant as itself: \\{node.spelling}", 0.7 + near
            )
        elif isinstance(node, Group) and node.opening == "(" and "(" in context.case.text:
            inner = spelled(node.body)
            words = "the parentheses are meant as themselves: \\( \\)"
            yield context.splice(node.span, f"\\({inner}\\)", words, 0.7 + near)
            yield context.splice(
                node.span, f"\\(({spelled(node.body)})\\)", "the parentheses stand in the text too: \\( \\)", 1.3 + near
            )
        elif isinstance(node, CharClass) and "[" in context.case.text:
            inner = expression[node.span[0] + 1 : node.span[1] - 1]
            yield context.splice(
                node.span, f"\\[{inner}\\]", "the brackets are meant as themselves: \\[ \\]", 0.7 + near
            )
        elif isinstance(node, Alternation) and "|" in context.case.text:
            options = [spelled(option) for option in node.options]
            yield context.splice(node.span, "\\|".join(options), "| is meant as itself: \\|", 0.7 + near)


LONGEST_POINTED = 400
"""Code points of an expression up to which its points are looked at once more."""

_POINT = compiled_later(r"(?<!\\)\.(?![*+?{])([A-Za-z]+|\d+(?![*+?{])|(?=\\?\)|\\[wd]|\[))")


def with_points(offered: Iterable[Proposal]) -> Iterator[Proposal]:
    """Yield changes, and each with the points of the text escaped as well: who forgot it once forgot it twice."""
    for each in offered:
        yield each
        text = each.case.text
        if "." not in text or len(each.case.expression) > LONGEST_POINTED:
            continue

        def point(found: re.Match[str], text: str = text) -> str:
            return "\\" + found[0] if f".{found[1]}" in text else found[0]

        made = _POINT.sub(point, each.case.expression)
        if made != each.case.expression and "[" not in made.replace("\\[", ""):
            words = f"{each.words}, and the points too"
            yield Proposal(replace(each.case, expression=made), words, each.cost - 0.05)


def escapes_with_points(context: RepairContext) -> Iterator[Proposal]:
    """See `escapes` and `with_points`."""
    yield from with_points(escapes(context))


_SHORTHANDS = ("d", "w", "s", "D", "W", "S")
"""Letters that mean a kind of characters behind a backslash."""


def backslashes(context: RepairContext) -> Iterator[Proposal]:
    """A backslash forgotten, doubled, or the wrong way round."""
    expression = context.case.expression
    for node in context.nodes:
        near = context.near(node) / 2
        letter = once(node)
        if isinstance(letter, Character) and _lacks_backslash_in_class(context, letter):
            meant = "\\" + letter.spelling
            yield context.splice(letter.span, meant, f"{letter.spelling} is meant as {meant} there", 0.6)
        if isinstance(letter, Character) and letter.spelling in _SHORTHANDS:
            beside = expression[letter.span[0] - 1 : letter.span[0]] + expression[letter.span[1] : letter.span[1] + 1]
            in_word = not (isinstance(node, Repeat) or context.facts.is_in_class(letter)) and any(
                map(str.isalpha, beside)
            )
            # Of capitals in a class each is one.
            in_word = in_word or (letter.spelling.isupper() and any(map(str.isupper, beside)))
            cost = 0.8 if isinstance(node, Repeat) else 1.1 + 0.4 * in_word
            words = f"{letter.spelling} is meant as \\{letter.spelling}"
            yield context.splice(letter.span, "\\" + letter.spelling, words, cost + near)
        if isinstance(node, Character) and node.spelling in (r"\.", r"\*", r"\+", r"\?", r"\|", r"\^", r"\$"):
            bare = node.spelling[1]
            after_backslash = re.search(r"\\\\(?:\((?:\?:)?)?$", expression[: node.span[0]]) is not None
            likely = 0.85 if context.facts.is_repeated(node) else 1.05 if after_backslash else 1.3
            cost = 1.0 if bare in "*+?|" else likely
            yield context.splice(node.span, bare, f"{node.spelling} is meant without its backslash", cost + near)
        if isinstance(node, Character) and node.spelling == r"\(":
            yield from _unescaped_pair(context, node, near)
    for one, other in context.pairs():
        letter = once(other)
        slash = isinstance(one, Character) and one.spelling in ("\\\\", "/")
        if slash and isinstance(letter, Character) and letter.spelling in ("d", "w", "s", "b", "."):
            span = (one.span[0], letter.span[1])
            meant = "\\" + letter.spelling
            words = f"{spelled(one)}{letter.spelling} is meant as {meant}"
            yield context.splice(span, meant, words, 0.8 + context.near(one) / 2)


def _lacks_backslash_in_class(context: RepairContext, letter: Character) -> bool:
    """Tell whether a letter stands in a class with the shorthand of its opposite, or is one of `[^W\\d_]`."""
    around = context.facts.parents.get(letter)
    if not isinstance(around, CharClass) or letter.spelling not in _SHORTHANDS:
        return False
    inner = spelled(around)
    opposite = "\\" + letter.spelling.swapcase()
    return opposite in inner or (letter.spelling == "W" and inner.startswith("[^W") and r"\d" in inner)


def backslash_in_class(context: RepairContext) -> Iterator[Proposal]:
    """`[^s=]` for `[^\\s=]`, and `[^W\\d]` for `[^\\W\\d]`, where white space or a mark got through."""
    for node in context.nodes:
        around = context.facts.parents.get(node)
        if not isinstance(node, Character) or not isinstance(around, CharClass) or not around.negated:
            continue
        known = _lacks_backslash_in_class(context, node)
        others = [each for each in around.items if isinstance(each, Character) and each.spelling.isalpha()]
        if known or (node.spelling in ("s", "w", "d", "S") and others == [node]):
            meant = "\\" + node.spelling
            yield context.splice(node.span, meant, f"{node.spelling} is meant as {meant} there", 0.6 if known else 0.85)


_ESCAPED_CLASS = compiled_later(r"\\\[((?:\\[dwsDWS]|[^\[\]\\])+)\\\]")


def brackets_escaped(context: RepairContext) -> Iterator[Proposal]:
    """`\\[A-F\\]` written for `[A-F]`, where the text has no brackets."""
    for found in _ESCAPED_CLASS.finditer(context.case.expression) if "[" not in context.case.text else ():
        yield context.splice(found.span(), f"[{found[1]}]", f"the brackets are meant as a class: [{found[1]}]", 0.8)


def _unescaped_pair(context: RepairContext, opening: Character, near: float) -> Iterator[Proposal]:
    expression = context.case.expression
    closing = expression.find(r"\)", opening.span[1])
    if closing > 0:
        inner = expression[opening.span[1] : closing]
        span = (opening.span[0], closing + 2)
        yield context.splice(span, f"({inner})", "the parentheses are meant as a group", 1.2 + near)


def blanks_in_verbose(context: RepairContext) -> Iterator[Proposal]:
    if "verbose" not in context.parsed.flags:
        return
    for node in context.nodes:
        if isinstance(node, Aside) and node.kind == "blank":
            yield context.splice(node.span, "\\ ", "a blank is left out in verbose notation: write '\\ '", 1.0)


_NESTED_CLASS = compiled_later(r"\[(\[[^\]\[:]+\])\]")


def brackets_doubled(context: RepairContext) -> Iterator[Proposal]:
    """`[[A-Z]]` for `[A-Z]`."""
    for found in _NESTED_CLASS.finditer(context.case.expression):
        yield context.splice(found.span(), found[1], f"brackets are written twice: {found[1]}", 0.65)


def brackets_in_class(context: RepairContext) -> Iterator[Proposal]:
    """A class that was closed too early, by a bracket that was meant as itself: `[()[],.]`."""
    expression = context.case.expression
    for node in context.nodes:
        if not isinstance(node, CharClass):
            continue
        end = expression.find("]", node.span[1])
        if 0 <= end - node.span[1] <= MOST_IN_CLASS and "[" not in expression[node.span[1] : end]:
            inner = re.sub(r"(?<!\\)([\[\]])", r"\\\1", expression[node.span[0] + 1 : end])
            words = f"the brackets are meant as themselves in the class: [{inner}]"
            yield context.splice((node.span[0], end + 1), f"[{inner}]", words, 0.75)


def everywhere(context: RepairContext) -> Iterator[Proposal]:
    """One slip made again and again, mended at all places at once."""
    changes: dict[str, list[tuple[Span, str]]] = {}
    for node in context.nodes:
        if isinstance(node, Group) and node.opening == "(" and spelled(node.body).replace(",", "", 1).isdigit():
            changes.setdefault("(n) is meant as {n}", []).append((node.span, f"{{{spelled(node.body)}}}"))
        elif isinstance(node, Character) and node.spelling in ("d", "w", "s") and not context.facts.is_in_class(node):
            if context.facts.is_repeated(node) or node.spelling == "d":
                what = f"{node.spelling} is meant as \\{node.spelling}"
                changes.setdefault(what, []).append((node.span, "\\" + node.spelling))
        elif isinstance(node, Anchor) and node.spelling == "\\B":
            changes.setdefault("\\B is meant as \\b", []).append((node.span, "\\b"))
        elif isinstance(node, Shorthand) and len(node.spelling) == 2 and node.negated:
            what = f"{node.spelling} is meant as {node.spelling.lower()}"
            changes.setdefault(what, []).append((node.span, node.spelling.lower()))
        elif isinstance(node, Repeat) and node.quantifier in ("?", "+", "*") and node.quantifier in context.case.text:
            what = f"{node.quantifier} is meant as itself"
            changes.setdefault(what, []).append(((node.span[1] - 1, node.span[1]), "\\" + node.quantifier))
        elif isinstance(node, Character) and node.spelling in "-\u2013\u2212" and not context.facts.is_in_class(node):
            for dash in ("-", "\u2013", "\u2212"):
                if dash != node.spelling and dash in context.case.text:
                    changes.setdefault(f"{character_words(dash)} stands in the text", []).append((node.span, dash))
    changes.update(_marks_exchanged(context))
    for what, places in changes.items():
        if len(places) > 1:
            yield context.splice_all(places, f"{what}, each time", 0.65)
    shorthands = [each for each in context.nodes if isinstance(each, Shorthand) and each.spelling == r"\s"]
    white = [(each.span, r"\S") for each in shorthands if not context.facts.is_in_class(each)]
    if len(white) > 1:
        yield context.splice_all(white, r"\s is meant as \S, each time", 1.0)


def _marks_exchanged(context: RepairContext) -> Iterator[tuple[str, list[tuple[Span, str]]]]:
    """Yield what to put in the place of a mark that stands several times, and in the text not once."""
    texts = (context.case.text, *context.missed)
    marks = list(free_marks(context))
    written = {each.character for each in marks}
    rows: dict[Node | None, list[Character]] = {}
    for mark in marks:
        rows.setdefault(context.facts.parents.get(mark), []).append(mark)
    for row in [*rows.values(), marks] if len(rows) > 1 else list(rows.values()):
        # One mark that is shut out as well stands twice, too.
        alone = [[each] for each in row if f"^{class_spelling(each.character)}]" in context.case.expression]
        for nodes in [*(several for _, several in written_alike(row)), *(alone if len(row) == len(marks) else ())]:
            old, spans = nodes[0].character, [each.span for each in nodes]
            if any(one[1] == other[0] for one, other in pairwise(spans)) and context.held:
                # Two of them are one mark of their own.
                continue
            for new in [each for each in context.characters if not each.isalnum()]:
                if new in written or any(each.count(new) != len(spans) or each.count(old) for each in texts):
                    continue
                what, put = f"{character_words(new)} stands in the text, not {character_words(old)}", escaped(new)
                if any(old in each for each in context.held):
                    one, other = sorted((old, new), key=lambda each: each == "-")
                    put = f"[{class_spelling(one)}{class_spelling(other)}]"
                shut = _shut_out(context, old, new, instead=put[0] != "[")
                yield what, [*((span, put) for span in spans), *shut]


def _shut_out(context: RepairContext, old: str, new: str, *, instead: bool) -> list[tuple[Span, str]]:
    """Return classes that shut out a mark, with another shut out too, or in its place."""
    shut, other = class_spelling(old), class_spelling(new)
    classes = [each for each in context.nodes if isinstance(each, CharClass) and each.negated and shut in spelled(each)]
    return [
        (each.span, spelled(each).replace(shut, other) if instead else f"{spelled(each)[:-1]}{other}]")
        for each in classes
    ]


RULES = (
    line_end,
    bars_meant,
    slashes_meant,
    dollar_references,
    left_over,
    class_unclosed,
    everywhere,
    brackets_doubled,
    brackets_escaped,
    brackets_in_class,
    braces,
    lost_braces,
    name_without_mark,
    written_bounds,
    shorthand_case,
    escapes_with_points,
    backslashes,
    backslashes_meant,
    blanks_in_verbose,
)
