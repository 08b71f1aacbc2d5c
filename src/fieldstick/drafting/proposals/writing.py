"""Writes the forms of texts as an expression, as tight or as loose as is asked, and names its fields."""

from __future__ import annotations

import re
from collections import Counter
from typing import TYPE_CHECKING, Any, Literal

from fieldstick.drafting.context import class_spelling, escaped, quantifier
from fieldstick.drafting.proposals.cutting import SPECIAL
from fieldstick.drafting.proposals.forms import form_of
from fieldstick.drafting.proposals.pieces import Choice, Piece

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.pieces import Form

Level = Literal["tight", "middle", "loose"]
LEVELS: tuple[Level, ...] = ("tight", "middle", "loose")

MOST_CHOICES = 8
"""Different words up to which a piece is a choice of them."""

ONCE = 10
"""One in so many words may have been seen but once, where all that there are are listed."""

MOST_MARKED = 3
"""Different words with marks or digits in them up to which they are a choice."""

FEWEST_OF_OPTION = 2
"""Texts from which on a word that not all of them have is no chance."""

REPEATED = 3
"""How often each word of a choice must be there, taken together."""

FEWEST_HEXADECIMAL = 4
"""Different letters of a number of base 16 from which on it is taken for one."""

FEWEST_OF_SOME_DIGITS = 8
"""Different numbers of some of the digits alone from which on no others are taken."""

BY_CHANCE = 0.03
"""How likely something may be by chance that is taken to be meant."""

NEW_MARK = {"tight": 0.4, "middle": 0.2, "loose": 0.1}
"""How likely a mark may be that no example has, for a class that lists those that they have."""

MOST_MARKS = 1
"""Different marks in a gap up to which they are listed."""

_RUNS = re.compile(r"\d+|[^\W\d_]+")

Table = dict[str, Any]


