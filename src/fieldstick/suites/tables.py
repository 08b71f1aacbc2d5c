"""Names every mistake of plain data that is no table of the model, each with its path.

The library that the tables are made with stops at the first mistake; here all of them are found, by walking the data
along the same types.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any, NamedTuple

from msgspec import inspect

from fieldstick.errors import hint

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from fieldstick.suites.model import Table
    from fieldstick.suites.places import Path


class Mistake(NamedTuple):
    """Something wrong with a value: its path, what is wrong in words, and the path of what is to be left out.

    `key` is set when the mistake is a key that the table does not have, so that whoever knows the other tables may
    say where it belongs.
    """

    path: Path
    words: str
    damaged: Path
    key: str | None = None


def mistakes(data: Any, table: type[Table]) -> list[Mistake]:
    """Return everything that is wrong with the data of a table, in the data's order."""
    return list(_of(data, inspect.type_info(table), ()))


def _of(value: Any, kind: Any, path: Path) -> Iterator[Mistake]:
    """Yield the mistakes of a value that should be of a kind."""
    match kind:
        case inspect.Metadata():
            yield from _with_own_words(value, kind, path)
        case inspect.AnyType():
            return
        case inspect.UnionType():
            yield from _of_union(value, kind, path)
        case inspect.StructType():
            yield from _of_table(value, kind, path) if isinstance(value, dict) else _unlike(value, kind, path)
        case inspect.DictType():
            yield from _of_dict(value, kind, path) if isinstance(value, dict) else _unlike(value, kind, path)
        case inspect.ListType():
            yield from _of_list(value, kind, path) if isinstance(value, list) else _unlike(value, kind, path)
        case inspect.LiteralType():
            if not any(value == each and type(value) is type(each) for each in kind.values):
                yield _wrong(path, f"{_subject(path)} is {shown(value)}; choose {_choices(value, kind.values)}")
        case _:
            yield from _of_single(value, kind, path)


def _with_own_words(value: Any, kind: inspect.Metadata, path: Path) -> Iterator[Mistake]:
    """A kind that has words of its own: `words` follow the value, `rule` its name, `whole` stands alone.

    `choices` are those of a literal in the order in which they are to be listed.
    """
    found = list(_of(value, kind.type, path))
    extra = kind.extra or {}
    if not found:
        return
    if "choices" in extra:
        yield _wrong(path, f"{_subject(path)} is {shown(value)}; choose {_choices(value, extra['choices'])}")
    elif "whole" in extra:
        yield _wrong(path, extra["whole"])
    elif "words" in extra and isinstance(value, str):
        yield _wrong(path, f"{shown(value)} {extra['words']}")
    elif "rule" in extra:
        yield _wrong(path, f"{path[-1]} is {shown(value)}; {extra['rule']}")
    else:
        yield from found


def _of_union(value: Any, kind: inspect.UnionType, path: Path) -> Iterator[Mistake]:
    alternatives = [each for each in kind.types if not isinstance(each, inspect.NoneType)]
    meant = [each for each in alternatives if _is_like(value, each)] if len(alternatives) > 1 else alternatives
    if meant:
        yield from _of(value, meant[0], path)
    else:
        yield _wrong(path, f"{_subject(path)} must be {' or '.join(map(_called, alternatives))}, not {shown(value)}")


def _is_like(value: Any, kind: Any) -> bool:
    if isinstance(kind, inspect.Metadata):
        return _is_like(value, kind.type)
    if isinstance(kind, inspect.StructType | inspect.DictType):
        return isinstance(value, dict)
    if isinstance(kind, inspect.ListType | inspect.TupleType):
        return isinstance(value, list)
    return not list(_of(value, kind, ("",)))


def _of_table(data: dict[str, Any], kind: inspect.StructType, path: Path) -> Iterator[Mistake]:
    fields = {each.encode_name: each for each in kind.fields}
    for key, value in data.items():
        if key in fields:
            yield from _of(value, fields[key].type, (*path, key))
        else:
            yield Mistake((*path, key), f"unknown key '{key}'{hint(key, fields)}", (*path, key), key)
    for key, each in fields.items():
        if each.required and key not in data:
            yield Mistake(path, f"the key '{key}' is missing", (*path, key))


