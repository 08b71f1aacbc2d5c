"""Facts about the tree of an expression, computed once and kept."""
