"""Slips that people make when they write an expression, each done to a right one at every place where it can be.

They know nothing of how `why` looks for them.
"""

from __future__ import annotations

import re
import unicodedata
from itertools import pairwise
from typing import TYPE_CHECKING, NamedTuple

from fieldstick.syntax.parser import parse
from fieldstick.syntax.tree import (
    Alternation,
    Anchor,
    Backreference,
    Character,
    CharClass,
    Dot,
    Group,
    Node,
    Range,
    Repeat,
    Sequence,
    Shorthand,
    spelled,
    walk,
)

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from fieldstick.engines.protocol import Reach


class Setting(NamedTuple):
    """All that decides whether a text fits."""

    expression: str
    flags: frozenset[str] = frozenset()
    reach: Reach = "whole"


class Scene:
    """A right setting, read."""

    def __init__(self, right: Setting) -> None:
        self.right, self.expression = right, right.expression
        self.nodes = list(walk(parse(right.expression, right.flags).tree))
        self.in_class = {
            id(item) for node in self.nodes if isinstance(node, CharClass) for each in node.items for item in walk(each)
        }
        self.free = [node for node in self.nodes if id(node) not in self.in_class]

    def put(self, node_or_span: Node | tuple[int, int], new: str) -> Setting:
        """Return the setting with something else in the place of a node."""
        start, end = node_or_span.span if isinstance(node_or_span, Node) else node_or_span
        return self.right._replace(expression=self.expression[:start] + new + self.expression[end:])

    def sequences(self) -> Iterator[tuple[Node, ...]]:
        """Yield the items of each sequence."""
        for node in self.free:
            if isinstance(node, Sequence):
                yield node.items


SLIPS: dict[str, Callable[[Scene], Iterator[Setting]]] = {}
TEXT_SLIPS: dict[str, Callable[[str], Iterator[str]]] = {}


def slip(function: Callable[[Scene], Iterator[Setting]]) -> Callable[[Scene], Iterator[Setting]]:
    """Take a kind of slip in, by the name of its function."""
    SLIPS[function.__name__.replace("_", "-")] = function
    return function


def text_slip(function: Callable[[str], Iterator[str]]) -> Callable[[str], Iterator[str]]:
    """Take a kind of slip in the text in."""
    TEXT_SLIPS[function.__name__.replace("_", "-")] = function
    return function


@slip
def escape_forgotten(scene: Scene) -> Iterator[Setting]:
    """`(` for `\\(`; where both brackets of a pair are there, both."""
    for node in scene.free:
        if (
            isinstance(node, Character)
            and re.fullmatch(r"\\[^\w\s]", node.spelling)
            and node.spelling[1] in ".^$*+?{}[]()|"
        ):
            yield scene.put(node, node.spelling[1])
    for one, other in ((r"\(", r"\)"), (r"\[", r"\]"), (r"\{", r"\}")):
        start, end = scene.expression.find(one), scene.expression.find(other)
        if 0 <= start < end:
            inner = scene.expression[start + 2 : end]
            yield scene.put((start, end + 2), one[1] + inner + other[1])


@slip
def escapes_all_forgotten(scene: Scene) -> Iterator[Setting]:
    r"""`***` for `\*\*\*`."""
    for found in re.finditer(r"(?:\\[^\w\s]){2,}", scene.expression):
        yield scene.put(found.span(), found[0].replace("\\", ""))


@slip
def parenthesis_lost(scene: Scene) -> Iterator[Setting]:
    """One parenthesis of a group left out."""
    for node in scene.nodes:
        if isinstance(node, Group) and node.span[1] - node.span[0] > 3:
            yield scene.put((node.span[1] - 1, node.span[1]), "")
            if node.opening == "(":
                yield scene.put((node.span[0], node.span[0] + 1), "")


@slip
def parenthesis_too_many(scene: Scene) -> Iterator[Setting]:
    """A group closed twice."""
    for node in scene.nodes:
        if isinstance(node, Group):
            yield scene.put((node.span[1], node.span[1]), ")")
    yield scene.right._replace(expression=scene.expression + ")")


