"""The names of all hazards, as docs/hazards.md has them: what `allow` in a suite may name."""

from __future__ import annotations

FOREVER = ("takes-forever", "nested-repeats")
"""Those for which some text may take forever."""

OF_EXPRESSIONS = (
    "wide-range",
    "bar-in-class",
    "word-in-class",
    "number-in-class",
    "backspace",
    "twice-in-class",
    "other-notation",
    "folded-letter",
    "digit-beyond-ascii",
    "anchored-alternation",
    "anchor-never-holds",
    "quantified-anchor",
    "boundary-by-mark",
    "last-line-feed",
    "look-slip",
    "look-moves-match",
    "dot-in-number",
    "dot-in-name",
    "dot-for-point",
    "takes-anything",
    "matches-nothing",
    "empty-option",
    "empty-turn",
    "hidden-option",
    "bounds-never-met",
    "no-quantifier",
    "nested-repeats",
    "takes-forever",
    "last-turn",
    "number-shifts",
    "absent-reference",
    "idle-flag",
    "blank-ignored",
)
"""What an expression alone may have."""

OF_SUITES = ("hidden-member", "hidden-kind", "kinds-overlap", "same-parts", "other-engine")
"""What patterns and parts may be to one another, and to the engines that they name."""

KINDS = (*OF_EXPRESSIONS, *OF_SUITES)


def is_named(name: str) -> bool:
    """Tell whether a name is that of a hazard, or what the names of several begin with: `dot` for three of them."""
    return any(covers(name, kind) for kind in KINDS)


def covers(name: str, kind: str) -> bool:
    """Tell whether a hazard, or a family of them, of this name is meant by a kind."""
    endless = ("takes-forever", "nested-repeats")
    return kind == name or kind.startswith(f"{name}-") or (kind in endless and name in endless)
