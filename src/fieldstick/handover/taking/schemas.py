"""Patterns out of a JSON Schema, an OpenAPI description or a Table Schema.

JSON Schema's are expressions of ECMA-262 that are searched for (Validation, 6.3.3); Table Schema's are patterns of
XML Schema that a whole cell must fit.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.handover.taking.taken import Taken

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

_DATA = frozenset({"enum", "const", "default", "examples", "example"})
"""Keywords that hold data, not schemas."""

_BY_NAME = frozenset({"properties", "$defs", "definitions", "schemas", "patternProperties", "dependentSchemas"})
"""Keywords whose keys are names."""

_BESIDE = ("minLength", "maxLength", "enum", "const", "format", "minimum", "maximum", "not", "required", "unique")


def patterns_of_schema(data: object, stem: str) -> list[Taken]:
    """Return the patterns of a schema, in the file's order."""
    if isinstance(data, dict) and isinstance(data.get("fields"), list):
        return list(_fields(data["fields"]))
    return list(_schemas(data, "", stem))


def _fields(fields: list[Any]) -> Iterator[Taken]:
    for number, field in enumerate(fields):
        constraints = field.get("constraints") if isinstance(field, dict) else None
        pattern = constraints.get("pattern") if isinstance(constraints, dict) else None
        if not isinstance(constraints, dict) or not isinstance(pattern, str):
            continue
        about = _text(field, "description") or _text(field, "title")
        left = _left({key: value for key, value in constraints.items() if key != "pattern"})
        name = str(field.get("name", ""))
        yield Taken(name, f"/fields/{number}/constraints/pattern", pattern, "xsd", "whole", about, left=left)


def _schemas(data: object, place: str, name: str) -> Iterator[Taken]:
    """Yield the patterns of a schema and of those in it; one without a name of its own has that of what it is in."""
    if isinstance(data, list):
        for number, each in enumerate(data):
            yield from _schemas(each, f"{place}/{number}", name)
    if not isinstance(data, dict):
        return
    pattern = data.get("pattern")
    if isinstance(pattern, str):
        examples = data.get("examples", [])
        texts = tuple(each for each in examples if isinstance(each, str)) if isinstance(examples, list) else ()
        about = _text(data, "description") or _text(data, "title")
        yield Taken(
            name, f"{place}/pattern", pattern, "ecmascript", "anywhere", about, examples=texts, left=_left(data)
        )
    for key, value in data.items():
        if key in _DATA:
            continue
        at = f"{place}/{_escaped(key)}"
        if key in _BY_NAME and isinstance(value, dict):
            for own, each in value.items():
                yield from _schemas(each, f"{at}/{_escaped(own)}", own)
        else:
            yield from _schemas(value, at, name)


def _left(beside: Mapping[str, Any]) -> tuple[str, ...]:
    return tuple(f"{key} {beside[key]}" for key in _BESIDE if key in beside and not isinstance(beside[key], dict))


def _text(data: Mapping[str, Any], key: str) -> str:
    found = data.get(key)
    return found if isinstance(found, str) else ""


def _escaped(key: str) -> str:
    return key.replace("~", "~0").replace("/", "~1")
