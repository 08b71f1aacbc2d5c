"""`check`, run as its users run it."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from conftest import Desk


def test_a_new_suite_checks_clean_and_a_loosened_one_does_not(desk: Desk) -> None:
    assert desk.run("new", "loggers").status == 0
    clean = desk.run("check")
    assert clean.status == 0
    assert clean.out.splitlines()[-1].startswith("All 3 samples pass")
    suite = desk.folder / "loggers.suite.toml"
    suite.write_text(suite.read_text().replace(r"\d+\.\d)%", r"\d+(\.\d)?)%"))
    loosened = desk.run("check")
    assert loosened.status == 1
    assert "loggers:probe-reading  negative 1  loggers.suite.toml:26" in loosened.out
    assert "moisture always carries one decimal" in loosened.out
