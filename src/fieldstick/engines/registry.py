"""Which engines are usable here, and why another is not."""

from __future__ import annotations

from typing import TYPE_CHECKING

from fieldstick.engines import python
from fieldstick.errors import EngineUnusable, nearest

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Engine

_ENGINES: dict[str, Engine] = {python.NAME: python.ENGINE}


def engine_named(name: str) -> Engine:
    """Return the engine of that name.

    Raises EngineUnusable, which says why and which engines are usable.
    """
    engine = _ENGINES.get(name)
    if engine is None:
        near = nearest(name, _ENGINES)
        meant = f"; did you mean '{near}'?" if near else ""
        raise EngineUnusable(name, f"this version runs {', '.join(_ENGINES)}{meant}")
    return engine
