"""Slots of templates: what stands for pieces that differ, and which pieces a slot takes."""

from __future__ import annotations

import re
from functools import lru_cache
from itertools import takewhile
from typing import TYPE_CHECKING

from fieldstick.lean import compiled_later
from fieldstick.matching.keys import HAPPENED

if TYPE_CHECKING:
    from collections import Counter
    from collections.abc import Iterable

LEAST_SHARE = 200
"""One in so many lines of a group must have a word for it to part them."""

MOST_REMEMBERED = 20_000
"""Pieces of which it is remembered what kind of slot they are."""

_WORD = compiled_later(r"[^\W\d_]")

TYPED = compiled_later(r"⟨([a-z ]+)⟩")

WORD, WORDS, NUMBER, QUOTED = "⟨word⟩", "⟨words⟩", "⟨number⟩", "⟨quoted text⟩"

JOINED = "\ufdd2"
"""What a piece begins with that no blank stands before."""

NOTHING = "⟨nothing⟩"
"""What stands for the value of a label that has none."""

_SAID = compiled_later(r'="[^"]*"')
"""A text in quotes behind a key."""
_HAPPENED = tuple(f"{key}=" for key in HAPPENED)

_ENDS = ",;:.)]"

_HEXADECIMAL = compiled_later(r"[A-F]{2,}|[a-f]{2,}")

_AROUND = compiled_later(r"(?s)([\ufdd2\"'“‘«(\[{<]*+)(?=.).*?([\"'”’»)\]}>,;:!?.%]*)")
"""The quotes and brackets before and the marks behind something."""

_OPENED = compiled_later(r"[^\W\d]\w*[{(\[]")
"""A name and the bracket that opens what it holds."""

_PARTS = compiled_later(r"⟨[a-z ]+⟩|[^\W_][\w'-]*|[^\w⟨]|_")
"""Slots, words and marks."""

FEWEST_PARTS, MOST_BY_PARTS = 3, 40
"""Parts of a piece from which on each is told by itself, and different pieces up to which they are."""

UNIT = compiled_later(r"(?<=⟨number⟩)(?:[^\W\d_]{1,3}|[%°])$")
"""What stands behind a number and says of what."""


def says(template: tuple[str, ...]) -> bool:
    """Tell whether a template has a word that stays."""
    return any(map(has_word, template))


@lru_cache(maxsize=MOST_REMEMBERED)
def has_word(piece: str) -> bool:
    return _WORD.search(TYPED.sub("", piece)) is not None


@lru_cache(maxsize=MOST_REMEMBERED)
def is_word(piece: str) -> bool:
    return _WORD.search(piece) is not None and TYPED.search(piece) is None


def typed_in(template: tuple[str, ...]) -> list[str]:
    """Return the slots of a template that are more than words; a date and its time are one."""
    found = TYPED.findall(" ".join(template).replace("⟨date⟩ ⟨time⟩", "⟨timestamp⟩"))
    return [each for each in found if each not in ("word", "words")]


def is_told(template: tuple[str, ...]) -> bool:
    """Tell whether a template has no more words that vary than its typed slots and words that stay make up for."""
    vary = sum(WORD in piece for piece in template)
    stay = sum(has_word(piece) for piece in template if WORD not in piece)
    return 2 * vary <= 3 * len(typed_in(template)) + 2 * stay


@lru_cache(maxsize=MOST_REMEMBERED)
def is_said(piece: str) -> bool:
    """Tell whether a piece is more than a mark, or a word that may be any."""
    return piece not in (WORD, WORDS) and any(map(str.isalnum, piece))


def with_slot(rest: tuple[str, ...], place: int, words: Iterable[str]) -> tuple[str, ...]:
    """Return pieces with a slot for words that vary at a place."""
    return (*rest[:place], _slot_of_words(tuple(sorted(words))), *rest[place + 1 :])


