"""A pattern as a module of Ruby, with tests for minitest."""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from fieldstick.handover.functions.combined import RESULTS
from fieldstick.handover.functions.snippets import helpers
from fieldstick.handover.functions.task import pascal, snake
from fieldstick.handover.handing import commented
from fieldstick.handover.literals import LITERALS, in_double_quotes

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.handover.functions.combined import Combined, CombinedCase
    from fieldstick.handover.functions.task import Case, Field, Task

ENGINE = "ruby"
LIMITS = {
    "integer": "digits of other alphabets are no numbers there",
    "decimal": "digits of other alphabets are no numbers there",
    "date": "days by week are none there",
    "time": "times of day are given as text of ISO 8601; those with an offset are none there",
    "timestamp": "timestamps without an offset are those of UTC there; those by week are none",
}
MARKS = ("# ", "")
quoted = LITERALS["ruby"].quoted


def key(name: str) -> str:
    """Return a field's key: its own name."""
    return name


def name_of(words: tuple[str, ...]) -> str:
    """Return the name of the module, which none of the library has."""
    return f"{pascal(words)}Pattern"


def files(words: tuple[str, ...], stem: str | None) -> tuple[str, str]:
    """Return the names of the file and of its test."""
    module = stem if stem is not None else snake(words)
    return f"{module}.rb", f"test_{module}.rb"


def source(task: Task, file: str) -> str:
    """Write the module."""
    several = task.take == "all"
    what = "the fields of each match" if several else "the fields"
    lines = [f"module {name_of(task.words)}", f"  EXPRESSION = {task.literal}"]
    for at, field in enumerate(task.fields, 1):
        lines += [f"  SHAPE_{at} = {field.shape}"] if field.shape else []
    lines += ["", f"  # Returns {what} of a text that fits, nil for any other."]
    lines += [
        "  def self.read(text)",
        *_taking(task),
        "  end",
        "",
        "  def self.fields(match)",
        *_reading(task),
        "  end",
    ]
    body = "\n".join(lines) + "\n"
    body += helpers(task, "ruby.rb", body, {"offset": "offset?("})
    head = ["# frozen_string_literal: true", ""]
    head += [commented(each, MARKS) for each in task.head]
    modules = (("bigdecimal", "BigDecimal("), ("date", "Date."), ("time", "Time."))
    needs = [f'require "{each}"' for each, used in modules if used in body]
    return "\n".join([*head, *needs, "", body]) + "end\n"


def _taking(task: Task) -> Iterator[str]:
    if task.take == "first":
        yield "    match = EXPRESSION.match(text)"
        yield "    match && fields(match)"
        return
    yield "    matches = text.enum_for(:scan, EXPRESSION).map { Regexp.last_match }"
    if task.take == "all":
        yield "    found = matches.map { |match| fields(match) }"
        yield "    found.empty? || found.include?(nil) ? nil : found"
        return
    number = task.nth
    yield f"    match = matches[{number - 1 if number > 0 else number}]"
    yield "    match && fields(match)"


def _reading(task: Task) -> Iterator[str]:
    yield "    found = {"
    for field in task.fields:
        yield f"      {_symbol(field.key)} => match[{field.group}],"
    yield "    }"
    for at, field in enumerate(task.fields, 1):
        spec, place = field.spec, f"found[{_symbol(field.key)}]"
        checks = list(_checks(field, place, at))
        if spec.type == "text" and not checks:
            continue
        yield f"    unless {place}.nil?"
        if spec.type == "boolean":
            words = ", ".join(
                [f"{value(each)} => false" for each in spec.false] + [f"{value(each)} => true" for each in spec.true]
            )
            yield f"      {place} = {{ {words} }}[{place}]"
        elif spec.type != "text":
            yield f"      {place} = converted({place}) {{ |text| {_converter(field, at)} }}"
        checks = checks if spec.type == "text" else [f"{place}.nil?", *checks]
        yield f"      return nil if {' || '.join(checks)}"
        yield "    end"
    yield "    found"


def _symbol(name: str) -> str:
    return f":{value(name)}"


def _converter(field: Field, at: int) -> str:
    spec = field.spec
    group, mark = value(spec.group_mark or ""), value(spec.decimal_mark)
    if spec.type == "integer":
        return f"integer(text, SHAPE_{at}, {group})"
    if spec.type == "decimal":
        return f"decimal(text, SHAPE_{at}, {group}, {mark})"
    return f'moment(text, SHAPE_{at}, "{field.roles}", "{spec.type}")'


