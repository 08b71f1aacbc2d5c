"""Flags, reach and anchors that are not what was meant."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.drafting.context import Proposal, last_piece
from fieldstick.drafting.phrases import phrase
from fieldstick.engines.probing import compiled_by_engine, found_within
from fieldstick.syntax.tree import (
    Anchor,
    Character,
    CharClass,
    Dot,
    Look,
    Repeat,
    literal_of,
    once,
    spelled,
)

if TYPE_CHECKING:
    import re
    from collections.abc import Iterator

    from fieldstick.drafting.context import MatchCase, RepairContext
    from fieldstick.engines.protocol import Reach


def flags(context: RepairContext) -> Iterator[Proposal]:
    now = context.parsed.flags
    if "ignore-case" not in now:
        case = replace(context.case, flags=context.case.flags | {"ignore-case"})
        cost = 1.35 if _has_look_alike(context) else 1.05 if _is_one_class(context) else 0.9
        yield Proposal(case, "ignore case (flag ignore-case)", cost)
    if "dotall" not in now and "\n" in context.case.text:
        case = replace(context.case, flags=context.case.flags | {"dotall"})
        asked = [once(each.node) for each in context.trace.wanted]
        stopped = context.found == "\n" and any(isinstance(each, Dot) for each in asked)
        # More of what takes anything, and of what the whole ends with, is meant to be taken.
        cost = 1.15 if not stopped else 0.75 if _ends_with_anything(context) else 0.95
        yield Proposal(case, "let the dot take line feeds too (flag dotall)", cost)
    if "multiline" not in now and "\n" in context.case.text:
        case = replace(context.case, flags=context.case.flags | {"multiline"})
        yield Proposal(case, "let ^ and $ stand at every line (flag multiline)", 1.0)
    if "ascii" in now and not context.case.text.isascii():
        case = replace(context.case, flags=context.case.flags - {"ascii"})
        yield Proposal(
            case,
            "let \\d and \\w know other alphabets (without the flag ascii)",
            0.85 if context.found.isalnum() else 1.2,
        )
    if "verbose" in context.case.flags:
        case = replace(context.case, flags=context.case.flags - {"verbose"})
        yield Proposal(case, "take blanks in the expression as themselves (without the flag verbose)", 1.2)


def _ends_with_anything(context: RepairContext) -> bool:
    """Tell whether an expression ends with what takes anything, so that nothing more than it is asked for there."""
    node = last_piece(context.parsed.tree)
    while isinstance(node, Repeat):
        node = last_piece(node.item)
    return isinstance(node, Dot)


def _has_look_alike(context: RepairContext) -> bool:
    """Tell whether the match stopped at a character that is another, and no letter of the other case, as a micro sign
    and a Greek letter are, of which one is taken for the other where case is ignored.
    """
    asked = [each.node.character for each in context.trace.wanted if isinstance(each.node, Character)]
    return any(each.casefold() == context.found.casefold() and each.swapcase() != context.found for each in asked)


def _is_one_class(context: RepairContext) -> bool:
    """Tell whether the match stopped at a class of letters, which may lack those of the other case."""
    nodes = [once(each.node) for each in context.trace.wanted]
    return context.found.isalpha() and any(isinstance(each, CharClass) for each in nodes)


def wider_reach(context: RepairContext) -> Iterator[Proposal]:
    """The whole text asked for, where a match lies in it; likelier where blanks part the match from what is beside."""
    wider: dict[str, tuple[tuple[Reach, float], ...]] = {
        "whole": (("start", 0.05), ("anywhere", 0.0)),
        "start": (("anywhere", 0.0),),
        "anywhere": (),
    }
    text = context.case.text
    compiled = compiled_by_engine(context.case.expression, context.case.flags) if wider[context.case.reach] else None
    found = found_within(compiled, text) if compiled is not None else None
    if found is None:
        return
    start, end = found
    # Where all of them have it there, it is their start that was meant.
    at_start = [_start_of(compiled, each) == 0 for each in (text, *context.beside.fitting)] if compiled else []
    starts = len(at_start) > 1 and all(at_start) and end < len(text)
    parted = text[start - 1 : start].strip() == "" and text[end : end + 1].strip() == "" and end > start
    for reach, more in wider[context.case.reach]:
        words = "let it match at the start of the text" if reach == "start" else "let it match anywhere in the text"
        # Another text fits whole, as this one was meant to.
        cost = (
            (1.2 if parted else 1.6)
            + 0.3 * (bool(context.held) and not starts)
            + (more if not starts else 0.1 if reach == "start" else 0.2)
        )
        yield Proposal(replace(context.case, reach=reach), f"{words} (reach {reach})", cost)


def _start_of(compiled: re.Pattern[str], text: str) -> int | None:
    found = found_within(compiled, text)
    return found[0] if found is not None else None


def anchors(context: RepairContext) -> Iterator[Proposal]:
    yield from _both_edges(context)
    for node in context.nodes:
        if isinstance(node, Anchor):
            words = f"without {node.spelling}, which asks for {phrase(node, context.parsed.flags)}"
            made = context.splice(node.span, "", words, 1.1 + context.near(node) / 2)
            following = literal_of(context.after[node]) if node in context.after else None
            if node.spelling == r"\b" and following and not (following[0].isalnum() or following[0] == "_"):
                # Before a mark no word begins.
                made = replace(made, cost=made.cost - 0.25)
            yield replace(made, cost=made.cost - 0.15) if _stands_alone(made.case) else made
        elif isinstance(node, Look):
            yield context.splice(node.span, "", f"without {spelled(node)}", 1.9 + context.near(node) / 2)


def _both_edges(context: RepairContext) -> Iterator[Proposal]:
    """An expression held to both edges of what it is looked for in."""
    edges = [each for each in context.nodes if isinstance(each, Anchor) and each.spelling in ("^", "$", r"\A", r"\Z")]
    ends = [(each.span[0] == 0, each.span[1] == len(context.case.expression)) for each in edges]
    if ends != [(True, False), (False, True)] or edges[0].spelling == "$" or edges[1].spelling == "^":
        return
    words = f"without {edges[0].spelling} and {edges[1].spelling}: others may stand before and behind it"
    made = context.splice_all([(each.span, "") for each in edges], words, 1.15 + 0.2 * bool(context.held))
    if context.case.reach == "whole":
        anywhere = replace(made.case, reach="anywhere")
        made = Proposal(anywhere, f"{words} (reach anywhere)", made.cost + 0.1 + 0.1 * bool(context.held))
    compiled = compiled_by_engine(made.case.expression, made.case.flags)
    found = found_within(compiled, context.case.text) if compiled is not None else None
    if found is not None and found[0] > 0 and found[1] < len(context.case.text):
        yield replace(made, cost=made.cost - 0.15) if _stands_alone(made.case) else made


def _stands_alone(case: MatchCase) -> bool:
    """Tell whether what is looked for anywhere is found between blanks: it was not to be held to an edge."""
    compiled = compiled_by_engine(case.expression, case.flags) if case.reach == "anywhere" else None
    found = found_within(compiled, case.text) if compiled is not None and "\n" not in case.text else None
    if found is None:
        return False
    before, after = case.text[: found[0]], case.text[found[1] :]
    return all(each.strip() and edge == " " for each, edge in ((before, before[-1:]), (after, after[:1])) if each)


RULES = (flags, wider_reach, anchors)
