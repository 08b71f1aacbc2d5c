"""What `keep --from` does: the patterns of a schema or form kept in a suite, all of them or none."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from fieldstick.commands.keeping import begun_file
from fieldstick.commands.saying import say, tell
from fieldstick.engines.registry import engine_named, why_unusable
from fieldstick.errors import ExpressionError, UsageError, hint
from fieldstick.handover.taking.reading import for_engine, taken_from
from fieldstick.suites.editing import edit, with_pattern, with_sample

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.handover.taking.taken import Taken


def keep_from(path: str, name: str | None, kept_in: str, engine: str | None) -> None:
    """Keep the patterns that a file holds, or the one of a name; written for `engine` where one is given.

    Raises UsageError when there is none of the name, one cannot be written for the engine, or the suite has one of the
    names already; nothing is kept then.
    """
    found = taken_from(path)
    if name is not None:
        named = [each for each in found if each.name == name]
        if not named:
            raise UsageError(f"{path} has no pattern '{name}'{hint(name, [each.name for each in found])}")
        found = named
    if engine is not None:
        engine_named(engine)
        found = [for_engine(each, engine) for each in found]
    _check(path, found)
    file = begun_file(kept_in)

    def added(document: str) -> str:
        for each in found:
            document = with_pattern(document, each.name, _table(each))
            for text in dict.fromkeys(each.examples):
                document = with_sample(document, each.name, "positive", {"text": text})
        return document

    edit(Path(file), added)
    for each in found:
        tell(f"Kept {each.name} in {file}: {each.expression}")
        if each.left:
            words = f"not kept, an expression or a field can say it: {', '.join(each.left)}"
            say(f"{each.name} ({path}, {each.place}): {words}")
    unusable = {each.engine: why_unusable(each.engine) for each in found}
    for missing, why in unusable.items():
        if why is not None:
            say(
                f"{missing} is not usable here, so that they cannot be checked: {why}; --engine python writes them anew"
            )
    tell(f"Next: fieldstick check {file}")


def _check(path: str, found: Sequence[Taken]) -> None:
    """Raise UsageError for an expression that its engine refuses."""
    for each in found:
        if why_unusable(each.engine) is None:
            try:
                engine_named(each.engine).compile(each.expression, frozenset())
            except ExpressionError as error:
                raise UsageError(f"{path}, {each.place}: {each.expression}: {error}") from None


def _table(taken: Taken) -> dict[str, Any]:
    table: dict[str, Any] = {
        "about": taken.about,
        "expression": taken.expression,
        "reach": taken.reach,
        "message": taken.message,
        "engines": [taken.engine],
    }
    return {key: value for key, value in table.items() if value}
