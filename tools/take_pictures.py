"""Takes the pictures of docs/screenshots: real commands on the demo data, in a terminal on a virtual screen.

Needs Xvfb, xterm, tmux, ImageMagick and Chromium (Debian: xvfb, xterm, tmux, imagemagick, fonts-dejavu, chromium).
Usage: python tools/take_pictures.py [NAME ...], all of them when none is named.
"""

from __future__ import annotations

import os
import shlex
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
TARGET = ROOT / "docs" / "screenshots"
SCREEN = "1280x800x24"
DISPLAY = ":77"
WINDOW = [
    "xterm", "-geometry", "127x39+0+0", "-fa", "DejaVu Sans Mono", "-fs", "12",
    "-bg", "#14181c", "-fg", "#d8dde2", "-u8", "+sb", "-b", "4",
]  # fmt: skip
LONG = {"engines", "help", "survey"}
SMALL = ["-geometry", "158x53+0+0", "-fs", "9"]
"""What has more lines than a window of the usual letters, and the window for it."""

LAY_OUT = "import sys, pathlib; from fieldstick.demo.story import lay_out; lay_out(pathlib.Path(sys.argv[1]))"

TIGHTEN = (
    r"""sed -i 's/frame=(?P<frame>\\d{6}) "(?P<beast>{{beast}})"/"""
    r"""frame=0*(?P<frame>\\d{1,6}) "(?P<beast>\\w+)"/' loggers.suite.toml"""
)

COMMITTED = "git init -q . && git add -A && git -c user.name=desk -c user.email=desk commit -qm all"
COMPARED = (
    f"{COMMITTED}; "
    """sed -i "s/^plot = .*/plot = '[A-F][0-4][0-9]'/" common.suite.toml; """
    r"""sed -i 's/(?P<low> LOW)/(?P<weak> LOW)/; s/fields = { low = /fields = { weak = /; """
    r"""s/absent = \["low"\]/absent = ["weak"]/; s/2.5, most = 4.3/2.5, most = 3.6/' loggers.suite.toml"""
)
LOST = r"""sed -i 's/volts>.d...d{2})V/volts>[23]\\.\\d{2})V/' loggers.suite.toml"""

PROGRAM = shlex.quote(str(Path(sys.executable).with_name("fieldstick")))
RECORD = f"{PROGRAM} check --record runs.db >/dev/null 2>&1 || true;"
CHANGES = ("4.2", "4.3", "3.9", "4.3", "4.3", "3.6")
RECORDED = "git init -q . && git add -A && git -c user.name=desk -c user.email=desk commit -qm all; " + " ".join(
    f"sed -i 's/2.5, most = [0-9.]*/2.5, most = {most}/' loggers.suite.toml; {RECORD}" for most in CHANGES
)

PERMITS = "data/permits-2026.csv"
THEN = "THEN"
"""Parts the arguments of two commands of one picture."""

LABEL, STRICTER = r"LMF-[SPB]-\d{6}(?:/\d{1,2})?", r"LMF-[SPB]-\d{6}(?:/[2-9]|/[1-9]\d)?"
HAZARDOUS = r"""sed -i "s/^beast = .*/beast = '(?:[a-z]+ ?)+'/" loggers.suite.toml; """ + (
    r"""sed -i 's/order = \["probe-reading"/order = ["any-line", "probe-reading"/' loggers.suite.toml"""
)
DRAFT = r"probe=(?P<plot>[A-F]\d\d) moisture=(?P<moisture>\d+.\d)%"

DAY_PASS = """cat > web.suite.toml <<'END'
format = 1
suite = "web"
[patterns.day-pass]
expression = 'D\\d{3}'
engines = ["python", "pcre2", "ecmascript"]
positive = ['D417']
negative = ['D41', 'D٤١٧']
END"""

PICTURES: dict[str, tuple[str, list[str]]] = {
    "check": (TIGHTEN, ["check", "--no-trials"]),
    "compare": (COMPARED, ["compare", "HEAD", "--no-trials", "--only", "loggers:battery"]),
    "gaps": ("true", ["gaps", "records:specimen-number", "--show", "6"]),
    "hazards": (HAZARDOUS, ["hazards"]),
    "trial": (LOST, ["check", "loggers.suite.toml"]),
    "history": (RECORDED, ["history", "--database", "runs.db"]),
    "survey": (
        "true",
        [
            *("survey", "data/loggers-2026-05.log", "--kinds", "3", "--top", "1", THEN),
            *("propose", "data/loggers-2026-05.log", "--kinds", "2", "--keep", "kind", "--suite", "may.suite.toml"),
        ],
    ),
    "try": ("true", ["try", DRAFT, "data/loggers-2026-05.log", "--reach", "anywhere", "--show", "5"]),
    "explain": ("true", ["explain", "records:species"]),
    "why": ("true", ["why", "loggers:probe-reading", "2026-05-04T06:10:00Z probe=B07 moisture=31% soil=8.2C"]),
    "rewrite": ("true", ["rewrite", "notes:blur-position", "data/field-notes.txt"]),
    "validate": ("true", ["validate", PERMITS, "--form", "permits:permit", "--show", "4"]),
    "route": ("true", ["route", "loggers:line-kind", "data/loggers-2026-05.log", "--into", "kinds"]),
    "extract": (
        "true",
        [
            *("extract", "notes:positions", "notes:masses", "data/field-notes.txt"),
            *("--with-place", "--limit", "7", THEN),
            *("extract", "loggers:probe-reading", "data/loggers-2026-05.log", "--summary"),
        ],
    ),
    "engines": (DAY_PASS, ["engines", THEN, "check", "web.suite.toml"]),
    "help": ("true", ["--help"]),
}
"""Name → what is done to the demo's files first, and the command that is shown."""


