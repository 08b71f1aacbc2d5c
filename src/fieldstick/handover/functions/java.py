"""A pattern as a class of Java, 17 or later, with tests for JUnit 5."""

from __future__ import annotations

import datetime as dt
import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from fieldstick.handover.functions.combined import RESULTS
from fieldstick.handover.functions.snippets import helpers
from fieldstick.handover.functions.task import camel, pascal, words_of
from fieldstick.handover.handing import commented
from fieldstick.handover.literals import LITERALS, in_double_quotes

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.handover.functions.combined import Combined, CombinedCase
    from fieldstick.handover.functions.task import Case, Field, Task

ENGINE = "java"
LIMITS = {
    "integer": "digits of other alphabets are no numbers there",
    "decimal": "digits of other alphabets are no numbers there",
    "date": "days by week are none there",
    "time": "times of day with an offset are none there",
    "timestamp": "timestamps by week are none there; one with an offset is an OffsetDateTime, else a LocalDateTime",
}
MARKS = ("// ", "")
quoted = LITERALS["java"].quoted
_TAKEN = frozenset(
    re.findall(
        r"\w+",
        """
    abstract assert boolean break byte case catch char class clone const continue default do double else enum
    extends false final finalize finally float for getClass goto hashCode if implements import instanceof int
    interface long native new notify notifyAll null package private protected public return short static strictfp
    super switch synchronized this throw throws toString transient true try void volatile wait while match text
    """,
    )
)
_TYPES = {
    "text": "String",
    "integer": "BigInteger",
    "decimal": "BigDecimal",
    "boolean": "Boolean",
    "date": "LocalDate",
    "time": "LocalTime",
    "timestamp": "Temporal",
}


def key(name: str) -> str:
    """Return a field's component of the record."""
    made = camel(words_of(name))
    return f"{made}_" if made in _TAKEN else made


def name_of(words: tuple[str, ...]) -> str:
    """Return the name of the class, which none of the library has."""
    return f"{pascal(words)}Pattern"


def files(words: tuple[str, ...], stem: str | None) -> tuple[str, str]:
    """Return the names of the file and of its test."""
    name = stem if stem is not None else name_of(words)
    return f"{name}.java", f"{name}Test.java"


def source(task: Task, file: str) -> str:
    """Write the class."""
    several = task.take == "all"
    result = "Optional<List<Fields>>" if several else "Optional<Fields>"
    what = "the fields of each match" if several else "the fields"
    lines = [f"public final class {file.removesuffix('.java')} {{"]
    lines += [f"    private static final Pattern EXPRESSION = {task.literal};"]
    for at, field in enumerate(task.fields, 1):
        lines += [f"    private static final Pattern SHAPE_{at} = {field.shape};"] if field.shape else []
    parts = ", ".join(f"{_TYPES[field.spec.type]} {field.key}" for field in task.fields)
    lines += ["", "    /** What a match captures; null for a group that took no part. */"]
    lines += [f"    public record Fields({parts}) {{}}", "", f"    /** Returns {what} of a text that fits. */"]
    lines += [f"    public static {result} read(String text) {{", *_taking(task), "    }", ""]
    lines += ["    private static Optional<Fields> fields(MatchResult match) {", *_reading(task), "    }"]
    body = "\n".join(lines)
    body = f"{body}\n{helpers(task, 'java.java', body, {'order': 'isBefore('})}".rstrip()
    head = [commented(each, MARKS) for each in task.head]
    return "\n".join([*head, *_imports(), "", body, "}"]) + "\n"


def _imports() -> Iterator[str]:
    yield "import java.math.*;"
    yield "import java.time.*;"
    yield "import java.time.temporal.Temporal;"
    yield "import java.util.*;"
    yield "import java.util.function.Function;"
    yield "import java.util.regex.*;"


