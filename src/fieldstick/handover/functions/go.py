"""A pattern as a function of Go, with tests for its own runner."""

from __future__ import annotations

import datetime as dt
import re
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from fieldstick.handover.functions.combined import RESULTS
from fieldstick.handover.functions.snippets import helpers, pieces
from fieldstick.handover.functions.task import MOMENTS, camel, pascal, snake, words_of
from fieldstick.handover.handing import commented
from fieldstick.handover.literals import LITERALS, in_double_quotes

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.handover.functions.combined import Combined
    from fieldstick.handover.functions.task import Field, Task

ENGINE = "re2"
LIMITS = {
    "integer": "digits of other alphabets are no numbers there",
    "decimal": "digits of other alphabets are no numbers there, nor are exponents of more than four digits",
    "date": "days are times at midnight in UTC there; those by week are none",
    "time": "times of day are those of 1 January of the year 1, in UTC, there; those with an offset are none",
    "timestamp": "timestamps without an offset are those of UTC there; those by week are none",
}
MARKS = ("// ", "")
quoted = LITERALS["go"].quoted
_TYPES = {
    "text": "string",
    "integer": "big.Int",
    "decimal": "big.Rat",
    "boolean": "bool",
    "date": "time.Time",
    "time": "time.Time",
    "timestamp": "time.Time",
}


def key(name: str) -> str:
    """Return a field's name in the struct."""
    return pascal(words_of(name))


def name_of(words: tuple[str, ...]) -> str:
    """Return the function's name."""
    return pascal(words)


def files(words: tuple[str, ...], stem: str | None) -> tuple[str, str]:
    """Return the names of the file and of its test."""
    module = stem if stem is not None else snake(words)
    return f"{module}.go", f"{module}_test.go"


def source(task: Task, file: str) -> str:
    """Write the function."""
    name, prefix = name_of(task.words), _prefix(task)
    several = task.take == "all"
    result = f"[]*{name}Fields" if several else f"*{name}Fields"
    lines = [f"var {prefix}Expression = {task.literal}", ""]
    for at, field in enumerate(task.fields, 1):
        lines += [f"var {prefix}Shape{at} = {field.shape}", ""] if field.shape else []
    lines += [f"// {name}Fields are what a match captures; nil for a group that took no part."]
    lines += [f"type {name}Fields struct {{"]
    lines += [f"\t{field.key} *{_TYPES[field.spec.type]}" for field in task.fields]
    lines += ["}", "", f"// {name} returns the fields of {'each match' if several else 'a text that fits'}."]
    lines += [f"func {name}(text string) ({result}, bool) {{", *_taking(task, prefix), "}", ""]
    lines += [f"func {prefix}Fields(text string, match []int) (*{name}Fields, bool) {{"]
    lines += [f"\tfound := &{name}Fields{{}}", *_reading(task, prefix), "\treturn found, true", "}"]
    body = "\n".join(lines) + "\n"
    body += helpers(task, "go.go", body, {"at": f"{prefix}At(", "offset": f"{prefix}HasOffset("}).replace(
        "PREFIX", prefix
    )
    head = [commented(each, MARKS) for each in task.head]
    return "\n".join([*head, "", "package patterns", "", *_imports(body), "", body])


def _prefix(task: Task) -> str:
    return camel(task.words)


def _imports(body: str) -> Iterator[str]:
    yield "import ("
    for module in ("math/big", "regexp", "strconv", "strings", "testing", "time"):
        if re.search(rf"\b{module.rpartition('/')[2]}\.[A-Z]", body):
            yield f'\t"{module}"'
    yield ")"


def _taking(task: Task, prefix: str) -> Iterator[str]:
    if task.take == "first":
        yield f"\tmatch := {prefix}Expression.FindStringSubmatchIndex(text)"
        yield "\tif match == nil {"
        yield "\t\treturn nil, false"
        yield "\t}"
        yield f"\treturn {prefix}Fields(text, match)"
        return
    yield f"\tmatches := {prefix}Expression.FindAllStringSubmatchIndex(text, -1)"
    if task.take == "all":
        yield f"\tvar all []*{name_of(task.words)}Fields"
        yield "\tfor _, match := range matches {"
        yield f"\t\tfound, ok := {prefix}Fields(text, match)"
        yield "\t\tif !ok {"
        yield "\t\t\treturn nil, false"
        yield "\t\t}"
        yield "\t\tall = append(all, found)"
        yield "\t}"
        yield "\treturn all, len(all) > 0"
        return
    number = task.nth
    index = str(number - 1) if number > 0 else f"len(matches)-{-number}"
    yield f"\tif len(matches) < {abs(number)} {{"
    yield "\t\treturn nil, false"
    yield "\t}"
    yield f"\treturn {prefix}Fields(text, matches[{index}])"


