"""XML Schema 1.0: a simple type a pattern, and for a form an element that holds one of each column.

The patterns of one step of restriction are alternatives, those of several steps must all be met (part 2, 4.3.4).
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fieldstick.handover.forms.rules import Maker, words_of
from fieldstick.handover.forms.table_schema import pattern_of
from fieldstick.handover.handing import commented

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.handover.forms.rules import Column, Record, Rule

NAMESPACE = "http://www.w3.org/2001/XMLSchema"


def maker() -> Maker:
    """Return what makes rules as XML Schema has them."""
    return Maker("xsd", whole_values=True, combinations=("any_of", "all_of"))


def xml_schema(record: Record, made: Maker) -> str:
    """Write a record as a schema document."""
    ET.register_namespace("xs", NAMESPACE)
    schema = ET.Element(_tag("schema"))
    for each in record.left:
        schema.append(ET.Comment(commented(f"Not carried: {each}", (" ", " -->")).removesuffix("-->")))
    names = _names(record)
    if record.is_form:
        element = ET.SubElement(schema, _tag("element"), name=_name(record.name))
        _document(element, record.about)
        every = ET.SubElement(ET.SubElement(element, _tag("complexType")), _tag("all"))
        for column, name in zip(record.columns, names, strict=True):
            given = {"name": name, "type": name} | ({} if column.required else {"minOccurs": "0"})
            ET.SubElement(every, _tag("element"), given)
    for column, name in zip(record.columns, names, strict=True):
        _type(schema, column, name, made, is_form=record.is_form)
    ET.indent(schema)
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{ET.tostring(schema, encoding="unicode")}\n'


def _tag(name: str) -> str:
    return f"{{{NAMESPACE}}}{name}"


def _names(record: Record) -> list[str]:
    names: list[str] = []
    for column in record.columns:
        plain = name = _name(column.name)
        number = 1
        while name in names:
            number += 1
            name = f"{plain}-{number}"
        names.append(name)
    return names


def _name(text: str) -> str:
    """Return a name that an element can have: letters, digits, dots, hyphens, a letter first."""
    plain = re.sub(r"[^A-Za-z0-9._-]+", "-", text).strip("-.") or "value"
    return plain if plain[0].isalpha() else f"x-{plain}"


def _document(element: ET.Element, words: str) -> None:
    if words:
        note = ET.SubElement(ET.SubElement(element, _tag("annotation")), _tag("documentation"))
        note.text = commented(words, ("", ""))


def _type(schema: ET.Element, column: Column, name: str, made: Maker, *, is_form: bool) -> None:
    rule = column.rule
    element = ET.SubElement(schema, _tag("simpleType"), name=name)
    _document(element, words_of(rule.pattern))
    _restrict(element, rule, [made.blank(column.blank)] if is_form and not column.required else [])


def _restrict(element: ET.Element, rule: Rule, also: Sequence[str]) -> None:
    """Put a restriction of strings below; of several rules that must all be met, one below the other.

    What is `also` taken goes beside each pattern.
    """
    if rule.combination == "all_of":
        *inner, last = rule.members
        if not inner:
            _restrict(element, last, also)
            return
        restriction = ET.SubElement(element, _tag("restriction"))
        _restrict(ET.SubElement(restriction, _tag("simpleType")), replace(rule, members=tuple(inner)), also)
        for text in (pattern_of(last), *also):
            _facet(restriction, "pattern", text)
        return
    restriction = ET.SubElement(element, _tag("restriction"), base="xs:string")
    if rule.is_open:
        return
    if rule.among and not also:
        for each in rule.among:
            _facet(restriction, "enumeration", each)
        return
    if rule.combination is None and not also:
        if rule.shortest:
            _facet(restriction, "minLength", str(rule.shortest))
        if rule.longest is not None:
            _facet(restriction, "maxLength", str(rule.longest))
    for text in (pattern_of(rule), *also):
        _facet(restriction, "pattern", text)


def _facet(restriction: ET.Element, name: str, value: str) -> None:
    ET.SubElement(restriction, _tag(name), value=value)
