"""Spells words: as a choice of those that there are, by the runs that they are made of, or as one class."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from fieldstick.drafting.context import escaped_text
from fieldstick.drafting.proposals.cutting import IN_TURNS
from fieldstick.drafting.proposals.numerals import digits_of, of_any_size
from fieldstick.drafting.proposals.spelling import (
    amount_of,
    anything,
    are_of_base_16,
    cases_of_base_16,
    class_of,
    hexadecimal_in,
    is_anything,
    kind_of,
    listed_of,
    never_first,
)
from fieldstick.lean import compiled_later

if TYPE_CHECKING:
    from collections.abc import Sequence

    from fieldstick.drafting.proposals.spelling import Level

MOST_CHOICES = 8
"""Different words up to which a piece is a choice of them."""

MOST_MARKED = 3
"""Different words with marks or digits in them up to which they are a choice."""

REPEATED = 3
"""How often each word of a choice must be there, taken together."""

FEWEST_OF_CHOICE = 7
"""Words from which on it is no chance that they are but two or three, or of as many letters."""

FEWEST_OF_LENGTH = 4
"""Different words of small letters from which on it is no chance that all are of one length."""

PARTING, FEWEST_PARTED = "-_.:/", 8
"""Marks within words that part them, and different words from which on it is no chance that all have as many."""

TURNS = 1.5
"""Letters with digits, or digits with letters, that words are made of on average for it to be no chance."""

_IN_TURNS = compiled_later(IN_TURNS)
_PHRASE = compiled_later(r"\w+(?: +\w+)*")

_OF_BASE_16 = compiled_later(r"0x[0-9A-Fa-f]+")
_RUNS = compiled_later(r"\d+|[^\W\d_]+")
_ONE_LETTER = compiled_later(r"^\[(\w)\]$")


class Words:
    """Spells words at a level, and digits among them at another; what it decides of them is kept in turn."""

    def __init__(self, level: Level, numbers: Level, like: Words | None) -> None:
        self._level, self._numbers, self._like = level, numbers, like
        self.opened: list[bool] = []
        """Of each piece in turn that may be anything, whether it is; it is where that of `like` is."""
        self.chosen: list[bool] = []
        """Of each word in turn, whether it is a choice of all there are, as that of `like` is."""
        self.hexadecimal = ""
        """The letters of numbers of base 16, where all words are such together."""

    def is_open(self, own: bool) -> bool:
        """Tell whether a piece may be anything, and keep that."""
        place = len(self.opened)
        like = self._like.opened if self._like is not None else ()
        self.opened.append(own or (place < len(like) and like[place]))
        return self.opened[-1]

    def spelled(self, values: list[str]) -> str:
        """Spell what takes words like some: a choice, the runs that they are made of, or one class."""
        lengths = {len(each) for each in values}
        if self.is_open(is_anything(values, self._level) and len(lengths) > 1):
            return anything(values) + ("*" if 0 in lengths else "+")
        if "" in values:
            return class_of(values, self._level) + "*"
        different = sorted(set(values))
        if self._level == "loose" and any(" " in each for each in different) and all(map(_PHRASE.fullmatch, different)):
            # In one way alone, whatever blanks stand around it.
            return r"\w+(?: +\w+)*"
        if self._level != "loose" and max(map(len, different)) > 1 and self._is_listed(values):
            return choice_of(different)
        if all(map(_IN_TURNS.fullmatch, different)) or are_of_base_16(different):
            return f"[0-9a-f]{self._amount(values)}"
        if self._level != "loose" and all(map(str.isalnum, different)) and _are_cut_alike(different):
            rows = [_RUNS.findall(each) for each in values]
            columns = [[row[place] for row in rows] for place in range(len(rows[0]))]
            runs = [*map(self._run, columns)]
            # A number with its unit, rather than a code.
            runs[:1] = [of_any_size(runs[0], columns[0])] if columns[0][0].isdecimal() else runs[:1]
            return "".join(runs)
        if self._level != "loose" and _are_in_turns(different):
            turns = [_RUNS.findall(each) for each in values]
            return f"(?:{''.join(self._run([run for row in turns for run in row[at::2]]) for at in (0, 1))})+"
        if len(different) > 1 and all(map(_OF_BASE_16.fullmatch, different)):
            # The sign of the base stays.
            digits = [each[2:] for each in values]
            cases = cases_of_base_16("".join(digits))
            amount = amount_of({len(each) for each in digits}, len(digits), self._level)
            return f"0x[0-9{cases}]{amount}" if cases else rf"0x\d{amount}"
        if self._level != "loose" and (mark := _mark_parting(different)):
            rows = [each.split(mark) for each in values]
            return escaped_text(mark).join(self._part([row[at] for row in rows]) for at in range(len(rows[0])))
        not_first = never_first(values) if self._level != "loose" else set()
        if not_first:
            first = {each for each in set("".join(values)) if kind_of(each) not in not_first}
            heads = ["".join(filter(first.__contains__, value)) for value in values]
            rests = [each[1:] for each in values]
            sizes = {*map(len, rests)}
            amount = "?" if max(sizes) == 1 and len(values) >= FEWEST_OF_CHOICE else "*"
            if all(rests):
                amount = amount_of(sizes, len(values), self._level)
            head, rest = class_of(heads, self._level), class_of(list(filter(None, rests)), self._level)
            if head == rest:
                return head + self._amount(values)
            head = _ONE_LETTER.sub(r"\1", head)
            return ("[A-Za-z_]" if (head, rest) == ("[A-Za-z]", r"\w") else head) + rest + amount
        spelled = class_of(values, self._level) if not self.hexadecimal else f"[0-9{self.hexadecimal}]"
        return spelled + self._amount(values)

    def _amount(self, values: list[str]) -> str:
        """Return the quantifier of words; that a few of small letters are of one length is chance."""
        different = set(values)
        lengths = {*map(len, different)}
        few = len(different) < FEWEST_OF_LENGTH and min(lengths) > 2
        if few and all(each.isalpha() and each[1:].islower() for each in different):
            return "+"
        if len(values) < FEWEST_OF_CHOICE and max(lengths) > 2 and all(map(_is_prose, different)):
            return "+"
        return amount_of(lengths, len(values), self._level)

    def _is_listed(self, values: list[str]) -> bool:
        """Tell whether a word is one of those that are there alone, and keep that."""
        place = len(self.chosen)
        like = self._like.chosen if self._like is not None else ()
        self.chosen.append(like[place] if place < len(like) else self._is_choice(values))
        return self.chosen[-1]

    def _is_choice(self, values: list[str]) -> bool:
        """Tell whether words are likely all that there are: each came often, or of all of them hardly one but once."""
        times = Counter(values)
        if listed_of(values) is not None:
            return True
        if len(times) > MOST_CHOICES:
            return False
        if all(each.replace("-", "").isalpha() for each in times):
            # What share words have that were not seen, those tell that were seen once (Good 1953).
            once = 1 in times.values()
            enough = len(values) >= max(2 * len(times), FEWEST_OF_CHOICE)
            rarely = self._level == "tight" and enough and not once
            return rarely or len(values) >= REPEATED * len(times)
        return len(times) <= MOST_MARKED and min(times.values()) >= REPEATED

    def _part(self, values: list[str]) -> str:
        """Spell what stands between marks that all words have."""
        if all(map(str.isdecimal, values)):
            return digits_of(values, self._numbers)
        letters = hexadecimal_in(values)
        return (f"[0-9{letters}]" if letters else class_of(values, self._level)) + self._amount(values)

    def _run(self, values: list[str]) -> str:
        """Spell a run of digits or of letters."""
        if len(set(values)) == 1 and len(values) >= REPEATED and not values[0].isdecimal():
            return values[0]
        if values[0][0].isdecimal():
            return digits_of(values, self._numbers)
        if _run_kind(values[0]) == "Aa":
            rests = [each[1:] for each in values]
            lower = "[a-z]" if "".join(rests).isascii() else class_of(rests, self._level)
            capital = class_of([each[0] for each in values], self._level)
            if capital == lower:
                return capital + self._amount(values)
            return _ONE_LETTER.sub(r"\1", capital) + lower + self._amount(rests)
        return class_of(values, self._level) + self._amount(values)


def _is_prose(word: str) -> bool:
    """Tell whether a word is of small letters, or of capitals alone and no code."""
    return (word.islower() and word.isalpha()) or (word.isupper() and word.isalpha() and len(word) > 2)


def choice_of(texts: Sequence[str]) -> str:
    """Return a choice of texts as they stand."""
    return f"(?:{'|'.join(map(escaped_text, texts))})"


def _mark_parting(words: Sequence[str]) -> str:
    """Return the mark that parts all of many words into as many parts, the only one that they have; none else."""
    marks = {each for word in words for each in word if not each.isalnum()}
    mark = marks.pop() if len(words) >= FEWEST_PARTED and len(marks) == 1 else ""
    alike = bool(mark) and mark in PARTING and len({word.count(mark) for word in words}) == 1
    return mark if alike and all(all(word.split(mark)) for word in words) else ""


def _are_cut_alike(words: Sequence[str]) -> bool:
    """Tell whether words are made of the same kinds of runs in the same order."""
    first = [*map(_run_kind, _RUNS.findall(words[0]))]
    return all([*map(_run_kind, _RUNS.findall(each))] == first for each in words)


def _are_in_turns(words: Sequence[str]) -> bool:
    """Tell whether many words are made of letters and digits in turns, ending with what they do not begin with.

    Single letters or digits of one of the two are no chance then: two of them would stand together somewhere.
    """
    rows = [_RUNS.findall(each) for each in words if each.isalnum() and each.isascii()]
    if not FEWEST_PARTED <= len(rows) == len(words) or any(len(row) % 2 for row in rows):
        return False
    turns = [len(row) // 2 for row in rows]
    kinds = {_run_kind(row[at]) for row in rows for at in (0, 1)}
    single = any({len(run) for row in rows for run in row[at::2]} == {1} for at in (0, 1))
    return single and len(kinds) == 2 and len(set(turns)) > 1 and sum(turns) >= TURNS * len(words)


def _run_kind(run: str) -> str:
    if run[0].isdecimal():
        return "9"
    if run.isupper() or run.islower():
        return "A" if run.isupper() else "a"
    return "Aa" if run[:1].isupper() and run[1:].islower() else "m"
