"""Numbers from one to another as an expression, which a class, being one character, cannot hold."""

from __future__ import annotations

from fieldstick.lean import compiled_later

_ONE_CLASS = compiled_later(r"\[[0-9-]+\]")
_NUMBER_RANGE = compiled_later(r"([0-9]{1,3})-([0-9]{1,3})")


def numbers_meant(spelling: str) -> tuple[str, str, str] | None:
    """Return the least and the most number that a class reads as if it knew numbers, and an expression for them.

    Numbers that are written with zeros before them have as many digits each.
    """
    found = _NUMBER_RANGE.fullmatch(spelling.strip("[]"))
    if found is None or len(found[1] + found[2]) < 3 or int(found[1]) >= int(found[2]):
        return None
    low, high = found[1], found[2]
    if low[0] == "0" and len(low) > 1:
        return (low, high, _as_one(padded_between(int(low), int(high), len(low)))) if len(low) == len(high) else None
    return low, high, numbers_between(int(low), int(high))


def _as_one(spelling: str) -> str:
    """Spell an expression so that a quantifier behind it is one of all of it."""
    return spelling if spelling.startswith("(?:") or _ONE_CLASS.fullmatch(spelling) else f"(?:{spelling})"


def padded_between(low: int, high: int, width: int) -> str:
    """Return an expression for the numbers from `low` to `high` of so many digits, zeros before them."""
    options = _padded(str(low).zfill(width), str(high).zfill(width))
    return options[0] if len(options) == 1 else f"(?:{'|'.join(options)})"


def _padded(low: str, high: str) -> list[str]:
    if not low:
        return [""]
    size = len(low) - 1
    least, most = "0" * size, "9" * size
    if low[0] == high[0]:
        rest = _padded(low[1:], high[1:])
        return [low[0] + (rest[0] if len(rest) == 1 else f"(?:{'|'.join(rest)})")]
    # What begins as the least does, what begins between them, what begins as the most does.
    first, last = int(low[0]) + (low[1:] != least), int(high[0]) - (high[1:] != most)
    digits = str(first) if first == last else f"[{first}{'-' * (last > first + 1)}{last}]"
    found = [low[0] + each for each in _padded(low[1:], most)] if low[1:] != least else []
    found += [digits + "[0-9]" * size] if first <= last else []
    return found + ([high[0] + each for each in _padded(least, high[1:])] if high[1:] != most else [])


def numbers_between(low: int, high: int) -> str:
    """Return an expression for the numbers from `low` to `high`, both below a thousand, the longest first."""
    options: list[str] = []
    for width in (3, 2, 1):
        first, last = max(low, 10 ** (width - 1) if width > 1 else 0), min(high, 10**width - 1)
        while first <= last:
            # Cut where the tens, and before the hundreds, are whole.
            sizes = (100, 10, 1)[3 - width :]
            step = next((size for size in sizes if first % size == 0 and first + size - 1 <= last), 1)
            count = 1
            while count < 10 and first + (count + 1) * step - 1 <= last and (first // step + count) % 10:
                count += 1
            head, tail = first // step, len(str(step)) - 1
            digits = str(head)
            end = digits[-1] if count == 1 else f"[{digits[-1]}{'-' * (count > 2)}{int(digits[-1]) + count - 1}]"
            options.append(digits[:-1] + end + "[0-9]" * tail)
            first += count * step
    return _as_one(options[0]) if len(options) == 1 else f"(?:{'|'.join(options)})"
