"""Two versions of suites are held against each other: every change is found, and none is invented."""

from __future__ import annotations

import json
import os
import subprocess
from typing import TYPE_CHECKING, Any

import pytest

from conftest import Desk

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping


COMMON = """
format = 1
suite = "common"
[parts]
clock = '\\d{2}:\\d{2}'
stamp = '\\d{4}T{{clock}}Z'
unused = 'x'
[patterns.stamp]
expression = '{{stamp}}'
positive = ['2026T06:10Z']
negative = ['2026T06:1Z']
"""
LOGGERS = """
borrow = { common = "common.suite.toml" }
[parts]
plot = '[A-F]\\d{2}'
[patterns.probe]
expression = '(?P<at>{{common.stamp}}) probe=(?P<plot>{{plot}}) moisture=(?P<moisture>\\d+\\.\\d)'
fields.moisture = { type = "decimal", most = 60 }
positive = ['2026T06:10Z probe=B07 moisture=31.4', '2026T06:10Z probe=C01 moisture=7.0']
negative = ['2026T06:10Z probe=B07', '2026T06:10Z probe=B07 moisture=61.0']
[patterns.gate]
expression = '(?P<at>{{common.stamp}}) gate=(north|quarry)(?: (\\d+))?'
positive = ['2026T06:10Z gate=north', '2026T06:10Z gate=quarry 4']
negative = ['2026T06:10Z gate=south']
[patterns.any]
any_of = ["probe", "gate"]
positive = ['2026T06:10Z gate=quarry']
negative = ['x']
[routes.kind]
order = ["probe", "gate"]
otherwise = "rest"
[[routes.kind.samples]]
text = '2026T06:10Z gate=quarry'
kind = "gate"
[[trials]]
data = "may.log"
route = "kind"
fits_share = { least = 0.5 }
"""
LOG = "".join(
    [
        *(f"2026T06:{n:02}Z probe=B{n:02} moisture={n}.0\n" for n in range(10, 60)),
        *(f"2026T06:{n:02}Z gate=north {n}\n" for n in range(10, 40)),
        "-- rotated --\n" * 20,
    ]
)


