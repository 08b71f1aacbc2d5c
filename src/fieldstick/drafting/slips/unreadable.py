"""Expressions that cannot be read: each way of making one readable by a change of one place."""

from __future__ import annotations

import re
from difflib import get_close_matches
from itertools import groupby
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.analysis.digits import numbers_meant
from fieldstick.drafting.context import MatchCase, Proposal, compiling, escaped, escaped_text
from fieldstick.drafting.phrases import character_words
from fieldstick.drafting.readable import is_readable
from fieldstick.drafting.slips.named_ranges import names_meant
from fieldstick.drafting.slips.notation import braces_lost, literal_backslashes, with_points
from fieldstick.drafting.slips.notations import as_here
from fieldstick.drafting.slips.placeholders import written_elsewhere
from fieldstick.drafting.slips.wrapping import laid_out, unwrapped
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.analysis.effort import Effort

LONGEST = 400
"""Code points of an expression up to which a parenthesis is put at each place of it; further ones near the fault."""

LONGEST_CLASS = 60
"""Code points after a bracket within which it is closed."""

MOST_OPEN = 20
"""Parentheses that are not closed, or not opened, of which each is tried."""

MOST_WRAPPED = 5
"""Pieces before a second quantifier that it may have been meant for."""

_TOKEN = compiled_later(
    r"\\.|\[\^?\]?(?:\\.|[^\]\\])*\]|\(\?(?:P?<\w*>|P=\w*\)|[a-zA-Z-]*:?|<?[=!]|#[^)]*|>|\()|\{\d*,?\d*\}[?+]?|.",
    re.DOTALL,
)
_RANGE = compiled_later(r"(\\.|[^\\\]])-(\\.|[^\\\]])")
_UNOPENED = compiled_later(r"(?:(\\)\(|(?<!\())\?P?<\w+>")
_NAMED = compiled_later(r"\(\?P?<(\w+)>")
_REFERENCE = compiled_later(r"\\([1-9]\d?)|\(\?P=(\w+)\)|\\k<(\w+)>")
_QUANTIFIERS = compiled_later(r"(?<!\\)([*+?]|\{\d*,?\d*\})((?:[*+?]|\{\d*,?\d*\}|\(\d+\))+)")

_ANCHOR_REPEATED = compiled_later(r"(?<!\\)(\\[bBAZ]|[$^])([*+?]|\{\d*,?\d*\})")


READING = 4
"""Steps that reading an expression takes for each of its code points."""


def readable(case: MatchCase, effort: Effort) -> Iterator[Proposal]:
    """Yield changes of an expression that cannot be read after which it can, each once, the likeliest first.

    None is yielded any more once there are no steps left.
    """
    best: dict[MatchCase, Proposal] = {}
    for rule in (unwrapped, laid_out, as_here, written_elsewhere, braces_lost, literal_backslashes, *_RULES):
        for each in rule(case):
            if each.case != case and (each.case not in best or each.cost < best[each.case].cost):
                best[each.case] = each
    for each in sorted(best.values(), key=lambda each: each.cost):
        if not effort.spend(READING * compiling(each.case.expression, each.case.flags)):
            return
        if is_readable(each.case):
            yield each


def _spliced(case: MatchCase, start: int, end: int, new: str, words: str, cost: float) -> Proposal:
    expression = case.expression
    return Proposal(replace(case, expression=expression[:start] + new + expression[end:]), words, cost)


def _tokens(expression: str) -> list[tuple[int, int, str]]:
    return [(found.start(), found.end(), found[0]) for found in _TOKEN.finditer(expression)]


