"""Matches a text as Python's engine would, and records how far it came and what was asked for there.

It never decides an outcome: it explains what the engine decided. A run is bounded in steps.
"""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

from msgspec import Struct, field
from msgspec.structs import replace

from fieldstick.drafting.program import Instruction, Op, Program, assemble
from fieldstick.engines.budget import run_within, timer_usable
from fieldstick.engines.probing import compiled_by_engine, method_of
from fieldstick.errors import BudgetSpent
from fieldstick.syntax.tree import SINGLE, Conditional, Group, Repeat, walk

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach, Spans
    from fieldstick.syntax.parser import Parsed
    from fieldstick.syntax.tree import Node

DEFAULT_STEPS = 200_000
"""Steps after which a trace is given up: some tenths of a second."""


MOST_WANTED = 50
"""Things asked for at one place that are noted; nobody reads more."""

ENGINE_MILLISECONDS = 50


class Wanted(Struct, frozen=True):
    """Something that was asked for at the furthest place and not found.

    `more` tells that the node is a repeat that could have taken another turn, but need not.
    """

    node: Node
    more: bool = False


class Trace(Struct, frozen=True):
    """How a match went.

    `spans` are those of the match, None when there is none: the whole, then each group, (-1, -1) for one that
    took no part. Without a match, `start` and `furthest` say between which code points the longest attempt held,
    and `wanted` what was asked for at `furthest`, in the order it was tried. `given_back` counts, by the span of a
    repeat or alternation in the expression, how often a turn was given back or an option given up. `complete` is
    False when the steps ran out.
    """

    spans: Spans | None
    start: int
    furthest: int
    wanted: tuple[Wanted, ...]
    given_back: dict[tuple[int, int], int]
    steps: int
    complete: bool = True


class _Attempt(Struct):
    """A match tried from one place."""

    start: int
    furthest: int
    wanted: list[Wanted] = field(default_factory=list)

    def note(self, position: int, instruction: Instruction, *, more: bool = False) -> None:
        if instruction.quiet or position < self.furthest:
            return
        if position > self.furthest:
            self.furthest = position
            self.wanted.clear()
        found = Wanted(instruction.node, more)
        if len(self.wanted) < MOST_WANTED and found not in self.wanted:
            self.wanted.append(found)


class _StepsSpentError(Exception):
    """The run used up its steps."""


def trace(parsed: Parsed, text: str, reach: Reach = "whole", *, steps: int = DEFAULT_STEPS) -> Trace:
    """Trace the first match of an expression in `text` within a reach."""
    program, is_decided_there = _assembled(_Same(parsed))
    traced = Machine(program, text, steps).search(reach)
    return _as_decided(traced, parsed, text, reach) if traced.complete and is_decided_there else traced


class _Same:
    """An expression, the same as another where it is the very same object."""

    def __init__(self, parsed: Parsed) -> None:
        self.parsed = parsed

    def __hash__(self) -> int:
        return id(self.parsed)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.parsed is self.parsed


@lru_cache(maxsize=16)
def _assembled(same: _Same) -> tuple[Program, bool]:
    """Return the program of an expression, and whether what it matches is asked of the engine: texts come in crowds."""
    return assemble(same.parsed), _engine_has_its_own_way(same.parsed)


def _engine_has_its_own_way(parsed: Parsed) -> bool:
    """Tell whether there is a possessive repeat of more than a character, or a group that asks whether it took part.

    Of the first, Python 3.11 keeps what groups captured in a turn that failed, and loses its count where repeats nest;
    of the second, it takes the end of an attempt that failed for the group's. What such an expression matches is asked
    of the engine; what is traced is what the notation means.
    """
    nodes = list(walk(parsed.tree))
    if any(
        isinstance(node, Repeat) and node.mode == "possessive" and not isinstance(node.item, SINGLE) for node in nodes
    ):
        return True
    asked = {node.number for node in nodes if isinstance(node, Conditional)}
    groups = [node for node in nodes if isinstance(node, Group) and node.number in asked]
    return any(
        isinstance(inner, Conditional) and inner.number == group.number
        for group in groups
        for inner in walk(group.body)
    )