def take(name: str, prepare: str, arguments: list[str]) -> None:
    """Run a command in a terminal window and save the window."""
    program = Path(sys.executable).with_name("fieldstick")
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run([sys.executable, "-c", LAY_OUT, folder], check=True)
        subprocess.run(prepare, shell=True, cwd=folder, check=True)
        script = "clear"
        for part in shlex.join(arguments).split(f" {THEN} "):
            shown = shlex.quote(f"$ fieldstick {part}")
            script += f"; echo {shown}; {shlex.quote(str(program))} {part}"
        ended = Path(folder, ".ended")
        script += f"; touch {shlex.quote(str(ended))}; sleep 30"
        environment = {**os.environ, "DISPLAY": DISPLAY, "LC_ALL": "C.UTF-8"}
        environment.pop("NO_COLOR", None)
        small = SMALL if name in LONG else []
        terminal = subprocess.Popen([*WINDOW, *small, "-e", "bash", "-c", script], cwd=folder, env=environment)
        for _ in range(120):
            if ended.exists():
                break
            time.sleep(0.5)
        time.sleep(1)
        subprocess.run(f"import -window root '{TARGET / name}.png'", shell=True, env=environment, check=True)
        terminal.kill()
        terminal.wait()


def take_draft() -> None:
    """Type at the live view in a terminal and save the window."""
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run([sys.executable, "-c", LAY_OUT, folder], check=True)
        environment = {**os.environ, "DISPLAY": DISPLAY, "LC_ALL": "C.UTF-8", "TERM": "xterm-256color"}
        tmux = ["tmux", "-L", "picture", "-2", "-u"]
        program = f"{PROGRAM} draft data/loggers-2026-05.log --reach anywhere"
        typed = (r"probe=(?P<plot>[A-F]\d\d) ", r"moisture=(?P<moisture>\d+\.\d)%")
        subprocess.run(
            [*tmux, "new-session", "-d", "-x", "127", "-y", "39", program, ";", "set", "status", "off"],
            cwd=folder, env=environment, check=True,
        )  # fmt: skip
        terminal = subprocess.Popen([*WINDOW, "-e", *tmux, "attach"], env=environment)
        time.sleep(4)
        for keys in (["-l", typed[0]], ["-l", typed[1]], ["F3"], ["F5"], ["Left"], ["Left"]):
            subprocess.run([*tmux, "send-keys", *keys], check=True)
            time.sleep(1.5)
        subprocess.run(f"import -window root '{TARGET / 'draft.png'}'", shell=True, env=environment, check=True)
        subprocess.run([*tmux, "kill-server"], check=False)
        terminal.kill()
        terminal.wait()


def take_page() -> None:
    """Write a report and save what a browser shows of it."""
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run([sys.executable, "-c", LAY_OUT, folder], check=True)
        subprocess.run(RECORDED, shell=True, cwd=folder, check=False)
        program = Path(sys.executable).with_name("fieldstick")
        subprocess.run([str(program), "report", "--database", "runs.db", "--to", "page.html"], cwd=folder, check=False)
        browser = [
            "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
            "--disable-background-networking", "--disable-component-update", "--disable-sync", "--hide-scrollbars",
            f"--user-data-dir={folder}/profile", "--window-size=1280,800", f"--screenshot={TARGET / 'report.png'}",
        ]  # fmt: skip
        subprocess.run([*browser, f"file://{folder}/page.html"], check=True, stderr=subprocess.DEVNULL)


TYPED = {
    "Permit code": "lm-2026-0417-r",
    "Leader": "Hazel Quarrie",
    "Heads": "140",
    "First day": "4/5/2026",
    "Load": "1.240,5 kg",
    "Gate": "north",
}


def take_form() -> None:
    """Hand the permit form over, type into it in a browser, and save what that shows."""
    sys.path.insert(0, str(ROOT / "tests" / "handover"))
    import base64

    from browser import opened

    with tempfile.TemporaryDirectory() as folder:
        subprocess.run([sys.executable, "-c", LAY_OUT, folder], check=True)
        program = Path(sys.executable).with_name("fieldstick")
        command = [str(program), "handover", "permits:permit", "--as", "html", "--to", "permit.html"]
        subprocess.run(command, cwd=folder, check=True, stderr=subprocess.DEVNULL)
        with opened(Path(folder) / "permit.html") as page:
            page.ask("window/rect", width=1280, height=940)
            for name, text in TYPED.items():
                page.type_into(name, text)
            page.run("document.activeElement.blur(); window.scrollTo(0, 0)")
            (TARGET / "handover.png").write_bytes(base64.b64decode(page.get("screenshot")))


def main() -> None:
    """Take the pictures named, or all."""
    TARGET.mkdir(parents=True, exist_ok=True)
    screen = subprocess.Popen(["Xvfb", DISPLAY, "-screen", "0", SCREEN], stderr=subprocess.DEVNULL)
    time.sleep(1)
    try:
        for name in sys.argv[1:] or [*PICTURES, "report", "draft", "handover"]:
            if name in ("report", "draft", "handover"):
                {"report": take_page, "draft": take_draft, "handover": take_form}[name]()
            else:
                take(name, *PICTURES[name])
    finally:
        screen.kill()
        screen.wait()


if __name__ == "__main__":
    main()
