"""Turns a tree into a program for the tracing matcher.

A backtracking machine in the manner of R. Cox, "Regular Expression Matching: the Virtual Machine Approach" (2009),
with instructions added for what Python's engine has beyond it: bounded repeats, look-around, atomic groups,
backreferences and conditionals.
"""

from __future__ import annotations

import re
from enum import IntEnum
from typing import TYPE_CHECKING

from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.engines.probing import Test, character_test
from fieldstick.syntax.parser import scoped
from fieldstick.syntax.tree import (
    SINGLE,
    Alternation,
    Anchor,
    Aside,
    Backreference,
    Conditional,
    FlagSetting,
    Group,
    Look,
    Node,
    Repeat,
    Sequence,
    spelled,
)
from fieldstick.syntax.widths import width

if TYPE_CHECKING:
    from collections.abc import Callable

    from fieldstick.syntax.parser import Parsed

_EMPTY_HAS_NO_BOUNDARY = re.search(r"\B", "") is None
"""Whether this Python's engine finds no place for `\\B` in an empty text."""


class Op(IntEnum):
    """What an instruction does."""

    TEST = 1
    RUN = 2
    PLACE = 3
    SPLIT = 4
    JUMP = 5
    SAVE = 6
    REPEATED = 7
    LOOP = 8
    LOOP_START = 9
    BARRIER = 10
    CUT = 11
    LOOK = 12
    LOOK_END = 13
    REFUSE = 14
    REFUSE_END = 15
    CONDITION = 16
    MATCH = 17
    LOOP_MORE = 18


class Instruction(Struct):
    """One step: the operation, the node it is for, and what the operation needs.

    `quiet` marks steps inside look-around, which do not count as progress through the text.
    """

    op: Op
    node: Node
    quiet: bool = False
    test: Test | None = None
    place: Callable[[str, int], bool] | None = None
    least: int = 0
    most: int | None = None
    mode: str = "greedy"
    first: int = 0
    second: int = 0
    register: int = 0
    fold: Callable[[str], str] | None = None
    back: int = 0


class Program(Struct, frozen=True):
    """Instructions, and how many slots and registers a run of them needs."""

    instructions: tuple[Instruction, ...]
    groups: int
    registers: int


class _Scope(Struct, frozen=True):
    """The flags in force, and whether a look-around is around."""

    flags: frozenset[str]
    quiet: bool = False


class _Assembly(Struct):
    parsed: Parsed
    code: list[Instruction] = field(default_factory=list)
    registers: int = 0

    def add(self, op: Op, node: Node, scope: _Scope) -> Instruction:
        self.code.append(Instruction(op, node, scope.quiet))
        return self.code[-1]

    @property
    def here(self) -> int:
        return len(self.code)

    def register(self) -> int:
        self.registers += 1
        return self.registers - 1


def assemble(parsed: Parsed) -> Program:
    """Make the program of an expression in Python's notation."""
    work = _Assembly(parsed)
    _emit(work, parsed.tree, _Scope(parsed.flags))
    # The end is asked for by nothing that stands in the expression.
    end = Anchor((len(parsed.expression),) * 2, "", "text-end")
    work.add(Op.MATCH, end, _Scope(parsed.flags))
    return Program(tuple(work.code), len(parsed.groups), work.registers)


def _emit(work: _Assembly, node: Node, scope: _Scope) -> None:
    if isinstance(node, Sequence):
        for item in node.items:
            _emit(work, item, scope)
    elif isinstance(node, SINGLE):
        work.add(Op.TEST, node, scope).test = character_test(spelled(node), scope.flags)
    elif isinstance(node, Anchor):
        work.add(Op.PLACE, node, scope).place = _place(node, scope.flags)
    elif isinstance(node, Alternation):
        _emit_alternation(work, node, scope)
    elif isinstance(node, Group):
        _emit_group(work, node, scope)
    elif isinstance(node, Repeat):
        _emit_repeat(work, node, scope)
    elif isinstance(node, Look):
        _emit_look(work, node, scope)
    elif isinstance(node, Backreference):
        made = work.add(Op.REPEATED, node, scope)
        made.register = node.number
        made.fold = _fold(scope.flags)
    elif isinstance(node, Conditional):
        _emit_conditional(work, node, scope)
    else:
        assert isinstance(node, Aside | FlagSetting), f"{type(node).__name__} is not of Python's notation"


def _emit_alternation(work: _Assembly, node: Alternation, scope: _Scope) -> None:
    ends = []
    for option in node.options[:-1]:
        split = work.add(Op.SPLIT, node, scope)
        split.first = work.here
        _emit(work, option, scope)
        ends.append(work.add(Op.JUMP, node, scope))
        split.second = work.here
    _emit(work, node.options[-1], scope)
    for jump in ends:
        jump.first = work.here


