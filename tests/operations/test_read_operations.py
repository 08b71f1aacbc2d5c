"""The tables of rewrites, splits, routes, lookups and forms: read whole, every mistake named by line."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

import jsonschema
import pytest
import tomli

from conftest import json_schema, read_suite
from fieldstick.errors import SuiteFileError
from fieldstick.operations.form import Form
from fieldstick.operations.lookup import Lookup
from fieldstick.operations.rewrite import Rewrite
from fieldstick.operations.route import Route
from fieldstick.operations.split import Split

if TYPE_CHECKING:
    from conftest import Desk

PATTERNS = r"""
[parts]
plot = '[A-F]\d{2}'
[patterns.plot]
expression = '(?P<plot>{{plot}})'
positive = ['B07']
[patterns.of]
expression = 'trap={{=trap}}'
parameters = ["trap"]
positive = [{ text = 'trap=C3', with = { trap = "C3" } }]
[patterns.last]
expression = '\d'
take = "last"
reach = "anywhere"
positive = ['12']
[patterns.none]
none_of = ["plot"]
positive = ['x']
"""
LOOKUP = "[lookups.x]\ncolumn = 'a'\npattern = 'plot'\ngive = ['b']\n"
FIRST = 2 + PATTERNS.count("\n") + 1
"""The line that follows the patterns."""


def problems(desk: Desk, body: str) -> list[str]:
    """Return what is wrong with a suite that has the patterns and `body`, each with its line within `body`."""
    desk.write("broken.csv", 'a,b\n"B07"x,Fen\n')
    with pytest.raises(SuiteFileError) as raised:
        read_suite(desk.suite(PATTERNS + body))
    return [f"{each.line - FIRST + 1}: {each.message}" for each in raised.value.problems]


def test_every_use_is_read_with_its_samples(desk: Desk) -> None:
    desk.write("beside.csv", "Plot,Site\nB07,Fen\n")
    suite = read_suite(
        desk.suite(
            PATTERNS
            + """