def _as_decided(traced: Trace, parsed: Parsed, text: str, reach: Reach) -> Trace:
    """Return a trace with the spans that the engine gives; where it breaks down, they stay as traced."""
    compiled = compiled_by_engine(parsed.expression, parsed.flags)
    if compiled is None:
        return traced
    method = method_of(compiled, reach)
    try:
        found = run_within(ENGINE_MILLISECONDS, method, text) if timer_usable() else method(text)
    except (BudgetSpent, SystemError, MemoryError):
        return traced
    return replace(traced, spans=found.regs if found else None)


def trace_all(parsed: Parsed, text: str, *, steps: int = DEFAULT_STEPS) -> list[Spans]:
    """Return the spans of all matches anywhere in `text`, none overlapping.

    After a match of nothing the next may begin at the same place, but must take something.
    """
    if _engine_has_its_own_way(parsed):
        compiled = compiled_by_engine(parsed.expression, parsed.flags)
        try:
            return [each.regs for each in compiled.finditer(text)] if compiled else []
        except SystemError:
            pass
    machine = Machine(assemble(parsed), text, steps)
    found: list[Spans] = []
    position, not_empty_at = 0, -1
    while position <= len(text):
        spans = machine.first_from(position, not_empty_at)
        if spans is None:
            break
        found.append(spans)
        start, position = spans[0]
        not_empty_at = position if start == position else -1
    return found


class Machine:
    """Runs a program on one text."""

    def __init__(self, program: Program, text: str, steps: int) -> None:
        self.program = program
        self.text = text
        self.steps_left = steps
        self.steps = steps
        self.given_back: dict[tuple[int, int], int] = {}

    def search(self, reach: Reach) -> Trace:
        """Try from each place that the reach allows; see `trace`."""
        starts = range(len(self.text) + 1) if reach == "anywhere" else range(1)
        best: _Attempt | None = None
        try:
            for start in starts:
                attempt = _Attempt(start, start)
                spans = self.run(attempt, whole=reach == "whole")
                if spans is not None:
                    return self._trace(spans, attempt)
                if best is None or attempt.furthest - start > best.furthest - best.start:
                    best = attempt
        except _StepsSpentError:
            best = best if best and best.furthest - best.start >= attempt.furthest - attempt.start else attempt
            return self._trace(None, best, complete=False)
        assert best is not None
        return self._trace(None, best)

    def first_from(self, position: int, not_empty_at: int) -> Spans | None:
        """Return the first match that starts at `position` or after it."""
        for start in range(position, len(self.text) + 1):
            spans = self.run(_Attempt(start, start), whole=False, not_empty_at=not_empty_at)
            if spans is not None:
                return spans
        return None

    def _trace(self, spans: Spans | None, attempt: _Attempt, *, complete: bool = True) -> Trace:
        used = self.steps - self.steps_left
        wanted = tuple(attempt.wanted)
        return Trace(spans, attempt.start, attempt.furthest, wanted, self.given_back, used, complete)

    def run(self, attempt: _Attempt, *, whole: bool, not_empty_at: int = -1) -> Spans | None:
        """Run from the attempt's start; return the spans of the match or None."""
        state = _State(self, attempt, whole, not_empty_at)
        return state.run()


class _Point(Struct):
    """A place to go back to: an instruction, a position, and how long the trail was.

    With `until` set, the point serves again at each position down (or up) to it.
    """

    pc: int
    position: int
    trail: int
    until: int | None = None
    step: int = 0
    instruction: Instruction | None = None


