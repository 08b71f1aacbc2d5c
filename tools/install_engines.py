"""Installs what patterns are run on and handed over to in tests, from Debian, where that may be done.

Elsewhere it says what is missing, and ends well: tests of what is not there are skipped by its name.
"""

from __future__ import annotations

import os
import shutil
import subprocess
from pathlib import Path

PACKAGES = {
    "perl": "perl",
    "java": "default-jdk-headless",
    "ruby": "ruby",
    "php": "php-cli",
    "node": "nodejs",
    "sqlite3": "sqlite3",
    "postgres": "postgresql",
    "csharp": "mono-csharp-shell",
    "go": "golang-go",
    "kotlinc": "kotlin",
    "tsc": "node-typescript",
    "phpunit": "phpunit",
    "junit5": "junit5",
    "minitest": "ruby-minitest",
    "chromium": "chromium",
    "chromedriver": "chromium-driver",
}
"""The Debian package that brings each program: engines, languages with what runs their tests, a browser."""

PLACES = {
    "postgres": "/usr/lib/postgresql/*/bin/initdb",
    "junit5": "/usr/share/java/junit-platform-console.jar",
    "minitest": "/usr/share/rubygems-integration/*/specifications/minitest-*.gemspec",
}
"""Where what is no program on the path lies."""


def is_there(program: str) -> bool:
    """Tell whether a program can be run here; a server and libraries stand in folders of their own."""
    if program in PLACES:
        return any(Path("/").glob(PLACES[program].lstrip("/")))
    return shutil.which(program) is not None


def main() -> None:
    """Install what is missing, and say what could not be."""
    missing = [PACKAGES[each] for each in PACKAGES if not is_there(each)]
    if missing and shutil.which("apt-get") is not None and os.geteuid() == 0:
        environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
        subprocess.run(["apt-get", "update", "--quiet=2"], check=False, env=environment)
        for package in missing:
            command = ["apt-get", "install", "--yes", "--quiet=2", "--no-install-recommends", package]
            subprocess.run(command, check=False, env=environment, stdout=subprocess.DEVNULL)
    left = [each for each in PACKAGES if not is_there(each)]
    print(f"engines from Debian: {len(PACKAGES) - len(left)} of {len(PACKAGES)}", end="")
    print(f"; not here: {', '.join(left)}" if left else "")


if __name__ == "__main__":
    main()
