"""Runs a program: the ways that lead from one place in a text to the next.

A *thread* is a state together with its *dues*: what it has looked ahead for and must still be found, or must not.
Where a thread goes depends on the next letter and on the *context*: what stands before, as far as anchors and
look-behinds ask. Threads and contexts are numbered when first met, and ways are kept once worked out.

Looking ahead adds a due, a set of threads of its own that goes along with every character: it is settled when one of
them has come to the end of what is asked for, or none is left. (Sets of threads: Rabin and Scott 1959; dues as in
alternating automata, Chandra, Kozen and Stockmeyer 1981.)
"""

from __future__ import annotations

import re
from functools import cache
from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.alphabet import LINE_FEED, Alphabet
from fieldstick.analysis.automaton.program import (
    Accept,
    Ahead,
    Anything,
    Behind,
    Check,
    Choice,
    Here,
    Mark,
    OutOfReach,
    State,
    Take,
)
from fieldstick.analysis.character_sets import kind_of_character

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.analysis.automaton.program import Program
    from fieldstick.analysis.effort import Effort

Due = tuple[bool, frozenset[int]]
"""What must be found ahead or, with True, must not be: the threads that look for it."""

Way = tuple[int, tuple[int, ...]]
"""A thread that is come to, and the slots that are marked before the character is taken."""

ACCEPTED = -1
"""The thread of a text that fits."""

UNIVERSAL = 0
"""The thread that takes whatever follows: what is less preferred than it no longer matters."""

START, AFTER_LINE_FEED, AFTER_WORD, AFTER_ASCII_WORD = 1, 2, 4, 8
"""What stands before a place."""

MOST_THREADS = 60_000
"""Threads and contexts that are numbered for one automaton."""

MOST_WORK = 3_000_000
"""States that are gone through in all while ways are worked out; those that are kept are not gone through again."""

MOST_PATHS = 20_000
"""States that are gone through between two characters."""

_NO_DUES: frozenset[Due] = frozenset()


@cache
def boundary_in_nothing(spelling: str) -> bool:
    """Tell whether the running engine finds `\\b` or `\\B` in an empty text: versions of Python differ."""
    return re.search(spelling, "") is not None


