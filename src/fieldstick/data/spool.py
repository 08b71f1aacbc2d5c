"""What waits in a temporary file until all of it is known."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator


class Spool:
    """Payloads put aside, and given back in the same order; once, when all are there."""

    def __init__(self) -> None:
        # Most of what is written has no need of these.
        import tempfile

        self._waiting = tempfile.TemporaryFile()  # noqa: SIM115

    def put(self, payload: Any) -> None:
        """Put something aside. Raises UsageError when there is no room for it."""
        import pickle

        try:
            pickle.dump(payload, self._waiting, pickle.HIGHEST_PROTOCOL)
        except OSError as error:
            raise UsageError(f"the temporary file cannot be written: {error.strerror or error}") from None

    def __iter__(self) -> Iterator[Any]:
        """Give all back, and close the file."""
        import pickle

        self._waiting.seek(0)
        while True:
            try:
                yield pickle.load(self._waiting)
            except EOFError:
                break
        self._waiting.close()