def _marks_escaped(case: MatchCase) -> Iterator[Proposal]:
    """A mark, or a run of them, that was meant as itself."""
    tokens = [each for each in _tokens(case.expression) if each[2] in "()[]{}*+?|" or each[2].startswith(("(?", "["))]
    for start, _, token in tokens:
        mark = token[0]
        # Alone between bars a mark is an option.
        before = case.expression[start - 1 : start]
        alone = before in ("|", "(", "") and case.expression[start + 1 : start + 2] == "|"
        likely = 0.7 if mark in case.text else 0.8 if alone and mark != "|" else 1.5
        if mark in "*+" and before in ("|", ""):
            # At the start of an option it has nothing to repeat.
            likely = min(likely, 0.74)
        words = f"{mark} is meant as itself: \\{mark}"
        yield _spliced(case, start, start + 1, "\\" + mark, words, likely)
    for mark in dict.fromkeys(token[0] for *_, token in tokens):
        several = [start for start, _, token in tokens if token[0] == mark]
        if len(several) > 1:
            changed = case.expression
            for start in reversed(several):
                changed = changed[:start] + "\\" + changed[start:]
            cost = 0.75 if mark in case.text else 1.6
            yield Proposal(replace(case, expression=changed), f"each {mark} is meant as itself: \\{mark}", cost)
    for _, run in groupby(_tokens(case.expression), key=lambda each: each[2] in ("*", "+", "?", "(", ")", "|", ".")):
        pieces = list(run)
        start, end = pieces[0][0], pieces[-1][1]
        marks = case.expression[start:end]
        if len(pieces) > 1 and not marks.isalnum() and all(token in "*+?()|." for *_, token in pieces):
            literal = escaped_text(marks)
            cost = 0.65 if marks in case.text else 1.4
            yield _spliced(case, start, end, literal, f"{marks} is meant as itself: {literal}", cost)
            for first in range(1, len(marks)):
                # The last mark may be a quantifier of the ones before it.
                some = escaped_text(marks[:first]) + marks[first:]
                near = 0.7 if marks[:first] in case.text else 1.5
                yield _spliced(case, start, end, some, f"{marks[:first]} is meant as itself: {some}", near)
    for found in re.finditer(r"(?<!\\)([*+?|.])\1+", case.expression):
        literal = escaped_text(found[0])
        opened = case.expression[found.start() - 1 : found.start()] in ("|", "")
        cost = 0.65 if found[0] in case.text else 0.72 if opened else 0.95
        yield _spliced(case, *found.span(), literal, f"{found[0]} is meant as itself: {literal}", cost)
    for found in re.finditer(r"(?<!\\)\|(\|+)([*+?]?)", case.expression):
        # The first bar parts the options, the others are one.
        for bars, rest in dict.fromkeys([(found[1] + found[2], ""), (found[1], found[2])]):
            literal = escaped_text(bars) + rest
            yield _spliced(case, found.start(1), found.end(), literal, f"{bars} is meant as itself: {literal}", 0.9)
    pairs = {"(": ")", "[": "]", "{": "}"}
    for one, other in pairs.items():
        start, end = case.expression.find(one), case.expression.rfind(other)
        if 0 <= start < end and one in case.text and other in case.text:
            inner = case.expression[start + 1 : end]
            words = f"{one} and {other} are meant as themselves"
            yield _spliced(case, start, end + 1, f"\\{one}{inner}\\{other}", words, 0.72)


def _marks_and_points(case: MatchCase) -> Iterator[Proposal]:
    yield from with_points(_marks_escaped(case))