class Automaton:
    """A program over an alphabet; `start` and `first_context` are what reading a text begins with."""

    def __init__(self, program: Program, alphabet: Alphabet | None = None, effort: Effort | None = None) -> None:
        self.program = program
        self._effort = effort
        """What states gone through are taken from, where there is less than usual."""

        self.alphabet = alphabet or Alphabet([program])
        self.hopeful = _hopeful(program)
        self._masks = [
            self.alphabet.mask(state.characters) if isinstance(state, Take) else 0 for state in program.states
        ]
        self._threads: list[tuple[int, frozenset[Due]]] = [(-1, _NO_DUES)]
        self._number_of: dict[tuple[int, frozenset[Due]], int] = {}
        self._contexts: list[tuple[int, tuple[frozenset[int], ...]]] = []
        self._context_of: dict[tuple[int, tuple[frozenset[int], ...]], int] = {}
        self._kinds = _kinds_of_letters(program, self.alphabet)
        self._asked_before = _asked_before(program)
        self._behind_tests: dict[tuple[int, int, int], bool] = {}
        self.gone_through = 0
        """States that were gone through in all: what the work is measured in."""
        self._next_contexts: dict[tuple[int, int], int] = {}
        self._ways: dict[tuple[int, int, int], tuple[Way, ...]] = {}
        self._possible: dict[int, int] = {}
        self.start = self._thread(program.start, _NO_DUES)
        begun = tuple(frozenset({self._thread(each, _NO_DUES)}) for each in program.behind)
        self.first_context = self._context((START & self._asked_before, begun))

    def pay(self, states: int) -> None:
        """Take states that are gone through from what may be spent. Raises OutOfReach where that is not enough."""
        if self._effort is not None and not self._effort.spend(states):
            raise OutOfReach("more states to go through than may be")

    def ways(self, thread: int, context: int, letter: int) -> tuple[Way, ...]:
        """Return where a thread goes with the next letter, the preferred way first, none twice."""
        key = (thread, context, letter)
        found = self._ways.get(key)
        if found is None:
            met: dict[int, tuple[int, ...]] = {}
            for reached, marks in self.paths(thread, context, letter, once=True):
                met.setdefault(reached, marks)
                if reached == UNIVERSAL:
                    break
            found = self._ways[key] = tuple(met.items())
        return found

    def possible(self, thread: int) -> int:
        """Return letters, as bits, beyond which a thread goes nowhere, whatever stands before or follows."""
        found = self._possible.get(thread)
        if found is None:
            found = self._possible[thread] = self._found_possible(thread)
        return found

    def _found_possible(self, thread: int) -> int:
        every = (1 << (self.alphabet.end + 1)) - 1
        if thread == UNIVERSAL:
            return every
        letters, waiting, visited = 0, [self._threads[thread][0]], set()
        while waiting:
            number = waiting.pop()
            if number in visited or not self.hopeful[number]:
                continue
            visited.add(number)
            match self.program.states[number]:
                case Take():
                    letters |= self._masks[number]
                case Choice(options=options):
                    waiting += options
                case Mark(then=then) | Check(then=then) | Ahead(then=then) | Behind(then=then):
                    waiting.append(then)
                case Anything():
                    return every
        return letters

    def next_context(self, context: int, letter: int) -> int:
        """Return the context after a letter."""
        if not self._asked_before and not self.program.behind:
            return context
        key = (context, letter)
        found = self._next_contexts.get(key)
        if found is None:
            behind = self._contexts[context][1]
            moved = tuple(
                frozenset(reached for thread in each for reached, _ in self.ways(thread, context, letter))
                for each in behind
            )
            found = self._next_contexts[key] = self._context((self._kinds[letter] & self._asked_before, moved))
        return found

    def paths(self, thread: int, context: int, letter: int, *, once: bool = False) -> list[Way]:
        """Return every path of a thread with the next letter, the preferred first, also where two come to the same.

        With `once`, a state is gone through once alone. Raises OutOfReach when there are too many.
        """
        if thread == UNIVERSAL:
            return [(ACCEPTED if letter == self.alphabet.end else UNIVERSAL, ())]
        state, dues = self._threads[thread]
        found: list[Way] = []
        visited: set[tuple[int, frozenset[Due]]] = set()
        waiting: list[tuple[int, frozenset[Due], tuple[int, ...]]] = [(state, dues, ())]
        gone = 0
        while waiting:
            number, dues, marks = waiting.pop()
            if not self.hopeful[number] or (once and (number, dues) in visited):
                continue
            visited.add((number, dues))
            gone += 1
            if gone > MOST_PATHS:
                raise OutOfReach("repeats of what can be empty, too many in one another")
            each = self.program.states[number]
            match each:
                case Take():
                    if self._masks[number] >> letter & 1:
                        self._arrive(found, each.then, dues, context, letter, marks)
                case Choice():
                    waiting += [(option, dues, marks) for option in reversed(each.options)]
                case Mark():
                    waiting.append((each.then, dues, (*marks, each.slot)))
                case Check():
                    if self._holds(each, self._contexts[context][0], letter):
                        waiting.append((each.then, dues, marks))
                case Ahead():
                    due = (each.negated, frozenset({self._thread(each.start, _NO_DUES)}))
                    waiting.append((each.then, dues | {due}, marks))
                case Behind():
                    if self._stands_before(each.number, context, letter) is not each.negated:
                        waiting.append((each.then, dues, marks))
                case Accept():
                    if letter == self.alphabet.end and self._moved(dues, context, letter) == _NO_DUES:
                        found.append((ACCEPTED, marks))
                case Anything():
                    self._arrive(found, number, dues, context, letter, marks)
        self.gone_through += gone
        self.pay(gone)
        if self.gone_through > MOST_WORK:
            raise OutOfReach("ways that are too many to be worked out")
        return found

    def _arrive(
        self, found: list[Way], state: int, dues: frozenset[Due], context: int, letter: int, marks: tuple[int, ...]
    ) -> None:
        """Add where a character leads to, unless what was looked ahead for is not there."""
        if not self.hopeful[state]:
            return
        left = self._moved(dues, context, letter) if dues else dues
        if left is None:
            return
        if letter == self.alphabet.end:
            found.append((ACCEPTED, marks))
        else:
            found.append((self._thread(state, left), marks))

    def _moved(self, dues: frozenset[Due], context: int, letter: int) -> frozenset[Due] | None:
        """Return the dues that are left after a letter; None when one cannot be met.

        After the end of the text all are settled.
        """
        left = set()
        for negated, threads in dues:
            self.gone_through += len(threads)
            moved = frozenset(reached for thread in threads for reached, _ in self.ways(thread, context, letter))
            if UNIVERSAL in moved or ACCEPTED in moved:
                if negated:
                    return None
            elif not moved:
                if not negated:
                    return None
            else:
                left.add((negated, moved))
        return frozenset(left)

    def _stands_before(self, number: int, context: int, letter: int) -> bool:
        """Tell whether a look-behind finds what it asks for at this place."""
        key = (number, context, letter)
        found = self._behind_tests.get(key)
        if found is None:
            found = any(self._comes_to_here(thread, context, letter) for thread in self._contexts[context][1][number])
            self._behind_tests[key] = found
        return found

    def _comes_to_here(self, thread: int, context: int, letter: int) -> bool:
        waiting, visited = [self._threads[thread][0]], set()
        while waiting:
            number = waiting.pop()
            if number in visited:
                continue
            visited.add(number)
            match self.program.states[number]:
                case Here():
                    return True
                case Choice(options=options):
                    waiting += options
                case Check(then=then) as check:
                    if self._holds(check, self._contexts[context][0], letter):
                        waiting.append(then)
        return False

    def _holds(self, check: Check, before: int, letter: int) -> bool:
        """Tell whether an anchor holds between what stands before and the next letter."""
        end, final = self.alphabet.end, self.alphabet.final
        match check.place:
            case "text-start":
                return bool(before & START)
            case "line-start":
                return bool(before & (START | AFTER_LINE_FEED))
            case "text-end":
                return letter == end
            case "last-line-end":
                return letter in (end, final)
            case "line-end":
                return letter == end or bool(self._kinds[letter] & AFTER_LINE_FEED)
        if before & START and letter == end:
            return boundary_in_nothing(r"\b" if check.place == "boundary" else r"\B")
        word = AFTER_ASCII_WORD if check.ascii_alone else AFTER_WORD
        differs = bool(before & word) is not (letter != end and bool(self._kinds[letter] & word))
        return differs is (check.place == "boundary")

    def _thread(self, state: int, dues: frozenset[Due]) -> int:
        if not dues and isinstance(self.program.states[state], Anything):
            return UNIVERSAL
        key = (state, dues)
        found = self._number_of.get(key)
        if found is None:
            if len(self._threads) >= MOST_THREADS:
                raise OutOfReach("look-around that must be kept in mind in too many ways")
            found = self._number_of[key] = len(self._threads)
            self._threads.append(key)
        return found

    def _context(self, key: tuple[int, tuple[frozenset[int], ...]]) -> int:
        found = self._context_of.get(key)
        if found is None:
            if len(self._contexts) >= MOST_THREADS:
                raise OutOfReach("look-behind that must keep too much in mind")
            found = self._context_of[key] = len(self._contexts)
            self._contexts.append(key)
        return found


