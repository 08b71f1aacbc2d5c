"""Runs what is handed over in the languages that are installed here; a language that is not is skipped by its name."""

from __future__ import annotations

import glob
import os
import shutil
import subprocess
import sys
from typing import TYPE_CHECKING

import pytest

if TYPE_CHECKING:
    from pathlib import Path

JUNIT = (
    "junit-jupiter-api",
    "junit-jupiter-engine",
    "junit-platform-console",
    "junit-platform-commons",
    "junit-platform-engine",
    "junit-platform-launcher",
    "junit-platform-reporting",
    "opentest4j",
    "apiguardian-api",
    "picocli",
)
"""What a test of JUnit 5 needs to be run, as Debian names it."""

LANGUAGES = ("python", "javascript", "java", "go", "php", "ruby")


def skip_without(*programs: str) -> None:
    """Skip the test where a program is not installed."""
    for each in programs:
        if shutil.which(each) is None:
            pytest.skip(f"{each} is not here")


def run_tests(language: str, folder: Path) -> subprocess.CompletedProcess[str]:
    """Run the tests of a folder as the language's own people do."""
    match language:
        case "python":
            command = [sys.executable, "-m", "unittest"]
        case "javascript":
            skip_without("node")
            command = ["node", "--test"]
        case "java":
            return _run_java(folder)
        case "go":
            skip_without("go")
            (folder / "go.mod").write_text("module patterns\n\ngo 1.19\n")
            command = ["go", "test", "./..."]
        case "php":
            skip_without("phpunit")
            command = ["phpunit", "--no-configuration", "."]
        case _:
            skip_without("ruby")
            command = ["ruby", "-e", "Dir['./test_*.rb'].each { |each| require each }"]
    return _run(command, folder)


def _run_java(folder: Path) -> subprocess.CompletedProcess[str]:
    skip_without("javac", "java")
    jars = [f"/usr/share/java/{each}.jar" for each in JUNIT]
    if not all(map(os.path.exists, jars)):
        pytest.skip("junit5 is not here")
    path = os.pathsep.join([*jars, "."])
    made = _run(["javac", "-encoding", "UTF-8", "-cp", path, *glob.glob("*.java", root_dir=folder)], folder)
    if made.returncode:
        return made
    launcher = "org.junit.platform.console.ConsoleLauncher"
    return _run(["java", "-cp", path, launcher, "--scan-classpath", "--disable-banner", "--details=tree"], folder)


def _run(command: list[str], folder: Path) -> subprocess.CompletedProcess[str]:
    environment = {**os.environ, "GOFLAGS": "-mod=mod", "GOPROXY": "off"}
    return subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False, env=environment)
