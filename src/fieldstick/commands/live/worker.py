"""The process that reads for the live view: it holds the texts, and drops a draft when a newer one is asked about.

The screen never waits for it. An expression that takes forever spends its budget here, text by text; a process that
does not answer at all is ended and another one begun.
"""

from __future__ import annotations

import multiprocessing
import time
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fieldstick.errors import ExpressionError, FieldstickError

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence
    from multiprocessing.connection import Connection

    from fieldstick.data.read_options import ReadOptions
    from fieldstick.reporting.ruler import Line
    from fieldstick.runs.heaps import Heaps
    from fieldstick.suites.overrides import Overrides

BUDGET = 60
"""Milliseconds that one text may cost here at the most."""

PAUSE = 0.25
"""Seconds between two looks at what is known on the way."""

PATIENCE = 3.0
"""Seconds after which a process that was asked something newer and does not answer is ended."""


class Draft(Struct, frozen=True):
    """A draft that is asked about: its number, the expression, and the outcomes under the one before it.

    `positive` and `negative` are samples that were taken for it. With `text` it is asked why that fits or does not, in
    lines of `width` cells.
    """

    number: int
    expression: str
    overrides: Overrides
    before: bytes = b""
    positive: tuple[str, ...] = ()
    negative: tuple[str, ...] = ()
    text: str | None = None
    width: int = 80


class Found(Struct, frozen=True):
    """What is known of a draft; `whole` when there is no more to come.

    `fault` says why it cannot be read, `position` where; `broken` are samples that are not as they should be.
    """

    number: int
    heaps: Heaps | None = None
    fault: str | None = None
    position: int | None = None
    why: tuple[Line, ...] | None = None
    whole: bool = False
    broken: tuple[str, ...] = ()


class _Superseded(Exception):
    """A newer draft is waiting."""


def serve(connection: Connection, names: Sequence[str], read_options: ReadOptions) -> None:
    """Read the sources, then answer what is asked until the other side is gone."""
    from fieldstick.commands.sources import sources_of
    from fieldstick.runs.heaps import HeldTexts

    try:
        held = HeldTexts(sources_of(names, read_options))
        connection.send(Found(0, whole=True))
        while True:
            asked = connection.recv()
            try:
                connection.send(_answer(connection, held, asked))
            except _Superseded:
                continue
            except ExpressionError as error:
                connection.send(Found(asked.number, fault=str(error), position=error.position, whole=True))
            except FieldstickError as error:
                connection.send(Found(asked.number, fault=str(error), whole=True))
    except FieldstickError as error:
        connection.send(Found(-1, fault=str(error), whole=True))
    except (EOFError, BrokenPipeError, KeyboardInterrupt):
        return


def _answer(connection: Connection, held: Any, asked: Draft) -> Found:
    from fieldstick.analysis.hazard_kinds import FOREVER
    from fieldstick.analysis.hazards import hazards
    from fieldstick.runs.heaps import HeapRun
    from fieldstick.syntax.parser import parse
    from fieldstick.workspace import Workspace

    chosen = Workspace().pattern(None, asked.overrides, expression=asked.expression)
    if asked.text is not None:
        from fieldstick.drafting.context import Beside
        from fieldstick.reporting.lines import Page, lines_of
        from fieldstick.reporting.why_answers import answer_of
        from fieldstick.reporting.why_report import answer_report

        answer = answer_of(chosen, asked.text, Beside(asked.positive, asked.negative))
        return Found(asked.number, why=tuple(lines_of(answer_report(answer), Page(asked.width))), whole=True)
    quick = replace(chosen, pattern=replace(chosen.pattern, budget_ms=min(BUDGET, chosen.pattern.budget_ms)))
    matcher = quick.matcher
    matcher.keep_to_engine()
    dangers = hazards(parse(chosen.expression, chosen.pattern.flags), chosen.pattern.reach)
    walked = not any(each.kind in FOREVER for each in dangers)

    last = 0.0

    def shown(known: Callable[[], Heaps]) -> None:
        nonlocal last
        if time.monotonic() - last >= PAUSE:
            connection.send(Found(asked.number, known()))
            last = time.monotonic()

    def going_on() -> None:
        if connection.poll():
            raise _Superseded

    heaps = HeapRun(held, matcher, walked=walked, values=chosen.values).run(shown, asked.before, going_on)
    broken = [each for each in asked.positive if not matcher.read_or_give_up(each).fits]
    broken += [each for each in asked.negative if matcher.read_or_give_up(each).fits]
    return Found(asked.number, heaps, whole=True, broken=tuple(broken))


class Reader:
    """The screen's side: asks a process of its own, takes what it has found, and ends one that does not answer."""

    def __init__(self, names: Sequence[str], read_options: ReadOptions) -> None:
        self._given = (tuple(names), read_options)
        self._context = multiprocessing.get_context("spawn")
        self._asked: Draft | None = None
        self._since = 0.0
        self._begin()

    def _begin(self) -> None:
        ours, theirs = self._context.Pipe()
        self._connection, self._has_ended = ours, False
        self._process = self._context.Process(target=serve, args=(theirs, *self._given), daemon=True)
        self._process.start()
        theirs.close()

    def ask(self, draft: Draft) -> None:
        """Ask about a draft; what was asked before is dropped."""
        self._asked, self._since = draft, time.monotonic()
        try:
            self._connection.send(draft)
        except (BrokenPipeError, OSError):
            self._begin()
            self._connection.send(draft)

    def found(self) -> list[Found]:
        """Return what has been found since it was last asked, without waiting."""
        made: list[Found] = []
        try:
            while self._connection.poll():
                made.append(self._connection.recv())
        except (EOFError, OSError):
            # One that said why it ends has said enough.
            if not self._has_ended and not any(each.number == -1 for each in made):
                made.append(Found(-1, fault="the process that reads has ended", whole=True))
        self._has_ended = self._has_ended or any(each.number == -1 for each in made)
        latest = self._asked.number if self._asked is not None else 0
        if any(each.number == latest for each in made):
            self._since = time.monotonic()
        if any(each.number == latest and each.whole for each in made):
            self._asked = None
        elif self._asked is not None and time.monotonic() - self._since > PATIENCE:
            self.stop()
            self._begin()
            self.ask(self._asked)
        return made

    def stop(self) -> None:
        """End the process."""
        self._process.kill()
        self._process.join()
        self._connection.close()