def _asked_before(program: Program) -> int:
    """Return what the program's anchors ask of what stands before them, as bits."""
    asked = 0
    for check in program.states:
        if isinstance(check, Check):
            match check.place:
                case "text-start":
                    asked |= START
                case "line-start":
                    asked |= START | AFTER_LINE_FEED
                case "boundary" | "not-boundary":
                    asked |= START | (AFTER_ASCII_WORD if check.ascii_alone else AFTER_WORD)
    return asked


def _kinds_of_letters(program: Program, alphabet: Alphabet) -> list[int]:
    """Return for each letter what the program's anchors may ask of it, as bits."""
    masks: dict[int, int] = {}
    for check in program.states:
        if isinstance(check, Check) and "boundary" in check.place:
            bit = AFTER_ASCII_WORD if check.ascii_alone else AFTER_WORD
            masks[bit] = alphabet.mask(kind_of_character("word", ascii_alone=check.ascii_alone))
        elif isinstance(check, Check) and check.place in ("line-start", "line-end"):
            masks[AFTER_LINE_FEED] = alphabet.mask(LINE_FEED)
    return [sum(bit for bit, mask in masks.items() if mask >> letter & 1) for letter in range(alphabet.end)]


def _hopeful(program: Program) -> list[bool]:
    """Tell for each state whether it could lead to an end, if all anchors held and all looks came true.

    Worked out backwards from the ends, each state once.
    """
    before: list[list[int]] = [[] for _ in program.states]
    waiting = []
    for number, state in enumerate(program.states):
        for then in _onward(state):
            before[then].append(number)
        if isinstance(state, Accept | Anything | Here):
            waiting.append(number)
    hopeful = [False] * len(program.states)
    while waiting:
        number = waiting.pop()
        if not hopeful[number]:
            hopeful[number] = True
            waiting += before[number]
    return hopeful


def _onward(state: State) -> Iterable[int]:
    match state:
        case Choice():
            return state.options
        case Take():
            return (state.then,) if state.characters else ()
        case Mark() | Check() | Ahead() | Behind():
            return (state.then,)
    return ()
