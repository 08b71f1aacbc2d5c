"""What stands, in a copy of a job that is worked on elsewhere, for what the original alone writes to."""

from __future__ import annotations

from typing import Any


class Elsewhere:
    """Is there, and does nothing: nobody writes to it."""

    def __getattr__(self, name: str) -> Any:
        if name.startswith("__"):
            raise AttributeError(name)
        return self

    def __call__(self, *arguments: Any, **named: Any) -> Elsewhere:
        return self


class StaysHere:
    """Something that is not copied: where a copy of it would be there is `Elsewhere`."""

    def __reduce__(self) -> tuple[Any, ...]:
        return Elsewhere, ()
