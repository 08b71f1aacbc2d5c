"""Bytes that are made when they are needed, by whoever needs them: it may be another thread."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.data.elsewhere import Elsewhere

if TYPE_CHECKING:
    from collections.abc import Callable


class Later:
    """Bytes that a call makes, once, of arguments that nobody changes any more; `size` is about how many.

    Where it is copied to another process, they are made before.
    """

    __slots__ = ("_arguments", "_make", "size")

    def __init__(self, size: int, make: Callable[..., bytes], *arguments: Any) -> None:
        self.size = size
        self._make, self._arguments = make, arguments

    def made(self) -> bytes:
        """Return the bytes."""
        return self._make(*self._arguments)

    def __reduce__(self) -> tuple[Any, ...]:
        return bytes, (self.made(),)


def later_for(target: object, size: int, make: Callable[..., bytes], *arguments: Any) -> Later | bytes:
    """Return what is to be written to a target, made later; at once in a copy that is elsewhere.

    Such a one hands on what it makes of many blocks together, and text is less to hold than blocks.
    """
    made = Later(size, make, *arguments)
    return made.made() if isinstance(target, Elsewhere) else made