@slip
def range_backwards(scene: Scene) -> Iterator[Setting]:
    """`[9-0]`, `[a-Z]`."""
    for node in scene.nodes:
        if isinstance(node, Range):
            yield scene.put(node, f"{spelled(node.last)}-{spelled(node.first)}")
            if node.last.character == "z":
                yield scene.put(node, f"{spelled(node.first)}-Z")


@slip
def group_not_there(scene: Scene) -> Iterator[Setting]:
    """A reference to a group that is not there."""
    for node in scene.free:
        if isinstance(node, Backreference):
            yield scene.put(node, "\\9" if node.name is None else node.spelling.replace(node.name, node.name + "s"))


@slip
def quantifier_twice(scene: Scene) -> Iterator[Setting]:
    """`{2}+`, `+{3}`, `**`."""
    for node in scene.free:
        if isinstance(node, Repeat) and node.mode == "greedy":
            yield scene.put((node.span[1], node.span[1]), "*")
            if not node.quantifier.startswith("{"):
                yield scene.put((node.span[1], node.span[1]), "{2}")


@slip
def wrong_case(scene: Scene) -> Iterator[Setting]:
    """A letter written small or large."""
    for node in scene.free:
        if isinstance(node, Character) and node.spelling.isalpha() and len(node.character.swapcase()) == 1:
            yield scene.put(node, node.character.swapcase())
    for node in scene.nodes:
        if isinstance(node, Range) and node.first.character.isalpha():
            yield scene.put(node, spelled(node).swapcase())


@slip
def flag_forgotten(scene: Scene) -> Iterator[Setting]:
    """A flag that is not set."""
    for flag in sorted(scene.right.flags - {"verbose"}):
        yield scene.right._replace(flags=scene.right.flags - {flag})


@slip
def braces_as_parentheses(scene: Scene) -> Iterator[Setting]:
    """`(3)` for `{3}`; `[3]` too."""
    for node in scene.free:
        if isinstance(node, Repeat) and node.quantifier.startswith("{"):
            span = (node.span[1] - len(node.quantifier), node.span[1])
            inner = node.quantifier.strip("{}?+")
            yield scene.put(span, f"({inner})")
            yield scene.put(span, f"[{inner}]")
            if "," in inner:
                yield scene.put(span, "{" + inner.replace(",", "-") + "}")
                yield scene.put(span, "{" + inner.replace(",", ", ") + "}")


@slip
def count_too_tight(scene: Scene) -> Iterator[Setting]:
    """A bound off by one or two."""
    for node in scene.free:
        if isinstance(node, Repeat) and node.quantifier.startswith("{") and node.mode == "greedy":
            span = (node.span[1] - len(node.quantifier), node.span[1])
            if node.most is not None and node.least < node.most:
                yield scene.put(span, f"{{{node.least + 1},{node.most}}}")
                yield scene.put(span, f"{{{node.least},{node.most - 1}}}")
                yield scene.put(span, f"{{{node.most}}}")
                yield scene.put(span, f"{{{node.least}}}")
            elif node.most is None:
                yield scene.put(span, f"{{{node.least + 1},}}")
            elif node.least > 1:
                yield scene.put(span, f"{{{node.least - 1}}}")
                yield scene.put(span, f"{{{node.least + 1}}}")


@slip
def quantifier_forgotten(scene: Scene) -> Iterator[Setting]:
    """`\\d` for `\\d+`; `colour` for `colou?r`."""
    for node in scene.free:
        if isinstance(node, Repeat):
            yield scene.put((node.span[1] - len(node.quantifier), node.span[1]), "")


@slip
def one_or_more_for_any_number(scene: Scene) -> Iterator[Setting]:
    """`+` for `*`, and the other way round."""
    for node in scene.free:
        if isinstance(node, Repeat) and node.quantifier in ("*", "+"):
            yield scene.put((node.span[1] - 1, node.span[1]), "+" if node.quantifier == "*" else "*")


@slip
def class_lacks(scene: Scene) -> Iterator[Setting]:
    """A class without one of its members."""
    for node in scene.free:
        if isinstance(node, CharClass) and len(node.items) > 1 and not node.negated:
            for item in node.items:
                yield scene.put(item, "")


