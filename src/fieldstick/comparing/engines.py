"""What a pattern's samples come to on several engines: where these agree, and sample by sample where they do not."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from fieldstick.engines.registry import BY_NAME

if TYPE_CHECKING:
    from fieldstick.runs.results import Fault, PatternResult, SampleResult


class Stand(Struct, frozen=True):
    """What a sample comes to on one or several engines that read it alike; `result` is that of the first of them."""

    engines: tuple[str, ...]
    result: SampleResult


class Differing(Struct, frozen=True):
    """A sample that engines read otherwise: each way to read it, that of the pattern's first engine first."""

    stands: tuple[Stand, ...]


class Refusal(Struct, frozen=True):
    """An engine that does not take the expression of a pattern: its rule, and where it is broken."""

    engine: str
    words: str
    fault: Fault | None


class Agreement(Struct, frozen=True):
    """How the engines of a pattern stand to each other.

    `engines` are those that judged its samples, its first one first; `unusable` says of others why they did not.
    """

    result: PatternResult
    engines: tuple[str, ...]
    refusals: tuple[Refusal, ...]
    differing: tuple[Differing, ...]
    unusable: tuple[tuple[str, str], ...]

    @property
    def is_whole(self) -> bool:
        """Whether several engines judged all samples, and read each of them alike."""
        return len(self.engines) > 1 and not self.differing and not self.refusals


def agreement(result: PatternResult) -> Agreement:
    """Hold what a pattern's samples come to on each engine against what they come to on its first."""
    by_engine = {result.engine: result.samples}
    by_engine.update({each.engine: each.samples for each in result.elsewhere if each.unusable is None})
    refusals = []
    for engine, samples in list(by_engine.items()):
        broken = next((each for each in samples if each.reason == "expression-broken"), None)
        if broken is not None and all(each.reason == "expression-broken" for each in samples):
            refusals.append(Refusal(engine, broken.words or "", broken.fault))
            del by_engine[engine]
    names = tuple(by_engine)
    differing = []
    for results in zip(*by_engine.values(), strict=True):
        stands = _stands(names, results)
        if len(stands) > 1:
            differing.append(Differing(stands))
    unusable = tuple((each.engine, each.unusable) for each in result.elsewhere if each.unusable is not None)
    return Agreement(result, names, tuple(refusals), tuple(differing), unusable)


def _stands(names: tuple[str, ...], results: tuple[SampleResult, ...]) -> tuple[Stand, ...]:
    """Return the ways in which engines read a sample; one that captures nothing reads as any that says the same."""
    found: list[tuple[list[str], SampleResult]] = []
    for name, result in sorted(zip(names, results, strict=True), key=lambda each: not _captures(each[0])):
        for engines, first in found:
            if _alike(first, result, places=_captures(name) and _captures(engines[0])):
                engines.append(name)
                break
        else:
            found.append(([name], result))
    order = {name: number for number, name in enumerate(names)}
    stands = [Stand(tuple(sorted(engines, key=order.__getitem__)), first) for engines, first in found]
    return tuple(sorted(stands, key=lambda each: order[each.engines[0]]))


def _captures(engine: str) -> bool:
    return engine not in BY_NAME or BY_NAME[engine].captures


def _alike(one: SampleResult, other: SampleResult, *, places: bool) -> bool:
    """Tell whether two engines read a sample alike: whether it fits, and where both tell, what is captured where."""
    if one.reading is None or other.reading is None:
        return one.reading is other.reading and one.reason == other.reason
    if one.reading.fits != other.reading.fits:
        return False
    if not places:
        return True
    return [each.spans for each in one.reading.matches] == [each.spans for each in other.reading.matches]


def agreements(results: tuple[PatternResult, ...]) -> list[Agreement]:
    """Return how the engines of each pattern that was judged on several stand to each other."""
    return [agreement(each) for each in results if each.elsewhere]
