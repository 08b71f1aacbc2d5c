"""Patterns made ready: parts filled in, compiled, read with reach, take, fields and budget kept."""