@slip
def class_takes_too_much(scene: Scene) -> Iterator[Setting]:
    """`.*` for `[^\"]*`; `\\w` for `[A-F]` or `\\d`; `.` for a class."""
    for node in scene.free:
        if isinstance(node, CharClass) and node.negated:
            yield scene.put(node, ".")
        elif isinstance(node, CharClass) and all(isinstance(each, Range) for each in node.items):
            first = node.items[0]
            assert isinstance(first, Range)
            yield scene.put(node, "\\d" if first.first.character.isdigit() else "\\w")
        elif isinstance(node, Shorthand) and node.spelling == "\\d":
            yield scene.put(node, "\\w")
            yield scene.put(node, ".")
        elif isinstance(node, Shorthand) and node.spelling == "\\w":
            yield scene.put(node, ".")


@slip
def anchor_forgotten(scene: Scene) -> Iterator[Setting]:
    """An anchor or boundary left out; the reach too wide."""
    for node in scene.free:
        if isinstance(node, Anchor):
            yield scene.put(node, "")
    if scene.right.reach == "whole":
        yield scene.right._replace(reach="anywhere")


@slip
def reach_too_narrow(scene: Scene) -> Iterator[Setting]:
    """The whole text asked for where a match may lie anywhere."""
    if scene.right.reach == "anywhere":
        yield scene.right._replace(reach="whole")


@slip
def anchor_too_many(scene: Scene) -> Iterator[Setting]:
    """A boundary where none is."""
    for node in scene.free:
        if isinstance(node, Character) and not node.character.isalnum() and node.character != "_":
            yield scene.put(node, spelled(node) + "\\b" + "")
            yield scene.put(node, "\\b" + spelled(node))


@slip
def letter_wrong(scene: Scene) -> Iterator[Setting]:
    """A word misspelled: two letters swapped, one left out, one twice."""
    for items in scene.sequences():
        for one, other in pairwise(items):
            letters = isinstance(one, Character) and isinstance(other, Character)
            if letters and one.spelling.isalpha() and other.spelling.isalpha() and one.spelling != other.spelling:
                yield scene.put((one.span[0], other.span[1]), other.spelling + one.spelling)
                yield scene.put(one, "")
                yield scene.put(one, one.spelling * 2)


@slip
def dot_unescaped(scene: Scene) -> Iterator[Setting]:
    """A point that takes any character."""
    for node in scene.free:
        if isinstance(node, Character) and node.spelling == r"\.":
            yield scene.put(node, ".")


@slip
def dot_escaped(scene: Scene) -> Iterator[Setting]:
    """Any character written as a point."""
    for node in scene.free:
        if isinstance(node, Dot):
            yield scene.put(node, r"\.")


@slip
def branches_not_grouped(scene: Scene) -> Iterator[Setting]:
    """`north|quarry gate` for `(?:north|quarry) gate`."""
    for node in scene.free:
        if isinstance(node, Group) and isinstance(node.body, Alternation) and node.kind in ("plain", "capture"):
            yield scene.put(node, spelled(node.body))


@slip
def pieces_swapped(scene: Scene) -> Iterator[Setting]:
    """Two pieces in the other order: days and months, values parted by a mark."""
    for items in scene.sequences():
        big = [each for each in items if isinstance(each, Group | Repeat)]
        for one, other in pairwise(big):
            if spelled(one) != spelled(other):
                between = scene.expression[one.span[1] : other.span[0]]
                yield scene.put((one.span[0], other.span[1]), spelled(other) + between + spelled(one))


@slip
def wrong_group(scene: Scene) -> Iterator[Setting]:
    """A backreference to another group."""
    for node in scene.free:
        if isinstance(node, Backreference) and node.name is None:
            for number in (node.number - 1, node.number + 1):
                if number > 0:
                    yield scene.put(node, f"\\{number}")


@slip
def backslashes_doubled(scene: Scene) -> Iterator[Setting]:
    """All backslashes as another language's text has them."""
    if "\\" in scene.expression:
        yield scene.right._replace(expression=scene.expression.replace("\\", "\\\\"))


