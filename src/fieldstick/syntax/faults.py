"""What is wrong with an expression: the place, what was expected, and what the writer may have meant."""

from __future__ import annotations

from fieldstick.errors import FieldstickError


class SyntaxFault(FieldstickError):
    """An expression that cannot be read.

    `span` holds code-point offsets into `expression`; `rule` says what was broken, `expected` what should stand
    there, `meant` what the writer may have meant; the last two may be empty.
    """

    def __init__(self, expression: str, start: int, end: int, rule: str, expected: str = "", meant: str = "") -> None:
        self.expression = expression
        self.span = (start, max(end, start))
        self.rule = rule
        self.expected = expected
        self.meant = meant
        words = [rule]
        if expected:
            words.append(f"expected {expected}")
        if meant:
            words.append(meant)
        super().__init__(f"{'; '.join(words)} (at {start})")