class Writer:
    """Writes forms as an expression of a level; `fields` are the tables of its fields by name."""

    def __init__(self, level: Level) -> None:
        self._level = level
        self.fields: dict[str, Table] = {}
        self._names: Counter[str] = Counter()
        self._support = 1
        """How many texts there are of the commonest form."""
        self._open = ("", "")
        """The name of the last field, and what it is spelled with."""

    def written(self, forms: Sequence[Form]) -> str:
        """Return the expression."""
        pieces = [each for form in forms for each in form if isinstance(each, Piece)]
        self._support = max((len(each.values) for each in pieces), default=1)
        made = dict.fromkeys(self._form(form, named=len(forms) == 1) for form in forms)
        return "|".join(made)

    def _form(self, form: Form | list[Piece], *, named: bool) -> str:
        found: list[str] = []
        before, joined, field_at = "", False, -1
        for each in form:
            if isinstance(each, Choice):
                joined, field_at, before = False, -1, ""
                several = "|".join(dict.fromkeys(self._form(one, named=False) for one in each.forms))
                found.append(f"(?:{several}){'?' * each.may_lack}")
                continue
            if isinstance(each, list):
                joined, field_at = False, -1
                again = each[0].kind == "again"
                inner = self._form(each[1:] if again else each, named=named and not again)
                single = len(each) == 1 and len(inner.removeprefix("\\")) == 1
                found.append(f"{inner}?" if single else f"(?:{inner}){'*' if again else '?'}")
                continue
            spelled, name, table = self._piece(each)
            if named and name and joined and field_at >= 0:
                # Letters and digits that stand together are one value.
                field, inner = self._open
                self.fields.pop(field, None)
                found[field_at] = f"(?P<{field}>{inner}{spelled})"
                self._open = (field, inner + spelled)
            elif named and name:
                field = self._named(before or name, table)
                field_at = len(found)
                self._open = (field, spelled)
                found.append(f"(?P<{field}>{ungrouped(spelled)})")
            else:
                found.append(spelled)
                field_at = -1
            joined = each.kind in ("number", "word", "chunk")
            field_at = field_at if joined else -1
            before = _before(each, before)
        return "".join(found)

    def _piece(self, piece: Piece) -> tuple[str, str, Table]:
        """Return how a piece is spelled, the name of the field that it is, if it is one, and the field's table."""
        kind, values = piece.kind, piece.values
        if kind in SPECIAL:
            special = SPECIAL[kind]
            return special.spelled, special.name, special.table
        if kind == "gap":
            if len(set(values)) == 1 and len(values) >= REPEATED:
                return _literal(values[0]), "", {}
            return self._gap(piece), "text", {}
        if kind == "blank":
            return self._blank(values), "", {}
        if kind == "mark":
            marks = sorted(set(values), key=lambda each: (each == "-", each))
            inner = "".join(map(class_spelling, marks))
            return escaped(marks[0]) if len(marks) == 1 else f"[{inner}]", "", {}
        if kind.startswith("key "):
            different = sorted(set(values))
            return (_literal(different[0]), "", {}) if len(different) == 1 else (_choice_of(different), "word", {})
        if kind not in ("number", "word", "chunk"):
            return escaped(kind), "", {}
        if len(set(values)) == 1 and self._stays(kind, values):
            return _literal(values[0]), "", {}
        if kind == "number" or all(map(str.isdecimal, values)):
            spelled, table = self._number(values)
            return spelled, "number", table
        if piece.until and _is_enclosed(values, piece.until):
            return f"[^{class_spelling(piece.until)}]{'*' if '' in values else '+'}", "text", {}
        return self._word(values), "word" if all(map(_is_word, values)) else "text", {}

    def _stays(self, kind: str, values: list[str]) -> bool:
        """Tell whether the only value that a piece has is no chance: it came again, or every text has the word."""
        if len(values) >= REPEATED:
            return True
        return kind != "number" and values[0].isalpha() and len(values) >= min(self._support, FEWEST_OF_OPTION)

    def _named(self, name: str, table: Table) -> str:
        """Return a name for a field that none has yet, and keep what it is."""
        bare = field_name(name)
        self._names[bare] += 1
        unique = bare if self._names[bare] == 1 else f"{bare}{self._names[bare]}"
        if table:
            self.fields[unique] = table
        return unique

    def _blank(self, values: list[str]) -> str:
        if set(values) == {" "} and self._level != "loose":
            return " "
        return " +" if set("".join(values)) == {" "} else r"\s+"

    def _number(self, values: list[str]) -> tuple[str, Table]:
        """Return how numbers are spelled, and the table of their field."""
        sign = _sign(values)
        cut = [re.split("[eE]", each.lstrip("+-"), maxsplit=1) for each in values]
        bare, exponents = [each[0] for each in cut], [each[1] for each in cut if len(each) == 2]
        spelled, table = self._grouped(bare) or self._plain_number(bare)
        if exponents:
            letters = sorted({each[0] for value in values for each in re.findall("[eE]", value)})
            letter = letters[0] if len(letters) == 1 else f"[{''.join(letters)}]"
            digits = [each.lstrip("+-") for each in exponents]
            exponent = rf"{letter}{_sign(exponents)}\d{self._amount({*map(len, digits)}, len(digits))}"
            spelled += f"(?:{exponent})?" if len(exponents) < len(values) else exponent
            table = {"type": "decimal"} if table.get("decimal_mark", ".") == "." else {}
        return sign + spelled, table

    def _grouped(self, bare: list[str]) -> tuple[str, Table] | None:
        """Return how numbers with groups of three digits are spelled, and their table; None where they are no such."""
        for group, point in ((",", "."), (".", ",")):
            grouped = re.compile(rf"\d{{1,3}}(?:{re.escape(group)}\d{{3}})+(?:{re.escape(point)}\d+)?")
            plain = re.compile(rf"\d+(?:{re.escape(point)}\d+)?")
            of_groups = [each for each in bare if grouped.fullmatch(each)]
            # A point before three digits may be the decimal one: two groups, or a comma after them, tell.
            sure = [each for each in of_groups if group == "," or point in each or each.count(group) > 1]
            others = [each for each in bare if not grouped.fullmatch(each)]
            if not sure or not all(map(plain.fullmatch, others)):
                continue
            short = all(len(re.split(re.escape(point), each)[0]) <= 3 for each in others)
            inner = rf"\d{{1,3}}(?:{escaped(group)}\d{{3}})"
            spelled = f"{inner}*" if short else rf"(?:{inner}+|\d+)"
            parts = [each.rpartition(point)[2] for each in bare if point in each]
            if not parts:
                return spelled, {"type": "integer", "group_mark": group}
            fraction = rf"{escaped(point)}\d{self._amount({*map(len, parts)}, len(parts))}"
            table = {"type": "decimal", "group_mark": group, **({"decimal_mark": ","} if point == "," else {})}
            return spelled + (f"(?:{fraction})?" if len(parts) < len(bare) else fraction), table
        return None

    def _plain_number(self, bare: list[str]) -> tuple[str, Table]:
        cut = [re.split("[.,]", each) for each in bare]
        marks = {mark for each in bare for mark in each if mark in ".,"}
        if not marks:
            zeros = any(len(each) > 1 and each.startswith("0") for each in bare)
            return self._digits(bare), {} if zeros else {"type": "integer"}
        lengths = {len(each[0]) for each in cut}
        whole = r"\d*" if 0 in lengths else rf"\d{self._amount(lengths, len(bare))}"
        parts = [each[1] for each in cut if len(each) == 2]
        fraction = rf"\d{self._amount({len(each) for each in parts}, len(parts))}"
        mark = escaped(marks.pop()) if len(marks) == 1 else "[.,]"
        tables: dict[str, Table] = {r"\.": {"type": "decimal"}, ",": {"type": "decimal", "decimal_mark": ","}}
        spelled = f"{mark}{fraction}"
        return f"{whole}{f'(?:{spelled})?' if len(parts) < len(bare) else spelled}", tables.get(mark, {})

    def _gap(self, piece: Piece) -> str:
        """Spell what takes anything that stands between what all texts share."""
        values, stop = piece.values, piece.until[:1]
        used = set("".join(values))
        filled = [each for each in values if each]
        form = form_of(filled)
        if form is not None and len(filled) >= REPEATED:
            inner = self._form(form, named=False)
            return inner if len(filled) == len(values) else f"(?:{inner})?"
        amount = "*" if "" in values else "+"
        marks = {each for each in used if not each.isalnum()}
        if len(marks) > MOST_MARKS or not all(each.isascii() for each in used):
            return f"[^{class_spelling(stop)}]{amount}" if stop and stop not in used else f".{amount}"
        if not marks and not any(map(str.isdigit, used)) and "" not in values:
            return self._word(values)
        digits = "0-9" if any(map(str.isdigit, used)) else ""
        kinds = digits + _letters(set(filter(str.isupper, used))) + _letters(set(filter(str.islower, used)))
        inner = r"\w" if self._level == "loose" and kinds else kinds
        others = "".join(class_spelling(each) for each in sorted(marks, key=lambda each: each == "-"))
        return f"[{inner}{others}]{amount}"

    def _word(self, values: list[str]) -> str:
        """Spell what takes words like some: a choice, the runs that they are made of, or one class."""
        if "" in values:
            return _class_of(values, self._level) + "*"
        different = sorted(set(values))
        if self._level != "loose" and max(map(len, different)) > 1 and self._is_choice(values):
            return _choice_of(different)
        shapes = {tuple(_run_kind(run) for run in _RUNS.findall(each)) for each in different}
        if len(shapes) == 1 and self._level != "loose" and all(map(str.isalnum, different)):
            rows = [_RUNS.findall(each) for each in values]
            return "".join(self._run([row[place] for row in rows]) for place in range(len(rows[0])))
        not_first = _never_first(values) if self._level != "loose" else set()
        if not_first:
            heads = ["".join(each for each in value if _kind_of(each) not in not_first) for value in values]
            rests = [each[1:] for each in values]
            amount = self._amount({len(each) for each in rests}, len(values)) if all(rests) else "*"
            head, rest = _class_of(heads, self._level), _class_of(list(filter(None, rests)), self._level)
            return ("[A-Za-z_]" if (head, rest) == ("[A-Za-z]", r"\w") else head) + rest + amount
        return _class_of(values, self._level) + self._amount({len(each) for each in values}, len(values))

    def _is_choice(self, values: list[str]) -> bool:
        """Tell whether words are likely all that there are: each came often, or of all of them hardly one but once."""
        times = Counter(values)
        if len(times) > MOST_CHOICES:
            return False
        if all(map(str.isalpha, times)):
            # What share words have that were not seen, those tell that were seen once (Good 1953).
            once = sum(count == 1 for count in times.values())
            rarely = self._level == "tight" and len(values) >= 2 * len(times) and once * ONCE <= len(values)
            return rarely or len(values) >= REPEATED * len(times)
        return len(times) <= MOST_MARKED and min(times.values()) >= REPEATED

    def _run(self, values: list[str]) -> str:
        """Spell a run of digits or of letters."""
        if len(set(values)) == 1 and len(values) >= REPEATED and not values[0].isdigit():
            return values[0]
        if values[0][0].isdigit():
            return self._digits(values)
        if _run_kind(values[0]) == "Aa":
            rests = {len(each) - 1 for each in values}
            return _class_of([each[0] for each in values], self._level) + "[a-z]" + self._amount(rests, len(values))
        return _class_of(values, self._level) + self._amount({len(each) for each in values}, len(values))

    def _digits(self, values: list[str]) -> str:
        lengths = {len(each) for each in values}
        if self._level == "tight" and len(lengths) == 1:
            # A first digit that is but few of ten, as the tens of hours, says so.
            heads, size = sorted({each[0] for each in values}), lengths.pop()
            if size > 1 and len(heads) <= 3 and len(values) >= 5 * len(heads):
                head = heads[0] if len(heads) == 1 else f"[{_ranges(heads)}]"
                return rf"{head}\d{quantifier(size - 1, size - 1)}"
            return _digit(values) + quantifier(size, size)
        return (_digit(values) if self._level == "tight" else r"\d") + self._amount(lengths, len(values))

    def _amount(self, lengths: set[int], count: int) -> str:
        low, high = min(lengths), max(lengths)
        if self._level == "loose":
            return "+"
        if low == high and (low == 1 or count > 1):
            return quantifier(low, high)
        if high <= 3 and count >= 2 * (high - low + 1) and len(lengths) == high - low + 1:
            return quantifier(low, high)
        return "+"


