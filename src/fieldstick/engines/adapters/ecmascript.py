"""The engine of V8 with the flag `u`, by the binding `mini-racer`."""

from __future__ import annotations

import json
from importlib.resources import files
from typing import TYPE_CHECKING, Any

from py_mini_racer import MiniRacer

from fieldstick.engines.adapters.adapter import Refused

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from fieldstick.engines.adapters.adapter import Spans
    from fieldstick.engines.places import Unit


class Expression:
    """See `adapter.Expression`."""

    def __init__(self, racer: MiniRacer, number: int, names: Sequence[str]) -> None:
        self._racer, self._number, self.names = racer, number, names

    def matches(self, text: str, reach: str, wanted: int | None) -> Iterable[Spans]:
        """See `adapter.Expression`."""
        found: str = _called(self._racer, "matches", self._number, reach, wanted or 0, text)
        if not found.startswith("="):
            raise ValueError(found)
        matches = [[int(each) for each in match.split(",")] for match in found[1:].split(";") if match]
        return [list(zip(spans[::2], spans[1::2], strict=True)) for spans in matches]


def _called(racer: MiniRacer, name: str, *arguments: object) -> Any:
    """Call a function; its arguments go as JSON, which is faster than one by one."""
    return racer.eval(f"{name}({','.join(map(json.dumps, arguments))})")


class Adapter:
    """See `adapter.Adapter`; a subclass asks for the flag `v`."""

    unit: Unit = "halves"
    mode = "u"

    def __init__(self) -> None:
        self._racer = MiniRacer()
        self.version = f"V8 {self._racer.v8_version}"
        self._racer.eval(files("fieldstick.engines.sides").joinpath("reading.js").read_text("utf-8"))
        self._made = 0

    def compile(self, expression: str, flags: frozenset[str]) -> Expression:
        """See `adapter.Adapter`."""
        self._made += 1
        made: str | int = _called(self._racer, "compile", self._made, expression, "".join(flags - {"a"}) + self.mode)
        if isinstance(made, str):
            raise Refused(made)
        from fieldstick.engines.capture_groups import group_names

        names = group_names(expression, quoted=False, nested=self.mode == "v")
        return Expression(self._racer, self._made, names if len(names) == made else [""] * made)