class Repository:
    """A git repository with the suites and their data, changed and committed step by step."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        desk.write("common.suite.toml", COMMON)
        desk.suite(LOGGERS)
        desk.write("may.log", LOG)
        self.git("init", "-q")
        self.record("the first")

    def git(self, *arguments: str) -> str:
        settings = {f"GIT_{who}_{what}": "desk" for who in ("AUTHOR", "COMMITTER") for what in ("NAME", "EMAIL")}
        done = subprocess.run(
            ["git", *arguments],
            cwd=self.desk.folder,
            env={**os.environ, **settings, "GIT_CONFIG_GLOBAL": os.devnull},
            capture_output=True,
            text=True,
            check=True,
        )
        return done.stdout

    def record(self, message: str) -> None:
        assert self.desk.run("baseline", "--yes", "--even-so").status == 0
        self.git("add", "-A")
        self.git("commit", "-qm", message)

    def edit(self, name: str, before: str, after: str) -> None:
        path = self.desk.folder / name
        text = path.read_text()
        assert before in text, before
        path.write_text(text.replace(before, after))

    def compare(self, *arguments: str) -> tuple[int, dict[str, Any]]:
        run = self.desk.run("compare", *arguments, "--format", "json")
        assert run.err == "", run.err
        return run.status, json.loads(run.out)


def told(data: Mapping[str, Any]) -> dict[str, Any]:
    """Return what a comparison says is otherwise, as briefly as can be."""
    found: dict[str, Any] = {}
    for part in data["parts"]:
        found[f"part {part['name']}"] = sorted(part["through"])
    for suite in data["suites"]:
        if suite["change"] in ("new", "gone", "renamed"):
            found[f"suite {suite['suite']}"] = suite["change"]
        if suite["change"] in ("new", "gone"):
            continue
        for each in suite["patterns"]:
            lines = {key: each["lines"][key] for key in ("gained", "lost", "otherwise") if each["lines"][key]}
            entry = {
                "change": each["change"] if each["change"] != "same" else None,
                "was": each["was_name"] if each["was_name"] != each["name"] else None,
                "altered": each["altered"],
                "through": sorted(each["through"]),
                "samples": sorted(f"{sample['change']} {sample['text'][-8:]}" for sample in each["samples"]),
                "fields": [f"{field['change']} {field['name']}" for field in each["fields"]],
                "lines": lines,
            }
            entry = {key: value for key, value in entry.items() if value}
            if entry:
                found[f"{suite['suite']}:{each['name']}"] = entry
        for trial in suite["trials"]:
            said = {
                key: trial[key]
                for key in ("data_change", "bounds", "lost", "gained", "moved", "otherwise")
                if trial[key]
            }
            said |= {"worse": True} if trial["worse"] else {}
            if said or trial["was_share"] is None or trial["share"] is None:
                found[trial["data"]] = said
    return found


def ordered(expected: dict[str, Any]) -> dict[str, Any]:
    """Return what is expected with the lists in order whose order says nothing."""
    return {
        name: {key: sorted(value) if key in ("through", "samples") else value for key, value in entry.items()}
        if isinstance(entry, dict)
        else entry
        for name, entry in expected.items()
    }


Step = tuple[str, "Callable[[Repository], None]", dict[str, Any], bool, int]
"""What is done, what compare must say, whether it got worse, and the exit status of check before it is recorded."""

LOGGERS_FILE = "loggers.suite.toml"
GATE = "(?P<at>{{common.stamp}}) gate=(north|quarry)(?: (\\d+))?"
ANY = {"change": "altered", "altered": ["members"]}
ROUTE = {"change": "altered", "altered": ["patterns"]}


def edited(before: str, after: str, name: str = LOGGERS_FILE) -> Callable[[Repository], None]:
    return lambda repository: repository.edit(name, before, after)


def reordered(repository: Repository) -> None:
    """Write the suite's patterns in another order, with comments, and the samples of one too."""
    path = repository.desk.folder / LOGGERS_FILE
    head, probe, gate, rest = path.read_text().split("[patterns.", 3)
    gate = gate.replace(
        "'2026T06:10Z gate=north', '2026T06:10Z gate=quarry 4'", "'2026T06:10Z gate=quarry 4', '2026T06:10Z gate=north'"
    )
    path.write_text(f"{head}# The gate first.\n[patterns.{gate}[patterns.{probe}[patterns.{rest}")


