"""The engines that are usable here; tests of another are skipped by its name."""

from __future__ import annotations

import atexit
import os
from functools import cache

import pytest

from fieldstick.engines.companion_engine import CompanionEngine
from fieldstick.engines.registry import BY_NAME, ENGINES, engine_named, why_unusable
from servers import SERVER, postgresql_server

NAMES = [each.name for each in ENGINES]
CAPTURING = [each.name for each in ENGINES if each.captures]


@cache
def started_server() -> None:
    """Have the engine of a database one to speak to, until the tests end."""
    if SERVER is None or "FIELDSTICK_POSTGRES" in os.environ:
        return
    running = postgresql_server()
    os.environ["FIELDSTICK_POSTGRES"] = running.__enter__()
    atexit.register(running.__exit__, None, None, None)
    engine = engine_named("postgres")
    assert isinstance(engine, CompanionEngine)
    # Some other test may have asked it before there was a server.
    engine._unusable = None


def usable(name: str) -> str:
    """Return the name of an engine; skip the test where it is not usable."""
    if name == "postgres":
        started_server()
    why = why_unusable(name)
    if why is not None:
        pytest.skip(f"{name}: {why}")
    return name


__all__ = ["BY_NAME", "CAPTURING", "NAMES", "engine_named", "usable"]
