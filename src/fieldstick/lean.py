"""Libraries imported without what they import for things that nobody asks of them here, which is most of their import.

In processes of the command line alone: in those of others nothing is kept from anybody's imports.
"""

from __future__ import annotations

import contextlib
import functools
import importlib
import os
import re
import sys
import typing
from types import ModuleType
from typing import TYPE_CHECKING, Any, AnyStr, cast

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping

_START = "fieldstick.start"
"""The module that a process of the command line begins with, in which nobody else's code runs."""


def _clean_text(text: str) -> str:
    """Return a docstring without its indent, as `inspect.cleandoc` does."""
    first, *rest = text.expandtabs().split("\n")
    indent = min((len(line) - len(line.lstrip()) for line in rest if line.lstrip()), default=0)
    return "\n".join([first.lstrip(), *(line[indent:] for line in rest)]).strip("\n")


def _one_or_more(one: str, more: str, count: int) -> str:
    return one if count == 1 else more


def _asked_later(module: str, *names: str) -> Mapping[str, Any]:
    """Return what calls the functions of those names of a module, which it imports then."""

    def asked(name: str, *given: Any, **more: Any) -> Any:
        return getattr(importlib.import_module(module), name)(*given, **more)

    return {name: functools.partial(asked, name) for name in names}


PUT_OFF: Mapping[str, Mapping[str, Any]] = {
    "inspect": {"cleandoc": _clean_text},
    "gettext": {"gettext": str, "ngettext": _one_or_more},
    "platform": {"system": lambda: os.uname().sysname} if hasattr(os, "uname") else {},
    "textwrap": {},
    "msgspec.inspect": {},
    "msgspec._json_schema": _asked_later("msgspec._json_schema", "schema", "schema_components"),
    "msgspec.msgpack": {},
    "msgspec.toml": {},
    "msgspec.yaml": {},
}
"""What Click and msgspec import, with what they ask of it when a command begins: Python's functions say the same, those
of `gettext` where nobody has translated either."""

UNTYPED = ("typing_extensions",)
"""What msgspec does as well without, from Python 3.11 on."""


class _PutOff(ModuleType):
    """Stands in for a module, which is imported when something is asked that the stand-in does not hold."""

    def __init__(self, name: str, held: Mapping[str, Any]) -> None:
        super().__init__(name)
        self.__dict__.update(held)

    def __getattr__(self, name: str) -> Any:
        if sys.modules.get(self.__name__) is self:
            if name.startswith("__"):
                raise AttributeError(name)
            del sys.modules[self.__name__]
        return getattr(importlib.import_module(self.__name__), name)


def spare_datetime() -> None:
    """Have `datetime` hold what it takes from its compiled twin in the end, without the same in Python before."""
    if sys.version_info >= (3, 12) or "datetime" in sys.modules or _START not in sys.modules:
        return
    with contextlib.suppress(ImportError):
        held = vars(importlib.import_module("_datetime"))
        sys.modules["datetime"] = _PutOff("datetime", {name: held[name] for name in held if not name.startswith("_")})


def spare_compiling() -> None:
    """Have references to types that are text be compiled once they are evaluated, if they ever are.

    To evaluate one, Python takes its source as well. The first text that `compile` is given has Python make the types
    of all nodes of syntax trees.
    """
    if _START in sys.modules:
        vars(typing)["compile"] = lambda source, *how: source


@contextlib.contextmanager
def leanly(put_off: Mapping[str, Mapping[str, Any]], left_out: Iterable[str] = ()) -> Iterator[None]:
    """Have what is imported meanwhile go without modules.

    Those put off are imported once they are asked for something that is not given for them here; to import those left
    out is an ImportError until this ends. Modules that are imported already stay what they are.
    """
    if _START not in sys.modules:
        yield
        return
    held: dict[str, Any] = {name: _PutOff(name, given) for name, given in put_off.items() if name not in sys.modules}
    held |= {name: None for name in left_out if name not in sys.modules}
    sys.modules.update(held)
    try:
        yield
    finally:
        for name, module in held.items():
            if sys.modules.get(name, module) is module:
                sys.modules.pop(name, None)


class _Later:
    """Stands in for a compiled expression, which is compiled when something is asked of it."""

    def __init__(self, expression: Any, flags: int) -> None:
        self._asked = (expression, flags)
        self._compiled: Any = None

    def __getattr__(self, name: str) -> Any:
        if self._compiled is None:
            self._compiled = re.compile(*self._asked)
        self.__dict__[name] = found = getattr(self._compiled, name)
        return found


def compiled_later(expression: AnyStr, flags: int = 0) -> re.Pattern[AnyStr]:
    """Return what compiles an expression of our own when it is first used: most commands use few of all there are.

    It has all that a compiled expression has; functions of `re` do not take it for one.
    """
    return cast("re.Pattern[AnyStr]", _Later(expression, flags))