STEPS: list[Step] = [
    ("nothing but order and comments", reordered, {}, False, 0),
    (
        "a group is renamed",
        edited("(?P<plot>{{plot}})", "(?P<place>{{plot}})"),
        {
            "loggers:probe": {
                "change": "altered",
                "altered": ["expression"],
                "samples": ["fields ure=31.4", "fields ture=7.0"],
                "fields": ["renamed place"],
                "lines": {"otherwise": 50},
            },
            "loggers:any": {**ANY, "through": ["probe"], "fields": ["renamed place"]},
            "loggers:routes.kind": {**ROUTE, "through": ["probe"]},
            "may.log": {"otherwise": 50},
        },
        True,
        1,
    ),
    (
        "a group is put before others",
        edited(GATE, GATE.replace("gate=(north", "(gate)=(north")),
        {
            "loggers:gate": {
                "change": "altered",
                "altered": ["expression"],
                "samples": ["fields te=north", "fields quarry 4"],
                "fields": ["renumbered 3", "renumbered 4", "new 2"],
                "lines": {"otherwise": 30},
            },
            "loggers:any": {
                **ANY,
                "through": ["gate"],
                "samples": ["fields e=quarry"],
                "fields": ["renumbered 3", "renumbered 4", "new 2"],
            },
            "loggers:routes.kind": {**ROUTE, "through": ["gate"]},
            "may.log": {"otherwise": 30},
        },
        True,
        1,
    ),
    (
        "a bound is loosened",
        edited("most = 60 }", "most = 62 }"),
        {
            "loggers:probe": {
                "change": "altered",
                "altered": ["fields"],
                "samples": ["worse ure=61.0"],
                "fields": ["bounds moisture"],
            },
            "loggers:any": {**ANY, "through": ["probe"], "fields": ["bounds moisture"]},
            "loggers:routes.kind": {**ROUTE, "through": ["probe"]},
        },
        True,
        1,
    ),
    (
        "the sample it broke is deleted",
        edited(
            "negative = ['2026T06:10Z probe=B07', '2026T06:10Z probe=B07 moisture=61.0']",
            "negative = ['2026T06:10Z probe=B07']",
        ),
        {"loggers:probe": {"samples": ["gone ure=61.0"]}},
        False,
        1,
    ),
    (
        "a type is changed",
        edited('moisture = { type = "decimal", most = 62 }', 'moisture = { type = "text" }'),
        {
            "loggers:probe": {
                "change": "altered",
                "altered": ["fields"],
                "samples": ["fields ure=31.4", "fields ture=7.0"],
                "fields": ["retyped moisture", "bounds moisture"],
            },
            "loggers:any": {**ANY, "through": ["probe"], "fields": ["retyped moisture", "bounds moisture"]},
            "loggers:routes.kind": {**ROUTE, "through": ["probe"]},
        },
        True,
        1,
    ),
    (
        "a part of a borrowed suite is altered, and nothing comes of it",
        edited("stamp = '\\d{4}T", "stamp = '20\\d{2}T", "common.suite.toml"),
        {
            "part stamp": ["common:stamp", "loggers:gate", "loggers:probe"],
            "common:stamp": {"change": "altered", "altered": ["parts"], "through": ["stamp"]},
            "loggers:probe": {"change": "altered", "altered": ["parts"], "through": ["common.stamp"]},
            "loggers:gate": {"change": "altered", "altered": ["parts"], "through": ["common.stamp"]},
            "loggers:any": {**ANY, "through": ["gate", "probe"]},
            "loggers:routes.kind": {**ROUTE, "through": ["probe", "gate"]},
        },
        False,
        0,
    ),
    (
        "a part within that part breaks what goes through it",
        edited("clock = '\\d{2}:\\d{2}'", "clock = '\\d{2}:[0-3]\\d'", "common.suite.toml"),
        {
            "part clock": ["common:stamp", "loggers:gate", "loggers:probe"],
            "common:stamp": {"change": "altered", "altered": ["parts"], "through": ["clock"]},
            "loggers:probe": {
                "change": "altered",
                "altered": ["parts"],
                "through": ["common.clock"],
                "lines": {"lost": 20},
            },
            "loggers:gate": {"change": "altered", "altered": ["parts"], "through": ["common.clock"]},
            "loggers:any": {**ANY, "through": ["gate", "probe"]},
            "loggers:routes.kind": {**ROUTE, "through": ["probe", "gate"]},
            "may.log": {"lost": 20},
        },
        False,
        1,
    ),
    (
        "it is mended",
        edited("clock = '\\d{2}:[0-3]\\d'", "clock = '\\d{2}:[0-5]\\d'", "common.suite.toml"),
        {
            "part clock": ["common:stamp", "loggers:gate", "loggers:probe"],
            "common:stamp": {"change": "altered", "altered": ["parts"], "through": ["clock"]},
            "loggers:probe": {
                "change": "altered",
                "altered": ["parts"],
                "through": ["common.clock"],
                "lines": {"gained": 20},
            },
            "loggers:gate": {"change": "altered", "altered": ["parts"], "through": ["common.clock"]},
            "loggers:any": {**ANY, "through": ["gate", "probe"]},
            "loggers:routes.kind": {**ROUTE, "through": ["probe", "gate"]},
            "may.log": {"gained": 20},
        },
        False,
        1,
    ),
    (
        "a part that nobody uses is altered",
        edited("unused = 'x'", "unused = 'y'", "common.suite.toml"),
        {"part unused": []},
        False,
        0,
    ),
    (
        "a sample is added",
        edited(
            "positive = ['2026T06:10Z gate=quarry 4'",
            "positive = ['2026T06:10Z gate=quarry 9', '2026T06:10Z gate=quarry 4'",
        ),
        {"loggers:gate": {"samples": ["new quarry 9"]}},
        False,
        0,
    ),
    (
        "a sample is moved to another pattern",
        lambda repository: (
            repository.edit(LOGGERS_FILE, "'2026T06:10Z gate=quarry 9', ", ""),
            repository.edit(
                LOGGERS_FILE,
                "positive = ['2026T06:10Z gate=quarry']",
                "positive = ['2026T06:10Z gate=quarry 9', '2026T06:10Z gate=quarry']",
            ),
        )[0],
        {"loggers:gate": {"samples": ["gone quarry 9"]}, "loggers:any": {"samples": ["new quarry 9"]}},
        False,
        1,
    ),
    (
        "a positive sample is made negative with what it is about",
        lambda repository: (
            repository.edit(LOGGERS_FILE, "(gate)=(north|quarry)", "(gate)=(north|south)"),
            repository.edit(
                LOGGERS_FILE, "negative = ['2026T06:10Z gate=south']", "negative = ['2026T06:10Z gate=quarry 4']"
            ),
            repository.edit(
                LOGGERS_FILE, "positive = ['2026T06:10Z gate=quarry 4', ", "positive = ['2026T06:10Z gate=south', "
            ),
            repository.edit(
                LOGGERS_FILE,
                "positive = ['2026T06:10Z gate=quarry 9', '2026T06:10Z gate=quarry']",
                "positive = ['2026T06:10Z gate=north']",
            ),
            repository.edit(LOGGERS_FILE, "text = '2026T06:10Z gate=quarry'", "text = '2026T06:10Z gate=south'"),
        )[0],
        {
            "loggers:gate": {
                "change": "altered",
                "altered": ["expression"],
                "samples": ["worse te=south", "worse quarry 4"],
            },
            "loggers:any": {
                **ANY,
                "through": ["gate"],
                "samples": ["new te=north", "worse quarry 9", "worse e=quarry"],
            },
            "loggers:routes.kind": {**ROUTE, "through": ["gate"], "samples": ["new te=south", "worse e=quarry"]},
        },
        True,
        1,
    ),
    (
        "a pattern is renamed with all that use it",
        lambda repository: (
            repository.edit(LOGGERS_FILE, "[patterns.gate]", "[patterns.barrier]"),
            repository.edit(LOGGERS_FILE, '["probe", "gate"]', '["probe", "barrier"]'),
            repository.edit(LOGGERS_FILE, 'kind = "gate"', 'kind = "barrier"'),
        )[0],
        {
            "loggers:barrier": {"change": "renamed", "was": "gate"},
            "loggers:any": {"change": "altered", "altered": ["any_of"], "samples": ["fields te=north"]},
            "loggers:routes.kind": {"change": "altered", "altered": ["order"], "samples": ["fields te=south"]},
        },
        True,
        1,
    ),
    (
        "a pattern is renamed and written otherwise, with the same outcomes",
        lambda repository: (
            repository.edit(LOGGERS_FILE, "[patterns.probe]", "[patterns.soil]"),
            repository.edit(LOGGERS_FILE, '"probe", ', '"soil", '),
            repository.edit(LOGGERS_FILE, "(?P<moisture>\\d+\\.\\d)", "(?P<moisture>[0-9]+\\.[0-9])"),
        )[0],
        {
            "loggers:soil": {"change": "renamed", "was": "probe", "altered": ["expression"]},
            "loggers:any": {"change": "altered", "altered": ["any_of"]},
            "loggers:routes.kind": {"change": "altered", "altered": ["order"]},
        },
        False,
        1,
    ),
    (
        "lines are appended to the data",
        lambda repository: repository.desk.write("may.log", LOG + "2026T06:10Z gate=north\n" * 3) and None,
        {"may.log": {"data_change": "3 lines were appended to the data"}},
        False,
        0,
    ),
    (
        "the data is edited",
        edited("2026T06:12Z probe=B12 ", "2026T06:12Z probe=12 ", "may.log"),
        {"may.log": {"data_change": "the data changed, from line 3 on"}},
        False,
        0,
    ),
    (
        "a bound of the trial is raised beyond what it reaches",
        edited("least = 0.5 }", "least = 0.99 }"),
        {"may.log": {"bounds": ["share of texts that fit at least 99.0 %, was at least 50.0 %"], "worse": True}},
        True,
        1,
    ),
    (
        "a pattern is new",
        edited(
            "[patterns.any]",
            "[patterns.rotated]\nexpression = '-- rotated --'\npositive = ['-- rotated --']\n[patterns.any]",
        ),
        {"loggers:rotated": {"change": "new"}},
        False,
        1,
    ),
    (
        "a pattern is gone, and the bound is lowered",
        lambda repository: (
            repository.edit(
                LOGGERS_FILE, "[patterns.rotated]\nexpression = '-- rotated --'\npositive = ['-- rotated --']\n", ""
            ),
            repository.edit(LOGGERS_FILE, "least = 0.99 }", "least = 0.5 }"),
        )[0],
        {
            "loggers:rotated": {"change": "gone"},
            "may.log": {"bounds": ["share of texts that fit at least 50.0 %, was at least 99.0 %"]},
        },
        True,
        1,
    ),
    (
        "a flag is set and the message written",
        edited("[patterns.soil]\n", "[patterns.soil]\nflags = ['ascii']\nmessage = 'Give stamp, plot and moisture'\n"),
        {
            "loggers:soil": {"change": "altered", "altered": ["flags", "message"]},
            "loggers:any": {**ANY, "through": ["soil"]},
            "loggers:routes.kind": {**ROUTE, "through": ["soil"]},
        },
        False,
        0,
    ),
    (
        "a suite is moved to a file of another name",
        lambda repository: (
            (repository.git("mv", "common.suite.toml", "shared.suite.toml") and None)
            or repository.edit(LOGGERS_FILE, '"common.suite.toml"', '"shared.suite.toml"')
        ),
        {},
        False,
        1,
    ),
]


