"""What waits is given back as it came, however much of it went to the temporary file."""

from __future__ import annotations

import tempfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldstick.data import spool
from fieldstick.data.spool import Spool
from fieldstick.errors import UsageError

PAYLOADS = st.lists(st.tuples(st.lists(st.one_of(st.text(), st.integers(), st.none()), max_size=3), st.integers(0, 9)))


@given(PAYLOADS, st.integers(0, 30))
def test_payloads_come_back_in_order_from_memory_or_the_file(
    payloads: list[tuple[list[object], int]], held: int
) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(spool, "HELD", held)
        waiting = Spool()
        for payload, size in payloads:
            waiting.put(payload, size)
        assert list(waiting) == [payload for payload, _ in payloads]


def test_what_is_of_no_stated_size_does_not_wait_in_memory(monkeypatch: pytest.MonkeyPatch) -> None:
    waiting = Spool()
    waiting.put(["fen"])
    assert waiting._held == [] and list(waiting) == [["fen"]]


def test_a_file_that_cannot_be_made_is_a_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*words: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(tempfile, "TemporaryFile", full)
    with pytest.raises(UsageError, match="the temporary file cannot be written: No space left on device"):
        Spool().put(["fen"])
