"""What is written packed: told by the ending of a file's name."""

from __future__ import annotations

from typing import Any, BinaryIO

from fieldstick.data.extras import needed

ENDINGS = {".gz": "gzip", ".bz2": "bzip2", ".xz": "xz", ".zst": "zstd"}
"""The endings of names of packed files, and what they are packed with."""


def without_packing(name: str) -> str:
    """Return a name without the ending that says that it is packed."""
    for ending in ENDINGS:
        if name.lower().endswith(ending):
            return name[: -len(ending)]
    return name


def packing_of(name: str) -> str | None:
    """Return what a file of that name is packed with; None for nothing."""
    return ENDINGS.get(name[len(without_packing(name)) :].lower())


def packed(stream: BinaryIO, packing: str) -> Any:
    """Return what packs what is written to it, and writes it to a stream; the stream stays open when it is closed.

    The same bytes come of the same text, whenever it is written. Raises UsageError where a library is lacking.
    """
    if packing == "gzip":
        import gzip

        return gzip.GzipFile(filename="", mode="wb", compresslevel=6, fileobj=stream, mtime=0)
    if packing == "bzip2":
        import bz2

        return bz2.BZ2File(stream, "wb")
    if packing == "xz":
        import lzma

        return lzma.LZMAFile(stream, "wb")
    return needed("zstandard", "a file packed with zstd").ZstdCompressor().stream_writer(stream, closefd=False)