def _reading(task: Task, prefix: str) -> Iterator[str]:
    for at, field in enumerate(task.fields, 1):
        spec = field.spec
        yield f"\tif match[{2 * field.group}] >= 0 {{"
        yield f"\t\tpart := text[match[{2 * field.group}]:match[{2 * field.group + 1}]]"
        if spec.type == "text":
            yield "\t\tvalue := part"
        elif spec.type == "boolean":
            words = ", ".join(
                [f"{text_literal(each)}: false" for each in spec.false]
                + [f"{text_literal(each)}: true" for each in spec.true]
            )
            yield f"\t\tvalue, ok := map[string]bool{{{words}}}[part]"
        else:
            yield f"\t\tvalue, ok := {prefix}Converted(part, {_converter(field, at, prefix)})"
        checks = [] if spec.type == "text" else ["!ok"]
        checks += _checks(field, at, prefix)
        if checks:
            yield f"\t\tif {' || '.join(checks)} {{"
            yield "\t\t\treturn nil, false"
            yield "\t\t}"
        yield f"\t\tfound.{field.key} = {'&value' if spec.type in ('text', 'boolean') else 'value'}"
        yield "\t}"


def _converter(field: Field, at: int, prefix: str) -> str:
    spec = field.spec
    group, mark = text_literal(spec.group_mark or ""), text_literal(spec.decimal_mark)
    if spec.type == "integer":
        return f"{prefix}Integer({prefix}Shape{at}, {group})"
    if spec.type == "decimal":
        return f"{prefix}Decimal({prefix}Shape{at}, {group}, {mark})"
    return f'{prefix}Moment({prefix}Shape{at}, "{field.roles}", "{spec.type}")'


def _checks(field: Field, at: int, prefix: str) -> Iterator[str]:
    spec = field.spec
    if field.wants_offset is not None:
        sign = "!" if field.wants_offset else ""
        has = f'{prefix}HasOffset(part, {prefix}Shape{at}, "{field.roles}")' if "z" in field.roles else "false"
        yield f"{sign}{has}"
    if spec.least is not None:
        yield _order(spec.least, "<", spec.type, prefix)
    if spec.most is not None:
        yield _order(spec.most, ">", spec.type, prefix)
    if spec.one_of:
        others = " && ".join(_order(each, "!=", spec.type, prefix) for each in spec.one_of)
        yield f"({others})" if len(spec.one_of) > 1 else others


def _order(bound: Any, sign: str, kind: str, prefix: str) -> str:
    if isinstance(bound, dt.date | dt.time):
        order = {"<": "value.Before", ">": "value.After", "!=": "!value.Equal"}[sign]
        return f'{order}({prefix}At("{_rfc3339(bound)}"))'
    if isinstance(bound, bool | str):
        return f"value {sign} {str(bound).lower() if isinstance(bound, bool) else text_literal(bound)}"
    return f"value.Cmp({_number(bound, kind)}) {sign} 0"


def _number(found: int | Decimal, kind: str) -> str:
    """Write a number so that it cannot fail: a long one is read from its text."""
    if kind == "integer":
        if abs(int(found)) < 2**63:
            return f"big.NewInt({found})"
        return f'func() *big.Int {{ n, _ := new(big.Int).SetString("{found}", 10); return n }}()'
    return f'func() *big.Rat {{ n, _ := new(big.Rat).SetString("{found}"); return n }}()'


def _rfc3339(found: dt.date | dt.time) -> str:
    if isinstance(found, dt.datetime):
        return found.isoformat() + ("Z" if found.tzinfo is None else "")
    if isinstance(found, dt.time):
        return f"0001-01-01T{found.isoformat()}Z"
    return f"{found.isoformat()}T00:00:00Z"


def text_literal(text: str) -> str:
    """Write a text as a string of Go."""
    return in_double_quotes(text, long="\\U{:08x}")


def test(task: Task, file: str) -> str:
    """Write the samples as tests."""
    name, prefix = name_of(task.words), _prefix(task)
    lines = [f"func Test{name}(t *testing.T) {{", "\tfor _, each := range []struct {", "\t\ttitle, text string"]
    lines += [f"\t\twant []*{name}Fields", "\t}{"]
    for case in task.cases:
        lines += [f"\t\t{commented(case.note, MARKS)}"] if case.note else []
        wanted = (
            "nil" if case.found is None else f"[]*{name}Fields{{{', '.join(_row(task, each) for each in case.found)}}}"
        )
        lines += [f'\t\t{{"{case.title}", {text_literal(case.text)}, {wanted}}},']
    found = "found, ok" if task.take == "all" else "one, ok"
    lines += ["\t} {", f"\t\t{found} := {name}(each.text)"]
    if task.take != "all":
        lines += [f"\t\tvar found []*{name}Fields", "\t\tif ok {", f"\t\t\tfound = []*{name}Fields{{one}}", "\t\t}"]
    lines += ["\t\tsame := ok == (each.want != nil) && len(found) == len(each.want)", "\t\tfor at := range found {"]
    lines += [f"\t\t\tsame = same && {prefix}Same(found[at], each.want[at])", "\t\t}", "\t\tif !same {"]
    lines += ['\t\t\tt.Errorf("%s: %q gave other fields", each.title, each.text)', "\t\t}", "\t}", "}", ""]
    lines += [f"func {prefix}Same(one, other *{name}Fields) bool {{", *_all_same(task), "}"]
    body = "\n".join(lines) + "\n"
    if f"{prefix}Made(" in body:
        body += f"\nfunc {prefix}Made[T any](value T) *T {{\n\treturn &value\n}}\n"
    if f"{prefix}When(" in body:
        body += (
            pieces("go.go")["at"]
            .replace("PREFIXAt", f"{prefix}When")
            .replace("time.Time {", "*time.Time {")
            .replace("return made", "return &made")
        )
    return "\n".join([f"// The samples of {task.address}.", "", "package patterns", "", *_imports(body), "", body])