def test_a_chain_of_changes_is_told_step_by_step_and_nothing_else(desk: Desk) -> None:
    repository = Repository(desk)
    for what, change, expected, worse, checked in STEPS:
        change(repository)
        status, data = repository.compare("HEAD")
        expected = ordered(expected)
        assert (what, told(data)) == (what, expected)
        assert (what, data["worse"], status) == (what, worse, int(worse))
        assert (what, desk.run("check").status) == (what, checked)
        stale = desk.folder / "common.baseline.json"
        if "moved to a file" in what:
            stale.unlink()
        repository.record(what)
        # Two revisions say what the working tree said, and the other way round nothing but the reverse is there.
        assert (what, told(repository.compare("HEAD~1", "HEAD")[1])) == (what, expected)
        assert bool(told(repository.compare("HEAD", "HEAD~1")[1])) == bool(expected)
        assert told(repository.compare("HEAD")[1]) == {}


@pytest.fixture
def repository(desk: Desk) -> Repository:
    return Repository(desk)


def test_a_revision_is_read_below_the_current_folder_whatever_the_repository_exports(desk: Desk) -> None:
    inner = Desk(desk.folder / "suites")
    inner.write("notes.txt", "no suite")
    repository = Repository(inner)
    repository.git("init", "-q", str(desk.folder))
    (inner.folder / ".git").rename(desk.folder / "old-git")
    inner.write(".gitattributes", "*.toml export-ignore\n*.log export-subst eol=crlf\n")
    repository.edit("may.log", "-- rotated --", "$Format:%H$")
    repository.git("add", "-A", "-f")
    repository.git("commit", "-qm", "below")
    assert told(repository.compare("HEAD")[1]) == {}
    assert "trial" not in desk.run("compare", "HEAD", "suites").err
    repository.edit(LOGGERS_FILE, "most = 60", "most = 50")
    for run in (inner.run("compare", "HEAD"), desk.run("compare", "HEAD"), desk.run("compare", "HEAD", "suites")):
        assert run.status == 1 and "9 lost" in run.out
    one = desk.run("compare", "HEAD", f"suites/{LOGGERS_FILE}")
    assert (one.status, one.err) == (1, "") and "9 lost" in one.out and "common" not in one.out


