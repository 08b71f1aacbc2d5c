"""Table Schema, the open standard for the columns of a table.

A field's `pattern` is a pattern of XML Schema that the whole cell must fit; an empty cell, or one of `missingValues`,
is no value, which only `required` refuses.
"""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

from fieldstick.analysis.rendering.dialects import DIALECTS
from fieldstick.handover.forms.rules import Maker, spelled, words_of

if TYPE_CHECKING:
    from fieldstick.handover.forms.rules import Column, Record, Rule


def maker() -> Maker:
    """Return what makes rules as a table's schema has them."""
    return Maker("xsd", whole_values=True, combinations=("any_of",))


def table_schema(record: Record) -> str:
    """Write a record as the schema of a table: a field a column."""
    fields = [_field(column, alone=not record.is_form) for column in record.columns]
    blank = record.columns[0].blank or ("",)
    schema: dict[str, Any] = {"fields": fields, "missingValues": list(blank)}
    if record.left:
        schema["comment"] = "Not carried: " + "; ".join(record.left)
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"


def _field(column: Column, *, alone: bool) -> dict[str, Any]:
    rule = column.rule
    found: dict[str, Any] = {"name": column.name, "type": "string"}
    words = words_of(rule.pattern)
    if words:
        found["description"] = words
    constraints: dict[str, Any] = {"required": True} if column.required else {}
    if rule.among:
        constraints["enum"] = list(rule.among)
    elif not rule.is_open:
        constraints["pattern"] = pattern_of(rule)
        if rule.combination is None and rule.shortest:
            constraints["minLength"] = rule.shortest
        if rule.combination is None and rule.longest is not None:
            constraints["maxLength"] = rule.longest
    return {**found, "constraints": constraints}


def pattern_of(rule: Rule) -> str:
    """Return one pattern for a rule: of several, any of which will do, their alternation."""
    if rule.combination is None:
        return "|".join(spelled(each, DIALECTS["xsd"]) for each in rule.among) if rule.among else rule.expression
    return "|".join(f"({pattern_of(each)})" for each in rule.members)