def _literal(text: str) -> str:
    return "".join(map(escaped, text))


def _choice_of(texts: Sequence[str]) -> str:
    return f"(?:{'|'.join(map(_literal, texts))})"


def ungrouped(spelled: str) -> str:
    """Return a choice without the group around it, which a field is already."""
    inner = spelled[3:-1]
    return inner if spelled.startswith("(?:") and spelled.endswith(")") and "(" not in inner else spelled


def field_name(text: str) -> str:
    """Return a name for a field after a text."""
    bare = re.sub(r"\W", "_", text.lower(), flags=re.ASCII).strip("_") or "field"
    return bare if bare[0].isalpha() else f"field_{bare}"


def _before(piece: Piece, before: str) -> str:
    """Return the word that stands before what comes next, where it is always the same."""
    values = set(piece.values)
    if piece.kind == "word":
        return values.pop() if len(values) == 1 else ""
    return before if piece.kind in ("=", ":", "blank", "mark", '"', "[", "(") else ""


def _sign(values: Sequence[str]) -> str:
    signs = {each[0] for each in values if each[0] in "+-"}
    if not signs:
        return ""
    spelled = "[+-]" if len(signs) == 2 else escaped(signs.pop())
    return spelled if all(each[0] in "+-" for each in values) else f"{spelled}?"


