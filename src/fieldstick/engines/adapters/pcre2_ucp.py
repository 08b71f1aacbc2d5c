"""The engine PCRE2, told that classes and boundaries know Unicode (UCP)."""

from __future__ import annotations

from fieldstick.engines.adapters import pcre2


class Adapter(pcre2.Adapter):
    """See `pcre2.Adapter`."""

    unicode_properties = True