@lru_cache(maxsize=MOST_REMEMBERED)
def _slot_of_words(words: tuple[str, ...]) -> str:
    return slot_of(words)


def template_piece(counts: Counter[str]) -> str:
    """Return what pieces have in common, of which so many are there; what hardly a line has tells nothing of others."""
    lines = counts.total()
    common = [piece for piece, count in counts.items() if count * LEAST_SHARE >= lines]
    nearly_all = sum(counts[piece] for piece in common) * LEAST_SHARE >= (LEAST_SHARE - 1) * lines
    return slot_of(common if nearly_all else counts)


def slot_of(values: Iterable[str]) -> str:
    """Return what stands for pieces that differ: what they begin and end with alike, and a slot between."""
    different = list(dict.fromkeys(values))
    if len(different) == 1:
        return different[0]
    if (said := _slot_of_said(different)) is not None:
        return said
    if (joined := _by_parts(different)) is not None:
        return joined
    keys = {each[: each.find("=") + 1] for each in different}
    if keys == {""} and all(": " in each for each in different):
        keys = {each[: each.find(": ") + 2] for each in different}
    head = keys.pop() if len(keys) == 1 else ""
    rests = {each.removeprefix(head) for each in different}
    if (begun := _OPENED.match(_begun_alike(sorted(rests)))) is not None and all(each[begun.end() :] for each in rests):
        # A name with what it holds in brackets.
        head += begun[0]
        rests = {each[begun.end() :] for each in rests}
    ends = {around(each) for each in rests}
    opening, tail = _begun_alike([start for start, _ in ends]), _begun_alike([end[::-1] for _, end in ends])[::-1]
    head += opening
    rests = {each.removeprefix(opening) for each in rests}
    kinds = {_kind_of(each) for each in rests}
    if "identifier" in kinds and all(_HEXADECIMAL.fullmatch(each.rstrip(_ENDS)) for each in rests if "⟨" not in each):
        # By chance one may have letters alone.
        kinds.discard("word")
    if NUMBER not in rests and {UNIT.sub("", each) for each in rests} == {NUMBER}:
        return f"{head}{NUMBER}{WORD}"
    mixed = "identifier" if kinds <= _WITH_DIGITS else "word"
    widest = next((each for each in kinds if all(_takes(each, other) for other in kinds)), mixed)
    return f"{head}⟨{widest}⟩{tail}"


def _slot_of_said(pieces: list[str]) -> str | None:
    """Return what stands for texts in quotes that differ, behind a key: what they say alike, if it is a word or more.

    None where they are not such.
    """
    bare = {_SAID.sub(f"={QUOTED}", each) for each in pieces}
    if len(bare) > 1 or QUOTED not in (piece := bare.pop()) or not any('="' in each for each in pieces):
        return None
    joined = _by_parts(pieces) if piece not in pieces else None
    return joined if joined is not None and has_word(joined.partition("=")[2]) else piece


def with_said(piece: str, said: Iterable[str]) -> str:
    """Return a piece that is a key with some text in quotes, with what all of these say alike.

    `said` are pieces of which some are such as this stands for; what says nothing is among them as it is.
    """
    bare = piece.rstrip(_ENDS)
    own = {told for each in said if without_said(told := each.rstrip(_ENDS)) == bare} if QUOTED in piece else ()
    return slot_of(sorted(own)) + piece[len(bare) :] if own else piece


@lru_cache(maxsize=MOST_REMEMBERED)
def without_said(piece: str) -> str:
    """Return a piece with a slot for what stands in quotes behind a key, but one that says what happened."""
    return _SAID.sub(f"={QUOTED}", piece) if '="' in piece and not piece.startswith(_HAPPENED) else piece


