"""Schemas and forms that are made of patterns hold data as the patterns do, but for what they say they do not carry."""

from __future__ import annotations

import json
import re
from typing import TYPE_CHECKING, Any

import pytest
from browser import opened
from jsonschema import Draft202012Validator, FormatChecker, ValidationError, validators
from jsonschema.protocols import Validator  # noqa: TC002 - a type of what is called below

from fieldstick.demo.story import lay_out
from fieldstick.engines.registry import engine_named, why_unusable
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Iterator

    from conftest import Desk
    from fieldstick.suites.suite import Pattern

SUITE = r"""
[parts]
year = '20\d\d'

[patterns.plot]
about = "A plot <of> the \"upper\" fen & more -- so to say"
message = "Like B07 -->"
expression = '[A-F]\d{2}(?<!0{2})'
reach = "start"
flags = ["ascii"]
positive = ['B07', 'B07/3']
negative = ['xB07', 'G07', 'B00', '']

[patterns.heads]
expression = '(?P<heads>\d{1,2})'
fields.heads = { type = "integer", least = 1, most = 40 }
positive = ['7', '40']
negative = ['', '140', '41']

[patterns.gate]
expression = '(?P<gate>\w+)'
fields.gate = { one_of = ["north", "quarry|west"] }
positive = ['north']
negative = ['south', 'quarry']

[patterns.note]
expression = '(?s).*heather'
reach = "anywhere"
flags = ["ignore-case"]
positive = ["Heather\nand moss", 'old heather']
negative = ['moss']

[patterns.code]
any_of = ["plot", "heads"]
positive = ['B07', '7']
negative = ['x']

[patterns.calm]
none_of = ["plot", "note"]
positive = ['moss']
negative = ['heather', 'B07']

[patterns.both]
all_of = ["note", "lines"]
positive = ['heather A']
negative = ['A', 'heather']

[patterns.lines]
expression = '[a-z]+ [A-Z]'
positive = ['heather A']
negative = ['A']

[forms.visit]
about = "A visit"
required = ["Plot", "Calm"]
blank = ["", "n.a."]
columns = { Plot = "plot", Heads = "heads", Gate = "gate", "Note / more" = "note", Calm = "calm", Both = "both" }
[[forms.visit.samples]]
row = { Plot = "B07", Calm = "moss" }
[[forms.visit.samples]]
row = { Plot = "B07", Heads = "n.a.", Gate = " ", Calm = "moss", Both = "" }
[[forms.visit.samples]]
row = { Plot = "B07", Heads = "140", Gate = "south", "Note / more" = "moss", Calm = "heather", Both = "heather" }
rejects = ["Heads", "Gate", "Note / more", "Calm", "Both"]
[[forms.visit.samples]]
row = { Plot = "n.a.", Calm = " " }
rejects = ["Plot", "Calm"]
"""


