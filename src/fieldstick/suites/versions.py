"""Versions of suites: a file, a folder, a revision of a git repository.

A revision is read through git's own command line, object by object, into a folder of its own that is removed again;
nothing is checked out, and what the repository is set to do on a checkout or in an archive changes nothing.
"""

from __future__ import annotations

import os
import subprocess
import tempfile
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fieldstick.errors import UsageError
from fieldstick.suites.finding import BASELINE_ENDING, ENDING, find_suites
from fieldstick.suites.loader import read_suites
from fieldstick.suites.touched import files_named_in

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from fieldstick.suites.sections import Sections
    from fieldstick.suites.suite import Suite

_LINK, _PLAIN = "120000", ("100644", "100755")


class Version(Struct, frozen=True):
    """Some suites as they are in one place: the words it was named by, and the suites by their path within it.

    `is_one_file` tells that it was named as a single suite file.
    """

    name: str
    suites: dict[str, Suite]
    is_one_file: bool = False


def on_disk(path: str, sections: Sections, *, edited: Mapping[str, str] = {}, name: str | None = None) -> Version:
    """Return the version that a file or folder holds, some files `edited`, by their real paths.

    Raises UsageError where there is none, SuiteFileError for mistakes in its suites.
    """
    return _read(path, name or path, sections, edited=edited)


@contextmanager
def at_revision(revision: str, sections: Sections, beside: str = ".") -> Iterator[Version]:
    """Give the version that a revision holds of a folder, or of one suite file.

    Raises UsageError for what is no revision, SuiteFileError for mistakes in its suites.
    """
    with tempfile.TemporaryDirectory(prefix="fieldstick-") as folder:
        _lay_out(revision, beside, folder)
        if not os.path.isfile(beside):
            yield _read(folder, revision, sections, within=folder)
            return
        file = os.path.join(folder, os.path.basename(beside))
        there = os.path.lexists(file)
        yield _read(file, revision, sections, within=folder) if there else Version(revision, {}, is_one_file=True)


def _read(
    path: str, name: str, sections: Sections, *, within: str | None = None, edited: Mapping[str, str] = {}
) -> Version:
    """Return the suites of a file or folder; those that lie `within` a folder of a revision are named by it."""
    one = os.path.isfile(path)
    try:
        files = [path] if one else find_suites([path])
    except UsageError:
        if within is None:
            raise
        files = []
    base = os.path.dirname(path) if one else path

    def named(file: str) -> str:
        return file if within is None else f"{name}:{os.path.relpath(file, within)}"

    suites = read_suites(files, sections, named=named, edited=edited)
    return Version(name, {os.path.relpath(file, base): each for file, each in zip(files, suites, strict=True)}, one)


def is_revision(name: str) -> bool:
    """Tell whether git knows a commit by that name here."""
    try:
        _git("rev-parse", "--verify", "--quiet", "--end-of-options", f"{name}^{{commit}}")
    except UsageError:
        return False
    return True


def _git(*arguments: str, folder: str = ".") -> bytes:
    """Run git. Raises UsageError where there is none, and with its words where it fails."""
    try:
        done = subprocess.run(["git", "-C", folder, *arguments], capture_output=True, check=True, env=_environment())
    except FileNotFoundError:
        raise UsageError("git is not installed here; compare two files or folders instead") from None
    except subprocess.CalledProcessError as error:
        words = error.stderr.decode("utf-8", "replace").strip().splitlines()
        raise UsageError(f"git: {words[0].removeprefix('fatal: ') if words else 'it failed'}") from None
    return done.stdout


def _environment() -> dict[str, str]:
    return {**os.environ, "LC_ALL": "C", "GIT_OPTIONAL_LOCKS": "0"}


