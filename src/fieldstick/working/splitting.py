"""Cuts the texts of sources up: a row a piece, or a row a text with a column a piece."""

from __future__ import annotations

import pickle
import tempfile
from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.data.rowtext import Column
from fieldstick.errors import BudgetSpent, EngineFailure, UsageError
from fieldstick.matching.tally import Tally
from fieldstick.runs.executor import done

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from fieldstick.data.batch import Texts
    from fieldstick.data.sink import Sink
    from fieldstick.data.source import Source
    from fieldstick.matching.splitting import ReadySplit

Cut = tuple[str, int, tuple[str, ...]]
"""A source's name, a text's number, its pieces."""


def split(
    ready: ReadySplit,
    sources: Sequence[Source],
    sink: Sink,
    *,
    wide: bool = False,
    names: Sequence[str] = (),
    jobs: int = 1,
    progress: Callable[[int], None] | None = None,
) -> Tally:
    """Write the pieces of each text, numbered from 1, a row each; with `wide` a row a text, a column a piece.

    The columns of wide rows are as many as the text with the most pieces has; `names` names the first of them.
    Raises UsageError when a source cannot be read, or the sink not written.
    """
    head = [Column("source"), Column("line", "integer")]
    tally = Tally()
    work = SplitWork(ready)
    if not wide:
        table = sink.table("pieces", [*head, Column("number", "integer"), Column(names[0] if names else "piece")])
        for _, (cuts, found) in done(work, sources, jobs=jobs, progress=progress):
            tally.merge(found)
            rows = [
                [source, number, place, piece]
                for source, number, pieces in cuts
                for place, piece in enumerate(pieces, 1)
            ]
            table.write(table.encode(rows))
        return tally
    with tempfile.TemporaryFile() as waiting:
        width = 0
        for _, (cuts, found) in done(work, sources, jobs=jobs, progress=progress):
            tally.merge(found)
            width = max([width, *(len(pieces) for _, _, pieces in cuts)])
            try:
                pickle.dump(cuts, waiting, pickle.HIGHEST_PROTOCOL)
            except OSError as error:
                raise UsageError(f"the temporary file cannot be written: {error.strerror or error}") from None
        called = [*names[:width], *(f"piece {number}" for number in range(len(names) + 1, width + 1))]
        table = sink.table("pieces", [*head, *(Column(name) for name in called)])
        waiting.seek(0)
        while True:
            try:
                cuts = pickle.load(waiting)
            except EOFError:
                return tally
            rows = [[source, number, *pieces, *([None] * (width - len(pieces)))] for source, number, pieces in cuts]
            table.write(table.encode(rows))


class SplitWork(Struct, frozen=True):
    """The work on a block: the pieces of its texts, and the tally; `fit` are the texts that were cut."""

    ready: ReadySplit

    def __call__(self, source: str, texts: Texts) -> tuple[list[Cut], Tally]:
        """See `Work`."""
        tally = Tally(read=len(texts.texts))
        cuts: list[Cut] = []
        for number, text in zip(texts.numbers, texts.texts, strict=True):
            try:
                pieces = self.ready.pieces(text)
            except (BudgetSpent, EngineFailure):
                tally.give_up(source, number)
                pieces = (text,)
            if len(pieces) > 1:
                tally.fit += 1
            tally.rows += len(pieces)
            cuts.append((source, number, pieces))
        return cuts, tally
