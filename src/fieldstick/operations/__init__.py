"""What can be done with text that fits: rewrite, split, route, look up, judge a form.

Each operation is a module that holds its table in the suite file, its checks, how a sample of it is judged, and its
work on a batch of texts; its `SECTION` is the name of the module with an s. A module put here is found.
"""

from __future__ import annotations

import importlib
from functools import cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.suites.sections import Section


class OwnSections:
    """The sections of the operations of this package, each loaded when it is asked for."""

    def names(self) -> Sequence[str]:
        """Return the names of the sections, as in a suite file."""
        return _names()

    def section(self, name: str) -> Section:
        """Return the section of that name."""
        found: Section = importlib.import_module(f"{__name__}.{name.removesuffix('s')}").SECTION
        return found


@cache
def _names() -> tuple[str, ...]:
    import pkgutil

    return tuple(f"{module.name}s" for module in pkgutil.iter_modules(__path__))


SECTIONS = OwnSections()
