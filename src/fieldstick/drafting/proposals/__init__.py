"""Expressions proposed from examples: what they share stays, what varies is a field, no wider than they support."""
