"""Which patterns fit a text, in what order, and which came furthest; over a source as over its texts one by one."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import read_suites
from fieldstick.commands.sources import sources_of
from fieldstick.data.read_options import ReadOptions
from fieldstick.drafting.which import candidates_of, which_fit, which_in

if TYPE_CHECKING:
    from pathlib import Path

    from conftest import Desk
    from fieldstick.drafting.which import Candidates

GATES = r"""
[patterns.pass]
expression = 'LM-(?P<year>\d{4})-(?P<pass>\d{4})'
[patterns.any-pass]
expression = 'LM-.*'
[patterns.number]
expression = '\d+'
reach = "anywhere"
[patterns.heads]
expression = '(?P<heads>\d+) heads'
fields.heads = { type = "integer", most = 40 }
[patterns.of]
parameters = ["site"]
expression = '{{=site}} gate'
[patterns.bad]
expression = '(?P<a>x)(?P<a>y'
[patterns.code]
any_of = ["pass", "heads"]
"""


def asked(desk: Desk) -> Candidates:
    """Return the patterns of a suite."""
    desk.suite(GATES, "gates")
    return candidates_of(read_suites([desk.folder / "gates.suite.toml"]))


def test_those_that_need_a_value_or_do_not_compile_are_told_apart(desk: Desk) -> None:
    found = asked(desk)
    assert [each.address for each in found.ready] == [
        f"gates:{name}" for name in ("pass", "any-pass", "number", "heads", "code")
    ]
    assert (found.parametric, found.broken) == (("gates:of",), ("gates:bad",))


@pytest.mark.parametrize(
    ("text", "fits", "nearest"),
    [
        ("LM-2026-0417", ["pass", "code", "any-pass", "number"], "heads"),
        ("LM-2026-041", ["any-pass", "number"], "pass"),
        ("12 heads", ["heads", "code", "number"], "pass"),
        ("77 heads", ["number"], "heads"),
        ("wet", [], "pass"),
    ],
)
def test_what_takes_most_of_a_text_comes_first_and_what_came_furthest_of_the_others(
    desk: Desk, text: str, fits: list[str], nearest: str
) -> None:
    found = which_fit(asked(desk).ready, text)
    assert [each.candidate.pattern.name for each in found.fits] == fits
    assert found.near[0].candidate.pattern.name == nearest
    assert {each.candidate.pattern.name for each in (*found.fits, *found.near)} == {
        "pass", "any-pass", "number", "heads", "code",
    }  # fmt: skip
    came = [each.came for each in found.near]
    assert came == sorted(came, reverse=True)
    for near in found.near:
        assert (near.stop is None) is bool(near.words)


TEXTS = st.lists(
    st.one_of(st.from_regex(r"LM-\d{4}-\d{3,4}", fullmatch=True), st.from_regex(r"\d{1,2} heads", fullmatch=True),
              st.text("LM-1 é", max_size=6)),
    max_size=20,
)  # fmt: skip


@given(TEXTS, st.booleans())
def test_a_source_is_asked_as_its_texts_are(
    tmp_path_factory: pytest.TempPathFactory, texts: list[str], many: bool
) -> None:
    folder: Path = tmp_path_factory.mktemp("which")
    suite = folder / "gates.suite.toml"
    suite.write_text(f'format = 1\nsuite = "gates"\n{GATES}', encoding="utf-8")
    texts = texts * (300 if many else 1)
    (folder / "a.log").write_text("".join(f"{each}\n" for each in texts), encoding="utf-8")
    ready = candidates_of(read_suites([suite])).ready
    found = which_in(ready, sources_of([str(folder / "a.log")], ReadOptions()))
    fit = {each.address: [each.matcher.read(text).fits for text in texts] for each in ready}
    assert found.texts == len(texts)
    assert {each.candidate.address: each.fit for each in found.shares} == {
        name: sum(each) for name, each in fit.items()
    }
    unfit = [text for text, *each in zip(texts, *fit.values(), strict=True) if not any(each)]
    assert found.none == len(unfit) and (found.unknown is None) is (not unfit)
    assert found.unknown is None or found.unknown[2] == unfit[0]
    for share in found.shares:
        own = fit[share.candidate.address]
        assert (
            share.first is None
            if True not in own
            else share.first is not None and share.first[1] == own.index(True) + 1
        )
