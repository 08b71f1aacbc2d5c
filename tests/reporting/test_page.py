"""The page of a check holds what the check found, safe whatever its texts hold, and is read without a script."""

from __future__ import annotations

import re
import shutil
import subprocess
import xml.etree.ElementTree as ET
from html.parser import HTMLParser
from typing import TYPE_CHECKING

import pytest
from test_outputs import TEXTS, result_of

from fieldstick.reporting.as_markdown import check_as_markdown
from fieldstick.reporting.page import LONGEST_TEXT, check_as_page

if TYPE_CHECKING:
    from pathlib import Path

    from conftest import Desk

HOSTILE = [
    *TEXTS,
    "</pre><script>alert(1)</script>",
    "{{ 7*7 }}{% raw %}",
    '" onfocus="x',
    "<!--",
    "a" * 100_000 + "</p>",
]
VOID = {"meta", "br", "hr", "img", "link", "input"}
SUITE = """
about = "<b>Loggers & traps</b>"
[patterns.probe]
about = '<img src=x onerror="x">'
expression = 'probe=(?P<plot>[A-F]\\d{2}) moisture=(?P<moisture>\\d+\\.\\d)'
fields.moisture = { type = "decimal", unit = "$%$", least = 0, most = 60 }
positive = ['probe=B07 moisture=31.4', 'probe=<b>']
[[trials]]
data = "may.log"
patterns = ["probe"]
note = "<i>May</i>"
"""


class _Reader(HTMLParser):
    """Reads a page into its tags and its text; fails where tags do not close as they open."""

    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.open: list[str] = []
        self.tags: list[tuple[str, dict[str, str | None]]] = []
        self.text = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.append((tag, dict(attrs)))
        if tag not in VOID:
            self.open.append(tag)

    def handle_startendtag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.append((tag, dict(attrs)))

    def handle_endtag(self, tag: str) -> None:
        assert self.open and self.open.pop() == tag, (tag, self.open)

    def handle_data(self, data: str) -> None:
        if self.open[-1:] != ["style"]:
            self.text += data


def read(page: str) -> _Reader:
    reader = _Reader()
    reader.feed(page)
    assert not reader.open
    return reader


def page_of(desk: Desk, *options: str) -> str:
    desk.suite(SUITE)
    desk.write("may.log", "".join(f"probe=B07 moisture={n}.5\n" for n in range(90)))
    run = desk.run("report", "--to", "page.html", *options)
    assert run.status == 1, run.err
    return (desk.folder / "page.html").read_text(encoding="utf-8")


def test_the_page_says_what_the_check_found(desk: Desk) -> None:
    page = page_of(desk)
    reader = read(page)
    assert "Of 2 samples, 1 fails" in reader.text and "<b>Loggers & traps</b>" in reader.text
    assert "probe=B07 moisture=31.4" in reader.text and "├─┤          ├──┤" in reader.text
    titles = [each.get("aria-label") or "" for tag, each in reader.tags if tag == "figure"]
    assert [title.partition(":")[0] for title in titles] == [
        "Outcomes by suite",
        "Share of fitting texts by trial",
        "Time by pattern",
        "loggers",
    ]
    # What lies beyond its bounds is counted: 30 of the 90 lines.
    assert "90 values from 0.5 to 89.5 in may.log; bounds 0 to 60, 30 beyond" in titles[3]


def test_the_page_needs_nothing_and_runs_nothing(desk: Desk) -> None:
    reader = read(page_of(desk))
    assert not {tag for tag, _ in reader.tags} & {"script", "link", "img", "iframe", "object", "b", "i"}
    attributes = [(key, value or "") for _, each in reader.tags for key, value in each.items()]
    assert not [key for key, _ in attributes if key.startswith("on")]
    assert all(value.startswith("#") for key, value in attributes if key in ("href", "src", "xlink:href"))
    ids = [value for key, value in attributes if key == "id"]
    assert len(ids) == len(set(ids))
    used = {value[1:] for key, value in attributes if key in ("href", "xlink:href")}
    used |= {found for key, value in attributes if key == "aria-labelledby" for found in [value]}
    used |= {found for _, value in attributes for found in re.findall(r"url\(#([^)]+)\)", value)}
    assert used <= set(ids)


def test_charts_are_svg_in_the_colours_of_the_page(desk: Desk) -> None:
    found = re.findall(r"<svg .*?</svg>", page_of(desk), flags=re.DOTALL)
    assert len(found) == 4
    for svg in found:
        ET.fromstring(svg)
        assert "var(--" in svg and not re.search(r"#0[1-9]0[1-9]0[1-9]", svg)
        assert "$%$" in svg or "moisture" not in svg


def test_no_text_breaks_the_page(desk: Desk) -> None:
    result = result_of(desk, HOSTILE)
    page = check_as_page(result)
    reader = read(page)
    assert "script" not in {tag for tag, _ in reader.tags} and "<script>alert(1)</script>" in reader.text
    assert not re.search("[\x00-\x08\x0b-\x1f\x7f\ud800-\udfff\u202e]", page)
    assert "{{ 7*7 }}{% raw %}" in reader.text and "a" * (LONGEST_TEXT + 1) not in reader.text
    assert "more characters" in reader.text
    page.encode("utf-8")
    head, _, body = check_as_markdown(result).partition("<details>")
    assert "<script" not in head and body.count("</details>\n") == 1


def test_a_page_of_shares_over_recorded_runs(desk: Desk) -> None:
    page_of(desk)
    for _ in range(3):
        desk.run("check", "--record", "runs.db")
    reader = read(page_of(desk, "--database", "runs.db"))
    titles = [(each.get("aria-label") or "").partition(":")[0] for _, each in reader.tags]
    assert {"Share of fitting texts by trial over 3 runs", "Samples that pass over 3 runs"} <= set(titles)


def test_where_it_is_written_is_asked_for_and_nothing_is_left_half_done(desk: Desk) -> None:
    desk.suite(SUITE)
    assert "--to FILE.html" in desk.run("report").err
    desk.write("may.log", "x\n")
    assert desk.run("report", "--format", "markdown").out.startswith("**Of 2 samples, 1 fails")
    run = desk.run("report", "--to", "no/such/page.html")
    assert run.status == 2 and "no/such" in run.err and not (desk.folder / "no").exists()


@pytest.mark.skipif(shutil.which("chromium") is None, reason="Chromium is not installed")
def test_a_page_of_hostile_texts_in_a_browser_fits_a_narrow_window(desk: Desk, tmp_path: Path) -> None:
    page = check_as_page(result_of(desk, HOSTILE))
    measure = "<script>document.title = [document.documentElement.scrollWidth, innerWidth].join(' of ')</script>"
    for width in (400, 1280):
        (tmp_path / "page.html").write_text(page.replace("</body>", f"{measure}</body>"), encoding="utf-8")
        # A window is never narrower than 500; a frame is.
        frame = (
            f"<iframe src='page.html' width={width} height=800 onload='document.title = this.contentDocument.title'>"
        )
        (tmp_path / "frame.html").write_text(f"<body style='margin:0'>{frame}</iframe>", encoding="utf-8")
        done = subprocess.run(
            [
                "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
                "--disable-background-networking", "--disable-component-update", "--disable-sync",
                "--allow-file-access-from-files", f"--user-data-dir={tmp_path / 'profile'}", "--dump-dom",
                f"file://{tmp_path / 'frame.html'}",
            ],
            capture_output=True, text=True, timeout=100, check=True,
        )  # fmt: skip
        (found,) = re.findall(r"<title>(\d+) of (\d+)</title>", done.stdout)
        assert int(found[0]) <= int(found[1]) == width
