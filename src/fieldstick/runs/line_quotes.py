"""What stands in quotes in lines, and which of it says the same again and again."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.runs.line_slots import has_word

if TYPE_CHECKING:
    import re
    from collections.abc import Callable

MOST_REMEMBERED = 20_000
"""Texts in quotes of which it is remembered what they say."""

QUOTED_TEXT = "\x01"
"""What stands for a text in quotes while a line is cut; of ASCII, which is faster."""

QUOTED = compiled_later(r'"(?:(?<![\w.]")|(?<=[^\w"][bfru]")|(?<=\A[bfru]"))(?!\w+":|\d{4}-\d\d-\d\d[T ]\d\d:)[^"\n]*"')
"""What stands in quotes, but keys, which stay, and timestamps. What is behind a number are seconds or inches."""
_SAID = compiled_later(rf"{QUOTED_TEXT}([\ue000-\uf8ff])")
"""What stands for a text in quotes of which it is known what it says: a character for that, too."""
_FIRST_SAID = 0xE000
_KEY_BEFORE = compiled_later(r"[\w.-]+=\Z")
LONGEST_KEY, LONGEST_SAID = 40, 80
"""Code points of a key, and of what stands in quotes behind it, up to which it is told what that says."""
MOST_SAID, MOST_OF_KEY = 2_000, 40
"""Different texts in quotes that are told apart, and those of a key, which beyond that may have any."""


class Quotes:
    """Texts in quotes behind a key, such as `msg="probe late"`, of keys that have a few of them.

    `slots_in` returns a word with its slots in the place of what fills them.
    """

    def __init__(self, slots_in: Callable[[str], str]) -> None:
        self._slots_in = slots_in
        self.said: list[str] = []
        self.has_keys = False
        """Whether there was a text in quotes behind a key."""

        self._known: dict[tuple[str, str], str] = {}
        self._of_key: dict[str, dict[str, str]] = {}

    def put(self, text: str) -> str:
        """Return a text with something short in the place of what stands in quotes."""
        has_keys = '="' in text
        self.has_keys = self.has_keys or has_keys
        return QUOTED.sub(self._put, text) if has_keys else QUOTED.sub(QUOTED_TEXT, text)

    def _put(self, found: re.Match[str]) -> str:
        start = found.start()
        if found.string[start - 1 : start] != "=" or found.end() - start > LONGEST_SAID:
            return QUOTED_TEXT
        key = _KEY_BEFORE.search(found.string, max(0, start - LONGEST_KEY), start)
        if key is None:
            return QUOTED_TEXT
        asked = (key[0], found[0])
        if asked not in self._known:
            if len(self._known) >= MOST_REMEMBERED:
                return QUOTED_TEXT
            self._known[asked] = self._told(*asked)
        return self._known[asked]

    def _told(self, key: str, quoted: str) -> str:
        said = " ".join(map(self._slots_in, quoted[1:-1].split(" ")))
        of_key = self._of_key.setdefault(key, {})
        if said not in of_key:
            is_full = len(of_key) >= MOST_OF_KEY or len(self.said) >= MOST_SAID
            if is_full or not has_word(said) or not said.isprintable():
                return QUOTED_TEXT
            of_key[said] = QUOTED_TEXT + chr(_FIRST_SAID + len(self.said))
            self.said.append(said)
        return of_key[said]

    def told_in(self, piece: str) -> str:
        """Return a piece with what stands in quotes in it as it is, its slots filled in."""

        def said(found: re.Match[str]) -> str:
            number = ord(found[1]) - _FIRST_SAID
            return f'"{self.said[number]}"' if number < len(self.said) else found[0]

        return _SAID.sub(said, piece)
