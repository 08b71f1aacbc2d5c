"""Speaks for an engine that Python has a binding of: `python -m fieldstick.engines.sides.library ADAPTER`."""

from __future__ import annotations

import importlib
import sys
from typing import TYPE_CHECKING, Any

from fieldstick.engines.adapters.adapter import Refused
from fieldstick.engines.companion import coded, decoded

if TYPE_CHECKING:
    from fieldstick.engines.adapters.adapter import Adapter, Expression


def serve(adapter: Adapter) -> None:
    """Answer requests until there are no more; see `companion` for their form."""
    known: dict[str, Expression] = {}
    say("ready", coded(adapter.version), adapter.unit)
    for line in sys.stdin:
        word, *words = line.split()
        if word == "c":
            key, flags, expression = words
            try:
                known[key] = made = adapter.compile(decoded(expression), frozenset(flags) - {"-"})
            except Refused as error:
                say("no", str(error.offset), coded(error.rule))
            else:
                say("ok", *map(coded, made.names))
        else:
            key, reach, wanted, text = words
            try:
                found = list(known[key].matches(decoded(text), reach, int(wanted) or None))
            except Exception as error:
                say("err", coded(str(error) or type(error).__name__))
            else:
                say("is", ";".join(",".join(f"{start},{end}" for start, end in spans) for spans in found))


def say(*words: str) -> None:
    """Say one answer."""
    sys.stdout.write(" ".join(words) + "\n")
    sys.stdout.flush()


def main() -> None:
    """Load the adapter that is named; what it lacks is said in one line."""
    try:
        module: Any = importlib.import_module(f"fieldstick.engines.adapters.{sys.argv[1]}")
        adapter = module.Adapter()
    except ImportError as error:
        print(f"{error.name or error} is not installed", file=sys.stderr)
        sys.exit(1)
    except OSError as error:
        print(error, file=sys.stderr)
        sys.exit(1)
    try:
        serve(adapter)
    except (KeyboardInterrupt, BrokenPipeError):
        sys.exit(1)


if __name__ == "__main__":
    main()
