"""What a process of the command line goes without when it begins and ends, and that nobody misses it."""

from __future__ import annotations

import datetime
import importlib.util
import inspect
import os
import py_compile
import re
import shutil
import subprocess
import sys
from gettext import ngettext
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.lean import PUT_OFF, compiled_later

PROCESS = """
import atexit, sys, threading, time
sys.argv = ["fieldstick", *{call!r}]
import fieldstick.start
atexit.register(lambda: print(*[each for each in {asked!r} if each in sys.modules], "at the end"))
threading.Thread(target=lambda: (time.sleep(0.2), sys.stdout.write("a thread\\n"))).start()
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


TIMED = """
import sys
import fieldstick.start
from fieldstick.lean import spare_datetime
spare_datetime()
import datetime, pickle
from datetime import UTC, datetime as moment
at = moment(2026, 5, 4, 6, 10, tzinfo=UTC)
same = pickle.loads(pickle.dumps(at)) == at == moment.strptime("2026-05-04 06:10+0000", "%Y-%m-%d %H:%M%z")
print("_pydatetime" in sys.modules, at, same and datetime.datetime is moment)
print(*vars(datetime))
"""


REFERRED = """
import typing
import fieldstick.start
from fieldstick.lean import spare_compiling
before = typing.Union["int", "Nothing", str]
spare_compiling()
held = typing.Union["int", "Nothing", bytes]
print(held.__args__[:2] == before.__args__[:2], type(held.__args__[0].__forward_code__).__name__)
class Described:
    one: held.__args__[0]
print(typing.get_type_hints(Described))
Described.__annotations__["two"] = held.__args__[1]
try:
    typing.get_type_hints(Described)
except NameError as error:
    print(error)
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


@pytest.mark.skipif(sys.version_info >= (3, 14), reason="Python compiles none there")
def test_references_to_types_are_compiled_once_they_are_evaluated() -> None:
    done = ran(REFERRED)
    assert done.stdout.splitlines() == ["True str", "{'one': <class 'int'>}", "name 'Nothing' is not defined"], done


@pytest.mark.skipif(sys.version_info >= (3, 12), reason="Python has one of them there")
def test_the_time_has_all_that_it_has_otherwise() -> None:
    done = ran(TIMED)
    assert done.returncode == 0, done.stderr
    first, second = done.stdout.splitlines()
    assert first == "False 2026-05-04 06:10:00+00:00 True"
    names = {each for each in vars(datetime) if not each.startswith("_") and each != "sys"}
    assert names <= set(second.split())


OWN = """
import sys
sys.path.insert(0, {folder!r})
import fieldstick.start
from fieldstick.own_modules import find_own_modules
find_own_modules()
import fieldstick.data.batch as batch, fieldstick.data as data, fieldstick.kernels.walkers as walkers
from importlib import resources
print(batch.Batch.__module__, batch.__file__, *data.__path__, walkers.__package__)
print(type(batch.__loader__).__name__, batch.__cached__[-4:], (resources.files(data) / "batch.py").is_file())
print(getattr(batch, "SAID", None))
try:
    import fieldstick.nothing
except ImportError as error:
    print(error)
"""


SHORT = """
import fieldstick.own_modules as own
read = own.os.read
own.os.read = lambda opened, most: read(opened, min(most, 60))
"""


def test_own_modules_are_found_and_what_was_compiled_of_them_is_used_while_it_is_of_what_they_are(
    tmp_path: Path,
) -> None:
    package = Path(inspect.getfile(compiled_later)).parent
    folder = tmp_path / "lib" / "fieldstick"
    shutil.copytree(package, folder, ignore=shutil.ignore_patterns("__pycache__", "demo", "shelf"))
    script = OWN.format(folder=str(folder.parent))
    module = folder / "data" / "batch.py"
    expected = [
        f"fieldstick.data.batch {module} {module.parent} fieldstick.kernels",
        "_OwnLoader .pyc True",
        "None",
        "No module named 'fieldstick.nothing'",
    ]
    assert ran(script).stdout.splitlines() == expected
    compiled = Path(importlib.util.cache_from_source(str(module)))
    py_compile.compile(str(module), str(compiled))
    whole, before = compiled.read_bytes(), module.stat()
    # What was compiled is used without a look at the source, as long as its time and size are the same.
    other = tmp_path / "batch.py"
    other.write_text(module.read_text() + 'SAID = "compiled"\n')
    py_compile.compile(str(other), str(tmp_path / "other.pyc"))
    compiled.write_bytes(whole[:16] + (tmp_path / "other.pyc").read_bytes()[16:])
    assert ran(script).stdout.splitlines() == [*expected[:2], "compiled", expected[3]]
    for wrong in (b"", whole[:9], bytes(16) + whole[16:]):
        compiled.write_bytes(wrong)
        assert ran(script).stdout.splitlines() == expected
    compiled.write_bytes(whole)
    short = script.replace("find_own_modules()\n", f"find_own_modules()\n{SHORT}", 1)
    assert short != script and ran(short).stdout.splitlines() == expected
    module.write_text(module.read_text() + 'SAID = "later"\n')
    os.utime(module, ns=(before.st_atime_ns, before.st_mtime_ns))
    assert ran(script).stdout.splitlines() == [*expected[:2], "later", expected[3]]


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
