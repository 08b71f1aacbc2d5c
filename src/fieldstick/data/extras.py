"""Libraries that only some uses need; without one, the user is told how to get it."""

from __future__ import annotations

import contextlib
import importlib
import threading
from typing import Any

from fieldstick.errors import UsageError
from fieldstick.lean import leanly

_LEFT_OUT = (
    "numpy",
    "cloudpickle",
    "pyarrow._azurefs",
    "pyarrow._gcsfs",
    "pyarrow._hdfs",
    "pyarrow._s3fs",
)
"""What PyArrow uses if it is there: others' arrays, pickled functions, and stores elsewhere (these go by fsspec)."""


def _lean(module: str) -> contextlib.AbstractContextManager[None]:
    """Have PyArrow imported without what it can do without and nobody asks for here, more than half of its import."""
    return leanly({}, _LEFT_OUT if module.startswith("pyarrow") else ())


def needed(module: str, what: str, extra: str = "data") -> Any:
    """Import a library that `what` needs and an `extra` of the package installs.

    Raises UsageError with the command that installs it when it is not there.
    """
    try:
        with _lean(module):
            return importlib.import_module(module)
    except ImportError:
        raise _lacking(module, what, extra) from None


def needed_later(module: str, what: str, extra: str = "data") -> None:
    """Make sure that a library is installed. Raises UsageError as `needed` does."""
    import importlib.util

    if importlib.util.find_spec(module.partition(".")[0]) is None:
        raise _lacking(module, what, extra)


def load_beside(module: str) -> None:
    """Import a library beside other work, of which walkers do most without the interpreter; `needed` then waits for it.

    Not before this process is copied: a copy would wait for a thread that it does not have.
    """
    threading.Thread(target=_imported, args=(module,)).start()


def _imported(module: str) -> None:
    with contextlib.suppress(Exception), _lean(module):
        importlib.import_module(module)


def _lacking(module: str, what: str, extra: str) -> UsageError:
    name = module.partition(".")[0]
    return UsageError(f"{what} needs the library {name}, which is not installed: pip install 'fieldstick[{extra}]'")
