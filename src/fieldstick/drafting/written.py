"""An expression as its writer wrote it: where parts were filled in, `{{part}}` stands."""

from __future__ import annotations

import re
from bisect import bisect_left
from typing import TYPE_CHECKING

from fieldstick.syntax.scan import scan, starts_verbose

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from fieldstick.syntax.tree import Span


class Written:
    """An expression with its parts filled in, and where each part stands in it."""

    def __init__(self, expression: str, parts: Mapping[Span, str]) -> None:
        self.expression, self.parts = expression, parts
        self._spans = sorted(parts, key=lambda span: (span[0], -span[1]))
        self._outer: list[Span] = []
        for span in self._spans:
            if not self._outer or span[0] >= self._outer[-1][1]:
                self._outer.append(span)

    def piece(self, start: int, end: int) -> str:
        """Return a piece as it was written: parts strictly inside it by their names."""
        made, at = [], start
        for first, last in self._spans[bisect_left(self._spans, (start, 0)) :]:
            if first >= end:
                break
            if first >= at and last <= end and (first, last) != (start, end):
                made += [self.expression[at:first], f"{{{{{self.parts[first, last]}}}}}"]
                at = last
        return "".join([*made, self.expression[at:end]])

    @property
    def text(self) -> str:
        """The whole expression as it was written."""
        return self._with_names(self.expression, 0, 0)

    def place(self, span: Span) -> tuple[Span, str | None]:
        """Return where a piece stands in `text`; the whole of a part, and its name, for a piece of one."""
        start, end, name = 0, 0, None
        for first, last in self._outer:
            shift = len(self.parts[first, last]) + 4 - (last - first)
            if last <= span[0]:
                start, end = start + shift, end + shift
            elif first < span[1]:
                return (first + start, last + start + shift), self.parts[first, last]
        return (span[0] + start, span[1] + end), name

    def changed(self, expression: str) -> str:
        """Return a changed expression as it would be written; with those parts filled in that were changed."""
        return next((made for made in self._namings(expression) if self._reads(made) == expression), expression)

    def _namings(self, expression: str) -> Iterator[str]:
        """Yield a changed expression with its parts by their names, in the ways in which that may be right."""
        before = self.expression
        shorter = min(len(before), len(expression))
        head = alike(before, expression)
        tail = alike(before[::-1], expression[::-1])
        # What was taken out of, or put between, pieces that are alike may have stood before or after one of them.
        for start, end in (
            (head, len(before) - min(tail, shorter - head)),
            (min(head, shorter - tail), len(before) - tail),
        ):
            if not any(first < end and start < last for first, last in self._outer):
                yield self._with_names(expression, end, len(expression) - len(before))
        yield self._named_by_text(expression)

    def _reads(self, written: str) -> str | None:
        """Return the expression that a text with names in it becomes; None where one of them is no part there.

        A bracket that was put before a name makes a class of it, in which a part stands without its group; in
        verbose notation the group of a part ends on a line of its own.
        """
        if starts_verbose(written) != starts_verbose(self.expression):
            return None
        texts = {self.parts[first, last]: self.expression[first:last] for first, last in self._outer}
        made, at = [], 0
        for use in scan(written, verbose=any(text.endswith("\n)") for text in texts.values())).uses:
            if use.in_class or use.parameter or use.name not in texts:
                return None
            made += [written[at : use.start], texts[use.name]]
            at = use.end
        return "".join([*made, written[at:]])

    def _named_by_text(self, expression: str) -> str:
        """Return an expression that was changed at several places, with names where the text of a part stands whole."""
        texts = {self.expression[first:last]: self.parts[first, last] for first, last in self._outer}
        for text in sorted(texts, key=len, reverse=True):
            # After a backslash it is no part: a parenthesis that means itself, and more.
            pieces = re.split(rf"(?<!\\){re.escape(text)}", expression)
            expression = f"{{{{{texts[text]}}}}}".join(pieces)
        return expression

    def _with_names(self, expression: str, since: int, shift: int) -> str:
        made, at = [], 0
        for first, last in self._outer:
            moved = shift if first >= since else 0
            made += [expression[at : first + moved], f"{{{{{self.parts[first, last]}}}}}"]
            at = last + moved
        return "".join([*made, expression[at:]])


def alike(one: str, other: str) -> int:
    """Return how many characters two texts begin with alike."""
    return next((at for at, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), min(len(one), len(other)))
