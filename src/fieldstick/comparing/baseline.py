"""Baselines: what a check found, recorded beside the suite as what later runs are held against."""

from __future__ import annotations

import json
import os
from typing import TYPE_CHECKING, Any, Literal

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from fieldstick.cache import digest_of
from fieldstick.errors import UsageError
from fieldstick.files import locked, write_whole
from fieldstick.lean import compiled_later
from fieldstick.runs.change import Change
from fieldstick.runs.results import Gone, LeftBaseline, PatternResult, SampleResult, SuiteResult
from fieldstick.suites.fieldtypes import FieldSpec
from fieldstick.suites.finding import BASELINE_ENDING, baseline_path

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping

    from fieldstick.matching.result import FieldValue
    from fieldstick.runs.results import Standing
    from fieldstick.suites.suite import Sample, Suite

FORMAT = 1

LONGEST_TEXT = 200
"""Code points of a text that a baseline holds as they are; a longer one is cut and its digest added."""

_HIDDEN = compiled_later("[\x7f-\x9f\u00ad\u061c\u180e\u200b-\u200f\u2028-\u202e\u2060-\u206f\ufeff\ud800-\udfff]")

Record = dict[str, Any]
Records = dict[str, dict[str, Record]]
"""Pattern name → digest of the sample → what was recorded of it."""


class Baseline(Struct, frozen=True):
    """A baseline file as read: the records of samples, of trials as plain data by their keys, and digests of parts."""

    file: str
    records: Records
    trials: Mapping[str, Any] = {}
    parts: Mapping[str, str] = {}


def digest(sample: Sample) -> str:
    """Return what a sample is known by: a digest of its text and its parameter values."""
    known = json.dumps([sample.text, dict(sorted(sample.values.items()))])
    return digest_of(known)[:16]


def read_baseline(suite: Suite) -> Baseline | None:
    """Read the baseline beside a suite; None when there is none.

    Raises UsageError for a file that is no baseline of this format.
    """
    return _read(baseline_path(suite.file), baseline_path(suite.location))


def _read(file: str, location: str) -> Baseline | None:
    try:
        with open(location, "rb") as stream:
            content = stream.read()
    except FileNotFoundError:
        return None
    except OSError as error:
        raise UsageError(f"{file}: cannot be read: {error.strerror or error}") from None
    try:
        data = json.loads(content)
    except (ValueError, RecursionError) as error:
        place = getattr(error, "lineno", None)
        where = f"{file}:{place}" if place else file
        raise UsageError(f"{where}: not a baseline: {error}; record it anew with 'fieldstick baseline'") from None
    try:
        msgspec.convert(data, _BaselineTable)
    except msgspec.ValidationError as error:
        words = f"{file}: not a baseline of format {FORMAT}: {error}"
        raise UsageError(f"{words}; record it anew with 'fieldstick baseline'") from None
    return Baseline(file, data["samples"], data.get("trials", {}), data.get("parts", {}))


class _FieldTable(Struct):
    text: str
    place: tuple[int, int]
    type: str = "text"
    value: str | None = None


class _RecordTable(Struct):
    kind: str
    text: str
    outcome: Literal["pass", "fail", "error", "timeout"]
    made: Any = None
    place: tuple[int, int] | None = None
    member: str | None = None
    fields: dict[str, _FieldTable | None] = {}


class _BaselineTable(Struct):
    """What a baseline file must hold; further keys do no harm."""

    format: Literal[1]
    samples: dict[str, dict[str, _RecordTable]]
    trials: dict[str, dict[str, Any]] = {}
    parts: dict[str, str] = {}


def parts_of(suite: Suite) -> dict[str, str]:
    """Return a digest of each part that the suite's patterns go through, by the name they have for it."""
    texts: dict[str, str] = {}
    for pattern in suite.patterns.values():
        if pattern.filling is not None:
            texts |= pattern.filling.part_texts
    return {name: digest_of(text)[:16] for name, text in sorted(texts.items())}


