"""`check --watch`: checks again what a saved file touches, and shows what came out otherwise since the last look."""

from __future__ import annotations

import os
import sys
import time
from typing import TYPE_CHECKING, Any

from fieldstick.commands.saying import say, tell
from fieldstick.comparing.looks import turns
from fieldstick.data.extras import needed
from fieldstick.errors import FieldstickError
from fieldstick.reporting.check_report import check_report
from fieldstick.reporting.look_report import look_report
from fieldstick.reporting.terminal import Terminal
from fieldstick.reporting.words import counted
from fieldstick.runs.results import CheckResult
from fieldstick.suites.finding import find_suites
from fieldstick.suites.touched import files_of
from fieldstick.workspace import Workspace

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Sequence

    from fieldstick.suites.suite import Suite

    Check = Callable[[Workspace, Sequence[Suite]], CheckResult]

SETTLED_MS = 80
"""Milliseconds without a further change after which files are taken for saved."""


POLL_MS = 1_000
"""Milliseconds after which files are looked at though no change was told of: nobody tells before the first look is
over, and some file systems never do.
"""


class Watch:
    """The suites that are watched, what each is made of, and what the last look at each found."""

    def __init__(self, paths: Sequence[str], check: Check) -> None:
        self._paths, self._check = paths, check
        self._touched: dict[str, set[str]] = {}
        self._stamps: dict[str, tuple[int, int] | None] = {}
        self.last = CheckResult(())

    @property
    def folders(self) -> set[str]:
        """The folders that hold what is watched."""
        files = {file for touched in self._touched.values() for file in touched}
        asked = [path if os.path.isdir(path) else os.path.dirname(path) or "." for path in self._paths or ["."]]
        return {
            *map(os.path.realpath, asked),
            *(folder for file in files if os.path.isdir(folder := os.path.dirname(file))),
        }

    def changed(self) -> set[str]:
        """Return the files that are others than when they were last asked for: changed, there now, or gone."""
        try:
            suites = find_suites(self._paths)
        except FieldstickError:
            suites = []
        fresh = [file for file in suites if file not in self._touched]
        self._touched |= {file: files_of(file) for file in fresh}
        now = _stamps({os.path.realpath(file) for file in suites}.union(*self._touched.values()))
        before, self._stamps = self._stamps, now
        turned = {file for file, stamp in now.items() if file in before and before[file] != stamp}
        return turned.union(map(os.path.realpath, fresh), (each for each in before if each not in now))

    def look(self, changed: set[str] | None = None) -> CheckResult:
        """Check what changed files touch, everything where None, and return the whole as it stands now.

        Raises FieldstickError; what the last look found stays then.
        """
        files = find_suites(self._paths)
        known = {suite.suite.file: suite for suite in self.last.suites}
        touched = [file for file in files if changed is None or file not in known or self._touched[file] & changed]
        for file in touched:
            self._touched[file] = files_of(file)
        self._touched = {file: each for file, each in self._touched.items() if file in files}
        workspace = Workspace()
        suites = workspace.suites(touched) if touched else []
        fresh = self._check(workspace, suites) if suites else self.last
        known |= {suite.suite.file: suite for suite in fresh.suites}
        return CheckResult(tuple(known[file] for file in files if file in known), tolerated=fresh.tolerated)


def _stamps(files: Iterable[str]) -> dict[str, tuple[int, int] | None]:
    """Return of each file when it was changed, in nanoseconds, and its size in bytes; None where it is not there."""
    found: dict[str, tuple[int, int] | None] = {}
    for file in files:
        try:
            state = os.stat(file)
        except OSError:
            found[file] = None
        else:
            found[file] = (state.st_mtime_ns, state.st_size)
    return found


def watch(paths: Sequence[str], check: Check) -> None:
    """Check, show what there is to tell, and go on with what changes until it is interrupted."""
    library: Any = needed("watchfiles", "check --watch", "watch")
    watched = Watch(paths, check)
    # Asked for before anything is read: what changes from here on is looked at the next time.
    watched.changed()
    watched.last = watched.look()
    Terminal.of().show(check_report(watched.last))
    tell(f"Watching {counted(len(watched.last.suites), 'suite')}; Ctrl-C ends it.")
    sys.stdout.flush()
    while True:
        # Folders are asked for anew each time: a suite may have begun to borrow from elsewhere.
        folders = watched.folders
        events = library.watch(
            *folders, step=SETTLED_MS, debounce=SETTLED_MS * 20, rust_timeout=POLL_MS, yield_on_timeout=True
        )
        for _ in events:
            changed = watched.changed()
            if changed:
                _look_again(watched, changed)
                if watched.folders != folders:
                    break


def _look_again(watched: Watch, changed: Iterable[str]) -> None:
    names = ", ".join(sorted({os.path.relpath(path) for path in changed}))
    tell("")
    tell(f"{time.strftime('%H:%M:%S')}  {names}")
    try:
        now = watched.look(set(changed))
    except FieldstickError as error:
        for line in str(error).splitlines():
            say(line)
        sys.stdout.flush()
        return
    Terminal.of().show(look_report(watched.last, now, list(turns(watched.last, now))))
    watched.last = now
    sys.stdout.flush()
