"""Finds the modules of packages of which a command imports many: right in their folder, and what Python compiled of
them where it puts that.

A command imports some eighty of its own. Python's way to one asks whoever may find modules in turn, and looks for five
kinds of files; what is not as it usually is, is left to it.
"""

import marshal
import os
import sys
from _frozen_importlib import ModuleSpec
from _frozen_importlib_external import MAGIC_NUMBER, SourceFileLoader
from types import CodeType

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Sequence

_PACKAGES = ("fieldstick.", "click.", "msgspec.")
_READING = os.O_RDONLY | getattr(os, "O_CLOEXEC", 0)
_MOST, _WORD = 1 << 16, 0xFFFFFFFF
"""What is as large is not read here: room for more would be asked of the system, and given back."""

_HEAD = MAGIC_NUMBER + bytes(4)
"""What a compiled file begins with that was made of a source of some time and size, which follow."""

_COMPILED = f"{sys.implementation.cache_tag}.pyc"


def _compiled_beside(path: str) -> str:
    """Return where Python puts what it compiles of a file of source (PEP 3147)."""
    folder, _, name = path.rpartition("/")
    return f"{folder}/__pycache__/{name.removesuffix('py')}{_COMPILED}"


class _OwnLoader(SourceFileLoader):
    """Loads a module whose file is as `stat` tells it."""

    def __init__(self, name: str, path: str, stat: os.stat_result) -> None:
        super().__init__(name, path)
        self._stat = stat

    def get_code(self, fullname: str) -> CodeType | None:
        """Return what was compiled of the module (PEP 552), where it is of the file as it is; else as Python does."""
        try:
            opened = os.open(_compiled_beside(self.path), _READING)
        except OSError:
            return super().get_code(fullname)
        try:
            data = os.read(opened, _MOST)
        finally:
            os.close(opened)
        time, size = int(self._stat.st_mtime) & _WORD, self._stat.st_size & _WORD
        if data[:16] != _HEAD + (size << 32 | time).to_bytes(8, "little") or len(data) == _MOST:
            return super().get_code(fullname)
        try:
            code: CodeType = marshal.loads(memoryview(data)[16:])
        except (EOFError, ValueError, TypeError):
            # The system may give less of a file at once than there is.
            return super().get_code(fullname)
        return code


class _OwnFinder:
    """Finds modules that lie in the folder of their package as files of source."""

    @staticmethod
    def find_spec(name: str, path: "Sequence[str] | None" = None, target: object = None) -> ModuleSpec | None:
        """Return where a module is in the first folder of its package, `path`; None where that is another's to say."""
        if not path or not name.startswith(_PACKAGES):
            return None
        place = f"{path[0]}/{name.rpartition('.')[2]}"
        for file, folders in ((f"{place}.py", None), (f"{place}/__init__.py", [place])):
            try:
                stat = os.stat(file)
            except OSError:
                continue
            spec = ModuleSpec(name, _OwnLoader(name, file, stat), origin=file, is_package=folders is not None)
            spec.submodule_search_locations = folders
            spec.has_location = True
            spec.cached = _compiled_beside(file)
            return spec
        return None


def find_own_modules() -> None:
    """Have own modules be found so from now on, where Python compiles as it usually does."""
    if os.sep == "/" and not sys.flags.optimize and sys.pycache_prefix is None:
        sys.meta_path.insert(0, _OwnFinder())
