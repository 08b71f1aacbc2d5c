"""Bounds the memory of a match: the engine keeps a place to return to for every choice that it made.

Some expressions make it keep gigabytes in a second. Once a text has been matched for some milliseconds, this process
may become larger by so much alone; then the engine gives up with a MemoryError. It is measured at that moment: where a
bound is tighter than what is held already, Python 3.11 gives up a call and lets go of the function twice, which is the
end of the process some time later. Where a process cannot tell its size (`/proc`), there is no bound.
"""

from __future__ import annotations

try:
    import resource
except ImportError:  # not on this system
    resource = None  # type: ignore[assignment]

MOST = 1 << 30
"""Bytes that matching one text may take: ten million code points and a place to return to for each are far less."""

_before: tuple[int, int] | None = None
"""The limits that this process had before it was bound; None while it is not."""


def size_of(process: str = "self") -> int | None:
    """Return the bytes of address space that a process has; None where that cannot be told."""
    if resource is None:
        return None
    try:
        with open(f"/proc/{process}/statm", "rb") as stream:
            return int(stream.read().split()[0]) * resource.getpagesize()
    except (OSError, ValueError, IndexError):
        return None


def limits_beyond(size: int) -> tuple[int, int]:
    """Return the limits of a process of that size: no looser than those that this one has."""
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    known = [each for each in (soft, hard, size + MOST) if each != resource.RLIM_INFINITY]
    return min(known), hard


def bind() -> None:
    """Let this process become larger by `MOST` bytes alone than it is now, until `release`."""
    global _before
    size = size_of()
    if size is not None and _before is None:
        _before = resource.getrlimit(resource.RLIMIT_AS)
        resource.setrlimit(resource.RLIMIT_AS, limits_beyond(size))


def release() -> None:
    """Let this process become as large as before."""
    global _before
    if _before is not None:
        resource.setrlimit(resource.RLIMIT_AS, _before)
        _before = None


def bind_other(process: int) -> None:
    """Let another process of ours become larger by `MOST` bytes alone, from now on."""
    size = size_of(str(process))
    if size is not None and hasattr(resource, "prlimit"):
        resource.prlimit(process, resource.RLIMIT_AS, limits_beyond(size))
