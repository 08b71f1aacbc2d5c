"""Texts that a program holds: lists, what goes through them, Arrow arrays and all that hands itself over as such.

What has `__arrow_c_array__` or `__arrow_c_stream__` (the Arrow PyCapsule interface) is taken without an object a text:
arrays and tables of PyArrow, series and frames of pandas and Polars, relations of DuckDB.
"""

from __future__ import annotations

from array import array
from functools import cached_property
from itertools import accumulate, islice
from typing import TYPE_CHECKING, Any

from fieldstick.data.batch import Batch, SourceNotes, StoredTexts
from fieldstick.data.extras import needed
from fieldstick.data.read_options import ReadOptions
from fieldstick.errors import UsageError, hint

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from fieldstick.data.read_options import Kind

BLOCK_TEXTS, BLOCK_BYTES = 50_000, 1 << 22
"""Texts, or bytes of texts, of one block."""

MOST_BYTES = 1 << 30
"""Bytes beyond which a block has no places: these are int32."""

WHAT = "working with tables in Python"


class GivenBatch(Batch):
    """Texts that follow one another; those that are null are left out, `every_number` numbers them too."""

    def __init__(
        self,
        numbers: Sequence[int],
        every_number: range,
        *,
        stored: StoredTexts | None = None,
        texts: Sequence[str] = (),
    ) -> None:
        super().__init__(numbers, None, stored_texts=stored)
        self.every_number = every_number
        self._given = list(texts)

    @cached_property
    def texts(self) -> list[str]:
        """See `Batch.texts`."""
        return self.stored.texts() if self.stored is not None else self._given


class GivenTexts:
    """A source of texts that are given, numbered from 1; `column` names the one of a frame or table that holds them."""

    def __init__(self, given: Any, column: str | None = None) -> None:
        self.name = "texts"
        self.size: int | None = None
        self.notes = SourceNotes()
        self.read_options = ReadOptions()
        self.ended_early: str | None = None
        self.changed = self.lacks_record_start = False
        self.kind: Kind = "lines"
        self._given, self._column = given, column

    def merge(self, notes: SourceNotes) -> None:
        """Note what was met in a block."""
        self.notes.merge(notes)

    def blocks(self) -> Iterator[Batch]:
        """Yield the texts some at a time. Raises UsageError for what are no texts."""
        if is_arrow(self._given):
            yield from arrow_blocks(_arrays(self._given, self._column))
            return
        if self._column is not None:
            raise UsageError("a column is named for a table or frame, and these are texts one by one")
        yield from _listed_blocks(self._given)


def is_arrow(given: Any) -> bool:
    """Tell whether something hands itself over as Arrow data."""
    return hasattr(given, "__arrow_c_stream__") or hasattr(given, "__arrow_c_array__")


def _arrays(given: Any, column: str | None) -> Iterator[Any]:
    """Yield the arrays of texts, each of type string."""
    arrow = needed("pyarrow", WHAT)
    if hasattr(given, "__arrow_c_stream__"):
        chunks = _streamed(arrow, given, column)
    else:
        chunks = iter([_chosen(arrow, arrow.array(given), column)])
    for chunk in chunks:
        yield from _as_strings(arrow, chunk)


def _streamed(arrow: Any, given: Any, column: str | None) -> Iterator[Any]:
    try:
        reader = arrow.RecordBatchReader.from_stream(given)
    except (arrow.ArrowInvalid, arrow.ArrowTypeError, TypeError):
        # Chunks of one array, not of rows.
        for chunk in arrow.chunked_array(given).chunks:
            yield _chosen(arrow, chunk, column)
        return
    names = reader.schema.names
    if column is None:
        raise UsageError("these are rows: name the column whose cells are the texts, as in column='line'")
    if column not in names:
        raise UsageError(f"there is no column '{column}'{hint(column, names)}")
    for batch in reader:
        yield batch.column(names.index(column))


