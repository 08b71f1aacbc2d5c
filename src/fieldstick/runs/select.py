"""Selects the texts that fit, or do not, as they stand in their source."""

from __future__ import annotations

from collections import deque
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.matching.bulk import BulkReader
from fieldstick.matching.tally import Tally, tallied
from fieldstick.runs.executor import done

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from fieldstick.data.batch import Texts
    from fieldstick.data.source import Source
    from fieldstick.data.text_file import Target
    from fieldstick.matching.matcher import Matcher

Line = tuple[int, str, bool]
"""A text's number, the text as it stands in its source, and whether it is one that was asked for."""


class Selecting(Struct, frozen=True):
    """What is asked of a selection: texts that do not fit with `unfit`, `around` lines about each, their place."""

    unfit: bool = False
    around: int = 0
    with_place: bool = False


def select(
    pattern: Matcher,
    sources: Sequence[Source],
    target: Target | None,
    asked: Selecting = Selecting(),
    *,
    jobs: int = 1,
    progress: Callable[[int], None] | None = None,
) -> list[Tally]:
    """Write the texts that fit, or do not, in their order; return a tally for each source.

    A text that spent its budget is neither; it is named in the tally. Without a target the texts are counted alone.
    Raises UsageError when a source cannot be read, or the target not written.
    """
    tallies = {id(source): Tally() for source in sources}
    writer = Writer(target, asked)
    work = Select(BulkReader(pattern), asked, all_lines=asked.around > 0, texts=target is not None)
    for source, (lines, tally) in done(work, sources, jobs=jobs, progress=progress):
        tallies[id(source)].merge(tally)
        writer.write(source, lines)
    return [tallies[id(source)] for source in sources]


class Select(Struct, frozen=True):
    """The work on a block: its lines, or those asked for alone, and their tally."""

    reader: BulkReader
    asked: Selecting
    all_lines: bool
    texts: bool

    def __call__(self, source: str, texts: Texts) -> tuple[list[Line], Tally]:
        """See `Work`."""
        fits = self.reader.fits(texts.texts)
        tally = tallied(fits, source, texts.numbers)
        wanted = not self.asked.unfit
        if not self.texts:
            return [], tally
        lines = [
            (number, texts.raw(index), fit is wanted)
            for index, (number, fit) in enumerate(zip(texts.numbers, fits, strict=True))
            if self.all_lines or fit is wanted
        ]
        return lines, tally


class Writer:
    """Writes selected lines with those around them; a table's header stands before its rows."""

    def __init__(self, target: Target | None, asked: Selecting) -> None:
        self._target, self._asked = target, asked
        self._before: deque[Line] = deque(maxlen=max(asked.around, 1))
        self._after = 0
        self._last: tuple[str, int] | None = None
        self._source: Source | None = None
        self._header = ""

    def write(self, source: Source, lines: Sequence[Line]) -> None:
        """Write what is to be written of lines that follow the ones before."""
        if self._target is None:
            return
        if source is not self._source:
            self._source, self._after = source, 0
            self._before.clear()
            if source.header and source.header != self._header:
                self._header = source.header
                self._target.write(_ended(source.header))
        if self._asked.around:
            lines = list(self._with_those_around(lines))
        self._target.write("".join([self._shown(source, line) for line in lines]))

    def _with_those_around(self, lines: Sequence[Line]) -> Iterator[Line]:
        for line in lines:
            if line[2]:
                yield from self._before
                self._before.clear()
                yield line
                self._after = self._asked.around
            elif self._after:
                self._after -= 1
                yield line
            else:
                self._before.append(line)

    def _shown(self, source: Source, line: Line) -> str:
        number, raw, selected = line
        text = _ended(raw)
        if self._asked.with_place:
            role = ("fits\t" if selected else "near\t") if self._asked.around else ""
            text = f"{source.name}\t{number}\t{role}{text}"
        gap = ""
        if self._asked.around:
            if self._last is not None and self._last != (source.name, number - 1):
                gap = "\n"
            self._last = (source.name, number)
        return gap + text


def _ended(raw: str) -> str:
    return raw if raw.endswith("\n") else raw + "\n"
