"""A pattern as a function of Python, with tests for unittest."""

from __future__ import annotations

import datetime as dt
import keyword
import re
from typing import TYPE_CHECKING, Any

from fieldstick.handover.functions.combined import RESULTS
from fieldstick.handover.functions.snippets import helpers
from fieldstick.handover.functions.task import NUMBERS, ORIGIN, pascal, snake
from fieldstick.handover.handing import commented
from fieldstick.handover.literals import LITERALS

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.handover.functions.combined import Combined, CombinedCase
    from fieldstick.handover.functions.task import Case, Field, Task

ENGINE = "python"
LIMITS: dict[str, str] = {}
MARKS = ("# ", "")
quoted = LITERALS["python"].quoted


def key(name: str) -> str:
    """Return a field's key: its own name."""
    return name


def name_of(words: tuple[str, ...]) -> str:
    """Return the function's name."""
    made = snake(words)
    return f"{made}_" if keyword.iskeyword(made) else made


def files(words: tuple[str, ...], stem: str | None) -> tuple[str, str]:
    """Return the names of the file and of its test."""
    module = stem if stem is not None else name_of(words)
    return f"{module}.py", f"test_{module}.py"


def source(task: Task, file: str) -> str:
    """Write the function."""
    name, several = name_of(task.words), task.take == "all"
    lines = [f"_EXPRESSION = {task.literal}"]
    lines += [f"_SHAPE_{at} = {field.shape}" for at, field in enumerate(task.fields, 1) if field.shape]
    constants = lines
    lines = []
    result = "list[dict] | None" if several else "dict | None"
    lines += ["", "", f"def {name}(text: str) -> {result}:"]
    what = "the fields of each match" if several else "the fields"
    lines += [f'    """Return {what} of a text that fits; None for any other."""', *_taking(task)]
    if several:
        lines += ["    found = []", "    for match in matches:", "        fields = _fields(match)"]
        lines += ["        if fields is None:", "            return None", "        found.append(fields)"]
        lines += ["    return found or None"]
    else:
        lines += ["    return None if match is None else _fields(match)"]
    lines += ["", "", "def _fields(match):", *_reading(task)]
    code = "\n".join(lines) + "\n"
    needed = helpers(task, "python.py.txt", code, {"iso": "_iso("})
    body = "\n".join(constants) + "\n" + re.sub(r"\n+def ", "\n\n\ndef ", needed) + code
    about = task.about.replace("\\", "\\\\").replace('"', "'") or f"Reads {task.address}"
    head = [f'"""{about.rstrip(".")}.', "", f"{ORIGIN.format(task.address)}", '"""', ""]
    head += [commented(each, MARKS) for each in task.left]
    return "\n".join([*head, "import re", *_imports(body), "", body])


def _imports(body: str) -> Iterator[str]:
    """Yield what a body needs of the modules for moments and exact decimals."""
    kinds = [each for each in ("date", "datetime", "time") if re.search(rf"\b{each}\b(?!\()", body)]
    if kinds:
        yield f"from datetime import {', '.join(kinds)}"
    if re.search(r"\bDecimal\b", body):
        yield "from decimal import Decimal"


def _taking(task: Task) -> Iterator[str]:
    if task.take == "first":
        yield "    match = _EXPRESSION.search(text)"
        return
    yield "    matches = list(_EXPRESSION.finditer(text))"
    if task.take != "all":
        yield f"    match = {_nth(task.nth, 'len(matches)')}"


def _nth(number: int, count: str) -> str:
    needed, index = abs(number), number - 1 if number > 0 else number
    return f"matches[{index}] if {count} >= {needed} else None"


def _reading(task: Task) -> Iterator[str]:
    """Each field in turn: captured, converted, held against its bounds."""
    yield "    fields = {}"
    for number, field in enumerate(task.fields, 1):
        spec, at = field.spec, f"fields[{field.key!r}]"
        yield f"    {at} = match[{field.group}]"
        checks = list(_checks(field))
        if spec.type == "text" and not checks:
            continue
        yield f"    if {at} is not None:"
        if spec.type == "boolean":
            yield f"        {at} = {_words(spec.true, spec.false)}.get({at})"
        elif spec.type != "text":
            yield f"        {at} = _converted({at}, {_converter(field, number)})"
        if spec.type != "text":
            checks = [f"{at} is None", *checks]
        yield f"        if {' or '.join(checks)}:"
        yield "            return None"
    yield "    return fields"


def _words(true: tuple[str, ...], false: tuple[str, ...]) -> str:
    return repr({**dict.fromkeys(false, False), **dict.fromkeys(true, True)})


