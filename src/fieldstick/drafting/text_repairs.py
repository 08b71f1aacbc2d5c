"""Small changes to a text that might make it fit."""

from __future__ import annotations

import unicodedata
from dataclasses import replace
from typing import TYPE_CHECKING

from fieldstick.drafting.examples import sample_character
from fieldstick.drafting.phrases import character_words, phrase, text_words
from fieldstick.drafting.scene import Proposal, Scene
from fieldstick.syntax.tree import SINGLE, Character, Repeat, literal_of

if TYPE_CHECKING:
    from collections.abc import Iterator


def text_case(scene: Scene) -> Iterator[Proposal]:
    text = scene.setting.text
    for words, changed in (("capitals", text.upper()), ("small letters", text.lower())):
        yield Proposal(replace(scene.setting, text=changed), f"write the text in {words}", 1.6)
    if scene.found and scene.found.swapcase() != scene.found and len(scene.found.swapcase()) == 1:
        other = scene.found.swapcase()
        yield scene.retext(scene.at, scene.at + 1, other, f"write {character_words(other)} in the text", 1.75)


def text_edges(scene: Scene) -> Iterator[Proposal]:
    text = scene.setting.text
    for stripped, where in ((text.rstrip(), "end"), (text.lstrip(), "start"), (text.strip(), "start and end")):
        if stripped != text:
            words = f"leave out the white space at the {where} of the text"
            yield Proposal(replace(scene.setting, text=stripped), words, 1.1 if where != "start and end" else 1.15)


def text_characters(scene: Scene) -> Iterator[Proposal]:
    """Characters of the text left out, put in or exchanged."""
    at, found = scene.at, scene.found
    if found:
        yield scene.retext(at, at + 1, "", f"leave out {character_words(found)} in the text", 1.85)
        rest = scene.setting.text[at:]
        yield scene.retext(at, len(scene.setting.text), "", f"leave out {text_words(rest)} at the end of the text", 1.9)
    for wanted in scene.trace.wanted:
        node = wanted.node.item if isinstance(wanted.node, Repeat) else wanted.node
        if not isinstance(node, SINGLE):
            literal = literal_of(node)
            if literal:
                yield scene.retext(at, at, literal, f"put {text_words(literal)} into the text", 1.9)
            continue
        sample = sample_character(node, scene.parsed.flags)
        if sample is None:
            continue
        what = phrase(node, scene.parsed.flags, short=True)
        exact = isinstance(node, Character)
        yield scene.retext(at, at, sample, f"put {what} into the text", 1.8 if exact else 2.0)
        if found:
            alike = exact and sample.isascii() and look_alike(found, sample)
            words = f"write {what} in the place of {character_words(found)} in the text"
            yield scene.retext(at, at + 1, sample, words, 1.2 if alike else 1.8 if exact else 2.1)


def look_alike(one: str, other: str) -> bool:
    """Tell whether two characters are easily taken for each other: dashes, quotes, spaces, full-width forms."""
    kinds = {unicodedata.category(one), unicodedata.category(other)}
    if unicodedata.normalize("NFKC", one) == unicodedata.normalize("NFKC", other):
        return True
    quotes = "'\"’‘“”′″`´"
    return kinds == {"Pd"} or kinds == {"Zs"} or (one in quotes and other in quotes)
