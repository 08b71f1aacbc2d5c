"""JSON Schema, edition 2020-12, and the components of an OpenAPI 3.1 description, whose schemas are the same.

`pattern` is an expression of ECMA-262 that is searched for (JSON Schema Validation, 6.3.3), which is why it asks for
its reach itself; the keywords of numbers say nothing of texts, nor those of texts of numbers, so that a schema can
stand for both.
"""

from __future__ import annotations

import json
import re
from typing import TYPE_CHECKING, Any

from fieldstick.handover.forms.rules import Maker, bounds_of, words_of

if TYPE_CHECKING:
    from fieldstick.handover.forms.rules import Column, Record, Rule

DIALECT = "https://json-schema.org/draft/2020-12/schema"
MOST_EXAMPLES = 3


def maker() -> Maker:
    """Return what makes rules as JSON Schema has them."""
    return Maker("ecmascript", whole_values=False, numbers=True, combinations=("any_of", "all_of", "none_of"))


def json_schema(record: Record, made: Maker) -> str:
    """Write a record as a schema: of an object for a form, of a value for a pattern."""
    head = {"$schema": DIALECT, **_comment(record)}
    return _written({**head, **_schema(record, made)})


def openapi(record: Record, made: Maker) -> str:
    """Write a record as a component of a description that has nothing else."""
    name = re.sub(r"[^A-Za-z0-9._-]", "_", record.name)
    components = {"schemas": {name: {**_comment(record), **_schema(record, made)}}}
    info = {"title": record.about or record.name, "version": "1"}
    return _written({"openapi": "3.1.0", "info": info, "components": components})


def _written(data: Any) -> str:
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"


def _comment(record: Record) -> dict[str, str]:
    if not record.left:
        return {}
    return {"$comment": "Not carried: " + "; ".join(record.left)}


def _schema(record: Record, made: Maker) -> dict[str, Any]:
    if not record.is_form:
        return _rule(record.columns[0].rule)
    schema: dict[str, Any] = {"title": record.name}
    if record.about:
        schema["description"] = record.about
    schema["type"] = "object"
    schema["properties"] = {column.name: _column(column, made) for column in record.columns}
    required = [column.name for column in record.columns if column.required]
    return {**schema, **({"required": required} if required else {})}


def _column(column: Column, made: Maker) -> dict[str, Any]:
    """A column that may be left blank takes what means so; one that may not refuses it where the pattern would not."""
    blank = {"type": "string", "pattern": f"^(?:{made.blank(column.blank)})$"}
    schema = _rule(column.rule)
    head: dict[str, Any] = {key: schema.pop(key) for key in ("title", "description") if key in schema}
    if not column.required:
        return {**head, "anyOf": [schema, blank]}
    return {**head, "allOf": [schema, {"not": blank}]} if column.rule.takes_nothing else {**head, **schema}


def _rule(rule: Rule) -> dict[str, Any]:
    pattern = rule.pattern
    words = words_of(pattern)
    schema: dict[str, Any] = {"title": pattern.name, **({"description": words} if words else {})}
    if rule.combination is None:
        schema |= _keywords(rule)
    else:
        members = [_rule(each) for each in rule.members]
        combined: dict[str, dict[str, Any]] = {
            "any_of": {"anyOf": members},
            "all_of": {"allOf": members},
            "none_of": {"not": {"anyOf": members}},
        }
        schema |= {"type": "string", **combined[rule.combination]}
    examples = [each.text for each in pattern.samples if each.kind == "positive" and not each.values]
    return {**schema, **({"examples": examples[:MOST_EXAMPLES]} if examples else {})}


def _keywords(rule: Rule) -> dict[str, Any]:
    if rule.is_open:
        return {"type": "string"}
    if rule.among:
        return {"type": "string", "enum": list(rule.among)}
    found: dict[str, Any] = {"type": "string", "pattern": rule.expression}
    if rule.shortest:
        found["minLength"] = rule.shortest
    if rule.longest is not None:
        found["maxLength"] = rule.longest
    if rule.number is not None:
        kind = "integer" if rule.number.type == "integer" else "number"
        return {**found, "type": ["string", kind], **bounds_of(rule.number)}
    return found
