"""Renderings of results: the ruler; terminal, JSON, JUnit XML and TAP."""