@slip
def delimiters_along(scene: Scene) -> Iterator[Setting]:
    """Pasted with what encloses it elsewhere."""
    flags = "i" if "ignore-case" in scene.right.flags else ""
    bare = scene.right._replace(flags=scene.right.flags - {"ignore-case"})
    yield bare._replace(expression=f"/{scene.expression}/{flags}")
    yield bare._replace(expression=f"/^{scene.expression}$/{flags}")
    yield scene.right._replace(expression=f'r"{scene.expression}"')


@slip
def shorthand_inverted(scene: Scene) -> Iterator[Setting]:
    """`\\D` for `\\d`, `\\B` for `\\b`."""
    for node in scene.nodes:
        if (isinstance(node, Shorthand) and len(node.spelling) == 2) or (
            isinstance(node, Anchor) and node.spelling in (r"\b", r"\B")
        ):
            yield scene.put(node, node.spelling.swapcase())


@slip
def backslash_forgotten(scene: Scene) -> Iterator[Setting]:
    """`d+` for `\\d+`, `/d+` too."""
    for node in scene.nodes:
        if isinstance(node, Shorthand) and len(node.spelling) == 2:
            yield scene.put(node, node.spelling[1])
            if id(node) not in scene.in_class:
                yield scene.put(node, "/" + node.spelling[1])


@slip
def word_in_class(scene: Scene) -> Iterator[Setting]:
    """`[north|quarry]` for `(?:north|quarry)`, `[cm]` for `cm`."""
    for node in scene.free:
        if isinstance(node, Group) and isinstance(node.body, Alternation):
            inner = spelled(node.body)
            if re.fullmatch(r"[\w |-]+", inner):
                yield scene.put(node, f"[{inner}]")


@slip
def bar_in_class(scene: Scene) -> Iterator[Setting]:
    """`[a|b]` for `[ab]`."""
    for node in scene.free:
        if isinstance(node, CharClass) and len(node.items) > 1 and not node.negated:
            yield scene.put(node, "[" + "|".join(map(spelled, node.items)) + "]")


@slip
def range_unseen(scene: Scene) -> Iterator[Setting]:
    """`[+-/]` takes more than three marks, `[A-z]` more than letters."""
    for node in scene.free:
        if isinstance(node, CharClass) and not node.negated:
            inner = spelled(node)[1:-1]
            if "A-Za-z" in inner or "a-zA-Z" in inner:
                yield scene.put(node, "[" + inner.replace("A-Za-z", "A-z").replace("a-zA-Z", "A-z") + "]")
            marks = [each for each in node.items if isinstance(each, Character) and not each.character.isalnum()]
            others = [each for each in marks if each.character != "-"]
            if len(marks) > len(others) and len(others) > 1:
                low, high = sorted((others[0].character, others[1].character))
                gone = (*others[:2], *(each for each in marks if each.character == "-"))
                rest = [spelled(each) for each in node.items if each not in gone]
                yield scene.put(node, f"[{''.join(rest)}{low}-{high}]")


@slip
def separator_left_outside(scene: Scene) -> Iterator[Setting]:
    """`-(?:\\d+)?` for `(?:-\\d+)?`; `\\.?\\d*` left."""
    for node in scene.free:
        if isinstance(node, Repeat) and (node.least, node.most) == (0, 1) and isinstance(node.item, Group):
            body = node.item.body
            if isinstance(body, Sequence) and isinstance(body.items[0], Character) and len(body.items) > 1:
                first, rest = spelled(body.items[0]), scene.expression[body.items[1].span[0] : body.span[1]]
                yield scene.put(node, f"{first}{node.item.opening}{rest})?")
                if re.fullmatch(r"\\d\+?|\\d\{\d\}", rest):
                    yield scene.put(node, f"{first}{rest.replace('+', '')}?")


@slip
def option_forgotten(scene: Scene) -> Iterator[Setting]:
    """An optional piece that is asked for."""
    for node in scene.free:
        if isinstance(node, Repeat) and (node.least, node.most) == (0, 1):
            yield scene.put(node, spelled(node.item))