def write_baseline(suite: Suite, records: Records, before: Baseline | None, trials: Mapping[str, Any] = {}) -> None:
    """Write a baseline beside its suite, whole or not at all, in the place of the one that was read before.

    Raises UsageError when another one is there by now.
    """
    path = baseline_path(suite.location)
    with locked(path):
        if read_baseline(suite) != before:
            raise UsageError(f"{path} was recorded by another program meanwhile; run this again")
        write_whole(path, baseline_text(suite.name, records, trials, parts_of(suite)))


def baseline_text(
    suite_name: str, records: Records, trials: Mapping[str, Any] = {}, parts: Mapping[str, str] = {}
) -> str:
    """Write records as JSON: sorted, one sample a line; of trials one key a line, and one group of texts."""
    blocks = []
    for pattern, samples in sorted(records.items()):
        lines = [f"{json.dumps(key)}: {_json(record)}" for key, record in sorted(samples.items())]
        blocks.append(f"{_json(pattern)}: {{\n" + ",\n".join(lines) + "\n}")
    body = ",\n".join(blocks)
    head = f'{{"format": {FORMAT}, "suite": {_json(suite_name)}, "samples": {{'
    whole = f"{head}\n{body}\n}}" if body else f"{head}}}"
    if parts:
        whole += ', "parts": {\n' + ",\n".join(f"{_json(key)}: {_json(each)}" for key, each in parts.items()) + "\n}"
    if not trials:
        return whole + "}\n"
    told = ",\n".join(f"{_json(key)}: {_trial_text(record)}" for key, record in sorted(trials.items()))
    return f'{whole}, "trials": {{\n{told}\n}}}}\n'


def _trial_text(record: Mapping[str, Any]) -> str:
    lines = []
    for key, value in record.items():
        if isinstance(value, list) and value:
            items = ",\n".join(map(_json, value))
            lines.append(f"{_json(key)}: [\n{items}]")
        else:
            lines.append(f"{_json(key)}: {_json(value)}")
    return "{\n" + ",\n".join(lines) + "}"


def _json(value: Any) -> str:
    """Write JSON that a reviewer can read, with what cannot be seen as escapes."""
    written = json.dumps(value, ensure_ascii=False)
    return _HIDDEN.sub(lambda found: f"\\u{ord(found[0]):04x}", written)


def records_of(result: SuiteResult) -> Records:
    """Return what a baseline records of a result; patterns without samples are left out."""
    return {
        pattern.pattern.name: {digest(each.sample): _record(each) for each in pattern.samples}
        for pattern in result.patterns
        if pattern.samples
    }


def _record(result: SampleResult) -> Record:
    record: Record = {
        "kind": result.sample.kind,
        "text": _shortened(result.sample.text),
        "outcome": result.outcome,
    }
    if result.produced is not None:
        record["made"] = result.produced
    reading = result.reading
    if reading is None or not reading.fits:
        return record
    record["place"] = list(reading.place) if reading.place else None
    if reading.member is not None:
        record["member"] = reading.member
    if len(reading.matches) > 1:
        record["fields"] = {}
        for number, match in enumerate(reading.matches, 1):
            record["fields"][f"match {number}"] = {"text": _shortened(match.text), "place": list(match.place)}
            record["fields"] |= {f"{number} {name}": _field(value) for name, value in match.fields.items()}
    else:
        record["fields"] = {name: _field(value) for name, value in reading.fields.items()}
    return record


def _field(field: FieldValue | None) -> Record | None:
    if field is None:
        return None
    record: Record = {"text": _shortened(field.text), "place": list(field.place), "type": field.type}
    if field.type != "text":
        record["value"] = FieldSpec.plain(field.value)
    return record


def _shortened(text: str) -> str:
    if len(text) <= LONGEST_TEXT:
        return text
    return f"{text[:60]}… ({len(text)} characters, sha256 {digest_of(text)[:16]})"