class _State:
    """A run: position, slots, registers, the trail that undoes changes, the points to go back to."""

    __slots__ = (
        "attempt", "code", "machine", "not_empty_at", "pc", "points", "position", "registers", "slots", "text", "trail",
        "whole",
    )  # fmt: skip

    def __init__(self, machine: Machine, attempt: _Attempt, whole: bool, not_empty_at: int) -> None:
        self.machine = machine
        self.attempt = attempt
        self.code = machine.program.instructions
        self.text = machine.text
        self.whole = whole
        self.not_empty_at = not_empty_at
        self.pc = 0
        self.position = attempt.start
        self.slots: list[int] = [-1] * (2 * machine.program.groups + 2)
        self.registers: list[int] = [0] * machine.program.registers
        self.trail: list[tuple[list[int], int, int]] = []
        self.points: list[_Point] = []

    def run(self) -> Spans | None:
        machine, code = self.machine, self.code
        while True:
            machine.steps_left -= 1
            if machine.steps_left < 0:
                raise _StepsSpentError
            instruction = code[self.pc]
            if instruction.op is Op.MATCH:
                if self._may_end(instruction):
                    return self._spans()
                if not self._back():
                    return None
            elif not _STEPS[instruction.op](self, instruction) and not self._back():
                return None

    def _may_end(self, instruction: Instruction) -> bool:
        if self.whole and self.position != len(self.text):
            self.attempt.note(self.position, instruction)
            return False
        return not (self.position == self.attempt.start == self.not_empty_at)

    def _spans(self) -> Spans:
        groups = [(self.attempt.start, self.position)]
        for number in range(1, self.machine.program.groups + 1):
            start, end = self.slots[2 * number], self.slots[2 * number + 1]
            groups.append((start, end) if start >= 0 and end >= 0 else (-1, -1))
        return tuple(groups)

    def set(self, where: list[int], index: int, value: int) -> None:
        self.trail.append((where, index, where[index]))
        where[index] = value

    def push(self, pc: int, position: int, instruction: Instruction | None = None) -> None:
        self.points.append(_Point(pc, position, len(self.trail), instruction=instruction))

    def _note_given_back(self, instruction: Instruction) -> None:
        spans = self.machine.given_back
        spans[instruction.node.span] = spans.get(instruction.node.span, 0) + 1

    def _back(self) -> bool:
        """Go back to the latest point; False when there is none."""
        while self.points:
            point = self.points[-1]
            self._undo(point.trail)
            if point.pc < 0:
                self.points.pop()
                assert point.instruction is not None
                self.attempt.note(point.position, point.instruction)
                continue
            if point.until is None:
                self.points.pop()
                if point.instruction is not None:
                    self._note_given_back(point.instruction)
                self.pc, self.position = point.pc, point.position
                return True
            if self._next_turn(point):
                return True
        return False

    def _undo(self, length: int) -> None:
        while len(self.trail) > length:
            where, index, value = self.trail.pop()
            where[index] = value

    def _next_turn(self, point: _Point) -> bool:
        """Let a run of single characters give one back, or take one more."""
        instruction = point.instruction
        assert instruction is not None and point.until is not None and instruction.test is not None
        if point.step < 0:
            if point.position <= point.until:
                self.points.pop()
                return False
            point.position -= 1
            self._note_given_back(instruction)
        else:
            if point.position >= point.until or not instruction.test(self.text[point.position]):
                if point.position < len(self.text) and point.position < point.until:
                    self.attempt.note(point.position, instruction, more=True)
                self.points.pop()
                return False
            point.position += 1
        self.pc, self.position = point.pc, point.position
        return True

    def test(self, instruction: Instruction) -> bool:
        assert instruction.test is not None
        if self.position < len(self.text) and instruction.test(self.text[self.position]):
            self.position += 1
            self.pc += 1
            return True
        self.attempt.note(self.position, instruction)
        return False

    def take_run(self, instruction: Instruction) -> bool:
        text, start, test = self.text, self.position, instruction.test
        assert test is not None
        most = len(text) if instruction.most is None else min(len(text), start + instruction.most)
        least = start + instruction.least
        goal = min(least, len(text)) if instruction.mode == "lazy" else most
        end = start
        while end < goal and test(text[end]):
            end += 1
        self.machine.steps_left -= (end - start) // 16
        if end < least:
            self.attempt.note(end, instruction)
            return False
        self.pc += 1
        self.position = end
        if instruction.mode == "greedy":
            if end < most or instruction.most is None:
                self.attempt.note(end, instruction, more=True)
            if end > least:
                self.points.append(_Point(self.pc, end, len(self.trail), least, -1, instruction))
        elif instruction.mode == "lazy" and end < most:
            self.points.append(_Point(self.pc, end, len(self.trail), most, 1, instruction))
        return True

    def place(self, instruction: Instruction) -> bool:
        assert instruction.place is not None
        if instruction.place(self.text, self.position):
            self.pc += 1
            return True
        self.attempt.note(self.position, instruction)
        return False

    def split(self, instruction: Instruction) -> bool:
        self.push(instruction.second, self.position, instruction)
        self.pc = instruction.first
        return True

    def jump(self, instruction: Instruction) -> bool:
        self.pc = instruction.first
        return True

    def save(self, instruction: Instruction) -> bool:
        self.set(self.slots, instruction.register, self.position)
        self.pc += 1
        return True

    def repeated(self, instruction: Instruction) -> bool:
        start, end = self.slots[2 * instruction.register], self.slots[2 * instruction.register + 1]
        if 0 <= start <= end:
            wanted = self.text[start:end]
            self.machine.steps_left -= len(wanted) // (2 if instruction.fold else 16)
            found = self.text[self.position : self.position + len(wanted)]
            if found == wanted or (instruction.fold and instruction.fold(found) == instruction.fold(wanted)):
                self.position += len(wanted)
                self.pc += 1
                return True
        self.attempt.note(self.position, instruction)
        return False

    def loop_start(self, instruction: Instruction) -> bool:
        self.set(self.registers, instruction.register, 0)
        self.set(self.registers, instruction.register + 1, -1)
        self.pc += 1
        return True

    def loop(self, instruction: Instruction) -> bool:
        """Another turn, or on to what follows."""
        turns = self.registers[instruction.register]
        if turns < instruction.least:
            self.set(self.registers, instruction.register, turns + 1)
            self.pc = instruction.first
        elif instruction.mode == "lazy":
            self.push(self.pc + 1, self.position)
            self.pc = instruction.second
        elif self._may_turn(instruction):
            self.push(instruction.second, self.position, instruction)
            self._turn(instruction)
        else:
            self.pc = instruction.second
        return True

    def loop_more(self, instruction: Instruction) -> bool:
        """What follows a lazy loop did not match: one more turn."""
        if not self._may_turn(instruction):
            return False
        self._turn(instruction)
        return True

    def _may_turn(self, instruction: Instruction) -> bool:
        """A turn beyond the least is taken only where the last such turn did not begin."""
        turns, last = self.registers[instruction.register], self.registers[instruction.register + 1]
        return (instruction.most is None or turns < instruction.most) and self.position != last

    def _turn(self, instruction: Instruction) -> None:
        self.set(self.registers, instruction.register, self.registers[instruction.register] + 1)
        self.set(self.registers, instruction.register + 1, self.position)
        self.pc = instruction.first

    def barrier(self, instruction: Instruction) -> bool:
        self.set(self.registers, instruction.register, len(self.points))
        self.pc += 1
        return True

    def cut(self, instruction: Instruction) -> bool:
        del self.points[self.registers[instruction.register] :]
        self.pc += 1
        return True

    def look(self, instruction: Instruction) -> bool:
        if self.position < instruction.back:
            self.attempt.note(self.position, instruction)
            return False
        self.set(self.registers, instruction.register, len(self.points))
        self.set(self.registers, instruction.register + 1, self.position)
        self.points.append(_Point(-1, self.position, len(self.trail), instruction=instruction))
        self.position -= instruction.back
        self.pc += 1
        return True

    def look_end(self, instruction: Instruction) -> bool:
        del self.points[self.registers[instruction.register] :]
        self.position = self.registers[instruction.register + 1]
        self.pc += 1
        return True

    def refuse(self, instruction: Instruction) -> bool:
        if self.position < instruction.back:
            self.pc = instruction.second
            return True
        self.set(self.registers, instruction.register, len(self.points))
        self.set(self.registers, instruction.register + 1, self.position)
        self.push(instruction.second, self.position)
        self.position -= instruction.back
        self.pc += 1
        return True

    def refuse_end(self, instruction: Instruction) -> bool:
        position = self.registers[instruction.register + 1]
        del self.points[self.registers[instruction.register] :]
        self.attempt.note(position, instruction)
        return False

    def condition(self, instruction: Instruction) -> bool:
        start, end = self.slots[2 * instruction.register], self.slots[2 * instruction.register + 1]
        self.pc = self.pc + 1 if 0 <= start <= end else instruction.second
        return True


_STEPS = {
    Op.TEST: _State.test,
    Op.RUN: _State.take_run,
    Op.PLACE: _State.place,
    Op.SPLIT: _State.split,
    Op.JUMP: _State.jump,
    Op.SAVE: _State.save,
    Op.REPEATED: _State.repeated,
    Op.LOOP_START: _State.loop_start,
    Op.LOOP: _State.loop,
    Op.LOOP_MORE: _State.loop_more,
    Op.BARRIER: _State.barrier,
    Op.CUT: _State.cut,
    Op.LOOK: _State.look,
    Op.LOOK_END: _State.look_end,
    Op.REFUSE: _State.refuse,
    Op.REFUSE_END: _State.refuse_end,
    Op.CONDITION: _State.condition,
}
