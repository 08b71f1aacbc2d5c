"""The keys that a table of a suite file may have, by the JSON Schema of the format."""

from __future__ import annotations

from functools import cache
from typing import Any

from fieldstick.operations import SECTIONS
from fieldstick.suites.sections import json_schema


@cache
def _schema() -> dict[str, Any]:
    return json_schema(SECTIONS)


def keys_of(table: str) -> list[str]:
    """Return the keys of a table by its name, as `patterns.reading.fields.moisture`; none for one that is not known."""
    found = _below([_schema()], table.split(".") if table else [])
    return list(dict.fromkeys(key for each in found for key in each.get("properties", {})))


def choices_of(table: str, key: str) -> list[str]:
    """Return the texts that a key of a table may have, as far as they are a closed list."""
    found = _below([_schema()], [*(table.split(".") if table else []), *key.split(".")])
    values = [
        value for each in found for value in (*each.get("enum", ()), *([each["const"]] if "const" in each else ()))
    ]
    return list(dict.fromkeys(each for each in values if isinstance(each, str)))


def _below(schemas: list[dict[str, Any]], words: list[str]) -> list[dict[str, Any]]:
    """Return the schemas that a path of keys leads to; items of arrays are stepped into."""
    found = _unfolded(schemas)
    for word in words:
        following = []
        for each in found:
            properties, other = each.get("properties", {}), each.get("additionalProperties")
            if word in properties:
                following.append(properties[word])
            elif isinstance(other, dict):
                following.append(other)
        found = _unfolded(following)
    return found


def _unfolded(schemas: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Return schemas with references followed, alternatives apart, and arrays replaced by their items."""
    made: list[dict[str, Any]] = []
    for each in schemas:
        if "$ref" in each:
            made += _unfolded([_schema()["$defs"][each["$ref"].rpartition("/")[2]]])
        elif "anyOf" in each:
            made += _unfolded(each["anyOf"])
        elif isinstance(each.get("items"), dict):
            made += _unfolded([each["items"]])
        else:
            made.append(each)
    return made