def test_a_mistake_in_an_older_version_is_named_by_it(repository: Repository) -> None:
    repository.edit(LOGGERS_FILE, "most = 60", "mots = 60")
    repository.git("commit", "-qam", "broken")
    repository.edit(LOGGERS_FILE, "mots = 60", "most = 60")
    run = repository.desk.run("compare", "HEAD")
    assert run.status == 2 and "HEAD:loggers.suite.toml:9: unknown key 'mots'" in run.err
    assert "/tmp" not in run.err


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        ((), "give two versions"),
        (("HEAD", "HEAD", "HEAD"), "give two versions"),
        (("nope",), "'nope' is no file or folder here, nor a revision that git knows"),
        (("--output=x",), "No such option"),
        (("--", "--output=x"), "nor a revision that git knows"),
        (("loggers.suite.toml",), "is one version alone"),
        (("loggers:gate",), "give the other version too"),
        (("loggers:gate", "-e", "x", "--reach", "start"), "leave --reach"),
        (("loggers:any", "-e", "x"), "is made of patterns"),
        (("HEAD", "--reach", "start"), "go with -e"),
        (("HEAD", "--only", "nope"), "neither version has such a suite"),
        (("HEAD", "--only", "loggers:gat"), "the nearest is 'gate'"),
        (("HEAD", "--on", "nope.log"), "nope.log"),
        (("loggers:gate", "-e", "("), "the expression cannot be read"),
        (("-e", "(", "-e", "x"), "the expression cannot be read"),
    ],
)
def test_what_cannot_be_compared_is_a_sentence(repository: Repository, arguments: tuple[str, ...], words: str) -> None:
    run = repository.desk.run("compare", *arguments)
    assert run.status == 2 and words in run.err
    assert not (repository.desk.folder / "x").exists()