def _of_dict(data: dict[str, Any], kind: inspect.DictType, path: Path) -> Iterator[Mistake]:
    if kind.min_length and len(data) < kind.min_length:
        yield _wrong(path, f"{_subject(path)} is an empty table; name at least one")
    for key, value in data.items():
        wrong_key = list(_of(key, kind.key_type, (*path, key)))
        yield from wrong_key or _of(value, kind.value_type, (*path, key))


def _of_list(data: list[Any], kind: inspect.ListType, path: Path) -> Iterator[Mistake]:
    if kind.min_length and len(data) < kind.min_length:
        yield _wrong(path, f"{_subject(path)} is an empty array; name at least one")
    for index, value in enumerate(data):
        yield from _of(value, kind.item_type, (*path, index))


def _of_single(value: Any, kind: Any, path: Path) -> Iterator[Mistake]:
    match kind:
        case inspect.StrType() if isinstance(value, str):
            if kind.max_length == kind.min_length == 1 and len(value) != 1:
                yield _wrong(path, f"{_subject(path)} must be one character, not {shown(value)}")
            elif kind.pattern is not None and not re.search(kind.pattern, value):
                yield _wrong(path, f"{_subject(path)} is {shown(value)}, which does not do here")
        case inspect.IntType() if isinstance(value, int) and not isinstance(value, bool):
            if kind.ge is not None and value < kind.ge:
                yield _wrong(path, f"{_subject(path)} is {value}; it must be at least {kind.ge}")
            elif kind.le is not None and value > kind.le:
                yield _wrong(path, f"{_subject(path)} is {value}; it must be at most {kind.le}")
        case inspect.BoolType() if isinstance(value, bool):
            return
        case inspect.CustomType() if isinstance(value, kind.cls):
            return
        case inspect.TupleType() if isinstance(value, list) and len(value) == len(kind.item_types):
            for index, (each, item) in enumerate(zip(value, kind.item_types, strict=True)):
                yield from _of(each, item, (*path, index))
        case inspect.CustomType():
            yield _wrong(path, f"{_subject(path)}: must be {_called(kind)}")
        case _:
            yield from _unlike(value, kind, path)


def _unlike(value: Any, kind: Any, path: Path) -> Iterator[Mistake]:
    yield _wrong(path, f"{_subject(path)} must be {_called(kind)}, not {shown(value)}")


def _wrong(path: Path, words: str) -> Mistake:
    return Mistake(path, words, path)


def _called(kind: Any) -> str:
    match kind:
        case inspect.Metadata():
            return _called(kind.type)
        case inspect.StrType():
            return "a text"
        case inspect.IntType():
            return "a whole number"
        case inspect.BoolType():
            return "true or false"
        case inspect.ListType() | inspect.TupleType():
            return "an array"
        case inspect.DictType() | inspect.StructType():
            return "a table"
        case inspect.LiteralType():
            return " or ".join(f"'{each}'" for each in kind.values)
        case _:
            return "a text, number, date, time or boolean"


def _choices(value: Any, values: Iterable[Any]) -> str:
    choices = [str(each) for each in values]
    listed = ", ".join(choices[:-1]) + f" or {choices[-1]}" if len(choices) > 1 else choices[0]
    near = hint(value, choices) if isinstance(value, str) else ""
    return listed + (near if "nearest" in near else "")


def _subject(path: Path) -> str:
    """Name a value by its key, an item of an array by its number and its array's key."""
    if isinstance(path[-1], int) and len(path) > 1:
        return f"item {path[-1] + 1} of '{path[-2]}'"
    return f"'{path[-1]}'"


def shown(value: Any) -> str:
    """Write a value from a suite file on a line, a long text cut."""
    if isinstance(value, str):
        return f"'{value[:40]}'" + ("…" if len(value) > 40 else "")
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, dict | list):
        return "a table" if isinstance(value, dict) else "an array"
    return str(value)