def held_against(
    result: SuiteResult, baseline: Baseline, *, partly: bool = False, with_trials: bool = False
) -> SuiteResult:
    """Say of every sample what the baseline makes of it.

    `partly` tells that only some of the suite's patterns were checked; only theirs can then be gone. `with_trials`
    tells that its trials were run; only then can one be gone.
    """
    patterns = tuple(_with_standings(each, baseline.records) for each in result.patterns)
    known = {each.key for each in result.suite.trials} if with_trials else baseline.trials.keys()
    gone_trials = tuple(key for key in baseline.trials if key not in known)
    checked = {each.pattern.name: {digest(sample.sample) for sample in each.samples} for each in patterns}
    now_in = {
        digest(sample.sample): each.pattern.name
        for each in reversed(patterns)
        for sample in each.samples
        if sample.standing == "new"
    }
    gone = tuple(
        Gone(pattern, record["kind"], record["text"], pattern not in checked, now_in.get(key))
        for pattern, samples in baseline.records.items()
        if pattern in checked or not partly
        for key, record in samples.items()
        if key not in checked.get(pattern, ())
    )
    now = parts_of(result.suite) if baseline.parts else {}
    altered = frozenset(name for name, each in now.items() if baseline.parts.get(name, each) != each)
    return replace(
        result, patterns=patterns, baseline=baseline.file, gone=gone, gone_trials=gone_trials, altered_parts=altered
    )


def left_baselines(files: Iterable[str]) -> tuple[LeftBaseline, ...]:
    """Read baselines whose suites are gone. Raises UsageError for a file that is no baseline."""
    read = [(file, _read(file, file)) for file in files]
    return tuple(
        LeftBaseline(file, os.path.basename(file).removesuffix(BASELINE_ENDING), sum(map(len, found.records.values())))
        for file, found in read
        if found is not None
    )


def _with_standings(result: PatternResult, records: Records) -> PatternResult:
    known = records.get(result.pattern.name, {})
    samples = tuple(_with_standing(each, known.get(digest(each.sample))) for each in result.samples)
    return replace(result, samples=samples)


def _with_standing(result: SampleResult, before: Record | None) -> SampleResult:
    if before is None:
        return replace(result, standing="new")
    now = _record(result)
    standing: Standing = "steady"
    changes: tuple[Change, ...] = ()
    if before["outcome"] == "pass" and result.outcome != "pass":
        standing = "regressed"
    elif before["outcome"] != "pass" and result.outcome == "pass":
        standing = "mended"
    elif result.outcome == "pass":
        changes = tuple(_changes(before, now))
        standing = "changed" if changes else "steady"
    return replace(result, standing=standing, changes=changes, recorded_otherwise=before != now)


def _changes(before: Record, now: Record) -> Iterator[Change]:
    for key in ("kind", "member"):
        if before.get(key) != now.get(key):
            yield Change(key, _plain(before.get(key)), _plain(now.get(key)))
    if before.get("made") != now.get("made"):
        yield Change("made", _made(before.get("made")), _made(now.get("made")))
    if before.get("place") != now.get("place"):
        yield Change("the match", _place(before.get("place")), _place(now.get("place")))
    old, new = before.get("fields") or {}, now.get("fields") or {}
    for name in sorted(old.keys() | new.keys()):
        if name not in new or name not in old:
            there = _written(new.get(name) if name in new else old.get(name))
            yield (Change(name, "no such field", there) if name in new else Change(name, there, "no such field"))
        elif old[name] != new[name]:
            yield Change(name, *_unlike(old[name], new[name]))


def _unlike(old: Record | None, new: Record | None) -> tuple[str, str]:
    """Write two records of a field so that they can be told apart."""
    before, now = _written(old), _written(new)
    if before != now or old is None or new is None:
        return before, now
    for key in ("type", "value", "place"):
        if old.get(key) != new.get(key):
            show = _place if key == "place" else _plain
            return f"{before} ({key} {show(old.get(key))})", f"{now} ({key} {show(new.get(key))})"
    return before, now


def _written(field: Mapping[str, Any] | None) -> str:
    return "absent" if field is None else f"'{field.get('text')}'"


def _place(place: Any) -> str:
    return f"{place[0]} to {place[1]}" if isinstance(place, list) and len(place) == 2 else "nowhere"


def _made(value: Any) -> str:
    return "nothing" if value is None else value if isinstance(value, str) else _json(value)


def _plain(value: Any) -> str:
    return "none" if value is None else str(value)
