"""What a process of the command line goes without when it begins and ends, and that nobody misses it."""

from __future__ import annotations

import inspect
import re
import subprocess
import sys
from gettext import ngettext
from typing import TYPE_CHECKING

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.lean import PUT_OFF, compiled_later

if TYPE_CHECKING:
    from pathlib import Path

PROCESS = """
import atexit, sys, threading, time
sys.argv = ["fieldstick", *{call!r}]
import fieldstick.start
atexit.register(lambda: print(*[each for each in {asked!r} if each in sys.modules], "at the end"))
threading.Thread(target=lambda: (time.sleep(0.2), print("a thread"))).start()
fieldstick.start.main()
"""

ASKED = """
import sys
import fieldstick.start
from fieldstick.lean import PUT_OFF, UNTYPED, leanly
with leanly(PUT_OFF, UNTYPED):
    import click, msgspec
    from textwrap import dedent
print(*["inspect" in sys.modules, "msgspec.inspect" in sys.modules, dedent("  a")])
print(click.core.inspect.isfunction(print), msgspec.json.schema(int), msgspec.inspect.type_info(int))
import inspect, msgspec.inspect, typing_extensions
print(inspect.signature(inspect.cleandoc), click.core.inspect.cleandoc is not inspect.cleandoc)
"""


def ran(script: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=False)


@pytest.mark.parametrize(("call", "status", "said"), [(["--version"], 0, "fieldstick "), (["select"], 2, "")])
def test_the_program_begins_without_what_it_does_not_need_and_ends_when_all_is_done(
    call: list[str], status: int, said: str
) -> None:
    done = ran(PROCESS.format(call=call, asked=("inspect", "platform", "textwrap", "typing_extensions")))
    assert done.returncode == status
    lines = done.stdout.splitlines()
    assert lines[-1] == "at the end" and "a thread" in lines
    assert len(lines) == (3 if said else 2) and any(each.startswith(said) for each in lines)


def test_a_short_option_has_none_like_it_looked_for_and_its_value_right_behind_it(tmp_path: Path) -> None:
    (tmp_path / "a.log").write_text("a=1\n=2\n")
    done = ran(PROCESS.format(call=["select", "-e=2", str(tmp_path / "a.log")], asked=("difflib", "signal")))
    assert done.returncode == 0 and done.stderr == "read 2 texts: 1 fits; 1 does not\n"
    assert sorted(done.stdout.splitlines()) == ["=2", "a thread", "at the end"]


def test_what_is_put_off_is_there_for_whoever_asks_for_it() -> None:
    done = ran(ASKED)
    assert done.returncode == 0, done.stderr
    first, second, third = done.stdout.splitlines()
    assert first == "False False a"
    assert second == "False {'type': 'integer'} IntType(gt=None, ge=None, lt=None, le=None, multiple_of=None)"
    assert third == f"{inspect.signature(inspect.cleandoc)} True"


@given(st.text(" \tab\n"), st.integers(0, 3))
def test_what_is_given_for_them_says_the_same(text: str, count: int) -> None:
    assert PUT_OFF["inspect"]["cleandoc"](text) == inspect.cleandoc(text)
    assert PUT_OFF["gettext"]["ngettext"]("one", "more", count) == ngettext("one", "more", count)


def test_an_expression_is_compiled_when_it_is_asked() -> None:
    wrong = compiled_later("(")
    with pytest.raises(re.error):
        wrong.pattern  # noqa: B018
    number = compiled_later(r"(?P<sign>-)?\d+", re.ASCII)
    assert [found["sign"] for found in number.finditer("4 -5")] == [None, "-"]
    assert (number.sub("n", "a 7"), number.groupindex, number.flags) == ("a n", {"sign": 1}, re.ASCII)
