"""What waits until all of it is known: in memory while it is little, else in a temporary file."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator

HELD = 32 << 20
"""Bytes of payloads that are held in memory; beyond them all payloads go to a temporary file."""


class Spool:
    """Payloads put aside, and given back in the same order; once, when all are there."""

    def __init__(self) -> None:
        self._held: list[Any] = []
        self._size = 0
        self._waiting: Any = None

    def put(self, payload: Any, size: int = HELD) -> None:
        """Put something aside, of so many bytes in memory. Raises UsageError when there is no room for it."""
        self._size += size
        if self._size < HELD:
            self._held.append(payload)
            return
        # Most of what is written has no need of these.
        import pickle
        import tempfile

        try:
            if self._waiting is None:
                self._waiting = tempfile.TemporaryFile()  # noqa: SIM115
            for each in (*self._held, payload):
                pickle.dump(each, self._waiting, pickle.HIGHEST_PROTOCOL)
        except OSError as error:
            raise UsageError(f"the temporary file cannot be written: {error.strerror or error}") from None
        self._held = []

    def __iter__(self) -> Iterator[Any]:
        """Give all back, and close the file."""
        if self._waiting is not None:
            import pickle

            self._waiting.seek(0)
            while True:
                try:
                    yield pickle.load(self._waiting)
                except EOFError:
                    break
            self._waiting.close()
        held, self._held = self._held, []
        yield from held