@pytest.fixture(autouse=True)
def here(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(desk.folder)


WITHOUT_LOOKING = SUITE.replace("(?<!0{2})", "").replace(", 'B00'", "")
"""The suite without what XML Schema has no words for."""


def let_through(desk: Desk, address: str, kind: str) -> tuple[str, set[str]]:
    """Hand a pattern over; return what is written, and the samples of which is said that they are let through."""
    run = desk.run("handover", address, "--as", kind, "--to", "out.txt")
    assert run.status == 0, run.err
    return (desk.folder / "out.txt").read_text(encoding="utf-8"), set(
        re.findall(r"(negative \d+) \(.*\) is let through", run.err)
    )


def judged(pattern: Pattern, let: set[str]) -> Iterator[tuple[str, bool]]:
    """Yield each sample's text, and whether it is to be taken where that is all that is not carried."""
    for each in pattern.samples:
        yield each.text, each.kind == "positive" or f"{each.kind} {each.number}" in let


def _searched(validator: Validator, pattern: str, instance: Any, schema: Any) -> Iterator[ValidationError]:
    """Search for a pattern as the standard has it: with an engine of ECMA-262, not Python's."""
    if isinstance(instance, str):
        compiled = engine_named("ecmascript").compile(pattern, frozenset())
        if not compiled.matches(instance, "anywhere", 1000, 1):
            yield ValidationError(f"{instance!r} does not match {pattern!r}")


EcmaValidator = validators.extend(Draft202012Validator, {"pattern": _searched})


def needs(engine: str) -> None:
    if why_unusable(engine) is not None:
        pytest.skip(f"{engine} is not usable here")


PATTERNS = ("plot", "heads", "gate", "note", "code", "calm", "both", "lines")


def test_json_schema_takes_what_the_patterns_and_the_form_take(desk: Desk) -> None:
    needs("ecmascript")
    desk.suite(SUITE)
    suite = Workspace().suite("loggers.suite.toml")
    for name in PATTERNS:
        written, let = let_through(desk, f"loggers:{name}", "json-schema")
        schema = json.loads(written)
        EcmaValidator.check_schema(schema, format_checker=FormatChecker(()))
        openapi = json.loads(desk.run("handover", f"loggers:{name}", "--as", "openapi").out)
        assert openapi["components"]["schemas"][name] == {k: v for k, v in schema.items() if k != "$schema"}
        for text, fits in judged(suite.patterns[name], let):
            assert EcmaValidator(schema).is_valid(text) == fits, (name, text)
    heads = json.loads(let_through(desk, "loggers:heads", "json-schema")[0])
    assert [EcmaValidator(heads).is_valid(each) for each in (7, 41, 7.5, "7")] == [True, False, False, True]
    assert "its type, least, most are not carried" in heads["$comment"]

    form = json.loads(let_through(desk, "loggers:visit", "json-schema")[0])
    EcmaValidator.check_schema(form, format_checker=FormatChecker(()))
    for sample in suite.operations["forms.visit"].samples:
        assert sample.expected is not None
        found = EcmaValidator(form).iter_errors(dict(sample.expected.rows[0]))
        rejected = {error.absolute_path[0] if error.absolute_path else error.message for error in found}
        assert rejected == set(sample.expected.outcome)
    assert [error.message for error in EcmaValidator(form).iter_errors({"Plot": "B07"})] == [
        "'Calm' is a required property"
    ]


def test_an_xml_schema_takes_what_the_patterns_and_the_form_take(desk: Desk) -> None:
    etree = pytest.importorskip("lxml.etree")
    desk.suite(WITHOUT_LOOKING)
    suite = Workspace().suite("loggers.suite.toml")

    def reads(schema: Any, name: str, text: str) -> bool:
        element = etree.Element(name)
        element.text = text
        return bool(schema.validate(element))

    for name in ("plot", "heads", "gate", "note", "code", "both", "lines"):
        written, let = let_through(desk, f"loggers:{name}", "xsd")
        alone = written.replace("</xs:schema>", f'<xs:element name="one" type="{name}"/></xs:schema>')
        schema = etree.XMLSchema(etree.fromstring(alone.encode()))
        for text, fits in judged(suite.patterns[name], let):
            assert reads(schema, "one", text) == fits, (name, text)
    desk.suite(SUITE)
    form = desk.run("handover", "loggers:visit", "--as", "xsd")
    assert "plot: it cannot be written for xsd" in form.out and "look-behind" in form.err
    desk.suite(WITHOUT_LOOKING.replace("'B07/3']", "'B07/3', 'G07/3']"))
    broken = desk.run("handover", "loggers:visit", "--as", "xsd")
    assert broken.status == 2 and "plot: 1 of 6 samples do not pass here; mend that first" in broken.err
    desk.suite(WITHOUT_LOOKING)
    refused = desk.run("handover", "loggers:calm", "--as", "xsd")
    assert refused.status == 2 and "its none_of cannot be asked for there" in refused.err

    written, let = let_through(desk, "loggers:visit", "xsd")
    assert "calm: its none_of cannot be asked for there; anything fits" in written
    schema = etree.XMLSchema(etree.fromstring(written.encode()))
    for sample in suite.operations["forms.visit"].samples:
        assert sample.expected is not None
        record = etree.Element("visit")
        for column, text in sample.expected.rows[0].items():
            etree.SubElement(record, column.replace(" / ", "-")).text = text
        wrong = {re.findall(r"Element '([^']+)'", str(error.message))[0] for error in schema.error_log}
        schema.validate(record)
        wrong = {re.findall(r"Element '([^']+)'", error.message)[0] for error in schema.error_log}
        assert wrong == {each.replace(" / ", "-") for each in sample.expected.outcome} - {"Calm"}


def test_a_table_schema_takes_what_the_patterns_take(desk: Desk) -> None:
    needs("xsd")
    desk.suite(WITHOUT_LOOKING)
    suite = Workspace().suite("loggers.suite.toml")
    for name in ("plot", "heads", "gate", "note", "code", "lines"):
        written, let = let_through(desk, f"loggers:{name}", "table-schema")
        (field,) = json.loads(written)["fields"]
        limits = field["constraints"]
        for text, fits in judged(suite.patterns[name], let):
            if text in json.loads(written)["missingValues"]:
                taken = "required" not in limits
            elif "enum" in limits:
                taken = text in limits["enum"]
            else:
                compiled = engine_named("xsd").compile(limits["pattern"], frozenset())
                within = limits.get("minLength", 0) <= len(text) <= limits.get("maxLength", len(text))
                taken = within and bool(compiled.matches(text, "whole", 1000, 1))
            assert taken == fits, (name, text)
    form = json.loads(let_through(desk, "loggers:visit", "table-schema")[0])
    assert [each["name"] for each in form["fields"] if each["constraints"].get("required")] == ["Plot", "Calm"]
    assert form["missingValues"] == ["", "n.a."] and "both: its all_of cannot be asked for there" in form["comment"]


def test_a_browser_holds_what_is_typed_against_the_form(desk: Desk) -> None:
    desk.suite(SUITE)
    written, _ = let_through(desk, "loggers:visit", "html")
    assert written.count("-->") == written.count("<!--") and "<of>" not in written
    page_file = desk.folder / "visit.html"
    page_file.write_text(written, encoding="utf-8")
    with opened(page_file) as page:
        for sample in Workspace().suite("loggers.suite.toml").operations["forms.visit"].samples:
            assert sample.expected is not None
            row = sample.expected.rows[0]
            for column in ("Plot", "Heads", "Gate", "Note / more", "Calm", "Both"):
                page.type_into(column, row.get(column, ""))
            script = "return [...document.querySelectorAll('input:invalid')].map((each) => each.name)"
            assert page.run(script) == list(sample.expected.outcome)
        page.type_into("Plot", "B")
        state = "const e = document.querySelector('[name=Plot]'); return [e.validity.tooShort, e.title, e.required]"
        assert page.run(state) == [True, "Like B07 -->", True]
        page.type_into("Note / more", "Heather 🐦".replace("🐦", "′"))
        modes = "return [...document.querySelectorAll('input')].map((each) => each.inputMode)"
        assert page.run(modes) == ["", "numeric", "", "", "", ""]
        assert page.run("return document.querySelectorAll('h1').length") == 1


def test_the_samples_of_the_demo_are_read_in_a_browser_as_here(desk: Desk) -> None:
    lay_out(desk.folder / "larkmoor")
    suite = Workspace().suite("larkmoor/permits.suite.toml")
    page_file = desk.folder / "value.html"
    page_file.write_text("", encoding="utf-8")
    with opened(page_file) as page:
        for name in ("permit-code", "first-day", "load", "dogs"):
            written, let = let_through(desk, f"permits:{name}", "html")
            page_file.write_text(written, encoding="utf-8")
            page.ask("url", url=page_file.as_uri())
            for text, fits in judged(suite.patterns[name], let):
                page.type_into(name, text)
                assert page.run("return document.querySelector('form').checkValidity()") == fits, (name, text)


def test_patterns_come_back_out_of_schemas_and_forms_with_the_dialect_of_their_standard(desk: Desk) -> None:
    needs("ecmascript")
    needs("xsd")
    desk.suite(WITHOUT_LOOKING)
    kept = {
        "json-schema": ("ecmascript", "anywhere"),
        "table-schema": ("xsd", "whole"),
        "html": ("ecmascript-v", "whole"),
    }
    for kind, (engine, reach) in kept.items():
        let_through(desk, "loggers:visit", kind)
        (desk.folder / "out.txt").rename(desk.folder / f"visit.{kind}")
        run = desk.run("keep", "--from", f"visit.{kind}", "--suite", f"{kind}.suite.toml")
        assert run.status == 0, run.err
        taken = Workspace().suite(f"{kind}.suite.toml").patterns
        assert {(each.engine, each.reach) for each in taken.values()} == {(engine, reach)}
        plot = taken["plot"]
        assert plot.about and (plot.message == "Like B07 -->" if kind == "html" else not plot.message)
    assert [each.text for each in Workspace().suite("json-schema.suite.toml").patterns["plot"].samples] == [
        "B07",
        "B07/3",
    ]
    assert desk.run("check", "json-schema.suite.toml").status == 0
    assert (
        "(visit.json-schema, /properties/Heads/anyOf/0/pattern): not kept"
        in desk.run("keep", "--from", "visit.json-schema", "--suite", "more.suite.toml").err
    )


def test_patterns_are_written_for_python_as_they_are_kept_or_nothing_is(desk: Desk) -> None:
    needs("ecmascript")
    schema = {
        "properties": {
            "Permit code": {
                "type": "string",
                "pattern": r"^LM-(?<year>20\d{2})$",
                "examples": ["LM-2026"],
                "maxLength": 7,
            },
            "pattern": {"pattern": r"^a|b$", "enum": [{"pattern": "no schema"}]},
            "odd": {"items": {"pattern": r"\{{2}"}},
        }
    }
    desk.write("form.json", json.dumps(schema))
    run = desk.run("keep", "--from", "form.json", "--suite", "form.suite.toml", "--engine", "python")
    assert run.status == 0 and "maxLength 7" in run.err
    patterns = Workspace().suite("form.suite.toml").patterns
    written = {name: (each.reach, each.filling and each.filling.text({})) for name, each in patterns.items()}
    assert written["permit-code"] == ("whole", "LM-(?P<year>20[0-9]{2})")
    assert written["pattern"] == ("anywhere", r"\Aa|b\Z") and set(written) == {"permit-code", "pattern", "odd"}
    assert desk.run("check", "form.suite.toml").status == 0

    before = (desk.folder / "form.suite.toml").read_bytes()
    assert desk.run("keep", "--from", "form.json", "--suite", "form.suite.toml").status == 2
    assert "has no pattern 'cod'" in desk.run("keep", "cod", "--from", "form.json", "--suite", "form.suite.toml").err
    for text, words in (
        ("", "neither JSON nor HTML"),
        ('{"pattern": "a("}', "bad.json, /pattern: a(: the expression does not compile"),
        ("[1]", "no pattern in it"),
        ("<p>nothing", "no pattern in it"),
    ):
        desk.write("bad.json", text)
        refused = desk.run("keep", "--from", "bad.json", "--suite", "form.suite.toml")
        assert refused.status == 2 and words in refused.err, refused.err
    assert (desk.folder / "form.suite.toml").read_bytes() == before
