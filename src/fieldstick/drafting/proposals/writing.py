"""Writes the forms of texts as an expression, as tight or as loose as is asked, and names its fields."""

from __future__ import annotations

import re
from collections import Counter
from itertools import count, groupby
from typing import TYPE_CHECKING, NamedTuple

from msgspec.structs import replace

from fieldstick.drafting.context import class_spelling, escaped, escaped_text
from fieldstick.drafting.proposals.affixes import AFFIX, spelled_affix
from fieldstick.drafting.proposals.cutting import ANY_COLOUR, COLOUR
from fieldstick.drafting.proposals.escapes import escaped_in
from fieldstick.drafting.proposals.labelled_lines import LEADER
from fieldstick.drafting.proposals.listing import by_items
from fieldstick.drafting.proposals.literal_numbers import literals_of
from fieldstick.drafting.proposals.naming import (
    DECIMAL,
    JOINING,
    MOST_WORDS_OF_NAME,
    ORDINAL_ENDINGS,
    PLAIN_NAMES,
    SIGNS,
    TRUTHS,
    Before,
    after,
    boolean_of,
    called,
    field_name,
    noun_of,
)
from fieldstick.drafting.proposals.numerals import loosely_grouped, number_of, of_any_size
from fieldstick.drafting.proposals.pieces import AnyOrder, Choice, Piece, complexity, is_of_code, words_in
from fieldstick.drafting.proposals.quoting import QUOTES, anything_until, enclosed_by
from fieldstick.drafting.proposals.shapes import form_of
from fieldstick.drafting.proposals.special_pieces import OF_THEIR_OWN, SPECIAL
from fieldstick.drafting.proposals.spelled_fields import field_in, ungrouped
from fieldstick.drafting.proposals.spelling import FEW, hexadecimal_in, letters_of, listed_of, members_of
from fieldstick.drafting.proposals.spreading import FEWEST_OF_OPTION, MOST_QUOTED, Spreads, few_forms
from fieldstick.drafting.proposals.wording import REPEATED, Words, choice_of
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.numerals import Table
    from fieldstick.drafting.proposals.pieces import Form
    from fieldstick.drafting.proposals.spelling import Level


MOST_NAMED_FORMS = 2
"""Forms of a choice up to which what stands in them is a field."""

FEWEST_AGAIN = 8
"""Texts from which on it is no chance that a stretch comes again in all of them."""

MOST_MARKS = 1
"""Different marks in a gap up to which they are listed."""


FEWEST_THAT_STAY = 5
"""Numbers of base 16 from which on it is no chance that all are the same."""

MOST_BEFORE_LETTER = 3
"""The same, before a letter, which cannot end a gap as a mark does."""

_ENDS_PATH = compiled_later(r"\\?[ ,:;\"'<>\[\]{}=|]|\\[s()]")
"""What stands beside a path rather than in one, as it is spelled."""

_PATH_BEHIND = compiled_later(r"([^(]*(?:\\\([^(]*)*[ =:>\"'])(/[^ ]*)")
"""What stays, and ends in the beginning of a path."""

_VALUES = ("number", "word", "chunk", "quoted", "literal", *SPECIAL)
"""Pieces that are values, rather than what parts them."""

_OF_REQUESTS = {"method": ("method", "[A-Z]+"), "target": ("path", r"\S+"), "protocol": ("protocol", r"[\d.]+")}
"""Parts of the first line of a request, what each is called, and what takes any."""

_NUMBERS = ("number", "literal")
"""Pieces that are numbers, whatever stands around them."""

_CODE = compiled_later(r"(?<!\w)[A-Z]{1,3}\Z")
"""Letters that are part of a code rather than the name of a number."""


def _code_in(piece: Piece, before: Before) -> tuple[str, Before] | None:
    """Return letters that a piece which stays ends with, and what stands before them, where they may begin a code."""
    values = set(piece.values)
    found = _CODE.search(piece.values[0]) if len(values) == 1 and piece.kind in ("word", "mark", "key shared") else None
    if found is None:
        return None
    rest = found.string[: found.start()]
    return found[0], after(Piece(piece.kind, [rest]), before) if rest else before


