"""Patterns at work on data: extract, validate, select, rewrite, split, route, look up."""
