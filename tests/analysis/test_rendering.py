"""Expressions written for other engines: the spelling that means the same, and the reason where there is none."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest

from fieldstick.analysis.rendering.writing import NotCarried, rendered

if TYPE_CHECKING:
    from fieldstick.engines.protocol import Reach


@pytest.mark.parametrize(
    ("expression", "flags", "reach", "target", "there"),
    [
        # Names of groups, anchors, flags, verbose notation.
        (r"(?P<row>[A-F])", "", "anywhere", "ecmascript", "(?<row>[A-F])"),
        (r"(?P<row_1>[A-F])", "", "anywhere", "java", "(?<row1>[A-F])"),
        (r"(?P<row>a)(b)", "", "anywhere", "ruby", "(?<row>a)(?<group2>b)"),
        (r"(?P<row>a)", "", "anywhere", "postgres", "(a)"),
        (r"\Aa\Z", "", "anywhere", "ecmascript", "^a$"),
        (r"\Aa\Z", "", "anywhere", "pcre2", r"\Aa\z"),
        ("a$", "", "anywhere", "java", r"a(?=\n?\z)"),
        ("a$", "", "anywhere", "ruby", r"a\Z"),
        ("^a$", "", "whole", "xsd", "a"),
        ("(?:^a|b)$", "", "whole", "xsd", "(a|b)"),
        ("^a$", "m", "anywhere", "re2", "(?m:^)a(?m:$)"),
        ("^a$", "m", "anywhere", "ecmascript", r"(?<![^\n])a(?![^\n])"),
        (" a  b # plot\n c", "x", "anywhere", "ecmascript", "abc"),
        (r"a\ b[ ]", "x", "anywhere", "re2", "a b "),
        # Characters by their codes, classes, shorthands.
        (r"\x41\u2032\U0001F426", "", "anywhere", "ecmascript", "A′🐦"),
        (r"\x00\x1b\u200b", "", "anywhere", "pcre2", r"\x00\x1B\x{200B}"),
        (r"\x1b\u200b", "", "anywhere", "ecmascript", r"\x1B\u{200B}"),
        (r"\x1b\u200b", "", "anywhere", "ruby", r"\x1B\u{200B}"),
        (r"\d\D", "", "anywhere", "ecmascript", r"\p{Nd}\P{Nd}"),
        (r"\d", "a", "anywhere", "ecmascript", r"\d"),
        (r"\d", "a", "anywhere", "rust", "[0-9]"),
        (r"\w", "", "anywhere", "pcre2", r"[\p{L}\p{N}_]"),
        (r"[^\W\d_]", "", "anywhere", "ecmascript", r"[\p{L}\p{Nl}\p{No}]"),
        (r"[\w-]", "", "anywhere", "ecmascript", r"[\p{L}\p{N}_\-]"),
        (r"[-+/]", "", "anywhere", "sqlite", "[-+/]"),
        (r"[]a^]", "", "anywhere", "ecmascript", r"[\]a\^]"),
        (r"[&&~]", "", "anywhere", "ecmascript-v", r"[\&\&\~]"),
        (".", "", "anywhere", "ecmascript", r"[^\n]"),
        (".", "s", "anywhere", "ecmascript", r"[\s\S]"),
        (".", "", "anywhere", "re2", "."),
        ("a/b", "", "anywhere", "ecmascript", r"a\/b"),
        # Case.
        ("(?i)ab", "", "anywhere", "pcre2", "ab"),
        ("kg", "i", "anywhere", "java", "[Kk\u212a][Gg]"),
        ("a(?i:b)c", "", "anywhere", "ecmascript", "a[Bb]c"),
        # Quantifiers, groups.
        ("a{,3}b{2,2}c{1}", "", "anywhere", "java", "a{0,3}b{2}c"),
        ("a+?b*?", "", "whole", "xsd", "a+b*"),
        ("a++b?+", "", "anywhere", "pcre2", "a++b?+"),
        ("(?:ab)++", "", "anywhere", "oniguruma", "(?>(?>ab)+)"),
        ("(?>a+)(b)\\1", "", "anywhere", "ecmascript", r"(?:(?=(a+))\1)(b)(?:\2)"),
        ("(?:a|b)(?:c)", "", "anywhere", "sqlite", "(a|b)c"),
        (r"(?P<c>\w)(?P=c)", "a", "anywhere", "ruby", r"(?<c>\w)\k<c>"),
        (r"(a)(?:\1)1", "", "anywhere", "perl", r"(a)(?:\1)1"),
        ("(<)?a(?(1)>|b)", "", "anywhere", "php", "(<)?a(?(1)>|b)"),
        ("a{0}b", "", "anywhere", "python", "b"),
        ("(?#mark)a", "", "anywhere", "re2", "a"),
    ],
)  # fmt: skip
def test_an_expression_is_written_so_that_it_means_the_same(
    expression: str, flags: str, reach: Reach, target: str, there: str
) -> None:
    names = {"i": "ignore-case", "m": "multiline", "s": "dotall", "x": "verbose", "a": "ascii"}
    reach = "whole" if target in ("xsd", "sqlite") else reach
    assert rendered(expression, frozenset(names[each] for each in flags), target, reach=reach).expression == there


@pytest.mark.parametrize(
    ("expression", "reach", "target", "reason", "piece"),
    [
        ("a(?=b)", "anywhere", "re2", "re2 has no look-ahead", "(?=b)"),
        ("(?<!a)b", "anywhere", "rust", "rust has no look-behind", "(?<!a)"),
        (r"(a)\1", "anywhere", "re2", "re2 has no references", r"\1"),
        ("(?>a+)b", "anywhere", "re2", "re2 has nothing that gives nothing back", "(?>a+)"),
        ("a$", "anywhere", "re2", "re2 has no words for this place", "$"),
        ("a{2000}", "anywhere", "re2", "re2 counts to 1,000 alone", "a{2000}"),
        ("a|ab", "anywhere", "postgres", "postgres takes the longest match, not the first that is found", "a|ab"),
        (r"(a)?\1", "anywhere", "ecmascript", "a reference to a group that took no part fits nothing", r"\1"),
        ("(?:(a)|b)*", "anywhere", "ecmascript", "ecmascript has it otherwise", "(?:(a)|b)*"),
        ("(a*)*", "anywhere", "ecmascript", "ecmascript reads a repeat of what may be empty otherwise", "(a*)*"),
        ("(<)?a(?(1)>|b)", "anywhere", "java", "java has no options that depend on a group", "(?(1)>|b)"),
        (r"\w+", "whole", "sqlite", "sqlite has no words for these characters", r"\w"),
        ("a", "anywhere", "xsd", "xsd judges whole values alone", "a"),
    ],
)
def test_what_cannot_be_kept_is_refused_with_the_reason_and_the_place(
    expression: str, reach: Reach, target: str, reason: str, piece: str
) -> None:
    with pytest.raises(NotCarried) as caught:
        rendered(expression, frozenset(), target, reach=reach)
    assert reason in caught.value.reason
    assert expression[slice(*caught.value.span)] == piece


def test_groups_are_told_by_the_numbers_and_names_that_they_have_there() -> None:
    found = rendered(r"(?>a+)(?P<plot_no>b)(c)", frozenset(), "ecmascript")
    assert found.numbers == (2, 3) and found.names == ("plot_no", None)
    assert found.notes == ("groups have other numbers there",)
    java = rendered(r"(?P<plot_no>b)(?P<_>c)", frozenset(), "java")
    assert java.numbers == (1, 2) and java.names == ("plotno", "group2")
    assert java.notes == ("the group plot_no is plotno there", "the group _ is group2 there")
    assert rendered("(?P<n>a)", frozenset(), "postgres").notes == ("the group n is number 1 there",)
    assert rendered("(a)", frozenset(), "xsd", reach="whole").numbers == (None,)


def test_what_other_engines_write_is_read_as_they_mean_it() -> None:
    plain: frozenset[str] = frozenset()
    assert rendered(r"(?<row>\d+)\z", plain, "python", source="pcre2").expression == r"(?P<row>[0-9]+)\Z"
    assert rendered(r"\h+\R", plain, "python", source="perl").expression.endswith(
        r"]+(?>\r\n|[\n-\r\u0085\u2028\u2029])"
    )
    assert rendered(r"\Qa.b\E.", plain, "python", source="java").expression == r"a\.b[^\n\r\u0085\u2028\u2029]"
    assert rendered("a$", plain, "python", source="ecmascript").expression == r"a\Z"
    assert rendered("^a$", plain, "python", source="ruby").expression == r"(?:\A|(?<=\n)(?!\Z))a(?m:$)"
    assert rendered("[[:alpha:]_]", plain, "python", source="re2").expression == "[A-Za-z_]"
    assert rendered("^a", frozenset({"multiline"}), "python", source="node").expression.endswith(r"u2028\u2029]))a")
    with pytest.raises(NotCarried, match="number their groups alike"):
        rendered("(?|(a)|(b))", plain, "python", source="pcre2")


@pytest.mark.parametrize(
    ("engine", "expression", "written"),
    [
        ("java", "[a-z&&[^q]]", "[a-pr-z]"),
        ("ruby", "[a-z&&[^aeiou]&&[^q-t]]", "[b-df-hj-npv-z]"),
        ("rust", "[a-f~~d-h]", "[a-cgh]"),
        ("rust", "[a-f--[bc]]", "[ad-f]"),
        ("xsd", "[a-z-[aeiou]]", "[b-df-hj-np-tv-z]"),
        ("dotnet", "[^a-c-[x]]", "[^a-cx]"),
        ("pcre2", "[+-[]", r"[+-\[]"),
    ],
)
def test_combined_classes_of_another_engine_are_written_out(engine: str, expression: str, written: str) -> None:
    assert rendered(expression, frozenset(), "python", source=engine).expression == written


@pytest.mark.parametrize(
    ("engine", "flags"),
    [("ecmascript-v", ("ignore-case",)), ("java", ("ignore-case",)), ("java-unicode", ("ignore-case",))],
)
def test_classes_that_an_engine_combines_otherwise_are_refused(engine: str, flags: tuple[str, ...]) -> None:
    with pytest.raises(NotCarried, match=r"&& between classes|combined while case is let go"):
        rendered("[a-z&&[^q]]", frozenset(flags), "python", source=engine)
