"""Hazards of repeats and dots: too much taken, nothing asked for, and no end."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.examples import TooLongError, text_for
from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.hazards.places import items_of
from fieldstick.analysis.hazards.suspect import PUMPED, Suspect, edited
from fieldstick.lean import compiled_later
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Anchor,
    Backreference,
    Character,
    CharClass,
    Dot,
    Group,
    Look,
    Node,
    Range,
    Repeat,
    Sequence,
    Shorthand,
    children,
    literal_of,
    once,
    spelled,
)
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.engines.protocol import Reach
    from fieldstick.syntax.parser import Parsed

MANY = 10
"""Turns from which on a repeat counts as endless when repeats nest."""

_PAIRS = {"<": ">", "(": ")", "[": "]", "{": "}", "«": "»"} | {mark: mark for mark in "\"'`|/%*"}
_FILE_ENDINGS = frozenset(
    """
    bak bmp bz2 cfg conf csv dat db doc docx gif gz htm html ini jpeg jpg js json jsonl log md parquet pdf png py sh sql
    tar tmp toml tsv txt wav xls xlsx xml xz yaml yml zip
    """.split()  # noqa: SIM905
)


def dot_for_point(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`\\d+.\\d` and `\\w+.csv`: a bare dot where a point is meant takes any character."""
    for node in facts_of(parsed).nodes:
        items = items_of(node) if isinstance(node, Sequence) else ()
        for at, dot in enumerate(items):
            if not isinstance(dot, Dot) or at == 0:
                continue
            follows = items[at + 1] if at + 1 < len(items) else _around_again(parsed, node)
            if follows is not None and is_digits(items[at - 1]) and is_digits(follows):
                yield _dotted(parsed, "dot-in-number", dot, "a bare . between digits takes any character")
            elif _names_file(items[at - 1], items[at + 1 :]):
                yield _dotted(
                    parsed, "dot-in-name", dot, "a bare . before the ending of a file's name takes any character"
                )


def _dotted(parsed: Parsed, kind: str, dot: Node, reason: str) -> Suspect:
    changed = edited(parsed, (dot.span, r"\."))
    return Suspect(kind, dot.span, reason, "write \\. for a point", changed, forced=((dot, ("x", "-")),))


def _around_again(parsed: Parsed, node: Node) -> Node | None:
    """Return what follows the end of a sequence that is repeated: its own beginning."""
    parents = facts_of(parsed).parents
    group = parents.get(node)
    around = parents.get(group) if isinstance(group, Group) else None
    if isinstance(around, Repeat) and (around.most is None or around.most > 1):
        return items_of(node)[0]
    return None


def is_digits(node: Node) -> bool:
    """Tell whether a node takes digits alone."""
    if isinstance(node, Repeat):
        return is_digits(node.item)
    if isinstance(node, Group):
        return is_digits(node.body)
    if isinstance(node, Sequence):
        return bool(node.items) and all(map(is_digits, node.items))
    if isinstance(node, Shorthand):
        return node.name == "digit" and not node.negated
    if isinstance(node, CharClass):
        return not node.negated and all(map(is_digits, node.items))
    if isinstance(node, Range):
        return node.first.character.isdigit() and node.last.character.isdigit()
    return isinstance(node, Character) and node.character.isdigit()


def _names_file(before: Node, after: tuple[Node, ...]) -> bool:
    ending = ""
    for each in after:
        if isinstance(each, Character) and each.character.isalnum():
            ending += each.character
        elif isinstance(each, Group) and isinstance(each.body, Alternation) and not ending:
            endings = [literal_of(option) for option in each.body.options]
            return _is_word(before) and all(each in _FILE_ENDINGS for each in endings)
        elif isinstance(each, Anchor):
            break
        else:
            return False
    return ending.lower() in _FILE_ENDINGS and _is_word(before)


def _is_word(node: Node) -> bool:
    inner = once(node)
    while isinstance(inner, Group):
        inner = inner.body
    inner = once(inner)
    return (
        isinstance(inner, Shorthand | CharClass) or (isinstance(inner, Character) and inner.character.isalnum())
    ) and not getattr(inner, "negated", False)


