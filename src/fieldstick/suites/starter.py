"""The suites that `new` writes: one small, commented, and checking clean, and one that holds nothing yet."""

from __future__ import annotations

STARTER = """\
# A suite of patterns with their samples. 'fieldstick check' judges every sample in it.
format = 1
suite = "{name}"
about = "Say here what these patterns read"

# Fragments that several expressions share; {{{{plot}}}} puts one in, as one unit.
[parts]
plot = '[A-F][0-9]{{2}}'

# One pattern. Between single quotes nothing is an escape: paste expressions and lines as they are.
[patterns.probe-reading]
about = "One reading of a soil probe"
expression = 'probe=(?P<plot>{{{{plot}}}}) moisture=(?P<moisture>\\d+\\.\\d)%'
reach = "whole"     # where a match may lie: whole (the whole text), start, or anywhere
message = "Write a reading like: probe=B07 moisture=31.4%"

# What the captured texts convert to, and the bounds they must keep.
[patterns.probe-reading.fields]
moisture = {{ type = "decimal", unit = "%", least = 0, most = 100 }}

# A text that must fit. Only the fields named here are compared.
[[patterns.probe-reading.positive]]
text = 'probe=B07 moisture=31.4%'
fields = {{ plot = "B07", moisture = 31.4 }}

# Texts that must not fit, each with the reason it is here.
[[patterns.probe-reading.negative]]
text = 'probe=B07 moisture=31%'
note = "moisture always carries one decimal"

[[patterns.probe-reading.negative]]
text = 'probe=B07 moisture=100.1%'
note = "more than all of it"
"""


EMPTY = """\
format = 1
suite = "{name}"
about = ""
"""


def empty_suite(name: str) -> str:
    """Return the text of a suite of that name that holds nothing yet."""
    return EMPTY.format(name=name)


def starter_suite(name: str) -> str:
    """Return the text of a starter suite of that name."""
    return STARTER.format(name=name)
