"""Patterns out of the inputs of a page: expressions of ECMA-262 with the flag v that the whole value must fit."""

from __future__ import annotations

from html.parser import HTMLParser

from fieldstick.handover.taking.taken import Taken

_TYPES = ("text", "search", "url", "tel", "email", "password", "")
"""Types of input to which a pattern applies (HTML, 4.10.5.3.6)."""

_BESIDE = ("required", "minlength", "maxlength")


class _Inputs(HTMLParser):
    """Collects inputs with a pattern, and the labels that are for them or stand around them."""

    def __init__(self) -> None:
        super().__init__()
        self.found: list[tuple[dict[str, str], int, list[str]]] = []
        self.labels: dict[str, list[str]] = {}
        self._open: list[str] | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """See `HTMLParser.handle_starttag`."""
        given = {name: value if value is not None else "" for name, value in attrs}
        if tag == "label":
            self._open = self.labels.setdefault(given["for"], []) if "for" in given else []
        if tag == "input" and "pattern" in given and given.get("type", "").lower() in _TYPES:
            self.found.append((given, self.getpos()[0], self._open if self._open is not None else []))

    def handle_endtag(self, tag: str) -> None:
        """See `HTMLParser.handle_endtag`."""
        if tag == "label":
            self._open = None

    def handle_data(self, data: str) -> None:
        """See `HTMLParser.handle_data`."""
        if self._open is not None:
            self._open.append(data)


def patterns_of_form(text: str) -> list[Taken]:
    """Return the patterns of a page's inputs, in the page's order."""
    reader = _Inputs()
    reader.feed(text)
    reader.close()
    taken = []
    for given, line, around in reader.found:
        words = " ".join("".join(around or reader.labels.get(given.get("id", ""), [])).split())
        name = given.get("name") or given.get("id") or words
        left = tuple(f"{key} {given[key]}".strip() for key in _BESIDE if key in given)
        message = given.get("title", "")
        place = f"line {line}"
        taken.append(Taken(name, place, given["pattern"], "ecmascript-v", "whole", words, message, left=left))
    return taken
