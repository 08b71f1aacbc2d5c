"""Libraries that only some kinds of file need; without one, the user is told how to get it."""

from __future__ import annotations

import importlib
from typing import Any

from fieldstick.errors import UsageError


def needed(module: str, what: str) -> Any:
    """Import a library that `what` needs.

    Raises UsageError with the command that installs it when it is not there.
    """
    try:
        return importlib.import_module(module)
    except ImportError:
        name = module.partition(".")[0]
        raise UsageError(
            f"{what} needs the library {name}, which is not installed: pip install 'fieldstick[data]'"
        ) from None
