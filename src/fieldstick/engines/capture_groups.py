"""The capture groups of an expression in the notation of other languages, for engines that do not tell their names.

How many there are is for the engine to say; this reads what each is called.
"""

from __future__ import annotations

from fieldstick.lean import compiled_later

_NAMED = compiled_later(r"\(\?P?<(?![=!])([^>]*)>|\(\?'([^']*)'")
_COMMENT = compiled_later(r"\(\?#[^)]*\)?")


def group_names(expression: str, *, quoted: bool = True, nested: bool = False, verbose: bool = False) -> list[str]:
    """Return the name of each capture group in the order of their parentheses, empty for one without.

    `quoted`: `\\Q…\\E` is text as it stands; `nested`: a class may hold classes; `verbose`: `#` begins a comment.
    """
    names: list[str] = []
    at = 0
    while at < len(expression):
        character = expression[at]
        if character == "\\":
            if quoted and expression.startswith("\\Q", at):
                end = expression.find("\\E", at + 2)
                at = len(expression) if end < 0 else end + 2
                continue
            at += 2
        elif character == "[":
            at = _past_class(expression, at, nested=nested)
        elif verbose and character == "#":
            end = expression.find("\n", at)
            at = len(expression) if end < 0 else end
        elif character == "(":
            comment = _COMMENT.match(expression, at)
            if comment is not None:
                at = comment.end()
                continue
            named = _NAMED.match(expression, at)
            if named is not None:
                names.append(named[1] or named[2])
            elif not expression.startswith(("(?", "(*"), at):
                names.append("")
            at += 1
        else:
            at += 1
    return names


def _past_class(expression: str, at: int, *, nested: bool) -> int:
    """Return where a class that opens there has ended."""
    depth, opening, first = 0, at, at
    while at < len(expression):
        character = expression[at]
        if character == "\\":
            at += 2
            continue
        if character == "[":
            if at == opening or nested:
                depth += 1
                first = at + 1 + expression.startswith("^", at + 1)
            elif expression.startswith(("[:", "[.", "[="), at) and (end := expression.find("]", at + 2)) > 0:
                at = end
        elif character == "]" and (at != first or nested):
            depth -= 1
            if depth == 0:
                return at + 1
        at += 1
    return at
