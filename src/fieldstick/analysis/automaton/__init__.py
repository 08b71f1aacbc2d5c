"""The automaton of an expression: what it does to every text there is, in Python's meaning."""
