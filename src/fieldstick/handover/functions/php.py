"""A pattern as a function of PHP, 8 or later, with tests for PHPUnit."""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from fieldstick.handover.functions.combined import RESULTS
from fieldstick.handover.functions.snippets import helpers
from fieldstick.handover.functions.task import MOMENTS, pascal, snake
from fieldstick.handover.handing import commented
from fieldstick.handover.literals import LITERALS

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.handover.functions.combined import Combined, CombinedCase
    from fieldstick.handover.functions.task import Case, Field, Task

ENGINE = "php"
LIMITS = {
    "integer": "integers of more than 64 bits do not fit there; digits of other alphabets are no numbers",
    "decimal": "decimals are numbers of double precision there; digits of other alphabets are no numbers",
    "date": "days are times at midnight in UTC there; those by week are none",
    "time": "times of day are those of 1 January 1970, in UTC, there; those with an offset are none",
    "timestamp": "timestamps without an offset are those of UTC there; those by week are none",
}
MARKS = ("// ", "")
quoted = LITERALS["php"].quoted


def key(name: str) -> str:
    """Return a field's key: its own name."""
    return name


def name_of(words: tuple[str, ...]) -> str:
    """Return the function's name; no keyword of the language has a line below in it."""
    return snake(words) if len(words) > 1 else f"read_{snake(words)}"


def files(words: tuple[str, ...], stem: str | None) -> tuple[str, str]:
    """Return the names of the file and of its test."""
    module = stem if stem is not None else name_of(words)
    return f"{module}.php", f"{pascal(words)}Test.php"


def source(task: Task, file: str) -> str:
    """Write the function."""
    name, several = name_of(task.words), task.take == "all"
    what = "the fields of each match" if several else "the fields"
    lines = [f"const {name.upper()}_EXPRESSION = {task.literal};"]
    for at, field in enumerate(task.fields, 1):
        lines += [f"const {name.upper()}_SHAPE_{at} = {field.shape};"] if field.shape else []
    lines += ["", f"/** Returns {what} of a text that fits, null for any other. */"]
    lines += [f"function {name}(string $text): ?array", "{", *_taking(task, name), "}", ""]
    lines += [f"function {name}_fields(array $match): ?array", "{", *_reading(task, name), "}"]
    body = "\n".join(lines) + "\n"
    body += helpers(task, "php.php", body, {"offset": "_has_offset("}).replace("PREFIX", name)
    head = ["<?php", "", "declare(strict_types=1);", ""]
    head += [commented(each, MARKS) for each in task.head]
    return "\n".join([*head, "", body])


def _taking(task: Task, name: str) -> Iterator[str]:
    expression, flags = f"{name.upper()}_EXPRESSION", "PREG_UNMATCHED_AS_NULL"
    if task.take == "first":
        yield f"    $count = preg_match({expression}, $text, $match, {flags});"
    else:
        yield f"    $count = preg_match_all({expression}, $text, $matches, PREG_SET_ORDER | {flags});"
    yield "    if ($count === false) {"
    yield "        throw new RuntimeException(preg_last_error_msg());"
    yield "    }"
    if task.take == "first":
        yield f"    return $count === 0 ? null : {name}_fields($match);"
    elif task.take == "all":
        yield f"    $found = array_map('{name}_fields', $matches);"
        yield "    return $found === [] || in_array(null, $found, true) ? null : $found;"
    else:
        number = task.nth
        index = str(number - 1) if number > 0 else f"$count - {-number}"
        yield f"    return $count < {abs(number)} ? null : {name}_fields($matches[{index}]);"


def _reading(task: Task, name: str) -> Iterator[str]:
    yield "    $found = ["
    for field in task.fields:
        yield f"        {text_literal(field.key)} => $match[{field.group}],"
    yield "    ];"
    for at, field in enumerate(task.fields, 1):
        spec, place = field.spec, f"$found[{text_literal(field.key)}]"
        checks = list(_checks(field, place, at, name))
        if spec.type == "text" and not checks:
            continue
        yield f"    if ({place} !== null) {{"
        if spec.type == "boolean":
            true, false = (f"in_array({place}, {value(list(words))}, true)" for words in (spec.true, spec.false))
            yield f"        {place} = {true} ? true : ({false} ? false : null);"
        elif spec.type != "text":
            converter = _converter(field, at, name)
            yield f"        {place} = {name}_converted({place}, fn (string $text) => {converter});"
        checks = checks if spec.type == "text" else [f"{place} === null", *checks]
        yield f"        if ({' || '.join(checks)}) {{"
        yield "            return null;"
        yield "        }"
        yield "    }"
    yield "    return $found;"


def _converter(field: Field, at: int, name: str) -> str:
    spec, shape = field.spec, f"{name.upper()}_SHAPE_{at}"
    group, mark = text_literal(spec.group_mark or ""), text_literal(spec.decimal_mark)
    if spec.type == "integer":
        return f"{name}_integer($text, {shape}, {group})"
    if spec.type == "decimal":
        return f"{name}_decimal($text, {shape}, {group}, {mark})"
    return f"{name}_moment($text, {shape}, '{field.roles}', '{spec.type}')"