def _by_parts(pieces: list[str]) -> str | None:
    """Return pieces of several words or slots each, parted by the same marks, as one with a slot for words that differ.

    None where they are not all such.
    """
    parts = [_parts_of(each) for each in pieces[:MOST_BY_PARTS]]
    if len(pieces) > MOST_BY_PARTS or len(parts[0]) < FEWEST_PARTS or any(len(each) != len(parts[0]) for each in parts):
        return None
    made = ""
    for several in zip(*parts, strict=True):
        different = set(several)
        if len(different) > 1 and not all(map(is_word, different)):
            return None
        made += different.pop() if len(different) == 1 else WORD
    return made


@lru_cache(maxsize=MOST_REMEMBERED)
def _parts_of(piece: str) -> tuple[str, ...]:
    return tuple(_PARTS.findall(piece))


@lru_cache(maxsize=MOST_REMEMBERED)
def around(piece: str) -> tuple[str, str]:
    """Return the marks that stand around what is in a piece."""
    found = _AROUND.fullmatch(piece)
    return (found[1], found[2]) if found is not None else ("", "")


def _begun_alike(texts: list[str]) -> str:
    """Return what all texts begin with."""
    alike = takewhile(lambda each: len(each) == 1, map(set, zip(*texts, strict=False)))
    return "".join(each.pop() for each in alike)


@lru_cache(maxsize=MOST_REMEMBERED)
def _kind_of(piece: str) -> str:
    bare = piece.rstrip(_ENDS)
    if bare.isalpha():
        return "word"
    bare = UNIT.sub("", bare)
    found = TYPED.fullmatch(bare)
    if found is not None:
        return found[1]
    if " " in bare:
        return "words"
    # What is made of numbers and the like, joined by marks, is told by that.
    slots: set[str] = set(TYPED.findall(bare))
    rest = TYPED.sub("", bare)
    if not slots or re.search(r"[^-+~.:_/]", rest):
        return "word"
    if "identifier" in slots and slots <= _WITH_DIGITS:
        return "identifier"
    if bare.count("⟨") == 1:
        return slots.pop()
    return "word" if "/" in rest else "version"


def is_of(pieces: tuple[str, ...], template: tuple[str, ...], *, letters: bool = False) -> bool:
    """Tell whether pieces are those of a template, whose slots take pieces of their kind.

    With `letters` an identifier may have letters alone.
    """
    return len(pieces) == len(template) and all(
        one == other or _piece_is_of(one, other, letters=letters) for one, other in zip(pieces, template, strict=True)
    )


def _piece_is_of(piece: str, other: str, *, letters: bool) -> bool:
    head, slot, tail = other.partition("⟨")
    name, _, tail = tail.partition("⟩")
    if slot and "⟨" not in tail and len(piece) > len(head) + len(tail):
        # What stands around the only slot is the same.
        if not (piece.startswith(head) and piece.endswith(tail)):
            return not head and _takes(_kind_of(other), _kind_of(piece))
        inner = piece[len(head) : len(piece) - len(tail)]
        kind = "word" if inner == NUMBER + WORD else _kind_of(inner)
        return _takes(name, kind) or (letters and (name, kind) == ("identifier", "word"))
    parts, own = _parts_of(other), _parts_of(piece)
    if slot and len(parts) >= FEWEST_PARTS:
        return len(own) == len(parts) and all(
            one == part or (part.startswith("⟨") and _takes(part[1:-1], _kind_of(one)))
            for one, part in zip(own, parts, strict=True)
        )
    return other.startswith("⟨") and _takes(_kind_of(other), _kind_of(piece))


def _takes(slot: str, kind: str) -> bool:
    """Tell whether a slot takes a piece of some kind."""
    if slot in ("word", "words"):
        return kind != "words" or slot == "words"
    return slot == kind or kind in _NARROWER.get(slot, ())


_WITH_DIGITS = {"identifier", "number", "version", "time", "address"}
"""Slots that are taken for identifiers together, though none of them takes the others."""

_NARROWER = {"version": ("number", "identifier", "date"), "identifier": ("number",)}
"""What else a slot takes."""
