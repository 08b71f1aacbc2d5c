"""Libraries that only some uses need; without one, the user is told how to get it."""

from __future__ import annotations

import importlib
from typing import Any

from fieldstick.errors import UsageError


def needed(module: str, what: str, extra: str = "data") -> Any:
    """Import a library that `what` needs and an `extra` of the package installs.

    Raises UsageError with the command that installs it when it is not there.
    """
    try:
        return importlib.import_module(module)
    except ImportError:
        name = module.partition(".")[0]
        raise UsageError(
            f"{what} needs the library {name}, which is not installed: pip install 'fieldstick[{extra}]'"
        ) from None
