"""Expressions as text: where their groups, classes and parts stand."""
