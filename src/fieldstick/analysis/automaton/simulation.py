"""Reads a text with an automaton as the engine would: whether it fits, where, and what every group captured.

All threads go through the text side by side, each with its own places, in the order of preference (Pike's algorithm, as
Cox describes it, "Regular expression matching: the virtual machine approach", 2009): time is linear in the text,
whatever the expression.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.analysis.automaton.program import OutOfReach
from fieldstick.analysis.automaton.threads import ACCEPTED, UNIVERSAL

if TYPE_CHECKING:
    from fieldstick.analysis.automaton.threads import Automaton
    from fieldstick.engines.protocol import Spans

_Slots = tuple[int, ...]


def read(automaton: Automaton, text: str) -> Spans | None:
    """Return the span of the match and of each group in code points, (-1, -1) for one that took no part.

    None when the text does not fit. Raises OutOfReach when the text of a group is not known (`hidden_group`).
    """
    if automaton.program.hidden_group is not None:
        raise OutOfReach("a capture group in look-around or in a possessive repeat", automaton.program.hidden_group)
    empty: _Slots = (-1,) * (2 * automaton.program.groups + 2)
    threads: dict[int, _Slots] = {automaton.start: empty}
    context = automaton.first_context
    for place, letter in enumerate(automaton.alphabet.letters(text)):
        threads = _stepped(automaton, threads, context, letter, place)
        if not threads:
            return None
        if letter != automaton.alphabet.end:
            context = automaton.next_context(context, letter)
    return _spans(threads[ACCEPTED])


def _stepped(
    automaton: Automaton, threads: dict[int, _Slots], context: int, letter: int, place: int
) -> dict[int, _Slots]:
    """Return the threads after a letter, in order, each with its places: the preferred way to a thread counts."""
    reached: dict[int, _Slots] = {}
    for thread, slots in threads.items():
        for onward, marks in automaton.ways(thread, context, letter):
            if onward not in reached:
                reached[onward] = _marked(slots, marks, place) if marks else slots
        if UNIVERSAL in reached or ACCEPTED in reached:
            break
    return reached


def _marked(slots: _Slots, marks: tuple[int, ...], place: int) -> _Slots:
    changed = list(slots)
    for slot in marks:
        changed[slot] = place
    return tuple(changed)


def _spans(slots: _Slots) -> Spans:
    pairs = zip(slots[::2], slots[1::2], strict=True)
    return tuple((start, end) if end >= 0 else (-1, -1) for start, end in pairs)