def _checks(field: Field, place: str, at: int, name: str) -> Iterator[str]:
    spec = field.spec
    if field.wants_offset is not None:
        given = f"$match[{field.group}], {name.upper()}_SHAPE_{at}, '{field.roles}'"
        has = f"{name}_has_offset({given})" if "z" in field.roles else "false"
        yield f"{'!' if field.wants_offset else ''}{has}"
    if spec.least is not None:
        yield f"{place} < {value(spec.least)}"
    if spec.most is not None:
        yield f"{place} > {value(spec.most)}"
    if spec.one_of:
        strict = "false" if spec.type in MOMENTS else "true"
        among = [float(each) if spec.type == "decimal" else each for each in spec.one_of]
        yield f"!in_array({place}, {value(among)}, {strict})"


def text_literal(text: str) -> str:
    """Write a text in single quotes: the backslash and the quote are escaped, nothing else is."""
    return "'" + text.replace("\\", "\\\\").replace("'", "\\'") + "'"


def value(found: Any) -> str:
    """Write a value as PHP has it."""
    if found is None or isinstance(found, bool):
        return "null" if found is None else str(found).lower()
    if isinstance(found, list):
        return f"[{', '.join(map(value, found))}]"
    if isinstance(found, dt.datetime):
        return f"new DateTimeImmutable('{found.isoformat()}{'Z' if found.tzinfo is None else ''}')"
    if isinstance(found, dt.time):
        return f"new DateTimeImmutable('1970-01-01T{found.isoformat()}Z')"
    if isinstance(found, dt.date):
        return f"new DateTimeImmutable('{found.isoformat()}T00:00:00Z')"
    if isinstance(found, int | Decimal | float):
        return str(found)
    return text_literal(str(found))


def test(task: Task, file: str) -> str:
    """Write the samples as tests."""
    moments = task.has(*MOMENTS)

    def asserted(case: Case, read: str) -> list[str]:
        assertion = "assertEquals" if moments and case.found is not None else "assertSame"
        return [f"$this->{assertion}({_wanted(task, case)}, {read});"]

    return _tests(task, file, asserted)


def _tests(made: Task | Combined, file: str, asserted: Callable[[Any, str], list[str]]) -> str:
    """Write a class of tests; `asserted` says what is asked of a case and of what is read of it."""
    name = name_of(made.words)
    lines = ["<?php", "", "declare(strict_types=1);", "", f"// The samples of {made.address}.", ""]
    lines += ["use PHPUnit\\Framework\\TestCase;", "", f"require_once __DIR__ . {text_literal('/' + file)};", ""]
    lines += [f"final class {pascal(made.words)}Test extends TestCase", "{"]
    for case in made.cases:
        lines += [f"    public function test{pascal(tuple(case.title.split()))}(): void", "    {"]
        lines += [f"        {commented(case.note, MARKS)}"] if case.note else []
        asked = asserted(case, f"{name}({text_literal(case.text)})")
        lines += [*(f"        {each}" for each in asked), "    }", ""]
    return "\n".join([*lines[:-1], "}"]) + "\n"


def _wanted(task: Task, case: Case) -> str:
    if case.found is None:
        return "null"
    rows = []
    for match in case.found:
        cells = []
        for field in task.fields:
            cell = match[field.name]
            cell = float(cell) if field.spec.type == "decimal" and cell is not None else cell
            cells.append(f"{text_literal(field.key)} => {value(cell)}")
        rows.append(f"[{', '.join(cells)}]")
    return f"[{', '.join(rows)}]" if task.take == "all" else rows[0]


_ASKING = {
    "any_of": """    foreach (MEMBERS as $name => $read) {
        $found = $read($text);
        if ($found !== null) {
            return [$name => $found];
        }
    }
    return null;""",
    "all_of": """    $found = array_map(fn (string $read) => $read($text), MEMBERS);
    return in_array(null, $found, true) ? null : $found;""",
    "none_of": """    foreach (MEMBERS as $read) {
        if ($read($text) !== null) {
            return null;
        }
    }
    return [];""",
}


def combination(made: Combined, file: str) -> str:
    """Write the function of a pattern made of patterns."""
    name = name_of(made.words)
    members = f"{name.upper()}_MEMBERS"
    lines = ["<?php", "", "declare(strict_types=1);", "", *[commented(each, MARKS) for each in made.head], ""]
    lines += [f"require_once __DIR__ . {text_literal('/' + each.file)};" for each in made.members]
    pairs = [f"    {text_literal(each.key)} => {text_literal(name_of(each.words))}," for each in made.members]
    lines += ["", f"const {members} = [", *pairs, "];", "", f"/** Returns {RESULTS[made.how]}, null for any other. */"]
    lines += [f"function {name}(string $text): ?array", "{", _ASKING[made.how].replace("MEMBERS", members), "}"]
    return "\n".join(lines) + "\n"


def combination_test(made: Combined, file: str) -> str:
    """Write the samples of a pattern made of patterns as tests."""

    def asserted(case: CombinedCase, read: str) -> list[str]:
        wanted = "null" if case.keys is None else value(list(case.keys))
        return [f"$found = {read};", f"$this->assertSame({wanted}, $found === null ? null : array_keys($found));"]

    return _tests(made, file, asserted)