def _all_same(task: Task) -> Iterator[str]:
    same = [_same(field) for field in task.fields] or ["true"]
    first, *others = same
    yield f"\treturn {first}" + (" &&" if others else "")
    for at, each in enumerate(others, 1):
        yield f"\t\t{each}" + (" &&" if at < len(others) else "")


def _same(field: Field) -> str:
    one, other = f"one.{field.key}", f"other.{field.key}"
    by = {"integer": f"{one}.Cmp({other}) == 0", "decimal": f"{one}.Cmp({other}) == 0"}
    equal = by.get(field.spec.type, f"{one}.Equal(*{other})" if field.spec.type in MOMENTS else f"*{one} == *{other}")
    return f"({one} == nil) == ({other} == nil) && ({one} == nil || {equal})"


def _row(task: Task, match: Any) -> str:
    made = [f"{field.key}: {_pointer(match[field.name], field, task)}" for field in task.fields]
    return f"{{{', '.join(made)}}}"


def _pointer(found: Any, field: Field, task: Task) -> str:
    prefix = _prefix(task)
    if found is None:
        return "nil"
    if isinstance(found, bool):
        return f"{prefix}Made({str(found).lower()})"
    if isinstance(found, int | Decimal):
        return _number(found, field.spec.type)
    if isinstance(found, dt.date | dt.time):
        return f'{prefix}When("{_rfc3339(found)}")'
    return f"{prefix}Made({text_literal(str(found))})"


def combination(made: Combined, file: str) -> str:
    """Write the function of a pattern made of patterns."""
    name = name_of(made.words)
    lines = [*[commented(each, MARKS) for each in made.head], "", "package patterns", ""]
    lines += [f"// {name}Fields are what members capture; nil for one that was not asked, or does not fit."]
    lines += [f"type {name}Fields struct {{"]
    for each in made.captured:
        kind = f"*{name_of(each.words)}Fields"
        lines += [f"\t{each.key} {'[]' if each.several else ''}{kind}"]
    lines += ["}", "", f"// {name} returns {RESULTS[made.how]}."]
    lines += [f"func {name}(text string) (*{name}Fields, bool) {{", *_asking(made, name), "}"]
    return "\n".join(lines) + "\n"


def _asking(made: Combined, name: str) -> Iterator[str]:
    for each in made.members:
        taken = "_" if made.how == "none_of" else f"one{each.key}"
        yield (
            f"\t{taken}, ok := {name_of(each.words)}(text)"
            if each is made.members[0]
            else (f"\t{taken}, ok {'=' if made.how == 'none_of' else ':='} {name_of(each.words)}(text)")
        )
        if made.how == "any_of":
            yield "\tif ok {"
            yield f"\t\treturn &{name}Fields{{{each.key}: {taken}}}, true"
        else:
            yield "\tif ok {" if made.how == "none_of" else "\tif !ok {"
            yield "\t\treturn nil, false"
        yield "\t}"
    if made.how == "any_of":
        yield "\treturn nil, false"
    else:
        parts = ", ".join(f"{each.key}: one{each.key}" for each in made.captured)
        yield f"\treturn &{name}Fields{{{parts}}}, true"


def combination_test(made: Combined, file: str) -> str:
    """Write the samples of a pattern made of patterns as tests."""
    name = name_of(made.words)
    lines = [f"// The samples of {made.address}.", "", "package patterns", "", 'import "testing"', ""]
    lines += [f"func Test{name}(t *testing.T) {{", "\tfor _, each := range []struct {"]
    lines += ["\t\ttitle, text string", "\t\tfits        bool", "\t\tcaptured    string", "\t}{"]
    for case in made.cases:
        lines += [f"\t\t{commented(case.note, MARKS)}"] if case.note else []
        captured = text_literal(" ".join(case.keys or ()))
        fits = str(case.keys is not None).lower()
        lines += [f'\t\t{{"{case.title}", {text_literal(case.text)}, {fits}, {captured}}},']
    lines += ["\t} {", f"\t\tfound, ok := {name}(each.text)", '\t\tcaptured := ""']
    for each in made.captured:
        lines += [f"\t\tif ok && found.{each.key} != nil {{", '\t\t\tif captured != "" {', '\t\t\t\tcaptured += " "']
        lines += ["\t\t\t}", f'\t\t\tcaptured += "{each.key}"', "\t\t}"]
    lines += ["\t\tif ok != each.fits || captured != each.captured || ok == (found == nil) {"]
    lines += ['\t\t\tt.Errorf("%s: %q gave other members", each.title, each.text)', "\t\t}", "\t}", "}"]
    return "\n".join(lines) + "\n"