class _Word(NamedTuple):
    """A field of a word and how it is spelled; a blank between such has no field."""

    field: str
    spelled: str


class Writer:
    """Writes forms as an expression of a level; `fields` are the tables of its fields by name."""

    def __init__(
        self,
        level: Level,
        like: Writer | None = None,
        *,
        numbers: Level | None = None,
        spreads: Spreads | None = None,
    ) -> None:
        self._level = level
        self.spreads = spreads if spreads is not None else Spreads()
        self._numbers = numbers or level
        """The level of numbers, where that of words is another one."""
        self._words: Words = Words(level, self._numbers, like._words if like is not None else None)
        self.of_moments = 0
        """Numbers that are part of dates and times, where these are fields."""

        self.fields: dict[str, Table] = {}
        self._names: Counter[str] = Counter()
        self._support = 1
        """How many texts there are of the commonest form."""
        self._open = ("", "")
        """The name of the last field, and what it is spelled with."""
        self._in_option, self._said = False, set[str]()

    def written(self, forms: Sequence[Form]) -> str:
        """Return the expression."""
        pieces = [each for form in forms for each in form if isinstance(each, Piece)]
        self._support = max((len(each.values) for each in pieces), default=1)
        self._said = {each.values[0] for each in pieces if each.kind == "word" and len({*each.values}) == 1}
        self._words.hexadecimal = hexadecimal_in([*words_in(forms)])
        made = dict.fromkeys(self._form(form, named=len(forms) == 1) for form in forms)
        self.of_moments *= len(forms) == 1
        return "|".join(made)

    def _form(self, form: Form | list[Piece], *, named: bool, before: Before | None = None) -> str:
        found: list[str] = []
        words: list[_Word | None] = []
        """For each that was found, the field that it is of a word, or what stands between words."""
        before, joined, is_key, field_at = before or Before(), False, False, -1
        kinds: list[str] = []
        """For each that was found, the kind of the piece that it is of."""
        pieces = self.spreads.of(form)
        code: tuple[str, Before] | None = None
        """Capitals that stay and stand right before a number, and what stands before them."""
        for at, each in enumerate(pieces):
            words += [None] * (len(found) - len(words))
            kinds += [""] * (len(found) - len(kinds))
            if isinstance(each, Choice):
                found.append(f"{self._choice(each, before, named=named)}{'?' * each.may_lack}")
                joined, field_at, before = False, -1, Before()
                continue
            if isinstance(each, AnyOrder):
                joined, field_at, before = False, -1, Before()
                found.append(self._any_order(each, named=named))
                continue
            if isinstance(each, list):
                # What may be empty behind its key is its value.
                key = before if before.pair and each[0].kind != "again" else None
                joined, field_at, before = False, -1, before._replace(pair="")
                again = each[0].kind == "again"
                outer, self._in_option = self._in_option, not again
                inner = self._form(each[1:] if again else each, named=named and not again, before=key)
                self._in_option = outer
                if again and named and self._lists(each, inner, found, kinds):
                    del kinds[len(found) :], words[len(found) :]
                    continue
                if again and named and self._ends_in_text(each, inner, found, words):
                    continue
                if again and named and self._goes_on(inner, _times_of(each[0]), found):
                    words[-1] = None
                    continue
                single = len(each) == 1 and (len(inner.removeprefix("\\")) == 1 or field_in(inner) is not None)
                times = _times_of(each[0]) if again else "?"
                if (inner, times) == (" +", "?"):
                    found.append(" *")
                    continue
                found.append(f"{inner}{times}" if single else f"(?:{inner}){times}")
                continue
            optional = self._optional(each.values) if named and each.kind == "gap" and "" in each.values else ""
            if optional:
                found.append(optional)
                joined, field_at, before = False, -1, Before()
                continue
            if each.kind == "quoted":
                each = replace(each, until=_mark_behind(pieces, at))
            escape = escaped_in(each, pieces[at - 1] if at else None)
            spelled, name, table = (escape, "text", {}) if escape else self._piece(each)
            if name == "number" and not joined and code is None and not is_of_code(pieces, at):
                spelled = of_any_size(spelled, each.values)
            if named and name and joined and field_at >= 0 and (not is_key or all(map(str.isdecimal, each.values))):
                # Letters and digits that stand together are one value.
                field, inner = self._open
                self.fields.pop(field, None)
                found[field_at] = f"(?P<{field}>{inner}{spelled})"
                self._open = (field, inner + spelled)
                words[field_at] = None
            elif named and name == "number" and code is not None and all(map(str.isdecimal, each.values)):
                # A letter or a few with the number behind them are the code of something.
                letters, before = code
                self._open = (self._named(before.name or "code", {}), letters + spelled)
                found[-1] = found[-1].removesuffix(letters)
                found[-1:] = [*filter(None, found[-1:]), f"(?P<{self._open[0]}>{letters}{spelled})"]
                field_at = len(found) - 1
            elif named and name:
                noun = noun_of(before, pieces[at + 1 :]) if name == "number" else ""
                if name == "sign" or (name in OF_THEIR_OWN and before.name.lower() in JOINING):
                    noun = name
                field = self._named(noun or before.name or name, table)
                field_at = len(found)
                self._open = (field, spelled)
                found.append(f"(?P<{field}>{ungrouped(spelled)})")
                # One of a few words is no part of a text that follows, nor is what holds digits.
                if each.kind == "word" and all(map(str.isalpha, each.values)) and not spelled.startswith("(?:"):
                    words.append(_Word(field, spelled))
            else:
                found.append(spelled)
                field_at = -1
                if each.kind == "blank" and all(len(value) == 1 and value != "\t" for value in each.values):
                    words.append(_Word("", spelled))
            kinds += [""] * (len(found) - 1 - len(kinds)) + [each.kind] * (len(found) > len(kinds))
            code = _code_in(each, before) if not joined and not name else None
            is_key = each.kind.startswith("key ") and all(map(str.isalpha, each.values))
            joined = is_key or each.kind in ("number", "word", "chunk")
            field_at = field_at if joined else -1
            # A word that may be another one says nothing of what follows.
            before = Before() if name == "word" and spelled.startswith("[") else after(each, before)
        return self._with_whole_paths(found) if named else "".join(found)

    def _optional(self, values: list[str]) -> str:
        """Return a field of what may be absent: what is not there is no value, rather than an empty one; so are blanks.

        It is typed where all that is given is of one kind; empty where that has no form.
        """
        filled = [each for each in values if each]
        if not "".join(filled).strip():
            return {" ": " ?", " +": " *"}.get(self._blank(filled), r"\s*")
        head, tail = (" " * all(each[at] == " " and each.strip() for each in filled) for at in (0, -1))
        filled = [each[len(head) : len(each) - len(tail)] for each in filled]
        form = form_of(filled)
        single = form[0] if form is not None and len(form) == 1 and isinstance(form[0], Piece) else None
        spelled, name, table = self._piece(single) if single is not None else ("", "", {})
        if self._level != "loose" and (listed := listed_of(filled)) is not None:
            spelled = listed
        elif form is None or len(filled) < REPEATED:
            return ""
        elif single is None:
            spelled = self._form(form, named=False)
        field = f"(?P<{self._named(name or 'text', table)}>{ungrouped(spelled)})"
        return f"(?:{head}{field}{tail})?" if head or tail else f"{field}?"

    def _lists(self, again: list[Piece], inner: str, found: list[str], kinds: list[str]) -> bool:
        """Make one field of what comes again, of several values each time, and of what is like it right before it.

        Tell whether it is such.
        """
        unit = [each.kind for each in again[1:]]
        parting = next((at for at, kind in enumerate(unit) if kind in _VALUES or kind in QUOTES), len(unit))
        unit = unit[parting:]
        start = len(found) - len(unit)
        if not parting or len(unit) < 2 or start < 0 or kinds[start:] != unit:
            return False
        fields = [field_in(each) for each in found[start:]]
        known = [field.name for field in fields if field is not None]
        for name in known:
            self.fields.pop(name, None)
            self._names[name.rstrip("0123456789")] -= name.rstrip("0123456789") in PLAIN_NAMES
        named = next((each for each in known if each.rstrip("0123456789") not in PLAIN_NAMES), "")
        spelled = "".join(
            each if field is None else field.grouped for each, field in zip(found[start:], fields, strict=True)
        )
        found[start:] = [f"(?P<{named or self._named('list', {})}>{spelled}(?:{inner}){_times_of(again[0])})"]
        return True

    def _goes_on(self, inner: str, times: str, found: list[str]) -> bool:
        """Take what comes again into the field right before it, of which it is the rest; tell whether there is one."""
        field = field_in(found[-1]) if found else None
        if field is None:
            return False
        if field.inner.startswith(r"\d") and inner.startswith(" ") and r"\d" not in inner and "0-9" not in inner:
            # Words behind a number are no part of it.
            found.append(self._text_behind(" +" if inner.startswith(" +") else " ", inner, times))
            return True
        self.fields.pop(field.name, None)
        name = self._named("version", {}) if inner.startswith(r"\.\d") else field.name
        bare = name.rstrip("0123456789")
        if bare in PLAIN_NAMES and inner.removeprefix("\\")[:1] in tuple(",;|/"):
            self._names[bare] -= 1
            name = self._named("list", {})
        found[-1] = f"(?P<{name}>{field.grouped}(?:{inner}){times})"
        return True

    def _with_whole_paths(self, found: list[str]) -> str:
        """Make one field of a path of which a field holds several levels; of each level where each is a field."""
        if not any("/" in each or "(?P<path" in each for each in found):
            return "".join(found)
        made = ""
        parted = [part for each in found for part in _before_path(each)]
        for _, run in groupby(parted, key=lambda each: _ENDS_PATH.match(each) is not None):
            pieces = list(run)
            fields = [field_in(each) for each in pieces]
            known = [each for each in fields if each is not None]
            deep = any("/" in each.inner for each in known) and not any(each.name in self.fields for each in known)
            parts = any("(?P<" in each for each, field in zip(pieces, fields, strict=True) if field is None)
            if pieces[0][:1] == "/" and deep and not parts:
                inner = "".join(field.grouped if field else each for each, field in zip(pieces, fields, strict=True))
                made += f"(?P<{self._named('path', {})}>{inner})"
            else:
                made += "".join(pieces)
        if any(name.startswith("path") for name in self.fields):
            # Numbers may be called so, by the word before them.
            return made
        numbers = count(1)

        def in_order(found: re.Match[str]) -> str:
            number = next(numbers)
            return f"(?P<path{number if number > 1 else ''}>"

        return re.sub(r"\(\?P<path\d*>", in_order, made)

    def _choice(self, choice: Choice, before: Before, *, named: bool) -> str:
        """Return one of several forms: a field, where each is one value; else what is captured tells which it is."""
        single = [form[0] for form in choice.forms if len(form) == 1 and isinstance(form[0], Piece)]
        told = [self._piece(each) for each in single] if named and len(single) == len(choice.forms) else []
        if told and all(name for _, name, _ in told):
            names, tables = {name for _, name, _ in told}, [table for _, _, table in told]
            several = "|".join(dict.fromkeys(ungrouped(spelled) for spelled, _, _ in told))
            table = tables[0] if all(each == tables[0] for each in tables) else {}
            return f"(?P<{self._named(names.pop() if len(names) == 1 else 'value', table)}>{several})"
        # Of more than one or the other, fields would be too many.
        told_apart = named and len(choice.forms) <= MOST_NAMED_FORMS
        made = (self._form(each, named=told_apart, before=before) for each in choice.forms)
        return f"(?:{'|'.join(dict.fromkeys(made))})"

    def _any_order(self, some: AnyOrder, *, named: bool) -> str:
        """Return keys with their values in any order: each captures where it stands, whichever comes last."""
        between = self._form(some.between, named=False)
        pairs = "|".join(self._form(each, named=named) for each in some.pairs)
        least, most = some.sizes
        times = (
            "+*"[not least] if self._level == "loose" else f"{{{least}}}" if least == most else f"{{{least},{most}}}"
        )
        if some.begin == "text":
            between = f"(?:^|{between})"
        elif some.begin == "within":
            between = f"(?:{between})?" if len(between.removeprefix("\\")) > 1 else f"{between}?"
        return f"(?:{between}(?:{pairs})){times}"

    def _ends_in_text(self, again: list[Piece], inner: str, found: list[str], words: list[_Word | None]) -> bool:
        """Make words that may come again one field with those right before them; tell whether they are such."""
        if [each.kind for each in again[1:]] != ["blank", "word"]:
            return False
        times = _times_of(again[0])
        before: list[_Word] = []
        for each in reversed(words):
            if each is None:
                break
            before.insert(0, each)
        while before and not before[0].field:
            before.pop(0)
        start = len(words) - len(before)
        if before:
            spelled, name = "".join(each.spelled for each in before), before[0].field
            if name.rstrip("0123456789") == "word" and max(map(int, again[0].values)) >= MOST_WORDS_OF_NAME:
                self._names["word"] -= sum(each.field != "" for each in before)
                name = self._named("text", {})
            found[start:] = [f"(?P<{name}>{spelled}(?:{inner}){times})"]
        else:
            found.append(self._text_behind(self._blank(again[1].values), inner, times))
        del words[start:]
        return True

    def _text_behind(self, blank: str, inner: str, times: str) -> str:
        """Return a text of words, each with a blank before it, which all texts have, or some of them."""
        text = f"{blank}(?P<{self._named('text', {})}>{inner.removeprefix(blank)}(?:{inner})*)"
        return text if times == "+" else f"(?:{text})?"

    def _piece(self, piece: Piece) -> tuple[str, str, Table]:
        """Return how a piece is spelled, the name of the field that it is, if it is one, and the field's table."""
        kind, values = piece.kind, piece.values
        if kind in SPECIAL:
            special = SPECIAL[kind]
            if special.may_stay and len(set(values)) == 1 and len(values) >= FEWEST_THAT_STAY:
                return escaped_text(values[0]), "", {}
            self.of_moments += special.numbers
            spelled, table = special.told_by(values)
            return spelled, special.named_by(values), table
        if kind == "literal":
            is_decimal = all(map(DECIMAL.fullmatch, values))
            return literals_of(values), "number", {"type": "decimal"} if is_decimal else {}
        if kind == "quoted":
            if len(set(values)) == 1 and len(values) >= REPEATED:
                return escaped_text(values[0]), "", {}
            inner = form_of(values)
            if inner is not None and len(inner) == 1 and isinstance(inner[0], Piece) and inner[0].kind != "quoted":
                return self._piece(inner[0])
            return self._quoted(values, piece.until or '"'), "text", {}
        if kind == "gap":
            if len(set(values)) == 1 and len(values) >= REPEATED:
                return escaped_text(values[0]), "", {}
            inner = form_of(values) if "" not in values else None
            single = inner[0] if inner is not None and len(inner) == 1 else None
            if isinstance(single, Piece) and (single.kind in SPECIAL or single.kind in _NUMBERS):
                return self._piece(single)
            return self._gap(piece), called(values), {}
        if kind == "prose":
            listed = listed_of(values) if self._level != "loose" else None
            return f"(?:{listed})" if listed is not None else r"\S.*", "text", {}
        if kind in _OF_REQUESTS:
            name, anything = _OF_REQUESTS[kind]
            if self._level != "loose" and (listed := listed_of(values)) is not None:
                return f"(?:{listed})", name, {}
            if len(set(values)) == 1 and len(values) >= REPEATED:
                return escaped_text(values[0]), "", {}
            rooted = kind == "target" and all(each.startswith("/") for each in values)
            return r"/\S*" if rooted else anything, name, {}
        if kind == COLOUR:
            return escaped_text(values[0]) if len(set(values)) == 1 else ANY_COLOUR, "", {}
        if kind == "blank":
            return self._blank(values), "", {}
        if kind == LEADER:
            return r"\.\.\." if set(values) == {"..."} else r"\.+", "", {}
        if kind == "mark":
            marks = set(values)
            spelled = escaped(values[0]) if len(marks) == 1 else f"[{members_of(marks)}]"
            return spelled, "sign" if len(marks) > 1 and (marks <= SIGNS or marks == {"+", "-"}) else "", {}
        if kind == "value":
            return self._value(piece)
        if kind.startswith(("pair ", "tag ")):
            return escaped_text(values[0]), "", {}
        if kind.startswith("key "):
            different = sorted(set(values))
            named = called(different).replace("text", "word")
            return (escaped_text(different[0]), "", {}) if len(different) == 1 else (choice_of(different), named, {})
        if kind == AFFIX:
            return *spelled_affix(values), {}
        if kind not in ("number", "word", "chunk"):
            return escaped_text(kind), "", {}
        if len(set(values)) == 1 and self._stays(kind, values):
            return escaped_text(values[0]), "", {}
        if kind == "number" or all(map(str.isdecimal, values)):
            spelled, table = number_of(values, self._numbers)
            return spelled, "number", table
        if kind == "chunk" and (form := form_of(values)) is not None and len(form) == 1:
            [single] = form
            if isinstance(single, Piece) and single.kind in _NUMBERS:
                return self._piece(single)
        if kind == "chunk" and (grouped := loosely_grouped(values)) is not None:
            return grouped[0], "number", grouped[1]
        if piece.within or piece.until in QUOTES:
            spelled = enclosed_by(piece.until, values)
            if self._words.is_open(bool(spelled)):
                return spelled or anything_until(piece.until, values), "text", {}
        if len(set(values)) > 1 and ORDINAL_ENDINGS.issuperset(values):
            return choice_of(sorted(ORDINAL_ENDINGS)), called(values), {}
        if set(values) in TRUTHS:
            return choice_of(sorted(set(values))), "flag", boolean_of(values)
        return self._words.spelled(values), called(values), {}

    def _value(self, piece: Piece) -> tuple[str, str, Table]:
        """Return how the values of a key are spelled, as `_piece` does: by the one form that they have, if they do."""
        values = piece.values
        if len(set(values)) == 1 and len(values) >= FEWEST_OF_OPTION:
            return escaped_text(values[0]), "text", {}
        if not any(values):
            return anything_until(piece.until, values), "text", {}
        amount, joined = "*" if "" in values else "+", "".join(values)
        moment = form_of(values) if any(map(str.isdecimal, joined)) and "" not in values else None
        if moment is not None and len(moment) == 1 and isinstance(moment[0], Piece) and moment[0].kind in SPECIAL:
            return self._piece(moment[0])
        if "" not in values and '"' not in joined and not any(map(str.isspace, joined)):
            form = form_of(values)
            if form is not None and len(form) == 1 and isinstance(form[0], Piece):
                return self._piece(form[0])
            has_digits = any(map(str.isdecimal, joined))
            if form is not None and len(values) >= REPEATED and not complexity([form])[1] and has_digits:
                return self._form(form, named=False), "text", {}
        if self._level != "loose" and (listed := listed_of(values)) is not None:
            return f"(?:{listed})", "text", {}
        if "\n" in joined:
            # It goes on in lines that begin with a blank.
            rest = r"(?:\n[ \t][^\n]*)"
            below = f"|{rest}+" if any(each.startswith("\n") for each in values) else ""
            spelled = rf"(?:\S[^\n]*{rest}*{below})" if below or "" in values else rf"\S[^\n]*{rest}*"
            return f"{spelled}{'?' * ('' in values)}", "text", {}
        if (forms := few_forms(values)) is not None:
            made = dict.fromkeys(self._form(each, named=False) for each in forms)
            return f"(?:{'|'.join(made)})" if len(made) > 1 else next(iter(made)), "text", {}
        if piece.until == '"':
            return rf'(?:[^"\\]|\\.){amount}', "text", {}
        if '"' in joined:
            stop = class_spelling('"') + (r"\s" if piece.until.isspace() else class_spelling(piece.until))
            return rf'(?:"(?:[^"\\]|\\.)*"|[^{stop}]{amount})', "text", {}
        if any(map(str.isspace, joined)):
            return self._gap(piece), "text", {}
        spelled = self._words.spelled(values)
        is_open = spelled.removesuffix(amount) in (r"\S", ".")
        if is_open and piece.until.isspace():
            return rf"\S{amount}", "text", {}
        if is_open:
            return anything_until(piece.until, values), "text", {}
        apart = r"\S" if piece.until.isspace() or "\\" in joined else rf"[^\s{class_spelling(piece.until)}]"
        return spelled.replace(r"\S", apart), "text", {}

    def _stays(self, kind: str, values: list[str]) -> bool:
        """Tell whether the only value of a piece is no chance: it came again, or all of few texts have it."""
        if len(values) >= REPEATED or (self._in_option and self._support < FEW and values[0] not in self._said):
            return len(values) >= REPEATED or (values[0] in JOINING and values[0] != "a")
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
        if "" in values:
            return r"[ \t]*" if "\t" in "".join(values) else " *"
        is_one = len(set(values)) == len(set(values[0])) == len(values[0]) == 1
        # A tab parts cells, and a line feed lines, in which blanks may stand.
        if is_one and (self._level != "loose" or values[0] in ("\t", "\n")):
            return escaped_text(values[0])
        return " +" if set("".join(values)) == {" "} else r"\s+"

    def _quoted(self, values: list[str], mark: str) -> str:
        """Spell what stands in quotes, which a mark ends: as a choice, by its form, or as anything but the mark."""
        if self._level != "loose" and (listed := listed_of(values)) is not None:
            return f"(?:{listed})"
        filled = [each for each in values if each]
        if not filled:
            return anything_until(mark, values)
        form = form_of(filled) if len(filled) >= REPEATED else None
        # Where only some hold a mark, others may hold any.
        plain = form is not None and not complexity([form])[1] and all(_may_be_quoted(each) for each in form)
        if form is not None and plain and len(form) <= MOST_QUOTED:
            inner = self._form(form, named=False)
            return inner if len(filled) == len(values) else f"(?:{inner})?"
        spelled = enclosed_by(mark, values) or self._words.spelled(values)
        is_open = spelled.rstrip("*+") in (r"\S", ".") and mark not in "".join(values)
        return anything_until(mark, values) if is_open else spelled

    def _gap(self, piece: Piece) -> str:
        """Spell what takes anything that stands between what all texts share."""
        values, stop = piece.values, piece.until[:1]
        used = set("".join(values))
        filled = [each for each in values if each]
        if self._level != "loose" and (listed := listed_of(filled)) is not None:
            return f"(?:{listed})" if len(filled) == len(values) else f"(?:{listed})?"
        form = form_of(filled)
        listed_form = by_items(filled) if form is None else None
        if listed_form is not None:
            form = listed_form[0]
        if form is not None and len(filled) >= REPEATED:
            inner = self._form(form, named=False)
            return inner if len(filled) == len(values) else f"(?:{inner})?"
        if stop in QUOTES and (spelled := enclosed_by(stop, values)):
            return spelled
        amount = "*" if "" in values else "+"
        marks = {each for each in used if not each.isalnum()}
        most = MOST_BEFORE_LETTER if stop.isalnum() else MOST_MARKS
        if self._words.is_open(len(marks) > most or not all(each.isascii() for each in used)):
            return anything_until(stop, values) if stop and stop not in used else f".{amount}"
        if not marks and "" not in values:
            return self._words.spelled(values)
        digits = "0-9" if any(map(str.isdecimal, used)) else ""
        kinds = digits + letters_of(set(filter(str.isupper, used))) + letters_of(set(filter(str.islower, used)))
        inner = r"\w" if self._level == "loose" and kinds else kinds
        return f"[{inner}{members_of(marks)}]{amount}"


def _before_path(spelled: str) -> list[str]:
    """Part what stays as it is before the path that it ends with."""
    found = None if spelled.startswith("(") else _PATH_BEHIND.fullmatch(spelled)
    return [found[1], found[2]] if found is not None else [spelled]


def _mark_behind(pieces: Sequence[Piece | list[Piece] | Choice | AnyOrder], at: int) -> str:
    """Return the mark that ends what stands in quotes at a place."""
    following = pieces[at + 1] if at + 1 < len(pieces) else None
    return following.kind if isinstance(following, Piece) and following.kind in QUOTES else '"'


def _times_of(again: Piece) -> str:
    """Return the quantifier of what comes again; once at least where that is so in many texts."""
    return "+" if "0" not in again.values and len(again.values) >= FEWEST_AGAIN else "*"


def _may_be_quoted(piece: Piece | list[Piece] | Choice | AnyOrder) -> bool:
    return not isinstance(piece, Piece) or piece.kind != "quoted"
