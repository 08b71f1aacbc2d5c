"""A real browser, driven by the WebDriver protocol (W3C) of its driver; skipped by name where it is not here."""

from __future__ import annotations

import json
import shutil
import subprocess
import urllib.request
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

import pytest

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

_FLAGS = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
)  # fmt: skip
_ELEMENT = "element-6066-11e4-a52e-4f735466cecf"
"""The key that stands for an element in what is sent (WebDriver, 12.2)."""


class Page:
    """A page in the browser."""

    def __init__(self, session: str) -> None:
        self._session = session

    def ask(self, path: str, **given: Any) -> Any:
        """Send a command of the protocol, and return its value."""
        request = urllib.request.Request(
            f"{self._session}/{path}", json.dumps(given).encode(), {"Content-Type": "application/json"}
        )
        with urllib.request.urlopen(request) as answer:
            return json.load(answer)["value"]

    def get(self, path: str) -> Any:
        """Ask for something that the browser has, a screenshot say."""
        with urllib.request.urlopen(f"{self._session}/{path}") as answer:
            return json.load(answer)["value"]

    def leave(self) -> None:
        """End the session, and the browser with it."""
        urllib.request.urlopen(urllib.request.Request(self._session, method="DELETE")).close()

    def run(self, script: str, *arguments: Any) -> Any:
        """Run a script in the page."""
        return self.ask("execute/sync", script=script, args=list(arguments))

    def type_into(self, name: str, text: str) -> None:
        """Clear the input of a name, and type a text into it."""
        found = self.ask("element", using="css selector", value=f"input[name={json.dumps(name)}]")[_ELEMENT]
        self.ask(f"element/{found}/clear")
        if text:
            self.ask(f"element/{found}/value", text=text)


@contextmanager
def opened(file: Path) -> Iterator[Page]:
    """Open a file in a headless Chromium."""
    driver, chromium = shutil.which("chromedriver"), shutil.which("chromium")
    if driver is None or chromium is None:
        pytest.skip("chromium and chromedriver are not here")
    process = subprocess.Popen([driver, "--port=0"], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
    assert process.stdout is not None
    try:
        line = next(line for line in process.stdout if "successfully on port" in line)
        port = "".join(filter(str.isdigit, line.rpartition("on port")[2]))
        options = {"binary": chromium, "args": [*_FLAGS, f"--user-data-dir={file.parent / 'profile'}"]}
        driver_page = Page(f"http://127.0.0.1:{port}")
        made = driver_page.ask("session", capabilities={"alwaysMatch": {"goog:chromeOptions": options}})
        page = Page(f"http://127.0.0.1:{port}/session/{made['sessionId']}")
        page.ask("url", url=file.as_uri())
        try:
            yield page
        finally:
            page.leave()
    finally:
        process.kill()
        process.wait()
        process.stdout.close()
