"""Patterns of XML Schema, judged by libxml2 through lxml: whole values alone, and nothing is captured."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any
from xml.sax.saxutils import quoteattr

from lxml import etree

from fieldstick.engines.adapters.adapter import Refused
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Iterable

    from fieldstick.engines.adapters.adapter import Spans
    from fieldstick.engines.places import Unit

_SCHEMA = """<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema"><xs:element name="value"><xs:simpleType>
<xs:restriction base="xs:string"><xs:pattern value={}/></xs:restriction></xs:simpleType></xs:element></xs:schema>"""

_NO_XML = compiled_later("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
"""Characters that no XML document can hold (XML 1.0, production 2)."""


class Expression:
    """See `adapter.Expression`."""

    names = ()

    def __init__(self, schema: Any) -> None:
        self._schema = schema

    def matches(self, text: str, reach: str, wanted: int | None) -> Iterable[Spans]:
        """See `adapter.Expression`."""
        if _NO_XML.search(text):
            raise ValueError("XML cannot hold this text: it has a control character or another that XML leaves out")
        element = etree.Element("value")
        element.text = text
        return [[(0, len(text))]] if self._schema.validate(element) else []


class Adapter:
    """See `adapter.Adapter`."""

    version = "libxml2 " + ".".join(map(str, etree.LIBXML_VERSION))
    unit: Unit = "points"

    def compile(self, expression: str, flags: frozenset[str]) -> Expression:
        """See `adapter.Adapter`."""
        if _NO_XML.search(expression):
            raise Refused("XML cannot hold this expression: it has a character that XML leaves out")
        # A blank that an attribute would make of a line feed or a tab is kept.
        value = quoteattr(expression, {"\n": "&#10;", "\r": "&#13;", "\t": "&#9;"})
        try:
            return Expression(etree.XMLSchema(etree.XML(_SCHEMA.format(value))))
        except (etree.XMLSchemaParseError, etree.XMLSyntaxError) as error:
            said = str(error.error_log.last_error.message if error.error_log.last_error else error)
            raise Refused(said.rpartition("}pattern': ")[2] or said) from None
