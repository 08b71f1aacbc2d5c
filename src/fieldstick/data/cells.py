"""The cells of several columns of a batch of rows, each a text of its own."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.data.json_rows import cell_at
from fieldstick.data.rows import text_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.data.batch import Batch


def texts_by_column(batch: Batch, columns: Sequence[str], longest: int | None) -> list[list[str | None]]:
    """Return the texts of each column, None where a row has no value in it, or one longer than is read.

    What is not read is noted with the batch.
    """
    found: list[list[str | None]] = []
    missing, overlong = set(), set()
    for column in columns:
        texts = [text_of(cell_at(row, column)) for row in batch.rows or ()]
        for index, text in enumerate(texts):
            if text is None:
                missing.add(index)
            elif longest is not None and len(text) > longest:
                overlong.add(index)
                texts[index] = None
        found.append(texts)
    for noted, indexes in ((batch.notes.missing, missing), (batch.notes.overlong, overlong)):
        for index in sorted(indexes):
            # What is no row at all is noted by whoever read it.
            if (batch.rows or ())[index]:
                noted.note(batch.numbers[index])
    return found
