"""How much work may still be done: counted in steps, so that what is found never depends on how fast a machine is."""

from __future__ import annotations


class Effort:
    """The work that is left, in steps, and that was `spent`; `stopped` tells that it ran out before all was done.

    A step is about what reading one code point takes. Trying an expression takes as many as it has code points.
    """

    def __init__(self, left: int) -> None:
        self.left, self.spent = left, 0
        self.stopped = False

    def spend(self, amount: int) -> bool:
        """Take some of it, and tell whether there was enough."""
        self.left -= amount
        self.spent += amount
        self.stopped = self.stopped or self.left < 0
        return self.left >= 0

    def renew(self, left: int) -> None:
        """Set what is left anew; what was spent stays spent."""
        self.left = left
