"""A form of HTML: an input a column, held against its pattern by the browser.

`pattern` is an expression of ECMA-262 with the flag v that the whole value must fit (HTML, 4.10.5.3.6); a value that is
empty is not held against it, which only `required` refuses. `title` is what the browser says then.
"""

from __future__ import annotations

import re
from html import escape
from typing import TYPE_CHECKING

from fieldstick.analysis.character_sets import characters_of
from fieldstick.analysis.facts import facts_of
from fieldstick.analysis.rendering.dialects import DIALECTS
from fieldstick.handover.forms.rules import Maker, spelled
from fieldstick.handover.handing import commented
from fieldstick.syntax.characters import CharacterSet
from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import Character, CharClass, Dot, Shorthand

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.handover.forms.rules import Column, Record, Rule

_DIGITS = CharacterSet.of_text("0123456789")
_NUMBERS = _DIGITS | CharacterSet.of_text(".,")

_LOOK = """\
:root { color-scheme: light dark }
body { font: 1rem/1.4 system-ui, sans-serif; max-width: 36rem; margin: 1.25rem auto; padding: 0 1rem }
h1 { font-size: 1.4rem; margin: 0 }
label { display: block; margin-top: .7rem }
label:has(+ input:required)::after { content: " (needed)"; opacity: .7 }
input { font: inherit; width: 100%; padding: .25rem .5rem; box-sizing: border-box; border: 1px solid #888 }
input:user-invalid { border-color: #d0443c; outline: 1px solid #d0443c }
small { display: block; opacity: .75 }
input:user-invalid + small { color: #d0443c; font-weight: 600; opacity: 1 }
button { font: inherit; margin-top: 1rem; padding: .3rem 1.5rem }"""


def maker() -> Maker:
    """Return what makes rules as a browser reads them."""
    return Maker("ecmascript-v", whole_values=True, combinations=("any_of", "all_of", "none_of"))


def html_form(record: Record, made: Maker) -> str:
    """Write a record as a page with one form."""
    title = escape(record.about or record.name)
    lines = ["<!DOCTYPE html>", '<html lang="en">', "<head>", '<meta charset="utf-8">', f"<title>{title}</title>"]
    lines += [f"<style>\n{_LOOK}\n</style>", "</head>", "<body>"]
    lines += [commented(f"Not carried: {each}", ("<!-- ", " -->")) for each in record.left]
    lines += [f'<form name="{_id(record.name)}">', f"<h1>{title}</h1>"]
    for column in record.columns:
        lines += _input(column, made, is_form=record.is_form)
    return "\n".join([*lines, "<button>Send</button>", "</form>", "</body>", "</html>"]) + "\n"


def _id(name: str) -> str:
    return re.sub(r"[^A-Za-z0-9_-]+", "-", name)


def _input(column: Column, made: Maker, *, is_form: bool) -> Iterator[str]:
    rule = column.rule
    about, message = rule.pattern.about, rule.pattern.message or ""
    label = column.name if is_form else about or column.name
    pattern = _pattern(rule)
    if is_form and not column.required:
        pattern = f"{pattern}|{made.blank(column.blank)}"
    elif column.required and rule.takes_nothing:
        pattern = f"(?!(?:{made.blank(column.blank)})$)(?:{pattern})"
    given = {"id": _id(column.name), "name": column.name, "type": "text", "autocomplete": "off", "pattern": pattern}
    given |= {"title": message or about} if message or about else {}
    if column.required:
        given |= {"minlength": str(rule.shortest)} if rule.shortest else {}
    given |= _input_mode(rule)
    attributes = " ".join(f'{name}="{_attribute(value)}"' for name, value in given.items())
    required = " required" if column.required else ""
    yield f'<label for="{given["id"]}">{escape(label)}</label>'
    yield f"<input {attributes}{required}>"
    if message:
        yield f"<small>{escape(message)}</small>"


def _attribute(value: str) -> str:
    return escape(value).replace("\n", "&#10;").replace("\r", "&#13;").replace("\t", "&#9;")


def _pattern(rule: Rule) -> str:
    """Return the expression of a rule; one of several that must all fit, or none, looks ahead from the start."""
    if rule.is_open:
        return f"{DIALECTS['ecmascript-v'].everything}*"
    if rule.combination is None:
        dialect = DIALECTS["ecmascript-v"]
        return "|".join(spelled(each, dialect) for each in rule.among) if rule.among else rule.expression
    members = [_pattern(each) for each in rule.members]
    if rule.combination == "any_of":
        return "|".join(f"(?:{each})" for each in members)
    if rule.combination == "all_of":
        *others, last = members
        return "".join(f"(?=(?:{each})$)" for each in others) + f"(?:{last})"
    return "".join(f"(?!(?:{each})$)" for each in members) + DIALECTS["ecmascript-v"].everything + "*"


def _input_mode(rule: Rule) -> dict[str, str]:
    """Tell which keys are wanted, where they are those of numbers."""
    if (
        rule.combination is not None
        or rule.among
        or rule.is_open
        or rule.pattern.engine != "python"
        or rule.pattern.reach != "whole"
    ):
        return {}
    facts = facts_of(parse(rule.plain, rule.pattern.flags))
    taken = CharacterSet(())
    for node, flags in facts.with_flags:
        if isinstance(node, Character | CharClass | Dot | Shorthand) and not facts.is_in_class(node):
            taken = taken | characters_of(node, flags)
    ascii_digits = taken & CharacterSet(((0, 0x7F),))
    if not taken or ascii_digits & ~_NUMBERS or taken & ~_digits():
        return {}
    return {"inputmode": "decimal" if ascii_digits & ~_DIGITS else "numeric"}


def _digits() -> CharacterSet:
    """Digits of any alphabet, and what stands in numbers."""
    (shorthand,) = [parse(r"\d", frozenset()).tree]
    return characters_of(shorthand) | _NUMBERS