[rewrites.mask]
pattern = "plot"
with = "{plot:mask but last 2}"
times = "first"
samples = [{ text = "B07", becomes = "*07" }]
[rewrites.both]
steps = ["mask", "mask"]
[splits.list]
at = '{{plot}}|;'
keep_separators = true
samples = [{ text = "a;b", pieces = ["a", ";", "b"], note = "cut" }]
[splits.by-plot]
pattern = "plot"
drop_empty = true
[routes.kind]
order = ["plot", "last"]
samples = [{ text = "B07", kind = "plot" }, { text = "x", kind = "unknown" }]
[lookups.site]
column = "Plot"
pattern = "plot"
give = ["Site"]
otherwise = "nowhere"
samples = [{ table = "beside.csv", gives = "Fen" }, { rows = [{ Plot = "x", Site = "y" }], gives = "nowhere" }]
[forms.visit]
columns = { Plot = "plot" }
required = ["Plot"]
blank = ["-"]
samples = [{ row = { Plot = "-" }, rejects = ["Plot"] }]
"""
        )
    )
    assert list(suite.operations) == [
        "rewrites.mask",
        "rewrites.both",
        "splits.list",
        "splits.by-plot",
        "routes.kind",
        "lookups.site",
        "forms.visit",
    ]
    mask, both, split, _, route, lookup, form = suite.operations.values()
    assert isinstance(mask, Rewrite) and mask.times == "first" and mask.samples[0].expected is not None
    assert isinstance(both, Rewrite) and [step.own_name for step in both.steps] == ["mask", "mask"]
    assert isinstance(split, Split) and split.pattern is not None and split.pattern.reach == "anywhere"
    assert isinstance(route, Route) and route.kinds == ("plot", "last", "unknown")
    assert isinstance(lookup, Lookup) and lookup.samples[0].expected is not None
    assert lookup.samples[0].expected.rows == ({"Plot": "B07", "Site": "Fen"},)
    assert isinstance(form, Form) and form.blank == ("-",)
    assert len(suite.judged) == 11


@pytest.mark.parametrize(
    ("body", "found"),
    [
        ("[rewrites.x]\npattern = 'plt'\nwith = ''\n", "2: there is no pattern 'plt'; the nearest is 'plot'"),
        ("[rewrites.x]\npattern = 'plot'\n", "1: a rewrite has a pattern and with, its template; or steps"),
        ("[rewrites.x]\npattern = 'plot'\nwith = '{plt}'\n", "3: the template names the field 'plt'"),
        ("[rewrites.x]\npattern = 'plot'\nwith = '{plot:frst 1}'\n", "3: 'frst 1' is nothing a template can do"),
        (
            "[patterns.two]\nany_of = ['plot', 'of']\n[rewrites.x]\npattern = 'two'\nwith = '{plt}'\n",
            "5: the template names the field 'plt', which the pattern does not have; the nearest is 'plot'",
        ),
        ("[rewrites.x]\npattern = 'none'\nwith = ''\n", "2: 'none' is none_of: it has no match to replace"),
        (
            "[rewrites.x]\npattern = 'last'\nwith = ''\ntimes = 'all'\n",
            "4: the pattern takes last, so times says nothing",
        ),
        ("[rewrites.x]\nsteps = ['y']\n[rewrites.y]\nsteps = ['x']\n", "4: rewrites go round in a circle: x → y → x"),
        ("[rewrites.x]\nsteps = ['z']\nwith = ''\n", "3: 'with' beside 'steps'"),
        ("[rewrites.x]\nsteps = ['zz']\n", "2: there is no rewrite 'zz'"),
        ("[rewrites.x]\npattern = 'plot'\nwth = ''\n", "3: unknown key 'wth'; the nearest is 'with'"),
        ("[rewrites.x]\npattern = 'plot'\nwith = ''\nsamples = [{ text = 'a' }]\n", "4: the key 'becomes' is missing"),
        ("[rewrites.x]\npattern = 'plot'\nwith = ''\nsamples = [{ becomes = 'a' }]\n", "4: a sample has either text"),
        (
            "[rewrites.x]\npattern = 'of'\nwith = ''\nsamples = [{ text = 'a', becomes = 'a' }]\n",
            "4: the sample gives no value for 'trap'; add with = { trap = '…' }",
        ),
        (
            "[rewrites.x]\npattern = 'plot'\nwith = ''\n[[rewrites.x.samples]]\ntext = 'a'\nbecomes = 'a'\n"
            "[[rewrites.x.samples]]\ntext = 'a'\nbecomes = 'b'\n",
            "7: the same sample is on line {4} already",
        ),
        ("[splits.x]\nat = ';'\npattern = 'plot'\n", "1: a split has either at, an expression, or pattern"),
        ("[splits.x]\nat = '{{plt}}'\n", "2: there is no part 'plt'; the nearest is 'plot'"),
        ("[splits.x]\nat = '{{=a}}'\n", "2: {{=a}}: only patterns have parameters"),
        ("[splits.x]\npattern = 'plot'\nflags = []\n", "3: 'flags' beside 'pattern'"),
        ("[routes.x]\norder = []\n", "2: 'order' is an empty array; name at least one"),
        ("[routes.x]\norder = ['plot', 'plot']\n", "2: the kind 'plot' is there twice"),
        ("[routes.x]\norder = ['of']\n", "2: 'of' has parameters, for which a route has no values"),
        *(
            (f"[routes.x]\norder = ['plot']\notherwise = '{name}'\n", f"3: '{name}': a kind names a file too; use")
            for name in ("../../outside", "/x", "a/b", "", ".x", "x.", r"a\b", "x" * 101)
        ),
        ("[routes.x]\norder = ['plot']\notherwise = 'plot'\n", "3: 'plot' is a kind of the route already"),
        (
            "[routes.x]\norder = ['plot']\nsamples = [{ text = 'a', kind = 'plt' }]\n",
            "3: the route has no kind 'plt'; the nearest is 'plot'",
        ),
        (
            LOOKUP + "samples = [{ gives = 'x' }]\n",
            "5: a sample of a lookup has either rows, or table",
        ),
        (
            LOOKUP + "samples = [{ rows = [], gives = ['x', 'y'] }]\n",
            "5: the lookup takes the first row; give one answer",
        ),
        (
            LOOKUP.replace("['b']", "['b', 'c']") + "samples = [{ rows = [], gives = 'y' }]\n",
            "5: the lookup gives several columns; write { COLUMN = 'text', … }",
        ),
        (
            "[patterns.wide]\nexpression = 'x # (?P<gone>y)'\nflags = ['verbose']\n"
            "[rewrites.x]\npattern = 'wide'\nwith = '{gone}'\n",
            "6: the template names the field 'gone', which the pattern does not have",
        ),
        (
            LOOKUP + "samples = [{ rows = [], gives = { c = 'y' } }]\n",
            "5: the lookup does not give the column 'c'; there are b",
        ),
        (
            LOOKUP + "samples = [{ table = '../t.csv', gives = 'y' }]\n",
            "5: '../t.csv' lies outside the suite's folder tree",
        ),
        (
            LOOKUP + "samples = [{ table = 'broken.csv', gives = 'y' }]\n",
            "5: 'broken.csv': not CSV: ",
        ),
        ("[forms.x]\ncolumns = { A = 'plt' }\n", "2: there is no pattern 'plt'"),
        ("[forms.x]\ncolumns = { A = 'plot' }\nrequired = ['B']\n", "3: the form has no column 'B'; there are A"),
        (
            "[forms.x]\ncolumns = { A = 'plot' }\nsamples = [{ row = { B = 'x' } }]\n",
            "3: the form has no column 'B'",
        ),
    ],
)
def test_a_mistake_is_named_with_its_line(desk: Desk, body: str, found: str) -> None:
    if "{4}" in found:
        found = found.replace("{4}", str(FIRST + 3))
    assert any(each.startswith(found) for each in problems(desk, body)), problems(desk, body)


def test_what_was_wrong_once_is_not_complained_of_again(desk: Desk) -> None:
    body = "[rewrites.x]\nsteps = [1, 'zz']\n[routes.y]\norder = [2, 'plot']\n"
    found = [each.partition(": ")[2] for each in problems(desk, body)]
    assert found == [
        "item 1 of 'steps' must be a text, not 1",
        "there is no rewrite 'zz'; there are x",
        "item 1 of 'order' must be a text, not 2",
    ]


def test_all_mistakes_of_a_file_are_named_at_once(desk: Desk) -> None:
    body = "[rewrites.x]\npattern = 'plt'\nwith = ''\n[routes.y]\norder = ['lst']\n[forms.z]\ncolumns = { A = 'nne' }\n"
    assert [each.partition(":")[0] for each in problems(desk, body)] == ["2", "5", "7"]


def test_the_schema_takes_what_the_reader_takes(desk: Desk) -> None:
    schema = json_schema()
    body = (
        "[splits.x]\nat = ';'\nsamples = [{ text = 'a;b', pieces = ['a', 'b'] }]\n[forms.f]\ncolumns = { A = 'plot' }\n"
    )
    path = desk.suite(PATTERNS + body)
    read_suite(path)
    data = json.loads(json.dumps(tomli.loads(path.read_text())))
    jsonschema.validate(data, schema)
    data["splits"]["x"]["att"] = ";"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(data, schema)
