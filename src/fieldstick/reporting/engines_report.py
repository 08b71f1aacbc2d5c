"""Where the engines of patterns agree, and where they do not: the readings of a sample drawn one under the other."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fieldstick.analysis.portability import stranger_words
from fieldstick.comparing.engine_proofs import carried, carried_of, proof, proof_of
from fieldstick.comparing.engines import agreement, agreements
from fieldstick.reporting.document import BLANK, Labelled, Mark, Ruled, said
from fieldstick.reporting.marks import marks_of
from fieldstick.reporting.words import counted, sample_name, sample_place
from fieldstick.runs.engine_hazards import listed
from fieldstick.suites.suite import Pattern

if TYPE_CHECKING:
    from collections.abc import Iterator

    from fieldstick.comparing.engine_proofs import Carried, Proof
    from fieldstick.comparing.engines import Agreement, Stand
    from fieldstick.reporting.document import Block
    from fieldstick.runs.results import CheckResult, SampleResult
    from fieldstick.suites.suite import Suite

MOST_PROVEN = 60
"""Patterns up to which it is proven whether engines agree beyond the samples."""

LONGEST_RULE = 40
"""Code points of an engine's rule that stand in the line that names what it refuses; longer ones have a line."""

MOST_STRANGERS = 6
"""Pieces of an expression that are named as lacking or read otherwise."""

MOST_OF_A_PATTERN = 6
"""Samples of a pattern that are drawn before the rest is counted."""


def engines_report(result: CheckResult) -> Iterator[Block]:
    """Yield where engines differ, then in a line each which patterns they agree on, and what was not judged."""
    alone = sum(len(suite.patterns) for suite in result.suites) == 1
    agreeing: list[tuple[str, Agreement]] = []
    missing: dict[str, str] = {}
    told: set[str] = set()
    for suite in result.suites:
        for found in agreements(suite.patterns):
            missing.update(found.unusable)
            if found.refusals or found.differing:
                yield from differing_blocks(suite.suite, found, None if alone else MOST_OF_A_PATTERN, told)
            elif found.is_whole:
                agreeing.append((f"{suite.suite.name}:{found.result.pattern.name}", found))
    for address, found in agreeing:
        yield from _agreeing(address, found, proving=len(agreeing) <= MOST_PROVEN and not result.rendered)
    for engine, why in missing.items():
        tone = "bad" if engine in result.asked_engines else "warn"
        yield said(("not run  ", tone), (f"  {engine}", "strong"), f"  {why.partition(': ')[2] or why}")
    if agreeing or missing:
        yield BLANK


def _agreeing(address: str, found: Agreement, *, proving: bool) -> Iterator[Block]:
    """Yield a line for a pattern on whose samples engines agree, and what is proven beyond them."""
    pattern = found.result.pattern
    own = pattern.engine if isinstance(pattern, Pattern) else ""
    others = [each for each in found.engines if each != own] if proving and isinstance(pattern, Pattern) else []
    proofs = [proof(pattern, each) for each in others if isinstance(pattern, Pattern)]
    same = [each.engine for each in proofs if each is not None and each.outcome == "same"]
    count = _all(len(found.result.samples))
    beyond = ""
    if same and len(same) == len(others):
        beyond = ", and on every text"
    elif same:
        beyond = f"; {own} and {listed(same)} on every text"
    yield said(("agree    ", "good"), (f"  {address}", "strong"), f"  {listed(found.engines)} agree on {count}{beyond}")
    for each in proofs:
        if each is not None and each.outcome == "differs":
            yield Labelled("yet", proof_words(each))


def differing_blocks(
    suite: Suite, found: Agreement, most: int | None = None, told: set[str] | None = None
) -> Iterator[Block]:
    """Yield what one pattern's engines make otherwise of it.

    What stands in the way of an expression on an engine is said once for each engine that is not in `told` yet.
    """
    address = f"{suite.name}:{found.result.pattern.name}"
    line = suite.line_of((*found.result.pattern.path, "expression"))
    explained = set[str]() if told is None else told
    for refusal in found.refusals:
        rule = refusal.words.removeprefix("the expression does not compile: ")
        short = len(rule) <= LONGEST_RULE
        where = f"  on {refusal.engine}{f': {rule}' if short else ''}  {suite.file}:{line}"
        yield said(("refused  ", "bad"), (f"  {address}", "strong"), where)
        fault = refusal.fault
        if fault is not None and fault.text is not None and fault.position is not None:
            yield Ruled(fault.text, (Mark(fault.position, fault.position + 1, kind="stop", tone="stop"),))
        if not short:
            yield Labelled("because", rule)
        if most is None or refusal.engine not in explained:
            explained.add(refusal.engine)
            yield from in_the_way(found.result.pattern, refusal.engine)
            yield BLANK
    shown = found.differing if most is None else found.differing[:most]
    for each in shown:
        first = each.stands[0].result
        place = f"  {sample_name(first)}  {sample_place(suite, first)}"
        yield said(("differ   ", "bad"), (f"  {address}", "strong"), place)
        for stand in each.stands:
            yield from _stand(stand)
        yield BLANK
    if len(found.differing) > len(shown):
        more = counted(len(found.differing) - len(shown), "more sample")
        yield said((f"and {more} of {address} that engines read otherwise; --only {address} shows them all", "quiet"))
        yield BLANK
    others = [name for each in found.differing for stand in each.stands[1:] for name in stand.engines]
    alike: dict[tuple[Block, ...], list[str]] = {}
    for engine in dict.fromkeys(others):
        if most is None or engine not in explained:
            explained.add(engine)
            alike.setdefault(tuple(in_the_way(found.result.pattern, engine)), []).append(engine)
    for blocks, engines in alike.items():
        if blocks:
            yield said(("    ", ""), (f"on {listed(engines)}", "strong"))
            yield from blocks
            yield BLANK


