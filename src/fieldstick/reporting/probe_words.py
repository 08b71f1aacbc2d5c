"""What an engine makes of a probe of notation, in words."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fieldstick.syntax.probes import Probe


def difference_words(probe: Probe, reading: str) -> str:
    """Say how an engine reads a probe that is meant otherwise."""
    flags = f" with {probe.flags}" if probe.flags else ""
    shown = f"{probe.expression}{flags}"
    text = repr(probe.text) if probe.text.isprintable() else ascii(probe.text)
    if reading == "refused":
        return f"refuse {shown}"
    if reading == "failed":
        return f"break down on {text} with {shown}"
    verb = "fits" if probe.reach == "whole" else "matches in"
    if not reading:
        return f"{shown} {'does not fit' if probe.reach == 'whole' else 'matches nowhere in'} {text}"
    if not probe.expected or probe.expected == "refused":
        return f"{shown} {verb} {text}"
    return f"{shown} {verb} {text} at {reading}, where {probe.expected} is meant"