def test_without_git_two_folders_are_compared(desk: Desk) -> None:
    for folder in ("old", "new"):
        Desk(desk.folder / folder).write("common.suite.toml", COMMON)
        Desk(desk.folder / folder).write("sub/notes.suite.toml", 'format = 1\nsuite = "notes"\n')
    Desk(desk.folder / "new").write("common.suite.toml", COMMON.replace("['2026T06:1Z']", "['2026T06:10Z ']"))
    Desk(desk.folder / "new").write("more.suite.toml", 'format = 1\nsuite = "more"\n')
    (desk.folder / "new/sub/notes.suite.toml").unlink()
    run = desk.run("compare", "old", "new", "--format", "json")
    assert told(json.loads(run.out)) == {
        "common:stamp": {"samples": ["gone 26T06:1Z", "new T06:10Z "]},
        "suite more": "new",
        "suite notes": "gone",
    }
    assert run.status == 1
    assert "no git repository" in desk.run("compare", "HEAD", GIT_CEILING_DIRECTORIES=str(desk.folder.parent)).err


def test_a_candidate_is_judged_by_samples_and_trials_before_it_replaces_the_pattern(repository: Repository) -> None:
    desk = repository.desk
    before = (desk.folder / LOGGERS_FILE).read_bytes()
    candidate = GATE.replace("north|quarry", "north|quarry|south")
    run = desk.run("compare", "loggers:gate", "-e", candidate, "--format", "json")
    assert told(json.loads(run.out))["loggers:gate"] == {
        "change": "altered",
        "altered": ["expression"],
        "samples": ["worse te=south"],
    }
    text = desk.run("compare", "loggers:gate", "-e", GATE.replace("\\d+", "[0-8]+")).out
    assert "3 lost" in text and "worse      loggers:gate" not in text
    assert (desk.folder / LOGGERS_FILE).read_bytes() == before