def _chosen(arrow: Any, chunk: Any, column: str | None) -> Any:
    if column is None:
        return chunk
    if not arrow.types.is_struct(chunk.type) or chunk.type.get_field_index(column) < 0:
        raise UsageError(f"there is no column '{column}'; these are texts one by one")
    return chunk.field(column)


def _as_strings(arrow: Any, chunk: Any) -> Iterator[Any]:
    """Yield an array in parts of type string. Raises UsageError for what are no texts."""
    kind, types = chunk.type, arrow.types
    if types.is_dictionary(kind):
        chunk = chunk.dictionary_decode()
        kind = chunk.type
    view = getattr(types, "is_string_view", None)
    texts = types.is_string(kind) or types.is_large_string(kind) or (view is not None and view(kind))
    if not (texts or types.is_null(kind)):
        raise UsageError(f"texts are wanted, and these are {kind}; cast them first")
    step = max(1, min(len(chunk), BLOCK_TEXTS, BLOCK_BYTES * len(chunk) // max(chunk.nbytes, 1)))
    for start in range(0, len(chunk), step):
        part = chunk.slice(start, step)
        yield part if types.is_string(kind) else part.cast(arrow.string())


def arrow_blocks(arrays: Iterable[Any]) -> Iterator[GivenBatch]:
    """Yield arrays of type string as batches, numbered from 1."""
    compute = needed("pyarrow.compute", WHAT)
    first = 1
    for each in arrays:
        every = range(first, first + len(each))
        first += len(each)
        known: array[int] | None = None
        if each.null_count:
            places = compute.indices_nonzero(each.is_valid())
            known = array("i", (every[place] for place in places.to_pylist()))
            each = each.drop_null()
        _, ends, data = each.buffers()
        offsets = array("i", bytes(4))
        if ends is not None and len(each):
            offsets = array("i")
            offsets.frombytes(memoryview(ends)[4 * each.offset : 4 * (each.offset + len(each) + 1)])
        base = offsets[0]
        if base:
            offsets = array("i", [each_end - base for each_end in offsets])
        held = data.slice(base, offsets[-1]).to_pybytes() if data is not None else b""
        stored = StoredTexts(held, len(each), cells=_cells(offsets), numbers=known)
        yield GivenBatch(known if known is not None else every, every, stored=stored)


def _cells(offsets: array[int]) -> array[int]:
    """Return the start and end of each text, from where each begins and the last one ends."""
    cells = array("i", bytes(8 * (len(offsets) - 1)))
    cells[0::2], cells[1::2] = offsets[:-1], offsets[1:]
    return cells


def _listed_blocks(given: Iterable[Any]) -> Iterator[Batch]:
    going = iter(given)
    first = 1
    while texts := list(islice(going, BLOCK_TEXTS)):
        every = range(first, first + len(texts))
        for number, each in zip(every, texts, strict=True):
            if each is not None and not isinstance(each, str):
                raise UsageError(f"texts are wanted, and text {number} is {type(each).__name__}")
        first += len(texts)
        known: array[int] | None = None
        if None in texts:
            known = array("i", (number for number, each in zip(every, texts, strict=True) if each is not None))
            texts = [each for each in texts if each is not None]
        numbers: Sequence[int] = known if known is not None else every
        yield GivenBatch(numbers, every, stored=_stored(texts, known), texts=texts)


def _stored(texts: list[str], numbers: array[int] | None) -> StoredTexts | None:
    """Return texts as UTF-8; None where a lone surrogate has none, or they are too much for one block."""
    try:
        encoded = [each.encode() for each in texts]
    except UnicodeEncodeError:
        return None
    data = b"".join(encoded)
    if len(data) > MOST_BYTES:
        return None
    return StoredTexts(
        data, len(texts), cells=_cells(array("i", accumulate(map(len, encoded), initial=0))), numbers=numbers
    )
