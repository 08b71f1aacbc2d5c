"""The schemas and forms that a pattern, or a form of a suite, can be handed over as."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.handover.forms import html_form, json_schema, table_schema, xml_schema
from fieldstick.handover.forms.rules import record_of_form, record_of_pattern
from fieldstick.handover.handing import Handed

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from fieldstick.handover.forms.rules import Maker, Record
    from fieldstick.operations.form import Form
    from fieldstick.suites.suite import Suite
    from fieldstick.workspace import Chosen

FORMS: Mapping[str, tuple[Callable[[], Maker], Callable[[Record, Maker], str]]] = {
    "json-schema": (json_schema.maker, json_schema.json_schema),
    "openapi": (json_schema.maker, json_schema.openapi),
    "table-schema": (table_schema.maker, lambda record, made: table_schema.table_schema(record)),
    "html": (html_form.maker, html_form.html_form),
    "xsd": (xml_schema.maker, xml_schema.xml_schema),
}
"""For each kind what makes its rules, and what writes a record of them."""


def form_of(what: Chosen | tuple[Suite, Form], kind: str) -> Handed:
    """Write a pattern, or a form of a suite, as a schema or form. Raises UsageError for what cannot be one."""
    start, write = FORMS[kind]
    made = start()
    if isinstance(what, tuple):
        suite, form = what
        record = record_of_form(form.own_name, form.about, suite, dict(form.columns), form.required, form.blank, made)
    else:
        record = record_of_pattern(what, made)
    return Handed(write(record, made), (*record.left, *dict.fromkeys(made.notes)), record.tried)