def _run_kind(run: str) -> str:
    if run[0].isdigit():
        return "9"
    if run.isupper() or run.islower():
        return "A" if run.isupper() else "a"
    return "Aa" if run[:1].isupper() and run[1:].islower() else "m"


def _class_of(values: Sequence[str], level: Level) -> str:
    """Return the class of characters that words are made of, no wider than they are many."""
    used = set("".join(values))
    marks = {each for each in used if not each.isalnum()}
    if not used or (marks and not all(each.isascii() for each in marks)):
        return _anything(used)
    if marks and not _are_listed(marks, values, level):
        return _anything(used)
    others = "".join(class_spelling(each) for each in sorted(marks, key=lambda each: (each == "-", each)))
    if not all(each.isascii() for each in used):
        made = r"^\W\d_" if not marks and all(map(str.isalpha, used)) else rf"\w{others}"
    elif level == "loose" and len(values) > 1 and used - marks:
        made = rf"\d{others}" if all(map(str.isdigit, used - marks)) else rf"\w{others.replace('_', '')}"
    else:
        digits = ["".join(filter(str.isdigit, each)) for each in values]
        made = "0-9" if any(digits) else ""
        if level == "tight" and _digit([*filter(None, digits)] or ["0"]) != r"\d":
            made = _digit([*filter(None, digits)]).strip("[]")
        for case in (str.isupper, str.islower):
            letters = set(filter(case, used))
            times = sum(each in letters for value in values for each in value) if level == "tight" else 0
            made += _hexadecimal(letters, used) or _letters(letters, times)
        if made == "0-9A-Za-z":
            # What takes digits and letters of both cases takes _ with them, more often than not.
            made, others = r"\w", others.replace("_", "")
        made += others
    if made in ("0-9", r"\d", r"\w", " "):
        return r"\d" if made == "0-9" else made
    return f"[{made}]"