def in_the_way(pattern: Any, engine: str) -> Iterator[Block]:
    """Yield which pieces of an expression an engine lacks or reads otherwise, and how it is written for it."""
    found = carried(pattern, engine) if isinstance(pattern, Pattern) else None
    if found is not None:
        yield from carried_blocks(found, engine)


def carried_blocks(found: Carried, engine: str) -> Iterator[Block]:
    """Yield what stands in the way of an expression on an engine, and the expression written for it."""
    for each in found.strangers[:MOST_STRANGERS]:
        yield Labelled("lacks" if each.lacks else "otherwise", stranger_words(each, engine))
    if len(found.strangers) > MOST_STRANGERS:
        yield Labelled("", f"and {len(found.strangers) - MOST_STRANGERS} more")
    if found.rendering is not None:
        flags = f"  with {', '.join(sorted(found.rendering.flags))}" if found.rendering.flags else ""
        yield Labelled("there", f"{found.rendering.expression}{flags}")
    elif found.why and not found.strangers:
        yield Labelled("there", f"it cannot be written so that it means the same: {found.why}")


def _stand(stand: Stand) -> Iterator[Block]:
    result = stand.result
    tone = "good" if result.outcome == "pass" else "bad"
    yield said("    ", (listed(stand.engines), "strong"), ": ", (_reading_words(result), tone))
    text = result.sample.text
    marks = tuple(marks_of(result.reading)) if result.reading is not None else ()
    if text or marks:
        yield Ruled(text, marks, indent=6)
    else:
        yield said("      ", ("(no characters at all)", "quiet"))


def _reading_words(result: SampleResult) -> str:
    """Say whether a sample fits, and whether it should."""
    should = (
        "" if result.outcome == "pass" else ", and should" if result.sample.kind == "positive" else ", and must not"
    )
    if result.reading is None:
        return result.words or result.outcome
    if not result.reading.fits:
        return f"does not fit{should}" if result.reading.unfit is None else _unfit_words(result, should)
    if result.outcome == "fail" and result.sample.kind == "positive":
        return f"fits, and {result.words or 'captures something else'}"
    return f"fits{should}"


def _unfit_words(result: SampleResult, should: str) -> str:
    assert result.reading is not None and result.reading.unfit is not None
    why = f" ({result.reading.unfit.words})" if result.reading.unfit.reason == "field-invalid" else ""
    return f"does not fit{why}{should}"


def _all(count: int) -> str:
    return f"all its {counted(count, 'sample')}" if count != 1 else "its 1 sample"


def proof_words(found: Proof) -> str:
    """Say what is proven beyond the samples."""
    if found.outcome == "same":
        return f"{found.own} and {found.engine} take the same of every text"
    takers = (found.own, found.engine) if found.here else (found.engine, found.own)
    shown = repr(found.text) if found.text.isprintable() else ascii(found.text)
    return f"{shown} {takers[0]} takes and {takers[1]} does not"


def engine_report(expression: str, pattern: Pattern, engine: str) -> Iterator[Block]:
    """Yield what another engine makes of an expression: what it lacks or reads otherwise, and what is proven."""
    found = carried_of(expression, pattern, engine)
    if found is None:
        return
    yield BLANK
    yield said(("  ", ""), (f"on {engine}", "strong"))
    if not found.strangers:
        yield Labelled("", "it has every construct of this, with this meaning", indent=2)
    yield from carried_blocks(found, engine)
    proven = proof_of(expression, pattern, engine)
    if proven is not None:
        yield Labelled("as it is", proof_words(proven))


def engine_as_data(expression: str, pattern: Pattern, engine: str) -> dict[str, Any] | None:
    """Return the same as plain data."""
    found = carried_of(expression, pattern, engine)
    if found is None:
        return None
    proven = proof_of(expression, pattern, engine)
    return {
        "name": engine,
        "strangers": [
            {
                "place": list(each.span),
                "spelling": each.spelling,
                "construct": each.construct,
                "lacks": each.lacks,
                "instead": each.instead or None,
                "words": stranger_words(each, engine),
            }
            for each in found.strangers
        ],
        "rendered": found.rendering.expression if found.rendering is not None else None,
        "flags": sorted(found.rendering.flags) if found.rendering is not None else None,
        "why": found.why or None,
        "proof": None if proven is None else {"outcome": proven.outcome, "text": proven.text or None},
    }


def elsewhere_as_data(suite: Suite, result: Any, sample_as_data: Any) -> dict[str, Any]:
    """Return what came of a pattern on further engines as plain data; nothing where there are none."""
    if not result.elsewhere:
        return {}
    found = agreement(result)
    return {
        "elsewhere": [
            {"engine": each.engine, "unusable": each.unusable}
            if each.unusable is not None
            else {"engine": each.engine, "samples": [sample_as_data(suite, sample) for sample in each.samples]}
            for each in result.elsewhere
        ],
        "differing": [
            {
                "kind": each.stands[0].result.sample.kind,
                "number": each.stands[0].result.sample.number,
                "alike": [list(stand.engines) for stand in each.stands],
            }
            for each in found.differing
        ],
        "refused": [{"engine": each.engine, "words": each.words} for each in found.refusals],
    }
