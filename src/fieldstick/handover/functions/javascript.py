"""A pattern as a function of JavaScript, a module, with tests for Node's own runner."""

from __future__ import annotations

import datetime as dt
import json
import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from fieldstick.handover.functions.combined import RESULTS
from fieldstick.handover.functions.snippets import helpers
from fieldstick.handover.functions.task import camel, snake
from fieldstick.handover.handing import commented
from fieldstick.handover.literals import LITERALS

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.handover.functions.combined import Combined, CombinedCase
    from fieldstick.handover.functions.task import Case, Field, Task

ENGINE = "ecmascript"
LIMITS = {
    "integer": "integers beyond 2**53 are given as BigInt; digits of other alphabets are none there",
    "decimal": "decimals are numbers of double precision there; digits of other alphabets are none",
    "date": "days are given as text of ISO 8601; those by week are none there",
    "time": "times of day are given as text of ISO 8601; those with an offset are none there",
    "timestamp": "timestamps are given as text of ISO 8601, to the microsecond; those by week are none there",
}
MARKS = ("// ", "")
quoted = LITERALS["javascript"].quoted
_KEYWORDS = frozenset(
    re.findall(
        r"\w+",
        """
    await break case catch class const continue debugger default delete do else enum export extends false finally
    for function if import in instanceof let new null return static super switch this throw true try typeof var void
    while with yield
    """,
    )
)


def key(name: str) -> str:
    """Return a field's key: its own name."""
    return name


def name_of(words: tuple[str, ...]) -> str:
    """Return the function's name."""
    made = camel(words)
    return f"{made}_" if made in _KEYWORDS else made


def files(words: tuple[str, ...], stem: str | None) -> tuple[str, str]:
    """Return the names of the file and of its test."""
    module = stem if stem is not None else snake(words)
    return f"{module}.mjs", f"{module}.test.mjs"


def source(task: Task, file: str) -> str:
    """Write the function."""
    several = task.take == "all"
    what = "the fields of each match" if several else "the fields"
    lines = [commented(each, MARKS) for each in task.head]
    lines += ["", f"const EXPRESSION = {task.literal};"]
    shaped = [(at, field) for at, field in enumerate(task.fields, 1) if field.shape]
    lines += [f"const SHAPE_{at} = {field.shape}; // {_line(field.key)}" for at, field in shaped]
    lines += ["", f"// Returns {what} of a text that fits, null for any other; a field that took no part is null."]
    lines += [f"export function {name_of(task.words)}(text) {{", *_taking(task)]
    if several:
        lines += ["  const found = matches.map(fields);"]
        lines += ["  return found.length > 0 && found.every((each) => each !== null) ? found : null;"]
    else:
        lines += ["  return match === null ? null : fields(match);"]
    lines += ["}", "", "function fields(match) {", *_reading(task), "}"]
    body = "\n".join(lines)
    needed = helpers(task, "javascript.js", body, {"instant": "instant("})
    return f"{body}\n{needed}"


def _line(text: str) -> str:
    return commented(text, ("", ""))


def _taking(task: Task) -> Iterator[str]:
    if task.take == "first":
        yield "  const match = EXPRESSION.exec(text);"
        return
    yield '  const matches = [...text.matchAll(new RegExp(EXPRESSION, EXPRESSION.flags + "g"))];'
    if task.take != "all":
        number = task.nth
        yield f"  const match = matches.at({number - 1 if number > 0 else number}) ?? null;"


def _reading(task: Task) -> Iterator[str]:
    yield "  const found = {"
    for field in task.fields:
        yield f"    {json.dumps(field.key, ensure_ascii=False)}: match[{field.group}] ?? null,"
    yield "  };"
    for at, field in enumerate(task.fields, 1):
        spec, name = field.spec, f"found[{json.dumps(field.key, ensure_ascii=False)}]"
        checks = list(_checks(field, name))
        if spec.type == "text" and not checks:
            continue
        yield f"  if ({name} !== null) {{"
        if spec.type == "boolean":
            words = json.dumps([[list(spec.false), False], [list(spec.true), True]], ensure_ascii=False)
            yield f"    {name} = {words}.find(([words]) => words.includes({name}))?.[1];"
        elif spec.type != "text":
            yield f"    {name} = converted({name}, (text) => {_converter(field, at)});"
        if spec.type != "text":
            checks = [f"{name} === undefined", *checks]
        yield f"    if ({' || '.join(checks)}) return null;"
        yield "  }"
    yield "  return found;"