def _parentheses(case: MatchCase) -> Iterator[Proposal]:
    """A parenthesis too many or too few."""
    expression = case.expression
    waiting: list[int] = []
    closing: list[int] = []
    tokens = _tokens(expression)
    for start, _, token in tokens:
        if token == "(" or (token.startswith("(?") and not token.startswith(("(?#", "(?P="))):
            waiting.append(start)
        elif token == ")":
            if waiting:
                waiting.pop()
            else:
                closing.append(start)
    # Where many are open, no single one mends it.
    waiting, closing = waiting[-MOST_OPEN:], closing[:MOST_OPEN]
    # A quantifier of a quantifier may have been one of what a parenthesis closed.
    within = [end - 1 for _, end, token in tokens if len(token) > 2 and token[0] == "{" and token[-1] in "?+"]
    places = sorted({0, *(end for _, end, _ in tokens), *within})
    if len(expression) > LONGEST:
        places = [each for each in places if any(abs(each - at) < LONGEST // 2 for at in [*waiting, *closing])]
    for at in waiting:
        opened = next(end for start, end, _ in tokens if start == at)
        for place in places:
            if place > opened:
                far = 0.3 * (place < len(expression)) + 0.001 * (len(expression) - place)
                quantified = expression[place : place + 1] in ("*", "+", "?", "{")
                alternated = "|" in expression[at:place] and place < len(expression)
                # An anchor at the end is one of all of it.
                # Groups stand beside each other rather than in one.
                begun = _BEGINS_GROUP.match(expression, place)
                beside = begun is not None and (begun[0] == "(" or expression[place - 1] in "*+]})")
                beside = beside and "(" not in expression[opened:place]
                anchored = alternated and expression[place:] in ("$", "\\b", "\\Z")
                cost = 0.95 + far - 0.2 * quantified - 0.1 * alternated - 0.3 * anchored - 0.25 * beside
                yield _spliced(case, place, place, ")", "a parenthesis is not closed: )", cost)
        yield _spliced(case, at, opened, "", f"{expression[at:opened]} is too many", 1.1)
    for at in closing:
        yield _spliced(case, at, at + 1, "", ") is too many", 0.9)
        for place in places:
            if place < at and expression[place : place + 1] not in ("*", "+", "?", "{"):
                cost = 1.05 + 0.3 * (place > 0) + 0.001 * place
                yield _spliced(case, place, place, "(", "a parenthesis is not opened: (", cost)
    for start, _, token in tokens if closing and "(" not in case.text else ():
        if token == r"\(" and start < closing[-1]:
            yield _spliced(case, start, start + 1, "", "the parenthesis before it opens a group: (", 0.85)
    if closing:
        for start, _, token in tokens:
            if token == ")" and start not in closing:
                yield _spliced(case, start, start + 1, "", ") is too many", 1.0)


_BEGINS_GROUP = compiled_later(r"[*+?]?\(")


def _brackets(case: MatchCase) -> Iterator[Proposal]:
    """A bracket that is not closed."""
    for found in re.finditer(r"(?<!\\)\[", case.expression):
        if case.expression.startswith("]", found.end()):
            yield _spliced(
                case, found.start(), found.end() + 1, r"\[\]", r"the brackets are meant as themselves: \[\]", 0.7
            )
        if "]" in case.expression[found.end() + 1 :]:
            continue
        for place in range(found.end() + 1, min(len(case.expression), found.end() + LONGEST_CLASS) + 1):
            following = case.expression[place : place + 1]
            cost = 0.9 + 0.02 * (place - found.end()) - 0.2 * (following in ("*", "+", "?", "{"))
            yield _spliced(case, place, place, "]", "a bracket is not closed: ]", cost)


def _mismatched(case: MatchCase) -> Iterator[Proposal]:
    """A bracket that is closed by one of another kind."""
    expression = case.expression
    for found in re.finditer(r"(?<!\\)\[\^?[^\[\](){}]+([)}])", expression):
        yield _spliced(case, *found.span(1), "]", f"[ is closed by {found[1]}: ]", 0.6)
    for found in re.finditer(r"(?<!\\)([({])([^\[\](){}]*-[^\[\](){}]*)\]", expression):
        yield _spliced(case, *found.span(1), "[", f"] is opened by {found[1]}: [", 0.6)
    for found in re.finditer(r"(?<!\\)\([^\[\](){}]+([\]}])", expression):
        yield _spliced(case, *found.span(1), ")", f"( is closed by {found[1]}: )", 0.6)


def _ranges(case: MatchCase) -> Iterator[Proposal]:
    """A range that runs backwards, or whose hyphen was meant as itself."""
    backwards: list[tuple[int, int, str]] = []
    for start, end, token in _tokens(case.expression):
        if not token.startswith("["):
            continue
        numbers = numbers_meant(token)
        if numbers is not None:
            words = f"{token} is one character, not a number from {numbers[0]} to {numbers[1]}: {numbers[2]}"
            yield _spliced(case, start, end, numbers[2], words, 0.55)
        names = names_meant(token)
        if names is not None:
            words = f"{token} is one character, not a name from {names[0]} to {names[1]}: {names[2]}"
            yield _spliced(case, start, end, names[2], words, 0.5)
        for found in _RANGE.finditer(case.expression, start + 1, end - 1):
            low, high = found[1], found[2]
            words = f"the range {found[0]} runs backwards"
            if low.islower() and high.isupper() and low == "a" and high == "Z":
                yield _spliced(case, *found.span(), "a-zA-Z", f"{words}: a-zA-Z", 0.7)
                yield _spliced(case, *found.span(), "a-z", f"{words}: a-z", 0.7)
                yield _spliced(case, *found.span(), "A-Z", f"{words}: A-Z", 0.8)
            elif low.isalpha() and high.isalpha() and low.islower() != high.islower():
                both = f"{low}-{high.swapcase()}{low.swapcase()}-{high}"
                yield _spliced(case, *found.span(), both, f"{words}: {both}", 0.72)
                yield _spliced(
                    case, *found.span(), f"{low}-{high.swapcase()}", f"{words}: {low}-{high.swapcase()}", 0.7
                )
                yield _spliced(
                    case, *found.span(), f"{low.swapcase()}-{high}", f"{words}: {low.swapcase()}-{high}", 0.75
                )
            # Between a small letter and a capital stand the marks [\]^_`, which nobody means; before letters others.
            letters = low.isalpha() and high.isalpha() and low.islower() != high.islower()
            turned = 1.2 if letters or low.isalpha() != high.isalpha() else 0.6
            yield _spliced(case, *found.span(), f"{high}-{low}", f"{words}: {high}-{low}", turned)
            words = f"the hyphen in {found[0]} is meant as itself: {low}\\-{high}"
            yield _spliced(case, *found.span(), f"{low}\\-{high}", words, 0.65 if "-" in case.text else 0.9)
            if len(low + high) == 2 and low > high:
                backwards.append((*found.span(), f"{high}-{low}"))
    if len(backwards) > 1:
        expression = case.expression
        for start, end, new in reversed(backwards):
            expression = expression[:start] + new + expression[end:]
        words = f"ranges run backwards, each of them: {backwards[0][2]}"
        yield Proposal(replace(case, expression=expression), words, 0.62)


def _references(case: MatchCase) -> Iterator[Proposal]:
    """A reference to a group that is not there; a group named in another language's way."""
    expression = case.expression
    names = _NAMED.findall(expression)
    count = sum(token == "(" or _NAMED.match(token) is not None for *_, token in _tokens(expression))
    for found in _REFERENCE.finditer(expression):
        name = found[2] or found[3]
        if name is not None:
            for close in get_close_matches(name, names, 3, 0.0):
                words = f"there is no group '{name}': (?P={close})"
                yield _spliced(case, *found.span(), f"(?P={close})", words, 0.6)
        yield _spliced(case, *found.span(), "", f"there is no group {found[1] or name}; without {found[0]}", 1.0)
        for number in range(1, count + 1):
            words = f"there is no group {found[1] or name}: \\{number}"
            yield _spliced(case, *found.span(), f"\\{number}", words, 0.8 + 0.02 * (count - number))


def _bounds(case: MatchCase) -> Iterator[Proposal]:
    """Bounds of a quantifier the wrong way round: `{2,1}`."""
    for found in re.finditer(r"\{(\d{1,9}),(\d{1,9})\}", case.expression):
        if int(found[1]) > int(found[2]):
            new = f"{{{found[2]},{found[1]}}}"
            yield _spliced(case, *found.span(), new, f"the bounds {found[0]} are the wrong way round: {new}", 0.5)


def _nothing_repeated(case: MatchCase) -> Iterator[Proposal]:
    """A quantifier that follows nothing: what it was meant for is in the text."""
    for found in re.finditer(r"(?:^|(?<=[(|^]))([?*+])", case.expression):
        for mark in dict.fromkeys(each for each in case.text if not each.isalnum()):
            new = f"{escaped(mark)}{found[1]}"
            words = f"{found[1]} follows nothing; {character_words(mark)} stands in the text: {new}"
            yield _spliced(case, *found.span(1), new, words, 0.75)


def _slash_leaning(case: MatchCase) -> Iterator[Proposal]:
    """`<\\(\\w+)>` written for `</(\\w+)>`."""
    if "/" in case.text and "/" not in case.expression:
        for found in re.finditer(r"\\(?=\()", case.expression):
            yield _spliced(case, *found.span(), "/", "the backslash is meant as a slash: /", 0.7)


def _count_before(case: MatchCase) -> Iterator[Proposal]:
    """`{2}\\d` written for `\\d{2}`: a count before what it counts."""
    for found in re.finditer(r"(?:^|(?<=[(|]))(\{\d+(?:,\d*)?\})(\\[dwsDWS]|\[[^\]]+\]|\.)", case.expression):
        new = found[2] + found[1]
        yield _spliced(case, *found.span(), new, f"{found[1]} stands behind what it counts: {new}", 0.6)


def _flags_elsewhere(case: MatchCase) -> Iterator[Proposal]:
    """Flags set further on, or turned off, as other engines have it."""
    made = re.sub(r"\(\?-?[a-zA-Z]*-[a-zA-Z]*\)", "", case.expression)
    flags = "".join(dict.fromkeys("".join(re.findall(r"\(\?([aimsux]+)\)", made))))
    made = re.sub(r"\(\?[aimsux]+\)", "", made)
    new = f"(?{flags}){made}" if flags else made
    if new != case.expression:
        yield Proposal(replace(case, expression=new), f"flags are set at the start, for all of it: {new}", 0.6)


def _looks_behind(case: MatchCase) -> Iterator[Proposal]:
    """A look-behind of no fixed width, which the engine does not have."""
    for found in re.finditer(r"(\(\?<[=!])((?:\\.|\[[^\]]*\]|[^()\\])*)\)", case.expression):
        opening, inner = found[1], found[2]
        bare = re.sub(r"(?<!\\)[*+?](?=$|\|)", "", inner)
        once = re.sub(r"(?<!\\)[*+?]", "", inner)
        if once not in (bare, inner):
            new = f"{opening}{once})"
            yield _spliced(case, *found.span(), new, f"a look-behind has a fixed width: {new}", 0.45)
        # What is of any length may be there, and need not.
        fewer = re.sub(r"(?:\\.|\[[^\]]*\]|[^\\\[\]()])[*+](?=$|\|)", "", inner)
        if fewer not in (bare, inner, ""):
            new = f"{opening}{fewer})"
            yield _spliced(case, *found.span(), new, f"a look-behind has a fixed width: {new}", 0.65)
        if bare != inner:
            new = f"{opening}{bare})"
            yield _spliced(case, *found.span(), new, f"a look-behind has a fixed width: {new}", 0.6)
        options = bare.split("|")
        if len(options) > 1:
            several = [f"{opening}{each})" for each in options]
            new = "".join(several) if opening.endswith("!") else f"(?:{'|'.join(several)})"
            yield _spliced(case, *found.span(), new, f"each option of a look-behind has a width of its own: {new}", 0.6)


_GROUP_HEAD = compiled_later(r"\(\?P?<([^>()=!]*)(>?)|\(\?P(\w+)>|\(P<(\w+)>|\(\?P(?:\((\w+)\)|\[(\w+)\]|\{(\w+)\})")


def _group_names(case: MatchCase) -> Iterator[Proposal]:
    """A name of a group that is not closed, is none, or is another group's already; or a group begun otherwise."""
    names: set[str] = set()
    for found in _GROUP_HEAD.finditer(case.expression):
        name = next(filter(None, (found[at] for at in (1, 3, 4, 5, 6, 7))), "")
        closed = bool(found[2]) or found[1] is None
        if not closed:
            letters = re.match(r"\w+", name)
            if letters is not None:
                for end in range(letters.end(), 0, -1):
                    new = f"(?P<{name[:end]}>"
                    words = f"the name of a group ends with >: {new}"
                    ended, cost = found.start(1) + end, 0.5 + 0.02 * (letters.end() - end)
                    yield _spliced(case, found.start(), ended, new, words, cost)
                    if re.match(r"[:=)\]} '\"]", case.expression[ended:]):
                        # Another mark ends it.
                        yield _spliced(case, found.start(), ended + 1, new, words, cost - 0.01)
            continue
        plain = re.sub(r"\W+", "_", name).strip("_")
        plain = f"n{plain}" if plain[:1].isdigit() else plain
        number = 2
        fresh = plain
        while fresh in names:
            fresh, number = f"{plain}{number}", number + 1
        if plain and (fresh != name or not found[0].startswith("(?P<")):
            why = f"two groups are named {name}" if fresh != plain else f"a group is named by (?P<{plain}>…) here"
            yield _spliced(case, *found.span(), f"(?P<{fresh}>", f"{why}: (?P<{fresh}>", 0.5)
            if fresh != plain:
                yield _spliced(case, *found.span(), "(", f"{why}; without a name", 0.55)
        names.add(fresh)


def _unopened(case: MatchCase) -> Iterator[Proposal]:
    """`?P<site>…)` and `\\(?P<site>…)` written for `(?P<site>…)`, and `?:…` for `(?:…)`."""
    begun = re.match(r"\?(?:[:!=]|<[!=])", case.expression)
    if begun is not None:
        words = f"a group is opened by a parenthesis: ({begun[0]}"
        yield _spliced(case, 0, 0, "(", words, 0.5)
        yield _spliced(case, 0, len(case.expression), f"({case.expression})", words, 0.52)
    for found in _UNOPENED.finditer(case.expression):
        at = found.start()
        if found[1]:
            yield _spliced(case, at, at + 1, "", "a group is opened by a parenthesis without a backslash: (?P<", 0.5)
        else:
            yield _spliced(case, at, at, "(", "a named group lacks its parenthesis: (?P<", 0.5)


def _quantifiers(case: MatchCase) -> Iterator[Proposal]:
    """A quantifier after a quantifier, or after nothing."""
    for found in _QUANTIFIERS.finditer(case.expression):
        first, rest = found[1], found[2]
        words = f"{rest} follows the quantifier {first}"
        counts = re.fullmatch(r"\{(\d+)\}\{(\d+)\}", first + rest)
        if counts is not None and int(counts[1]) < int(counts[2]):
            both = f"{{{counts[1]},{counts[2]}}}"
            yield _spliced(case, *found.span(), both, f"{words}: {both}", 0.8)
        yield _spliced(case, *found.span(), first, f"{words}: {first} alone", 0.85)
        # A count says more than + does.
        likely = 0.8 if first in ("+", "*") and rest.startswith("{") else 0.95
        yield _spliced(case, *found.span(), rest, f"{words}: {rest} alone", likely)
        before = [each for each in _tokens(case.expression) if each[1] <= found.start()]
        for back, (start, *_) in enumerate(reversed(before[-MOST_WRAPPED:])):
            piece = case.expression[start : found.start()]
            wrapped = f"(?:{piece}{first}){rest}"
            words = f"{rest} is meant for all of {piece}{first}: {wrapped}"
            yield _spliced(case, start, found.end(), wrapped, words, 0.9 + 0.05 * back)
        if first in case.text:
            literal = escaped(first) if len(first) == 1 else first
            yield _spliced(case, *found.span(), literal + rest, f"{first} is meant as itself: {literal}{rest}", 0.75)


def _anchors_repeated(case: MatchCase) -> Iterator[Proposal]:
    """A quantifier after an anchor, which cannot be repeated."""
    for found in _ANCHOR_REPEATED.finditer(case.expression):
        words = f"{found[1]} cannot be repeated by {found[2]}"
        if found[1] == "$":
            yield _spliced(case, *found.span(1), r"\$", rf"{words}; $ is meant as itself: \$", 0.7)
        if found[1] == "^":
            any_ = f"^.{found[2]}"
            yield _spliced(case, *found.span(), any_, f"{words}; any character can: {any_}", 0.7)
        yield _spliced(case, *found.span(1), "", f"{words}; without {found[1]}: {found[2]}", 0.8)
        yield _spliced(
            case,
            *found.span(2),
            "",
            f"{words}: {found[1]} alone",
            0.75 if found.end() == len(case.expression) else 0.85,
        )


def _letters(case: MatchCase) -> Iterator[Proposal]:
    """A backslash before a letter that means nothing with it, or at the end."""
    for start, end, token in _tokens(case.expression):
        if re.fullmatch(r"\\[a-zA-Z]", token):
            yield _spliced(case, start, end, token[1], f"{token} means nothing here: {token[1]}", 1.0)
            yield _spliced(
                case, start, end, "\\\\" + token[1], f"the backslash is meant as itself: \\\\{token[1]}", 1.1
            )
            yield _spliced(case, start, end, token.swapcase(), f"{token} is meant as {token.swapcase()}", 1.05)
        elif token == "\\":
            yield _spliced(case, start, end, "", "a backslash stands last", 0.8)
            yield _spliced(case, start, end, "\\\\", "the backslash is meant as itself: \\\\", 0.8)


_RULES = (
    _marks_and_points,
    _mismatched,
    _ranges,
    _references,
    _group_names,
    _unopened,
    _bounds,
    _nothing_repeated,
    _slash_leaning,
    _count_before,
    _flags_elsewhere,
    _looks_behind,
    _quantifiers,
    _anchors_repeated,
    _parentheses,
    _brackets,
    _letters,
)
