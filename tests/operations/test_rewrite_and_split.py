"""Templates, rewrites and splits do to a text what they say."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fieldstick.errors import UsageError
from fieldstick.operations.rewrite import Rewrite, Rewriter, prepare_rewrite
from fieldstick.operations.split import Split, prepare_split
from fieldstick.suites.templates import Captured, TemplateError, read_template
from fieldstick.workspace import bare_pattern

if TYPE_CHECKING:
    from fieldstick.suites.suite import Pattern

TEXTS = st.text(st.sampled_from("ab,; 1é\N{GRINNING FACE}\n"), max_size=20)


def filled(template: str, **fields: str | None) -> str:
    def captured(name: str) -> Captured | None:
        text = fields[name]
        return None if text is None else Captured(text, f"<{text}>")

    return read_template(template).filled(captured)


@pytest.mark.parametrize(
    ("template", "made"),
    [
        ("{pass}", "LM-2207"),
        ("{{{pass}}}", "{LM-2207}"),
        ("{pass:last 4}", "2207"),
        ("{pass:first 2}", "LM"),
        ("{pass:mask}", "*******"),
        ("{pass:mask but last 4}", "***2207"),
        ("{pass:mask but first 2}", "LM*****"),
        ("{pass:mask but last 99}", "LM-2207"),
        ("{pass:last 0}|{pass:mask but last 0}", "|*******"),
        ("{pass:lower}{pass:upper}", "lm-2207LM-2207"),
        ("{pass:value}", "<LM-2207>"),
        ("[{gone}]", "[]"),
        ("{wide:mask but last 1}", "**é"),
    ],
)
def test_a_template_keeps_masks_and_leaves_out(template: str, made: str) -> None:
    assert filled(template, **{"pass": "LM-2207", "gone": None, "wide": "\N{GRINNING FACE}aé"}) == made


@pytest.mark.parametrize(
    ("template", "words"),
    [
        ("a { b", "lone { at 2; write {{ for one"),
        ("a } b", "lone } at 2; write }} for one"),
        ("{}", "a hole without a name at 0"),
        ("{plot:lst 3}", "'lst 3' is nothing a template can do with the field 'plot'"),
        ("{plot:mask but}", "'mask but' is nothing"),
    ],
)
def test_a_template_that_cannot_be_read_says_where(template: str, words: str) -> None:
    with pytest.raises(TemplateError, match=words.replace("{", r"\{").replace("}", r"\}").replace("(", r"\(")):
        read_template(template)


def test_a_template_that_names_no_field_names_the_nearest() -> None:
    with pytest.raises(TemplateError, match="the field 'plt', which the pattern does not have; the nearest is 'plot'"):
        read_template("{plt}").check(["plot", "moisture"])


EMPTY: Any = ("", (), (), ("rewrites",))


def rewriter(pattern: Pattern, template: str, times: Any = None) -> Rewriter:
    return prepare_rewrite(Rewrite("x", *EMPTY, pattern, read_template(template), times))


def rewrite(expression: str, template: str, text: str, *, times: str | None = None, **changes: Any) -> str:
    pattern = replace(bare_pattern(expression), reach="anywhere", **changes)
    found = rewriter(pattern, template, times).rewritten(text)
    for (start, end), (new_start, new_end) in found.places:
        assert found.before[start:end] != found.after[new_start:new_end] or found.before == found.after
    return found.after


@pytest.mark.parametrize(
    ("expression", "template", "changes", "becomes"),
    [
        (r"\d", "<{match}>", {}, "a<1>b<2>c<3>"),
        (r"\d", "<{match}>", {"times": "first"}, "a<1>b2c3"),
        (r"\d", "", {"take": "last"}, "a1b2c"),
        (r"\d", "", {"take": 2}, "a1bc3"),
        (r"(?P<l>[a-z])(?P<d>\d)", "{d}{l}", {}, "1a2b3c"),
        (r"x*", "-", {}, "-a-1-b-2-c-3-"),
        (r"z", "-", {}, "a1b2c3"),
    ],
)
def test_matches_are_replaced_as_asked(expression: str, template: str, changes: dict[str, Any], becomes: str) -> None:
    assert rewrite(expression, template, "a1b2c3", **changes) == becomes


@given(TEXTS)
def test_putting_each_match_in_its_own_place_changes_nothing(text: str) -> None:
    assert rewrite(r"[ab]+|1?", "{match}", text) == text


def test_steps_follow_one_another_and_places_are_told_for_one_alone() -> None:
    first = rewriter(bare_pattern("a", reach="anywhere"), "b")
    second = rewriter(bare_pattern("b", reach="anywhere"), "cc")
    both = Rewriter((*first.steps, *second.steps))
    found = both.rewritten("abx")
    assert (found.after, found.count, found.places) == ("ccccx", 3, ())
    assert both.rewritten("xb").places == (((1, 2), (1, 3)),)
    with pytest.raises(UsageError, match="has no match to replace"):
        none = replace(bare_pattern("a"), filling=None, combination="none_of", members=(bare_pattern("a"),))
        rewriter(none, "b")


def test_the_values_of_parameters_stand_for_themselves() -> None:
    pattern = bare_pattern("at {{=site}}", reach="anywhere")
    made = Rewrite("x", *EMPTY, pattern, read_template("here"))
    assert prepare_rewrite(made, {"site": "a.b"}).rewritten("at a.b, at axb").after == "here, at axb"
    with pytest.raises(UsageError, match="site"):
        prepare_rewrite(made)
    cut = prepare_split(Split("x", *EMPTY, pattern), {"site": "Fen"})
    assert cut.pieces("1 at Fen 2") == ("1 ", " 2")


def test_pieces_are_told_apart_one_by_one() -> None:
    split = Split("x", *EMPTY, bare_pattern(","))

    def told(expected: list[str], made: list[str]) -> list[tuple[str | None, Any, Any]]:
        return [(each.name, each.expected, each.captured) for each in split.differences(expected, made)]

    assert told(["a", "b"], ["a"]) == [("2", "b", None)]
    assert told(["a"], ["b", "c"]) == [("1", "a", "b"), ("2", None, "c")]


def pieces(text: str, *, keep: bool = False, drop: bool = False, expression: str = "[,;]") -> tuple[str, ...]:
    return prepare_split(Split("x", *EMPTY, bare_pattern(expression, reach="anywhere"), keep, drop)).pieces(text)


def test_a_text_is_cut_at_any_of_several_separators() -> None:
    assert pieces("vole; shrew,,mole;") == ("vole", " shrew", "", "mole", "")
    assert pieces("vole; shrew,,mole;", drop=True) == ("vole", " shrew", "mole")
    assert pieces("a;b", keep=True) == ("a", ";", "b")
    assert pieces("nothing here") == ("nothing here",)
    assert pieces("", drop=True) == () and pieces("") == ("",)
    assert pieces("RedDeerCalf", expression="(?=[A-Z])") == ("Red", "Deer", "Calf")


@given(TEXTS)
def test_pieces_and_separators_make_the_text_again(text: str) -> None:
    assert "".join(pieces(text, keep=True, expression=r"[,;]\s*|(?=1)")) == text