@slip
def number_as_range(scene: Scene) -> Iterator[Setting]:
    """`[1-12]` for `(?:[1-9]|1[0-2])`."""
    for node in scene.free:
        if isinstance(node, Group) and isinstance(node.body, Alternation):
            options = [spelled(each) for each in node.body.options]
            if all(re.fullmatch(r"[\d\[\]\\d-]+", each) for each in options):
                digits = re.findall(r"\d", "".join(options))
                yield scene.put(node, f"[{digits[0]}-{digits[-1]}{digits[-1]}]")


@slip
def look_alike_in_expression(scene: Scene) -> Iterator[Setting]:
    """A dash, quote or letter that looks the same."""
    doubles = {
        "-": "\u2013",
        "'": "\u2019",
        '"': "\u201d",
        "a": "\u0430",
        "e": "\u0435",
        "o": "\u043e",
        "B": "\u0412",
        "M": "\u041c",
        " ": "\u00a0",
    }
    for node in scene.free:
        if isinstance(node, Character) and node.spelling in doubles:
            yield scene.put(node, doubles[node.spelling])


@slip
def decomposed(scene: Scene) -> Iterator[Setting]:
    """Letters with their accents as two characters."""
    other = unicodedata.normalize("NFD", scene.expression)
    if other != scene.expression:
        yield scene.right._replace(expression=other)


@slip
def verbose_without_flag(scene: Scene) -> Iterator[Setting]:
    """Laid out over lines, without the flag."""
    for items in scene.sequences():
        if len(items) > 3 and " " not in scene.expression:
            cut = items[len(items) // 2].span[0]
            yield scene.right._replace(expression=f"{scene.expression[:cut]}   {scene.expression[cut:]}")
            yield scene.right._replace(expression=f"{scene.expression[:cut]} # the rest\n{scene.expression[cut:]}")


@slip
def blank_for_white_space(scene: Scene) -> Iterator[Setting]:
    r"""One blank for ` +` or `\s*`."""
    for node in scene.free:
        if isinstance(node, Repeat) and spelled(node.item) in (r"\s", " "):
            yield scene.put(node, " ")
            if not any(isinstance(each, Group) and each.body is node for each in scene.free):
                yield scene.put(node, "")


@slip
def quantifier_for_one(scene: Scene) -> Iterator[Setting]:
    """`ab+` for `(?:ab)+`."""
    for node in scene.free:
        if isinstance(node, Repeat) and isinstance(node.item, Group) and isinstance(node.item.body, Sequence):
            yield scene.put(node, spelled(node.item.body) + node.quantifier)


@slip
def piece_forgotten(scene: Scene) -> Iterator[Setting]:
    """A piece that is not there."""
    for items in scene.sequences():
        for item in items:
            if isinstance(item, Character | Shorthand | CharClass):
                yield scene.put(item, "")


@slip
def class_negated(scene: Scene) -> Iterator[Setting]:
    """`[^...]` for `[...]`, and the other way round."""
    for node in scene.free:
        if isinstance(node, CharClass):
            inner = spelled(node)[1:-1].removeprefix("^")
            yield scene.put(node, f"[{inner}]" if node.negated else f"[^{inner}]")


@slip
def branch_forgotten(scene: Scene) -> Iterator[Setting]:
    """A branch that is not there."""
    for node in scene.free:
        if isinstance(node, Alternation) and len(node.options) > 2:
            for option in node.options:
                yield scene.put(node, "|".join(spelled(each) for each in node.options if each is not option))


@text_slip
def blank_at_the_end(text: str) -> Iterator[str]:
    """White space that came along."""
    yield text + " "
    yield text + "\t"
    yield "  " + text


@text_slip
def look_alike_in_text(text: str) -> Iterator[str]:
    """A dash, blank or letter that looks the same."""
    for one, other in (
        ("-", "\u2013"),
        (" ", "\u00a0"),
        ("a", "\u0430"),
        ("B", "\u0412"),
        ("'", "\u2019"),
        ("o", "\u043e"),
        ("C", "\u0421"),
    ):
        if one in text:
            yield text.replace(one, other, 1)


@text_slip
def decomposed_in_text(text: str) -> Iterator[str]:
    """Letters with their accents as two characters."""
    other = unicodedata.normalize("NFD", text)
    if other != text:
        yield other
