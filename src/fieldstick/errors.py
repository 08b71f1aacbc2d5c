"""Every error the package raises, each with its exit status and the place it speaks of."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.problem import Problem

EXIT_PASSED = 0
EXIT_FAILED = 1
EXIT_WRONG = 2
EXIT_ENGINE = 3
EXIT_DEFECT = 70
"""A defect of Fieldstick itself (sysexits.h: EX_SOFTWARE)."""

EXIT_SIGNALLED = 128
"""To which the number of the signal that ended the program is added: 130 for an interrupt."""


class FieldstickError(Exception):
    """Something the user can put right; its text says what is wrong and what to do."""

    exit_status: int = EXIT_WRONG


class DataWarning(UserWarning):
    """Something of a source was not read as asked; its text names it by line."""


class UsageError(FieldstickError):
    """A command or call asks for something that is not there."""


class SuiteFileError(FieldstickError):
    """A suite file, or one it borrows from, cannot be used; `problems` lists all that is wrong."""

    def __init__(self, problems: Iterable[Problem]) -> None:
        self.problems = tuple(sorted(set(problems)))
        super().__init__("\n".join(str(problem) for problem in self.problems))


class ExpressionError(FieldstickError):
    """An engine refuses an expression.

    `rule` is the engine's own word for what was broken; `position` is a code-point offset, None when the
    engine names no place. `part` names the part in whose text the position lies; None for the expression.
    `given` is the expression as the engine was given it, with its flags, where that is known.
    """

    def __init__(
        self,
        rule: str,
        position: int | None,
        part: str | None = None,
        given: tuple[str, frozenset[str]] | None = None,
    ) -> None:
        self.rule = rule
        self.position = position
        self.part = part
        self.given = given
        where = "" if position is None else f" at {position}"
        inside = f" of the part '{part}'" if part else ""
        super().__init__(f"the expression does not compile: {rule}{where}{inside}")

    def __reduce__(self) -> tuple[type[ExpressionError], tuple[object, ...]]:
        return type(self), (self.rule, self.position, self.part, self.given)


class BudgetSpent(FieldstickError):
    """One text cost more than its budget (milliseconds) and was given up."""

    exit_status = EXIT_FAILED

    def __init__(self, budget_ms: int) -> None:
        self.budget_ms = budget_ms
        super().__init__(f"gave up after the budget of {budget_ms} ms")

    def __reduce__(self) -> tuple[type[BudgetSpent], tuple[int]]:
        return type(self), (self.budget_ms,)


class PatienceLost(FieldstickError):
    """So many texts spent their budget that work on data was stopped."""

    exit_status = EXIT_FAILED

    def __init__(self, count: int) -> None:
        self.count = count
        super().__init__(
            f"stopped, since {count} texts each took longer than the budget; "
            "'fieldstick why' looks for the reason, and --patient goes on to the end"
        )

    def __reduce__(self) -> tuple[type[PatienceLost], tuple[int]]:
        return type(self), (self.count,)


class EngineFailure(FieldstickError):
    """An engine broke down on a text, by a defect of its own."""

    exit_status = EXIT_FAILED


class EngineUnusable(FieldstickError):
    """An engine that was asked for cannot be used here."""

    exit_status = EXIT_ENGINE

    def __init__(self, engine: str, why: str) -> None:
        self.engine = engine
        self.why = why
        super().__init__(f"engine '{engine}' is not usable here: {why}")

    def __reduce__(self) -> tuple[type[EngineUnusable], tuple[str, str]]:
        return type(self), (self.engine, self.why)


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


def nearest(name: str, valid: Iterable[str]) -> str | None:
    """Return the valid name most like `name`, or None when none is near."""
    import difflib

    found = difflib.get_close_matches(name, list(valid), n=1, cutoff=0.5)
    return found[0] if found else None


def hint(name: str, valid: Iterable[str], *, most: int = 12) -> str:
    """Return words that name the nearest valid name, or else all of them, ready to follow a message."""
    names = list(valid)
    near = nearest(name, names)
    if near is not None:
        return f"; the nearest is '{near}'"
    if not names:
        return "; there are none here"
    shown = ", ".join(names[:most])
    return f"; there are {shown}" + (f" and {len(names) - most} more" if len(names) > most else "")