def _anything(used: set[str]) -> str:
    return "." if any(map(str.isspace, used)) or not used else r"\S"


def _digit(values: Sequence[str]) -> str:
    """Return the class of digits: some of them, where it can hardly be by chance that many texts have those alone."""
    used = sorted(set("".join(values)))
    size = ord(used[-1]) - ord(used[0]) + 1
    few = size == len(used) < 10 and len(set(values)) >= FEWEST_OF_SOME_DIGITS and used[0] in "01"
    # Numbers of several digits without any 0 are that by chance.
    few = few and (used[0] == "0" or max(map(len, values)) == 1)
    if not few or (size / 10) ** sum(map(len, values)) >= BY_CHANCE / 10:
        return r"\d"
    return f"[{_ranges(used)}]"


def _never_first(values: Sequence[str]) -> set[str]:
    """Return the kinds of characters that words never begin with, though they are frequent in the rest of them.

    That it is by chance must be less likely than `BY_CHANCE`, were each character drawn like those further on.
    """
    rest = Counter(_kind_of(each) for value in values for each in value[1:])
    heads = {_kind_of(value[0]) for value in values}
    return {
        kind
        for kind, count in rest.items()
        if kind not in heads and (1 - count / rest.total()) ** len(values) < BY_CHANCE
    }


def _kind_of(character: str) -> str:
    if character.isalpha():
        return "A" if character.isupper() else "a"
    return "9" if character.isdigit() else character


def _are_listed(marks: set[str], values: Sequence[str], level: Level) -> bool:
    """Tell whether these marks are likely all that there are.

    How likely a new one is, the share tells of those that were seen but once (Good 1953).
    """
    if len(marks) == 1:
        return True
    times = Counter(each for value in values for each in set(value) & marks)
    once = sum(count == 1 for count in times.values())
    return once <= NEW_MARK[level] * times.total()


def _is_enclosed(values: Sequence[str], until: str) -> bool:
    """Tell whether texts are what stands in quotes or brackets: anything but the mark that ends them."""
    used = set("".join(values))
    kinds = {"9" if each.isdigit() else "a" if each.isalnum() else "," for each in used}
    return until in "\"')]}>" and until not in used and len(kinds) > 1


def _is_word(value: str) -> bool:
    return value.replace("_", "").replace("-", "").isalnum()


def _hexadecimal(letters: set[str], used: set[str]) -> str:
    """Return A-F where digits stand with several letters of numbers of base 16, and no others; else nothing."""
    every = {each.lower() for each in used if each.isalpha()}
    if not any(map(str.isdigit, used)) or len(every) < FEWEST_HEXADECIMAL or not every <= set("abcdef") or not letters:
        return ""
    return "A-F" if min(letters).isupper() else "a-f"


def _letters(used: set[str], count: int = 0) -> str:
    """Return letters of one case as the inside of a class: all of them, or where many texts have a few alone, those."""
    if not used:
        return ""
    ordered = sorted(used)
    if len(used) == 1 and count >= 4:
        return ordered[0]
    size = ord(ordered[-1]) - ord(ordered[0]) + 1
    if len(used) <= 4 and count >= 4 * len(used) + 4:
        return _ranges(ordered)
    if size <= 10 and 3 * len(used) >= 2 * size and count >= 2 * size:
        return f"{ordered[0]}-{ordered[-1]}"
    return "A-Z" if ordered[0].isupper() else "a-z"


def _ranges(characters: Sequence[str]) -> str:
    """Spell some characters, those that follow one another as a range."""
    if len(characters) > 2 and ord(characters[-1]) - ord(characters[0]) == len(characters) - 1:
        return f"{characters[0]}-{characters[-1]}"
    return "".join(characters)