def _lay_out(revision: str, place: str, folder: str) -> None:
    """Write the suites that a revision has at a place into a folder, and the files that they name."""
    at = os.path.dirname(place) or "." if os.path.isfile(place) else place
    if not os.path.isdir(at):
        raise UsageError(f"{place}: there is no such file or folder")
    commit = _commit(revision, at)
    listed = _git("ls-tree", "-r", "-z", commit, folder=at).decode("utf-8", "surrogateescape")
    found: dict[str, tuple[str, str]] = {}
    for line in filter(None, listed.split("\0")):
        kept, _, path = line.partition("\t")
        mode, _, blob = kept.split()[:3]
        found[path] = (mode, blob)
    suites = [path for path in found if path.endswith((ENDING, BASELINE_ENDING)) or path == os.path.basename(place)]
    _write(at, folder, {path: found[path] for path in suites})
    named = {each for path in suites if path.endswith(".toml") for each in files_named_in(folder, path)}
    _write(at, folder, {path: found[path] for path in sorted(named & found.keys() - set(suites))})


def _commit(revision: str, folder: str) -> str:
    try:
        found = _git("rev-parse", "--verify", "--end-of-options", f"{revision}^{{commit}}", folder=folder)
    except UsageError as error:
        if "not a git repository" in str(error):
            raise UsageError(f"'{revision}' is no file or folder here, and this is no git repository") from None
        if "not installed" in str(error):
            raise UsageError(f"'{revision}' is no file or folder here, and {error}") from None
        raise UsageError(f"'{revision}' is no file or folder here, nor a revision that git knows") from None
    return found.decode().strip()


def _write(at: str, folder: str, blobs: dict[str, tuple[str, str]]) -> None:
    """Write blobs, by their path, below a folder: those of files, and links that stay below it."""
    wanted = {path: each for path, each in blobs.items() if each[0] in (*_PLAIN, _LINK)}
    with tempfile.TemporaryFile() as asked:
        asked.write("".join(f"{blob}\n" for _, blob in wanted.values()).encode())
        asked.seek(0)
        command = ["git", "-C", at, "cat-file", "--batch"]
        with subprocess.Popen(command, stdin=asked, stdout=subprocess.PIPE, env=_environment()) as process:
            assert process.stdout is not None
            for path, (mode, blob) in wanted.items():
                head = process.stdout.readline().split()
                if len(head) != 3:
                    raise UsageError(f"git: {path} ({blob[:12]}) cannot be read; is the repository whole?")
                target = os.path.join(folder, path)
                os.makedirs(os.path.dirname(target), exist_ok=True)
                _copy(process.stdout, int(head[2]), target, folder if mode == _LINK else None)
                process.stdout.read(1)


def _copy(stream: Any, size: int, target: str, link_within: str | None) -> None:
    if link_within is not None:
        aim = os.fsdecode(stream.read(size))
        root = os.path.realpath(link_within)
        inside = os.path.realpath(os.path.join(os.path.dirname(target), aim))
        if os.path.commonpath([root, inside]) == root:
            os.symlink(aim, target)
        return
    with open(target, "wb") as out:
        while size:
            piece = stream.read(min(size, 1 << 20))
            if not piece:
                raise UsageError(f"git: {target} ended early; is the repository whole?")
            out.write(piece)
            size -= len(piece)


def paired(was: Version, now: Version) -> list[tuple[Suite | None, Suite | None]]:
    """Pair the suites of two versions: by their path, those left by the name they give themselves, two files anyhow."""
    if was.is_one_file and now.is_one_file and was.suites and now.suites:
        return [(next(iter(was.suites.values())), next(iter(now.suites.values())))]
    left = {path: each for path, each in was.suites.items() if path not in now.suites}
    found: list[tuple[Suite | None, Suite | None]] = []
    for path, suite in now.suites.items():
        before = was.suites.get(path) or _of_name(suite.name, left)
        if before is not None and path not in was.suites:
            left = {key: each for key, each in left.items() if each is not before}
        found.append((before, suite))
    return [*found, *((each, None) for each in left.values())]


def _of_name(name: str, suites: dict[str, Suite]) -> Suite | None:
    found: Sequence[Suite] = [each for each in suites.values() if each.name == name]
    return found[0] if len(found) == 1 else None