def _emit_group(work: _Assembly, node: Group, scope: _Scope) -> None:
    if node.kind == "flags":
        scope = replace(scope, flags=scoped(scope.flags, node))
    if node.kind == "capture":
        assert node.number is not None
        work.add(Op.SAVE, node, scope).register = 2 * node.number
        _emit(work, node.body, scope)
        work.add(Op.SAVE, node, scope).register = 2 * node.number + 1
    elif node.kind == "atomic":
        _emit_atomic(work, node, lambda: _emit(work, node.body, scope), scope)
    else:
        _emit(work, node.body, scope)


def _emit_atomic(work: _Assembly, node: Node, body: Callable[[], None], scope: _Scope) -> None:
    register = work.register()
    work.add(Op.BARRIER, node, scope).register = register
    body()
    work.add(Op.CUT, node, scope).register = register


def _emit_repeat(work: _Assembly, node: Repeat, scope: _Scope) -> None:
    if isinstance(node.item, SINGLE):
        run = work.add(Op.RUN, node, scope)
        run.test = character_test(spelled(node.item), scope.flags)
        run.least, run.most, run.mode = node.least, node.most, node.mode
    elif node.mode == "possessive":
        _emit_atomic(work, node, lambda: _emit_loop(work, node, scope), scope)
    else:
        _emit_loop(work, node, scope)


def _emit_loop(work: _Assembly, node: Repeat, scope: _Scope) -> None:
    register = work.register()
    work.register()
    work.add(Op.LOOP_START, node, scope).register = register
    loop = work.add(Op.LOOP, node, scope)
    loop.register, loop.least, loop.most, loop.mode = register, node.least, node.most, node.mode
    again = work.here - 1
    if node.mode == "lazy":
        more = work.add(Op.LOOP_MORE, node, scope)
        more.register, more.most, more.first = register, node.most, work.here
    loop.first = work.here
    _emit(work, node.item, scope)
    work.add(Op.JUMP, node, scope).first = again
    loop.second = work.here


def _emit_look(work: _Assembly, node: Look, scope: _Scope) -> None:
    inner = replace(scope, quiet=True)
    register = work.register()
    work.register()
    begin = work.add(Op.REFUSE if node.negated else Op.LOOK, node, scope)
    begin.register = register
    begin.back = 0 if node.ahead else width(node.body, work.parsed.widths)[0]
    _emit(work, node.body, inner)
    work.add(Op.REFUSE_END if node.negated else Op.LOOK_END, node, scope).register = register
    begin.second = work.here


def _emit_conditional(work: _Assembly, node: Conditional, scope: _Scope) -> None:
    condition = work.add(Op.CONDITION, node, scope)
    condition.register = node.number
    _emit(work, node.then, scope)
    jump = work.add(Op.JUMP, node, scope)
    condition.second = work.here
    if node.otherwise is not None:
        _emit(work, node.otherwise, scope)
    jump.first = work.here


def _fold(flags: frozenset[str]) -> Callable[[str], str] | None:
    """Return how characters are folded before a backreference compares them."""
    if "ignore-case" not in flags:
        return None
    if "ascii" in flags:
        return lambda text: "".join(each.lower() if each.isascii() else each for each in text)
    return lambda text: "".join(each.lower()[:1] for each in text)


def _place(node: Anchor, flags: frozenset[str]) -> Callable[[str, int], bool]:
    multiline = "multiline" in flags
    if node.name == "text-start" or (node.name == "line-start" and not multiline):
        return lambda text, position: position == 0
    if node.name == "line-start":
        return lambda text, position: position == 0 or text[position - 1] == "\n"
    if node.name == "text-end":
        return lambda text, position: position == len(text)
    if node.name == "line-end":
        return _at_line_end if multiline else _at_end_or_before_last_line_feed
    word = character_test(r"\w", flags & {"ascii"})
    if node.name == "boundary":
        return lambda text, position: _is_boundary(text, position, word)
    return lambda text, position: not _is_boundary(text, position, word) and not (text == "" and _EMPTY_HAS_NO_BOUNDARY)


def _at_line_end(text: str, position: int) -> bool:
    return position == len(text) or text[position] == "\n"


def _at_end_or_before_last_line_feed(text: str, position: int) -> bool:
    return position == len(text) or (position == len(text) - 1 and text[position] == "\n")


def _is_boundary(text: str, position: int, word: Test) -> bool:
    before = position > 0 and word(text[position - 1])
    after = position < len(text) and word(text[position])
    return before != after
