"""The compiled walkers, or None where there are none: this is the one place that knows."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fieldstick.kernels.calls import Walkers

SWITCH = "FIELDSTICK_WALKERS"
"""The variable of the environment that, set to `off`, has all done without the walkers."""


def _loaded() -> Walkers | None:
    if os.environ.get(SWITCH) == "off":
        return None
    try:
        from fieldstick.kernels import _walkers  # type: ignore[attr-defined]
    except ImportError:
        return None
    found: Walkers = _walkers
    return found


NATIVE = _loaded()


def words() -> str:
    """Say whether the walkers are in use, and why not."""
    if NATIVE is not None:
        return "compiled; bulk work goes by tables"
    if os.environ.get(SWITCH) == "off":
        return f"switched off by {SWITCH}; all is done by the engine, slower"
    return "not built, for there was no compiler; all is done by the engine, slower"