def _checks(field: Field, place: str, at: int) -> Iterator[str]:
    spec = field.spec
    if field.wants_offset is not None:
        has = f'offset?(match[{field.group}], SHAPE_{at}, "{field.roles}")' if "z" in field.roles else "false"
        yield f"{'!' if field.wants_offset else ''}{has}"
    if spec.least is not None:
        yield f"{place} < {value(spec.least)}"
    if spec.most is not None:
        yield f"{place} > {value(spec.most)}"
    if spec.one_of:
        yield f"![{', '.join(map(value, spec.one_of))}].include?({place})"


def value(found: Any) -> str:
    """Write a value as Ruby has it."""
    if found is None or isinstance(found, bool):
        return "nil" if found is None else str(found).lower()
    if isinstance(found, dt.datetime):
        return f'Time.iso8601("{found.isoformat()}{"Z" if found.tzinfo is None else ""}")'
    if isinstance(found, dt.time):
        return f'"{found.isoformat()}"'
    if isinstance(found, dt.date):
        return f"Date.new({found.year}, {found.month}, {found.day})"
    if isinstance(found, Decimal):
        return f'BigDecimal("{found}")'
    return str(found) if isinstance(found, int) else in_double_quotes(str(found), "#", "\\u{{{:x}}}")


def test(task: Task, file: str) -> str:
    """Write the samples as tests."""
    return _tests(task, file, lambda case, read: _same(case.found is None, _wanted(task, case), read))


def _tests(made: Task | Combined, file: str, asserted: Callable[[Any, str], str]) -> str:
    """Write a class of tests; `asserted` says what is asked of a case and of what is read of it."""
    name = name_of(made.words)
    lines = ["# frozen_string_literal: true", "", f"# The samples of {made.address}.", ""]
    lines += ['require "minitest/autorun"', f"require_relative {value(file.removesuffix('.rb'))}", ""]
    lines += [f"class {name}Test < Minitest::Test"]
    for case in made.cases:
        lines += [f"  def test_{case.title.replace(' ', '_')}"]
        lines += [f"    {commented(case.note, MARKS)}"] if case.note else []
        lines += [f"    {asserted(case, f'{name}.read({value(case.text)})')}", "  end", ""]
    return "\n".join([*lines[:-1], "end"]) + "\n"


def _same(absent: bool, wanted: str, read: str) -> str:
    return f"assert_nil({read})" if absent else f"assert_equal({wanted}, {read})"


def _wanted(task: Task, case: Case) -> str:
    rows = [
        "{ " + ", ".join(f"{_symbol(field.key)} => {value(match[field.name])}" for field in task.fields) + " }"
        for match in case.found or ()
    ]
    return f"[{', '.join(rows)}]" if task.take == "all" else "".join(rows[:1])


_ASKING = {
    "any_of": """    MEMBERS.each do |name, member|
      found = member.read(text)
      return { name => found } unless found.nil?
    end
    nil""",
    "all_of": """    found = MEMBERS.transform_values { |member| member.read(text) }
    found.value?(nil) ? nil : found""",
    "none_of": """    MEMBERS.each_value.all? { |member| member.read(text).nil? } ? {} : nil""",
}


def combination(made: Combined, file: str) -> str:
    """Write the module of a pattern made of patterns."""
    lines = ["# frozen_string_literal: true", "", *[commented(each, MARKS) for each in made.head]]
    lines += ["", *[f"require_relative {value(each.file.removesuffix('.rb'))}" for each in made.members], ""]
    pairs = [f"    {_symbol(each.key)} => {name_of(each.words)}," for each in made.members]
    lines += [f"module {name_of(made.words)}", "  MEMBERS = {", *pairs, "  }.freeze", ""]
    lines += [f"  # Returns {RESULTS[made.how]}, nil for any other."]
    lines += ["  def self.read(text)", _ASKING[made.how], "  end", "end"]
    return "\n".join(lines) + "\n"


def combination_test(made: Combined, file: str) -> str:
    """Write the samples of a pattern made of patterns as tests."""

    def asserted(case: CombinedCase, read: str) -> str:
        wanted = f"[{', '.join(map(_symbol, case.keys or ()))}]"
        return _same(case.keys is None, wanted, read if case.keys is None else f"{read}.keys")

    return _tests(made, file, asserted)