def test_real_lines_are_read_under_both(repository: Repository) -> None:
    typed = "ab 1\nab 2!\nab\n12\n"
    run = repository.desk.run(
        "compare", "-e", r"(\w+) (\d+)", "-e", r"(?P<word>\w+) (\d+)?!?", "--on", "-", "--format", "json", typed=typed
    )
    (pattern,) = json.loads(run.out)["suites"][0]["patterns"]
    assert [pattern["lines"][key] for key in ("gained", "lost", "otherwise")] == [1, 0, 1]
    assert [(cause["source"], cause["lines"][0]["line"]) for cause in pattern["lines"]["causes"]] == [
        ("standard input", 1),
        ("standard input", 2),
    ]
    assert run.status == 1
    repository.edit(LOGGERS_FILE, "gate=(north", "gates?=(north")
    repository.edit("common.suite.toml", "stamp = '", "stamp = 'T?")
    both = repository.desk.run("compare", "HEAD", "--on", "-", typed="2026T06:10Z gates=north\nT2026T06:10Z\n")
    assert both.out.count("lines      1 gained") == 3 and both.err == ""
    quiet = repository.desk.run("compare", "-e", "a", "-e", "a|b", "--on", "-", typed="a\nb\n")
    assert quiet.status == 0 and "1 gained" in quiet.out


def test_a_review_comment_holds_no_markup_of_a_sample(repository: Repository) -> None:
    repository.edit(LOGGERS_FILE, "['x']", '["```|<b>\\\\n`"]')
    repository.record("hostile")
    repository.edit(LOGGERS_FILE, "(?P<plot>{{plot}})", "(?P<place>{{plot}}|`|)")
    repository.edit(LOGGERS_FILE, '["```|<b>\\\\n`"]', "['y']")
    text = repository.desk.run("compare", "HEAD", "--format", "markdown").out
    head, _, folded = text.partition("<details>")
    assert text.startswith("**Worse from HEAD to the working tree: ") and "| worse | `loggers:probe` |" in head
    assert "<b" not in head and folded.rstrip().endswith("</details>")
    fence = folded.split("\n")[3]
    assert set(fence) == {"`"} and len(fence) > 3 and folded.count(fence) == 2
    for row in head.splitlines()[3:-1]:
        assert len(row.replace("\\|", "").split("|")) == 5


def test_a_pattern_that_takes_much_longer_is_said_to(repository: Repository) -> None:
    asked = ("compare", "-e", "a+$", "-e", "(a+)+$", "--on", "-", "--format", "json")
    run = repository.desk.run(*asked, typed="a" * 26 + "b\n")
    (pattern,) = json.loads(run.out)["suites"][0]["patterns"]
    assert pattern["slower"] > 3
    quick = repository.desk.run(*asked, typed="aaa\n")
    assert json.loads(quick.out)["suites"][0]["patterns"][0]["slower"] is None


def test_trials_that_read_the_same_data_in_other_ways_are_told_apart(repository: Repository) -> None:
    path = repository.desk.folder / LOGGERS_FILE
    for start in ("gate", "-"):
        more = f'[[trials]]\ndata = "may.log"\nroute = "kind"\nrecord_start = "{start}"\n'
        path.write_text(path.read_text() + more)
    repository.record("two more")
    assert told(repository.compare("HEAD")[1]) == {}
    repository.edit(LOGGERS_FILE, "[patterns.gate]", "[patterns.barrier]")
    repository.edit(LOGGERS_FILE, '"gate"', '"barrier"')
    # One of the three begins its records with the pattern that is renamed: it is the same trial still.
    assert repository.compare("HEAD")[1]["suites"][1]["trials"] == []