def _taking(task: Task) -> Iterator[str]:
    if task.take == "first":
        yield "        Matcher match = EXPRESSION.matcher(text);"
        yield "        return match.find() ? fields(match) : Optional.empty();"
        return
    yield "        List<MatchResult> matches = EXPRESSION.matcher(text).results().toList();"
    if task.take == "all":
        yield "        List<Fields> found = matches.stream().flatMap(each -> fields(each).stream()).toList();"
        yield "        return found.isEmpty() || found.size() < matches.size() ? Optional.empty() : Optional.of(found);"
        return
    number = task.nth
    index = str(number - 1) if number > 0 else f"matches.size() - {-number}"
    yield f"        return matches.size() < {abs(number)} ? Optional.empty() : fields(matches.get({index}));"


def _reading(task: Task) -> Iterator[str]:
    for at, field in enumerate(task.fields, 1):
        spec = field.spec
        checks = list(_checks(field))
        if spec.type == "text":
            yield f"        String {field.key} = match.group({field.group});"
            if checks:
                yield f"        if ({field.key} != null && ({' || '.join(checks)})) return Optional.empty();"
            continue
        yield f"        String text{at} = match.group({field.group});"
        yield f"        {_TYPES[spec.type]} {field.key} = text{at} == null ? null : {_converter(field, at)};"
        refused = " || ".join([f"{field.key} == null", *checks])
        yield f"        if (text{at} != null && ({refused}))"
        yield "            return Optional.empty();"
    yield f"        return Optional.of(new Fields({', '.join(field.key for field in task.fields)}));"


def _converter(field: Field, at: int) -> str:
    spec = field.spec
    group, mark = text_literal(spec.group_mark or ""), text_literal(spec.decimal_mark)
    if spec.type == "boolean":
        true, false = (f"List.of({', '.join(map(text_literal, words))})" for words in (spec.true, spec.false))
        return f"{true}.contains(text{at}) ? Boolean.TRUE : {false}.contains(text{at}) ? Boolean.FALSE : null"
    if spec.type == "integer":
        return f"converted(text{at}, each -> integer(each, SHAPE_{at}, {group}))"
    if spec.type == "decimal":
        return f"converted(text{at}, each -> decimal(each, SHAPE_{at}, {group}, {mark}))"
    cast = f"({_TYPES[spec.type]}) " if spec.type != "timestamp" else ""
    return f'{cast}converted(text{at}, each -> moment(each, SHAPE_{at}, "{field.roles}", "{spec.type}"))'


def _checks(field: Field) -> Iterator[str]:
    spec = field.spec

    def of(found: Any) -> str:
        return value(found, spec.type)

    if spec.type == "timestamp":
        if spec.least is not None:
            yield f"isBefore({field.key}, {of(spec.least)})"
        if spec.most is not None:
            yield f"isBefore({of(spec.most)}, {field.key})"
    else:
        if spec.least is not None:
            yield f"{field.key}.compareTo({of(spec.least)}) < 0"
        if spec.most is not None:
            yield f"{field.key}.compareTo({of(spec.most)}) > 0"
    if spec.one_of:
        among = " && ".join(f"{field.key}.compareTo({of(each)}) != 0" for each in spec.one_of)
        if spec.type in ("text", "boolean", "timestamp"):
            among = f"!List.of({', '.join(map(of, spec.one_of))}).contains({field.key})"
        yield among if len(spec.one_of) == 1 or not among.startswith(field.key) else f"({among})"


def text_literal(text: str) -> str:
    """Write a text as a string of Java."""
    return in_double_quotes(text)


def value(found: Any, kind: str) -> str:
    """Write a value of a type of field as Java has it."""
    if found is None or isinstance(found, bool):
        return "null" if found is None else str(found).lower()
    if kind == "integer":
        return f'new BigInteger("{found}")'
    if isinstance(found, int | Decimal):
        return f'new BigDecimal("{found}")'
    if isinstance(found, dt.datetime):
        kind = "OffsetDateTime" if found.tzinfo is not None else "LocalDateTime"
        return f'{kind}.parse("{found.isoformat()}")'
    if isinstance(found, dt.date | dt.time):
        return f'{_TYPES[type(found).__name__]}.parse("{found.isoformat()}")'
    return text_literal(str(found))


