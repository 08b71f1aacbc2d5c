"""A class that reads as if it went from one name to another: `[Mon-Fri]`, `[jan-dec]`."""

from __future__ import annotations

from fieldstick.lean import compiled_later

_FROM_TO = compiled_later(r"\[([A-Za-z]{3,9})-([A-Za-z]{3,9})\]")

_ORDERS = (
    ("january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november",
     "december"),
    ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"),
)  # fmt: skip
"""Names that have an order: the months, the days of the week from its first (ISO 8601-1, 3.1.2)."""


def names_meant(spelling: str) -> tuple[str, str, str] | None:
    """Return the first and the last name that a class reads as if it knew their order, and an expression for all."""
    found = _FROM_TO.fullmatch(spelling)
    if found is None:
        return None
    first, last = found[1], found[2]
    for names in _ORDERS:
        for size in (3, 9):
            cut = [each[:size] for each in names]
            if first.lower() in cut and last.lower() in cut:
                low, high = cut.index(first.lower()), cut.index(last.lower())
                between = cut[low : high + 1] if low < high else []
                if between:
                    return first, last, f"(?:{'|'.join(_as_written(first, each) for each in between)})"
    return None


def _as_written(like: str, name: str) -> str:
    return name.upper() if like.isupper() else name.capitalize() if like[0].isupper() else name
