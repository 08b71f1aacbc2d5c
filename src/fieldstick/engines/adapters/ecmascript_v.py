"""The engine of V8 with the flag `v`."""

from __future__ import annotations

from fieldstick.engines.adapters import ecmascript


class Adapter(ecmascript.Adapter):
    """See `ecmascript.Adapter`."""

    mode = "v"