def test(task: Task, file: str) -> str:
    """Write the samples as tests."""
    name = file.removesuffix(".java")
    return _tests(task, file, lambda case, read: [f"assertEquals({_wanted(task, case, name)}, {read});"])


def _tests(made: Task | Combined, file: str, asserted: Callable[[Any, str], list[str]]) -> str:
    """Write a class of tests; `asserted` says what is asked of a case and of what is read of it."""
    name = file.removesuffix(".java")
    lines = [f"// The samples of {made.address}.", "import static org.junit.jupiter.api.Assertions.assertEquals;", ""]
    lines += ["import java.math.*;", "import java.time.*;", "import java.util.*;", "import org.junit.jupiter.api.Test;"]
    lines += ["", f"class {name}Test {{"]
    for case in made.cases:
        lines += [f"    @Test void {camel(tuple(case.title.split()))}() {{"]
        lines += [f"        {commented(case.note, MARKS)}"] if case.note else []
        asked = asserted(case, f"{name}.read({text_literal(case.text)})")
        lines += [*(f"        {each}" for each in asked), "    }", ""]
    return "\n".join([*lines[:-1], "}"]) + "\n"


def _wanted(task: Task, case: Case, name: str) -> str:
    if case.found is None:
        return "Optional.empty()"
    rows = [
        f"new {name}.Fields({', '.join(value(match[field.name], field.spec.type) for field in task.fields)})"
        for match in case.found
    ]
    found = f"List.of({', '.join(rows)})" if task.take == "all" else rows[0]
    return f"Optional.of({found})"


def combination(made: Combined, file: str) -> str:
    """Write the class of a pattern made of patterns."""
    types = [f"{each.file.removesuffix('.java')}.Fields" for each in made.members]
    parts = ", ".join(
        f"{f'List<{kind}>' if each.several else kind} {each.key}"
        for each, kind in zip(made.members, types, strict=True)
        if each in made.captured
    )
    lines = [*[commented(each, MARKS) for each in made.head], "import java.util.*;", ""]
    lines += [f"public final class {file.removesuffix('.java')} {{"]
    lines += ["    /** What members capture; null for one that was not asked, or does not fit. */"]
    lines += [f"    public record Fields({parts}) {{}}", "", f"    /** Returns {RESULTS[made.how]}. */"]
    lines += ["    public static Optional<Fields> read(String text) {", *_asking(made), "    }", "}"]
    return "\n".join(lines) + "\n"


def _asking(made: Combined) -> Iterator[str]:
    reads = [f"{each.file.removesuffix('.java')}.read(text)" for each in made.members]
    if made.how == "none_of":
        for read in reads:
            yield f"        if ({read}.isPresent()) return Optional.empty();"
        yield "        return Optional.of(new Fields());"
        return
    for at, (each, read) in enumerate(zip(made.members, reads, strict=True)):
        yield f"        var {each.key} = {read};"
        if made.how == "all_of":
            yield f"        if ({each.key}.isEmpty()) return Optional.empty();"
            continue
        found = ", ".join(f"{each.key}.get()" if other == at else "null" for other in range(len(reads)))
        yield f"        if ({each.key}.isPresent()) return Optional.of(new Fields({found}));"
    every = ", ".join(f"{each.key}.get()" for each in made.members)
    yield f"        return Optional.{'empty()' if made.how == 'any_of' else f'of(new Fields({every}))'};"


def combination_test(made: Combined, file: str) -> str:
    """Write the samples of a pattern made of patterns as tests."""

    def asserted(case: CombinedCase, read: str) -> list[str]:
        fits, keys = case.keys is not None, case.keys or ()
        asked = [f"var found = {read};", f"assertEquals({str(fits).lower()}, found.isPresent());"]
        for each in made.captured if fits else ():
            asked += [f"assertEquals({str(each.key in keys).lower()}, found.get().{each.key}() != null);"]
        return asked

    return _tests(made, file, asserted)
