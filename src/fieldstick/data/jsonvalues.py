"""Rows of JSON documents and of JSON Lines, and values in them by JSON Pointer (RFC 6901)."""

from __future__ import annotations

import json
import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from fieldstick.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Iterator

MISSING = object()
"""Stands for no value at all, which is not null."""

_INDEX = re.compile(r"0|[1-9][0-9]*", re.ASCII)
_ESCAPE = re.compile(r"~(?![01])")


class PointerError(UsageError):
    """A text that is no JSON Pointer."""


def parsed(text: str) -> Any:
    """Parse JSON; a number with a fraction stays exact. Raises ValueError, RecursionError."""
    return json.loads(text, parse_float=Decimal, parse_constant=_refused)


def _refused(name: str) -> Any:
    raise ValueError(f"{name} is no JSON")


def pointer(text: str) -> tuple[str, ...]:
    """Return the keys of a JSON Pointer; a text that begins with no slash is one key.

    Raises PointerError for a slash-led text with a `~` that escapes nothing.
    """
    if text == "":
        return ()
    if not text.startswith("/"):
        return (text,)
    if _ESCAPE.search(text):
        raise PointerError(f"'{text}' is no JSON Pointer: write ~0 for ~ and ~1 for / in a key")
    return tuple(key.replace("~1", "/").replace("~0", "~") for key in text[1:].split("/"))


def value_at(value: Any, keys: tuple[str, ...]) -> Any:
    """Return what lies below `value` at those keys; MISSING when nothing does."""
    for key in keys:
        if isinstance(value, dict):
            value = value.get(key, MISSING)
        elif isinstance(value, list) and _INDEX.fullmatch(key) and int(key) < len(value):
            value = value[int(key)]
        else:
            return MISSING
        if value is MISSING:
            return MISSING
    return value


def text_of(value: Any) -> str | None:
    """Write a cell's value as a text: exact numbers, dates and times of ISO 8601, JSON for what holds others.

    None for null, no value at all.
    """
    if isinstance(value, str):
        return value
    if value is None or value is MISSING:
        return None
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, dict | list):
        return json.dumps(value, ensure_ascii=False, default=str)
    if isinstance(value, bytes):
        return value.decode("utf-8", "surrogateescape")
    return value.isoformat() if hasattr(value, "isoformat") else str(value)


def rows_of(name: str, text: str, rows_at: str | None) -> Iterator[tuple[int, Any]]:
    """Yield the rows of a JSON document with their numbers: the items of the array at `rows_at`, or of the whole.

    Raises UsageError when the text is no JSON, or there is no array.
    """
    try:
        document = parsed(text)
    except (ValueError, RecursionError) as error:
        place = f":{error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise UsageError(f"{name}{place}: not JSON: {error or 'nested too deeply'}") from None
    found = value_at(document, pointer(rows_at or ""))
    if found is MISSING:
        raise UsageError(f"{name} has nothing at {rows_at}{_arrays(document)}")
    if rows_at is not None and not isinstance(found, list):
        raise UsageError(f"{name} has no array at {rows_at}{_arrays(document)}")
    yield from enumerate(found if isinstance(found, list) else [found], 1)


def _arrays(document: Any) -> str:
    """Name the arrays of the topmost level, where rows may be."""
    if not isinstance(document, dict):
        return ""
    names = [
        f"/{key.replace('~', '~0').replace('/', '~1')}" for key, each in document.items() if isinstance(each, list)
    ]
    return f"; there are arrays at {', '.join(names[:8])}" if names else ""
