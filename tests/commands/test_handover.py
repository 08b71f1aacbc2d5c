"""A pattern handed over: the language reads the literal back as what was meant, and what is not carried is named."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
import tomllib
import xml.etree.ElementTree as ET
from typing import TYPE_CHECKING

import pytest
import yaml

from fieldstick.engines.registry import engine_named, why_unusable
from fieldstick.handover.literals import LITERALS

if TYPE_CHECKING:
    from conftest import Desk

# Quotes of every kind, a dollar, a hash, a slash, braces, a backslash, a tab, and characters beyond ASCII and the BMP.
EXPRESSION = r"""(?P<mark>['"`´’])\\\$#\{/~%@\t🐦′-[ab\]]&<x>|a#\{1"""
FITS = ["'\\$#{/~%@\t🐦′-]&<x>", "`\\$#{/~%@\t🐦′-a&<x>", "a#{1"]
NOT = ["'\\$#{/~%@ 🐦′-]&<x>", "a#{1\n", "xa#{1", "a#{"]

PROGRAMS = {
    "javascript": ("node", "-e", "const p = {};for (const t of {}) console.log(p.test(t) ? 1 : 0)"),
    "ruby": ("ruby", "-e", "p = {}\n{}.each {{ |t| puts(p.match?(t) ? 1 : 0) }}"),
    "php": ("php", "-r", "$p = {};foreach (json_decode('{}') as $t) echo preg_match($p, $t), \"\\n\";"),
    "perl": ("perl", "-e", 'my $p = {};use utf8;for my $t ({}) {{ print $t =~ $p ? 1 : 0, "\\n" }}'),
}


def pattern(desk: Desk) -> None:
    expression, fits, others = (json.dumps(each, ensure_ascii=False) for each in (EXPRESSION, FITS, NOT))
    desk.suite(f"[patterns.odd]\nexpression = {expression}\npositive = {fits}\nnegative = {others}\n")


def literal(desk: Desk, kind: str) -> str:
    run = desk.run("handover", "loggers:odd", "--as", kind)
    assert run.status == 0, run.err
    return run.out.removesuffix("\n")


@pytest.mark.parametrize("kind", sorted(PROGRAMS))
def test_a_literal_is_read_back_by_its_language(desk: Desk, kind: str) -> None:
    program, option, script = PROGRAMS[kind]
    if shutil.which(program) is None:
        pytest.skip(f"{program} is not here")
    pattern(desk)
    if kind == "perl":
        texts = ", ".join('"' + "".join(f"\\x{{{ord(each):x}}}" for each in text) + '"' for text in (*FITS, *NOT))
    elif kind == "php":
        texts = json.dumps([*FITS, *NOT]).replace("\\", "\\\\").replace("'", "\\'")
    else:
        texts = json.dumps([*FITS, *NOT], ensure_ascii=kind != "ruby").replace("#", "\\u0023")
    made = script.replace("{}", literal(desk, kind), 1).replace("{}", texts).replace("{{", "{").replace("}}", "}")
    if kind == "perl":
        made = f"use utf8; {made}"
    ran = subprocess.run([program, option, made], capture_output=True, check=False)
    assert ran.stdout.split() == [b"1"] * len(FITS) + [b"0"] * len(NOT), (made, ran.stderr)


def test_a_literal_of_java_is_read_back_by_java(desk: Desk) -> None:
    if shutil.which("java") is None:
        pytest.skip("java is not here")
    pattern(desk)
    texts = ", ".join(json.dumps(text) for text in (*FITS, *NOT))
    body = f"Pattern p = {literal(desk, 'java')}; for (String t : new String[] {{ {texts} }}) "
    desk.write(
        "Tried.java",
        "import java.util.regex.*; public class Tried { public static void main(String[] given) {"
        f"{body} System.out.println(p.matcher(t).find() ? 1 : 0); }} }}",
    )
    command = ["java", "-Dfile.encoding=UTF-8", "Tried.java"]
    ran = subprocess.run(command, cwd=desk.folder, capture_output=True, check=False)
    assert ran.stdout.split() == [b"1"] * len(FITS) + [b"0"] * len(NOT), ran.stderr


def test_a_literal_of_kotlin_is_read_back_by_kotlin(desk: Desk) -> None:
    if shutil.which("kotlinc") is None:
        pytest.skip("kotlinc is not here")
    pattern(desk)
    texts = ", ".join(json.dumps(text).replace("$", "\\$") for text in (*FITS, *NOT))
    desk.write(
        "tried.kts",
        f"val p = {literal(desk, 'kotlin')}\nfor (t in listOf({texts})) println(if (p.containsMatchIn(t)) 1 else 0)\n",
    )
    ran = subprocess.run(["kotlinc", "-script", "tried.kts"], cwd=desk.folder, capture_output=True, check=False)
    assert ran.stdout.split()[-7:] == [b"1"] * len(FITS) + [b"0"] * len(NOT), ran.stderr


def test_a_literal_of_typescript_is_read_back_by_its_compiler_and_node(desk: Desk) -> None:
    if shutil.which("tsc") is None or shutil.which("node") is None:
        pytest.skip("tsc or node is not here")
    pattern(desk)
    texts = json.dumps([*FITS, *NOT])
    desk.write(
        "tried.ts",
        f"const p: RegExp = {literal(desk, 'typescript')};\nfor (const t of {texts}) console.log(p.test(t) ? 1 : 0);\n",
    )
    made = subprocess.run(
        ["tsc", "--strict", "--target", "es2020", "tried.ts"], cwd=desk.folder, capture_output=True, check=False
    )
    assert made.returncode == 0, made.stdout
    ran = subprocess.run(["node", "tried.js"], cwd=desk.folder, capture_output=True, check=False)
    assert ran.stdout.split() == [b"1"] * len(FITS) + [b"0"] * len(NOT), ran.stderr


def test_a_literal_of_csharp_is_read_back_by_mono(desk: Desk) -> None:
    if shutil.which("csharp") is None:
        pytest.skip("csharp is not here")
    pattern(desk)
    assert "a character beyond U+FFFF is two to dotnet" in desk.run("handover", "loggers:odd", "--as", "csharp").err
    # What is two characters there is left out.
    expression, fits, others = (
        json.dumps(each, ensure_ascii=False).replace("🐦", "é") for each in (EXPRESSION, FITS, NOT)
    )
    desk.suite(f"[patterns.odd]\nexpression = {expression}\npositive = {fits}\nnegative = {others}\n")
    texts = ", ".join(json.dumps(text).replace("🐦", "é") for text in json.loads(fits) + json.loads(others))
    desk.write(
        "tried.cs",
        f"using System.Text.RegularExpressions;\nRegex p = {literal(desk, 'csharp')};\n"
        f"foreach (string t in new string[] {{ {texts} }}) Console.WriteLine(p.IsMatch(t) ? 1 : 0);\n",
    )
    ran = subprocess.run(["csharp", "tried.cs"], cwd=desk.folder, capture_output=True, check=False)
    assert ran.stdout.split() == [b"1"] * len(FITS) + [b"0"] * len(NOT), (ran.stdout, ran.stderr)


def test_a_literal_of_sqlite_asks_for_whole_values(desk: Desk) -> None:
    if shutil.which("sqlite3") is None or why_unusable("sqlite") is not None:
        pytest.skip("sqlite3 is not here")
    desk.suite("[patterns.odd]\nexpression = \"L'M|a\"\npositive = [\"L'M\", 'a']\nnegative = ['ab', \"xL'M\"]\n")
    run = desk.run("handover", "loggers:odd", "--as", "sql", "--engine", "sqlite")
    queries = [f"SELECT '{text}' {run.out.strip()};" for text in ("L''M", "a", "ab", "xL''M")]
    ran = subprocess.run(["sqlite3", ":memory:", *queries], capture_output=True, check=False)
    assert ran.stdout.split() == [b"1", b"1", b"0", b"0"], ran.stderr


def test_a_literal_of_go_is_read_back_by_go(desk: Desk) -> None:
    if shutil.which("go") is None:
        pytest.skip("go is not here")
    pattern(desk)
    texts = ", ".join(json.dumps(text, ensure_ascii=False) for text in (*FITS, *NOT))
    loop = f"for _, t := range []string{{{texts}}} {{ fmt.Println(p.MatchString(t)) }}"
    imports = 'import ("fmt"; "regexp")'
    desk.write("tried.go", f"package main\n{imports}\nfunc main() {{ p := {literal(desk, 'go')}\n{loop} }}\n")
    ran = subprocess.run(["go", "run", "tried.go"], cwd=desk.folder, capture_output=True, check=False)
    assert ran.stdout.split() == [b"true"] * len(FITS) + [b"false"] * len(NOT), ran.stderr


def test_a_literal_of_rust_is_read_back_by_its_compiler(desk: Desk) -> None:
    if shutil.which("rustc") is None or why_unusable("rust") is not None:
        pytest.skip("rustc, or the engine rust, is not here")
    pattern(desk)
    text = literal(desk, "rust").removeprefix("Regex::new(").removesuffix(")")
    desk.write("tried.rs", f'fn main() {{ print!("{{}}", {text}); }}')
    subprocess.run(["rustc", "tried.rs"], cwd=desk.folder, capture_output=True, check=True)
    said = subprocess.run(["./tried"], cwd=desk.folder, capture_output=True, check=True).stdout.decode()
    made = engine_named("rust").compile(said, frozenset())
    assert [bool(made.matches(each, "anywhere", 1000, 1)) for each in (*FITS, *NOT)] == [True] * 3 + [False] * 4


def test_a_literal_of_sql_is_read_back_by_the_server(desk: Desk, postgresql: str) -> None:
    import psycopg

    desk.suite(
        "[patterns.odd]\nexpression = \"L'M[0-9]{2}(?=/)\"\nreach = 'start'\n"
        "positive = [\"L'M07/\"]\nnegative = ['LM07/', 'xM07/']\n"
    )
    query = f"SELECT %s::text {literal(desk, 'sql')}"
    with psycopg.connect(postgresql) as connection:
        told = [connection.execute(query.encode(), (text,)).fetchone() for text in ("L'M07/", "LM07/", "xL'M07/")]
    assert told == [(True,), (False,), (False,)]


def test_python_the_shell_and_forms_of_data_read_it_back(desk: Desk) -> None:
    pattern(desk)
    made = eval(literal(desk, "python"), {"re": re})
    assert [bool(made.search(text)) for text in (*FITS, *NOT)] == [True] * len(FITS) + [False] * len(NOT)
    forms = {
        "shell": lambda text: subprocess.run(
            ["sh", "-c", f"printf %s {text}"], capture_output=True, check=True
        ).stdout.decode(),
        "json": json.loads,
        "yaml": yaml.safe_load,
        "toml": lambda text: tomllib.loads(f"p = {text}")["p"],
        "xml": lambda text: ET.fromstring(f'<p v="{text}"/>').get("v"),
    }
    for kind, read in forms.items():
        assert kind in LITERALS
        expression = read(literal(desk, kind)).replace("(?<mark>", "(")
        expression = re.sub(
            r"\\x\{([0-9A-F]+)\}|\\u\{([0-9A-F]+)\}", lambda found: chr(int(found[1] or found[2], 16)), expression
        )
        # In a pattern of XML Schema a dollar is itself.
        expression = expression.replace("$", r"\$") if kind == "xml" else expression
        again = re.compile(expression.replace(r"\z", r"\Z"))
        assert [bool(again.fullmatch(text)) for text in (*FITS, *NOT)] == [True] * len(FITS) + [False] * len(NOT), kind


def test_what_is_not_carried_is_named_and_what_cannot_be_is_refused(desk: Desk) -> None:
    desk.suite(
        "[patterns.load]\nexpression = '(?P<load_kg>\\d+) kg'\nfields = { load_kg = { type = 'integer', most = 40 } }\n"
        "positive = ['12 kg']\nnegative = ['x kg', '41 kg']\n"
        "[patterns.mark]\nexpression = '(?<=x)a'\nreach = 'anywhere'\npositive = ['xa']\n"
    )
    run = desk.run("handover", "loggers:load", "--as", "java", "--to", "Load.txt")
    assert run.status == 0 and run.out == ""
    assert (desk.folder / "Load.txt").read_text().splitlines() == [
        "// the field load_kg: its type, most are not carried by an expression",
        "// the group load_kg is loadkg there",
        "// negative 2 ('41 kg') is let through there",
        'Pattern.compile("\\\\A(?<loadkg>\\\\p{Nd}+) kg\\\\z")',
    ]
    assert "the field load_kg: its type, most are not carried" in run.err
    assert "negative 2 ('41 kg') is let through there" in run.err
    refused = desk.run("handover", "loggers:mark", "--as", "go")
    assert refused.status == 2 and "re2 has no look-behind ((?<=x))" in refused.err and refused.out == ""
    folded = desk.run("handover", "(?i)ab", "--as", "json")
    assert folded.status == 0 and json.loads(folded.out) == "^[Aa][Bb]$"


def test_a_terminal_is_given_nothing_that_it_would_obey(desk: Desk) -> None:
    pty = pytest.importorskip("pty")
    command = [sys.executable, "-m", "fieldstick", "handover", "-e", "a\x1b]0;b", "--as", "rfc9485"]
    terminal, other = pty.openpty()
    ran = subprocess.run(command, cwd=desk.folder, stdout=other, stderr=subprocess.PIPE, check=False)
    os.close(other)
    os.close(terminal)
    assert ran.returncode == 2 and b"--to FILE writes it" in ran.stderr
    assert desk.run("handover", "-e", "a\x1b]0;b", "--as", "rfc9485").out == "a\x1b\\]0;b\n"


def test_choices_of_what_is_missing_stand_in_one_line(desk: Desk) -> None:
    run = desk.run("handover", "-e", "a")
    assert run.status == 2 and run.err.count("\n") == 1 and "Choose from: python, javascript," in run.err