def takes_anything(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`.*` alone fits almost any text; `"(.*)"` and `<.*>` run over every mark up to the last one."""
    nodes = facts_of(parsed).nodes
    asking = [node for node in nodes if isinstance(node, SINGLE | Backreference | Look)]
    repeats = [node for node in nodes if isinstance(node, Repeat) and isinstance(node.item, Dot)]
    if repeats and len(asking) == len(repeats) and all(each.most is None for each in repeats):
        first = repeats[0]
        changed = edited(parsed, (first.span, f"(?:{spelled(first)})(?<=[0-9A-Za-z])"))
        remedy = "say what must be there, such as its last character"
        yield Suspect("takes-anything", first.span, "this fits almost any text", remedy, changed, ("%!", " ", ""))
        return
    for node in nodes:
        items = items_of(node) if isinstance(node, Sequence) else ()
        for before, middle, after in zip(items, items[1:], items[2:], strict=False):
            dots = _greedy_dots(middle)
            opening, closing = (literal_of(before) or "")[-1:], literal_of(after)
            if dots is None or opening not in _PAIRS or closing is None or closing[:1] != _PAIRS[opening]:
                continue
            end = closing + (literal_of(Sequence((0, 0), items[items.index(after) + 1 :][:1])) or "")
            start, stop = dots.span
            reason = f"it takes as much as it can, over every {closing[0]} up to the last one"
            changed = edited(parsed, ((stop, stop), "?"))
            words = f"write {spelled(dots)}?, which ends at the first {closing[0]} that lets the rest follow"
            forced = ((dots, (f"a{end}b{opening}c", f"a{end} {opening}c", f"a{end}{literal_of(before)}c")),)
            yield Suspect("takes-anything", (start, stop), reason, words, changed, forced=forced)


def _greedy_dots(node: Node) -> Repeat | None:
    inner = node.body if isinstance(node, Group) else node
    if isinstance(inner, Repeat) and isinstance(inner.item, Dot) and inner.most is None and inner.mode == "greedy":
        return inner
    return None


def matches_nothing(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`\\d*` with reach start or anywhere: it can match nothing, and so fits every text."""
    nodes = facts_of(parsed).nodes
    asks = any(isinstance(node, Anchor | Look) for node in nodes)
    if reach == "whole" or asks or not parsed.expression or facts_of(parsed).width[0] > 0:
        return
    empty = _empty_option(parsed.tree)
    if empty is not None:
        return  # named for what it is
    for node in items_of(parsed.tree):
        inner = node.body if isinstance(node, Group) and node.kind in ("capture", "plain") else node
        if isinstance(inner, Repeat) and inner.least == 0 and width(inner.item, parsed.widths)[0]:
            start, end = inner.span[1] - len(inner.quantifier), inner.span[1]
            new = "+" + inner.quantifier[1:] if inner.quantifier[0] == "*" else ""
            if inner.quantifier[0] == "{":
                new = f"{{1,{'' if inner.most is None else inner.most}}}" + inner.quantifier.partition("}")[2]
            changed = edited(parsed, ((start, end), new))
            reason = "it can match nothing, and so fits every text"
            piece = spelled(inner.item) + new
            words = f"ask for at least one: {piece}"
            yield Suspect("matches-nothing", parsed.tree.span, reason, words, changed, ("", "%", "x", "7"))
            return


def _empty_option(tree: Node) -> Node | None:
    inner = tree.body if isinstance(tree, Group) else tree
    options = inner.options if isinstance(inner, Alternation) else ()
    return next((each for each in options if isinstance(each, Sequence) and not each.items), None)


def empty_option(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`a|`, `(a||b)`: an option of nothing fits everywhere; where it is meant, `?` says so."""
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Alternation):
            continue
        empty = [each for each in node.options if isinstance(each, Sequence) and not each.items]
        if not empty:
            continue
        parent = facts_of(parsed).parents.get(node)
        if isinstance(parent, Group) and node.options[-1] is empty[0] and len(empty) == 1:
            continue  # (a|b|) is how some write (?:a|b)?
        kept = "|".join(spelled(each) for each in node.options if each not in empty)
        changed = edited(parsed, (node.span, kept))
        reason = "one of the options is nothing, which always fits"
        yield Suspect("empty-option", empty[0].span, reason, f"leave it out: {kept}", changed, ("", "%", "7"))


def bounds_never_met(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`a{0}` asks for none; `(?:^a){2}` can never come twice."""
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Repeat):
            continue
        if node.most == 0:
            changed = edited(parsed, (node.span, spelled(node.item)))
            reason = f"{node.quantifier} asks for none of it"
            yield Suspect("bounds-never-met", node.span, reason, "leave the quantifier, or all of it, out", changed)
        elif node.least >= 2 and isinstance(node.item, Group):
            first = items_of(node.item.body)[0] if items_of(node.item.body) else None
            starts = isinstance(first, Anchor) and first.name in ("text-start", "line-start")
            if first is not None and starts and width(node.item, parsed.widths)[0]:
                moved = edited(parsed, ((node.span[0], node.span[0]), spelled(first)), (first.span, ""))
                reason = "what begins at the start of the text cannot come twice"
                yield Suspect("bounds-never-met", node.span, reason, "put the anchor before what is repeated", moved)


_BRACES = compiled_later(r"\{[ ]*(\d*)[ ]*([,;-])?[ ]*(\d*)[ ]*\}")


def no_quantifier(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`\\d{1, 3}`, `\\d{3-5}`: braces that are no quantifier stand for themselves."""
    nodes = facts_of(parsed).nodes
    for node in nodes:
        if not (isinstance(node, Character) and node.spelling == "{") or facts_of(parsed).is_in_class(node):
            continue
        found = _BRACES.match(parsed.expression, node.span[0])
        if (
            found is None
            or not (found[1] or found[3])
            or node.span[0] == 0
            or parsed.expression[node.span[0] - 1] in "|("
        ):
            continue
        least, mark, most = found.groups()
        new = f"{{{least or 0},{most}}}" if mark else f"{{{least}}}"
        reason = f"{found[0]} is no quantifier; it stands for these very characters"
        changed = edited(parsed, (found.span(), new))
        yield Suspect("no-quantifier", found.span(), reason, f"write {new}", changed)


def last_turn(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`(\\d+,)+`: a group that is repeated keeps what its last turn captured."""
    for node in facts_of(parsed).nodes:
        if not isinstance(node, Repeat) or node.most in (0, 1) or not isinstance(node.item, Group):
            continue
        group = node.item
        items = items_of(group.body)
        # A separator that ends each turn shows a list of which every item was wanted.
        listed = len(items) == 2 and isinstance(items[0], Repeat) and isinstance(items[-1], Character)
        if group.number is None or not (listed and not items[-1].character.isalnum()):  # type: ignore[attr-defined]
            continue
        inner = f"{group.opening if group.name else '('}(?:{spelled(group.body)}){node.quantifier})"
        reason = f"group {group.name or group.number} keeps what its last turn captured"
        changed = edited(parsed, (node.span, inner))
        remedy = f"write {inner} to capture all turns, or take all matches of one"
        made = _turns(parsed, node, 2)
        forced = ((node, (made,)),) if made else ()
        yield Suspect("last-turn", node.span, reason, remedy, changed, forced=forced)


def _turns(parsed: Parsed, node: Repeat, count: int) -> str:
    try:
        return "".join(text_for(parsed, node.item, variety) or "" for variety in range(1, count + 1))
    except TooLongError:
        return ""


def nested_repeats(parsed: Parsed, reach: Reach) -> Iterator[Suspect]:
    """`(a+)+`: the same text can be shared out in endless ways, and one that does not fit takes forever."""
    inside: set[Node] = set()
    for node in facts_of(parsed).nodes:
        if node in inside:
            inside |= set(children(node))
            continue
        if not (isinstance(node, Repeat) and _endless(node) and node.mode != "possessive"):
            continue
        if not isinstance(node.item, Group):
            continue
        inner = _ambiguous_repeat(node.item)
        if inner is None:
            continue
        inside |= set(children(node))
        reason = f"{inner.quantifier} inside {node.quantifier}: the same text can be shared out in endless ways"
        plain = inner.quantifier.rstrip("?") if inner.mode == "lazy" else inner.quantifier
        kept = inner.span[1] - len(inner.quantifier), inner.span[1]
        changed = edited(parsed, (kept, plain + "+"))
        try:
            piece = text_for(parsed, node.item, 0) or "a"
        except TooLongError:
            continue
        remedy = f"make one of the two possessive: {spelled(inner.item)}{plain}+"
        forced = ((node, (piece * PUMPED, piece * 2 * PUMPED)),)
        yield Suspect("nested-repeats", node.span, reason, remedy, changed, (), forced, "ends")


def _endless(node: Repeat) -> bool:
    return node.most is None or node.most >= MANY


def _ambiguous_repeat(group: Group) -> Repeat | None:
    """Return a repeat that is all a turn needs to take, so that one turn can do the work of several."""
    if group.kind == "atomic":
        return None
    options = group.body.options if isinstance(group.body, Alternation) else (group.body,)
    for option in options:
        items = items_of(option)
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