def _converter(field: Field, number: int) -> str:
    spec = field.spec
    if spec.type in NUMBERS:
        kind = "int" if spec.type == "integer" else "Decimal"
        return f"_number({kind}, _SHAPE_{number}, {spec.group_mark or ''!r}, {spec.decimal_mark!r})"
    if spec.layout is None:
        return f"_iso({'datetime' if spec.type == 'timestamp' else spec.type})"
    part = {"date": ".date()", "time": ".timetz()"}.get(spec.type, "")
    return f"lambda given: datetime.strptime(given, {spec.layout!r}){part}"


def _checks(field: Field) -> Iterator[str]:
    spec, at = field.spec, f"fields[{field.key!r}]"
    both = [each for each in (spec.least, spec.most) if isinstance(each, dt.datetime | dt.time)]
    if both and both[0].tzinfo is None:
        yield f"{at}.tzinfo is not None"
    elif both:
        yield f"{at}.tzinfo is None"
    if spec.least is not None:
        yield f"{at} < {value(spec.least)}"
    if spec.most is not None:
        yield f"{at} > {value(spec.most)}"
    if spec.one_of:
        yield f"{at} not in ({', '.join(map(value, spec.one_of))},)"


def value(found: Any) -> str:
    """Write a value as Python has it."""
    if isinstance(found, dt.datetime | dt.date | dt.time):
        return f"{type(found).__name__}.fromisoformat({found.isoformat()!r})"
    return repr(found)


def test(task: Task, file: str) -> str:
    """Write the samples as tests."""
    return _tests(task, file, lambda case, read: [f"self.assertEqual({read}, {_wanted(task, case)})"])


def _tests(made: Task | Combined, file: str, asserted: Callable[[Any, str], list[str]]) -> str:
    """Write a class of tests; `asserted` says what is asked of a case and of what is read of it."""
    name, module = name_of(made.words), file.removesuffix(".py")
    lines = [f"class {pascal(made.words)}Test(unittest.TestCase):"]
    for case in made.cases:
        lines += [f"    def test_{case.title.replace(' ', '_')}(self):"]
        lines += [f"        {commented(case.note, MARKS)}"] if case.note else []
        lines += [*(f"        {each}" for each in asserted(case, f"{name}({case.text!r})")), ""]
    lines += ["", 'if __name__ == "__main__":', "    unittest.main()"]
    body = "\n".join(lines) + "\n"
    head = [f'"""The samples of {made.address}."""', "", "import unittest", *_imports(body), ""]
    return "\n".join([*head, f"from {module} import {name}", "", "", body])


def _wanted(task: Task, case: Case) -> str:
    if case.found is None:
        return "None"
    rows = [
        "{" + ", ".join(f"{field.key!r}: {value(match[field.name])}" for field in task.fields) + "}"
        for match in case.found
    ]
    return f"[{', '.join(rows)}]" if task.take == "all" else rows[0]


_ASKING = {
    "any_of": """    for name, read in _MEMBERS.items():
        found = read(text)
        if found is not None:
            return {name: found}
    return None""",
    "all_of": """    found = {name: read(text) for name, read in _MEMBERS.items()}
    return None if None in found.values() else found""",
    "none_of": """    return None if any(read(text) is not None for read in _MEMBERS.values()) else {}""",
}


def combination(made: Combined, file: str) -> str:
    """Write the function of a pattern made of patterns."""
    about = made.about.replace("\\", "\\\\").replace('"', "'") or f"Reads {made.address}"
    lines = [f'"""{about.rstrip(".")}.', "", ORIGIN.format(made.address), '"""', ""]
    lines += [commented(each, MARKS) for each in made.left]
    lines += [f"from {each.file.removesuffix('.py')} import {name_of(each.words)}" for each in made.members]
    lines += ["", "_MEMBERS = {", *[f"    {each.key!r}: {name_of(each.words)}," for each in made.members], "}", "", ""]
    lines += [f"def {name_of(made.words)}(text: str) -> dict | None:"]
    lines += [f'    """Return {RESULTS[made.how]}; None for any other."""', _ASKING[made.how]]
    return "\n".join(lines) + "\n"


def combination_test(made: Combined, file: str) -> str:
    """Write the samples of a pattern made of patterns as tests."""

    def asserted(case: CombinedCase, read: str) -> list[str]:
        wanted = "None" if case.keys is None else repr(list(case.keys))
        return [f"found = {read}", f"self.assertEqual(None if found is None else list(found), {wanted})"]

    return _tests(made, file, asserted)