def _converter(field: Field, at: int) -> str:
    spec = field.spec
    group = json.dumps(spec.group_mark or "", ensure_ascii=False)
    if spec.type == "integer":
        return f"integer(text, SHAPE_{at}, {group})"
    if spec.type == "decimal":
        return f"decimal(text, SHAPE_{at}, {group}, {json.dumps(spec.decimal_mark, ensure_ascii=False)})"
    return f'moment(text, SHAPE_{at}, "{field.roles}", "{spec.type}")'


def _checks(field: Field, name: str) -> Iterator[str]:
    spec = field.spec
    for bound, sign in ((spec.least, ">="), (spec.most, "<=")):
        if isinstance(bound, dt.datetime):
            offset = "true" if bound.tzinfo is not None else "false"
            yield f"!(instant({name}, {offset}) {sign} instant({value(bound)}, {offset}))"
        elif bound is not None:
            yield f"!({name} {sign} {value(bound)})"
    if spec.one_of:
        yield f"![{', '.join(map(value, spec.one_of))}].includes({name})"


def value(found: Any) -> str:
    """Write a value as JavaScript has it."""
    if isinstance(found, dt.date | dt.time):
        return json.dumps(found.isoformat())
    if isinstance(found, Decimal):
        return str(found).replace("E+", "e")
    if isinstance(found, int) and not isinstance(found, bool) and abs(found) >= 2**53:
        return f"{found}n"
    return json.dumps(found, ensure_ascii=False).replace("\u2028", "\\u2028").replace("\u2029", "\\u2029")


def test(task: Task, file: str) -> str:
    """Write the samples as tests."""
    return _tests(task, file, lambda case, read: [f"assert.deepEqual({read}, {_wanted(task, case)});"])


def _tests(made: Task | Combined, file: str, asserted: Callable[[Any, str], list[str]]) -> str:
    """Write tests; `asserted` says what is asked of a case and of what is read of it."""
    name = name_of(made.words)
    lines = [f"// The samples of {made.address}.", 'import assert from "node:assert/strict";']
    lines += ['import { test } from "node:test";', f'import {{ {name} }} from "./{file}";', ""]
    for case in made.cases:
        lines += [f'test("{case.title}", () => {{']
        lines += [f"  {commented(case.note, MARKS)}"] if case.note else []
        lines += [*(f"  {each}" for each in asserted(case, f"{name}({value(case.text)})")), "});"]
    return "\n".join(lines) + "\n"


def _wanted(task: Task, case: Case) -> str:
    if case.found is None:
        return "null"
    rows = [
        "{" + ", ".join(f"{value(field.key)}: {value(match[field.name])}" for field in task.fields) + "}"
        for match in case.found
    ]
    return f"[{', '.join(rows)}]" if task.take == "all" else rows[0]


_ASKING = {
    "any_of": """  for (const [name, read] of MEMBERS) {
    const found = read(text);
    if (found !== null) return { [name]: found };
  }
  return null;""",
    "all_of": """  const found = MEMBERS.map(([name, read]) => [name, read(text)]);
  return found.some(([, each]) => each === null) ? null : Object.fromEntries(found);""",
    "none_of": """  return MEMBERS.some(([, read]) => read(text) !== null) ? null : {};""",
}


def combination(made: Combined, file: str) -> str:
    """Write the function of a pattern made of patterns."""
    lines = [commented(each, MARKS) for each in made.head]
    lines += ["", *[f'import {{ {name_of(each.words)} }} from "./{each.file}";' for each in made.members], ""]
    pairs = [f"  [{value(each.key)}, {name_of(each.words)}]," for each in made.members]
    lines += ["const MEMBERS = [", *pairs, "];", "", f"// Returns {RESULTS[made.how]}, null for any other."]
    lines += [f"export function {name_of(made.words)}(text) {{", _ASKING[made.how], "}"]
    return "\n".join(lines) + "\n"


def combination_test(made: Combined, file: str) -> str:
    """Write the samples of a pattern made of patterns as tests."""

    def asserted(case: CombinedCase, read: str) -> list[str]:
        wanted = "null" if case.keys is None else value(sorted(case.keys))
        return [f"const found = {read};", f"assert.deepEqual(found && Object.keys(found).sort(), {wanted});"]

    return _tests(made, file, asserted)
