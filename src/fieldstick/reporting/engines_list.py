"""The engines that patterns can run on, as a list, and one by one."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.reporting.document import BLANK, Labelled, cut, said, sentence
from fieldstick.reporting.words import counted
from fieldstick.syntax.constructs import CONSTRUCTS
from fieldstick.syntax.probes import standing as standing_of

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from fieldstick.engines.registry import EngineInfo
    from fieldstick.reporting.document import Block
    from fieldstick.syntax.constructs import Construct


VERSION = 22
"""Cells that a version takes in the list."""


class Standing(Struct, frozen=True):
    """How an engine stands here: the version that it says it has, None and why where it cannot be used."""

    info: EngineInfo
    version: str | None
    why: str | None = None

    @property
    def lacking(self) -> tuple[Construct, ...]:
        """The constructs that the engine refuses, as its probes were recorded."""
        return tuple(each for each in CONSTRUCTS if standing_of(each.key, self.info.name) == "lacks")

    @property
    def lacks(self) -> str:
        """How many constructs it lacks, and those that people miss."""
        count = len(self.lacking)
        missed = f": {self.info.lacks}" if self.info.lacks else ""
        return f"lacks {count or 'nothing'}{missed}"


def engines_list(standings: Sequence[Standing]) -> Iterator[Block]:
    """Yield the usable ones with their versions, then the others and how to get them."""
    usable = [each for each in standings if each.version is not None]
    width, missing = (
        max(map(len, texts)) for texts in zip(*((each.info.name, each.lacks) for each in standings), strict=True)
    )
    for each in usable:
        told = each.version or ""
        version = f"  {told if len(told) <= VERSION else told[: VERSION - 1] + '…':<{VERSION}}"
        name, lacks = (f"{each.info.name:<{width}}", "strong"), f"{each.lacks:<{missing}}"
        yield said(name, version, "  ", cut(f"{lacks}  {each.info.what}", least=missing))
    others = [each for each in standings if each.version is None]
    if others:
        yield BLANK
        yield said(("not usable here", "warn"))
        for each in others:
            yield said(("  ", ""), (f"{each.info.name:<{width}}", "strong"), f"  {each.why}")
            yield Labelled("get", each.info.get)
            yield Labelled("", each.lacks)
    yield BLANK
    yield sentence(f"{counted(len(usable), 'engine')} of {len(standings)} can be used here.", "good")
    tried = f"{len(CONSTRUCTS)} constructs were tried on each; fieldstick engines ENGINE names those that it refuses"
    yield said((tried, "quiet"))


def one_engine(standing: Standing) -> Iterator[Block]:
    """Yield all that is known of one."""
    info = standing.info
    here = standing.version or f"not usable here: {standing.why}"
    yield said((info.name, "strong"), "  ", (here, "good" if standing.version else "bad"))
    yield Labelled("what", info.what)
    yield Labelled("get", info.get)
    yield Labelled("budget", info.budget)
    lacks = f"{info.lacks}; " if info.lacks else ""
    yield Labelled(
        "lacks", f"{lacks}of {len(CONSTRUCTS)} constructs that were tried, {len(standing.lacking) or 'none'}"
    )
    if standing.lacking:
        yield Labelled("refuses", "  ".join(each.form for each in standing.lacking))
    if not info.captures:
        yield Labelled("judges", "yes or no alone: what a sample says of fields and places is left out there")
    yield BLANK
